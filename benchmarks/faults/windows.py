"""Several windows on the same documents, each crashing now and then: no work is lost without the player's word."""

import random
import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

from tests.sessions import KeptSettings, ManualClock, NotedScreen, PlainDrawing, ToldDialogs, WorkersAtHand, die

from benchmarks.faults import Tally
from eager_owl import ASSETS
from eager_owl.desktop.entries import all_commands
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.player import SimulatedDevice
from eager_owl.session.ports import Answer, Ports
from eager_owl.session.session import Session
from eager_owl.session.unsaved import unsaved_folder
from eager_owl.solo.document import Solo
from eager_owl.solo.journals import left_behind
from eager_owl.solo.store import DocumentError, load, save

_DEMO = ASSETS / "demo" / "night-ferry.owl.json"
_DOCUMENTS, _WINDOWS = ("a.owl.json", "b.owl.json"), 3
_JOURNALLED_S = 3.1
# Answers by which the player says that work may go, or is where it was brought.
_OVER = ("Save over it", "Replace it")


class _Dialogs(ToldDialogs):
    """Says at random what becomes of changes; the answer is the player's word."""

    def __init__(self, rng: random.Random) -> None:
        super().__init__()
        self._rng, self.chose = rng, False

    def save_file(self, title: str, suggested: Path, kinds: str) -> Path | None:
        self.chose = self.file is not None
        return super().save_file(title, suggested, kinds)

    def keep_changes(self, title: str) -> Answer:
        return self._rng.choice(("save", "discard", "cancel"))


@dataclass
class _Window:
    """One of the windows, what it asks, and the documents as it last saw them."""

    rng: random.Random
    clock: ManualClock = field(default_factory=ManualClock)
    workers: WorkersAtHand = field(default_factory=WorkersAtHand)
    answers: dict[str, Callable[[], object]] = field(default_factory=dict)
    seen: dict[Path, bytes] = field(default_factory=dict)
    changed_at: float = 0.0

    def __post_init__(self) -> None:
        self.dialogs = _Dialogs(self.rng)
        ports = Ports(
            self.clock, self.workers, SimulatedDevice(self.clock), self.dialogs, KeptSettings(), PlainDrawing
        )
        self.session = Session(ports, all_commands())
        self.session.attach(NotedScreen())
        self.session.asked.connect(lambda words, answers: self._ask(answers))
        self.session.answered.connect(self.answers.clear)
        self.session.shown.connect(self._saw)

    def _saw(self, opened: OpenSolo) -> None:
        self.changed_at = self.clock.now
        if opened.path is not None:
            self.seen[opened.path] = opened.path.read_bytes()

    def _ask(self, answers: dict[str, Callable[[], object]]) -> None:
        self.answers = dict(answers)


@dataclass(frozen=True)
class _Moment:
    """Before something is done: the documents, the journals without an owner, and what a window saw of the first."""

    documents: dict[Path, bytes]
    left: dict[Path, str]
    seen: dict[Path, bytes]


