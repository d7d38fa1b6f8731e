"""Sound out through QtMultimedia, where the machine has an output."""

import numpy as np
from PySide6.QtCore import QIODevice
from PySide6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices, QtAudio

from eager_owl.audio.player import LoopSource
from eager_owl.session.player import SimulatedDevice
from eager_owl.session.ports import Clock, Device

_BUFFER_S = 0.06


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


def default_device(clock: Clock) -> Device:
    """The machine's sound output, or the simulated one where there is none."""
    return SimulatedDevice(clock) if QMediaDevices.defaultAudioOutput().isNull() else SoundDevice()
