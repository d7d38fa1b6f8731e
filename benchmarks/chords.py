"""How often the chord suggested for a bar is right, under a lead and over a band that fluidsynth plays.

./run-benchmarks chords [--held-out]
"""

import argparse
import time
from collections.abc import Sequence

import numpy as np

from benchmarks.band import CHANGES, COMPING, Changes, grid_of, mixed
from benchmarks.pieces import PROGRAMS, RATE_HZ
from benchmarks.train_chords import TRAINING_CHANGES
from eager_owl.audio.decode import Recording
from eager_owl.hearing.chords import QUALITIES, BarChord, suggest_chords
from eager_owl.theory.chord import Chord, parse_chord
from eager_owl.theory.harmony import suggest_keys
from eager_owl.theory.pitch import FLAT_NAMES

MIXES = 36
LEAD_TO_BAND_DB = 3.0


def marks(suggested: BarChord, root: int, tones: tuple[int, ...]) -> tuple[bool, bool, bool]:
    """Whether the root is right, the root with its third, and the whole chord."""
    chord = parse_chord(suggested.symbol)
    steps = set(chord.degrees)
    third = {3, 4} & steps == {3, 4} & set(tones)
    return chord.root == root, chord.root == root and third, chord.root == root and steps == set(tones)


def chord_of(root: int, tones: tuple[int, ...]) -> Chord:
    """A mix's chord by name."""
    chords = (parse_chord(FLAT_NAMES[root] + quality) for quality in QUALITIES)
    return next(chord for chord in chords if tuple(sorted(chord.degrees)) == tones)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--held-out", action="store_true", help="a soundfont and changes that were not learnt from")
    held_out = parser.parse_args().held_out
    soundfont, seed, changes = ("fluidr3", 7000, CHANGES) if held_out else ("timgm", 100, TRAINING_CHANGES)
    for key_known in (False, True):
        measure(soundfont, seed, changes, key_known)


def measure(soundfont: str, seed: int, changes: Sequence[Changes], key_known: bool) -> None:
    """Print the shares of bars right, and how right what it is sure of."""
    found: list[tuple[bool, bool, bool, float]] = []
    missed = 0
    seconds = audio = 0.0
    for i in range(MIXES):
        program, comping = list(PROGRAMS)[i % len(PROGRAMS)], list(COMPING)[i % len(COMPING)]
        mix = mixed(seed + i, program, comping, LEAD_TO_BAND_DB, soundfont, changes=changes)
        grid = grid_of(mix)
        began = time.perf_counter()
        key = suggest_keys([chord_of(*chord) for chord in mix.chords])[0][0] if key_known else None
        suggested = suggest_chords(Recording(mix.samples[:, None], RATE_HZ), grid, mix.detune_cents, key)
        seconds += time.perf_counter() - began
        audio += len(mix.samples) / RATE_HZ
        inside = [s for s in suggested if s.bar < len(mix.chords)]
        missed += len(mix.chords) - len(inside)
        found += [(*marks(s, *mix.chords[s.bar]), s.confidence) for s in inside]
    table = np.array(found, dtype=float)
    print(
        f"{soundfont}, key {'known' if key_known else 'not known'}: {len(found)} bars in {MIXES} mixes, "
        f"lead {LEAD_TO_BAND_DB:g} dB over the band, {missed} unsaid"
    )
    for name, column in (("root", 0), ("root and third", 1), ("whole chord", 2)):
        print(f"  {name:15} {table[:, column].mean():.3f}")
    for low, high in ((0, 0.5), (0.5, 0.8), (0.8, 1.01)):
        within = (table[:, 3] >= low) & (table[:, 3] < high)
        if within.any():
            print(
                f"  confidence {low:g} to {min(high, 1):g}: {within.sum()} bars, right {table[within, 2].mean():.2f}"
            )
    print(f"  {audio / seconds:.0f} times as fast as the recording")


if __name__ == "__main__":
    main()
