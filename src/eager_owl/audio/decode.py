"""Decode a recording to float samples: soundfile for WAV, FLAC, OGG, AIFF; PyAV for MP3, M4A, MP4, WebM."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

MIN_RATE_HZ, MAX_RATE_HZ = 4000, 384_000
SILENCE = 1e-5  # peak, of full scale
# Read so many frames a piece: a long decode can be cancelled, and damage further on costs no more than this.
_BLOCK_FRAMES = 1 << 14
# Of FFmpeg's formats those that hold sound themselves: a list of other files is never followed.
_FORMATS = "aac,aiff,amr,asf,avi,caf,flac,flv,matroska,mov,mp3,mpeg,mpegts,ogg,w64,wav,webm"
# How files begin that libsndfile reads: WAV of every size, FLAC, OGG, AIFF, CAF, AU.
_SNDFILE_STARTS = (b"RIFF", b"RF64", b"riff", b"fLaC", b"OggS", b"FORM", b"caff", b".snd")
_CHUNK_BLOCKS = 16  # pieces held together until all is joined


class AudioError(Exception):
    """A recording that can't be used; the message says why, for the player."""


class Cancelled(Exception):  # noqa: N818 - not an error: somebody asked for it
    """Long work was stopped on request."""


@dataclass(frozen=True)
class Recording:
    """Decoded sound: `samples` of shape (frames, channels), float32 in about -1 to 1, at `rate` Hz.

    `notice` is a sentence for the player where something was odd but usable, else empty.
    """

    samples: NDArray[np.float32]
    rate: int
    notice: str = ""

    @property
    def duration_s(self) -> float:
        """Length in seconds."""
        return len(self.samples) / self.rate

    def between(self, start_s: float, end_s: float) -> NDArray[np.float32]:
        """The samples between two times, clipped to the recording."""
        return self.samples[max(0, round(start_s * self.rate)) : max(0, round(end_s * self.rate))]


def decode(path: Path, keep_going: Callable[[], bool] = lambda: True) -> Recording:
    """Read a recording. Raises AudioError; raises Cancelled once `keep_going` answers False."""
    if not path.is_file():
        raise AudioError(f"{path.name} is not there")
    if path.stat().st_size == 0:
        raise AudioError(f"{path.name} is empty")
    samples, rate, notice = _decode(path, keep_going)
    if len(samples) == 0:
        raise AudioError(f"{path.name} holds no sound")
    if not MIN_RATE_HZ <= rate <= MAX_RATE_HZ:
        raise AudioError(f"{path.name} has a sample rate of {rate} Hz, outside {MIN_RATE_HZ} to {MAX_RATE_HZ}")
    bad = ~np.isfinite(samples).all(axis=1)
    if bad.any():
        at = float(np.argmax(bad)) / rate
        raise AudioError(
            f"{path.name} has damaged samples (not numbers) from {at:.2f} s on: export it again and retry"
        )
    if max(float(samples.max()), -float(samples.min())) < SILENCE:
        raise AudioError(f"{path.name} is silent from start to end")
    return Recording(samples, rate, notice)


def _decode(path: Path, keep_going: Callable[[], bool]) -> tuple[NDArray[np.float32], int, str]:
    with path.open("rb") as file:
        start = file.read(4)
    # libsndfile takes whatever else it is given for MP3, and writes its own warnings past us to the terminal.
    if start in _SNDFILE_STARTS:
        try:
            return _decode_soundfile(path, keep_going)
        except soundfile.LibsndfileError:
            pass
    return _decode_av(path, keep_going)


def _decode_soundfile(path: Path, keep_going: Callable[[], bool]) -> tuple[NDArray[np.float32], int, str]:
    with soundfile.SoundFile(str(path)) as file:
        blocks: list[NDArray[np.float32]] = []
        room = 0
        while True:
            if not keep_going():
                raise Cancelled
            if room == 0:
                blocks.append(np.empty((_CHUNK_BLOCKS * _BLOCK_FRAMES, file.channels), np.float32))
                room = len(blocks[-1])
            at = len(blocks[-1]) - room
            try:
                block = file.read(out=blocks[-1][at : at + _BLOCK_FRAMES])
            except soundfile.LibsndfileError:
                break  # damaged further on: what came before is kept, and the notice tells
            if len(block) == 0:
                break
            room -= len(block)
        if blocks:
            blocks[-1] = blocks[-1][: len(blocks[-1]) - room]
        samples = _joined(blocks)
        promised = file.frames if file.frames < (1 << 62) else 0
        return samples, file.samplerate, _cut_short(path, len(samples) / file.samplerate, promised / file.samplerate)


def _joined(blocks: list[NDArray[np.float32]]) -> NDArray[np.float32]:
    """The blocks in one, each let go once it is copied: a long recording is not held twice."""
    if not blocks:
        return np.zeros((0, 1), np.float32)
    samples = np.empty((sum(map(len, blocks)), blocks[0].shape[1]), np.float32)
    at = len(samples)
    while blocks:
        block = blocks.pop()
        samples[at - len(block) : at] = block
        at -= len(block)
    return samples


def _cut_short(path: Path, got_s: float, promised_s: float) -> str:
    """A notice where a file holds less than it promises; encoders' padding of some 50 ms is not told."""
    if got_s > promised_s - 0.1:
        return ""
    return f"{path.name} is cut short: {got_s:.1f} s of {promised_s:.1f} s could be read"


def _decode_av(path: Path, keep_going: Callable[[], bool]) -> tuple[NDArray[np.float32], int, str]:
    import av  # a tenth of a second: only where such a file is read

    blocks: list[NDArray[np.float32]] = []
    rate, promised_s = 0, 0.0
    try:
        with av.open(str(path), container_options={"format_whitelist": _FORMATS}) as container:
            if not container.streams.audio:
                raise AudioError(f"{path.name} holds no sound")
            stream = container.streams.audio[0]
            promised_s = (container.duration or 0) / 1e6  # in microseconds
            resampler = av.AudioResampler(format="fltp")
            for frame in container.decode(stream):
                if not keep_going():
                    raise Cancelled
                rate = frame.sample_rate
                blocks += [piece.to_ndarray().T.astype(np.float32) for piece in resampler.resample(frame)]
    except (av.FFmpegError, UnicodeDecodeError):
        if not blocks:
            raise AudioError(f"{path.name} is not a sound file that can be read") from None
    samples = _joined(blocks)
    notice = _cut_short(path, len(samples) / rate, promised_s) if rate else ""
    return samples, rate, notice


def file_sha256(path: Path) -> str:
    """SHA-256 of a file's bytes, in hex."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def mono(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """The mean of the channels, shape (frames,); of one channel, a view."""
    if samples.shape[1] == 1:
        return samples[:, 0]
    return np.asarray(samples.mean(axis=1, dtype=np.float32))


def resample(samples: NDArray[np.float32], rate: int, new_rate: int) -> NDArray[np.float32]:
    """Samples (along the first axis) at another rate."""
    return np.asarray(soxr.resample(samples, rate, new_rate), dtype=np.float32)
