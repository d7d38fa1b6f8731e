"""What a session asks of the program around it, by Qt: timers, threads, dialogs, settings."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QSettings, QThreadPool, QTimer, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMessageBox, QWidget

from eager_owl.session.ports import Answer


class QtTimer:
    """A timer of the event loop."""

    def __init__(self, seconds: float, call: Callable[[], object], repeat: bool) -> None:
        self._timer = QTimer()
        self._timer.setSingleShot(not repeat)
        self._timer.setInterval(round(1000 * seconds))
        self._timer.timeout.connect(lambda: call())

    def start(self) -> None:
        """Begin, or begin anew."""
        self._timer.start()

    def stop(self) -> None:
        """Do not call."""
        self._timer.stop()

    @property
    def running(self) -> bool:
        """Whether it has begun and not called yet."""
        return self._timer.isActive()


class QtClock:
    """Timers on the thread of the event loop."""

    def timer(self, seconds: float, call: Callable[[], object], repeat: bool = False) -> QtTimer:
        """A timer that has not begun."""
        return QtTimer(seconds, call, repeat)


class QtWorkers(QObject):
    """Qt's thread pool; what is posted comes through the event loop."""

    _posted = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._posted.connect(self._call)

    def _call(self, call: Callable[[], object]) -> None:
        call()

    def start(self, call: Callable[[], None]) -> None:
        """Call this on a worker's thread."""
        QThreadPool.globalInstance().start(call)

    def post(self, call: Callable[[], object]) -> None:
        """Call this on the thread of the event loop, soon."""
        self._posted.emit(call)


class QtDialogs:
    """The toolkit's dialogs over a window."""

    def __init__(self, window: QWidget) -> None:
        self._window = window

    def open_file(self, title: str, kinds: str) -> Path | None:
        """A file that is there."""
        path, _ = QFileDialog.getOpenFileName(self._window, title, "", kinds)
        return Path(path) if path else None

    def save_file(self, title: str, suggested: Path, kinds: str) -> Path | None:
        """A file to write."""
        path, _ = QFileDialog.getSaveFileName(self._window, title, str(suggested), kinds)
        return Path(path) if path else None

    def text(self, question: str, text: str) -> str | None:
        """A line of text."""
        answer, given = QInputDialog.getText(self._window, "Eager Owl", question, text=text)
        return answer if given else None

    def copied_text(self) -> str:
        """The text that was copied last."""
        return QGuiApplication.clipboard().text()

    def keep_changes(self, title: str) -> Answer:
        """What becomes of a solo's unsaved changes."""
        buttons = QMessageBox.StandardButton
        asked = f"Save the changes to “{title}”?"
        choice = QMessageBox.question(
            self._window, "Eager Owl", asked, buttons.Save | buttons.Discard | buttons.Cancel
        )
        answers: dict[QMessageBox.StandardButton, Answer] = {buttons.Save: "save", buttons.Discard: "discard"}
        return answers.get(choice, "cancel")


class QtSettings:
    """The player's settings in the toolkit's own file."""

    def __init__(self) -> None:
        self._settings = QSettings("eager-owl", "eager-owl")

    def read(self, name: str) -> object | None:
        """A setting, or None where it was never written."""
        value: object | None = self._settings.value(name)
        return value

    def write(self, name: str, value: object) -> None:
        """Keep a setting."""
        self._settings.setValue(name, value)
