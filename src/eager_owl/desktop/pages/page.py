"""What the pages in the desk's place have in common: a card that is written anew while it is in sight."""

from PySide6.QtWidgets import QFrame

from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session


class Page(QFrame):
    """A page that is written anew from the open solo."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("card")

    def refresh(self) -> None:
        """Write the page anew, if it is in sight."""
        if self.session.opened is not None and self.isVisible():
            self.write(self.session.opened)

    def zoom(self, by: int) -> bool:
        """Look closer (1) or step back (-1), and whether this page can."""
        return False

    def write(self, opened: OpenSolo) -> None:
        """Write what the page tells of a solo."""
        raise NotImplementedError
