"""Keys: a tonic and a major or minor mode."""

import re
from dataclasses import dataclass
from functools import cached_property

from eager_owl.theory.interval import names_above
from eager_owl.theory.pitch import FLAT_NAMES, SHARP_NAMES, Names, parse_pitch_class
from eager_owl.theory.words import quoted

_KEY = re.compile(r"([A-Ga-g][#♯b♭]?)\s*(.*)")
_MODES = {
    "": "major", "maj": "major", "major": "major", "dur": "major",
    "m": "minor", "min": "minor", "minor": "minor", "-": "minor", "moll": "minor",
}  # fmt: skip
_FLAT_MAJORS, _FLAT_MINORS = {5, 10, 3, 8, 1}, {10, 3}


@dataclass(frozen=True)
class Key:
    """A tonic pitch class and a mode, "major" or "minor"."""

    tonic: int
    mode: str

    @cached_property
    def tonic_name(self) -> str:
        """The tonic as this key spells it."""
        flat = self.tonic in (_FLAT_MAJORS if self.mode == "major" else _FLAT_MINORS)
        return (FLAT_NAMES if flat else SHARP_NAMES)[self.tonic]

    @property
    def names(self) -> Names:
        """The twelve pitch classes as this key spells them."""
        return names_above(self.tonic_name)

    @property
    def name(self) -> str:
        """The key in words, such as "F minor"."""
        return f"{self.tonic_name} {self.mode}"


def parse_key(text: str) -> Key:
    """Read "F minor", "Bb", "c# min" or "Gm". Raises ValueError with a sentence for the player."""
    match = _KEY.fullmatch(text.strip())
    if match and (mode := _MODES.get(match[2].strip().lower())):
        # "f minor" and "F minor" are one key; only a bare lower-case letter says nothing of the mode.
        return Key(parse_pitch_class(match[1]), mode)
    raise ValueError(f"{quoted(text)} is not a key: write a note and major or minor, such as F minor")
