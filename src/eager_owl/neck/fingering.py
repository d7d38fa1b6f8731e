"""The cheapest fingering of a phrase: exact dynamic programming over string, fret, finger and hand position.

A state is a candidate (string, fret) with the fret the index finger's hand stands at; the finger follows from
the two. The cost of a state and of each step between states is in `hand.Costs`; the path of least sum is
found by forward recursion (R. Bellman, 1957), so for n notes of at most k states the work is n * k * k.
S. Sayegh, "Fingering for string instruments with the optimum path paradigm", Computer Music Journal 13(3),
1989, describes the approach.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.neck.hand import STRETCH_ABOVE, STRETCH_BELOW, Costs
from eager_owl.solo.document import LEGATO, Instrument, Note
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import pitch_name


@dataclass(frozen=True)
class Place:
    """Where a note is played: string from 1, fret, finger (0 open, 1 to 4), and the hand's position."""

    string: int
    fret: int
    finger: int
    position: int


@dataclass(frozen=True)
class Fingering:
    """A place for each note (None where there is none), the total cost, and why notes were left out."""

    places: tuple[Place | None, ...]
    cost: float
    refusals: dict[int, str]


def candidates(pitch: int, instrument: Instrument) -> list[tuple[int, int]]:
    """Every (string, fret) that sounds a pitch."""
    found = ((s, instrument.fret_of(s, pitch)) for s in range(1, len(instrument.tuning) + 1))
    return [(string, fret) for string, fret in found if fret is not None]


def find_fingering(
    notes: Sequence[Note],
    instrument: Instrument,
    costs: Costs | None = None,
    key: Key | None = None,
    from_fret: int | None = None,
) -> Fingering:
    """The cheapest places for notes in order of onset. Pinned places and fingers are kept.

    A note off the neck, or whose pins contradict each other, gets no place and a reason under its index.
    `from_fret` is where the player wants the hand.
    """
    costs = costs or Costs()
    refusals: dict[int, str] = {}
    playable: list[int] = []
    states: list[NDArray[np.int64]] = []
    for index, note in enumerate(notes):
        rows = _states(note, instrument)
        if isinstance(rows, str):
            refusals[index] = rows
        else:
            playable.append(index)
            states.append(rows)
    places: list[Place | None] = [None] * len(notes)
    if not playable:
        return Fingering(tuple(places), 0.0, refusals)

    home = _key_fret(key, instrument)
    chosen = [notes[i] for i in playable]
    total = _state_costs(chosen[0], states[0], instrument, costs, home)
    if from_fret is not None:
        total = total + costs.from_fret * _off(states[0], from_fret)
    backs: list[NDArray[np.intp]] = []
    for i in range(1, len(chosen)):
        step = _step_costs(chosen[i - 1], chosen[i], states[i - 1], states[i], instrument, costs)
        through = total[:, None] + step
        backs.append(through.argmin(axis=0))
        total = through.min(axis=0) + _state_costs(chosen[i], states[i], instrument, costs, home)
        if from_fret is not None:
            total = total + costs.from_fret * _off(states[i], from_fret)
    at = int(total.argmin())
    cost = float(total[at])
    for i in range(len(chosen) - 1, -1, -1):
        string, fret, finger, position = (int(v) for v in states[i][at])
        places[playable[i]] = Place(string, fret, finger, position)
        at = int(backs[i - 1][at]) if i else at
    return Fingering(tuple(places), cost, refusals)


def with_places(notes: Sequence[Note], fingering: Fingering) -> list[Note]:
    """The notes with string, fret and finger filled in."""
    placed = []
    for note, place in zip(notes, fingering.places, strict=True):
        if place is None:
            placed.append(replace(note, string=None, fret=None, finger=None))
        else:
            placed.append(replace(note, string=place.string, fret=place.fret, finger=place.finger))
    return placed


