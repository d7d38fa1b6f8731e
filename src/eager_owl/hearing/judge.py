"""Which of the candidate pitches are played, and which begin: a small network's judgement of each.

A perceptron of two hidden layers sees the levels at a candidate's harmonics, just beside them, and before and
after in time; it was trained by benchmarks/train_judge.py on composed phrases of sampled guitars, once for a
guitar alone (any number of its strings at once) and once for a lead over a band. Learnt weighing of harmonics:
J. J. Bosch, R. Marxer and E. Gomez, "Evaluation and combination of pitch estimation methods for melody
extraction in symphonic classical music", JNMR 45, 2016, gives the setting; the network is our own.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.blocks import in_blocks
from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.salience import (
    BINS_PER_SEMITONE,
    FIRST_PITCH_BIN,
    HARMONICS,
    HIGHEST_MIDI,
    LOWEST_MIDI,
    PEAKS,
    Candidates,
    Spectra,
    harmonic_shift,
)

Kind = Literal["alone", "band"]

# Beside a harmonic, in bins of the sharp spectrum; before and after the frame, in frames of either.
_BESIDE = (-3, -2, -1, 0, 1, 2, 3)
_QUICK_AT = (-7, -4, -2, -1, 0, 1, 3, 6)
_SHARP_AT, _SHARP_HARMONICS = (-20, -9, 9, 20), (1.0, 1.5, 2.0, 3.0)
_BLOCK = 256  # frames judged at once
# Empty frames before and after the spectra and empty bins to each side: room for all of the offsets.
_OFF_FRAMES, _OFF_BINS = 20, 24


@dataclass(frozen=True)
class Judgement:
    """Probability that each candidate sounds, that it begins here (within a frame or two), and by a stroke,

    not by the fretting hand; shape (n, PEAKS).
    """

    sounds: NDArray[np.float32]
    begins: NDArray[np.float32]
    struck: NDArray[np.float32]


@dataclass(frozen=True)
class Surroundings:
    """The spectra padded and flattened, and one index step a frame: what a candidate's features are taken from."""

    sharp: NDArray[np.float32]
    quick: NDArray[np.float32]
    width: int
    loud: NDArray[np.float32]
    full: NDArray[np.float32]


def surround(spectra: Spectra, first: int = 0, end: int | None = None) -> Surroundings:
    """Lay out the spectra's frames [first, end) for describe_candidates, whose rows then count from `first`."""
    end = len(spectra) if end is None else end
    low, high = max(0, first - _OFF_FRAMES), min(len(spectra), end + _OFF_FRAMES)
    room = ((low - first + _OFF_FRAMES, end + _OFF_FRAMES - high), (_OFF_BINS, _OFF_BINS))
    sharp, quick = np.pad(spectra.sharp[low:high], room), np.pad(spectra.quick[low:high], room)
    return Surroundings(sharp.ravel(), quick.ravel(), sharp.shape[1], sharp.max(axis=1), quick.mean(axis=1))


def describe_candidates(
    around: Surroundings, candidates: Candidates, rows: NDArray[np.intp], columns: NDArray[np.intp]
) -> NDArray[np.float32]:
    """What the network sees of the candidates at these rows and columns, shape (len(rows), features)."""
    pitch_bin, height = candidates.bins[rows, columns], candidates.height[rows, columns]
    width = around.width
    here = (rows + _OFF_FRAMES) * width + pitch_bin + FIRST_PITCH_BIN + _OFF_BINS
    beside, before = _offsets(width)
    frames = rows[:, None] + _OFF_FRAMES
    own = (
        pitch_bin / ((HIGHEST_MIDI - LOWEST_MIDI) * BINS_PER_SEMITONE),
        height,
        height / candidates.height[rows, 0],
        columns / PEAKS,
    )
    return np.concatenate(
        [
            around.sharp[here[:, None] + beside],
            around.quick[here[:, None] + before],
            around.loud[frames + np.array([-9, 0, 9])],
            around.full[frames + np.array([-4, 0, 3])],
            np.stack(own, axis=1).astype(np.float32),
        ],
        axis=1,
    )


@lru_cache
def _offsets(width: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Index offsets from a candidate's own bin and frame, into the sharp and into the quick spectrum."""
    harmonics = [harmonic_shift(h) for h in HARMONICS]
    beside = [shift + step for step in _BESIDE for shift in harmonics]
    beside += [frame * width + harmonic_shift(h) for frame in _SHARP_AT for h in _SHARP_HARMONICS]
    before = [frame * width + shift for frame in _QUICK_AT for shift in harmonics]
    return np.array(beside), np.array(before)


def judge_candidates(
    spectra: Spectra, candidates: Candidates, kind: Kind, each: Callable[[float], object] = lambda share: None
) -> Judgement:
    """Judge all candidates of all frames; `each` is told the share done."""
    layers = layers_of(f"judge_{kind}")
    result = np.zeros((*candidates.bins.shape, 3), np.float32)

    def judge(first: int, end: int) -> None:
        around = surround(spectra, first, end)
        some = Candidates(candidates.bins[first:end], candidates.midi[first:end], candidates.height[first:end])
        rows, columns = np.nonzero(some.bins >= 0)
        result[first + rows, columns] = ask(layers, describe_candidates(around, some, rows, columns))

    in_blocks(judge, len(spectra), _BLOCK, each)
    return Judgement(result[..., 0], result[..., 1], result[..., 2])


def of_pitch(midi: float, candidates: Candidates, rows: slice, within: float) -> NDArray[np.bool_]:
    """Which candidates of some frames have a pitch, shape (frames, PEAKS); `within` are semitones."""
    return np.asarray((np.abs(candidates.midi[rows] - midi) < within) & (candidates.bins[rows] >= 0))


def best(layer: NDArray[np.float32], which: NDArray[np.bool_]) -> float:
    """The judge's highest word on the candidates in question; both of shape (frames, PEAKS)."""
    return float(layer[which].max(initial=0.0))


def mean_best(layer: NDArray[np.float32], which: NDArray[np.bool_]) -> float:
    """The mean over frames of the highest word on the candidates in question; both of shape (frames, PEAKS)."""
    return float(np.where(which, layer, 0.0).max(axis=1).mean()) if len(layer) else 0.0
