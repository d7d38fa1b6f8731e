"""How stiff the string is that a note was played on: the inharmonicity of its partials.

A stiff string's partials lie at k f0 sqrt(1 + B k^2) (H. Fletcher, "Normal vibration frequencies of a stiff piano
string", JASA 36, 1964). B differs from string to string at the same pitch, which tells them apart (I. Barbancho, L.
Tardón, S. Sammartino and A. Barbancho, "Inharmonicity-based method for the automatic generation of guitar tablature",
IEEE TASLP 20(6), 2012).
"""

from statistics import median

import numpy as np
from numpy.typing import NDArray

from eager_owl.theory.pitch import midi_to_hz

LEAST_S = 0.25
_SKIP_S, _MOST_S = 0.06, 0.7  # past the attack, before the partials have died away
_MOST_PARTIALS, _FEWEST_PARTIALS = 18, 7
_HIGHEST_HZ = 6500.0
_CLEAR = 6.0  # a peak stands this many times over the spectrum's median around it
_LARGEST_B = 2e-3
_CERTAIN = 0.25  # relative standard error of B beyond which nothing is said


def string_stiffness(samples: NDArray[np.float32], rate: int, midi: float) -> float | None:
    """B of a plainly held note, from its mono samples (attack first) and its sounding pitch (MIDI, within 30 cents).

    None where it is too short (under 0.25 s), or its partials are too few or too unclear to say. Partials are sought
    one after the other, each where those before it foretell, and fitted by (f_k / k)^2 = f0^2 (1 + B k^2), which is
    a straight line in k^2, by iteratively reweighted least squares.
    """
    steady = np.asarray(samples[round(_SKIP_S * rate) : round(_MOST_S * rate)], dtype=np.float64)
    if len(steady) < (LEAST_S - _SKIP_S) * rate:
        return None
    size = 1 << int(np.ceil(np.log2(4 * len(steady))))
    levels = np.abs(np.fft.rfft(steady * np.hanning(len(steady)), size))
    bin_hz = rate / size
    numbers, peaks = _partials(levels, bin_hz, float(midi_to_hz(midi)))
    if len(numbers) < _FEWEST_PARTIALS:
        return None
    x, y = numbers**2, (peaks / numbers) ** 2
    weight = np.ones(len(x))
    slope = level = error = 0.0
    for _ in range(8):
        level, slope, broad = _line(x, y, weight)
        rest = y - level - slope * x
        spread = 1.4826 * median(np.abs(rest).tolist()) + 1e-9 * level
        weight = 1 / (1 + (rest / (2 * spread)) ** 2)
        error = spread / float(np.sqrt(broad))
    stiffness = slope / level
    if not 0 < stiffness < _LARGEST_B or error > _CERTAIN * slope:
        return None
    return float(stiffness)


def _line(x: NDArray[np.float64], y: NDArray[np.float64], weight: NDArray[np.float64]) -> tuple[float, float, float]:
    """Level and slope of the weighted least-squares line, and the weighted sum of squares of x about its mean."""
    whole = float(weight.sum())
    middle, height = float(weight @ x) / whole, float(weight @ y) / whole
    broad = float(weight @ (x - middle) ** 2)
    slope = float(weight @ ((x - middle) * (y - height))) / broad
    return height - slope * middle, slope, broad


def _partials(
    levels: NDArray[np.float64], bin_hz: float, hz: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Numbers and frequencies of the partials that stand out, followed upwards."""
    numbers, peaks = [], []
    fundamental, stiffness = hz, 0.0
    for k in range(1, _MOST_PARTIALS + 1):
        expected = k * fundamental * np.sqrt(1 + stiffness * k * k)
        if expected > min(_HIGHEST_HZ, bin_hz * (len(levels) - 2)):
            break
        reach = (0.02 if k < 3 else 0.012) * expected
        low, high = int((expected - reach) / bin_hz), int((expected + reach) / bin_hz) + 2
        around = levels[max(int((expected - hz / 2) / bin_hz), 0) : int((expected + hz / 2) / bin_hz)]
        at = low + int(levels[low:high].argmax())
        if at in (low, high - 1) or levels[at] < _CLEAR * median(around.tolist()):
            continue
        left, middle, right = np.log(levels[at - 1 : at + 2] + 1e-12)
        peak = (at + 0.5 * (left - right) / (left - 2 * middle + right)) * bin_hz
        numbers.append(float(k))
        peaks.append(float(peak))
        if len(numbers) >= 3:
            found = np.array(numbers)
            level, slope, _ = _line(found**2, (np.array(peaks) / found) ** 2, np.ones(len(found)))
            if level > 0:
                fundamental, stiffness = float(np.sqrt(level)), float(np.clip(slope / level, 0.0, _LARGEST_B))
        else:
            fundamental = peaks[-1] / k
    return np.array(numbers), np.array(peaks)
