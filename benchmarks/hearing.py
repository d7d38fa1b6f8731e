"""How well and how fast notes and beats are heard, against the plain baseline, on fluidsynth's instruments.

    ./run-benchmarks hearing [--held-out | --unheard] [--no-baseline]

The tables are on TimGM6mb. --held-out takes FluidR3 and other phrases; both soundfonts were heard in training.
--unheard takes a soundfont that nothing here was trained or set on.
"""

import argparse
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import mir_eval
import numpy as np
import soundfile
from numpy.typing import NDArray

from benchmarks.band import COMPING, mixed
from benchmarks.baseline import baseline_notes
from benchmarks.pieces import IDIOMS, RATE_HZ, TOGETHER, Piece, render
from eager_owl.hearing.beats import find_beats, fit_grid
from eager_owl.hearing.detect import detect_notes
from eager_owl.hearing.hints import Hints, PinnedNote
from eager_owl.hearing.pulse import measure_pulse
from eager_owl.hearing.salience import measure_spectra
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import BENDS

SETTINGS = (("clean", 0.0), ("driven", -28.0), ("distorted", 17.0), ("jazz", 35.0), ("steel", -40.0))
LEVELS_DB = (6.0, 0.0)
TECHNIQUES = {
    "bend": set(BENDS),
    "vibrato": {"vibrato"},
    "slide": {"slide"},
    "hammer-on, pull-off": {"hammer_on", "pull_off"},
    "staccato": {"staccato"},
    "grace": {"grace"},
    "double stop": {"double_stop"},
    "dip, dive": {"dip", "dive"},
}
ALONE, SEVERAL = "one note at a time", "double stops, octaves"

# What a child has used is counted from its start as a program: before that it is a copy of this one.
_TELLS_ITS_MEMORY = """
import sys
from eager_owl.cli import main
main(sys.argv[1:])
print(open("/proc/self/status").read().split("VmHWM:")[1].split()[0])
"""


@dataclass(frozen=True)
class Case:
    """One recording to be heard, with its truth; `beats` in seconds where there is a band."""

    group: str
    program: str
    piece: Piece
    cents: float
    samples: NDArray[np.float32]
    beats: NDArray[np.float64] | None = None
    beats_per_bar: int = 0


@dataclass
class Tally:
    """Sums over cases."""

    f1: dict[tuple[str, str], list[float]] = field(default_factory=lambda: defaultdict(list))
    base_f1: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    corrections: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    techniques: dict[str, list[int]] = field(default_factory=lambda: defaultdict(lambda: [0, 0, 0]))
    bend_errors: list[float] = field(default_factory=list)
    tuning_errors: list[float] = field(default_factory=list)
    belief: dict[str, list[tuple[float, bool]]] = field(default_factory=lambda: defaultdict(list))
    beats: list[float] = field(default_factory=list)
    meters: list[bool] = field(default_factory=list)
    mixes: list[bool] = field(default_factory=list)
    seconds: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    base_seconds: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    sound_seconds: dict[str, float] = field(default_factory=lambda: defaultdict(float))


def hz(midi: list[int]) -> np.ndarray:
    return 440.0 * 2.0 ** ((np.asarray(midi, dtype=float) - 69) / 12)


def match(piece: Piece, found: list[tuple[float, float, int]], any_pitch: bool = False) -> list[tuple[int, int]]:
    """Pairs (true note, found note): onset within 50 ms, and pitch within 50 cents."""
    if not found:
        return []
    truth = np.array([[t.onset, t.onset + max(t.duration, 0.02)] for t in piece.truth])
    spans = np.array([[a, max(b, a + 0.02)] for a, b, _ in found])
    if any_pitch:
        return mir_eval.transcription.match_note_onsets(truth, spans)
    pitches = hz([t.pitch for t in piece.truth]), hz([p for _, _, p in found])
    return mir_eval.transcription.match_notes(truth, pitches[0], spans, pitches[1], offset_ratio=None)


def f1(pairs: int, truth: int, found: int) -> float:
    return 2 * pairs / (truth + found) if truth + found else 1.0


