"""Campaigns of faults: ./run-benchmarks faults CAMPAIGN [--count N] [--seed S]

Each is seeded, does so many things, and ends in one line that counts what it did and what went wrong; the exit status
is 0 where nothing did.
"""

import random
import signal
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from types import FrameType

import tests  # noqa: F401 - it keeps settings and state in a folder of their own, not in the player's

LONGEST_LINE = 400  # characters of a message
LONGEST_S = 5.0  # anything that takes longer hangs, to whoever waits for it


@dataclass
class Tally:
    """What a campaign did, by kind, what went wrong, and what took too long."""

    name: str
    done: dict[str, int] = field(default_factory=dict)
    wrong: list[str] = field(default_factory=list)
    slow: list[str] = field(default_factory=list)
    slowest_s: float = 0.0

    def count(self, kind: str) -> None:
        """One more of a kind."""
        self.done[kind] = self.done.get(kind, 0) + 1

    def add(self, other: "Tally") -> None:
        """What another counted."""
        for kind, count in other.done.items():
            self.done[kind] = self.done.get(kind, 0) + count
        self.wrong += other.wrong
        self.slow += other.slow
        self.slowest_s = max(self.slowest_s, other.slowest_s)

    @contextmanager
    def watched(self, doing: str) -> Iterator[None]:
        """Whatever goes wrong in here, or takes too long, is written down."""
        started = time.perf_counter()
        try:
            with _limit(4 * LONGEST_S):
                yield
        except Exception as error:
            self.wrong.append(f"{doing}: {type(error).__name__}: {error}{_where(error)}"[:300])
        taken = time.perf_counter() - started
        self.slowest_s = max(self.slowest_s, taken)
        if taken > LONGEST_S:
            self.slow.append(f"{doing}: took {taken:.1f} s")

    @property
    def line(self) -> str:
        """The summary."""
        done = ", ".join(f"{count} {kind}" for kind, count in self.done.items())
        return (
            f"{self.name}: {done}; {len(self.wrong)} wrong, {len(self.slow)} too slow; slowest {self.slowest_s:.1f} s"
        )


def _where(error: BaseException) -> str:
    """The innermost lines that it came through."""
    frames = traceback.extract_tb(error.__traceback__)[-3:]
    return " at " + " ".join(f"{Path(frame.filename).name}:{frame.lineno}" for frame in frames)


@contextmanager
def _limit(seconds: float) -> Iterator[None]:
    """What has not ended by then is broken off."""

    def late(_signal: int, _frame: FrameType | None) -> None:
        raise TimeoutError(f"not done in {seconds:.0f} s")

    before = signal.signal(signal.SIGALRM, late)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0.0)
        signal.signal(signal.SIGALRM, before)


Campaign = Callable[[int, random.Random], Tally]
