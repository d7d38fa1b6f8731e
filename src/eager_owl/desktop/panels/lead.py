"""The panel that helps to hear the lead: what the recording is, where the lead stays, what to bring forward, taps."""

from dataclasses import replace

from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QFormLayout, QLabel, QSlider

from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.widgets.fields import choices, in_a_row, number, show_value, text_line
from eager_owl.desktop.widgets.rows import Button, Check, claims_key
from eager_owl.session import editing
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.document import LeadFocus, Solo
from eager_owl.theory.pitch import parse_pitch, pitch_name
from eager_owl.theory.words import plural

_MIXES = (("auto", "as it was heard"), ("solo", "a guitar alone"), ("band", "a lead over a band"))
_PLACE_STEPS = 10


class _StereoPlace(QSlider):
    """A slider whose arrow keys are its own, not the desk's."""

    def event(self, event: QEvent) -> bool:
        return claims_key(event, (Qt.Key.Key_Left, Qt.Key.Key_Right)) or super().event(event)


class Lead(Panel):
    """Every field is taken when it is left; what is wrong is said under the form."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        layout = self.column
        layout.setSpacing(8)
        self.heading("Hearing the lead")
        self.mix = choices("What the recording is")
        for value, words in _MIXES:
            self.mix.addItem(words, value)
        self.mix.activated.connect(self._take)
        self.lowest, self.highest = text_line("Lowest pitch of the lead"), text_line("Highest pitch of the lead")
        form = QFormLayout()
        form.setVerticalSpacing(5)
        form.addRow("recording", self.mix)
        form.addRow("lead from", in_a_row(self.lowest, QLabel("to"), self.highest))
        layout.addLayout(form)
        self.heading("Bring forward")
        self.everywhere = Check("from everywhere in the stereo")
        self.everywhere.toggled.connect(self._take)
        layout.addWidget(self.everywhere)
        self.place = _StereoPlace(Qt.Orientation.Horizontal)
        self.place.setRange(-_PLACE_STEPS, _PLACE_STEPS)
        self.place.setTickPosition(QSlider.TickPosition.TicksBelow)
        self.place.setTickInterval(_PLACE_STEPS)
        self.place.setAccessibleName("Stereo place of the lead")
        self.place.sliderReleased.connect(self._take)
        self.place.actionTriggered.connect(self._place_moved)
        layout.addWidget(in_a_row(QLabel("left"), self.place, QLabel("right")))
        self.low, self.high = text_line("Band from, in Hz"), text_line("Band to, in Hz")
        self.low.setPlaceholderText("all")
        self.high.setPlaceholderText("all")
        band = QFormLayout()
        band.addRow("band in Hz", in_a_row(self.low, QLabel("to"), self.high))
        layout.addLayout(band)
        self.tones_only = Check("tones only, no drums and clicks")
        self.tones_only.toggled.connect(self._take)
        layout.addWidget(self.tones_only)
        self.quiet("The loop plays, and hearing hears, what is brought forward.")
        self.heading("Tap along")
        self.taps = self.quiet()
        self.clear_button = Button("Let go of the taps   Shift I")
        self.clear_button.clicked.connect(lambda: editing.clear_taps(session))
        layout.addWidget(self.clear_button)
        layout.addStretch(1)
        self.complaint = self.complaints()
        hear = Button("Hear the phrase so   H")
        hear.setProperty("loud", True)
        hear.setMinimumHeight(36)
        hear.clicked.connect(lambda: session.recordings.hear())
        self.foot.addWidget(hear)
        self.foot.addWidget(self.back)
        self.first_field = self.lowest
        for field in (self.lowest, self.highest, self.low, self.high):
            field.editingFinished.connect(self._take)

    def write(self, opened: OpenSolo) -> None:
        solo, focus, taps = opened.solo, opened.solo.focus, opened.view.taps
        survey = opened.sound.survey if opened.sound else None
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
            show_value(field, text)
        stereo = opened.sound is None or opened.sound.recording.channels == 2
        for box, on in ((self.everywhere, focus.place is None), (self.tones_only, focus.tones_only)):
            box.blockSignals(True)
            box.setChecked(on)
            box.blockSignals(False)
        self.everywhere.setEnabled(stereo)
        self.everywhere.setText("from everywhere in the stereo" if stereo else "the recording is mono: no places")
        self.place.setEnabled(stereo and focus.place is not None)
        if not self.place.isSliderDown():
            self.place.setValue(round(_PLACE_STEPS * (focus.place or 0.0)))
        phrase = opened.phrase
        here = [tap for tap in taps if phrase is None or phrase.holds(tap)]
        self.taps.setText(
            f"{plural(len(here), 'tap')} here: hearing puts a note at each, and nowhere else."
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
        opened = self.opened
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
            self.complain(str(error))
            return
        neck = (opened.solo.instrument.lowest, opened.solo.instrument.highest)
        lead_range, mix = None if (low, high) == neck else (low, high), self.mix.currentData()
        self.complain("")
        sounds_otherwise = focus != opened.solo.focus

        def change(solo: Solo) -> Solo:
            return replace(solo, mix=mix, lead_range=lead_range, focus=focus)

        done = self.take("hearing the lead", change)
        self.refresh()  # settling what was done before has written the fields from the older document
        if done and sounds_otherwise:
            self.session.playing.play_anew()
