"""Every way a hand can take a stroke: strings, frets and fingers of its notes, and where the hand stands."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from eager_owl.neck.hand import REACHES, reach_mm
from eager_owl.solo.document import Instrument, Note
from eager_owl.theory.pitch import pitch_name

# Frets from the index finger's own to a finger's: the index may go one back, the little finger two on.
_OFFSETS = range(-1, 6)
_MOST_STATES = 600
_FIRST = 3
# The finger that goes so many frets from the index finger's, one further than its own.
_STRETCHES = {2: 2, 3: 3}


@dataclass(frozen=True)
class Wanted:
    """A note as the hand is asked for it; None where the player left it open."""

    pitch: int
    bent: bool
    string: int | None
    fret: int | None
    finger: int | None
    harmonic: bool = False


@dataclass(frozen=True)
class Rows:
    """States of one stroke, one a row; notes of a stroke stand in columns, the highest first.

    `strings`, `frets`, `fingers` have shape (rows, notes); `position` is the fret the index finger stands at.
    `reach_cm` and `strain_cm` are how far fingers lie apart beyond ease and comfort, `out_of_place` how many are
    off their own fret, `barre` how many strings a finger takes beyond its first.
    """

    position: NDArray[np.int64]
    strings: NDArray[np.int64]
    frets: NDArray[np.int64]
    fingers: NDArray[np.int64]
    reach_cm: NDArray[np.float64]
    strain_cm: NDArray[np.float64]
    out_of_place: NDArray[np.float64]
    barre: NDArray[np.float64]

    def __len__(self) -> int:
        return len(self.position)

    @cached_property
    def sums(self) -> dict[str, NDArray[np.int64]]:
        """Of each row by name: the thinnest and thickest string; how many notes the little finger takes, are open

        and stopped; and frets above the ninth on strings from the third on. Kept, as rows are.
        """
        return {
            "thinnest": self.strings.min(axis=1),
            "thickest": self.strings.max(axis=1),
            "little": (self.fingers == 4).sum(axis=1),
            "opened": (self.fingers == 0).sum(axis=1),
            "stopped": (self.fingers > 0).sum(axis=1),
            "thick_high": (np.maximum(self.frets - 9, 0) * np.maximum(self.strings - 2, 0)).sum(axis=1),
        }


def candidates(pitch: int, instrument: Instrument, harmonic: bool = False) -> list[tuple[int, int]]:
    """Every (string, fret) that sounds a pitch; of a harmonic only where an open string has it, if one does."""
    found = ((s, instrument.fret_of(s, pitch, harmonic)) for s in range(1, len(instrument.tuning) + 1))
    places = [(string, fret) for string, fret in found if fret is not None]
    touched = [place for place in places if instrument.pitch_at(*place) != pitch or place[1] == instrument.capo + 12]
    return touched if harmonic and touched else places


def wanted(note: Note) -> Wanted:
    """What is asked of the hand for a note: its pins are kept."""
    placed = "place" in note.pins and note.string is not None
    return Wanted(
        note.pitch,
        note.bend is not None,
        note.string if placed else None,
        note.fret if placed else None,
        note.finger if "finger" in note.pins else None,
        note.harmonic,
    )


def playable(
    notes: Sequence[Note], stroke: Sequence[int], instrument: Instrument, refusals: dict[int, str]
) -> tuple[list[int], Rows] | None:
    """The notes of a stroke that a hand can take together, and every way to; why the others can't goes to `refusals`.

    None where none can be taken.
    """
    kept: list[int] = []
    asked = {i: wanted(notes[i]) for i in stroke}
    for i in stroke:
        if reason := why_not(asked[i], instrument):
            refusals[i] = reason
        elif len(kept) == len(instrument.tuning):
            refusals[i] = f"{pitch_name(notes[i].pitch)} is one note more than there are strings at that moment"
        else:
            kept.append(i)
    for size in range(len(kept), 0, -1):
        for subset in combinations(kept, size):
            rows = rows_for(tuple(asked[i] for i in subset), instrument)
            if len(rows):
                for i in set(kept) - set(subset):
                    refusals[i] = _why_not_together(notes, i, subset, instrument)
                return list(subset), rows
    return None


@lru_cache(maxsize=4096)
def why_not(note: Wanted, instrument: Instrument) -> str:
    """Why a note can't be played at all, or nothing where it can."""
    name = pitch_name(note.pitch)
    if note.string is not None:
        fret = instrument.fret_of(note.string, note.pitch, note.harmonic) if note.fret is None else note.fret
        if not instrument.sounds(note.string, fret, note.pitch, note.harmonic):
            return f"{name} is not at the pinned fret of string {note.string}"
    if not candidates(note.pitch, instrument, note.harmonic):
        return f"{name} is off this neck"
    if not len(rows_for((note,), instrument)):
        return f"finger {note.finger} can't play {name} there"
    return ""


def _why_not_together(notes: Sequence[Note], index: int, others: Sequence[int], instrument: Instrument) -> str:
    strings = {string for string, _ in _places(wanted(notes[index]), instrument)}
    for other in others:
        taken = {string for string, _ in _places(wanted(notes[other]), instrument)}
        if strings == taken and len(strings) == 1:
            name = pitch_name(notes[other].pitch)
            return f"{pitch_name(notes[index].pitch)} needs string {min(strings)}, which {name} takes at that moment"
    names = " and ".join(pitch_name(notes[i].pitch) for i in others)
    return f"no hand reaches {pitch_name(notes[index].pitch)} together with {names}"


