"""Long work under way: what is being done, how far it is, and a button that stops it."""

from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QLabel, QProgressBar, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import text_font
from eager_owl.session.session import Session


class Work(QWidget):
    """Hidden while nothing is under way."""

    def __init__(self, session: Session, stop: QAbstractButton) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.doing = QLabel()
        self.doing.setProperty("quiet", True)
        self.doing.setFont(text_font(themes.SMALL))
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName("Progress")
        for widget, stretch in ((self.doing, 0), (self.progress, 1), (stop, 0)):
            row.addWidget(widget, stretch)
        session.working.connect(self.show_work)
        self.hide()

    def show_work(self, share: float | None, doing: str) -> None:
        """Show the share that is done; None where nothing is under way."""
        self.setVisible(share is not None)
        self.doing.setText(doing)
        self.progress.setValue(round(100 * (share or 0.0)))
