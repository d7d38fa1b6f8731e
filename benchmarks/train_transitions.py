"""Train the judges of transitions (eager_owl.hearing.transitions) and write their weights into the package.

    ./run-benchmarks train_transitions alone|band [--pieces N] [--seed S]

The recordings of benchmarks/training.py are cut into notes as the program cuts them, but each junction is decided by
the truth, which the networks then learn to tell from what is measured there.
"""

import argparse
from collections import Counter
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from numpy.typing import NDArray

from benchmarks.pieces import RATE_HZ, Piece, Stroke, True_
from benchmarks.train_judge import HEARD_HZ, dry, train_several
from benchmarks.training import example
from eager_owl.audio.decode import resample
from eager_owl.hearing.attacks import find_attacks
from eager_owl.hearing.detect import lead_line
from eager_owl.hearing.frames import HOP_S, measure_frames
from eager_owl.hearing.judge import Kind, judge_candidates
from eager_owl.hearing.pitch_track import track_pitch
from eager_owl.hearing.salience import find_candidates, measure_spectra
from eager_owl.hearing.segment import find_notes
from eager_owl.hearing.transitions import (
    OUTCOMES,
    SAME_SEMITONES,
    Beliefs,
    Junction,
    Outcome,
    describe_junction,
    gather_evidence,
)

_NEAR_S, _NEAR_SEMITONES = 0.06, 0.6
_HIDDEN, _EPOCHS = (64, 32), 80


def sounding(stroke: Stroke, at_s: float) -> float:
    """The pitch that a stroke's string has at a time, vibrato left out."""
    level = float(np.interp(at_s, *zip(*stroke.curve, strict=True))) if stroke.curve else 0.0
    return stroke.pitch + level


def truth_of(piece: Piece, detune_cents: float, junction: Junction, at_s: float) -> Outcome | None:
    """What truly happened at a junction; None where what was tracked is not what was played."""
    off = detune_cents / 100
    to = junction.plateau.midi - off
    stands_s = (junction.plateau.start + min(junction.plateau.end, junction.plateau.start + 12)) / 2 * HOP_S
    begun = [true for true in piece.truth if abs(true.onset - at_s) < _NEAR_S and _fits(piece, true, to, stands_s)]
    if begun:
        true = min(begun, key=lambda true: abs(true.onset - at_s))
        names = set(true.techniques)
        return "slide" if "slide" in names else "legato" if names & {"hammer_on", "pull_off"} else "struck"
    for stroke in piece.strokes:
        swing = stroke.vibrato[2] / 100 if stroke.vibrato else 0.0
        near = abs(sounding(stroke, stands_s) - to) < _NEAR_SEMITONES + swing
        if near and stroke.onset <= at_s + 0.03 and at_s < stroke.end + 0.15:
            lowered = junction.step < -SAME_SEMITONES and not junction.bent
            struck_bent = any(t.onset == stroke.onset and "prebend_release" in t.techniques for t in piece.truth)
            return "let_down" if lowered and struck_bent else "bent"
    return None


def _fits(piece: Piece, true: True_, midi: float, at_s: float) -> bool:
    """Whether a true note has this pitch where the plateau stands, or has it fretted."""
    if abs(true.pitch - midi) < _NEAR_SEMITONES:
        return True
    return any(s.onset == true.onset and abs(sounding(s, at_s) - midi) < _NEAR_SEMITONES for s in piece.strokes)


def junctions(job: tuple[Kind, int]) -> list[tuple[NDArray[np.float32], Outcome]]:
    """What is measured at the junctions of one recording, and what they are."""
    kind, seed = job
    heard = example(kind, seed, of_the_hand=True)
    told: list[tuple[NDArray[np.float32], Outcome]] = []
    signal = dry(heard) if kind == "alone" else resample(heard.samples, RATE_HZ, HEARD_HZ)
    spectra = measure_spectra(signal, HEARD_HZ)
    found = find_candidates(spectra)
    judged = judge_candidates(spectra, found, kind)
    if kind == "alone":
        frames = measure_frames(signal, HEARD_HZ)
        track, attacks = track_pitch(frames), find_attacks(frames)
    else:
        frames, track, attacks = lead_line(spectra, found, judged)
    evidence = gather_evidence(frames, spectra, found, judged, attacks)

    def decide(contour: NDArray[np.float64], junction: Junction) -> Beliefs:
        at_s = (junction.plateau.start if junction.attack is None else junction.attack) * HOP_S
        truth = truth_of(heard.piece, heard.detune_cents, junction, at_s)
        if truth is None:
            return {"struck": 1.0}
        told.append((describe_junction(evidence, contour, junction), truth))
        return {truth: 1.0}

    find_notes(frames, track, attacks, decide)
    return told


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("kind", choices=["alone", "band"])
    parser.add_argument("--pieces", type=int, default=800)
    parser.add_argument("--seed", type=int, default=2_000_000)
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        jobs = [(options.kind, options.seed + i) for i in range(options.pieces)]
        told = [each for part in pool.map(junctions, jobs, chunksize=4) for each in part]
    print(len(told), "junctions:", Counter(outcome for _, outcome in told), flush=True)
    seen = np.array([features for features, _ in told])
    truth = np.array([[outcome == name for name in OUTCOMES] for _, outcome in told], dtype=np.float32)
    train_several(f"transitions_{options.kind}", seen, truth, options.seed, _HIDDEN, _EPOCHS, noise=0.15)


if __name__ == "__main__":
    main()
