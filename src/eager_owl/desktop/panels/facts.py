"""Facts of the solo: title, key, beat, chords, guitar and schools, beside the desk, each taken as it is typed."""

from collections.abc import Mapping
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QFormLayout, QLabel

from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.widgets.fields import ChartText, choices, in_a_row, number, short_line, show_value, text_line
from eager_owl.desktop.widgets.rows import Button, Check
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid, grid_from_taps
from eager_owl.session.explaining import ReasonSchool, reason_schools
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.placing import PlacingSchool, placing_schools
from eager_owl.session.session import Session
from eager_owl.solo.document import About, Instrument, Solo
from eager_owl.solo.edits import choose_schools, with_instrument
from eager_owl.solo.tunings import TUNINGS, tuning_name
from eager_owl.theory.key import parse_key
from eager_owl.theory.pitch import parse_pitch, pitch_name

_TAP_PAUSE_S = 2.5
_OWN_TUNING = "a tuning of your own"
# Facts of the recording: field of the document, and what it is called.
_ABOUT = {
    "player": "who plays", "take": "take", "place": "where", "date": "when", "tone": "tone", "guitar": "their guitar",
}  # fmt: skip
_FEELS = (("straight", 2, False), ("swung", 2, True), ("in threes", 3, False))


class Facts(Panel):
    """A form whose every field is checked and taken when it is left; what is wrong is said under the form."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._taps: list[float] = []
        self.heading("Facts of the solo")
        self._build_beat()
        self.column.addWidget(QLabel("chords, bars between |"))
        self.chart = ChartText()
        self.chart.setAccessibleName("Chart")
        self.chart.setPlaceholderText("| Fm7 | Bbm7 | Gm7b5 C7 | % |")
        self.chart.setTabChangesFocus(True)
        # A bar that comes and goes changes the wrapping, which makes it go and come, without end.
        self.chart.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.chart.setFixedHeight(96)
        self.column.addWidget(self.chart)
        self._build_guitar()
        self._build_about()
        self.column.addStretch(1)
        self.complaint = self.complaints()
        self.foot.addWidget(self.back)
        self.first_field = self.key
        self._connect()

    def _build_beat(self) -> None:
        form = _form()
        self.title, self.key = text_line("Title"), text_line("Key")
        self.tempo, self.first_beat, self.beats = (
            short_line("Tempo"),
            short_line("First beat"),
            short_line("Beats to the bar"),
        )
        self.key.setPlaceholderText("F minor, E blues, A Dorian")
        self.tempo.setPlaceholderText("a minute")
        self.first_beat.setPlaceholderText("seconds")
        form.addRow("title", self.title)
        form.addRow("key", self.key)
        self.tap_button = _button("Tap", "Tap the beat while the recording plays, three times or more")
        self.find_button = _button("Find", "Take the beat that was found in the recording   Ctrl T")
        self.here_button = _button("At cursor", "The first beat lies at the cursor")
        form.addRow("tempo", in_a_row(self.tempo, self.tap_button, self.find_button))
        form.addRow("first beat", in_a_row(self.first_beat, self.here_button))
        self.feel = choices("Feel of the beat")
        self.feel.addItems([words for words, _, _ in _FEELS])
        form.addRow("beats a bar", in_a_row(self.beats, self.feel))
        self.drift = _button("", "Even out: one tempo from the first beat on")
        form.addRow("", self.drift)
        self.column.addLayout(form)

    def _build_guitar(self) -> None:
        form = _form()
        self.tunings = choices("Tuning by name")
        self.tunings.addItem(_OWN_TUNING)
        self.tunings.addItems(list(TUNINGS))
        self.tuning, self.capo, self.frets = text_line("Tuning"), short_line("Capo"), short_line("Frets")
        self.scale = short_line("Scale length in mm")
        self.left_handed = Check("left-handed")
        form.addRow("guitar", self.tunings)
        form.addRow("tuning", self.tuning)
        form.addRow("capo, frets", in_a_row(self.capo, self.frets))
        form.addRow("scale in mm", in_a_row(self.scale, self.left_handed))
        self.placing = _schools("Way of placing", placing_schools())
        self.reasons = _schools("Way of explaining", reason_schools())
        form.addRow("placed by", self.placing)
        form.addRow("explained by", self.reasons)
        self.column.addLayout(form)

    def _build_about(self) -> None:
        self.column.addWidget(QLabel("the recording, in your words"))
        form = _form()
        self.about = {name: text_line(words.capitalize()) for name, words in _ABOUT.items()}
        for name, words in _ABOUT.items():
            form.addRow(words, self.about[name])
        self.column.addLayout(form)

    def _connect(self) -> None:
        for line in self.about.values():
            line.editingFinished.connect(self._take_about)
        self.tap_button.clicked.connect(self._tap)
        self.find_button.clicked.connect(lambda: self.session.recordings.find_beat())
        self.here_button.clicked.connect(self._first_beat_here)
        self.drift.clicked.connect(self._even_out)
        self.title.editingFinished.connect(self._take_title)
        self.key.editingFinished.connect(self._take_key)
        self.feel.activated.connect(self._take_beat)
        for field in (self.tempo, self.first_beat, self.beats):
            field.editingFinished.connect(self._take_beat)
        self.chart.left.connect(self._take_chart)
        self.tunings.activated.connect(self._name_tuning)
        self.left_handed.clicked.connect(self._take_guitar)
        for field in (self.tuning, self.capo, self.frets, self.scale):
            field.editingFinished.connect(self._take_guitar)
        self.placing.activated.connect(self._take_schools)
        self.reasons.activated.connect(self._take_schools)

    def write(self, opened: OpenSolo) -> None:
        """Write the fields from the document, except the one being typed in."""
        solo, grid = opened.solo, opened.solo.grid
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
            **{field: getattr(solo.about, name) for name, field in self.about.items()},
        }
        self.tunings.setCurrentIndex(max(self.tunings.findText(tuning_name(solo.instrument.tuning)), 0))
        self.left_handed.setChecked(solo.instrument.left_handed)
        feels = [(division, swung) for _, division, swung in _FEELS]
        self.feel.setCurrentIndex(feels.index((grid.division, grid.swung)) if grid else 0)
        anchors = len(grid.anchors) if grid else 0
        self.drift.setVisible(anchors > 0)
        self.drift.setText(f"{anchors} beats held: even out")
        for field, text in values.items():
            show_value(field, text)
        self.chart.show_text(solo.chart_text)
        self.placing.setCurrentIndex(max(self.placing.findData(solo.placing_school), 0))
        self.reasons.setCurrentIndex(max(self.reasons.findData(solo.reason_school), 0))

    def _take_title(self) -> None:
        title = self.title.text().strip() or "Untitled solo"
        self.take("title", lambda solo: replace(solo, title=title))

    def _take_about(self) -> None:
        about = About(**{name: field.text().strip() for name, field in self.about.items()})
        self.take("facts of the recording", lambda solo: replace(solo, about=about))

    def _take_key(self) -> None:
        text = self.key.text().strip()

        def change(solo: Solo) -> Solo:
            if text:
                parse_key(text)
            return replace(solo, key_text=text)

        self.take("key", change, place=True)

    def _take_beat(self) -> None:
        texts = [field.text().strip() for field in (self.tempo, self.first_beat, self.beats)]

        def change(solo: Solo) -> Solo:
            if not texts[0]:
                return replace(solo, grid=None)
            bpm, first, beats = number(texts[0]), number(texts[1] or "0"), number(texts[2] or "4")
            _, division, swung = _FEELS[self.feel.currentIndex()]
            kept = solo.grid.anchors if solo.grid and _says_the_same(solo.grid, bpm, first) else ()
            return replace(solo, grid=BeatGrid(bpm, first, int(beats), kept, division, swung))

        self.take("beat", change)

    def _even_out(self) -> None:
        self.take(
            "even tempo", lambda solo: replace(solo, grid=replace(solo.grid, anchors=()) if solo.grid else None)
        )

    def _take_chart(self) -> None:
        text = self.chart.toPlainText()

        def change(solo: Solo) -> Solo:
            parse_chart(text)
            return replace(solo, chart_text=text)

        self.take("chords", change)

    def _take_guitar(self) -> None:
        names = self.tuning.text().replace(",", " ").split()
        capo, frets, scale = self.capo.text(), self.frets.text(), self.scale.text()
        left_handed = self.left_handed.isChecked()

        def change(solo: Solo) -> Solo:
            tuning = tuple(parse_pitch(name) for name in names)
            guitar = Instrument(tuning, int(number(capo)), int(number(frets)), number(scale), left_handed)
            return with_instrument(solo, guitar)

        self.take("guitar", change, place=True)

    def _name_tuning(self) -> None:
        if (tuning := TUNINGS.get(self.tunings.currentText())) is not None:
            self.tuning.setText(" ".join(pitch_name(pitch) for pitch in tuning))
            self._take_guitar()

    def _take_schools(self) -> None:
        placing, reasons = self.placing.currentData(), self.reasons.currentData()
        moved = placing != self.session.solo.solo.placing_school
        self.take("school", lambda solo: choose_schools(solo, placing, reasons), place=moved)

    def _tap(self) -> None:
        now = self.session.solo.view.cursor
        if self._taps and not 0 < now - self._taps[-1] < _TAP_PAUSE_S:
            self._taps.clear()
        self._taps.append(now)
        if len(self._taps) < 3:
            self.complain(f"{3 - len(self._taps)} more taps, on the beat, while it plays")
            return
        beats = self.beats.text() or "4"
        self.take("tempo tapped", lambda solo: replace(solo, grid=grid_from_taps(self._taps, int(number(beats)))))

    def _first_beat_here(self) -> None:
        opened = self.session.solo
        grid, now = opened.solo.grid or BeatGrid(), opened.view.cursor
        self.take("first beat", lambda solo: replace(solo, grid=replace(grid, first_beat_s=now)))


def _form() -> QFormLayout:
    form = QFormLayout()
    form.setVerticalSpacing(5)
    form.setHorizontalSpacing(8)
    return form


def _button(words: str, name: str) -> Button:
    button = Button(words)
    button.setToolTip(name)
    button.setAccessibleName(name)
    button.setProperty("close", True)
    return button


def _schools(name: str, schools: Mapping[str, PlacingSchool | ReasonSchool]) -> QComboBox:
    box = choices(name)
    for school, told in schools.items():
        box.addItem(school.replace("-", " "), school)
        box.setItemData(box.count() - 1, told.creed, Qt.ItemDataRole.ToolTipRole)
    return box


def _says_the_same(grid: BeatGrid, bpm: float, first: float) -> bool:
    """Whether tempo and first beat are what the fields showed, so that the anchors stay."""
    return abs(grid.bpm - bpm) < 1e-3 and abs(grid.first_beat_s - first) < 1e-3
