"""The whole solo's reasons on one page: the form with what is played over it and counts that lead to their notes."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRectF
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from eager_owl.desktop.pages.page import Page
from eager_owl.desktop.pages.whole_solo_figures import Figure, FormFigure, NeckFigure, PhrasesFigure
from eager_owl.desktop.theme import Theme, head_font, worn
from eager_owl.desktop.widgets.rows import Row, page_of, quiet_label, scrolling, small_heading, turn_page
from eager_owl.session.explaining import Overview, explain_notes, overview_of, reading_of, times_words
from eager_owl.session.facts import chart_of, pitch_text
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.document import Solo
from eager_owl.solo.techniques import TECHNIQUES
from eager_owl.theory.interval import interval_words
from eager_owl.theory.pitch import pretty
from eager_owl.theory.words import plural

_LISTED = 7


class WholeSolo(Page):
    """Made anew when it is opened on a changed solo; every count that is clicked shows its notes on the desk."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._shown: tuple[Solo, Theme] | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        self._title = QLabel()
        self._title.setFont(head_font())
        self._title.setWordWrap(True)
        layout.addWidget(self._title)
        self._scroll = scrolling()
        layout.addWidget(self._scroll, 1)

    def write(self, opened: OpenSolo) -> None:
        """Count the solo anew, if it is another."""
        solo = opened.solo
        if self._shown is not None and self._shown[0] is solo and self._shown[1] is worn():
            return
        self._shown = (solo, worn())
        if not solo.notes:
            self._title.setText("Why the solo works: no notes yet")
            turn_page(self._scroll, page_of(quiet_label("Page down to a phrase; H hears it.")))
            return
        reading = reading_of(solo, solo.notes)
        told = explain_notes(solo, solo.notes, reading=reading)
        overview = overview_of(solo, reading, told)
        self._title.setText(
            f"Why “{solo.title}” works: {plural(len(solo.notes), 'note')} by {solo.reason_school.replace('-', ' ')}, "
            f"{told.unexplained} unexplained, {plural(told.switches, 'change')} of source"
        )
        page = QWidget()
        columns = QHBoxLayout(page)
        columns.setContentsMargins(0, 0, 8, 0)
        columns.setSpacing(22)
        columns.addLayout(self._left(solo, overview), 3)
        columns.addLayout(self._right(solo, overview), 2)
        turn_page(self._scroll, page)

    def _left(self, solo: Solo, overview: Overview) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        chart = chart_of(solo)
        column.addWidget(small_heading("Over the form"))
        if chart.bars and solo.grid is not None:
            self._picture(column, FormFigure(chart, overview, worn()), self.session.show_notes)
        else:
            column.addWidget(quiet_label("There is no chart, or no beat to lay it on: Shift C, F."))
        column.addWidget(small_heading("On the neck"))
        self._picture(column, NeckFigure(solo, overview, worn()), self.session.show_notes)
        if overview.lowest is not None and overview.highest is not None:
            low, high = pitch_text(overview.lowest, solo), pitch_text(overview.highest, solo)
            column.addWidget(
                quiet_label(f"from {low} to {high}, {plural(overview.highest - overview.lowest, 'semitone')}")
            )
        column.addWidget(small_heading("Phrases"))
        self._picture(column, PhrasesFigure(solo, overview, worn()), self.session.show_phrase)
        column.addStretch(1)
        return column

    def _picture(self, column: QVBoxLayout, figure: Figure, show: Callable[..., object]) -> None:
        figure.chosen.connect(lambda part: show(part))
        figure.walked_to.connect(lambda part: self._keep_in_sight(figure, part))
        column.addWidget(figure)

    def _keep_in_sight(self, figure: Figure, part: QRectF) -> None:
        at = figure.pos() + part.center().toPoint()  # on the page
        self._scroll.ensureVisible(at.x(), at.y(), 0, round(part.height()))

    def _right(self, solo: Solo, overview: Overview) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        counted = len(solo.notes)
        self._counts(column, "Sources", overview.sources, pretty, counted)
        self._counts(column, "Met at the changes", overview.targets, interval_words)
        self._counts(column, "What the notes do", overview.roles, str, counted)
        self._counts(column, "Techniques", overview.techniques, _technique_words)
        column.addSpacing(4)
        column.addWidget(small_heading("Figures played most"))
        if not overview.figures:
            column.addWidget(quiet_label("none comes back"))
        for ids, times in overview.figures:
            self._row(
                column, f"{plural(len(ids), 'note')} from {_bar_words(solo, ids[0])}, {times_words(times)}", ids
            )
        column.addStretch(1)
        return column

    def _counts(
        self,
        column: QVBoxLayout,
        title: str,
        counts: Sequence[tuple[str, tuple[int, ...]]],
        words: Callable[[str], str],
        of: int = 0,
    ) -> None:
        column.addSpacing(4)
        column.addWidget(small_heading(title))
        if not counts:
            column.addWidget(quiet_label("none"))
        for name, ids in counts[:_LISTED]:
            share = f", {100 * len(ids) / of:.0f} in 100" if of else ""
            self._row(column, f"{words(name)}: {len(ids)}{share}", ids)

    def _row(self, column: QVBoxLayout, words: str, ids: tuple[int, ...]) -> None:
        row = Row(words)
        row.clicked.connect(lambda: self.session.show_notes(ids))
        column.addWidget(row)


def _technique_words(name: str) -> str:
    return next((kind.words for known, kind in TECHNIQUES.items() if known == name), name)


def _bar_words(solo: Solo, note_id: int) -> str:
    onset = solo.note(note_id).onset
    return f"bar {solo.grid.bar_and_beat(onset)[0]}" if solo.grid else f"{onset:.1f} s"
