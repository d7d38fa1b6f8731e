"""The score: bars with voices of notes and rests, ties and triplets, from notes and their beat grid.

Everything that is written (the desk's row of values, the text tab, and what is printed or handed on) reads this. A
voice fills every bar it stands in, from bar line to bar line.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.rhythm.values import TICKS, Value, Written, split_values, write_values
from eager_owl.solo.document import Note

# A note that sounds on this many beats under the notes after it is a voice of its own.
_HELD_BEATS = 1.0


@dataclass(frozen=True)
class Event:
    """What stands at one place of a voice: notes struck together, or a rest where there are none.

    `beat` counts from the first beat of bar 1, `length` is in beats. `graces` lead into the notes. A tied event goes
    on from the one before, or into the next. `bar_rest` is a rest of a whole bar, whatever its length.
    """

    beat: Fraction
    length: Fraction
    value: Value
    notes: tuple[Note, ...] = ()
    graces: tuple[Note, ...] = ()
    tied_from: bool = False
    tied_on: bool = False
    bar_rest: bool = False

    @property
    def end(self) -> Fraction:
        """The beat it ends at."""
        return self.beat + self.length


@dataclass(frozen=True)
class Measure:
    """One bar: its number (1 is the first; 0 and below are a pickup), its first beat, its voices, the line first."""

    number: int
    start: int
    voices: tuple[tuple[Event, ...], ...]


@dataclass(frozen=True)
class Score:
    """Bars in order, and the grid they are written on. `late_ms` is how late each note was played, by its id."""

    grid: BeatGrid
    measures: tuple[Measure, ...]
    late_ms: dict[int, float]

    def events(self) -> Iterator[Event]:
        """All events, bar by bar and voice by voice."""
        for measure in self.measures:
            for voice in measure.voices:
                yield from voice

    def event_of(self, note_id: int) -> Event:
        """The event in which a note begins, or into which it leads as a grace. Raises KeyError."""
        for event in self.events():
            if not event.tied_from and any(note.id == note_id for note in (*event.notes, *event.graces)):
                return event
        raise KeyError(note_id)


def write_score(notes: Sequence[Note], grid: BeatGrid) -> Score:
    """Write notes, in order of onset, on a grid: from the bar of the first to the bar in which the last one ends."""
    if not notes:
        return Score(grid, (), {})
    voices = [_strokes(voice, grid) for voice in _voices(notes, grid)]
    late_ms = {id_: late for strokes in voices for stroke in strokes for id_, late in stroke.late_ms}
    per_bar = grid.beats_per_bar * TICKS
    first = min(strokes[0].start for strokes in voices) // per_bar
    last = max(-(-strokes[-1].end // per_bar) for strokes in voices)
    laid = [
        [_bar(own, bar * per_bar, per_bar, grid) for bar, own in _by_bar(v, first, last, per_bar)] for v in voices
    ]
    measures = []
    for index, bar in enumerate(range(first, last)):
        line, *others = [voice[index] for voice in laid]
        # A held voice is written only where it has notes.
        kept = [voice for voice in others if any(event.notes for event in voice)]
        measures.append(Measure(bar + 1, bar * grid.beats_per_bar, (line, *kept)))
    return Score(grid, tuple(measures), late_ms)


@dataclass(frozen=True)
class _Stroke:
    """Notes written at once: start and end in ticks, graces that lead into them, how late each was played."""

    start: int
    end: int
    notes: tuple[Note, ...]
    graces: tuple[Note, ...]
    late_ms: tuple[tuple[int, float], ...]


def _voices(notes: Sequence[Note], grid: BeatGrid) -> list[list[Note]]:
    """The line, and what is held under it; what is to ring anyway is written by where it is struck."""
    line: list[Note] = []
    held: list[Note] = []
    for index, note in enumerate(notes):
        later = next((n for n in notes[index + 1 :] if not n.together(note)), None)
        sounds_under = (
            later is not None
            and note.technique("let_ring") is None
            and grid.beat_at(note.end) - grid.beat_at(later.onset) >= _HELD_BEATS
        )
        free = not held or held[-1].end <= note.onset or held[-1].together(note)
        (held if sounds_under and free else line).append(note)
    return [voice for voice in (line, held) if voice]


def _strokes(voice: Sequence[Note], grid: BeatGrid) -> list[_Stroke]:
    graces = [index for index, note in enumerate(voice) if note.technique("grace")]
    written = write_values([n.onset for n in voice], [n.duration for n in voice], grid, graces)
    strokes: list[_Stroke] = []
    leading: list[tuple[Note, Written]] = []
    for note, place in zip(voice, written, strict=True):
        start = int(place.beat * TICKS)
        if not place.length:
            leading.append((note, place))
            continue
        last = strokes[-1] if strokes else None
        late = (note.id, place.late_ms)
        if last is not None and start <= last.start:
            # Written at once: of one stroke, or else what was played before leads into it.
            if last.notes[0].together(note):
                strokes[-1] = replace(last, notes=(*last.notes, note), late_ms=(*last.late_ms, late))
            else:
                graced = (*last.graces, *last.notes)
                strokes[-1] = replace(last, notes=(note,), graces=graced, late_ms=(*last.late_ms, late))
            continue
        end = start + int(place.length * TICKS)
        led = tuple(grace for grace, _ in leading)
        late_ms = (*((grace.id, at.late_ms) for grace, at in leading), late)
        strokes.append(_Stroke(start, end, (note,), led, late_ms))
        leading = []
    if leading:
        # Graces that lead nowhere are notes after all, to the next beat.
        start = max([int(leading[0][1].beat * TICKS), *(stroke.end for stroke in strokes[-1:])])
        late_ms = tuple((grace.id, at.late_ms) for grace, at in leading)
        end = start + (-start % TICKS or TICKS)
        strokes.append(_Stroke(start, end, tuple(grace for grace, _ in leading), (), late_ms))
    return strokes


def _by_bar(
    strokes: Sequence[_Stroke], first: int, last: int, per_bar: int
) -> Iterator[tuple[int, Sequence[_Stroke]]]:
    """Each bar with the strokes, which ascend and do not overlap, that sound in it."""
    starts = [stroke.start for stroke in strokes]
    for bar in range(first, last):
        start = max(0, bisect_right(starts, bar * per_bar) - 1)
        yield bar, strokes[start : bisect_left(starts, (bar + 1) * per_bar)]


def _bar(strokes: Sequence[_Stroke], start: int, length: int, grid: BeatGrid) -> tuple[Event, ...]:
    """What a voice has in one bar, filled with rests."""
    end = start + length
    events: list[Event] = []
    at = start
    for stroke in strokes:
        if stroke.end <= start or stroke.start >= end:
            continue
        first, last = max(stroke.start, start), min(stroke.end, end)
        events += _rests(at, first, grid)
        pieces = split_values(first, last - first, grid.division)
        for index, (tick, ticks, value) in enumerate(pieces):
            begins = tick == stroke.start
            events.append(
                Event(
                    Fraction(tick, TICKS),
                    Fraction(ticks, TICKS),
                    value,
                    stroke.notes,
                    stroke.graces if begins else (),
                    tied_from=not begins,
                    tied_on=index + 1 < len(pieces) or stroke.end > end,
                )
            )
        at = last
    if not events:
        whole = Value(1)
        return (Event(Fraction(start, TICKS), Fraction(length, TICKS), whole, bar_rest=True),)
    return (*events, *_rests(at, end, grid))


def _rests(start: int, end: int, grid: BeatGrid) -> list[Event]:
    return [
        Event(Fraction(tick, TICKS), Fraction(ticks, TICKS), value)
        for tick, ticks, value in split_values(start, end - start, grid.division)
    ]
