"""Tempo, beats, bars and feel of a recording.

Tempo from the autocorrelation of what is struck, with a prior for walking pace; beats by dynamic programming: D. P.
W. Ellis, "Beat tracking by dynamic programming", JNMR 36, 2007. Of several likely tempi the one is taken whose beats
stand out best. Bars as bars.py tells. Feel: where between the beats the onsets fall.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import uniform_filter1d

from eager_owl.hearing.bars import find_bars
from eager_owl.hearing.pulse import Pulse, greatest_near, onset_strength
from eager_owl.hearing.salience import COARSE_HOP_S
from eager_owl.rhythm.grid import BeatGrid

_SLOWEST_BPM, _FASTEST_BPM = 45.0, 210.0  # outside, people count half or double
# The prior over tempi: a normal curve over octaves of tempo around a walking pace, and its width (Ellis 2007).
_PRIOR_BPM, _PRIOR_OCTAVES = 105.0, 0.75
_TIGHTNESS = 60.0  # what a squared log ratio off the period costs, in units of onset strength (Ellis's alpha)
_TEMPI = 8  # likely tempi that are tried
_SHORTEST_S, _LEAST_BEATS = 3.0, 6  # of sound, and beats in it, that can have a tempo
# A count-in is of so many bars at most, with so much of the usual pitch in each beat.
_COUNT_IN_BARS, _CLICK_SHARE = 2, 0.5
_CUT_IN_S = 0.08  # so near its start a recording begins on the beat
_SWUNG_OVER = 1.6  # onset strength at the last third of a beat against that at the first
_DRIFT_S = 0.04  # where beats drift further than this from an even grid, their bars are held by anchors


@dataclass(frozen=True)
class Beats:
    """Beat times in seconds, which of them is bar 1's first (-1: the one before them all), beats a bar, and the feel

    of the beat's parts.
    """

    times_s: NDArray[np.float64]
    first: int
    beats_per_bar: int
    division: int
    swung: bool
    confidence: float


def tempo_strength(novelty: NDArray[np.float64]) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
    """Lags in frames and the strength of each as a beat: the autocorrelation at it and at its multiples."""
    n = novelty.shape[1]
    size = fft.next_fast_len(2 * n)
    spectrum = fft.rfft(novelty, size, axis=1)
    correlation = fft.irfft(np.abs(spectrum) ** 2, size, axis=1)[:, :n].sum(axis=0)
    correlation /= correlation[0] + 1e-9
    lags = np.arange(round(60 / _FASTEST_BPM / COARSE_HOP_S), round(60 / _SLOWEST_BPM / COARSE_HOP_S) + 1)
    strength = np.zeros(len(lags))
    for multiple, weight in ((1, 1.0), (2, 0.6), (3, 0.3), (4, 0.5)):
        strength += weight * np.interp(multiple * lags, np.arange(n), correlation, right=0.0)
    octaves = np.log2(60 / (lags * COARSE_HOP_S) / _PRIOR_BPM)
    return lags, strength * np.exp(-0.5 * (octaves / _PRIOR_OCTAVES) ** 2)


def place_beats(novelty: NDArray[np.float64], period: float) -> NDArray[np.intp]:
    """Frames of the beats nearest to `period` frames apart that gather the most novelty."""
    n = len(novelty)
    reach = np.arange(round(period / 1.6), round(period * 1.6) + 1)
    price = -_TIGHTNESS * np.log(reach / period) ** 2
    total = novelty.copy()
    before = np.full(n, -1, np.intp)
    # As many frames at once as lie nearer to each other than any two beats.
    for first in range(int(reach[0]), n, int(reach[0])):
        here = np.arange(first, min(first + int(reach[0]), n))
        earlier = here[:, None] - reach
        score = np.where(earlier >= 0, total[earlier] + price, -np.inf)
        best = score.argmax(axis=1)
        gained = score[np.arange(len(here)), best]
        total[here] += np.maximum(gained, 0)
        before[here] = np.where(gained > 0, here - reach[best], -1)
    tail = max(0, n - round(1.5 * period))
    beat = tail + int(total[tail:].argmax())
    beats = [beat]
    while before[beat] >= 0:
        beat = int(before[beat])
        beats.append(beat)
    return np.array(beats[::-1], dtype=np.intp)


def find_beats(pulse: Pulse) -> Beats | None:
    """Beats and bars of a whole recording; None where nothing recurs steadily."""
    ranges = onset_strength(pulse)
    if ranges.shape[1] * COARSE_HOP_S < _SHORTEST_S:
        return None
    novelty, near = ranges.sum(axis=0), greatest_near(ranges.sum(axis=0))
    lags, strength = tempo_strength(ranges)
    peaks = np.flatnonzero((strength[1:-1] >= strength[:-2]) & (strength[1:-1] > strength[2:])) + 1
    likely = peaks[np.argsort(-strength[peaks])[:_TEMPI]]
    if not len(likely) or strength[likely[0]] <= 0 or novelty.sum() == 0:
        return None
    tried = [place_beats(novelty, float(lags[i])) for i in likely]
    # A beat stands out; slower beats leave much out, faster ones take in what is weak.
    standing = np.array([near[beats].mean() for beats in tried])
    gathered = np.array([near[beats].sum() for beats in tried]) / novelty.sum()
    score = np.sqrt(np.maximum(standing * gathered, 0)) * strength[likely]
    best = int(score.argmax())
    beats = tried[best]
    if len(beats) < _LEAST_BEATS:
        return None
    beats = _while_sounding(beats, near)
    per_bar, first = find_bars(pulse, beats)
    first = _past_count_in(pulse, beats, per_bar, _at_the_start(beats, per_bar, first))
    division, swung = _feel(near, beats)
    rivals = score[np.abs(np.log2(lags[likely] / lags[likely[best]])) > 0.1]
    confidence = float(score[best] / (score[best] + rivals.max(initial=0.0)))
    return Beats(beats.astype(np.float64) * COARSE_HOP_S, first, per_bar, division, swung, confidence)


def _while_sounding(beats: NDArray[np.intp], near: NDArray[np.float64]) -> NDArray[np.intp]:
    """Without the beats that the tracker carries into the silence before and after."""
    struck = np.flatnonzero(near[beats] > 0.1 * np.median(near[beats]))
    return beats[struck[0] : struck[-1] + 1] if len(struck) else beats


def _at_the_start(beats: NDArray[np.intp], per_bar: int, first: int) -> int:
    """The index of the first bar's first beat, -1 for the one that the recording begins on: no rise tells of that."""
    before = float(beats[0] - np.median(np.diff(beats))) * COARSE_HOP_S
    return -1 if first == per_bar - 1 and abs(before) <= _CUT_IN_S else first


