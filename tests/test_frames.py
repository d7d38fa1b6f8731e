"""The likeness of a sound to itself, against its definition."""

import unittest

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing import frames
from eager_owl.hearing.frames import HOP

LONG, SHORT, SHORT_LAGS = 1024, 512, 105


def as_defined(window: NDArray[np.float64], lag: int) -> float:
    """Twice what a window has in common with itself a lag later, against the energy of both parts; its mean is taken

    off (P. McLeod and G. Wyvill, 2005).
    """
    window = window - window.mean()
    before, after = window[: len(window) - lag], window[lag:]
    return float(2 * (before @ after) / (before @ before + after @ after))


class Likeness(unittest.TestCase):
    def test_windows_that_share_samples_are_as_each_by_itself(self) -> None:
        rng = np.random.default_rng(7)
        signal = (rng.standard_normal(LONG + 12 * HOP) * np.linspace(1.0, 0.01, LONG + 12 * HOP) + 0.1).astype(
            np.float32
        )
        found = frames._likeness(signal)
        self.assertEqual(len(found), 13)
        for row in (0, 5, 12):
            window = signal[row * HOP : row * HOP + LONG].astype(np.float64)
            middle = window[(LONG - SHORT) // 2 : (LONG + SHORT) // 2]
            for lag in range(0, found.shape[1], 13):
                expected = as_defined(middle if lag < SHORT_LAGS else window, lag)
                self.assertAlmostEqual(float(found[row, lag]), expected, places=4)


if __name__ == "__main__":
    unittest.main()
