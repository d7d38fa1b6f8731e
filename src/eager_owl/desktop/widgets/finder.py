"""The command finder: a few letters, the commands they are in, their keys; Enter runs the one chosen."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import head_font, text_font
from eager_owl.desktop.widgets.fields import text_line
from eager_owl.session.commands import Command, find_commands, key_words
from eager_owl.session.session import Session

_SHOWN, _WIDTH = 9, 560
_MISSING = {"solo": "needs an open solo", "notes": "needs selected notes", "phrase": "needs a phrase"}


class Finder(QFrame):
    """Lies over the window until a command is run, or Escape."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session, self._over = session, parent
        self.found: Sequence[Command] = ()
        self.at = 0
        self.setObjectName("card")
        self.setAccessibleName("Find a command")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 12, 16, 14)
        layout.setSpacing(4)
        head = QLabel("What do you want to do?")
        head.setFont(head_font())
        layout.addWidget(head)
        self.field = text_line("Words of a command")
        self.field.setPlaceholderText("a few letters, such as bend, or phr st")
        self.field.textEdited.connect(self._find)
        self.field.installEventFilter(self)
        layout.addWidget(self.field)
        self._rows = [_CommandRow() for _ in range(_SHOWN)]
        for row in self._rows:
            layout.addWidget(row)
        self._none = QLabel("No command has these letters.")
        self._none.setProperty("quiet", True)
        layout.addWidget(self._none)
        self.hide()

    def ask(self) -> None:
        """Show it, empty."""
        self.search("")
        parent = self._over
        width = min(_WIDTH, parent.width() - 24)
        self.setFixedWidth(width)
        self.adjustSize()
        self.move((parent.width() - width) // 2, min(70, max(parent.height() - self.height(), 0) // 2))
        self.show()
        self.raise_()
        self.field.setFocus()

    def search(self, words: str) -> None:
        """As if these words had been typed."""
        self.field.setText(words)
        self._find(words)

    def _find(self, words: str) -> None:
        self.found = find_commands(self._session.commands.values(), words)[:_SHOWN]
        self.at = 0
        self._write()

    def _write(self) -> None:
        for index, row in enumerate(self._rows):
            row.setVisible(index < len(self.found))
            if index < len(self.found):
                command = self.found[index]
                row.write(command, _MISSING.get(self._session.missing(command) or "", ""), index == self.at)
        self._none.setVisible(not self.found)
        self.adjustSize()

    def eventFilter(self, _watched: object, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusOut:
            self.hide()
        if event.type() not in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride):
            return False
        assert isinstance(event, QKeyEvent)
        moves = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        ends = (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if event.key() not in (*moves, *ends):
            return False
        event.accept()
        if event.type() == QEvent.Type.ShortcutOverride:
            return True
        if event.key() in moves and self.found:
            self.at = (self.at + moves[Qt.Key(event.key())]) % len(self.found)
            self._write()
        elif event.key() == Qt.Key.Key_Escape:
            self.hide()
        elif self.found:
            self.hide()
            self._session.run(self.found[self.at])
        return True


class _CommandRow(QFrame):
    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 4, 8, 4)
        self._words, self._missing, self._keys = QLabel(), QLabel(), QLabel()
        self._missing.setProperty("quiet", True)
        self._missing.setFont(text_font(themes.SMALL))
        self._keys.setFont(text_font(themes.SMALL, bold=True))
        row.addWidget(self._words, 1)
        row.addWidget(self._missing)
        row.addWidget(self._keys)

    def write(self, command: Command, missing: str, here: bool) -> None:
        """Show a command, what it still needs, and whether it is chosen."""
        self.setProperty("way", "here" if here else "plain")
        self.style().unpolish(self)
        self.style().polish(self)
        self._words.setText(f"{command.words[:1].upper()}{command.words[1:]}")
        self._missing.setText(missing)
        self._keys.setText(", ".join(dict.fromkeys(key_words(keys) for keys in command.keys[:2])))
