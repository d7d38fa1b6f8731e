"""Sequences: a short figure that is played again at once from another pitch, exactly or within the scale."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median

from eager_owl.reasons.context import ON_BEAT, Moment

_LEAST, _MOST = 2, 8
_SAME_GAP = 1.45  # ratio of two gaps that count as one note value
_LARGEST_MOVE = 5  # semitones from turn to turn
_TOLD_CHANGED = 4  # a figure so long is known again with a note of it altered


@dataclass(frozen=True)
class Run:
    """A figure and its turns: `notes` of all of them, how far the first turn moves, and the notes that do not.

    `changed` are those that differ from the figure moved exactly so far; `even` says whether every turn moves as far
    as the first.
    """

    notes: tuple[int, ...]
    length: int
    turns: int
    semitones: int
    changed: tuple[int, ...]
    even: bool

    def tells(self, notes: Sequence[int]) -> bool:
        """Whether it says more of these notes than that one comes back: they lie in it and its figure is longer."""
        return self.length > _LEAST and set(notes) <= set(self.notes)


def find_sequences(moments: Sequence[Moment]) -> list[Run]:
    """The sequences of a line that do not overlap, the one that covers most notes first where several might stand.

    A figure of two notes must come three times, a longer one twice, and then nearly unchanged. Turns have one rhythm,
    and steps of one direction that differ by no more than a half step; a scale straight on is none.
    """
    pitches = [moment.landed for moment in moments]
    gaps = [b.beat - a.beat for a, b in pairwise(moments)]
    runs = [
        run
        for length in range(_LEAST, _MOST + 1)
        for start in range(len(moments) - 2 * length + 1)
        if (run := _run(pitches, gaps, start, length)) is not None
    ]
    off = [abs(moment.beat - round(moment.beat)) > ON_BEAT for moment in moments]
    runs.sort(key=lambda run: (-len(run.notes), off[run.notes[0]], len(run.changed), run.length))
    taken: set[int] = set()
    kept = []
    for run in runs:
        if taken.isdisjoint(run.notes):
            taken |= set(run.notes)
            kept.append(run)
    return sorted(kept, key=lambda run: run.notes[0])


def _run(pitches: list[int], gaps: list[float], start: int, length: int) -> Run | None:
    figure = pitches[start : start + length]
    way = 0  # how far the first turn moves
    shifts = [0]  # of each turn against the figure
    changed: list[int] = []
    while (at := start + len(shifts) * length) + length <= len(pitches):
        move = pitches[at] - pitches[at - length]
        if not 1 <= abs(move) <= _LARGEST_MOVE or (way and abs(move - way) > 1):
            break
        turn = pitches[at : at + length]
        if not _alike(figure, turn) or not _same_rhythm(gaps, start, at, length):
            break
        shift, altered = _moved(figure, turn)
        if shift == 0 or len(altered) > length / 2:
            break
        way = way or move
        shifts.append(shift)
        changed += [at + i for i in altered]
    turns = len(shifts)
    if turns < (3 if length == _LEAST else 2) or is_straight(pitches[start : start + turns * length]):
        return None
    if turns == 2 and (len(changed) > 1 or (changed and length < _TOLD_CHANGED)):
        return None
    even = len({b - a for a, b in pairwise(shifts)}) == 1
    return Run(tuple(range(start, start + turns * length)), length, turns, shifts[1], tuple(changed), even)


def _moved(figure: list[int], turn: list[int]) -> tuple[int, list[int]]:
    """How far a turn lies from the figure, and which of its notes lie elsewhere."""
    moves = [b - a for a, b in zip(figure, turn, strict=True)]
    shift = round(median(moves))
    return shift, [i for i, move in enumerate(moves) if move != shift]


def _alike(figure: list[int], other: list[int]) -> bool:
    for (a, b), (c, d) in zip(pairwise(figure), pairwise(other), strict=True):
        one, two = b - a, d - c
        if abs(one - two) > 1 or (one > 0) != (two > 0) or (one == 0) != (two == 0):
            return False
    return True


def _same_rhythm(gaps: list[float], start: int, at: int, length: int) -> bool:
    """Whether the gaps within a turn are as in the figure."""
    for i in range(length - 1):
        low, high = sorted((gaps[start + i], gaps[at + i]))
        if high > _SAME_GAP * max(low, 1e-3):
            return False
    return True


def is_straight(pitches: list[int]) -> bool:
    """Whether a line goes one way only, by steps."""
    steps = [b - a for a, b in pairwise(pitches)]
    return all(step > 0 for step in steps) or all(step < 0 for step in steps)
