"""Written note values: played onsets laid on a likely subdivision of each beat, and lengths as notes write them.

A beat is counted in TICKS. In simple meters it is a quarter note, in compound ones (a grid's `division` of 3) a
dotted quarter. All the onsets in a beat are laid on one subdivision of it, so that what is written there can be read.
"""

from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from eager_owl.rhythm.grid import BeatGrid

TICKS = 24  # to the beat: whole numbers for halves, thirds, quarters, sixths and eighths
# Parts of a beat that onsets may be written on, and how many beats of deviation a note a rarer one must save to be
# chosen; for beats of two parts and of three.
_SUBDIVISION_COST = {
    2: {1: 0.0, 2: 0.01, 4: 0.03, 3: 0.04, 6: 0.06, 8: 0.07},
    3: {1: 0.0, 3: 0.01, 6: 0.03, 2: 0.05, 12: 0.07},
}
# Two notes played after one another and written at once would be read wrongly.
_COLLISION_COST = 0.5
# Strokes this near are one: they are not read as a collision.
_ONE_STROKE_BEATS = 0.08
# Where the second half of a swung beat is played.
_SWUNG_HALF = 2 / 3
# The shortest written value, in ticks, in a beat of so many parts: ends are laid on it.
_SHORTEST = {2: {1: 6, 2: 6, 4: 6, 3: 8, 6: 4, 8: 3}, 3: {1: 4, 3: 4, 6: 4, 2: 12, 12: 2}}


@dataclass(frozen=True)
class Written:
    """A note as written: its beat from the first beat, its length in beats, and how late it was played.

    A grace note has no length, and the beat of the note it leads into.
    """

    beat: Fraction
    length: Fraction
    late_ms: float


@dataclass(frozen=True)
class Value:
    """A single written value: 4 is a quarter note; its dots; whether it is one of three in the time of two."""

    denominator: int
    dots: int = 0
    triplet: bool = False


# Ticks of each value, longest first: within a beat, or whole beats; triplets for beats that fall into thirds.
_SIMPLE = {
    96: Value(1), 72: Value(2, 1), 48: Value(2), 36: Value(4, 1), 24: Value(4), 18: Value(8, 1), 12: Value(8),
    9: Value(16, 1), 6: Value(16), 3: Value(32),
}  # fmt: skip
_TRIPLET = {16: Value(4, 0, True), 12: Value(8, 1, True), 8: Value(8, 0, True), 4: Value(16, 0, True)}
_COMPOUND = {
    96: Value(1, 1), 48: Value(2, 1), 24: Value(4, 1), 16: Value(4), 12: Value(8, 1), 8: Value(8), 6: Value(16, 1),
    4: Value(16), 2: Value(32),
}  # fmt: skip
_DOTTED_QUARTER = 36


def write_values(
    onsets_s: Sequence[float], durations_s: Sequence[float], grid: BeatGrid, graces: Collection[int] = ()
) -> list[Written]:
    """Likely written beat and length of each note; onsets ascend, `graces` are the indices of grace notes.

    Lengths reach to the next note's onset where the gap is no more than a sixteenth, so a line played legato is
    written without slivers of rest.
    """
    beats = [_unswung(grid.beat_at(onset), grid) for onset in onsets_s]
    # A grace that ends the line leads nowhere, and is written where it is.
    plain = [beat for index, beat in enumerate(beats) if index not in graces or index + 1 == len(beats)]
    parts = _parts_of_beats(plain, grid.division)
    starts = [_place(beat, parts, grid.division) for beat in beats]
    for index in sorted(graces, reverse=True):
        if index + 1 < len(starts):
            starts[index] = starts[index + 1]
    sixteenth = _SHORTEST[grid.division][1]
    written = []
    following: int | None = None
    for index in range(len(starts) - 1, -1, -1):
        onset, start = onsets_s[index], starts[index]
        if index + 1 < len(starts) and starts[index + 1] > start:
            following = starts[index + 1]
        end = _end(_unswung(grid.beat_at(onset + durations_s[index]), grid), start, parts, grid.division)
        if following is not None and following - end <= sixteenth:
            end = following
        length = end - start
        late_ms = 1000.0 * (onset - grid.time_of(played_beat(start / TICKS, grid)))
        if index in graces:
            length = 0
        written.append(Written(Fraction(start, TICKS), Fraction(length, TICKS), late_ms))
    return written[::-1]


