"""The reason strip under the tab: chords, intervals, what leads where, brackets of the sources, and a sentence."""

from collections.abc import Sequence
from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPen

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import Theme, color, head_font, text_font
from eager_owl.desktop.views.desk_layout import MARGIN_LEFT, DeskLayout
from eager_owl.rhythm.chart import Chart
from eager_owl.session.explaining import interval_text, leads_by_step
from eager_owl.session.facts import chart_of, key_of
from eager_owl.session.open_solo import OpenSolo
from eager_owl.solo.document import Note
from eager_owl.theory.chord import Chord
from eager_owl.theory.harmony import Function, function_of
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import pretty
from eager_owl.theory.words import plural

_LINE_STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)
_AHEAD = ("", " · ahead", " · behind")

# What the signs mean, for the legend.
LEGEND = (
    ("boxed interval", "a tone of the new chord, met as it comes"),
    ("arc", "leads by step into the note it ends on"),
    ("in brackets", "outside of the source below it"),
    ("line under it", "you said what this note does"),
    ("slanted", "beside its source: a blue note, or on the way"),
    ("bracket", "notes of one source; each source has its own kind of line"),
    ("ahead, behind", "the source is the next chord's already, or still the last one's"),
)


def function_at(chart: Chart, chord: Chord, key: Key) -> Function:
    """What a chord of the form is in the key, by the chord that follows it there first."""
    form = [each for bar in chart.bars for each in dict.fromkeys(bar) if each is not None]
    at = form.index(chord) if chord in form else 0
    following = next((other for other in (*form[at + 1 :], *form) if other != chord), None)
    return function_of(chord, key, following)


