"""What a solo says of itself, read safely: a key or chart that can't be read counts as none."""

from typing import Literal

from eager_owl.rhythm.chart import Chart
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES, Names, concert_a_hz, pitch_name, pretty

# Below this confidence a note stands in the doubt queue.
DOUBT_BELOW = 0.9
# Of phrases with another way nearly as good, the share that is played as it was placed (docs/placing.md).
_NEAR_PLACE_RIGHT = 0.72


def key_of(solo: Solo) -> Key | None:
    """The solo's key, or None where there is none that can be read."""
    try:
        return solo.key
    except ValueError:
        return None


def names_of(solo: Solo) -> Names:
    """The names of the pitch classes as the solo's key spells them."""
    key = key_of(solo)
    return key.names if key else FLAT_NAMES


def chart_of(solo: Solo) -> Chart:
    """The solo's chart; empty where it can't be read."""
    try:
        return solo.chart
    except ValueError:
        return Chart()


def pitch_in_doubt(note: Note) -> bool:
    """Whether a note's pitch is not wholly trusted and not yet pinned by the player."""
    return note.confidence < DOUBT_BELOW and "pitch" not in note.pins


def is_doubtful(note: Note) -> bool:
    """Whether it is in doubt what a note is, how it was played, or where."""
    return pitch_in_doubt(note) or note.manner_in_doubt is not None or note.place_in_doubt is not None


def other_reading(note: Note) -> Literal["pitch", "manner", "place"] | None:
    """What of a note its other reading, which is one key away, changes; None where there is none."""
    if not pitch_in_doubt(note) and note.manner_in_doubt is not None:
        return "manner"
    if not pitch_in_doubt(note) and note.place_in_doubt is not None:
        return "place"
    return "pitch" if note.runners_up else None


def sureness(note: Note) -> float:
    """Belief in what is least sure of a doubtful note."""
    manner = 1 - note.other_manners[0][1] if note.manner_in_doubt is not None else 1.0
    place = 1.0 if note.place_in_doubt is None else _NEAR_PLACE_RIGHT
    return min(note.confidence if pitch_in_doubt(note) else 1.0, manner, place)


def doubts(solo: Solo, phrase: Phrase | None = None) -> list[Note]:
    """The doubtful notes of a phrase, or of all, worst first."""
    notes = solo.notes if phrase is None else solo.notes_in(phrase)
    return sorted(filter(is_doubtful, notes), key=sureness)


def tuning_words(cents: float) -> str:
    """A tuning offset as players say it: "A = 437"."""
    return f"A = {concert_a_hz(cents):.0f}"


def pitch_text(pitch: int, solo: Solo, chord: Chord | None = None) -> str:
    """A pitch as its chord spells it, if it is a tone of that, or else as the solo's key does."""
    own = chord is not None and pitch % 12 in chord.pitch_classes
    return pretty(pitch_name(pitch, chord.names if chord is not None and own else names_of(solo)))
