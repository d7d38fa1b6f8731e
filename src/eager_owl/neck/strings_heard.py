"""Which string the sound speaks for: stiffness measured of notes against strings known from pinned ones.

At fret n a string of given tension and gauge has B(n) = B(0) 2^(n/6): stiffness goes with the inverse square of the
sounding length (H. Fletcher, 1964; I. Barbancho et al., 2012). A few long notes whose string the player has pinned
give each string's B(0); then other notes' B says how likely each string is.
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.solo.document import Instrument, Note

# Spread of the natural logarithm of B from note to note of one string, and of strings that are not calibrated.
_SPREAD, _UNKNOWN_SPREAD = 0.25, 1.0
# No single note weighs in with more than this, as negative log-likelihood.
_MOST = 4.0
FEWEST_STRINGS = 2


@dataclass(frozen=True)
class Calibration:
    """Natural logarithm of B(0) of the strings that are known, and how many pinned notes each is known from."""

    open_log: dict[int, float]
    counts: dict[int, int]

    @property
    def enough(self) -> bool:
        """Whether there are two strings to tell apart."""
        return len(self.open_log) >= FEWEST_STRINGS


def calibrate(notes: Sequence[Note]) -> Calibration:
    """Read each string's stiffness from the notes whose place the player pinned and whose stiffness was measured."""
    found: dict[int, list[float]] = defaultdict(list)
    for note in notes:
        if "place" in note.pins and note.string and note.fret is not None and note.stiffness:
            found[note.string].append(float(np.log(note.stiffness)) - note.fret * np.log(2) / 6)
    return Calibration(
        {string: float(np.median(logs)) for string, logs in found.items()},
        {string: len(logs) for string, logs in found.items()},
    )


def sounds_elsewhere(
    notes: Sequence[Note], instrument: Instrument, calibration: Calibration
) -> NDArray[np.float64] | None:
    """What the sound says against each string: negative log-likelihood over the likeliest one's, (notes, strings).

    None without a calibration of two strings. A string that is not known is thought to be like the nearest known.
    """
    if not calibration.enough:
        return None
    strings = np.arange(1, len(instrument.tuning) + 1)
    known = np.array(sorted(calibration.open_log))
    near = known[np.abs(known[None, :] - strings[:, None]).argmin(axis=1)]
    open_log = np.array([calibration.open_log[int(string)] for string in near])
    spread = np.where(near == strings, _SPREAD, _UNKNOWN_SPREAD)
    against = np.zeros((len(notes), len(strings)))
    for row, note in zip(against, notes, strict=True):
        if note.stiffness is None or note.harmonic:  # a touched string's partials tell little
            continue
        frets = note.pitch - np.array(instrument.tuning)
        off = (np.log(note.stiffness) - open_log - frets * np.log(2) / 6) / spread
        possible = (frets >= instrument.capo) & (frets <= instrument.frets)
        against_each = 0.5 * off**2 + np.log(spread)
        if possible.any():
            row[:] = np.clip(against_each - against_each[possible].min(), 0.0, _MOST)
    return against


def string_shares(against: NDArray[np.float64], strings: Sequence[int]) -> dict[int, float]:
    """How likely each of these strings is by the sound alone, for one note's row of `sounds_elsewhere`."""
    odds = {string: float(np.exp(-against[string - 1])) for string in strings}
    total = sum(odds.values())
    return {string: odd / total for string, odd in odds.items()}
