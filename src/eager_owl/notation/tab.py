"""Text tab: six lines (or as many as there are strings), bars, chord names above, technique marks."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from eager_owl.neck.picking import find_sweeps
from eager_owl.notation.grouping import without_long_rests
from eager_owl.notation.marks import fret_text, over_text, used_signs
from eager_owl.notation.score import Event, Measure, write_score
from eager_owl.reasons.explain import Reason
from eager_owl.reasons.tell import interval_text
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.rhythm.values import Value
from eager_owl.solo.document import PLUCKED, Note, Remark, Solo, Stroke, struck_together
from eager_owl.theory.pitch import pitch_class_name

_CHARACTERS_A_BEAT = 8
_CHARACTERS_A_SECOND = 14
_MARGIN = 4  # of a system: the string's name and its bar lines
_LETTERS = {1: "w", 2: "h", 4: "q", 8: "e", 16: "s", 32: "t"}
_STROKES = {"down": "d", "up": "u", **PLUCKED}
_SWEPT = ">"  # a stroke that the pick goes on to in one move


@dataclass(frozen=True)
class TabRows:
    """What a text tab shows beside the strings: values over them, strokes and fingers, intervals and remarks under.

    A system is no wider than `width` characters, unless a single bar is.
    """

    rhythm: bool = False
    hands: bool = False
    reasons: bool = False
    width: int = 78


@dataclass(frozen=True)
class _Told:
    """The solo, and what is told of its notes."""

    solo: Solo
    rows: TabRows
    reasons: Mapping[int, Reason]
    strokes: Mapping[int, Stroke | None]
    swept: frozenset[int]
    chart: Chart

    def under(self, notes: Sequence[Note]) -> list[str]:
        """What stands under a stroke, a word a row."""
        words = []
        if self.rows.hands:
            stroke = next((_STROKES[s] for note in notes if (s := self.strokes.get(note.id))), "")
            words.append(_SWEPT if any(note.id in self.swept for note in notes) else stroke)
            words.append("".join(str(note.finger) for note in notes if note.finger))
        if self.rows.reasons:
            told = [self.reasons[note.id] for note in notes if note.id in self.reasons]
            words.append("/".join(interval_text(reason).replace("♭", "b").replace("♯", "#") for reason in told))
        return words


@dataclass
class _Block:
    """One bar or phrase: its heading, what stands over the strings, their lines, what stands under; of one width."""

    heading: str
    over: list[str]
    lines: list[str]
    under: list[str]


@dataclass(frozen=True)
class _Struck:
    """Notes at a column, and the event they are of, where it is not a grace or free of bars."""

    column: int
    notes: tuple[Note, ...]
    event: Event | None


def text_tab(
    solo: Solo,
    rows: TabRows = TabRows(),
    reasons: Mapping[int, Reason] = MappingProxyType({}),
    strokes: Mapping[int, Stroke | None] = MappingProxyType({}),
) -> str:
    """The whole solo as text tab, phrase by phrase; barred where there is a beat grid.

    `reasons` and `strokes` by note id are for the rows that show them.
    """
    tuning = " ".join(pitch_class_name(pitch) for pitch in reversed(solo.instrument.tuning))
    head = [solo.title, "=" * len(solo.title)]
    facts = [solo.key.name if solo.key else "", f"tuning {tuning}"]
    if solo.instrument.capo:
        facts.append(f"capo {solo.instrument.capo}")
    if solo.grid:
        facts.append(f"{solo.grid.bpm:g} beats a minute, {solo.grid.beats_per_bar} to the bar")
    head.append(" · ".join(fact for fact in facts if fact))
    sweeps = find_sweeps(solo.notes, [strokes.get(note.id) for note in solo.notes])
    swept = frozenset(solo.notes[i].id for run in sweeps for i in run[1:])
    told = _Told(solo, rows, reasons, strokes, swept, solo.chart)
    body: list[str] = []
    inside: set[int] = set()
    for number, phrase in enumerate(solo.phrases, 1):
        notes = solo.notes_in(phrase)
        inside |= {note.id for note in notes}
        if notes:
            body += ["", f"{number} {phrase.name}", *_remarks(phrase.remarks), *_systems(notes, told)]
    loose = [note for note in solo.notes if note.id not in inside]
    if loose:
        body += ["", *_systems(loose, told)]
    used = used_signs(solo.notes)
    marks = ["", "Marks: " + ", ".join(used)] if used else []
    remarks = [line for note in solo.notes for line in _remarks(note.remarks, _place_words(solo, note))]
    if rows.reasons and remarks:
        marks += ["", *remarks]
    return "\n".join([*head, *_remarks(solo.remarks), *body, *marks]) + "\n"


def _remarks(remarks: Sequence[Remark], where: str = "") -> list[str]:
    return [f"  {where}{remark.text}{' (?)' if remark.question else ''}" for remark in remarks]


def _place_words(solo: Solo, note: Note) -> str:
    if solo.grid is None:
        return f"{note.onset:.1f} s: "
    bar, beat = solo.grid.bar_and_beat(note.onset)
    return f"bar {bar}, beat {beat:.1f}: "


def _systems(notes: Sequence[Note], told: _Told) -> list[str]:
    solo = told.solo
    strings = len(solo.instrument.tuning)
    blocks = _bars(notes, solo.grid, told) if solo.grid else [_free(notes, told)]
    names = [pitch_class_name(pitch) for pitch in solo.instrument.tuning]
    if len(names) > 1 and names[0] == names[-1]:
        names[0] = names[0].lower()
    margin = max(map(len, names))
    lines: list[str] = []
    row: list[_Block] = []

    def flush() -> None:
        if not row:
            return
        heading = "".join(block.heading.ljust(len(block.lines[0]) + 1) for block in row).rstrip()
        if lines:
            lines.append("")
        if heading:
            lines.append(" " * (margin + 1) + heading)
        for place in range(len(row[0].over)):
            if over := " ".join(block.over[place] for block in row).rstrip():
                lines.append(" " * (margin + 1) + over)
        for string in range(strings):
            lines.append(names[string].ljust(margin) + "|" + "|".join(block.lines[string] for block in row) + "|")
        for place in range(len(row[0].under)):
            if under := " ".join(block.under[place] for block in row).rstrip():
                lines.append(" " * (margin + 1) + under)
        row.clear()

    for block in blocks:
        if row and margin + 1 + sum(len(b.lines[0]) + 1 for b in (*row, block)) > told.rows.width:
            flush()
        row.append(block)
    flush()
    return lines


def _bars(notes: Sequence[Note], grid: BeatGrid, told: _Told) -> list[_Block]:
    blocks = []
    for measure, _ in without_long_rests(write_score(notes, grid).measures):
        events = sorted((event for voice in measure.voices for event in voice), key=lambda event: event.beat)
        # A dense bar is wider, so that its columns still say when it is played.
        for scale in (1, 2, 3, 4):
            struck: list[_Struck] = []
            for event in events:
                column = round(float(event.beat - measure.start) * _CHARACTERS_A_BEAT * scale) + 1
                struck += [_Struck(column, (grace,), None) for grace in event.graces]
                if event.notes and not event.tied_from:
                    struck.append(_Struck(column, event.notes, event))
            width = grid.beats_per_bar * _CHARACTERS_A_BEAT * scale
            block, pushed = _lines(struck, told, width)
            wider = grid.beats_per_bar * _CHARACTERS_A_BEAT * (scale + 1)
            if not pushed or wider + _MARGIN > told.rows.width:
                break
        label = str(measure.number) if measure.number >= 1 else "pickup"
        names = _chord_names(measure, told.chart, grid.beats_per_bar, len(block.lines[0]))
        block.heading = f"{label} {names}".rstrip()
        blocks.append(block)
    return blocks


def _chord_names(measure: Measure, chart: Chart, per_bar: int, width: int) -> str:
    """The bar's chords, each about over its beat."""
    if measure.number < 1:
        return ""
    names = ""
    for start, _, chord in chart.spans(measure.start, measure.start + per_bar - 1e-6, per_bar):
        column = int((start - measure.start) / per_bar * width)
        if column == 0 or not names.rstrip().endswith(chord.symbol):
            names = names.ljust(column) + chord.symbol + " "
    return names


