"""Learn the chord templates of `hearing/chords.py` from mixes of a lead over a band that fluidsynth plays.

A multinomial logistic regression in which all roots share their weights: a bar's profile is seen from each of the
twelve roots, and each quality has one weight for every entry. Learnt from three soundfonts, coloured and driven as
recordings are, and the changes below;
`./run-benchmarks chords --held-out` measures on a fourth, and on other changes. Writes `chords.npz`.

PYTHONPATH=src:. .venv/bin/python -m benchmarks.train_chords [mixes]
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.signal import lfilter
from scipy.special import log_softmax

from benchmarks.band import BASSES, COMPING, OTHER_BASSES, OTHER_COMPING, Changes, grid_of, mixed
from benchmarks.pieces import PROGRAMS, RATE_HZ
from eager_owl.hearing.chords import QUALITIES, above_each_root, bar_profile
from eager_owl.theory.chord import parse_chord

_SOUNDFONTS, _LEVELS_DB = ("timgm", "csound", "opl3"), (3.0, 0.0, 6.0, 10.0)
_SEED, _PENALTY = 50_000, 2.0
_OUT = Path(__file__).parents[1] / "src/eager_owl/hearing/chords.npz"


def _changes(*rows: str) -> tuple[Changes, ...]:
    """Changes written over C."""
    return tuple(
        tuple((chord.root, tuple(sorted(chord.degrees))) for chord in map(parse_chord, row.split())) for row in rows
    )


TRAINING_CHANGES = _changes(
    "Cmaj7 Am7 Dm7 G7", "Cm7 Fm7 Abmaj7 G7", "C F G C", "Cm Bb Ab G", "Dm7 G7 Cmaj7 Cmaj7", "Cmaj7 C#dim7 Dm7 G7",
    "Cm7 Dm7b5 G7 Cm", "Fmaj7 Em7 Dm7 Cmaj7", "C7 F7 F#dim7 C7", "Cm Dm7b5 G7 Cm7", "Am F C G",
    "Cmaj7 Fmaj7 Bm7b5 E7", "Cm7 Ebmaj7 Abmaj7 Dm7b5", "C E7 Am D7", "Cm7 Bb7 Ebmaj7 Abmaj7",
    "Ebdim7 Em7 A7 Dm7", "Fm7 Bb7 Ebmaj7 Cm7", "C C7 F Fm",
)  # fmt: skip


def examples(number: int) -> list[tuple[NDArray[np.float64], int]]:
    """The bars of a mix: each seen from every root, shape (12, entries), and the index of its root and quality."""
    tones = [tuple(sorted(parse_chord(f"C{name}").degrees)) for name in QUALITIES]
    programs, compings = list(PROGRAMS), list(COMPING | OTHER_COMPING)
    program, comping = programs[(7 * number + 3) % len(programs)], compings[(5 * number + 1) % len(compings)]
    font, level = _SOUNDFONTS[number % len(_SOUNDFONTS)], _LEVELS_DB[number % len(_LEVELS_DB)]
    basses = BASSES if number % 3 else OTHER_BASSES
    mix = mixed(_SEED + number, program, comping, level, font, changes=TRAINING_CHANGES, basses=basses)
    samples, grid = _coloured(mix.samples, np.random.default_rng(_SEED + number)), grid_of(mix)
    found = []
    for bar, (root, steps) in enumerate(mix.chords):
        start, end = (round(grid.time_of((bar + k) * grid.beats_per_bar) * RATE_HZ) for k in (0, 1))
        profile = bar_profile(samples[start:end], RATE_HZ, mix.detune_cents, grid.beats_per_bar)
        if profile is not None:
            found.append((above_each_root(profile), root * len(QUALITIES) + tones.index(steps)))
    return found


def _coloured(samples: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """As another amplifier, desk or tape might have it: darker or brighter, and half of them driven."""
    tilted = lfilter([1.0, -rng.uniform(-0.6, 0.9)], [1.0], samples)
    if rng.random() < 0.5:
        tilted = np.tanh(rng.uniform(0.5, 4.0) * tilted / max(float(np.std(tilted)), 1e-9))
    return np.asarray(tilted, np.float32)


def learn(seen: NDArray[np.float64], labels: NDArray[np.intp]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Weights (entries, qualities) and biases that make the labels likeliest, with an L2 penalty on the weights."""
    count, _, entries = seen.shape
    split = entries * len(QUALITIES)

    def loss(flat: NDArray[np.float64]) -> tuple[float, NDArray[np.float64]]:
        weights, bias = flat[:split].reshape(entries, -1), flat[split:]
        log_shares = log_softmax((seen @ weights + bias).reshape(count, -1), axis=1)
        slope = np.exp(log_shares)
        slope[np.arange(count), labels] -= 1.0
        slope = slope.reshape(count, 12, -1)
        to_weights = np.einsum("nre,nrq->eq", seen, slope) + _PENALTY * weights
        total = -log_shares[np.arange(count), labels].sum() + _PENALTY / 2 * (weights**2).sum()
        return float(total), np.concatenate([to_weights.ravel(), slope.sum(axis=(0, 1))])

    found = minimize(loss, np.zeros(split + len(QUALITIES)), jac=True, method="L-BFGS-B", options={"maxiter": 400}).x
    return found[:split].reshape(entries, -1), found[split:]


def main() -> None:
    mixes = int(sys.argv[1]) if len(sys.argv) > 1 else 500
    with ProcessPoolExecutor() as pool:
        bars = [bar for found in pool.map(examples, range(mixes), chunksize=5) for bar in found]
    seen, labels = np.array([bar for bar, _ in bars]), np.array([label for _, label in bars])
    weights, bias = learn(seen, labels)
    guessed = (seen @ weights + bias).reshape(len(seen), -1).argmax(axis=1)
    print(f"right in what was learnt from: {np.mean(guessed == labels):.3f}")
    np.savez_compressed(_OUT, weights=weights.astype(np.float32), bias=bias.astype(np.float32))


if __name__ == "__main__":
    main()
