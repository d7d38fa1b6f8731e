"""Train what tells palm-muted notes (eager_owl.hearing.palm) and write it into the package.

    ./run-benchmarks train_palm [--pieces N] [--measure]

Small networks, on phrases of benchmarks/palm.py and all other guitars of benchmarks/training.py. Muted strings are
those of the one soundfont whose own die away as under a palm, and simulated ones. `--measure` tells instead how often
the name is right, on other seeds and on instruments that were never heard (benchmarks/pieces.py, PATCHES).
"""

from concurrent.futures import ProcessPoolExecutor

import numpy as np

from benchmarks.idioms import HARDER
from benchmarks.palm import palm_muted, render_muted
from benchmarks.pieces import IDIOMS, PATCHES, PROGRAMS, RATE_HZ, render, short_notes
from benchmarks.records import pairs
from benchmarks.train_judge import train_several
from benchmarks.training import SOUNDFONTS, Example, coloured, count_named, guitar, tell_named, told_options
from eager_owl.hearing.detect import detected, listen
from eager_owl.hearing.palm import describe_damping

_SEED, _UNHEARD = 6_000_000, 500_000
_MUTING_FONT = "fluidr3"
_HIDDEN = (24, 12)


def recording(number: int) -> Example:
    """Every other one of muted strings; from _UNHEARD on of instruments that nothing is fitted on.

    One in eight is of notes cut short, which are most like muted ones.
    """
    rng = np.random.default_rng(_SEED + number)
    unheard = number >= _UNHEARD
    font, program = str(rng.choice(SOUNDFONTS)), str(rng.choice([*PROGRAMS]))
    detune = float(rng.uniform(-30, 30))
    if number % 2:
        if not unheard and number % 8 != 1:
            return guitar(_SEED + number)
        idioms = (short_notes,) if number % 8 == 1 else (*IDIOMS, *HARDER)
        piece = idioms[int(rng.integers(len(idioms)))](rng)
        return Example(coloured(render(piece, program, detune, PATCHES if unheard else font), rng), piece, detune)
    piece, simulated = palm_muted(rng), number % 4 == 0
    own_font = PATCHES if unheard else font if simulated else _MUTING_FONT
    return Example(coloured(render_muted(piece, program, detune, own_font, rng, simulated), rng), piece, detune)


def described(number: int) -> list[tuple[dict[str, float], bool]]:
    """What is seen of each note that was heard, and whether it is muted."""
    made = recording(number)
    heard = listen(made.samples, RATE_HZ, mix="solo")
    notes = [note for note in detected(heard).notes if not note.muted]
    right = {j: i for i, j in pairs(made.piece, [(note.onset, note.pitch) for note in notes]).items()}
    seen = describe_damping(notes, heard.spectra, heard.reference_cents)
    return [
        (each, "palm_mute" in made.piece.truth[right[index]].techniques)
        for index, each in enumerate(seen)
        if each is not None and index in right
    ]


def named(number: int) -> tuple[int, int, int]:
    """How many muted notes were heard, how many notes were named so, and how many rightly."""
    made = recording(number)
    notes = [note for note in detected(listen(made.samples, RATE_HZ, mix="solo")).notes if not note.muted]
    return count_named(made.piece, notes, "palm_mute")


def main() -> None:
    options = told_options(1080)
    with ProcessPoolExecutor(2) as pool:
        if options.measure:
            tell_named(pool, named, (options.pieces, _UNHEARD), options.pieces // 3)
            return
        rows = [row for part in pool.map(described, range(options.pieces), chunksize=3) for row in part]
    seen = np.array([[*each.values()] for each, _ in rows], dtype=np.float32)
    truth = np.array([[muted] for _, muted in rows], dtype=np.float32)
    print(f"{len(seen)} notes, {truth.mean():.3f} muted", flush=True)
    train_several("palm", seen, truth, _SEED, _HIDDEN)


if __name__ == "__main__":
    main()
