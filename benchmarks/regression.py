"""Logistic regression on what is seen by name, as all that hearing weighs by hand-sized numbers is fitted."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

_PENALTY = 1e-4


def fit(rows: Sequence[dict[str, float]], truth: Sequence[bool]) -> dict[str, float]:
    """The weights by name, with a small penalty on their squares; how well they do is printed."""
    names = [*rows[0]]
    x = np.array([[1.0, *(seen[name] for name in names)] for seen in rows])
    y = np.array(truth, dtype=float)

    def loss(w: NDArray[np.float64]) -> tuple[float, NDArray[np.float64]]:
        z = x @ w
        value = np.logaddexp(0, z).mean() - (y * z).mean() + _PENALTY * (w @ w)
        return float(value), x.T @ (1 / (1 + np.exp(-z)) - y) / len(y) + 2 * _PENALTY * w

    found = minimize(loss, np.zeros(x.shape[1]), jac=True)
    right = float(np.mean((x @ found.x > 0) == (y > 0)))
    print(f"{len(rows)} examples, {y.mean():.3f} true, {right:.3f} right, loss {found.fun:.3f}", flush=True)
    return {name: round(float(w), 2) for name, w in zip(["bias", *names], found.x, strict=True)}
