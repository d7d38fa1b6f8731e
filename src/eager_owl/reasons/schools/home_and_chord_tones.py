"""One home scale for the key, and besides it whatever tones the chord of the moment has."""

from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, source
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key

# How much more the notes must speak for each than for the first: more than one ornament from outside.
_HOMES = {
    "blues": (("Mixolydian", 0.0), ("blues", 0.2), ("major blues", 0.4)),
    "major": (("major", 0.0), ("Mixolydian", 1.0), ("Lydian", 1.2), ("blues", 1.4)),
    "minor": (
        ("natural minor", 0.0),
        ("harmonic minor", 0.8),
        ("Dorian", 0.9),
        ("melodic minor", 1.0),
        ("Phrygian", 1.1),
        ("blues", 1.4),
    ),
}

_NAMED = 0.8  # what any other scale costs more, where the key names its own


def _sources(chord: Chord | None, key: Key | None) -> list[Source]:
    if key is None:
        return []
    homes = _HOMES["blues" if key.is_blues and key.mode == "major" else key.mode]
    if key.home and not key.is_blues:  # the scale that it is named by comes first
        homes = ((key.home, 0.0), *((name, cost + _NAMED) for name, cost in homes if name != key.home))
    return [source(key.tonic, name, key.names, cost, plus=chord) for name, cost in homes]


SCHOOL = ReasonSchool(
    "home-and-chord-tones", "Stay at home in one scale and aim at the chord of the moment.", _sources
)
