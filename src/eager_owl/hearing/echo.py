"""An echo taken out of a guitar's sound before it is heard, so that no note is written twice.

A delay repeats the sound to the sample; hands do not. So the autocorrelation of the whitened sound has a peak at the
delay that stands far over all that playing gives, and its values there and at twice and three times as long foretell
the echoes (long-term prediction, as of speech: P. Kabal and R. Ramachandran, "Joint optimization of linear predictors
in speech coders", IEEE TASSP 37, 1989), which are subtracted.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.linalg import solve_toeplitz
from scipy.ndimage import uniform_filter1d

_SHORTEST_S, _LONGEST_S = 0.1, 1.3
_TAPS = 3
REACH_S = _TAPS * _LONGEST_S  # so far back sound can come from
# How far the peak stands over the autocorrelation's spread: playing alone reaches 25, echoes of a tenth begin at 45.
_CLEAR = 38.0
_LEAST = 0.1
_NEAR = 3  # samples that a multiple of the delay may be off
_SMOOTHED_HZ, _MOST = 60.0, 4.0  # whitening: over how much of the spectrum, and what stands out of it at most
_BAND_HZ = (150.0, 7000.0)


@dataclass(frozen=True)
class Echo:
    """A delay in seconds, and how much of the sound comes back after it, twice it, and so on."""

    delay_s: float
    gains: tuple[float, ...]


def find_echo(samples: NDArray[np.float32], rate: int) -> Echo | None:
    """The echo in mono samples of some seconds, None where there is none that stands out."""
    shortest, longest = round(_SHORTEST_S * rate), round(_LONGEST_S * rate)
    if len(samples) < 2 * longest:
        return None
    likeness = _likeness(samples, rate)[: (_TAPS + 1) * longest]
    within = likeness[shortest:longest]
    delay = shortest + int(within.argmax())
    if likeness[delay] < max(_LEAST, _CLEAR * float(np.std(within))):
        return None
    multiples = [
        float(likeness[k * delay - _NEAR : k * delay + _NEAR + 1].max(initial=0.0)) for k in range(1, _TAPS + 1)
    ]
    gains = solve_toeplitz([1.0, *multiples[:-1]], multiples)
    return Echo(delay / rate, tuple(float(gain) for gain in gains))


def without_echo(samples: NDArray[np.float32], rate: int, echo: Echo) -> NDArray[np.float32]:
    """Samples, (frames,) or (frames, channels), less what of them comes back."""
    out = samples.astype(np.float64)
    for number, gain in enumerate(echo.gains, 1):
        late = round(number * echo.delay_s * rate)
        if late < len(out):
            out[late:] -= gain * samples[:-late]
    return out.astype(np.float32)


def _likeness(samples: NDArray[np.float32], rate: int) -> NDArray[np.float64]:
    """The autocorrelation of the whitened sound, 1 at no delay."""
    size = fft.next_fast_len(2 * len(samples), real=True)
    power = np.abs(fft.rfft(np.diff(samples.astype(np.float64), prepend=0.0), size)) ** 2
    floor = uniform_filter1d(power, max(1, round(_SMOOTHED_HZ * size / rate))) + 1e-12 * float(power.max(initial=0.0))
    hz = np.arange(len(power)) * rate / size
    white = np.where((hz > _BAND_HZ[0]) & (hz < _BAND_HZ[1]), np.minimum(power / (floor + 1e-30), _MOST), 0.0)
    found = fft.irfft(white, size)
    return np.asarray(found / (found[0] + 1e-30), dtype=np.float64)
