"""The search for the best path, against all there are."""

import itertools
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from eager_owl.hearing.best_path import best_path


class BestPath(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(n=st.integers(1, 7), count=st.integers(1, 4), seed=st.integers(0, 10_000))
    def test_no_other_path_costs_less(self, n: int, count: int, seed: int) -> None:
        rng = np.random.default_rng(seed)
        local, steps = rng.random((n, count)), rng.random((n - 1, count, count))
        local[rng.random(local.shape) < 0.2] = np.inf
        local[:, -1] = 0.5  # a rest is always possible

        def cost(path: tuple[int, ...]) -> float:
            come = sum(steps[i, a, b] for i, (a, b) in enumerate(itertools.pairwise(path)))
            return float(come + sum(local[i, state] for i, state in enumerate(path)))

        found = best_path(local, steps)
        self.assertEqual(len(found), n)
        self.assertAlmostEqual(cost(tuple(found.tolist())), min(map(cost, itertools.product(range(count), repeat=n))))

    def test_a_long_path_keeps_to_the_cheap_states(self) -> None:
        true = np.repeat([0, 2, 1, 2, 0], 137)
        local = np.where(np.arange(3) == true[:, None], 0.0, 1.0)
        steps = np.broadcast_to(np.where(np.eye(3, dtype=np.bool_), 0.0, 5.0), (len(true) - 1, 3, 3))
        np.testing.assert_array_equal(best_path(local, steps), true)


if __name__ == "__main__":
    unittest.main()
