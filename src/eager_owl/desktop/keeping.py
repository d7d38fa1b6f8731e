"""Keeping the open solo: saving, exporting, the journal of unsaved work, and what was open lately."""

from collections.abc import Callable
from pathlib import Path

from platformdirs import user_state_path
from PySide6.QtCore import QObject, QSettings, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.notation.tab import text_tab
from eager_owl.session import moved_document
from eager_owl.solo.document import Solo
from eager_owl.solo.store import (
    SUFFIX,
    DocumentError,
    journal_path,
    load,
    save,
    to_json,
    write_atomically,
    write_journal,
)

_JOURNAL_MS = 3000
_RECENT = 8


class Keeping(QObject):
    """One method an action, named as in `actions`."""

    recent_changed = Signal()

    def __init__(
        self,
        window: QWidget,
        settings: QSettings,
        opened: Callable[[], OpenSolo | None],
        complain: Callable[[str, bool], None],
    ) -> None:
        """`complain` takes words and whether they stay."""
        super().__init__(window)
        self._window, self._settings = window, settings
        self._opened, self._complain = opened, complain
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_JOURNAL_MS)
        self._timer.timeout.connect(self.write_journal)

    def save(self) -> None:
        """Save, asking where if it was never saved."""
        opened = self._opened()
        if opened is None:
            return
        if opened.path is None:
            self.save_as()
        else:
            self.save_to(opened.path)

    def save_as(self) -> None:
        """Ask where, and save."""
        opened = self._opened()
        if opened is None:
            return
        name = str(Path.home() / f"{opened.solo.title}{SUFFIX}")
        path, _ = QFileDialog.getSaveFileName(self._window, "Save the solo", name, f"Solos (*{SUFFIX})")
        if path:
            self.save_to(Path(path if path.endswith(SUFFIX) else path + SUFFIX))

    def save_to(self, path: Path) -> bool:
        """Save to a path; answers whether it is on disk."""
        opened = self._opened()
        if opened is None:
            return False
        opened.settle()
        solo = moved_document(opened.solo, opened.path, path)
        try:
            save(solo, path)
        except DocumentError as error:
            self._complain(str(error), True)
            return False
        self._timer.stop()
        self.forget_never_saved()
        opened.kept(solo, path)
        self.remember(path)
        self._complain(f"saved as {path.name}", False)
        return True

    def export_tab(self) -> None:
        """Ask where, and write the text tab."""
        opened = self._opened()
        if opened is None:
            return
        name = str(Path.home() / f"{opened.solo.title}.txt")
        path, _ = QFileDialog.getSaveFileName(self._window, "Export the tab", name, "Text (*.txt)")
        if path:
            self.export_tab_to(Path(path))

    def export_tab_to(self, path: Path) -> None:
        """Write the text tab to a path."""
        opened = self._opened()
        if opened is None:
            return
        opened.settle()
        try:
            write_atomically(path, text_tab(opened.solo).encode())
        except (DocumentError, ValueError) as error:
            self._complain(str(error), True)
            return
        self._complain(f"tab written to {path.name}", False)

    # Unsaved work

    def journal_soon(self) -> None:
        """Something changed: it is journalled shortly."""
        self._timer.start()

    def write_journal(self) -> None:
        """Journal unsaved work now."""
        opened = self._opened()
        if opened is None or opened.undo_stack.isClean():
            return
        try:
            if opened.path is not None:
                write_journal(opened.solo, opened.path)
            else:
                never_saved_path().parent.mkdir(parents=True, exist_ok=True)
                write_atomically(never_saved_path(), to_json(opened.solo).encode())
        except DocumentError as error:
            self._complain(f"unsaved work could not be journalled: {error}", True)

    def never_saved(self) -> Solo | None:
        """Work that was never saved and that a crash left behind."""
        try:
            return load(never_saved_path()) if never_saved_path().exists() else None
        except DocumentError:
            return None

    def forget_never_saved(self) -> None:
        """Throw such work away."""
        never_saved_path().unlink(missing_ok=True)

    def may_leave(self, opened: OpenSolo | None) -> bool:
        """Whether a solo may be left: saved, or the player says so."""
        if opened is None or opened.undo_stack.isClean():
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._window,
            "Eager Owl",
            f"Save the changes to “{opened.solo.title}”?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )
        if answer == buttons.Save:
            self.save()
            return opened.undo_stack.isClean()
        if answer == buttons.Discard:
            self._timer.stop()
            journal = never_saved_path() if opened.path is None else journal_path(opened.path)
            journal.unlink(missing_ok=True)
            return True
        return False

    # What was open lately

    def remember(self, path: Path) -> None:
        """Put a path first among the recent ones."""
        recent = [str(path), *(p for p in self.recent_paths() if p != str(path))][:_RECENT]
        self._settings.setValue("recent", recent)
        self.recent_changed.emit()

    def recent_paths(self) -> list[str]:
        """Those that are still there, latest first."""
        value = self._settings.value("recent", [])
        paths = value if isinstance(value, list) else [value] if value else []
        return [str(path) for path in paths if Path(str(path)).is_file()]


def never_saved_path() -> Path:
    """Where work on a solo without a file is journalled."""
    return user_state_path("eager-owl") / f"unsaved{SUFFIX}"
