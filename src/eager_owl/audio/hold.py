"""One instant of a recording held as a steady sound.

A phase vocoder that stands still: the spectrum at the instant is played again and again, each bin's phase going
on at the frequency measured there (M. Dolson, "The phase vocoder: a tutorial", CMJ 10, 1986).
"""

import numpy as np
from numpy.typing import NDArray

_WINDOW, _OVERLAP = 4096, 4
_MEASURED_HOP = 64  # near enough that no bin's phase turns round between
_PEAK = 0.5


def hold_instant(samples: NDArray[np.float32], rate: int, at_s: float, seconds: float) -> NDArray[np.float32]:
    """The sound around `at_s` of samples, shape (frames, channels), held for so long; mono, shape (frames, 1).

    It loops without a seam: its last window falls into its first.
    """
    signal = samples.mean(axis=1)
    middle = round(at_s * rate)
    padded = np.pad(signal, (_WINDOW, _WINDOW + _MEASURED_HOP))
    window = np.hanning(_WINDOW)
    start = int(np.clip(middle, 0, max(len(signal) - 1, 0))) + _WINDOW // 2
    first, second = (np.fft.rfft(padded[at : at + _WINDOW] * window) for at in (start, start + _MEASURED_HOP))
    hop = _WINDOW // _OVERLAP
    count = max(_OVERLAP, round(seconds * rate / hop))
    # Frequencies are rounded to what fits the loop a whole number of times, so that the end meets the start.
    turn = np.angle(second / np.where(np.abs(first) < 1e-12, 1e-12, first))
    bins = np.arange(len(first)) * 2 * np.pi / _WINDOW
    per_sample = bins + ((turn - bins * _MEASURED_HOP + np.pi) % (2 * np.pi) - np.pi) / _MEASURED_HOP
    whole = 2 * np.pi / (count * hop)
    per_hop = np.round(per_sample / whole) * whole * hop
    out = np.zeros(count * hop)
    for index in range(count):
        frame = np.fft.irfft(np.abs(first) * np.exp(1j * (np.angle(first) + index * per_hop))) * window
        at = (index * hop + np.arange(_WINDOW)) % len(out)
        out[at] += frame
    return (out * _PEAK / max(float(np.abs(out).max()), 1e-9)).astype(np.float32)[:, None]
