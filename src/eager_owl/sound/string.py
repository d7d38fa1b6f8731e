"""A plucked string by modal synthesis: decaying partials of one string, driven by a pitch contour.

Partial k of a string plucked at a share p of its length starts with amplitude proportional to
sin(pi * k * p) / k, lies at k * f0 * sqrt(1 + B k^2) for stiffness B, and dies away the faster the higher
it is (N. Fletcher and T. Rossing, The Physics of Musical Instruments, chapters 2 and 9). Legato notes bend
the running phases to another pitch, so no new attack is heard; that is what a hammer-on does, nearly.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from eager_owl.solo.document import Note
from eager_owl.solo.techniques import LEGATO, Technique
from eager_owl.theory.pitch import midi_to_hz

PICK_POSITION = 0.17  # of the open string, from the bridge
STIFFNESS = 1.2e-4  # of a note whose string is not known
# Inharmonicity of the open strings from the thinnest on, about as I. Barbancho et al. (2012) measured electric ones.
_OPEN_STIFFNESS = (2.2e-5, 3.6e-5, 8.5e-5, 3.2e-5, 5.0e-5, 9.0e-5, 1.4e-4, 2.0e-4)
_HIGHEST_PARTIAL_HZ = 7000.0
_MOST_PARTIALS = 30
_DECAY_S = 2.6  # of the fundamental, to 1/e
_DAMPED_S = 0.045
_PURE_PARTIALS = 2
# Muted strings raked across before a note: so far apart, so much under it.
_SCRAPE_S, _SCRAPE_DB = 0.045, -10.0
_HAMMER_S, _SLIDE_S = 0.006, 0.07
_BEND_START_S, _BEND_RISE_S, _BEND_RELEASE_S = 0.07, 0.14, 0.14
_BAR_START_S, _BAR_S, _BAR_SEMITONES = 0.2, 0.14, 2.0
_VIBRATO_START_S, _VIBRATO_EASE_S = 0.18, 0.1
_LEGATO_GAIN, _LEGATO_AGE_S = 0.8, 0.2
_JOINED_S = 0.08  # a legato note this soon after the note before is on its stroke


@dataclass(frozen=True)
class Stroke:
    """One attack and the notes that sound on from it."""

    notes: tuple[Note, ...]

    @property
    def onset(self) -> float:
        """Seconds of the attack."""
        return self.notes[0].onset

    @property
    def end(self) -> float:
        """Seconds at which the last note is damped, or has rung out."""
        last = self.notes[-1]
        return last.end + max((technique.kind.rings_s for technique in last.techniques), default=0.0)


def strokes(notes: Sequence[Note]) -> list[Stroke]:
    """Group notes (by onset) into strokes."""
    groups: list[list[Note]] = []
    for note in notes:
        last = groups[-1][-1] if groups else None
        if last and note.technique(*LEGATO) and note.onset - last.end < _JOINED_S and note.onset > last.onset:
            groups[-1].append(note)
        else:
            groups.append([note])
    return [Stroke(tuple(group)) for group in groups]


def pitch_contour(stroke: Stroke, times: NDArray[np.float64]) -> NDArray[np.float64]:
    """Sounding pitch in MIDI numbers at times (s) of the recording."""
    midi = np.full(len(times), float(stroke.notes[0].pitch))
    for before, note in zip((None, *stroke.notes[:-1]), stroke.notes, strict=True):
        if before is not None:
            slide = note.technique("slide")
            glide = (slide.rise_s or _SLIDE_S) if slide else _HAMMER_S
            share = np.clip((times - note.onset + glide / 2) / glide, 0, 1)
            way = note.pitch - before.pitch
            if slide and abs(way) > 1:
                # Frets passed: a quick step at each, flat between.
                steps = share * abs(way)
                share = (np.floor(steps) + np.clip((steps % 1) * 4, 0, 1)) / abs(way)
                share = np.clip(share, 0, 1)
            midi = np.where(times >= note.onset - glide / 2, before.pitch + way * share, midi)
    following = (*(note.onset for note in stroke.notes[1:]), np.inf)
    for note, until in zip(stroke.notes, following, strict=True):
        midi = midi + np.where(times < until, _ornament(note, times), 0.0)
    return midi


def _ornament(note: Note, times: NDArray[np.float64]) -> NDArray[np.float64]:
    """What a note's bend, vibrato and whammy bar add to its fretted pitch, in semitones."""
    since = times - note.onset
    added = np.zeros(len(times))
    steady = _VIBRATO_START_S
    if (bend := note.bend) is not None:
        rise = bend.rise_s or _BEND_RISE_S
        up = _ease((since - _BEND_START_S) / rise) if not bend.kind.struck_bent else np.ones(len(times))
        down = np.zeros(len(times))
        if bend.kind.released:
            down = _ease((since - 0.55 * note.duration) / (bend.release_s or _BEND_RELEASE_S))
        added += bend.bend_semitones * (up - down)
        steady = _BEND_START_S + rise + 0.08
    if bar := note.technique("dip", "dive"):
        added += _bar(bar, since)
    if vibrato := note.technique("vibrato"):
        ease = np.clip((since - steady) / _VIBRATO_EASE_S, 0, 1)
        wave = np.sin(2 * np.pi * (vibrato.rate_hz or 5.4) * (since - steady))
        added += ease * (vibrato.extent_cents or 25.0) / 100 * wave
    return np.where(since >= 0, added, 0.0)


