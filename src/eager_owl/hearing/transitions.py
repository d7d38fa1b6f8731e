"""What leads from one plateau of pitch to the next: a new stroke, the fretting hand, or the same note going on.

A few small networks weigh what is measured at such a junction: the way of the pitch, the attack against the usual one
of the recording, the judge's word, and how the harmonics change across the step, each against its own. They were
trained by benchmarks/train_transitions.py on composed phrases of sampled guitars, for a guitar alone and for a lead
over a band.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from math import isnan, log
from statistics import fmean
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.frames import HOP, HOP_S, Frames
from eager_owl.hearing.judge import Judgement, Kind, best, of_pitch
from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.plateaus import Plateau, measure_transition
from eager_owl.hearing.salience import COARSE_HOP, Candidates, Spectra, harmonic_shift, pitch_bins

Outcome = Literal["struck", "legato", "slide", "bent", "let_down"]
OUTCOMES: tuple[Outcome, ...] = get_args(Outcome)
Beliefs = dict[Outcome, float]
GOES_ON: tuple[Outcome, ...] = ("bent", "let_down")  # the same note

# Nearer than this, in semitones, it is the same pitch: struck again, or going on.
SAME_SEMITONES = 0.4
# Semitones: further up than a bend goes, and further than a hand reaches on a string without sliding.
BEND_REACH, _HAND_REACH = 4.2, 9.5
_SHIFTS = np.array([harmonic_shift(harmonic) for harmonic in (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0)])
# Coarse frames around a junction whose levels are compared: before, as it is struck, and settled.
_BEFORE, _STRUCK, _SETTLED = slice(-5, -1), slice(0, 3), slice(3, 7)
_NEAR_SEMITONES, _NEAR_FRAMES = 0.7, 4
_BROAD = 4  # parts of the whole spectrum
_LEAST_S, _MOST_S = 0.004, 2.0
_MOST_STEPS = 12.0
_SILENT_DB = -120.0


@dataclass(frozen=True)
class Junction:
    """Where a plateau gives way to the next.

    Of the note so far: the frame it began at, its fretted pitch, how it was reached and its last plateau; then what
    comes, what follows that (if anything does before the next attack), and the frame of an attack, if there is one.
    """

    note_start: int
    note_midi: float
    note_legato: bool
    last: Plateau
    plateau: Plateau
    following: Plateau | None
    attack: int | None

    @property
    def step(self) -> float:
        """Semitones from the one plateau to the other."""
        return self.plateau.midi - self.last.midi

    @property
    def bent(self) -> bool:
        """Whether the note has already left its fret."""
        return self.last.midi - self.note_midi > SAME_SEMITONES


@dataclass(frozen=True)
class Evidence:
    """What was measured of a recording, that junctions are described by; `usual_flux` of its attacks."""

    frames: Frames
    spectra: Spectra
    found: Candidates
    judged: Judgement
    usual_flux: float


def gather_evidence(
    frames: Frames, spectra: Spectra, found: Candidates, judged: Judgement, attacks: NDArray[np.intp]
) -> Evidence:
    """With the median of the attacks' strength."""
    usual = float(np.median(frames.flux[attacks])) if len(attacks) else 1.0
    return Evidence(frames, spectra, found, judged, max(usual, 0.1))


def describe_junction(evidence: Evidence, contour: NDArray[np.float64], junction: Junction) -> NDArray[np.float32]:
    """What the network sees of a junction; `contour` is the whole track in MIDI numbers."""
    last, plateau, at = junction.last, junction.plateau, junction.attack
    frames = evidence.frames
    if abs(junction.step) < SAME_SEMITONES:
        middle, seconds, whole_s, steepest = plateau.start, 0.0, 0.0, 0.0
    else:
        move = measure_transition(contour, last, plateau)
        middle, seconds, whole_s, steepest = move.middle, move.seconds, move.whole_s, move.steepest
    where = middle if at is None else at
    # Of a few values at a time, Python is several times as quick as NumPy.
    way = [midi - last.midi for midi in contour[last.end : plateau.start].tolist()]
    voiced = [steps for steps in way if not isnan(steps)]
    moved = [steps / junction.step for steps in voiced] if abs(junction.step) >= SAME_SEMITONES else []
    flux = max(frames.flux[max(0, where - 4) : where + 5].tolist(), default=0.0)
    level = frames.level_db
    before_db = fmean(level[max(0, where - 6) : max(1, where - 1)].tolist())
    after_db = max(level[where + 2 : where + 9].tolist(), default=_SILENT_DB)
    struck_db = max(level[junction.note_start : junction.note_start + 12].tolist(), default=_SILENT_DB)
    following = junction.following
    own = [
        _steps(junction.step),
        min(abs(junction.step), _MOST_STEPS) / 4,
        abs(junction.step - round(junction.step)),
        _steps(plateau.midi - junction.note_midi),
        float(junction.bent),
        float(junction.note_legato),
        _log_s(seconds),
        _log_s(whole_s),
        log(1 + steepest) / 4,
        _log_s((where - junction.note_start) * HOP_S),
        _log_s((last.end - last.start) * HOP_S),
        _log_s((plateau.end - plateau.start) * HOP_S),
        _log_s((plateau.start - last.end) * HOP_S),
        (len(way) - len(voiced)) / 8,
        sum(0.15 < share < 0.85 for share in moved) / 8,
        # A slide stands on the frets that it passes.
        fmean(abs(steps - round(steps)) for steps in voiced) if voiced else 0.0,
        float(at is not None),
        flux / 5,
        log(max(flux, 0.05) / evidence.usual_flux),
        (after_db - before_db) / 10,
        (after_db - struck_db) / 10,
        float(following is not None),
        _steps(following.midi - plateau.midi) if following else 0.0,
        float(following is not None and abs(following.midi - last.midi) < SAME_SEMITONES),
        _wobble(contour[plateau.start : plateau.end]),
    ]
    coarse = where * HOP // COARSE_HOP
    rows = slice(max(0, coarse - _NEAR_FRAMES), coarse + _NEAR_FRAMES + 1)
    pitches = [of_pitch(midi, evidence.found, rows, _NEAR_SEMITONES) for midi in (plateau.midi, last.midi)]
    judged = evidence.judged
    words = [best(layer[rows], which) for layer in (judged.begins, judged.struck, judged.sounds) for which in pitches]
    return np.concatenate([own, words, *_levels(evidence, coarse, last.midi, plateau.midi)]).astype(np.float32)


