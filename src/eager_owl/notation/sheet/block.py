"""A piece of a page that stays together, drawn from its own corner; and rows that grow where their spans collide."""

from dataclasses import dataclass, field

from eager_owl.notation.sheet.ink import Box, Face, Frame, Ink, Item, Line, Sign, Widths, Words


@dataclass
class Block:
    """Items, and the height they take. A page may turn after it where `turns` says so; `keeps` binds it to the next.

    `footnotes` are what it asks to have told at the foot of its page: the mark, and the words.
    """

    items: list[Item] = field(default_factory=list)
    height: float = 0.0
    turns: bool = False
    keeps: bool = False
    footnotes: list[tuple[str, str]] = field(default_factory=list)

    def boxes(self) -> list[tuple[Words | Sign, Box]]:
        """The words and signs with where they are: none may touch another."""
        return [(item, item.box) for item in self.items if isinstance(item, Words | Sign)]


class Writer:
    """Puts words and signs into a block."""

    def __init__(self, block: Block, widths: Widths) -> None:
        self.block, self.widths = block, widths

    def words(
        self, x: float, y: float, text: str, face: Face, ink: Ink = "ink", align: float = 0.0, note: int | None = None
    ) -> Words:
        """A text whose left end (0), middle (0.5) or right end (1) is at x."""
        width = self.widths(text, face)
        words = Words(x - align * width, y, text, face, width, ink, note)
        self.block.items.append(words)
        return words

    def sign(self, x: float, y: float, name: str, space: float, ink: Ink = "ink", note: int | None = None) -> Sign:
        """A sign of the music typeface."""
        sign = Sign(x, y, name, space, ink, note)
        self.block.items.append(sign)
        return sign

    def add(self, *items: Item) -> None:
        """Anything else."""
        self.block.items.extend(items)

    def line(
        self, x1: float, y1: float, x2: float, y2: float, width: float = 0.6, ink: Ink = "ink", dash: float = 0
    ) -> None:
        """A straight line."""
        self.block.items.append(Line((x1, y1), (x2, y2), width, ink, dash))

    def frame(self, words: Words, ink: Ink, pad: float = 2.6) -> None:
        """A box around words."""
        left, top, right, bottom = words.box
        self.block.items.append(Frame((left - pad, top - pad / 2, right + pad, bottom + pad / 4), ink))


class Lanes:
    """Rows of one height each, the first nearest to what they belong to; a span goes into the first that has room."""

    def __init__(self, height: float, gap: float = 3.0) -> None:
        self.height, self._gap = height, gap
        self._lanes: list[list[tuple[float, float]]] = []

    def take(self, left: float, right: float, rows: int = 1) -> int:
        """The lane that a span is put in, counted from 0; it may be so many lanes high."""
        lane = 0
        while any(self._taken(lane + row, left, right) for row in range(rows)):
            lane += 1
        while len(self._lanes) < lane + rows:
            self._lanes.append([])
        for row in range(rows):
            self._lanes[lane + row].append((left, right))
        return lane

    def _taken(self, lane: int, left: float, right: float) -> bool:
        if lane >= len(self._lanes):
            return False
        return any(a - self._gap < right and left < b + self._gap for a, b in self._lanes[lane])

    @property
    def total(self) -> float:
        """The height of all lanes in use."""
        return self.height * len(self._lanes)


def wrap(text: str, face: Face, room: float, widths: Widths) -> list[str]:
    """Text in lines no wider than `room`."""
    lines: list[str] = []
    space = widths("n n", face) - widths("nn", face)
    used = 0.0
    for word in text.split():
        width = widths(word, face)
        if lines and used + space + width <= room:
            lines[-1] += f" {word}"
            used += space + width
        else:
            lines.append(word)
            used = width
    return lines
