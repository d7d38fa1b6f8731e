"""Keeping solos: opening, saving, exporting, the journal of unsaved work, and what was open lately."""

import os
from collections.abc import Callable
from functools import partial
from hashlib import sha256
from pathlib import Path
from typing import TYPE_CHECKING

from eager_owl import ASSETS
from eager_owl.session.exports import Export, Wanted
from eager_owl.session.importing import READERS
from eager_owl.session.jobs import Job
from eager_owl.session.open_solo import OpenSolo, Sound
from eager_owl.session.recordings import SOUND_FILES, as_stored, recording_path, reference_to
from eager_owl.session.signal import Signal
from eager_owl.session.unsaved import Unsaved
from eager_owl.session.writing import empty_solo
from eager_owl.solo.document import Solo
from eager_owl.solo.journals import FileLock, document_lock
from eager_owl.solo.store import (
    SUFFIX,
    DocumentError,
    from_json,
    is_notes_file,
    load,
    previous_path,
    read_text,
    save,
    write_atomically,
)
from eager_owl.theory.words import one_line

if TYPE_CHECKING:
    from eager_owl.notation.sheet.pages import Paper
    from eager_owl.session.session import Session

DEMO = ASSETS / "demo" / f"night-ferry{SUFFIX}"
_DEMO_PHRASE = 2
_SOLOS = f"Solos (*{SUFFIX})"
_RECENT = 8