class _Desks:
    """The windows, the folder, and what is promised to be there."""

    def __init__(self, folder: Path, rng: random.Random, tally: Tally) -> None:
        self.folder, self.rng, self.tally = folder, rng, tally
        self.solo = replace(load(_DEMO), recording=None)
        self.count = 0
        for name in _DOCUMENTS:
            save(self._version(), folder / name)
        self.windows = [_Window(rng) for _ in range(_WINDOWS)]

    def _version(self) -> Solo:
        self.count += 1
        return replace(self.solo, title=str(self.count))

    def documents(self) -> dict[Path, bytes]:
        return {path: path.read_bytes() for path in (self.folder / name for name in _DOCUMENTS)}

    def left(self) -> dict[Path, str]:
        """Journals that have no owner, with the version that is in each."""
        paths = [None, *(self.folder / name for name in _DOCUMENTS)]
        return {each: load(each).title for path in paths for each in left_behind(path, unsaved_folder())}

    def act(self, number: int) -> None:
        """One thing done in one window, and what it may not have changed."""
        window = self.rng.choice(self.windows)
        often = (self.edit, self.wait, self.save, self.answer)
        do = self.rng.choice((*often, *often, self.open, self.save_as, self.crash, self.write))
        self.tally.count(do.__name__)
        was = _Moment(self.documents(), self.left(), dict(window.seen))
        window.dialogs.chose = False
        words = do(window)
        window.workers.finish()
        self._check(f"{number}, {words}", window, words, was)

    def open(self, window: _Window) -> str:
        window.session.keeping.open_path(self.folder / self.rng.choice(_DOCUMENTS))
        return "open"

    def edit(self, window: _Window) -> str:
        if (opened := window.session.opened) is not None:
            title = self._version().title
            opened.do("title", lambda solo: replace(solo, title=title))
            window.changed_at = window.clock.now
        return "edit"

    def wait(self, window: _Window) -> str:
        window.clock.advance(self.rng.uniform(0.0, 4.0))
        return "wait"

    def save(self, window: _Window) -> str:
        if window.session.opened is not None and window.session.solo.path is not None:
            window.session.keeping.save()
        return "save"

    def save_as(self, window: _Window) -> str:
        if window.session.opened is not None:
            window.dialogs.file = self.folder / self.rng.choice(_DOCUMENTS)
            window.session.keeping.save_as()
        return "save as"

    def answer(self, window: _Window) -> str:
        if not window.answers:
            return "nothing asked"
        words = self.rng.choice(list(window.answers))
        window.dialogs.file = self.folder / self.rng.choice(_DOCUMENTS)
        window.answers[words]()
        return f"answer: {words}"

    def crash(self, window: _Window) -> str:
        """What was changed more than three seconds ago is in a journal."""
        opened = window.session.opened
        due = opened is not None and opened.dirty and window.clock.now - window.changed_at > _JOURNALLED_S
        title = opened.solo.title if opened is not None else ""
        die(window.session)
        self.windows[self.windows.index(window)] = _Window(self.rng)
        if due and title not in self.left().values():
            self.tally.wrong.append(f"version {title} was lost in a crash")
        return "crash"

    def write(self, window: _Window) -> str:
        """Another program writes a document."""
        save(self._version(), self.folder / self.rng.choice(_DOCUMENTS))
        return "another program"

    def _check(self, words: str, window: _Window, did: str, was: _Moment) -> None:
        opened = window.session.opened
        for path, content in self.documents().items():
            try:
                load(path)
            except DocumentError as error:
                self.tally.wrong.append(f"{words}: {error}")
            if content == was.documents[path] or did == "another program":
                continue
            told = window.dialogs.chose or did in (f"answer: {each}" for each in _OVER)
            if not told and was.seen.get(path) != was.documents[path]:
                self.tally.wrong.append(f"{words}: {path.name} was replaced by who had not seen it")
            window.seen[path] = content
            if did.startswith("save") and (opened is None or opened.solo.title != load(path).title):
                self.tally.wrong.append(f"{words}: {path.name} holds what is not open")
        path = opened.path if opened is not None and not opened.dirty else None
        if path is not None and did.startswith("save") and load(path) == window.session.solo.solo:
            window.seen[path] = path.read_bytes()  # written over with what was there
        now = self.left()
        for journal, title in was.left.items():
            if journal in now or did == "answer: Throw it away":
                continue
            brought = opened is not None and opened.solo.title == title
            saved = any(load(path).title == title for path in was.documents)
            if not (brought or saved):
                self.tally.wrong.append(f"{words}: version {title} is gone, unasked")


def cross_windows(count: int, rng: random.Random) -> Tally:
    """So many things done in three windows on two documents."""
    tally = Tally("windows")
    shutil.rmtree(unsaved_folder(), ignore_errors=True)
    with tempfile.TemporaryDirectory() as name:
        desks = _Desks(Path(name), rng, tally)
        for number in range(count):
            with tally.watched(f"thing {number}"):
                desks.act(number)
        for window in desks.windows:
            window.session.player.close()
            die(window.session)
    return tally
