"""Train what tells another voice from the lead (eager_owl.hearing.voices) and write it into the package.

    ./run-benchmarks train_voices [--pieces N] [--measure]

Dense bands of other seeds than the benchmark's, of the soundfonts of benchmarks/training.py, two thirds of them with
another voice that answers the lead. Each run that was heard is the lead's or the other's by most of its notes.
`--measure` tells instead how many notes are told rightly, on other seeds.
"""

from concurrent.futures import ProcessPoolExecutor
from itertools import combinations, pairwise

import numpy as np
from numpy.typing import NDArray

from benchmarks.band import Score
from benchmarks.colours import DenseBand, dense_band, sliding_lead
from benchmarks.pieces import RATE_HZ, Piece
from benchmarks.records import pairs
from benchmarks.train_judge import train_several
from benchmarks.training import SOUNDFONTS, told_options
from eager_owl.audio.decode import mono, resample
from eager_owl.hearing.detect import detected, listen
from eager_owl.hearing.frames import RATE_HZ as HEARD_HZ
from eager_owl.hearing.stereo import note_places
from eager_owl.hearing.voices import Run, describe_pairs, describe_run, find_runs, other_voices

_SEED = 6_000_000
_HIDDEN, _EPOCHS, _BATCH, _NOISE = {"alike": (24, 12), "leads": (12, 6)}, 35, 512, 0.2


def shaded(score: Score, rng: np.random.Generator) -> Piece:
    """A lead that plays each two bars at a level of their own: softer is not yet another voice."""
    lead = sliding_lead(score, rng)
    edges = [score.beat_at(bar * score.beats_per_bar) for bar in range(0, score.bars + 1, 2)]
    for start, end in pairwise(edges):
        share = float(rng.uniform(0.55, 1.1))
        for stroke in lead.strokes:
            if start <= stroke.onset < end:
                stroke.velocity = int(np.clip(share * stroke.velocity, 20, 127))
    return lead


def recording(number: int) -> DenseBand:
    """A dense band; two thirds of them answered."""
    rng = np.random.default_rng(_SEED + number)
    font, other = str(rng.choice(SOUNDFONTS)), str(rng.choice(SOUNDFONTS))
    level_db = float(rng.uniform(-1, 8))
    return dense_band(_SEED + number, level_db, font, other, answered=number % 3 > 0, compose=shaded)


def _heard(number: int) -> tuple[tuple[Run, ...], set[int], set[int]]:
    """The runs of one band's line, and the numbers of the notes that are the lead's and another voice's."""
    band = recording(number)
    sound = resample(band.sound, RATE_HZ, HEARD_HZ)
    heard = listen(mono(sound), HEARD_HZ, mix="band")
    notes, cents = detected(heard).notes, heard.reference_cents
    places = note_places(sound, notes, cents) if number % 10 < 7 else None
    found = [(note.onset, note.pitch) for note in notes]
    lead, other = (
        {notes[j].id for j in pairs(piece, found).values()} if piece else set() for piece in (band.lead, band.answer)
    )
    return find_runs(notes, heard.spectra, heard.found, heard.judged, cents, places), lead, other


Rows = list[tuple[NDArray[np.float32], bool]]


def described(number: int) -> tuple[Rows, Rows]:
    """Of any two runs of one band what is seen of them and whether one voice plays both; of each what is seen of it

    and whether the lead plays most of it.
    """
    runs, lead, other = _heard(number)
    counts = [(len(lead & ids), len(other & ids)) for ids in ({note.id for note in run.notes} for run in runs)]
    known = [(run, a > b) for run, (a, b) in zip(runs, counts, strict=True) if a != b]
    if not known:
        return [], []
    seen = describe_pairs([run for run, _ in known])
    alike = [(seen[i, j], known[i][1] == known[j][1]) for i, j in combinations(range(len(known)), 2)]
    return alike, [(describe_run(run), leads) for run, leads in known]


def told(number: int) -> tuple[int, int, int, int]:
    """How many notes of another voice were heard, how many were told, and the same of the lead's."""
    runs, lead, other = _heard(number)
    ids = {note.id for note in other_voices(runs)}
    return len(other), len(other & ids), len(lead), len(lead & ids)


def main() -> None:
    options = told_options(560)
    with ProcessPoolExecutor(2) as pool:
        if options.measure:
            numbers = range(options.pieces, options.pieces + 3 * options.pieces // 8)
            for answered in (True, False):
                some = [number for number in numbers if (number % 3 > 0) == answered]
                counts = np.sum([*pool.map(told, some, chunksize=3)], axis=0)
                print("another voice's notes {}, told {}; the lead's {}, told {}".format(*counts))
            return
        parts = [*pool.map(described, range(options.pieces), chunksize=3)]
    for name, rows in zip(_HIDDEN, zip(*parts, strict=True), strict=True):
        seen, truth = zip(*(row for part in rows for row in part), strict=True)
        told_of = np.array(truth, np.float32)[:, None]
        train_several(f"voices_{name}", np.stack(seen), told_of, _SEED, _HIDDEN[name], _EPOCHS, _BATCH, _NOISE)


if __name__ == "__main__":
    main()
