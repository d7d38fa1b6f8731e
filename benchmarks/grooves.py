"""Drums as they are played in many ways: grooves of two, three and four beats a bar, with fills and crashes.

Where a bar begins is not to be learnt from one pattern, so that bars are trained on these (train_bars.py).
"""

from collections.abc import Mapping
from dataclasses import dataclass

import mido
import numpy as np

from benchmarks.band import DRUMS, Events, Score

_KICK, _RIM, _SNARE, _LOW_TOM, _TOM, _HIGH_TOM = 36, 37, 38, 41, 45, 48
_CLOSED, _PEDAL, _OPEN, _RIDE, _CRASH, _SHAKER = 42, 44, 46, 51, 49, 70


@dataclass(frozen=True)
class Groove:
    """What each drum plays in a bar, or by turns in several, at which beats; `timekeeper` in each part of each beat.

    `meter` is beats a bar, `compound` whether their parts are thirds.
    """

    meter: int
    bars: tuple[Mapping[int, tuple[float, ...]], ...]
    timekeeper: int | None = _CLOSED
    compound: bool = False


_BACK = (1, 3)  # the second and fourth beat
_THIRD = 1 / 3
_PUSHED, _WITHOUT = 0.2, 0.07  # of the bands: with early chords, without drums
_AT_BAR_S = 0.03  # so near a bar line its first chord and bass are played
GROOVES: tuple[Groove, ...] = (
    Groove(4, ({_KICK: (0, 2), _SNARE: _BACK},)),
    Groove(4, ({_KICK: (0, 1.5, 2), _SNARE: _BACK},)),
    Groove(4, ({_KICK: (0, 2, 2.5), _SNARE: _BACK},), _RIDE),
    Groove(4, ({_KICK: (0, 0.75, 2.5), _SNARE: _BACK, _RIM: (1.75, 2.25)},)),
    Groove(4, ({_KICK: (0,), _SNARE: (2,)},)),
    Groove(4, ({_KICK: (0, 0.5, 2.5), _SNARE: (2,)},), _RIDE),
    Groove(4, ({_KICK: (0, 1, 2, 3), _SNARE: _BACK, _OPEN: (0.5, 1.5, 2.5, 3.5)},), None),
    Groove(4, ({_KICK: (0, 1, 2, 3), _SNARE: (0.5, 1.5, 2.5, 3.5)},)),
    Groove(4, ({_KICK: (0, 2), _SNARE: (0, 1, 2, 3)},)),
    Groove(4, ({_RIDE: (0, 1, 1.5, 2, 3, 3.5), _PEDAL: _BACK},), None),
    Groove(4, ({_RIDE: (0, 1, 1.5, 2, 3, 3.5), _PEDAL: _BACK, _KICK: (0, 1, 2, 3)},), None),
    Groove(4, ({_KICK: (2,), _RIM: (2,)},)),
    Groove(4, ({_KICK: (0, 1.5, 2, 3.5), _RIM: (0, 1.5, 3)}, {_KICK: (0, 1.5, 2, 3.5), _RIM: (1, 2.5)}), _SHAKER),
    Groove(4, ({_KICK: (0, 2), _SNARE: (1, 3, 3.5)}, {_KICK: (0.5, 2), _SNARE: (1, 2.5, 3)})),
    Groove(4, ({_SNARE: tuple(np.arange(0, 4, 0.25)), _KICK: (0, 1, 2, 3)},), None),
    Groove(4, ({_LOW_TOM: (0, 1.5, 3), _TOM: (0.5, 2.5), _KICK: (0, 2)},), _SHAKER),
    Groove(4, ({_SHAKER: (0.5, 1.5, 2.5, 3.5), _RIM: _BACK},), None),
    Groove(3, ({_KICK: (0,), _SNARE: (1, 2)},)),
    Groove(3, ({_KICK: (0,), _SNARE: (2,)},), _RIDE),
    Groove(3, ({_KICK: (0,), _SNARE: (1,)},)),
    Groove(3, ({_KICK: (0, 1.5), _SNARE: (2,)},)),
    Groove(3, ({_RIDE: (0, 1, 1.5, 2), _PEDAL: (1,)},), None),
    Groove(3, ({_RIDE: (0, 1, 2, 2.5), _PEDAL: (1, 2), _KICK: (0,)},), None),
    Groove(3, ({_KICK: (0,), _RIM: (1, 2)}, {_KICK: (0, 2), _RIM: (1,)}), _SHAKER),
    Groove(2, ({_KICK: (0,), _SNARE: (1,)},), _CLOSED, compound=True),
    Groove(2, ({_KICK: (0, 1 + 2 * _THIRD), _SNARE: (1,)},), _RIDE, compound=True),
    Groove(2, ({_KICK: (0,), _RIM: (1,)}, {_KICK: (0, 1), _RIM: (1 + _THIRD,)}), _SHAKER, compound=True),
    Groove(2, ({_TOM: (0, _THIRD), _LOW_TOM: (1,), _KICK: (0,)},), None, compound=True),
    Groove(4, ({_KICK: (0, 2), _SNARE: _BACK},), _CLOSED, compound=True),
    Groove(4, ({_KICK: (0, 2 * _THIRD, 2), _SNARE: _BACK},), _RIDE, compound=True),
    Groove(4, ({_KICK: (0, 2 + 2 * _THIRD), _SNARE: (2,)},), _CLOSED, compound=True),
)


