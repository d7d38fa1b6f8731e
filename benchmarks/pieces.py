"""Phrases composed for measuring, by idiom, rendered by fluidsynth with a General MIDI soundfont.

A piece is a list of strokes; a stroke is one attack with the notes that follow on it without another
(hammer-ons, pull-offs, slides) and the bends and vibrato of each, all done with the pitch wheel.
"""

import subprocess
import tempfile
from collections.abc import Callable, Sequence
from ctypes import c_int, c_void_p
from dataclasses import dataclass, field, replace
from pathlib import Path

import fluidsynth
import mido
import numpy as np
import soundfile
from numpy.typing import NDArray

from eager_owl.audio.decode import resample

SOUNDFONTS = {
    "timgm": Path("/usr/share/sounds/sf2/TimGM6mb.sf2"),
    "fluidr3": Path("/usr/share/sounds/sf2/FluidR3_GM.sf2"),
    "csound": Path("/usr/share/sounds/sf2/sf_GMbank.sf2"),
    "opl3": Path("/usr/share/sounds/sf2/OPL-3_FM_128M.sf2"),
}
# Free patches, of other recordings than any of the soundfonts, two of which share some.
PATCHES = "freepats"
PROGRAMS = {"nylon": 24, "steel": 25, "jazz": 26, "clean": 27, "driven": 29, "distorted": 30}
# A guitar under a palm.
MUTED_PROGRAM = 28
# Other strings that are plucked or struck, whose attacks are not a guitar's: to learn what an attack is.
PLUCKED_PROGRAMS = {
    "harpsichord": 6, "clavinet": 7, "dulcimer": 15, "acoustic bass": 32, "picked bass": 34,
    "harp": 46, "sitar": 104, "banjo": 105, "koto": 107,
}  # fmt: skip
# Sounds without a pick: what is joined in them is told by the pitch alone.
BARE_PROGRAMS = {"square": 80, "saw": 81, "calliope": 82, "harmonica": 22}
RATE_HZ = 44100
WHEEL_RANGE = 12  # semitones
_GAIN, _BLOCK = 0.6, 2048
_WHEEL_STEP_S = 0.004
# What timidity plays differs by where its memory is and by what surrounds it, so that is kept the same.
_TIMIDITY = ["setarch", "-R", "timidity", "-c", "/etc/timidity/freepats.cfg", "-Ow", "--preserve-silence"]
_TIMIDITY += ["-s", str(RATE_HZ), "-o", "piece.wav", "piece.mid"]
# In whole numbers fluidsynth's sound is dithered, otherwise in each process.
_SIDE = (("out", c_void_p, 1), ("first", c_int, 1), ("step", c_int, 1))
_write_float = fluidsynth.cfunc(
    "fluid_synth_write_float", c_int, ("synth", c_void_p, 1), ("count", c_int, 1), *_SIDE, *_SIDE
)


@dataclass
class True_:  # noqa: N801 - "True" is taken
    """What was really played: times in s, the fretted pitch, the technique names, bend size in cents."""

    onset: float
    duration: float
    pitch: int
    techniques: tuple[str, ...] = ()
    bend_cents: float = 0.0


@dataclass
class Stroke:
    """An attack at `onset` on `pitch`; `curve` holds (time, semitones) points joined by straight lines."""

    onset: float
    end: float
    pitch: int
    velocity: int
    curve: list[tuple[float, float]] = field(default_factory=list)
    vibrato: tuple[float, float, float] | None = None  # from s, rate Hz, extent in cents
    channel: int = 0  # what is bent while another string sounds has one of its own


@dataclass
class Piece:
    """A composed phrase and its truth."""

    idiom: str
    strokes: list[Stroke] = field(default_factory=list)
    truth: list[True_] = field(default_factory=list)
    now: float = 0.5

    def pick(self, pitch: int, beat_s: float, rng: np.random.Generator, gap: float = 0.03) -> Stroke:
        """A plain picked note lasting a beat less a gap."""
        humanised = self.now + rng.normal(0, 0.004)
        stroke = Stroke(humanised, self.now + beat_s * (1 - gap), pitch, int(rng.integers(70, 115)))
        self.strokes.append(stroke)
        self.truth.append(True_(humanised, stroke.end - humanised, pitch))
        self.now += beat_s
        return stroke

    def legato(self, stroke: Stroke, pitch: int, beat_s: float, name: str, glide_s: float, stepped: bool) -> None:
        """Another note on the same stroke, reached in `glide_s`, in semitone steps where `stepped`."""
        before = stroke.curve[-1][1] if stroke.curve else 0.0
        target = float(pitch - stroke.pitch)
        start = self.now - glide_s / 2
        if stepped:
            count = int(abs(target - before))
            for step in range(count):
                at = start + glide_s * (step + 0.5) / count
                level = before + np.sign(target - before) * (step + 1)
                stroke.curve += [(at, level - np.sign(target - before)), (at + 0.004, level)]
        else:
            stroke.curve += [(start, before), (start + max(glide_s, 0.004), target)]
        onset = self.now
        self.truth[-1].duration = onset - self.truth[-1].onset
        stroke.end = self.now + beat_s * 0.97
        self.truth.append(True_(onset, stroke.end - onset, pitch, (name,)))
        self.now += beat_s


