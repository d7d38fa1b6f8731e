"""Sessions without a screen: a clock wound by hand, work done when asked, dialogs that are told what to say."""

import os
import shutil
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from unittest import mock

from eager_owl.audio.decode import Recording
from eager_owl.desktop.entries import all_commands
from eager_owl.session import recordings
from eager_owl.session.hearing import Progress, Survey, survey
from eager_owl.session.open_solo import OpenSolo, Sound
from eager_owl.session.player import SimulatedDevice
from eager_owl.session.players_hand import hand_file
from eager_owl.session.ports import Answer, Ports
from eager_owl.session.recordings import decode_sound
from eager_owl.session.session import Session
from eager_owl.session.sheets import Face, Sheet
from eager_owl.session.unsaved import unsaved_folder
from eager_owl.solo.document import Solo
from tests.support import FolderCase


class ManualTimer:
    def __init__(self, clock: "ManualClock", seconds: float, call: Callable[[], object], repeat: bool) -> None:
        self.clock, self.seconds, self.call, self.repeat = clock, seconds, call, repeat
        self.due: float | None = None

    def start(self) -> None:
        self.due = self.clock.now + self.seconds

    def stop(self) -> None:
        self.due = None

    @property
    def running(self) -> bool:
        return self.due is not None


class ManualClock:
    """Time goes by when it is told to."""

    def __init__(self) -> None:
        self.now = 0.0
        self.timers: list[ManualTimer] = []

    def timer(self, seconds: float, call: Callable[[], object], repeat: bool = False) -> ManualTimer:
        self.timers.append(ManualTimer(self, seconds, call, repeat))
        return self.timers[-1]

    def advance(self, seconds: float) -> None:
        end = self.now + seconds
        while due := [timer for timer in self.timers if timer.due is not None and timer.due <= end]:
            timer = min(due, key=lambda each: each.due or 0.0)
            self.now = timer.due or self.now
            timer.due = self.now + timer.seconds if timer.repeat else None
            timer.call()
        self.now = end


class WorkersAtHand:
    """Work waits until `finish` does it, on the thread that asks."""

    def __init__(self) -> None:
        self.waiting: list[Callable[[], object]] = []

    def start(self, call: Callable[[], None]) -> None:
        self.waiting.append(call)

    def post(self, call: Callable[[], object]) -> None:
        self.waiting.append(call)

    def finish(self) -> None:
        while self.waiting:
            self.waiting.pop(0)()


class ToldDialogs:
    """Answers that are laid down before they are asked for; what was not laid down is declined."""

    def __init__(self) -> None:
        self.file: Path | None = None
        self.words: str | None = None
        self.copied = ""
        self.keeps: Answer = "discard"
        self.asked: list[str] = []
        self.suggested: Path | None = None

    def open_file(self, title: str, kinds: str) -> Path | None:
        self.asked.append(title)
        return self.file

    def save_file(self, title: str, suggested: Path, kinds: str) -> Path | None:
        self.asked.append(title)
        self.suggested = suggested
        return self.file

    def text(self, question: str, text: str) -> str | None:
        self.asked.append(question)
        return self.words

    def copied_text(self) -> str:
        return self.copied

    def keep_changes(self, title: str) -> Answer:
        self.asked.append(title)
        return self.keeps


class KeptSettings:
    def __init__(self) -> None:
        self.values: dict[str, object] = {}

    def read(self, name: str) -> object | None:
        return self.values.get(name)

    def write(self, name: str, value: object) -> None:
        self.values[name] = value


class PlainDrawing:
    """Measures text roughly, and draws nothing."""

    @staticmethod
    def widths(text: str, face: Face) -> float:
        return 0.5 * face.size * len(text)

    def pdf(self, sheet: Sheet) -> bytes:
        return f"%PDF {len(sheet.pages)}".encode()

    def svg(self, sheet: Sheet) -> str:
        return f"<svg><title>{sheet.title}</title></svg>"

    def typefaces(self, sheets: Sequence[Sheet]) -> str:
        return f"/* {len(sheets)} */"


