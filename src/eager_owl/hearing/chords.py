"""Chords suggested from a recording: each bar's chroma held against chord templates, with the bass's own say.

Chroma as in T. Fujishima, "Realtime chord recognition of musical sound" (ICMC 1999): the spectrum's energy by pitch
class, here from one long window a beat, compressed so that soft voices count, and smoothed over the form by a Viterbi
search (A. Sheh and D. Ellis, "Chord segmentation and recognition using EM-trained hidden Markov models", ISMIR 2003).
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.pitch import hz_to_midi, pitch_class_name

_LOW_HZ, _HIGH_HZ, _BASS_HZ = 55.0, 1800.0, 200.0
# Tones of the templates over the root, with their weights; what a seventh adds must be heard to count.
_QUALITIES: dict[str, tuple[int, ...]] = {
    "": (0, 4, 7), "m": (0, 3, 7), "7": (0, 4, 7, 10), "m7": (0, 3, 7, 10), "maj7": (0, 4, 7, 11),
    "m7b5": (0, 3, 6, 10), "dim7": (0, 3, 6, 9),
}  # fmt: skip
_PARTIALS = (1.0, 0.5, 0.35, 0.25, 0.2, 0.15)  # how a tone's own partials show in the chroma
_BASS_WEIGHT = 0.35
_FOURTH_TONE = 0.03  # what a chord of four tones must explain beyond one of three
_SHARPNESS = 28.0  # from likeness (0 to 1) to log-odds
_CHANGE_COST = 1.5  # log-odds that a bar keeps the chord of the one before


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
    flats: bool = True,
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
        chroma, bass = _chroma(clip, rate, reference_cents)
        if chroma.sum() == 0:
            continue
        likeness = templates @ (chroma / np.linalg.norm(chroma)) - fourth
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
        names = [pitch_class_name(symbols[i][0], flats) + symbols[i][1] for i in (at, int(others.argmax()))]
        found.append(BarChord(bar, names[0], float(row[at]), names[1]))
    return found


def _template(root: int, steps: tuple[int, ...]) -> NDArray[np.float64]:
    """What a chord's tones and their partials leave in the chroma, of unit length."""
    shape = np.zeros(12)
    for step in steps:
        for number, weight in enumerate(_PARTIALS, 1):
            shape[(root + step + round(12 * np.log2(number))) % 12] += weight
    return np.asarray(np.sqrt(shape) / np.linalg.norm(np.sqrt(shape)))


def _chroma(
    clip: NDArray[np.float32], rate: int, reference_cents: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Chroma of a clip, compressed, and the share of the bass's energy that each pitch class has."""
    if len(clip) < rate // 10:
        return np.zeros(12), np.zeros(12)
    levels = np.abs(np.fft.rfft(np.asarray(clip, np.float64) * np.hanning(len(clip)))) ** 2
    hz = np.asarray(np.fft.rfftfreq(len(clip), 1 / rate), dtype=np.float64)
    within = (hz >= _LOW_HZ) & (hz <= _HIGH_HZ)
    hz, levels = hz[within], levels[within]
    midi = hz_to_midi(hz) - reference_cents / 100
    near = np.exp(-0.5 * ((midi - np.round(midi)) / 0.2) ** 2)
    classes = np.round(midi).astype(np.intp) % 12
    # Energy is counted against frequency, so that no octave weighs more than another by its many bins.
    energy = levels * near / np.sqrt(hz)
    chroma = np.asarray(np.bincount(classes, energy, 12), dtype=np.float64)
    low = hz <= _BASS_HZ
    bass = np.asarray(np.bincount(classes[low], energy[low], 12), dtype=np.float64)
    return np.sqrt(chroma), bass / max(float(bass.sum()), 1e-12)


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
