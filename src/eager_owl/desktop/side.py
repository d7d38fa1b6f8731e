"""The side of the window: the evidence, or the panel that was asked for instead."""

from PySide6.QtWidgets import QStackedWidget, QWidget

from eager_owl.desktop.entries import PANELS
from eager_owl.desktop.panels.evidence import Evidence
from eager_owl.desktop.panels.panel import Panel
from eager_owl.session.commands import key_words
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session


class Side(QStackedWidget):
    """All panels, one in sight."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.evidence = Evidence(session)
        self.panels: dict[str, Panel] = {entry.name: entry.make(session) for entry in PANELS}
        self.addWidget(self.evidence)
        for entry in PANELS:
            panel = self.panels[entry.name]
            panel.name_back(key_words(entry.keys[0]))
            panel.closed.connect(lambda name=entry.name: session.run(session.commands[f"show_{name}"]))
            self.addWidget(panel)

    def show_solo(self, opened: OpenSolo) -> None:
        """Another solo is open."""
        for panel in (self.evidence, *self.panels.values()):
            panel.show_solo(opened)

    def refresh(self) -> None:
        """Write what is in sight anew."""
        for panel in (self.evidence, *self.panels.values()):
            panel.refresh()

    def toggle(self, name: str) -> QWidget | None:
        """Show a panel, or the evidence again; answers where the keys go, None for the desk."""
        panel = self.panels[name]
        shown = self.currentWidget() is not panel
        self.setCurrentWidget(panel if shown else self.evidence)
        self._session.solo.try_notes(())
        self.refresh()
        return panel.first_field if shown else None
