"""The end of a search for the best path through states over time (A. Viterbi, 1967): reading it backwards."""

import numpy as np
from numpy.typing import NDArray


def walk_back(back: NDArray[np.intp], last: int) -> NDArray[np.intp]:
    """The path's states, shape (n,): `last` at the end, and before each the one that `back`, (n, states), has."""
    states = np.empty(len(back), np.intp)
    states[-1] = last
    for i in range(len(back) - 1, 0, -1):
        states[i - 1] = back[i, states[i]]
    return states
