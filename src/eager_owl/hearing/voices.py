"""Which notes of a band's line are another voice's: a horn or a second guitar that answers the lead.

Of each note the timbre is measured (the levels at its harmonics against each other), how it begins, dies away and is
judged, how loud it is, and in two channels its place. Of any two notes small networks say from that how likely one
voice plays both; the notes are then put on two sides so that most of that holds, by the leading eigenvector of what
the pairs say and single changes from there (M. Newman, "Finding community structure in networks using the
eigenvectors of matrices", Phys. Rev. E 74, 2006). The side leads that is likelier a guitar in the fore, as other
networks say of each note, and longer, or where that says little and there are surely two, the one that begins: an
answer comes after. A player steps on a pedal, too: where neither side comes back, they are two voices only if they
sound like two instruments. benchmarks/train_voices.py trains the networks (voices_alike.npz, voices_leads.npz).
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import groupby

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import eigh
from scipy.special import logit

from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.salience import COARSE_HOP_S, RANGE_DB, Candidates, Spectra, harmonic_shift, pitch_bins
from eager_owl.solo.document import CONTOUR_HOP_S, Note

_HARMONICS, _HIGH_HARMONICS = np.arange(1.0, 9.0), np.arange(9.0, 13.0)
_STRONG, _OF_HARMONICS = 3, 6  # a note is as loud as its strongest of so many harmonics
# Frames before an onset and from it on: what was there, what a pick brings at once, what has come by then; a note's
# timbre is its own once it has settled, and it has a fall if it lasts.
_BEFORE, _AT_ONCE, _SOON, _SETTLED, _LASTS = 6, 2, 10, 3, 6
_NEAR = 2  # frames about an onset within which its stroke is judged
# More than so far apart says no more: place, tens of dB of a harmonic and of a measure, octaves, seconds.
_FARTHEST_PLACE, _FARTHEST_LEVEL, _FARTHEST_MEASURE, _FARTHEST_OCTAVES, _FARTHEST_S = 0.6, 2.0, 3.0, 2.0, 1.5
_SUREST = 1e-3  # no network's word counts for more than all but this
# Log odds that there are two sides at all, for each note, and which of them leads, under which nothing is parted;
# and those for each note from which there are surely two.
_TWO_SIDES, _LEADS, _SURELY_TWO = 8.0, 0.75, 20.0
# In fewer turns no side comes back; how far the two must then differ in how likely the lead plays them, in log odds.
_BACK_AGAIN, _ONCE = 3, 2.0
_LEAST_GAIN = 1e-9
_ROWS = 16  # notes that are compared with all after them at a time


@dataclass(frozen=True)
class NoteSound:
    """A note, the levels at its harmonics against each other, shape (8,), how it begins, lasts and is judged, shape

    (8,), as _measured, how loud it is, and its balance, -1 to 1, None where there is one channel. Levels are in tens
    of dB.
    """

    note: Note
    timbre: NDArray[np.float64]
    manner: NDArray[np.float64]
    level: float
    place: float | None


def note_sounds(
    notes: Sequence[Note],
    spectra: Spectra,
    found: Candidates,
    judged: Judgement,
    cents: float,
    places: NDArray[np.float64] | None,
) -> tuple[NoteSound, ...]:
    """What a line's notes sound like; `places` are their balance, -1 to 1, where there are two channels."""
    return tuple(
        NoteSound(note, *_measured(note, spectra, found, judged, cents), None if places is None else float(places[i]))
        for i, note in enumerate(notes)
    )


