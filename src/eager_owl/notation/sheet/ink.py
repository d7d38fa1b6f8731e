"""What a page is made of: words, signs, lines and shapes, each with the ink it is drawn in and the note it is of."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from eager_owl.notation.sheet.glyphs import SIGNS

# By what they mean, as on the desk: here is where you are, pinned what you fixed.
Ink = Literal["ink", "quiet", "string", "rule", "here", "pinned", "paper"]
Point = tuple[float, float]
Box = tuple[float, float, float, float]  # left, top, right, bottom


@dataclass(frozen=True)
class Face:
    """A typeface: the plain one, or the one of headings and chord names; its size in points."""

    size: float
    head: bool = False
    bold: bool = False
    italic: bool = False


Widths = Callable[[str, Face], float]
# What of a size letters rise above the line, and those with tails fall below it.
RISE, FALL, _NO_FALL = 0.74, 0.24, 0.02
_TAILS = frozenset("gjpqy,;()[]<>/Q♭♯♩")


@dataclass(frozen=True)
class Words:
    """A line of text from its left end on its base line; `width` as it was measured."""

    x: float
    y: float
    text: str
    face: Face
    width: float
    ink: Ink = "ink"
    note: int | None = None

    @property
    def box(self) -> Box:
        """Where its letters are."""
        fall = FALL if _TAILS.intersection(self.text) else _NO_FALL
        return self.x, self.y - RISE * self.face.size, self.x + self.width, self.y + fall * self.face.size


@dataclass(frozen=True)
class Sign:
    """A sign of the music typeface at its origin, a staff space being so many points."""

    x: float
    y: float
    name: str
    space: float
    ink: Ink = "ink"
    note: int | None = None

    @property
    def box(self) -> Box:
        """Where it is drawn."""
        left, bottom, right, top = SIGNS[self.name].box
        return (
            self.x + left * self.space,
            self.y - top * self.space,
            self.x + right * self.space,
            self.y - bottom * self.space,
        )


@dataclass(frozen=True)
class Line:
    """A straight line; a dashed one has dashes of so many points and gaps as long."""

    start: Point
    end: Point
    width: float = 0.6
    ink: Ink = "ink"
    dash: float = 0.0


@dataclass(frozen=True)
class Curve:
    """A cubic curve: a line of one width, or swelling to that width in its middle as ties and slurs do."""

    points: tuple[Point, Point, Point, Point]
    width: float = 0.8
    ink: Ink = "ink"
    swells: bool = False


@dataclass(frozen=True)
class Shape:
    """A filled polygon: a beam, an arrow's head."""

    points: tuple[Point, ...]
    ink: Ink = "ink"


@dataclass(frozen=True)
class Frame:
    """A rounded box around something, or where it is `filled` a ground under it."""

    box: Box
    ink: Ink = "ink"
    filled: bool = False
    round: float = 2.5


@dataclass(frozen=True)
class Wave:
    """An even wave from left to right about a height: vibrato. A swing is `length` long, `depth` to either side."""

    left: float
    right: float
    y: float
    length: float = 5.0
    depth: float = 1.5
    ink: Ink = "ink"


Item = Words | Sign | Line | Curve | Shape | Frame | Wave


def tie(left: float, right: float, y: float, rise: float, ink: Ink = "ink") -> Curve:
    """A tie or slur from left to right, bulging up by `rise` (down where that is below 0)."""
    quarter = min(0.3 * (right - left), 14.0)
    points = ((left, y), (left + quarter, y - rise), (right - quarter, y - rise), (right, y))
    return Curve(points, 1.0, ink, swells=True)
