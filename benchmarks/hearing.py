"""How well and how fast notes are heard, against the plain baseline, on fluidsynth's guitars.

    ./run-benchmarks hearing [--held-out] [--no-baseline]

The soundfont of the tables is TimGM6mb; --held-out uses another one and other seeds.
"""

import argparse
import time
from collections import defaultdict
from dataclasses import dataclass, field

import mir_eval
import numpy as np

from benchmarks.baseline import baseline_notes
from benchmarks.pieces import IDIOMS, RATE_HZ, Piece, render
from eager_owl.hearing.detect import detect_notes
from eager_owl.solo.document import BENDS, Note

SETTINGS = (("clean", 0.0), ("driven", -28.0), ("distorted", 17.0), ("jazz", 35.0), ("steel", -40.0))
TECHNIQUES = {
    "bend": set(BENDS),
    "vibrato": {"vibrato"},
    "slide": {"slide"},
    "hammer-on, pull-off": {"hammer_on", "pull_off"},
}


@dataclass
class Tally:
    """Sums over pieces."""

    f1: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    by_program: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    base_f1: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    techniques: dict[str, list[int]] = field(default_factory=lambda: defaultdict(lambda: [0, 0, 0]))
    bend_errors: list[float] = field(default_factory=list)
    tuning_errors: list[float] = field(default_factory=list)
    belief: list[tuple[float, bool]] = field(default_factory=list)
    seconds: float = 0.0
    base_seconds: float = 0.0
    sound_seconds: float = 0.0


def hz(midi: list[int]) -> np.ndarray:
    return 440.0 * 2.0 ** ((np.asarray(midi, dtype=float) - 69) / 12)


def match(piece: Piece, found: list[tuple[float, float, int]]) -> list[tuple[int, int]]:
    """Pairs (true note, found note): onset within 50 ms, pitch within 50 cents."""
    if not found:
        return []
    truth = np.array([[t.onset, t.onset + max(t.duration, 0.02)] for t in piece.truth])
    spans = np.array([[a, max(b, a + 0.02)] for a, b, _ in found])
    pitches = hz([t.pitch for t in piece.truth]), hz([p for _, _, p in found])
    return mir_eval.transcription.match_notes(truth, pitches[0], spans, pitches[1], offset_ratio=None)


def f1(pairs: int, truth: int, found: int) -> float:
    return 2 * pairs / (truth + found) if truth + found else 1.0


def tally_techniques(tally: Tally, piece: Piece, notes: tuple[Note, ...], pairs: list[tuple[int, int]]) -> None:
    found_of = dict(pairs)
    for name, members in TECHNIQUES.items():
        true = {i for i, t in enumerate(piece.truth) if members & set(t.techniques)}
        heard = {j for j, n in enumerate(notes) if members & {t.name for t in n.techniques}}
        counts = tally.techniques[name]
        counts[0] += sum(found_of.get(i) in heard for i in true)
        counts[1] += len(true)
        counts[2] += len(heard)
    for i, j in pairs:
        bend = notes[j].bend
        if piece.truth[i].bend_cents and bend and bend.semitones:
            tally.bend_errors.append(abs(100 * bend.semitones - piece.truth[i].bend_cents))


def calibration_error(belief: list[tuple[float, bool]]) -> float:
    """Expected calibration error over ten bins."""
    values = np.array(belief, dtype=float)
    error = 0.0
    for low in np.arange(10) / 10:
        inside = values[(values[:, 0] >= low) & ((values[:, 0] < low + 0.1) | (low == 0.9))]
        if len(inside):
            error += len(inside) / len(values) * abs(float(inside[:, 0].mean() - inside[:, 1].mean()))
    return error


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--held-out", action="store_true")
    parser.add_argument("--no-baseline", action="store_true")
    options = parser.parse_args()
    soundfont, seed = ("fluidr3", 5000) if options.held_out else ("timgm", 0)
    if not options.no_baseline:
        baseline_notes(np.zeros(RATE_HZ, np.float32) + 0.01, RATE_HZ)  # compiles; not timed
    tally = Tally()
    for i, idiom in enumerate(IDIOMS):
        for j, (program, cents) in enumerate(SETTINGS):
            piece = idiom(np.random.default_rng(seed + 100 * i + j))
            samples = render(piece, program, cents, soundfont)
            tally.sound_seconds += len(samples) / RATE_HZ
            began = time.perf_counter()
            found = detect_notes(samples, RATE_HZ)
            tally.seconds += time.perf_counter() - began
            pairs = match(piece, [(n.onset, n.end, n.pitch) for n in found.notes])
            score = f1(len(pairs), len(piece.truth), len(found.notes))
            tally.f1[piece.idiom].append(score)
            tally.by_program[program].append(score)
            tally.tuning_errors.append(abs(found.reference_cents - cents))
            hit = {j for _, j in pairs}
            tally.belief += [(n.confidence, k in hit) for k, n in enumerate(found.notes)]
            tally_techniques(tally, piece, found.notes, pairs)
            if not options.no_baseline:
                began = time.perf_counter()
                base = baseline_notes(samples, RATE_HZ)
                tally.base_seconds += time.perf_counter() - began
                count = len(match(piece, base))
                tally.base_f1[piece.idiom].append(f1(count, len(piece.truth), len(base)))
    report(tally, soundfont)


def report(tally: Tally, soundfont: str) -> None:
    print(f"note F1 (onset 50 ms, pitch 50 cents), {soundfont}")
    for idiom, scores in tally.f1.items():
        base = tally.base_f1.get(idiom)
        against = f"   baseline {np.mean(base):.3f}" if base else ""
        print(f"  {idiom:24}{np.mean(scores):.3f}   worst {min(scores):.3f}{against}")
    for program, scores in tally.by_program.items():
        print(f"  {program:24}{np.mean(scores):.3f}")
    everything = [s for scores in tally.f1.values() for s in scores]
    base_all = [s for scores in tally.base_f1.values() for s in scores]
    against = f"   baseline {np.mean(base_all):.3f}" if base_all else ""
    print(f"  {'average':24}{np.mean(everything):.3f}{against}")
    print("technique F1")
    for name, (both, true, heard) in tally.techniques.items():
        print(f"  {name:24}{f1(both, true, heard):.3f}   of {true}")
    print(f"bend size, mean error    {np.mean(tally.bend_errors):.1f} cents over {len(tally.bend_errors)}")
    print(f"tuning, mean error       {np.mean(tally.tuning_errors):.1f} cents")
    print(f"calibration error        {calibration_error(tally.belief):.3f}")
    print(f"speed                    {tally.sound_seconds / tally.seconds:.0f} times real time")
    if tally.base_seconds:
        print(f"against the baseline     {tally.base_seconds / tally.seconds:.1f} times as fast")


if __name__ == "__main__":
    main()
