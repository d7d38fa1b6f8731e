"""The line under the head: what the player should know or answer; nothing waits for it."""

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel

from eager_owl.desktop.widgets.rows import Button

_WHILE_MS = 6000
Answers = Mapping[str, Callable[[], object]]


class Notice(QFrame):
    """A sentence with buttons."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(14, 5, 8, 5)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setAccessibleName("Notice")
        self._row.addWidget(self.words, 1)
        self._buttons: list[Button] = []
        self._question: tuple[str, Answers] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.dismiss)
        self.hide()

    def tell(self, words: str, lasting: bool) -> None:
        """Show a sentence for a while, or until it is read; under a question that is open, where it is but told."""
        sentence = words[:1].upper() + words[1:]
        if self._question is not None and not lasting:
            self.words.setText(f"{self._question[0]}\n{sentence}")
        else:
            self._set(sentence, {"Good": self.dismiss})
        if lasting:
            self._timer.stop()
        else:
            self._timer.start(_WHILE_MS)

    def ask(self, words: str, answers: Answers) -> None:
        """Show a question with its answers as buttons."""
        self._timer.stop()
        self._question = (words, answers)
        self._set(words, {name: partial(self._answered, act) for name, act in answers.items()})

    def _answered(self, act: Callable[[], object]) -> None:
        self._question = None
        self.dismiss()
        act()

    def drop(self) -> None:
        """The question that is open matters no more."""
        self._question = None
        self.dismiss()

    def _set(self, words: str, answers: Answers) -> None:
        self.words.setText(words)
        for button in self._buttons:
            button.deleteLater()
        self._buttons = []
        for name, act in answers.items():
            button = Button(name)
            button.clicked.connect(lambda _=False, act=act: act())
            self._row.addWidget(button)
            self._buttons.append(button)
        self.show()

    def dismiss(self) -> None:
        """Put the line away, or back to the question behind it; the keys are the window's again."""
        for button in self._buttons:
            button.clearFocus()
        self.hide()
        if self._question is not None:
            self.ask(*self._question)
