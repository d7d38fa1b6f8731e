"""Whether a recording is a guitar alone or a lead over a band.

A band leaves few silences, blurs every period, fills the lows under the guitar, and leaves the judge of a guitar
alone in doubt. Where that leaves it open (low riffs, hum, halls, small bands), it is heard as both, and what is
believed decides: a band heard as a guitar alone gives many notes of little belief, a guitar heard through a band that
is not there few notes. Both are weighed as logistic regressions (mix.json): of the sound as benchmarks/train_mix.py
fits it, of the beliefs by hand on the benchmarks, see docs/hearing.md.
"""

import json
from collections.abc import Sequence
from functools import lru_cache
from importlib.resources import files
from typing import Literal

import numpy as np

from eager_owl.hearing.frames import HOP, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.salience import AXIS_LOW_MIDI, BINS_PER_SEMITONE, COARSE_HOP, Candidates, Spectra

Mix = Literal["solo", "band"]

_LOUD_DB = 35.0
# Lows are what sounds under the guitar: under its lowest string, or a little under the lowest pitch surely judged.
_UNDER_MIDI, _UNDER_LOWEST, _SURE, _LOWEST_PERCENT = 38, 3, 0.7, 3
_HUM_PERCENT = 15  # of the time a hum is as loud as ever; a bass is not
_STRUCK_UNDER_MIDI, _RISE = 52, 2  # basses and drums; frames over which a rise of level is measured
# A bass: under a guitar's lowest string, so far under a note within so many seconds that is no partial of it.
_LOWEST_STRING, _FAR, _TOGETHER_S, _MOST_BASSES = 40, 12, 0.6, 0.2
_PARTIALS, _OFF_PARTIAL = (12, 19, 24, 28, 31), 0.7
# Of the score, between these bounds both are tried.
OPEN_FROM, OPEN_TO = -2.5, 3.0


@lru_cache
def _weights() -> dict[str, dict[str, float]]:
    loaded: dict[str, dict[str, float]] = json.loads(
        (files("eager_owl.hearing") / "mix.json").read_text(encoding="utf-8")
    )
    return loaded


def _weighed(name: str, seen: dict[str, float]) -> float:
    weights = _weights()[name]
    return weights["bias"] + sum(weights[key] * value for key, value in seen.items())


def sound_of_mix(frames: Frames, spectra: Spectra, found: Candidates, judged: Judgement) -> dict[str, float]:
    """What the score is weighed from, by name."""
    loud = frames.level_db > frames.level_db.max() - _LOUD_DB
    coarse = loud[:: COARSE_HOP // HOP][: len(spectra)]
    sure = found.midi[judged.sounds > _SURE]
    lowest = float(np.percentile(sure, _LOWEST_PERCENT)) if len(sure) else float(_UNDER_MIDI)
    under = spectra.sharp[:, : _bin_of(_UNDER_MIDI)]
    steady = spectra.sharp[:, : _bin_of(min(_UNDER_MIDI, lowest - _UNDER_LOWEST))]
    changing = np.maximum(steady - np.percentile(steady, _HUM_PERCENT, axis=0), 0)
    low = spectra.quick[:, : _bin_of(_STRUCK_UNDER_MIDI)]
    fourth = found.height[:, 3] / (found.height[:, 0] + 1e-6)
    p = judged.sounds
    entropy = -(p * np.log(p + 1e-6) + (1 - p) * np.log(1 - p + 1e-6)).sum(axis=1)
    return {
        "clarity": float(frames.clarity.max(axis=1)[loud].mean()),
        "lows that change": float(changing.max(axis=1)[: len(coarse)][coarse].mean()),
        "lows": float((under.max(axis=1) - spectra.sharp.max(axis=1))[: len(coarse)][coarse].mean()),
        "struck low": float(np.maximum(low[_RISE:] - low[:-_RISE], 0).mean()) if len(low) > _RISE else 0.0,
        "sounding": float(loud.mean()),
        "doubt": float(entropy[: len(coarse)][coarse].mean()),
        "fourth against first": float(fourth[: len(coarse)][coarse].mean()),
    }


def _bin_of(midi: float) -> int:
    return max(BINS_PER_SEMITONE, round((midi - AXIS_LOW_MIDI) * BINS_PER_SEMITONE))


def mix_score(frames: Frames, spectra: Spectra, found: Candidates, judged: Judgement) -> float:
    """How much it sounds like a band, in log-odds; `judged` as of a guitar alone."""
    return _weighed("sound", sound_of_mix(frames, spectra, found, judged))


def compared(
    score: float, alone: Sequence[float], band: Sequence[float], pitches: Sequence[tuple[float, float]]
) -> dict[str, float]:
    """What decides between two hearings, from the beliefs in the notes of each, all over one half.

    `pitches` are (onset in s, MIDI number) of those heard of a guitar alone: notes under its lowest string, with
    others high over them, are a bass.
    """
    surer = float(np.mean(band)) - float(np.mean(alone)) if len(band) and len(alone) else 0.0
    weight = [sum(beliefs) - 0.5 * len(beliefs) + 1.0 for beliefs in (alone, band)]
    return {
        "score": score,
        "surer": surer,
        "more": float(np.log(weight[1] / weight[0])),
        "basses": min(_basses(pitches), _MOST_BASSES),
    }


def _basses(pitches: Sequence[tuple[float, float]]) -> float:
    """The share of notes that lie under a guitar and far under another, not where that is only a partial of them."""
    found = 0
    for onset, midi in pitches:
        over = [other - midi for at, other in pitches if abs(at - onset) < _TOGETHER_S and other - midi >= _FAR]
        partials = [any(abs(interval - partial) < _OFF_PARTIAL for partial in _PARTIALS) for interval in over]
        found += midi < _LOWEST_STRING - 0.5 and not all(partials)
    return found / len(pitches) if pitches else 0.0


def is_band(
    score: float, alone: Sequence[float], band: Sequence[float], pitches: Sequence[tuple[float, float]]
) -> bool:
    """Whether the notes heard through a band are to be taken, rather than those heard of a guitar alone."""
    return _weighed("believed", compared(score, alone, band, pitches)) > 0
