"""Learn the chord templates of `hearing/chords.py` from mixes of a lead over a band that fluidsynth plays.

A multinomial logistic regression in which all roots share their weights: a bar's profile is seen from each of the
twelve roots, and each quality has one weight for every entry. Learnt from three soundfonts, coloured and driven as
recordings are, and the changes below; `./run-benchmarks chords --held-out` measures on a fourth, and other changes.
Writes `chords.npz`; and `chords.json`, the logistic regressions that tell two chords in a bar, and a chord over
another bass.

./run-benchmarks train_chords [mixes]
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.signal import lfilter
from scipy.special import log_softmax

from benchmarks.band import BASSES, COMPING, OTHER_BASSES, OTHER_COMPING, Changes, Chorded, grid_of, mixed
from benchmarks.pieces import PROGRAMS, RATE_HZ
from benchmarks.regression import fit, keep
from eager_owl.hearing.chords import QUALITIES, above_each_root, bar_profile, basses_of, of_bass, of_halves
from eager_owl.theory.chord import parse_chord
from eager_owl.theory.pitch import FLAT_NAMES

_SOUNDFONTS, _LEVELS_DB = ("timgm", "csound", "opl3"), (3.0, 0.0, 6.0, 10.0)
_SEED, _PENALTY = 50_000, 2.0
_OUT = Path(__file__).parents[1] / "src/eager_owl/hearing"


def changes_of(*rows: str) -> tuple[Changes, ...]:
    """Changes written over C, bars apart by spaces, two chords of a bar by a comma."""
    return tuple(tuple(tuple(map(_chorded, bar.split(","))) for bar in row.split()) for row in rows)


def _chorded(symbol: str) -> Chorded:
    chord = parse_chord(symbol)
    return Chorded(chord.root, tuple(sorted(chord.degrees)), (chord.bass - chord.root) % 12)


TRAINING_CHANGES = changes_of(
    "Cmaj7 Am7 Dm7 G7", "Cm7 Fm7 Abmaj7 G7", "C F G C", "Cm Bb Ab G", "Dm7 G7 Cmaj7 Cmaj7", "Cmaj7 C#dim7 Dm7 G7",
    "Cm7 Dm7b5 G7 Cm", "Fmaj7 Em7 Dm7 Cmaj7", "C7 F7 F#dim7 C7", "Cm Dm7b5 G7 Cm7", "Am F C G",
    "Cmaj7 Fmaj7 Bm7b5 E7", "Cm7 Ebmaj7 Abmaj7 Dm7b5", "C E7 Am D7", "Cm7 Bb7 Ebmaj7 Abmaj7",
    "Ebdim7 Em7 A7 Dm7", "Fm7 Bb7 Ebmaj7 Cm7", "C C7 F Fm",
    "C6 Am7 Dm7,G7 C6", "Cmaj7,A7 Dm7,G7 Cmaj7 G7sus4", "Csus4 C Fsus4 F", "C C+ C6 C7", "Am6 E7 Am6 Dm6",
    "C G/B Am C/G", "F C/E Dm7 G7sus4,G7", "Cm Cm/Bb Abmaj7 G7", "C,G Am,F C,G F", "Dm6 A+ Dm F6",
    "Bb,F Gm,Dm Eb F7sus4", "Em7,A7 Dm7,G7 C6,Am7 Dm7,G7", "Cm6 G7/B Cm6 Fm6", "C F/C C G/D", "Cm,Bb Ab,G Cm G+",
)  # fmt: skip


@dataclass(frozen=True)
class Seen:
    """Of a mix: the bars and half bars of one chord seen from every root, shape (12, entries), and which chord it is;

    of each bar that can be halved its three profiles and whether it holds two; of each chord its profile and itself.
    """

    chords: list[tuple[NDArray[np.float64], int]]
    halved: list[tuple[tuple[NDArray[np.float64], ...], bool]]
    basses: list[tuple[NDArray[np.float64], Chorded]]


def examples(number: int) -> Seen:
    """What a mix of this number teaches."""
    programs, compings = list(PROGRAMS), list(COMPING | OTHER_COMPING)
    program, comping = programs[(7 * number + 3) % len(programs)], compings[(5 * number + 1) % len(compings)]
    font, level = _SOUNDFONTS[number % len(_SOUNDFONTS)], _LEVELS_DB[number % len(_LEVELS_DB)]
    basses = BASSES if number % 3 else OTHER_BASSES
    mix = mixed(_SEED + number, program, comping, level, font, changes=TRAINING_CHANGES, basses=basses)
    samples, grid = _coloured(mix.samples, np.random.default_rng(_SEED + number)), grid_of(mix)
    beats, seen = grid.beats_per_bar, Seen([], [], [])
    for bar, chords in enumerate(mix.chords):

        def profile(first: float, last: float, bar: int = bar) -> NDArray[np.float64] | None:
            start, end = (round(grid.time_of(bar * beats + beat) * RATE_HZ) for beat in (first, last))
            return bar_profile(samples[start:end], RATE_HZ, mix.detune_cents, round(last - first))

        whole, halves = profile(0, beats), [profile(0, beats / 2), profile(beats / 2, beats)]
        parts = [whole] if len(chords) == 1 else halves
        for chord, part in zip(chords, parts, strict=True):
            if part is not None:
                label = chord.root * len(QUALITIES) + _quality(chord)
                seen.chords.append((above_each_root(part), label))
                seen.basses.append((part, chord))
        if beats % 2 == 0 and whole is not None and halves[0] is not None and halves[1] is not None:
            seen.halved.append(((whole, halves[0], halves[1]), len(chords) == 2))
    return seen


def _coloured(samples: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """As another amplifier, desk or tape might have it: darker or brighter, and half of them driven."""
    tilted = lfilter([1.0, -rng.uniform(-0.6, 0.9)], [1.0], samples)
    if rng.random() < 0.5:
        tilted = np.tanh(rng.uniform(0.5, 4.0) * tilted / max(float(np.std(tilted)), 1e-9))
    return np.asarray(tilted, np.float32)


def learn(seen: NDArray[np.float64], labels: NDArray[np.intp]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Weights (entries, qualities) and biases that make the labels likeliest, with an L2 penalty on the weights."""
    count, _, entries = seen.shape
    split = entries * len(QUALITIES)

    def loss(flat: NDArray[np.float64]) -> tuple[float, NDArray[np.float64]]:
        weights, bias = flat[:split].reshape(entries, -1), flat[split:]
        log_shares = log_softmax((seen @ weights + bias).reshape(count, -1), axis=1)
        slope = np.exp(log_shares)
        slope[np.arange(count), labels] -= 1.0
        slope = slope.reshape(count, 12, -1)
        to_weights = np.einsum("nre,nrq->eq", seen, slope) + _PENALTY * weights
        total = -log_shares[np.arange(count), labels].sum() + _PENALTY / 2 * (weights**2).sum()
        return float(total), np.concatenate([to_weights.ravel(), slope.sum(axis=(0, 1))])

    found = minimize(loss, np.zeros(split + len(QUALITIES)), jac=True, method="L-BFGS-B", options={"maxiter": 400}).x
    return found[:split].reshape(entries, -1), found[split:]


