"""Train the beliefs in bends and vibratos (eager_owl.hearing.naming) and write their weights into the package.

    ./run-benchmarks train_naming alone|band [--pieces N]

On what is measured in the recordings of benchmarks/training.py, of other seeds than the judges'; of a guitar alone
in most of them what the fretting hand does between strokes, in some any idiom, with several strings at once.
"""

import argparse
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from numpy.typing import NDArray

from benchmarks.hearing import TECHNIQUES
from benchmarks.pieces import RATE_HZ
from benchmarks.records import pairs
from benchmarks.train_judge import train_several
from benchmarks.training import example
from eager_owl.hearing.detect import listen, measured_notes
from eager_owl.hearing.frames import HOP_S
from eager_owl.hearing.judge import Kind
from eager_owl.hearing.naming import Weighed, describe_names

_SEED = 4_000_000
_ANY_EACH = 3  # of so many recordings one of any idiom
_HIDDEN = (16, 8)

Named = tuple[Weighed, NDArray[np.float32], bool]


def names(job: tuple[Kind, int]) -> list[Named]:
    """What is seen of each bend and vibrato that is measured in one recording, with whether it was played."""
    kind, seed = job
    made = example(kind, seed, of_the_hand=seed % _ANY_EACH > 0)
    heard = listen(made.samples, RATE_HZ, mix="band" if kind == "band" else "solo")
    played = measured_notes(heard)
    # Nearly half a semitone low is as well nearly half a semitone high, all pitches one lower.
    lower = round((heard.reference_cents - made.detune_cents) / 100)
    pitches = [round(each.fretted - heard.reference_cents / 100) + lower for each in played]
    matched = pairs(made.piece, [(each.note.start * HOP_S, p) for each, p in zip(played, pitches, strict=True)])
    truth = {found: set(made.piece.truth[index].techniques) for index, found in matched.items()}
    return [
        (weighed, seen, bool(TECHNIQUES[weighed] & truth.get(index, set())))
        for index, _, weighed, seen in describe_names(played, heard.found, heard.judged)
    ]


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("kind", choices=["alone", "band"])
    parser.add_argument("--pieces", type=int, default=1650)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        jobs = [(options.kind, _SEED + i) for i in range(options.pieces)]
        rows = [row for part in pool.map(names, jobs, chunksize=3) for row in part]
    for weighed in ("bend", "vibrato"):
        seen = np.array([features for name, features, _ in rows if name == weighed])
        truth = np.array([[right] for name, _, right in rows if name == weighed], dtype=np.float32)
        print(f"{len(seen)} of {weighed}, {truth.mean():.3f} true", flush=True)
        train_several(f"naming_{weighed}_{options.kind}", seen, truth, _SEED, _HIDDEN, epochs=60, batch=64, noise=0.2)


if __name__ == "__main__":
    main()
