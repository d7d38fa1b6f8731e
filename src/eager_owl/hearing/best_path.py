"""The best path through a few states over time (A. Viterbi, 1967), all stretches of the time searched at once.

Each stretch is passed from every state that it may be entered in, so that none waits for the one before it; then the
stretches are joined. A path of a thousand frames takes some sixty steps of array arithmetic, not a thousand.
"""

import numpy as np
from numpy.typing import NDArray


def best_path(local: NDArray[np.float64], steps: NDArray[np.float64]) -> NDArray[np.intp]:
    """The states, shape (n,), at the least total cost.

    `local`, shape (n, states), are the costs of being in a state; `steps`, shape (n - 1, states, states), those of
    going from the first to the second. Some way must cost less than infinity.
    """
    n, count = local.shape
    length = max(1, round(np.sqrt(n)))
    stretches = -(-(n - 1) // length)
    # Costs by frame of a stretch, stretch, state left and state come to; where the last is not full, all stays.
    ways = np.full((stretches * length, count, count), np.inf)
    ways[:, range(count), range(count)] = 0.0
    ways[: n - 1] = steps + local[1:, None, :]
    ways = np.ascontiguousarray(ways.reshape(stretches, length, count, count).swapaxes(0, 1))
    # The cheapest cost and the state before it, from each state that a stretch is entered in to each one come to.
    costs = np.where(np.eye(count, dtype=np.bool_), 0.0, np.inf)[None].repeat(stretches, axis=0)
    before = np.zeros((length, stretches, count, count), np.int8)
    for at, way in enumerate(ways):
        cheapest = costs[:, :, :1] + way[:, None, 0]
        for state in range(1, count):
            through = costs[:, :, state, None] + way[:, None, state]
            np.copyto(before[at], state, where=through < cheapest)
            np.minimum(cheapest, through, out=cheapest)
        costs = cheapest

    entered = np.empty((stretches, count), np.intp)
    best = local[0]
    for number, cost in enumerate(costs):
        total = best[:, None] + cost
        entered[number] = total.argmin(axis=0)
        best = total.min(axis=0)

    last = int(best.argmin())
    ends, starts = np.empty(stretches, np.intp), np.empty(stretches, np.intp)
    for number in reversed(range(stretches)):
        ends[number] = last
        starts[number] = last = int(entered[number, last])
    states, numbers = np.empty((length, stretches), np.intp), np.arange(stretches)
    for at in reversed(range(length)):
        states[at] = ends
        ends = before[at, numbers, starts, ends].astype(np.intp)
    return np.concatenate([[last], states.T.ravel()[: n - 1]])