class Keeping:
    """Where the open solo comes from and goes to. `recent_changed` tells of another list of recent ones."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.recent_changed = Signal[[]]()
        self._lock: FileLock | None = None
        self.unsaved = Unsaved(session)

    # Opening

    def new(self) -> None:
        """Ask for a recording and begin a solo on it."""
        path = self._session.ports.dialogs.open_file("Open a recording", SOUND_FILES)
        if path is not None:
            self.open_path(path)

    def new_empty(self) -> None:
        """Begin a solo without a recording, to be written by hand."""
        if not self.may_leave():
            return
        self._session.show(OpenSolo(empty_solo(), None, None, self._session.ports.clock))
        self._session.writing.toggle()
        self._session.tell(
            "digits are frets, ↑ ↓ strings, → goes on, comma and full stop change the value; F gives tempo and key"
        )

    def open(self) -> None:
        """Ask for a solo and open it."""
        path = self._session.ports.dialogs.open_file("Open a solo", _SOLOS)
        if path is not None:
            self.open_path(path)

    def open_path(self, path: Path) -> None:
        """Open a solo, or begin one on a recording; what can't be opened is told and changes nothing."""
        suffix = path.suffix.lower()
        if path.name.endswith(SUFFIX) or (suffix == ".json" and not _is_notes(path)):
            self._open_solo(path)
        elif suffix in READERS:
            self._session.bringing_in.bring(path)
        else:
            self._session.recordings.read(path, self._begin)

    def _begin(self, sound: Sound) -> None:
        """A solo on a recording, once that is decoded: only then is what was open left."""
        if not self.may_leave():
            return
        solo = Solo(title=one_line(sound.path.stem), recording=reference_to(sound))
        self._session.show(OpenSolo(solo, None, sound.path, self._session.ports.clock))
        self._session.recordings.listen_through(sound)
        if sound.recording.notice:
            self._session.tell(sound.recording.notice, lasting=True)

    def _open_solo(self, path: Path) -> None:
        try:
            content = read_text(path)
            solo = from_json(content, path.name)
            if not self.may_leave():
                return
            if (saved := read_text(path)) != content:  # what was left was this document itself
                content, solo = saved, from_json(saved, path.name)
        except DocumentError as error:
            self._offer_rescue(path, error)
            return
        self.leave()
        lock = document_lock(path)
        if not lock.take():
            # Another window has it: what is done here is done to a copy.
            opened = self.show(solo, None, path)
            opened.never_kept()
            words = f"{path.name} is open in another window: this is a copy of it, and saving asks where"
            self._session.tell(words, lasting=True)
            self._session.recordings.find()
            return
        opened = self.show(solo, path)
        self._lock = lock
        opened.stamp = _stamp(content.encode())
        self.remember(path)
        self.unsaved.offer_left(opened, path)
        self._session.recordings.find()

    def _offer_rescue(self, path: Path, error: DocumentError) -> None:
        """A document that can't be read: what else there is of it is offered."""
        answers: dict[str, Callable[[], object]] = {}
        others = {"Open the copy before it": previous_path(path)}
        for count, journal in enumerate(self.unsaved.left(path), 1):
            others["Open the unsaved work" + (f" {count}" if count > 1 else "")] = journal
        for words, other in others.items():
            try:
                solo = load(other)
            except DocumentError:
                continue
            answers[words] = partial(self._open_rescued, solo, path)
        if answers:
            self._session.ask(f"{error}.", answers, keeps=True)
        else:
            self._session.tell(str(error), lasting=True)

    def _open_rescued(self, solo: Solo, path: Path) -> None:
        """What is left of a damaged document, as one that is saved where the player says."""
        if self.may_leave():
            self.show(solo, None, path).never_kept()
            self._session.recordings.find()

    def show(self, solo: Solo, path: Path | None, told_from: Path | None = None) -> OpenSolo:
        """Show a solo that lies at a path (None: nowhere), its recording's path told from there or elsewhere."""
        recording = recording_path(solo.recording, told_from or path) if solo.recording else None
        opened = OpenSolo(solo, path, recording, self._session.ports.clock)
        self._session.show(opened)
        return opened

    def open_demo(self) -> None:
        """Open the demo solo; it is saved where the player says, never over the demo."""
        if not self.may_leave():
            return
        opened = self.show(load(DEMO), None, DEMO)
        opened.look_at_phrase(_DEMO_PHRASE)
        bent = next((note.id for note in opened.notes if note.bend), None)
        if bent is not None:
            opened.select([bent])
        self._session.recordings.find()

    # Saving

    def save(self) -> None:
        """Save, asking where if it was never saved."""
        path = self._session.solo.path
        if path is None:
            self.save_as()
        else:
            self.save_to(path)

    def save_as(self) -> None:
        """Ask where, and save."""
        path = self._session.ports.dialogs.save_file("Save the solo", self._suggested(SUFFIX), _SOLOS)
        if path is None:
            return
        if path.name.endswith(SUFFIX):
            self.save_to(path, replace=True)
            return
        # The dialog asked about the name without its suffix.
        path = path.with_name(path.name + SUFFIX)
        if os.path.exists(path) and path != self._session.solo.path:  # answers even for names that can't be
            answers = {"Replace it": lambda: self.save_to(path, replace=True), "Save elsewhere": self.save_as}
            self._session.ask(f"{path.name} is there already.", answers)
        else:
            self.save_to(path, replace=True)

    def _suggested(self, suffix: str) -> Path:
        """A file named by the title, beside the solo or else its recording; at home where it can't be there."""
        opened = self._session.solo
        name = (opened.solo.title.replace("/", "-") or "solo") + suffix
        beside = opened.path or opened.recording_path
        if beside is None or beside.is_relative_to(ASSETS) or not os.access(beside.parent, os.W_OK):
            return Path.home() / name
        return beside.parent / name

    def save_to(self, path: Path, replace: bool = False) -> bool:
        """Save to a path; answers whether it is on disk.

        What another program, or another window, wrote there meanwhile is not replaced unless the player says so.
        """
        opened = self._session.solo
        opened.settle()
        if path == opened.path and not replace and _changed_on_disk(path, opened.stamp):
            self._ask_over(path)
            return False
        lock = document_lock(path)
        if self._lock is not None and self._lock.path == lock.path:
            lock = self._lock
        if not lock.take():
            self._session.tell(f"{path.name} is open in another window: save under another name", lasting=True)
            return False
        try:
            content = save(as_stored(opened.solo, opened.recording_path, path), path)
        except DocumentError as error:
            if lock is not self._lock:
                lock.release()
            self._session.tell(str(error), lasting=True)
            return False
        if lock is not self._lock:
            self.leave()
            self._lock = lock
        self.unsaved.forget()
        opened.kept(path)
        opened.stamp = _stamp(content)
        self.remember(path)
        self._session.tell(f"saved as {path.name}")
        return True

    def _ask_over(self, path: Path) -> None:
        """Another program changed the document: the player says which of the two stays."""
        answers = {"Save over it": lambda: self.save_to(path, True), "Save under another name": self.save_as}
        self._session.ask(f"{path.name} was changed by another program since it was opened.", answers, keeps=True)

    def export(
        self, export: Export, preset: str | None = None, phrase: int | None = None, paper: "Paper | None" = None
    ) -> None:
        """Ask where, and write the solo, or a phrase of it (index from 0), in another format."""
        suffix = export.suffixes[0]
        kinds = f"{export.files} ({' '.join(f'*{each}' for each in export.suffixes)})"
        path = self._session.ports.dialogs.save_file(f"Export {export.words}", self._suggested(suffix), kinds)
        if path is not None:
            self.export_to(export, path if path.suffix else path.with_name(path.name + suffix), preset, phrase, paper)

    def export_to(
        self,
        export: Export,
        path: Path,
        preset: str | None = None,
        phrase: int | None = None,
        paper: "Paper | None" = None,
    ) -> None:
        """Write the solo in another format to a path, on a worker."""
        opened, session = self._session.solo, self._session
        opened.settle()
        solo, sound = opened.solo, opened.sound
        wanted = Wanted(path, phrase, preset, paper, session.ports.drawing(), sound.recording if sound else None)

        def write(job: Job) -> None:
            write_atomically(path, export.write(solo, wanted))

        session.start(write, lambda _: session.tell(f"{export.words}: written to {path.name}"))

    def picture_of_desk(self) -> None:
        """Ask where, and write the desk as a picture."""
        kinds = "Pictures (*.png *.svg)"
        path = self._session.ports.dialogs.save_file("The desk as a picture", self._suggested(".png"), kinds)
        if path is None or self._session.screen is None:
            return
        path = path if path.suffix else path.with_name(path.name + ".png")
        if self._session.screen.picture_of_desk(path):
            self._session.tell(f"the desk: written to {path.name}")
        else:
            self._session.tell(f"{path} can't be written: a picture is a .png or an .svg file", lasting=True)

    def leave(self) -> None:
        """What is open is left, its changes saved or thrown away: others may have it."""
        self.unsaved.forget()
        if self._lock is not None:
            self._lock.release()
            self._lock = None

    def may_leave(self) -> bool:
        """Whether what is open may be left: it is saved, or the player says so."""
        opened = self._session.opened
        if opened is None or not opened.dirty:
            return True
        answer = self._session.ports.dialogs.keep_changes(opened.solo.title)
        if answer == "save":
            self.save()
            return not opened.dirty
        if answer == "discard":
            self.unsaved.forget()
            return True
        return False

    # What was open lately

    def remember(self, path: Path) -> None:
        """Put a path first among the recent ones."""
        recent = [str(path), *(p for p in self.recent_paths() if p != str(path))][:_RECENT]
        self._session.ports.settings.write("recent", recent)
        self.recent_changed.emit()

    def recent_paths(self) -> list[str]:
        """Those that are still there, latest first."""
        value = self._session.ports.settings.read("recent")
        paths = value if isinstance(value, list) else [value] if value else []
        return [str(path) for path in paths if Path(str(path)).is_file()]


def _is_notes(path: Path) -> bool:
    """Whether a file holds notes of another program, not a document."""
    try:
        return is_notes_file(read_text(path))
    except DocumentError:
        return False


def _stamp(content: bytes) -> str:
    """What tells one content of a file from another."""
    return sha256(content).hexdigest()


def _changed_on_disk(path: Path, stamp: str | None) -> bool:
    """Whether another program, or another window, wrote a document since it was read or saved here."""
    try:
        return stamp is not None and _stamp(path.read_bytes()) != stamp
    except OSError:
        return False  # it is gone, or saving will tell what is the matter
