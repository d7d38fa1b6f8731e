"""Logistic regressions kept in the package, as benchmarks/regression.py fits them: weights by what they weigh."""

import json
from collections.abc import Mapping
from functools import cache
from importlib.resources import files

from scipy.special import expit

Weights = dict[str, float]


@cache
def weights_of(name: str) -> dict[str, Weights]:
    """The regressions kept under a name, by what each of them tells."""
    loaded: dict[str, Weights] = json.loads((files("eager_owl.hearing") / f"{name}.json").read_text(encoding="utf-8"))
    return loaded


def log_odds(weights: Weights, seen: Mapping[str, float]) -> float:
    """How far what is seen speaks for it: 0 where it is open."""
    return weights.get("bias", 0.0) + sum(weights[name] * value for name, value in seen.items())


def probability(weights: Weights, seen: Mapping[str, float]) -> float:
    """How likely it is by what is seen."""
    return float(expit(log_odds(weights, seen)))
