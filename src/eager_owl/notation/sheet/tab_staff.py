"""The tab: string lines, fret numbers and the techniques as the field writes them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from eager_owl.notation.score import Event
from eager_owl.notation.sheet import faces
from eager_owl.notation.sheet.block import Lanes, Writer
from eager_owl.notation.sheet.glyphs import SIGNS
from eager_owl.notation.sheet.ink import Curve, Frame, Shape, Wave, Widths, tie
from eager_owl.notation.sheet.placed import GRACE_STEP, Placed, Standing
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import Technique

LANE_PT = 9.6
_BEND_PT, _RELEASE_PT, _AWAY_PT, _INTO_PT = 13.0, 11.0, 10.0, 9.0
_FRACTIONS = {0: "", 1: "¼", 2: "½", 3: "¾"}
_HELD_BEATS = 1.0
_SPANS = (("palm_mute", "P.M."), ("let_ring", "let ring"), ("rake", "rake"), ("dip", "dip"), ("dive", "dive"))


@dataclass(frozen=True)
class Over:
    """Something that stands over the staff: its span, how many lanes high, and how it is drawn at a lane's foot."""

    left: float
    right: float
    rows: int
    draw: Callable[[float], object]


def fret_label(note: Note) -> str:
    """A note's number as it stands on its line."""
    if note.fret is None:
        return "?"
    if note.muted:
        return "×"
    if note.technique("ghost"):
        return f"({note.fret})"
    return f"<{note.fret}>" if note.technique("harmonic") else str(note.fret)


def size_label(bend: Technique) -> str:
    """How far a bend goes, in whole steps: "½", "full", "1½"."""
    quarters = max(1, round(2 * bend.bend_semitones))
    whole, rest = divmod(quarters, 4)
    return "full" if (whole, rest) == (1, 0) else f"{whole or ''}{_FRACTIONS[rest]}"


def tab_extents(event: Event, widths: Widths, marked: Callable[[Note], str]) -> tuple[float, float]:
    """How far an event's signs on the tab reach to the left and right of its place."""
    left = right = 0.0
    for note in event.notes:
        half = widths(fret_label(note), faces.FRET) / 2 + 1.0
        beyond = 0.0
        if not event.tied_from:
            if note.bend is not None:
                beyond = _BEND_PT + (_RELEASE_PT if note.bend.kind.released else 0.0)
                beyond = max(beyond, widths(size_label(note.bend), faces.SIZE) / 2 + _BEND_PT - 3)
            elif note.technique("slide_out"):
                beyond = _AWAY_PT
            if words := marked(note):
                beyond = max(beyond, widths(words, faces.RAISED) + 1.0)
            if note.technique("slide_in"):
                left = max(left, half + _INTO_PT)
        elif half:
            half += 3.0
        left, right = max(left, half), max(right, half + beyond)
    if event.graces:
        left = max(left, 4.0 + GRACE_STEP * len(event.graces) + 5.0)
    return left, right


