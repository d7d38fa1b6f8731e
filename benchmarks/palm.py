"""Phrases with palm-muted runs among plain notes, for training and measuring how they are named."""

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from benchmarks.pieces import (
    MINOR_PENTATONIC,
    MUTED_PROGRAM,
    NATURAL_MINOR,
    PROGRAMS,
    RATE_HZ,
    Piece,
    ladder,
    lead_events,
    play_midi,
    seconds_since,
)  # fmt: skip

_MUTED = 2  # a channel of their own
_SIMULATED_T60_S, _SIMULATED_HZ, _SIMULATED_GAIN = (0.18, 0.6), (700, 2500), 1.6


def palm_muted(rng: np.random.Generator) -> Piece:
    """Muted runs low on the neck with open accents, then a plain line, some of it cut short."""
    piece, root = Piece("palm mute"), int(rng.integers(40, 53))
    low, high = ladder(root, NATURAL_MINOR, root, root + 12), ladder(root, MINOR_PENTATONIC, root + 10, root + 27)
    while piece.now < 11.0:
        beat = float(rng.uniform(0.11, 0.32))
        for _ in range(int(rng.integers(3, 10))):
            stroke = piece.pick(int(rng.choice(low[:4])), beat, rng)
            stroke.channel, piece.truth[-1].techniques = _MUTED, ("palm_mute",)
        for _ in range(int(rng.integers(0, 4))):
            gap = float(rng.choice((0.03, 0.03, 0.3, 0.6)))
            piece.pick(int(rng.choice(low)), beat * float(rng.choice((1, 2, 4))), rng, gap)
        for _ in range(int(rng.integers(0, 6))):
            piece.pick(int(rng.choice(high)), beat, rng, gap=float(rng.choice((0.03, 0.03, 0.4, 0.6))))
        piece.now += float(rng.choice((0.0, 0.3)))
    return piece


def render_muted(
    piece: Piece, program: str, detune_cents: float, soundfont: str, rng: np.random.Generator, simulated: bool = False
) -> NDArray[np.float32]:
    """The piece as mono samples at RATE_HZ, muted strings by the soundfont's own program or `simulated`.

    Simulated ones are plain notes made darker that die away as quickly as a hand on the bridge makes them.
    """
    events, plain = lead_events(piece, detune_cents), PROGRAMS[program]
    if not simulated:
        return play_midi(events, {0: plain, _MUTED: MUTED_PROGRAM}, soundfont)
    rest, muted = (
        play_midi([e for e in events if (e[2].channel == _MUTED) == damped], {0: plain, _MUTED: plain}, soundfont)
        for damped in (False, True)
    )
    size = max(len(rest), len(muted))
    damped = _damped(np.pad(muted, (0, size - len(muted))), piece, rng)
    return np.asarray(np.pad(rest, (0, size - len(rest))) + damped, dtype=np.float32)


def _damped(samples: NDArray[np.float32], piece: Piece, rng: np.random.Generator) -> NDArray[np.float32]:
    t60_s, corner = float(rng.uniform(*_SIMULATED_T60_S)), float(rng.uniform(*_SIMULATED_HZ))
    pole = float(np.exp(-2 * np.pi * corner / RATE_HZ))
    since = seconds_since([stroke.onset for stroke in piece.strokes if stroke.channel == _MUTED], len(samples))
    dark = _SIMULATED_GAIN * lfilter([1 - pole], [1, -pole], samples)
    return np.asarray(dark * 10 ** (-3 * np.maximum(since - 0.01, 0) / t60_s), dtype=np.float32)
