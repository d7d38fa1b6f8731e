"""A min/max pyramid of a recording, so that a waveform of any length draws at the cost of its pixels."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import mono

_FINEST_FRAMES = 64
_FACTOR = 4


@dataclass(frozen=True)
class Peaks:
    """`levels[i]` has shape (blocks, 2): least and greatest sample of blocks of 64 * 4**i frames."""

    levels: tuple[NDArray[np.float32], ...]
    rate: int

    @property
    def greatest(self) -> float:
        """The recording's greatest excursion, above 0."""
        return max(float(np.abs(self.levels[-1]).max(initial=0.0)), 1e-6)

    def columns(self, start_s: float, end_s: float, count: int) -> NDArray[np.float32]:
        """Least and greatest sample of `count` equal columns between two times, shape (count, 2)."""
        frames_a_column = max((end_s - start_s) * self.rate / max(count, 1), 1e-9)
        level = int(np.clip(np.log(frames_a_column / _FINEST_FRAMES) / np.log(_FACTOR), 0, len(self.levels) - 1))
        peaks, block = self.levels[level], _FINEST_FRAMES * _FACTOR**level
        edges = np.linspace(start_s * self.rate / block, end_s * self.rate / block, count + 1)
        first = np.floor(edges[:-1] + 1e-6).astype(int)
        last = np.maximum(np.ceil(edges[1:] - 1e-6).astype(int), first + 1)
        width = int((last - first).max(initial=1))
        index = first[:, None] + np.arange(width)
        inside = (index < last[:, None]) & (index >= 0) & (index < len(peaks))
        found = peaks[np.clip(index, 0, len(peaks) - 1)]
        low = np.where(inside, found[..., 0], np.inf).min(axis=1)
        high = np.where(inside, found[..., 1], -np.inf).max(axis=1)
        empty = ~inside.any(axis=1)
        return np.stack([np.where(empty, 0, low), np.where(empty, 0, high)], axis=1).astype(np.float32)


def finest_peaks(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """The finest level of samples, shape (frames, channels), mixed to one channel."""
    signal = mono(samples)
    padded = np.pad(signal, (0, -len(signal) % _FINEST_FRAMES), mode="edge").reshape(-1, _FINEST_FRAMES)
    return np.stack([padded.min(axis=1), padded.max(axis=1)], axis=1)


def build_peaks(finest: Sequence[NDArray[np.float32]], rate: int) -> Peaks:
    """The pyramid over the finest peaks of successive blocks, each but the last of a multiple of 64 frames."""
    levels = [np.concatenate(finest)]
    while len(levels[-1]) > _FACTOR * 16:
        below = levels[-1]
        blocks = np.pad(below, ((0, -len(below) % _FACTOR), (0, 0)), mode="edge").reshape(-1, _FACTOR, 2)
        levels.append(np.stack([blocks[..., 0].min(axis=1), blocks[..., 1].max(axis=1)], axis=1))
    return Peaks(tuple(levels), rate)
