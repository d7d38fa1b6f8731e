"""Systems: a line of bars with all its rows, as one block each."""

from collections.abc import Sequence
from functools import partial

from eager_owl.notation.grouping import trimmed, without_long_rests
from eager_owl.notation.loudness import loudness_marks
from eager_owl.notation.score import Event, Measure
from eager_owl.notation.sheet import faces, rows
from eager_owl.notation.sheet.block import Block, Writer, wrap
from eager_owl.notation.sheet.ink import Frame, Widths
from eager_owl.notation.sheet.memory import Memory, Numbering
from eager_owl.notation.sheet.passage import Matter, Passage
from eager_owl.notation.sheet.placed import Placed, PlacedBar, place_notes
from eager_owl.notation.sheet.presets import Preset
from eager_owl.notation.sheet.rhythm_row import HEIGHT_PT, RhythmRow
from eager_owl.notation.sheet.spacing import SpacedBar, break_lines, fill, places, space_bar
from eager_owl.notation.sheet.standard_staff import HEIGHT as STAFF_PT
from eager_owl.notation.sheet.standard_staff import StandardStaff, opening_width, staff_extents
from eager_owl.notation.sheet.tab_staff import LANE_PT, Over, TabStaff, lay_over, tab_extents
from eager_owl.reasons.tell import interval_text
from eager_owl.solo.document import Note
from eager_owl.theory.harmony import function_of
from eager_owl.theory.pitch import pretty

_STAVES_PT = 7.0  # between the two staves, beside what stands between them
_CHORD_ROW, _OVER_PT, _AFTER_STAFF, _BETWEEN = 17.0, 8.5, 7.0, 5.0
_TUPLET_ROW = 6.0
_TIME_PT = 10.0


