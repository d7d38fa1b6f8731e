"""Slow sound down or speed it up with its pitch kept, block by block, so that the first block plays at once."""

from collections.abc import Iterator

import numpy as np
import pedalboard
from numpy.typing import NDArray

from eager_owl.audio.decode import Samples

MIN_SPEED, MAX_SPEED = 0.10, 1.50
# The first block is short so that sound starts at once; the following ones double, so joints become rare.
_FIRST_BLOCK_S = 0.4
_LONGEST_BLOCK_S = 12.0
_OVERLAP_S = 0.08  # of stretched sound, searched for the best-matching joint and cross-faded
_LEAST_FRAMES = 64
_PRE_ROLL_S = 0.25  # of recording before each later block, so that the stretcher has settled at the joint


def stretch_blocks(samples: Samples, rate: int, speed: float) -> Iterator[NDArray[np.float32]]:
    """Yield the stretched sound of `samples` (frames, channels) in successive blocks.

    The blocks together have round(frames / speed) frames. Raises ValueError for a speed outside 0.1 to 1.5.
    """
    check_speed(speed)
    if speed == 1.0:
        step = round(_LONGEST_BLOCK_S * rate)
        for first in range(0, len(samples), step):
            count = min(step, len(samples) - first)
            yield _filled(samples[first : first + count], count)
        return
    total, done = round(len(samples) / speed), 0
    overlap, block_s = round(_OVERLAP_S * rate), _FIRST_BLOCK_S
    tail = np.zeros((0, samples.shape[1]), np.float32)
    while done < total:
        last = (total - done) * speed <= 1.5 * block_s * rate
        end = total if last else done + round(block_s * rate / speed)
        # Stretched frames [start, reach): pre-roll before, and behind what the next joint needs.
        start = max(0, done - overlap // 2 - round(_PRE_ROLL_S * rate / speed))
        reach = min(total, end + overlap)
        piece = _stretch(samples[round(start * speed) : round(reach * speed)], rate, speed, reach - start)
        if len(tail):
            at = done - start + _best_lag(tail, piece, done - start, overlap // 2)
            piece = piece[at:]
            fade = np.linspace(0.0, 1.0, min(len(tail), len(piece)), dtype=np.float32)[:, None]
            piece[: len(fade)] = piece[: len(fade)] * fade + tail[: len(fade)] * (1.0 - fade)
        wanted = end - done
        block = _filled(piece[:wanted], wanted)
        tail = piece[wanted : wanted + overlap]
        yield block
        done, block_s = end, min(2 * block_s, _LONGEST_BLOCK_S)


def stretch(samples: NDArray[np.float32], rate: int, speed: float) -> NDArray[np.float32]:
    """The whole stretched sound in one piece."""
    check_speed(speed)
    return samples if speed == 1.0 else _stretch(samples, rate, speed, round(len(samples) / speed))


def check_speed(speed: float) -> None:
    """Raise ValueError for a speed that can't be played."""
    if not MIN_SPEED <= speed <= MAX_SPEED:
        raise ValueError(f"a speed of {speed:g} is outside {MIN_SPEED:g} to {MAX_SPEED:g}")


def _stretch(samples: NDArray[np.float32], rate: int, speed: float, frames: int) -> NDArray[np.float32]:
    if len(samples) < _LEAST_FRAMES:  # nothing that is heard; the library asks which of so few are the channels
        return np.zeros((frames, samples.shape[1]), np.float32)
    out = pedalboard.time_stretch(np.ascontiguousarray(samples.T), rate, stretch_factor=speed, high_quality=False).T[
        :frames
    ]
    return _filled(out, frames).astype(np.float32)


def _filled(sound: NDArray[np.float32], frames: int) -> NDArray[np.float32]:
    return np.pad(sound, ((0, frames - len(sound)), (0, 0))) if len(sound) < frames else sound


def _best_lag(tail: NDArray[np.float32], piece: NDArray[np.float32], at: int, reach: int) -> int:
    """The shift within ±reach at which `piece` continues `tail` most alike (greatest normalised product)."""
    low = max(0, at - reach)
    window = piece[low : at + reach + len(tail)].mean(axis=1)
    pattern = tail.mean(axis=1)
    if len(window) < len(pattern):
        return 0
    product = np.correlate(window, pattern, mode="valid")
    energy = np.convolve(window**2, np.ones(len(pattern), np.float32), mode="valid")
    return int(np.argmax(product / np.sqrt(energy + 1e-9))) + low - at
