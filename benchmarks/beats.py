"""How well beats and bars are found in bands of Freepats and FluidR3 whose tempo keeps even, or drifts by 8 %.

./run-benchmarks beats [--bands N]
"""

import argparse
from concurrent.futures import ProcessPoolExecutor

import mir_eval
import numpy as np
import pedalboard
from numpy.typing import NDArray

from benchmarks.band import COMPING, mixed
from benchmarks.hearing import grid_beats
from benchmarks.pieces import PATCHES, PROGRAMS, RATE_HZ
from eager_owl.hearing.beats import find_beats, fit_grid
from eager_owl.hearing.pulse import measure_pulse
from eager_owl.hearing.salience import measure_spectra

_SEED, _LEAD_TO_BAND_DB, _DRIFT = 81_000, 3.0, 0.08
TEMPI = ("even", "from slow to quick", "to and fro")


def tempo(name: str, seconds: NDArray[np.float64]) -> NDArray[np.float64]:
    """How many times as quick as it was composed, at each time."""
    share = seconds / seconds[-1]
    shape = {"even": 0 * share, "from slow to quick": share - 0.5, "to and fro": 0.5 * np.sin(3 * np.pi * share)}
    return np.asarray(1 + _DRIFT * shape[name])


def measured(job: tuple[int, str]) -> tuple[float, float, bool]:
    """Beat F of the beats, of the grid fitted to them, and whether meter and first beats are right."""
    number, name = job
    font = (PATCHES, "fluidr3")[number % 2]
    program, comping = [*PROGRAMS][number % len(PROGRAMS)], [*COMPING][number % len(COMPING)]
    mix = mixed(_SEED + number, program, comping, _LEAD_TO_BAND_DB, font)
    seconds = np.arange(len(mix.samples)) / RATE_HZ
    quicker = tempo(name, seconds)
    played = np.cumsum(1 / quicker) / RATE_HZ
    sound = mix.samples if name == "even" else pedalboard.time_stretch(mix.samples[None], RATE_HZ, quicker)[0]
    beats, downbeats = (np.interp(times, seconds, played) for times in (mix.beats, mix.downbeats))
    found = find_beats(measure_pulse(measure_spectra(sound, RATE_HZ)))
    if found is None:
        return 0.0, 0.0, False
    grid = grid_beats(fit_grid(found), found.times_s)
    firsts = found.times_s[found.first :: found.beats_per_bar]
    inside = firsts[(firsts > downbeats[0] - 0.1) & (firsts < downbeats[-1] + 0.1)]
    right = mir_eval.beat.f_measure(downbeats, inside) > 0.9
    return mir_eval.beat.f_measure(beats, found.times_s), mir_eval.beat.f_measure(beats, grid), bool(right)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--bands", type=int, default=40)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        for name in TEMPI:
            told = [*pool.map(measured, [(number, name) for number in range(options.bands)], chunksize=4)]
            beat, grid, bars = np.mean(np.array(told, dtype=float), axis=0)
            print(f"{name:20} beat F {beat:.3f}, of the grid {grid:.3f}, bars right {bars:.3f} of {len(told)}")


if __name__ == "__main__":
    main()
