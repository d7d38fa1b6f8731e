"""The help sheet: every command and its key, over the desk; any key turns the page, and after the last it is gone."""

from collections.abc import Iterable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import color, head_font, text_font, worn
from eager_owl.session.commands import Command, key_words

_LEAST_ROW, _LARGEST_ROW = 16.0, 24.0
_TOP, _FOOT, _SIDE = 26, 50, 36
_COLUMN_PX, _KEYS_PX = 370, 142  # a column, and the keys in it
_HEAD_ROWS, _AFTER_ROWS = 1.45, 0.5  # what a heading takes, and the space after a group
_MIDDLE = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextDontClip

Line = str | Command  # a heading, or a command
Column = list[Line]


class HelpSheet(QWidget):
    """Covers the window."""

    def __init__(self, commands: Iterable[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self._groups: dict[str, list[Command]] = {}
        for command in commands:
            if command.keys:
                self._groups.setdefault(command.group, []).append(command)
        listed = (command for group in self._groups.values() for command in group)
        self.setAccessibleName("All keys")
        self.setAccessibleDescription("; ".join(f"{key_words(c.keys[0])}: {c.words}" for c in listed))
        self.page = 0
        self.hide()

    def toggle(self) -> None:
        """Show over the whole window, or hide."""
        if self.isVisible():
            self.hide()
            return
        parent = self.parentWidget()
        if parent:
            self.setGeometry(parent.rect())
        self.page = 0
        self.show()
        self.raise_()
        self.setFocus()

    def turn(self) -> None:
        """The next page, or away after the last."""
        if self.page + 1 < len(self.pages()):
            self.page += 1
            self.update()
        else:
            self.hide()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            self.turn()

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.turn()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.page = 0

    # Pages

    @property
    def _columns(self) -> int:
        return max(self.width() // _COLUMN_PX, 1)

    @property
    def _room(self) -> float:
        """Pixels that a column has for its rows."""
        return float(self.height() - _TOP - _FOOT - 12)

    def pages(self) -> list[list[Column]]:
        """Columns, page by page: all on one page if they can be, else in order, as many as a column has room for."""
        balanced = self._balanced()
        if max(map(_rows, balanced)) * _LEAST_ROW <= self._room:
            return [balanced]
        pages: list[list[Column]] = [[[]]]
        for name, commands in self._groups.items():
            lines: Column = [name, *commands]
            column = pages[-1][-1]
            if column and _rows([*column, *lines]) * _LEAST_ROW > self._room:
                if len(pages[-1]) == self._columns:
                    pages.append([])
                pages[-1].append([])
            pages[-1][-1] += lines
        return pages

    def _balanced(self) -> list[Column]:
        """All groups in columns of about equal height: the longest first, to the shortest column."""
        order = list(self._groups)
        shares: list[list[str]] = [[] for _ in range(self._columns)]
        for name in sorted(order, key=lambda name: -len(self._groups[name])):
            min(shares, key=lambda names: _rows(self._lines(names))).append(name)
        filled = [sorted(names, key=order.index) for names in shares if names]
        return [self._lines(names) for names in sorted(filled, key=lambda names: order.index(names[0]))]

    def _lines(self, names: Iterable[str]) -> Column:
        lines: Column = []
        for name in names:
            lines += [name, *self._groups[name]]
        return lines

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.fillRect(self.rect(), color(worn().desk))
            painter.setPen(QPen(color(worn().rule), 1))
            painter.setBrush(color(worn().paper))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(16, 12, -16, -12), 8, 8)
            pages = self.pages()
            columns = pages[min(self.page, len(pages) - 1)]
            row = min(self._room / max(map(_rows, columns)), _LARGEST_ROW)
            width = (self.width() - 2 * _SIDE) / max(self._columns, len(columns))
            for index, column in enumerate(columns):
                self._paint_column(painter, column, QRectF(_SIDE + index * width, _TOP, width, row))
            self._paint_foot(painter, len(pages))

    def _paint_column(self, painter: QPainter, column: Column, line: QRectF) -> None:
        for index, entry in enumerate(column):
            if isinstance(entry, str):
                if index:
                    line.translate(0, _AFTER_ROWS * line.height())
                painter.setFont(head_font())
                painter.setPen(color(worn().ink))
                painter.drawText(line, _MIDDLE, entry)
                line.translate(0, _HEAD_ROWS * line.height())
            else:
                self._paint_command(painter, entry, line)
                line.translate(0, line.height())

    def _paint_command(self, painter: QPainter, command: Command, line: QRectF) -> None:
        painter.setFont(text_font(themes.SMALL, bold=True))
        painter.setPen(color(worn().here))
        painter.drawText(line, _MIDDLE, key_words(command.keys[0]))
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(worn().ink))
        painter.drawText(line.adjusted(_KEYS_PX, 0, 0, 0), _MIDDLE, command.words)

    def _paint_foot(self, painter: QPainter, pages: int) -> None:
        painter.setFont(text_font(themes.SMALL, italic=True))
        painter.setPen(color(worn().quiet))
        foot = QRectF(_SIDE, self.height() - 38, self.width() - 2 * _SIDE, 20)
        more = self.page + 1 < pages
        turns = f"page {self.page + 1} of {pages}: any key turns it" if more else "any key puts this sheet away"
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, turns)
        walk = "in panels Tab walks what can be clicked and Enter takes it; ← → within a picture"
        if painter.fontMetrics().horizontalAdvance(walk + turns) < foot.width() - 20:
            painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, walk)


def _rows(column: Column) -> float:
    """How many rows a column takes."""
    heads = sum(isinstance(entry, str) for entry in column)
    return len(column) - heads + _HEAD_ROWS * heads + _AFTER_ROWS * max(heads - 1, 0)
