"""The whole solo's reasons on one page: the form with what is played over it and counts that lead to their notes."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.side_panel import Row, page_of, quiet_label, small_heading, turn_page
from eager_owl.desktop.theme import DAY, Theme, color, head_font, text_font
from eager_owl.desktop.words import PLAIN_NAMES, pitch_text, plural
from eager_owl.reasons.overview import Overview
from eager_owl.rhythm.chart import Chart
from eager_owl.session import chart_of, explain_notes, overview_of, reading_of
from eager_owl.solo.document import Solo
from eager_owl.theory.interval import interval_words
from eager_owl.theory.pitch import pretty

_ACROSS, _BAR_PX = 4, 68
_LISTED = 7
_MAP_PX = 92


class _Form(QWidget):
    """The bars of the form with their chords and the sources played over each, most notes first."""

    def __init__(self, chart: Chart, overview: Overview, theme: Theme) -> None:
        super().__init__()
        self._chart, self._overview, self._theme = chart, overview, theme
        self.setFixedHeight(self.sizeHint().height())
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Sources over the form")

    def sizeHint(self) -> QSize:
        return QSize(500, _BAR_PX * -(-len(self._chart.bars) // _ACROSS))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = self.width() / _ACROSS
        starts = dict(self._chart.sections)
        for bar, chords in enumerate(self._chart.bars):
            cell = QRectF(bar % _ACROSS * width + 1, bar // _ACROSS * _BAR_PX + 1, width - 2, _BAR_PX - 3)
            painter.setPen(QPen(color(self._theme.rule), 1))
            painter.setBrush(color(self._theme.paper))
            painter.drawRoundedRect(cell, 4, 4)
            inside = cell.adjusted(7, 3, -5, -3)
            painter.setPen(color(self._theme.ink))
            painter.setFont(head_font(themes.TEXT))
            symbols = ["N.C." if chord is None else chord.symbol for chord in dict.fromkeys(chords)]
            painter.drawText(inside, Qt.AlignmentFlag.AlignLeft, pretty("  ".join(symbols)))
            painter.setFont(text_font(themes.SMALL))
            painter.setPen(color(self._theme.quiet))
            painter.drawText(inside, Qt.AlignmentFlag.AlignRight, starts.get(bar, ""))
            played = self._overview.bars[bar]
            if not played:
                continue
            (name, count), others = played[0], played[1:]
            words = f"{name}, {count}" + (f"; {sum(n for _, n in others)} more" if others else "")
            wrap = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
            painter.drawText(inside.adjusted(0, 22, 0, 2), wrap, pretty(words))


class _Places(QWidget):
    """Where on the neck the solo is played: a plate a place, larger for more notes."""

    def __init__(self, solo: Solo, overview: Overview, theme: Theme) -> None:
        super().__init__()
        self._solo, self._overview, self._theme = solo, overview, theme
        self.setFixedHeight(_MAP_PX)
        self.setAccessibleName("Places on the neck")

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        instrument = self._solo.instrument
        strings, most = len(instrument.tuning), max(self._overview.places.values(), default=1)
        left, right, top, bottom = 8.0, self.width() - 8.0, 8.0, _MAP_PX - 24.0
        step = (right - left) / (instrument.frets + 1)
        painter.setFont(text_font(themes.SMALL))
        for string in range(strings):
            y = top + (bottom - top) * string / (strings - 1)
            painter.setPen(QPen(color(self._theme.string), 1))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
        painter.setPen(color(self._theme.quiet))
        for fret in (3, 5, 7, 9, 12, 15, 17, 19, 21):
            if fret <= instrument.frets:
                painter.drawText(
                    QRectF(left + step * fret, bottom + 4, step, 18), Qt.AlignmentFlag.AlignCenter, str(fret)
                )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color(self._theme.pinned))
        for (string, fret), count in self._overview.places.items():
            size = 5 + 8 * (count / most) ** 0.5
            x, y = left + step * (fret + 0.5), top + (bottom - top) * (string - 1) / (strings - 1)
            painter.drawRoundedRect(QRectF(x - size / 2, y - size / 2, size, size), 2, 2)


class WhyView(QFrame):
    """Made anew when it is opened on a changed solo; every count that is clicked shows its notes on the desk."""

    notes_chosen = Signal(tuple)
    phrase_chosen = Signal(int)

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
            column.addWidget(_Form(chart, overview, self.theme))
        else:
            column.addWidget(quiet_label("There is no chart, or no beat to lay it on: Shift C, F."))
        column.addWidget(small_heading("On the neck"))
        column.addWidget(_Places(solo, overview, self.theme))
        if overview.lowest is not None and overview.highest is not None:
            low, high = pitch_text(overview.lowest, solo), pitch_text(overview.highest, solo)
            column.addWidget(
                quiet_label(f"from {low} to {high}, {plural(overview.highest - overview.lowest, 'semitone')}")
            )
        column.addWidget(small_heading("Phrases"))
        table = QGridLayout()
        table.setHorizontalSpacing(14)
        for row, phrase in enumerate(overview.phrases):
            name = Row(solo.phrases[phrase.index].name or f"phrase {phrase.index + 1}")
            name.clicked.connect(lambda index=phrase.index: self.phrase_chosen.emit(index))
            loud = "the loudest" if phrase.loudness_db > -0.5 else f"{-phrase.loudness_db:.0f} dB under the loudest"
            words = (
                f"{phrase.seconds:.1f} s", plural(phrase.notes, "note"), f"{phrase.notes_a_second:.1f} per s", loud,
            )  # fmt: skip
            table.addWidget(name, row, 0)
            for at, each in enumerate(words, 1):
                table.addWidget(quiet_label(each), row, at)
        column.addLayout(table)
        column.addStretch(1)
        return column

    def _right(self, solo: Solo, overview: Overview) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        counted = len(solo.notes)
        self._counts(column, "Sources", overview.sources, pretty, counted)
        self._counts(column, "Met at the changes", overview.targets, interval_words)
        self._counts(column, "What the notes do", overview.roles, str, counted)
        self._counts(column, "Techniques", overview.techniques, lambda name: PLAIN_NAMES.get(name, name))
        column.addWidget(small_heading("Figures played most"))
        if not overview.figures:
            column.addWidget(quiet_label("none comes back"))
        for ids, times in overview.figures:
            self._row(column, f"{plural(len(ids), 'note')} from {_bar_words(solo, ids[0])}, {times} times", ids)
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
