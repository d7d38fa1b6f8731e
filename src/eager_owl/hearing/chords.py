"""Chords suggested from a recording: each bar's chroma, register by register, and its bass, held against templates.

Chroma as in T. Fujishima, "Realtime chord recognition of musical sound" (ICMC 1999): the spectrum's energy by pitch
class. It is compressed frame by frame before it is averaged over the bar, so that what stays (chords) counts for
more than what passes (a lead), and only what stands over the spectrum's floor counts, which leaves drums out. The
templates are learnt (`benchmarks/train_chords.py`): for each quality a weight for every pitch class over the root,
the same for all roots. Whether a bar holds two chords, and whether one stands over another bass, two logistic
regressions tell (chords.json). Smoothed over the form by a Viterbi search (A. Sheh and D. Ellis, "Chord segmentation
and recognition using EM-trained hidden Markov models", ISMIR 2003).
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.special import log_softmax, softmax

from eager_owl.audio.decode import Recording, mono
from eager_owl.hearing.regressions import log_odds, weights_of
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.chord import Chord, parse_chord
from eager_owl.theory.harmony import function_of
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES, Names, hz_to_midi

# The registers in MIDI numbers, each up to the next; notes between them and over the last are left out.
_REGISTERS = (50, 60, 70, 84)
_BASS_LOW_HZ, _BASS_HIGH_HZ = 38.0, 165.0
_FRAME_S = 0.37
_FLOOR = 2.0  # times the median level of a frame's bins
_COMPRESSION = 1000.0  # log(1 + this times the share of the bar's energy)
QUALITIES = ("", "m", "7", "m7", "maj7", "m7b5", "dim7", "6", "m6", "sus4", "7sus4", "+")
_SEVENTHS = (10, 11)
# The last five are rarer in tunes than in the changes that were learnt from: so much less likely, in log-odds.
_RARE, _RARER = 5, 1.0
# Rows of a profile: chroma of the registers, then the bass, then the bass on the first beat.
_BASS, _FIRST_BASS = 3, 4
_SILENCE = 1e-9
# Log-odds of a chord of the key against one from outside: less than composed mixes would have (2 to 3), for real ones
# are less obedient.
_OWN_CHORD = 2.0
_CHANGE_COST = 0.5  # log-odds that a bar keeps the chord of the one before


@dataclass(frozen=True)
class BarChord:
    """What is suggested for a bar (index from 0): its symbol, or two with a space between for its halves; a share of

    belief; and what it would be otherwise.
    """

    bar: int
    symbol: str
    confidence: float
    runner_up: str


@dataclass(frozen=True)
class _Part:
    """A bar, or half of one: its profile, and the log-odds of each root and quality, shape (12 times qualities)."""

    bar: int
    profile: NDArray[np.float64]
    log_odds: NDArray[np.float64]


def suggest_chords(
    recording: Recording,
    grid: BeatGrid,
    reference_cents: float = 0.0,
    key: Key | None = None,
    go_on: Callable[[float], bool] = lambda share: True,
) -> list[BarChord]:
    """One chord or two a bar from the first whole bar to the last, nothing for silent bars.

    Where the key is known, its own chords are likelier, and chords are spelled as it does. Stops early, with what was
    found, once `go_on`, told the share done, answers False.
    """
    beats = grid.beats_per_bar
    bars = [bar for bar in range(int(grid.beat_at(recording.duration_s) // beats)) if grid.time_of(bar * beats) >= 0]

    def part(bar: int, first: float, last: float) -> _Part | None:
        start, end = (grid.time_of(bar * beats + beat) for beat in (first, last))
        clip = mono(recording.between(start, end))
        profile = bar_profile(clip, recording.rate, reference_cents, round(last - first))
        return None if profile is None else _Part(bar, profile, chord_log_odds(profile))

    parts: list[_Part] = []
    wholes: dict[int, _Part] = {}
    for number, bar in enumerate(bars):
        if not go_on(number / len(bars)):
            break
        if (whole := part(bar, 0, beats)) is None:
            continue
        wholes[bar] = whole
        halves = [part(bar, 0, beats / 2), part(bar, beats / 2, beats)] if beats % 2 == 0 else []
        told = [half for half in halves if half is not None]
        if len(told) == 2 and _told("split", of_halves(whole.profile, told[0].profile, told[1].profile)) > 0:
            parts += told
        else:
            parts.append(whole)
    if not parts:
        return []
    names = key.names if key else FLAT_NAMES
    chords = [parse_chord(root + quality) for root in names for quality in QUALITIES]
    prior = np.array([_OWN_CHORD * (key is not None and _belongs(chord, key)) for chord in chords])
    scores = np.stack([part.log_odds for part in parts]) + prior
    shares = softmax(scores, axis=1)
    by_bar: dict[int, list[tuple[str, float]]] = {}
    for each, at, share in zip(parts, _viterbi(scores), shares, strict=True):
        by_bar.setdefault(each.bar, []).append((_over_bass(chords[at], each.profile, names), float(share[at])))
    found = []
    for bar, told_of in by_bar.items():
        symbols = list(dict.fromkeys(symbol for symbol, _ in told_of))
        likeliest = [chords[int(at)].symbol for at in np.argsort(wholes[bar].log_odds + prior)[::-1][:2]]
        other = next(symbol for symbol in likeliest if symbol != symbols[0].split("/")[0] or len(symbols) > 1)
        found.append(BarChord(bar, " ".join(symbols), min(share for _, share in told_of), other))
    return found


def chord_log_odds(profile: NDArray[np.float64]) -> NDArray[np.float64]:
    """Of every root and quality, by what was learnt; shape (12 times qualities)."""
    weights, bias = _templates()
    rare = np.where(np.arange(len(QUALITIES)) >= len(QUALITIES) - _RARE, _RARER, 0.0)
    return np.asarray((above_each_root(profile) @ weights + bias - rare).ravel())


def of_halves(
    whole: NDArray[np.float64], first: NDArray[np.float64], second: NDArray[np.float64]
) -> dict[str, float]:
    """What tells two chords in a bar from one, of its profile and those of its halves."""
    sure, one, other = (log_softmax(chord_log_odds(profile)) for profile in (whole, first, second))
    return {
        "apart": float(one.max() + other.max() - (one + other).max()),
        "sure": float(sure.max()),
        "halves sure": float(one.max() + other.max()),
        "bass changes": 1.0 - float(first[_BASS] @ second[_BASS]),
        "chords change": 1.0 - float((first[:_BASS] * second[:_BASS]).sum()) / _BASS,
        "first bass changes": float(np.abs(first[_FIRST_BASS] - second[_FIRST_BASS]).sum()) / 2,
    }


def of_bass(profile: NDArray[np.float64], root: int, bass: int) -> dict[str, float]:
    """What tells that a chord stands over another bass than its root, by pitch class."""
    return {
        "first": float(profile[_FIRST_BASS, bass] - profile[_FIRST_BASS, root]),
        "whole": float(profile[_BASS, bass] - profile[_BASS, root]),
        "most": float(profile[_FIRST_BASS, bass]),
    }


def basses_of(chord: Chord) -> list[int]:
    """The pitch classes that a chord may stand over: its own tones, and the sevenths."""
    return sorted({(chord.root + step) % 12 for step in (*chord.degrees, *_SEVENTHS)} - {chord.root})


def _over_bass(chord: Chord, profile: NDArray[np.float64], names: Names) -> str:
    """The chord's symbol, with its bass where that is another tone."""
    odds = {bass: _told("bass", of_bass(profile, chord.root, bass)) for bass in basses_of(chord)}
    likeliest = max(odds, key=lambda bass: odds[bass])
    return f"{chord.symbol}/{names[likeliest]}" if odds[likeliest] > 0 else chord.symbol


