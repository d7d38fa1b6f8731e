"""A page of facts: headings, names with what is told of them, buttons that lead on."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import color, head_font, text_font, worn
from eager_owl.desktop.widgets.rows import Button, Row

_LONG_NAME, _LONG_HEADING = 14, 30  # letters, from which words are wrapped
_NAMES_PX, _WIDEST_NAME_PX = 84, 100


class FactGrid(QWidget):
    """Rows under one another, made anew for each page."""

    def __init__(self) -> None:
        super().__init__()
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 6, 0)
        self.grid.setHorizontalSpacing(10)
        self.grid.setVerticalSpacing(3)
        self.grid.setColumnMinimumWidth(0, _NAMES_PX)
        self.grid.setColumnStretch(1, 1)

    def end(self) -> None:
        """Nothing more comes: what is left of the page stays empty."""
        self.grid.setRowStretch(self.grid.rowCount(), 1)

    def heading(self, words: str) -> None:
        """A heading, under a rule where something stands over it."""
        row = self.grid.rowCount()
        label = QLabel(words)
        label.setFont(head_font(themes.TEXT))
        label.setWordWrap(len(words) > _LONG_HEADING)
        if row > 1:
            rule = QFrame()
            rule.setFixedHeight(1)
            rule.setProperty("rule", True)
            self.grid.addWidget(rule, row, 0, 1, 3)
            row += 1
        self.grid.addWidget(label, row, 0, 1, 3)

    def row(self, name: str, words: str, loud: bool = False) -> None:
        """What is told of a name."""
        row = self.grid.rowCount()
        left, right = QLabel(name), QLabel(words)
        left.setProperty("quiet", True)
        left.setFont(text_font(themes.SMALL))
        left.setWordWrap(len(name) > _LONG_NAME)
        left.setMaximumWidth(_WIDEST_NAME_PX)
        right.setWordWrap(True)
        right.setFont(text_font(themes.TEXT, bold=loud))
        if loud:
            right.setProperty("loud", True)
        right.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.grid.addWidget(left, row, 0, Qt.AlignmentFlag.AlignTop)
        self.grid.addWidget(right, row, 1, 1, 2)

    def sentence(self, words: str) -> None:
        """Words over the whole width."""
        label = QLabel(words)
        label.setWordWrap(True)
        self.grid.addWidget(label, self.grid.rowCount(), 0, 1, 3)

    def choice(self, words: str, act: Callable[[], object], told: str = "", amount: str = "") -> None:
        """A flat button, what is told of it, and an amount at the end."""
        row = self.grid.rowCount()
        span = 1 if told or amount else 3
        self.grid.addWidget(_flat(words, act), row, 0, 1, span, Qt.AlignmentFlag.AlignLeft)
        if told:
            label = QLabel(told)
            label.setWordWrap(True)
            self.grid.addWidget(label, row, 1)
        if amount:
            self.grid.addWidget(QLabel(amount), row, 2, Qt.AlignmentFlag.AlignRight)

    def place(self, words: str, act: Callable[[], object], hint: str) -> None:
        """A flat button, and quiet words at the end."""
        row = self.grid.rowCount()
        self.grid.addWidget(_flat(words, act), row, 0, 1, 2, Qt.AlignmentFlag.AlignLeft)
        label = QLabel(hint)
        label.setProperty("quiet", True)
        label.setFont(text_font(themes.SMALL))
        self.grid.addWidget(label, row, 2)

    def share(self, name: str, share: float, amount: str, act: Callable[[], object] | None = None) -> None:
        """A share of belief as a bar; a loud one, or one that `act` takes."""
        row = self.grid.rowCount()
        label: QWidget = QLabel(name) if act is None else _flat(name, act)
        self.grid.addWidget(label, row, 0, Qt.AlignmentFlag.AlignLeft)
        self.grid.addWidget(_Share(share, act is None), row, 1)
        self.grid.addWidget(QLabel(amount), row, 2, Qt.AlignmentFlag.AlignRight)

    def step(self, words: str, act: Callable[[], object]) -> None:
        """Something to be done, by a click or with Tab and Enter; long words are wrapped."""
        row = Row(words)
        row.clicked.connect(lambda: act())
        self.grid.addWidget(row, self.grid.rowCount(), 0, 1, 3)

    def button(self, words: str, act: Callable[[], object]) -> None:
        """A button over the whole width."""
        button = Button(words)
        button.clicked.connect(lambda: act())
        self.grid.addWidget(button, self.grid.rowCount(), 0, 1, 3)


class _Share(QWidget):
    """A bar for a share of belief."""

    def __init__(self, share: float, loud: bool) -> None:
        super().__init__()
        self._share, self._loud = share, loud
        self.setMinimumWidth(60)
        self.setAccessibleName(f"{100 * share:.0f} in 100")

    def sizeHint(self) -> QSize:
        return QSize(90, 18)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            track = QRectF(0, self.height() / 2 - 4, self.width(), 8)
            painter.fillRect(track, color(worn().cell))
            track.setWidth(max(2.0, track.width() * self._share))
            painter.fillRect(track, color(worn().here if self._loud else worn().ribbon))


def _flat(words: str, act: Callable[[], object]) -> Button:
    button = Button(words)
    button.setProperty("flat", True)
    button.clicked.connect(lambda: act())
    return button
