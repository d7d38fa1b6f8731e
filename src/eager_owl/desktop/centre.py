"""The middle of the window: the desk over the neck, or the page that was asked for instead."""

from PySide6.QtWidgets import QFrame, QStackedWidget, QVBoxLayout, QWidget

from eager_owl.desktop.entries import PAGES
from eager_owl.desktop.pages.page import Page
from eager_owl.desktop.views.desk import Desk
from eager_owl.desktop.views.neck import Neck
from eager_owl.session.session import Session

_DESK_SHARE, _NECK_SHARE = 21, 9


class Centre(QStackedWidget):
    """The desk or a page in sight."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
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
        self._pages: dict[str, Page] = {}
        self.addWidget(self._work)
        self._low = False

    def page(self, name: str) -> Page:
        """A page by its entry's name, made when it is first asked for."""
        if name not in self._pages:
            self._pages[name] = next(entry for entry in PAGES if entry.name == name).make(self._session)
            self.addWidget(self._pages[name])
        return self._pages[name]

    def refresh(self) -> None:
        """Draw all but the desk anew."""
        self.neck.refresh()
        for page in self._pages.values():
            page.refresh()

    def toggle(self, name: str) -> None:
        """A page instead of the desk, or the desk again."""
        page = self.page(name)
        if self.currentWidget() is page:
            self.show_desk()
            return
        self.setCurrentWidget(page)
        page.refresh()
        self.take_keys()

    def zoom(self, by: int) -> None:
        """Look closer at what is in sight, or step back."""
        page = self.currentWidget()
        if not (isinstance(page, Page) and page.zoom(by)):
            self.desk.zoom(by)

    def show_desk(self) -> None:
        """The desk, if a page has its place."""
        self.setCurrentWidget(self._work)
        self.take_keys()

    def take_keys(self) -> None:
        """The keys to what is in sight."""
        page = self.currentWidget()
        (page if isinstance(page, Page) else self.desk).setFocus()

    def toggle_neck(self) -> None:
        """The neck alone and large, or the desk again."""
        self.desk_card.setVisible(self.desk_card.isHidden())
        self.set_low(self._low)

    def set_low(self, low: bool) -> None:
        """Where there is no height for both, the neck gives way to the desk."""
        self._low = low
        self.neck.setVisible(not low or self.desk_card.isHidden())