def _states(note: Note, instrument: Instrument) -> NDArray[np.int64] | str:
    """Rows of (string, fret, finger, position) for a note, or why there are none."""
    pairs = candidates(note.pitch, instrument)
    bent = note.bend is not None
    if "place" in note.pins and note.string is not None:
        fret = instrument.fret_of(note.string, note.pitch)
        if fret is None or (note.fret is not None and note.fret != fret):
            return f"{pitch_name(note.pitch)} is not at the pinned fret of string {note.string}"
        pairs = [(note.string, fret)]
    if not pairs:
        return f"{pitch_name(note.pitch)} is off this neck"
    stopped = [(s, f) for s, f in pairs if not instrument.is_open(f)]
    if bent and stopped:
        pairs = stopped
    finger_pin = note.finger if "finger" in note.pins else None
    rows = []
    for string, fret in pairs:
        if instrument.is_open(fret):
            # An open string lets the hand be anywhere; twelve positions stand for all of them.
            rows += [(string, fret, 0, position) for position in range(instrument.capo + 1, instrument.frets - 2)]
            continue
        for offset in range(-STRETCH_BELOW, 4 + STRETCH_ABOVE):
            position = fret - offset
            finger = min(max(offset + 1, 1), 4)
            if position < instrument.capo + 1 or position > instrument.frets:
                continue
            rows.append((string, fret, finger, position))
    if finger_pin is not None:
        kept = [row for row in rows if row[2] == finger_pin]
        if not kept:
            return f"finger {finger_pin} can't play {pitch_name(note.pitch)} there"
        rows = kept
    return np.asarray(rows, dtype=np.int64)


def _state_costs(
    note: Note, rows: NDArray[np.int64], instrument: Instrument, costs: Costs, home: int | None
) -> NDArray[np.float64]:
    string, fret, finger, position = rows.T
    stopped = finger > 0
    offset = fret - position
    cost = costs.stretch * (stopped & ((offset < 0) | (offset > 3))) + costs.little_finger * (finger == 4)
    cost = cost + costs.open_string * ~stopped
    cost = cost + costs.thick_high * np.maximum(fret - 12, 0) * np.maximum(string - 2, 0)
    cost = cost + costs.extreme * np.abs(position - 7)
    if note.bend:
        cost = cost + costs.bend_index * (finger == 1) + costs.bend_little * (finger == 4)
        cost = cost + costs.bend_wound * (string > 3) + costs.bend_low_fret * np.maximum(5 - fret, 0)
    if home is not None:
        # Boxes of a pentatonic start on the root's fret on the sixth string and repeat every octave.
        away = np.abs((position - home + 6) % 12 - 6)
        cost = cost + costs.key_position * np.minimum(away, 3) * stopped
    return np.asarray(cost, dtype=np.float64)


def _step_costs(
    before: Note,
    note: Note,
    rows_before: NDArray[np.int64],
    rows: NDArray[np.int64],
    instrument: Instrument,
    costs: Costs,
) -> NDArray[np.float64]:
    s0, f0, g0, p0 = (column[:, None] for column in rows_before.T)
    s1, f1, g1, p1 = (column[None, :] for column in rows.T)
    way = np.abs(p1 - p0)
    shift = (way > 0) * costs.shift + costs.shift_fret * way
    rest = note.onset - before.end
    if rest >= costs.rest_s:
        shift = shift * costs.rest_factor
    open_between = (g0 == 0) | (g1 == 0)
    shift = np.where((s0 == s1) & ~open_between, shift * costs.glide_factor, shift)
    strings = np.abs(s1 - s0)
    cost = shift + costs.string_change * (strings > 0) + costs.string_skip * np.maximum(strings - 1, 0)
    same = (g0 == g1) & (g1 > 0) & ~((s0 == s1) & (f0 == f1))
    rolled = same & (strings == 1) & (f0 == f1)
    slide = note.technique("slide") is not None
    if not slide:
        cost = cost + np.where(rolled, costs.rolled_finger, costs.same_finger * (same & (way == 0)))
        # One finger walking along a string shifts the hand and is a worse legato than two fingers.
        cost = cost + costs.same_finger * (same & (s0 == s1) & (way > 0))
    if note.technique(*LEGATO):
        cost = cost + costs.legato_elsewhere * (strings > 0)
        cost = cost + costs.slide_other_finger * (slide & (g0 != g1))
    if note.technique("double_stop") and abs(note.onset - before.onset) < 0.03:
        cost = cost + costs.legato_elsewhere * ((strings == 0) | (way > 0))
    return np.asarray(cost, dtype=np.float64)


def _off(rows: NDArray[np.int64], from_fret: int) -> NDArray[np.float64]:
    return np.asarray(np.abs(rows[:, 3] - from_fret) * (rows[:, 2] > 0), dtype=np.float64)


def _key_fret(key: Key | None, instrument: Instrument) -> int | None:
    """Fret of the minor home's root on the thickest string: where its first box stands."""
    if key is None:
        return None
    tonic = key.tonic if key.mode == "minor" else key.tonic + 9
    return (tonic - instrument.tuning[-1]) % 12
