"""Text tab: six lines (or as many as there are strings), bars, chord names above, technique marks."""

from collections.abc import Sequence
from dataclasses import dataclass

from eager_owl.notation.marks import fret_text, over_text, used_signs
from eager_owl.notation.score import Measure, write_score
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note, Solo, struck_together
from eager_owl.theory.pitch import pitch_class_name

_WIDTH = 78
_CHARACTERS_A_BEAT = 8
_CHARACTERS_A_SECOND = 14


@dataclass
class _Block:
    """One bar or phrase: its heading, what stands over the strings, and its lines, all of one width."""

    heading: str
    over: str
    lines: list[str]


@dataclass(frozen=True)
class _Struck:
    """Notes at a column."""

    column: int
    notes: tuple[Note, ...]


def text_tab(solo: Solo) -> str:
    """The whole solo as text tab, phrase by phrase; barred where there is a beat grid."""
    tuning = " ".join(pitch_class_name(pitch) for pitch in reversed(solo.instrument.tuning))
    head = [solo.title, "=" * len(solo.title)]
    facts = [solo.key.name if solo.key else "", f"tuning {tuning}"]
    if solo.instrument.capo:
        facts.append(f"capo {solo.instrument.capo}")
    if solo.grid:
        facts.append(f"{solo.grid.bpm:g} beats a minute, {solo.grid.beats_per_bar} to the bar")
    head.append(" · ".join(fact for fact in facts if fact))
    body: list[str] = []
    inside: set[int] = set()
    for number, phrase in enumerate(solo.phrases, 1):
        notes = solo.notes_in(phrase)
        inside |= {note.id for note in notes}
        if notes:
            body += ["", f"{number} {phrase.name}", *_systems(notes, solo)]
    loose = [note for note in solo.notes if note.id not in inside]
    if loose:
        body += ["", *_systems(loose, solo)]
    used = used_signs(solo.notes)
    return "\n".join([*head, *body, *(["", "Marks: " + ", ".join(used)] if used else [])]) + "\n"


def _systems(notes: Sequence[Note], solo: Solo) -> list[str]:
    strings = len(solo.instrument.tuning)
    blocks = _bars(notes, solo.grid, solo.chart, strings) if solo.grid else [_free(notes, strings)]
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
        if over := " ".join(block.over for block in row).rstrip():
            lines.append(" " * (margin + 1) + over)
        for string in range(strings):
            lines.append(names[string].ljust(margin) + "|" + "|".join(block.lines[string] for block in row) + "|")
        row.clear()

    for block in blocks:
        if row and margin + 1 + sum(len(b.lines[0]) + 1 for b in (*row, block)) > _WIDTH:
            flush()
        row.append(block)
    flush()
    return lines


def _bars(notes: Sequence[Note], grid: BeatGrid, chart: Chart, strings: int) -> list[_Block]:
    blocks = []
    for measure in write_score(notes, grid).measures:
        events = sorted((event for voice in measure.voices for event in voice), key=lambda event: event.beat)
        struck: list[_Struck] = []
        for event in events:
            column = round(float(event.beat - measure.start) * _CHARACTERS_A_BEAT) + 1
            struck += [_Struck(column, (grace,)) for grace in event.graces]
            if event.notes and not event.tied_from:
                struck.append(_Struck(column, event.notes))
        over, lines = _lines(struck, strings, grid.beats_per_bar * _CHARACTERS_A_BEAT)
        label = str(measure.number) if measure.number >= 1 else "pickup"
        heading = f"{label} {_chord_names(measure, chart, grid.beats_per_bar, len(lines[0]))}".rstrip()
        blocks.append(_Block(heading, over, lines))
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


def _free(notes: Sequence[Note], strings: int) -> _Block:
    struck = []
    for stroke in struck_together(notes):
        members = tuple(notes[i] for i in stroke)
        struck.append(_Struck(round((members[0].onset - notes[0].onset) * _CHARACTERS_A_SECOND) + 1, members))
    return _Block("", *_lines(struck, strings, 0))


def _lines(struck: Sequence[_Struck], strings: int, width: int) -> tuple[str, list[str]]:
    """What stands over the strings, and their lines, all of one width.

    Each stroke is at about its column, pushed on where the one before needs the room.
    """
    over, lines = "", ["-"] * strings
    for stroke in struck:
        column = max(stroke.column, *map(len, lines))
        for note in stroke.notes:
            string = (note.string or 1) - 1
            lines[string] = lines[string].ljust(column, "-") + fret_text(note) + "-"
        words = " ".join(dict.fromkeys(over_text(note) for note in stroke.notes if over_text(note)))
        if words and (len(over) < column or not over.rstrip().endswith(words)):
            over = over.ljust(column) + words + " "
    longest = max(width, len(over), *map(len, lines))
    return over.ljust(longest), [line.ljust(longest, "-") for line in lines]