def _past_count_in(pulse: Pulse, beats: NDArray[np.intp], per_bar: int, first: int) -> int:
    """The index of the first bar's first beat: bars of clicks before anything has a pitch only count in."""
    edges = np.array([*beats, len(pulse)])
    pitched = np.array([pulse.harmony[a:b].max(axis=1).mean() if b > a else 0.0 for a, b in pairwise(edges)])
    usual = float(np.median(pitched))
    most = min(first + _COUNT_IN_BARS * per_bar, len(beats) - per_bar)
    while first < most and pitched[: first + per_bar].max() < _CLICK_SHARE * usual:
        first += per_bar
    return first


def _feel(near: NDArray[np.float64], beats: NDArray[np.intp]) -> tuple[int, bool]:
    """(parts of a beat, swung): what is struck at the half, at the first third and at the second third."""
    start, length = beats[:-1], np.diff(beats)
    half, third, later = (
        float(near[np.round(start + part * length).astype(np.intp)].mean()) for part in (1 / 2, 1 / 3, 2 / 3)
    )
    if later > half and later > _SWUNG_OVER * third:
        return 2, True
    return (3, False) if min(third, later) > half else (2, False)


def fit_grid(beats: Beats) -> BeatGrid:
    """The beats as a grid: one tempo where that keeps within a few ms of them, else with anchors at the bars."""
    numbers = np.arange(len(beats.times_s)) - beats.first
    period, start = np.polyfit(numbers, beats.times_s, 1)
    off = beats.times_s - (start + period * numbers)
    # Single beats jitter with what was played on them: the drift is what is left of it over two bars.
    drift = uniform_filter1d(off, 2 * beats.beats_per_bar + 1, mode="nearest")
    anchors: tuple[tuple[float, float], ...] = ()
    if np.abs(drift).max() > _DRIFT_S:
        bars = np.flatnonzero(numbers % beats.beats_per_bar == 0)
        smooth = start + period * numbers + drift
        anchors = tuple((float(numbers[i]), round(float(smooth[i]), 3)) for i in bars)
    return BeatGrid(
        round(60.0 / float(period), 2),
        round(float(start), 3),
        beats.beats_per_bar,
        anchors,
        beats.division,
        beats.swung,
    )
