"""Sounds as records have them, to measure and to train on: coloured guitars, and leads in dense stereo bands."""

import io
from collections.abc import Callable
from dataclasses import dataclass

import mido
import numpy as np
import pedalboard
import soundfile
from numpy.typing import NDArray

from benchmarks.band import COMPING, OTHER_COMPING, Compose, Play, Score, band_events, compose_lead, compose_score
from benchmarks.pieces import PROGRAMS, RATE_HZ, Piece, lead_events, play_midi, render

Sound = NDArray[np.float32]
_ANSWERING = (25, 26, 27, 29, 56, 57, 65, 66, 71, 22, 73)  # guitars, horns, reeds, a harmonica, a flute
# What else plays in a dense band, sustained under it.
_PADS = {"strings": 48, "choir": 52, "synth pad": 89, "brass": 61}


@dataclass(frozen=True)
class DenseBand:
    """A mix, (frames, 2) at RATE_HZ, what its lead truly played and on which program, and the tuning offset;

    and what another voice answered, if one did.
    """

    lead: Piece
    program: str
    detune_cents: float
    sound: Sound
    answer: Piece | None = None


def _through(*plugins: pedalboard.Plugin) -> Callable[[Sound], Sound]:
    def play(sound: Sound) -> Sound:
        out = pedalboard.Pedalboard(list(plugins))(np.stack([sound, sound]), RATE_HZ)
        return np.asarray(out.T, dtype=np.float32)

    return play


def _low_bit_rate(sound: Sound) -> Sound:
    out = io.BytesIO()
    with soundfile.SoundFile(out, "w", RATE_HZ, 1, format="MP3", compression_level=0.95) as file:
        file.write(sound)
    out.seek(0)
    found, _ = soundfile.read(out, dtype="float32", always_2d=True)
    return np.asarray(found, dtype=np.float32)


def _with_hum(sound: Sound) -> Sound:
    time_s = np.arange(len(sound)) / RATE_HZ
    level = float(np.sqrt(np.mean(sound**2)))
    hum = sum(np.sin(2 * np.pi * 50 * k * time_s) / k for k in (1, 2, 3, 5))
    noise = np.random.default_rng(7).normal(0, 1, len(sound))
    return np.asarray(sound + 0.12 * level * hum + 0.04 * level * noise, dtype=np.float32)[:, None]


def colours(rng: np.random.Generator) -> dict[str, Callable[[Sound], Sound]]:
    """What is done to a guitar alone, by name, at settings of its own each time."""

    def pick(low: float, high: float) -> float:
        return float(rng.uniform(low, high))

    reverb = pedalboard.Reverb(room_size=pick(0.7, 0.95), wet_level=pick(0.25, 0.4), dry_level=0.7)
    echo = pedalboard.Delay(pick(0.22, 0.45), pick(0.25, 0.45), pick(0.25, 0.4))
    amplifier = (
        pedalboard.NoiseGate(-50, 6),
        pedalboard.Distortion(pick(18, 34)),
        pedalboard.HighShelfFilter(3500, pick(-14, -6)),
        pedalboard.Gain(-14),
    )
    return {
        "hall": _through(reverb),
        "echo": _through(echo),
        "drive": _through(*amplifier),
        "chorus": _through(pedalboard.Chorus(pick(0.6, 1.6), pick(0.15, 0.3), mix=0.5)),
        "phaser": _through(pedalboard.Phaser(pick(0.3, 1.0), mix=0.5)),
        "low bit rate": _low_bit_rate,
        "hum": _with_hum,
        "phone": _through(pedalboard.HighpassFilter(320), pedalboard.LowpassFilter(3200)),
        "mastered": _through(pedalboard.Compressor(-30, 8, 2, 90), pedalboard.Gain(12), pedalboard.Limiter(-1.0)),
    }


def _balance(sound: Sound, place: float) -> Sound:
    """A mono sound at a place from -1 to 1, with equal power, shape (frames, 2)."""
    angle = (place + 1) * np.pi / 4
    return np.stack([np.cos(angle) * sound, np.sin(angle) * sound], axis=1).astype(np.float32)


def _only(events: list[tuple[float, int, mido.Message]], channel: int) -> list[tuple[float, int, mido.Message]]:
    return [event for event in events if event[2].channel == channel]


def _within(piece: Piece, spans: list[tuple[float, float]], kept: bool) -> Piece:
    """What of a piece begins within some spans of time, or all else."""
    strokes = [s for s in piece.strokes if any(a <= s.onset < b for a, b in spans) == kept]
    held = [(s.onset - 0.01, s.end) for s in strokes]
    truth = [t for t in piece.truth if any(a <= t.onset < b for a, b in held)]
    return Piece(piece.idiom, strokes, truth)


