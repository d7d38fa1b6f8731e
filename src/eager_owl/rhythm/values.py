"""Written note values: played onsets laid on the nearest likely subdivision of the beat."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from eager_owl.rhythm.grid import BeatGrid

# Parts of a beat an onset may be written on, and how many beats of deviation a rarer one must save to be chosen.
_SUBDIVISION_COST = {1: 0.0, 2: 0.01, 4: 0.03, 3: 0.04}
_SIXTEENTH = Fraction(1, 4)


@dataclass(frozen=True)
class Written:
    """A note as written: its beat from the first beat, its length in beats, and how late it was played."""

    beat: Fraction
    length: Fraction
    late_ms: float


def write_values(onsets_s: Sequence[float], durations_s: Sequence[float], grid: BeatGrid) -> list[Written]:
    """Nearest written beat and length of each note; onsets ascend. Lengths reach to the next note's onset

    where the gap is under a sixteenth, so a line played legato is written without slivers of rest.
    """
    starts = [_nearest(grid.beat_at(onset)) for onset in onsets_s]
    written = []
    for index, (onset, duration, start) in enumerate(zip(onsets_s, durations_s, starts, strict=True)):
        end = _nearest(grid.beat_at(onset + duration))
        following = next((later for later in starts[index + 1 :] if later > start), None)
        if following is not None and following - end <= _SIXTEENTH:
            end = following
        length = max(end - start, _SIXTEENTH if following is None else min(_SIXTEENTH, following - start))
        written.append(Written(start, length, 1000.0 * (onset - grid.time_of(float(start)))))
    return written


def _nearest(beat: float) -> Fraction:
    def cost(parts: int) -> float:
        return abs(beat - round(beat * parts) / parts) + _SUBDIVISION_COST[parts]

    parts = min(_SUBDIVISION_COST, key=cost)
    return Fraction(round(beat * parts), parts)
