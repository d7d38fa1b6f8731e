"""The formats that a solo is handed on in: one row each, for the command line, the menu and the finder alike."""

from collections.abc import Callable
from dataclasses import dataclass

from eager_owl.notation.tab import text_tab
from eager_owl.session.explaining import explain_notes
from eager_owl.solo.document import Solo


@dataclass(frozen=True)
class Export:
    """A row: `name` after `--to`, words for the player, the files it makes, and how it is written.

    `write` gives the file's text; it raises ValueError for a solo that can't be written so.
    """

    name: str
    words: str
    suffix: str
    files: str
    write: Callable[[Solo], str]


def notes_text(solo: Solo) -> str:
    """The notes file, with the reasons of the solo's own school."""
    from eager_owl.notation.notes_file import write_notes  # its package takes long to load: not for the window

    reasons = explain_notes(solo, solo.notes).reasons
    return write_notes(solo.notes, solo.instrument, solo.reference_cents or 0.0, reasons)


EXPORTS: dict[str, Export] = {
    export.name: export
    for export in (
        Export("tab", "the tab as text", ".txt", "Text", text_tab),
        Export("json", "the notes for other programs", ".json", "Notes files", notes_text),
    )
}
