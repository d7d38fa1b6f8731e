"""Standard MIDI files read into a solo: one track of notes, its bends as contours, its tempo map as the beat."""

import io
import re
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise

import mido
import numpy as np

from eager_owl.notation.curves import name_curve
from eager_owl.notation.imported import (
    MOST_BYTES,
    MOST_SECONDS,
    Complaints,
    ForeignFileError,
    Imported,
    chart_from,
    checked,
    grid_of,
    with_phrases,
)
from eager_owl.notation.midi_out import BAR_MARK, STRINGS_MARK
from eager_owl.rhythm.grid import BeatGrid, shifted_bar
from eager_owl.solo.document import CONTOUR_HOP_S, Instrument, Note, Solo
from eager_owl.theory.chord import Chord, parse_chord
from eager_owl.theory.key import parse_key
from eager_owl.theory.words import plural

_PLAIN_RANGE_SEMITONES = 2.0
_DRUMS = 9
_GUITARS = range(24, 32)
_MOST_EVENTS = 2_000_000
_LOUDEST_DB, _DB_A_TENFOLD = -6.0, 40.0
_BENT_SEMITONES = 0.03  # less is a string a little out of tune


@dataclass
class _Part:
    """Notes of one track, or of one channel of it: (tick, end, channel, pitch, velocity), and each wheel's moves."""

    name: str = ""
    notes: list[tuple[int, int, int, int, int]] = field(default_factory=list)
    wheel: dict[int, list[tuple[int, float]]] = field(default_factory=lambda: defaultdict(lambda: [(0, 0.0)]))
    programs: set[int] = field(default_factory=set)
    tuning: tuple[int, ...] = ()
    capo: int = 0


def read_midi(content: bytes, name: str, track: int | None = None) -> Imported:
    """Read a file's bytes; `track` counts the tracks with notes from 1 (else the likeliest to be a solo guitar).

    Raises ForeignFileError.
    """
    if len(content) > MOST_BYTES:
        raise ForeignFileError(f"{name} is larger than {MOST_BYTES // 1_000_000} MB")
    if content[:4] != b"MThd":
        raise ForeignFileError(f"{name} is not a MIDI file")
    try:
        file = mido.MidiFile(file=io.BytesIO(content), clip=True)
    except Exception as error:  # the library lets out whatever it stumbles over in a broken file
        raise ForeignFileError(f"{name} is a broken MIDI file ({str(error)[:60] or 'it ends early'})") from None
    if file.type == 2 or not 1 <= file.ticks_per_beat <= 0x7FFF:
        raise ForeignFileError(f"{name} has no common beat for its tracks: it can't be read")
    if sum(map(len, file.tracks)) > _MOST_EVENTS:
        raise ForeignFileError(f"{name} has more than {_MOST_EVENTS:,} events")
    told = Complaints()
    parts = [part for each in file.tracks for part in _parts(each, told)]
    if not parts:
        raise ForeignFileError(f"{name} has no notes")
    if track is not None and not 1 <= track <= len(parts):
        raise ForeignFileError(f"{name} has no track {track}: {len(parts)} of its tracks have notes")
    chosen = parts[track - 1] if track else max(parts, key=_likelihood)
    if track is None and len(parts) > 1:
        called = f" (“{chosen.name}”)" if chosen.name else ""
        told.add(f"{len(parts)} tracks have notes; track {parts.index(chosen) + 1}{called} was read")
    found = _as_solo(file, chosen, name, told)
    words = tuple(f"{part.name or 'track'}, {plural(len(part.notes), 'note')}" for part in parts)
    return replace(found, parts=words, part=parts.index(chosen) + 1)


