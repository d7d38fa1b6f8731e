"""Which notes of a band's line are another voice's: a horn or a second guitar that answers the lead.

The line is taken apart at its rests. Of each run the timbre is measured (the levels at its harmonics against each
other), how its notes begin and die away, how surely they are judged, and in two channels its place. Of any two runs
small networks say from that how likely one voice plays both; the runs are then put on two sides so that most of that
holds, by the leading eigenvector of what the pairs say and single changes from there (M. Newman, "Finding community
structure in networks using the eigenvectors of matrices", Phys. Rev. E 74, 2006). The side leads that is likelier a
guitar in the fore, as other networks say of each run, and longer. benchmarks/train_voices.py trains them
(voices_alike.npz, voices_leads.npz).
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import logit

from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.salience import COARSE_HOP_S, RANGE_DB, Candidates, Spectra, harmonic_shift, pitch_bins
from eager_owl.solo.document import CONTOUR_HOP_S, Note

_REST_S = 0.2  # a run ends where nothing of the line begins or sounds for so long
_HARMONICS, _HIGH_HARMONICS = np.arange(1.0, 9.0), np.arange(9.0, 13.0)
_STRONG, _OF_HARMONICS = 3, 6  # a note is as loud as its strongest of so many harmonics
# Frames before an onset and from it on: what was there, what a pick brings at once, what has come by then; a note's
# timbre is its own once it has settled, and it has a fall if it lasts.
_BEFORE, _AT_ONCE, _SOON, _SETTLED, _LASTS = 6, 2, 10, 3, 6
_NEAR = 2  # frames about an onset within which its stroke is judged
_FULL_NOTES = 8  # a run of so many says all that it can; of fewer what it says counts by their share
# More than so far apart says no more: place, tens of dB of a harmonic and of a measure, octaves, seconds.
_FARTHEST_PLACE, _FARTHEST_LEVEL, _FARTHEST_MEASURE, _FARTHEST_OCTAVES, _FARTHEST_S = 0.6, 2.0, 3.0, 2.0, 1.5
_SUREST = 1e-3  # no network's word counts for more than all but this
# Log odds that there are two sides at all, and which of them leads, under which nothing is parted.
_TWO_SIDES, _LEADS = 3.0, 0.25
_LEAST_GAIN = 1e-9


@dataclass(frozen=True)
class Run:
    """Notes between rests, and their means by length: levels at their harmonics against each other, shape (8,); how

    they begin, last and are judged, shape (8,), as _measured; pitch (MIDI number); belief; and their balance, -1 to
    1, None where there is one channel. Levels are in tens of dB.
    """

    notes: tuple[Note, ...]
    timbre: NDArray[np.float64]
    manner: NDArray[np.float64]
    pitch: float
    belief: float
    place: float | None


def find_runs(
    notes: Sequence[Note],
    spectra: Spectra,
    found: Candidates,
    judged: Judgement,
    cents: float,
    places: NDArray[np.float64] | None,
) -> tuple[Run, ...]:
    """The runs of a line; `places` are the notes' balance, -1 to 1, where there are two channels."""
    groups: list[list[int]] = []
    for index, note in enumerate(notes):
        if not groups or note.onset - notes[groups[-1][-1]].end > _REST_S:
            groups.append([])
        groups[-1].append(index)
    measured = np.ma.masked_invalid([_measured(note, spectra, found, judged, cents) for note in notes])
    runs = []
    for group in groups:
        weights = np.array([notes[i].duration for i in group])
        weights /= weights.sum()
        sound = np.ma.filled(np.ma.average(measured[group], axis=0, weights=weights), 0.0)
        runs.append(
            Run(
                tuple(notes[i] for i in group),
                sound[: len(_HARMONICS)],
                sound[len(_HARMONICS) :],
                float(weights @ [notes[i].pitch for i in group]),
                float(weights @ [notes[i].confidence for i in group]),
                None if places is None else float(weights @ places[group]),
            )
        )
    return tuple(runs)


