"""Train the beliefs in claimed notes (eager_owl.hearing.belief) and write their weights into the package.

    ./run-benchmarks train_belief alone|band [--pieces N]

Small networks, on the recordings of benchmarks/training.py, of other seeds than the judges'. One guitar in six has
dead strokes too, in which the judges hear a little of many pitches.
"""

import argparse
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from numpy.typing import NDArray

from benchmarks.hearing import match
from benchmarks.pieces import RATE_HZ
from benchmarks.train_judge import train_several
from benchmarks.training import example, with_dead_strokes
from eager_owl.hearing.detect import listen
from eager_owl.hearing.judge import Kind

_SEED, _DEAD_EACH = 3_000_000, 6
_HIDDEN, _EPOCHS, _BATCH, _NOISE = (24, 12), 30, 512, 0.2

Seen = tuple[NDArray[np.float32], NDArray[np.float32]]


def seen_of(job: tuple[Kind, int]) -> Seen | None:
    """What is seen of the claims of one recording, and whether each is true; None if it has none."""
    kind, seed = job
    made = example(kind, seed)
    dead = kind == "alone" and seed % _DEAD_EACH == 0
    samples = with_dead_strokes(made.samples, np.random.default_rng(seed)) if dead else made.samples
    heard = listen(samples, RATE_HZ, mix="band" if kind == "band" else "solo")
    if not heard.claims:
        return None
    # Nearly half a semitone low is as well nearly half a semitone high, all pitches one lower: no error of a claim.
    lower = round((heard.reference_cents - made.detune_cents) / 100)
    claimed = [
        (claim.onset_s, claim.onset_s + 0.1, round(claim.midi - heard.reference_cents / 100) + lower)
        for claim in heard.claims
    ]
    true = np.zeros((len(claimed), 1), np.float32)
    true[[index for _, index in match(made.piece, claimed)]] = 1
    return heard.described(), true


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("kind", choices=["alone", "band"])
    parser.add_argument("--pieces", type=int, default=1000)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        jobs = [(options.kind, _SEED + i) for i in range(options.pieces)]
        rows = [row for row in pool.map(seen_of, jobs, chunksize=3) if row]
    seen, truth = (np.concatenate(part) for part in zip(*rows, strict=True))
    print(f"{len(seen)} claims, {seen.shape[1]} features, true {truth.mean():.3f}", flush=True)
    train_several(f"belief_{options.kind}", seen, truth, _SEED, _HIDDEN, _EPOCHS, _BATCH, _NOISE)


if __name__ == "__main__":
    main()
