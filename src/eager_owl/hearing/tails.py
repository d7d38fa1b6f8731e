"""The tail of a hall, taken out of a guitar's sound so that what is over does not hide what begins.

A hall answers with all that sounded before, ever more softly: at any frequency there stands at least a share of what
stood there a moment ago. Where strings are damped or change their pitch nothing else is left, so a low quantile of
what is left tells that share, and so much of the past is subtracted from the power (K. Lebart, J. Boucher and
P. Denbigh, "A new method based on spectral subtraction for speech dereverberation", Acta Acustica 87, 2001).
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter, uniform_filter1d
from scipy.signal import istft, stft

_WINDOW, _HOP = 1024, 256
_LATE_S = 0.1  # what was there so long before comes back as a tail
_BAND_HZ = (100.0, 6400.0)
_SMOOTHED = 5  # frames, so that strings that beat do not look damped
# What tells the tail: where there was so much of the loudest power of all, and of its time, this quantile of what is
# left.
_LOUD, _LOUD_THEN, _QUANTILE = 1e-5, 1e-3, 0.1
# The quantile is of what falls fastest; a tail is about so many times as much. Strings that ring leave much too, so
# no more than a part is taken; where there is hardly any, none.
_TIMES, _LEAST, _MOST = 3.0, 0.06, 0.3
_KEPT = 0.3  # of the amplitude, at least
_EVENED = 3  # bins and frames, so that no specks of sound are left where a tail goes


def without_tail(samples: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """Mono samples less the tail of the hall that they were played in; the samples themselves where there is none."""
    if len(samples) < _WINDOW:
        return samples
    _, _, sound = stft(samples, rate, nperseg=_WINDOW, noverlap=_WINDOW - _HOP)
    power = sound.real**2 + sound.imag**2
    share, late = _tail_share(power, rate), _late(rate)
    if share < _LEAST:
        return samples
    tail, now = share * power[:, :-late], power[:, late:]
    left = 1 - np.divide(tail, now, out=np.ones_like(now), where=now > tail)
    sound[:, late:] *= uniform_filter(np.sqrt(np.maximum(left, _KEPT**2)), _EVENED)
    _, dry = istft(sound, rate, nperseg=_WINDOW, noverlap=_WINDOW - _HOP)
    return np.asarray(dry[: len(samples)], dtype=np.float32)


def _tail_share(power: NDArray[np.float32], rate: int) -> float:
    """How much of a power spectrogram, shape (bins, frames), is back as a tail after _LATE_S, from 0 to _MOST."""
    late = _late(rate)
    low, high = (round(hz * _WINDOW / rate) for hz in _BAND_HZ)
    smooth = uniform_filter1d(power[low:high], _SMOOTHED, axis=1)
    then, now = smooth[:, :-late], smooth[:, late:]
    if not then.size:
        return 0.0
    loud = (then > _LOUD * smooth.max()) & (then > _LOUD_THEN * then.max(axis=0))
    return min(_TIMES * float(np.quantile(now[loud] / then[loud], _QUANTILE)), _MOST) if loud.any() else 0.0


def _late(rate: int) -> int:
    return round(_LATE_S * rate / _HOP)
