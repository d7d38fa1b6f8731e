"""Small networks of two hidden layers, kept in the package; of several the mean counts.

L. K. Hansen and P. Salamon, "Neural network ensembles", IEEE TPAMI 12, 1990. benchmarks/train_judge.py trains them.
"""

from functools import lru_cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit

Layers = tuple[NDArray[np.float32], ...]


@lru_cache
def layers_of(name: str) -> Layers:
    """The weights and biases, layer by layer, of the networks kept under a name; the first axis is the network."""
    with (files("eager_owl.hearing") / f"{name}.npz").open("rb") as file, np.load(file) as stored:
        return tuple(stored[layer].astype(np.float32) for layer in ("w1", "b1", "w2", "b2", "w3", "b3"))


def ask(layers: Layers, seen: NDArray[np.float32]) -> NDArray[np.float32]:
    """What networks say of each row seen, shape (rows, features): probabilities, shape (rows, outcomes)."""
    w1, b1, w2, b2, w3, b3 = layers
    hidden = _rectified(seen @ w1, b1)
    hidden = _rectified(hidden @ w2, b2)
    return np.asarray(expit(hidden @ w3 + b3[:, None]).mean(axis=0))


def _rectified(sums: NDArray[np.float32], bias: NDArray[np.float32]) -> NDArray[np.float32]:
    """In place: a layer of the judge is too large to be copied twice."""
    sums += bias[:, None]
    return np.maximum(sums, 0, out=sums)
