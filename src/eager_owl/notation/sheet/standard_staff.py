"""The standard staff: clef, signatures, heads where their spelling puts them, accidentals, stems, beams, ties."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from eager_owl.notation.grouping import beam_groups, flags, triplet_groups
from eager_owl.notation.score import Event
from eager_owl.notation.sheet import faces
from eager_owl.notation.sheet.block import Writer
from eager_owl.notation.sheet.glyphs import SIGNS
from eager_owl.notation.sheet.ink import Shape, tie
from eager_owl.notation.sheet.placed import GRACE_STEP, Placed, PlacedBar
from eager_owl.notation.sheet.rhythm_row import beam_stretches, draw_rest
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES, Names

SPACE = faces.STAFF_SPACE
HEIGHT = 4 * SPACE
_LETTERS = "CDEFGAB"
# Steps above the bottom line (E4 as written, E3 as it sounds) of a key's sharps and flats, in their order.
_SHARPS, _FLATS = (8, 5, 9, 6, 3, 7, 4), (4, 7, 3, 6, 2, 5, 1)
_ORDER = "FCGDAEB"
_STEM_SPACES = 3.5
# Room for an accidental; two of one chord that are nearer than so many steps stand side by side.
_ACCIDENTAL_PT, _CLEAR_STEPS = 6.4, 6
_SIGNS = {"#": "accidentalSharp", "b": "accidentalFlat", "": "accidentalNatural"}
_HEADS = {1: "noteheadWhole", 2: "noteheadHalf"}


@dataclass(frozen=True)
class Head:
    """A note on the staff: steps above its bottom line, and the accidental to draw, if any."""

    note: Note
    step: int
    accidental: str | None


class StandardStaff:
    """Draws one system's staff, its top line at `top`."""

    def __init__(self, writer: Writer, placed: Placed, key: Key | None, chart: Chart, grid: BeatGrid) -> None:
        self._writer, self._placed, self._key, self._chart, self._grid = writer, placed, key, chart, grid
        self._heads = {id(event): heads for event, heads in self._spelled()}

    @property
    def _has_triplets(self) -> bool:
        voices = (bar.events(voice) for bar in self._placed.bars for voice in range(bar.voices))
        return any(event.value.triplet for events in voices for event, _ in events)

    def _names(self, note: Note) -> Names:
        chord = self._chart.chord_at(self._grid.beat_at(note.onset), self._grid.beats_per_bar)
        if chord is not None and note.pitch % 12 in chord.pitch_classes:
            return chord.names
        return self._key.names if self._key else FLAT_NAMES

    def _spelled(self) -> list[tuple[Event, list[Head]]]:
        """Heads of every event, accidentals by the signature and by what the bar has had."""
        found = []
        signature = signature_of(self._key)
        for bar in self._placed.bars:
            standing: dict[int, str] = {}
            for event, _ in sorted(
                ((event, x) for voice in range(bar.voices) for event, x in bar.events(voice)),
                key=lambda pair: pair[1],
            ):
                heads = []
                for note in (*event.graces, *event.notes):
                    name = self._names(note)[note.pitch % 12]
                    step = staff_step(note.pitch, name)
                    own, sign = standing.get(step, signature.get(name[0], "")), name[1:]
                    tied = event.tied_from and note in event.notes
                    heads.append(Head(note, step, _SIGNS[sign] if sign != own and not tied else None))
                    if not tied:
                        standing[step] = sign
                found.append((event, heads))
        return found

    @property
    def reach(self) -> tuple[float, float]:
        """How far it rises above its top line and falls below its bottom line."""
        steps = [head.step for heads in self._heads.values() for head in heads]
        above = max([0.0, *((step - 8) * SPACE / 2 for step in steps)]) + 4.0
        if self._has_triplets:
            above = max(above + 14.0, 20.0)
        below = max([0.0, *(-step * SPACE / 2 for step in steps)]) + 4.0
        flat = [step for step in steps if step < 4]
        stems_up = max([0.0, *(((step + 7) - 8) * SPACE / 2 for step in flat)])
        high = [step for step in steps if step >= 4]
        stems_down = max([0.0, *((7 - step) * SPACE / 2 for step in high)])
        return max(above, stems_up + 5.0) + 7.0, max(below, stems_down + 5.0)

    def draw(self, top: float, opening: float, first: bool) -> None:
        """Lines, clef and signatures from `opening` on, then the bars; the meter stands in the first system only."""
        writer, placed = self._writer, self._placed
        for line in range(5):
            y = top + line * SPACE
            writer.line(opening, y, placed.right, y, 0.5)
        self._head(top, opening, first)
        writer.line(opening, top, opening, top + HEIGHT, 0.8)
        for bar in placed.bars:
            if bar.spaced.closed:
                writer.line(bar.right, top, bar.right, top + HEIGHT, 0.8)
            for voice in range(bar.voices):
                self._voice(bar, voice, top)
        self._ties(top)

    def _head(self, top: float, left: float, first: bool) -> None:
        writer = self._writer
        x = left + 3.0
        writer.sign(x, top + 3 * SPACE, "gClef8vb", SPACE)
        x += SIGNS["gClef8vb"].advance * SPACE + 3.0
        if self._key is not None:
            count = fifths_of(self._key)
            name = "accidentalSharp" if count > 0 else "accidentalFlat"
            for step in (_SHARPS if count > 0 else _FLATS)[: abs(count)]:
                writer.sign(x, top + HEIGHT - step * SPACE / 2, name, SPACE)
                x += SIGNS[name].advance * SPACE + 0.6
            x += 3.0
        if first:
            number, unit = self._grid.meter.split("/")
            widest = max(len(number), len(unit)) * 1.75 * SPACE
            for digits, y in ((number, top + SPACE), (unit, top + 3 * SPACE)):
                at = x + (widest - len(digits) * 1.75 * SPACE) / 2
                for digit in digits:
                    writer.sign(at, y, f"timeSig{digit}", SPACE)
                    at += 1.75 * SPACE

    def _y(self, top: float, step: int) -> float:
        return top + HEIGHT - step * SPACE / 2

    def _voice(self, bar: PlacedBar, voice: int, top: float) -> None:
        events = bar.events(voice)
        line = [event for event, _ in events]
        groups = beam_groups(line)
        beamed = {index for group in groups for index in group}
        for group in groups:
            self._beam([events[index] for index in group], top, voice, bar.voices > 1)
        for index, (event, x) in enumerate(events):
            if event.notes:
                self._event(event, x, top, voice, bar.voices > 1, index in beamed)
            elif voice == 0:
                at = (bar.left + bar.right) / 2 if event.bar_rest else x
                draw_rest(self._writer, event, at, top + (SPACE if event.bar_rest else 2 * SPACE), SPACE)
        for group in triplet_groups(line):
            x = (events[group[0]][1] + events[group[-1]][1]) / 2
            self._writer.words(x, self._triplet_y([events[i][0] for i in group], top), "3", faces.MARK, align=0.5)

    def _triplet_y(self, events: Sequence[Event], top: float) -> float:
        """Over all that its notes reach."""
        steps = [head.step for event in events for head in self._heads.get(id(event), [])]
        return min(top - 4.0, self._y(top, max(steps, default=4) + 8) - 1.0)

    def _steps(self, event: Event) -> list[int]:
        return [head.step for head in self._heads[id(event)] if head.note in event.notes]

    def _up(self, steps: Sequence[int], voice: int, several: bool) -> bool:
        if several:
            return voice == 0
        return sum(steps) / len(steps) < 4

    def _event(self, event: Event, x: float, top: float, voice: int, several: bool, beamed: bool) -> None:
        writer = self._writer
        heads = self._heads[id(event)]
        for turn, grace in enumerate(reversed(event.graces), 1):
            head = next(h for h in heads if h.note is grace)
            at = x - 4.0 - GRACE_STEP * turn
            self._draw_head(head, at, top, "noteheadBlack", 0.62)
            writer.line(at + 1.7, self._y(top, head.step), at + 1.7, self._y(top, head.step) - 11, 0.6)
            writer.line(at - 0.5, self._y(top, head.step) - 5, at + 4.5, self._y(top, head.step) - 9, 0.6)
        own = [head for head in heads if head.note in event.notes]
        steps = [head.step for head in own]
        plain = _HEADS.get(event.value.denominator, "noteheadBlack")
        asides = _accidental_columns(own)
        for place, head in enumerate(sorted(own, key=lambda h: h.step)):
            name = "noteheadXBlack" if head.note.muted else plain
            aside = place > 0 and head.step - sorted(steps)[place - 1] == 1
            shift = SIGNS[plain].advance * SPACE if aside else 0.0
            left = shift + _ACCIDENTAL_PT * asides.get(head.step, 0) + _bracket_pt(head.note)
            self._draw_head(head, x + shift, top, name, 1.0, left)
            if head.note.technique("ghost") and not head.note.muted:
                half = SIGNS[name].advance * SPACE / 2
                writer.sign(x - half - 2.0, self._y(top, head.step), "noteheadParenthesisLeft", SPACE)
                writer.sign(x + half + 0.4, self._y(top, head.step), "noteheadParenthesisRight", SPACE)
            for dot in range(event.value.dots):
                level = head.step + (1 if head.step % 2 == 0 else 0)
                at = x + SIGNS[plain].advance * SPACE / 2 + 2.2 + 2.8 * dot
                writer.sign(at, self._y(top, level), "augmentationDot", SPACE)
        if beamed or event.value.denominator == 1:
            return
        up = self._up(steps, voice, several)
        end = self._stem_end(steps, up, top, flags(event))
        stem_x = x + (0.59 if up else -0.59) * SPACE
        writer.line(stem_x, self._y(top, min(steps) if up else max(steps)), stem_x, end, 0.7)
        if count := flags(event):
            writer.sign(stem_x, end, f"flag{('8th', '16th', '32nd')[count - 1]}{'Up' if up else 'Down'}", SPACE)

    def _stem_end(self, steps: Sequence[int], up: bool, top: float, flagged: int = 0) -> float:
        """Where a stem ends: longer where flags hang on it."""
        outer = max(steps) if up else min(steps)
        length = (_STEM_SPACES + (0.5 + 0.4 * flagged if flagged else 0.0)) * SPACE
        end = self._y(top, outer) - (length if up else -length)
        middle = top + 2 * SPACE
        return min(end, middle) if up else max(end, middle)

    def _draw_head(
        self, head: Head, x: float, top: float, name: str, scale: float, accidental_left: float = 0.0
    ) -> None:
        writer, y, space = self._writer, self._y(top, head.step), SPACE * scale
        half = SIGNS[name].advance * space / 2
        for step in [*range(10, head.step + 1, 2), *range(-2, head.step - 1, -2)]:
            level = self._y(top, step)
            writer.line(x - half - 2.0, level, x + half + 2.0, level, 0.6)
        writer.sign(x - half, y, name, space, note=head.note.id)
        if head.accidental is not None:
            left = x - half - SIGNS[head.accidental].advance * space - 1.2 - accidental_left
            writer.sign(left, y, head.accidental, space)

    def _beam(self, members: Sequence[tuple[Event, float]], top: float, voice: int, several: bool) -> None:
        """A level beam past the furthest head, on stems to it."""
        steps = [step for event, _ in members for step in self._steps(event)]
        up = self._up(steps, voice, several)
        ends = [self._stem_end(self._steps(event), up, top) for event, _ in members]
        most = max(flags(event) for event, _ in members)
        level = (min(ends) if up else max(ends)) + (most - 1) * (-2.0 if up else 2.0)
        aside = (0.59 if up else -0.59) * SPACE
        for event, x in members:
            own = self._steps(event)
            self._writer.line(x + aside, self._y(top, min(own) if up else max(own)), x + aside, level, 0.7)
        for beam in range(1, most + 1):
            y = level + (beam - 1) * (3.7 if up else -3.7)
            thick = 2.4 if up else -2.4
            for left, right in beam_stretches([(event, x + aside) for event, x in members], beam):
                self._writer.add(Shape(((left, y), (right, y), (right, y + thick), (left, y + thick))))

    def _ties(self, top: float) -> None:
        """Ties between the parts of a note, from bar to bar and over the system's ends."""
        waiting: dict[int, float] = {}
        for bar in self._placed.bars:
            for voice in range(bar.voices):
                for event, x in bar.events(voice):
                    for head in self._heads[id(event)]:
                        if head.note not in event.notes:
                            continue
                        if event.tied_from:
                            start = waiting.pop(head.note.id, bar.left)
                            self._tie(start, x, head, top)
                        if event.tied_on:
                            waiting[head.note.id] = x
        steps = {head.note.id: head for heads in self._heads.values() for head in heads}
        for note_id, x in waiting.items():
            self._tie(x, self._placed.right, steps[note_id], top)

    def _tie(self, start: float, end: float, head: Head, top: float) -> None:
        under = head.step < 4
        y = self._y(top, head.step) + (3.6 if under else -3.6)
        if end - start > 6:
            self._writer.add(tie(start + 3.0, end - 3.0, y, -4.0 if under else 4.0))


