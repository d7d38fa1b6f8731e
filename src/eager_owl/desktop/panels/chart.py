"""The chart beside the desk: as text, as bars to click and write in; its key, and chords heard in the recording."""

import re
from dataclasses import replace

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLabel, QSizePolicy, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.theme import color, head_font, text_font, worn
from eager_owl.desktop.views.reason_strip import function_at
from eager_owl.desktop.widgets.fields import ChartText, in_a_row, show_value, text_line
from eager_owl.desktop.widgets.rows import Button, Row, page_of, quiet_label, turn_page
from eager_owl.rhythm.chart import BARS_A_LINE, Chart, ChartError, bar_text, chart_text, parse_chart, with_bar
from eager_owl.session.facts import key_of, names_of
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.document import Solo
from eager_owl.theory.chord import second_names
from eager_owl.theory.harmony import suggest_keys
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import pretty

_ROW_PX = 46
_KEYS_SHOWN = 2
_DOUBTFUL = 0.6


class _Bars(QWidget):
    """The form, four bars a line: chords, what they are in the key, sections, and the bar that is written in."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.chart, self.key, self.at = Chart(), None, 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Bars of the chart")

    key: Key | None

    def show_chart(self, chart: Chart, key: Key | None, at: int) -> None:
        """Show a chart, with a bar chosen."""
        self.chart, self.key, self.at = chart, key, at
        self.setFixedHeight(_ROW_PX * (len(chart.bars) // BARS_A_LINE + 1))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(270, _ROW_PX * (len(self.chart.bars) // BARS_A_LINE + 1))

    def _cell(self, bar: int) -> QRectF:
        width = self.width() / BARS_A_LINE
        return QRectF(bar % BARS_A_LINE * width + 1, bar // BARS_A_LINE * _ROW_PX + 1, width - 2, _ROW_PX - 2)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            starts = dict(self.chart.sections)
            for bar in range(len(self.chart.bars) + 1):
                cell = self._cell(bar)
                new = bar == len(self.chart.bars)
                style = Qt.PenStyle.DashLine if new else Qt.PenStyle.SolidLine
                here = bar == self.at
                painter.setPen(QPen(color(worn().here if here else worn().rule), 2 if here else 1, style))
                painter.setBrush(color(worn().here_wash if here else worn().paper))
                painter.drawRoundedRect(cell, 4, 4)
                painter.setPen(color(worn().quiet))
                painter.setFont(text_font(themes.SMALL))
                if new:
                    painter.drawText(cell, Qt.AlignmentFlag.AlignCenter, "add")
                    continue
                if bar in starts:
                    corner = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom
                    painter.drawText(cell.adjusted(0, 0, -4, -2), corner, starts[bar])
                self._paint_chords(painter, cell, bar)

    def _paint_chords(self, painter: QPainter, cell: QRectF, bar: int) -> None:
        """One chord over its numeral; of several, half of them over the others."""
        chords = list(dict.fromkeys(self.chart.bars[bar]))
        names = [pretty("N.C." if chord is None else chord.symbol) for chord in chords]
        half = -(-len(names) // 2)
        foot = " ".join(names[half:])
        if len(names) == 1 and self.key is not None and chords[0] is not None:
            function = function_at(self.chart, chords[0], self.key)
            foot = pretty(function.numeral) + "*" * bool(function.words)
        foot += " stop" * (bar in self.chart.stops)
        several = len(names) > 1
        ink, quiet, small = worn().ink, worn().quiet, head_font(themes.SMALL)
        inside = cell.adjusted(5, 2, -3, -2)

        def write(words: str, font: QFont, tone: str, edge: Qt.AlignmentFlag) -> None:
            painter.setFont(font)
            painter.setPen(color(tone))
            elided = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(inside.width()))
            painter.drawText(inside, Qt.AlignmentFlag.AlignLeft | edge, elided)

        head = small if several else head_font(themes.TEXT)
        write(" ".join(names[:half]), head, ink, Qt.AlignmentFlag.AlignTop)
        if several:
            write(foot, small, ink, Qt.AlignmentFlag.AlignBottom)
        else:
            write(foot, text_font(themes.SMALL), quiet, Qt.AlignmentFlag.AlignBottom)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for bar in range(len(self.chart.bars) + 1):
            if self._cell(bar).contains(event.position()):
                self.chosen.emit(bar)


class ChordChart(Panel):
    """Nothing heard is entered by itself: suggestions are taken by a click."""

    scrolls = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.heading("Chords of the solo")
        self.text = ChartText()
        self.text.setAccessibleName("Chart as text")
        self.text.setPlaceholderText("A |: Fm7 | Bbm7 | Gm7b5 / C7 | % :|")
        self.text.setFixedHeight(92)
        self.text.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.column.addWidget(self.text)
        self.bar = text_line("Chords of the bar")
        self._which = QLabel()
        self.column.addWidget(in_a_row(self._which, self.bar))
        self.complaint = self.complaints()
        self.bars = _Bars()
        self._scroll = self.pages()
        self.listen_button = Button("Suggest chords from the recording")
        self.take_button = Button("Take the suggested chords")
        self.take_button.setProperty("loud", True)
        for button in (self.listen_button, self.take_button):
            self.foot.addWidget(button)
        self.foot.addWidget(self.back)
        self._at = 0
        self.text.left.connect(self._take_text)
        self.bar.returnPressed.connect(self._take_bar)
        self.bars.chosen.connect(self._choose_bar)
        self.listen_button.clicked.connect(lambda: session.chords.suggest())
        session.chords.suggested_changed.connect(self.refresh)
        self.take_button.clicked.connect(lambda: session.chords.take())

    def show_solo(self, opened: OpenSolo) -> None:
        self._at = 0

    def write(self, opened: OpenSolo) -> None:
        solo, key = opened.solo, key_of(opened.solo)
        self.text.show_text(solo.chart_text)
        try:
            chart = solo.chart
        except ChartError as error:
            self.complain(str(error))
            chart = Chart()
        self._at = min(self._at, len(chart.bars))
        self._which.setText(f"bar {self._at + 1}")
        show_value(self.bar, bar_text(chart, self._at) if self._at < len(chart.bars) else "")
        # The page is made anew, and takes the bars with it.
        self.bars = _Bars()
        self.bars.chosen.connect(self._choose_bar)
        self.bars.show_chart(chart, key, self._at)
        rows: list[QWidget] = [*self._heard_rows(), self.bars]
        if key is not None:
            rows += [
                quiet_label(pretty(f"* {chord.symbol}, {function.numeral}: {function.words}"))
                for chord in chart.chords
                if (function := function_at(chart, chord, key)).words
            ]
        rows += self._key_rows(chart, key)
        for chord in chart.chords:
            for other in second_names(chord, names_of(opened.solo)):
                row = Row(pretty(f"{chord.symbol} is also {other.symbol}: call it so"))
                row.clicked.connect(lambda was=chord.symbol, now=other.symbol: self._rename(was, now))
                rows.append(row)
        turn_page(self._scroll, page_of(*rows))
        self.take_button.setVisible(bool(self.session.chords.suggested))

    def _heard_rows(self) -> list[QWidget]:
        """What was heard, four bars a row, each with how sure in 100, and what a doubtful one could be instead."""
        rows: list[QWidget] = []
        for at in range(0, len(self.session.chords.suggested), BARS_A_LINE):
            line = self.session.chords.suggested[at : at + BARS_A_LINE]
            words = ", ".join(
                f"{s.symbol} {100 * s.confidence:.0f}" + (f" (or {s.runner_up})" if s.confidence < _DOUBTFUL else "")
                for s in line
            )
            rows.append(quiet_label(pretty(f"heard from bar {line[0].bar + 1}: {words}")))
        return rows

    def _key_rows(self, chart: Chart, key: Key | None) -> list[QWidget]:
        """The keys that the chords speak for, where they are not the solo's own."""
        rows: list[QWidget] = []
        chords = [chord for bar in chart.bars for chord in dict.fromkeys(bar)]
        for suggested, share in suggest_keys(chords)[:_KEYS_SHOWN]:
            words = pretty(f"The chords speak for {suggested.name}, {100 * share:.0f} in 100")
            if suggested == key:
                rows.append(quiet_label(f"{words}."))
                break
            row = Row(f"{words}: take it")
            row.clicked.connect(lambda name=suggested.name: self._take_key(name))
            rows.append(row)
        return rows

    def _choose_bar(self, bar: int) -> None:
        self._at = bar
        self.bar.setModified(False)
        self.refresh()
        self.bar.setFocus()
        self.bar.selectAll()

    def _take(self, words: str, text: str) -> bool:
        def change(solo: Solo) -> Solo:
            parse_chart(text)
            return replace(solo, chart_text=text)

        self.take(words, change)
        return not self.complaint.text()

    def _take_text(self) -> None:
        self._take("chords", self.text.toPlainText())

    def _take_bar(self) -> None:
        try:
            changed = with_bar(self.session.solo.solo.chart, self._at, self.bar.text())
        except ChartError as error:
            self.complain(str(error))
            return
        if self._take(f"chords of bar {self._at + 1}", chart_text(changed)):
            self._choose_bar(min(self._at + 1, len(changed.bars)))

    def _rename(self, was: str, now: str) -> None:
        """Call a chord by its other name, wherever the chart has it."""
        text = re.sub(rf"(?<![^\s|:]){re.escape(was)}(?![^\s|:])", now, self.session.solo.solo.chart_text)
        self._take(f"{was} called {now}", text)

    def _take_key(self, name: str) -> None:
        self.take("key", lambda solo: replace(solo, key_text=name), place=True)
