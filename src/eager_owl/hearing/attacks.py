"""Attacks: the instants at which something was struck, and what is new in the sound since then."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, median_filter

from eager_owl.hearing.frames import BANDS_PER_OCTAVE, FLUX_LOW_HZ, HARMONIC_WEIGHTS, HOP_S, Frames
from eager_owl.theory.pitch import midi_to_hz

# Attack strength a peak must have, and over its surroundings.
_ATTACK_FLUX = 1.1
_ATTACK_OVER_MEDIAN = 1.0
_ATTACK_GAP_S = 0.04
# A weaker rise this soon after an attack is the same sound still building.
_BUILDING_S, _BUILDING_SHARE = 0.085, 0.45
# The sound before an attack: frames this far before it, clear of the window's reach.
_BEFORE = slice(-6, -2)
# Steadies the share where little is new.
_LITTLE = 0.3


def find_attacks(frames: Frames) -> NDArray[np.intp]:
    """Frames at which something was struck, ascending."""
    flux = frames.flux
    reach = max(1, round(_ATTACK_GAP_S / HOP_S / 2))
    surroundings = median_filter(flux, 2 * round(0.15 / HOP_S) + 1, mode="nearest")
    peak = (flux == maximum_filter1d(flux, 2 * reach + 1)) & (flux > _ATTACK_FLUX)
    peak &= flux > surroundings + _ATTACK_OVER_MEDIAN
    attacks: list[int] = []
    for index in np.flatnonzero(peak):
        if attacks:
            gap = index - attacks[-1]
            building = gap * HOP_S < _BUILDING_S and flux[index] < _BUILDING_SHARE * flux[attacks[-1]]
            if gap <= reach or building:
                continue
        attacks.append(int(index))
    return np.asarray(attacks, dtype=np.intp)


def fresh_fullness(frames: Frames, attacks: NDArray[np.intp]) -> NDArray[np.float64]:
    """How much of what an attack brought stands at each candidate's harmonics, shape like `frames.midi`, 0 to 1.

    Notes before that still ring have their partials taken away, as they were just before the attack; so the
    note struck last is told from what rings on, and from the common period of the two.
    """
    before = np.zeros_like(frames.bands)
    for start, end in pairwise([*attacks, len(frames)]):
        before[start:end] = frames.bands[max(0, start + _BEFORE.start) : max(1, start + _BEFORE.stop)].mean(axis=0)
    fresh = np.maximum(frames.bands - before, 0)
    hz = midi_to_hz(np.nan_to_num(frames.midi))
    # Band i is centred a step of the scale of bands above the lowest edge.
    lowest = np.round(BANDS_PER_OCTAVE * np.log2(hz / FLUX_LOW_HZ) - 1).astype(np.intp)
    count = len(HARMONIC_WEIGHTS)
    steps = np.round(BANDS_PER_OCTAVE * np.log2(np.arange(1, count + 1))).astype(np.intp)
    at = lowest[..., None] + steps
    inside = (at >= 0) & (at < fresh.shape[1])
    rows = np.arange(len(fresh))[:, None, None]
    weights = HARMONIC_WEIGHTS * inside
    height = fresh[rows, np.clip(at, 0, fresh.shape[1] - 1)] * weights
    share = height.sum(axis=2) / np.maximum(weights.sum(axis=2), 1e-9)
    return np.asarray(share / (fresh.max(axis=1, keepdims=True) + _LITTLE))
