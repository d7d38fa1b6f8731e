"""What the panels beside the desk have in common: a card with headings and quiet words, and the way back."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from eager_owl.desktop.theme import head_font
from eager_owl.desktop.widgets.rows import Button, quiet_label, scrolling
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.document import Solo

NARROWEST, WIDEST = 300, 340
_LEAST_PAGE_PX = 56


class Panel(QFrame):
    """A panel that is written anew from the open solo while it is in sight.

    `column` takes what it shows; it scrolls where there is no room for it, unless it has pages that do. `foot` stays
    under it.
    """

    scrolls = True
    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._complaint = QLabel()
        self.setObjectName("card")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(14, 10, 8, 10)
        self._area = scrolling()
        inside = QWidget()
        self.column = QVBoxLayout(inside)
        self.column.setContentsMargins(0, 0, 6, 0)
        if self.scrolls:
            self._area.setWidget(inside)
            outer.addWidget(self._area, 1)
        else:
            outer.addWidget(inside, 1)
        self.foot = QVBoxLayout()
        self.foot.setContentsMargins(0, 0, 6, 0)
        outer.addLayout(self.foot)
        self.back = Button("Back to the evidence")
        self.back.clicked.connect(self.closed)
        self.first_field: QWidget | None = None  # where the keys go when it is shown

    def name_back(self, key: str) -> None:
        """The key that shows this panel, and the evidence again."""
        self.back.setText(f"Back to the evidence   {key}")

    @property
    def opened(self) -> OpenSolo | None:
        """The open solo."""
        return self.session.opened

    def show_solo(self, opened: OpenSolo) -> None:
        """Another solo is open, and what was typed for the one before is forgotten."""

    def refresh(self) -> None:
        """Write the panel anew, if it is in sight."""
        if self.opened is not None and self.isVisible():
            self.write(self.opened)

    def write(self, opened: OpenSolo) -> None:
        """Write what the panel tells of a solo."""
        raise NotImplementedError

    def heading(self, words: str = "") -> QLabel:
        """A heading, added to the panel."""
        label = QLabel(words)
        label.setFont(head_font())
        label.setWordWrap(True)
        self.column.addWidget(label)
        return label

    def quiet(self, words: str = "") -> QLabel:
        """Small, quiet words, added to the panel."""
        label = quiet_label(words)
        self.column.addWidget(label)
        return label

    def complaints(self) -> QLabel:
        """Where what can't be taken is told, added to the foot; `complain` writes there."""
        self._complaint.setProperty("complaint", True)
        self._complaint.setWordWrap(True)
        self._complaint.hide()
        self.foot.addWidget(self._complaint)
        return self._complaint

    def complain(self, words: str) -> None:
        """Tell what can't be taken; nothing where there are no words."""
        self._complaint.setText(words)
        self._complaint.setVisible(bool(words))

    def pages(self) -> QScrollArea:
        """An area for pages that are turned, added to the panel; it does the scrolling."""
        area = scrolling()
        area.setMinimumHeight(_LEAST_PAGE_PX)
        self.column.addWidget(area, 1)
        return area

    def take(self, words: str, change: Callable[[Solo], Solo], place: bool = False) -> bool:
        """Make a change of the document, or tell here why it can't be; `place` places all notes anew."""
        opened = self.session.solo
        self.complain("")
        try:
            change(opened.solo)
        except ValueError as error:
            self.complain(str(error))
            return False
        if isinstance(typed := self.focusWidget(), QLineEdit):
            typed.setModified(False)  # what was typed there is the document's now
        return opened.do(words, change, [note.id for note in opened.solo.notes] if place else ())
