"""Chords suggested from a recording: each bar's chroma held against chord templates, with the bass's own say.

Chroma as in T. Fujishima, "Realtime chord recognition of musical sound" (ICMC 1999): the spectrum's energy by pitch
class. It is compressed frame by frame before it is averaged over the bar, so that what stays (chords) counts for more
than what passes (a lead), and only what stands over the spectrum's floor counts, which leaves drums out. A bar's root
is also told by the bass on its first beat. Smoothed over the form by a Viterbi search (A. Sheh and D. Ellis, "Chord
segmentation and recognition using EM-trained hidden Markov models", ISMIR 2003).
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.pitch import FLAT_NAMES, Names, hz_to_midi

_LOW_HZ, _HIGH_HZ = 150.0, 1000.0
_BASS_LOW_HZ, _BASS_HIGH_HZ = 38.0, 165.0
_FRAME_S = 0.37
_FLOOR = 2.0  # times the median level of a frame's bins
_COMPRESSION = 1000.0  # log(1 + this times the share of the bar's energy)
# Tones of the templates over the root, with their weights; what a seventh adds must be heard to count.
_QUALITIES: dict[str, tuple[int, ...]] = {
    "": (0, 4, 7), "m": (0, 3, 7), "7": (0, 4, 7, 10), "m7": (0, 3, 7, 10), "maj7": (0, 4, 7, 11),
    "m7b5": (0, 3, 6, 10), "dim7": (0, 3, 6, 9),
}  # fmt: skip
_SILENCE = 1e-9
_PARTIALS = (1.0, 0.5, 0.35, 0.25, 0.2, 0.15)  # how a tone's own partials show in the chroma
_BASS_WEIGHT = 0.9
_FOURTH_TONE = 0.03  # what a chord of four tones must explain beyond one of three
_SHARPNESS = 10.0  # from likeness (-1 to 1) to log-odds
_CHANGE_COST = 0.5  # log-odds that a bar keeps the chord of the one before


@dataclass(frozen=True)
class BarChord:
    """A suggested chord for a bar (index from 0): its symbol, a share of belief, and the runner-up's symbol."""

    bar: int
    symbol: str
    confidence: float
    runner_up: str


def suggest_chords(
    samples: NDArray[np.float32],
    rate: int,
    grid: BeatGrid,
    reference_cents: float = 0.0,
    names: Names = FLAT_NAMES,
    keep_going: Callable[[], bool] = lambda: True,
) -> list[BarChord]:
    """One chord a bar from the first whole bar to the last, from mono samples; nothing for silent bars.

    Stops early, with what was found, once `keep_going` answers False.
    """
    duration = len(samples) / rate
    bars = [
        bar
        for bar in range(int(grid.beat_at(duration) // grid.beats_per_bar))
        if grid.time_of(bar * grid.beats_per_bar) >= 0
    ]
    symbols = [(root, name) for root in range(12) for name in _QUALITIES]
    templates = np.stack([_template(root, _QUALITIES[name]) for root, name in symbols])
    fourth = np.array([_FOURTH_TONE * (len(_QUALITIES[name]) > 3) for _, name in symbols])
    heard, log_odds = [], []
    for bar in bars:
        if not keep_going():
            break
        start, end = (grid.time_of((bar + i) * grid.beats_per_bar) for i in (0, 1))
        clip = samples[round(start * rate) : round(end * rate)]
        chroma, bass = _chroma(clip, rate, reference_cents, grid.beats_per_bar)
        if not chroma.any():
            continue
        likeness = templates @ chroma - fourth
        roots = np.array([bass[root] for root, _ in symbols])
        heard.append(bar)
        log_odds.append(_SHARPNESS * (likeness + _BASS_WEIGHT * roots))
    if not heard:
        return []
    scores = np.stack(log_odds)
    path = _viterbi(scores)
    shares = np.exp(scores - scores.max(axis=1, keepdims=True))
    shares /= shares.sum(axis=1, keepdims=True)
    found = []
    for bar, at, row in zip(heard, path, shares, strict=True):
        others = row.copy()
        others[at] = -1.0
        here, other = (names[symbols[i][0]] + symbols[i][1] for i in (at, int(others.argmax())))
        found.append(BarChord(bar, here, float(row[at]), other))
    return found


def _template(root: int, steps: tuple[int, ...]) -> NDArray[np.float64]:
    """What a chord's tones and their partials leave in the chroma, of mean 0 and unit length."""
    shape = np.zeros(12)
    for step in steps:
        for number, weight in enumerate(_PARTIALS, 1):
            shape[(root + step + round(12 * np.log2(number))) % 12] += weight
    return _centred(np.sqrt(shape))


def _centred(shape: NDArray[np.float64]) -> NDArray[np.float64]:
    centred = shape - shape.mean()
    return np.asarray(centred / max(float(np.linalg.norm(centred)), 1e-12), dtype=np.float64)


def _chroma(
    clip: NDArray[np.float32], rate: int, reference_cents: float, beats: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Chroma of a bar, of mean 0 and unit length (zeros in silence), and the bass's shares on its first beat."""
    size = round(_FRAME_S * rate)
    padded = np.pad(np.asarray(clip, np.float64), (0, max(size - len(clip), 0)))
    frames = np.lib.stride_tricks.sliding_window_view(padded, size)[:: max(size // 4, 1)]
    levels = np.abs(np.fft.rfft(frames * np.hanning(size), axis=1))
    hz = np.maximum(np.asarray(np.fft.rfftfreq(size, 1 / rate), dtype=np.float64), 1.0)
    midi = hz_to_midi(hz) - reference_cents / 100
    near = np.exp(-0.5 * ((midi - np.round(midi)) / 0.2) ** 2)
    classes = np.round(midi).astype(np.intp) % 12
    middle = (hz >= _LOW_HZ) & (hz <= _HIGH_HZ)
    low = (hz >= _BASS_LOW_HZ) & (hz <= _BASS_HIGH_HZ)
    floor = np.median(levels[:, middle], axis=1, keepdims=True)
    # Energy is counted against frequency, so that no octave weighs more than another by its many bins.
    standing = (np.maximum(levels - _FLOOR * floor, 0.0) * near) ** 2 / np.sqrt(hz)
    energy = _by_class(standing[:, middle], classes[middle])
    bass = _by_class(((levels * near) ** 2)[:, low], classes[low])[: max(len(frames) // beats, 1)].sum(axis=0)
    total = float(energy.sum(axis=1).mean())
    if total <= _SILENCE:
        return np.zeros(12), np.zeros(12)
    chroma = np.log1p(_COMPRESSION * energy / total).mean(axis=0)
    return _centred(chroma), np.asarray(bass / max(float(bass.sum()), 1e-12), dtype=np.float64)


def _by_class(energy: NDArray[np.float64], classes: NDArray[np.intp]) -> NDArray[np.float64]:
    """Energy of bins summed by pitch class, shape (frames, 12)."""
    return np.asarray(np.stack([energy[:, classes == pc].sum(axis=1) for pc in range(12)], axis=1), dtype=np.float64)


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
