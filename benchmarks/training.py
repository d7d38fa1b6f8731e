"""What hearing is trained on: composed phrases and bands of three soundfonts, plain and coloured as records are.

A fourth soundfont is never heard here, so that it can be measured on; nor are the benchmark's seeds.
"""

import argparse
from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass

import numpy as np
import pedalboard
from numpy.typing import NDArray

from benchmarks.band import COMPING, OTHER_COMPING, Play, Score, compose_lead, mixed
from benchmarks.colours import colours, dense_band, sliding_lead
from benchmarks.idioms import HARDER, high_line, the_hand, whammy_bar, wide_vibrato
from benchmarks.pieces import (
    BARE_PROGRAMS,
    IDIOMS,
    PLUCKED_PROGRAMS,
    PROGRAMS,
    RATE_HZ,
    TOGETHER,
    Piece,
    lowered,
    render,
)
from benchmarks.records import pairs
from eager_owl.audio.decode import mono
from eager_owl.hearing.judge import Kind
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import LEGATO, TechniqueName

SOUNDFONTS = ("timgm", "fluidr3", "opl3")
_BARE_EACH = 8  # of so many phrases of the hand, one without a pick
_TURNED_UP = 0.3  # of the leads
_LOW = 0.3  # of the leads, on the lowest strings: hardly any is composed there, where basses play
_LOWEST_MIDI = (38, 47)
_OF_ONE_STRING = (*IDIOMS, the_hand, wide_vibrato, whammy_bar, high_line)


@dataclass(frozen=True)
class Example:
    """Mono samples at RATE_HZ, what the guitar or the lead truly played, and the tuning offset."""

    samples: NDArray[np.float32]
    piece: Piece
    detune_cents: float


