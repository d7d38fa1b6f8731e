"""Strings left to ring: notes that the judge still hears well after others have begun."""

from collections.abc import Sequence
from itertools import groupby

import numpy as np

from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates
from eager_owl.solo.document import TOGETHER_S, Note
from eager_owl.solo.techniques import LEGATO

# From this long after the next note has begun, for so long, its pitch is sought; it rings if it sounds most of it.
_AFTER_S, _FOR_S, _MOSTLY = 0.06, 0.3, 0.7
_NEAR_SEMITONES, _SOUNDS = 0.6, 0.5
_RUN = 3  # a note or two that overlap the next are only played smoothly


def ringing(notes: Sequence[Note], found: Candidates, judged: Judgement, cents: float) -> set[int]:
    """The indices of notes, ascending by onset, that are let ring: of runs of three such and more."""
    rings = [_rings(index, notes, found, judged, cents) for index in range(len(notes))]
    runs = [[i for i, _ in run] for is_ringing, run in groupby(enumerate(rings), lambda pair: pair[1]) if is_ringing]
    return {index for run in runs if len(run) >= _RUN for index in run}


def _rings(index: int, notes: Sequence[Note], found: Candidates, judged: Judgement, cents: float) -> bool:
    note = notes[index]
    following = next((other for other in notes[index + 1 :] if other.onset - note.onset > TOGETHER_S), None)
    if following is None or following.pitch == note.pitch or following.technique(*LEGATO) or following.muted:
        return False
    first = round((following.onset + _AFTER_S) / COARSE_HOP_S)
    rows = slice(first, first + round(_FOR_S / COARSE_HOP_S))
    near = np.abs(found.midi[rows] - note.pitch - cents / 100) < _NEAR_SEMITONES
    sounds = np.where(near & (found.bins[rows] >= 0), judged.sounds[rows], 0.0).max(axis=1, initial=0.0)
    return len(sounds) > 0 and float(np.mean(sounds > _SOUNDS)) >= _MOSTLY
