"""The painted parts of the whole solo's page: form, neck and phrases, of which each place leads to its notes."""

from collections.abc import Iterator, Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import Theme, color, head_font, text_font
from eager_owl.desktop.widgets.rows import claims_key
from eager_owl.rhythm.chart import BARS_A_LINE, Chart
from eager_owl.session.explaining import Overview, PhraseCount
from eager_owl.solo.document import INLAID_FRETS, Solo
from eager_owl.theory.pitch import pretty

_BAR_PX = 68
_NECK_PX = 92
_LEAST_TARGET_PX = 14.0
_ROW_PX = 26
_QUIETEST_DB = -24.0
_CHOOSING = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Left, Qt.Key.Key_Right)

Part = tuple[QRectF, object]


class Figure(QWidget):
    """A picture of which parts can be chosen: by a click, or with Tab, Left and Right and Enter.

    `chosen` carries what the part stands for: note ids, or a phrase's index; `walked_to` where the keys have gone.
    """

    chosen = Signal(object)
    walked_to = Signal(QRectF)

    def __init__(self, name: str, height: int, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self._at = 0
        self.setFixedHeight(height)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)

    def parts(self) -> Sequence[Part]:
        """Where each part is drawn, and what it stands for."""
        raise NotImplementedError

    def paint(self, painter: QPainter, exposed: QRectF) -> None:
        """Draw what is exposed."""
        raise NotImplementedError

    def _part_at(self, point: QPointF) -> Part | None:
        return next((part for part in reversed(self.parts()) if part[0].contains(point)), None)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self.paint(painter, QRectF(event.rect()))
            parts = self.parts()
            if self.hasFocus() and parts:
                painter.setPen(QPen(color(self.theme.ink), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(parts[self._at % len(parts)][0], 4, 4)

    def event(self, event: QEvent) -> bool:
        return claims_key(event, _CHOOSING) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        parts = self.parts()
        if event.key() not in _CHOOSING or not parts:
            super().keyPressEvent(event)
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._at = (self._at + (1 if event.key() == Qt.Key.Key_Right else -1)) % len(parts)
            self.walked_to.emit(parts[self._at][0])
            self.update()
        else:
            self.chosen.emit(parts[self._at % len(parts)][1])

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self._part_at(event.position()) is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        part = self._part_at(event.position())
        if part is not None:
            self.chosen.emit(part[1])


class FormFigure(Figure):
    """The bars of the form with their chords and the sources played over each, most notes first."""

    def __init__(self, chart: Chart, overview: Overview, theme: Theme) -> None:
        super().__init__("Sources over the form", _BAR_PX * -(-len(chart.bars) // BARS_A_LINE), theme)
        self._chart, self._overview = chart, overview

    def _cells(self) -> Iterator[QRectF]:
        width = self.width() / BARS_A_LINE
        for bar in range(len(self._chart.bars)):
            yield QRectF(bar % BARS_A_LINE * width + 1, bar // BARS_A_LINE * _BAR_PX + 1, width - 2, _BAR_PX - 3)

    def parts(self) -> Sequence[Part]:
        return [
            (cell, tuple(sorted(id_ for _, ids in played for id_ in ids)))
            for cell, played in zip(self._cells(), self._overview.bars, strict=True)
            if played
        ]

    def paint(self, painter: QPainter, exposed: QRectF) -> None:
        starts = dict(self._chart.sections)
        for bar, (cell, chords) in enumerate(zip(self._cells(), self._chart.bars, strict=True)):
            if not cell.intersects(exposed):
                continue
            painter.setPen(QPen(color(self.theme.rule), 1))
            painter.setBrush(color(self.theme.paper))
            painter.drawRoundedRect(cell, 4, 4)
            inside = cell.adjusted(7, 3, -5, -3)
            painter.setPen(color(self.theme.ink))
            painter.setFont(head_font(themes.TEXT))
            symbols = ["N.C." if chord is None else chord.symbol for chord in dict.fromkeys(chords)]
            painter.drawText(inside, Qt.AlignmentFlag.AlignLeft, pretty("  ".join(symbols)))
            painter.setFont(text_font(themes.SMALL))
            painter.setPen(color(self.theme.quiet))
            painter.drawText(inside, Qt.AlignmentFlag.AlignRight, starts.get(bar, ""))
            if played := self._overview.bars[bar]:
                name, ids = played[0]
                words = f"{len(ids)} of {sum(len(each) for _, each in played)}: {name}"
                wrap = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
                room = inside.adjusted(0, 22, 0, 2)
                if painter.boundingRect(room, wrap, pretty(words)).height() > room.height():
                    words = name  # half a name would be another scale's
                painter.drawText(room, wrap, pretty(words))


class NeckFigure(Figure):
    """Where on the neck the solo is played: a plate a place, larger for more notes."""

    def __init__(self, solo: Solo, overview: Overview, theme: Theme) -> None:
        super().__init__("Places on the neck", _NECK_PX, theme)
        self._instrument, self._places = solo.instrument, overview.places

    def _centre(self, string: int, fret: float) -> QPointF:
        left, right, top, bottom = 8.0, self.width() - 8.0, 8.0, _NECK_PX - 24.0
        step = (right - left) / (self._instrument.frets + 1)
        return QPointF(
            left + step * (fret + 0.5), top + (bottom - top) * (string - 1) / (len(self._instrument.tuning) - 1)
        )

    def parts(self) -> Sequence[Part]:
        return [
            (_around(self._centre(string, fret), _LEAST_TARGET_PX), ids)
            for (string, fret), ids in sorted(self._places.items())
        ]

    def paint(self, painter: QPainter, exposed: QRectF) -> None:
        painter.setFont(text_font(themes.SMALL))
        strings = len(self._instrument.tuning)
        for string in range(1, strings + 1):
            painter.setPen(QPen(color(self.theme.string), 1))
            painter.drawLine(self._centre(string, -0.5), self._centre(string, self._instrument.frets + 0.5))
        painter.setPen(color(self.theme.quiet))
        for fret in INLAID_FRETS:
            if fret <= self._instrument.frets:
                under = self._centre(strings, fret) + QPointF(0.0, 13.0)
                painter.drawText(_around(under, 20.0), Qt.AlignmentFlag.AlignCenter, str(fret))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color(self.theme.pinned))
        most = max((len(ids) for ids in self._places.values()), default=1)
        for (string, fret), ids in self._places.items():
            size = 5 + 8 * (len(ids) / most) ** 0.5
            painter.drawRoundedRect(_around(self._centre(string, fret), size), 2, 2)


class PhrasesFigure(Figure):
    """The phrases one under another: their names, lengths, and how fast and how loud each is against the others."""

    def __init__(self, solo: Solo, overview: Overview, theme: Theme) -> None:
        super().__init__("Phrases", _ROW_PX * (len(overview.phrases) + 1), theme)
        self._counts = overview.phrases
        self._names = [solo.phrases[count.index].name or f"phrase {count.index + 1}" for count in self._counts]

    def _row(self, row: int) -> QRectF:
        return QRectF(1, _ROW_PX * row + 1, self.width() - 2, _ROW_PX - 2)

    def _columns(self, row: QRectF) -> list[QRectF]:
        """Name, seconds, notes, pace and loudness."""
        shares = (0.34, 0.12, 0.1, 0.22, 0.22)
        cells, left = [], row.left() + 8
        for share in shares:
            width = share * (row.width() - 8)
            cells.append(QRectF(left, row.top(), width - 8, row.height()))
            left += width
        return cells

    def parts(self) -> Sequence[Part]:
        return [(self._row(row), count.index) for row, count in enumerate(self._counts, 1)]

    def paint(self, painter: QPainter, exposed: QRectF) -> None:
        heads = ("length", "notes", "notes a second", "loudest")
        for cell, words in zip(self._columns(self._row(0))[1:], heads, strict=True):
            self._write(painter, cell, words, themes.SMALL, self.theme.quiet)
        fastest = max((count.notes_a_second for count in self._counts), default=1.0)
        for row, (count, name) in enumerate(zip(self._counts, self._names, strict=True), 1):
            if self._row(row).intersects(exposed):
                self._paint_row(painter, self._row(row), count, name, fastest)

    def _paint_row(self, painter: QPainter, row: QRectF, count: PhraseCount, name: str, fastest: float) -> None:
        painter.fillRect(QRectF(row.left(), row.top(), 3, row.height()), color(self.theme.rule))
        loudest = count.loudness_db > -0.5
        loudness = "here" if loudest else f"−{-count.loudness_db:.0f} dB"
        cells = self._columns(row)
        self._write(painter, cells[0], name, themes.TEXT, self.theme.ink)
        told = (f"{count.seconds:.1f} s", str(count.notes), f"{count.notes_a_second:.1f}", loudness)
        for cell, words in zip(cells[1:], told, strict=True):
            self._write(painter, cell, words, themes.SMALL, self.theme.quiet)
        levels = (count.notes_a_second / fastest, max(1 - count.loudness_db / _QUIETEST_DB, 0.0))
        for cell, level in zip(cells[3:], levels, strict=True):
            under = QRectF(cell.left(), cell.bottom() - 3, cell.width(), 3)
            painter.fillRect(under, color(self.theme.cell))
            under.setWidth(level * cell.width())
            painter.fillRect(under, color(self.theme.pinned))

    def _write(self, painter: QPainter, cell: QRectF, words: str, points: int, tone: str) -> None:
        painter.setFont(text_font(points))
        painter.setPen(color(tone))
        elided = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(cell.width()))
        painter.drawText(cell, Qt.AlignmentFlag.AlignVCenter, elided)


def _around(centre: QPointF, size: float) -> QRectF:
    return QRectF(centre.x() - size / 2, centre.y() - size / 2, size, size)
