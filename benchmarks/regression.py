"""Logistic regression on what is seen by name, as all that hearing weighs by hand-sized numbers is fitted."""

import json
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from eager_owl.hearing.regressions import Weights

_PENALTY = 5e-4


def fit(rows: Sequence[dict[str, float]], truth: Sequence[bool], counts: Sequence[float] | None = None) -> Weights:
    """The weights by name, with a small penalty on their squares, each in the spread of what it weighs; a row counts

    as many times as `counts` says. How well they do is printed.
    """
    names = [*rows[0]]
    seen = np.array([[row[name] for name in names] for row in rows])
    mean, spread = seen.mean(axis=0), seen.std(axis=0) + 1e-9
    x = np.column_stack([np.ones(len(seen)), (seen - mean) / spread])
    y = np.array(truth, dtype=float)
    share = np.ones(len(y)) if counts is None else np.array(counts, dtype=float)
    share /= share.sum()

    def loss(w: NDArray[np.float64]) -> tuple[float, NDArray[np.float64]]:
        z = x @ w
        value = share @ (np.logaddexp(0, z) - y * z) + _PENALTY * (w[1:] @ w[1:])
        return float(value), x.T @ (share * (1 / (1 + np.exp(-z)) - y)) + 2 * _PENALTY * np.array([0, *w[1:]])

    found = minimize(loss, np.zeros(x.shape[1]), jac=True)
    right = float(np.mean((x @ found.x > 0) == (y > 0)))
    print(f"{len(rows)} examples, {y.mean():.3f} true, {right:.3f} right, loss {found.fun:.3f}", flush=True)
    weights = found.x[1:] / spread
    bias = float(found.x[0] - weights @ mean)
    return {"bias": round(bias, 2)} | {name: round(float(w), 2) for name, w in zip(names, weights, strict=True)}


def keep(name: str, weights: dict[str, Weights]) -> None:
    """Write regressions, by what each of them tells, into the package (eager_owl.hearing.regressions)."""
    path = Path(__file__).parents[1] / f"src/eager_owl/hearing/{name}.json"
    path.write_text(json.dumps(weights, indent=1) + "\n", encoding="utf-8")
