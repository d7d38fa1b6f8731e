"""Bringing in work begun elsewhere: a file or pasted tab as a solo, what was not read, and a recording for it."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from eager_owl.session.importing import READERS, Imported, read_foreign, read_pasted_tab
from eager_owl.session.laying import Disagreement, LaidOut, lay_against
from eager_owl.session.open_solo import OpenSolo, Sound
from eager_owl.session.recordings import SOUND_FILES, decode_sound, reference_to
from eager_owl.session.signal import Signal
from eager_owl.theory.words import plural

if TYPE_CHECKING:
    from eager_owl.session.jobs import Job
    from eager_owl.session.session import Session

FOREIGN_FILES = f"Written music ({' '.join('*' + suffix for suffix in READERS)})"


class BringingIn:
    """`complaints` are of what was read last, `disagreements` of what was laid against a recording last.

    `parts` are those of the file read last, in words, of which the `part`th was taken.
    """

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.changed = Signal[[]]()
        self.complaints: tuple[str, ...] = ()
        self.disagreements: tuple[Disagreement, ...] = ()
        self.parts: tuple[str, ...] = ()
        self.part = 1
        self._of: OpenSolo | None = None
        self._path: Path | None = None

    @property
    def has_news(self) -> bool:
        """Whether there is anything to tell of the open solo."""
        return self._of is not None and self._of is self._session.opened

    def ask(self) -> None:
        """Ask for a file, and bring it in."""
        path = self._session.ports.dialogs.open_file("Bring in a file", FOREIGN_FILES)
        if path is not None:
            self.bring(path)

    def bring(self, path: Path, part: int | None = None) -> None:
        """Read another program's file as a new solo; of several parts the likeliest, or the one asked for."""
        self._read(lambda: read_foreign(path, track=part), path)

    def read_part(self, part: int) -> None:
        """Read another part of the file that was brought in last (from 1)."""
        if self._path is not None:
            self.bring(self._path, part)

    def paste_tab(self) -> None:
        """Read the tab that was copied."""
        text = self._session.ports.dialogs.copied_text()
        if not text.strip():
            self._session.tell("nothing is copied: copy a tab as text first")
            return
        self._read(lambda: read_pasted_tab(text))

    def _read(self, read: Callable[[], Imported], path: Path | None = None) -> None:
        self._session.start(lambda job: read(), lambda found: self._show(found, path))

    def _show(self, found: Imported, path: Path | None) -> None:
        """Only once it is read is what was open left."""
        if not self._session.keeping.may_leave():
            return
        opened = OpenSolo(found.solo, None, None, self._session.ports.clock)
        self._session.show(opened)
        opened.never_kept()
        self._session.keeping.unsaved.soon()
        self._of, self.complaints, self.disagreements = opened, found.complaints, ()
        self._path, self.parts, self.part = path, found.parts, found.part
        words = f"{plural(len(found.solo.notes), 'note')} in {plural(len(found.solo.phrases), 'phrase')} read"
        if found.complaints:
            words += f"; {plural(len(found.complaints), 'line')} to look at beside"
        self._session.tell(words)
        self.changed.emit()
        if self._session.screen is not None:
            self._session.screen.show_panel("brought_in")

    def lay(self) -> None:
        """Ask for a recording, and lay the open solo against it."""
        path = self._session.ports.dialogs.open_file("Lay it against a recording", SOUND_FILES)
        if path is not None:
            self.lay_on(path)

    def lay_on(self, path: Path) -> None:
        """Decode a recording, hear it, and lay the open solo's notes on it."""
        opened, session = self._session.solo, self._session
        opened.settle()
        solo = opened.solo
        if not solo.notes:
            session.tell("there are no notes to lay against a recording")
            return

        def work(job: "Job") -> tuple[Sound, LaidOut]:
            sound = decode_sound(path, job.progress)
            return sound, lay_against(solo, sound.recording, None, job.progress)

        def take(found: tuple[Sound, LaidOut]) -> None:
            sound, laid = found
            if opened.solo is not solo:
                session.tell("the solo was changed meanwhile: lay it once more")
                return
            opened.recording_path = sound.path
            opened.do("laid against a recording", lambda _: replace(laid.solo, recording=reference_to(sound)))
            self._of, self.disagreements = opened, laid.disagreements
            session.tell(
                f"{laid.matched} of {len(solo.notes)} notes are heard as written; "
                f"{plural(len(laid.disagreements), 'place')} to look at"
            )
            session.recordings.listen_through(sound)
            self.changed.emit()

        session.start(work, take, shows_progress=True)
