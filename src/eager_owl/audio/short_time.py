"""Short-time spectra of sound, and back: Hann windows that overlap by three quarters, weighted on both ways.

SciPy's own come with all of its signal processing and statistics, which take most of a second to load.
"""

import numpy as np
from numpy.typing import NDArray
from scipy import fft

OVERLAP = 4  # windows over each sample
_SHARE = 8 / 3 / OVERLAP  # of the sum of the windows' squares


def spectra_of(samples: NDArray[np.float32], window: int) -> NDArray[np.complex64]:
    """Spectra of samples, (frames, channels): shape (channels, window // 2 + 1, windows).

    Window i is centred i * window / OVERLAP - window / 2 samples after the first; the first one is empty.
    """
    hop = window // OVERLAP
    padded = np.pad(samples.T, ((0, 0), (window, window + (-len(samples)) % hop)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, window, axis=1)[:, ::hop]
    return np.asarray(fft.rfft(windows * _hann(window), axis=2).transpose(0, 2, 1), dtype=np.complex64)


def sound_of(spectra: NDArray[np.complex64], window: int, frames: int) -> NDArray[np.float32]:
    """The sound of such spectra, whatever was done to them, shape (frames, channels)."""
    hop = window // OVERLAP
    pieces = fft.irfft(spectra.transpose(0, 2, 1), window, axis=2) * _hann(window)
    out = np.zeros((len(pieces), (pieces.shape[1] - 1) * hop + window), np.float32)
    for index in range(pieces.shape[1]):
        out[:, index * hop : index * hop + window] += pieces[:, index]
    return np.asarray(_SHARE * out[:, window : window + frames].T, dtype=np.float32)


def _hann(window: int) -> NDArray[np.float32]:
    return np.hanning(window + 1)[:-1].astype(np.float32)
