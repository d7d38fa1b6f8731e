"""Sound in files, read where it is asked for: soundfile for WAV, FLAC, AIFF; PyAV for OGG, MP3, M4A, MP4, WebM.

A file is never held whole, so that a rehearsal of three hours costs what is looked at of it.
"""

import threading
from abc import ABC, abstractmethod
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from numpy.typing import NDArray

# Of FFmpeg's formats those that hold sound themselves: a list of other files is never followed.
_FORMATS = "aac,aiff,amr,asf,avi,caf,flac,flv,matroska,mov,mp3,mpeg,mpegts,ogg,w64,wav,webm"
# How files begin that libsndfile reads and finds its place in: WAV of every size, FLAC, AIFF, CAF, AU. In the last
# page of an OGG it is some hundred frames off.
_SNDFILE_STARTS = (b"RIFF", b"RF64", b"riff", b"fLaC", b"FORM", b"caff", b".snd")
_UNKNOWN_FRAMES = 1 << 62  # libsndfile's word for a length that the file does not tell
# A decoder that is sent into the middle of a file needs so much before it gives the true sound.
_PRE_ROLL_S = 0.5
_NEAR_S = 2.0  # so far ahead it is quicker to decode on than to seek


class NotSoundError(Exception):
    """A file that no library here can read sound from."""


class FileSamples(ABC):
    """The samples of a file, sliced like an array of shape (frames, channels): float32, about -1 to 1, at `rate` Hz.

    `shape` has the frames that the file promises. Where it holds fewer, or is damaged, slices end there. Any thread
    may ask.
    """

    rate: int
    shape: tuple[int, int]

    def __init__(self) -> None:
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return self.shape[0]

    def __getitem__(self, wanted: slice) -> NDArray[np.float32]:
        first, end, _ = wanted.indices(len(self))
        with self._lock:
            return self.read(first, max(0, end - first))

    def blocks(self, frames: int) -> Iterator[NDArray[np.float32]]:
        """All of it, so many frames at a time; at its end `shape` tells how much it was."""
        found = 0
        while True:
            with self._lock:
                block = self.read(found, frames)
            if not len(block):
                self.shape = (found, self.shape[1])
                return
            yield block
            found += len(block)

    @abstractmethod
    def read(self, first: int, count: int) -> NDArray[np.float32]:
        """Up to `count` frames from one on, also past the promised end; fewer only where the sound ends."""


def open_samples(path: Path) -> FileSamples:
    """Open a file of sound. Raises NotSoundError, or OSError."""
    with path.open("rb") as file:
        # By descriptor: the libraries take no name that is not UTF-8.
        name = f"/proc/self/fd/{file.fileno()}"
        # libsndfile takes whatever else it is given for MP3, and writes its own warnings past us to the terminal.
        if file.read(4) in _SNDFILE_STARTS:
            try:
                return _SoundFile(name)
            except soundfile.LibsndfileError:
                pass
        return _Container(name)


class _SoundFile(FileSamples):
    def __init__(self, name: str) -> None:
        super().__init__()
        self._file = soundfile.SoundFile(name)
        self.rate = self._file.samplerate
        frames = self._file.frames
        self.shape = (frames if frames < _UNKNOWN_FRAMES else 0, self._file.channels)

    def read(self, first: int, count: int) -> NDArray[np.float32]:
        try:
            if self._file.tell() != first:
                self._file.seek(first)
            return np.asarray(self._file.read(count, dtype="float32", always_2d=True), dtype=np.float32)
        except soundfile.LibsndfileError:  # damaged here, or nothing is there
            return np.zeros((0, self.shape[1]), np.float32)


class _Container(FileSamples):
    """Frame numbers count from the first frame that is decoded, whatever time the file gives it."""

    def __init__(self, name: str) -> None:
        super().__init__()
        import av  # a tenth of a second: only where such a file is read

        self._av = av
        try:
            self._container = av.open(name, container_options={"format_whitelist": _FORMATS})
            if not self._container.streams.audio:
                raise NotSoundError
            self._stream = self._container.streams.audio[0]
            frames = self._container.decode(self._stream)
            first = next(frames)
            self._tick_s = float(self._stream.time_base or 1 / 1_000_000)
        except (av.FFmpegError, UnicodeDecodeError, StopIteration):
            raise NotSoundError from None
        self._origin_s = first.time or 0.0
        self.rate, self._layout = first.sample_rate, first.layout.name
        promised_s = (self._container.duration or 0) / 1e6  # in microseconds
        self.shape = (round(promised_s * self.rate), first.layout.nb_channels)
        self._pieces = self._decoded(first, frames)
        self._at, self._piece = 0, self._empty()

    def _empty(self) -> NDArray[np.float32]:
        return np.zeros((0, self.shape[1]), np.float32)

    def read(self, first: int, count: int) -> NDArray[np.float32]:
        if not self._at <= first <= self._at + len(self._piece) + _NEAR_S * self.rate:
            self._go_to(first)
        out = np.empty((count, self.shape[1]), np.float32)
        done = 0
        while done < count:
            skipped = first + done - self._at
            ready = self._piece[max(skipped, 0) : skipped + count - done]
            out[done : done + len(ready)] = ready
            done += len(ready)
            if done < count:
                self._at += len(self._piece)
                self._piece = next(self._pieces, self._empty())
                if not len(self._piece):
                    break
        return out[:done]

    def _go_to(self, first: int) -> None:
        """Decode on from a little before a frame; from the start where the file does not say where it went to."""
        for time_s in (max(first / self.rate + self._origin_s - _PRE_ROLL_S, 0.0), 0.0):
            if self._seek(time_s) and self._at <= first:
                return
        self._at = 0

    def _seek(self, time_s: float) -> bool:
        self._pieces, self._piece = iter(()), self._empty()
        try:
            self._container.seek(round(time_s / self._tick_s), stream=self._stream)
            frames = self._container.decode(self._stream)
            frame = next(frames)
        except (self._av.FFmpegError, StopIteration):
            return False
        self._pieces = self._decoded(frame, frames)
        self._at = round(((frame.time or 0.0) - self._origin_s) * self.rate)
        return frame.time is not None

    def _decoded(self, frame: Any, later: Iterator[Any]) -> Iterator[NDArray[np.float32]]:
        """The sound of a frame and of those after it, all of one rate and layout, up to the end or to damage."""
        wanted = ("fltp", self._layout, self.rate)
        resampler, like = self._av.AudioResampler(*wanted), wanted
        while frame is not None:
            kind = (frame.format.name, frame.layout.name, frame.sample_rate)
            if kind != like:
                resampler, like = self._av.AudioResampler(*wanted), kind
            for piece in [frame] if kind == wanted else resampler.resample(frame):
                if piece.samples:  # an empty one is not the end
                    yield np.asarray(piece.to_ndarray().T, dtype=np.float32)
            try:
                frame = next(later, None)
            except self._av.FFmpegError:
                return