def fitting(score: Score) -> list[Groove]:
    """The grooves of a score's meter."""
    return [g for g in GROOVES if (g.meter, g.compound) == (score.beats_per_bar, score.compound)]


def groove_events(score: Score, groove: Groove, rng: np.random.Generator) -> Events:
    """A groove as a drummer plays it: not quite even, with fills at the end of four or eight bars, or none.

    Some crash where a stretch begins, some do not; the timekeeper leaves out a part of a beat now and then.
    """
    events: Events = []

    def play(drum: int, beat: float, velocity: float) -> None:
        at_s, loud = score.beat_at(beat) + float(rng.normal(0, 0.005)), int(np.clip(velocity, 20, 127))
        events.append((at_s, 2, mido.Message("note_on", channel=DRUMS, note=drum, velocity=loud)))
        events.append((at_s + 0.1, 0, mido.Message("note_off", channel=DRUMS, note=drum)))

    stretch, fills, crashes = int(rng.choice((4, 8))), bool(rng.random() < 0.6), bool(rng.random() < 0.5)
    loud = {drum: float(rng.uniform(70, 115)) for bar in groove.bars for drum in bar}
    parts = (0.0, _THIRD, 2 * _THIRD) if groove.compound else (0.0, 0.5) if rng.random() < 0.8 else (0.0,)
    accent = float(rng.uniform(0, 20))
    for bar in range(score.bars):
        start, last = bar * groove.meter, fills and bar % stretch == stretch - 1
        filled = float(rng.choice((0.5, 1, 2))) if last else 0.0
        for drum, beats in groove.bars[bar % len(groove.bars)].items():
            for beat in beats:
                if beat < groove.meter - filled:
                    play(drum, start + beat, loud[drum] + rng.normal(0, 8))
        for beat in range(groove.meter) if groove.timekeeper else ():
            for part in parts:
                if beat + part < groove.meter - filled and rng.random() < 0.95:
                    play(groove.timekeeper, start + beat + part, 60 + (0 if part else accent) + rng.normal(0, 5))
        for step in np.arange(groove.meter - filled, groove.meter, _THIRD if groove.compound else 0.25):
            play(int(rng.choice((_SNARE, _HIGH_TOM, _TOM, _LOW_TOM))), start + float(step), rng.uniform(70, 115))
        if crashes and bar % stretch == 0:
            play(_CRASH, start, rng.uniform(60, 100))
    return events


def arranged(score: Score, events: Events, rng: np.random.Generator) -> Events:
    """A band with other drums, or without any; of some the first chord and bass of a bar come half a beat early."""
    others = [event for event in events if event[2].channel != DRUMS]
    if rng.random() < _PUSHED:
        bars = np.array([score.beat_at(bar * score.beats_per_bar) for bar in range(1, score.bars)])

        def pushed(at_s: float, message: mido.Message) -> float:
            first = message.type == "note_on" and float(np.abs(bars - at_s).min()) < _AT_BAR_S
            return at_s - score.beat_s / 2 if first else at_s

        others = [(pushed(at_s, message), order, message) for at_s, order, message in others]
    if rng.random() < _WITHOUT:
        return others
    fits = fitting(score)
    return others + groove_events(score, fits[int(rng.integers(len(fits)))], rng)
