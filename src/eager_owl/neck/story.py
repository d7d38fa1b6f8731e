"""What a fingering amounts to: where the hand stands, how often it shifts, how far it reaches, in words."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from eager_owl.neck.hand import reach_mm
from eager_owl.neck.shapes import position_name
from eager_owl.solo.document import Instrument, Note, struck_together
from eager_owl.theory.words import spelled


@dataclass(frozen=True)
class FingerReach:
    """How far two fingers lie apart: mm, the fingers, the lower one's fret."""

    mm: float = 0.0
    fingers: tuple[int, int] = (0, 0)
    fret: int = 0


@dataclass(frozen=True)
class Stand:
    """A hand position (fret of the index finger), the ids of the notes played from it in order, its widest reach."""

    position: int
    note_ids: tuple[int, ...]
    reach: FingerReach


@dataclass(frozen=True)
class HandStory:
    """The stands in order, the widest reach of all, how many notes are open and how many strokes barred."""

    stands: tuple[Stand, ...]
    reach: FingerReach
    opens: int
    barres: int

    @property
    def shifts(self) -> int:
        """Changes of position."""
        return max(len(self.stands) - 1, 0)


def tell_hand(notes: Sequence[Note], instrument: Instrument) -> HandStory:
    """Read the hand's way from placed notes. A finger one fret out of its place stretches; it does not shift."""
    stands: list[list[Note]] = []
    opens = barres = 0
    for stroke in struck_together(notes):
        members = [notes[i] for i in stroke if notes[i].fret is not None and notes[i].finger is not None]
        opens += sum(note.finger == 0 for note in members)
        stopped = [note for note in members if note.finger]
        fingers = [note.finger for note in stopped]
        barres += len(set(fingers)) < len(fingers)
        if not stopped:
            continue
        most = 2 if stopped[0].finger == 4 else 1  # the little finger reaches two frets on
        way = min(_positions(note)[0] for note in stopped) - _position(stands[-1]) if stands else most + 1
        if -1 <= way <= most:
            stands[-1].extend(stopped)
        else:
            stands.append(stopped)
    told = tuple(Stand(_position(group), tuple(n.id for n in group), _widest(group, instrument)) for group in stands)
    return HandStory(told, max((s.reach for s in told), key=lambda r: r.mm, default=FingerReach()), opens, barres)


def _positions(note: Note) -> tuple[int, ...]:
    """Where the hand may stand for a stopped note: each finger on its fret, or the middle or ring finger one on."""
    own = max((note.fret or 0) - (note.finger or 0) + 1, 1)
    return (own, own - 1) if note.finger in (2, 3) and own > 1 else (own,)


def _position(stand: Sequence[Note]) -> int:
    """Where the hand stands for most of these notes, the first of them if two places serve as many."""
    return Counter(position for note in stand for position in _positions(note)).most_common(1)[0][0]


def price_words(story: HandStory) -> str:
    """A fingering's price: "one position, 3rd; widest reach 96 mm between 1 and 4 at fret 5; one barre"."""
    if not story.stands:
        return "all open" if story.opens else "nothing placed"
    if story.shifts == 0:
        where = f"one position, {position_name(story.stands[0].position).split()[0]}"
    else:
        ways = [position_name(stand.position).split()[0] for stand in story.stands]
        shown = ways if len(ways) <= 4 else [*ways[:3], "…", ways[-1]]
        where = f"{spelled(story.shifts, 'shift')}, {' to '.join(shown)}"
    parts = [where]
    if story.reach.mm:
        low, high = story.reach.fingers
        parts.append(f"widest reach {story.reach.mm:.0f} mm between {low} and {high} at fret {story.reach.fret}")
    if story.barres:
        parts.append(spelled(story.barres, "barre"))
    if story.opens:
        parts.append(spelled(story.opens, "open note"))
    return "; ".join(parts)


def _widest(group: Sequence[Note], instrument: Instrument) -> FingerReach:
    low = min(group, key=lambda n: (n.fret or 0, n.finger or 0))
    high = max(group, key=lambda n: (n.fret or 0, n.finger or 0))
    if low.finger == high.finger:
        return FingerReach()
    mm = reach_mm(low.fret or 0, high.fret or 0, instrument.scale_mm)
    return FingerReach(mm, (low.finger or 0, high.finger or 0), low.fret or 0)
