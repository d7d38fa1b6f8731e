"""Schools of explaining. Each module here holds one ReasonSchool named SCHOOL; adding one adds one file."""

import importlib
import pkgutil
from collections.abc import Callable
from dataclasses import dataclass

from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import pitch_class_name
from eager_owl.theory.scale import SCALES, Scale


@dataclass(frozen=True)
class Source:
    """A scale on a root that notes may come from. `cost` is how far-fetched the school finds it a note.

    `follows_chord` says that it changes with the chord, so that changing it there is no change of mind;
    `also` is another name for the same notes.
    """

    root: int
    scale: Scale
    flats: bool
    cost: float = 0.0
    follows_chord: bool = False
    also: str = ""

    @property
    def name(self) -> str:
        """Such as "F minor pentatonic"."""
        return f"{pitch_class_name(self.root, self.flats)} {self.scale.name}"

    @property
    def degrees(self) -> dict[int, str]:
        """Semitones above the root to label."""
        return self.scale.degrees

    def holds(self, pitch: int) -> bool:
        """Whether a pitch belongs to the scale."""
        return (pitch - self.root) % 12 in self.degrees

    def explains(self, fretted: int, landed: int) -> bool:
        """Whether a note belongs: a bent one by where it lands and, unless it only passes by, where it starts."""
        return self.holds(landed) and (self.holds(fretted) or fretted != landed)

    def is_blue(self, pitch: int) -> bool:
        """Whether a pitch is the blue note of a blues scale."""
        blue = {"blues": "b5", "major blues": "b3"}.get(self.scale.name)
        return blue is not None and self.degrees.get((pitch - self.root) % 12) == blue


@dataclass(frozen=True)
class ReasonSchool:
    """A way of explaining notes: its name, its creed in a line, and the sources it sees over a chord in a key."""

    name: str
    creed: str
    sources: Callable[[Chord | None, Key | None], list[Source]]


def reason_schools() -> dict[str, ReasonSchool]:
    """All schools by name."""
    modules = sorted(module.name for module in pkgutil.iter_modules(__path__))
    schools = (importlib.import_module(f"{__name__}.{module}").SCHOOL for module in modules)
    return {school.name: school for school in schools}


def source(root: int, name: str, flats: bool, cost: float, follows: bool = False, also: str = "") -> Source:
    """A source of a named scale."""
    return Source(root % 12, SCALES[name], flats, cost, follows, also)
