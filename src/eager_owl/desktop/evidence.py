"""The evidence panel: what was measured of the selected note, how it was named, how sure, what else it could be."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.side_panel import turn_page
from eager_owl.desktop.theme import Theme, color, head_font, text_font
from eager_owl.desktop.words import clock_text, in_chord_words, pitch_text, plural, reason_words, technique_words
from eager_owl.neck.states import candidates
from eager_owl.reasons.schools import reason_schools
from eager_owl.reasons.tell import event_words, times_words
from eager_owl.rhythm.values import write_values
from eager_owl.session import doubts, key_of, names_of, string_heard
from eager_owl.solo.document import PINS, Note
from eager_owl.solo.dynamics import dynamics_words
from eager_owl.solo.figures import return_words, twins_of
from eager_owl.theory.chord import second_names
from eager_owl.theory.interval import interval_words
from eager_owl.theory.pitch import pretty

_LONG_NAME = 14
_QUEUE_SHOWN, _FIGURES_SHOWN = 6, 4


class _Share(QWidget):
    """A bar for a share of belief."""

    def __init__(self, share: float, loud: bool, theme: Theme) -> None:
        super().__init__()
        self._share, self._loud, self._theme = share, loud, theme
        self.setMinimumWidth(60)
        self.setAccessibleName(f"{100 * share:.0f} in 100")

    def sizeHint(self) -> QSize:
        return QSize(90, 18)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        track = QRectF(0, self.height() / 2 - 4, self.width(), 8)
        painter.fillRect(track, color(self._theme.cell))
        track.setWidth(max(2.0, track.width() * self._share))
        painter.fillRect(track, color(self._theme.here if self._loud else self._theme.ribbon))


class Evidence(QFrame):
    """The side panel for the selected note."""

    pin_asked = Signal()
    doubt_asked = Signal()
    pitch_asked = Signal(int, int)
    string_asked = Signal(int, int)
    accept_asked = Signal()
    carry_asked = Signal()
    note_asked = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self._open: OpenSolo | None = None
        self.setObjectName("card")
        self.setMinimumWidth(300)
        self.setMaximumWidth(340)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.accept_button = QPushButton("It is right   Z")
        self.accept_button.setProperty("loud", True)
        self.accept_button.setToolTip("Pin the note's pitch and go to the next doubt")
        self.accept_button.clicked.connect(self.accept_asked)
        self.pin_button = QPushButton("Pin   P")
        self.pin_button.setProperty("pin", True)
        self.pin_button.setAccessibleName("Pin the note")
        self.pin_button.clicked.connect(self.pin_asked)
        self.doubt_button = QPushButton("Next doubt   D")
        self.doubt_button.setAccessibleName("Next doubt")
        self.doubt_button.clicked.connect(self.doubt_asked)
        self._queue = QLabel()
        self._queue.setProperty("quiet", True)
        self._queue.setFont(text_font(themes.SMALL))
        self._queue.setWordWrap(True)
        for button in (self.accept_button, self.doubt_button, self.pin_button):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setMinimumHeight(36)
        buttons = QHBoxLayout()
        buttons.addWidget(self.accept_button)
        buttons.addWidget(self.doubt_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.addWidget(self._scroll, 1)
        layout.addLayout(buttons)
        below = QHBoxLayout()
        below.addWidget(self._queue, 1)
        below.addWidget(self.pin_button)
        layout.addLayout(below)

    def show_solo(self, opened: OpenSolo) -> None:
        """Show this solo's notes."""
        self._open = opened
        self.refresh()

    def refresh(self) -> None:
        """Write the panel anew for what is selected."""
        if self._open is None:
            return
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 6, 0)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        chosen = self._open.selected
        if len(chosen) == 1:
            self._write_note(grid, chosen[0])
        else:
            self._write_phrase(grid, len(chosen))
        grid.setRowStretch(grid.rowCount(), 1)
        turn_page(self._scroll, page)
        queue = doubts(self._open.solo, self._open.phrase)
        total = len(self._open.notes)
        order = {note.id: i for i, note in enumerate(self._open.notes, 1)}
        listed = ", ".join(str(order[note.id]) for note in queue[:6])
        self._queue.setText(
            f"{len(queue)} of {total} notes in doubt: {listed}" if queue else "No note in doubt here."
        )
        self.doubt_button.setEnabled(bool(queue))
        self.pin_button.setEnabled(bool(chosen))
        self.accept_button.setEnabled(bool(chosen))
        pinned = bool(chosen) and all(note.pins == frozenset(PINS) for note in chosen)
        self.pin_button.setText("Free   P" if pinned else "Pin   P")

    # Writing

    def _heading(self, grid: QGridLayout, words: str) -> None:
        row = grid.rowCount()
        label = QLabel(words)
        label.setFont(head_font(themes.TEXT))
        if row > 1:
            rule = QFrame()
            rule.setFixedHeight(1)
            rule.setStyleSheet(f"background: {self.theme.rule};")
            grid.addWidget(rule, row, 0, 1, 3)
            row += 1
        grid.addWidget(label, row, 0, 1, 3)

    def _row(self, grid: QGridLayout, name: str, words: str, loud: bool = False) -> None:
        row = grid.rowCount()
        left, right = QLabel(name), QLabel(words)
        left.setProperty("quiet", True)
        left.setFont(text_font(themes.SMALL))
        left.setWordWrap(len(name) > _LONG_NAME)
        right.setWordWrap(True)
        right.setFont(text_font(themes.TEXT, bold=loud))
        if loud:
            right.setStyleSheet(f"color: {self.theme.here};")
        right.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        grid.addWidget(left, row, 0, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(right, row, 1, 1, 2)

    def _write_phrase(self, grid: QGridLayout, chosen: int) -> None:
        assert self._open is not None
        notes = self._open.notes
        phrase = self._open.phrase
        self._heading(grid, phrase.name if phrase else self._open.solo.title)
        if chosen:
            self._row(grid, "selected", f"{chosen} notes")
        if phrase:
            self._row(grid, "length", f"{phrase.end - phrase.start:.2f} s")
        self._row(grid, "notes", str(len(notes)) if notes else "none yet: H hears the phrase")
        if notes:
            low, high = min(n.pitch for n in notes), max(n.pitch for n in notes)
            self._row(grid, "range", f"{self._pitch(low)} to {self._pitch(high)}")
            loud = max(n.loudness_db for n in notes) - min(n.loudness_db for n in notes)
            loudest = max(n.loudness_db for n in self._open.solo.notes)
            self._row(grid, "loudness", f"{dynamics_words(notes, loudest)}; {loud:.0f} dB from softest to loudest")
            seconds = max(notes[-1].end - notes[0].onset, 0.1)
            self._row(grid, "speed", f"{len(notes) / seconds:.1f} notes a second")
        self._write_queue(grid)
        self._write_returns(grid)
        cents = self._open.solo.reference_cents
        if cents is not None:
            self._row(grid, "tuning", f"{cents:+.0f} cents, A = {440 * 2 ** (cents / 1200):.0f} Hz")
        self._heading(grid, "Ways of explaining")
        for told in self._open.stories:
            here = told.school == self._open.solo.reason_school
            words = f"{len(notes) - told.unexplained} of {len(notes)}, {plural(told.switches, 'change')}"
            creed = reason_schools()[told.school].creed
            self._row(grid, told.school.replace("-", " "), words if notes else creed, here)
        self._heading(grid, "Keys")
        self._row(grid, "→  ←", "walk through the notes")
        self._row(grid, "?", "all keys")

    def _write_queue(self, grid: QGridLayout) -> None:
        """The doubts of the phrase, worst first, each with what else it could be."""
        assert self._open is not None
        queue = doubts(self._open.solo, self._open.phrase)
        if not queue:
            return
        self._heading(grid, f"Doubts, worst first: {len(queue)}")
        order = {note.id: i for i, note in enumerate(self._open.notes, 1)}
        for note in queue[:_QUEUE_SHOWN]:
            others = " or ".join(self._pitch(pitch, note) for pitch, _ in note.runners_up[:2])
            words = f"{self._pitch(note.pitch, note)}{f', or {others}' if others else ''}"
            row = grid.rowCount()
            button = QPushButton(f"note {order[note.id]}")
            button.setProperty("flat", True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, i=note.id: self.note_asked.emit(i))
            grid.addWidget(button, row, 0)
            grid.addWidget(QLabel(words), row, 1)
            grid.addWidget(QLabel(_percent(note.confidence)), row, 2, Qt.AlignmentFlag.AlignRight)

    def _write_returns(self, grid: QGridLayout) -> None:
        """Where the phrase's figures come back, in words."""
        assert self._open is not None
        solo = self._open.solo
        returns = self._open.returns
        if not returns:
            return
        self._heading(grid, "Figures that come back")
        order = {note.id: i for i, note in enumerate(self._open.notes, 1)}
        figures: dict[tuple[int, ...], list[str]] = {}
        for run in returns:
            at = solo.note(run.again[0]).onset
            index = solo.phrase_index_at(at)
            where = f" in “{solo.phrases[index].name}”" if index is not None else ""
            figures.setdefault(run.first, []).append(f"{return_words(run, solo.notes)}, at {clock_text(at)}{where}")
        for first, told in [*figures.items()][:_FIGURES_SHOWN]:
            words = "; ".join(told)
            if len(told) > 1:
                words = f"{times_words(len(told) + 1)}: {words}"
            self._row(grid, f"notes {order[first[0]]}–{order[first[-1]]}", words)

    def _pitch(self, pitch: int, note: Note | None = None) -> str:
        """A pitch by name; one that is told of a note as its chord spells it."""
        assert self._open is not None
        reason = self._open.reasons.get(note.id) if note is not None else None
        return pitch_text(pitch, self._open.solo, reason.chord if reason is not None else None)

    def _write_note(self, grid: QGridLayout, note: Note) -> None:
        assert self._open is not None
        solo = self._open.solo
        order = next((i for i, n in enumerate(self._open.notes, 1) if n.id == note.id), 0)
        self._heading(grid, f"Note {order}")
        where = [f"string {note.string}, fret {note.fret}" if note.string else "no place on this neck"]
        if note.finger:
            where.append(f"finger {note.finger}")
        self._row(grid, "played", ", ".join(where))
        off = note.contour_cents[: max(4, len(note.contour_cents) // 4)]
        cents = sorted(off)[len(off) // 2] if off else 0
        tune = "" if note.bend or not off else f", {abs(cents)} cents {'sharp' if cents >= 0 else 'flat'}"
        self._row(grid, "fretted", self._pitch(note.pitch, note) + tune)
        if note.bend and note.bend.semitones:
            top = self._pitch(note.pitch + round(note.bend.semitones), note)
            self._row(grid, "bent to", f"{top}", loud=True)
        for technique in note.techniques:
            self._row(grid, "named", technique_words(technique))
        self._row(grid, "held", f"{note.duration:.2f} s")
        loudest = max(n.loudness_db for n in self._open.notes)
        below = loudest - note.loudness_db
        comparison = "the loudest here" if below < 0.5 else f"{below:.0f} dB under the loudest"
        self._row(grid, "loudness", f"{note.loudness_db:.0f} dB, {comparison}")
        if solo.grid:
            self._row(grid, "timing", self._timing(note))
        if note.pins:
            self._row(grid, "pinned", ", ".join(pin for pin in PINS if pin in note.pins))
        self._write_belief(grid, note)
        self._write_twins(grid, note)
        self._write_reasons(grid, note)
        self._write_places(grid, note)

    def _timing(self, note: Note) -> str:
        assert self._open is not None
        assert self._open.solo.grid is not None
        grid = self._open.solo.grid
        written = write_values([note.onset], [note.duration], grid)[0]
        bar, beat = divmod(float(written.beat), grid.beats_per_bar)
        late = written.late_ms
        how = "on the grid" if abs(late) < 5 else f"{abs(late):.0f} ms {'behind' if late > 0 else 'ahead'}"
        return f"bar {int(bar) + 1}, beat {round(beat + 1, 2):g}; {how}"

    def _write_belief(self, grid: QGridLayout, note: Note) -> None:
        pinned = "pitch" in note.pins
        self._heading(grid, "How sure: you said so" if pinned else f"How sure: {_percent(note.confidence)} in 100")
        rows = [(note.pitch, note.confidence, True)]
        rows += [(pitch, share, False) for pitch, share in note.runners_up[:2]]
        for pitch, share, here in rows:
            row = grid.rowCount()
            if here:
                name: QWidget = QLabel(self._pitch(pitch, note))
            else:
                key = "   E" if pitch == note.runners_up[0][0] else ""
                name = QPushButton(self._pitch(pitch, note) + key)
                name.setProperty("flat", True)
                name.setFocusPolicy(Qt.FocusPolicy.NoFocus)
                name.setToolTip("take this reading instead")
                name.clicked.connect(lambda _=False, p=pitch: self.pitch_asked.emit(note.id, p - note.pitch))
            grid.addWidget(name, row, 0)
            grid.addWidget(_Share(share, here, self.theme), row, 1)
            grid.addWidget(QLabel(_percent(share)), row, 2, Qt.AlignmentFlag.AlignRight)

    def _write_twins(self, grid: QGridLayout, note: Note) -> None:
        """Offer to carry the note to where its figure comes back, once something of it is pinned."""
        assert self._open is not None
        solo = self._open.solo
        twins = twins_of(note.id, self._open.returns)
        if not twins:
            return
        many = "once" if len(twins) == 1 else f"{len(twins)} times"
        self._row(grid, "comes back", f"{many}, at {', '.join(clock_text(solo.note(i).onset) for i in twins)}")
        if note.pins:
            button = QPushButton("Carry it there   Ctrl R")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(self.carry_asked)
            grid.addWidget(button, grid.rowCount(), 1, 1, 2)

    def _write_reasons(self, grid: QGridLayout, note: Note) -> None:
        assert self._open is not None
        self._heading(grid, "Why this note")
        reason = self._open.reasons.get(note.id)
        if reason is not None and reason.interval_key is not None:
            words = interval_words(reason.interval_key)
            if reason.lands_key and reason.lands_key != reason.interval_key:
                words += f", bent to its {interval_words(reason.lands_key)}"
            key = key_of(self._open.solo)
            self._row(grid, "in the key", f"{words} of {pretty(key.name)}" if key else words)
        if reason is not None and reason.chord is not None:
            self._row(grid, "in the chord", in_chord_words(reason))
        if reason is None or (reason.interval_key is None and reason.chord is None):
            self._row(grid, "", "give a key or chart (F), and it is related to them here")
            return
        index = next(i for i, n in enumerate(self._open.notes) if n.id == note.id)
        for event in self._open.reading.events:
            if index in event.notes and event.kind not in ("sequence", "repeat"):
                self._row(grid, "here", pretty(event_words(event)))
        if reason.chord is not None and (others := second_names(reason.chord, names_of(self._open.solo))):
            self._row(grid, "the chord", pretty(f"{reason.chord.symbol} is also {others[0].symbol}"))
        for name in reason_schools():
            told = self._open.explanation(name).reasons[index]
            here = name == self._open.solo.reason_school
            self._row(grid, name.replace("-", " "), reason_words(told), here)

    def _write_places(self, grid: QGridLayout, note: Note) -> None:
        assert self._open is not None
        others = [p for p in candidates(note.pitch, self._open.solo.instrument) if p != (note.string, note.fret)]
        if not others:
            return
        self._heading(grid, "Where else on the neck")
        if (heard := string_heard(self._open.solo, note)) is not None:
            self._row(grid, "by its sound", f"string {heard[0]}, {_percent(heard[1])} in 100")
        for string, fret in others[:4]:
            row = grid.rowCount()
            button = QPushButton(f"string {string}, fret {fret}")
            button.setProperty("flat", True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, s=string: self.string_asked.emit(note.id, s))
            away = abs(fret - (note.fret or 0))
            hint = QLabel("open" if fret == 0 else f"{away} fret{'s' * (away != 1)} away")
            hint.setProperty("quiet", True)
            hint.setFont(text_font(themes.SMALL))
            grid.addWidget(button, row, 0, 1, 2, Qt.AlignmentFlag.AlignLeft)
            grid.addWidget(hint, row, 2)


def _percent(share: float) -> str:
    """A share of belief in a hundred; nothing heard is quite sure, nor quite out of the question."""
    return "< 1" if share < 0.005 else "> 99" if share > 0.995 else f"{100 * share:.0f}"
