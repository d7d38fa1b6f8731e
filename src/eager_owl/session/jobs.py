"""Long work on a worker's thread, with progress and cancelling; its result comes back to the session's thread."""

import threading
from collections.abc import Callable
from functools import partial
from typing import TypeVar

from eager_owl.audio.decode import AudioError, Cancelled
from eager_owl.log import log_fault
from eager_owl.session.ports import Workers
from eager_owl.solo.store import DocumentError

Result = TypeVar("Result")
# What goes wrong by what was asked, not by a fault of the program's own.
_EXPECTED = (AudioError, DocumentError, ValueError, OSError)


class Job:
    """One piece of work under way: asked to report progress and whether to go on."""

    def __init__(self, progressed: Callable[[float, str], None]) -> None:
        self._stop = threading.Event()
        self._progressed = progressed

    def cancel(self) -> None:
        """Ask the work to stop."""
        self._stop.set()

    def keep_going(self) -> bool:
        """Whether nobody asked to stop."""
        return not self._stop.is_set()

    def progress(self, share: float, doing: str) -> bool:
        """Report the share done, 0 to 1, and what is being done; answers whether to go on."""
        self._progressed(share, doing)
        return self.keep_going()


class Jobs:
    """Starts work and holds on to it until it has ended."""

    def __init__(self, workers: Workers, failed: Callable[[str], object]) -> None:
        """`failed` tells the player of what went wrong."""
        self._workers, self._failed = workers, failed
        self._running: set[Job] = set()

    @property
    def busy(self) -> bool:
        """Whether anything is under way."""
        return bool(self._running)

    def start(
        self,
        work: Callable[[Job], Result],
        then: Callable[[Result], object],
        wanted: Callable[[], bool],
        ended: Callable[[], object] = lambda: None,
        progressed: Callable[[float, str], object] = lambda share, doing: None,
        takes_part: bool = False,
    ) -> Job:
        """Do `work` on a worker; `then` gets its result, unless it was cancelled or is not `wanted` any more.

        Where `then` `takes_part`, it gets what cancelled work has by then. `ended` in any case, before `then`; it,
        `progressed` and `then` are called on the session's thread.
        """

        def report(share: float, doing: str) -> None:
            self._workers.post(lambda: progressed(share, doing) if job in self._running else None)

        job = Job(report)
        self._running.add(job)

        def end(act: Callable[[], object]) -> None:
            self._running.discard(job)
            ended()
            if wanted():
                act()

        def run() -> None:
            act: Callable[[], object]
            try:
                result = work(job)
            except Cancelled:
                act = _nothing
            except _EXPECTED as error:
                act = partial(self._failed, str(error) or type(error).__name__)
            except Exception as error:
                act = partial(self._failed, log_fault("work under way", error))
            else:
                act = partial(then, result) if takes_part or job.keep_going() else _nothing
            self._workers.post(lambda: end(act))

        self._workers.start(run)
        return job

    def cancel_all(self) -> None:
        """Ask all work to stop."""
        for job in self._running:
            job.cancel()


def _nothing() -> None:
    pass
