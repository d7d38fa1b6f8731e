"""Ways of playing that last over a stretch of notes: what one note leaves open its neighbours tell."""

import numpy as np
from numpy.typing import NDArray

_NEIGHBOURS, _LEAST = 3, 3  # so many are weighed together, and a stretch has so many


def lasting(shares: NDArray[np.float64], likely: float) -> set[int]:
    """The indices of stretches of three notes and more whose shares, with their neighbours', are in the mean over

    `likely`; `shares` says of each note how likely it is played so.
    """
    if not len(shares):
        return set()
    around = np.lib.stride_tricks.sliding_window_view(np.pad(shares, _NEIGHBOURS // 2, mode="reflect"), _NEIGHBOURS)
    over = np.flatnonzero(around.mean(axis=1) > likely)
    stretches = np.split(over, np.flatnonzero(np.diff(over) > 1) + 1)
    return {int(index) for stretch in stretches if len(stretch) >= _LEAST for index in stretch}
