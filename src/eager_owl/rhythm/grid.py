"""The beat grid: one tempo, a first beat, so many beats to the bar."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

MIN_BPM, MAX_BPM = 20.0, 400.0
MAX_BEATS_PER_BAR = 15


@dataclass(frozen=True)
class BeatGrid:
    """Steady beats: `bpm` beats a minute, beat 0 (the first beat of bar 1) at `first_beat_s` seconds.

    Raises ValueError for a tempo outside 20 to 400 or a bar outside 1 to 15 beats.
    """

    bpm: float = 120.0
    first_beat_s: float = 0.0
    beats_per_bar: int = 4

    def __post_init__(self) -> None:
        if not MIN_BPM <= self.bpm <= MAX_BPM:
            raise ValueError(f"a tempo of {self.bpm:g} is outside {MIN_BPM:g} to {MAX_BPM:g} beats a minute")
        if not 1 <= self.beats_per_bar <= MAX_BEATS_PER_BAR:
            raise ValueError(f"{self.beats_per_bar} beats to the bar is outside 1 to {MAX_BEATS_PER_BAR}")

    @property
    def beat_s(self) -> float:
        """Seconds of one beat."""
        return 60.0 / self.bpm

    @property
    def bar_s(self) -> float:
        """Seconds of one bar."""
        return self.beat_s * self.beats_per_bar

    def beat_at(self, time_s: float) -> float:
        """Beats since the first beat (negative in a pickup)."""
        return (time_s - self.first_beat_s) / self.beat_s

    def time_of(self, beat: float) -> float:
        """Seconds of the recording at a beat."""
        return self.first_beat_s + beat * self.beat_s

    def bar_and_beat(self, time_s: float) -> tuple[int, float]:
        """Bar number from 1 (0 and below in a pickup) and beat from 1.0."""
        bar, beat = divmod(self.beat_at(time_s), self.beats_per_bar)
        return int(bar) + 1, beat + 1.0


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
