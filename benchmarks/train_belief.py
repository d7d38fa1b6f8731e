"""Fit the beliefs in claimed notes (eager_owl.hearing.belief) and write their weights into the package.

    ./run-benchmarks train_belief alone|band [--pieces N]

Logistic regression with a small penalty on the weights, on the recordings of benchmarks/training.py, of other seeds
than the judges'.
"""

import argparse
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor

from benchmarks.hearing import match
from benchmarks.pieces import RATE_HZ
from benchmarks.regression import fit, keep
from benchmarks.training import example
from eager_owl.hearing.detect import listen
from eager_owl.hearing.judge import Kind

Claimed = tuple[str, dict[str, float], bool]


def examples(job: tuple[Kind, int]) -> list[Claimed]:
    """The claims of one recording, with whether each is true."""
    kind, seed = job
    made = example(kind, seed)
    heard = listen(made.samples, RATE_HZ, mix="band" if kind == "band" else "solo")
    # Nearly half a semitone low is as well nearly half a semitone high, all pitches one lower: no error of a claim.
    lower = round((heard.reference_cents - made.detune_cents) / 100)
    claimed = [
        (claim.onset_s, claim.onset_s + 0.1, round(claim.midi - heard.reference_cents / 100) + lower)
        for claim in heard.claims
    ]
    true = {index for _, index in match(made.piece, claimed)}
    return [(claim.witnesses, claim.features, index in true) for index, claim in enumerate(heard.claims)]


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("kind", choices=["alone", "band"])
    parser.add_argument("--pieces", type=int, default=240)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        jobs = [(options.kind, 3_000_000 + i) for i in range(options.pieces)]
        rows = [row for part in pool.map(examples, jobs, chunksize=3) for row in part]
    by_witness: dict[str, list[Claimed]] = defaultdict(list)
    for row in rows:
        by_witness[row[0]].append(row)
    weights = {
        witnesses: fit([features for _, features, _ in part], [true for _, _, true in part])
        for witnesses, part in sorted(by_witness.items())
    }
    keep(f"belief_{options.kind}", weights)


if __name__ == "__main__":
    main()
