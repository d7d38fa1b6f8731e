"""The panels and pages there are, one row each; a row brings the command that shows it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from eager_owl.desktop.pages.page import Page
from eager_owl.desktop.pages.whole_solo import WholeSolo
from eager_owl.desktop.panels.brought_in import BroughtIn
from eager_owl.desktop.panels.chart import ChordChart
from eager_owl.desktop.panels.elsewhere import Elsewhere
from eager_owl.desktop.panels.facts import Facts
from eager_owl.desktop.panels.fits import Fits
from eager_owl.desktop.panels.hands import Hands
from eager_owl.desktop.panels.lead import Lead
from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.panels.remarks import Remarks
from eager_owl.desktop.panels.why import Why
from eager_owl.session.commands import COMMANDS, Command, Group, on_screen
from eager_owl.session.ports import Screen
from eager_owl.session.session import Session

Shown = TypeVar("Shown")


@dataclass(frozen=True)
class Entry(Generic[Shown]):
    """A panel or page: its name, the keys that show it and put it away, words, group, and how it is made."""

    name: str
    keys: tuple[str, ...]
    words: str
    group: Group
    make: Callable[[Session], Shown]


def _sheet_page(session: Session) -> Page:
    """Loaded only where it is shown: its engraver takes long."""
    from eager_owl.desktop.pages.sheet_page import SheetPage

    return SheetPage(session)


PANELS: tuple[Entry[Panel], ...] = (
    Entry("hands", ("Shift+N",), "the hands: ways, picking, cautions", "Place and reason", Hands),
    Entry("elsewhere", ("Shift+M",), "carry the phrase elsewhere", "Place and reason", Elsewhere),
    Entry("why", ("Shift+W",), "why the phrase works; your own word", "Place and reason", Why),
    Entry("fits", ("Shift+O",), "the phrase over other chords", "Place and reason", Fits),
    Entry("chart", ("Shift+C",), "the chords: write, or suggest", "Place and reason", ChordChart),
    Entry("brought_in", ("Shift+E",), "what was brought in, and where it differs", "Keep", BroughtIn),
    Entry("remarks", ("/",), "remarks: write one, or find one", "Keep", Remarks),
    Entry("lead", ("Shift+F",), "the lead: range, focus, taps", "Keep", Lead),
    Entry("facts", ("F",), "facts: key, beat, chords, guitar", "Keep", Facts),
)
PAGES: tuple[Entry[Page], ...] = (
    Entry("sheet", ("F4",), "the sheet: for the stand, the lesson, analysis", "Keep", _sheet_page),
    Entry("whole_solo", ("Ctrl+W",), "why the whole solo works", "Place and reason", WholeSolo),
)


def all_commands() -> tuple[Command, ...]:
    """The whole table: the session's rows, and those that show the panels and pages."""
    panels = (_shows(entry, lambda screen, name: screen.show_panel(name)) for entry in PANELS)
    pages = (_shows(entry, lambda screen, name: screen.show_page(name)) for entry in PAGES)
    return (*COMMANDS, *panels, *pages)


def _shows(entry: Entry[Panel] | Entry[Page], show: Callable[[Screen, str], object]) -> Command:
    run = on_screen(lambda screen: show(screen, entry.name))
    return Command(f"show_{entry.name}", entry.keys, entry.words, entry.group, "solo", run)
