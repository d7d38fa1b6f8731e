"""Standard MIDI files: one channel a string, bends and slides as pitch-bend curves, the beat as the tempo map.

As played, the file's clock is the recording's: what lies before the first bar line is filled with bars that just fit,
so that the file can be laid under the recording. As written, notes stand where the score has them, at a steady tempo.
"""

import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Literal

import mido
import numpy as np
from numpy.typing import NDArray

from eager_owl.notation.score import write_score
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.rhythm.values import played_beat
from eager_owl.solo.document import CONTOUR_HOP_S, Note, Solo

Timing = Literal["played", "written"]
TICKS_A_BEAT = 960
BEND_RANGE_SEMITONES = 24  # a slide comes from as far away as a neck has frets
# What a text event of the file says, for a reader that knows it: strings by channel need their tuning.
STRINGS_MARK = "strings on channels from 1, tuning"
BAR_MARK = "bar 1 at tick"
_GUITAR_PROGRAM = 27
_LOUD_VELOCITY, _DB_A_TENFOLD = 112, 40.0
_GRACE_BEATS = 0.08


@dataclass(frozen=True)
class _Clock:
    """Ticks of the recording's times: bars that fit before the first bar line, then the grid's own beats."""

    grid: BeatGrid
    quarters: float  # to a beat
    lead_bars: int
    lead_s: float
    first_bar: int

    def ticks(self, time_s: float) -> int:
        """The tick nearest to a time."""
        return round(self.quarter(time_s) * TICKS_A_BEAT)

    def quarter(self, time_s: float) -> float:
        """Quarter notes from the file's start."""
        per_bar = self.grid.beats_per_bar
        if time_s <= self.lead_s and self.lead_s > 0:
            return time_s / self.lead_s * self.lead_bars * per_bar * self.quarters
        beats = self.grid.beat_at(time_s) - self.first_bar * per_bar + self.lead_bars * per_bar
        return beats * self.quarters


def write_midi(
    solo: Solo, notes: Sequence[Note], grid: BeatGrid, contours: Mapping[int, NDArray[np.float64]], timing: Timing
) -> bytes:
    """These notes as the bytes of a MIDI file; `contours` are semitones over the fret every CONTOUR_HOP_S, by id."""
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS_A_BEAT)
    clock = _clock(grid) if timing == "played" else None
    bar_one = clock.ticks(grid.time_of(0)) if clock else -_first_written(notes, grid) * TICKS_A_BEAT
    quarters = 1.5 if grid.division == 3 else 1.0
    head = _head(solo, grid, clock, int(bar_one), notes)
    file.tracks.append(_track(head))
    spans = _played(notes, clock) if clock else _written(notes, grid, quarters)
    file.tracks.append(_track(_guitar(solo, spans, contours)))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


Timed = tuple[int, int, mido.Message | mido.MetaMessage]  # tick, rank among those of one tick, message


def _track(events: Iterable[Timed]) -> mido.MidiTrack:
    track = mido.MidiTrack()
    at = 0
    for tick, _, message in sorted(events, key=lambda event: event[:2]):
        track.append(message.copy(time=max(0, tick - at)))
        at = max(at, tick)
    return track