def _measured(
    note: Note, spectra: Spectra, found: Candidates, judged: Judgement, cents: float
) -> NDArray[np.float64]:
    """Levels at the harmonics against their mean, shape (8,), then, shape (8,): what lies between them and what is

    higher; how much louder it is than before in long windows, and in short ones at once and soon; how it falls, 20 dB
    a second, nan where it is too short; how likely it is struck, and sounds.
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
        np.polyfit(np.arange(len(body)) * 2 * COARSE_HOP_S, body, 1)[0] if len(body) >= _LASTS else np.nan,
        judged.struck[rows, nearest][max(0, onset - _NEAR) : onset + 2 * _NEAR].max(),
        judged.sounds[rows, nearest][onset:].mean(),
    )
    return np.array([*(timbre - timbre.mean()), *manner])


def describe_pairs(runs: Sequence[Run]) -> NDArray[np.float32]:
    """What the networks see of any two runs, shape (len(runs), len(runs), features): how they differ, and how much

    there is of either.
    """

    def apart(values: NDArray[np.float64], most: float) -> NDArray[np.float64]:
        return np.asarray(np.minimum(np.abs(values[:, None] - values), most))

    def both(values: NDArray[np.float64], which: np.ufunc) -> NDArray[np.float64]:
        return np.asarray(which.outer(values, values))

    stereo = np.array([float(run.place is not None) for run in runs])
    places = np.array([run.place or 0.0 for run in runs])
    counts = np.log([len(run.notes) for run in runs])
    seconds = np.log([sum(note.duration for note in run.notes) for run in runs])
    octaves, timbres = np.array([run.pitch for run in runs]) / 12, np.array([run.timbre for run in runs])
    waits = np.subtract.outer([run.notes[0].onset for run in runs], [run.notes[-1].end for run in runs])
    single = (
        apart(places, _FARTHEST_PLACE),
        both(stereo, np.minimum),
        np.sqrt(((timbres[:, None] - timbres) ** 2).mean(axis=2)),
        both(counts, np.minimum),
        both(counts, np.maximum),
        both(seconds, np.minimum),
        apart(octaves, _FARTHEST_OCTAVES),
        np.clip(np.maximum(waits, waits.T), 0.0, _FARTHEST_S),
    )
    manners = apart(np.array([run.manner for run in runs]), _FARTHEST_MEASURE)
    return np.concatenate(
        [np.stack(single, axis=2), apart(timbres, _FARTHEST_LEVEL), manners], axis=2, dtype=np.float32
    )


def describe_run(run: Run) -> NDArray[np.float32]:
    """What the networks see of one run to say whether the lead plays it."""
    place = (0.0, 0.0) if run.place is None else (1.0, abs(run.place))
    length = float(np.log(len(run.notes)))
    return np.array([run.belief, *place, run.pitch / 12, length, *run.timbre, *run.manner], dtype=np.float32)


def _log_odds(name: str, seen: NDArray[np.float32]) -> NDArray[np.float64]:
    """What the networks of a name say of each row."""
    return np.asarray(logit(np.clip(ask(layers_of(name), seen)[:, 0].astype(np.float64), _SUREST, 1 - _SUREST)))


def other_voices(runs: Sequence[Run]) -> tuple[Note, ...]:
    """The notes that are another voice's; none where there is one voice, or nobody can say which of two leads."""
    if len(runs) < 2:
        return ()
    counts = np.array([len(run.notes) for run in runs])
    says = np.minimum(counts, _FULL_NOTES) / _FULL_NOTES
    differ = describe_pairs(runs)
    alike = _log_odds("voices_alike", differ.reshape(len(runs) ** 2, -1)).reshape(len(runs), len(runs))
    ties = np.outer(says, says) * alike
    np.fill_diagonal(ties, 0.0)
    sides = two_sides(ties)
    if (sides @ ties @ sides - ties.sum()) / 2 < _TWO_SIDES:
        return ()
    leads = _log_odds("voices_leads", np.stack([describe_run(run) for run in runs]))
    first, other = (
        float(np.average(leads[on], weights=says[on]) + np.log(counts[on].sum())) for on in (sides > 0, sides < 0)
    )
    if abs(first - other) < _LEADS:
        return ()
    apart = -1 if first > other else 1
    return tuple(note for run, side in zip(runs, sides, strict=True) if side == apart for note in run.notes)


def two_sides(ties: NDArray[np.float64]) -> NDArray[np.int_]:
    """Of each the side, 1 or -1, so that ties within sides less those across come to much; `ties` is symmetric."""
    starts = [np.ones(len(ties), np.int_)]
    starts += [np.where(vector < 0, -1, 1) for vector in np.linalg.eigh(ties)[1].T[[0, -1]]]
    best = max((_settled(sides, ties) for sides in starts), key=lambda sides: float(sides @ ties @ sides))
    return np.asarray(best)


def _settled(sides: NDArray[np.int_], ties: NDArray[np.float64]) -> NDArray[np.int_]:
    """With each one changed that gains by it, until none does."""
    gains = -sides * (ties @ sides)
    while gains.max() > _LEAST_GAIN:
        sides[gains.argmax()] *= -1
        gains = -sides * (ties @ sides)
    return sides


def parted(notes: Iterable[Note], others: Sequence[Note]) -> tuple[tuple[Note, ...], tuple[Note, ...]]:
    """The lead's notes, numbered from 1, and those that are another voice's."""
    lead: list[Note] = []
    apart: list[Note] = []
    for note in notes:
        (apart if any(note.is_same(other) for other in others) else lead).append(note)
    return tuple(replace(note, id=index) for index, note in enumerate(lead, 1)), tuple(apart)
