"""How far a bend or a vibrato that was measured is to be believed.

Strings that beat, a note on another string, a track that slips: each looks like either now and then. Small networks
see what the contour does, what the judges say meanwhile, and what the note stands among; benchmarks/train_naming.py
trains them on what is measured in composed phrases.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.frames import HOP_S
from eager_owl.hearing.judge import Judgement, Kind, best, mean_best, of_pitch
from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates
from eager_owl.hearing.segment import RawNote
from eager_owl.hearing.transitions import GOES_ON, SAME_SEMITONES
from eager_owl.solo.document import TOGETHER_S
from eager_owl.solo.techniques import BENDS, LEGATO, Technique

_SAME_SEMITONES = 0.6  # nearer than this a candidate is the pitch in question
# Shares of a bend's way from which on it has left its fret, and has arrived.
_LEFT, _ARRIVED = 0.25, 0.75
_LEAST_S, _MOST_S = 0.005, 2.0  # times are told apart between these
_AROUND = 4  # coarse frames around an arrival in which the judge may hear a beginning
_MOST_SIZE, _MOST_STEP = 5.0, 12.0  # semitones: no bend goes further; steps to the next note are told up to an octave
_JOINED_S, _ONWARD = 0.03, 0.5  # the next note begins at once; it is further on than the bend's top, in semitones
_UNISON = 0.5  # semitones between a bend's top and a note that it is bent to, struck with it
_USUAL_RATE_HZ = 5.5

Weighed = Literal["bend", "vibrato"]


@dataclass(frozen=True)
class Played:
    """A note that is believed, and what was measured of it; its contour is of the whole track, in MIDI numbers."""

    note: RawNote
    contour: NDArray[np.float64]
    belief: float
    techniques: tuple[Technique, ...]
    fretted: float


def describe_names(
    played: Sequence[Played], found: Candidates, judged: Judgement
) -> Iterator[tuple[int, Technique, Weighed, NDArray[np.float32]]]:
    """Each bend and vibrato: of which note, by index, itself, what it is weighed as, and what the network sees."""
    for index, each in enumerate(played):
        following = played[index + 1].note if index + 1 < len(played) else None
        near = played[max(0, index - 3) : index + 4]
        beside = (other.note for other in near if other is not each)
        together = tuple(o.midi for o in beside if abs(o.start - each.note.start) * HOP_S < TOGETHER_S)
        setting = _Setting(found, judged, each.belief, following, together)
        for technique in each.techniques:
            if technique.kind.bends:
                own = _of_bend(technique, each, setting)
            elif technique.name == "vibrato":
                own = _of_vibrato(technique, each)
            else:
                continue
            seen = np.array([*_around(technique, each, setting), *own], dtype=np.float32)
            yield index, technique, "bend" if technique.kind.bends else "vibrato", seen


def belief_in_name(weighed: Weighed, seen: NDArray[np.float32], kind: Kind) -> float:
    """Probability that a technique is named rightly."""
    return float(ask(layers_of(f"naming_{weighed}_{kind}"), seen[None])[0, 0])


@dataclass(frozen=True)
class _Setting:
    """What a note stands among; of the notes that begin with it, their MIDI numbers."""

    found: Candidates
    judged: Judgement
    belief: float
    following: RawNote | None
    together: tuple[float, ...]


def _around(technique: Technique, played: Played, setting: _Setting) -> list[float]:
    """What is seen of either: of the note itself, of what else sounds, and of the note that follows."""
    note, contour, following = played.note, played.contour, setting.following
    inside = contour[note.start : note.end]
    rows = _coarse(note.start, note.end, len(setting.found.bins))
    line = contour[np.minimum((rows * COARSE_HOP_S / HOP_S).astype(np.intp), len(contour) - 1)]
    near = np.abs(setting.found.midi[rows] - line[:, None]) < _SAME_SEMITONES
    there = setting.found.bins[rows] >= 0
    rough = np.abs(np.diff(inside, 2))
    rough = rough[np.isfinite(rough)]
    names = {other.name for other in played.techniques}
    return [
        float(technique.kind.released),
        float(bool(names & set(LEGATO))),
        float("vibrato" in names),
        float(bool(names & set(BENDS))),
        _log_s((note.end - note.start) * HOP_S),
        setting.belief,
        float(bool(setting.together)),
        mean_best(setting.judged.sounds[rows], near & there),
        mean_best(setting.judged.sounds[rows], ~near & there),
        float(np.isnan(inside).mean()) if len(inside) else 1.0,
        float(np.log(1e-3 + rough.mean())) if len(rough) else 0.0,
        min(len(note.plateaus), 6) / 2,
        float(following is not None and (following.start - note.end) * HOP_S < _JOINED_S),
        float(following is not None and following.arrival != "attack"),
    ]


def _of_bend(bend: Technique, played: Played, setting: _Setting) -> list[float]:
    """What is seen of a bend: its way, how long it is held, what the judges say begins and sounds there."""
    note, following, size = played.note, setting.following, bend.bend_semitones
    inside = played.contour[note.start : note.end]
    fret, top = played.fretted, played.fretted + size
    share = (inside - fret) / max(size, 0.1)
    held = np.flatnonzero(share > _ARRIVED)
    arrived, last = (int(held[0]), int(held[-1]) + 1) if len(held) else (0, 0)
    left = np.flatnonzero(share[:arrived] < _LEFT)
    begun = int(left[-1]) if len(left) else 0
    steps = np.abs(np.diff(inside[begun : arrived + 1]))
    rows = _coarse(note.start + arrived, note.start + last, len(setting.found.bins))
    arrival = slice(max(0, rows[0] - _AROUND), rows[0] + _AROUND + 1)
    said = [
        sum(beliefs.get(outcome, 0.0) for outcome in GOES_ON)
        for step, beliefs in note.inner
        if abs(step) >= SAME_SEMITONES
    ]
    found, judged = setting.found, setting.judged
    there, at_top = found.bins[rows] >= 0, of_pitch(top, found, arrival, _SAME_SEMITONES)
    return [
        min(size, _MOST_SIZE) / 2,
        float(size > _MOST_SIZE),
        float(np.exp(-size / 0.3)),
        abs(size - round(size)),
        _log_s(bend.rise_s or 0.0),
        float(bend.rise_s is None),
        float(len(note.plateaus) == 1),
        _log_s(begun * HOP_S),
        _log_s((arrived - begun) * HOP_S),
        float(steps[np.isfinite(steps)].max(initial=0.0)) / max(size, 0.3),
        _log_s(len(held) * HOP_S),
        len(held) / max(len(inside), 1),
        min(said, default=0.0),
        float(not said),
        best(judged.begins[arrival], at_top),
        best(judged.struck[arrival], at_top),
        mean_best(judged.sounds[rows], there & (np.abs(found.midi[rows] - top) < _SAME_SEMITONES)),
        mean_best(judged.sounds[rows], there & (np.abs(found.midi[rows] - fret) < _SAME_SEMITONES)),
        float(np.clip(following.midi - top, -_MOST_STEP, _MOST_STEP)) / 4 if following else 0.0,
        float(following is not None and following.midi > top + _ONWARD),
        float(following is not None and abs(following.midi - top) < _ONWARD),
        float(any(abs(midi - top) < _UNISON for midi in setting.together)),
    ]


def _of_vibrato(vibrato: Technique, played: Played) -> list[float]:
    """What is seen of a vibrato: how wide, how fast, how many times, and how much else the pitch does."""
    note, extent, rate = played.note, vibrato.extent_cents or 0.0, vibrato.rate_hz or 0.0
    inside = played.contour[note.start : note.end]
    inside = inside[np.isfinite(inside)]
    strays = float(np.std(inside - np.median(inside))) if len(inside) else 0.0
    return [
        float(np.log(extent + 1.0)),
        float(np.exp(-extent / 10)),
        rate / 5,
        abs(rate - _USUAL_RATE_HZ),
        float(np.log(1 + rate * (note.end - note.start) * HOP_S)),
        float(np.log(1 + 100 * strays / (extent + 1.0))),
    ]


def _log_s(seconds: float) -> float:
    return float(np.log(np.clip(seconds, _LEAST_S, _MOST_S) / _LEAST_S)) / 3


def _coarse(start: int, end: int, count: int) -> NDArray[np.intp]:
    """The judge's frames within fine frames [start, end); at least one."""
    first = min(int(start * HOP_S / COARSE_HOP_S), count - 1)
    return np.arange(first, min(max(first + 1, int(end * HOP_S / COARSE_HOP_S)), count))
