"""What is played: a stretch of the recording at a speed, looped or once, with a count-in; and the clock of it.

A device pulls frames with `read` and the desk asks `position_s` where in the recording the ear is. The sound
is appended block by block while it is being stretched; the device hears silence where it comes too early,
and the clock waits. A loop of some minutes is kept as it was stretched; of a longer one only what is ahead of the
ear.
"""

import sys
import threading
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Samples
from eager_owl.audio.stretch import stretch_blocks

_KEPT_S = 240.0  # of stretched sound; longer than any block of it
_WAIT_S = 0.1
_SEAM_S = 0.005  # faded at both ends of the loop, so that it does not click


class LoopSource:
    """Frames of one stretch of a recording, slowed, for a device to pull.

    `samples` has shape (frames, channels), and is read as it is needed; `count_in` (same rate, mono) sounds once
    before the first pass.
    """

    def __init__(
        self,
        samples: Samples,
        rate: int,
        start_s: float,
        speed: float,
        loop: bool,
        count_in: NDArray[np.float32] | None = None,
    ) -> None:
        self.rate, self.speed, self.loop = rate, speed, loop
        self.start_s, self.end_s = start_s, start_s + len(samples) / rate
        self._samples = samples
        self.channels = samples.shape[1]
        self._length = round(len(samples) / speed)
        # Frame n of all that will ever sound lies at n modulo the length of this.
        self._sound = np.zeros((min(self._length, round(_KEPT_S * rate)), self.channels), np.float32)
        self._written = 0  # such frames, since the first pass began
        self._count_in = np.zeros(0, np.float32) if count_in is None else count_in
        self._counted = 0
        self._at = 0
        self.passes = 0
        self._changed = threading.Condition()

    def render(self, keep_going: Callable[[], bool]) -> None:
        """Stretch the sound; run this on a worker. Stops when `keep_going` answers False."""
        again = True
        while again:
            done = 0
            for block in stretch_blocks(self._samples, self.rate, self.speed):
                if not self._write(block * self._fade(done, len(block)), keep_going):
                    return
                done += len(block)
            again = self.loop and len(self._sound) < self._length
        if self.loop:
            self._written = sys.maxsize  # all of it, however often it goes round

    def _fade(self, first: int, count: int) -> NDArray[np.float32]:
        """The gain of a pass's frames from one on, so that its start follows its end without a click."""
        seam = max(min(round(_SEAM_S * self.rate), self._length // 2), 2)
        at = first + np.arange(count)
        edge = np.minimum(at, self._length - 1 - at) / (seam - 1)
        return np.minimum(edge, 1.0).astype(np.float32)[:, None]

    def _write(self, block: NDArray[np.float32], keep_going: Callable[[], bool]) -> bool:
        """Append a block, once there is room; answers whether to go on."""
        with self._changed:
            while keep_going():
                if self._written + len(block) <= self._heard + len(self._sound):
                    self._sound[(self._written + np.arange(len(block))) % len(self._sound)] = block
                    self._written += len(block)
                    return True
                self._changed.wait(_WAIT_S)
        return False

    @property
    def _heard(self) -> int:
        return self.passes * self._length + self._at

    @property
    def finished(self) -> bool:
        """Whether a stretch played once has ended."""
        return not self.loop and self._at >= self._length

    @property
    def sounding(self) -> bool:
        """Whether the recording itself has begun to sound."""
        return self._at > 0 or self.passes > 0

    @property
    def counting_in(self) -> bool:
        """Whether the count-in is still clicking."""
        return self._counted < len(self._count_in)

    def position_s(self, latency_frames: int = 0) -> float:
        """Seconds of the recording that the ear hears now, given frames pulled but not yet heard."""
        at = max(self._at - latency_frames, 0)
        return min(self.start_s + at * self.speed / self.rate, self.end_s)

    def read(self, frames: int) -> NDArray[np.float32]:
        """The next frames, shape (frames, channels); silence after the end, or where nothing is ready yet."""
        out = np.zeros((frames, self.channels), np.float32)
        done = 0
        if self.counting_in:
            clicks = self._count_in[self._counted : self._counted + frames]
            out[: len(clicks)] = clicks[:, None]
            done = len(clicks)
            self._counted += done
        with self._changed:
            while done < frames and self._at < self._length:
                at = self._heard % len(self._sound)
                ready = min(
                    self._written - self._heard, self._length - self._at, len(self._sound) - at, frames - done
                )
                if ready <= 0:
                    break
                out[done : done + ready] = self._sound[at : at + ready]
                self._at += ready
                done += ready
                if self._at >= self._length and self.loop:
                    self._at = 0
                    self.passes += 1
            self._changed.notify()
        return out


class SteadySource(LoopSource):
    """A sound held at one instant of the recording: it goes round, the clock stands still."""

    def __init__(self, sound: NDArray[np.float32], rate: int, at_s: float) -> None:
        super().__init__(sound, rate, at_s, 1.0, loop=True)
        self._sound[:], self._written = sound, sys.maxsize

    def render(self, keep_going: Callable[[], bool]) -> None:
        """Nothing is left to do, and a fade at the seam would be heard."""

    def position_s(self, latency_frames: int = 0) -> float:
        """The instant."""
        return self.start_s
