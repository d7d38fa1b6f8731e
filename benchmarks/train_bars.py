"""Fit what tells where bars begin (eager_owl.hearing.beats) and write it into the package.

    ./run-benchmarks train_bars [--pieces N]

Of the meters and phases tried, the likeliest is to be the true one: a softmax over them, on bands of other seeds than
the benchmark's, of the soundfonts of benchmarks/training.py, with beats as the program finds them.
"""

import argparse
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from benchmarks.band import COMPING, OTHER_COMPING, mixed
from benchmarks.pieces import PROGRAMS, RATE_HZ
from benchmarks.regression import keep
from benchmarks.training import SOUNDFONTS
from eager_owl.hearing.beats import METERS, describe_bars, find_beats, mark_beats, measure_pulse
from eager_owl.hearing.salience import COARSE_HOP_S, measure_spectra

_SEED = 5_000_000
_NEAR_BEATS = 0.2
Choice = tuple[list[dict[str, float]], int]  # what is seen of each meter and phase, and which of them is true


def example(number: int) -> Choice | None:
    """One band; None where its beats were not found, so that no phase is right."""
    rng = np.random.default_rng(_SEED + number)
    font, other = str(rng.choice(SOUNDFONTS)), str(rng.choice(SOUNDFONTS))
    comping = str(rng.choice([*(COMPING | OTHER_COMPING)]))
    mix = mixed(_SEED + number, str(rng.choice([*PROGRAMS])), comping, float(rng.uniform(-3, 8)), font, other)
    pulse = measure_pulse(measure_spectra(mix.samples, RATE_HZ))
    found = find_beats(pulse)
    if found is None:
        return None
    true_beat_s = float(np.median(np.diff(mix.beats)))
    off_beats = np.abs(np.median(np.diff(found.times_s)) / true_beat_s - 1)
    per_bar = round(len(mix.beats) / len(mix.downbeats))
    firsts = [i for i, at in enumerate(found.times_s) if np.abs(mix.downbeats - at).min() < _NEAR_BEATS * true_beat_s]
    if off_beats > 0.05 or not firsts or per_bar not in METERS:
        return None
    phase = int(np.bincount(np.array(firsts) % per_bar).argmax())
    marks = mark_beats(pulse, np.round(found.times_s / COARSE_HOP_S).astype(np.intp))
    tried = [(meter, at) for meter in METERS for at in range(meter)]
    return [describe_bars(marks, meter, at) for meter, at in tried], tried.index((per_bar, phase))


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--pieces", type=int, default=400)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        choices = [choice for choice in pool.map(example, range(options.pieces), chunksize=4) if choice is not None]
    names = sorted({name for seen, _ in choices for each in seen for name in each})
    x = np.array([[[each.get(name, 0.0) for name in names] for each in seen] for seen, _ in choices])
    true = np.array([right for _, right in choices])

    def loss(w: NDArray[np.float64]) -> float:
        scores = x @ w
        most = scores.max(axis=1)
        every = most + np.log(np.exp(scores - most[:, None]).sum(axis=1))
        return float((every - scores[np.arange(len(true)), true]).mean() + 1e-3 * (w @ w))

    found = minimize(loss, np.zeros(len(names))).x
    right = ((x @ found).argmax(axis=1) == true).mean()
    print(f"{len(true)} of {options.pieces} bands with their beats found: bars right {right:.3f}")
    weights = {name: round(float(w), 2) for name, w in zip(names, found, strict=True)}
    keep("bars", {"bar": weights})


if __name__ == "__main__":
    main()
