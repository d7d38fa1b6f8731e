"""The panel of chords that the phrase fits over: every chord of the chart, or one that is typed."""

from PySide6.QtWidgets import QLabel

from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.widgets.fields import text_line
from eager_owl.desktop.widgets.rows import Row, page_of, quiet_label, turn_page
from eager_owl.session.explaining import Fit, fits_of
from eager_owl.session.facts import pitch_text
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.theory.pitch import pretty

_SIGNS = {"safe": "■", "colour": "◆", "clash": "✕"}


class Fits(Panel):
    """A row a chord, each note by a sign; the chosen chord's clashes in words, with what would mend them."""

    scrolls = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._title = self.heading()
        self.chord = text_line("A chord to try the phrase over")
        self.chord.setPlaceholderText("any chord, such as Bb7")
        self.column.addWidget(self.chord)
        self.complaint = self.complaints()
        self._scroll = self.pages()
        self.quiet("■ safe    ◆ colour    ✕ clash")
        self.foot.addWidget(self.back)
        self.first_field = self.chord
        self.chord.editingFinished.connect(self.refresh)
        self._at: str | None = None

    def write(self, opened: OpenSolo) -> None:
        phrase, notes = opened.phrase, opened.notes
        self._title.setText(f"“{phrase.name}” over other chords" if phrase else "Over other chords")
        self.complain("")
        if phrase is None or not notes:
            turn_page(self._scroll, page_of(quiet_label("Choose a phrase with notes: Page down.")))
            return
        typed: list[Fit] = []
        try:
            typed = fits_of(opened.solo, notes, self.chord.text()) if self.chord.text().strip() else []
        except ValueError as error:
            self.complain(str(error))
        fits = [*typed, *fits_of(opened.solo, notes)]
        if not fits:
            turn_page(self._scroll, page_of(quiet_label("There is no chart yet: type a chord above, or Shift C.")))
            return
        symbols = [fit.chord.symbol for fit in fits]
        if typed or self._at not in symbols:
            self._at = symbols[0]
        rows: list[QLabel] = []
        for fit in fits:
            here = fit.chord.symbol == self._at
            signs = "".join(_SIGNS[note.verdict] for note in fit.notes)
            row = Row(f"{pretty(fit.chord.symbol)}   {fit.words}\n{signs}", here)
            row.clicked.connect(lambda symbol=fit.chord.symbol: self._look_at(symbol))
            rows.append(row)
            if here:
                rows += self._told(opened, fit)
        turn_page(self._scroll, page_of(*rows))

    def _told(self, opened: OpenSolo, fit: Fit) -> list[QLabel]:
        """The chosen chord's clashes and colours, note by note, and the part that fits alone."""
        rows: list[QLabel] = []
        for i, (note, how) in enumerate(zip(opened.notes, fit.notes, strict=True)):
            if how.verdict == "safe":
                continue
            pitch = note.landed
            words = f"{_SIGNS[how.verdict]} note {i + 1}, {pitch_text(pitch, opened.solo, fit.chord)}: {how.why}"
            if how.change:
                words += f"; play {pitch_text(pitch + how.change, opened.solo, fit.chord)}"
            row = Row(pretty(words))
            row.clicked.connect(lambda note_id=note.id: self.session.show_notes((note_id,)))
            rows.append(row)
        if fit.count("clash"):
            alone = fit.alone
            part = f"Notes {alone[0] + 1} to {alone[1] + 1} fit alone." if alone else "No part of it fits."
            rows.append(quiet_label(part))
        return rows

    def _look_at(self, symbol: str) -> None:
        self._at = symbol
        self.chord.clear()
        self.refresh()
