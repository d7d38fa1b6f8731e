"""The panel that helps to hear the lead: what the recording is, where the lead stays, what to bring forward, taps."""

from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QFrame, QLabel, QPushButton, QSlider, QVBoxLayout

from eager_owl.desktop import theme as themes
from eager_owl.desktop.facts import beside, number, text_line
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.theme import head_font, text_font
from eager_owl.solo.document import LeadFocus, Solo
from eager_owl.theory.pitch import parse_pitch, pitch_name

_MIXES = (("auto", "as it was heard"), ("solo", "a guitar alone"), ("band", "a lead over a band"))
_PLACE_STEPS = 10


class LeadPanel(QFrame):
    """Every field is taken when it is left; what is wrong is said under the form."""

    closed = Signal()
    hear_asked = Signal()
    taps_cleared = Signal()
    heard_otherwise = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._open: OpenSolo | None = None
        self.setObjectName("card")
        self.setMinimumWidth(290)
        self.setMaximumWidth(340)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(8)
        self._heading(layout, "Hearing the lead")
        self.mix = QComboBox()
        self.mix.setAccessibleName("What the recording is")
        for value, words in _MIXES:
            self.mix.addItem(words, value)
        self.mix.activated.connect(self._take)
        self.lowest, self.highest = text_line("Lowest pitch of the lead"), text_line("Highest pitch of the lead")
        form = QFormLayout()
        form.setVerticalSpacing(5)
        form.addRow("recording", self.mix)
        form.addRow("lead stays in", beside(self.lowest, QLabel("to"), self.highest))
        layout.addLayout(form)
        self._heading(layout, "Bring forward")
        self.everywhere = QCheckBox("from everywhere in the stereo")
        self.everywhere.toggled.connect(self._take)
        layout.addWidget(self.everywhere)
        self.place = QSlider(Qt.Orientation.Horizontal)
        self.place.setRange(-_PLACE_STEPS, _PLACE_STEPS)
        self.place.setTickPosition(QSlider.TickPosition.TicksBelow)
        self.place.setTickInterval(_PLACE_STEPS)
        self.place.setAccessibleName("Stereo place of the lead")
        self.place.sliderReleased.connect(self._take)
        self.place.actionTriggered.connect(self._place_moved)
        layout.addWidget(beside(QLabel("left"), self.place, QLabel("right")))
        self.low, self.high = text_line("Band from, in Hz"), text_line("Band to, in Hz")
        self.low.setPlaceholderText("all")
        self.high.setPlaceholderText("all")
        band = QFormLayout()
        band.addRow("band in Hz", beside(self.low, QLabel("to"), self.high))
        layout.addLayout(band)
        self.tones_only = QCheckBox("tones only: drums and clicks held back")
        self.tones_only.toggled.connect(self._take)
        layout.addWidget(self.tones_only)
        said = self._quiet(layout, "The loop plays, and hearing hears, what is brought forward.")
        said.setWordWrap(True)
        self._heading(layout, "Tap along")
        self.taps = self._quiet(layout, "")
        self.taps.setWordWrap(True)
        self.clear_button = QPushButton("Let go of the taps   Shift I")
        self.clear_button.clicked.connect(self.taps_cleared)
        layout.addWidget(self.clear_button)
        layout.addStretch(1)
        self.complaint = QLabel()
        self.complaint.setProperty("complaint", True)
        self.complaint.setWordWrap(True)
        layout.addWidget(self.complaint)
        hear = QPushButton("Hear the phrase so   H")
        hear.setProperty("loud", True)
        hear.setMinimumHeight(36)
        hear.clicked.connect(self.hear_asked)
        layout.addWidget(hear)
        back = QPushButton("Back to the evidence   Shift F")
        back.clicked.connect(self.closed)
        layout.addWidget(back)
        for field in (self.lowest, self.highest, self.low, self.high):
            field.editingFinished.connect(self._take)
        for button in (hear, back, self.clear_button):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def _heading(self, layout: QVBoxLayout, words: str) -> None:
        label = QLabel(words)
        label.setFont(head_font())
        layout.addWidget(label)

    def _quiet(self, layout: QVBoxLayout, words: str) -> QLabel:
        label = QLabel(words)
        label.setProperty("quiet", True)
        label.setFont(text_font(themes.SMALL))
        layout.addWidget(label)
        return label

    def show_solo(self, opened: OpenSolo) -> None:
        """Show what this solo's lead is heard by."""
        self._open = opened
        self.refresh()

    def refresh(self) -> None:
        """Write the fields from the document, except the one being typed in."""
        if self._open is None:
            return
        solo, focus, taps = self._open.solo, self._open.solo.focus, self._open.view.taps
        survey = self._open.sound.survey if self._open.sound else None
        heard = {"solo": "a guitar alone", "band": "a band"}[survey.mix] if survey else "not yet"
        self.mix.setItemText(0, f"as it was heard: {heard}")
        self.mix.setCurrentIndex(self.mix.findData(solo.mix))
        low, high = solo.lead_range or (solo.instrument.lowest, solo.instrument.highest)
        values = {
            self.lowest: pitch_name(low),
            self.highest: pitch_name(high),
            self.low: f"{focus.low_hz:g}" if focus.low_hz else "",
            self.high: f"{focus.high_hz:g}" if focus.high_hz else "",
        }
        for field, text in values.items():
            if not field.hasFocus():
                field.setText(text)
        stereo = self._open.sound is None or self._open.sound.recording.samples.shape[1] == 2
        for box, on in ((self.everywhere, focus.place is None), (self.tones_only, focus.tones_only)):
            box.blockSignals(True)
            box.setChecked(on)
            box.blockSignals(False)
        self.everywhere.setEnabled(stereo)
        self.everywhere.setText("from everywhere in the stereo" if stereo else "the recording is mono: no places")
        self.place.setEnabled(stereo and focus.place is not None)
        if not self.place.isSliderDown():
            self.place.setValue(round(_PLACE_STEPS * (focus.place or 0.0)))
        phrase = self._open.phrase
        here = [tap for tap in taps if phrase is None or phrase.holds(tap)]
        self.taps.setText(
            f"{len(here)} tap{'s' * (len(here) != 1)} here: hearing puts a note at each, and nowhere else."
            if here
            else "While a slowed loop plays, press I as each note begins. Hearing then puts a note at each tap."
        )
        self.clear_button.setEnabled(bool(taps))

    def _place_moved(self) -> None:
        # Keys move the slider without a release.
        if not self.place.isSliderDown():
            self.place.setValue(self.place.sliderPosition())
            self._take()

    def _take(self, *_: object) -> None:
        opened = self._open
        if opened is None:
            return

        try:
            low, high = parse_pitch(self.lowest.text()), parse_pitch(self.highest.text())
            if low >= high:
                raise ValueError("the lead's highest pitch lies under its lowest")
            focus = LeadFocus(
                None if self.everywhere.isChecked() else self.place.value() / _PLACE_STEPS,
                number(self.low.text()) if self.low.text().strip() else None,
                number(self.high.text()) if self.high.text().strip() else None,
                self.tones_only.isChecked(),
            )
        except ValueError as error:
            self.complaint.setText(str(error))
            return
        neck = (opened.solo.instrument.lowest, opened.solo.instrument.highest)
        lead_range, mix = None if (low, high) == neck else (low, high), self.mix.currentData()
        self.complaint.clear()
        sounds_otherwise = focus != opened.solo.focus

        def change(solo: Solo) -> Solo:
            return replace(solo, mix=mix, lead_range=lead_range, focus=focus)

        done = opened.do("hearing the lead", change)
        self.refresh()  # settling what was done before has written the fields from the older document
        if done and sounds_otherwise:
            self.heard_otherwise.emit()
