"""Fit what tells a guitar alone from a band (eager_owl.hearing.mix) and write it into the package.

    PYTHONPATH=src:. .venv/bin/python -m benchmarks.train_mix [--pieces N]

The guitars of benchmarks/training.py, low riffs among them, and its bands, dense ones whole and sparse ones cut to a
phrase, of other seeds than the judges'.
Logistic regressions with a small penalty: of the sound, and, heard as both where that leaves it open, of the beliefs.
The second is printed only: those weights are set by hand on the benchmarks (docs/hearing.md says why).
"""

import argparse
import json
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from benchmarks.pieces import PROGRAMS, RATE_HZ, Piece, render
from benchmarks.regression import fit
from benchmarks.training import SOUNDFONTS, Example, band, coloured, guitar
from eager_owl.audio.decode import resample
from eager_owl.hearing.detect import believed, believed_pitches, listen
from eager_owl.hearing.frames import RATE_HZ as HEARD_HZ
from eager_owl.hearing.frames import measure_frames
from eager_owl.hearing.judge import judge_candidates
from eager_owl.hearing.mix import OPEN_FROM, OPEN_TO, compared, sound_of_mix
from eager_owl.hearing.salience import find_candidates, measure_spectra

_SEED = 4_000_000
_RIFF_STEPS = (0, 0, 0, 3, 5, 6, 7, 10, 12)


def low_riff(rng: np.random.Generator) -> Piece:
    """Eight seconds on the lowest string, which may be tuned down a step or two."""
    piece, low, beat_s = Piece("low riff"), int(rng.integers(36, 43)), float(rng.uniform(0.13, 0.32))
    while piece.now < 8.0:
        piece.pick(low + int(rng.choice(_RIFF_STEPS)), beat_s * float(rng.choice((1, 1, 2))), rng)
    return piece


def sound_of(number: int) -> tuple[NDArray[np.float32], bool]:
    """One recording at HEARD_HZ, and whether it is a band."""
    rng = np.random.default_rng(_SEED + number)
    if number % 4 == 1:
        made = band(_SEED + number)  # an odd seed makes a dense one
    elif number % 4 == 3:
        made = band(_SEED + number - 1)
        made = replace(made, samples=made.samples[: round(rng.uniform(4, 12)) * RATE_HZ])
    elif rng.random() < 0.3:
        font, program = str(rng.choice(SOUNDFONTS)), str(rng.choice([*PROGRAMS]))
        piece, detune = low_riff(rng), float(rng.uniform(-40, 40))
        made = Example(coloured(render(piece, program, detune, font), rng), piece, detune)
    else:
        made = guitar(_SEED + number)
    return resample(made.samples, RATE_HZ, HEARD_HZ), bool(number % 2)


def described(number: int) -> tuple[dict[str, float], bool]:
    """What one recording sounds like, and whether it is a band."""
    sound, is_band = sound_of(number)
    spectra = measure_spectra(sound, HEARD_HZ)
    found = find_candidates(spectra)
    judged = judge_candidates(spectra, found, "alone")
    return sound_of_mix(measure_frames(sound, HEARD_HZ), spectra, found, judged), is_band


def heard_as_both(number: int) -> tuple[list[float], list[float], list[tuple[float, float]]]:
    """What is believed of one recording heard as a guitar alone, and through a band; and the pitches of the first."""
    sound, _ = sound_of(number)
    alone, through = listen(sound, HEARD_HZ, mix="solo"), listen(sound, HEARD_HZ, mix="band")
    return believed(alone), believed(through), believed_pitches(alone)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--pieces", type=int, default=400)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        told = list(pool.map(described, range(options.pieces), chunksize=4))
        sound = fit([seen for seen, _ in told], [is_band for _, is_band in told])
        scores = [sound["bias"] + sum(sound[name] * value for name, value in seen.items()) for seen, _ in told]
        open_ones = [number for number, score in enumerate(scores) if OPEN_FROM < score < OPEN_TO]
        both = list(pool.map(heard_as_both, open_ones, chunksize=4))
    seen = [compared(scores[number], *beliefs) for number, beliefs in zip(open_ones, both, strict=True)]
    print("where the sound leaves it open:", fit(seen, [told[number][1] for number in open_ones]))
    path = Path(__file__).parents[1] / "src/eager_owl/hearing/mix.json"
    stored = json.loads(path.read_text(encoding="utf-8")) | {"sound": sound}
    path.write_text(json.dumps(stored, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
