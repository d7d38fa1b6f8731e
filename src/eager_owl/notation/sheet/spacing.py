"""Where a bar's columns stand: as far apart as their durations ask for, and never nearer than their signs allow.

A column's share of a line grows with a power of its duration, as engravers space (J. S. Gourlay, "Spacing a Line of
Music", 1987, treats such shares as springs); a system is filled by one stretch of all its springs.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

from eager_owl.notation.score import Event, Measure

_QUARTER_PT, _POWER = 27.0, 0.6
_GAP_PT = 3.5
_LEAD_PT, _TAIL_PT = 11.0, 5.0
LEAST_STRETCH, MOST_STRETCH = 0.82, 1.7
_FULL_LINE = 0.5
_STEPS, _UTMOST_STRETCH = 12, 12.0


@dataclass(frozen=True)
class Column:
    """What begins at one beat: (voice, event). Extents are to the left and right of where its numbers are centred."""

    beat: Fraction
    events: tuple[tuple[int, Event], ...]
    left: float
    right: float
    natural: float  # to the next column, or the bar line


@dataclass(frozen=True)
class SpacedBar:
    """A bar's columns; `least` is the width below which its signs would touch."""

    measure: Measure
    columns: tuple[Column, ...]
    lead: float
    least_pt: float  # asked for by what stands over it, such as chord names
    closed: bool = True  # whether it ends in a bar line

    def offsets(self, stretch: float) -> list[float]:
        """Each column's place from the bar's left edge, and last the bar's width, at a stretch of its springs."""
        at = self.lead + (self.columns[0].left if self.columns else 0.0)
        places = []
        for rigid, natural in self._springs:
            places.append(at)
            at += max(rigid, stretch * natural)
        if at < self.least_pt:
            scale = self.least_pt / max(at, 1.0)
            return [*(place * scale for place in places), self.least_pt]
        return [*places, at]

    def width(self, stretch: float) -> float:
        """How wide it is at a stretch."""
        at = self.lead + (self.columns[0].left if self.columns else 0.0)
        at += sum(max(rigid, stretch * natural) for rigid, natural in self._springs)
        return max(at, self.least_pt)

    def slope(self, stretch: float) -> float:
        """By how much it widens with its stretch."""
        if self.width(stretch) <= self.least_pt:
            return 0.0
        return sum(natural for rigid, natural in self._springs if stretch * natural > rigid)

    @cached_property
    def _springs(self) -> list[tuple[float, float]]:
        """For each column how near the next may come, and the length of its spring at rest."""
        following = [column.left + _GAP_PT for column in self.columns[1:]] + [_TAIL_PT]
        pairs = zip(self.columns, following, strict=False)
        return [(column.right + gap, column.natural) for column, gap in pairs]

    @property
    def ends_in_rest(self) -> bool:
        """Whether nothing sounds over its end: a page may turn there."""
        line = self.measure.voices[0]
        return bool(line) and not line[-1].notes


Extents = Callable[[Sequence[tuple[int, Event]]], tuple[float, float]]


def space_bar(
    measure: Measure, quarters: float, extents: Extents, least_pt: float, opening: bool = False
) -> SpacedBar:
    """Columns of a bar; `quarters` are quarter notes to a beat, `extents` say how far a column's signs reach."""
    starts: dict[Fraction, list[tuple[int, Event]]] = {}
    for number, voice in enumerate(measure.voices):
        for event in voice:
            if number and not event.notes:
                continue  # a held voice is silent where the line speaks
            starts.setdefault(event.beat, []).append((number, event))
    beats = sorted(starts)
    end = max((voice[-1].end for voice in measure.voices if voice), default=Fraction(measure.start))
    columns = []
    for beat, following in zip(beats, [*beats[1:], end], strict=True):
        left, right = extents(starts[beat])
        natural = natural_pt(float(following - beat) * quarters)
        columns.append(Column(beat, tuple(starts[beat]), left, right, natural))
    return SpacedBar(measure, tuple(columns), _LEAD_PT * (0.6 if opening else 1.0), least_pt)


