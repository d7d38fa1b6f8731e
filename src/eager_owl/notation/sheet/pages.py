"""Pages: the head with the chart, blocks one under another, footnotes at the foot, turns where they do least harm."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby

from eager_owl.notation.sheet import faces
from eager_owl.notation.sheet.block import Block, Writer, wrap
from eager_owl.notation.sheet.ink import Box, Frame, Item, Sign, Widths, Words
from eager_owl.notation.sheet.memory import Memory, Numbering
from eager_owl.notation.sheet.passage import Matter
from eager_owl.notation.sheet.presets import Preset
from eager_owl.notation.sheet.system import PassageLayout
from eager_owl.theory.chord import Chord
from eager_owl.theory.pitch import pretty

_CELL_PT, _CELLS_A_LINE = 24.0, 8
# A page may end early at a turn, or between phrases, if it is so full.
_FULL = 0.62
_FOOT_PT = 22.0
LEGEND = (
    "boxed: met as the chord comes · slanted: beside its source · (in brackets): outside it · bracket: where the "
    "notes come from, dashed: ahead of its chord or behind · arc: a step that leads"
)


@dataclass(frozen=True)
class Paper:
    """A page's size and margins in points; a `roll` is as long as what is on it."""

    name: str
    width: float
    height: float
    margin: float = 42.0
    roll: bool = False

    @property
    def turned(self) -> "Paper":
        """The same, lying on its side."""
        return replace(self, width=self.height, height=self.width)


PAPERS = {paper.name: paper for paper in (Paper("A4", 595.28, 841.89), Paper("letter", 612.0, 792.0))}
ROLL = Paper("roll", 780.0, 0.0, 28.0, roll=True)


@dataclass(frozen=True)
class Page:
    """A page: blocks with the place of their upper left corners."""

    width: float
    height: float
    blocks: tuple[tuple[float, float, Block], ...]

    def boxes(self) -> list[tuple[Words | Sign, Box]]:
        """All words and signs with where they are on the page."""
        return [
            (item, (box[0] + x, box[1] + y, box[2] + x, box[3] + y))
            for x, y, block in self.blocks
            for item, box in block.boxes()
        ]


@dataclass(frozen=True)
class Sheet:
    """All pages, and what the sheet is called."""

    title: str
    author: str
    pages: tuple[Page, ...]

    def note_at(self, page: int, x: float, y: float, reach: float = 5.0) -> int | None:
        """The note at a point of a page, or that of the number nearest under it within `reach`."""
        nearest: tuple[float, int] | None = None
        for item, (left, top, right, bottom) in self.pages[page].boxes():
            if item.note is None:
                continue
            away = max(left - x, x - right, 0.0) + max(top - y, y - bottom, 0.0)
            if away <= reach and (nearest is None or away < nearest[0]):
                nearest = (away, item.note)
        return nearest[1] if nearest else None

    def places_of(self, note: int) -> list[tuple[int, Box]]:
        """(page, box) of everything on the sheet that is of a note."""
        return [(i, box) for i, page in enumerate(self.pages) for item, box in page.boxes() if item.note == note]


def lay_sheet(
    matter: Matter, preset: Preset, paper: Paper, widths: Widths, headed: bool = True, memory: Memory | None = None
) -> Sheet:
    """The whole sheet on a paper, under its head unless that stands elsewhere; `widths` measures text in a face.

    `memory` holds what was laid out from one time to the next: only what has changed is laid out anew.
    """
    room = paper.width - 2 * paper.margin
    numbering = Numbering()
    head = _head(matter, preset, room, widths, numbering) if headed else Block()
    blocks: list[Block] = []
    memory = memory or Memory()
    for index, passage in enumerate(matter.passages):
        layout = PassageLayout(matter, passage, preset, widths, room, memory)
        first, before = index == 0, numbering.count
        key = ("passage", id(passage), preset.name, room, first, before, matter.loudest_db)

        def lay(layout: PassageLayout = layout, first: bool = first) -> tuple[list[Block], int]:
            return layout.blocks(numbering, first), numbering.count

        own, numbering.count = memory.get(key, lay, passage)
        blocks += own
    memory.forget()
    if not blocks:
        blocks = [_nothing(widths)]
    if preset.intervals:
        blocks.append(_legend(room, widths))
    pages = [(head, *blocks)] if paper.roll else _paginate(head, blocks, paper, widths, room)
    drawn = tuple(_page(each, paper, widths, room, number, len(pages)) for number, each in enumerate(pages, 1))
    return Sheet(matter.title, matter.author, drawn)


