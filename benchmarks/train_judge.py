"""Train the judge of candidate pitches (eager_owl.hearing.judge) and write its weights into the package.

    ./run-benchmarks train_judge alone|band [--pieces N] [--seed S]

On the recordings of benchmarks/training.py. The network learns by the cross entropy of what sounds, what begins and
what is struck (D. Kingma and J. Ba, "Adam", ICLR 2015).
"""

import argparse
from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit

from benchmarks.pieces import RATE_HZ, Piece
from benchmarks.training import Example, example
from eager_owl.audio.decode import resample
from eager_owl.hearing.echo import find_echo, without_echo
from eager_owl.hearing.frames import RATE_HZ as HEARD_HZ
from eager_owl.hearing.judge import Kind, describe_candidates, surround
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates, find_candidates, measure_spectra
from eager_owl.hearing.tails import without_tail
from eager_owl.solo.techniques import LEGATO

_NEAR_SEMITONES = 0.55
_BEGINS_FRAMES = 2
_FRAME_SHARE = {"alone": 0.15, "band": 0.13}
_HIDDEN = (128, 48)
_SEVERAL = 4  # of small networks the mean is asked


def mark(piece: Piece, detune_cents: float, found: Candidates) -> NDArray[np.float32]:
    """(n, CANDIDATES, 3): whether each candidate sounds, a note of its pitch begins there, and is struck there."""
    marks = np.zeros((*found.bins.shape, 3), np.float32)
    times = np.arange(len(marks)) * COARSE_HOP_S
    for stroke in piece.strokes:
        at = np.flatnonzero((times >= stroke.onset) & (times < stroke.end))
        level = np.interp(times[at], *zip(*stroke.curve, strict=True)) if stroke.curve else np.zeros(len(at))
        if stroke.vibrato:
            since = times[at] - stroke.vibrato[0]
            ease = np.clip(since / 0.1, 0, 1)
            level = level + ease * stroke.vibrato[2] / 100 * np.sin(2 * np.pi * stroke.vibrato[1] * since)
        midi = stroke.pitch + level + detune_cents / 100
        marks[at, :, 0] = np.maximum(marks[at, :, 0], _nearest(found, at, midi))
    for true in piece.truth:
        middle = round(true.onset / COARSE_HOP_S)
        at = np.arange(max(0, middle - _BEGINS_FRAMES), min(len(marks), middle + _BEGINS_FRAMES + 1))
        near = _nearest(found, at, np.full(len(at), true.pitch + detune_cents / 100))
        marks[at, :, 1] = np.maximum(marks[at, :, 1], near)
        if not set(LEGATO) & set(true.techniques):
            marks[at, :, 2] = np.maximum(marks[at, :, 2], near)
    return marks


def _nearest(found: Candidates, at: NDArray[np.intp], midi: NDArray[np.float64]) -> NDArray[np.bool_]:
    distance = np.where(found.bins[at] >= 0, np.abs(found.midi[at] - midi[:, None]), np.inf)
    best = distance.min(axis=1, keepdims=True)
    return np.asarray((distance == best) & (best < _NEAR_SEMITONES))


