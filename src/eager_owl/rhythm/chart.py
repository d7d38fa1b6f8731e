"""Chart text: bars between "|", chords sharing a bar evenly, sections, repeats, stop-time.

In a bar: chord symbols, "/" to hold the chord before for one share more, "%" alone to repeat the bar before, "N.C."
for no chord, "stop" where the band strikes the chord and rests. "|:" to ":|" is played twice, or as often as an "x3"
after it says; a line with an "x4" after its closing bar is repeated. Words before a line's first "|" name a section.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from eager_owl.theory.chord import Chord, parse_chord, transpose_chord
from eager_owl.theory.pitch import FLAT_NAMES, Names

_TIMES = re.compile(r"\s*[x×](\d{1,2})\s*", re.IGNORECASE)
BARS_A_LINE = 4
MOST_BARS, MOST_CHORDS_A_BAR = 2000, 64
_BAR_LINE = re.compile(r":?\|+:?")


class ChartError(ValueError):
    """A chart that can't be read; `bar` counts from 1."""

    def __init__(self, bar: int, reason: str) -> None:
        super().__init__(f"bar {bar} of the chart: {reason}")
        self.bar = bar


@dataclass(frozen=True)
class ChordSpan:
    """A chord, or None for no chord, from one beat to another, counted from the first beat of bar 1."""

    start: float
    end: float
    chord: Chord | None


