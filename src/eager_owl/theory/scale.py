"""Scales and arpeggios as steps above a root, each step with the name it has in that scale."""

from dataclasses import dataclass
from functools import cached_property

_OFFSETS = {"R": 0, "2": 2, "3": 4, "4": 5, "5": 7, "6": 9, "7": 11, "9": 2, "11": 5, "13": 9}


def degree_semitones(label: str) -> int:
    """Semitones above the root of a degree label such as "b3" or "#9", within the octave."""
    return (_OFFSETS[label.lstrip("b#")] - label.count("b") + label.count("#")) % 12


@dataclass(frozen=True)
class Scale:
    """A named set of degrees. An arpeggio's name is a chord's suffix and leans on its root: "Fm7 arpeggio"."""

    name: str
    labels: tuple[str, ...]
    arpeggio: bool = False

    def __hash__(self) -> int:
        return hash(self.name)

    @cached_property
    def degrees(self) -> dict[int, str]:
        """Semitones above the root (0 to 11) to the degree's label."""
        return {degree_semitones(label): label for label in self.labels}


def _scale(name: str, labels: str) -> Scale:
    return Scale(name, tuple(labels.split()))


SCALES: dict[str, Scale] = {
    scale.name: scale
    for scale in (
        _scale("minor pentatonic", "R b3 4 5 b7"),
        _scale("major pentatonic", "R 2 3 5 6"),
        _scale("blues", "R b3 4 b5 5 b7"),
        _scale("major blues", "R 2 b3 3 5 6"),
        _scale("major", "R 2 3 4 5 6 7"),
        _scale("Dorian", "R 2 b3 4 5 6 b7"),
        _scale("Phrygian", "R b2 b3 4 5 b6 b7"),
        _scale("Lydian", "R 2 3 #4 5 6 7"),
        _scale("Mixolydian", "R 2 3 4 5 6 b7"),
        _scale("natural minor", "R 2 b3 4 5 b6 b7"),
        _scale("Locrian", "R b2 b3 4 b5 b6 b7"),
        _scale("harmonic minor", "R 2 b3 4 5 b6 7"),
        _scale("Locrian natural 6", "R b2 b3 4 b5 6 b7"),
        _scale("Phrygian dominant", "R b2 3 4 5 b6 b7"),
        _scale("melodic minor", "R 2 b3 4 5 6 7"),
        _scale("Lydian dominant", "R 2 3 #4 5 6 b7"),
        _scale("Locrian natural 2", "R 2 b3 4 b5 b6 b7"),
        _scale("altered", "R b9 #9 3 b5 #5 b7"),
        _scale("half-whole diminished", "R b9 #9 3 #11 5 13 b7"),
        _scale("whole-half diminished", "R 2 b3 4 b5 b6 6 7"),
        _scale("whole tone", "R 2 3 #4 #5 b7"),
        _scale("chromatic", "R b2 2 b3 3 4 b5 5 b6 6 b7 7"),
        # A root with the flat seventh under it, the flat third and fourth over it, and the fifth that it is bent to.
        _scale("root cell", "R b3 4 5 b7"),
    )
}

# The same notes under another name: the other scale, and how many semitones above this one's root its own stands.
RELATIVES: dict[str, tuple[str, int]] = {
    "major pentatonic": ("minor pentatonic", 9),
    "minor pentatonic": ("major pentatonic", 3),
    "major blues": ("blues", 9),
    "Dorian": ("major", 10),
    "Phrygian": ("major", 8),
    "Lydian": ("major", 7),
    "Mixolydian": ("major", 5),
    "natural minor": ("major", 3),
    "Locrian": ("major", 1),
    "Locrian natural 6": ("harmonic minor", 10),
    "Phrygian dominant": ("harmonic minor", 5),
    "Lydian dominant": ("melodic minor", 7),
    "Locrian natural 2": ("melodic minor", 3),
    "altered": ("melodic minor", 1),
    "half-whole diminished": ("whole-half diminished", 1),
}
