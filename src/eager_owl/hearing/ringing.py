"""Strings left to ring: notes that still sound well after others have begun.

A logistic regression, fitted by benchmarks/train_ringing.py into ringing.json: a way of playing a stretch, no note.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.judge import Judgement, mean_best, of_pitch
from eager_owl.hearing.regressions import probability, weights_of
from eager_owl.hearing.salience import (
    COARSE_HOP_S,
    RANGE_DB,
    Candidates,
    Spectra,
    harmonic_shift,
    pitch_bins,
)  # fmt: skip
from eager_owl.hearing.stretches import lasting
from eager_owl.solo.document import TOGETHER_S, Note
from eager_owl.solo.techniques import LEGATO

# From this long before the next note to this long before, and from this long after, for so long; no less than that.
_BEFORE_S, _AFTER_S, _LEAST_S = (0.14, 0.03), (0.06, 0.4), 0.06
_NEAR_SEMITONES = 0.6
_SHIFTS = np.array([harmonic_shift(h) for h in range(1, 9)])
_SHARED_BINS = 1  # a harmonic so near one of a note that began meanwhile says nothing
_AT_LAST_S = 0.07
# In tens of dB: harmonics so much fainter than the highest are left out; what counts; and where a note has none.
_FAINTER, _FALLS, _UNKNOWN_FALL = 2.0, (-1.0, 4.0), 1.0
_LIKELY = 0.5


def ringing(
    notes: Sequence[Note], spectra: Spectra, found: Candidates, judged: Judgement, reference_cents: float
) -> set[int]:
    """The indices of notes, ascending by onset, that are let ring: of runs of three such and more."""
    shares = np.array([_share(each) for each in describe_ringing(notes, spectra, found, judged, reference_cents)])
    return lasting(shares, _LIKELY)


def _share(seen: dict[str, float] | None) -> float:
    """How likely one note is let ring; one whose string is taken at once is not."""
    return 0.0 if seen is None else probability(weights_of("ringing")["rings"], seen)


def describe_ringing(
    notes: Sequence[Note], spectra: Spectra, found: Candidates, judged: Judgement, reference_cents: float
) -> list[dict[str, float] | None]:
    """Of each note how surely the judge hears it once the next has begun, and how far, in tens of dB, the harmonics
    that none of the notes begun meanwhile has have fallen; None where its string is taken, or too soon to tell.
    """
    return [_describe(index, notes, spectra, found, judged, reference_cents) for index in range(len(notes))]


def _describe(
    index: int, notes: Sequence[Note], spectra: Spectra, found: Candidates, judged: Judgement, reference_cents: float
) -> dict[str, float] | None:
    note = notes[index]
    later = [other for other in notes[index + 1 :] if other.onset - note.onset > TOGETHER_S]
    if not later or later[0].technique(*LEGATO) or later[0].muted:
        return None
    begins = later[0].onset
    again = next((other.onset for other in later if abs(other.pitch - note.pitch) < 1), np.inf)
    end = min(begins + _AFTER_S[1], again - _AFTER_S[0] / 2, len(spectra) * COARSE_HOP_S)
    if end - begins - _AFTER_S[0] < _LEAST_S:
        return None
    before = _rows(max(note.onset, begins - _BEFORE_S[0]), begins - _BEFORE_S[1])
    after = _rows(begins + _AFTER_S[0], end)
    meanwhile = [other for other in later if other.onset < end]
    own = _own_harmonics(note, meanwhile, reference_cents, spectra.sharp.shape[1])
    was, last = (_levels(spectra, rows, own) for rows in (before, _rows(end - _AT_LAST_S, end)))
    falls = (was - last)[was > was.max(initial=0.0) - _FAINTER]
    same = of_pitch(note.pitch + reference_cents / 100, found, after, _NEAR_SEMITONES)
    return {
        "sounds": mean_best(judged.sounds[after], same),
        "fall": float(np.clip(falls.mean(), *_FALLS)) if len(falls) else _UNKNOWN_FALL,
    }


def _rows(start_s: float, end_s: float) -> slice:
    first = round(start_s / COARSE_HOP_S)
    return slice(first, max(first + 1, round(end_s / COARSE_HOP_S)))


def _levels(spectra: Spectra, rows: slice, bins: NDArray[np.intp]) -> NDArray[np.float32]:
    """The mean levels of some frames at some bins, in tens of dB."""
    return np.asarray(spectra.sharp[rows][:, bins].mean(axis=0) * (RANGE_DB / 10))


def _own_harmonics(note: Note, meanwhile: Sequence[Note], reference_cents: float, bins: int) -> NDArray[np.intp]:
    """The bins of the note's harmonics that none of the notes that began meanwhile has."""

    def harmonics(pitch: int) -> NDArray[np.intp]:
        first = pitch_bins(pitch + reference_cents / 100)
        return np.asarray((first + _SHIFTS)[first + _SHIFTS < bins])

    own, others = harmonics(note.pitch), np.concatenate([harmonics(other.pitch) for other in meanwhile])
    return np.asarray(own[np.abs(own[:, None] - others).min(axis=1) > _SHARED_BINS])
