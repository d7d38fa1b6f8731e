"""Figures that come back: runs of notes with the same steps and rhythm, at any pitch, one note changed or none."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

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


@dataclass(frozen=True)
class _Line:
    """The notes' pitches, the gaps between onsets in s, which of them may be a figure's, and their ids."""

    pitches: list[int]
    gaps: list[float]
    sources: list[bool]
    ids: tuple[int, ...]


def find_returns(source: Sequence[Note], notes: Sequence[Note]) -> list[Return]:
    """Where runs of `source` come back among `notes` (which hold them too), longest first.

    A return does not overlap the figure it repeats, and no two returns overlap each other.
    """
    sources = {note.id for note in source}
    line = _Line(
        [note.pitch for note in notes],
        [max(after.onset - before.onset, _SHORTEST_GAP_S) for before, after in pairwise(notes)],
        [note.id in sources for note in notes],
        tuple(note.id for note in notes),
    )
    found = [run for i, j in _likely(notes, sources) if (run := _run(line, i, j))]
    found.sort(key=lambda run: (-len(run.first), run.changed is not None))
    kept: list[Return] = []
    taken: set[int] = set()
    for run in found:
        if taken.isdisjoint(run.again):
            taken |= set(run.again)
            kept.append(run)
    return kept


def _likely(notes: Sequence[Note], sources: set[int]) -> list[tuple[int, int]]:
    """Pairs of indices at which the first few notes agree: all in rhythm, all but one in their steps."""
    count = len(notes) - _LEAST_NOTES + 1
    if count < 1:
        return []
    pitch = np.array([note.pitch for note in notes], np.int16)
    gap = np.maximum(np.diff([note.onset for note in notes]), _SHORTEST_GAP_S).astype(np.float32)
    here = np.array([index for index in range(count) if notes[index].id in sources], dtype=np.intp)
    there = np.arange(count)
    agreed = np.zeros((len(here), count), np.int8)
    rhythm = np.abs(here[:, None] - there) >= _LEAST_NOTES
    for step in range(1, _LEAST_NOTES):
        agreed += (pitch[here + step] - pitch[here])[:, None] == pitch[there + step] - pitch[there]
        one, other = gap[here + step - 1][:, None], gap[there + step - 1]
        rhythm &= (one <= np.float32(_SAME_GAP) * other) & (other <= np.float32(_SAME_GAP) * one)
    rows, columns = np.nonzero(rhythm & (agreed >= _LEAST_NOTES - 2))
    return list(zip(here[rows].tolist(), columns.tolist(), strict=True))


def _run(line: _Line, i: int, j: int) -> Return | None:
    """The longest run from notes i and j on, or None where it is too short."""
    pitches, gaps = line.pitches, line.gaps
    semitones = pitches[j] - pitches[i]
    changed: int | None = None
    length = 1
    most = min(abs(j - i), len(pitches) - max(i, j))
    while length < most and line.sources[i + length]:
        one, other = gaps[i + length - 1], gaps[j + length - 1]
        if one > _SAME_GAP * other or other > _SAME_GAP * one:
            break
        if pitches[j + length] - pitches[i + length] != semitones:
            if changed is not None:
                break
            changed = length
        length += 1
    if length < _LEAST_NOTES or (changed == length - 1 and length <= _LEAST_NOTES):
        return None
    return Return(line.ids[i : i + length], line.ids[j : j + length], semitones, changed)


def return_words(run: Return, notes: Sequence[Note]) -> str:
    """How a figure comes back: "the same figure, top note changed", "again, a whole step up"."""
    words = "the same figure" if run.semitones == 0 else f"again, {step_words(run.semitones)}"
    if run.changed is None:
        return words
    pitches = {note.id: note.pitch for note in notes}
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
