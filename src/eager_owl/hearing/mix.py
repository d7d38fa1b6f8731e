"""Whether a recording is a guitar alone or a lead over a band.

A band leaves few silences, blurs every period, fills the lows under the guitar, and leaves the judge of a guitar
alone in doubt. The weights are a logistic regression on the benchmark's pieces and mixes, whole and in parts.
"""

from typing import Literal

import numpy as np

from eager_owl.hearing.frames import HOP, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.salience import AXIS_LOW_MIDI, BINS_PER_SEMITONE, COARSE_HOP, Spectra

Mix = Literal["solo", "band"]

_LOUD_DB = 35.0
_UNDER_MIDI = 38
_WEIGHTS = {"bias": -1.03, "clarity": -9.99, "lows": 19.2, "sounding": 15.21, "doubt": 8.94}


def decide_mix(frames: Frames, spectra: Spectra, judged: Judgement) -> Mix:
    """`judged` as of a guitar alone."""
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
    score = _WEIGHTS["bias"] + sum(_WEIGHTS[name] * value for name, value in seen.items())
    return "band" if score > 0 else "solo"
