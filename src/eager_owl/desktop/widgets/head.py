"""The head of the window: the solo's title and facts in a line, the menu, and the buttons that are always there."""

from pathlib import Path

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QSizePolicy, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import DAY, head_font, text_font, worn
from eager_owl.session.commands import key_words
from eager_owl.session.exports import EXPORTS
from eager_owl.session.facts import key_of, tuning_words
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.theory.pitch import pretty
from eager_owl.theory.words import one_line

_MENU = ("new", "open", "save", "save_as", *(f"export_{name}" for name in EXPORTS), "locate", "open_demo")


class Head(QWidget):
    """Written anew with every change of the solo."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._row = row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.title, self.facts_line = QLabel(), QLabel()
        self.title.setFont(head_font(themes.TITLE))
        self.facts_line.setProperty("quiet", True)
        self.facts_line.setFont(text_font(themes.SMALL))
        self.facts_line.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.title)
        row.addSpacing(8)
        row.addWidget(self.facts_line, 1)
        self.menu_button = QPushButton("Solo ▾")
        self.menu = QMenu(self)
        self.menu.setFont(text_font())
        self.menu_button.setMenu(self.menu)
        self._recent = QMenu("Lately", self)
        self._build_menu()
        self.find_button = self._button("find_command", "Find")
        self.theme_button = self._button("next_theme", "Dusk")
        self.help_button = self._button("show_help", "Keys")
        for button in (self.menu_button, self.find_button, self.theme_button, self.help_button):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setProperty("flat", True)
            row.addWidget(button)
        self._told = ""
        session.keeping.recent_changed.connect(self._show_recent)
        self._show_recent()

    def _button(self, name: str, words: str) -> QPushButton:
        command = self._session.commands[name]
        button = QPushButton(f"{words}   {key_words(command.keys[-1 if name == 'find_command' else 0])}")
        button.setToolTip(command.words)
        button.clicked.connect(lambda: self._session.run(command))
        return button

    def _build_menu(self) -> None:
        for name in (*_MENU, None, "close"):
            if name is None:
                self.menu.addMenu(self._recent)
                self.menu.addSeparator()
                continue
            command = self._session.commands[name]
            keys = f"\t{key_words(command.keys[0])}" if command.keys else ""
            item = self.menu.addAction(f"{command.words[:1].upper()}{command.words[1:]}{keys}")
            item.triggered.connect(lambda _=False, command=command: self._session.run(command))

    def _show_recent(self) -> None:
        paths = self._session.keeping.recent_paths()
        self._recent.clear()
        for path in paths:
            item = self._recent.addAction(Path(path).name)
            item.triggered.connect(lambda _=False, path=path: self._session.keeping.open_path(Path(path)))
        self._recent.setEnabled(bool(paths))

    def minimumSizeHint(self) -> QSize:
        return QSize(320, super().minimumSizeHint().height())

    def refresh(self) -> None:
        """Write the title and the facts."""
        self.theme_button.setText(f"{'Dusk' if worn() is DAY else 'Day'}   F6")
        opened = self._session.opened
        if opened is None:
            self.window().setWindowTitle("Eager Owl")
            return
        self._told = _facts(opened)
        self._elide()
        self.window().setWindowTitle(f"{opened.solo.title}{' *' if opened.dirty else ''} — Eager Owl")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._elide()

    def _elide(self) -> None:
        """A long title, or long facts, give way to what else is in the row."""
        if self._session.opened is None:
            return
        metrics = self.title.fontMetrics()
        room = max(self.width() // 3, 120)
        title = self._session.opened.solo.title
        self.title.setText(metrics.elidedText(title, Qt.TextElideMode.ElideRight, room))
        self.title.setToolTip(title)
        self._row.activate()
        words = self.facts_line.fontMetrics().elidedText(
            self._told, Qt.TextElideMode.ElideRight, self.facts_line.width()
        )
        self.facts_line.setText(words)
        self.facts_line.setToolTip(self._told)


def _facts(opened: OpenSolo) -> str:
    solo = opened.solo
    facts = ["not saved"] if opened.dirty else []
    facts.append(pretty(key.name) if (key := key_of(solo)) else "no key yet")
    facts.append(f"{solo.grid.meter} at {round(solo.grid.bpm, 1):g}" if solo.grid else "no beat yet")
    if solo.reference_cents is not None:
        facts.append(tuning_words(solo.reference_cents))
    if opened.sound is not None:
        facts.append(one_line(opened.sound.path.name))
    return " · ".join(facts)
