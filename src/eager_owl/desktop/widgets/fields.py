"""Fields to type in, for which keys are not shortcuts, and rows of widgets."""

import math

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPlainTextEdit, QWidget

from eager_owl.desktop.widgets.rows import claims_key

_SHORT_PX, _LONG_PX = 46, 110


class _Field(QLineEdit):
    """A line whose keys are its own, not the desk's."""

    def event(self, event: QEvent) -> bool:
        return _keep_key(event) or super().event(event)


class ChartText(QPlainTextEdit):
    """The chart's text; taken at Ctrl Enter, or when it is left with anything typed."""

    left = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setTabChangesFocus(True)

    def show_text(self, text: str) -> None:
        """Show a text, unless the player is about to change the one that is there."""
        if self.hasFocus() and self.document().isModified():
            return
        if self.toPlainText() != text:
            self.setPlainText(text)
        self.document().setModified(False)

    def event(self, event: QEvent) -> bool:
        return _keep_key(event) or super().event(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if self.document().isModified():
            self.left.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Return and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.left.emit()
        else:
            super().keyPressEvent(event)


def _keep_key(event: QEvent) -> bool:
    """Claim a key without Ctrl or Alt for typing before the window's shortcuts see it."""
    if event.type() is QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
        others = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        if not event.modifiers() & others and event.key() < Qt.Key.Key_F1:
            event.accept()
            return True
    return False


def number(text: str) -> float:
    """A number as typed. Raises ValueError saying what is none."""
    try:
        typed = float(text.replace(",", "."))
    except ValueError:
        typed = math.nan
    if not math.isfinite(typed):
        raise ValueError(f"“{text}” is not a number")
    return typed


def text_line(name: str) -> QLineEdit:
    """A field to type in, for which keys are not shortcuts."""
    field = _Field()
    field.setAccessibleName(name)
    field.setMinimumWidth(_SHORT_PX)
    return field


def show_value(field: QLineEdit, text: str) -> None:
    """Write a value into a field, unless the player is typing another."""
    if not (field.hasFocus() and field.isModified()):
        field.setText(text)
        field.setCursorPosition(0)


def short_line(name: str) -> QLineEdit:
    """A field for a number, as narrow as that may be."""
    field = text_line(name)
    field.setMaximumWidth(_LONG_PX)
    return field


class _Choices(QComboBox):
    """A box of choices whose arrows and Space are its own while Tab has led to it; a click leaves the keys alone."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def event(self, event: QEvent) -> bool:
        return claims_key(event, (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Space)) or super().event(event)


def choices(name: str) -> QComboBox:
    """A box of choices that is as narrow as it must be."""
    box = _Choices()
    box.setAccessibleName(name)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(7)
    return box


def in_a_row(*widgets: QWidget) -> QWidget:
    """Widgets beside one another."""
    box = QWidget()
    row = QHBoxLayout(box)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(4)
    for widget in widgets:
        row.addWidget(widget)
    return box