def corrections(piece: Piece, notes: tuple[Note, ...], pairs: list[tuple[int, int]]) -> int:
    """Single keys that would bring the detection to the truth: a pitch put right, a note added or thrown out."""
    true_left = [i for i in range(len(piece.truth)) if i not in {a for a, _ in pairs}]
    left = [n for j, n in enumerate(notes) if j not in {b for _, b in pairs}]
    missing = Piece("", truth=[piece.truth[i] for i in true_left])
    repitched = len(match(missing, [(n.onset, n.end, n.pitch) for n in left], True)) if missing.truth else 0
    return len(true_left) + len(left) - repitched


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


def make_case(job: tuple[str, int, int, str, int]) -> Case:
    """Compose and render one case: (group, idiom or level, setting, soundfont, seed)."""
    group, which, setting, soundfont, seed = job
    program, cents = SETTINGS[setting]
    seed += 100 * which + setting
    if group in (ALONE, SEVERAL):
        piece = (IDIOMS if group == ALONE else TOGETHER)[which](np.random.default_rng(seed))
        return Case(group, program, piece, cents, render(piece, program, cents, soundfont))
    comping = [*COMPING][(which + setting) % len(COMPING)]
    mix = mixed(seed, program, comping, LEVELS_DB[which % 2], soundfont)
    per_bar = round(float(np.diff(mix.downbeats[:2])[0] / np.diff(mix.beats[:2])[0]))
    return Case(group, program, mix.lead, mix.detune_cents, mix.samples, mix.beats, per_bar)


def cases(soundfont: str, seed: int) -> Iterator[Case]:
    """All of them."""
    jobs = [(ALONE, i, j, soundfont, seed) for i in range(len(IDIOMS)) for j in range(len(SETTINGS))]
    jobs += [(SEVERAL, i, j, soundfont, seed + 7000) for i in range(len(TOGETHER)) for j in range(len(SETTINGS))]
    for which in range(4):
        group = f"band {LEVELS_DB[which % 2]:.0f} dB below"
        jobs += [(group, which, j, soundfont, seed + 9000) for j in range(len(SETTINGS))]
    with ProcessPoolExecutor(2) as pool:
        everything = list(pool.map(make_case, jobs, chunksize=4))  # all of it first: it is not to be timed
    yield from everything


def hear(case: Case, tally: Tally, with_baseline: bool) -> None:
    """Hear one case and add it up."""
    kind = "band" if case.beats is not None else "alone"
    began = time.perf_counter()
    found = detect_notes(case.samples, RATE_HZ)
    tally.seconds[kind] += time.perf_counter() - began
    tally.sound_seconds[kind] += len(case.samples) / RATE_HZ
    tally.mixes.append((found.mix == "band") == (kind == "band"))
    pairs = match(case.piece, [(n.onset, n.end, n.pitch) for n in found.notes])
    score = f1(len(pairs), len(case.piece.truth), len(found.notes))
    tally.f1[case.group, case.piece.idiom].append(score)
    tally.f1[case.group, case.program].append(score)
    wrong = corrections(case.piece, found.notes, pairs)
    tally.corrections[case.group].append(100 * wrong / len(case.piece.truth))
    tally.tuning_errors.append(abs(found.reference_cents - case.cents))
    hit = {j for _, j in pairs}
    tally.belief[kind] += [(n.confidence, k in hit) for k, n in enumerate(found.notes)]
    if kind == "alone":
        tally_techniques(tally, case.piece, found.notes, pairs)
    if case.beats is not None and (beats := find_beats(measure_pulse(measure_spectra(case.samples, RATE_HZ)))):
        tally.beats.append(mir_eval.beat.f_measure(case.beats, grid_beats(fit_grid(beats), beats.times_s)))
        tally.meters.append(beats.beats_per_bar == case.beats_per_bar)
    if with_baseline:
        began = time.perf_counter()
        base = baseline_notes(case.samples, RATE_HZ)
        tally.base_seconds[kind] += time.perf_counter() - began
        count = len(match(case.piece, base))
        tally.base_f1[case.group].append(f1(count, len(case.piece.truth), len(base)))


