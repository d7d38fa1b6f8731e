"""Whether a recording is a guitar alone or a lead over a band.

A band leaves few silences, blurs every period, fills the lows under the guitar, and leaves the judge of a guitar
alone in doubt. Where that leaves it open (low riffs, hum, halls, small bands), it is heard as both, and what is
believed decides: a band heard as a guitar alone gives notes of little belief, and through a band that is not there
most claims are doubtful. Both are weighed as logistic regressions (mix.json), as benchmarks/train_mix.py fits them.
"""

import json
from collections.abc import Sequence
from functools import lru_cache
from importlib.resources import files
from typing import Literal

import numpy as np

from eager_owl.hearing.belief import BELIEVED
from eager_owl.hearing.frames import HOP, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.salience import AXIS_LOW_MIDI, BINS_PER_SEMITONE, COARSE_HOP, Candidates, Spectra

Mix = Literal["solo", "band"]

_LOUD_DB = 35.0
# Lows are what sounds under the guitar: under its lowest string, or a little under the lowest pitch surely judged.
_UNDER_MIDI, _UNDER_LOWEST, _SURE, _LOWEST_PERCENT = 38, 3, 0.7, 3
_HUM_PERCENT = 15  # of the time a hum is as loud as ever; a bass is not
_STRUCK_UNDER_MIDI, _RISE = 52, 2  # basses and drums; frames over which a rise of level is measured
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


def compared(score: float, alone: Sequence[float], band: Sequence[float]) -> dict[str, float]:
    """What decides between two hearings, from the beliefs in all that each claims: how much surer of its notes the

    one through a band is, and how doubtful its claims are, 0 to 1, where the sure and the surely wrong ones are 0.
    """
    notes, through = ([share for share in claims if share >= BELIEVED] for claims in (alone, band))
    surer = float(np.mean(through)) - float(np.mean(notes)) if notes and through else 0.0
    doubt = float(np.mean([4 * share * (1 - share) for share in band])) if len(band) else 1.0
    return {"score": score, "surer": surer, "doubt": doubt}


def is_band(score: float, alone: Sequence[float], band: Sequence[float]) -> bool:
    """Whether what is heard through a band is to be taken, rather than what is heard of a guitar alone."""
    return _weighed("believed", compared(score, alone, band)) > 0