class ReasonStrip:
    """Paints the strip of one solo in one layout and theme."""

    def __init__(self, opened: OpenSolo, layout: DeskLayout, theme: Theme) -> None:
        self.opened, self.layout, self.theme = opened, layout, theme

    def paint(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """The strip under these notes."""
        self._paint_chords(painter)
        self._paint_leading(painter)
        self._paint_intervals(painter, notes)
        self._paint_sources(painter, notes)
        self._paint_sentence(painter, notes)

    def _paint_chords(self, painter: QPainter) -> None:
        solo, chart, key = self.opened.solo, chart_of(self.opened.solo), key_of(self.opened.solo)
        if solo.grid is None or not chart.bars:
            return
        grid = solo.grid
        for first, last, chord in chart.spans(
            grid.beat_at(self.layout.start), grid.beat_at(self.layout.end), grid.beats_per_bar
        ):
            left = max(self.layout.x_of(grid.time_of(first)), MARGIN_LEFT) + 1
            right = min(self.layout.x_of(grid.time_of(last)), self.layout.right) - 1
            cell = QRectF(left, self.layout.chords, right - left, 26)
            function = function_at(chart, chord, key) if key else None
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(color(self.theme.cell))
            painter.drawRoundedRect(cell, 3, 3)
            if function is not None and function.words:  # from outside the key: a dashed edge
                painter.setPen(QPen(color(self.theme.quiet), 1, Qt.PenStyle.DashLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(cell.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
            painter.setFont(head_font(themes.TEXT))
            painter.setPen(color(self.theme.ink))
            symbol = pretty(chord.symbol)
            room = int(cell.width()) - 10
            painter.drawText(
                cell.adjusted(8, 0, 0, 0),
                Qt.AlignmentFlag.AlignVCenter,
                painter.fontMetrics().elidedText(symbol, Qt.TextElideMode.ElideRight, room),
            )
            used = painter.fontMetrics().horizontalAdvance(symbol)
            if function is not None:
                self._paint_numeral(painter, cell, used, function, int(first // grid.beats_per_bar), chart)
        self._label(painter, self.layout.chords + 18, "chord")

    def _paint_numeral(
        self, painter: QPainter, cell: QRectF, used: float, function: Function, bar: int, chart: Chart
    ) -> None:
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(self.theme.quiet))
        metrics = QFontMetricsF(painter.font())
        stop = " · stop" if bar % len(chart.bars) in chart.stops else ""
        for words in (f"{function.numeral} · {function.words}{stop}", function.numeral + stop, function.numeral):
            words = pretty(words.replace(" · ·", " ·").removesuffix(" · "))
            if metrics.horizontalAdvance(words) < cell.width() - used - 26:
                painter.drawText(
                    cell.adjusted(0, 0, -8, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words
                )
                return

    def _label(self, painter: QPainter, y: float, words: str) -> None:
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(self.theme.quiet))
        painter.drawText(QPointF(12, y), words)

    def _x_of(self, index: int) -> float:
        return self.layout.x_of(self.opened.notes[index].onset)

    def _paint_leading(self, painter: QPainter) -> None:
        """An arc from each note that leads by step into another."""
        painter.setPen(QPen(color(self.theme.pinned), 1.3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        base = self.layout.intervals - 13
        for event in self.opened.answers.reading.events:
            if not leads_by_step(event):
                continue
            left, right = self._x_of(event.notes[0]), self._x_of(event.notes[-1])
            if right < MARGIN_LEFT or left > self.layout.right:
                continue
            arc = QPainterPath(QPointF(left + 3, base))
            arc.quadTo(QPointF((left + right) / 2, base - 9), QPointF(right - 3, base))
            painter.drawPath(arc)

    def _paint_intervals(self, painter: QPainter, notes: Sequence[Note]) -> None:
        self._label(painter, self.layout.intervals, "interval")
        targets = {
            self.opened.notes[event.notes[-1]].id
            for event in self.opened.answers.reading.events
            if event.kind in ("target", "guide tone")
        }
        right = 0.0
        for note in notes:
            reason = self.opened.reasons.get(note.id)
            if reason is None:
                continue
            beside = reason.standing in ("detour", "borrowed")
            words = interval_text(reason)
            if reason.standing == "outside" and reason.source is not None:
                words = f"({words})"
            painter.setFont(text_font(themes.TEXT, italic=beside))
            painter.setPen(color(self.theme.quiet if beside else self.theme.ink))
            width = QFontMetricsF(painter.font()).horizontalAdvance(words)
            x = self.layout.x_of(note.onset) - width / 2
            if x < right + 3:
                continue
            painter.drawText(QPointF(x, self.layout.intervals), words)
            if note.role:
                under = QRectF(x, self.layout.intervals + 3, width, 2)
                painter.fillRect(under, color(self.theme.pinned))
            if note.id in targets:
                painter.setPen(QPen(color(self.theme.pinned), 1.3))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(QRectF(x - 4, self.layout.intervals - 15, width + 8, 20), 4, 4)
            right = x + width

    def _paint_sources(self, painter: QPainter, notes: Sequence[Note]) -> None:
        reasons = self.opened.reasons
        self._label(painter, self.layout.sources + 11, "source")
        styles: dict[str, Qt.PenStyle] = {}
        told = [note for note in notes if note.id in reasons and reasons[note.id].source]
        spans = [
            (key, list(group))
            for key, group in groupby(told, key=lambda n: (reasons[n.id].source, reasons[n.id].lead, bool(n.source)))
        ]
        for index, ((source, lead, own), group) in enumerate(spans):
            assert source is not None
            if all(reasons[note.id].standing == "outside" for note in group):
                continue
            style = styles.setdefault(source.name, _LINE_STYLES[len(styles) % len(_LINE_STYLES)])
            left = self.layout.x_of(group[0].onset) - 6
            following = (
                self.layout.x_of(spans[index + 1][1][0].onset) - 12 if index + 1 < len(spans) else self.layout.width
            )
            right = min(max(self.layout.x_of(group[-1].onset) + 10, self.layout.x_of(group[-1].end) - 4), following)
            tint = color(self.theme.pinned if len(styles) % 2 else self.theme.ink)
            words = pretty(source.name) + _AHEAD[lead] + (" · yours" if own else "")
            bracket(painter, self.theme, left, right, self.layout.sources, words, tint, style, following - left)

    def _paint_sentence(self, painter: QPainter, notes: Sequence[Note]) -> None:
        if not notes or not self.layout.has_sentence:
            return
        painter.setFont(text_font(themes.TEXT, italic=True))
        painter.setPen(color(self.theme.ink))
        words = self.sentence()
        room = int(self.layout.right - MARGIN_LEFT)
        painter.drawText(
            QPointF(MARGIN_LEFT, self.layout.sentence),
            painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room),
        )

    def sentence(self) -> str:
        """The school's count for the notes on the desk."""
        solo = self.opened.solo
        if not solo.key_text and not solo.chart_text:
            return "No key or chart yet: press F to give them, and the notes are related to them here."
        told = self.opened.answers.told
        count = len(told.reasons)
        words = (
            f"By {told.school.replace('-', ' ')}: {count - told.unexplained} of {count} notes explained, "
            f"{plural(told.switches, 'change')} of source."
        )
        best = self.opened.answers.stories[0]
        if best.bits < told.bits:
            words += f" Shorter by {best.school.replace('-', ' ')} (R)."
        return words


def bracket(
    painter: QPainter,
    theme: Theme,
    left: float,
    right: float,
    y: float,
    words: str,
    tint: QColor,
    style: Qt.PenStyle,
    room: float = 0.0,
) -> None:
    """A bracket over a stretch with words under it, which may take `room` pixels."""
    painter.setPen(QPen(tint, 1.6, style))
    painter.drawLine(QPointF(left, y), QPointF(right, y))
    painter.setPen(QPen(tint, 1.6))
    painter.drawLine(QPointF(left, y), QPointF(left, y + 7))
    painter.drawLine(QPointF(right, y), QPointF(right, y + 7))
    painter.setFont(text_font(themes.SMALL))
    width = max(room, right - left)
    shown = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(width) - 10)
    painter.setPen(color(theme.ink))
    painter.drawText(QPointF(left + 6, y + 17), shown)
