"""The panel that carries the phrase elsewhere: another key, octave, position or set of strings."""

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFormLayout, QLabel

from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.widgets.fields import in_a_row, number, show_value, text_line
from eager_owl.desktop.widgets.rows import Button, Check
from eager_owl.session.facts import key_of
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.placing import Moved, moved, moved_tab, price_words, tell_hand
from eager_owl.session.session import Session
from eager_owl.solo.document import Note
from eager_owl.solo.edits import take_places
from eager_owl.theory.key import parse_key
from eager_owl.theory.pitch import pretty

_MOST_SEMITONES = 36


class Elsewhere(Panel):
    """Shows the moved phrase on the neck as it is typed, with what gets harder and what easier."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._moved: Moved | None = None
        layout = self.column
        layout.setSpacing(8)
        self._title = self.heading()
        form = QFormLayout()
        form.setVerticalSpacing(5)
        self.to_key, self.semitones = text_line("To the key of"), text_line("Semitones up or down")
        self.fret, self.strings = text_line("Hand near fret"), text_line("Strings to play it on")
        self.fret.setPlaceholderText("anywhere")
        self.strings.setPlaceholderText("all")
        self.down, self.up = Button("down"), Button("up")
        for button, by in ((self.down, -12), (self.up, 12)):
            button.clicked.connect(lambda _=False, by=by: self._step(by))
        form.addRow("to the key of", self.to_key)
        form.addRow("semitones", self.semitones)
        form.addRow("octave", in_a_row(self.down, self.up))
        form.addRow("near fret", self.fret)
        form.addRow("on strings", self.strings)
        self.in_shape = Check("keep its shape")
        form.addRow("", self.in_shape)
        self.in_shape.clicked.connect(lambda: self.refresh())
        layout.addLayout(form)
        self.words = QLabel()
        self.words.setWordWrap(True)
        layout.addWidget(self.words)
        layout.addStretch(1)
        self.complaint = self.complaints()
        self.hear_button = Button("Hear   Shift Enter")
        self.hear_button.clicked.connect(lambda: session.ways.hear())
        self.copy_button = Button("Copy as tab")
        self.copy_button.clicked.connect(self.copy_tab)
        for button in (self.hear_button, self.copy_button):
            button.setProperty("close", True)
        self.foot.addWidget(in_a_row(self.hear_button, self.copy_button))
        self.take_button = Button("Play it there")
        self.take_button.setProperty("loud", True)
        self.take_button.setToolTip("Pins the places; only where the pitches stay what the record has")
        self.take_button.clicked.connect(self.play_there)
        self.foot.addWidget(self.take_button)
        self.foot.addWidget(self.back)
        self.first_field = self.to_key
        self.to_key.editingFinished.connect(self._take_key)
        for field in (self.semitones, self.fret, self.strings):
            field.editingFinished.connect(self.refresh)

    def show_solo(self, opened: OpenSolo) -> None:
        """Move phrases of this solo."""
        for field in (self.to_key, self.semitones, self.fret, self.strings):
            field.clear()

    def write(self, opened: OpenSolo) -> None:
        """Move the phrase as the fields say."""
        phrase, notes = opened.phrase, opened.notes
        self._title.setText(f"Carry “{phrase.name}” elsewhere" if phrase else "Carry a phrase elsewhere")
        self._moved = None
        self.complain("")
        if phrase is None or not notes:
            self.words.setText("Choose a phrase with notes: Page down.")
            self._allow(False)
            return
        shaped = self.in_shape.isChecked()
        self.fret.setEnabled(not shaped)  # a shape stands where its pitches are
        try:
            semitones, fret, strings = self._asked()
        except ValueError as error:
            self.complain(str(error))
            self._allow(False)
            return
        key = key_of(opened.solo)
        if key is not None:
            show_value(self.to_key, key.moved(semitones).name)
        still = semitones == 0 and fret is None and strings is None
        self._moved = moved(opened.solo, notes, semitones, fret, strings, opened.hand, shaped)
        self._show_words(still)
        self._allow(not still)
        shown = () if still else self._moved.notes
        if opened.view.tried != tuple(shown):
            opened.try_notes(shown)

    def _allow(self, on: bool) -> None:
        same = False
        if on and self._moved is not None and self.opened is not None:
            same = [note.pitch for note in self._moved.notes] == [note.pitch for note in self.opened.notes]
        self.hear_button.setEnabled(on)
        self.copy_button.setEnabled(on)
        self.take_button.setEnabled(same)

    def _show_words(self, still: bool) -> None:
        assert self.opened is not None and self._moved is not None
        if still:
            self.words.setText("Say where to: a key, semitones, a fret, or strings (such as 1 2 3).")
            return
        lines = [price_words(tell_hand(self._moved.notes, self.opened.solo.instrument)), *self._moved.words]
        lines += [f"note {i + 1}: {reason}" for i, reason in list(self._moved.refusals.items())[:4]]
        self.words.setText(pretty("\n".join(f"• {line}" for line in lines)))

    def _asked(self) -> tuple[int, int | None, set[int] | None]:
        """Semitones, fret and strings as typed. Raises ValueError with a sentence for the player."""
        assert self.opened is not None
        semitones = round(number(self.semitones.text() or "0"))
        if abs(semitones) > _MOST_SEMITONES:
            raise ValueError(f"{semitones} semitones is further than any neck")
        fret = round(number(self.fret.text())) if self.fret.isEnabled() and self.fret.text().strip() else None
        instrument = self.opened.solo.instrument
        if fret is not None and not 1 <= fret <= instrument.frets:
            raise ValueError(f"there is no fret {fret} on this neck")
        names = self.strings.text().replace(",", " ").split()
        strings = {round(number(name)) for name in names} or None
        if strings and not strings <= set(range(1, len(instrument.tuning) + 1)):
            raise ValueError(f"this guitar has strings 1 to {len(instrument.tuning)}")
        return semitones, fret, strings

    def _take_key(self) -> None:
        """Semitones from the key typed: the nearer way."""
        if self.opened is None or not self.to_key.text().strip():
            return
        own = key_of(self.opened.solo)
        try:
            wanted = parse_key(self.to_key.text())
            if own is None:
                raise ValueError("give the solo's own key first: F")
            now = round(number(self.semitones.text() or "0"))
        except ValueError as error:
            self.complain(str(error))
            return
        self.to_key.setModified(False)
        if (own.tonic + now - wanted.tonic) % 12:
            self.semitones.setText(str((wanted.tonic - own.tonic + 6) % 12 - 6))
        self.refresh()

    def _step(self, by: int) -> None:
        try:
            self.semitones.setText(str(round(number(self.semitones.text() or "0")) + by))
        except ValueError:
            self.semitones.setText(str(by))
        self.refresh()

    @property
    def notes(self) -> tuple[Note, ...]:
        """The moved notes."""
        return self._moved.notes if self._moved else ()

    def copy_tab(self) -> None:
        """The moved phrase as text tab, to the clipboard."""
        opened = self.session.solo
        if self._moved is not None and opened.phrase is not None:
            tab = moved_tab(opened.solo, opened.phrase, self._moved.notes, self.to_key.text())
            QGuiApplication.clipboard().setText(tab)

    def play_there(self) -> None:
        """Play the phrase there: its places are pinned."""
        if self.opened is not None and self._moved is not None:
            placed = self._moved.notes
            self.opened.do("play it elsewhere", lambda solo: take_places(solo, placed))
            for field in (self.semitones, self.fret, self.strings):
                field.clear()
            self.refresh()