def lowered(piece: Piece, lowest: int) -> Piece:
    """The piece moved down until the lowest pitch that is fretted is `lowest`, or as it is where it goes lower."""
    down = max(0, min(true.pitch for true in piece.truth) - lowest)
    strokes = [replace(stroke, pitch=stroke.pitch - down) for stroke in piece.strokes]
    return replace(piece, strokes=strokes, truth=[replace(true, pitch=true.pitch - down) for true in piece.truth])


MINOR_PENTATONIC, NATURAL_MINOR = (0, 3, 5, 7, 10), (0, 2, 3, 5, 7, 8, 10)


def ladder(root: int, steps: tuple[int, ...], low: int, high: int) -> list[int]:
    """The pitches from low to high that stand so many semitones over the root, in any octave."""
    return [p for p in range(low, high + 1) if (p - root) % 12 in steps]


def box_runs(rng: np.random.Generator) -> Piece:
    """Picked runs in a pentatonic box, up and down with turns, rests, repeated notes, sixteenths."""
    piece, root = Piece("box runs"), int(rng.integers(40, 52))
    notes = ladder(root, MINOR_PENTATONIC, root + 12, min(root + 36, 84))
    at = int(rng.integers(0, len(notes)))
    for _ in range(44):
        beat = float(rng.choice([0.12, 0.16, 0.22, 0.33, 0.5], p=[0.25, 0.3, 0.25, 0.15, 0.05]))
        piece.pick(notes[at], beat, rng)
        if rng.random() < 0.08:
            piece.now += 0.25
        at = int(np.clip(at + rng.choice([-2, -1, 0, 1, 2], p=[0.1, 0.35, 0.1, 0.35, 0.1]), 0, len(notes) - 1))
    return piece


def bends(rng: np.random.Generator) -> Piece:
    """Quarter to whole-step-and-a-half bends: held, released, with vibrato; plain notes and vibrato between."""
    piece, root = Piece("bends"), int(rng.integers(57, 69))
    notes = ladder(root, MINOR_PENTATONIC, root - 2, root + 14)
    for _ in range(20):
        pitch = int(rng.choice(notes))
        kind = rng.choice(["bend", "bend_release", "bend_vibrato", "vibrato", "plain", "plain"])
        beat = float(rng.uniform(0.7, 1.2)) if kind != "plain" else float(rng.uniform(0.18, 0.4))
        stroke = piece.pick(pitch, beat, rng)
        true = piece.truth[-1]
        if "bend" in kind:
            size = float(rng.choice([0.5, 1.0, 2.0, 2.0, 3.0], p=[0.1, 0.25, 0.3, 0.25, 0.1]))
            start = stroke.onset + float(rng.uniform(0.03, 0.12))
            top = start + float(rng.uniform(0.09, 0.22))
            stroke.curve = [(start, 0.0), ((start + top) / 2, size * 0.45), (top, size)]
            true.techniques, true.bend_cents = ("bend",), 100 * size
            if kind == "bend_release":
                back = top + float(rng.uniform(0.12, 0.25))
                stroke.curve += [(back, size), (back + float(rng.uniform(0.1, 0.2)), 0.0)]
                true.techniques = ("bend_release",)
            elif kind == "bend_vibrato":
                stroke.vibrato = (top + 0.05, float(rng.uniform(4.5, 6.5)), float(rng.uniform(20, 45)))
                true.techniques = ("bend", "vibrato")
        elif kind == "vibrato":
            stroke.vibrato = (stroke.onset + 0.15, float(rng.uniform(4.5, 6.5)), float(rng.uniform(18, 45)))
            true.techniques = ("vibrato",)
        if rng.random() < 0.2:
            piece.now += 0.2
    return piece


