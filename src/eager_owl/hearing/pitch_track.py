"""One pitch a frame, or none: the best path through the candidates of all frames (A. Viterbi, 1967)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.attacks import find_attacks, fresh_fullness
from eager_owl.hearing.best_path import best_path
from eager_owl.hearing.frames import Frames

# Cost of a frame without pitch: candidates clearer than about 1 - this are taken as pitch.
_UNVOICED_COST = 0.42
_VOICING_CHANGE_COST = 0.25
# Cost a semitone of jumping between neighbouring frames, and its cap: any real change of note is affordable.
_JUMP_COST, _JUMP_CAP = 0.04, 0.35
# The same lean towards high candidates as among the peaks, per octave.
_OCTAVE_LEAN = 0.035
_FULLNESS_WEIGHT = 0.4
_FRESH_WEIGHT = 1.2
# A frame this far below the loudest is silence.
_FLOOR_DB = 55.0


@dataclass(frozen=True)
class PitchTrack:
    """`midi` of each frame (nan where there is none) and its `clarity`, 0 to 1."""

    midi: NDArray[np.float64]
    clarity: NDArray[np.float64]


def track_pitch(frames: Frames) -> PitchTrack:
    """Choose one candidate a frame, or none, at the least total cost."""
    n, k = frames.midi.shape
    missing = np.isnan(frames.midi)
    lean = _OCTAVE_LEAN * (88 - np.nan_to_num(frames.midi)) / 12
    fresh = fresh_fullness(frames, find_attacks(frames))
    cost = 1.0 - frames.clarity + lean - _FULLNESS_WEIGHT * (frames.fullness - 0.5) - _FRESH_WEIGHT * fresh
    cost[missing] = np.inf
    quiet = frames.level_db < frames.level_db.max() - _FLOOR_DB
    cost[quiet] = np.inf
    local = np.concatenate([cost, np.full((n, 1), _UNVOICED_COST)], axis=1)
    local[quiet, k] = 0.0
    midi = np.nan_to_num(frames.midi)
    steps = np.full((n - 1, k + 1, k + 1), _VOICING_CHANGE_COST) if n > 1 else np.zeros((0, k + 1, k + 1))
    steps[:, :k, :k] = np.minimum(_JUMP_COST * np.abs(midi[:-1, :, None] - midi[1:, None, :]), _JUMP_CAP)
    steps[:, k, k] = 0.0
    state = best_path(local, steps)
    voiced, rows = state < k, np.arange(n)
    column = np.minimum(state, k - 1)
    return PitchTrack(
        np.where(voiced, frames.midi[rows, column], np.nan), np.where(voiced, frames.clarity[rows, column], 0.0)
    )
