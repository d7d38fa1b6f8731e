"""The help sheet: every command and its key, in one look, over the desk and gone at any key."""

from collections.abc import Iterable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import color, head_font, text_font, worn
from eager_owl.session.commands import Command, key_words

_HEAD, _LARGEST_ROW = 28, 24.0
_MIDDLE = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextDontClip


class HelpSheet(QWidget):
    """Covers the window; any key or click puts it away."""

    def __init__(self, commands: Iterable[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self._groups: dict[str, list[Command]] = {}
        for command in commands:
            if command.keys:
                self._groups.setdefault(command.group, []).append(command)
        listed = (command for group in self._groups.values() for command in group)
        self.setAccessibleName("All keys")
        self.setAccessibleDescription("; ".join(f"{key_words(c.keys[0])}: {c.words}" for c in listed))
        self.hide()

    def toggle(self) -> None:
        """Show over the whole window, or hide."""
        if self.isVisible():
            self.hide()
        else:
            parent = self.parentWidget()
            if parent:
                self.setGeometry(parent.rect())
            self.show()
            self.raise_()
            self.setFocus()

    def keyPressEvent(self, _event: QKeyEvent) -> None:
        self.hide()

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.hide()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), color(worn().desk))
        painter.setPen(QPen(color(worn().rule), 1))
        painter.setBrush(color(worn().paper))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(16, 12, -16, -12), 8, 8)
        columns = self._columns()
        tallest = max(sum(len(self._groups[name]) for name in groups) for groups in columns)
        heads = max(len(groups) for groups in columns) * (_HEAD + 8)
        row = min((self.height() - 76 - heads) / tallest, _LARGEST_ROW)
        width = (self.width() - 72) / len(columns)
        for index, groups in enumerate(columns):
            left, y = 36 + index * width, 26.0
            for name in groups:
                painter.setFont(head_font())
                painter.setPen(color(worn().ink))
                painter.drawText(QRectF(left, y, width, _HEAD), Qt.AlignmentFlag.AlignVCenter, name)
                y += _HEAD
                for command in self._groups[name]:
                    self._paint_command(painter, command, QRectF(left, y, width, row))
                    y += row
                y += 8
        painter.setFont(text_font(themes.SMALL, italic=True))
        painter.setPen(color(worn().quiet))
        foot = QRectF(36, self.height() - 38, self.width() - 72, 20)
        walk = "in panels and on pages Tab walks what can be clicked and Enter takes it; ← → within a picture"
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, walk)
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, "any key puts this sheet away")

    def _columns(self) -> list[list[str]]:
        """Groups shared out over three columns of about equal height: the longest first, to the shortest column."""
        order = list(self._groups)
        columns: list[list[str]] = [[], [], []]

        def height(names: list[str]) -> float:
            return sum(len(self._groups[name]) + 2.0 for name in names)

        for name in sorted(order, key=lambda n: -len(self._groups[n])):
            min(columns, key=height).append(name)
        for names in columns:
            names.sort(key=order.index)
        return sorted(columns, key=lambda names: order.index(names[0]))

    def _paint_command(self, painter: QPainter, command: Command, row: QRectF) -> None:
        painter.setFont(text_font(themes.SMALL, bold=True))
        painter.setPen(color(worn().here))
        painter.drawText(row, _MIDDLE, key_words(command.keys[0]))
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(worn().ink))
        painter.drawText(row.adjusted(142, 0, 0, 0), _MIDDLE, command.words)
