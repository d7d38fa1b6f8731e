"""Where playing can hurt: wide reaches, long or heavy bends, the same hard thing again and again.

Plain words and a bound for each that the player sets. None of it is medical advice: pain is a reason to stop and see
a clinician.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from eager_owl.neck.hand import COMFORT_MM
from eager_owl.neck.measures import WOUND_FROM
from eager_owl.neck.story import tell_hand
from eager_owl.solo.document import Instrument, Note
from eager_owl.theory.words import plural

PAIN_WORDS = "Pain is a reason to stop and see a clinician."
_LOW_FRET = 5
_REPEATED_NOTES = 6


@dataclass(frozen=True)
class Limits:
    """The player's bounds: a reach in mm, seconds of bending in a minute of playing, minutes until a rest.

    The reach is the comfortable one of index to little finger (see `hand`); the others are a musician's common
    sense, set to be changed. Raises ValueError for bounds that bound nothing.
    """

    reach_mm: float = COMFORT_MM
    bend_s: float = 12.0
    rest_min: float = 25.0

    def __post_init__(self) -> None:
        if not 40 <= self.reach_mm <= 200:
            raise ValueError(f"a reach of {self.reach_mm:g} mm is outside 40 to 200")
        if not 0 < self.bend_s <= 60:
            raise ValueError(f"{self.bend_s:g} seconds of bending a minute are outside 0 to 60")
        if not 1 <= self.rest_min <= 240:
            raise ValueError(f"{self.rest_min:g} minutes until a rest are outside 1 to 240")


@dataclass(frozen=True)
class Caution:
    """What to mind, in words, and the ids of the notes it is about."""

    words: str
    note_ids: tuple[int, ...]


def find_cautions(notes: Sequence[Note], instrument: Instrument, limits: Limits) -> list[Caution]:
    """What to mind when a phrase of placed notes is practised in a loop, gravest first."""
    return [*_reaches(notes, instrument, limits), *_bends(notes, limits), *_repetition(notes)]


def rest_words(played_s: float, limits: Limits) -> str:
    """A reminder once a loop has been played along with for longer than the player means to without a rest."""
    if played_s < 60 * limits.rest_min:
        return ""
    return f"{played_s / 60:.0f} minutes without a rest: put the guitar down for a few. {PAIN_WORDS}"


def _reaches(notes: Sequence[Note], instrument: Instrument, limits: Limits) -> list[Caution]:
    wide = [stand for stand in tell_hand(notes, instrument).stands if stand.reach.mm > limits.reach_mm]
    cautions = []
    for stand in sorted(wide, key=lambda stand: -stand.reach.mm):
        low, high = stand.reach.fingers
        words = (
            f"{stand.reach.mm:.0f} mm between fingers {low} and {high} at fret {stand.reach.fret}, over your "
            f"{limits.reach_mm:.0f}: warm up, keep the thumb low, or play it higher up"
        )
        cautions.append(Caution(words, stand.note_ids))
    return cautions


def _bends(notes: Sequence[Note], limits: Limits) -> list[Caution]:
    bends = [note for note in notes if note.bend]
    cautions = []
    if bends:
        span = max(note.end for note in notes) - notes[0].onset
        share = 60 * sum(note.duration for note in bends) / max(span, 1.0)
        if share > limits.bend_s:
            words = f"{share:.0f} s of bending in a minute of this loop, over your {limits.bend_s:.0f}: rest between"
            cautions.append(Caution(words, tuple(note.id for note in bends)))
    wound = [note for note in bends if (note.string or 1) >= WOUND_FROM]
    if wound:
        words = f"{plural(len(wound), 'bend')} on a wound string: push from the wrist, with the fingers behind"
        cautions.append(Caution(words, tuple(note.id for note in wound)))
    low = [
        n for n in bends if n not in wound and (n.fret or 99) < _LOW_FRET and (n.bend and n.bend.bend_semitones > 1)
    ]
    if low:
        words = f"{plural(len(low), 'bend')} of over a half step near the nut, where strings are stiff"
        cautions.append(Caution(words, tuple(note.id for note in low)))
    return cautions


def _repetition(notes: Sequence[Note]) -> list[Caution]:
    """The little finger's stretched or bent again and again is what tires first."""
    little = [note for note in notes if note.finger == 4]
    if len(little) >= _REPEATED_NOTES and len(little) > len(notes) / 3:
        words = f"{len(little)} of {len(notes)} notes fall to the little finger: short loops, and rests between"
        return [Caution(words, tuple(note.id for note in little))]
    return []