def _parts(track: mido.MidiTrack, told: Complaints) -> list[_Part]:
    """The parts of a track: one, or one a channel where the channels play different instruments."""
    programs: dict[int, int] = {}
    marked = False
    for message in track:
        if message.type == "program_change":
            programs.setdefault(message.channel, message.program)
        marked |= message.type == "text" and message.text.startswith(STRINGS_MARK)
    together = marked or len(set(programs.values())) < 2
    parts: dict[int, _Part] = defaultdict(_Part)
    sounding: dict[tuple[int, int], list[tuple[int, int]]] = defaultdict(list)
    ranges: dict[int, float] = defaultdict(lambda: _PLAIN_RANGE_SEMITONES)
    registers: dict[int, dict[int, int]] = defaultdict(dict)
    tick, name, capo = 0, "", 0
    tuning: tuple[int, ...] = ()
    for message in track:
        tick += message.time
        if message.type == "track_name":
            name = message.name.strip()[:80]
        elif message.type == "text" and message.text.startswith(STRINGS_MARK):
            tuning, capo = _strings(message.text)
        if message.is_meta or not hasattr(message, "channel") or message.channel == _DRUMS:
            continue
        channel = message.channel
        part = parts[0 if together else channel]
        if message.type == "note_on" and message.velocity:
            sounding[channel, message.note].append((tick, message.velocity))
        elif message.type in ("note_on", "note_off"):
            if started := sounding[channel, message.note]:
                start, velocity = started.pop(0)
                part.notes.append((start, max(tick, start + 1), channel, message.note, velocity))
        elif message.type == "pitchwheel":
            part.wheel[channel].append((tick, message.pitch / 8192 * ranges[channel]))
        elif message.type == "control_change":
            registers[channel][message.control] = message.value
            if message.control in (6, 38) and registers[channel].get(101) == registers[channel].get(100) == 0:
                ranges[channel] = registers[channel].get(6, 2) + registers[channel].get(38, 0) / 100
    for (channel, pitch), started in sounding.items():
        for start, velocity in started:
            told.add("a note that never ends is ended with its track")
            parts[0 if together else channel].notes.append((start, max(tick, start + 1), channel, pitch, velocity))
    for key, part in parts.items():
        part.name, part.tuning, part.capo = name, tuning, capo
        part.programs = set(programs.values()) if together else {programs[key]} if key in programs else set()
    return [part for _, part in sorted(parts.items()) if part.notes]


def _strings(text: str) -> tuple[tuple[int, ...], int]:
    """The tuning and capo that a file of ours says."""
    numbers = [int(n) for n in re.findall(r"\d{1,3}", text.removeprefix(STRINGS_MARK).rpartition(", capo")[0])]
    capo = re.search(r"capo (\d{1,2})", text)
    return tuple(numbers), int(capo[1]) if capo else 0


def _likelihood(part: _Part) -> tuple[int, float, int]:
    """Guitars before others, then who plays one note at a time, then who plays most."""
    onsets = Counter(note[0] for note in part.notes)
    guitar = bool(part.programs & set(_GUITARS)) or "guitar" in part.name.lower() or "solo" in part.name.lower()
    return (int(guitar), round(len(onsets) / len(part.notes), 1), len(part.notes))


def _heads(file: mido.MidiFile) -> Iterator[tuple[int, mido.MetaMessage]]:
    """Tick and message of every meta event of all tracks, in order."""
    found = []
    for track in file.tracks:
        tick = 0
        for message in track:
            tick += message.time
            if message.is_meta:
                found.append((tick, message))
    yield from sorted(found, key=lambda pair: pair[0])


