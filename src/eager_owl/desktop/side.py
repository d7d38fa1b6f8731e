"""The side of the window: the evidence, or the panel that was asked for instead."""

from PySide6.QtWidgets import QStackedWidget, QWidget

from eager_owl.desktop.entries import PANELS
from eager_owl.desktop.panels.evidence import Evidence
from eager_owl.desktop.panels.panel import Panel
from eager_owl.session.commands import key_words
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session


class Side(QStackedWidget):
    """One panel in sight; each is made when it is first asked for."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._made: dict[str, Panel] = {}
        self.evidence = Evidence(session)
        self.addWidget(self.evidence)

    def panel(self, name: str) -> Panel:
        """A panel by its entry's name."""
        if name not in self._made:
            entry = next(entry for entry in PANELS if entry.name == name)
            self._made[name] = panel = entry.make(self._session)
            panel.name_back(key_words(entry.keys[0]))
            command = self._session.commands[f"show_{name}"]
            panel.closed.connect(lambda: self._session.run(command))
            self.addWidget(panel)
        return self._made[name]

    def show_solo(self, opened: OpenSolo) -> None:
        """Another solo is open."""
        for panel in self._made.values():
            panel.show_solo(opened)

    def refresh(self) -> None:
        """Write what is in sight anew."""
        for panel in (self.evidence, *self._made.values()):
            panel.refresh()

    def toggle(self, name: str) -> QWidget | None:
        """Show a panel, or the evidence again; answers where the keys go, None for the desk."""
        panel = self.panel(name)
        shown = self.currentWidget() is not panel
        self.setCurrentWidget(panel if shown else self.evidence)
        self._session.solo.try_notes(())
        self.refresh()
        return panel.first_field if shown else None
