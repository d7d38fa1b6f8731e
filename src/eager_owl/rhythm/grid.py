"""The beat grid: one tempo or anchors that it drifts between, a first beat, so many beats to the bar."""

from bisect import insort
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import isfinite

import numpy as np

MIN_BPM, MAX_BPM = 20.0, 400.0
MAX_BEATS_PER_BAR = 15


@dataclass(frozen=True)
class BeatGrid:
    """`bpm` beats a minute, beat 0 (the first beat of bar 1) at `first_beat_s` seconds.

    Where there are `anchors`, (beat, seconds) ascending in both, the beats between two of them are evenly
    spaced, and those before the first and after the last go on at `bpm`; `first_beat_s` then says nothing.
    `division` is the parts a beat falls into: 2, or 3 in compound meters (6/8 is two beats of three parts);
    `swung` beats of 2 have a late second part. Raises ValueError for a tempo outside 20 to 400, a bar outside
    1 to 15 beats, a division other than 2 or 3, or anchors out of order.
    """

    bpm: float = 120.0
    first_beat_s: float = 0.0
    beats_per_bar: int = 4
    anchors: tuple[tuple[float, float], ...] = ()
    division: int = 2
    swung: bool = False

    def __post_init__(self) -> None:
        if not isfinite(self.first_beat_s) or not all(isfinite(b) and isfinite(t) for b, t in self.anchors):
            raise ValueError("a beat at no time at all")
        if not MIN_BPM <= self.bpm <= MAX_BPM:
            raise ValueError(f"a tempo of {self.bpm:g} is outside {MIN_BPM:g} to {MAX_BPM:g} beats a minute")
        if not 1 <= self.beats_per_bar <= MAX_BEATS_PER_BAR:
            raise ValueError(f"{self.beats_per_bar} beats to the bar is outside 1 to {MAX_BEATS_PER_BAR}")
        if self.division not in (2, 3) or (self.swung and self.division == 3):
            raise ValueError(f"a beat of {self.division} parts is neither 2, straight or swung, nor 3")
        if any(b[0] <= a[0] or b[1] <= a[1] for a, b in pairwise(self.anchors)):
            raise ValueError("the beat's anchors are out of order")

    @property
    def beat_s(self) -> float:
        """Seconds of one beat at the tempo that `bpm` says."""
        return 60.0 / self.bpm

    @property
    def bar_s(self) -> float:
        """Seconds of one bar at the tempo that `bpm` says."""
        return self.beat_s * self.beats_per_bar

    @property
    def meter(self) -> str:
        """The time signature: 3/4, or 6/8 where the beats have three parts."""
        return f"{self.beats_per_bar}/4" if self.division == 2 else f"{3 * self.beats_per_bar}/8"

    def beat_at(self, time_s: float) -> float:
        """Beats since the first beat (negative in a pickup)."""
        anchors = self.anchors or ((0.0, self.first_beat_s),)
        (first, start), (last, end) = anchors[0], anchors[-1]
        if time_s <= start:
            return first + (time_s - start) / self.beat_s
        if time_s >= end:
            return last + (time_s - end) / self.beat_s
        return float(np.interp(time_s, [at for _, at in anchors], [beat for beat, _ in anchors]))

    def time_of(self, beat: float) -> float:
        """Seconds of the recording at a beat."""
        anchors = self.anchors or ((0.0, self.first_beat_s),)
        (first, start), (last, end) = anchors[0], anchors[-1]
        if beat <= first:
            return start + (beat - first) * self.beat_s
        if beat >= last:
            return end + (beat - last) * self.beat_s
        return float(np.interp(beat, [at for at, _ in anchors], [time for _, time in anchors]))

    def bar_and_beat(self, time_s: float) -> tuple[int, float]:
        """Bar number from 1 (0 and below in a pickup) and beat from 1.0."""
        bar, beat = divmod(self.beat_at(time_s), self.beats_per_bar)
        return int(bar) + 1, beat + 1.0


def anchored(grid: BeatGrid, beat: float, time_s: float) -> BeatGrid:
    """The grid with a beat held at a time: its other anchors stay, and those that would cross it go.

    The first anchor holds the grid's first beat too, so that what lies before does not move.
    """
    kept = list(grid.anchors or (() if beat == 0 else ((0.0, grid.first_beat_s),)))
    kept = [(b, t) for b, t in kept if b != beat and (b < beat) == (t < time_s)]
    insort(kept, (float(beat), float(time_s)))
    return replace(grid, anchors=tuple(kept), first_beat_s=kept[0][1] if kept[0][0] == 0 else grid.first_beat_s)


def shifted_bar(grid: BeatGrid, beats: int) -> BeatGrid:
    """The grid with bar 1 beginning that many beats later."""
    anchors = tuple((beat - beats, time) for beat, time in grid.anchors)
    return replace(grid, first_beat_s=grid.time_of(beats), anchors=anchors)


def at_other_pace(grid: BeatGrid, times: float) -> BeatGrid:
    """The grid counted so many times as fast: 2 takes each half beat for a beat, 0.5 two beats for one.

    Raises ValueError for a tempo that is out of reach.
    """
    anchors = tuple((beat * times, time) for beat, time in grid.anchors)
    return replace(grid, bpm=grid.bpm * times, anchors=anchors)


def grid_from_taps(taps_s: Sequence[float], beats_per_bar: int) -> BeatGrid:
    """The steady grid that fits tapped times best (least squares over taps numbered by the median gap).

    The first tap is taken as the first beat. Raises ValueError for fewer than three taps.
    """
    if len(taps_s) < 3:
        raise ValueError("tap at least three beats")
    taps = np.asarray(taps_s, dtype=np.float64)
    numbers = np.round((taps - taps[0]) / np.median(np.diff(taps)))
    beat_s, first = np.polyfit(numbers, taps, 1)
    return BeatGrid(float(60.0 / beat_s), float(first), beats_per_bar)
