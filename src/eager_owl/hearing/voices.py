"""Which notes of a band's line are another voice's: a horn or a second guitar that answers the lead.

The line is taken apart at its rests. Of each run the timbre is measured (the levels at its harmonics against each
other), how surely it is judged to be a lead, and in two channels its place. Of any two runs these say how likely one
voice plays both; the runs are then put on two sides so that most of that holds, by the leading eigenvector of what
the pairs say and single changes from there (M. Newman, "Finding community structure in networks using the
eigenvectors of matrices", Phys. Rev. E 74, 2006). The side that is surer, nearer to the middle and longer leads. What
each difference tells, benchmarks/train_voices.py fits (voices.json).
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.regressions import log_odds, weights_of
from eager_owl.hearing.salience import COARSE_HOP_S, RANGE_DB, Spectra, harmonic_shift, pitch_bins
from eager_owl.solo.document import Note

_REST_S = 0.2  # a run ends where nothing of the line begins or sounds for so long
_HARMONICS = (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0)
_SETTLED_S = 0.04  # after its onset a note's timbre is its own
_FULL_NOTES = 8  # a run of so many says all that it can; of fewer what it says counts by their share
_FARTHEST_PLACE, _FARTHEST_LEVEL = 0.6, 2.0  # more says no more; tens of dB
# Log odds that there are two sides at all, and which of them leads, under which nothing is parted.
_TWO_SIDES, _LEADS = 2.0, 0.5
_LEAST_GAIN = 1e-9


@dataclass(frozen=True)
class Run:
    """Notes between rests; the levels at their harmonics against each other, tens of dB, shape (8,); how far they are
    believed; and their balance, -1 to 1, 0 where there is one channel.
    """

    notes: tuple[Note, ...]
    timbre: NDArray[np.float64]
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
        timbre = weights @ np.array([_timbre_of(notes[i], spectra, cents) for i in group])
        belief = float(weights @ np.array([notes[i].confidence for i in group]))
        place = float(weights @ places[group]) if places is not None else 0.0
        runs.append(Run(tuple(notes[i] for i in group), np.asarray(timbre), belief, place))
    return tuple(runs)


def _timbre_of(note: Note, spectra: Spectra, cents: float) -> NDArray[np.float64]:
    """Levels at the harmonics against their mean, in tens of dB."""
    first = round((note.onset + _SETTLED_S) / COARSE_HOP_S)
    rows = np.arange(first, max(first + 2, round(note.end / COARSE_HOP_S)))
    rows = rows[rows < len(spectra)]
    if not len(rows):
        return np.zeros(len(_HARMONICS))
    inside = np.minimum(((rows * COARSE_HOP_S - note.onset) / 0.01).astype(np.intp), len(note.contour_cents) - 1)
    off = np.array(note.contour_cents)[np.maximum(inside, 0)] / 100 if note.contour_cents else np.zeros(len(rows))
    midi = note.pitch + cents / 100 + off
    at = pitch_bins(midi)[:, None] + [harmonic_shift(h) for h in _HARMONICS]
    levels = spectra.sharp[rows[:, None], np.clip(at, 0, spectra.sharp.shape[1] - 1)] * RANGE_DB / 10
    timbre = levels.mean(axis=0)
    return np.asarray(timbre - timbre.mean(), dtype=np.float64)


def describe_pairs(runs: Sequence[Run]) -> dict[str, NDArray[np.float64]]:
    """How any two runs differ, by name, each of shape (len(runs), len(runs))."""
    places, timbres = np.array([run.place for run in runs]), np.array([run.timbre for run in runs])
    apart = np.abs(timbres[:, None] - timbres)
    each = np.minimum(apart, _FARTHEST_LEVEL)
    return {
        "place": np.minimum(np.abs(places[:, None] - places), _FARTHEST_PLACE),
        "timbre": np.sqrt((apart**2).mean(axis=2)),
        **{f"harmonic {int(harmonic)}": each[:, :, index] for index, harmonic in enumerate(_HARMONICS)},
    }


def describe_run(run: Run) -> dict[str, float]:
    """What says of one run whether the lead plays it."""
    return {"belief": run.belief, "off the middle": abs(run.place)}


def other_voices(runs: Sequence[Run]) -> tuple[Note, ...]:
    """The notes that are another voice's; none where there is one voice, or nobody can say which of two leads."""
    if len(runs) < 2:
        return ()
    counts = np.array([len(run.notes) for run in runs])
    says = np.minimum(counts, _FULL_NOTES) / _FULL_NOTES
    weights, differ = weights_of("voices")["alike"], describe_pairs(runs)
    alike = weights["bias"] + sum(weights[name] * value for name, value in differ.items())
    ties = np.outer(says, says) * alike
    np.fill_diagonal(ties, 0.0)
    sides = two_sides(ties)
    if (sides @ ties @ sides - ties.sum()) / 2 < _TWO_SIDES:
        return ()
    leads = np.array([log_odds(weights_of("voices")["leads"], describe_run(run)) for run in runs])
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
