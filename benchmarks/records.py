"""How well records are heard: guitars through rooms and amplifiers, harder idioms, leads in dense stereo bands, lows.

Composed phrases and bands as in benchmarks/hearing.py, but coloured as records are (benchmarks/colours.py) and of
harder idioms (benchmarks/idioms.py), heard as the program hears them: stereo in, notes out. `--unseen` takes
instruments of other recordings and seeds that nothing was set or trained on.

./run-benchmarks records [--unseen] [--baseline] [--group effects|guitars|idioms|bands|lows] [--count N]
"""

import argparse
import time
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field

import numpy as np

from benchmarks.band import Score
from benchmarks.baseline import baseline_notes
from benchmarks.colours import Sound, colours, dense_band, sliding_lead
from benchmarks.hearing import TECHNIQUES, calibration_error
from benchmarks.idioms import HARDER
from benchmarks.pieces import IDIOMS, PATCHES, PROGRAMS, RATE_HZ, Piece, lowered, render
from eager_owl.audio.decode import Recording, mono
from eager_owl.session.hearing import hear_phrase
from eager_owl.solo.document import Note, Phrase, Solo

GROUPS = ("effects", "guitars", "idioms", "bands", "lows")
_OF_BANDS = {"bands": "band", "lows": "low"}  # how what is heard of them is called
LEVELS_DB = (6.0, 3.0, 0.0, -3.0)
_SEEN, _UNSEEN = ("timgm", "fluidr3"), (PATCHES,)
_NEAR_S = 0.05
_TOLD = ("bend", "vibrato", "slide", "hammer-on, pull-off", "dip, dive")


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
    if group in _OF_BANDS:
        other = (PATCHES, "csound")[number // len(LEVELS_DB) % 2] if unseen else fonts[(number + 1) % len(fonts)]
        level = LEVELS_DB[number % len(LEVELS_DB)]
        mix = dense_band(seed, level, font, other, compose=_low_lead if group == "lows" else sliding_lead)
        return Take(f"{_OF_BANDS[group]} {level:+.0f} dB", mix.program, mix.lead, mix.sound)
    chains, programs = colours(rng), list(PROGRAMS)
    # The numbers go through all of a group's kinds, whatever else they choose.
    idioms = HARDER if group == "idioms" else IDIOMS
    piece = idioms[number % len(idioms) if group == "idioms" else int(rng.integers(len(idioms)))](rng)
    program = programs[number % len(programs) if group == "guitars" else int(rng.integers(len(programs)))]
    sound = render(piece, program, float(rng.uniform(-30, 30)), font)
    if group == "effects":
        name = list(chains)[number % len(chains)]
        return Take(group, name, piece, chains[name](sound))
    return Take(group, piece.idiom if group == "idioms" else program, piece, sound[:, None])


def _low_lead(score: Score, rng: np.random.Generator) -> Piece:
    """A lead down to the lowest string, among the bass's pitches."""
    return lowered(sliding_lead(score, rng), 40)


def pairs(piece: Piece, found: list[tuple[float, int]]) -> dict[int, int]:
    """Of true notes the found one of their own pitch within 50 ms, each found one counted once."""
    result: dict[int, int] = {}
    for index, true in enumerate(piece.truth):
        near = [
            (abs(onset - true.onset), other)
            for other, (onset, pitch) in enumerate(found)
            if pitch == true.pitch and abs(onset - true.onset) < _NEAR_S and other not in result.values()
        ]
        if near:
            result[index] = min(near)[1]
    return result


@dataclass
class Tally:
    """Sums over the takes of one kind."""

    f1: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    base_f1: list[float] = field(default_factory=list)
    wrong: int = 0
    notes: int = 0


def _f1(both: int, truth: int, found: int) -> float:
    return 2 * both / max(truth + found, 1)


def _wrong(piece: Piece, found: list[tuple[float, int]], matched: dict[int, int]) -> int:
    """Single keys to the truth: a pitch put right, a note added or thrown out."""
    missing = [true.onset for index, true in enumerate(piece.truth) if index not in matched]
    extra = [onset for index, (onset, _) in enumerate(found) if index not in matched.values()]
    for onset in missing:
        near = [other for other in extra if abs(other - onset) < _NEAR_S]
        if near:
            extra.remove(min(near, key=lambda other: abs(other - onset)))
    return len(missing) + len(extra)


def _tell(counts: dict[str, list[int]], piece: Piece, notes: list[Note], matched: dict[int, int]) -> None:
    """Add up, by technique: named rightly, true, named."""
    for name in _TOLD:
        members = TECHNIQUES[name]
        true = {i for i, t in enumerate(piece.truth) if members & set(t.techniques)}
        heard = {j for j, n in enumerate(notes) if members & {t.name for t in n.techniques}}
        counts[name][0] += sum(matched.get(i) in heard for i in true)
        counts[name][1] += len(true)
        counts[name][2] += len(heard)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--unseen", action="store_true")
    parser.add_argument("--baseline", action="store_true", help="the plain use of pyin too, for F1 and speed")
    parser.add_argument("--group", choices=GROUPS)
    parser.add_argument("--count", type=int, default=36)
    options = parser.parse_args()
    groups = [options.group] if options.group else GROUPS
    jobs = [(group, number, options.unseen) for group in groups for number in range(options.count)]
    with ProcessPoolExecutor(2) as pool:
        takes = list(pool.map(make_take, jobs, chunksize=4))
    report(takes, options.baseline)


def report(takes: list[Take], baseline: bool) -> None:
    """Hear all and print how well."""
    tallies: dict[str, Tally] = defaultdict(Tally)
    sure: dict[str, list[tuple[float, bool]]] = defaultdict(list)
    told: dict[str, dict[str, list[int]]] = defaultdict(lambda: defaultdict(lambda: [0, 0, 0]))
    seconds, base_seconds = 0.0, 0.0
    for take in takes:
        recording, tally = Recording(take.sound, RATE_HZ), tallies[take.group]
        first = take.group.split()[0]
        kind = first if first in _OF_BANDS.values() else "alone"
        began = time.perf_counter()
        heard = hear_phrase(Solo(), Phrase(0.0, recording.duration_s), recording)
        seconds += time.perf_counter() - began
        notes = [note for note in heard.notes if not note.muted]
        found = [(note.onset, note.pitch) for note in notes]
        matched = pairs(take.piece, found)
        tally.f1[take.name].append(_f1(len(matched), len(take.piece.truth), len(found)))
        tally.wrong += _wrong(take.piece, found, matched)
        tally.notes += len(take.piece.truth)
        right = set(matched.values())
        sure[kind] += [(note.confidence, index in right) for index, note in enumerate(notes)]
        _tell(told[kind], take.piece, notes, matched)
        if baseline:
            began = time.perf_counter()
            base = [(onset, pitch) for onset, _, pitch in baseline_notes(mono(take.sound), RATE_HZ)]
            base_seconds += time.perf_counter() - began
            tally.base_f1.append(_f1(len(pairs(take.piece, base)), len(take.piece.truth), len(base)))
    for group, tally in tallies.items():
        every = [score for each in tally.f1.values() for score in each]
        beside = f"   pyin {np.mean(tally.base_f1):.3f}" if baseline else ""
        print(f"{group:14} note F1 {np.mean(every):.3f}   worst {min(every):.3f}   of {len(every)}{beside}")
        print(f"   {100 * tally.wrong / tally.notes:.1f} corrections in 100 notes")
        print("   " + ", ".join(f"{name} {np.mean(each):.2f}" for name, each in sorted(tally.f1.items())))
    for kind, counts in told.items():
        each = ", ".join(f"{name} {_f1(*counted):.3f}" for name, counted in counts.items())
        print(f"{kind:14} {each}, calibration error {calibration_error(sure[kind]):.3f}")
    if baseline:
        print(f"speed against pyin {base_seconds / seconds:.1f}")


if __name__ == "__main__":
    main()
