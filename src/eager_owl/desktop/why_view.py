"""The whole solo's reasons on one page: the form with what is played over it and counts that lead to their notes."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRectF, Qt, Signal, SignalInstance
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.side_panel import Row, page_of, quiet_label, small_heading, turn_page
from eager_owl.desktop.theme import DAY, Theme, head_font
from eager_owl.desktop.why_figures import Figure, FormFigure, NeckFigure, PhrasesFigure
from eager_owl.desktop.words import PLAIN_NAMES, pitch_text, plural
from eager_owl.reasons.overview import Overview
from eager_owl.reasons.tell import times_words
from eager_owl.session import chart_of, explain_notes, overview_of, reading_of
from eager_owl.solo.document import Solo
from eager_owl.theory.interval import interval_words
from eager_owl.theory.pitch import pretty

_LISTED = 7


class WhyView(QFrame):
    """Made anew when it is opened on a changed solo; every count that is clicked shows its notes on the desk."""

    notes_chosen = Signal(object)
    phrase_chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.theme: Theme = DAY
        self._open: OpenSolo | None = None
        self._shown: tuple[Solo, Theme] | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        self._title = QLabel()
        self._title.setFont(head_font())
        self._title.setWordWrap(True)
        layout.addWidget(self._title)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout.addWidget(self._scroll, 1)

    def show_solo(self, opened: OpenSolo) -> None:
        """Show this solo."""
        self._open = opened
        self.refresh()

    def refresh(self) -> None:
        """Count the solo anew, if the page is in sight."""
        if self._open is None or not self.isVisible():
            return
        solo = self._open.solo
        if self._shown is not None and self._shown[0] is solo and self._shown[1] is self.theme:
            return
        self._shown = (solo, self.theme)
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
            self._picture(column, FormFigure(chart, overview, self.theme), self.notes_chosen)
        else:
            column.addWidget(quiet_label("There is no chart, or no beat to lay it on: Shift C, F."))
        column.addWidget(small_heading("On the neck"))
        self._picture(column, NeckFigure(solo, overview, self.theme), self.notes_chosen)
        if overview.lowest is not None and overview.highest is not None:
            low, high = pitch_text(overview.lowest, solo), pitch_text(overview.highest, solo)
            column.addWidget(
                quiet_label(f"from {low} to {high}, {plural(overview.highest - overview.lowest, 'semitone')}")
            )
        column.addWidget(small_heading("Phrases"))
        self._picture(column, PhrasesFigure(solo, overview, self.theme), self.phrase_chosen)
        column.addStretch(1)
        return column

    def _picture(self, column: QVBoxLayout, figure: Figure, chosen: SignalInstance) -> None:
        figure.chosen.connect(chosen)
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
        self._counts(column, "Techniques", overview.techniques, lambda name: PLAIN_NAMES.get(name, name))
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
        row.clicked.connect(lambda: self.notes_chosen.emit(ids))
        column.addWidget(row)


def _bar_words(solo: Solo, note_id: int) -> str:
    onset = solo.note(note_id).onset
    return f"bar {solo.grid.bar_and_beat(onset)[0]}" if solo.grid else f"{onset:.1f} s"
