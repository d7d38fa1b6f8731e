"""The player: one source at a time on a device, and where the ear is."""

import threading
import time

from eager_owl.audio.player import LoopSource
from eager_owl.session.ports import Clock, Device
from eager_owl.session.signal import Signal

_TICK_S = 0.016
_PULL_S = 0.01


class SimulatedDevice:
    """Pulls at the pace of the clock and lets the sound go; where there is no sound card, and in tests."""

    name = "no sound device: playing silently"

    def __init__(self, clock: Clock) -> None:
        self._timer = clock.timer(_PULL_S, self._tick, repeat=True)
        self._source: LoopSource | None = None
        self._began = 0.0
        self._pulled = 0

    def start(self, source: LoopSource) -> None:
        """Begin pulling."""
        self._source, self._began, self._pulled = source, time.monotonic(), 0
        self._timer.start()

    def stop(self) -> None:
        """Fall silent."""
        self._timer.stop()
        self._source = None

    def latency_frames(self) -> int:
        """Nothing waits in a device that is not there."""
        return 0

    def advance(self, seconds: float) -> None:
        """Pull as if so much time had gone by (tests need not wait)."""
        if self._source is not None:
            self._source.read(round(seconds * self._source.rate))
            self._began -= seconds
            self._pulled += round(seconds * self._source.rate)

    def _tick(self) -> None:
        if self._source is not None:
            due = round((time.monotonic() - self._began) * self._source.rate) - self._pulled
            if due > 0:
                self._source.read(due)
                self._pulled += due


class Player:
    """Plays one source at a time and tells where the ear is."""

    def __init__(self, device: Device, clock: Clock) -> None:
        self.device = device
        self.moved = Signal[[float]]()
        self.stopped = Signal[[]]()
        self.source: LoopSource | None = None
        self._stop_rendering = threading.Event()
        self._renderers: list[threading.Thread] = []  # the one at work, and those about to notice that they are not
        self._timer = clock.timer(_TICK_S, self._tick, repeat=True)

    @property
    def playing(self) -> bool:
        """Whether a source is playing."""
        return self.source is not None

    def play(self, source: LoopSource) -> None:
        """Stop what plays and start this; it is stretched on a worker while it plays."""
        self.stop()
        self.source = source
        self._stop_rendering = stop = threading.Event()
        renderer = threading.Thread(target=source.render, args=(lambda: not stop.is_set(),), daemon=True)
        self._renderers = [*(each for each in self._renderers if each.is_alive()), renderer]
        renderer.start()
        self.device.start(source)
        self._timer.start()

    def stop(self) -> None:
        """Fall silent."""
        if self.source is not None:
            self._stop_rendering.set()
            self._timer.stop()
            self.device.stop()
            self.source = None
            self.stopped.emit()

    def close(self) -> None:
        """Fall silent for good: nothing is being stretched any more when this returns."""
        self.stop()
        for renderer in self._renderers:
            renderer.join()

    def _tick(self) -> None:
        if self.source is None:
            return
        self.moved.emit(self.source.position_s(self.device.latency_frames()))
        if self.source.finished:
            self.stop()