def _free(notes: Sequence[Note], told: _Told) -> _Block:
    struck = []
    for stroke in struck_together(notes):
        members = tuple(notes[i] for i in stroke)
        column = round((members[0].onset - notes[0].onset) * _CHARACTERS_A_SECOND) + 1
        struck.append(_Struck(column, members, None))
    return _lines(struck, told, 0)[0]


def _lines(struck: Sequence[_Struck], told: _Told, width: int) -> tuple[_Block, bool]:
    """The strings' lines with what stands over and under them, all of one width; and whether any stroke was pushed.

    Each stroke is at about its column, pushed on where the one before needs the room.
    """
    strings = len(told.solo.instrument.tuning)
    lines = ["-"] * strings
    over = [""] * (2 if told.rows.rhythm else 1)
    under = [""] * (2 * told.rows.hands + told.rows.reasons)
    pushed = False
    for stroke in struck:
        sides = [*lines, *under, *over[1:]]
        column = max(stroke.column, *map(len, sides))
        graced = stroke.event is None
        pushed |= column > stroke.column and not graced
        for note in stroke.notes:
            string = (note.string or 1) - 1
            lines[string] = lines[string].ljust(column, "-") + fret_text(note) + "-"
        words = " ".join(dict.fromkeys(over_text(note) for note in stroke.notes if over_text(note)))
        if words and (len(over[0]) < column or not over[0].rstrip().endswith(words)):
            over[0] = over[0].ljust(column) + words + " "
        if told.rows.rhythm and stroke.event is not None:
            over[1] = over[1].ljust(column) + value_text(stroke.event.value) + " "
        for place, words in enumerate(told.under(stroke.notes)):
            if words:
                under[place] = under[place].ljust(column) + words + " "
    longest = max(width, *map(len, (*lines, *over, *under)))
    lines = [line.ljust(longest, "-") for line in lines]
    return _Block("", [row.ljust(longest) for row in over], lines, [row.ljust(longest) for row in under]), pushed


def value_text(value: Value) -> str:
    """A written value in letters: w, h, q, e, s, t for whole to thirty-second, dots after it, 3 for a triplet."""
    return _LETTERS[value.denominator] + "." * value.dots + ("3" if value.triplet else "")
