"""The middle of the window: the desk over the neck, or the page that was asked for instead."""

from PySide6.QtWidgets import QFrame, QStackedWidget, QVBoxLayout, QWidget

from eager_owl.desktop.entries import PAGES
from eager_owl.desktop.pages.page import Page
from eager_owl.desktop.views.desk import Desk
from eager_owl.desktop.views.neck import Neck
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session

_DESK_SHARE, _NECK_SHARE = 21, 9


class Centre(QStackedWidget):
    """The desk and all pages, one in sight."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.desk, self.neck = Desk(session), Neck(session)
        self.desk_card = QFrame()
        self.desk_card.setObjectName("card")
        inside = QVBoxLayout(self.desk_card)
        inside.setContentsMargins(4, 4, 4, 4)
        inside.addWidget(self.desk)
        self._work = QWidget()
        column = QVBoxLayout(self._work)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.desk_card, _DESK_SHARE)
        column.addWidget(self.neck, _NECK_SHARE)
        self.pages: dict[str, Page] = {entry.name: entry.make(session) for entry in PAGES}
        for widget in (self._work, *self.pages.values()):
            self.addWidget(widget)
        self._low = False

    def show_solo(self, opened: OpenSolo) -> None:
        """Another solo is open."""
        self.desk.show_solo(opened)
        self.neck.show_solo(opened)
        for page in self.pages.values():
            page.show_solo(opened)

    def refresh(self) -> None:
        """Draw all but the desk anew."""
        self.neck.refresh()
        for page in self.pages.values():
            page.refresh()

    def toggle(self, name: str) -> None:
        """A page instead of the desk, or the desk again."""
        page = self.pages[name]
        if self.currentWidget() is page:
            self.show_desk()
            return
        self.setCurrentWidget(page)
        page.refresh()
        page.setFocus()

    def show_desk(self) -> None:
        """The desk, if a page has its place."""
        self.setCurrentWidget(self._work)
        self.desk.setFocus()

    def toggle_neck(self) -> None:
        """The neck alone and large, or the desk again."""
        self.desk_card.setVisible(self.desk_card.isHidden())
        self.set_low(self._low)

    def set_low(self, low: bool) -> None:
        """Where there is no height for both, the neck gives way to the desk."""
        self._low = low
        self.neck.setVisible(not low or self.desk_card.isHidden())