class NotedScreen:
    """Notes what it was asked to show."""

    def __init__(self) -> None:
        self.asked: list[str] = []

    def show_panel(self, name: str) -> None:
        self.asked.append(name)

    def show_page(self, name: str) -> None:
        self.asked.append(name)

    def show_desk(self) -> None:
        self.asked.append("desk")

    def zoom(self, by: int) -> None:
        self.asked.append(f"zoom {by}")

    def show_neck_large(self) -> None:
        self.asked.append("neck large")

    def next_theme(self) -> None:
        self.asked.append("theme")

    def show_help(self) -> None:
        self.asked.append("help")

    def find_command(self) -> None:
        self.asked.append("finder")

    def print_sheet(self) -> None:
        self.asked.append("print")

    def picture_of_desk(self, path: Path) -> bool:
        self.asked.append(path.name)
        return path.suffix in (".png", ".svg")

    def close(self) -> bool:
        self.asked.append("close")
        return True


def die(session: Session) -> None:
    """The process is gone without a word: its locks are let go, its files stay."""
    journal = session.keeping.unsaved._journal
    for lock in [session.keeping._lock, *(journal._locks if journal else [])]:
        if lock is not None and lock._handle is not None:
            os.close(lock._handle)
            lock._handle = None


_SURVEYS: dict[tuple[object, ...], Survey] = {}
_SOUNDS: dict[tuple[str, float], Sound] = {}


def survey_once(recording: Recording, _progress: object = None, span: tuple[float, float] | None = None) -> Survey:
    """The real survey, made once for a recording however many sessions ask for it."""
    key = (len(recording.samples), float(abs(recording.samples[:]).sum()), span)
    if key not in _SURVEYS:
        _SURVEYS[key] = survey(recording, span=span)
    return _SURVEYS[key]


def decode_once(path: Path, progress: Progress = lambda share, doing: True) -> Sound:
    """The real decoding, done once for a file."""
    key = (str(path.resolve()), path.stat().st_mtime)
    if key not in _SOUNDS:
        _SOUNDS[key] = decode_sound(path, progress)
    return replace(_SOUNDS[key], path=path)


class Cached(FolderCase):
    """Recordings are decoded and listened through once for all tests."""

    def setUp(self) -> None:
        super().setUp()
        for module, name, once in ((recordings, "survey", survey_once), (recordings, "decode_sound", decode_once)):
            patch = mock.patch.object(module, name, once)
            patch.start()
            self.addCleanup(patch.stop)
        shutil.rmtree(unsaved_folder(), ignore_errors=True)


class SessionCase(Cached):
    """A session of its own for each test, driven by the keys of its commands."""

    def setUp(self) -> None:
        super().setUp()
        hand_file().unlink(missing_ok=True)  # every player begins anew
        self.clock, self.workers = ManualClock(), WorkersAtHand()
        self.dialogs, self.settings, self.screen = ToldDialogs(), KeptSettings(), NotedScreen()
        self.device = SimulatedDevice(self.clock)
        self.said: list[str] = []
        self.answers: dict[str, Callable[[], object]] = {}
        self.session = self.new_session()

    def new_session(self) -> Session:
        ports = Ports(self.clock, self.workers, self.device, self.dialogs, self.settings, PlainDrawing)
        session = Session(ports, all_commands())
        self.addCleanup(session.player.close)
        session.attach(self.screen)
        session.told.connect(lambda words, lasting: self.said.append(words))
        session.asked.connect(self.hear_question)
        session.answered.connect(lambda: self.answers.clear())
        return session

    def hear_question(self, words: str, answers: object) -> None:
        self.said.append(words)
        self.answers = dict(answers)  # type: ignore[call-overload]

    def demo(self) -> None:
        self.session.keeping.open_demo()
        self.finish()

    def finish(self) -> None:
        """Do all work, and let edits settle."""
        self.workers.finish()
        if self.session.opened is not None:
            self.session.opened.settle()

    def press(self, keys: str) -> None:
        """What a key does, and all that follows from it."""
        command = next(c for c in self.session.commands.values() if keys in c.keys)
        self.session.run(command)
        self.finish()

    def run_command(self, name: str) -> None:
        self.session.run(self.session.commands[name])
        self.finish()

    @property
    def opened(self) -> OpenSolo:
        return self.session.solo

    @property
    def solo(self) -> Solo:
        return self.opened.solo

    @property
    def chosen(self) -> tuple[int, ...]:
        return self.opened.view.selection

    @property
    def notice(self) -> str:
        return self.said[-1] if self.said else ""

    def answer(self, words: str) -> None:
        self.answers[words]()
        self.finish()

    def phrase(self, index: int) -> None:
        self.opened.look_at_phrase(index)

    def edit(self, change: Callable[[Solo], Solo]) -> None:
        self.opened.do("for the test", change)
        self.opened.settle()
