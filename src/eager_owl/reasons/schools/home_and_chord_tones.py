"""One home scale for the key, and besides it whatever tones the chord of the moment has."""

from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, source
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key

_HOMES = {
    "major": (("major", 0.0), ("Mixolydian", 0.4), ("Lydian", 0.6), ("blues", 0.8)),
    "minor": (
        ("natural minor", 0.0),
        ("harmonic minor", 0.4),
        ("Dorian", 0.5),
        ("melodic minor", 0.6),
        ("blues", 0.8),
    ),
}


def _sources(chord: Chord | None, key: Key | None) -> list[Source]:
    if key is None:
        return []
    return [source(key.tonic, name, key.flats, cost, plus=chord) for name, cost in _HOMES[key.mode]]


SCHOOL = ReasonSchool(
    "home-and-chord-tones", "Stay at home in one scale and aim at the chord of the moment.", _sources
)
