"""Minor and major pentatonic of the key, with the blue note, mixed as the ear likes."""

from dataclasses import replace

from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, source
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key

# For a tone of the chord that neither has, such as the four chord's third: several are reason to change to the other.
_BORROWING = 1.6


def _sources(chord: Chord | None, key: Key | None) -> list[Source]:
    if key is None:
        return []
    home, other = ("minor", "major") if key.mode == "minor" else ("major", "minor")
    if key.is_blues:
        home, other = "minor", "major"
    # In a major key the minor pentatonic is a matter of course; in a minor key the major one wants several notes.
    other_cost = 0.6 if key.mode == "major" else 18.0
    blues = {"minor": "blues", "major": "major blues"}
    # Outside a blues a note between two others is sooner on its way than blue.
    at_home = key.is_blues or key.mode == "minor" or chord is None or chord.quality == "dominant"
    spice = 0.2 if at_home else 1.0
    welcome = chord if chord is not None and not chord.has("7") else None
    return [
        replace(source(key.tonic, name, key.names, cost, plus=welcome), borrowing=_BORROWING)
        for name, cost in (
            (f"{home} pentatonic", 0.0),
            (f"{other} pentatonic", other_cost),
            (blues[home], spice),
            (blues[other], other_cost + spice),
        )
    ]


SCHOOL = ReasonSchool(
    "two-pentatonics", "Two pentatonics of the key and a blue note say nearly everything.", _sources
)
