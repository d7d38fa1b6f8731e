"""Strokes without a pitch: dead and ghosted strings, and the rakes that several of them make."""

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.frames import HOP, HOP_S, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.salience import COARSE_HOP, Candidates

# A stroke: this strong a rise, clear of any note's own attack, and within so much of the loudest.
_STROKE_FLUX, _CLEAR_S, _FAINTEST_DB = 2.5, 0.055, 34.0
# Without pitch: no candidate clearer, none judged surer, in the frames after it.
_CLEAREST, _SUREST = 0.8, 0.8
_LISTENED_S = (0.012, 0.06)
# It stops by itself.
_GONE_S, _GONE_DB = 0.11, 9.0
_RAKE_S, _RAKE_STROKES = 0.2, 2


def find_muted(
    frames: Frames, attacks: NDArray[np.intp], found: Candidates, judged: Judgement, starts: list[int]
) -> list[int]:
    """Frames at which something without a pitch was struck; `starts` are the frames at which notes begin."""
    loudest = float(frames.level_db.max())
    muted: list[int] = []
    for attack in attacks.tolist():
        near = any(abs(start - attack) * HOP_S < _CLEAR_S for start in starts)
        first, last = (attack + round(s / HOP_S) for s in _LISTENED_S)
        level = frames.level_db[attack : last + 1]
        if near or frames.flux[attack] < _STROKE_FLUX or not len(level) or level.max() < loudest - _FAINTEST_DB:
            continue
        coarse = slice(first * HOP // COARSE_HOP, last * HOP // COARSE_HOP + 1)
        clarity = frames.clarity[first:last]  # none where the sound ends
        clear = float(clarity.max(axis=1).mean()) if len(clarity) else 1.0
        sure = float(judged.sounds[coarse].max(initial=0.0))
        later = attack + round(_GONE_S / HOP_S)
        until = min([later, *(start - 2 for start in starts if start > attack + 4)])
        gone = float(level.max() - frames.level_db[until]) if until < len(frames) else _GONE_DB
        if (
            clear < _CLEAREST
            and sure < _SUREST
            and gone >= min(_GONE_DB, _GONE_DB * (until - attack) * HOP_S / _GONE_S)
        ):
            muted.append(attack)
    return muted


def raked(muted: list[int], starts: list[int]) -> set[int]:
    """Of the notes that begin at `starts`, the indices of those that a rake over muted strings leads into."""
    return {
        index
        for index, start in enumerate(starts)
        if sum(0 < (start - stroke) * HOP_S < _RAKE_S for stroke in muted) >= _RAKE_STROKES
    }
