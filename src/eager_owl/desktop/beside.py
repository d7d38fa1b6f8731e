"""The panels beside the desk, one at a time; each key shows its own, or the evidence again."""

from collections.abc import Callable

from PySide6.QtWidgets import QStackedWidget, QWidget

from eager_owl.desktop.chart_panel import ChartPanel
from eager_owl.desktop.evidence import Evidence
from eager_owl.desktop.facts import Facts
from eager_owl.desktop.fits_panel import FitsPanel
from eager_owl.desktop.hand_panel import HandPanel
from eager_owl.desktop.lead_panel import LeadPanel
from eager_owl.desktop.move_panel import MovePanel
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.why_panel import WhyPanel

Panel = Evidence | Facts | LeadPanel | HandPanel | MovePanel | WhyPanel | FitsPanel | ChartPanel

# Where the keys go in a panel that has something to type in.
_FIRST_FIELDS = {Facts: "key", LeadPanel: "lowest", MovePanel: "to_key", FitsPanel: "chord"}


class Beside(QStackedWidget):
    """One method an action, named as in `actions`."""

    def __init__(
        self,
        opened: Callable[[], OpenSolo | None],
        panels: tuple[Panel, ...],
        desk: QWidget,
        complain: Callable[[str], None],
    ) -> None:
        super().__init__()
        self._opened, self._desk, self._complain = opened, desk, complain
        self.panels: dict[type, Panel] = {type(panel): panel for panel in panels}
        shows: dict[type, Callable[[], None]] = {
            Facts: self.show_facts, LeadPanel: self.show_lead, HandPanel: self.show_hand, MovePanel: self.show_move,
            WhyPanel: self.show_why, FitsPanel: self.show_fits, ChartPanel: self.show_chart,
        }  # fmt: skip
        for panel in panels:
            self.addWidget(panel)
            if not isinstance(panel, Evidence):
                panel.closed.connect(shows[type(panel)])
        self.setMaximumWidth(340)

    def show_solo(self, opened: OpenSolo) -> None:
        """Show this solo in every panel."""
        for panel in self.panels.values():
            panel.show_solo(opened)

    def refresh(self) -> None:
        """Write the panels anew."""
        for panel in self.panels.values():
            panel.refresh()

    def show_facts(self) -> None:
        """The facts, or the evidence again."""
        self._toggle(Facts)

    def show_lead(self) -> None:
        """What helps to hear the lead, or the evidence again."""
        self._toggle(LeadPanel)

    def show_hand(self) -> None:
        """The ways to play the phrase, picking and cautions, or the evidence again."""
        self._toggle(HandPanel)

    def show_move(self) -> None:
        """The phrase carried elsewhere, or the evidence again."""
        self._toggle(MovePanel)

    def show_why(self) -> None:
        """What happens in the phrase, in sentences, or the evidence again."""
        self._toggle(WhyPanel)

    def show_fits(self) -> None:
        """The phrase over other chords, or the evidence again."""
        self._toggle(FitsPanel)

    def show_chart(self) -> None:
        """The chart, or the evidence again."""
        self._toggle(ChartPanel)

    def _toggle(self, kind: type) -> None:
        opened, panel = self._opened(), self.panels[kind]
        if opened is None:
            self._complain("open a recording or a solo first")
            return
        shown = self.currentWidget() is not panel
        self.setCurrentWidget(panel if shown else self.panels[Evidence])
        opened.try_notes(())
        first = self._desk
        if shown:
            panel.refresh()
            first = getattr(panel, _FIRST_FIELDS.get(kind, ""), self._desk)
        first.setFocus()