def sliding_lead(score: Score, rng: np.random.Generator) -> Piece:
    """A lead with more legato, and slides."""
    return compose_lead(score, rng, sliding=True)


def dense_band(
    seed: int,
    level_db: float,
    font: str,
    band_font: str,
    answered: bool = False,
    compose: Compose = sliding_lead,
    play: Play = render,
) -> DenseBand:
    """A lead, somewhat off the centre, over bass, drums, two comping parts and a pad, in one room.

    Where it is `answered`, a horn or another guitar plays the second two of each four bars, as loud and elsewhere.
    """
    rng = np.random.default_rng(seed)
    score: Score = compose_score(rng, bars=8)
    lead = compose(score, rng)
    answer = None
    if answered:
        bars = [score.beat_at(bar * score.beats_per_bar) - 0.05 for bar in range(score.bars + 1)]
        spans = [(bars[i], bars[i + 2]) for i in range(2, score.bars, 4)]
        answer = _within(compose_lead(score, np.random.default_rng(seed + 1)), spans, kept=True)
        lead = _within(lead, spans, kept=False)
    program = str(rng.choice([name for name in PROGRAMS if name != "nylon"]))
    detune = float(rng.uniform(-25, 25))
    lead_sound = play(lead, program, detune, font)
    if program in ("clean", "steel") and rng.random() < 0.4:
        lead_sound = _through(pedalboard.Distortion(float(rng.uniform(10, 22))), pedalboard.Gain(-10))(lead_sound)[
            :, 0
        ]
    comping = {**COMPING, **OTHER_COMPING}
    first, second = (int(comping[name]) for name in rng.choice(list(comping), 2, replace=False))
    pad = int(_PADS[str(rng.choice(list(_PADS)))])
    one, other = band_events(score, rng), band_events(score, rng)
    side = float(rng.choice((-1, 1)))
    parts = [
        (_only(one, 1), {1: int(rng.choice((32, 33, 34, 35)))}, 0.0, 1.0),
        (_only(one, 9), {}, float(rng.uniform(-0.2, 0.2)), 0.9),
        (_only(one, 2), {2: first}, side * float(rng.uniform(0.3, 0.8)), 0.8),
        (_only(other, 2), {2: second}, -side * float(rng.uniform(0.3, 0.8)), 0.7),
        (_only(other, 2), {2: pad}, float(rng.uniform(-0.3, 0.3)), 0.5),
    ]
    band = np.zeros((len(lead_sound), 2), np.float32)
    for events, programs, place, gain in parts:
        if not events:
            continue
        for channel in programs:
            events = [
                *events,
                (0.0, 0, mido.Message("pitchwheel", channel=channel, pitch=round(detune / 1200 * 8192))),
            ]
        sound = play_midi(events, programs, band_font)
        part = _balance(gain * sound / max(float(np.sqrt(np.mean(sound**2))), 1e-9), place)
        size = max(len(band), len(part))
        band = np.pad(band, ((0, size - len(band)), (0, 0))) + np.pad(part, ((0, size - len(part)), (0, 0)))
    lead_part = np.pad(
        _balance(lead_sound, float(rng.uniform(-0.45, 0.45))), ((0, len(band) - len(lead_sound)), (0, 0))
    )
    powers = [float(np.mean(part.mean(axis=1) ** 2)) for part in (lead_part, band)]
    together = lead_part + band * np.sqrt(powers[0] / powers[1] / 10 ** (level_db / 10))
    if answer is not None and answer.strokes:
        voice = _ANSWERING[int(rng.integers(len(_ANSWERING)))]
        sound = play_midi(lead_events(answer, detune), {0: voice}, band_font)[: len(together)]
        sound = (
            sound * np.sqrt(powers[0] / max(float(np.mean(sound**2)), 1e-9)) * 10 ** (float(rng.uniform(-4, 3)) / 20)
        )
        place = float(rng.choice((-1, 1))) * float(rng.uniform(0.0, 0.9))
        together[: len(sound)] += _balance(sound, place)
    room = pedalboard.Reverb(room_size=float(rng.uniform(0.2, 0.6)), wet_level=float(rng.uniform(0.05, 0.15)))
    out = pedalboard.Pedalboard([room])(together.T.astype(np.float32), RATE_HZ).T
    out = out * (0.9 / float(np.abs(out).max()))
    return DenseBand(lead, program, detune, np.asarray(out, dtype=np.float32), answer)