def _clock(grid: BeatGrid) -> _Clock:
    per_bar = grid.beats_per_bar
    first_bar = int(-(-(grid.beat_at(0.0) - 1e-9) // per_bar))
    if 1e-6 < grid.time_of(first_bar * per_bar) < grid.bar_s / 2:
        first_bar += 1  # the bar before would be too short to be one
    lead_s = max(0.0, grid.time_of(first_bar * per_bar))
    lead_bars = max(1, round(lead_s / grid.bar_s)) if lead_s > 1e-6 else 0
    return _Clock(grid, 1.5 if grid.division == 3 else 1.0, lead_bars, lead_s if lead_bars else 0.0, first_bar)


def _first_written(notes: Sequence[Note], grid: BeatGrid) -> float:
    """Quarter notes from bar 1 to the first bar that is written, at or below 0."""
    score = write_score(notes, grid)
    first = min((measure.start for measure in score.measures), default=0)
    return min(0, first) * (1.5 if grid.division == 3 else 1.0)


def _head(solo: Solo, grid: BeatGrid, clock: _Clock | None, bar_one: int, notes: Sequence[Note]) -> list[Timed]:
    """Title, meter, key, tempo map, and markers of phrases, sections and chords."""
    meta = mido.MetaMessage
    number, unit = map(int, grid.meter.split("/"))
    events: list[Timed] = [
        (0, 0, meta("track_name", name=_latin(solo.title))),
        (0, 0, meta("time_signature", numerator=number, denominator=unit)),
        (0, 0, meta("text", text=f"{BAR_MARK} {bar_one}")),
    ]
    if solo.key is not None:
        events.append((0, 0, meta("key_signature", key=_key_name(solo.key.tonic_name, solo.key.mode))))
    quarters = 1.5 if grid.division == 3 else 1.0
    if clock is None:
        events.append((0, 1, meta("set_tempo", tempo=_tempo(60 / grid.bpm / quarters))))
    else:
        turns = [0.0, clock.lead_s, *(time for _, time in grid.anchors if time > clock.lead_s)]
        ends = [*turns[1:], turns[-1] + 1.0]
        for start, end in zip(turns, ends, strict=True):
            if end > start:
                a_quarter = (end - start) / (clock.quarter(end) - clock.quarter(start))
                events.append((clock.ticks(start), 1, meta("set_tempo", tempo=_tempo(a_quarter))))

    def tick(time_s: float) -> int:
        if clock is not None:
            return clock.ticks(time_s)
        return round(grid.beat_at(time_s) * quarters * TICKS_A_BEAT) + bar_one

    for phrase in solo.phrases:
        if phrase.name and any(phrase.holds(note.onset) for note in notes):
            first = next(note.onset for note in notes if phrase.holds(note.onset))
            events.append((max(0, tick(first)), 2, meta("cue_marker", text=_latin(phrase.name))))
    if notes:
        first_beat, last_beat = grid.beat_at(notes[0].onset), grid.beat_at(max(note.end for note in notes))
        for span in solo.chart.changes(max(first_beat, 0.0), max(last_beat, 0.0), grid.beats_per_bar):
            symbol = span.chord.symbol if span.chord else "N.C."
            if span.start >= 0:
                events.append((max(0, tick(grid.time_of(span.start))), 3, meta("marker", text=_latin(symbol))))
    return events


def _key_name(tonic: str, mode: str) -> str:
    """A key that the format knows; one that it has no signature for by its other name."""
    minor = mode == "minor"
    tonic = {"G#": "Ab", "D#": "Eb", "A#": "Bb"}.get(tonic, tonic) if not minor else tonic
    return tonic + ("m" if minor else "")


def _tempo(seconds_a_quarter: float) -> int:
    return min(max(1, round(seconds_a_quarter * 1_000_000)), 0xFFFFFF)


def _latin(text: str) -> str:
    """Text as the format's events hold it."""
    return text.replace("♭", "b").replace("♯", "#").replace("°", "dim").encode("latin-1", "replace").decode("latin-1")


@dataclass(frozen=True)
class _Span:
    """A note between two ticks, and how many ticks a second of its contour is."""

    note: Note
    start: int
    end: int
    ticks_a_hop: float


def _played(notes: Sequence[Note], clock: _Clock) -> list[_Span]:
    spans = []
    for note in notes:
        start, end = clock.ticks(note.onset), clock.ticks(note.end)
        spans.append(_Span(note, start, max(end, start + 1), (end - start) * CONTOUR_HOP_S / note.duration))
    return spans


def _written(notes: Sequence[Note], grid: BeatGrid, quarters: float) -> list[_Span]:
    """Notes where the score has them; tied ones whole, graces just before what they lead into."""
    score = write_score(notes, grid)
    scale = quarters * TICKS_A_BEAT
    lead = min(0, min((measure.start for measure in score.measures), default=0))
    places: dict[int, list[float]] = {}
    for event in score.events():
        start, end = (played_beat(float(beat), grid) - lead for beat in (event.beat, event.end))
        for note in event.notes:
            places.setdefault(note.id, [start, end])[1] = end
        for turn, grace in enumerate(reversed(event.graces), 1):
            places[grace.id] = [max(0.0, start - turn * _GRACE_BEATS), max(0.01, start - (turn - 1) * _GRACE_BEATS)]
    spans = []
    for note in notes:
        start, end = places[note.id]
        length = max(1, round((end - start) * scale))
        spans.append(
            _Span(note, round(start * scale), round(start * scale) + length, length * CONTOUR_HOP_S / note.duration)
        )
    return sorted(spans, key=lambda span: span.start)


def _guitar(solo: Solo, spans: Sequence[_Span], contours: Mapping[int, NDArray[np.float64]]) -> list[Timed]:
    tuning = " ".join(map(str, solo.instrument.tuning))
    events: list[Timed] = [
        (0, 0, mido.MetaMessage("track_name", name="Guitar")),
        (0, 0, mido.MetaMessage("text", text=f"{STRINGS_MARK} {tuning}, capo {solo.instrument.capo}")),
    ]
    strings = len(solo.instrument.tuning)
    loudest = max((span.note.loudness_db for span in spans), default=0.0)
    channels = sorted({(span.note.string or 1 + span.note.id % strings) - 1 for span in spans})
    for channel in channels:
        events.append((0, 1, mido.Message("program_change", channel=channel, program=_GUITAR_PROGRAM)))
        for control, value in ((101, 0), (100, 0), (6, BEND_RANGE_SEMITONES), (38, 0)):
            events.append((0, 1, mido.Message("control_change", channel=channel, control=control, value=value)))
    by_channel = sorted(spans, key=lambda span: (span.note.string or 1 + span.note.id % strings, span.start))
    for channel_string, on_string in groupby(
        by_channel, key=lambda span: span.note.string or 1 + span.note.id % strings
    ):
        line = list(on_string)
        for span, following in zip(line, [*line[1:], None], strict=True):
            end = span.end if following is None else min(span.end, max(following.start, span.start + 1))
            events += _note(span, end, channel_string - 1, contours.get(span.note.id), loudest)
    return events


def _note(span: _Span, end: int, channel: int, contour: NDArray[np.float64] | None, loudest_db: float) -> list[Timed]:
    """A note with its curve: the wheel is set before it begins, and at each step of the contour that differs."""
    events: list[Timed] = []
    velocity = round(_LOUD_VELOCITY * 10 ** ((span.note.loudness_db - loudest_db) / _DB_A_TENFOLD))
    values = np.zeros(1) if contour is None or not len(contour) else contour
    wheel = np.clip(np.round(values / BEND_RANGE_SEMITONES * 8192), -8192, 8191).astype(int)
    last = None
    for step, value in enumerate(wheel):
        tick = span.start + round(step * span.ticks_a_hop)
        if tick >= end:
            break
        if value != last:
            events.append((tick, 5, mido.Message("pitchwheel", channel=channel, pitch=int(value))))
            last = value
    shared = {"channel": channel, "note": span.note.pitch}
    events.append((span.start, 6, mido.Message("note_on", velocity=min(max(velocity, 1), 127), **shared)))
    events.append((end, 4, mido.Message("note_off", velocity=0, **shared)))
    return events
