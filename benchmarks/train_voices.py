"""Fit what tells another voice from the lead (eager_owl.hearing.voices) and write it into the package.

    PYTHONPATH=src:. .venv/bin/python -m benchmarks.train_voices [--pieces N]

Dense bands of other seeds than the benchmark's, of the soundfonts of benchmarks/training.py, two thirds of them with
another voice that answers the lead. Each run that was heard is the lead's or the other's by most of its notes.
"""

import argparse
import json
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from benchmarks.colours import dense_band
from benchmarks.pieces import RATE_HZ
from benchmarks.records import pairs
from benchmarks.regression import fit
from benchmarks.training import SOUNDFONTS
from eager_owl.audio.decode import mono, resample
from eager_owl.hearing.detect import detected, listen
from eager_owl.hearing.frames import RATE_HZ as HEARD_HZ
from eager_owl.hearing.stereo import note_places
from eager_owl.hearing.voices import compare_runs, find_runs

_SEED = 6_000_000
Seen = tuple[dict[str, float], bool]


def example(number: int) -> list[Seen]:
    """How each run of one band differs from most of its line, and whether it is another voice's."""
    rng = np.random.default_rng(_SEED + number)
    font, other = str(rng.choice(SOUNDFONTS)), str(rng.choice(SOUNDFONTS))
    band = dense_band(_SEED + number, float(rng.uniform(-1, 8)), font, other, answered=number % 3 > 0)
    sound = resample(band.sound, RATE_HZ, HEARD_HZ)
    heard = listen(mono(sound), HEARD_HZ, mix="band")
    notes, cents = detected(heard).notes, heard.reference_cents
    places = note_places(sound, notes, cents) if rng.random() < 0.7 else None
    runs = find_runs(notes, heard.spectra, cents, places)
    found = [(note.onset, note.pitch) for note in notes]
    of_lead = set(pairs(band.lead, found).values())
    of_other = set(pairs(band.answer, found).values()) if band.answer else set()
    told: list[Seen] = []
    for run, seen in zip(runs, compare_runs(runs), strict=True):
        played = {note.id - 1 for note in run.notes}
        lead, answer = len(of_lead & played), len(of_other & played)
        if lead != answer:
            told.append((seen, answer > lead))
    return told


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--pieces", type=int, default=150)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        told = [each for part in pool.map(example, range(options.pieces), chunksize=3) for each in part]
    print(f"{np.mean([other for _, other in told]):.3f} of the runs are another voice's")
    weights = fit([seen for seen, _ in told], [other for _, other in told])
    path = Path(__file__).parents[1] / "src/eager_owl/hearing/voices.json"
    path.write_text(json.dumps(weights, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
