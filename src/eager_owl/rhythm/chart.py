"""Chart text: bars between "|", chords sharing a bar evenly, "%", "N.C.", and "x4" after a line."""

import re
from dataclasses import dataclass

from eager_owl.theory.chord import Chord, parse_chord

_REPEAT = re.compile(r"[x×](\d{1,2})", re.IGNORECASE)


class ChartError(ValueError):
    """A chart that can't be read; `bar` counts from 1."""

    def __init__(self, bar: int, reason: str) -> None:
        super().__init__(f"bar {bar} of the chart: {reason}")
        self.bar = bar


@dataclass(frozen=True)
class Chart:
    """Bars of chords; None stands for no chord. Every bar holds at least one entry."""

    bars: tuple[tuple[Chord | None, ...], ...] = ()

    def chord_at(self, beat: float, beats_per_bar: int) -> Chord | None:
        """The chord at a beat from the first one. The form repeats after its last bar; a pickup has none."""
        if beat < 0 or not self.bars:
            return None
        bar, within = divmod(beat, beats_per_bar)
        chords = self.bars[int(bar) % len(self.bars)]
        return chords[min(int(within * len(chords) / beats_per_bar), len(chords) - 1)]

    def spans(self, first_beat: float, last_beat: float, beats_per_bar: int) -> list[tuple[float, float, Chord]]:
        """(start beat, end beat, chord) between two beats, equal neighbours within a bar joined."""
        spans: list[tuple[float, float, Chord]] = []
        if not self.bars:
            return spans
        for bar in range(max(0, int(first_beat // beats_per_bar)), int(last_beat // beats_per_bar) + 1):
            chords = self.bars[bar % len(self.bars)]
            for index, chord in enumerate(chords):
                start = (bar + index / len(chords)) * beats_per_bar
                end = (bar + (index + 1) / len(chords)) * beats_per_bar
                if chord is not None and end > first_beat and start < last_beat:
                    spans.append((start, end, chord))
        return spans


def parse_chart(text: str) -> Chart:
    """Read chart text. Words before a line's first "|" name a section; a line without "|" is a remark.

    Raises ChartError naming the bar and what can't be read there.
    """
    bars: list[tuple[Chord | None, ...]] = []
    for line in text.splitlines():
        if "|" not in line:
            continue
        cells = re.split(r"\|+", line)[1:]
        tail = cells.pop().strip() if cells else ""
        repeat = _REPEAT.fullmatch(tail)
        if tail and not repeat:
            cells.append(tail)  # a last bar whose closing line was left off
        first = len(bars)
        for cell in cells:
            bars.append(_parse_bar(cell, bars))
        if repeat:
            bars += bars[first:] * (int(repeat[1]) - 1)
    if text.strip() and not bars:
        raise ChartError(1, "there are no bars: write chords between | signs, such as | Fm7 | Bbm7 |")
    return Chart(tuple(bars))


def _parse_bar(cell: str, before: list[tuple[Chord | None, ...]]) -> tuple[Chord | None, ...]:
    number = len(before) + 1
    symbols = cell.replace(":", " ").split()
    if not symbols:
        raise ChartError(number, "it is empty: write a chord, % to repeat the bar before, or N.C.")
    if symbols == ["%"]:
        if not before:
            raise ChartError(number, "% has no bar before it to repeat")
        return before[-1]
    chords: list[Chord | None] = []
    for symbol in symbols:
        if symbol.upper() in ("N.C.", "NC"):
            chords.append(None)
        elif symbol == "%":
            chords.append(chords[-1] if chords else (before[-1][-1] if before else None))
        else:
            try:
                chords.append(parse_chord(symbol))
            except ValueError as error:
                raise ChartError(number, str(error)) from None
    return tuple(chords)
