"""What a fingering amounts to: where the hand stands, how often it shifts, how far it reaches."""

from collections.abc import Sequence
from dataclasses import dataclass

from eager_owl.neck.hand import reach_mm
from eager_owl.solo.document import Instrument, Note


@dataclass(frozen=True)
class Stand:
    """A hand position (fret of the index finger) and the ids of the notes played from it, in order."""

    position: int
    note_ids: tuple[int, ...]


@dataclass(frozen=True)
class HandStory:
    """The stands in order, and the widest reach within one: mm, low and high finger, low fret."""

    stands: tuple[Stand, ...]
    widest_mm: float
    fingers: tuple[int, int]
    at_fret: int

    @property
    def shifts(self) -> int:
        """Changes of position."""
        return max(len(self.stands) - 1, 0)


def tell_hand(notes: Sequence[Note], instrument: Instrument) -> HandStory:
    """Read the hand's way from placed notes. A finger one fret out of its place stretches; it does not shift."""
    stands: list[tuple[int, list[Note]]] = []
    for note in notes:
        if not note.finger or note.fret is None:
            continue
        position = max(note.fret - note.finger + 1, 1)
        if stands and abs(position - stands[-1][0]) <= 1:
            stands[-1][1].append(note)
        else:
            stands.append((position, [note]))
    widest, fingers, at_fret = 0.0, (0, 0), 0
    for _, group in stands:
        low = min(group, key=lambda n: (n.fret or 0, n.finger or 0))
        high = max(group, key=lambda n: (n.fret or 0, n.finger or 0))
        reach = reach_mm(low.fret or 0, high.fret or 0, instrument.scale_mm)
        if reach > widest and low.finger != high.finger:
            widest, fingers, at_fret = reach, (low.finger or 0, high.finger or 0), low.fret or 0
    return HandStory(
        tuple(Stand(position, tuple(n.id for n in group)) for position, group in stands), widest, fingers, at_fret
    )