def _measured(
    note: Note, spectra: Spectra, found: Candidates, judged: Judgement, cents: float
) -> tuple[NDArray[np.float64], NDArray[np.float64], float]:
    """Levels at the harmonics against their mean, shape (8,); then, shape (8,), what lies between them and what is

    higher; how much louder it is than before in long windows, and in short ones at once and soon; how it falls, 20 dB
    a second, 0 where it is too short; how likely it is struck, and sounds; and the level of the strongest harmonics.
    """
    first = min(round(note.onset / COARSE_HOP_S), len(spectra) - 1)
    rows = np.arange(
        max(0, first - _BEFORE), min(max(first + _SETTLED + 1, round(note.end / COARSE_HOP_S)), len(spectra))
    )
    onset = first - int(rows[0])
    inside = np.clip(((rows * COARSE_HOP_S - note.onset) / CONTOUR_HOP_S).astype(np.intp), 0, None)
    contour = np.array(note.contour_cents or (0,)) / 100
    midi = note.pitch + cents / 100 + contour[np.minimum(inside, len(contour) - 1)]

    def levels(of: NDArray[np.float32], harmonics: NDArray[np.float64]) -> NDArray[np.float64]:
        at = pitch_bins(midi)[:, None] + [harmonic_shift(h) for h in harmonics]
        return np.asarray(of[rows[:, None], np.clip(at, 0, of.shape[1] - 1)] * (RANGE_DB / 10), dtype=np.float64)

    def settled(levels: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.asarray(levels[min(onset + _SETTLED, len(levels) - 1) :].mean(axis=0))

    sharp = levels(spectra.sharp, _HARMONICS)
    timbre = settled(sharp)
    strong = np.sort(sharp[:, :_OF_HARMONICS], axis=1)[:, -_STRONG:].mean(axis=1)
    quick = levels(spectra.quick, _HARMONICS[:_OF_HARMONICS]).max(axis=1)
    before = slice(0, max(onset, 1))
    body = strong[onset + _SETTLED :]
    nearest = np.abs(found.midi[rows] - midi[:, None]).argmin(axis=1)
    manner = (
        settled(levels(spectra.sharp, _HARMONICS + 0.5)).mean() - timbre.mean(),
        settled(levels(spectra.sharp, _HIGH_HARMONICS)).mean() - timbre.mean(),
        strong[onset : onset + _OF_HARMONICS].max() - strong[before].mean(),
        quick[onset : onset + _AT_ONCE].max() - quick[before].mean(),
        quick[onset + _AT_ONCE : onset + _SOON].max(initial=quick[onset]) - quick[before].mean(),
        np.polyfit(np.arange(len(body)) * 2 * COARSE_HOP_S, body, 1)[0] if len(body) >= _LASTS else 0.0,
        judged.struck[rows, nearest][max(0, onset - _NEAR) : onset + 2 * _NEAR].max(),
        judged.sounds[rows, nearest][onset:].mean(),
    )
    return timbre - timbre.mean(), np.array(manner), float(np.sort(timbre[:_OF_HARMONICS])[-_STRONG:].mean())


def describe_pairs(some: Sequence[NoteSound], others: Sequence[NoteSound]) -> NDArray[np.float32]:
    """What the networks see of any of some notes beside any of others, shape (len(some), len(others), features): how

    they differ, and what they are like together.
    """

    def of(measure: Callable[[NoteSound], object]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """A measure of some, shape (len(some), 1, ...), and of others, shape (len(others), ...)."""
        first, second = (np.array([measure(each) for each in group], dtype=np.float64) for group in (some, others))
        return first[:, None], second

    def apart(values: tuple[NDArray[np.float64], NDArray[np.float64]], most: float) -> NDArray[np.float64]:
        return np.asarray(np.minimum(np.abs(values[0] - values[1]), most))

    timbres, manners = of(lambda sound: sound.timbre), of(lambda sound: sound.manner)
    (begins, others_begin), (ends, others_end) = of(lambda sound: sound.note.onset), of(lambda sound: sound.note.end)
    single = (
        apart(of(lambda sound: sound.place or 0.0), _FARTHEST_PLACE),
        np.minimum(*of(lambda sound: sound.place is not None)),
        np.sqrt(((timbres[0] - timbres[1]) ** 2).mean(axis=2)),
        np.minimum(*of(lambda sound: np.log(sound.note.duration))),
        apart(of(lambda sound: sound.note.pitch / 12), _FARTHEST_OCTAVES),
        np.clip(np.maximum(begins - others_end, others_begin - ends), 0.0, _FARTHEST_S),
    )
    differ = (apart(timbres, _FARTHEST_LEVEL), apart(manners, _FARTHEST_MEASURE))
    together = ((timbres[0] + timbres[1]) / 2, (manners[0] + manners[1]) / 2)
    return np.concatenate([np.stack(single, axis=2), *differ, *together], axis=2, dtype=np.float32)


def describe_notes(sounds: Sequence[NoteSound]) -> NDArray[np.float32]:
    """What the networks see of each note to say whether the lead plays it, shape (len(sounds), features)."""
    usual = float(np.mean([sound.level for sound in sounds]))
    return np.array([_described(sound, sound.level - usual) for sound in sounds], dtype=np.float32)


def _described(sound: NoteSound, louder: float) -> tuple[float, ...]:
    note, place = sound.note, (0.0, 0.0) if sound.place is None else (1.0, abs(sound.place))
    own = (note.confidence, *place, note.pitch / 12, float(np.log(note.duration)), louder)
    return (*own, *sound.timbre, *sound.manner)


def _log_odds(name: str, seen: NDArray[np.float32]) -> NDArray[np.float64]:
    """What the networks of a name say of each row."""
    return np.asarray(logit(np.clip(ask(layers_of(name), seen)[:, 0].astype(np.float64), _SUREST, 1 - _SUREST)))


def _ties(sounds: Sequence[NoteSound]) -> NDArray[np.float64]:
    """Log odds that one voice plays both of any two notes, 0 of one and itself."""
    ties = np.zeros((len(sounds), len(sounds)))
    for start in range(0, len(sounds), _ROWS):
        seen = describe_pairs(sounds[start : start + _ROWS], sounds[start:])
        odds = _log_odds("voices_alike", seen.reshape(-1, seen.shape[2]))
        ties[start : start + _ROWS, start:] = odds.reshape(seen.shape[:2])
    above = np.triu(ties, 1)
    return above + above.T


def other_voices(sounds: Sequence[NoteSound]) -> tuple[Note, ...]:
    """The notes that are another voice's; none where there is one voice, or nobody can say which of two leads."""
    if len(sounds) < 2:
        return ()
    ties = _ties(sounds)
    sides = two_sides(ties)
    sure = (sides @ ties @ sides - ties.sum()) / 2 / len(sounds)
    if sure < _TWO_SIDES:
        return ()
    leads = _log_odds("voices_leads", describe_notes(sounds))
    in_time = sides[np.argsort([sound.note.onset for sound in sounds], kind="stable")]
    differ = float(leads[sides > 0].mean() - leads[sides < 0].mean())
    turns = _turns(in_time)
    if len(turns) < _BACK_AGAIN and abs(differ) < _ONCE:
        return ()
    ahead = differ + float(np.log((sides > 0).sum() / (sides < 0).sum()))
    if abs(ahead) < _LEADS:
        if sure < _SURELY_TWO or not turns:
            return ()
        ahead = turns[0]
    apart = -1 if ahead > 0 else 1
    return tuple(sound.note for sound, side in zip(sounds, sides, strict=True) if side == apart)


def _turns(sides: NDArray[np.int_]) -> list[int]:
    """Whose turn it is, of notes in the order of time; a single one among the other side's is no turn."""
    runs = np.split(sides, np.flatnonzero(np.diff(sides)) + 1)
    return [side for side, _ in groupby(int(run[0]) for run in runs if len(run) > 1)]


def two_sides(ties: NDArray[np.float64]) -> NDArray[np.int_]:
    """Of each the side, 1 or -1, so that ties within sides less those across come to much; `ties` is symmetric."""
    last = len(ties) - 1
    _, leading = eigh(ties, subset_by_index=(last, last))
    starts = [np.ones(len(ties), np.int_), np.where(leading[:, 0] < 0, -1, 1)]
    best = max((_settled(sides, ties) for sides in starts), key=lambda sides: float(sides @ ties @ sides))
    return np.asarray(best)


def _settled(sides: NDArray[np.int_], ties: NDArray[np.float64]) -> NDArray[np.int_]:
    """With each one changed that gains by it, until none does."""
    pull = ties @ sides
    while (gains := -sides * pull).max() > _LEAST_GAIN:
        changed = gains.argmax()
        sides[changed] *= -1
        pull += 2 * sides[changed] * ties[:, changed]
    return sides


def parted(notes: Iterable[Note], others: Sequence[Note]) -> tuple[tuple[Note, ...], tuple[Note, ...]]:
    """The lead's notes, numbered from 1, and those that are another voice's."""
    lead: list[Note] = []
    apart: list[Note] = []
    for note in notes:
        (apart if any(note.is_same(other) for other in others) else lead).append(note)
    return tuple(replace(note, id=index) for index, note in enumerate(lead, 1)), tuple(apart)
