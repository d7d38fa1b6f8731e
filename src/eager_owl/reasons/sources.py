"""What notes may come from: a scale, an arpeggio or a root cell on a root."""

import re
from dataclasses import dataclass, field

from eager_owl.theory.chord import Chord
from eager_owl.theory.interval import names_above
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES, Names, parse_pitch_class, pitch_name
from eager_owl.theory.scale import RELATIVES, SCALES, Scale

_ROOTED = re.compile(r"([A-G][#♯b♭]?)(.*)")


@dataclass(frozen=True)
class Source:
    """A scale on a root. Two are equal where they say the same; how they are spelled, and what a school
    thinks of them, is left out.

    `cost` is how far-fetched the school finds it; `follows_chord` says that it changes with the chord, so that
    changing it there is no change of mind; `plus` is a chord whose tones are welcome besides the scale's, each at
    the price of `borrowing`; `register` is the root's MIDI pitch where only the scale's own tones around it count,
    as in a root cell.
    """

    root: int
    scale: Scale
    names: Names = field(compare=False)
    cost: float = field(default=0.0, compare=False)
    follows_chord: bool = field(default=False, compare=False)
    plus: Chord | None = field(default=None, compare=False)
    borrowing: float = field(default=0.6, compare=False)
    register: int | None = None

    @property
    def name(self) -> str:
        """Such as "F minor pentatonic" or "Fm7 arpeggio"."""
        if self.scale.name == "chromatic":
            return "chromatic"
        return f"{self.names[self.root]}{'' if self.scale.arpeggio else ' '}{self.scale.name}"

    @property
    def also(self) -> str:
        """The same notes under another name, or where the root lies; empty where there is nothing to say."""
        if self.register is not None:
            return f"root at {pitch_name(self.register, self.names)}"
        if self.scale.name not in RELATIVES:
            return ""
        name, up = RELATIVES[self.scale.name]
        return f"{self.names[(self.root + up) % 12]} {name}"

    @property
    def degrees(self) -> dict[int, str]:
        """Semitones above the root to label."""
        return self.scale.degrees

    def holds(self, pitch: int) -> bool:
        """Whether a pitch belongs to it."""
        if self.register is not None:
            return pitch - self.register in _CELL
        return (pitch - self.root) % 12 in self.degrees or (
            self.plus is not None and pitch % 12 in self.plus.plain_pitch_classes
        )

    def borrows(self, pitch: int) -> bool:
        """Whether a pitch belongs to it for the chord's sake only."""
        return self.plus is not None and (pitch - self.root) % 12 not in self.degrees and self.holds(pitch)

    def explains(self, fretted: int, landed: int) -> bool:
        """Whether a note belongs: a bent one by where it lands."""
        return self.holds(landed) and not (
            self.register is not None and landed - self.register == 7 and fretted == landed
        )


# A root cell's tones from its root: the flat seven under it, flat three and four over it, and the five by a bend.
_CELL = (-2, 0, 3, 5, 7)


def source(
    root: int, name: str, names: Names, cost: float = 0.0, follows: bool = False, plus: Chord | None = None
) -> Source:
    """A source of a named scale."""
    return Source(root % 12, SCALES[name], names, cost, follows, plus)


def homes_of(key: Key) -> list[Source]:
    """The scale that a key is at home in, and in plain minor the one with the raised sixth and seventh."""
    names = [key.scale_name, *(["melodic minor"] if key.scale_name == "natural minor" else [])]
    return [source(key.tonic, name, key.names) for name in names]


def arpeggio(chord: Chord, names: Names, cost: float = 0.0, follows: bool = False) -> Source:
    """A chord's tones as a source."""
    return Source(chord.root, Scale(f"{chord.suffix} arpeggio", chord.labels, True), names, cost, follows)


def root_cell(root_pitch: int, names: Names, cost: float = 0.0) -> Source:
    """The root cell around a root in its register."""
    return Source(root_pitch % 12, SCALES["root cell"], names, cost, register=root_pitch)


def parse_source(text: str) -> Source:
    """Read a source's name as `Source.name` writes it. Raises ValueError with a sentence for the player."""
    from eager_owl.theory.chord import parse_chord

    wanted = text.strip()
    if wanted == "chromatic":
        return source(0, "chromatic", FLAT_NAMES)
    if wanted.endswith(" arpeggio"):
        chord = parse_chord(wanted.removesuffix(" arpeggio"))
        return arpeggio(chord, chord.names)
    match = _ROOTED.fullmatch(wanted)
    scales = {name.lower(): name for name in SCALES}
    if match and (name := scales.get(match[2].strip().lower())):
        return source(parse_pitch_class(match[1]), name, names_above(match[1]))
    raise ValueError(
        f"“{wanted}” is not a source: write a root and a scale, such as F minor pentatonic, or a chord and arpeggio"
    )
