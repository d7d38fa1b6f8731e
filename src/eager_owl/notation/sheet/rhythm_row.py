"""Values under the tab: stems, beams, flags, dots, ties, triplets; rests in the staff."""

from collections.abc import Sequence
from fractions import Fraction

from eager_owl.notation.grouping import beam_groups, flags, triplet_groups
from eager_owl.notation.score import Event
from eager_owl.notation.sheet import faces
from eager_owl.notation.sheet.block import Writer
from eager_owl.notation.sheet.glyphs import SIGNS
from eager_owl.notation.sheet.ink import Ink, Shape, tie
from eager_owl.notation.sheet.placed import Placed

STEM_PT, HEIGHT_PT = 15.0, 25.0
_SPACE = 4.2  # of the signs
_BEAM_PT, _BEAM_STEP = 2.1, 3.4
_TIE_PT, _TUPLET_PT = 3.4, 7.0
_RESTS = {1: "restWhole", 2: "restHalf", 4: "restQuarter", 8: "rest8th", 16: "rest16th", 32: "rest32nd"}
_FLAGS = {1: "flag8thDown", 2: "flag16thDown", 3: "flag32ndDown"}


class RhythmRow:
    """Draws the values of one voice, stems hanging down from `top`."""

    def __init__(self, writer: Writer, placed: Placed, voice: int, ink: Ink = "ink") -> None:
        self._writer, self._placed, self._voice, self._ink = writer, placed, voice, ink

    def draw(self, top: float, staff_middle: float | None) -> None:
        """The row; its rests in the middle of a staff, unless that speaks for another voice."""
        open_tie: float | None = None
        bars = self._placed.bars
        for bar in bars:
            events = bar.events(self._voice)
            if not events:
                open_tie = None
                continue
            line = [event for event, _ in events]
            self._beams(events, beam_groups(line), top)
            self._triplets(events, triplet_groups(line), top)
            for event, x in events:
                if not event.notes:
                    if staff_middle is not None:
                        draw_rest(self._writer, event, self._rest_x(event, x, bar.left, bar.right), staff_middle, 5.6)
                    open_tie = None
                    continue
                self._value(event, x, top)
                if event.tied_from:
                    start = open_tie if open_tie is not None else bar.left + 1.0
                    self._writer.add(tie(start + 2.0, x - 2.0, top + STEM_PT + 2.2, -_TIE_PT, self._ink))
                open_tie = x if event.tied_on else None
        if open_tie is not None:
            self._writer.add(tie(open_tie + 2.0, self._placed.right - 1.0, top + STEM_PT + 2.2, -_TIE_PT, self._ink))

    def _rest_x(self, event: Event, x: float, left: float, right: float) -> float:
        return (left + right) / 2 if event.bar_rest else x

    def _value(self, event: Event, x: float, top: float) -> None:
        """A stem to the value's kind: hollow at its foot for a half note, no stem for a whole one."""
        writer, denominator = self._writer, event.value.denominator
        foot = top + STEM_PT
        if denominator > 1:
            writer.line(x, top, x, foot - (2.0 if denominator == 2 else 0.0), 0.8, self._ink)
        if denominator <= 2:
            name = "noteheadHalf" if denominator == 2 else "noteheadWhole"
            writer.sign(x - SIGNS[name].advance * _SPACE / 2, foot, name, _SPACE, self._ink)
        beside = 4.0 if denominator > 2 else 5.0
        if flags(event) and not self._beamed(event):
            writer.sign(x - 0.3, foot, _FLAGS[flags(event)], _SPACE, self._ink)
            beside = SIGNS[_FLAGS[flags(event)]].advance * _SPACE + 1.6
        for dot in range(event.value.dots):
            writer.sign(x + beside + 2.6 * dot - 1.4, foot - 1.4, "augmentationDot", _SPACE, self._ink)

    def _beamed(self, event: Event) -> bool:
        return (event.beat, event.length) in self._on_beams

    def _beams(self, events: Sequence[tuple[Event, float]], groups: Sequence[Sequence[int]], top: float) -> None:
        foot = top + STEM_PT
        self._on_beams: set[tuple[Fraction, Fraction]] = set()
        for group in groups:
            members = [events[index] for index in group]
            self._on_beams |= {(event.beat, event.length) for event, _ in members}
            for level in range(1, max(flags(event) for event, _ in members) + 1):
                y = foot - (level - 1) * _BEAM_STEP
                for left, right in beam_stretches(members, level):
                    self._writer.add(
                        Shape(((left, y - _BEAM_PT), (right, y - _BEAM_PT), (right, y), (left, y)), self._ink)
                    )

    def _triplets(self, events: Sequence[tuple[Event, float]], groups: Sequence[Sequence[int]], top: float) -> None:
        y = top + STEM_PT + _TUPLET_PT
        for group in groups:
            left, right = events[group[0]][1], events[group[-1]][1]
            middle = (left + right) / 2
            self._writer.words(middle, y, "3", faces.MARK, self._ink, 0.5)
            joined = all(flags(events[index][0]) for index in group) and len(group) > 1
            if not joined and right - left > 14:
                bracket = y - 2.6
                for a, b, end in ((left, middle - 4, left), (middle + 4, right, right)):
                    self._writer.line(a, bracket, b, bracket, 0.6, self._ink)
                    self._writer.line(end, bracket, end, bracket - 2.4, 0.6, self._ink)


def beam_stretches(members: Sequence[tuple[Event, float]], level: int) -> list[tuple[float, float]]:
    """Where a beam of a level runs: between neighbours that both have it, else as a hook."""
    stretches: list[tuple[float, float]] = []
    index = 0
    while index < len(members):
        if flags(members[index][0]) < level:
            index += 1
            continue
        last = index
        while last + 1 < len(members) and flags(members[last + 1][0]) >= level:
            last += 1
        left, right = members[index][1], members[last][1]
        if index == last:
            left, right = (left, left + 5.0) if index == 0 else (left - 5.0, left)
        stretches.append((left - 0.4, right + 0.4))
        index = last + 1
    return stretches


def draw_rest(writer: Writer, event: Event, x: float, middle: float, space: float) -> None:
    """A rest at its place, in the middle of a staff."""
    name = "restWhole" if event.bar_rest else _RESTS[event.value.denominator]
    width = SIGNS[name].advance * space
    writer.sign(x - width / 2, middle, name, space)
    if not event.bar_rest:
        for dot in range(event.value.dots):
            writer.sign(x + width / 2 + 1.6 + 2.6 * dot, middle - space / 2, "augmentationDot", space)
