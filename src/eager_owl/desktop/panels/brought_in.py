"""The panel of what was brought in: lines that could not be read, and where it differs from a recording."""

from PySide6.QtWidgets import QWidget

from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.widgets.rows import Button, Row, page_of, quiet_label, small_heading, turn_page
from eager_owl.desktop.words import clock_text
from eager_owl.session.laying import Disagreement
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.theory.words import plural


class BroughtIn(Panel):
    """Complaints of reading, then the disagreements with a recording; a row that is chosen goes there."""

    scrolls = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.heading("Brought in")
        self._scroll = self.pages()
        self.lay = Button("Lay it against a recording")
        self.lay.clicked.connect(lambda: session.bringing_in.lay())
        self.foot.addWidget(self.lay)
        self.foot.addWidget(self.back)
        session.bringing_in.changed.connect(self.refresh)

    def write(self, opened: OpenSolo) -> None:
        news = self.session.bringing_in
        rows: list[QWidget] = []
        if not news.has_news:
            rows.append(
                quiet_label("Nothing was brought in here. Ctrl I reads MIDI, MusicXML, a text tab, a table or notes.")
            )
        else:
            rows += self._parts(news.parts, news.part)
            rows += self._reading(news.complaints)
            if news.disagreements:
                rows.append(
                    small_heading(f"{plural(len(news.disagreements), 'place')} where it differs from the record")
                )
            for disagreement in news.disagreements:
                row = Row(f"{clock_text(disagreement.time_s)}  {disagreement.words}")
                row.clicked.connect(lambda disagreement=disagreement: self._go(disagreement))
                rows.append(row)
        turn_page(self._scroll, page_of(*rows))

    def _parts(self, parts: tuple[str, ...], taken: int) -> list[QWidget]:
        """The parts of a file that has several: another is read by choosing it."""
        if len(parts) < 2:
            return []
        rows: list[QWidget] = [small_heading("Parts of the file")]
        for number, words in enumerate(parts, 1):
            row = Row(f"{number}  {words}", number == taken)
            row.clicked.connect(lambda number=number: self.session.bringing_in.read_part(number))
            rows.append(row)
        return rows

    def _reading(self, complaints: tuple[str, ...]) -> list[QWidget]:
        if not complaints:
            return [quiet_label("Everything in it was read.")]
        rows: list[QWidget] = [small_heading("Not read as it stands")]
        for line in complaints:
            label = quiet_label(line)
            label.setProperty("row", "other")
            rows.append(label)
        rows.append(quiet_label("All the rest was taken."))
        return rows

    def _go(self, disagreement: Disagreement) -> None:
        opened = self.session.solo
        if disagreement.note is not None and any(n.id == disagreement.note for n in opened.solo.notes):
            self.session.show_notes((disagreement.note,))
            return
        home = opened.solo.phrase_index_at(disagreement.time_s)
        if home != opened.view.phrase:
            opened.look_at_phrase(home)
        opened.move_cursor(disagreement.time_s)
