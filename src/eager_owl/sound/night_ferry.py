"""“Night Ferry”, an invented minor waltz in F minor: its chart, its solo note by note, and its rendering."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import Technique
from eager_owl.sound.band import render_band
from eager_owl.sound.string import play_notes

TITLE = "Night Ferry"
KEY = "F minor"
CHART = """\
A | Fm7 | Bbm7 | Gm7b5 | C7 | Fm7 | Bbm7 | Eb7 | Abmaj7 |
B | Dbmaj7 | Gm7b5 | C7alt | Fm7 | Bbm7 | Gm7b5 C7 | Fm7 | % |
"""
BARS = 16
GRID = BeatGrid(112.0, 1.75, 3)
TUNING_CENTS = -12.0  # the rehearsal piano stood at A4 = 437 Hz
RATE_HZ = 44100
DURATION_S = 29.0

VIBRATO = Technique("vibrato", rate_hz=5.4, extent_cents=28.0)
HAMMER, PULL, SLIDE = Technique("hammer_on"), Technique("pull_off"), Technique("slide")
GHOST, SHORT, DOUBLE = Technique("ghost"), Technique("staccato"), Technique("double_stop")


def bend(semitones: float, rise_s: float = 0.15) -> Technique:
    """A bend held."""
    return Technique("bend", semitones, rise_s)


@dataclass(frozen=True)
class Event:
    """A composed note: beat from the first bar, length in beats, pitch, techniques, loudness in dB."""

    beat: float
    beats: float
    pitch: int
    techniques: tuple[Technique, ...] = ()
    db: float = -8.0


def _trill(beat: float, low: int, high: int, count: int) -> list[Event]:
    each = 0.22
    events = [Event(beat, each, low, (Technique("trill", float(high - low), rate_hz=8.5),))]
    for index in range(1, count):
        up = index % 2 == 1
        events.append(Event(beat + index * each, each, high if up else low, (HAMMER if up else PULL,)))
    return events


# Phrase name, first and last beat, and what is played.
PHRASES: tuple[tuple[str, float, float, tuple[Event, ...]], ...] = (
    ("Pickup", -1.25, 5.6, (
        Event(-1.0, 0.5, 60), Event(-0.5, 0.5, 63), Event(0.0, 1.5, 65, (HAMMER, VIBRATO)),
        Event(1.5, 0.5, 68), Event(2.0, 0.5, 70), Event(2.5, 0.5, 68, (PULL,)), Event(3.0, 2.2, 65),
    )),
    ("Question", 5.6, 11.7, (
        Event(6.0, 0.5, 67), Event(6.5, 0.5, 70), Event(7.0, 0.5, 73), Event(7.5, 0.5, 72, (PULL,)),
        Event(8.0, 0.9, 70, (SLIDE,)), Event(9.0, 0.95, 76), Event(10.0, 0.5, 73),
        Event(10.5, 0.45, 72, (PULL,)), Event(11.0, 0.3, 70, (SHORT,)),
    )),
    ("Answer", 11.7, 17.8, (
        Event(12.0, 1.4, 67, (bend(1.0),)), Event(13.5, 0.45, 72), Event(14.0, 0.9, 75),
        *_trill(15.0, 73, 75, 6), Event(16.5, 1.2, 70, (VIBRATO,)),
    )),
    ("Climb", 17.8, 24.2, (
        Event(18.0, 0.5, 63), Event(18.5, 0.45, 65, (HAMMER,)), Event(19.0, 0.5, 67),
        Event(19.5, 0.45, 70, (HAMMER,)), Event(20.0, 0.5, 72), Event(20.5, 0.45, 73, (HAMMER,)),
        Event(21.0, 0.5, 75), Event(21.5, 1.4, 79, (SLIDE,)), Event(23.0, 1.0, 80, (VIBRATO,)),
    )),
    ("The bend", 24.2, 32.9, (
        Event(24.5, 2.3, 75, (bend(2.0, 0.14), VIBRATO), -5.0),
        Event(27.0, 1.4, 75, (Technique("bend_release", 2.0, 0.14, 0.16),)),
        Event(28.5, 0.45, 72, (PULL,)), Event(29.0, 0.9, 73), Event(30.0, 0.5, 75), Event(30.5, 0.5, 73),
        Event(31.0, 0.5, 70), Event(31.5, 0.45, 68), Event(32.0, 0.75, 64),
    )),
    ("Turnaround", 32.9, 41.8, (
        Event(33.0, 1.3, 65, (VIBRATO,)), Event(34.5, 0.2, 65, (GHOST,), -20.0), Event(35.0, 0.5, 68),
        Event(35.5, 0.45, 72), Event(36.0, 1.2, 73, (DOUBLE,)), Event(36.0, 1.2, 77, (DOUBLE,)),
        Event(37.5, 0.5, 75), Event(38.0, 0.8, 73, (SLIDE,)), Event(39.0, 0.5, 70),
        Event(39.5, 0.45, 67, (PULL,)), Event(40.0, 0.5, 65), Event(40.5, 0.5, 64), Event(41.0, 0.7, 67),
    )),
    ("Last word", 41.8, 49.5, (
        Event(42.0, 0.5, 65), Event(42.5, 0.5, 68), Event(43.0, 0.45, 72, (), -9.0),
        Event(43.5, 0.4, 72, (), -13.0), Event(44.0, 0.4, 72, (), -17.0), Event(44.5, 0.4, 72, (), -21.0),
        Event(45.0, 3.0, 77, (VIBRATO,), -19.0),
    )),
)  # fmt: skip


def solo_notes() -> list[Note]:
    """The solo as it is played: the truth the demo recording can be compared with."""
    events = sorted((e for _, _, _, part in PHRASES for e in part), key=lambda e: (e.beat, e.pitch))
    return [
        Note(
            index + 1,
            round(GRID.time_of(event.beat), 4),
            round(event.beats * GRID.beat_s, 4),
            event.pitch,
            techniques=event.techniques,
            loudness_db=event.db,
        )
        for index, event in enumerate(events)
    ]


def render_lead() -> NDArray[np.float32]:
    """The lead alone, shape (frames,)."""
    lead = play_notes(solo_notes(), RATE_HZ, DURATION_S, TUNING_CENTS)
    return np.asarray(0.7 * lead / np.abs(lead).max(), dtype=np.float32)


def render_with_band() -> NDArray[np.float32]:
    """The lead with the band about 6 dB below it, stereo, shape (frames, 2)."""
    lead = render_lead()[:, None]
    band = render_band(parse_chart(CHART), GRID, BARS, DURATION_S, RATE_HZ, TUNING_CENTS)
    quieter = float(np.sqrt(np.mean(lead**2)) / np.sqrt(np.mean(band**2))) * 10 ** (-6 / 20)
    mix = lead + quieter * band
    return np.asarray(0.8 * mix / np.abs(mix).max(), dtype=np.float32)
