"""Unsaved work: journalled soon after an edit, kept until it is saved or thrown away, offered after a crash."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_state_path

from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.recordings import as_stored
from eager_owl.solo.document import Solo
from eager_owl.solo.journals import Journal, left_behind, read_left
from eager_owl.solo.store import DocumentError

if TYPE_CHECKING:
    from eager_owl.session.session import Session

# Unsaved work is journalled within so long of the first change that is not in the journal yet.
_JOURNAL_S = 3.0


class Unsaved:
    """This window's journal, and what others left behind."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._journal: Journal | None = None
        self._timer = session.ports.clock.timer(_JOURNAL_S, self.write)

    def left(self, path: Path) -> list[Path]:
        """Journals of a document that windows which are no more left behind."""
        return left_behind(path, unsaved_folder())

    def soon(self) -> None:
        """Something changed: it is journalled shortly, however much more is changed until then."""
        if not self._timer.running:
            self._timer.start()

    def write(self) -> None:
        """Journal unsaved work now; where all is saved after all, there is nothing to keep."""
        opened = self._session.opened
        if opened is None:
            return
        if not opened.dirty:
            self.forget()
            return
        opened.settle()
        if self._journal is None:
            self._journal = Journal(opened.path, unsaved_folder())
        try:
            self._journal.write(as_stored(opened.solo, opened.recording_path, opened.path))
        except DocumentError as error:
            self._session.tell(f"unsaved work could not be journalled: {error}", lasting=True)

    def forget(self) -> None:
        """What this window journalled is saved, or thrown away by the player's word."""
        self._timer.stop()
        if self._journal is not None:
            self._journal.forget()
            self._journal = None

    def offer_left(self, opened: OpenSolo, path: Path) -> None:
        """Offer what crashes left behind of this document, each by itself."""

        def bring_back(unsaved: Solo, journal: Path) -> None:
            here = self._session.opened
            if here is None or here.path != path:
                self._session.keeping.open_path(path)  # which finds it again
            elif here.do("unsaved work brought back", lambda _: unsaved):
                self._adopt(journal)

        for unsaved, journal in self._readable(path):
            if unsaved == opened.solo:
                journal.unlink(missing_ok=True)
            else:
                self._offer(f"Unsaved work on “{opened.solo.title}” was found.", unsaved, journal, bring_back)

    def offer_never_saved(self) -> None:
        """Offer work that was never saved and that crashes left behind."""

        def bring_back(solo: Solo, journal: Path) -> None:
            if self._session.keeping.may_leave():
                self._session.keeping.show(solo, None).never_kept()
                self._adopt(journal)
                self._session.recordings.find()

        for solo, journal in self._readable(None):
            self._offer(f"Work on “{solo.title}” was never saved.", solo, journal, bring_back)

    def _readable(self, document: Path | None) -> Iterator[tuple[Solo, Path]]:
        """The work in journals that were left behind; what can't be read is told, and set aside."""
        for journal in left_behind(document, unsaved_folder()):
            try:
                yield read_left(journal), journal
            except DocumentError as error:
                self._session.ask(f"Unsaved work can't be read: {error}.", {}, keeps=True)

    def _offer(self, words: str, work: Solo, journal: Path, bring_back: Callable[[Solo, Path], object]) -> None:
        """Ask what becomes of a journal; the answer does nothing if that was dealt with elsewhere."""

        def bring() -> None:
            if journal.exists():
                bring_back(work, journal)
            else:
                self._session.tell("this unsaved work was brought back or thrown away before", lasting=True)

        answers: dict[str, Callable[[], object]] = {
            "Bring it back": bring,
            "Throw it away": lambda: journal.unlink(missing_ok=True),
        }
        self._session.ask(words, answers, keeps=True)

    def _adopt(self, journal: Path) -> None:
        """Work that was left behind is this window's: once it is in its own journal, the other may go."""
        self.write()
        if self._journal is not None and self._journal.there:
            journal.unlink(missing_ok=True)


def unsaved_folder() -> Path:
    """Where work is journalled on solos without a file, or where nothing can be written beside it."""
    return user_state_path("eager-owl") / "unsaved"
