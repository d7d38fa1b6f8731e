"""Fit what tells strings let ring (eager_owl.hearing.ringing) and write it into the package.

    ./run-benchmarks train_ringing [--pieces N] [--measure]

A logistic regression with a small penalty, on broken chords that ring between picked lines, and on guitars of all
idioms. `--measure` tells instead how often the name is right, on other seeds and on instruments that were never heard
(benchmarks/pieces.py, PATCHES).
"""

from concurrent.futures import ProcessPoolExecutor

import numpy as np

from benchmarks.idioms import HARDER
from benchmarks.pieces import IDIOMS, NATURAL_MINOR, PATCHES, PROGRAMS, RATE_HZ, TOGETHER, Piece, ladder, render
from benchmarks.records import pairs
from benchmarks.regression import fit, keep
from benchmarks.training import SOUNDFONTS, Example, coloured, tell_named, told_options
from eager_owl.hearing.detect import Listening, detected, listen
from eager_owl.hearing.ringing import describe_ringing
from eager_owl.solo.document import TOGETHER_S, Note

_SEED, _UNHEARD = 9_000_000, 500_000
_OVER_S = 0.12  # a note that sounds so long into the next is let ring
_SHAPES = ((0, 7, 12, 16, 19), (0, 7, 12, 15, 19), (0, 4, 7, 12, 16), (0, 5, 10, 15, 19), (0, 7, 10, 15))


def rung(rng: np.random.Generator) -> Piece:
    """Broken chords, each string ringing until it is struck again or the chord changes, with picked lines between."""
    piece = Piece("rung")
    while piece.now < 11.0:
        root, shape = int(rng.integers(40, 58)), _SHAPES[int(rng.integers(len(_SHAPES)))]
        beat, first = float(rng.uniform(0.12, 0.4)), len(piece.strokes)
        order = [*shape, *shape[-2:0:-1]] if rng.random() < 0.5 else [int(rng.choice(shape)) for _ in range(9)]
        for step in order[: int(rng.integers(4, 10))]:
            piece.pick(root + step, beat, rng)
        for stroke, true in zip(piece.strokes[first:], piece.truth[first:], strict=True):
            again = [s.onset - 0.004 for s in piece.strokes if s.pitch == stroke.pitch and s.onset > stroke.onset]
            stroke.end = min([piece.now, *again])
            true.duration = stroke.end - true.onset
        if rng.random() < 0.5:
            notes = ladder(root, NATURAL_MINOR, root + 5, root + 26)
            at, beat = int(rng.integers(len(notes))), float(rng.uniform(0.1, 0.35))
            for _ in range(int(rng.integers(3, 9))):
                at = int(np.clip(at + rng.integers(-3, 4), 0, len(notes) - 1))
                piece.pick(notes[at], beat, rng, gap=float(rng.choice((0.0, 0.03, 0.3))))
    return piece


def recording(number: int) -> Example:
    """Every other one with ringing strings; from _UNHEARD on of instruments that nothing is fitted on."""
    rng = np.random.default_rng(_SEED + number)
    font = PATCHES if number >= _UNHEARD else str(rng.choice(SOUNDFONTS))
    others = (*IDIOMS, *HARDER, *TOGETHER)
    piece = others[int(rng.integers(len(others)))](rng) if number % 2 else rung(rng)
    detune = float(rng.uniform(-30, 30))
    sound = render(piece, str(rng.choice([*PROGRAMS])), detune, font)
    return Example(coloured(sound, rng), piece, detune)


def ringing_truth(piece: Piece) -> list[bool]:
    """Of each note whether it sounds on when the next has begun."""
    onsets = np.sort([true.onset for true in piece.truth])

    def following(onset: float) -> float:
        later = onsets[onsets > onset + TOGETHER_S]
        return float(later[0]) if len(later) else np.inf

    return [true.onset + true.duration > following(true.onset) + _OVER_S for true in piece.truth]


def _heard(number: int) -> tuple[Listening, list[Note], dict[int, bool]]:
    """One recording as it is heard, its pitched notes, and of those that are right whether they ring."""
    made = recording(number)
    heard = listen(made.samples, RATE_HZ, mix="solo")
    notes = [note for note in detected(heard).notes if not note.muted]
    rings = ringing_truth(made.piece)
    matched = pairs(made.piece, [(note.onset, note.pitch) for note in notes])
    return heard, notes, {j: rings[i] for i, j in matched.items()}


def described(number: int) -> list[tuple[dict[str, float], bool]]:
    """What is seen of each note that was heard rightly, and whether it is let ring."""
    heard, notes, rings = _heard(number)
    seen = describe_ringing(notes, heard.spectra, heard.found, heard.judged, heard.reference_cents)
    return [(each, rings[index]) for index, each in enumerate(seen) if each is not None and index in rings]


def named(number: int) -> tuple[int, int, int]:
    """How many ringing notes were heard, how many notes were named so, and how many rightly."""
    _, notes, rings = _heard(number)
    told = {j for j, note in enumerate(notes) if note.technique("let_ring")}
    return sum(rings.values()), len(told), sum(rings.get(j, False) for j in told)


def main() -> None:
    options = told_options(240)
    with ProcessPoolExecutor(2) as pool:
        if options.measure:
            tell_named(pool, named, (options.pieces, _UNHEARD), options.pieces // 3)
            return
        rows = [row for part in pool.map(described, range(options.pieces), chunksize=3) for row in part]
    weights = fit([seen for seen, _ in rows], [true for _, true in rows])
    keep("ringing", {"rings": weights})


if __name__ == "__main__":
    main()