def _steps(semitones: float) -> float:
    return max(-_MOST_STEPS, min(semitones, _MOST_STEPS)) / 4


def _log_s(seconds: float) -> float:
    return log(max(_LEAST_S, min(seconds, _MOST_S)) / _LEAST_S) / 3


def _wobble(values: NDArray[np.float64]) -> float:
    values = values[np.isfinite(values)]
    return min(float(values.std()), 1.0) if len(values) > 3 else 0.0


def _levels(evidence: Evidence, coarse: int, before: float, after: float) -> list[NDArray[np.float32]]:
    """How each harmonic changes from the one pitch to the other, at once and settled; how the whole sound does."""
    quick = evidence.spectra.quick
    latest, width = len(quick) - 1, quick.shape[1]

    def highest(part: slice) -> NDArray[np.float32]:
        first, last = (min(max(coarse + edge, 0), latest) for edge in (part.start, part.stop - 1))
        return np.asarray(quick[first : last + 1].max(axis=0))

    def bins(midi: float) -> NDArray[np.intp]:
        return np.asarray(np.minimum(np.maximum(pitch_bins(midi) + _SHIFTS, 0), width - 1))

    before_it, struck, settled = parts = np.stack([highest(_BEFORE), highest(_STRUCK), highest(_SETTLED)])
    edges = _broad_edges(width)
    broad = np.add.reduceat(parts, edges[:-1], axis=1) / (edges[1:] - edges[:-1])
    there, here = bins(after), bins(before)
    own = before_it[here]
    return [
        struck[there] - own,
        settled[there] - own,
        struck[there] - before_it[there],
        own,
        broad[1] - broad[0],
        broad[2] - broad[0],
    ]


@lru_cache
def _broad_edges(width: int) -> NDArray[np.intp]:
    """The bins at which the _BROAD parts of a spectrum begin and the last ends."""
    return np.ceil(np.linspace(0, width, _BROAD + 1)).astype(np.intp)


def possible(junction: Junction) -> NDArray[np.bool_]:
    """Which of OUTCOMES a hand can do here."""
    step, above = junction.step, junction.plateau.midi - junction.note_midi
    moves = abs(step) >= SAME_SEMITONES
    return np.array(
        [
            True,
            moves and abs(step) <= _HAND_REACH,
            moves,
            above <= BEND_REACH,
            moves and step < 0 and not junction.bent and not junction.note_legato,
        ]
    )


def judge_junction(seen: NDArray[np.float32], junction: Junction, kind: Kind) -> Beliefs:
    """The belief in each outcome, of those possible; they sum to 1."""
    told = ask(layers_of(f"transitions_{kind}"), seen[None])[0]
    share = np.where(possible(junction), told, 0.0) + 1e-9
    return dict(zip(OUTCOMES, (share / share.sum()).tolist(), strict=True))


def likeliest(beliefs: Beliefs) -> Outcome:
    """What a junction is. Whether another note begins at all is weighed first: all its ways speak against a bend."""
    goes_on = sum(share for name, share in beliefs.items() if name in GOES_ON)
    same = goes_on > sum(beliefs.values()) / 2
    return max((name for name in beliefs if (name in GOES_ON) == same), key=lambda name: beliefs[name])


Decide = Callable[[NDArray[np.float64], Junction], Beliefs]


def decider(evidence: Evidence, kind: Kind, tapped: bool = False) -> Decide:
    """What find_notes asks at each junction; where the attacks are `tapped`, a note begins at each."""

    def decide(contour: NDArray[np.float64], junction: Junction) -> Beliefs:
        beliefs = judge_junction(describe_junction(evidence, contour, junction), junction, kind)
        if tapped and junction.attack is not None:
            return {name: share for name, share in beliefs.items() if name not in GOES_ON}
        return beliefs

    return decide
