"""A recording with one line of tones in it made quiet, so that the rest can be played along to.

The short-time spectrum is masked around the partials of a known pitch contour: the inverse of the harmonic masks that
bring a followed melody forward (M. Ryynanen et al., "Accompaniment separation and karaoke application based on
automatic melody transcription", ICME 2008).
"""

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.short_time import OVERLAP, sound_of, spectra_of

_WINDOW = 4096
_HIGHEST_HZ = 9000.0
_WIDTH = 0.035  # of a partial's frequency, to either side; never less than two bins
_LEFT_OVER = 0.06


def hush_tones(samples: NDArray[np.float32], rate: int, hz: NDArray[np.float64], hop_s: float) -> NDArray[np.float32]:
    """Samples of shape (frames, channels) with the partials of a line damped; the same shape.

    `hz` is shaped (voices, steps): the line's fundamentals every `hop_s`, 0 where it is silent.
    """
    if not len(samples):
        return samples
    spectra = spectra_of(samples, _WINDOW)
    mask = np.ones_like(spectra[0], np.float32)
    bin_hz = rate / _WINDOW
    times = (np.arange(mask.shape[1]) * (_WINDOW // OVERLAP) - _WINDOW // 2) / rate
    steps = np.clip((times / hop_s).astype(int), 0, max(hz.shape[1] - 1, 0))
    for voice in hz:
        for column, fundamental in enumerate(voice[steps]):
            if fundamental <= 0:
                continue
            partials = fundamental * np.arange(1, int(_HIGHEST_HZ / fundamental) + 1)
            reach = np.maximum(_WIDTH * np.minimum(partials, 6 * fundamental), 2 * bin_hz)
            lows = np.ceil((partials - reach) / bin_hz).astype(int)
            highs = np.floor((partials + reach) / bin_hz).astype(int) + 1
            for low, high in zip(lows, highs, strict=True):
                mask[max(low, 0) : high, column] = _LEFT_OVER
    return sound_of(spectra * mask, _WINDOW, len(samples))