@lru_cache(maxsize=4096)
def rows_for(notes: tuple[Wanted, ...], instrument: Instrument, stretched: bool = False) -> Rows:
    """Every state of a stroke of these notes (the highest first) that a hand can take; none where it can't.

    Each finger has a fret; `stretched` ones also go a fret further: the ring finger to three frets from the index
    finger's, the middle finger to two, as a hand plays that seldom uses the little finger.
    """
    found: list[tuple[int, tuple[tuple[int, int, int], ...], tuple[float, float, float, float]]] = []
    for places in _on_own_strings([_places(note, instrument) for note in notes]):
        stopped = [fret for _, fret in places if not instrument.is_open(fret)]
        if stopped:
            positions = (*range(max(max(stopped) - _OFFSETS[-1], instrument.capo + 1), min(stopped) + 2),)
        else:  # open strings let the hand be anywhere: every other fret will do, but in the first ones
            first = instrument.capo + 1
            positions = (*range(first, first + _FIRST), *range(first + _FIRST + 1, instrument.frets - 2, 2))
        for position in positions:
            if position > instrument.frets:
                continue
            for fingers in _fingers(places, position, instrument, stretched):
                if any(n.finger not in (None, finger) for n, finger in zip(notes, fingers, strict=True)):
                    continue
                effort = _effort(places, fingers, position, instrument)
                if effort is not None:
                    taken = tuple((*place, finger) for place, finger in zip(places, fingers, strict=True))
                    found.append((position, taken, effort))
    if len(found) > _MOST_STATES:  # a chord of many notes: the least strained will do
        found.sort(key=lambda row: sum(row[2]))
        del found[_MOST_STATES:]
    spots = np.array([row[1] for row in found], dtype=np.int64).reshape(len(found), len(notes), 3)
    efforts = np.array([row[2] for row in found]).reshape(len(found), 4)
    hands = np.array([row[0] for row in found], dtype=np.int64)
    return Rows(hands, spots[:, :, 0], spots[:, :, 1], spots[:, :, 2], *efforts.T)


def _places(note: Wanted, instrument: Instrument) -> list[tuple[int, int]]:
    """The places of a note: its pin, else every one; an open string can't be bent."""
    if note.string is not None and note.fret is not None:
        return (
            [(note.string, note.fret)] if instrument.sounds(note.string, note.fret, note.pitch, note.harmonic) else []
        )
    pairs = [(s, f) for s, f in candidates(note.pitch, instrument, note.harmonic) if note.string in (None, s)]
    stopped = [(s, f) for s, f in pairs if not instrument.is_open(f)]
    return stopped if note.bent and stopped else pairs


def _on_own_strings(choices: Sequence[Sequence[tuple[int, int]]]) -> Iterator[tuple[tuple[int, int], ...]]:
    """Every choice of one place a note, no two on a string."""
    if not choices:
        yield ()
        return
    for rest in _on_own_strings(choices[1:]):
        for place in choices[0]:
            if all(place[0] != string for string, _ in rest):
                yield (place, *rest)


def _fingers(
    places: Sequence[tuple[int, int]], position: int, instrument: Instrument, stretched: bool
) -> Iterator[tuple[int, ...]]:
    """Fingers for places from a position: each on its fret; of several at a fret, one finger or a row of them."""
    stopped = {fret for _, fret in places if not instrument.is_open(fret)}
    if stretched and len(stopped) == 1 and (stop := min(stopped)) - position in _STRETCHES:
        finger = _STRETCHES[stop - position]
        yield tuple(0 if instrument.is_open(fret) else finger for _, fret in places)
    by_fret: dict[int, list[int]] = {}
    for i, (_, fret) in enumerate(places):
        if not instrument.is_open(fret):
            by_fret.setdefault(fret, []).append(i)
    if any(fret - position not in _OFFSETS for fret in by_fret):
        return
    natural = {fret: min(max(fret - position + 1, 1), 4) for fret in by_fret}
    for spread in (False, True):
        fingers = [0] * len(places)
        highest = 0
        for fret in sorted(by_fret):
            members = sorted(by_fret[fret], key=lambda i: -places[i][0])  # the thickest string first
            first = max(natural[fret], highest + 1)
            for k, i in enumerate(members):
                fingers[i] = first + k * spread
            highest = max(fingers[i] for i in members)
        if highest <= 4:
            yield tuple(fingers)
        if all(len(members) == 1 for members in by_fret.values()):
            return


def _effort(
    places: Sequence[tuple[int, int]], fingers: Sequence[int], position: int, instrument: Instrument
) -> tuple[float, float, float, float] | None:
    """How hard a state is on the hand: reach and strain in cm, fingers out of place, barred strings.

    None where fingers would lie further apart than they can. The index finger's place at the position counts too.
    """
    held = {finger: fret for (_, fret), finger in zip(places, fingers, strict=True) if finger}
    out = sum(
        fret - position + 1 != finger and _STRETCHES.get(fret - position) != finger for finger, fret in held.items()
    )
    barred = sum(finger > 0 for finger in fingers) - len(held)
    stance = {1: position} | held if held else {}
    reach = strain = 0.0
    for (low, high), spans in REACHES.items():
        if low in stance and high in stance:
            apart = reach_mm(stance[low], stance[high], instrument.scale_mm)
            if apart > spans.most_mm:
                return None
            reach = max(reach, apart - spans.ease_mm)
            strain = max(strain, apart - spans.comfort_mm)
    return reach / 10, strain / 10, float(out), float(barred)
