"""Fit what tells a guitar alone from a band (eager_owl.hearing.mix) and write it into the package.

    ./run-benchmarks train_mix

Guitars: those of benchmarks/training.py, riffs among them, those nearer to records, harder idioms above all, and
plain ones. Bands: the training's, dense ones whole and sparse ones cut to a phrase, those nearer to records, and
plain ones whole and cut. All of other seeds than the judges' and the benchmarks'. The judges doubt instruments that
they have not heard, which is not to speak for a band: recordings of the Freepats count several times. Logistic
regressions with a small penalty: of the sound, and, where that leaves it open, of the beliefs in both hearings.
"""

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from benchmarks.hearing import ALONE, SETTINGS, make_case
from benchmarks.pieces import IDIOMS, PROGRAMS, RATE_HZ, Piece, render
from benchmarks.records import make_take
from benchmarks.regression import fit, keep
from benchmarks.train_judge import less_echo
from benchmarks.training import SOUNDFONTS, Example, band, coloured, guitar
from eager_owl.audio.decode import mono, resample
from eager_owl.hearing.detect import claimed, listen
from eager_owl.hearing.frames import RATE_HZ as HEARD_HZ
from eager_owl.hearing.judge import judge_candidates
from eager_owl.hearing.mix import OPEN_FROM, OPEN_TO, compared, lead_sounds, sound_of_mix
from eager_owl.hearing.regressions import log_odds
from eager_owl.hearing.salience import find_candidates, measure_spectra

_SEED, _PLAIN_SEED, _SPARSE_SEED = 4_000_000, 9021, 7_500_000
_PLAIN_FONTS = ("timgm", "fluidr3")
_UNHEARD_COUNTS = 4
_WIDER = 2.0  # what decides is fitted on this many times the range that is left open, in which few are
_RIFF_STEPS = (0, 0, 0, 3, 5, 6, 7, 10, 12)


def riff(rng: np.random.Generator) -> Piece:
    """Eight seconds on a few frets of a low string, which may be tuned down, or a higher one; some are cut short."""
    piece, beat_s = Piece("riff"), float(rng.uniform(0.13, 0.32))
    low = int(rng.integers(36, 43)) if rng.random() < 0.6 else int(rng.integers(43, 64))
    gap = float(rng.uniform(0.4, 0.7)) if rng.random() < 0.5 else 0.03
    while piece.now < 8.0:
        piece.pick(low + int(rng.choice(_RIFF_STEPS)), beat_s * float(rng.choice((1, 1, 2))), rng, gap)
    return piece


def of_training(number: int) -> tuple[NDArray[np.float32], bool]:
    """One recording of the training's kind at HEARD_HZ, and whether it is a band."""
    rng = np.random.default_rng(_SEED + number)
    if number % 4 == 1:
        made = band(_SEED + number)  # an odd seed makes a dense one
    elif number % 4 == 3:
        made = band(_SEED + number - 1)
        made = replace(made, samples=made.samples[: round(rng.uniform(4, 12)) * RATE_HZ])
    elif rng.random() < 0.3:
        font, program = str(rng.choice(SOUNDFONTS)), str(rng.choice([*PROGRAMS]))
        piece, detune = riff(rng), float(rng.uniform(-40, 40))
        made = Example(coloured(render(piece, program, detune, font), rng), piece, detune)
    else:
        made = guitar(_SEED + number)
    return resample(made.samples, RATE_HZ, HEARD_HZ), bool(number % 2)


def of_records(group: str, number: int, unheard: bool = False) -> tuple[NDArray[np.float32], bool]:
    """One nearer to records, of instruments that the judges have heard or not."""
    take = make_take((group, number, unheard))
    return resample(mono(take.sound), RATE_HZ, HEARD_HZ), group == "bands"


def of_plain_bands(number: int) -> tuple[NDArray[np.float32], bool]:
    """A band of benchmarks/hearing.py, whole or its first six or ten seconds."""
    which, setting, cut = number % 4, number // 4 % len(SETTINGS), (None, 6, 10)[number // 4 // len(SETTINGS) % 3]
    made = make_case(("band", which, setting, "timgm", _PLAIN_SEED + number // 4 // len(SETTINGS)))
    return resample(made.samples[: cut and cut * RATE_HZ], RATE_HZ, HEARD_HZ), True


def of_plain_guitars(number: int) -> tuple[NDArray[np.float32], bool]:
    """A guitar of benchmarks/hearing.py: each idiom in each of its settings, of one soundfont and another."""
    case, which = divmod(number, len(IDIOMS))
    turn, setting = divmod(case, len(SETTINGS))
    made = make_case((ALONE, which, setting, _PLAIN_FONTS[turn % 2], _PLAIN_SEED + turn))
    return resample(made.samples, RATE_HZ, HEARD_HZ), False


def sparse(number: int) -> tuple[NDArray[np.float32], bool]:
    """Four, eight or twelve seconds of a sparse band."""
    made = band(_SPARSE_SEED + 2 * number)
    return resample(made.samples[: (number % 3 + 1) * 4 * RATE_HZ], RATE_HZ, HEARD_HZ), True


Make = Callable[[], tuple[NDArray[np.float32], bool]]


def heard_ones() -> list[Make]:
    """Recordings of instruments that the judges were trained on, each made when it is called."""
    counts = {"idioms": 180, "effects": 108, "guitars": 36, "bands": 100}
    records = [partial(of_records, group, 1000 + i) for group, count in counts.items() for i in range(count)]
    training = [partial(of_training, 1000 + i) for i in range(400)]
    plain = [partial(of_plain_bands, i) for i in range(60)] + [partial(of_plain_guitars, i) for i in range(90)]
    return [*records, *training, *plain, *(partial(sparse, 100 + i) for i in range(60))]


def unheard_ones() -> list[Make]:
    """Recordings of others; not those that ./run-benchmarks records --unseen takes."""
    counts = {"idioms": 59, "effects": 50, "bands": 30}
    return [partial(of_records, group, 1000 + i, True) for group, count in counts.items() for i in range(count)]


def sound_of(make: Make) -> tuple[dict[str, float], bool]:
    """What one recording sounds like, and whether it is a band."""
    samples, is_band = make()
    spectra = measure_spectra(less_echo(samples), HEARD_HZ)
    found = find_candidates(spectra)
    return sound_of_mix(spectra, found, judge_candidates(spectra, found, "alone")), is_band


def compared_in(job: tuple[Make, float]) -> dict[str, float]:
    """What the beliefs in both hearings of one recording say beside the score of its sound."""
    make, score = job
    samples, _ = make()
    alone, through = listen(samples, HEARD_HZ, mix="solo"), listen(samples, HEARD_HZ, mix="band")
    return compared(score, claimed(alone), claimed(through), lead_sounds(through.spectra, through.judged))


def main() -> None:
    heard, unheard = heard_ones(), unheard_ones()
    makes, counts = [*heard, *unheard], [1] * len(heard) + [_UNHEARD_COUNTS] * len(unheard)
    with ProcessPoolExecutor(2) as pool:
        sounds, bands = zip(*pool.map(sound_of, makes, chunksize=4), strict=True)
        sound = fit(sounds, bands, counts)
        scores = [log_odds(sound, each) for each in sounds]
        near = [index for index, score in enumerate(scores) if _WIDER * OPEN_FROM < score < _WIDER * OPEN_TO]
        beliefs = [*pool.map(compared_in, [(makes[index], scores[index]) for index in near])]
    believed = fit(beliefs, [bands[index] for index in near], [counts[index] for index in near])
    keep("mix", {"sound": sound, "believed": believed})


if __name__ == "__main__":
    main()