def through_effects(samples: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """The guitar with a body, an amplifier and a room of random settings."""
    chain: list[pedalboard.Plugin] = []
    if rng.random() < 0.4:
        chain.append(pedalboard.Distortion(float(rng.uniform(4, 28))))
    if rng.random() < 0.7:
        chain.append(pedalboard.LowShelfFilter(float(rng.uniform(150, 400)), float(rng.uniform(-9, 6))))
        chain.append(pedalboard.HighShelfFilter(float(rng.uniform(1500, 4000)), float(rng.uniform(-14, 6))))
        chain.append(pedalboard.PeakFilter(float(rng.uniform(400, 2500)), float(rng.uniform(-8, 8)), 1.0))
    if rng.random() < 0.4:
        for hz in np.geomspace(110, 3500, 5) * rng.uniform(0.8, 1.25, 5):
            chain.append(pedalboard.PeakFilter(float(hz), float(rng.uniform(-9, 9)), float(rng.uniform(0.8, 3))))
    if rng.random() < 0.3:
        chain.append(pedalboard.Chorus(rate_hz=float(rng.uniform(0.4, 2)), depth=0.15, mix=0.4))
    if rng.random() < 0.5:
        room, wet = float(rng.uniform(0.2, 0.8)), float(rng.uniform(0.05, 0.3))
        chain.append(pedalboard.Reverb(room_size=room, wet_level=wet, dry_level=1.0))
    if rng.random() < 0.3:
        chain.append(pedalboard.Compressor(threshold_db=-24, ratio=4))
    out = pedalboard.Pedalboard(chain)(samples[None, :].astype(np.float32), RATE_HZ)[0]
    power = float(np.mean(samples**2)) / max(float(np.mean(out**2)), 1e-12)
    out = out * np.sqrt(power)
    noise = rng.standard_normal(len(out)) * np.sqrt(float(np.mean(out**2))) * 10 ** (-float(rng.uniform(35, 70)) / 20)
    return np.asarray(out + noise, dtype=np.float32)


def of_many_makers(rng: np.random.Generator) -> Play:
    """How a piece is played, as `render` does, on instruments that differ as those of many makers do.

    Half of them are of another size, some are no guitars; some beat with themselves, of some the attack is softer or
    harder than the soundfont has it, with more of the pick's own noise.
    """

    def play(piece: Piece, program: str, detune_cents: float, font: str) -> NDArray[np.float32]:
        if program in PROGRAMS and rng.random() < 0.15:
            program = str(rng.choice([*PLUCKED_PROGRAMS]))
        semitones = int(rng.integers(-4, 5)) if rng.random() < 0.5 else 0
        samples = render(piece, program, detune_cents, font, semitones)
        if rng.random() < 0.12:
            other = render(piece, program, detune_cents + float(rng.uniform(3, 10)), font, semitones)
            size = min(len(samples), len(other))
            samples = samples[:size] + float(rng.uniform(0.3, 0.9)) * other[:size]
        return with_other_attacks(samples, piece, rng) if rng.random() < 0.4 else samples

    return play


def with_other_attacks(samples: NDArray[np.float32], piece: Piece, rng: np.random.Generator) -> NDArray[np.float32]:
    """Each stroke of the pick begun softer or harder, and with some noise of its own."""
    gain, settles_s = float(rng.uniform(-0.75, 1.5)), float(rng.uniform(0.008, 0.06))
    noise, scrape_s = float(rng.choice((0.0, rng.uniform(0.0, 0.5)))), float(rng.uniform(0.002, 0.012))
    shape, scrapes = np.ones(len(samples)), np.zeros(len(samples))
    level = float(np.sqrt(np.mean(samples**2)))
    picked = [true.onset for true in piece.truth if not set(LEGATO) & set(true.techniques)]
    for onset in picked:
        first = round(onset * RATE_HZ)
        since = np.arange(min(round(0.3 * RATE_HZ), len(samples) - first)) / RATE_HZ
        if first < 0 or not len(since):
            continue
        here = slice(first, first + len(since))
        shape[here] = 1 + gain * np.exp(-since / settles_s) * np.clip(since / 0.002, 0, 1)
        scrapes[here] += noise * level * np.exp(-since / scrape_s) * rng.standard_normal(len(since))
    bright = pedalboard.Pedalboard(
        [
            pedalboard.HighpassFilter(float(rng.uniform(200, 2000))),
            pedalboard.LowpassFilter(float(rng.uniform(2500, 9000))),
        ]
    )
    return np.asarray(samples * shape + bright(scrapes[None, :].astype(np.float32), RATE_HZ)[0], dtype=np.float32)


def turned_up(play: Play, rng: np.random.Generator) -> Play:
    """As `play` does, but three in ten through an amplifier that is turned up, some of those doubled out of tune."""

    def loud(piece: Piece, program: str, detune_cents: float, font: str) -> NDArray[np.float32]:
        samples = play(piece, program, detune_cents, font)
        if rng.random() >= _TURNED_UP:
            return samples
        if rng.random() < 0.4:
            other = play(piece, program, detune_cents + float(rng.uniform(-12, 12)), font)
            size = min(len(samples), len(other))
            samples = samples[:size] + float(rng.uniform(0.4, 1.0)) * other[:size]
        return clipped(samples, rng)

    return loud


def clipped(samples: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """Squeezed until it hardly dies away, its tops cut off unevenly, through a speaker of random resonances."""

    def through(sound: NDArray[np.float32], *plugins: pedalboard.Plugin) -> NDArray[np.float32]:
        return np.asarray(pedalboard.Pedalboard(list(plugins))(sound[None, :].astype(np.float32), RATE_HZ)[0])

    def pick(low: float, high: float) -> float:
        return float(rng.uniform(low, high))

    level = max(float(np.sqrt(np.mean(samples**2))), 1e-6)
    squeezed = through(
        samples / level * 0.1,
        pedalboard.HighpassFilter(pick(40, 250)),
        pedalboard.PeakFilter(pick(400, 1500), pick(-3, 12), pick(0.5, 1.5)),
        pedalboard.Compressor(pick(-45, -25), pick(3, 20), pick(0.5, 30), pick(60, 400)),
    )
    for _ in range(int(rng.integers(1, 3))):
        loudest = max(float(np.abs(squeezed).max(initial=0.0)), 1e-6)
        uneven, gain = pick(-0.6, 0.6), 10 ** (pick(6, 34) / 20)
        squeezed = np.tanh(gain * squeezed / loudest + uneven) - np.tanh(uneven)
    resonances = [pedalboard.PeakFilter(pick(90, 4000), pick(-12, 9), pick(0.7, 6)) for _ in range(6)]
    out = through(squeezed, pedalboard.HighpassFilter(70), pedalboard.LowpassFilter(pick(2200, 7000)), *resonances)
    return np.asarray(out * level / max(float(np.sqrt(np.mean(out**2))), 1e-6), dtype=np.float32)


def with_dead_strokes(samples: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """With bursts of noise here and there, alone or in rakes, as of strings that the hand keeps from sounding."""
    strokes, loudest = np.zeros(len(samples)), float(np.abs(samples).max(initial=0.0))
    for at_s in np.cumsum(rng.choice((0.07, 0.3, 0.9, 2.0), int(rng.integers(4, 16)))):
        first, dies_s = round(at_s * float(rng.uniform(0.8, 1.2)) * RATE_HZ), float(rng.uniform(0.006, 0.04))
        since = np.arange(max(0, min(round(8 * dies_s * RATE_HZ), len(samples) - first))) / RATE_HZ
        noise = rng.standard_normal(len(since)) * np.exp(-since / dies_s)
        strokes[first : first + len(since)] += loudest * float(rng.uniform(0.1, 0.6)) * noise
    dull = pedalboard.Pedalboard(
        [
            pedalboard.HighpassFilter(float(rng.uniform(30, 400))),
            pedalboard.LowpassFilter(float(rng.uniform(800, 12000))),
        ]
    )
    return np.asarray(samples + dull(strokes[None, :].astype(np.float32), RATE_HZ)[0], dtype=np.float32)


def some_low(piece: Piece, rng: np.random.Generator) -> Piece:
    """The piece, or in three of ten cases moved down until its lowest note is on the lowest strings."""
    lowest = int(rng.integers(*_LOWEST_MIDI))
    return lowered(piece, lowest) if rng.random() < _LOW else piece


def any_lead(score: Score, rng: np.random.Generator) -> Piece:
    """Half of them lines in the band's own time and scale; the others all that a hand does, whatever is below."""
    if rng.random() < 0.5:
        lead = sliding_lead(score, rng) if rng.random() < 0.5 else compose_lead(score, rng)
    else:
        other = the_hand if rng.random() < 0.6 else _OF_ONE_STRING[int(rng.integers(len(_OF_ONE_STRING)))]
        lead = other(rng)
    return some_low(lead, rng)


def coloured(samples: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """A guitar as it is, through an amplifier and a room, or coloured as records are."""
    draw = rng.random()
    if draw < 0.2:
        return samples
    if draw < 0.5:
        return through_effects(samples, rng)
    chains = [*colours(rng).values()]
    return mono(chains[int(rng.integers(len(chains)))](samples))


def guitar(seed: int, of_the_hand: bool = False) -> Example:
    """A guitar alone: of all idioms, or most of it what the fretting hand does between strokes."""
    rng = np.random.default_rng(seed)
    font, program = str(rng.choice(SOUNDFONTS)), str(rng.choice([*PROGRAMS]))
    if of_the_hand and seed % _BARE_EACH == 0:
        program = [*BARE_PROGRAMS][seed // _BARE_EACH % len(BARE_PROGRAMS)]
    if of_the_hand:
        idioms = (the_hand,) if rng.random() < 0.6 else (*IDIOMS, *HARDER)
    elif rng.random() < 0.4:
        idioms = (*TOGETHER, *(idiom for idiom in HARDER if idiom.__name__ in ("let_ring", "unison_bends", "sixths")))
    elif rng.random() < 0.35:
        idioms = (the_hand,)
    else:
        idioms = (*IDIOMS, *HARDER)
    piece, detune = idioms[int(rng.integers(len(idioms)))](rng), float(rng.uniform(-50, 50))
    piece = some_low(piece, rng)
    play = turned_up(of_many_makers(rng), rng)
    return Example(coloured(play(piece, program, detune, font), rng), piece, detune)


def band(seed: int) -> Example:
    """A lead through a band: half of them dense."""
    rng = np.random.default_rng(seed)
    font, other, program = str(rng.choice(SOUNDFONTS)), str(rng.choice(SOUNDFONTS)), str(rng.choice([*PROGRAMS]))
    level_db, play = float(rng.uniform(-4, 8)), turned_up(of_many_makers(rng), rng)
    if seed % 2:
        dense = dense_band(seed, level_db, font, other, compose=any_lead, play=play)
        return Example(mono(dense.sound), dense.lead, dense.detune_cents)
    comping = str(rng.choice([*(COMPING | OTHER_COMPING)]))

    def touched(lead: NDArray[np.float32]) -> NDArray[np.float32]:
        return through_effects(lead, rng) if rng.random() < 0.5 else lead

    mix = mixed(seed, program, comping, level_db + 1, font, other, touched, compose=any_lead, play=play)
    return Example(mix.samples, mix.lead, mix.detune_cents)


def example(kind: Kind, seed: int, of_the_hand: bool = False) -> Example:
    """One recording of either kind."""
    return guitar(seed, of_the_hand) if kind == "alone" else band(seed)


def told_options(pieces: int) -> argparse.Namespace:
    """How many `pieces` a trainer takes, so many unless the command line says otherwise, and whether to `measure`."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--pieces", type=int, default=pieces)
    parser.add_argument("--measure", action="store_true")
    return parser.parse_args()


def count_named(piece: Piece, notes: Sequence[Note], technique: TechniqueName) -> tuple[int, int, int]:
    """How many notes of a technique were heard, how many notes were named so, and how many rightly."""
    matched = pairs(piece, [(note.onset, note.pitch) for note in notes])
    true = {j for i, j in matched.items() if technique in piece.truth[i].techniques}
    told = {j for j, note in enumerate(notes) if note.technique(technique)}
    return len(true), len(told), len(true & told)


Named = Callable[[int], tuple[int, int, int]]


def tell_named(pool: Executor, named: Named, firsts: Sequence[int], count: int) -> None:
    """Print, of `count` recordings from each of some first numbers on, the sums of what `named` counts in one.

    How many notes are truly of a kind, how many are named so, and how many of those rightly.
    """
    for first in firsts:
        told = np.sum([*pool.map(named, range(first, first + count), chunksize=3)], axis=0)
        print("true {}, named so {}, rightly {}".format(*told))
