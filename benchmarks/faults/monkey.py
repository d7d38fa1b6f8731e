"""A monkey at the window: every command, the mouse, odd things typed, files opened and saved, work that ends late."""

import json
import os
import random
import sys
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from types import TracebackType

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QPlainTextEdit, QPushButton, QWidget

from benchmarks.faults import Tally
from benchmarks.faults.documents import odd_json
from eager_owl import ASSETS
from eager_owl.desktop import theme as themes
from eager_owl.desktop.adapters import QtClock
from eager_owl.desktop.waiting import wait_until_idle
from eager_owl.desktop.window import Window
from eager_owl.session.player import SimulatedDevice
from eager_owl.session.ports import Answer
from eager_owl.solo.gate import GateError, check_solo
from eager_owl.solo.store import from_json, to_json

_DEMO = ASSETS / "demo" / "night-ferry.owl.json"
_ODD_WORDS = (
    "", "x", "-1", "0", "1", "3", "12", "99999", "1e999", "nan", "1,5", "F minor", "H", "| C |",
    "| C :| x99 C :| x99 C |", "E4 B3", "E4 B3 G3 D3 A2 E2", "E4 B3 G3 D3 A2 E2 B1 F#1", "\ud800", "♭" * 300,
    "a\nb", "..", "/", "1 2 3",
)  # fmt: skip
_ROUND_TRIP_EVERY = 50
_WAIT_EVERY = 40


class _Dialogs:
    """Answers at random, from files that are there and places that are not."""

    def __init__(self, rng: random.Random, folder: Path) -> None:
        self._rng, self._folder = rng, folder

    def open_file(self, title: str, kinds: str) -> Path | None:
        return self._rng.choice([None, *self._folder.iterdir()])

    def save_file(self, title: str, suggested: Path, kinds: str) -> Path | None:
        names = ("a.owl.json", "b", "c.owl.json", "d.pdf", "e.mid", "none/f.owl.json", "x" * 300, "g\0.owl.json")
        return self._rng.choice([None, *(self._folder / name for name in names)])

    def text(self, question: str, text: str) -> str | None:
        return self._rng.choice([None, text, *_ODD_WORDS])

    def copied_text(self) -> str:
        return self._rng.choice(("", "e|--3--5--|\nB|--------|\n", *_ODD_WORDS))

    def keep_changes(self, title: str) -> Answer:
        return self._rng.choice(("save", "discard", "cancel"))


