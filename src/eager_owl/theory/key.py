"""Keys as players name them: "F minor", "E blues", "A Dorian", "D harmonic minor"."""

import re
from dataclasses import dataclass, field, replace
from functools import cached_property

from eager_owl.theory.interval import names_above
from eager_owl.theory.pitch import FLAT_NAMES, SHARP_NAMES, Names, parse_pitch_class
from eager_owl.theory.scale import SCALES
from eager_owl.theory.words import quoted

_KEY = re.compile(r"([A-Ga-g][#♯b♭]?)\s*(.*)")
_MODES = {
    "": "major", "maj": "major", "major": "major", "dur": "major",
    "m": "minor", "min": "minor", "minor": "minor", "-": "minor", "moll": "minor",
}  # fmt: skip
# Homes other than the plain scale of major or minor: which of the two each leans to, by its third, and how many
# sharps its signature has more than that of the major key on the same tonic.
_HOMES = {
    "blues": ("major", 0), "Mixolydian": ("major", -1), "Lydian": ("major", 1), "Dorian": ("minor", -2),
    "Phrygian": ("minor", -4), "Locrian": ("minor", -5), "harmonic minor": ("minor", -3),
    "melodic minor": ("minor", -3),
}  # fmt: skip
_PLAIN = {"major": ("major", 0), "minor": ("natural minor", -3)}
_WORDS = {name.lower(): name for name in _HOMES} | {
    "minor blues": "minor blues", "minor, harmonic": "harmonic minor", "minor, melodic": "melodic minor",
    "minor harmonic": "harmonic minor", "minor melodic": "melodic minor", "aeolian": "minor", "ionian": "major",
    "natural minor": "minor", "major blues": "blues",
}  # fmt: skip
_MOST_SIGNS = 7
_FLAT_MAJORS, _FLAT_MINORS = {5, 10, 3, 8, 1}, {10, 3}
# Sharps, or flats below 0, of the major key on each tonic.
FIFTHS = {"C": 0, "G": 1, "D": 2, "A": 3, "E": 4, "B": 5, "F#": 6, "C#": 7, "F": -1, "Bb": -2, "Eb": -3, "Ab": -4,
          "Db": -5, "Gb": -6, "G#": 8, "D#": 9, "A#": 10}  # fmt: skip


@dataclass(frozen=True)
class Key:
    """A tonic pitch class, a mode ("major" or "minor", by the third), and its home where that is not the plain scale.

    `home` is empty, or "blues" (three dominant chords in major, all minor pentatonic in minor), or a scale's name.
    `written` is the tonic as it was written, where a signature can be; two keys are equal however they are spelled.
    """

    tonic: int
    mode: str
    home: str = ""
    written: str = field(default="", compare=False)

    @cached_property
    def tonic_name(self) -> str:
        """The tonic as this key spells it."""
        if self.written in FIFTHS and abs(FIFTHS[self.written] + self._sharper) <= _MOST_SIGNS:
            return self.written
        flat = self.tonic in (_FLAT_MAJORS if self.mode == "major" else _FLAT_MINORS)
        return (FLAT_NAMES if flat else SHARP_NAMES)[self.tonic]

    @property
    def names(self) -> Names:
        """The twelve pitch classes as this key spells them."""
        return names_above(self.tonic_name)

    @property
    def name(self) -> str:
        """The key in words, such as "F minor" or "A Dorian"."""
        if self.home == "blues" and self.mode == "minor":
            return f"{self.tonic_name} minor blues"
        return f"{self.tonic_name} {self.home or self.mode}"

    @property
    def is_blues(self) -> bool:
        """Whether the key is called a blues."""
        return self.home == "blues"

    @property
    def scale_name(self) -> str:
        """The name of the scale it is at home in."""
        return self.home or _PLAIN[self.mode][0]

    @cached_property
    def pitch_classes(self) -> frozenset[int]:
        """What belongs to it: its scale; in minor the raised sixth and seventh too; in a blues both thirds."""
        if self.is_blues:
            names = ["Mixolydian", "minor pentatonic"] if self.mode == "major" else ["natural minor", "Dorian"]
        elif self.home or self.mode == "major":
            names = [self.scale_name]
        else:
            names = ["natural minor", "melodic minor"]
        return frozenset((self.tonic + step) % 12 for name in names for step in SCALES[name].degrees)

    @property
    def _sharper(self) -> int:
        """How many sharps its signature has more than that of the major key on its tonic."""
        plain = self.mode == "minor" and self.is_blues
        return (_PLAIN[self.mode] if plain or not self.home else _HOMES[self.home])[1]

    @property
    def fifths(self) -> int:
        """Sharps of its signature, or flats below 0."""
        return FIFTHS[self.tonic_name] + self._sharper

    def moved(self, semitones: int) -> "Key":
        """The same key on another tonic."""
        return replace(self, tonic=(self.tonic + semitones) % 12, written="" if semitones % 12 else self.written)


def parse_key(text: str) -> Key:
    """Read "F minor", "Bb", "c# min", "Gm", "E blues", "A Dorian" or "D minor, harmonic".

    Raises ValueError with a sentence for the player.
    """
    match = _KEY.fullmatch(text.strip())
    if match:
        # "f minor" and "F minor" are one key; only a bare lower-case letter says nothing of the mode.
        said = " ".join(match[2].strip().lower().split())
        said = _WORDS.get(said.removesuffix(" mode"), said)
        tonic = parse_pitch_class(match[1])
        name = match[1][0].upper() + match[1][1:].replace("♯", "#").replace("♭", "b")
        if mode := _MODES.get(said):
            return Key(tonic, mode, "", name)
        if said == "minor blues":
            return Key(tonic, "minor", "blues", name)
        if said in _HOMES:
            return Key(tonic, _HOMES[said][0], said, name)
    raise ValueError(
        f"{quoted(text)} is not a key: write a note and major, minor, blues or a mode, such as F minor or A Dorian"
    )
