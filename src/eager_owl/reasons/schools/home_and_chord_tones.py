"""One home scale for the key, and besides it whatever tones the chord of the moment has."""

from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, source
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key

# How much more the notes must speak for each than for the first: more than one ornament from outside.
_HOMES = {
    "major": (("major", 0.0), ("Mixolydian", 1.0), ("Lydian", 1.2), ("blues", 1.4)),
    "minor": (
        ("natural minor", 0.0),
        ("harmonic minor", 0.8),
        ("Dorian", 0.9),
        ("melodic minor", 1.0),
        ("blues", 1.4),
    ),
}


def _sources(chord: Chord | None, key: Key | None) -> list[Source]:
    if key is None:
        return []
    return [source(key.tonic, name, key.names, cost, plus=chord) for name, cost in _HOMES[key.mode]]


SCHOOL = ReasonSchool(
    "home-and-chord-tones", "Stay at home in one scale and aim at the chord of the moment.", _sources
)
