"""Recordings too long to be listened to in one piece: what some stretches of them are, and all of them in blocks.

Memory does not grow with the recording, and whoever waits can stop it within a fraction of a second.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Cancelled
from eager_owl.hearing.beats import Beats, find_beats
from eager_owl.hearing.detect import Progress, believed_line, listen
from eager_owl.hearing.frames import HOP_S
from eager_owl.hearing.mix import Mix
from eager_owl.hearing.pulse import Pulse, empty_pulse, join_pulses, measure_pulse
from eager_owl.hearing.salience import COARSE_HOP_S
from eager_owl.solo.document import Note

# Mono samples between two times in seconds of a recording, at its rate.
Read = Callable[[float, float], NDArray[np.float32]]

AT_ONCE_S = 90.0  # up to so long, all is heard in one piece
# A block and what is heard before and after it, of whole frames of either kind.
_RATIO = round(COARSE_HOP_S / HOP_S)
_BLOCK, _MARGIN = 10240, 256
# Stretches that tell what the whole is: one of so many seconds in so many, within bounds.
_STRETCH_S, _EVERY_S, _FEWEST, _MOST = 12.0, 120.0, 3, 12
FIRST_SHARE = 0.05  # of the work, for that
_QUIET = 0.01  # of the loudest sample of those stretches: a block so quiet is not listened to
_SEAM_S, _LEAD_IN_S = 10.0, 0.3  # where notes of neighbouring blocks are joined; what is heard before


@dataclass(frozen=True)
class Impression:
    """What kind of mix a recording is, how far its tuning is off, and its loudest sample, as some of it tells."""

    mix: Mix
    reference_cents: float
    loudest: float


@dataclass(frozen=True)
class Overview:
    """The lead's line in MIDI every HOP_S, nan for none; the tuning; the mix; beats, None where none recur.

    Beat times count from where the recording begins, the line from where the listening did.
    """

    line: NDArray[np.float64]
    reference_cents: float
    mix: Mix
    beats: Beats | None


def first_impression(
    read: Read, start_s: float, end_s: float, rate: int, progress: Progress = lambda share, doing: True
) -> Impression:
    """From stretches spread over [start_s, end_s), or from all of it where it is short."""
    span = end_s - start_s
    count = int(np.clip(span / _EVERY_S, _FEWEST, _MOST)) if span > _FEWEST * _STRETCH_S else 1
    length = min(_STRETCH_S, span) if count > 1 else span
    turn, loudest = 0j, 0.0
    sung = {"band": 0.0, "solo": 0.0}
    for index in range(count):
        at = start_s + (index + 0.5) * span / count - length / 2
        samples = read(at, at + length)
        heard = listen(samples, rate, progress=share_of(progress, index / count, 1 / count))
        frames = float(np.isfinite(believed_line(heard)).sum())
        sung[heard.mix] += frames
        turn += frames * np.exp(2j * np.pi * heard.reference_cents / 100)
        loudest = max(loudest, float(np.abs(samples).max(initial=0.0)))
    cents = round(float(np.angle(turn)) / (2 * np.pi) * 100, 1) if turn else 0.0
    return Impression("band" if sung["band"] > sung["solo"] else "solo", cents, loudest)


def overlook(
    read: Read,
    start_s: float,
    end_s: float,
    rate: int,
    progress: Progress = lambda share, doing: True,
    has_beat: bool = True,
) -> Overview:
    """Listen through [start_s, end_s), for one beat all along it where it `has_beat`.

    Raises Cancelled once `progress` answers False.
    """
    if end_s - start_s <= AT_ONCE_S:
        heard = listen(read(start_s, end_s), rate, progress=progress)
        beats = find_beats(measure_pulse(heard.spectra))
        return Overview(believed_line(heard), heard.reference_cents, heard.mix, _moved(beats, start_s))
    impression = first_impression(read, start_s, end_s, rate, share_of(progress, 0.0, FIRST_SHARE))
    count = int(np.ceil((end_s - start_s) / HOP_S))
    lines, pulses = [], []

    def moved(low_s: float, high_s: float) -> NDArray[np.float32]:
        return read(start_s + low_s, start_s + high_s)

    for first in range(0, count, _BLOCK):
        end = min(first + _BLOCK, count)
        begun = FIRST_SHARE + (1 - FIRST_SHARE) * first / count
        part = share_of(progress, begun, (1 - FIRST_SHARE) * (end - first) / count)
        line, pulse = _block(moved, rate, impression, first, end, part)
        lines.append(line)
        if has_beat:
            pulses.append(pulse)
    beats = find_beats(join_pulses(pulses)) if has_beat else None
    return Overview(np.concatenate(lines), impression.reference_cents, impression.mix, _moved(beats, start_s))


def _moved(beats: Beats | None, by_s: float) -> Beats | None:
    return replace(beats, times_s=beats.times_s + by_s) if beats else None


def _block(
    read: Read, rate: int, impression: Impression, first: int, end: int, progress: Progress
) -> tuple[NDArray[np.float64], Pulse]:
    """The line over the fine frames [first, end) of what is read, and the pulse over the coarse ones."""
    low = max(0, first - _MARGIN)
    samples = read(low * HOP_S, (end + _MARGIN) * HOP_S)
    before, coarse = first - low, -(-(end - first) // _RATIO)
    if np.abs(samples).max(initial=0.0) < _QUIET * impression.loudest:
        if not progress(1.0, "a silence"):
            raise Cancelled
        return np.full(end - first, np.nan), empty_pulse(coarse)
    heard = listen(samples, rate, impression.reference_cents, progress, impression.mix)
    line = believed_line(heard)[before : before + end - first]
    pulse = measure_pulse(heard.spectra).part(before // _RATIO, before // _RATIO + coarse)
    return np.pad(line, (0, end - first - len(line)), constant_values=np.nan), pulse


def in_blocks(start_s: float, end_s: float, hear: Callable[[float, float], Sequence[Note]]) -> list[Note]:
    """The notes of [start_s, end_s), each block of it heard by itself by `hear`, which is given start and end.

    Blocks meet where nothing begins for longest, and are heard from a little before.
    """
    notes: list[Note] = []
    begin = start_s
    while True:
        last = end_s - begin <= AT_ONCE_S
        end = end_s if last else begin + _BLOCK * HOP_S
        found = [note for note in hear(max(start_s, begin - _LEAD_IN_S), end) if note.onset >= begin]
        if last:
            return notes + found
        begin = _seam([note.onset for note in found], end)
        notes += [note for note in found if note.onset < begin]


def _seam(onsets: Sequence[float], end_s: float) -> float:
    """A little before the onset, of those near the end of a block, that comes after the longest wait."""
    near = [end_s - _SEAM_S, *(onset for onset in onsets if onset > end_s - _SEAM_S), end_s]
    waits = np.diff(near)
    at = int(waits.argmax())
    return near[at + 1] - min(_LEAD_IN_S / 3, float(waits[at]) / 2)


def share_of(progress: Progress, begun: float, share: float) -> Progress:
    """Progress of a part of the work, told as progress of the whole."""
    return lambda done, doing: progress(begun + share * done, doing)
