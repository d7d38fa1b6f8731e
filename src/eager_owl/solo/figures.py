"""Figures that come back: runs of notes with the same steps and rhythm, at any pitch, one note changed or none."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.solo.document import Note, Solo, change_notes
from eager_owl.theory.interval import step_words

_LEAST_NOTES = 4
# A gap to the next note that is within this ratio of its like is the same rhythm.
_SAME_GAP = 1.35
_SHORTEST_GAP_S = 0.03


@dataclass(frozen=True)
class Return:
    """A figure and where it comes back: equally many note ids, so many semitones up, the index changed if one is."""

    first: tuple[int, ...]
    again: tuple[int, ...]
    semitones: int
    changed: int | None = None


def find_returns(source: Sequence[Note], notes: Sequence[Note]) -> list[Return]:
    """Where runs of `source` come back among `notes` (which hold them too), longest first.

    A return does not overlap the figure it repeats, and no two returns overlap each other.
    """
    sources = {note.id for note in source}
    here = np.array([index for index, note in enumerate(notes) if note.id in sources], dtype=np.intp)
    if len(notes) < _LEAST_NOTES or not len(here):
        return []
    pitch = np.array([note.landed for note in notes])
    gap = np.maximum(np.diff([note.onset for note in notes]), _SHORTEST_GAP_S)
    kept: list[Return] = []
    runs = _runs(pitch, gap, here)
    while len(runs):
        i, j, length, changed = runs[0].tolist()
        first, again = (tuple(note.id for note in notes[at : at + length]) for at in (i, j))
        kept.append(Return(first, again, int(pitch[j] - pitch[i]), None if changed < 0 else changed))
        runs = runs[(runs[:, 1] >= j + length) | (runs[:, 1] + runs[:, 2] <= j)]
    return kept


def _runs(pitch: NDArray[np.int64], gap: NDArray[np.float64], here: NDArray[np.intp]) -> NDArray[np.intp]:
    """The longest run from each note of `here` and each other note on, shape (runs, 4), longest first.

    Columns are the two notes, the length, and which note is changed (-1: none). Lengths of runs without a change are
    carried from their second notes to their first ones, so that an ostinato costs no more than any other line.
    """
    count, rows = len(pitch), len(here)
    steps = np.diff(pitch)
    goes_on = np.zeros((rows + 2, count + 2), bool)  # both notes have a next one, in the same rhythm
    exact = np.zeros((rows + 2, count + 2), np.int32)  # notes from here on in the same steps
    exact[:rows, :count] = 1
    for row in range(rows - 2, -1, -1):
        i = int(here[row])
        if here[row + 1] == i + 1:
            goes_on[row, : count - 1] = (gap[i] <= _SAME_GAP * gap) & (gap <= _SAME_GAP * gap[i])
            alike = goes_on[row, : count - 1] & (steps == steps[i])
            exact[row, : count - 1] += np.where(alike, exact[row + 1, 1:count], 0)
    at, j = np.nonzero(goes_on[:rows, :count] & goes_on[1:-1, 1:-1] & goes_on[2:, 2:])
    apart = np.abs(j - here[at]) >= _LEAST_NOTES
    at, j = at[apart], j[apart]
    one = here[at]
    same = exact[at, j]
    changes = goes_on[at + same - 1, j + same - 1]
    after = np.minimum(same + 1, count - 1 - np.maximum(one, j))
    moved = pitch[j] - pitch[one]
    resumes = changes & goes_on[at + same, j + same] & (pitch[j + after] - pitch[one + after] == moved)
    length = same + changes + np.where(resumes, exact[np.minimum(at + same + 1, rows), j + same + 1], 0)
    length = np.minimum(length, np.minimum(np.abs(j - one), count - np.maximum(one, j)))
    changed = np.where(changes & (same < length), same, -1)
    long_enough = (length >= _LEAST_NOTES) & ((length > _LEAST_NOTES) | (changed != length - 1))
    runs: NDArray[np.intp] = np.stack([one, j, length, changed], axis=1)[long_enough]
    return runs[np.lexsort((runs[:, 3] >= 0, -runs[:, 2]))]


def return_words(run: Return, notes: Sequence[Note]) -> str:
    """How a figure comes back: "the same figure, top note changed", "again, a whole step up"."""
    words = "the same figure" if run.semitones == 0 else f"again, {step_words(run.semitones)}"
    if run.changed is None:
        return words
    pitches = {note.id: note.landed for note in notes}
    line = [pitches[i] for i in run.first]
    if run.changed == len(line) - 1:
        which = "last note"
    elif line[run.changed] == max(line):
        which = "top note"
    elif line[run.changed] == min(line):
        which = "lowest note"
    else:
        which = f"note {run.changed + 1}"
    return f"{words}, {which} changed"


def twins_of(note_id: int, returns: Sequence[Return]) -> dict[int, int]:
    """The notes that stand where this one does in its figure's returns, and how many semitones up each is."""
    twins: dict[int, int] = {}
    for run in returns:
        for here, there, semitones in zip(run.first, run.again, [run.semitones] * len(run.first), strict=True):
            if here == note_id:
                twins[there] = semitones
    return twins


def carry(solo: Solo, note_id: int, returns: Sequence[Return]) -> Solo:
    """A note's pitch and techniques carried to its twins, pinned there."""
    note, twins = solo.note(note_id), twins_of(note_id, returns)

    def change(twin: Note) -> Note:
        pitch = note.pitch + twins[twin.id]
        return replace(twin, pitch=pitch, techniques=note.techniques, string=None, fret=None, finger=None).pinned(
            "pitch", "techniques"
        )

    return change_notes(solo, twins, change)
