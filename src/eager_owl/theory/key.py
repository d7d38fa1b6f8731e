"""Keys: a tonic and a major or minor mode."""

import re
from dataclasses import dataclass

from eager_owl.theory.pitch import parse_pitch_class, pitch_class_name

_KEY = re.compile(r"([A-Ga-g][#♯b♭]?)\s*(.*)")
_MODES = {
    "": "major", "maj": "major", "major": "major", "dur": "major",
    "m": "minor", "min": "minor", "minor": "minor", "-": "minor", "moll": "minor",
}  # fmt: skip
_FLAT_MAJORS = {0, 5, 10, 3, 8, 1}


@dataclass(frozen=True)
class Key:
    """A tonic pitch class and a mode, "major" or "minor"."""

    tonic: int
    mode: str

    @property
    def flats(self) -> bool:
        """Whether notes of this key are spelled with flats."""
        return (self.tonic if self.mode == "major" else self.tonic + 3) % 12 in _FLAT_MAJORS

    @property
    def name(self) -> str:
        """The key in words, such as "F minor"."""
        return f"{pitch_class_name(self.tonic, self.flats)} {self.mode}"


def parse_key(text: str) -> Key:
    """Read "F minor", "Bb", "c# min" or "Gm". Raises ValueError with a sentence for the player."""
    match = _KEY.fullmatch(text.strip())
    if match and (mode := _MODES.get(match[2].strip().lower())):
        # "f minor" and "F minor" are one key; only a bare lower-case letter says nothing of the mode.
        return Key(parse_pitch_class(match[1]), mode)
    raise ValueError(f"“{text}” is not a key: write a note and major or minor, such as F minor")
