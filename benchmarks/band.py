"""A lead over a band: both composed to one tempo and set of changes, rendered apart and mixed at a given level."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import mido
import numpy as np
from numpy.typing import NDArray

from benchmarks.pieces import PROGRAMS, Piece, Stroke, play_midi, render
from eager_owl.rhythm.grid import BeatGrid

DRUMS = 9  # the General MIDI drum channel
_KICK, _SNARE, _CLOSED_HAT, _RIDE, _CRASH = 36, 38, 42, 51, 49
COMPING = {"organ": 16, "electric piano": 4, "second guitar": 27, "piano": 0, "nylon guitar": 24, "strings": 48}
# Sounds with stronger partials, and basses, for learning what does not hang on a sound.
OTHER_COMPING = {"clavinet": 7, "accordion": 21, "driven guitar": 29, "brass": 61, "saw": 81, "vibraphone": 11}
BASSES, OTHER_BASSES = (33, 32, 34, 35), (38, 39, 36, 43)


@dataclass(frozen=True)
class Chorded:
    """A chord of the band: its root (semitones above the key's, or a pitch class), tones and bass above the root."""

    root: int
    tones: tuple[int, ...]
    bass: int = 0


Play = Callable[[Piece, str, float, str], NDArray[np.float32]]  # as render in pieces.py
Changes = tuple[tuple[Chorded, ...], ...]  # a bar each, of one chord or, half and half, of two
_PLAIN_CHANGES = (
    ((0, (0, 3, 7)), (5, (0, 3, 7)), (0, (0, 3, 7)), (7, (0, 4, 7, 10))),
    ((0, (0, 4, 7, 10)), (5, (0, 4, 7, 10)), (0, (0, 4, 7, 10)), (7, (0, 4, 7, 10))),
    ((0, (0, 3, 7)), (8, (0, 4, 7)), (3, (0, 4, 7)), (10, (0, 4, 7))),
    ((2, (0, 3, 6, 10)), (7, (0, 4, 7, 10)), (0, (0, 3, 7, 10)), (0, (0, 3, 7, 10))),
    ((0, (0, 3, 7, 10)), (5, (0, 4, 7, 10)), (0, (0, 3, 7, 10)), (5, (0, 4, 7, 10))),
)
CHANGES: tuple[Changes, ...] = tuple(tuple((Chorded(*chord),) for chord in row) for row in _PLAIN_CHANGES)
_SCALES = ((0, 3, 5, 7, 10), (0, 3, 5, 6, 7, 10), (0, 2, 3, 5, 7, 8, 10), (0, 2, 3, 5, 7, 9, 10))


@dataclass(frozen=True)
class Mix:
    """Mono samples at RATE_HZ, the lead's truth and its tuning, beats and downbeats in seconds, and the chords."""

    samples: NDArray[np.float32]
    lead: Piece
    detune_cents: float
    beats: NDArray[np.float64]
    downbeats: NDArray[np.float64]
    chords: Changes  # by pitch classes


@dataclass(frozen=True)
class Score:
    """Tempo, meter and changes that lead and band share.

    `beat_s` is a quarter, or a dotted quarter where `compound` (6/8 has two such beats a bar, 12/8 four).
    """

    beat_s: float
    beats_per_bar: int
    bars: int
    key: int
    changes: Changes
    swung: bool
    compound: bool
    first_s: float = 0.6

    def beat_at(self, beat: float) -> float:
        """Seconds of a beat; the second eighth of a beat is late where swung."""
        whole, part = divmod(beat, 1.0)
        if self.swung:
            part = part * 4 / 3 if part <= 0.5 else 2 / 3 + (part - 0.5) * 2 / 3
        return self.first_s + (whole + part) * self.beat_s

    def chord(self, bar: int, beat: int = 0) -> Chorded:
        """At a beat of a bar, in the key."""
        chords = self.chords(bar)
        return chords[beat * len(chords) // self.beats_per_bar]

    def chords(self, bar: int) -> tuple[Chorded, ...]:
        """Of a bar, in the key; only the first of two where its beats can't be halved."""
        chords = self.changes[bar % len(self.changes)][: 2 - self.beats_per_bar % 2]
        return tuple(replace(chord, root=self.key + chord.root) for chord in chords)


Compose = Callable[[Score, np.random.Generator], Piece]
Events = list[tuple[float, int, mido.Message]]  # seconds, what goes first of what is at once, and the message
Arrange = Callable[[Score, Events, np.random.Generator], Events]


def compose_score(rng: np.random.Generator, bars: int = 12, changes: Sequence[Changes] = CHANGES) -> Score:
    """A tempo of 72 to 150 (compound: 50 to 100), 3/4, 4/4, 6/8 or 12/8, straight or swung."""
    compound = bool(rng.random() < 0.2)
    return Score(
        60.0 / float(rng.uniform(50, 100) if compound else rng.uniform(72, 150)),
        int(rng.choice([2, 4] if compound else [3, 4, 4, 4])),
        bars,
        int(rng.integers(0, 12)),
        changes[int(rng.integers(len(changes)))],
        bool(not compound and rng.random() < 0.35),
        compound,
    )


def compose_lead(score: Score, rng: np.random.Generator, sliding: bool = False) -> Piece:
    """Phrases of eighths, triplets, sixteenths and long notes, with bends, vibrato, legato and breaths.

    `sliding` makes more of it legato, and some of that slides.
    """
    piece = Piece("over a band")
    steps = _SCALES[int(rng.integers(len(_SCALES)))]
    low = int(rng.integers(45, 61))
    ladder = [p for p in range(low, min(low + 29, 86)) if (p - score.key) % 12 in steps]
    at, last = int(rng.integers(3, len(ladder) - 3)), score.bars * score.beats_per_bar
    beat = float(rng.choice([0, 0.5, 1]))
    cells = [1 / 6, 1 / 3, 1 / 3, 2 / 3, 1.0, 2.0] if score.compound else [0.25, 1 / 3, 0.5, 0.5, 1.0, 2.0]
    shares = [0.15, 0.15, 0.3, 0.15, 0.17, 0.08]
    while beat < last - 1:
        cell = float(rng.choice(cells, p=shares))
        count = {0.25: 4, 1 / 6: 6, 1 / 3: 3, 0.5: 2}.get(cell, 1)
        beat = np.ceil(beat - 1e-6) if cell <= 1 / 3 or score.compound else beat
        for _ in range(count):
            at = int(
                np.clip(at + rng.choice([-2, -1, 0, 1, 2], p=[0.13, 0.34, 0.06, 0.34, 0.13]), 0, len(ladder) - 1)
            )
            piece.now = score.first_s + beat * score.beat_s if cell == 1 / 3 else score.beat_at(beat)
            length = cell * score.beat_s
            near = bool(piece.strokes) and abs(ladder[at] - piece.truth[-1].pitch) in (1, 2, 3)
            legato = near and rng.random() < (0.3 if sliding else 0.15)
            previous = piece.strokes[-1] if piece.strokes else None
            if (
                legato
                and previous
                and not previous.vibrato
                and not piece.truth[-1].bend_cents
                and previous.end > piece.now - 0.12
            ):
                name, glide_s = "hammer_on" if ladder[at] > piece.truth[-1].pitch else "pull_off", 0.004
                if sliding and length > 0.15 and rng.random() < 0.4:
                    name, glide_s = "slide", float(rng.uniform(0.05, 0.09))
                piece.legato(previous, ladder[at], length, name, glide_s, name == "slide" and rng.random() < 0.5)
            else:
                _decorate(piece, piece.pick(ladder[at], length, rng), length, rng)
            beat += cell
        if rng.random() < 0.18:
            beat += float(rng.choice([0.5, 1.0, 2.0]))
    return piece


def _decorate(piece: Piece, stroke: Stroke, length: float, rng: np.random.Generator) -> None:
    if length < 0.45:
        return
    draw = rng.random()
    if draw < 0.25:
        size = float(rng.choice([1.0, 2.0]))
        start = stroke.onset + float(rng.uniform(0.03, 0.1))
        stroke.curve = [(start, 0.0), (start + float(rng.uniform(0.09, 0.18)), size)]
        piece.truth[-1].techniques, piece.truth[-1].bend_cents = ("bend",), 100 * size
    elif draw < 0.55:
        stroke.vibrato = (stroke.onset + 0.15, float(rng.uniform(4.5, 6.5)), float(rng.uniform(18, 40)))
        piece.truth[-1].techniques = ("vibrato",)


def band_events(score: Score, rng: np.random.Generator) -> Events:
    """Bass on channel 1, chords on channel 2, drums on channel 9."""
    events: Events = []

    def play(channel: int, note: int, beat: float, length: float, velocity: int) -> None:
        start = score.beat_at(beat) + float(rng.normal(0, 0.004))
        end = start + length * score.beat_s
        events.append((start, 2, mido.Message("note_on", channel=channel, note=note, velocity=velocity)))
        events.append((end, 0, mido.Message("note_off", channel=channel, note=note)))

    walking, comp, floor = bool(rng.random() < 0.5), int(rng.integers(4)), int(rng.integers(48, 62))
    halves = (1 / 3, 2 / 3) if score.compound else (0.5,)
    ride = _RIDE if rng.random() < 0.4 else _CLOSED_HAT
    n = score.beats_per_bar
    for bar in range(score.bars):
        start = bar * n
        for beat in range(n):
            chord, changes = score.chord(bar, beat), beat == 0 or score.chord(bar, beat) != score.chord(bar, beat - 1)
            low, under = 36 + (chord.root - 36) % 12, 36 + (chord.root + chord.bass - 36) % 12
            voicing = sorted(floor + (chord.root + tone - floor) % 12 for tone in chord.tones)
            if walking:
                note = under if changes else low + int(rng.choice(chord.tones))
                play(1, note, start + beat, 0.9, int(rng.integers(80, 105)))
            elif beat in (0, 2) or rng.random() < 0.25:
                play(1, under if changes else low + 7, start + beat, 1.6 if beat == 0 else 0.9, 95)
            play(DRUMS, ride, start + beat, 0.2, 75 if beat else 85)
            for half in halves:
                if rng.random() < 0.7:
                    play(DRUMS, ride, start + beat + half, 0.2, 55)
            if beat == 0 or (n == 4 and beat == 2) or rng.random() < 0.1:
                play(DRUMS, _KICK, start + beat, 0.2, 100)
            if (n == 4 and beat in (1, 3)) or (n == 3 and beat == 2) or (n == 2 and beat == 1):
                play(DRUMS, _SNARE, start + beat, 0.2, 95)
            if comp == 3:  # broken chords
                for i, part in enumerate((0.0, *halves)):
                    note = voicing[(beat * (1 + len(halves)) + i) % len(voicing)]
                    play(2, note, start + beat + part, 0.9, int(rng.integers(65, 90)))
                continue
            stabs = {0: (0.0,) if changes else (), 1: (0.0,), 2: (halves[0],) if beat % 2 else ()}[comp]
            for stab in stabs:
                for note in voicing:
                    length = 0.95 * n / len(score.chords(bar)) if comp == 0 else 0.45
                    play(2, note, start + beat + stab, length, int(rng.integers(65, 90)))
        if bar % 4 == 0:
            play(DRUMS, _CRASH, start, 0.5, 70)
    return events


def mixed(
    seed: int,
    program: str,
    comping: str,
    lead_to_band_db: float,
    soundfont: str,
    band_soundfont: str | None = None,
    touch: Callable[[NDArray[np.float32]], NDArray[np.float32]] = lambda lead: lead,
    changes: Sequence[Changes] = CHANGES,
    basses: Sequence[int] = BASSES,
    channels: Sequence[int] = (1, 2, DRUMS),
    compose: Compose = compose_lead,
    play: Play = render,
    arrange: Arrange = lambda score, events, rng: events,
) -> Mix:
    """A lead over a band, the lead's mean power `lead_to_band_db` over the band's; `touch` is done to the lead,

    which is composed and played as it is here, or in other ways. Of the band, which may be arranged otherwise, only
    some `channels` may play: bass 1, chords 2, drums 9.
    """
    rng = np.random.default_rng(seed)
    score = compose_score(rng, changes=changes)
    lead = compose(score, rng)
    detune = float(rng.uniform(-30, 30))
    lead_sound = touch(play(lead, program, detune, soundfont))
    events = arrange(score, band_events(score, rng), rng)
    events = [event for event in events if event[2].channel in channels]
    for channel in (1, 2):
        events.append((0.0, 0, mido.Message("pitchwheel", channel=channel, pitch=round(detune / 1200 * 8192))))
    programs = {1: int(rng.choice(basses)), 2: (COMPING | OTHER_COMPING)[comping]}
    band_sound = play_midi(events, programs, band_soundfont or soundfont)
    size = max(len(lead_sound), len(band_sound))
    lead_sound, band_sound = (np.pad(s, (0, size - len(s))) for s in (lead_sound, band_sound))
    power = float(np.mean(lead_sound**2)) / max(float(np.mean(band_sound**2)), 1e-12)
    band_sound = band_sound * np.sqrt(power / 10 ** (lead_to_band_db / 10))
    together = lead_sound + band_sound
    beats = np.array([score.beat_at(beat) for beat in range(score.bars * score.beats_per_bar)])
    return Mix(
        (together / max(1.0, float(np.abs(together).max()) / 0.95)).astype(np.float32),
        lead,
        detune,
        beats,
        beats[:: score.beats_per_bar],
        tuple(
            tuple(replace(chord, root=chord.root % 12) for chord in score.chords(bar)) for bar in range(score.bars)
        ),
    )


def grid_of(mix: Mix) -> BeatGrid:
    """The beat grid that a mix was played to."""
    per_bar = len(mix.beats) // len(mix.downbeats)
    beat_s = float(mix.downbeats[1] - mix.downbeats[0]) / per_bar
    anchors = tuple((float(bar * per_bar), float(at)) for bar, at in enumerate(mix.downbeats))
    return BeatGrid(60 / beat_s, float(mix.downbeats[0]), per_bar, anchors)


__all__ = ["COMPING", "PROGRAMS", "Mix", "grid_of", "mixed"]