def _as_solo(file: mido.MidiFile, part: _Part, name: str, told: Complaints) -> Imported:
    a_quarter = file.ticks_per_beat
    meter, key, title, bar_one = (4, 4), "", "", 0
    tempos: list[tuple[Fraction, float]] = []
    changes: list[tuple[Fraction, Chord | None]] = []
    marks: list[tuple[int, str]] = []
    met = False
    for tick, message in _heads(file):
        at = Fraction(tick, a_quarter)
        if message.type == "set_tempo" and message.tempo > 0:
            tempos.append((at, 60_000_000 / message.tempo))
        elif message.type == "time_signature":
            new = (message.numerator, message.denominator)
            if met and new != meter:
                told.add(f"the meter changes to {new[0]}/{new[1]}; bars are counted as at the beginning")
            meter, met = (meter if met else new), True
        elif message.type == "key_signature" and not key:
            key = f"{message.key.rstrip('m')} {'minor' if message.key.endswith('m') else 'major'}"
        elif message.type == "track_name" and not title and tick == 0:
            title = message.name.strip()[:200]
        elif message.type == "text" and (found := re.match(rf"{BAR_MARK} (-?\d+)$", message.text)):
            bar_one = int(found[1])
        elif message.type in ("marker", "cue_marker"):
            _mark(message, at, tick, changes, marks)
    tempos = tempos or [(Fraction(0), 120.0)]
    grid, quarters = grid_of(meter, tempos[0][1], tempos, False, told)
    try:
        instrument = Instrument(part.tuning, part.capo) if part.tuning else Instrument()
    except ValueError:
        instrument = Instrument()

    def time_of(tick: float) -> float:
        return grid.time_of(tick / a_quarter / float(quarters))

    if part.notes and time_of(max(note[1] for note in part.notes)) > MOST_SECONDS:
        raise ForeignFileError(f"{name} goes on for more than {MOST_SECONDS / 3600:.0f} hours")
    notes = [_note(raw, part, instrument, time_of) for raw in sorted(part.notes)]
    bars_before = round(bar_one / a_quarter / float(quarters))
    chords = [((at / quarters) - bars_before, chord) for at, chord in changes]
    last = max(grid.beat_at(note.end) for note in notes) - bars_before
    solo = Solo(
        title=title or name.rsplit(".", 1)[0],
        instrument=instrument,
        key_text=key if _readable(key) else "",
        chart_text=chart_from(chords, grid.beats_per_bar, -(-int(last) // grid.beats_per_bar)) if chords else "",
        grid=_real(shifted_bar(grid, bars_before) if bars_before else grid),
        notes=checked(notes, told),
    )
    return Imported(with_phrases(solo, [(time_of(tick), words) for tick, words in marks]), told.lines)


def _real(grid: BeatGrid) -> BeatGrid:
    """The grid with the tempo that its notes are played at: that of the bars before is made to fit them."""
    if len(grid.anchors) < 2:
        return grid
    pairs = list(pairwise(grid.anchors))
    inside = [pair for pair in pairs if pair[1][0] > 0] or pairs[-1:]
    (beat, time), (end, until) = max(inside, key=lambda pair: pair[1][0] - pair[0][0])
    bpm = 60 * (end - beat) / (until - time)
    return replace(grid, bpm=bpm) if 20 <= bpm <= 400 else grid


def _mark(
    message: mido.MetaMessage,
    at: Fraction,
    tick: int,
    changes: list[tuple[Fraction, Chord | None]],
    marks: list[tuple[int, str]],
) -> None:
    """A marker: a chord, no chord, or the name of a phrase."""
    words = message.text.strip()[:80]
    if message.type == "marker" and words == "N.C.":
        changes.append((at, None))
        return
    try:
        if message.type == "marker":
            changes.append((at, parse_chord(words)))
            return
    except ValueError:
        pass
    if words:
        marks.append((tick, words))


def _readable(key: str) -> bool:
    try:
        parse_key(key)
    except ValueError:
        return False
    return True


def _note(
    raw: tuple[int, int, int, int, int], part: _Part, instrument: Instrument, time_of: Callable[[float], float]
) -> Note:
    start, end, channel, pitch, velocity = raw
    onset, until = time_of(start), time_of(end)
    loudness = _LOUDEST_DB + _DB_A_TENFOLD * float(np.log10(velocity / 127))
    note = Note(0, onset, max(until - onset, 0.02), pitch, loudness_db=round(loudness, 1))
    moves = part.wheel.get(channel)
    if moves and any(abs(value) > _BENT_SEMITONES for _, value in moves):
        times = np.arange(onset, until, CONTOUR_HOP_S) + CONTOUR_HOP_S / 2  # well inside each step of the curve
        times = times[times < until]
        moved = np.array([time_of(tick) for tick, _ in moves])
        values = np.array([value for _, value in moves])
        contour = values[np.maximum(0, np.searchsorted(moved, times, side="right") - 1)]
        if len(contour) and np.abs(contour).max() > _BENT_SEMITONES:
            cents = tuple(round(100 * float(value)) for value in contour)
            note = replace(note, contour_cents=cents, techniques=name_curve(contour))
    note = note.pinned("pitch", "timing")
    string = channel + 1
    if part.tuning and string <= len(instrument.tuning) and (fret := instrument.fret_of(string, pitch)) is not None:
        note = replace(note, string=string, fret=fret).pinned("place")
    return note
