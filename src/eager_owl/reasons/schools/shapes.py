"""Arpeggios under the hand: the chord's own, the one a third above it, and the key's; other notes lead into them."""

from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, arpeggio
from eager_owl.theory.chord import Chord, parse_chord
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import Names
from eager_owl.theory.scale import SCALES

_TRIADS = {(3, 7): "m", (4, 7): "", (3, 6): "dim", (4, 8): "aug"}
_SEVENTHS = {
    (3, 7, 10): "m7", (4, 7, 10): "7", (4, 7, 11): "maj7", (3, 6, 10): "m7b5", (3, 6, 9): "dim7",
    (3, 7, 11): "m(maj7)", (4, 8, 11): "maj7#5",
}  # fmt: skip
_MOST_TONES = 5  # a symbol of more, such as an altered chord's, names a scale
# The chord on the third of a chord of each kind, which sounds like the chord's own upper part.
_ON_THE_THIRD = {
    "minor": (3, "maj7"), "major": (4, "m7"), "dominant": (4, "m7b5"), "half-diminished": (3, "m7"),
}  # fmt: skip


def _sources(chord: Chord | None, key: Key | None) -> list[Source]:
    found: list[Source] = []
    if chord is not None:
        names = chord.names
        own = chord if len(chord.labels) <= _MOST_TONES else parse_chord(f"{names[chord.root]}7#5")
        found.append(arpeggio(own, names, 0.0, follows=True))
        if on_third := _ON_THE_THIRD.get(chord.quality):
            found.append(_named(chord.root + on_third[0], on_third[1], names, 0.5, follows=True))
        if chord.quality == "dominant":
            found.append(_named(chord.root + 4, "dim7", names, 0.7, follows=True))
    if key is not None:
        names = key.names
        scale = sorted(SCALES["major" if key.mode == "major" else "natural minor"].degrees)
        for degree, step in enumerate(scale):
            stack = [(scale[(degree + 2 * third) % 7] - step) % 12 for third in (1, 2, 3)]
            found.append(_named(key.tonic + step, _TRIADS[stack[0], stack[1]], names, 0.9))
            found.append(_named(key.tonic + step, _SEVENTHS[stack[0], stack[1], stack[2]], names, 1.0))
    return list(dict.fromkeys(found))


def _named(root: int, suffix: str, names: Names, cost: float, follows: bool = False) -> Source:
    return arpeggio(parse_chord(names[root % 12] + suffix), names, cost, follows)


SCHOOL = ReasonSchool(
    "shapes",
    "The hand knows chord shapes; what is not in the shape leads into it.",
    _sources,
    looks_ahead=True,
    detours=True,
)