def _bar(bar: Technique, since: NDArray[np.float64]) -> NDArray[np.float64]:
    """What the whammy bar does to the pitch, in semitones; a dip comes back."""
    down_s = bar.rise_s or _BAR_S
    share = _ease((since - _BAR_START_S) / down_s)
    if bar.name == "dip":
        share -= _ease((since - _BAR_START_S - down_s) / (bar.release_s or _BAR_S))
    return (bar.semitones or -_BAR_SEMITONES) * share


def _ease(share: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(0.5 - 0.5 * np.cos(np.pi * np.clip(share, 0, 1)))


def render_stroke(stroke: Stroke, rate: int, cents: float, noise: np.random.Generator) -> NDArray[np.float64]:
    """Samples of one stroke from its attack on; `cents` tunes it against A4 = 440 Hz."""
    tail = 0.12
    times = stroke.onset + np.arange(round((stroke.end - stroke.onset + tail) * rate)) / rate
    hz = midi_to_hz(pitch_contour(stroke, times) + cents / 100)
    phase = 2 * np.pi * np.cumsum(hz) / rate
    count = int(np.clip(_HIGHEST_PARTIAL_HZ / hz.max(), 3, _MOST_PARTIALS))
    if any(technique.kind.pure for technique in stroke.notes[0].techniques):
        count = _PURE_PARTIALS
    sound = np.zeros(len(times))
    envelopes = [_envelope(stroke, times, 1.0 + 0.22 * (k - 1)) for k in range(1, count + 1)]
    share, stiffness = _string(stroke.notes[0])
    for k, envelope in enumerate(envelopes, 1):
        amplitude = np.sin(np.pi * k * share) / k
        sound += amplitude * envelope * np.sin(k * np.sqrt(1 + stiffness * k * k) * phase)
    # The pick itself: a few milliseconds of bright noise.
    length = round(0.006 * rate)
    scrape = noise.standard_normal(length) * np.linspace(1, 0, length) ** 2
    sound[:length] += 0.18 * _gain(stroke.notes[0]) * scrape[: len(sound)]
    return sound * np.clip((times - stroke.onset) / 0.002, 0, 1)


def _string(note: Note) -> tuple[float, float]:
    """Where a note's sounding length is plucked, as a share of it, and its stiffness: both grow up the neck.

    The same pitch on a thicker string is plucked nearer its middle, and so is rounder in sound.
    """
    if note.string is None or note.fret is None:
        return PICK_POSITION, STIFFNESS
    shorter = 2.0 ** (note.fret / 12)
    open_stiffness = _OPEN_STIFFNESS[min(note.string, len(_OPEN_STIFFNESS)) - 1]
    return min(PICK_POSITION * shorter, 0.5), open_stiffness * shorter**2


def _gain(note: Note) -> float:
    return float(10 ** (note.loudness_db / 20))


def _envelope(stroke: Stroke, times: NDArray[np.float64], speed: float) -> NDArray[np.float64]:
    """Amplitude of a partial that dies `speed` times as fast as the fundamental."""
    level = np.zeros(len(times))
    for note in stroke.notes:
        decay = _decay_s(note, speed)
        since = times - note.onset
        legato = note is not stroke.notes[0]
        # A finger coming down excites the string less, and its upper partials hardly.
        aged = np.maximum(since, 0) + (_LEGATO_AGE_S if legato else 0.0)
        level = np.where(since >= 0, _gain(note) * (_LEGATO_GAIN if legato else 1.0) * np.exp(-aged / decay), level)
    damping = max((t.kind.damping_s or 0.0 for t in stroke.notes[-1].techniques), default=0.0) or _DAMPED_S
    return level * np.exp(-np.maximum(times - stroke.end, 0) / damping * 4)


def _decay_s(note: Note, speed: float) -> float:
    """Seconds in which a partial, dying `speed` times as fast as the fundamental, falls to 1/e."""
    decay = _DECAY_S / speed
    for kind in (technique.kind for technique in note.techniques if technique.kind.decay_s is not None):
        decay = min(decay, (kind.decay_s or 0.0) / (speed**kind.muffled if kind.muffled > 1 else 1.0))
    return decay


def _scrapes(notes: Sequence[Note]) -> list[Note]:
    """Muted strokes on the strings before notes that are raked into."""
    raked = [(note, max((t.kind.scraped for t in note.techniques), default=0)) for note in notes]
    return [
        replace(
            note,
            onset=note.onset - _SCRAPE_S * before,
            duration=_SCRAPE_S,
            pitch=note.pitch - 4 * before,
            string=None,
            techniques=(Technique("ghost"),),
            loudness_db=note.loudness_db + _SCRAPE_DB,
        )
        for note, count in raked
        for before in range(count, 0, -1)
        if note.onset >= _SCRAPE_S * before
    ]


def play_notes(notes: Sequence[Note], rate: int, duration_s: float, cents: float = 0.0) -> NDArray[np.float32]:
    """Notes as an electric guitar would sound them through a small amplifier, shape (frames,), peak about 0.5."""
    noise = np.random.default_rng(8)
    dry = np.zeros(round(duration_s * rate))
    for stroke in [*strokes(_scrapes(notes)), *strokes(notes)]:
        sound = render_stroke(stroke, rate, cents, noise)
        start = round(stroke.onset * rate)
        sound = sound[: max(0, len(dry) - start)]
        dry[start : start + len(sound)] += sound
    driven = np.tanh(2.2 * dry) / 2.2
    cabinet = butter(2, [90.0, 4800.0], "bandpass", fs=rate, output="sos")
    return np.asarray(sosfilt(cabinet, driven), dtype=np.float32)
