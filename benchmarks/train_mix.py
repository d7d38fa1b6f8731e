"""Fit what decides between a guitar alone and a band where the sound leaves it open (eager_owl.hearing.mix).

    PYTHONPATH=src:. .venv/bin/python -m benchmarks.train_mix [--pieces N]

Guitars alone, plain and coloured, low riffs among them, and bands, sparse and dense, of other seeds than the
benchmark's; each is heard as both. Logistic regression with a small penalty; the weights are printed, to be written
into the module.
"""

import argparse
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from benchmarks.band import COMPING, mixed
from benchmarks.colours import colours, dense_band
from benchmarks.pieces import IDIOMS, PROGRAMS, RATE_HZ, TOGETHER, Piece, render
from benchmarks.train_judge import SOUNDFONTS, through_effects
from eager_owl.audio.decode import mono
from eager_owl.hearing.detect import believed, listen
from eager_owl.hearing.frames import measure_frames
from eager_owl.hearing.mix import OPEN_FROM, OPEN_TO, compared, mix_score

_SEED = 4_000_000
_RIFF_STEPS = (0, 0, 0, 3, 5, 6, 7, 10, 12)


def low_riff(rng: np.random.Generator) -> Piece:
    """Eight seconds on the lowest string, which may be tuned down a step or two."""
    piece, low, beat_s = Piece("low riff"), int(rng.integers(36, 43)), float(rng.uniform(0.13, 0.32))
    while piece.now < 8.0:
        piece.pick(low + int(rng.choice(_RIFF_STEPS)), beat_s * float(rng.choice((1, 1, 2))), rng)
    return piece


def _touched(samples: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """A guitar as it is, through an amplifier and a room, or coloured as records are."""
    draw = rng.random()
    if draw < 0.3:
        return samples
    if draw < 0.6:
        return through_effects(samples, rng)
    chains = [*colours(rng).values()]
    return mono(chains[int(rng.integers(len(chains)))](samples))


def example(number: int) -> tuple[dict[str, float], bool] | None:
    """What is to be compared of one recording, and whether it is a band; None where its sound decides."""
    rng = np.random.default_rng(_SEED + number)
    font, program = str(rng.choice(SOUNDFONTS)), str(rng.choice([*PROGRAMS]))
    draw, is_band = rng.random(), bool(number % 2)
    sound: NDArray[np.float32]
    if is_band and draw < 0.4:
        sound = mono(dense_band(_SEED + number, float(rng.uniform(-3, 9)), font, str(rng.choice(SOUNDFONTS))).sound)
    elif is_band:
        comping = str(rng.choice([*COMPING]))
        sound = mixed(_SEED + number, program, comping, float(rng.uniform(-1, 10)), font).samples
    else:
        kinds = (low_riff,) if draw < 0.35 else TOGETHER if draw < 0.5 else IDIOMS
        piece = kinds[int(rng.integers(len(kinds)))](rng)
        sound = _touched(render(piece, program, float(rng.uniform(-40, 40)), font), rng)
    alone = listen(sound, RATE_HZ, mix="solo")
    score = mix_score(measure_frames(sound, RATE_HZ), alone.spectra, alone.judged)
    if not OPEN_FROM < score < OPEN_TO:
        return None
    return compared(score, believed(alone), believed(listen(sound, RATE_HZ, mix="band"))), is_band


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--pieces", type=int, default=240)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        rows = [row for row in pool.map(example, range(options.pieces), chunksize=4) if row is not None]
    names = [*rows[0][0]]
    x = np.array([[1.0, *(seen[name] for name in names)] for seen, _ in rows])
    y = np.array([float(band) for _, band in rows])

    def loss(w: NDArray[np.float64]) -> float:
        z = x @ w
        return float(np.logaddexp(0, z).mean() - (y * z).mean() + 1e-4 * (w @ w))

    found = minimize(loss, np.zeros(x.shape[1])).x
    right, before = ((x @ found > 0) == y).mean(), ((x[:, 1] > 0) == y).mean()
    print(f"{len(rows)} of {options.pieces} open: {right:.3f} right, by the score alone {before:.3f}")
    print({name: round(float(w), 2) for name, w in zip(["bias", *names], found, strict=True)})


if __name__ == "__main__":
    main()