class _Monkey:
    def __init__(self, rng: random.Random, folder: Path, tally: Tally) -> None:
        self.rng, self.folder, self.tally = rng, folder, tally
        self.last = "the beginning"
        self.device = SimulatedDevice(QtClock())
        self.window = Window(self.device)
        self.session = self.window.session
        self.session.ports = replace(self.session.ports, dialogs=_Dialogs(rng, folder))
        self.session.told.connect(self._heard)
        self.window.print_sheet = lambda: None  # type: ignore[method-assign] # its dialog waits for somebody
        self.window.resize(1280, 800)
        self.window.show()
        self.commands = [each for each in self.session.commands.values() if each.name != "close"]
        self.acts: tuple[tuple[str, int, Callable[[], str]], ...] = (
            ("commands", 60, self.command),
            ("clicks", 12, self.click),
            ("buttons", 10, self.button),
            ("words typed", 10, self.type),
            ("files opened", 3, self.open),
            ("moments let pass", 5, self.wait),
        )

    def _heard(self, words: str, _lasting: bool) -> None:
        if "fault of its own" in words:
            self.tally.wrong.append(f"{self.last}: {words}"[:300])

    def act(self) -> None:
        """One thing, watched."""
        kind, _, do = self.rng.choices(self.acts, [weight for _, weight, _ in self.acts])[0]
        self.tally.count(kind)
        with self.tally.watched(kind):
            self.last = do()
            QApplication.processEvents()

    def command(self) -> str:
        command = self.rng.choice(self.commands)
        self.last = command.name
        self.session.run(command)
        return command.name

    def click(self) -> str:
        widget = self.rng.choice([self.window.desk, self.window.rail, *self._visible(QWidget)])
        spot = QPoint(self.rng.randrange(max(widget.width(), 1)), self.rng.randrange(max(widget.height(), 1)))
        self.last = f"a click on {type(widget).__name__}"
        if self.rng.random() < 0.3:
            QTest.mousePress(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
            spot += QPoint(self.rng.randint(-200, 200), 0)
            QTest.mouseMove(widget, spot)
            QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
        elif not isinstance(widget, QComboBox):  # whose list would wait for somebody
            QTest.mouseClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
        return self.last

    def button(self) -> str:
        buttons = self._visible(QPushButton)
        if not buttons:
            return "no button"
        button = self.rng.choice(buttons)
        self.last = f"the button “{button.text()}”"
        button.click()
        return self.last

    def type(self) -> str:
        fields = [*self._visible(QLineEdit), *self._visible(QPlainTextEdit)]
        if not fields:
            return "nowhere to type"
        field, words = self.rng.choice(fields), self.rng.choice(_ODD_WORDS)
        self.last = f"{words[:20]!r} typed into {field.accessibleName()}"
        if isinstance(field, QLineEdit):
            field.setText(words)
            field.setModified(True)
            QTest.keyClick(field, Qt.Key.Key_Return)
        else:
            field.setPlainText(words)
            field.document().setModified(True)
            QTest.keyClick(field, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        return self.last

    def open(self) -> str:
        path = self.rng.choice(sorted(self.folder.iterdir()))
        self.last = f"{path.name} opened"
        self.session.keeping.open_path(path)
        return self.last

    def wait(self) -> str:
        self.last = "waiting"
        self.device.advance(0.2)
        QTest.qWait(20)
        return self.last

    def _visible(self, kind: type) -> list:
        return [each for each in self.window.findChildren(kind) if each.isVisible()]

    def check(self) -> None:
        """What is open may be kept, and reads back as it is."""
        if self.session.opened is None:
            return
        solo = self.session.opened.solo
        try:
            if from_json(to_json(check_solo(solo)), "open") != solo:
                self.tally.wrong.append("what is open reads back otherwise")
        except GateError as error:
            self.tally.wrong.append(f"what is open may not be kept: {error}")


def let_loose(count: int, rng: random.Random) -> Tally:
    """So many things done at random in one window; it is idle now and then, and what is open is checked."""
    tally = Tally("monkey")
    QApplication.instance() or QApplication([])
    themes.load_fonts()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        _lay_out(folder, rng)
        monkey = _Monkey(rng, folder, tally)
        hook = sys.excepthook

        def caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
            frames = []
            while trace is not None:
                frames.append(f"{Path(trace.tb_frame.f_code.co_filename).name}:{trace.tb_lineno}")
                trace = trace.tb_next
            tally.wrong.append(f"{monkey.last}: {kind.__name__}: {error} at {' '.join(frames[-3:])}"[:300])

        sys.excepthook = caught
        try:
            for number in range(1, count + 1):
                monkey.act()
                if number % _WAIT_EVERY == 0:
                    wait_until_idle(monkey.window, 15.0)  # listening takes as long as it takes
                if number % _ROUND_TRIP_EVERY == 0:
                    monkey.check()
            wait_until_idle(monkey.window)
        finally:
            sys.excepthook = hook
            monkey.session.jobs.cancel_all()
            monkey.session.player.close()
            monkey.window.hide()
    return tally


def _lay_out(folder: Path, rng: random.Random) -> None:
    """Files to open: sound ones, broken ones, and some of other kinds."""
    text = _DEMO.read_text()
    content = json.loads(text)
    sound = _DEMO.parent / content["recording"]["path"]
    (folder / sound.name).symlink_to(sound)
    (folder / "demo.owl.json").write_text(text)
    for number in range(4):
        (folder / f"odd{number}.owl.json").write_text(odd_json(text, rng), errors="surrogatepass")
    (folder / "tab.txt").write_text("e|--3--5--|\nB|--------|\n")
    (folder / "words.wav").write_text("no sound")
