"""A system's bars with their columns placed: where each note begins and ends, from left to right."""

from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from eager_owl.notation.score import Event
from eager_owl.notation.sheet.spacing import SpacedBar
from eager_owl.solo.document import Note


@dataclass(frozen=True)
class PlacedBar:
    """A bar between two edges; `beats` are the places of those beats that have a column."""

    spaced: SpacedBar
    left: float
    right: float
    beats: Mapping[Fraction, float]

    @property
    def number(self) -> int:
        """As it is counted."""
        return self.spaced.measure.number

    def events(self, voice: int) -> list[tuple[Event, float]]:
        """A voice's events in this bar, or this piece of it, each with its place."""
        return [
            (event, self.beats[column.beat])
            for column in self.spaced.columns
            for number, event in column.events
            if number == voice
        ]

    @property
    def voices(self) -> int:
        """How many voices it has."""
        return len(self.spaced.measure.voices)


@dataclass(frozen=True)
class Standing:
    """A note in the system: its place, that of its end, and whether it leads in as a grace."""

    note: Note
    event: Event
    x: float
    end: float
    grace: bool = False


@dataclass
class Placed:
    """All bars of a system, and its notes by id in order."""

    bars: Sequence[PlacedBar]
    left: float
    right: float
    notes: dict[int, Standing] = field(default_factory=dict)

    def x_at(self, beat: float) -> float:
        """The place of any beat of the system: between the columns about it where it has none of its own."""
        points: list[tuple[float, float]] = []
        for bar in self.bars:
            points += [(float(at), x) for at, x in bar.beats.items()]
        last = self.bars[-1]
        end = max((event.end for voice in last.spaced.measure.voices for event in voice), default=Fraction(0))
        points.append((float(end), last.right))
        points.sort()
        index = bisect_right([at for at, _ in points], beat + 1e-9)
        if index == 0:
            return points[0][1]
        if index == len(points):
            return points[-1][1]
        (before, left), (after, right) = points[index - 1], points[index]
        return left + (right - left) * (beat - before) / max(after - before, 1e-9)

    def bar_of(self, x: float) -> PlacedBar:
        """The bar that a place lies in."""
        return next((bar for bar in self.bars if x < bar.right), self.bars[-1])

    def started(self) -> Iterator[Standing]:
        """Notes that begin here, in order of their places."""
        yield from sorted(self.notes.values(), key=lambda standing: standing.x)


GRACE_STEP = 10.0


def place_notes(placed: Placed) -> None:
    """Find where each note stands, and where its last tied part ends."""
    ends: dict[int, float] = {}
    for bar in placed.bars:
        for voice in range(bar.voices):
            events = bar.events(voice)
            for index, (event, _) in enumerate(events):
                following = events[index + 1][1] if index + 1 < len(events) else bar.right
                for note in event.notes:
                    ends[note.id] = following
    for bar in placed.bars:
        for voice in range(bar.voices):
            for event, x in bar.events(voice):
                for turn, grace in enumerate(reversed(event.graces), 1):
                    at = x - 4.0 - GRACE_STEP * turn
                    placed.notes[grace.id] = Standing(grace, event, at, x, grace=True)
                if not event.tied_from:
                    for note in event.notes:
                        placed.notes[note.id] = Standing(note, event, x, ends[note.id])