class PassageLayout:
    """Lays one passage out at a width: blocks from top to bottom, a heading where it has one."""

    def __init__(
        self, matter: Matter, passage: Passage, preset: Preset, widths: Widths, width: float, memory: "Memory"
    ) -> None:
        self._matter, self._passage, self._preset = matter, passage, preset
        self._widths, self._width, self._memory = widths, width, memory
        self._quarters = 1.5 if passage.score.grid.division == 3 else 1.0
        self._loud = loudness_marks(passage.notes, matter.loudest_db) if preset.dynamics else ([], [])
        self._marks: dict[int, str] = {}
        self._rests: dict[int, int] = {}  # bars that stand for several
        self._notes_told: dict[int, list[tuple[str, str]]] = {}

    def blocks(self, numbering: Numbering, opening: bool) -> list[Block]:
        """The passage's blocks; `opening` says that it is the first of the sheet."""
        blocks = [self._heading(numbering)] if self._preset.by_phrase else []
        self._number(numbering)
        counted = without_long_rests(self._passage.score.measures)
        self._rests = {measure.number: bars for measure, bars in counted if bars > 1}
        measures = [trimmed(measure) for measure, _ in counted]
        bars = [self._memory.get(self._bar_key(m), lambda m=m: self._space(m), self._passage) for m in measures]  # type: ignore[misc]

        def room(index: int) -> float:
            return self._width - self._lead(index == 0 and opening)

        lines = break_lines(bars, room)
        for index, line in enumerate(lines):
            first, last = index == 0 and opening, index + 1 == len(lines)
            key = ("system", first, last, tuple(map(id, line)), self._loud_in(line))
            system = partial(self._system, line, first, last)
            blocks.append(self._memory.get(key, system, (line, self._passage)))
        if blocks:
            blocks[-1].turns = True
        return [block for block in blocks if block.height]

    def _bar_key(self, measure: Measure) -> tuple[object, ...]:
        """What a bar's look hangs on, beside what is the same for the whole sheet."""
        events = tuple(
            (
                e.beat.numerator,
                e.beat.denominator,
                e.length,
                e.tied_from,
                e.tied_on,
                *map(self._note_key, (*e.graces, *e.notes)),
            )
            for voice in measure.voices
            for e in voice
        )
        return (
            "bar",
            self._rests.get(measure.number),
            self._matter.chart,
            self._preset.name,
            self._width,
            measure.number,
            events,
        )

    def _note_key(self, note: Note) -> tuple[object, ...]:
        names, strokes = self._passage.names, self._passage.strokes
        return (
            id(note),
            strokes.get(note.id),
            names.get(note.id),
            self._marks.get(note.id),
            id(self._passage.reasons.get(note.id)),
        )

    def _loud_in(self, bars: Sequence[SpacedBar]) -> tuple[object, ...]:
        """The marks of loudness that begin in these bars."""
        inside = {n.id for bar in bars for column in bar.columns for _, event in column.events for n in event.notes}
        marks, pins = self._loud
        return tuple(m for m in marks if m[0] in inside), tuple(p for p in pins if p[0] in inside or p[1] in inside)

    def _lead(self, first: bool) -> float:
        """What stands before the first bar of a system."""
        if not self._preset.staff:
            return _TIME_PT if first else 0.0
        return opening_width(self._matter.key, first, self._passage.score.grid)

    def _number(self, numbering: Numbering) -> None:
        """Marks at notes: a number for each remark, a question mark for a doubt."""
        for note in self._passage.notes:
            marks = []
            if self._preset.remarks:
                for remark in note.remarks:
                    mark = "?" if remark.question else numbering.next()
                    words = f"{self._place_words(note)}: {remark.text}" if remark.question else remark.text
                    marks.append(mark)
                    self._notes_told.setdefault(note.id, []).append((mark, words))
            if self._preset.doubts and note.id in self._passage.doubts and "?" not in marks:
                marks.append("?")
            if marks:
                self._marks[note.id] = " ".join(marks)

    def _place_words(self, note: Note) -> str:
        bar, beat = self._passage.score.grid.bar_and_beat(note.onset + 0.02)
        return f"Bar {bar}, beat {int(beat)}"

    def _marked(self, note: Note) -> str:
        return self._marks.get(note.id, "")

    # Heading

    def _heading(self, numbering: Numbering) -> Block:
        passage, block = self._passage, Block(keeps=True)
        writer = Writer(block, self._widths)
        y = 17.0
        x = 0.0
        if passage.number is not None:
            x = writer.words(0, y, str(passage.number), faces.PHRASE).width + 7.0
        if passage.name:
            x += writer.words(x, y, passage.name, faces.PHRASE).width + 10.0
        sentences = list(passage.sentences) if self._preset.sentences else []
        if self._preset.remarks:
            for remark in passage.remarks:
                mark = "?" if remark.question else numbering.next()
                x += writer.words(x - 8.0, y - 4, mark, faces.RAISED, "here").width + 3.0
                words = f"{passage.name}: {remark.text}" if remark.question and passage.name else remark.text
                block.footnotes.append((mark, words))
        if sentences:
            for line in wrap(" ".join(sentences), faces.SENTENCE, self._width - x, self._widths):
                writer.words(x, y, line, faces.SENTENCE, "quiet")
                y += 12.6
            y -= 12.6
        block.height = y + 6.0 if passage.name or passage.number is not None or sentences else 0.0
        return block

    # Spacing

    def _space(self, measure: Measure) -> SpacedBar:
        opening = measure.number < 1
        return space_bar(measure, self._quarters, self._extents, self._chords_width(measure), opening)

    def _extents(self, events: Sequence[tuple[int, Event]]) -> tuple[float, float]:
        """The furthest that anything in a column reaches."""
        left, right = 4.0, 4.0
        for _, event in events:
            sides = [tab_extents(event, self._widths, self._marked), self._fact_extents(event)]
            if self._preset.staff:
                sides.append(staff_extents(event))
            elif not event.notes:
                sides.append((3.5, 5.0 + 2.6 * event.value.dots))
            else:
                sides.append((3.0, 4.0 + 3.0 * event.value.dots + (2.5 if event.value.denominator >= 8 else 0)))
            left = max([left, *(side[0] for side in sides)])
            right = max([right, *(side[1] for side in sides)])
        return left, right

    def _fact_extents(self, event: Event) -> tuple[float, float]:
        """Half of what the rows under a note take."""
        widest = 0.0
        if not event.tied_from:
            for note in event.notes:
                stroke = 6.0 if self._preset.strokes and self._passage.strokes.get(note.id) else 0.0
                finger = 7.0 if self._preset.fingers and note.finger else 0.0
                widest = max(widest, stroke + finger)
                reason = self._passage.reasons.get(note.id)
                if self._preset.intervals and reason is not None:
                    width = self._widths(interval_text(reason), faces.INTERVAL) + 4.0
                    width += 5.2 if note.id in self._passage.targets else 0.0
                    width += 6.0 if reason.standing == "outside" else 0.0
                    widest = max(widest, width)
            if len(event.notes) > 1 and self._preset.fingers:
                widest = max(widest, 8.0 + 5.0 * len(event.notes))
        return widest / 2, widest / 2

    def _chord_words(self, measure: Measure) -> list[tuple[float, str, str]]:
        """Beat, symbol and function of each chord of a bar."""
        per_bar = self._passage.score.grid.beats_per_bar
        if measure.number < 1 or not self._matter.chart.bars:
            return []
        found = []
        for span in self._matter.chart.changes(measure.start, measure.start + per_bar - 1e-6, per_bar):
            symbol = pretty(span.chord.symbol) if span.chord else "N.C."
            numeral = ""
            if span.chord and self._preset.functions and self._matter.key is not None:
                numeral = pretty(function_of(span.chord, self._matter.key).numeral)
            found.append((span.start, symbol, numeral))
        return found

    def _chords_width(self, measure: Measure) -> float:
        width = 16.0
        for _, symbol, numeral in self._chord_words(measure):
            width += self._widths(symbol, faces.CHORD) + 10.0
            width += self._widths(numeral, faces.NUMERAL) + 4.0 if numeral else 0.0
        return width

    # One system

    def _system(self, bars: Sequence[SpacedBar], first: bool, last: bool) -> Block:
        lead = self._lead(first)
        stretch = fill(bars, self._width - lead, last)
        block = Block(turns=bars[-1].ends_in_rest)
        writer = Writer(block, self._widths)
        placed_bars = [
            PlacedBar(bar, left, right, beats)
            for bar, (left, beats, right) in zip(bars, places(bars, stretch, lead), strict=True)
        ]
        placed = Placed(placed_bars, 0.0, placed_bars[-1].right)
        place_notes(placed)
        for note_id in placed.notes:
            block.footnotes += self._notes_told.get(note_id, [])
        y = 4.0
        if self._has_top_row(placed):
            self._chord_row(writer, placed, y + 11.0)
            y += _CHORD_ROW
        else:
            self._bar_numbers(writer, placed, y + 8.0)
            y += 10.0
        grid = self._passage.score.grid
        if self._preset.staff:
            staff = StandardStaff(writer, placed, self._matter.key, self._matter.chart, grid)
            above, below = staff.reach
            y += above
            staff.draw(y, 0.0, first)
            y += STAFF_PT + below
        tab = TabStaff(writer, placed, len(self._matter.instrument.tuning), self._marked)
        laid, over_height = lay_over([*tab.over(0.0), *self._names_over(placed, writer)])
        top = y + over_height + (_OVER_PT + 1.0 if over_height else 4.0) + (_STAVES_PT if self._preset.staff else 0.0)
        # Arrows start at their strings, whose place is known only now.
        laid = [
            (over, lane)
            for over, (_, lane) in zip([*tab.over(top), *self._names_over(placed, writer)], laid, strict=True)
        ]
        tab.draw(top)
        for over, lane in laid:
            over.draw(top - _OVER_PT - lane * LANE_PT)
        if first and not self._preset.staff:
            self._meter(writer, top, tab.height)
        y = top + tab.height + _AFTER_STAFF
        y = self._rows(writer, placed, y, top + tab.height / 2)
        block.height = y + _BETWEEN
        return block

    def _has_top_row(self, placed: Placed) -> bool:
        return bool(self._matter.chart.bars) and any(bar.number >= 1 for bar in placed.bars)

    def _meter(self, writer: Writer, top: float, height: float) -> None:
        number, unit = self._passage.score.grid.meter.split("/")
        middle = top + height / 2
        for digits, y in ((number, middle - 7.0), (unit, middle + 7.0)):
            for place, digit in enumerate(digits):
                writer.add(Frame((1.0 + 12 * place, y - 7, 13.0 + 12 * place, y + 7), "paper", filled=True, round=0))
                writer.sign(1.5 + 12.0 * place - (0 if len(digits) == 1 else 3), y, f"timeSig{digit}", 6.6)

    def _bar_numbers(self, writer: Writer, placed: Placed, y: float) -> None:
        for bar in placed.bars:
            if bar.number >= 1 and self._begins(bar):
                writer.words(bar.left + 2.0, y, str(bar.number), faces.BAR_NUMBER, "quiet")

    def _begins(self, bar: PlacedBar) -> bool:
        """Whether the bar, not only a later piece of it, begins here."""
        return bool(bar.beats) and min(bar.beats) == min(
            (event.beat for voice in bar.spaced.measure.voices for event in voice), default=None
        )

    def _chord_row(self, writer: Writer, placed: Placed, y: float) -> None:
        """Bar numbers, section letters, and chords over their beats, none on another."""
        sections = dict(self._matter.chart.sections)
        form = len(self._matter.chart.bars)
        for bar in placed.bars:
            right = bar.left + 2.0
            if bar.number >= 1 and self._begins(bar):
                if (section := sections.get((bar.number - 1) % form)) is not None:
                    words = writer.words(right + 3.0, y, section, faces.SMALL, "here")
                    writer.frame(words, "here")
                    right = words.x + words.width + 5.0
                number = writer.words(right, y, str(bar.number), faces.BAR_NUMBER, "quiet")
                right = number.x + number.width + 5.0
            for beat, symbol, numeral in self._chord_words(bar.spaced.measure):
                if not self._within(bar, beat):
                    continue
                at = placed.x_at(beat) - 4.0 if beat != bar.spaced.measure.start else right
                words = writer.words(max(at, right), y, symbol, faces.CHORD)
                right = words.x + words.width + 4.0
                if numeral:
                    function = writer.words(right, y, numeral, faces.NUMERAL, "quiet")
                    right = function.x + function.width + 6.0

    def _within(self, bar: PlacedBar, beat: float) -> bool:
        """Whether a beat lies in this piece of a bar."""
        if not bar.beats:
            return True
        first, measure = float(min(bar.beats)), bar.spaced.measure
        if self._begins(bar):
            first = float(measure.start)
        last = max(event.end for column in bar.spaced.columns for _, event in column.events)
        return first <= beat < float(last)

    def _names_over(self, placed: Placed, writer: Writer) -> list[Over]:
        """How many bars a long rest is; names of the phrases that begin here, where the bars run on."""
        found = []
        for bar in placed.bars:
            if (bars := self._rests.get(bar.number)) is not None:
                middle, words = (bar.left + bar.right) / 2, f"{bars} bars"
                half = self._widths(words, faces.SMALL) / 2

                def count(foot: float, middle: float = middle, words: str = words) -> None:
                    writer.words(middle, foot - 2.0, words, faces.SMALL, align=0.5)

                found.append(Over(middle - half, middle + half, 1, count))
        for note_id, name in self._passage.names.items():
            standing = placed.notes.get(note_id)
            if standing is None:
                continue
            width = self._widths(name, faces.SMALL)
            left = max(0.0, min(standing.x - 4.0, placed.right - width))

            def draw(foot: float, left: float = left, name: str = name) -> None:
                writer.words(left, foot - 2.0, name, faces.SMALL, "here")

            found.append(Over(left, left + width, 1, draw))
        return found

    def _rows(self, writer: Writer, placed: Placed, y: float, staff_middle: float) -> float:
        """The rows under the tab; answers where they end."""
        preset, passage = self._preset, self._passage
        voices = max(bar.voices for bar in placed.bars)
        if not preset.staff:
            for voice in range(voices):
                row = RhythmRow(writer, placed, voice, "quiet" if voice else "ink")
                row.draw(y, staff_middle if voice == 0 else None)
                y += HEIGHT_PT - 4.0
                if any(event.value.triplet for bar in placed.bars for event, _ in bar.events(voice)):
                    y += _TUPLET_ROW
        if preset.counting:
            rows.draw_counts(writer, placed, passage, y + 7.0, passage.score.grid.division)
            y += rows.COUNT_ROW
        if (preset.strokes and any(passage.strokes.values())) or preset.fingers:
            rows.draw_strokes(writer, placed, passage, y + 10.0, preset.strokes, preset.fingers)
            y += rows.STROKE_ROW
        if preset.dynamics:
            marks, pins = self._loud
            here = set(placed.notes)
            if any(id_ in here for id_, _ in marks) or any(a in here and b in here for a, b, _ in pins):
                rows.draw_loudness(writer, placed, marks, pins, y + 9.0)
                y += rows.LOUD_ROW
        if preset.intervals and passage.reasons:
            rows.draw_intervals(writer, placed, passage, y + 13.0)
            y += rows.INTERVAL_ROW
            found, lanes = rows.source_lanes(writer, placed, passage)
            rows.draw_sources(writer, found, y + 8.0)
            y += lanes * rows.SOURCE_ROW
        return y
