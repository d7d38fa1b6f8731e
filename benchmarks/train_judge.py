"""Train the judge of candidate pitches (eager_owl.hearing.judge) and write its weights into the package.

    PYTHONPATH=src:. .venv/bin/python -m benchmarks.train_judge alone|band [--pieces N] [--seed S]

Phrases composed as for the benchmark but of other seeds, of three soundfonts; a fourth is never heard here, so
that it can be measured on. Half the guitars pass through drive, reverb, chorus and an equaliser of random
settings. The network learns by the cross entropy of what sounds and what begins (D. Kingma and J. Ba, "Adam",
ICLR 2015).
"""

import argparse
from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise
from pathlib import Path

import numpy as np
import pedalboard
from numpy.typing import NDArray

from benchmarks.band import COMPING, mixed
from benchmarks.pieces import IDIOMS, PROGRAMS, RATE_HZ, TOGETHER, Piece, render
from eager_owl.hearing.judge import Kind, describe_candidates, surround
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates, find_candidates, measure_spectra

SOUNDFONTS = ("timgm", "fluidr3", "opl3")
_NEAR_SEMITONES = 0.55
_BEGINS_FRAMES = 2
_FRAME_SHARE = {"alone": 0.22, "band": 0.28}
_HIDDEN = (64, 24)


