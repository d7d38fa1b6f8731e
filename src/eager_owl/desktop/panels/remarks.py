"""The panel of remarks: one is typed or picked from ready words; all are listed, each leading to what it is about."""

from PySide6.QtWidgets import QWidget

from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.widgets.fields import text_line
from eager_owl.desktop.widgets.rows import Button, Row, page_of, quiet_label, small_heading, turn_page
from eager_owl.desktop.words import clock_text
from eager_owl.session import remarking
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.remarks import DOUBT_WORDS, HAND_WORDS, Remarked, remarks_of


class Remarks(Panel):
    """A line to type in, what it would be about, ready words, and every remark there is."""

    scrolls = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.heading("Remarks")
        self._target = self.quiet()
        self.text = text_line("A remark")
        self.text.setPlaceholderText("type it, then Enter; end with ? for a doubt")
        self.text.returnPressed.connect(self._take)
        self.column.addWidget(self.text)
        self.complaint = self.complaints()
        self._scroll = self.pages()
        self.first_field = self.text
        self.foot.addWidget(self.back)

    def show_solo(self, opened: OpenSolo) -> None:
        self.text.clear()

    def write(self, opened: OpenSolo) -> None:
        self._target.setText(f"of {remarking.remark_target(opened)}")
        rows: list[QWidget] = []
        told = remarks_of(opened.solo)
        if told:
            rows.append(small_heading("All remarks"))
        for remarked in told:
            row = Row(f"{self._place(opened, remarked)}{remarked.words}", self._is_here(opened, remarked))
            row.clicked.connect(lambda remarked=remarked: remarking.go_to(self.session, remarked))
            rows.append(row)
            if self._is_here(opened, remarked):
                away = Button("Take it away")
                away.setProperty("flat", True)
                away.clicked.connect(lambda _=False, remarked=remarked: remarking.remove(self.session, remarked))
                rows.append(away)
        for heading, words in (("How the hand does it", HAND_WORDS), ("A doubt", DOUBT_WORDS)):
            rows.append(small_heading(heading))
            for ready in words:
                row = Row(ready)
                row.clicked.connect(lambda ready=ready: self._add(ready))
                rows.append(row)
        rows.append(
            quiet_label("Ctrl J goes from one remark to the next. Doubts are handed on as a page to ask others.")
        )
        turn_page(self._scroll, page_of(*rows))

    def _is_here(self, opened: OpenSolo, remarked: Remarked) -> bool:
        """Whether a remark is of what is looked at."""
        if opened.view.selection or remarked.note is not None:
            return remarked.note in opened.view.selection
        if opened.view.span is not None or remarked.remark.span is not None:
            return remarked.remark.span == opened.view.span
        return remarked.phrase == opened.view.phrase

    def _place(self, opened: OpenSolo, remarked: Remarked) -> str:
        """Where a remark belongs, before its words."""
        if remarked.note is not None:
            grid, onset = opened.solo.grid, opened.solo.note(remarked.note).onset
            return f"bar {grid.bar_and_beat(onset)[0]}: " if grid else f"{clock_text(onset)}: "
        if remarked.phrase is not None:
            return f"{opened.solo.phrases[remarked.phrase].name}: "
        return f"{clock_text(remarked.start)}: " if remarked.remark.span else "the solo: "

    def _take(self) -> None:
        if self._add(self.text.text()):
            self.text.clear()

    def _add(self, words: str) -> bool:
        self.complain("")
        if not words.strip():
            self.complain("type some words first")
            return False
        return remarking.remark(self.session, words)
