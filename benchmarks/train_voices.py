"""Train what tells another voice from the lead (eager_owl.hearing.voices) and write it into the package.

    ./run-benchmarks train_voices [--pieces N] [--measure]

Dense bands of other seeds than the benchmark's, of the soundfonts of benchmarks/training.py, two thirds of them with
another voice that answers the lead.
`--measure` tells instead how many notes are told rightly, on other seeds, and how many of leads that step on a pedal.
"""

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from benchmarks.band import Score
from benchmarks.colours import DenseBand, dense_band, sliding_lead
from benchmarks.pieces import PROGRAMS, RATE_HZ, Piece, render
from benchmarks.records import pairs
from benchmarks.train_judge import train_several
from benchmarks.training import SOUNDFONTS, of_many_makers, told_options, turned_up
from eager_owl.audio.decode import mono, resample
from eager_owl.hearing.detect import detected, listen
from eager_owl.hearing.frames import RATE_HZ as HEARD_HZ
from eager_owl.hearing.stereo import note_places
from eager_owl.hearing.voices import NoteSound, describe_notes, describe_pairs, note_sounds, other_voices

_SEED = 6_000_000
_BATCH = 512
_PLAIN = 770  # the first so many leads on instruments as they are, the others as of many makers, some turned up
_PEDAL_S = 0.02  # before the note from which it sounds
# The layers, how often all is seen, and how noisily.
_NETWORKS = {"alike": ((32, 16), 18, 0.2), "leads": ((24, 12), 35, 0.1)}


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
    play = render if number < _PLAIN else turned_up(of_many_makers(rng), rng)
    return dense_band(_SEED + number, level_db, font, other, answered=number % 3 > 0, compose=shaded, play=play)


def with_pedal(number: int) -> DenseBand:
    """A dense band whose lead has another sound from about its middle on; nobody answers."""
    rng = np.random.default_rng(_SEED + number)
    font, other = str(rng.choice(SOUNDFONTS)), str(rng.choice(SOUNDFONTS))

    def play(lead: Piece, program: str, detune_cents: float, soundfont: str) -> NDArray[np.float32]:
        then = str(rng.choice([name for name in PROGRAMS if name not in ("nylon", program)]))
        sounds = [render(lead, each, detune_cents, soundfont) for each in (program, then)]
        onsets = sorted(stroke.onset for stroke in lead.strokes)
        middle = onsets[len(onsets) // 3 : 2 * len(onsets) // 3 + 2]
        longest = int(np.argmax(np.diff(middle)))
        at, end = round((middle[longest + 1] - _PEDAL_S) * RATE_HZ), min(len(sound) for sound in sounds)
        levels = [float(np.sqrt(np.mean(sound**2))) for sound in sounds]
        return np.concatenate([sounds[0][:at], sounds[1][at:end] * (levels[0] / levels[1])])

    return dense_band(_SEED + number, float(rng.uniform(-1, 8)), font, other, compose=shaded, play=play)


def _heard(number: int, make: Callable[[int], DenseBand]) -> tuple[tuple[NoteSound, ...], set[int], set[int]]:
    """The notes of one band's line, and the numbers of those that are the lead's and another voice's."""
    band = make(number)
    sound = resample(band.sound, RATE_HZ, HEARD_HZ)
    heard = listen(mono(sound), HEARD_HZ, mix="band")
    notes, cents = detected(heard).notes, heard.reference_cents
    places = note_places(sound, notes, cents) if number % 10 < 7 else None
    found = [(note.onset, note.pitch) for note in notes]
    lead, other = (
        {notes[j].id for j in pairs(piece, found).values()} if piece else set() for piece in (band.lead, band.answer)
    )
    return note_sounds(notes, heard.spectra, heard.found, heard.judged, cents, places), lead, other


Rows = tuple[NDArray[np.float32], NDArray[np.float32]]


def described(number: int) -> tuple[Rows, Rows] | None:
    """Of any two notes of one band what is seen of them and whether one voice plays both; of each what is seen of it

    and whether the lead plays it. None where neither's are heard.
    """
    sounds, lead, other = _heard(number, recording)
    known = [index for index, sound in enumerate(sounds) if sound.note.id in lead | other]
    if not known:
        return None
    leads = np.array([sounds[index].note.id in lead for index in known])
    pairs_seen = describe_pairs([sounds[index] for index in known], [sounds[index] for index in known])
    one, two = np.triu_indices(len(known), 1)
    alike = (pairs_seen[one, two], (leads[one] == leads[two]).astype(np.float32)[:, None])
    return alike, (describe_notes(sounds)[known], leads.astype(np.float32)[:, None])


def told(number: int, make: Callable[[int], DenseBand]) -> tuple[int, int, int, int]:
    """How many notes of another voice were heard, how many were told, and the same of the lead's."""
    sounds, lead, other = _heard(number, make)
    ids = {note.id for note in other_voices(sounds)}
    return len(other), len(other & ids), len(lead), len(lead & ids)


def main() -> None:
    options = told_options(1330)
    with ProcessPoolExecutor(2) as pool:
        if options.measure:
            numbers = range(options.pieces, options.pieces + 210)
            measured = {
                "answered": (recording, [number for number in numbers if number % 3]),
                "nobody answers": (recording, [number for number in numbers if not number % 3]),
                "with a pedal": (with_pedal, numbers[:120]),
            }
            for words, (make, some) in measured.items():
                counts = np.sum([*pool.map(partial(told, make=make), some, chunksize=3)], axis=0)
                print("{}: another voice's notes {}, told {}; the lead's {}, told {}".format(words, *counts))
            return
        parts = [part for part in pool.map(described, range(options.pieces), chunksize=3) if part]
    for (name, (hidden, epochs, noise)), rows in zip(_NETWORKS.items(), zip(*parts, strict=True), strict=True):
        seen, truth = (np.concatenate(each) for each in zip(*rows, strict=True))
        train_several(f"voices_{name}", seen, truth, _SEED, hidden, epochs, _BATCH, noise)


if __name__ == "__main__":
    main()
