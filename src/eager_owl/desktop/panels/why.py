"""The panel of reasons for the phrase: what happens in it in sentences, the schools, and the player's own word."""

from PySide6.QtWidgets import QLabel

from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.views.reason_strip import LEGEND
from eager_owl.desktop.widgets.fields import choices, in_a_row, show_value, text_line
from eager_owl.desktop.widgets.rows import Button, Check, Row, page_of, quiet_label, small_heading, turn_page
from eager_owl.session import editing
from eager_owl.session.explaining import ROLES, named_source, reason_schools
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.document import STAGES
from eager_owl.solo.edits import choose_reason_school, set_role
from eager_owl.theory.words import plural

_AS_READ = "as it is read"
_MOST_SENTENCES = 60


class Why(Panel):
    """Sentences select their notes; a school's line chooses it; what is typed is the player's own."""

    scrolls = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._title = self.heading()
        self._scroll = self.pages()
        self._yours = self.quiet()
        self.source, self.role = text_line("Source of the selected notes"), choices("What the selected notes do")
        self.source.setPlaceholderText("their source, such as F Dorian")
        self.role.addItems([_AS_READ, *ROLES])
        self.here_only = Check("a way of its own for this phrase")
        self.here_only.clicked.connect(self._take_here_only)
        self.column.addWidget(self.here_only)
        self.column.addWidget(self.source)
        self.column.addWidget(in_a_row(QLabel("they are"), self.role))
        self.complaint = self.complaints()
        self.right_button = Button("The reasons are right")
        self.right_button.clicked.connect(lambda: editing.reached("reasoned")(session))
        self.foot.addWidget(self.right_button)
        self.foot.addWidget(self.back)
        self.source.editingFinished.connect(self._take_source)
        self.role.activated.connect(self._take_role)

    def write(self, opened: OpenSolo) -> None:
        phrase = opened.phrase
        self._title.setText(f"Why “{phrase.name}” works" if phrase else "Why it works")
        chosen = {note.id for note in opened.selected}
        order = [note.id for note in opened.notes]
        rows: list[QLabel] = [small_heading("What happens")]
        sentences = opened.answers.sentences
        for sentence in sentences[:_MOST_SENTENCES]:
            ids = tuple(order[i] for i in sentence.notes)
            row = Row(sentence.words, bool(chosen) and chosen <= set(ids))
            row.clicked.connect(lambda ids=ids: self.session.show_notes(ids))
            rows.append(row)
        if len(rows) == 1:
            rows.append(quiet_label("No notes yet: H hears the phrase."))
        if len(sentences) > _MOST_SENTENCES:
            more = len(sentences) - _MOST_SENTENCES
            rows.append(quiet_label(f"and {more} more: choose a phrase, or Ctrl W for the whole solo."))
        rows.append(small_heading("The schools, shortest story first"))
        for told in opened.answers.stories:
            school = reason_schools()[told.school]
            count = f"{told.unexplained} unexplained, {plural(told.switches, 'change')}"
            row = Row(
                f"{told.school.replace('-', ' ')}: {count}\n{school.creed}", told.school == opened.answers.told.school
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
        come = phrase is not None and STAGES.index(phrase.stage) >= STAGES.index("reasoned")
        self.right_button.setText(f"{'Not yet right' if come else 'The reasons are right'}   Ctrl Shift R")
        self.right_button.setEnabled(phrase is not None and bool(opened.notes))
        self.here_only.setEnabled(phrase is not None)
        self.here_only.setChecked(phrase is not None and bool(phrase.reason_school))
        show_value(self.source, next((note.source for note in opened.selected if note.source), ""))
        role = next((note.role for note in opened.selected if note.role), None)
        self.role.setCurrentIndex(max(self.role.findText(role or _AS_READ), 0))

    def _choose(self, name: str) -> None:
        where = self.session.solo.view.phrase if self.here_only.isChecked() else None
        self.take("way of explaining", lambda solo: choose_reason_school(solo, where, name))

    def _take_here_only(self) -> None:
        opened = self.session.solo
        name = opened.answers.told.school if self.here_only.isChecked() else ""
        self.take("way of explaining", lambda solo: choose_reason_school(solo, opened.view.phrase, name))

    def _take_source(self) -> None:
        ids, text = [note.id for note in self.session.solo.selected], self.source.text()
        if ids:
            self.take("source", lambda solo: named_source(solo, ids, text))

    def _take_role(self) -> None:
        ids, role = list(self.session.solo.view.selection), self.role.currentText()
        self.take("role", lambda solo: set_role(solo, ids, None if role == _AS_READ else role))
