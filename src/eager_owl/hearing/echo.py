"""An echo taken out of a guitar's sound before it is heard, so that no note is written twice.

A delay repeats all of the sound to the sample; hands do not. So the autocorrelation of the whitened sound has a peak
at the delay that stands far over all that playing gives, and its values there and at twice and three times as long
foretell the echoes (long-term prediction, as of speech: P. Kabal and R. Ramachandran, "Joint optimization of linear
predictors in speech coders", IEEE TASSP 37, 1989), which are subtracted.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import uniform_filter1d

_SHORTEST_S, _LONGEST_S = 0.1, 1.3
_TAPS = 3
REACH_S = _TAPS * _LONGEST_S  # so far back sound can come from
# How far the peak stands over the autocorrelation's spread: playing alone reaches 25, echoes of a tenth begin at 45.
_CLEAR = 38.0
_LEAST, _LOUDEST = 0.1, 0.75  # how much of the sound comes back first
# In a piece of the sound its past is back with some of the gain found; so in most pieces that are not faint.
_PIECE_S, _FAINT, _SOME, _ALL, _FEWEST = 0.25, 0.02, 0.4, 0.75, 5
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
    spectrum = _spectrum(samples, rate)
    power = spectrum.real**2 + spectrum.imag**2
    even = _evened(power, rate)
    likeness = fft.irfft(even)
    likeness /= likeness[0] + 1e-30
    within = likeness[shortest:longest]
    delay = shortest + int(within.argmax())
    if likeness[delay] < max(_LEAST, _CLEAR * float(np.std(within))):
        return None
    around = [likeness[k * delay - _NEAR : k * delay + _NEAR + 1] for k in range(1, _TAPS + 1)]
    back = [float(values.max(initial=0.0)) for values in around]
    lags = np.abs(np.subtract.outer(np.arange(_TAPS), np.arange(_TAPS)))
    gains = np.linalg.solve(np.array([1.0, *back])[lags], back)
    white = fft.irfft(spectrum * np.sqrt(even / (power + 1e-30)))[: len(samples)]
    if not _is_echo(_returns(white, delay, round(_PIECE_S * rate)), back[0]):
        return None
    return Echo(delay / rate, tuple(float(gain) for gain in gains))


def _returns(white: NDArray[np.floating], delay: int, piece: int) -> NDArray[np.float64]:
    """How much of what sounded the delay before comes back in each piece of a sound, where anything did."""
    count = (len(white) - delay) // piece
    now, past = (part[: count * piece].reshape(count, piece) for part in (white[delay:], white[:-delay]))
    energy = np.einsum("ij,ij->i", past, past)
    sounding = energy > _FAINT * float(energy.max(initial=0.0))
    return np.asarray(np.einsum("ij,ij->i", now, past)[sounding] / (energy[sounding] + 1e-30), dtype=np.float64)


def _is_echo(returns: NDArray[np.float64], gain: float) -> bool:
    """Whether all of a sound comes back, and softer; of what is played again, only those notes do, and as loud."""
    enough = len(returns) >= _FEWEST
    return enough and float(np.mean(returns > _SOME * gain)) >= _ALL and float(np.median(returns)) < _LOUDEST


def without_echo(samples: NDArray[np.float32], rate: int, echo: Echo) -> NDArray[np.float32]:
    """Samples, (frames,) or (frames, channels), less what of them comes back."""
    out = samples.astype(np.float64)
    for number, gain in enumerate(echo.gains, 1):
        late = round(number * echo.delay_s * rate)
        if late < len(out):
            out[late:] -= gain * samples[:-late]
    return out.astype(np.float32)


def _spectrum(samples: NDArray[np.float32], rate: int) -> NDArray[np.complex64]:
    """Of a sound, its highs raised, with silence after it for as long as sound can come back."""
    size = 2 * fft.next_fast_len((len(samples) + round(REACH_S * rate)) // 2 + _NEAR, real=True)
    return np.asarray(fft.rfft(np.diff(samples, prepend=samples[:1]), size))


def _evened(power: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """The power at each frequency against that around it, none outside the band: the power of the whitened sound."""
    per_hz = 2 * (len(power) - 1) / rate
    floor = uniform_filter1d(power, max(1, round(_SMOOTHED_HZ * per_hz))) + 1e-12 * float(power.max(initial=0.0))
    even, band = np.zeros_like(power), slice(*(round(hz * per_hz) for hz in _BAND_HZ))
    even[band] = np.minimum(power[band] / (floor[band] + 1e-30), _MOST)
    return even
