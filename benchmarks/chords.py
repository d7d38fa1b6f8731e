"""How often the chord suggested for a bar is right, under a lead and over a band that fluidsynth plays.

./run-benchmarks chords [--held-out] [--harder]
"""

import argparse
import time
from collections import Counter
from collections.abc import Sequence

import numpy as np

from benchmarks.band import CHANGES, COMPING, Changes, Chorded, grid_of, mixed
from benchmarks.pieces import PROGRAMS, RATE_HZ
from benchmarks.train_chords import TRAINING_CHANGES, changes_of
from eager_owl.audio.decode import Recording
from eager_owl.hearing.chords import QUALITIES, suggest_chords
from eager_owl.theory.chord import Chord, parse_chord
from eager_owl.theory.harmony import suggest_keys
from eager_owl.theory.pitch import FLAT_NAMES

MIXES = 36
LEAD_TO_BAND_DB = 3.0


HARDER = changes_of(
    "Fmaj7,D7 Gm7,C7 F6 C7sus4", "Am Am/G Fmaj7 E7", "D,A Bm,G D/F# G6", "Gsus4 G Em7,A7 Dsus4,D", "Bm6 F#+ Bm6 E7",
    "Eb Bb/D Cm7 Ab6,Bb7",
)  # fmt: skip


def marks(suggested: str, chord: Chorded) -> tuple[bool, bool, bool, bool]:
    """Whether the root is right, the root with its third, the whole chord, and that with its bass."""
    told = parse_chord(suggested)
    steps, root = set(told.degrees), told.root == chord.root
    third = {3, 4} & steps == {3, 4} & set(chord.tones)
    whole = root and steps == set(chord.tones)
    return root, root and third, whole, whole and (told.bass - told.root) % 12 == chord.bass


def chord_of(chord: Chorded) -> Chord:
    """A mix's chord by name."""
    chords = (parse_chord(FLAT_NAMES[chord.root] + quality) for quality in QUALITIES)
    return next(named for named in chords if tuple(sorted(named.degrees)) == chord.tones)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--held-out", action="store_true", help="a soundfont and changes that were not learnt from")
    parser.add_argument(
        "--harder", action="store_true", help="the same with two chords a bar, other basses and colours"
    )
    options = parser.parse_args()
    held_out = options.held_out or options.harder
    soundfont, seed, changes = ("fluidr3", 7000, CHANGES) if held_out else ("timgm", 100, TRAINING_CHANGES)
    changes = HARDER if options.harder else changes
    for key_known in (False, True):
        measure(soundfont, seed, changes, key_known)


def measure(soundfont: str, seed: int, changes: Sequence[Changes], key_known: bool) -> None:
    """Print the shares of bars right, and how right what it is sure of."""
    found: list[tuple[bool, bool, bool, bool, float]] = []
    missed, splits = 0, Counter[tuple[bool, bool]]()
    seconds = audio = 0.0
    for i in range(MIXES):
        program, comping = list(PROGRAMS)[i % len(PROGRAMS)], list(COMPING)[i % len(COMPING)]
        mix = mixed(seed + i, program, comping, LEAD_TO_BAND_DB, soundfont, changes=changes)
        grid = grid_of(mix)
        began = time.perf_counter()
        key = suggest_keys([chord_of(chord) for bar in mix.chords for chord in bar])[0][0] if key_known else None
        suggested = suggest_chords(Recording(mix.samples[:, None], RATE_HZ), grid, mix.detune_cents, key)
        seconds += time.perf_counter() - began
        audio += len(mix.samples) / RATE_HZ
        inside = [s for s in suggested if s.bar < len(mix.chords)]
        missed += len(mix.chords) - len(inside)
        for bar in inside:
            true, told = mix.chords[bar.bar], bar.symbol.split()
            splits[len(true) == 2, len(told) == 2] += 1
            # A bar of two chords that is heard as one is that one twice; the other way round likewise.
            count = max(len(true), len(told))
            found += [
                (*marks(told[i * len(told) // count], true[i * len(true) // count]), bar.confidence)
                for i in range(count)
            ]
    table = np.array(found, dtype=float)
    print(
        f"{soundfont}, key {'known' if key_known else 'not known'}: {len(found)} chords in {MIXES} mixes, "
        f"lead {LEAD_TO_BAND_DB:g} dB over the band, {missed} unsaid"
    )
    print(
        f"  two in a bar: told {splits[True, True]}, missed {splits[True, False]}, told of one {splits[False, True]}"
    )
    for name, column in (("root", 0), ("root and third", 1), ("whole chord", 2), ("with its bass", 3)):
        print(f"  {name:15} {table[:, column].mean():.3f}")
    for low, high in ((0, 0.5), (0.5, 0.8), (0.8, 1.01)):
        within = (table[:, 4] >= low) & (table[:, 4] < high)
        if within.any():
            right = table[within, 2].mean()
            print(f"  confidence {low:g} to {min(high, 1):g}: {within.sum()} chords, right {right:.2f}")
    print(f"  {audio / seconds:.0f} times as fast as the recording")


if __name__ == "__main__":
    main()