def grid_beats(grid: BeatGrid, within: NDArray[np.float64]) -> NDArray[np.float64]:
    """The grid's beats over the stretch that beats were found in."""
    first, last = round(grid.beat_at(float(within[0]))), round(grid.beat_at(float(within[-1])))
    return np.array([grid.time_of(beat) for beat in range(first, last + 1)])


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--held-out", action="store_true")
    parser.add_argument("--unheard", action="store_true")
    parser.add_argument("--no-baseline", action="store_true")
    options = parser.parse_args()
    soundfont, seed = ("fluidr3", 5000) if options.held_out else ("csound", 5000) if options.unheard else ("timgm", 0)
    if not options.no_baseline:
        baseline_notes(np.zeros(RATE_HZ, np.float32) + 0.01, RATE_HZ)  # compiles; not timed
    detect_notes(np.zeros(RATE_HZ, np.float32) + 0.01, RATE_HZ)
    tally = Tally()
    everything = list(cases(soundfont, seed))
    for case in everything:
        hear(case, tally, not options.no_baseline)
    report(tally, soundfont)
    time_and_memory(everything)


def report(tally: Tally, soundfont: str) -> None:
    print(f"note F1 (onset 50 ms, pitch 50 cents), {soundfont}; corrections in 100 notes")
    for group in dict.fromkeys(group for group, _ in tally.f1):
        names = [name for g, name in tally.f1 if g == group]
        scores = [s for name in names for s in tally.f1[group, name]]
        base = tally.base_f1.get(group)
        against = f"   baseline {np.mean(base):.3f}" if base else ""
        wrong = f"   {np.mean(tally.corrections[group]):.1f} corrections"
        print(f"{group:26}{np.mean(scores):.3f}{against}{wrong}")
        for name in names:
            print(f"  {name:24}{np.mean(tally.f1[group, name]):.3f}   worst {min(tally.f1[group, name]):.3f}")
    print("technique F1, guitar alone")
    for name, (both, true, heard) in tally.techniques.items():
        print(f"  {name:24}{f1(both, true, heard):.3f}   of {true}, {heard} heard")
    print(f"bend size, mean error     {np.mean(tally.bend_errors):.1f} cents over {len(tally.bend_errors)}")
    print(f"tuning, mean error        {np.mean(tally.tuning_errors):.1f} cents")
    for kind, belief in tally.belief.items():
        print(f"calibration error, {kind:7}{calibration_error(belief):.3f} over {len(belief)} notes")
    print(f"kind of mix told          {np.mean(tally.mixes):.3f} of {len(tally.mixes)}")
    print(f"beat F                    {np.mean(tally.beats):.3f}   beats a bar right {np.mean(tally.meters):.3f}")
    for kind, seconds in tally.seconds.items():
        ratio = f", {tally.base_seconds[kind] / seconds:.1f} times the baseline's" if tally.base_seconds else ""
        print(f"speed, {kind:19}{tally.sound_seconds[kind] / seconds:.0f} times real time{ratio}")


def time_and_memory(everything: list[Case]) -> None:
    """Re-detection of eight seconds around a pin, and the most memory a ten-minute recording takes."""
    for case in (everything[0], everything[-1]):
        samples = case.samples[: 8 * RATE_HZ]
        mix = "band" if case.beats is not None else "solo"
        note = detect_notes(samples, RATE_HZ, mix=mix).notes[2]
        hints = Hints(pinned=(PinnedNote(note.onset, note.end, float(note.pitch)),))
        began = time.perf_counter()
        detect_notes(samples, RATE_HZ, case.cents, mix=mix, hints=hints)
        print(f"8 s after a pin, {mix:9}{time.perf_counter() - began:.2f} s")
    with tempfile.TemporaryDirectory() as folder:
        sound, out = Path(folder) / "ten-minutes.wav", Path(folder) / "notes.json"
        soundfile.write(sound, np.resize(everything[-1].samples, 600 * RATE_HZ), RATE_HZ)
        command = [sys.executable, "-c", _TELLS_ITS_MEMORY, "transcribe", str(sound), "--out", str(out)]
        told = subprocess.run(command, check=True, capture_output=True, text=True).stdout
    print(f"transcribing ten minutes  {int(told.split()[-1]) / 1024:.0f} MB at most")


if __name__ == "__main__":
    main()