def through_effects(samples: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """The guitar through an amplifier and a room of random settings."""
    chain: list[pedalboard.Plugin] = []
    if rng.random() < 0.4:
        chain.append(pedalboard.Distortion(float(rng.uniform(4, 28))))
    if rng.random() < 0.7:
        chain.append(pedalboard.LowShelfFilter(float(rng.uniform(150, 400)), float(rng.uniform(-9, 6))))
        chain.append(pedalboard.HighShelfFilter(float(rng.uniform(1500, 4000)), float(rng.uniform(-14, 6))))
        chain.append(pedalboard.PeakFilter(float(rng.uniform(400, 2500)), float(rng.uniform(-8, 8)), 1.0))
    if rng.random() < 0.3:
        chain.append(pedalboard.Chorus(rate_hz=float(rng.uniform(0.4, 2)), depth=0.15, mix=0.4))
    if rng.random() < 0.5:
        room, wet = float(rng.uniform(0.2, 0.8)), float(rng.uniform(0.05, 0.3))
        chain.append(pedalboard.Reverb(room_size=room, wet_level=wet, dry_level=1.0))
    if rng.random() < 0.3:
        chain.append(pedalboard.Compressor(threshold_db=-24, ratio=4))
    out = pedalboard.Pedalboard(chain)(samples[None, :].astype(np.float32), RATE_HZ)[0]
    power = float(np.mean(samples**2)) / max(float(np.mean(out**2)), 1e-12)
    out = out * np.sqrt(power)
    noise = rng.standard_normal(len(out)) * np.sqrt(float(np.mean(out**2))) * 10 ** (-float(rng.uniform(35, 70)) / 20)
    return np.asarray(out + noise, dtype=np.float32)


def mark(piece: Piece, detune_cents: float, found: Candidates) -> NDArray[np.float32]:
    """(n, CANDIDATES, 2): whether each candidate truly sounds, and whether a note of its pitch begins there."""
    marks = np.zeros((*found.bins.shape, 2), np.float32)
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
        midi = np.full(len(at), true.pitch + detune_cents / 100)
        marks[at, :, 1] = np.maximum(marks[at, :, 1], _nearest(found, at, midi))
    return marks


def _nearest(found: Candidates, at: NDArray[np.intp], midi: NDArray[np.float64]) -> NDArray[np.bool_]:
    distance = np.where(found.bins[at] >= 0, np.abs(found.midi[at] - midi[:, None]), np.inf)
    best = distance.min(axis=1, keepdims=True)
    return np.asarray((distance == best) & (best < _NEAR_SEMITONES))


def example(job: tuple[Kind, int]) -> tuple[NDArray[np.float16], NDArray[np.float16]]:
    """What the judge sees of some frames of one recording, and the truth."""
    kind, seed = job
    rng = np.random.default_rng(seed)
    font, program = str(rng.choice(SOUNDFONTS)), str(rng.choice([*PROGRAMS]))

    def touched(lead: NDArray[np.float32]) -> NDArray[np.float32]:
        return through_effects(lead, rng) if seed % 2 else lead

    if kind == "band":
        level = float(rng.uniform(-2, 9))
        comping, band_font = str(rng.choice([*COMPING])), str(rng.choice(SOUNDFONTS))
        mix = mixed(seed, program, comping, level, font, band_font, touched)
        samples, piece, detune = mix.samples, mix.lead, mix.detune_cents
    else:
        idioms = TOGETHER if rng.random() < 0.5 else IDIOMS
        piece, detune = idioms[int(rng.integers(len(idioms)))](rng), float(rng.uniform(-50, 50))
        samples = touched(render(piece, program, detune, font))
    spectra = measure_spectra(samples, RATE_HZ)
    found = find_candidates(spectra)
    chosen = (rng.random(len(spectra)) < _FRAME_SHARE[kind])[:, None] & (found.bins >= 0)
    rows, columns = np.nonzero(chosen)
    seen = describe_candidates(surround(spectra), found, rows, columns)
    return seen.astype(np.float16), mark(piece, detune, found)[rows, columns].astype(np.float16)


def train(
    seen: NDArray[np.float16], truth: NDArray[np.float16], rng: np.random.Generator, epochs: int = 14
) -> dict[str, NDArray[np.float32]]:
    """The weights that tell the truth best, by Adam on batches, the step falling along a half cosine."""
    sizes = (seen.shape[1], *_HIDDEN, 2)
    weights: list[NDArray[np.float32]] = []
    mean, spread = seen[::7].astype(np.float32).mean(axis=0), seen[::7].astype(np.float32).std(axis=0) + 1e-3
    for a, b in pairwise(sizes):
        weights += [(rng.standard_normal((a, b)) * np.sqrt(2 / a)).astype(np.float32), np.zeros(b, np.float32)]
    first, second = [np.zeros_like(w) for w in weights], [np.zeros_like(w) for w in weights]
    batch, steps, total = 4096, 0, epochs * (len(seen) // 4096)
    for epoch in range(epochs):
        order, loss = rng.permutation(len(seen)), 0.0
        for start in range(0, len(seen) - batch + 1, batch):
            rows = np.sort(order[start : start + batch])
            x, y = (seen[rows].astype(np.float32) - mean) / spread, truth[rows].astype(np.float32)
            h1 = np.maximum(x @ weights[0] + weights[1], 0)
            h2 = np.maximum(h1 @ weights[2] + weights[3], 0)
            p = 1 / (1 + np.exp(-(h2 @ weights[4] + weights[5])))
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
        print(f"epoch {epoch + 1}: loss {loss / (len(seen) // batch):.4f}", flush=True)
    # The standardisation goes into the first layer.
    weights[1] = weights[1] - (mean / spread) @ weights[0]
    weights[0] = weights[0] / spread[:, None]
    return dict(zip(("w1", "b1", "w2", "b2", "w3", "b3"), weights, strict=True))


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("kind", choices=["alone", "band"])
    parser.add_argument("--pieces", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1_000_000)
    options = parser.parse_args()
    jobs = [(options.kind, options.seed + i) for i in range(options.pieces)]
    with ProcessPoolExecutor(2) as pool:
        examples = list(pool.map(example, jobs, chunksize=4))
    seen, truth = (np.concatenate(part) for part in zip(*examples, strict=True))
    print(f"{len(seen)} candidates, {seen.shape[1]} features, sounding {truth[:, 0].mean():.3f}", flush=True)
    weights = train(seen, truth, np.random.default_rng(options.seed))
    path = Path(__file__).parents[1] / f"src/eager_owl/hearing/judge_{options.kind}.npz"
    np.savez_compressed(path, **{name: w.astype(np.float32) for name, w in weights.items()})


if __name__ == "__main__":
    main()