def _accidental_columns(heads: Sequence[Head]) -> dict[int, int]:
    """For each head's step which column its accidental stands in: none over one that is nearer than a sixth."""
    columns: dict[int, int] = {}
    for head in sorted(heads, key=lambda h: -h.step):
        if head.accidental is not None:
            near = {columns[step] for step in columns if abs(step - head.step) < _CLEAR_STEPS}
            columns[head.step] = next(column for column in range(len(heads)) if column not in near)
    return columns


def _bracket_pt(note: Note) -> float:
    """The room of a ghost note's brackets."""
    return 3.4 if note.technique("ghost") and not note.muted else 0.0


def fifths_of(key: Key) -> int:
    """Sharps of a key's signature, or flats below 0; one beyond seven is written by none."""
    return key.fifths if abs(key.fifths) <= 7 else 0


def signature_of(key: Key | None) -> Mapping[str, str]:
    """The accidental that each letter has by the signature."""
    if key is None:
        return {}
    count = fifths_of(key)
    letters = _ORDER[:count] if count > 0 else _ORDER[::-1][: -count or 0]
    return dict.fromkeys(letters, "#" if count > 0 else "b")


def staff_step(pitch: int, name: str) -> int:
    """Steps above the bottom line of a treble clef an octave down, on which E3 (52) stands."""
    alter = {"#": 1, "b": -1, "": 0}[name[1:]]
    octave = (pitch - alter) // 12 - 1
    return 7 * octave + _LETTERS.index(name[0]) - (7 * 3 + 2)


def opening_width(key: Key | None, first: bool, grid: BeatGrid) -> float:
    """What clef and signatures take at the start of a system."""
    width = 3.0 + SIGNS["gClef8vb"].advance * SPACE + 3.0
    if key is not None and (count := abs(fifths_of(key))):
        width += count * (SIGNS["accidentalSharp"].advance * SPACE + 0.6) + 3.0
    if first:
        width += max(map(len, grid.meter.split("/"))) * 1.75 * SPACE + 3.0
    return width


def staff_extents(event: Event) -> tuple[float, float]:
    """How far heads, accidentals, dots and flags reach about an event's place: room is kept for an accidental."""
    if not event.notes:
        return 3.0, 3.5
    left = 3.4 + (_ACCIDENTAL_PT * min(len(event.notes), 3) if not event.tied_from else 0.0)
    left += max(map(_bracket_pt, event.notes))
    right = 3.4 + max(map(_bracket_pt, event.notes)) + (3.4 * event.value.dots) + (5.5 if flags(event) else 0.0)
    if event.graces:
        left = max(left, 4.0 + (GRACE_STEP + 4) * len(event.graces) + 5.0)
    return left, right
