"""Which notes of a band's line are another voice's: a horn or a second guitar that answers the lead.

The line is taken apart at its rests. Of each run the timbre is measured (the levels at its harmonics against each
other), how it dies away, how surely it is judged to be a lead, and in two channels its place. What differs from most
of the line is another voice; how much each difference tells, benchmarks/train_voices.py fits (voices.json).
"""

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.salience import (
    BINS_PER_SEMITONE,
    COARSE_HOP_S,
    FIRST_PITCH_BIN,
    LOWEST_MIDI,
    RANGE_DB,
    Spectra,
    harmonic_shift,
)
from eager_owl.solo.document import Note

_REST_S = 0.2  # a run ends where nothing of the line begins or sounds for so long
_HARMONICS = (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0)
_SETTLED_S = 0.04  # after its onset a note's timbre is its own
_LEAST_NOTES, _LEAST_SHARE = 2, 0.5  # notes of another voice's run; the lead has at least so much of the time
_SURE = 0.8  # what is less surely another voice stays the lead's


@dataclass(frozen=True)
class Run:
    """Notes between rests, and what they sound like."""

    notes: tuple[Note, ...]
    seconds: float
    timbre: NDArray[np.float64]
    decay: float
    belief: float
    place: float


def find_runs(
    notes: Sequence[Note], spectra: Spectra, cents: float, places: NDArray[np.float64] | None
) -> tuple[Run, ...]:
    """The runs of a line; `places` are the notes' balance, -1 to 1, where there are two channels."""
    groups: list[list[int]] = []
    for index, note in enumerate(notes):
        if not groups or note.onset - notes[groups[-1][-1]].end > _REST_S:
            groups.append([])
        groups[-1].append(index)
    runs = []
    for group in groups:
        seconds = np.array([notes[i].duration for i in group])
        weights = seconds / seconds.sum()
        sounds = [_sound_of(notes[i], spectra, cents) for i in group]
        timbre = sum(w * timbre for w, (timbre, _) in zip(weights, sounds, strict=True))
        decay = float(sum(w * decay for w, (_, decay) in zip(weights, sounds, strict=True)))
        belief = float(weights @ np.array([notes[i].confidence for i in group]))
        place = float(weights @ places[group]) if places is not None else 0.0
        played = tuple(notes[i] for i in group)
        runs.append(Run(played, float(seconds.sum()), np.asarray(timbre), decay, belief, place))
    return tuple(runs)


def _sound_of(note: Note, spectra: Spectra, cents: float) -> tuple[NDArray[np.float64], float]:
    """Levels at the harmonics against their mean, in tens of dB, and how far they fall in a second."""
    first = round((note.onset + _SETTLED_S) / COARSE_HOP_S)
    rows = np.arange(first, max(first + 2, round(note.end / COARSE_HOP_S)))
    rows = rows[rows < len(spectra)]
    if not len(rows):
        return np.zeros(len(_HARMONICS)), 0.0
    inside = np.minimum(((rows * COARSE_HOP_S - note.onset) / 0.01).astype(np.intp), len(note.contour_cents) - 1)
    off = np.array(note.contour_cents)[np.maximum(inside, 0)] / 100 if note.contour_cents else np.zeros(len(rows))
    midi = note.pitch + cents / 100 + off
    bins = np.round((midi - LOWEST_MIDI) * BINS_PER_SEMITONE).astype(np.intp) + FIRST_PITCH_BIN
    at = bins[:, None] + [harmonic_shift(h) for h in _HARMONICS]
    levels = spectra.sharp[rows[:, None], np.clip(at, 0, spectra.sharp.shape[1] - 1)] * RANGE_DB / 10
    timbre = levels.mean(axis=0)
    half = max(1, len(rows) // 2)
    fell = float(levels[:half].mean() - levels[half:].mean()) if len(rows) > 1 else 0.0
    return np.asarray(timbre - timbre.mean(), dtype=np.float64), fell / max(half * COARSE_HOP_S, 0.05)


def compare_runs(runs: Sequence[Run]) -> list[dict[str, float]]:
    """How each run differs from most of the line, by name."""
    order_by = np.array([run.seconds for run in runs])

    def middle(values: NDArray[np.float64]) -> float:
        order = np.argsort(values)
        return float(values[order][np.searchsorted(np.cumsum(order_by[order]), order_by.sum() / 2)])

    timbres = np.array([run.timbre for run in runs])
    usual = np.array([middle(column) for column in timbres.T])
    far = np.sqrt(((timbres - usual) ** 2).mean(axis=1))
    spread = middle(far) + 0.1
    decay, place, belief = (
        middle(np.array([getattr(run, name) for run in runs])) for name in ("decay", "place", "belief")
    )
    return [
        {
            "timbre": float(distance),
            "timbre against the usual": float(np.log((distance + 0.1) / spread)),
            "decay": min(abs(run.decay - decay), 3.0),
            "place": min(abs(run.place - place), 0.6),
            "less believed": belief - run.belief,
            "notes": min(len(run.notes), 8) / 8,
            "share": float(run.seconds / order_by.sum()),
        }
        for run, distance in zip(runs, far, strict=True)
    ]


@lru_cache
def _weights() -> dict[str, float]:
    loaded: dict[str, float] = json.loads((files("eager_owl.hearing") / "voices.json").read_text(encoding="utf-8"))
    return loaded


def other_voices(runs: Sequence[Run]) -> tuple[Note, ...]:
    """The notes that are another voice's; none where nobody can say which of two leads."""
    if len(runs) < 2:
        return ()
    weights = _weights()
    others = []
    for run, seen in zip(runs, compare_runs(runs), strict=True):
        score = weights["bias"] + sum(weights[name] * value for name, value in seen.items())
        if 1 / (1 + np.exp(-score)) > _SURE and len(run.notes) >= _LEAST_NOTES:
            others.append(run)
    if sum(run.seconds for run in others) > (1 - _LEAST_SHARE) * sum(run.seconds for run in runs):
        return ()
    return tuple(note for run in others for note in run.notes)


def parted(notes: Iterable[Note], others: Sequence[Note]) -> tuple[tuple[Note, ...], tuple[Note, ...]]:
    """The lead's notes, numbered from 1, and those that are another voice's."""
    lead: list[Note] = []
    apart: list[Note] = []
    for note in notes:
        (apart if any(note.is_same(other) for other in others) else lead).append(note)
    return tuple(replace(note, id=index) for index, note in enumerate(lead, 1)), tuple(apart)
