"""The count-in click."""

import numpy as np
from numpy.typing import NDArray

_LENGTH_S = 0.04
_ACCENT_HZ, _BEAT_HZ = 1760.0, 1175.0


def click(rate: int, accent: bool) -> NDArray[np.float32]:
    """One click, shape (frames,); higher where accented."""
    time = np.arange(round(_LENGTH_S * rate)) / rate
    wave = np.sin(2 * np.pi * (_ACCENT_HZ if accent else _BEAT_HZ) * time)
    return np.asarray(0.4 * wave * np.exp(-time / 0.008), dtype=np.float32)


def count_in(rate: int, beat_s: float, beats: int) -> NDArray[np.float32]:
    """A bar of clicks, the first accented, shape (frames,)."""
    bar = np.zeros(round(beat_s * beats * rate), np.float32)
    for beat in range(beats):
        tick = click(rate, accent=beat == 0)
        start = round(beat * beat_s * rate)
        bar[start : start + len(tick)] += tick[: len(bar) - start]
    return bar
