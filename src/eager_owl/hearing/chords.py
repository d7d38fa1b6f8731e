"""Chords suggested from a recording: each bar's chroma, register by register, and its bass, held against templates.

Chroma as in T. Fujishima, "Realtime chord recognition of musical sound" (ICMC 1999): the spectrum's energy by pitch
class. It is compressed frame by frame before it is averaged over the bar, so that what stays (chords) counts for
more than what passes (a lead), and only what stands over the spectrum's floor counts, which leaves drums out. The
templates are learnt (`benchmarks/train_chords.py`): for each quality a weight for every pitch class over the root,
the same for all roots. Smoothed over the form by a Viterbi search (A. Sheh and D. Ellis, "Chord segmentation and
recognition using EM-trained hidden Markov models", ISMIR 2003).
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.special import softmax

from eager_owl.audio.decode import Recording, mono
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.chord import Chord, parse_chord
from eager_owl.theory.harmony import function_of
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES, hz_to_midi

# The registers in MIDI numbers, each up to the next; notes between them and over the last are left out.
_REGISTERS = (50, 60, 70, 84)
_BASS_LOW_HZ, _BASS_HIGH_HZ = 38.0, 165.0
_FRAME_S = 0.37
_FLOOR = 2.0  # times the median level of a frame's bins
_COMPRESSION = 1000.0  # log(1 + this times the share of the bar's energy)
QUALITIES = ("", "m", "7", "m7", "maj7", "m7b5", "dim7")
_SILENCE = 1e-9
# Log-odds of a chord of the key against one from outside: less than composed mixes would have (2 to 3), for real ones
# are less obedient.
_OWN_CHORD = 1.5
_CHANGE_COST = 0.5  # log-odds that a bar keeps the chord of the one before


@dataclass(frozen=True)
class BarChord:
    """A suggested chord for a bar (index from 0): its symbol, a share of belief, and the runner-up's symbol."""

    bar: int
    symbol: str
    confidence: float
    runner_up: str


def suggest_chords(
    recording: Recording,
    grid: BeatGrid,
    reference_cents: float = 0.0,
    key: Key | None = None,
    go_on: Callable[[float], bool] = lambda share: True,
) -> list[BarChord]:
    """One chord a bar from the first whole bar to the last, nothing for silent bars.

    Where the key is known, its own chords are likelier, and chords are spelled as it does. Stops early, with what was
    found, once `go_on`, told the share done, answers False.
    """
    bars = [
        bar
        for bar in range(int(grid.beat_at(recording.duration_s) // grid.beats_per_bar))
        if grid.time_of(bar * grid.beats_per_bar) >= 0
    ]
    weights, bias = _templates()
    heard, log_odds = [], []
    for number, bar in enumerate(bars):
        if not go_on(number / len(bars)):
            break
        start, end = (grid.time_of((bar + i) * grid.beats_per_bar) for i in (0, 1))
        clip = mono(recording.between(start, end))
        profile = bar_profile(clip, recording.rate, reference_cents, grid.beats_per_bar)
        if profile is not None:
            heard.append(bar)
            log_odds.append((above_each_root(profile) @ weights + bias).ravel())
    if not heard:
        return []
    symbols = [root + name for root in (key.names if key else FLAT_NAMES) for name in QUALITIES]
    scores = np.stack(log_odds)
    if key is not None:
        scores += _OWN_CHORD * np.array([_belongs(parse_chord(symbol), key) for symbol in symbols])
    path = _viterbi(scores)
    shares = softmax(scores, axis=1)
    found = []
    for bar, at, row in zip(heard, path, shares, strict=True):
        others = row.copy()
        others[at] = -1.0
        found.append(BarChord(bar, symbols[at], float(row[at]), symbols[int(others.argmax())]))
    return found


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