def _head(matter: Matter, preset: Preset, room: float, widths: Widths, numbering: Numbering) -> Block:
    """Title and facts, and the chart as a table."""
    block = Block(keeps=True)
    writer = Writer(block, widths)
    right_widths = [widths(fact, faces.FACT) for fact in matter.facts]
    title_room = room - max([0.0, *right_widths]) - 24.0
    y = 26.0
    for line in wrap(matter.title, faces.TITLE, title_room, widths)[:3] or [""]:
        writer.words(0, y, line, faces.TITLE)
        y += 28.0
    y -= 12.0
    for remark in matter.remarks if preset.remarks else ():
        mark = numbering.next()
        writer.words(min(title_room, block.items[0].width + 2), 12.0, mark, faces.RAISED, "here")  # type: ignore[union-attr]
        block.footnotes.append((mark, remark.text))
    if matter.about:
        for line in wrap(matter.about, faces.ABOUT, title_room, widths)[:2]:
            writer.words(0, y + 4.0, line, faces.ABOUT, "quiet")
            y += 13.0
    fact_y = 14.0
    for index, fact in enumerate(matter.facts):
        writer.words(room, fact_y, fact, faces.FACT, "ink" if index == 0 else "quiet", 1.0)
        fact_y += 13.5
    block.height = max(y, fact_y) + 6.0
    if preset.chart and matter.chart.bars:
        block.height = _chart(writer, matter, room, block.height + 4.0) + 4.0
    return block