def less_echo(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """Samples at the rate of hearing less their echo."""
    echo = find_echo(samples, HEARD_HZ)
    return without_echo(samples, HEARD_HZ, echo) if echo else samples


def dry(heard: Example) -> NDArray[np.float32]:
    """Samples at the rate of hearing, less their echo and their hall, as a guitar alone is listened to."""
    return without_tail(less_echo(resample(heard.samples, RATE_HZ, HEARD_HZ)), HEARD_HZ)


def seen_of(job: tuple[Kind, int]) -> tuple[NDArray[np.float16], NDArray[np.float16]]:
    """What the judge sees of some frames of one recording, and the truth."""
    kind, seed = job
    rng = np.random.default_rng(seed)
    heard = example(kind, seed)
    spectra = measure_spectra(dry(heard), HEARD_HZ) if kind == "alone" else measure_spectra(heard.samples, RATE_HZ)
    found = find_candidates(spectra)
    chosen = (rng.random(len(spectra)) < _FRAME_SHARE[kind])[:, None] & (found.bins >= 0)
    rows, columns = np.nonzero(chosen)
    seen = describe_candidates(surround(spectra), found, rows, columns)
    marks = mark(heard.piece, heard.detune_cents, found)
    return seen.astype(np.float16), marks[rows, columns].astype(np.float16)


def train(
    seen: NDArray[np.float16],
    truth: NDArray[np.float16],
    rng: np.random.Generator,
    hidden: tuple[int, int] = _HIDDEN,
    epochs: int = 14,
    batch: int = 4096,
    noise: float = 0.0,
) -> dict[str, NDArray[np.float32]]:
    """The weights that tell the truth best, by Adam on batches, the step falling along a half cosine.

    `noise` is added to what is seen, in its own spreads, so that few examples are not learnt by heart.
    """
    sizes, batch = (seen.shape[1], *hidden, truth.shape[1]), min(batch, len(seen))
    weights: list[NDArray[np.float32]] = []
    mean, spread = seen[::7].astype(np.float32).mean(axis=0), seen[::7].astype(np.float32).std(axis=0) + 1e-3
    for a, b in pairwise(sizes):
        weights += [(rng.standard_normal((a, b)) * np.sqrt(2 / a)).astype(np.float32), np.zeros(b, np.float32)]
    first, second = [np.zeros_like(w) for w in weights], [np.zeros_like(w) for w in weights]
    steps, total = 0, epochs * (len(seen) // batch)
    for epoch in range(epochs):
        order, loss = rng.permutation(len(seen)), 0.0
        for start in range(0, len(seen) - batch + 1, batch):
            rows = np.sort(order[start : start + batch])
            x, y = (seen[rows].astype(np.float32) - mean) / spread, truth[rows].astype(np.float32)
            if noise:
                x += noise * rng.standard_normal(x.shape, dtype=np.float32)
            h1 = np.maximum(x @ weights[0] + weights[1], 0)
            h2 = np.maximum(h1 @ weights[2] + weights[3], 0)
            p = expit(h2 @ weights[4] + weights[5])
            loss -= float(np.mean(y * np.log(p + 1e-7) + (1 - y) * np.log(1 - p + 1e-7)))
            d3 = (p - y) / batch
            d2 = (d3 @ weights[4].T) * (h2 > 0)
            d1 = (d2 @ weights[2].T) * (h1 > 0)
            slopes = [x.T @ d1, d1.sum(0), h1.T @ d2, d2.sum(0), h2.T @ d3, d3.sum(0)]
            steps += 1
            pace = 2e-3 * 0.5 * (1 + np.cos(np.pi * steps / total)) + 1e-5
            for w, slope, m, v in zip(weights, slopes, first, second, strict=True):
                m += 0.1 * (slope - m)
                v += 0.001 * (slope**2 - v)
                w -= pace * (m / (1 - 0.9**steps)) / (np.sqrt(v / (1 - 0.999**steps)) + 1e-8) + pace * 1e-4 * w
        if (epoch + 1) % max(1, epochs // 14) == 0:
            print(f"epoch {epoch + 1}: loss {loss / (len(seen) // batch):.4f}", flush=True)
    # The standardisation goes into the first layer.
    weights[1] = weights[1] - (mean / spread) @ weights[0]
    weights[0] = weights[0] / spread[:, None]
    return dict(zip(("w1", "b1", "w2", "b2", "w3", "b3"), weights, strict=True))


def keep(name: str, networks: list[dict[str, NDArray[np.float32]]]) -> None:
    """Write networks into the package (eager_owl.hearing.networks), the first axis of each layer is the network."""
    layers = {layer: np.stack([network[layer] for network in networks]) for layer in networks[0]}
    np.savez_compressed(Path(__file__).parents[1] / f"src/eager_owl/hearing/{name}.npz", **layers)


def train_several(
    name: str,
    seen: NDArray[np.float32],
    truth: NDArray[np.float32],
    seed: int,
    hidden: tuple[int, int],
    epochs: int = 40,
    batch: int = 256,
    noise: float = 0.0,
) -> None:
    """Train small networks and keep them: each begins elsewhere and sees the examples in another order."""
    seeds = range(seed, seed + _SEVERAL)
    keep(name, [train(seen, truth, np.random.default_rng(each), hidden, epochs, batch, noise) for each in seeds])


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("kind", choices=["alone", "band"])
    parser.add_argument("--pieces", type=int, default=360)
    parser.add_argument("--seed", type=int, default=1_000_000)
    options = parser.parse_args()
    jobs = [(options.kind, options.seed + i) for i in range(options.pieces)]
    with ProcessPoolExecutor(2) as pool:
        examples = list(pool.map(seen_of, jobs, chunksize=4))
    seen, truth = (np.concatenate(part) for part in zip(*examples, strict=True))
    print(f"{len(seen)} candidates, {seen.shape[1]} features, sounding {truth[:, 0].mean():.3f}", flush=True)
    keep(f"judge_{options.kind}", [train(seen, truth, np.random.default_rng(options.seed))])


if __name__ == "__main__":
    main()
