"""The first screen: what to do, in three steps, and where to begin."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtSvgWidgets import QSvgWidget
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from eager_owl import ASSETS
from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import head_font, text_font
from eager_owl.desktop.widgets.rows import Button
from eager_owl.desktop.widgets.work import Work
from eager_owl.session.session import Session
from eager_owl.solo.store import SUFFIX

_STEPS = (
    ("Listen", "Open a recording of the solo. Play it until you can sing it; give its key, beat and chords."),
    ("Split and hear", "Cut it into phrases. Loop one at half speed and let Eager Owl write down what it measures."),
    ("Decide", "Every pitch, place and name is a proposal with its doubt shown. Overrule any with one key."),
)


class Welcome(QWidget):
    """Shown while no solo is open."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        outer = QVBoxLayout(self)
        outer.addStretch(1)
        card = QFrame()
        card.setObjectName("card")
        card.setMaximumWidth(860)
        layout = QVBoxLayout(card)
        layout.setContentsMargins(48, 36, 48, 36)
        layout.setSpacing(16)
        head = QHBoxLayout()
        owl = QSvgWidget(str(ASSETS / "eager-owl.svg"))
        owl.setFixedSize(72, 72)
        head.addWidget(owl)
        words = QVBoxLayout()
        title = QLabel("Eager Owl")
        title.setFont(head_font(26))
        words.addWidget(title)
        line = QLabel("From a recorded solo to a transcription you can trust, play and explain.")
        line.setFont(text_font(themes.TEXT, italic=True))
        words.addWidget(line)
        head.addSpacing(14)
        head.addLayout(words, 1)
        layout.addLayout(head)
        layout.addSpacing(6)
        for number, (name, text) in enumerate(_STEPS, 1):
            row = QHBoxLayout()
            mark = QLabel(str(number))
            mark.setFont(head_font(22))
            mark.setFixedWidth(30)
            row.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
            step = QLabel(f"<b>{name}.</b> {text}")
            step.setWordWrap(True)
            row.addWidget(step, 1)
            layout.addLayout(row)
        layout.addSpacing(10)
        buttons = QHBoxLayout()
        buttons.setSpacing(12)
        self.recording_button = _large("Open a recording   Ctrl N", loud=True)
        self.recording_button.clicked.connect(lambda: session.keeping.new())
        self.solo_button = _large("Open a solo   Ctrl O")
        self.solo_button.clicked.connect(lambda: session.keeping.open())
        self.bring_button = _large("Bring in written music   Ctrl I")
        self.bring_button.clicked.connect(lambda: session.bringing_in.ask())
        self.empty_button = _large("Write one by hand   Ctrl Shift N")
        self.empty_button.clicked.connect(lambda: session.keeping.new_empty())
        self.demo_button = _large("Try the demo")
        self.demo_button.clicked.connect(lambda: session.keeping.open_demo())
        for button in (self.recording_button, self.solo_button, self.demo_button):
            buttons.addWidget(button)
        layout.addLayout(buttons)
        others = QHBoxLayout()
        others.setSpacing(12)
        for button in (self.bring_button, self.empty_button):
            others.addWidget(button)
        layout.addLayout(others)
        self._recent = QVBoxLayout()
        layout.addLayout(self._recent)
        note = QLabel("Keep headphones at a level you can talk over, and rest your hands every half hour.")
        note.setProperty("quiet", True)
        note.setFont(text_font(themes.SMALL))
        layout.addWidget(note)
        stop = Button("Stop   Esc")
        stop.clicked.connect(lambda: session.recordings.stop())
        self.work = Work(session, stop)
        layout.addWidget(self.work)
        session.keeping.recent_changed.connect(self.show_recent)
        self.show_recent()
        centred = QHBoxLayout()
        centred.addStretch(1)
        centred.addWidget(card, 8)
        centred.addStretch(1)
        outer.addLayout(centred)
        outer.addStretch(1)

    def show_recent(self) -> None:
        """List the solos opened lately."""
        paths = self._session.keeping.recent_paths()
        while (item := self._recent.takeAt(0)) is not None:
            if widget := item.widget():
                widget.deleteLater()
        if paths:
            label = QLabel("Lately")
            label.setProperty("quiet", True)
            label.setFont(text_font(themes.SMALL))
            self._recent.addWidget(label)
        for path in paths[:4]:
            button = Button(Path(path).name.removesuffix(SUFFIX))
            button.setProperty("flat", True)
            button.setToolTip(path)
            button.clicked.connect(lambda _=False, p=path: self._session.keeping.open_path(Path(p)))
            self._recent.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)


def _large(words: str, loud: bool = False) -> Button:
    button = Button(words)
    button.setProperty("large", True)
    if loud:
        button.setProperty("loud", True)
    return button
