"""Plateaus of a pitch contour: where it stays, and how it gets from one to the next."""

import itertools
from dataclasses import dataclass
from statistics import median

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, median_filter, uniform_filter1d

from eager_owl.hearing.frames import HOP_S

# A contour further than this from its plateau for this long has left it.
_LEAVE_SEMITONES = 0.65
_LEAVE_FRAMES = 4
_SHORTEST_PLATEAU_S = 0.032  # a note of a run of 14 a second still has one
_LONG_RUN_S = 0.25  # a bend begun in a run this long moves its median little
_GLIDE_SLOPE = 5.0  # semitones a second: a run that climbs so from end to end is on its way
GAP_S = 0.05  # unvoiced for longer, and what follows has not come out of what was before

# A wide vibrato would be cut into notes: it is calmed to its mean first. Told from a trill by having no steps
# (a sine of 9 a second is the steepest), from a bend or slide by swinging to and fro.
_CALM_MEAN_S, _CALM_SPAN_S = 0.18, 0.4  # a cycle at the usual rates; two of them are looked at
_CALM_LEAST = 0.35  # semitones: less is inside a plateau anyway
_CALM_STEEPEST_HZ = 9.0
_SLIP_SEMITONES, _SLIP_S = 4.5, 0.25  # further from the median of such a stretch than vibrato swings
_CALM_SWING, _CALM_TURNS = 0.4, 3  # so many turns in the span, each past this share of the extent


@dataclass(frozen=True)
class Plateau:
    """Frames [start, end) at a steady (or vibrating) pitch, `midi` the median."""

    start: int
    end: int
    midi: float


def find_plateaus(contour: NDArray[np.float64], start: int, end: int) -> list[Plateau]:
    """Plateaus of a contour (nan: no pitch) within frames [start, end)."""
    runs: list[tuple[int, int]] = []
    where = np.flatnonzero(np.isfinite(contour[start:end])) + start
    if len(where) == 0:
        return []
    values = contour[where]
    # Of a few values at a time, Python's own median is ten times as quick as NumPy's.
    each = values.tolist()
    first, centre, away = 0, median(each[:5]), 0
    for i, value in enumerate(each):
        away = away + 1 if abs(value - centre) > _LEAVE_SEMITONES else 0
        if away >= _LEAVE_FRAMES:
            left = i - away + 1
            if left > first:
                runs.append((first, left))
            first, away = left, 0
            centre = median(each[left : left + 5])
        elif 4 <= i - first < 12:
            centre = median(each[first : i + 1])
    runs.append((first, len(values)))
    shortest = max(3, round(_SHORTEST_PLATEAU_S / HOP_S))
    plateaus: list[Plateau] = []
    for number, (a, b) in enumerate(runs):
        if b - a < shortest:
            continue
        middle = median(each[a:b])
        into = middle - median(each[slice(*runs[number - 1])]) if number else 0.0
        out = median(each[slice(*runs[number + 1])]) - middle if number + 1 < len(runs) else 0.0
        slope = _slope(values[a + 2 : b - 2])
        if into * out > 0 and slope * into > 0 and abs(slope) > _GLIDE_SLOPE:
            continue
        plateaus.append(Plateau(int(where[a]), int(where[b - 1]) + 1, _flat_median(values[a:b])))
    return _join_equal(plateaus, contour)


def _slope(values: NDArray[np.float64]) -> float:
    """Semitones a second of the least-squares line; 0 of fewer than four values."""
    if len(values) < 4:
        return 0.0
    since = np.arange(len(values)) - (len(values) - 1) / 2
    return float(since @ values / (since @ since)) / HOP_S


