"""The panel of reasons for the phrase: what happens in it in sentences, the schools, and the player's own word."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QLabel

from eager_owl.desktop.facts import beside, text_line
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.reason_strip import LEGEND
from eager_owl.desktop.side_panel import Row, SidePanel, page_of, quiet_label, small_heading, turn_page
from eager_owl.desktop.words import plural
from eager_owl.reasons.roles import ROLES
from eager_owl.reasons.schools import reason_schools
from eager_owl.session import named_source
from eager_owl.solo.edits import choose_schools, set_role

_AS_READ = "as it is read"
_MOST_SENTENCES = 60


class WhyPanel(SidePanel):
    """Sentences select their notes; a school's line chooses it; what is typed is the player's own."""

    notes_chosen = Signal(tuple)

    def __init__(self) -> None:
        super().__init__("Shift W")
        self._title = self.heading()
        self._scroll = self.scrolled()
        self._yours = self.quiet()
        self.source, self.role = text_line("Source of the selected notes"), QComboBox()
        self.source.setPlaceholderText("their source, such as F Dorian")
        self.role.setAccessibleName("What the selected notes do")
        self.role.addItems([_AS_READ, *ROLES])
        self.column.addWidget(self.source)
        self.column.addWidget(beside(QLabel("they are"), self.role))
        self.complaint = self.complaints()
        self.column.addWidget(self.back)
        self.source.editingFinished.connect(self._take_source)
        self.role.activated.connect(self._take_role)

    def write(self, opened: OpenSolo) -> None:
        phrase = opened.phrase
        self._title.setText(f"Why “{phrase.name}” works" if phrase else "Why it works")
        chosen = {note.id for note in opened.selected}
        order = [note.id for note in opened.notes]
        rows: list[QLabel] = [small_heading("What happens")]
        sentences = opened.sentences()
        for sentence in sentences[:_MOST_SENTENCES]:
            ids = tuple(order[i] for i in sentence.notes)
            row = Row(sentence.words, bool(chosen) and chosen <= set(ids))
            row.clicked.connect(lambda ids=ids: self.notes_chosen.emit(ids))
            rows.append(row)
        if len(rows) == 1:
            rows.append(quiet_label("No notes yet: H hears the phrase."))
        if len(sentences) > _MOST_SENTENCES:
            more = len(sentences) - _MOST_SENTENCES
            rows.append(quiet_label(f"and {more} more: choose a phrase, or Ctrl W for the whole solo."))
        rows.append(small_heading("The schools, shortest story first"))
        for told in opened.stories:
            school = reason_schools()[told.school]
            count = f"{told.unexplained} unexplained, {plural(told.switches, 'change')}"
            row = Row(
                f"{told.school.replace('-', ' ')}: {count}\n{school.creed}", told.school == opened.solo.reason_school
            )
            row.clicked.connect(lambda name=told.school: self._choose(name))
            rows.append(row)
        rows.append(small_heading("Signs in the strip"))
        rows.append(quiet_label("\n".join(f"{sign}: {what}" for sign, what in LEGEND)))
        turn_page(self._scroll, page_of(*rows))
        self._yours.setText(
            f"Your word on {plural(len(chosen), 'selected note')}:" if chosen else "Select notes to say it yourself."
        )
        for field in (self.source, self.role):
            field.setEnabled(bool(chosen))
        if not self.source.hasFocus():
            self.source.setText(next((note.source for note in opened.selected if note.source), ""))
        role = next((note.role for note in opened.selected if note.role), None)
        self.role.setCurrentIndex(max(self.role.findText(role or _AS_READ), 0))

    def _choose(self, name: str) -> None:
        if self._open is not None:
            self._open.do("way of explaining", lambda solo: choose_schools(solo, reasons=name))

    def _take_source(self) -> None:
        opened = self._open
        if opened is None or not opened.selected:
            return
        ids, text = list(opened.view.selection), self.source.text()
        self.complain("")
        try:
            named_source(opened.solo, ids, text)
        except ValueError as error:
            self.complain(str(error))
            return
        opened.do("source", lambda solo: named_source(solo, ids, text))

    def _take_role(self) -> None:
        if self._open is not None:
            ids, role = list(self._open.view.selection), self.role.currentText()
            self._open.do("role", lambda solo: set_role(solo, ids, None if role == _AS_READ else role))
