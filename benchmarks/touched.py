"""Phrases with natural harmonics among plain notes, for training and measuring how they are named."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from benchmarks.pieces import (
    MINOR_PENTATONIC,
    NATURAL_MINOR,
    PROGRAMS,
    RATE_HZ,
    Piece,
    Stroke,
    ladder,
    lead_events,
    play_midi,
    seconds_since,
)  # fmt: skip
from eager_owl.solo.document import Instrument

_OPEN = Instrument().tuning[::-1]
_PARTS = {12: 2, 19: 3, 24: 4}  # by semitones over the open string: into so many the finger parts it
_CHANNELS = {over: channel for channel, over in enumerate(_PARTS, 1)}
# The program of touched strings, whose samples sound so far over their key.
_PROGRAM, _PROGRAM_OVER = 31, 24
_TOUCHED_S = (0.005, 0.04)  # in which what the finger stops has gone


def nodes(tuned: int) -> frozenset[int]:
    """The pitches of the strings' natural harmonics, all strings tuned so many semitones higher."""
    return Instrument(tuning=tuple(string + tuned for string in Instrument().tuning)).nodes


def touched(rng: np.random.Generator) -> tuple[Piece, int]:
    """Chimes over one node or several, single harmonics at a line's end, lines on all of the neck between; and how

    the strings are tuned, in semitones over the usual.
    """
    piece, tuned = Piece("harmonics"), int(rng.choice((-2, -1, 0, 0, 0, 0, 1, 2)))
    root = int(rng.integers(40, 60)) + tuned
    notes = ladder(root, NATURAL_MINOR if rng.random() < 0.5 else MINOR_PENTATONIC, 40 + tuned, 86)

    def touch(string: int, over: int, seconds: float, rings_s: float) -> None:
        stroke = piece.pick(_OPEN[string] + tuned + over, seconds, rng)
        stroke.channel = _CHANNELS[over]
        stroke.end += rings_s
        piece.truth[-1].techniques = ("harmonic",)
        piece.truth[-1].duration += rings_s

    while piece.now < 12.0:
        at, quick = int(rng.integers(len(notes))), float(rng.uniform(0.11, 0.5))
        for _ in range(int(rng.integers(2, 10))):
            at = int(np.clip(at + rng.integers(-3, 4), 0, len(notes) - 1))
            piece.pick(
                notes[at], quick * float(rng.choice((1, 1, 1, 2, 4))), rng, gap=float(rng.choice((0.0, 0.03, 0.3)))
            )
        over, string = int(rng.choice([*_PARTS], p=(0.5, 0.3, 0.2))), int(rng.integers(len(_OPEN)))
        beat, count = float(rng.uniform(0.15, 0.9)), int(rng.choice((1, 1, 2, 3, 4, 6)))
        rings = rng.random() < 0.5
        for index in range(count):
            touch(string, over, beat, (count - index) * beat if rings else 0.0)
            string = int(np.clip(string + rng.choice((-1, 1)), 0, len(_OPEN) - 1))
            over = int(rng.choice([*_PARTS])) if rng.random() < 0.2 else over
        if rng.random() < 0.3:
            piece.now += float(rng.uniform(0.1, 0.6))
    # A string that is struck again sounds no more.
    for stroke, true in zip(piece.strokes, piece.truth, strict=True):
        again = [s.onset - 0.004 for s in piece.strokes if s.pitch == stroke.pitch and s.onset > stroke.onset]
        stroke.end = min([stroke.end, *again])
        true.duration = stroke.end - true.onset
    return piece, tuned


def render_touched(
    piece: Piece, program: str, detune_cents: float, soundfont: str, rng: np.random.Generator, simulated: bool
) -> NDArray[np.float32]:
    """The piece as mono samples at RATE_HZ, harmonics by the soundfont's own program or `simulated`.

    Simulated ones are open strings of which a finger lets only every second, third or fourth partial be: the mean of
    the sound and of itself late by that part of its period.
    """
    plain = [stroke for stroke in piece.strokes if stroke.channel not in _CHANNELS.values()]
    parts = [_played(plain, PROGRAMS[program], detune_cents, soundfont)]
    gain, settles_s = float(rng.uniform(0.5, 1.4)), float(rng.uniform(*_TOUCHED_S))
    for over, channel in _CHANNELS.items():
        strokes = [stroke for stroke in piece.strokes if stroke.channel == channel]
        if not simulated:
            lower = [replace(stroke, channel=0, pitch=stroke.pitch - _PROGRAM_OVER) for stroke in strokes]
            parts.append(gain * _played(lower, _PROGRAM, detune_cents, soundfont))
            continue
        for pitch in sorted({stroke.pitch - over for stroke in strokes}):
            string = [replace(s, channel=0, pitch=pitch) for s in strokes if s.pitch - over == pitch]
            sound = _played(string, PROGRAMS[program], detune_cents, soundfont)
            period = RATE_HZ / (440 * 2 ** ((pitch + detune_cents / 100 - 69) / 12))
            let_be = np.mean([_late(sound, period * k / _PARTS[over]) for k in range(_PARTS[over])], axis=0)
            since = seconds_since([stroke.onset for stroke in string], len(sound))
            parts.append(gain * (let_be + np.exp(-since / settles_s) * (sound - let_be)))
    out = np.zeros(max(map(len, parts)), np.float32)
    for part in parts:
        out[: len(part)] += part.astype(np.float32)
    return out


def _played(strokes: Sequence[Stroke], program: int, detune_cents: float, soundfont: str) -> NDArray[np.float32]:
    events = lead_events(Piece("part", [*strokes]), detune_cents)
    return play_midi(events, {0: program}, soundfont) if events else np.zeros(0, np.float32)


def _late(sound: NDArray[np.float32], by: float) -> NDArray[np.float64]:
    """A sound so many samples late, between samples by a straight line."""
    at = np.arange(len(sound)) - by
    return np.interp(at, np.arange(len(sound)), sound, left=0.0)