@dataclass(frozen=True)
class Chart:
    """Bars of chords; None stands for no chord. Every bar holds at least one entry.

    `sections` are (bar index, name); `stops` the indices of bars in stop-time.
    """

    bars: tuple[tuple[Chord | None, ...], ...] = ()
    sections: tuple[tuple[int, str], ...] = ()
    stops: frozenset[int] = frozenset()

    def chord_at(self, beat: float, beats_per_bar: int) -> Chord | None:
        """The chord at a beat from the first one. The form repeats after its last bar; a pickup has none."""
        if beat < 0 or not self.bars:
            return None
        bar, within = divmod(beat, beats_per_bar)
        chords = self.bars[int(bar) % len(self.bars)]
        return chords[min(int(within * len(chords) / beats_per_bar), len(chords) - 1)]

    def spans(self, first_beat: float, last_beat: float, beats_per_bar: int) -> list[tuple[float, float, Chord]]:
        """(start beat, end beat, chord) between two beats, bar by bar, equal neighbours within a bar joined."""
        spans: list[tuple[float, float, Chord]] = []
        if not self.bars:
            return spans
        for bar in range(max(0, int(first_beat // beats_per_bar)), int(last_beat // beats_per_bar) + 1):
            chords = self.bars[bar % len(self.bars)]
            for index, chord in enumerate(chords):
                start = (bar + index / len(chords)) * beats_per_bar
                end = (bar + (index + 1) / len(chords)) * beats_per_bar
                if chord is None:
                    continue
                if index and spans and spans[-1][2] == chord and spans[-1][1] == start:
                    spans[-1] = (spans[-1][0], end, chord)
                elif end > first_beat and start < last_beat:
                    spans.append((start, end, chord))
        return spans

    def changes(self, first_beat: float, last_beat: float, beats_per_bar: int) -> list[ChordSpan]:
        """The chords from the bar of one beat through the bar of another, each as long as it lasts, without gaps."""
        found: list[ChordSpan] = []
        if not self.bars:
            return found
        for bar in range(int(first_beat // beats_per_bar), int(last_beat // beats_per_bar) + 1):
            chords = self.bars[bar % len(self.bars)] if bar >= 0 else (None,)
            for index, chord in enumerate(chords):
                end = (bar + (index + 1) / len(chords)) * beats_per_bar
                if found and found[-1].chord == chord:
                    found[-1] = ChordSpan(found[-1].start, end, chord)
                else:
                    found.append(ChordSpan((bar + index / len(chords)) * beats_per_bar, end, chord))
        return found

    def section_of(self, bar: int) -> str:
        """The name of the section that a bar of the form (index from 0) lies in; empty where there is none."""
        names = [name for start, name in self.sections if start <= bar]
        return names[-1] if names else ""

    @property
    def chords(self) -> list[Chord]:
        """The chords of the form, each once, in the order they first come."""
        return list(dict.fromkeys(chord for bar in self.bars for chord in bar if chord is not None))


def parse_chart(text: str) -> Chart:
    """Read chart text; a line without "|" is a remark.

    Raises ChartError naming the bar and what can't be read there.
    """
    bars: list[tuple[Chord | None, ...]] = []
    sections: list[tuple[int, str]] = []
    stops: set[int] = set()
    opened: int | None = None
    for line in text.splitlines():
        if "|" not in line:
            continue
        lines = list(_BAR_LINE.finditer(line))
        if name := line[: lines[0].start()].strip():
            if sections and sections[-1][0] == len(bars):
                sections.pop()  # it had no bars
            sections.append((len(bars), name))
        first = len(bars)
        for at, bar_line in enumerate(lines):
            cell = line[bar_line.end() : lines[at + 1].start() if at + 1 < len(lines) else len(line)]
            last = at + 1 == len(lines)
            times = _TIMES.match(cell)
            if bar_line[0].startswith(":"):
                start = first if opened is None else opened
                _repeat(bars, stops, start, int(times[1]) if times else 2)
                opened = None
            elif times and last:
                _repeat(bars, stops, first, int(times[1]))
            if times:
                cell = cell[times.end() :]
            if bar_line[0].endswith(":") and len(bar_line[0]) > 1:
                opened = len(bars)
            if last and not cell.strip():
                continue  # the line is closed
            chords, stopped = _parse_bar(cell, bars)
            if stopped:
                stops.add(len(bars))
            bars.append(chords)
    if opened is not None:
        raise ChartError(opened + 1, "its repeat is opened by |: and never closed by :|")
    if sections and sections[-1][0] == len(bars):
        sections.pop()
    if text.strip() and not bars:
        raise ChartError(1, "there are no bars: write chords between | signs, such as | Fm7 | Bbm7 |")
    return Chart(tuple(bars), tuple(sections), frozenset(stops))


def _repeat(bars: list[tuple[Chord | None, ...]], stops: set[int], first: int, times: int) -> None:
    """Play the bars from `first` on so many times in all."""
    length = len(bars) - first
    if len(bars) + length * (times - 1) > MOST_BARS:
        raise ChartError(first + 1, f"repeated {times} times the form has more than {MOST_BARS} bars")
    stops |= {stop + length * turn for stop in stops if stop >= first for turn in range(1, times)}
    bars += bars[first:] * (times - 1)


def _parse_bar(cell: str, before: Sequence[tuple[Chord | None, ...]]) -> tuple[tuple[Chord | None, ...], bool]:
    """A bar's chords, and whether it is in stop-time."""
    number = len(before) + 1
    symbols = cell.split()
    stopped = any(symbol.lower() == "stop" for symbol in symbols)
    symbols = [symbol for symbol in symbols if symbol.lower() != "stop"]
    if number > MOST_BARS:
        raise ChartError(number, f"a form has no more than {MOST_BARS} bars")
    if len(symbols) > MOST_CHORDS_A_BAR:
        raise ChartError(number, f"{len(symbols)} chords are more than the {MOST_CHORDS_A_BAR} that a bar may have")
    if not symbols:
        raise ChartError(number, "it is empty: write a chord, % to repeat the bar before, or N.C.")
    if symbols[0] in ("%", "/") and not before:
        raise ChartError(number, f"{symbols[0]} has no bar before it to repeat")
    if symbols == ["%"]:
        return before[-1], stopped
    chords: list[Chord | None] = []
    for symbol in symbols:
        if symbol.upper() in ("N.C.", "NC"):
            chords.append(None)
        elif symbol in ("%", "/"):
            chords.append(chords[-1] if chords else before[-1][-1])
        else:
            try:
                chords.append(parse_chord(symbol))
            except ValueError as error:
                raise ChartError(number, str(error)) from None
    return tuple(chords[:1] if len(set(chords)) == 1 else chords), stopped


def with_bar(chart: Chart, bar: int, text: str) -> Chart:
    """The chart with one bar (index from 0; one past the last adds a bar) written anew. Raises ChartError."""
    chords, stopped = _parse_bar(text, chart.bars[:bar])
    stops = chart.stops - {bar} | ({bar} if stopped else frozenset())
    return Chart((*chart.bars[:bar], chords, *chart.bars[bar + 1 :]), chart.sections, frozenset(stops))


def bar_text(chart: Chart, bar: int) -> str:
    """One bar as it is written."""
    symbols = ["N.C." if chord is None else chord.symbol for chord in chart.bars[bar]]
    written = symbols[:1] if len(set(symbols)) == 1 else symbols
    return " ".join([*written, "stop"] if bar in chart.stops else written)


def transpose_chart(chart: Chart, semitones: int, names: Names = FLAT_NAMES) -> Chart:
    """The same form so many semitones higher."""
    bars = tuple(tuple(chord and transpose_chord(chord, semitones, names) for chord in bar) for bar in chart.bars)
    return Chart(bars, chart.sections, chart.stops)


def chart_text(chart: Chart) -> str:
    """A chart as text that reads back as the same chart, four bars a line, sections on lines of their own."""
    starts = dict(chart.sections)
    lines: list[str] = []
    first = 0  # of the line
    for bar in range(len(chart.bars)):
        if bar in starts or not lines or (bar - first) % BARS_A_LINE == 0:
            first = bar
            lines.append(f"{starts[bar]} |" if bar in starts else "|")
        lines[-1] += f" {bar_text(chart, bar)} |"
    return "\n".join(lines)
