"""What the player tells the detector: the lead's range, the notes already sure, and where notes begin."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.frames import HOP_S, Frames
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates

# How far a lead's bends may lead out of its range, and a candidate be from a pinned pitch, in semitones.
_BEND_ROOM, _PIN_ROOM = 3.2, 0.7
_TAP_REACH_S = 0.09


@dataclass(frozen=True)
class PinnedNote:
    """A note the player has fixed: from and to in seconds of the samples, and its pitch with the tuning offset in.

    `above` is how far bends may lead from it, in semitones.
    """

    start: float
    end: float
    midi: float
    above: float = 0.0


@dataclass(frozen=True)
class Hints:
    """`low` and `high` (MIDI) bound the lead; `taps` are the onsets of all notes, in s, where the player tapped;

    `nodes` are the pitches (MIDI, the tuning offset not in) of the open strings' natural harmonics.
    """

    low: float | None = None
    high: float | None = None
    pinned: tuple[PinnedNote, ...] = ()
    taps: tuple[float, ...] = ()
    nodes: frozenset[int] = frozenset()

    def allows(self, midi: NDArray[np.floating], hop_s: float) -> NDArray[np.bool_]:
        """Which candidates, shape (n, k) each `hop_s`, can be the lead's.

        Pins keep only their own pitches, in the frames where one of those is a candidate.
        """
        allowed: NDArray[np.bool_] = np.isfinite(midi)
        if self.low is not None:
            allowed &= midi > self.low - 0.6
        if self.high is not None:
            allowed &= midi < self.high + _BEND_ROOM
        fits = np.zeros(midi.shape, dtype=np.bool_)
        for pin in self.pinned:
            rows = slice(max(0, round(pin.start / hop_s)), max(0, round(pin.end / hop_s)))
            part = midi[rows]
            fits[rows] |= (part > pin.midi - _PIN_ROOM) & (part < pin.midi + pin.above + _PIN_ROOM)
        allowed &= fits | ~fits.any(axis=1, keepdims=True)
        return allowed


NO_HINTS = Hints()


def hinted_frames(frames: Frames, hints: Hints) -> Frames:
    """The frames without the candidates that the hints exclude."""
    allowed = hints.allows(frames.midi, HOP_S)
    return Frames(
        np.where(allowed, frames.midi, np.nan),
        np.where(allowed, frames.clarity, 0.0),
        np.where(allowed, frames.fullness, 0.0),
        frames.level_db,
        frames.flux,
        frames.bands,
    )


def hinted_candidates(found: Candidates, hints: Hints) -> Candidates:
    """The candidates without those that the hints exclude."""
    return Candidates(np.where(hints.allows(found.midi, COARSE_HOP_S), found.bins, -1), found.midi, found.height)


def tapped_attacks(taps: tuple[float, ...], strength: NDArray[np.float64], hop_s: float) -> NDArray[np.intp]:
    """A frame for each tap: the strongest rise near it, for a finger is never quite on time."""
    reach = round(_TAP_REACH_S / hop_s)
    attacks: list[int] = []
    for tap in sorted(taps):
        middle = round(tap / hop_s)
        low = max(0, middle - reach, attacks[-1] + 3 if attacks else 0)
        part = strength[low : middle + reach + 1]
        if len(part):
            nearness = 1 - 0.5 * np.abs(np.arange(low, low + len(part)) - middle) / reach
            attacks.append(low + int((part * nearness + 1e-6 * nearness).argmax()))
    return np.array(attacks, dtype=np.intp)
