"""Train what tells where bars begin (eager_owl.hearing.bars) and write it into the package.

    ./run-benchmarks train_bars [--pieces N] [--measure]

Bands of other seeds than the benchmark's, of the soundfonts of benchmarks/training.py and with the drums of
benchmarks/grooves.py, with beats as the program finds them. `--measure` tells instead how often meter and phase are
right where the beats are, by beats a bar, on other seeds, of these soundfonts and of two that were never heard.
"""

from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np
from numpy.typing import NDArray

from benchmarks.band import COMPING, OTHER_COMPING, Mix, mixed
from benchmarks.grooves import arranged
from benchmarks.pieces import PATCHES, PROGRAMS, RATE_HZ
from benchmarks.train_judge import train_several
from benchmarks.training import SOUNDFONTS, told_options
from eager_owl.hearing.bars import BARS_TRIED, METERS, describe_bars, mark_beats
from eager_owl.hearing.beats import Beats, find_beats
from eager_owl.hearing.pulse import Pulse, measure_pulse
from eager_owl.hearing.salience import COARSE_HOP_S, measure_spectra

_SEED = 5_000_000
_UNHEARD = (PATCHES, "csound")
_NEAR_BEATS, _SAME_TEMPO = 0.2, 0.05
_HIDDEN, _EPOCHS, _NOISE = (24, 12), 60, 0.3

Bars = tuple[int, int]  # beats a bar, and the index of the first beat that begins one


def heard(number: int, fonts: Sequence[str]) -> tuple[Pulse, Beats, Bars] | None:
    """The pulse of one band, its beats as found, and the true bars; None where the beats are not the true ones."""
    rng = np.random.default_rng(_SEED + number)
    font, other = str(rng.choice(fonts)), str(rng.choice(fonts))
    comping, program = str(rng.choice([*(COMPING | OTHER_COMPING)])), str(rng.choice([*PROGRAMS]))
    level_db = float(rng.uniform(-3, 8))
    mix = mixed(_SEED + number, program, comping, level_db, font, other, arrange=arranged)
    pulse = measure_pulse(measure_spectra(mix.samples, RATE_HZ))
    found = find_beats(pulse)
    bars = true_bars(mix, found) if found else None
    return (pulse, found, bars) if found and bars else None


def true_bars(mix: Mix, found: Beats) -> Bars | None:
    """The bars of a mix on the beats that were found; None where these are not its own."""
    beat_s = float(np.median(np.diff(mix.beats)))
    per_bar = round(len(mix.beats) / len(mix.downbeats))
    firsts = [i for i, at in enumerate(found.times_s) if np.abs(mix.downbeats - at).min() < _NEAR_BEATS * beat_s]
    off = abs(float(np.median(np.diff(found.times_s))) / beat_s - 1)
    if off > _SAME_TEMPO or not firsts or per_bar not in METERS:
        return None
    return per_bar, int(np.bincount(np.array(firsts) % per_bar).argmax())


def described(number: int) -> tuple[list[NDArray[np.float32]], list[list[float]]] | None:
    """What is seen of all bars that are tried on one band, and which of them are its own."""
    told = heard(number, SOUNDFONTS)
    if told is None:
        return None
    pulse, found, bars = told
    marks = mark_beats(pulse, np.round(found.times_s / COARSE_HOP_S).astype(np.intp))
    return [describe_bars(marks, *tried) for tried in BARS_TRIED], [[float(tried == bars)] for tried in BARS_TRIED]


def right(number: int, fonts: Sequence[str]) -> tuple[int, bool] | None:
    """Beats a bar of one band, and whether its bars were told rightly; None where its beats were not."""
    told = heard(number, fonts)
    if told is None:
        return None
    _, found, bars = told
    return bars[0], bars == (found.beats_per_bar, found.first % found.beats_per_bar)


def main() -> None:
    options = told_options(600)
    with ProcessPoolExecutor(2) as pool:
        if options.measure:
            numbers = range(options.pieces, options.pieces + options.pieces // 3)
            for fonts in (SOUNDFONTS, _UNHEARD):
                told = [each for each in pool.map(partial(right, fonts=fonts), numbers, chunksize=4) if each]
                counts, good = Counter(bar for bar, _ in told), Counter(bar for bar, is_right in told if is_right)
                each = ", ".join(f"{bar} beats {good[bar]} of {counts[bar]}" for bar in METERS)
                print(f"{len(numbers)} bands, beats right {len(told)}, bars {sum(good.values())}: {each}")
            return
        examples = [each for each in pool.map(described, range(options.pieces), chunksize=4) if each]
    seen, truth = (np.array([row for rows in part for row in rows]) for part in zip(*examples, strict=True))
    print(f"{len(examples)} of {options.pieces} bands with their beats found", flush=True)
    train_several("bars", seen, truth.astype(np.float32), _SEED, _HIDDEN, _EPOCHS, noise=_NOISE)


if __name__ == "__main__":
    main()
