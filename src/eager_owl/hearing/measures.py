"""What is kept of a note besides its pitch and names: how loud it is, its contour, and what else it may be."""

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.frames import HOP_S, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates
from eager_owl.hearing.segment import RawNote
from eager_owl.solo.document import CONTOUR_HOP_S

_WINDOW_LEFT = 6  # frames
_RUNNERS_UP, _RUNNER_UP_LEAST = 3, 0.02

# Pitches and how much is said for each, of the judge in coarse frames and of the line in fine ones.
Words = tuple[tuple[NDArray[np.intp], NDArray[np.floating]], ...]


def loudness_db(note: RawNote, frames: Frames, midi: NDArray[np.float64]) -> float:
    """The greatest level once the note before has left the window, half of which lies before the onset.

    Only where the note has its pitch: of a band's line there is no level elsewhere.
    """
    start = min(note.start + _WINDOW_LEFT, (note.start + note.end) // 2)
    voiced = np.isfinite(midi[: note.end])
    late, whole = (np.arange(first, note.end)[voiced[first:]] for first in (start, note.start))
    at = late if len(late) else whole if len(whole) else np.arange(note.start, note.end)
    return round(float(frames.level_db[at].max()), 1)


def sampled(
    note: RawNote, zero: float, frames: Frames, midi: NDArray[np.float64]
) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """The note's contour in cents above `zero` (a MIDI number) and its level, every CONTOUR_HOP_S."""
    at = np.arange(note.start * HOP_S, note.end * HOP_S, CONTOUR_HOP_S) / HOP_S
    inside = np.arange(note.start, note.end)
    voiced = inside[np.isfinite(midi[inside])]
    # Frames whose pitch is not of this note (the attack's noise, the next note) would draw as spikes.
    low, high = min(p.midi for p in note.plateaus) - 1, max(p.midi for p in note.plateaus) + 1
    voiced = voiced[(midi[voiced] > low) & (midi[voiced] < high)]
    cents = np.interp(at, voiced, 100 * (midi[voiced] - zero)) if len(voiced) else np.zeros(len(at))
    level = np.interp(at, inside, frames.level_db[inside])
    return _rounded(cents), _rounded(level)


def _rounded(values: NDArray[np.float64]) -> tuple[int, ...]:
    return tuple(np.rint(values).astype(int).tolist())


def words_of(frames: Frames, found: Candidates, judged: Judgement, cents: float) -> Words:
    """Which pitches the judge hears in each coarse frame and the line in each fine one, and how much each says."""

    def pitches(midi: NDArray[np.floating]) -> NDArray[np.intp]:
        nearest = np.round(np.nan_to_num(midi) - cents / 100)
        return np.asarray(np.maximum(nearest, 0).astype(np.intp))

    return (pitches(found.midi), judged.sounds), (pitches(frames.midi), 0.2 * frames.clarity**4)


def runners_up(note: RawNote, pitch: int, doubt: float, words: Words) -> tuple[tuple[int, float], ...]:
    """(pitch, share of the doubt) of what else could sound there: the judge's word, then the line's candidates."""
    ratio = COARSE_HOP_S / HOP_S
    first = int(note.start / ratio)
    coarse = slice(first, max(first + 2, int(note.end / ratio)))
    fine = slice(note.plateaus[0].start, note.plateaus[0].end)
    shares: dict[int, float] = {}
    for (pitches, weights), rows in zip(words, (coarse, fine), strict=True):
        weight = weights[rows]
        total = np.bincount(pitches[rows].ravel(), weight.ravel()) / max(1, len(weight))
        for other in np.flatnonzero(total > _RUNNER_UP_LEAST / 2).tolist():
            if other != pitch:
                shares[other] = shares.get(other, 0.0) + float(total[other])
    ranked = sorted(shares.items(), key=lambda item: -item[1])[:_RUNNERS_UP]
    whole = sum(share for _, share in ranked) + 1e-9
    return tuple((p, round(doubt * share / whole, 3)) for p, share in ranked if share > _RUNNER_UP_LEAST)
