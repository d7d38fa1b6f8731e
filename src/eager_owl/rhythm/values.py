"""Written note values: played onsets laid on the nearest likely subdivision of the beat."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from fractions import Fraction

from eager_owl.rhythm.grid import BeatGrid

# Parts of a beat an onset may be written on, and how many beats of deviation a rarer one must save to be chosen;
# for beats of two parts and of three.
_SUBDIVISION_COST = {2: {1: 0.0, 2: 0.01, 4: 0.03, 3: 0.04}, 3: {1: 0.0, 3: 0.01, 6: 0.03, 2: 0.05}}
# Where the second half of a swung beat is played.
_SWUNG_HALF = 2 / 3
_TICKS = 12  # to the beat: whole numbers for all the subdivisions
_SIXTEENTH = 3


@dataclass(frozen=True)
class Written:
    """A note as written: its beat from the first beat, its length in beats, and how late it was played.

    A grace note has no length, and the beat of the note it leads into.
    """

    beat: Fraction
    length: Fraction
    late_ms: float

    @property
    def tied_at(self) -> int | None:
        """The beat that a note begun between two beats is tied over, so that the beat can be seen; or None."""
        following = self.beat.__ceil__()
        return following if self.beat.denominator > 1 and self.beat + self.length > following else None


def write_values(
    onsets_s: Sequence[float], durations_s: Sequence[float], grid: BeatGrid, graces: Collection[int] = ()
) -> list[Written]:
    """Nearest written beat and length of each note; onsets ascend, `graces` are the indices of grace notes.

    Lengths reach to the next note's onset where the gap is under a sixteenth, so a line played legato is
    written without slivers of rest.
    """
    starts = [_nearest(_unswung(grid.beat_at(onset), grid), grid.division) for onset in onsets_s]
    for index in sorted(graces, reverse=True):
        if index + 1 < len(starts):
            starts[index] = starts[index + 1]
    written = []
    following: int | None = None
    for index in range(len(starts) - 1, -1, -1):
        onset, start = onsets_s[index], starts[index]
        if index + 1 < len(starts) and starts[index + 1] > start:
            following = starts[index + 1]
        end = _nearest(_unswung(grid.beat_at(onset + durations_s[index]), grid), grid.division)
        if following is not None and following - end <= _SIXTEENTH:
            end = following
        length = max(end - start, _SIXTEENTH if following is None else min(_SIXTEENTH, following - start))
        late_ms = 1000.0 * (onset - grid.time_of(played_beat(start / _TICKS, grid)))
        if index in graces:
            length = 0
        written.append(Written(Fraction(start, _TICKS), Fraction(length, _TICKS), late_ms))
    return written[::-1]


def _unswung(beat: float, grid: BeatGrid) -> float:
    """A beat as it would be played straight."""
    if not grid.swung:
        return beat
    whole, part = divmod(beat, 1.0)
    half = part / _SWUNG_HALF / 2 if part < _SWUNG_HALF else 0.5 + (part - _SWUNG_HALF) / (1 - _SWUNG_HALF) / 2
    return whole + half


def played_beat(beat: float, grid: BeatGrid) -> float:
    """Where a written beat is played: the second half of a swung one comes late."""
    if not grid.swung:
        return beat
    whole, part = divmod(beat, 1.0)
    return whole + (2 * part * _SWUNG_HALF if part < 0.5 else _SWUNG_HALF + (2 * part - 1) * (1 - _SWUNG_HALF))


def _nearest(beat: float, division: int) -> int:
    """The likeliest written place of a beat, in ticks."""
    best, least = 0, float("inf")
    for parts, cost in _SUBDIVISION_COST[division].items():
        step = round(beat * parts)
        cost += abs(beat - step / parts)
        if cost < least:
            best, least = step * _TICKS // parts, cost
    return best