def natural_pt(quarters: float) -> float:
    """What a duration asks for."""
    return float(_QUARTER_PT * max(quarters, 0.01) ** _POWER + 3.0)


def split_bar(bar: SpacedBar, room: float) -> list[SpacedBar]:
    """A bar too wide for a line, cut at beats over which nothing is held; left whole where there is none."""
    if bar.width(LEAST_STRETCH) <= room:
        return [bar]
    pieces: list[SpacedBar] = []
    rest = list(bar.columns)
    while rest:
        taken = _longest_piece(rest, bar, room)
        closed = taken == len(rest)
        pieces.append(SpacedBar(bar.measure, tuple(rest[:taken]), bar.lead, 0.0, closed and bar.closed))
        rest = rest[taken:]
    return pieces


def _longest_piece(columns: Sequence[Column], bar: SpacedBar, room: float) -> int:
    """How many columns fit, up to a beat."""
    best = None
    for count in range(1, len(columns)):
        piece = SpacedBar(bar.measure, tuple(columns[:count]), bar.lead, 0.0)
        if piece.width(LEAST_STRETCH) > room and best is not None:
            return best
        cut = columns[count].beat
        held = any(event.beat < cut < event.end for column in columns[:count] for _, event in column.events)
        if cut.denominator == 1 and not held:
            best = count
    whole = SpacedBar(bar.measure, tuple(columns), bar.lead, 0.0).width(LEAST_STRETCH)
    return best if best is not None and whole > room else len(columns)


def break_lines(bars: Sequence[SpacedBar], room: Callable[[int], float]) -> list[list[SpacedBar]]:
    """Bars on lines, as many as fit; `room` is what a line has, by its index."""
    lines: list[list[SpacedBar]] = []
    used = 0.0
    for bar in bars:
        for piece in split_bar(bar, room(len(lines))):
            width = piece.width(1.0)
            if lines and used + width <= room(len(lines) - 1):
                lines[-1].append(piece)
                used += width
            else:
                lines.append([piece])
                used = width
    return _evened(lines, room)


def _evened(lines: list[list[SpacedBar]], room: Callable[[int], float]) -> list[list[SpacedBar]]:
    """A last line of one lone bar takes one more from the line before."""
    if len(lines) > 1 and len(lines[-1]) == 1 and len(lines[-2]) > 2:
        moved = lines[-2][-1]
        if moved.width(1.0) + lines[-1][0].width(1.0) <= room(len(lines) - 1):
            return [*lines[:-2], lines[-2][:-1], [moved, lines[-1][0]]]
    return lines


def fill(bars: Sequence[SpacedBar], room: float, last: bool) -> float:
    """The stretch at which bars fill a line; a last line that is half empty is not pulled so far.

    By Newton's steps: a line's width is a convex and piecewise straight function of its stretch.
    """
    stretch = 1.0
    last = last and sum(bar.width(1.0) for bar in bars) < _FULL_LINE * room
    for _ in range(_STEPS):
        width = sum(bar.width(stretch) for bar in bars)
        slope = sum(bar.slope(stretch) for bar in bars)
        if abs(width - room) < 0.05 or not slope:
            break
        stretch = min(max(stretch + (room - width) / slope, 0.05), _UTMOST_STRETCH)
    return min(stretch, MOST_STRETCH) if last else stretch


Place = tuple[float, Mapping[Fraction, float], float]


def places(bars: Sequence[SpacedBar], stretch: float, left: float) -> list[Place]:
    """For each bar its left edge, the place of each of its beats that have a column, and its right edge."""
    found: list[Place] = []
    at = left
    for bar in bars:
        offsets = bar.offsets(stretch)
        by_beat = {column.beat: at + offset for column, offset in zip(bar.columns, offsets, strict=False)}
        found.append((at, by_beat, at + offsets[-1]))
        at += offsets[-1]
    return found
