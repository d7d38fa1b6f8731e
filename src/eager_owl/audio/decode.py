"""Recordings: sound at a rate, of a file that is read where it is asked for, or held in memory."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soxr
from numpy.typing import NDArray

from eager_owl.audio.files import FileSamples, NotSoundError, open_samples

MIN_RATE_HZ, MAX_RATE_HZ = 4000, 384_000
SILENCE = 1e-5  # peak, of full scale
MAX_CHANNELS = 64
LONGEST_S = 12 * 3600.0
_CANCELLED = 0.02  # of the louder channel's power: sound that the channels do not share leaves a quarter
_LOUDEST = 1000.0  # of full scale: louder samples are no sound
# Read so many frames a piece: a long decode can be cancelled, and damage further on costs no more than this.
BLOCK_FRAMES = 1 << 16
_HASHED_BYTES = 1 << 22
# Encoders' padding of some 50 ms is not told as missing.
_PADDING_S = 0.1


class AudioError(Exception):
    """A recording that can't be used; the message says why, for the player."""


class Cancelled(Exception):  # noqa: N818 - not an error: somebody asked for it
    """Long work was stopped on request."""


@dataclass(frozen=True)
class Recording:
    """Sound: `samples` of shape (frames, channels), float32 in about -1 to 1, at `rate` Hz.

    `notice` is a sentence for the player where something was odd but usable, else empty.
    """

    samples: NDArray[np.float32] | FileSamples
    rate: int
    notice: str = ""

    @property
    def duration_s(self) -> float:
        """Length in seconds; as the file promises, until it has been decoded."""
        return len(self.samples) / self.rate

    @property
    def channels(self) -> int:
        """How many there are."""
        return int(self.samples.shape[1])

    def between(self, start_s: float, end_s: float) -> NDArray[np.float32]:
        """The samples between two times, clipped to the recording."""
        return self.samples[max(0, round(start_s * self.rate)) : max(0, round(end_s * self.rate))]

    def part(self, start_s: float, end_s: float) -> "Part":
        """The same, read where it is asked for."""
        first, end = (min(max(0, round(at * self.rate)), len(self.samples)) for at in (start_s, end_s))
        return Part(self.samples, first, max(first, end))


@dataclass(frozen=True)
class Part:
    """Frames [first, end) of samples, sliced like an array of their own."""

    samples: NDArray[np.float32] | FileSamples
    first: int
    end: int

    @property
    def shape(self) -> tuple[int, int]:
        """Frames and channels."""
        return self.end - self.first, int(self.samples.shape[1])

    def __len__(self) -> int:
        return self.end - self.first

    def __getitem__(self, wanted: slice) -> NDArray[np.float32]:
        first, end, _ = wanted.indices(len(self))
        return self.samples[self.first + first : self.first + max(first, end)]


Samples = NDArray[np.float32] | FileSamples | Part


def open_part(path: Path, start_s: float, end_s: float) -> Recording | None:
    """A recording of a file's promised length of which two times have been sought and what is between them read.

    None where the file does not reach so far. Raises AudioError.
    """
    samples = _open(path)
    recording = Recording(samples, samples.rate)
    part = recording.part(start_s, end_s)
    if len(part) < round(end_s * samples.rate) - round(start_s * samples.rate):
        return None
    for first in range(0, len(part), BLOCK_FRAMES):
        block = part[first : first + BLOCK_FRAMES]
        if len(block) < min(BLOCK_FRAMES, len(part) - first):
            return None
        check_samples(path, block, start_s + first / samples.rate, samples.rate)
    return recording


def _open(path: Path) -> FileSamples:
    if not path.is_file():
        raise AudioError(f"{path.name} is not there")
    if path.stat().st_size == 0:
        raise AudioError(f"{path.name} is empty")
    try:
        samples = open_samples(path)
    except NotSoundError:
        raise AudioError(f"{path.name} is not a sound file that can be read") from None
    except OSError as error:
        raise AudioError(f"{path.name} can't be read: {error.strerror}") from None
    if not MIN_RATE_HZ <= samples.rate <= MAX_RATE_HZ:
        raise AudioError(
            f"{path.name} has a sample rate of {samples.rate} Hz, outside {MIN_RATE_HZ} to {MAX_RATE_HZ}"
        )
    if samples.shape[1] > MAX_CHANNELS:
        raise AudioError(f"{path.name} has {samples.shape[1]} channels; up to {MAX_CHANNELS} are read")
    return samples


def decode(
    path: Path,
    go_on: Callable[[float], bool] = lambda share: True,
    each: Callable[[NDArray[np.float32]], object] = lambda block: None,
) -> Recording:
    """A recording read from start to end, of the length that was found; `each` is given every BLOCK_FRAMES of it.

    Raises AudioError for what can't be used; raises Cancelled once `go_on`, told the share done, answers False.
    """
    samples = _open(path)
    promised, frames, loudest = len(samples), 0, 0.0
    for block in samples.blocks(BLOCK_FRAMES):
        if not go_on(min(frames / max(promised, 1), 1.0)):
            raise Cancelled
        check_samples(path, block, frames / samples.rate, samples.rate)
        loudest = max(loudest, float(block.max()), -float(block.min()))
        frames += len(block)
        if frames > LONGEST_S * samples.rate:
            raise AudioError(f"{path.name} is longer than {LONGEST_S / 3600:.0f} hours: cut it into parts")
        each(block)
    if frames == 0:
        raise AudioError(f"{path.name} holds no sound")
    if loudest < SILENCE:
        raise AudioError(f"{path.name} is silent from start to end")
    notice = ""
    if frames < promised - _PADDING_S * samples.rate:
        got_s, promised_s = frames / samples.rate, promised / samples.rate
        notice = f"{path.name} is cut short: {got_s:.1f} s of {promised_s:.1f} s could be read"
    return Recording(samples, samples.rate, notice)


def check_samples(path: Path, samples: NDArray[np.float32], start_s: float, rate: int) -> None:
    """Raise AudioError where samples, the first of them at `start_s`, are no numbers or no sound can be so loud."""
    if not len(samples) or (samples.min() >= -_LOUDEST and samples.max() <= _LOUDEST):
        return
    at = start_s + float(np.argmin((np.abs(samples) <= _LOUDEST).all(axis=1))) / rate
    raise AudioError(
        f"{path.name} has damaged samples (no numbers, or far too large) from {at:.2f} s on: export it again"
    )


def file_sha256(path: Path, keep_going: Callable[[], bool] = lambda: True) -> str:
    """SHA-256 of a file's bytes, in hex. Raises Cancelled once `keep_going` answers False."""
    found = hashlib.sha256()
    with path.open("rb") as file:
        while part := file.read(_HASHED_BYTES):
            if not keep_going():
                raise Cancelled
            found.update(part)
    return found.hexdigest()


def mono(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """The mean of the channels, shape (frames,); of one channel, a view.

    Where the channels cancel each other, as those of a lead plugged in wrongly do, it is the loudest of them.
    """
    if samples.shape[1] == 1:
        return samples[:, 0]
    # Twenty times as fast as the mean along so short an axis.
    mean = np.asarray(sum(samples.T) / np.float32(samples.shape[1]), dtype=np.float32)
    powers = [float(channel @ channel) for channel in samples.T]
    if float(mean @ mean) < _CANCELLED * max(powers):
        return samples[:, int(np.argmax(powers))]
    return mean


def resample(samples: NDArray[np.float32], rate: float, new_rate: float) -> NDArray[np.float32]:
    """Samples (along the first axis) at another rate."""
    return np.asarray(soxr.resample(samples, rate, new_rate), dtype=np.float32)
