"""Facts of the solo: title, key, beat, chords, guitar and schools, beside the desk, each taken as it is typed."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.theme import head_font
from eager_owl.neck.schools import placing_schools
from eager_owl.reasons.schools import reason_schools
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid, grid_from_taps
from eager_owl.solo.document import Instrument, Solo
from eager_owl.solo.edits import choose_schools
from eager_owl.solo.tunings import TUNINGS, tuning_name
from eager_owl.theory.key import parse_key
from eager_owl.theory.pitch import parse_pitch, pitch_name

_TAP_PAUSE_S = 2.5


class _Field(QLineEdit):
    """A line whose keys are its own, not the desk's."""

    def event(self, event: QEvent) -> bool:
        return _keep_key(event) or super().event(event)


_OWN_TUNING = "a tuning of your own"
_FEELS = (("straight", 2, False), ("swung", 2, True), ("in threes", 3, False))


class ChartText(QPlainTextEdit):
    """The chart's text; taken at Ctrl Enter, or when it is left with anything typed."""

    left = Signal()

    def show_text(self, text: str) -> None:
        """Show a text, unless the player is about to change the one that is there."""
        if self.hasFocus() and self.document().isModified():
            return
        if self.toPlainText() != text:
            self.setPlainText(text)
        self.document().setModified(False)

    def event(self, event: QEvent) -> bool:
        return _keep_key(event) or super().event(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if self.document().isModified():
            self.left.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Return and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.left.emit()
        else:
            super().keyPressEvent(event)


class Facts(QFrame):
    """A form whose every field is checked and taken when it is left; what is wrong is said under the form."""

    closed = Signal()
    find_asked = Signal()

    def __init__(self, clock: Callable[[], float]) -> None:
        """`clock` gives the time in the recording that is heard now (or the cursor's), for tapping."""
        super().__init__()
        self._open: OpenSolo | None = None
        self._clock = clock
        self._taps: list[float] = []
        self.setObjectName("card")
        self.setMinimumWidth(290)
        self.setMaximumWidth(340)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        head = QLabel("Facts of the solo")
        head.setFont(head_font())
        layout.addWidget(head)
        form = QFormLayout()
        form.setVerticalSpacing(5)
        self.title, self.key = text_line("Title"), text_line("Key")
        self.tempo, self.first_beat, self.beats = (
            text_line("Tempo"),
            text_line("First beat"),
            text_line("Beats to the bar"),
        )
        self.tuning, self.capo, self.frets = text_line("Tuning"), text_line("Capo"), text_line("Frets")
        self.key.setPlaceholderText("F minor")
        self.tempo.setPlaceholderText("beats a minute")
        self.first_beat.setPlaceholderText("seconds")
        form.addRow("title", self.title)
        form.addRow("key", self.key)
        self.tap_button = QPushButton("Tap")
        self.tap_button.setToolTip("Tap the beat while the recording plays, three times or more")
        self.tap_button.clicked.connect(self._tap)
        self.find_button = QPushButton("Find")
        self.find_button.setToolTip("Take the beat that was found in the recording   Ctrl T")
        self.find_button.clicked.connect(self.find_asked)
        form.addRow("tempo", beside(self.tempo, self.tap_button, self.find_button))
        self.here_button = QPushButton("At cursor")
        self.here_button.clicked.connect(self._first_beat_here)
        form.addRow("first beat", beside(self.first_beat, self.here_button))
        self.feel = QComboBox()
        self.feel.setAccessibleName("Feel of the beat")
        self.feel.addItems([words for words, _, _ in _FEELS])
        self.feel.activated.connect(self._take_beat)
        form.addRow("beats to bar", beside(self.beats, self.feel))
        self.drift = QPushButton()
        self.drift.setToolTip("Even out: one tempo from the first beat on")
        self.drift.clicked.connect(self._even_out)
        form.addRow("", self.drift)
        layout.addLayout(form)
        layout.addWidget(QLabel("chords, bars between |"))
        self.chart = ChartText()
        self.chart.setAccessibleName("Chart")
        self.chart.setPlaceholderText("| Fm7 | Bbm7 | Gm7b5 C7 | % |")
        self.chart.setTabChangesFocus(True)
        # A bar that comes and goes changes the wrapping, which makes it go and come, without end.
        self.chart.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        layout.addWidget(self.chart, 1)
        guitar = QFormLayout()
        guitar.setVerticalSpacing(5)
        self.tunings = QComboBox()
        self.tunings.setAccessibleName("Tuning by name")
        self.tunings.addItem(_OWN_TUNING)
        self.tunings.addItems(list(TUNINGS))
        self.tunings.activated.connect(self._name_tuning)
        self.scale = text_line("Scale length in mm")
        self.left_handed = QCheckBox("left-handed")
        self.left_handed.clicked.connect(self._take_guitar)
        guitar.addRow("guitar", self.tunings)
        guitar.addRow("tuning", self.tuning)
        guitar.addRow("capo, frets", beside(self.capo, self.frets))
        guitar.addRow("scale in mm", beside(self.scale, self.left_handed))
        self.placing, self.reasons = QComboBox(), QComboBox()
        self.placing.setAccessibleName("Way of placing")
        self.reasons.setAccessibleName("Way of explaining")
        for box, schools in ((self.placing, placing_schools()), (self.reasons, reason_schools())):
            for name, school in schools.items():
                box.addItem(name.replace("-", " "), name)
                box.setItemData(box.count() - 1, school.creed, Qt.ItemDataRole.ToolTipRole)
        guitar.addRow("placed by", self.placing)
        guitar.addRow("explained by", self.reasons)
        layout.addLayout(guitar)
        self.complaint = QLabel()
        self.complaint.setProperty("complaint", True)
        self.complaint.setWordWrap(True)
        layout.addWidget(self.complaint)
        done = QPushButton("Back to the evidence   F")
        done.clicked.connect(self.closed)
        layout.addWidget(done)
        self.title.editingFinished.connect(self._take_title)
        self.key.editingFinished.connect(self._take_key)
        for field in (self.tempo, self.first_beat, self.beats):
            field.editingFinished.connect(self._take_beat)
        self.chart.left.connect(self._take_chart)
        for field in (self.tuning, self.capo, self.frets, self.scale):
            field.editingFinished.connect(self._take_guitar)
        self.placing.activated.connect(self._take_schools)
        self.reasons.activated.connect(self._take_schools)

    def show_solo(self, opened: OpenSolo) -> None:
        """Show this solo's facts."""
        self._open = opened
        self.refresh()

    def refresh(self) -> None:
        """Write the fields from the document, except the one being typed in."""
        if self._open is None:
            return
        solo, grid = self._open.solo, self._open.solo.grid
        values = {
            self.title: solo.title,
            self.key: solo.key_text,
            self.tempo: f"{grid.bpm:g}" if grid else "",
            self.first_beat: f"{grid.first_beat_s:.3f}".rstrip("0").rstrip(".") if grid else "",
            self.beats: str(grid.beats_per_bar) if grid else "4",
            self.tuning: " ".join(pitch_name(p) for p in solo.instrument.tuning),
            self.capo: str(solo.instrument.capo),
            self.frets: str(solo.instrument.frets),
            self.scale: f"{solo.instrument.scale_mm:g}",
        }
        self.tunings.setCurrentIndex(max(self.tunings.findText(tuning_name(solo.instrument.tuning)), 0))
        self.left_handed.setChecked(solo.instrument.left_handed)
        feels = [(division, swung) for _, division, swung in _FEELS]
        self.feel.setCurrentIndex(feels.index((grid.division, grid.swung)) if grid else 0)
        anchors = len(grid.anchors) if grid else 0
        self.drift.setVisible(anchors > 0)
        self.drift.setText(f"{anchors} beats held: even out")
        for field, text in values.items():
            if not field.hasFocus():
                field.setText(text)
        self.chart.show_text(solo.chart_text)
        self.placing.setCurrentIndex(max(self.placing.findData(solo.placing_school), 0))
        self.reasons.setCurrentIndex(max(self.reasons.findData(solo.reason_school), 0))

    def _take(self, words: str, change: Callable[[Solo], Solo], place: bool = False) -> None:
        assert self._open is not None
        try:
            change(self._open.solo)
        except ValueError as error:
            self.complaint.setText(str(error))
            return
        self.complaint.clear()
        self._open.do(words, change, [n.id for n in self._open.solo.notes] if place else ())

    def _take_title(self) -> None:
        title = self.title.text().strip() or "Untitled solo"
        self._take("title", lambda solo: replace(solo, title=title))

    def _take_key(self) -> None:
        text = self.key.text().strip()

        def change(solo: Solo) -> Solo:
            if text:
                parse_key(text)
            return replace(solo, key_text=text)

        self._take("key", change, place=True)

    def _take_beat(self) -> None:
        texts = [field.text().strip() for field in (self.tempo, self.first_beat, self.beats)]

        def change(solo: Solo) -> Solo:
            if not texts[0]:
                return replace(solo, grid=None)
            bpm, first, beats = number(texts[0]), number(texts[1] or "0"), number(texts[2] or "4")
            _, division, swung = _FEELS[self.feel.currentIndex()]
            kept = solo.grid.anchors if solo.grid and _says_the_same(solo.grid, bpm, first) else ()
            return replace(solo, grid=BeatGrid(bpm, first, int(beats), kept, division, swung))

        self._take("beat", change)

    def _even_out(self) -> None:
        self._take(
            "even tempo", lambda solo: replace(solo, grid=replace(solo.grid, anchors=()) if solo.grid else None)
        )

    def _take_chart(self) -> None:
        text = self.chart.toPlainText()

        def change(solo: Solo) -> Solo:
            parse_chart(text)
            return replace(solo, chart_text=text)

        self._take("chords", change)

    def _take_guitar(self) -> None:
        names = self.tuning.text().replace(",", " ").split()
        capo, frets, scale = self.capo.text(), self.frets.text(), self.scale.text()
        left_handed = self.left_handed.isChecked()

        def change(solo: Solo) -> Solo:
            tuning = tuple(parse_pitch(name) for name in names)
            guitar = Instrument(tuning, int(number(capo)), int(number(frets)), number(scale), left_handed)
            return replace(solo, instrument=guitar)

        self._take("guitar", change, place=True)

    def _name_tuning(self) -> None:
        if (tuning := TUNINGS.get(self.tunings.currentText())) is not None:
            self.tuning.setText(" ".join(pitch_name(pitch) for pitch in tuning))
            self._take_guitar()

    def _take_schools(self) -> None:
        assert self._open is not None
        placing, reasons = self.placing.currentData(), self.reasons.currentData()
        moved = placing != self._open.solo.placing_school
        self._take("school", lambda solo: choose_schools(solo, placing, reasons), place=moved)

    def _tap(self) -> None:
        now = self._clock()
        if self._taps and not 0 < now - self._taps[-1] < _TAP_PAUSE_S:
            self._taps.clear()
        self._taps.append(now)
        if len(self._taps) < 3:
            self.complaint.setText(f"{3 - len(self._taps)} more taps, on the beat, while it plays")
            return
        beats = int(number(self.beats.text() or "4"))
        self._take("tempo tapped", lambda solo: replace(solo, grid=grid_from_taps(self._taps, beats)))

    def _first_beat_here(self) -> None:
        assert self._open is not None
        grid, now = self._open.solo.grid or BeatGrid(), self._open.view.cursor
        self._take("first beat", lambda solo: replace(solo, grid=replace(grid, first_beat_s=now)))


def _says_the_same(grid: BeatGrid, bpm: float, first: float) -> bool:
    """Whether tempo and first beat are what the fields showed, so that the anchors stay."""
    return abs(grid.bpm - bpm) < 1e-3 and abs(grid.first_beat_s - first) < 1e-3


def _keep_key(event: QEvent) -> bool:
    """Claim a key without Ctrl or Alt for typing before the window's shortcuts see it."""
    if event.type() is QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
        others = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        if not event.modifiers() & others and event.key() < Qt.Key.Key_F1:
            event.accept()
            return True
    return False


def number(text: str) -> float:
    """A number as typed. Raises ValueError saying what is none."""
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise ValueError(f"“{text}” is not a number") from None


def text_line(name: str) -> QLineEdit:
    """A field to type in, for which keys are not shortcuts."""
    field = _Field()
    field.setAccessibleName(name)
    return field


def beside(*widgets: QWidget) -> QWidget:
    """Widgets in a row."""
    box = QWidget()
    row = QHBoxLayout(box)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(6)
    for widget in widgets:
        row.addWidget(widget)
    return box
