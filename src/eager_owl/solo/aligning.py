"""Two readings of one line laid against each other: which note of the one is which of the other.

Global alignment by dynamic programming (S. Needleman and C. Wunsch 1970), with costs for another pitch, for a note
that only one of them has, and for a gap between notes that is out of proportion to the tempo so far.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from eager_owl.solo.document import Note

Pair = tuple[int | None, int | None]

_ALONE = 0.62  # of a note that has no partner
_OCTAVE, _NEAR, _OTHER = 0.45, 0.7, 1.15  # of a partner an octave off, a step off, or of any other pitch
_NEAR_SEMITONES = 2
_STRETCH = 0.35  # of a gap twice as long as it should be


def align_notes(written: Sequence[Note], heard: Sequence[Note], within: bool = False) -> list[Pair]:
    """Pairs of indices in order; None stands where one of the two has no such note. Both ascend by onset.

    `within` says that what is written may be a part of what is heard: what is heard before and after it is free.
    """
    rows, columns = len(written), len(heard)
    if not rows or not columns:
        return [(i, None) for i in range(rows)] + [(None, j) for j in range(columns)]
    match = _pitch_costs(written, heard) + _gap_costs(written, heard)
    cost = np.zeros((rows + 1, columns + 1))
    cost[:, 0] = _ALONE * np.arange(rows + 1)
    cost[0, :] = 0.0 if within else _ALONE * np.arange(columns + 1)
    for i in range(1, rows + 1):
        above = np.minimum(cost[i - 1, 1:] + _ALONE, cost[i - 1, :-1] + match[i - 1])
        # The best way along a row, in one sweep: each step to the right costs the same.
        steps = np.concatenate([[cost[i, 0]], above]) - _ALONE * np.arange(columns + 1)
        cost[i] = np.minimum.accumulate(steps) + _ALONE * np.arange(columns + 1)
    end = int(np.argmin(cost[rows])) if within else columns
    after: list[Pair] = [(None, j) for j in range(end, columns)]
    return [*_walk(cost, match, rows, end), *after]


def _walk(cost: NDArray[np.float64], match: NDArray[np.float64], i: int, j: int) -> list[Pair]:
    """The way back from the end at i and j."""
    pairs: list[Pair] = []
    while i or j:
        if i and j and abs(cost[i, j] - cost[i - 1, j - 1] - match[i - 1, j - 1]) < 1e-9:
            i, j = i - 1, j - 1
            pairs.append((i, j))
        elif i and abs(cost[i, j] - cost[i - 1, j] - _ALONE) < 1e-9:
            i -= 1
            pairs.append((i, None))
        else:
            j -= 1
            pairs.append((None, j))
    return pairs[::-1]


def _pitch_costs(written: Sequence[Note], heard: Sequence[Note]) -> NDArray[np.float64]:
    """What it costs to take one for the other by pitch; a bend may be told as the note it lands on."""
    costs = []
    for own in {"pitch", "landed"}:
        a = np.array([getattr(note, own) for note in written])[:, None]
        for other in {"pitch", "landed"}:
            b = np.array([getattr(note, other) for note in heard])[None, :]
            off = np.abs(a - b)
            cost = np.where(off == 0, 0.0, np.where(off <= _NEAR_SEMITONES, _NEAR, _OTHER))
            costs.append(np.where((off > 0) & (off % 12 == 0), _OCTAVE, cost))
    return np.asarray(np.min(costs, axis=0))


def _gap_costs(written: Sequence[Note], heard: Sequence[Note]) -> NDArray[np.float64]:
    """What it costs by rhythm: the gaps before two notes, each against the commonest of its own line."""
    a, b = (_relative_gaps(notes) for notes in (written, heard))
    return np.asarray(np.minimum(np.abs(np.log2(a[:, None] / b[None, :])), 2.0) * _STRETCH / 2)


def _relative_gaps(notes: Sequence[Note]) -> NDArray[np.float64]:
    onsets = np.array([note.onset for note in notes])
    gaps = np.maximum(np.diff(onsets, prepend=onsets[0] - 0.25), 0.02)
    return np.asarray(gaps / max(float(np.median(gaps)), 0.02))
