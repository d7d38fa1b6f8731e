"""The evidence panel: of the selected note, or of the phrase, with what can be said of it at its foot."""

from PySide6.QtWidgets import QHBoxLayout, QLabel

from eager_owl.desktop import theme as themes
from eager_owl.desktop.panels.note_page import NotePage
from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.panels.phrase_page import PhrasePage
from eager_owl.desktop.theme import text_font
from eager_owl.desktop.widgets.fact_grid import FactGrid
from eager_owl.desktop.widgets.rows import Button, turn_page
from eager_owl.session import editing
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.document import PINS
from eager_owl.solo.edits import toggle_pins

_LISTED = 6


class Evidence(Panel):
    """Stands beside the desk whenever no other panel does."""

    scrolls = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._scroll = self.pages()
        self.accept_button = _button("It is right   Z", "Pin the note's pitch and go to the next doubt")
        self.accept_button.setProperty("loud", True)
        self.accept_button.clicked.connect(lambda: editing.accept(session))
        self.doubt_button = _button("Next doubt   D", "Next doubt")
        self.doubt_button.clicked.connect(lambda: editing.next_doubt(session))
        self.pin_button = _button("Pin   P", "Pin the note")
        self.pin_button.setProperty("pin", True)
        self.pin_button.clicked.connect(lambda: editing.on_notes("pin", toggle_pins)(session))
        self._queue = QLabel()
        self._queue.setProperty("quiet", True)
        self._queue.setFont(text_font(themes.SMALL))
        self._queue.setWordWrap(True)
        above, below = QHBoxLayout(), QHBoxLayout()
        above.addWidget(self.accept_button)
        above.addWidget(self.doubt_button)
        below.addWidget(self._queue, 1)
        below.addWidget(self.pin_button)
        self.foot.addLayout(above)
        self.foot.addLayout(below)

    def write(self, opened: OpenSolo) -> None:
        """Write the panel anew for what is selected."""
        page = FactGrid()
        chosen = [note for note in opened.notes if note.id in opened.view.selection]
        if len(chosen) == 1:
            NotePage(self.session, page, chosen[0]).write()
        else:
            PhrasePage(self.session, page).write()
        page.end()
        turn_page(self._scroll, page)
        queue = opened.answers.doubts
        order = {note.id: i for i, note in enumerate(opened.notes, 1)}
        listed = ", ".join(str(order[note.id]) for note in queue[:_LISTED])
        told = f"{len(queue)} of {len(opened.notes)} notes in doubt: {listed}"
        self._queue.setText(told if queue else "No note in doubt here." if opened.notes else "")
        self.doubt_button.setEnabled(bool(queue))
        self.pin_button.setEnabled(bool(chosen))
        self.accept_button.setEnabled(bool(chosen))
        pinned = bool(chosen) and all(note.pins == frozenset(PINS) for note in chosen)
        self.pin_button.setText("Free   P" if pinned else "Pin   P")


def _button(words: str, name: str) -> Button:
    button = Button(words)
    button.setAccessibleName(name)
    button.setToolTip(name)
    button.setMinimumHeight(36)
    return button
