"""Minor and major pentatonic of the key, with the blue note, mixed as the ear likes."""

from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, source
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key


def _sources(chord: Chord | None, key: Key | None) -> list[Source]:
    if key is None:
        return []
    home, other = ("minor", "major") if key.mode == "minor" else ("major", "minor")
    # In a major key the minor pentatonic is a matter of course; in a minor key the major one wants several notes.
    other_cost = 0.6 if key.mode == "major" else 18.0
    blues = {"minor": "blues", "major": "major blues"}
    return [
        source(key.tonic, f"{home} pentatonic", key.names, 0.0),
        source(key.tonic, f"{other} pentatonic", key.names, other_cost),
        source(key.tonic, blues[home], key.names, 0.2),
        source(key.tonic, blues[other], key.names, other_cost + 0.2),
    ]


SCHOOL = ReasonSchool(
    "two-pentatonics", "Two pentatonics of the key and a blue note say nearly everything.", _sources
)