def _told(name: str, seen: dict[str, float]) -> float:
    return log_odds(weights_of("chords")[name], seen)


def _belongs(chord: Chord, key: Key) -> bool:
    """Whether a chord is one of the key's own, or of its blues if it is major."""
    kind = function_of(chord, key).kind
    return kind == "own" or (kind == "blues" and key.mode == "major")


@cache
def _templates() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The learnt weights, shape (rows of a profile times 12, qualities), and each quality's bias."""
    with (files("eager_owl.hearing") / "chords.npz").open("rb") as file, np.load(file) as stored:
        return stored["weights"].astype(np.float64), stored["bias"].astype(np.float64)


def bar_profile(
    clip: NDArray[np.float32], rate: int, reference_cents: float, beats: int
) -> NDArray[np.float64] | None:
    """What a bar holds by pitch class, shape (5, 12), None in silence.

    Chroma of three registers and of the bass, each of mean 0 and unit length; the bass's shares on the first beat.
    """
    size = round(_FRAME_S * rate)
    padded = np.pad(np.asarray(clip, np.float64), (0, max(size - len(clip), 0)))
    frames = np.lib.stride_tricks.sliding_window_view(padded, size)[:: max(size // 4, 1)]
    levels = np.abs(np.fft.rfft(frames * np.hanning(size), axis=1))
    hz = np.maximum(np.asarray(np.fft.rfftfreq(size, 1 / rate), dtype=np.float64), 1.0)
    midi = hz_to_midi(hz) - reference_cents / 100
    note = np.round(midi).astype(np.intp)
    near = np.exp(-0.5 * ((midi - note) / 0.2) ** 2)
    middle = (note >= _REGISTERS[0]) & (note < _REGISTERS[-1])
    floor = np.median(levels[:, middle], axis=1, keepdims=True)
    # Energy is counted against frequency, so that no octave weighs more than another by its many bins.
    standing = (np.maximum(levels - _FLOOR * floor, 0.0) * near) ** 2 / np.sqrt(hz)
    energy = standing[:, middle] @ (note[middle][:, None] == np.arange(_REGISTERS[0], _REGISTERS[-1]))
    total = float(energy.sum(axis=1).mean())
    if total <= _SILENCE:
        return None
    low = (hz >= _BASS_LOW_HZ) & (hz <= _BASS_HIGH_HZ)
    bass = (levels[:, low] * near[low]) ** 2 @ (note[low][:, None] % 12 == np.arange(12))
    first = bass[: max(len(frames) // beats, 1)].sum(axis=0)
    compressed = np.log1p(_COMPRESSION * energy / total).mean(axis=0)
    edges = [edge - _REGISTERS[0] for edge in _REGISTERS]
    rows = [_folded(compressed[a:b], _REGISTERS[0] + a) for a, b in pairwise(edges)]
    bass_total = max(float(bass.sum(axis=1).mean()), 1e-12)
    rows += [
        _centred(np.log1p(_COMPRESSION * bass / bass_total).mean(axis=0)),
        first / max(float(first.sum()), 1e-12),
    ]
    return np.asarray(np.stack(rows), dtype=np.float64)


def above_each_root(profile: NDArray[np.float64]) -> NDArray[np.float64]:
    """A profile seen from every pitch class as the root, shape (12, rows times 12)."""
    return np.stack([np.roll(profile, -root, axis=1).ravel() for root in range(12)])


def _folded(by_note: NDArray[np.float64], lowest: int) -> NDArray[np.float64]:
    """Notes from a lowest MIDI number on summed by pitch class, of mean 0 and unit length."""
    return _centred(np.bincount((lowest + np.arange(len(by_note))) % 12, by_note, 12).astype(np.float64))


def _centred(shape: NDArray[np.float64]) -> NDArray[np.float64]:
    centred = shape - shape.mean()
    return np.asarray(centred / max(float(np.linalg.norm(centred)), 1e-12), dtype=np.float64)


def _viterbi(scores: NDArray[np.float64]) -> list[int]:
    """The path of most log-odds where a change of chord costs, shape of scores (bars, chords)."""
    best, backs = scores[0], []
    for row in scores[1:]:
        stay, move = best, best.max() - _CHANGE_COST
        backs.append(np.where(stay >= move, np.arange(len(best)), int(best.argmax())))
        best = np.maximum(stay, move) + row
    path = [int(best.argmax())]
    for back in reversed(backs):
        path.append(int(back[path[-1]]))
    return path[::-1]
