"""How well records are heard: guitars through rooms, echoes and amplifiers, and leads in dense stereo bands.

Composed phrases and bands as in benchmarks/hearing.py, but coloured as records are (benchmarks/colours.py), and heard
as the program hears them: stereo in, notes out. `--unseen` takes a soundfont and settings that nothing was set on.

./run-benchmarks records [--unseen] [--group effects|bands] [--count N]
"""

import argparse
import time
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from benchmarks.colours import Sound, colours, dense_band
from benchmarks.pieces import IDIOMS, PROGRAMS, RATE_HZ, Piece, render
from eager_owl.audio.decode import Recording
from eager_owl.session.hearing import hear_phrase
from eager_owl.solo.document import Phrase, Solo

LEVELS_DB = (6.0, 3.0, 0.0, -3.0)
_SEEN, _UNSEEN = ("timgm", "fluidr3"), ("csound",)
_NEAR_S = 0.05


@dataclass(frozen=True)
class Take:
    """A recording, (frames, channels) at RATE_HZ, and what the lead truly played."""

    group: str
    name: str
    piece: Piece
    sound: Sound


def make_take(job: tuple[str, int, bool]) -> Take:
    """One recording: (group, number, of the unseen)."""
    group, number, unseen = job
    fonts = _UNSEEN if unseen else _SEEN
    seed = number + (500_000 if unseen else 0)
    rng = np.random.default_rng(seed)
    font = fonts[number % len(fonts)]
    if group == "bands":
        other = "fluidr3" if unseen else fonts[(number + 1) % len(fonts)]
        level = LEVELS_DB[number % len(LEVELS_DB)]
        mix = dense_band(seed, level, font, other)
        return Take(f"band {level:+.0f} dB", mix.program, mix.lead, mix.sound)
    chains = colours(rng)
    name = list(chains)[number % len(chains)]
    piece = IDIOMS[int(rng.integers(len(IDIOMS)))](rng)
    program = list(PROGRAMS)[int(rng.integers(len(PROGRAMS)))]
    return Take("effects", name, piece, chains[name](render(piece, program, float(rng.uniform(-30, 30)), font)))


def matched(piece: Piece, found: list[tuple[float, int]]) -> int:
    """How many true notes have a note of their own pitch found within 50 ms, each found one counted once."""
    left = sorted(found)
    count = 0
    for true in piece.truth:
        near = [n for n in left if abs(n[0] - true.onset) < _NEAR_S and n[1] == true.pitch]
        if near:
            left.remove(min(near, key=lambda n: abs(n[0] - true.onset)))
            count += 1
    return count


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--unseen", action="store_true")
    parser.add_argument("--group", choices=("effects", "bands"))
    parser.add_argument("--count", type=int, default=36)
    options = parser.parse_args()
    groups = [options.group] if options.group else ["effects", "bands"]
    jobs = [(group, number, options.unseen) for group in groups for number in range(options.count)]
    with ProcessPoolExecutor(2) as pool:
        takes = list(pool.map(make_take, jobs, chunksize=4))
    scores: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    sure: list[tuple[float, bool]] = []
    began, seconds = time.perf_counter(), 0.0
    for take in takes:
        recording = Recording(take.sound, RATE_HZ)
        heard = hear_phrase(Solo(), Phrase(0.0, recording.duration_s), recording)
        seconds += recording.duration_s
        found = [(note.onset, note.pitch) for note in heard.notes if not note.muted]
        both = matched(take.piece, found)
        scores[take.group][take.name].append(2 * both / max(len(found) + len(take.piece.truth), 1))
        sure += [(note.confidence, matched(take.piece, [(note.onset, note.pitch)]) > 0) for note in heard.notes]
    for group, names in scores.items():
        every = [score for each in names.values() for score in each]
        print(f"{group:14} note F1 {np.mean(every):.3f}   worst {min(every):.3f}   of {len(every)}")
        print("   " + ", ".join(f"{name} {np.mean(each):.2f}" for name, each in sorted(names.items())))
    beliefs, right = (np.array(each, dtype=float) for each in zip(*sure, strict=True))
    bins = np.clip((10 * beliefs).astype(int), 0, 9)
    off = sum(
        abs(beliefs[bins == b].mean() - right[bins == b].mean()) * (bins == b).mean() for b in set(bins.tolist())
    )
    print(f"calibration error {off:.3f}, {seconds / (time.perf_counter() - began):.0f} times real time")


if __name__ == "__main__":
    main()
