"""What sounded, as a picture: the levels that the judge of pitches sees (eager_owl.hearing.salience)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.salience import (
    BINS_PER_SEMITONE,
    COARSE_HOP_S,
    FIRST_PITCH_BIN,
    LOWEST_MIDI,
    RANGE_DB,
    measure_spectra,
)

# What is shown: this far under the loudest, and pitches up to where the upper partials say nothing new.
_SHOWN_DB, _HIGHEST_MIDI = 45.0, 100


@dataclass(frozen=True)
class SoundPicture:
    """Levels of the frames from `start` s on, `hop_s` apart, a third of a semitone a column from `lowest` up.

    Shape (frames, columns), 0 for silence (or under what is shown) to 255 for the loudest.
    """

    start: float
    levels: NDArray[np.uint8]
    hop_s: float = COARSE_HOP_S

    @property
    def end(self) -> float:
        """Seconds at which it stops."""
        return self.start + len(self.levels) * self.hop_s

    @property
    def lowest(self) -> float:
        """The MIDI number of the lower edge of the first column."""
        return LOWEST_MIDI - 0.5 / BINS_PER_SEMITONE

    @property
    def highest(self) -> float:
        """The MIDI number of the upper edge of the last."""
        return float(self.lowest + self.levels.shape[1] / BINS_PER_SEMITONE)


def picture_sound(samples: NDArray[np.float32], rate: int, start: float) -> SoundPicture:
    """The picture of mono samples whose first is at `start` s."""
    columns = (_HIGHEST_MIDI - LOWEST_MIDI) * BINS_PER_SEMITONE
    sharp = measure_spectra(samples, rate).sharp[:, FIRST_PITCH_BIN : FIRST_PITCH_BIN + columns]
    shown = 1 - (1 - sharp) * RANGE_DB / _SHOWN_DB
    return SoundPicture(start, np.round(255 * shown.clip(0, 1)).astype(np.uint8))
