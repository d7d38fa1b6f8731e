"""Train what tells natural harmonics (eager_owl.hearing.harmonics) and write it into the package.

    ./run-benchmarks train_harmonics [--pieces N] [--measure]

Small networks, on phrases of benchmarks/touched.py and all other guitars of benchmarks/training.py. `--measure` tells
instead how often the name is right, on other seeds and on instruments that were never heard (benchmarks/pieces.py,
PATCHES).
"""

from concurrent.futures import ProcessPoolExecutor

import numpy as np
from numpy.typing import NDArray

from benchmarks.idioms import HARDER
from benchmarks.pieces import IDIOMS, PATCHES, PROGRAMS, RATE_HZ, TOGETHER, render
from benchmarks.records import pairs
from benchmarks.touched import nodes, render_touched, touched
from benchmarks.train_judge import train_several
from benchmarks.training import SOUNDFONTS, Example, coloured, count_named, guitar, tell_named, told_options
from eager_owl.hearing.detect import detected, listen
from eager_owl.hearing.harmonics import describe_touch
from eager_owl.hearing.hints import Hints

_SEED, _UNHEARD = 11_000_000, 500_000
_HIDDEN, _NOISE = (32, 16), 0.3


def recording(number: int) -> tuple[Example, frozenset[int]]:
    """Two of three with harmonics, and the strings' nodes; from _UNHEARD on of instruments never fitted on."""
    rng = np.random.default_rng(_SEED + number)
    unheard = number >= _UNHEARD
    font, program = PATCHES if unheard else str(rng.choice(SOUNDFONTS)), str(rng.choice([*PROGRAMS]))
    detune = float(rng.uniform(-30, 30))
    if number % 3 == 0:
        if not unheard:
            return guitar(_SEED + number), nodes(0)
        idioms = (*IDIOMS, *HARDER, *TOGETHER)
        piece = idioms[int(rng.integers(len(idioms)))](rng)
        return Example(coloured(render(piece, program, detune, font), rng), piece, detune), nodes(0)
    piece, tuned = touched(rng)
    # The patches have no program of touched strings.
    sound = render_touched(piece, program, detune, font, rng, simulated=unheard or number % 2 == 0)
    return Example(coloured(sound, rng), piece, detune), nodes(tuned)


def described(number: int) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """What is seen of each note at a node that was heard rightly, and whether it is a harmonic."""
    made, at_nodes = recording(number)
    heard = listen(made.samples, RATE_HZ, mix="solo")
    notes = [note for note in detected(heard).notes if not note.muted]
    right = {j: i for i, j in pairs(made.piece, [(note.onset, note.pitch) for note in notes]).items()}
    used = [index for index, note in enumerate(notes) if index in right and note.pitch in at_nodes]
    truth = ["harmonic" in made.piece.truth[right[index]].techniques for index in used]
    seen = describe_touch(notes, heard.spectra, heard.reference_cents) if notes else np.zeros((0, 1), np.float32)
    return seen[used], np.array(truth, dtype=np.bool_)


def named(number: int) -> tuple[int, int, int]:
    """How many harmonics were heard, how many notes were named so, and how many rightly."""
    made, at_nodes = recording(number)
    hints = Hints(nodes=at_nodes)
    notes = [note for note in detected(listen(made.samples, RATE_HZ, mix="solo"), hints).notes if not note.muted]
    return count_named(made.piece, notes, "harmonic")


def main() -> None:
    options = told_options(900)
    with ProcessPoolExecutor(2) as pool:
        if options.measure:
            tell_named(pool, named, (options.pieces, _UNHEARD), options.pieces // 3)
            return
        parts = [part for part in pool.map(described, range(options.pieces), chunksize=3) if len(part[0])]
    seen = np.concatenate([part for part, _ in parts])
    truth = np.concatenate([part for _, part in parts]).astype(np.float32)[:, None]
    print(f"{len(seen)} notes at nodes, {truth.mean():.3f} harmonics", flush=True)
    train_several("harmonics", seen, truth, _SEED, _HIDDEN, noise=_NOISE)


if __name__ == "__main__":
    main()
