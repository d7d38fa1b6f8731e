"""The transport: loop, speed, count-in, hear, and where the ear is."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QLabel, QPushButton

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import text_font
from eager_owl.desktop.widgets.work import Work
from eager_owl.desktop.words import beat_text, clock_text
from eager_owl.session.commands import key_words
from eager_owl.session.playing import SPEEDS
from eager_owl.session.session import Session

_VOICES = {"recording": "Record", "transcription": "Tab played", "both": "Record | tab"}
_WIDE_PX = 1130  # with less the keys are not written on the buttons, and only the speeds next to hand are shown
_NEAR_SPEEDS = 1


class Transport(QFrame):
    """Large targets in one row; every one has its key."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setObjectName("card")
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 8, 12, 8)
        row.setSpacing(6)
        self._words: dict[QPushButton, tuple[str, str]] = {}
        self.loop_button = self._button("toggle_loop", "Loop", "Loop the phrase, or stop", loud=True)
        self.once_button = self._button("play_once", "Once", "Play the phrase once")
        row.addWidget(self.loop_button)
        row.addWidget(self.once_button)
        row.addSpacing(6)
        self._speed_word = _quiet("speed")
        row.addWidget(self._speed_word)
        self._speeds = QButtonGroup(self)
        self.speed_buttons: dict[float, QPushButton] = {}
        for speed in SPEEDS:
            button = _plain_button(f"{100 * speed:.0f}", f"Speed {100 * speed:.0f} per cent")
            button.setCheckable(True)
            button.setMinimumWidth(36)
            button.setProperty("close", True)
            button.clicked.connect(lambda _=False, s=speed: session.playing.set_speed(s))
            self._speeds.addButton(button)
            self.speed_buttons[speed] = button
            row.addWidget(button)
        row.addSpacing(6)
        self.count_button = self._button("toggle_count_in", "Count-in", "Count-in of one bar")
        self.count_button.setCheckable(True)
        self.voice_button = self._button("next_voice", "", "What plays: the recording, the transcription, or both")
        self.hear_button = self._button("hear", "Hear", "Hear the phrase: detect its notes")
        for button in (self.count_button, self.voice_button, self.hear_button):
            row.addWidget(button)
        row.addStretch(1)
        self.work = Work(session, self._button("stop_work", "Stop", "Stop the work under way"))
        self.work.progress.setFixedWidth(110)
        row.addWidget(self.work)
        self.position = QLabel()
        self.position.setAccessibleName("Position")
        self.position.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.position)
        session.playing.changed.connect(self.refresh)
        session.working.connect(self._make_room)
        self.refresh()

    def _button(self, command: str, words: str, name: str, loud: bool = False) -> QPushButton:
        row = self._session.commands[command]
        button = _plain_button("", name)
        button.setProperty("loud", loud)
        button.clicked.connect(lambda: self._session.run(row))
        self._words[button] = (words, key_words(row.keys[0]))
        return button

    def sizeHint(self) -> QSize:
        return QSize(1200, 56)

    def minimumSizeHint(self) -> QSize:
        return QSize(640, 56)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._write()

    @property
    def _wide(self) -> bool:
        return self.width() >= _WIDE_PX

    def refresh(self) -> None:
        """Write what plays and how, and where the ear is."""
        self._write()
        self.show_position()

    def _write(self) -> None:
        playing = self._session.playing
        voice = self._session.opened.view.voice if self._session.opened else "recording"
        self._words[self.loop_button] = ("Stop" if self._session.player.playing else "Loop", "Space")
        self._words[self.voice_button] = (_VOICES[voice], "\\")
        for button, (words, keys) in self._words.items():
            button.setText(f"{words}   {keys}" if self._wide else words)
        self.loop_button.setMinimumWidth(118 if self._wide else 70)
        self.position.setMinimumWidth(136 if self._wide else 120)  # bar 128, 3.5   10:04.8
        self._speed_word.setVisible(self._wide)
        here = SPEEDS.index(playing.speed) if playing.speed in SPEEDS else 0
        for index, (speed, button) in enumerate(self.speed_buttons.items()):
            button.setChecked(speed == playing.speed)
            first = min(max(here - _NEAR_SPEEDS, 0), len(SPEEDS) - 2 * _NEAR_SPEEDS - 1)
            button.setVisible(self._wide or first <= index <= first + 2 * _NEAR_SPEEDS)
        self.count_button.setChecked(playing.counts_in)

    def show_position(self) -> None:
        """Where the cursor is, in bars and seconds."""
        opened = self._session.opened
        if opened is None:
            return
        words = clock_text(opened.view.cursor)
        if opened.solo.grid is not None:
            place = beat_text(opened.solo.grid, opened.view.cursor)
            words = f"bar {place}   {words}" if self._wide else f"{place}   {words}"
        self.position.setText(words)

    def _make_room(self, share: float | None, _doing: str) -> None:
        """Work under way takes the place of some buttons."""
        for button in (self.hear_button, self.voice_button, self.count_button):
            button.setVisible(share is None)


def _plain_button(words: str, name: str) -> QPushButton:
    button = QPushButton(words)
    button.setAccessibleName(name)
    button.setToolTip(name)
    button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    button.setMinimumHeight(36)
    return button


def _quiet(words: str) -> QLabel:
    label = QLabel(words)
    label.setProperty("quiet", True)
    label.setFont(text_font(themes.SMALL))
    return label
