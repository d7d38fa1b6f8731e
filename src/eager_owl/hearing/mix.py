"""Whether a recording is a guitar alone or a lead over a band.

A band leaves few silences, blurs every period, fills the lows under the guitar, and leaves the judge of a guitar
alone in doubt. The weights are a logistic regression on the benchmark's pieces and mixes, whole and in parts. Where
that leaves it open (low riffs, hum, halls, small bands), it is heard as both, and what is believed decides: a band
heard as a guitar alone gives many notes of little belief, a guitar heard through a band that is not there few notes.
"""

from collections.abc import Sequence
from typing import Literal

import numpy as np

from eager_owl.hearing.frames import HOP, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.salience import AXIS_LOW_MIDI, BINS_PER_SEMITONE, COARSE_HOP, Spectra

Mix = Literal["solo", "band"]

_LOUD_DB = 35.0
_UNDER_MIDI = 38
# Of that score, between these bounds both are tried; benchmarks/train_mix.py fits what then decides.
OPEN_FROM, OPEN_TO = -3.5, 6.5
_BELIEVED = {"bias": 0.45, "score": 0.68, "surer": 16.96, "more": 2.89}
_WEIGHTS = {"bias": -1.03, "clarity": -9.99, "lows": 19.2, "sounding": 15.21, "doubt": 8.94}


def mix_score(frames: Frames, spectra: Spectra, judged: Judgement) -> float:
    """How much it sounds like a band, in log-odds; `judged` as of a guitar alone."""
    loud = frames.level_db > frames.level_db.max() - _LOUD_DB
    under = spectra.sharp[:, : (_UNDER_MIDI - AXIS_LOW_MIDI) * BINS_PER_SEMITONE]
    p = judged.sounds
    entropy = -(p * np.log(p + 1e-6) + (1 - p) * np.log(1 - p + 1e-6)).sum(axis=1)
    seen = {
        "clarity": float(frames.clarity.max(axis=1)[loud].mean()),
        "lows": float((under.max(axis=1) - spectra.sharp.max(axis=1)).mean()),
        "sounding": float(loud.mean()),
        "doubt": float(entropy[loud[:: COARSE_HOP // HOP][: len(entropy)]].mean()),
    }
    return _WEIGHTS["bias"] + sum(_WEIGHTS[name] * value for name, value in seen.items())


def compared(score: float, alone: Sequence[float], band: Sequence[float]) -> dict[str, float]:
    """What decides between two hearings, from the beliefs in the notes of each, all over one half."""
    surer = float(np.mean(band)) - float(np.mean(alone)) if len(band) and len(alone) else 0.0
    weight = [sum(beliefs) - 0.5 * len(beliefs) + 1.0 for beliefs in (alone, band)]
    return {"score": score, "surer": surer, "more": float(np.log(weight[1] / weight[0]))}


def is_band(score: float, alone: Sequence[float], band: Sequence[float]) -> bool:
    """Whether the notes heard through a band are to be taken, rather than those heard of a guitar alone."""
    seen = compared(score, alone, band)
    return _BELIEVED["bias"] + sum(_BELIEVED[name] * value for name, value in seen.items()) > 0
