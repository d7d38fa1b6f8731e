"""The lead's line through a band: the best path over the judged candidates (A. Viterbi, 1967).

The path pays for improbable pitches, for jumping within a note, and for starting and stopping; a jump is cheap
where the judge hears a note begin.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from eager_owl.hearing.best_path import best_path
from eager_owl.hearing.frames import HOP, HOP_S, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.pitch_track import PitchTrack
from eager_owl.hearing.salience import (
    COARSE_HOP,
    COARSE_HOP_S,
    LOWEST_MIDI,
    PEAKS,
    RANGE_DB,
    Candidates,
    Spectra,
    harmonic_shift,
    pitch_bins,
)

# In natural logarithms of probability.
_LEAST_PROBABILITY = 1e-4
_FREE_SEMITONES, _JUMP_COST, _JUMP_CAP = 0.4, 2.0, 6.0
_BEGIN_REBATE = 0.6  # of the jump's cost, where a note begins for certain
_VOICING_COST = 1.5
# The path believes in the lead a little more than the judge, frame by frame, does: silence is the rarer thing.
_PRESENCE = 1.0
_SAME_SEMITONES = 0.7
_BEGIN_LEAST, _AGAIN_LEAST, _BEGIN_GAP = 0.4, 0.6, 3
_LEVEL_HARMONICS = (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 10.0)


@dataclass(frozen=True)
class Lead:
    """The lead's `midi` (nan for silence), how probably it `sounds` and `begins`, and its level, each frame of

    COARSE_HOP_S.
    """

    midi: NDArray[np.float64]
    sounds: NDArray[np.float64]
    begins: NDArray[np.float64]
    level_db: NDArray[np.float64]


def follow_lead(spectra: Spectra, found: Candidates, judged: Judgement) -> Lead:
    """The most probable line."""
    n = len(spectra)
    probable = np.clip(judged.sounds, _LEAST_PROBABILITY, 1 - _LEAST_PROBABILITY)
    probable = 1 / (1 + (1 - probable) / probable * np.exp(-_PRESENCE))
    cost = np.where(found.bins >= 0, -np.log(probable), np.inf)
    rest = -np.log(1 - probable.max(axis=1))
    local = np.concatenate([cost, rest[:, None]], axis=1)
    state = best_path(local, _steps(found, judged))
    voiced, rows, column = state < PEAKS, np.arange(n), np.minimum(state, PEAKS - 1)
    midi = np.where(voiced, found.midi[rows, column], np.nan)
    same = np.abs(found.midi - midi[:, None]) < _SAME_SEMITONES
    begins = np.where(same, judged.begins, 0.0).max(axis=1)
    sounds = np.where(voiced, judged.sounds[rows, column], 0.0)
    levels = _harmonic_levels(spectra, midi)
    return Lead(midi, sounds, begins, _level_db(levels, midi, spectra.loudest_db))


def _steps(found: Candidates, judged: Judgement) -> NDArray[np.float64]:
    """What it costs to come to each candidate, or to rest, from each of the frame before."""
    step = np.full((len(found.bins) - 1, PEAKS + 1, PEAKS + 1), _VOICING_COST)
    step[:, -1, -1] = 0.0
    apart = np.abs(found.midi[:-1, :, None] - found.midi[1:, None, :])
    cap = _JUMP_CAP * (1 - _BEGIN_REBATE * judged.begins[1:, None, :])
    step[:, :-1, :-1] = np.minimum(_JUMP_COST * np.maximum(apart - _FREE_SEMITONES, 0), cap)
    return step


def _harmonic_levels(spectra: Spectra, midi: NDArray[np.float64]) -> NDArray[np.float32]:
    """Levels in dB over the range's floor at the line's first harmonics, shape (n, harmonics)."""
    bins = pitch_bins(np.nan_to_num(midi, nan=LOWEST_MIDI))
    at = np.clip(bins[:, None] + [harmonic_shift(h) for h in _LEVEL_HARMONICS], 0, spectra.quick.shape[1] - 1)
    return np.asarray(spectra.quick[np.arange(len(midi))[:, None], at] * RANGE_DB)


def _level_db(levels: NDArray[np.float32], midi: NDArray[np.float64], loudest_db: float) -> NDArray[np.float64]:
    """The power at the line's harmonics, of full scale."""
    power = 10 * np.log10((10.0 ** (levels / 10)).sum(axis=1)) - RANGE_DB + loudest_db
    return np.where(np.isnan(midi), loudest_db - RANGE_DB, power)


def begin_frames(begins: NDArray[np.float64], midi: NDArray[np.float64]) -> NDArray[np.intp]:
    """Frames at which a note begins: the peaks of the probability, high ones where the pitch only goes on."""
    before, after = np.roll(midi, _BEGIN_GAP), np.roll(midi, -_BEGIN_GAP)
    goes_on = np.abs(after - before) < _SAME_SEMITONES
    least = np.where(goes_on, _AGAIN_LEAST, _BEGIN_LEAST)
    peak = (begins == maximum_filter1d(begins, 2 * _BEGIN_GAP + 1)) & (begins > least)
    where = np.flatnonzero(peak)
    return where[np.diff(where, prepend=-10) > _BEGIN_GAP]


def as_track(
    lead: Lead, found: Candidates, judged: Judgement, count: int
) -> tuple[Frames, PitchTrack, NDArray[np.intp]]:
    """The line on the finer frames that notes are cut from: `count` frames, the track, and the attacks.

    The candidates stand in for those of a guitar alone, with their probability for clarity; there are no bands.
    """
    ratio = COARSE_HOP // HOP
    rows = np.minimum(np.arange(count) // ratio, len(lead.midi) - 1)
    fine = np.arange(count) / ratio
    coarse = np.arange(len(lead.midi))
    # Between two frames of one note the pitch is on its way; a jump is not smeared.
    midi = lead.midi[rows]
    following = lead.midi[np.minimum(rows + 1, len(lead.midi) - 1)]
    between = np.abs(following - midi) < _SAME_SEMITONES
    midi = np.where(between, midi + (fine - np.floor(fine)) * (following - midi), midi)
    level = np.interp(fine, coarse, lead.level_db)
    clarity = np.where(np.isnan(midi), 0.0, np.interp(fine, coarse, lead.sounds))
    attacks = begin_frames(lead.begins, lead.midi) * ratio
    flux = np.zeros(count)
    flux[attacks[attacks < count]] = 5.0 * lead.begins[attacks[attacks < count] // ratio]
    candidates = np.where(found.bins[rows] >= 0, found.midi[rows], np.nan).astype(np.float64)
    probability = judged.sounds[rows].astype(np.float64)
    frames = Frames(candidates, probability, probability, level, flux, np.zeros((count, 0), np.float32))
    assert ratio * HOP_S == COARSE_HOP_S
    return frames, PitchTrack(midi, clarity), attacks[attacks < count]
