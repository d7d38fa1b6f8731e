"""What is played: a stretch of the recording at a speed, looped or once, with a count-in; and the clock of it.

A device pulls frames with `read` and the desk asks `position_s` where in the recording the ear is. The sound
is appended block by block while it is being stretched; the device hears silence where it comes too early,
and the clock waits.
"""

import threading
from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.stretch import stretch_blocks

_SEAM_S = 0.005  # faded at both ends of the loop, so that it does not click


class LoopSource:
    """Frames of one stretch of a recording, slowed, for a device to pull.

    `samples` has shape (frames, channels); `count_in` (same rate, mono) sounds once before the first pass.
    """

    def __init__(
        self,
        samples: NDArray[np.float32],
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
        self._sound = np.zeros((self._length, self.channels), np.float32)
        self._ready = 0
        self._count_in = np.zeros(0, np.float32) if count_in is None else count_in
        self._counted = 0
        self._at = 0
        self.passes = 0
        self._lock = threading.Lock()

    def render(self, keep_going: Callable[[], bool]) -> None:
        """Stretch the sound; run this on a worker. Stops when `keep_going` answers False."""
        blocks: Iterator[NDArray[np.float32]] = stretch_blocks(self._samples, self.rate, self.speed)
        for block in blocks:
            if not keep_going():
                return
            with self._lock:
                self._sound[self._ready : self._ready + len(block)] = block
                self._ready = min(self._ready + len(block), self._length)
        seam = min(round(_SEAM_S * self.rate), self._length // 2)
        fade = np.linspace(0, 1, seam, dtype=np.float32)[:, None]
        with self._lock:
            self._sound[:seam] *= fade
            self._sound[self._length - seam :] *= fade[::-1]

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
        with self._lock:
            while done < frames:
                ready = min(self._ready - self._at, frames - done)
                if ready <= 0:
                    break
                out[done : done + ready] = self._sound[self._at : self._at + ready]
                self._at += ready
                done += ready
                if self._at >= self._length and self.loop:
                    self._at = 0
                    self.passes += 1
        return out


class SteadySource(LoopSource):
    """A sound held at one instant of the recording: it goes round, the clock stands still."""

    def __init__(self, sound: NDArray[np.float32], rate: int, at_s: float) -> None:
        super().__init__(sound, rate, at_s, 1.0, loop=True)
        self._sound[:], self._ready = sound, len(sound)

    def render(self, keep_going: Callable[[], bool]) -> None:
        """Nothing is left to do, and a fade at the seam would be heard."""

    def position_s(self, latency_frames: int = 0) -> float:
        """The instant."""
        return self.start_s
