"""Long work on a worker thread, with progress, cancelling, and its result brought back to the window's thread."""

import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QThreadPool, Signal

from eager_owl.audio.decode import Cancelled

Work = Callable[["Job"], Any]


class Job(QObject):
    """One piece of work. `work` gets the job, to report progress and to ask whether to go on.

    Whoever starts it holds it until it has ended; deleted any sooner, it would lose what it still has to say.
    """

    progressed = Signal(float, str)
    done = Signal(object)
    failed = Signal(str)
    cancelled = Signal()

    def __init__(self, work: Work) -> None:
        super().__init__()
        self._work = work
        self._stop = threading.Event()

    def start(self) -> None:
        """Run on Qt's thread pool."""
        QThreadPool.globalInstance().start(self._run)

    def cancel(self) -> None:
        """Ask the work to stop."""
        self._stop.set()

    def keep_going(self) -> bool:
        """Whether nobody asked to stop."""
        return not self._stop.is_set()

    def progress(self, share: float, doing: str) -> bool:
        """Report progress; answers whether to go on."""
        self.progressed.emit(share, doing)
        return self.keep_going()

    def _run(self) -> None:
        try:
            result = self._work(self)
        except Cancelled:
            self.cancelled.emit()
        except Exception as error:
            self.failed.emit(str(error) or type(error).__name__)
        else:
            if self.keep_going():
                self.done.emit(result)
            else:
                self.cancelled.emit()
