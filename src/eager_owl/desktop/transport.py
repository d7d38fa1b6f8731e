"""The transport: loop, speed, count-in, hear, and where the ear is."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import text_font

SPEEDS = (0.25, 0.35, 0.5, 0.7, 0.85, 1.0, 1.25)


class Transport(QFrame):
    """Large targets in one row; every one has its key."""

    loop_asked = Signal()
    once_asked = Signal()
    hear_asked = Signal()
    stop_asked = Signal()
    speed_chosen = Signal(float)
    count_in_toggled = Signal(bool)
    voice_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 8, 12, 8)
        row.setSpacing(6)
        self.loop_button = _button("Loop   Space", "Loop the phrase, or stop", loud=True)
        self.loop_button.setMinimumWidth(118)
        self.loop_button.clicked.connect(self.loop_asked)
        self.once_button = _button("Once   Enter", "Play the phrase once")
        self.once_button.clicked.connect(self.once_asked)
        row.addWidget(self.loop_button)
        row.addWidget(self.once_button)
        row.addSpacing(6)
        row.addWidget(_quiet("speed"))
        self._speeds = QButtonGroup(self)
        self.speed_buttons: dict[float, QPushButton] = {}
        for speed in SPEEDS:
            button = _button(f"{100 * speed:.0f}", f"Speed {100 * speed:.0f} per cent", checkable=True)
            button.setMinimumWidth(36)
            button.setStyleSheet("padding-left: 4px; padding-right: 4px;")
            button.clicked.connect(lambda _=False, s=speed: self.speed_chosen.emit(s))
            self._speeds.addButton(button)
            self.speed_buttons[speed] = button
            row.addWidget(button)
        row.addSpacing(6)
        self.count_button = _button("Count-in   C", "Count-in of one bar", checkable=True)
        self.count_button.toggled.connect(self.count_in_toggled)
        row.addWidget(self.count_button)
        self.voice_button = _button("", "What plays: the recording, the transcription, or one in each ear")
        self.voice_button.clicked.connect(self.voice_asked)
        self.show_voice("recording")
        row.addWidget(self.voice_button)
        self.hear_button = _button("Hear   H", "Hear the phrase: detect its notes")
        self.hear_button.clicked.connect(self.hear_asked)
        row.addWidget(self.hear_button)
        row.addStretch(1)
        self._work = QWidget()
        work = QHBoxLayout(self._work)
        work.setContentsMargins(0, 0, 0, 0)
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(110)
        self.progress.setAccessibleName("Progress")
        self.stop_button = _button("Stop   Esc", "Stop hearing")
        self.stop_button.clicked.connect(self.stop_asked)
        self.doing = _quiet("")
        work.addWidget(self.doing)
        work.addWidget(self.progress)
        work.addWidget(self.stop_button)
        self._work.hide()
        row.addWidget(self._work)
        self.position = QLabel()
        self.position.setAccessibleName("Position")
        self.position.setMinimumWidth(136)  # bar 128, 3.5   10:04.8
        self.position.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.position)

    def sizeHint(self) -> QSize:
        return QSize(1200, 56)

    def show_speed(self, speed: float) -> None:
        """Mark the chosen speed."""
        if speed in self.speed_buttons:
            self.speed_buttons[speed].setChecked(True)

    def show_playing(self, playing: bool) -> None:
        """The loop button tells what the next press does."""
        self.loop_button.setText("Stop   Space" if playing else "Loop   Space")

    def show_voice(self, voice: str) -> None:
        """What plays."""
        words = {"recording": "Record", "transcription": "Tab played", "both": "Record | tab"}[voice]
        self.voice_button.setText(f"{words}   \\")

    def show_work(self, share: float | None, doing: str = "") -> None:
        """Show progress of long work and what is being done, or hide it for None."""
        self.doing.setText(doing)
        self._work.setVisible(share is not None)
        for button in (self.hear_button, self.voice_button, self.count_button):
            button.setVisible(share is None)
        if share is not None:
            self.progress.setValue(round(100 * share))


def _button(words: str, name: str, loud: bool = False, checkable: bool = False) -> QPushButton:
    button = QPushButton(words)
    button.setAccessibleName(name)
    button.setToolTip(name)
    button.setCheckable(checkable)
    button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    button.setMinimumHeight(36)
    if loud:
        button.setProperty("loud", True)
    return button


def _quiet(words: str) -> QLabel:
    label = QLabel(words)
    label.setProperty("quiet", True)
    label.setFont(text_font(themes.SMALL))
    return label