def _flat_median(values: NDArray[np.float64]) -> float:
    """The median of the flattest half of a short run (a bend may begin in it), of all of a long one."""
    if len(values) * HOP_S > _LONG_RUN_S or len(values) < 6:
        return float(median(values.tolist()))
    steepness = np.abs(np.gradient(values))
    return float(median(values[np.argsort(steepness, kind="stable")[: len(values) // 2]].tolist()))


def calm_vibrato(contour: NDArray[np.float64], attacks: NDArray[np.intp]) -> NDArray[np.float64]:
    """The contour with wide vibrato replaced by its running mean, between attacks."""
    calmed = contour.copy()
    mean_frames, span = round(_CALM_MEAN_S / HOP_S), round(_CALM_SPAN_S / HOP_S)
    slip_frames = round(_SLIP_S / HOP_S)
    for start, end in itertools.pairwise([0, *attacks, len(contour)]):
        where = np.flatnonzero(np.isfinite(contour[start:end])) + start
        if len(where) < span:
            continue
        values = contour[where]
        # A slip of the tracking by an octave is no swing.
        middle = median_filter(values, slip_frames, mode="nearest")
        values = np.where(np.abs(values - middle) > _SLIP_SEMITONES, middle, values)
        mean = uniform_filter1d(values, mean_frames)
        swing = values - mean
        extent = np.sqrt(np.maximum(2 * uniform_filter1d(swing**2, span), 0))
        slope = np.abs(np.gradient(values)) / HOP_S
        # To and fro: from well above the mean to well below it, and back.
        side = np.where(swing > _CALM_SWING * extent, 1, np.where(swing < -_CALM_SWING * extent, -1, 0))
        last = np.maximum.accumulate(np.where(side != 0, np.arange(len(side)), 0))
        turns = uniform_filter1d((np.diff(side[last], prepend=0) != 0).astype(float), span) * span
        wide = (extent > _CALM_LEAST) & (turns > _CALM_TURNS - 0.5)
        wide &= maximum_filter1d(slope, span + mean_frames) < 2 * np.pi * _CALM_STEEPEST_HZ * extent
        # The vibrato's first and last swing belong to it, if nothing steeper lies there.
        around = maximum_filter1d(np.where(wide, extent, 0.0), span)
        wide = (around > 0) & (maximum_filter1d(slope, mean_frames) < 2 * np.pi * _CALM_STEEPEST_HZ * around)
        calmed[where[wide]] = mean[wide]
    return calmed


def _join_equal(plateaus: list[Plateau], contour: NDArray[np.float64]) -> list[Plateau]:
    joined: list[Plateau] = []
    for plateau in plateaus:
        before = joined[-1] if joined else None
        if before and abs(before.midi - plateau.midi) < 0.5 and plateau.start - before.end < GAP_S / HOP_S:
            both = contour[before.start : plateau.end]
            joined[-1] = Plateau(before.start, plateau.end, float(np.nanmedian(both)))
        else:
            joined.append(plateau)
    return joined


@dataclass(frozen=True)
class Transition:
    """From one plateau to the next: frame of its middle, seconds, semitones, greatest slope.

    `seconds` is twice the time of the middle half, steady enough to tell a bend from a slide by; `whole_s` is
    the time from the first to the last of it, as one would say it.
    """

    middle: int
    seconds: float
    semitones: float
    steepest: float
    whole_s: float


def measure_transition(contour: NDArray[np.float64], before: Plateau, after: Plateau) -> Transition:
    """Time from plateau to plateau, reckoned as twice the time the middle half of the way takes."""
    low, high = max(before.start, before.end - 30), min(after.end, after.start + 30)
    part = contour[low:high]
    filled = np.interp(np.arange(len(part)), np.flatnonzero(np.isfinite(part)), part[np.isfinite(part)])
    semitones = after.midi - before.midi
    progress = (filled - before.midi) / semitones
    left = np.flatnonzero(progress < 0.25)
    arrived = np.flatnonzero(progress > 0.75)
    middles = np.flatnonzero(progress[: int(arrived[-1]) + 1 if len(arrived) else None] < 0.5)
    last_left = int(left[-1]) if len(left) else 0
    # The last time the contour is still near its start, and the first time after it that it has arrived.
    later = arrived[arrived > last_left]
    first_arrived = int(later[0]) if len(later) else len(filled) - 1
    exact_left = _crossing(progress, last_left, 0.25)
    exact_arrived = _crossing(progress, first_arrived - 1, 0.75)
    middle = low + (int(middles[-1]) + 1 if len(middles) else last_left)
    slope = np.abs(np.diff(filled)[max(last_left - 1, 0) : first_arrived + 1]) / HOP_S
    return Transition(
        middle,
        2 * max(exact_arrived - exact_left, 0.0) * HOP_S,
        semitones,
        float(slope.max(initial=0.0)),
        _whole_way_s(progress, last_left, first_arrived),
    )


def _whole_way_s(progress: NDArray[np.float64], last_left: int, first_arrived: int) -> float:
    """Seconds of the whole way, from its tenth to its nine tenths: 0.7 of it, between a ramp and a cosine."""
    before, after = progress[: last_left + 1], progress[first_arrived:]
    starts, ends = np.flatnonzero(before < 0.1), np.flatnonzero(after > 0.9)
    start = _crossing(progress, int(starts[-1]), 0.1) if len(starts) else 0.0
    end = _crossing(progress, first_arrived + int(ends[0]) - 1, 0.9) if len(ends) else float(first_arrived)
    return max(end - start, 0.0) * HOP_S / 0.7


def _crossing(progress: NDArray[np.float64], index: int, level: float) -> float:
    if index + 1 >= len(progress) or index < 0 or progress[index + 1] == progress[index]:
        return float(index)
    return index + float(np.clip((level - progress[index]) / (progress[index + 1] - progress[index]), 0, 1))