def _chart(writer: Writer, matter: Matter, room: float, top: float) -> float:
    """The form, eight bars a line; a line begins anew with a section. Answers where it ends."""
    sections = dict(matter.chart.sections)
    widest = max(
        (sum(writer.widths(pretty(c.symbol) if c else "N.C.", faces.CHART) + 5 for c in _joined(bar)) + 5
         for bar in matter.chart.bars), default=0.0,
    )  # fmt: skip
    a_line = max(1, min(_CELLS_A_LINE, int(room // widest) if widest else _CELLS_A_LINE))
    a_line = next(n for n in (8, 4, 2, 1) if n <= a_line)
    width = room / a_line
    column, y = 0, top
    for index, bar in enumerate(matter.chart.bars):
        if index and (column == a_line or (index in sections and column)):
            column, y = 0, y + _CELL_PT
        left = column * width
        box = (left, y, left + width, y + _CELL_PT)
        writer.add(Frame(box, "rule", round=0))
        at = left + 6.0
        for chord in _joined(bar):
            symbol = pretty(chord.symbol) if chord else "N.C."
            at += writer.words(at, y + 15.5, symbol, faces.CHART).width + 5.0
        if index in sections:
            name = sections[index]
            if writer.widths(name, faces.RAISED) < left + width - at:
                writer.words(left + width - 4.0, y + 8.0, name, faces.RAISED, "here", 1.0)
        column += 1
    return y + _CELL_PT


def _joined(bar: Sequence[Chord | None]) -> list[Chord | None]:
    """The chords of a bar, one that is held only once."""
    return [chord for chord, _ in groupby(bar)]


def _legend(room: float, widths: Widths) -> Block:
    block = Block()
    writer = Writer(block, widths)
    y = 14.0
    for line in wrap(LEGEND, faces.SMALL, room, widths):
        writer.words(0, y, line, faces.SMALL, "quiet")
        y += 11.5
    block.height = y
    return block


def _nothing(widths: Widths) -> Block:
    block = Block(height=40.0)
    Writer(block, widths).words(0, 24.0, "There are no notes yet.", faces.SENTENCE, "quiet")
    return block


def _foot(blocks: Sequence[Block], widths: Widths, room: float) -> tuple[Block, float]:
    """Footnotes of some blocks, under a rule; its height is 0 where there are none."""
    block = Block()
    writer = Writer(block, widths)
    notes = [note for each in blocks for note in each.footnotes]
    y = 14.0
    for mark, words in notes:
        writer.words(0, y, mark, faces.RAISED, "here")
        for line in wrap(words, faces.FOOTNOTE, room - 14.0, widths):
            writer.words(14.0, y, line, faces.FOOTNOTE, "quiet")
            y += 12.5
    if notes:
        writer.line(0, 0, room, 0, 0.5, "string")
        block.height = y
    return block, block.height


def _paginate(
    head: Block, blocks: Sequence[Block], paper: Paper, widths: Widths, room: float
) -> list[tuple[Block, ...]]:
    """Blocks on pages: as many as fit, broken after a rest or a phrase where a page is full enough there."""
    space = paper.height - 2 * paper.margin - _FOOT_PT
    pages: list[tuple[Block, ...]] = []
    page: list[Block] = [head]
    index = 0
    while index < len(blocks):
        group = [blocks[index]]
        while group[-1].keeps and index + len(group) < len(blocks):
            group.append(blocks[index + len(group)])
        trial = [*page, *group]
        fits = sum(block.height for block in trial) + _foot(trial, widths, room)[1] <= space
        if fits or not page or page == [head]:
            page = trial
            index += len(group)
            continue
        kept = _turn(page, space)
        index -= len(page) - len(kept)
        pages.append(tuple(kept))
        page = []
    return [*pages, tuple(page)] if page else pages


def _turn(page: list[Block], space: float) -> list[Block]:
    """How much of a full page is kept: up to the last good turn, if it is full enough there."""
    for count in range(len(page), max(0, len(page) - 4), -1):
        kept = page[:count]
        if kept[-1].turns and not kept[-1].keeps and sum(block.height for block in kept) >= _FULL * space:
            return kept
    while len(page) > 1 and page[-1].keeps:
        page = page[:-1]
    return page


def _page(blocks: Sequence[Block], paper: Paper, widths: Widths, room: float, number: int, count: int) -> Page:
    placed: list[tuple[float, float, Block]] = []
    y = paper.margin
    foot, foot_height = _foot(blocks, widths, room)
    spare = 0.0
    if not paper.roll and number < count and len(blocks) > 1:
        # A page that is not the last is filled, up to a little air between its systems.
        used = sum(block.height for block in blocks) + foot_height
        spare = min(10.0, max(0.0, paper.height - 2 * paper.margin - _FOOT_PT - used) / (len(blocks) - 1))
    for block in blocks:
        placed.append((paper.margin, y, block))
        y += block.height + (0.0 if block.keeps else spare)
    if paper.roll:
        placed.append((paper.margin, y + 6.0, foot))
        return Page(paper.width, y + foot_height + paper.margin, tuple(placed))
    if foot_height:
        placed.append((paper.margin, paper.height - paper.margin - _FOOT_PT - foot_height, foot))
    if count > 1:
        numbered = Block()
        Writer(numbered, widths).words(room / 2, 0.0, f"{number} of {count}", faces.SMALL, "quiet", 0.5)
        placed.append((paper.margin, paper.height - paper.margin + 4.0, numbered))
    return Page(paper.width, paper.height, tuple(placed))


def items_of(page: Page) -> list[tuple[float, float, Item]]:
    """Everything on a page with the corner that it is drawn from."""
    return [(x, y, item) for x, y, block in page.blocks for item in block.items]
