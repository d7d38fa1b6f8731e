"""Sound out: a QtMultimedia device where there is one, a simulated one where there is none."""

import threading
import time
from typing import Protocol

import numpy as np
from PySide6.QtCore import QIODevice, QObject, QTimer, Signal
from PySide6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices, QtAudio

from eager_owl.audio.player import LoopSource

_BUFFER_S = 0.06
_TICK_MS = 16


class Device(Protocol):
    """What pulls frames from a source and knows how many are not heard yet."""

    name: str

    def start(self, source: LoopSource) -> None:
        """Begin pulling."""

    def stop(self) -> None:
        """Fall silent."""

    def latency_frames(self) -> int:
        """Frames pulled and not yet heard."""


class SimulatedDevice:
    """Pulls at the pace of the clock and lets the sound go; where there is no sound card, and in tests."""

    name = "no sound device: playing silently"

    def __init__(self) -> None:
        self._timer = QTimer()
        self._timer.setInterval(10)
        self._timer.timeout.connect(self._tick)
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


class _Pull(QIODevice):
    """Hands a source's frames to a QAudioSink as bytes."""

    def __init__(self, source: LoopSource) -> None:
        super().__init__()
        self._source = source
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    def readData(self, size: int) -> bytes:
        frames = size // (4 * self._source.channels)
        return np.ascontiguousarray(self._source.read(frames)).tobytes()

    def writeData(self, _content: bytes | bytearray | memoryview, _size: int) -> int:
        return 0

    def bytesAvailable(self) -> int:
        return 1 << 20


class SoundDevice:
    """The machine's default sound output."""

    def __init__(self) -> None:
        self.name = QMediaDevices.defaultAudioOutput().description()
        self._sink: QAudioSink | None = None
        self._pull: _Pull | None = None
        self._frame_bytes = 4

    def start(self, source: LoopSource) -> None:
        """Begin pulling."""
        layout = QAudioFormat()
        layout.setSampleRate(source.rate)
        layout.setChannelCount(source.channels)
        layout.setSampleFormat(QAudioFormat.SampleFormat.Float)
        self._frame_bytes = 4 * source.channels
        self._sink = QAudioSink(QMediaDevices.defaultAudioOutput(), layout)
        self._sink.setBufferSize(round(_BUFFER_S * source.rate) * self._frame_bytes)
        self._pull = _Pull(source)
        self._sink.start(self._pull)

    def stop(self) -> None:
        """Fall silent."""
        if self._sink is not None:
            self._sink.stop()
            self._sink = self._pull = None

    def latency_frames(self) -> int:
        """Frames in the sink's buffer."""
        if self._sink is None or self._sink.state() != QtAudio.State.ActiveState:
            return 0
        return (self._sink.bufferSize() - self._sink.bytesFree()) // self._frame_bytes


def default_device() -> Device:
    """The machine's sound output, or the simulated one where there is none."""
    return SimulatedDevice() if QMediaDevices.defaultAudioOutput().isNull() else SoundDevice()


class Player(QObject):
    """Plays one source at a time and tells where the ear is."""

    moved = Signal(float)
    stopped = Signal()

    def __init__(self, device: Device, parent: QObject) -> None:
        super().__init__(parent)
        self.device = device
        self.source: LoopSource | None = None
        self._stop_rendering = threading.Event()
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)

    @property
    def playing(self) -> bool:
        """Whether a source is playing."""
        return self.source is not None

    def play(self, source: LoopSource) -> None:
        """Stop what plays and start this; it is stretched on a worker while it plays."""
        self.stop()
        self.source = source
        self._stop_rendering = stop = threading.Event()
        threading.Thread(target=source.render, args=(lambda: not stop.is_set(),), daemon=True).start()
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

    def _tick(self) -> None:
        if self.source is None:
            return
        self.moved.emit(self.source.position_s(self.device.latency_frames()))
        if self.source.finished:
            self.stop()