class TabStaff:
    """Draws one system's tab, its top line at `top`."""

    def __init__(self, writer: Writer, placed: Placed, strings: int, marked: Callable[[Note], str]) -> None:
        self._writer, self._placed, self._strings, self._marked = writer, placed, strings, marked
        self.height = (strings - 1) * faces.STRING_GAP

    def _y(self, top: float, note: Note) -> float:
        return top + ((note.string or 1) - 1) * faces.STRING_GAP

    # What stands over it, before it is known how high that is

    def over(self, top: float) -> list[Over]:
        """All that stands over the staff, whose top line will be at `top`; nearest things first."""
        found: list[Over] = []
        notes = list(self._placed.started())
        for standing in notes:
            note = standing.note
            if note.bend is not None:
                found.append(self._bend(standing, top))
        found += self._joined(notes)
        for standing in notes:
            found += self._held(standing)
        for name, words in _SPANS:
            found += self._spans(notes, name, words)
        return found

    def _bend(self, standing: Standing, top: float) -> Over:
        note, writer = standing.note, self._writer
        bend = note.bend
        assert bend is not None
        start = standing.x + writer.widths(fret_label(note), faces.FRET) / 2 + 1.0
        tip = start + (2.0 if bend.kind.struck_bent else _BEND_PT - 4.0)
        size = size_label(bend)
        width = writer.widths(size, faces.SIZE)
        end = tip + (_RELEASE_PT if bend.kind.released else 0.0)
        low = self._y(top, note) - 2.0

        def draw(foot: float) -> None:
            high = foot - 5.0
            if bend.kind.struck_bent:
                writer.line(tip, low, tip, high + 2.5, 0.8)
            else:
                writer.add(Curve(((start, low + 1), (tip - 2.0, low + 1), (tip, low - 5), (tip, high + 2.5)), 0.8))
            writer.add(Shape(((tip - 2.2, high + 4.2), (tip, high), (tip + 2.2, high + 4.2))))
            writer.words(tip, high - 2.0, size, faces.SIZE, align=0.5, note=note.id)
            if bend.kind.released:
                writer.add(Curve(((tip, high + 1), (end - 1, high + 1), (end, high + 5), (end, low - 2.0)), 0.8))
                writer.add(Shape(((end - 2.2, low - 4.2), (end, low), (end + 2.2, low - 4.2))))
            elif standing.end - tip > 24 and float(standing.event.length) >= _HELD_BEATS:
                writer.line(tip + 4.0, high, standing.end - 6.0, high, 0.6, "quiet", 2.0)

        held = standing.end - 6.0 if float(standing.event.length) >= _HELD_BEATS else 0.0
        return Over(min(start, tip - width / 2), max(end, tip + width / 2, held), 2, draw)

    def _joined(self, notes: Sequence[Standing]) -> list[Over]:
        """Letters over hammer-ons, pull-offs and taps, between the notes they join."""
        found: list[Over] = []
        for standing in notes:
            note = standing.note
            arrival = note.technique("hammer_on", "pull_off", "tap")
            if arrival is None:
                continue
            before = self._before(standing)
            middle = standing.x if before is None or arrival.name == "tap" else (before.x + standing.x) / 2
            letter = "T" if arrival.name == "tap" else arrival.kind.before
            if any(abs(o.left + o.right - 2 * middle) < 1 for o in found):
                continue  # of a double stop, said once
            width = self._writer.widths(letter, faces.MARK)

            def draw(foot: float, middle: float = middle, letter: str = letter, id_: int = note.id) -> None:
                self._writer.words(middle, foot - 2.2, letter, faces.MARK, align=0.5, note=id_)

            found.append(Over(middle - width / 2, middle + width / 2, 1, draw))
        return found

    def _before(self, standing: Standing) -> Standing | None:
        """The note that a legato one comes from, if it stands in this system."""
        earlier = [s for s in self._placed.started() if s.x < standing.x - 1.0]
        same = [s for s in earlier[-8:] if s.note.string == standing.note.string]
        candidates = same or earlier
        return candidates[-1] if candidates else None

    def _held(self, standing: Standing) -> list[Over]:
        """Vibrato, trills and dots over one note."""
        note, writer = standing.note, self._writer
        found = []
        end = max(standing.end - 5.0, standing.x + 8.0)
        if note.technique("trill"):
            start = standing.x - 4.0
            after = start + SIGNS["ornamentTrill"].advance * 4.4 + 1.0

            def trill(foot: float) -> None:
                writer.sign(start, foot - 1.5, "ornamentTrill", 4.4, note=note.id)
                self._wiggle("wiggleTrill", after, max(end, after + 5), foot - 0.5, 4.4)

            found.append(Over(start, max(end, after + 5), 1, trill))
        if note.technique("vibrato"):
            start = standing.x - 2.0 if not note.technique("trill") else standing.x

            def vibrato(foot: float) -> None:
                writer.add(Wave(start, end, foot - 4.4))

            found.append(Over(start, end, 1, vibrato))
        if note.technique("staccato"):

            def dot(foot: float) -> None:
                writer.sign(standing.x - 0.9, foot - 2.5, "articStaccatoAbove", 5.4, note=note.id)

            found.append(Over(standing.x - 2, standing.x + 2, 1, dot))
        return found

    def _wiggle(self, name: str, left: float, right: float, y: float, space: float) -> None:
        advance = SIGNS[name].advance * space
        for turn in range(max(1, int((right - left) / advance))):
            self._writer.sign(left + turn * advance, y, name, space)

    def _spans(self, notes: Sequence[Standing], name: str, words: str) -> list[Over]:
        """A word and a dashed line over notes in a row that share a technique."""
        found = []
        run: list[Standing] = []
        for standing in [*notes, None]:
            if standing is not None and any(t.name == name for t in standing.note.techniques):
                run.append(standing)
                continue
            if run:
                found.append(self._span(run[0].x, run[-1].x, run[-1].end, words, run[0].note.id))
            run = []
        return found

    def _span(self, left: float, last: float, end: float, words: str, note: int) -> Over:
        width = self._writer.widths(words, faces.MARK)
        start = left - 4.0
        right = max(start + width, min(last + 5.0, end))

        def draw(foot: float) -> None:
            self._writer.words(start, foot - 2.4, words, faces.MARK, note=note)
            if right - (start + width) > 6:
                self._writer.line(start + width + 3, foot - 4.6, right, foot - 4.6, 0.6, dash=2.0)
                self._writer.line(right, foot - 4.6, right, foot - 1.6, 0.6)

        return Over(start, right, 1, draw)

    # The staff itself

    def draw(self, top: float) -> None:
        """Lines, bar lines, numbers, slides and arcs."""
        writer, placed = self._writer, self._placed
        for string in range(self._strings):
            y = top + string * faces.STRING_GAP
            writer.line(placed.left, y, placed.right, y, 0.5, "string")
        self._bar_lines(top)
        for bar in placed.bars:
            for voice in range(bar.voices):
                for event, x in bar.events(voice):
                    self._event(event, x, top)
        for standing in placed.started():
            self._arrival(standing, top)

    def _bar_lines(self, top: float) -> None:
        writer, bars = self._writer, self._placed.bars
        bottom = top + self.height
        if bars[0].number >= 1:
            writer.line(self._placed.left, top, self._placed.left, bottom, 0.8)
        for bar in bars:
            if bar.spaced.closed:
                writer.line(bar.right, top, bar.right, bottom, 0.8)

    def _event(self, event: Event, x: float, top: float) -> None:
        for turn, grace in enumerate(reversed(event.graces), 1):
            at = x - 4.0 - GRACE_STEP * turn
            self._number(
                grace, at, self._y(top, grace), str(grace.fret if grace.fret is not None else "?"), small=True
            )
            same = [note for note in event.notes if note.string == grace.string]
            if turn == 1 and same:
                y = self._y(top, grace) - 4.5
                self._writer.add(tie(at, x - 1.0, y, 3.0))
        for note in event.notes:
            label = fret_label(note)
            if event.tied_from:
                if event.beat % 1 or event.beat != self._bar_start(x):
                    continue
                label = f"({note.fret})" if note.fret is not None else label
            self._number(note, x, self._y(top, note), label, tied=event.tied_from)

    def _bar_start(self, x: float) -> Fraction:
        """The first beat of the bar that lies at a place: there a tied number is repeated."""
        return min(self._placed.bar_of(x).beats)

    def _number(self, note: Note, x: float, y: float, label: str, small: bool = False, tied: bool = False) -> None:
        face = faces.GRACE if small else faces.FRET
        width = self._writer.widths(label, face)
        # The string line stops short of its number.
        ground = (x - width / 2 - 1.2, y - 3.6, x + width / 2 + 1.2, y + 3.6)
        self._writer.add(Frame(ground, "paper", filled=True, round=0))
        ink = "quiet" if tied else "ink"
        self._writer.words(x, y + 0.36 * face.size, label, face, ink, 0.5, note.id)  # type: ignore[arg-type]
        if not tied and (words := self._marked(note)):
            self._writer.words(x + width / 2 + 0.8, y - 2.6, words, faces.RAISED, "here", note=note.id)

    def _arrival(self, standing: Standing, top: float) -> None:
        """Slides into and out of a note, and the arc of what is slurred to it."""
        note, writer = standing.note, self._writer
        y = self._y(top, note)
        half = writer.widths(fret_label(note), faces.FRET) / 2 + 2.0
        if (slide := note.technique("slide")) is not None:
            before = self._before(standing)
            down = slide.falls or (before is not None and before.note.pitch > note.pitch)
            tilt = -2.6 if down else 2.6
            start = standing.x - half - 9.0
            if before is not None and before.note.string == note.string:
                start = before.x + writer.widths(fret_label(before.note), faces.FRET) / 2 + 2.0
                if before.note.bend is not None:
                    start = standing.x - half - 7.0
            writer.line(start, y + tilt, standing.x - half, y - tilt, 0.9)
        if (slid := note.technique("slide_in")) is not None:
            tilt = -2.6 if slid.falls else 2.6
            writer.line(standing.x - half - 7.0, y + tilt, standing.x - half, y - tilt, 0.9)
        if (slid := note.technique("slide_out")) is not None:
            tilt = 2.6 if (slid.semitones or -1.0) > 0 else -2.6
            writer.line(standing.x + half, y + tilt, standing.x + half + 7.0, y - tilt, 0.9)
        if note.technique("hammer_on", "pull_off") and (before := self._before(standing)) is not None:
            over = min(y, self._y(top, before.note)) - 4.8
            writer.add(tie(before.x + 1.5, standing.x - 1.5, over, 4.0))


def lay_over(found: Sequence[Over]) -> tuple[list[tuple[Over, int]], float]:
    """Each thing with its lane, and the height of all lanes."""
    lanes = Lanes(LANE_PT)
    laid = [(over, lanes.take(over.left, over.right, over.rows)) for over in found]
    return laid, lanes.total