def main() -> None:
    mixes = int(sys.argv[1]) if len(sys.argv) > 1 else 800
    with ProcessPoolExecutor() as pool:
        told = list(pool.map(examples, range(mixes), chunksize=5))
    parts = [part for each in told for part in each.chords]
    seen, labels = np.array([part for part, _ in parts]), np.array([label for _, label in parts])
    weights, bias = learn(seen, labels)
    guessed = (seen @ weights + bias).reshape(len(seen), -1).argmax(axis=1)
    print(f"right in what was learnt from: {np.mean(guessed == labels):.3f}")
    np.savez_compressed(_OUT / "chords.npz", weights=weights.astype(np.float32), bias=bias.astype(np.float32))
    halved = [bar for each in told for bar in each.halved]
    split = fit([of_halves(*profiles) for profiles, _ in halved], [two for _, two in halved])
    rows, true = [], []
    for profile, chord in (pair for each in told for pair in each.basses):
        named = parse_chord(FLAT_NAMES[chord.root] + QUALITIES[_quality(chord)])
        for bass in basses_of(named):
            rows.append(of_bass(profile, chord.root, bass))
            true.append((chord.root + chord.bass) % 12 == bass)
    keep("chords", {"split": split, "bass": fit(rows, true)})


def _quality(chord: Chorded) -> int:
    return [tuple(sorted(parse_chord(f"C{name}").degrees)) for name in QUALITIES].index(chord.tones)


if __name__ == "__main__":
    main()