def _parts_of_beats(beats: Sequence[float], division: int) -> dict[int, int]:
    """The parts that each beat with onsets in it is written in."""
    inside: dict[int, list[float]] = defaultdict(list)
    for beat in beats:
        inside[int(beat // 1)].append(beat % 1)
    return {whole: _likeliest_parts(within, division) for whole, within in inside.items()}


def _likeliest_parts(within: Sequence[float], division: int) -> int:
    """The parts of a beat that onsets, each from 0 to 1 in it, lie nearest on, all told."""

    def cost(parts: int) -> float:
        steps = [round(at * parts) for at in within]
        off = sum(abs(at - step / parts) for at, step in zip(within, steps, strict=True))
        pairs = zip(pairwise(within), pairwise(steps), strict=True)
        collisions = sum(b - a > _ONE_STROKE_BEATS and one == other for (a, b), (one, other) in pairs)
        return off + len(within) * _SUBDIVISION_COST[division][parts] + _COLLISION_COST * collisions

    return min(_SUBDIVISION_COST[division], key=cost)


def _place(beat: float, parts: dict[int, int], division: int) -> int:
    """The ticks of an onset on the parts that its beat is written in, or on its own likeliest ones."""
    whole, within = divmod(beat, 1.0)
    count = parts.get(int(whole)) or _likeliest_parts([within], division)
    return int(whole) * TICKS + round(within * count) * TICKS // count


def _end(beat: float, start: int, parts: dict[int, int], division: int) -> int:
    """The ticks of a note's end: on the shortest value of the beat it lies in, and at least one after its start."""
    whole, within = divmod(beat, 1.0)
    step = _SHORTEST[division][parts.get(int(whole), 1)]
    end = int(whole) * TICKS + round(within * TICKS / step) * step
    return max(end, start + _SHORTEST[division][parts.get(start // TICKS, 1)])


def _unswung(beat: float, grid: BeatGrid) -> float:
    """A beat as it would be played straight."""
    if not grid.swung:
        return beat
    whole, part = divmod(beat, 1.0)
    half = part / _SWUNG_HALF / 2 if part < _SWUNG_HALF else 0.5 + (part - _SWUNG_HALF) / (1 - _SWUNG_HALF) / 2
    return whole + half


def played_beat(beat: float, grid: BeatGrid) -> float:
    """Where a written beat is played: the second half of a swung one comes late."""
    if not grid.swung:
        return beat
    whole, part = divmod(beat, 1.0)
    return whole + (2 * part * _SWUNG_HALF if part < 0.5 else _SWUNG_HALF + (2 * part - 1) * (1 - _SWUNG_HALF))


def split_values(start: int, length: int, division: int) -> list[tuple[int, int, Value]]:
    """A stretch in ticks, inside one bar, as values to be tied: (start, ticks, value) of each.

    What begins between two beats ends at the next one, so that the beat can be seen; whole beats are written as few
    values; what is left over begins on a beat. Raises ValueError for a length no value has.
    """
    end = start + length
    pieces: list[tuple[int, int, Value]] = []
    while start < end:
        to_beat = -start % TICKS
        if to_beat and end - start >= to_beat:
            inside = to_beat
        elif to_beat or end - start < TICKS or (division == 2 and end - start == _DOTTED_QUARTER):
            inside = end - start
        else:
            inside = _whole_beats((end - start) // TICKS, division) * TICKS
        for ticks, value in _values_of(start, inside, division):
            pieces.append((start, ticks, value))
            start += ticks
    return pieces


def _whole_beats(beats: int, division: int) -> int:
    """How many of so many beats the longest single value takes."""
    return next(n for n in ((4, 3, 2, 1) if division == 2 else (4, 2, 1)) if n <= beats)


def _values_of(start: int, length: int, division: int) -> list[tuple[int, Value]]:
    """Values, longest first, that fill a stretch inside a beat, or whole beats."""
    table = _COMPOUND
    if division == 2:
        table = _TRIPLET if start % 3 or length % 3 else _SIMPLE
    filled: list[tuple[int, Value]] = []
    while length:
        ticks = next((ticks for ticks in table if ticks <= length), None)
        if ticks is None:
            raise ValueError(f"no written value lasts {length} of {TICKS} parts of a beat")
        filled.append((ticks, table[ticks]))
        length -= ticks
    return filled
