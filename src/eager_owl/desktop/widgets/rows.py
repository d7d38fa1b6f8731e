"""Words on a page: headings, quiet words, rows and buttons that can be chosen, and pages of them that scroll."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCheckBox, QLabel, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import head_font, text_font


def _as_high_as_its_words() -> QSizePolicy:
    # Not Maximum, whose largest height is that of the words at a width of Qt's own choice.
    policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
    policy.setHeightForWidth(True)
    return policy


def quiet_label(words: str) -> QLabel:
    """Small, quiet words."""
    label = QLabel(words)
    label.setProperty("quiet", True)
    label.setFont(text_font(themes.SMALL))
    label.setWordWrap(True)
    label.setSizePolicy(_as_high_as_its_words())
    return label


def small_heading(words: str) -> QLabel:
    """The heading of a part of a page."""
    label = QLabel(words)
    label.setFont(head_font(themes.TEXT))
    label.setSizePolicy(_as_high_as_its_words())
    return label


def scrolling() -> QScrollArea:
    """An area whose page scrolls up and down."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area


def scrolling_about(page: QWidget) -> QScrollArea:
    """An area about a page that has a size of its own; where that is too large, it scrolls up, down and sideways."""
    area = QScrollArea()
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(page)
    return area


def column_in(parent: QWidget, *widgets: QWidget) -> QVBoxLayout:
    """Widgets under one another, filling their parent."""
    column = QVBoxLayout(parent)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(8)
    for widget in widgets:
        column.addWidget(widget)
    return column


def page_of(*widgets: QWidget) -> QWidget:
    """Widgets under one another, for a page that scrolls."""
    page = QWidget()
    column = QVBoxLayout(page)
    column.setContentsMargins(0, 0, 6, 0)
    column.setSpacing(4)
    for widget in widgets:
        column.addWidget(widget)
    column.addStretch(1)
    return page


def claims_key(event: QEvent, keys: Sequence[Qt.Key]) -> bool:
    """Claim one of these keys for what has the focus, where a shortcut of the window would take it."""
    if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in keys:
        event.accept()
        return True
    return False


_ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


_TICK = (*_ENTER, Qt.Key.Key_Space)


class Row(QLabel):
    """Words that can be chosen, by a click or with Tab and Enter."""

    clicked = Signal()

    def __init__(self, words: str, here: bool = False) -> None:
        super().__init__(words)
        self.setWordWrap(True)
        self.setSizePolicy(_as_high_as_its_words())
        self.setProperty("row", "here" if here else "other")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def event(self, event: QEvent) -> bool:
        return claims_key(event, _ENTER) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in _ENTER:
            self.clicked.emit()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, _event: object) -> None:
        self.clicked.emit()


class Button(QPushButton):
    """A button that is pressed by a click or with Tab and Enter; a click leaves the keys where they are."""

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def event(self, event: QEvent) -> bool:
        return claims_key(event, _ENTER) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in _ENTER:
            self.click()
        else:
            super().keyPressEvent(event)


class Check(QCheckBox):
    """A box that is ticked by a click or with Tab and Space or Enter; a click leaves the keys where they are."""

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def event(self, event: QEvent) -> bool:
        return claims_key(event, _TICK) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in _ENTER:
            self.click()
        else:
            super().keyPressEvent(event)


def _walked(widget: QWidget) -> list[QWidget]:
    """What keys can choose in it."""
    return [each for each in widget.findChildren(QWidget) if isinstance(each, Row | Button | Check)]


def turn_page(area: QScrollArea, page: QWidget) -> None:
    """Show another page; the one before goes later, for a click in it may have asked for this.

    Who walks its rows and buttons by key stays on the same one.
    """
    walked = [each.hasFocus() for each in _walked(area)]
    if (before := area.takeWidget()) is not None:
        before.hide()
        before.deleteLater()
    area.setWidget(page)
    now = _walked(page)
    if True in walked and now:
        now[min(walked.index(True), len(now) - 1)].setFocus()
