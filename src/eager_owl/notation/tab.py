"""Text tab: six lines (or as many as there are strings), bars, chord names above, technique marks."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from eager_owl.notation.marks import MARKS, fret_text
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.rhythm.values import write_values
from eager_owl.solo.document import Note, Solo
from eager_owl.theory.pitch import pitch_class_name

_WIDTH = 78
_CHARACTERS_A_BEAT = 8
_CHARACTERS_A_SECOND = 14


@dataclass
class _Block:
    """One bar or phrase: its heading and its lines, all of one width."""

    heading: str
    lines: list[str]


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
    used = _used_marks(solo.notes)
    return "\n".join([*head, *body, *(["", "Marks: " + ", ".join(used)] if used else [])]) + "\n"


def _used_marks(notes: Sequence[Note]) -> list[str]:
    written = " ".join(fret_text(note) for note in notes)
    signs = [sign for sign in MARKS if (sign if sign != "()" else "(") in written]
    if "tr" in signs and "r" in signs and "r" not in written.replace("tr", ""):
        signs.remove("r")
    return [f"{sign} {MARKS[sign]}" for sign in signs]


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
    graces = [index for index, note in enumerate(notes) if note.technique("grace")]
    written = write_values([n.onset for n in notes], [n.duration for n in notes], grid, graces)
    per_bar = grid.beats_per_bar
    first = int(written[0].beat // per_bar)
    last = int(written[-1].beat // per_bar)
    blocks = []
    for bar in range(first, last + 1):
        events: list[tuple[float, Note]] = [
            (float((w.beat - bar * per_bar) * _CHARACTERS_A_BEAT), note)
            for w, note in zip(written, notes, strict=True)
            if w.beat // per_bar == Fraction(bar)
        ]
        lines = _lines(events, strings, per_bar * _CHARACTERS_A_BEAT)
        heading = ""
        if bar >= 0:
            for start, _, chord in chart.spans(bar * per_bar, (bar + 1) * per_bar - 1e-6, per_bar):
                column = int((start - bar * per_bar) / per_bar * len(lines[0]))
                if not heading.rstrip().endswith(chord.symbol) or column == 0:
                    heading = heading.ljust(column) + chord.symbol + " "
        label = f"{bar + 1}" if bar >= 0 else "pickup"
        blocks.append(_Block(f"{label} {heading}".rstrip(), lines))
    return blocks


def _free(notes: Sequence[Note], strings: int) -> _Block:
    events = [((note.onset - notes[0].onset) * _CHARACTERS_A_SECOND, note) for note in notes]
    return _Block("", _lines(events, strings, 0))


def _lines(events: Sequence[tuple[float, Note]], strings: int, width: int) -> list[str]:
    """Lines of one width with each note at about its column, pushed on where the one before needs room."""
    lines = ["-"] * strings
    together: tuple[float, int] | None = None
    for at, note in events:
        text = fret_text(note)
        string = (note.string or 1) - 1
        # Notes of one onset share a column; every other note starts a character after all that stands.
        start = max(map(len, lines)) if together is None or at - together[0] > 0.01 else together[1]
        column = max(round(at) + 1, start)
        if together is not None and at - together[0] <= 0.01:
            column = together[1]
        together = (at, column)
        lines[string] = lines[string].ljust(column, "-") + text + "-"
    longest = max(width, *map(len, lines))
    return [line.ljust(longest, "-") for line in lines]