def one_string(rng: np.random.Generator) -> Piece:
    """Slides up and down one string, some in fret steps, with picked notes between."""
    piece, root = Piece("one-string slides"), int(rng.integers(52, 62))
    notes = ladder(root, NATURAL_MINOR, root, root + 17)
    at = 3
    for _ in range(16):
        stroke = piece.pick(notes[at], float(rng.uniform(0.2, 0.45)), rng)
        for _ in range(int(rng.integers(1, 3))):
            to = int(np.clip(at + rng.choice([-2, -1, 1, 2, 3]), 0, len(notes) - 1))
            if to == at:
                continue
            before, at = notes[at], to
            glide = float(rng.uniform(0.05, 0.09))
            stepped = abs(notes[at] - before) > 1 and bool(rng.random() < 0.5)
            piece.legato(stroke, notes[at], float(rng.uniform(0.2, 0.5)), "slide", glide, stepped)
        at = int(np.clip(at + rng.integers(-2, 3), 0, len(notes) - 1))
    return piece


def three_a_string(rng: np.random.Generator) -> Piece:
    """Scale runs of three notes a string, the first picked, the others hammered on or pulled off."""
    piece, root = Piece("three notes a string"), int(rng.integers(43, 50))
    notes = ladder(root, NATURAL_MINOR, root, root + 31)
    for _ in range(4):
        beat = float(rng.uniform(0.1, 0.2))
        up = rng.random() < 0.6
        line = notes[: 3 * (len(notes) // 3)]
        for index in range(0, len(line), 3):
            group = line[index : index + 3] if up else line[::-1][index : index + 3]
            stroke = piece.pick(group[0], beat, rng, gap=0.0)
            for pitch in group[1:]:
                piece.legato(stroke, pitch, beat, "hammer_on" if up else "pull_off", 0.004, False)
        piece.now += 0.3
    return piece


def arpeggios(rng: np.random.Generator) -> Piece:
    """Seventh-chord arpeggios over two octaves, picked, eighths to sixteenths, with a held top."""
    piece = Piece("arpeggios")
    shapes = [(0, 3, 7, 10), (0, 4, 7, 11), (0, 4, 7, 10), (0, 3, 6, 10)]
    for _ in range(6):
        root, shape = int(rng.integers(45, 60)), shapes[int(rng.integers(len(shapes)))]
        line = [root + 12 * octave + step for octave in (0, 1) for step in shape]
        line = line if rng.random() < 0.6 else line[::-1]
        beat = float(rng.uniform(0.11, 0.24))
        for pitch in line[:-1]:
            piece.pick(pitch, beat, rng)
        piece.pick(line[-1], 2.5 * beat, rng)
    return piece


def trills(rng: np.random.Generator) -> Piece:
    """Trills of one to three semitones, 7 to 11 notes a second, every note true, between plain notes."""
    piece, root = Piece("trills"), int(rng.integers(55, 66))
    notes = ladder(root, MINOR_PENTATONIC, root, root + 15)
    for _ in range(6):
        for _ in range(int(rng.integers(1, 4))):
            piece.pick(int(rng.choice(notes)), float(rng.uniform(0.2, 0.4)), rng)
        low, width = int(rng.choice(notes)), int(rng.integers(1, 4))
        beat = 1.0 / float(rng.uniform(7, 11))
        stroke = piece.pick(low, beat, rng, gap=0.0)
        for index in range(int(rng.integers(6, 12))):
            up = index % 2 == 0
            name = "hammer_on" if up else "pull_off"
            piece.legato(stroke, low + width if up else low, beat, name, 0.004, False)
    return piece


def fast_runs(rng: np.random.Generator) -> Piece:
    """Bursts of picked scale at 11 to 14 notes a second, tremolo on one pitch among them, then a long note."""
    piece, root = Piece("fast runs"), int(rng.integers(52, 64))
    notes = ladder(root, NATURAL_MINOR, root, root + 21)
    for _ in range(6):
        at, beat = int(rng.integers(0, len(notes))), 1.0 / float(rng.uniform(11, 14))
        way = 1 if at < len(notes) // 2 else -1
        for index in range(int(rng.integers(6, 13))):
            piece.pick(notes[at], beat, rng)
            if rng.random() < 0.8 and 0 <= at + way < len(notes):
                at += way
            elif index % 3 == 2:
                way = -way
        piece.pick(notes[at], float(rng.uniform(0.3, 0.7)), rng)
        piece.now += 0.15
    return piece


def short_notes(rng: np.random.Generator) -> Piece:
    """Staccato: notes let go after a third to a half of their beat, and the same pitch struck again and again."""
    piece, root = Piece("short notes"), int(rng.integers(50, 64))
    notes = ladder(root, MINOR_PENTATONIC, root, root + 19)
    for _ in range(10):
        pitch, beat = int(rng.choice(notes)), float(rng.uniform(0.16, 0.3))
        short = rng.random() < 0.6
        for _ in range(int(rng.integers(1, 5))):
            piece.pick(pitch, beat, rng, gap=float(rng.uniform(0.5, 0.65)) if short else 0.03)
            if short:
                piece.truth[-1].techniques = ("staccato",)
    return piece


def grace_notes(rng: np.random.Generator) -> Piece:
    """Notes hammered on or slid into from a grace note of 55 to 75 ms, among plain ones."""
    piece, root = Piece("grace notes"), int(rng.integers(55, 66))
    notes = ladder(root, NATURAL_MINOR, root, root + 17)
    for _ in range(22):
        at = int(rng.integers(1, len(notes)))
        if rng.random() < 0.4:
            stroke = piece.pick(notes[at - 1], float(rng.uniform(0.055, 0.075)), rng, gap=0.0)
            piece.truth[-1].techniques = ("grace",)
            piece.legato(stroke, notes[at], float(rng.uniform(0.25, 0.5)), "hammer_on", 0.004, False)
        else:
            piece.pick(notes[at], float(rng.uniform(0.15, 0.4)), rng)
    return piece


IDIOMS: tuple[Callable[[np.random.Generator], Piece], ...] = (
    box_runs, bends, one_string, three_a_string, arpeggios, trills, fast_runs, short_notes, grace_notes,
)  # fmt: skip


def double_stops(rng: np.random.Generator) -> Piece:
    """Thirds, fourths, fifths and sixths struck together, with single notes between."""
    return _together("double stops", (3, 4, 5, 7, 8, 9), rng)


def octaves(rng: np.random.Generator) -> Piece:
    """Lines in octaves, with single notes between."""
    return _together("octaves", (12,), rng)


def _together(idiom: str, intervals: tuple[int, ...], rng: np.random.Generator) -> Piece:
    piece, root = Piece(idiom), int(rng.integers(48, 60))
    notes = ladder(root, NATURAL_MINOR, root, root + 15)
    at = int(rng.integers(0, len(notes)))
    for _ in range(26):
        at = int(np.clip(at + rng.integers(-3, 4), 0, len(notes) - 1))
        beat = float(rng.uniform(0.16, 0.6))
        stroke = piece.pick(notes[at], beat, rng)
        if rng.random() < 0.65:
            above = notes[at] + int(rng.choice(intervals))
            velocity = int(np.clip(stroke.velocity + rng.integers(-12, 13), 50, 120))
            late = stroke.onset + float(rng.uniform(0.0, 0.012))
            piece.strokes.append(Stroke(late, stroke.end, above, velocity))
            piece.truth[-1].techniques = ("double_stop",)
            piece.truth.append(True_(late, stroke.end - late, above, ("double_stop",)))
    return piece


def seconds_since(onsets: Sequence[float], count: int) -> NDArray[np.float64]:
    """Of each of so many samples the seconds since the last of some onsets."""
    times, onsets = np.arange(count) / RATE_HZ, sorted(onsets)
    return np.asarray(times - np.concatenate([[0.0], onsets])[np.searchsorted(onsets, times, side="right")])


TOGETHER: tuple[Callable[[np.random.Generator], Piece], ...] = (double_stops, octaves)


def lead_events(piece: Piece, detune_cents: float) -> list[tuple[float, int, mido.Message]]:
    """(time, order among equals, message) of the piece, its curves as pitch wheel."""
    events: list[tuple[float, int, mido.Message]] = []

    def wheel(channel: int, at: float, semitones: float) -> None:
        value = int(np.clip(round((semitones + detune_cents / 100) / WHEEL_RANGE * 8192), -8192, 8191))
        events.append((at, 1, mido.Message("pitchwheel", channel=channel, pitch=value)))

    for index, stroke in enumerate(piece.strokes):
        later = (other.onset - 0.003 for other in piece.strokes[index + 1 :] if other.channel == stroke.channel)
        channel, following = stroke.channel, next(later, np.inf)
        wheel(channel, max(stroke.onset - 0.001, 0), stroke.curve[0][1] if stroke.curve else 0.0)
        struck = mido.Message("note_on", channel=channel, note=stroke.pitch, velocity=stroke.velocity)
        events.append((stroke.onset, 2, struck))
        events.append((stroke.end, 0, mido.Message("note_off", channel=channel, note=stroke.pitch)))
        if stroke.curve or stroke.vibrato:
            first = stroke.curve[0][0] if stroke.curve else stroke.onset
            times = np.arange(first, min(stroke.end, following), _WHEEL_STEP_S)
            levels = np.interp(times, *zip(*stroke.curve, strict=True)) if stroke.curve else np.zeros(len(times))
            if stroke.vibrato:
                since = times - stroke.vibrato[0]
                ease = np.clip(since / 0.1, 0, 1)
                levels = levels + ease * stroke.vibrato[2] / 100 * np.sin(2 * np.pi * stroke.vibrato[1] * since)
            for at, level in zip(times, levels, strict=True):
                wheel(channel, float(at), float(level))
    return events


def write_midi(events: list[tuple[float, int, mido.Message]], programs: dict[int, int], path: Path) -> None:
    """Write events as a MIDI file, one tick a millisecond; `programs` of each channel."""
    file = mido.MidiFile(ticks_per_beat=500)  # at the default 120 beats a minute a tick is 1 ms
    track = mido.MidiTrack()
    file.tracks.append(track)
    for channel, program in programs.items():
        track.append(mido.Message("program_change", channel=channel, program=program))
        for control, value in ((101, 0), (100, 0), (6, WHEEL_RANGE), (38, 0)):
            track.append(mido.Message("control_change", channel=channel, control=control, value=value))
    ticks = 0
    for at, _, message in sorted(events, key=lambda event: (round(event[0], 3), event[1])):
        due = round(at * 1000)
        track.append(message.copy(time=max(0, due - ticks)))
        ticks = max(ticks, due)
    file.save(str(path))


def play_midi(
    events: list[tuple[float, int, mido.Message]], programs: dict[int, int], soundfont: str, dry: bool = False
) -> NDArray[np.float32]:
    """Events rendered by fluidsynth (the patches by timidity), mono samples at RATE_HZ.

    `dry` is without fluidsynth's reverberation and chorus.
    """
    with tempfile.TemporaryDirectory() as folder:
        midi = Path(folder) / "piece.mid"
        write_midi(events, programs, midi)
        if soundfont != PATCHES:
            return play_file(midi, soundfont, dry)
        subprocess.run(_TIMIDITY, cwd=folder, env={"PATH": "/usr/bin"}, check=True, capture_output=True)
        samples, _ = soundfile.read(midi.with_suffix(".wav"), dtype="float32", always_2d=True)
    return np.asarray(samples.mean(axis=1))


def play_file(midi: Path, soundfont: str, dry: bool = False) -> NDArray[np.float32]:
    """A MIDI file as fluidsynth plays it, as play_midi.

    By a synthesiser of its own, for one that has played before plays the same piece otherwise.
    """
    effects = {"synth.reverb.active": int(not dry), "synth.chorus.active": int(not dry)}
    # Only what is played is loaded of the soundfont: as quick as a synthesiser that is kept.
    synth = fluidsynth.Synth(_GAIN, RATE_HZ, channels=16, **{"synth.dynamic-sample-loading": 1}, **effects)
    if synth.sfload(str(SOUNDFONTS[soundfont]), update_midi_preset=1) < 0:
        raise FileNotFoundError(SOUNDFONTS[soundfont])
    player = fluidsynth.new_fluid_player(synth.synth)
    fluidsynth.fluid_player_add(player, str(midi).encode())
    fluidsynth.fluid_player_play(player)
    blocks = []
    while fluidsynth.fluid_player_get_status(player) == fluidsynth.FLUID_PLAYER_PLAYING:
        left, right = np.empty((2, _BLOCK), np.float32)
        _write_float(synth.synth, _BLOCK, left.ctypes.data, 0, 1, right.ctypes.data, 0, 1)
        blocks.append((left + right) / 2)
    fluidsynth.delete_fluid_player(player)
    synth.delete()
    return np.concatenate(blocks)


def render(
    piece: Piece, program: str, detune_cents: float, soundfont: str, semitones: int = 0
) -> NDArray[np.float32]:
    """The piece as mono samples at RATE_HZ.

    Played `semitones` higher, and as much quicker, on a tape that is then slowed to the piece's own pitch: an
    instrument of another size, with a body, attacks and a decay that none of the soundfont has.
    """
    quicker = 2 ** (semitones / 12)
    events = [
        (at / quicker, order, message.copy(note=message.note + semitones) if hasattr(message, "note") else message)
        for at, order, message in lead_events(piece, detune_cents)
    ]
    channels = {stroke.channel for stroke in piece.strokes}
    number = (PROGRAMS | BARE_PROGRAMS | PLUCKED_PROGRAMS)[program]
    samples = play_midi(events, dict.fromkeys(channels, number), soundfont)
    return samples if semitones == 0 else resample(samples, RATE_HZ, round(RATE_HZ * quicker))
