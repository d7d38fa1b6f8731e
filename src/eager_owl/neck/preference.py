"""What a player's own hand likes, learned from the places they put right: the table of costs leaning a few ways.

A handful of traits, each a direction in the table (low on the neck, open strings, along the strings, ...), is all
that a few corrected phrases can tell apart. A hand leans a way where that puts right what the table has wrong, in
more phrases than one, and by so much that chance is no reason: forward selection, a step of one trait at a time, by
the notes that come out as the player has them.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eager_owl.neck.costs import ROWS, Costs
from eager_owl.neck.fingering import find_fingering
from eager_owl.neck.schools import placing_schools
from eager_owl.solo.document import Instrument, Note
from eager_owl.theory.key import Key

# How far a trait is leant to at once; of the notes that are wrong still, the share that a step must put right, and
# how many notes at least, in how many phrases.
_STEPS = (0.35, 1.0)
_SHARE_RIGHT, _LEAST_RIGHT, _SHARE_PHRASES, _LEAST_PHRASES = 0.2, 3, 0.4, 2
_MOST_TRAITS = 3
_ROW_NAMES = (*ROWS, *(f"home {i}" for i in range(12)))


@dataclass(frozen=True)
class Trait:
    """A way to lean: what it adds to rows; how far it may be gone, from `least` to 1; in words, either way."""

    rows: Mapping[str, float]
    least: float
    words: str
    other: str = ""


@cache
def traits() -> dict[str, Trait]:
    """All traits by name."""
    return {
        "low": Trait({"up_neck": 0.35}, -1.0, "you go low on the neck", "you go high on the neck"),
        "little finger": Trait(
            {"little_outside_run": -1.5, "ring_at_three": 2.5, "middle_at_two": 1.5}, 0.0, "you use the little finger"
        ),
        "three fingers": Trait(
            {"little_finger": 4.0, "little_outside_run": 2.0}, 0.0, "you seldom use the little finger"
        ),
        "open strings": Trait(
            {"open_string": -9.5, "open_low": -1.0, "open_pointed_at": -1.0, "open_shift": -1.2, "open_fret": -1.8},
            -0.5,
            "you like open strings",
            "you keep off open strings",
        ),
        "along": Trait(
            {
                "string_change": 2.5,
                "glide": -1.6,
                "glide_fret": -1.4,
                "shift": -0.2,
                "shift_fret": -0.35,
                "hurry_fret": -0.6,
            },
            0.0,
            "you go along the strings",
        ),
        "position": Trait(_towards("one-position"), 0.0, "you stay in one position"),
        "three a string": Trait(_towards("three-a-string"), 0.0, "you play three notes a string"),
        "root cell": Trait(_towards("root-cell"), 0.0, "you play from root to root"),
    }


# How many fingers a hand plays with, and what that changes in the table.
FINGERS: dict[str, dict[str, float]] = {
    "three fingers": {},
    "a finger a fret": {"little_outside_run": 0.0, "ring_at_three": 2.2, "middle_at_two": 2.2},
}


@dataclass(frozen=True)
class Hand:
    """A player's hand: how many fingers it plays with, by name, and how far it leans by each trait."""

    fingers: str = "three fingers"
    leaning: tuple[tuple[str, float], ...] = ()

    def costs(self, table: Costs) -> Costs:
        """A table of costs as this hand has it."""
        return lean(with_fingers(table, self.fingers), dict(self.leaning))


@dataclass(frozen=True)
class Lesson:
    """A phrase as a player has it, with places for all its notes, and fingers where they are the player's own."""

    notes: tuple[Note, ...]
    instrument: Instrument
    key: Key | None


def with_fingers(table: Costs, fingers: str) -> Costs:
    """A table of costs for a hand that plays with so many fingers, by name."""
    rows: dict[str, Any] = dict(FINGERS.get(fingers, {}))
    return replace(table, **rows)


def learn(
    lessons: Sequence[Lesson], fingers: str = "", cancelled: Callable[[], bool] = lambda: False
) -> dict[str, float]:
    """How far the hand leans by each trait, from phrases that the player has put right; empty where it does not.

    It leans from the table of a hand that plays with so many `fingers`, by name.
    Takes some ten milliseconds for each phrase, trait and step; what was learned until `cancelled` is answered.
    """
    leaning: dict[str, float] = {}
    table = with_fingers(Costs(), fingers)
    wrong = [_wrong(lesson, table) for lesson in lessons]
    for _ in range(_MOST_TRAITS):
        best, best_wrong = leaning, wrong
        for name, trait in traits().items():
            for step in (*_STEPS, *(-step for step in _STEPS)):
                if name in leaning or step < trait.least or cancelled():
                    continue
                tried = {**leaning, name: step}
                now = _wrong_by(lessons, lean(table, tried), wrong, sum(best_wrong))
                if now is not None:
                    best, best_wrong = tried, now
        righted = sum(wrong) - sum(best_wrong)
        phrases = sum(after < before for before, after in zip(wrong, best_wrong, strict=True))
        enough = max(_SHARE_PHRASES * sum(count > 0 for count in wrong), _LEAST_PHRASES)
        if righted < max(_SHARE_RIGHT * sum(wrong), _LEAST_RIGHT) or phrases < enough:
            break
        leaning, wrong = best, best_wrong
    return leaning


def _wrong_by(lessons: Sequence[Lesson], costs: Costs, before: Sequence[int], fewer_than: int) -> list[int] | None:
    """How many notes of each lesson a table has wrong, if fewer than so many; those wrong before come first."""
    found = [0] * len(lessons)
    for i in sorted(range(len(lessons)), key=lambda i: -before[i]):
        found[i] = _wrong(lessons[i], costs)
        if sum(found) >= fewer_than:
            return None
    return found


def lean(costs: Costs, leaning: Mapping[str, float]) -> Costs:
    """A table of costs with what a player's hand likes added; traits of other versions of the program say nothing."""
    rows = _weights(costs)
    for name, far in leaning.items():
        if name in _directions():
            rows += min(max(far, -1.0), 1.0) * _directions()[name]
    named = dict(zip(ROWS, rows[: len(ROWS)].tolist(), strict=True))
    return replace(costs, **named, home=tuple(rows[len(ROWS) :].tolist()))


def leaning_words(leaning: Mapping[str, float]) -> str:
    """What a hand likes, in words, what it likes most first; empty where nothing is known."""
    told = sorted(((abs(far), name, far) for name, far in leaning.items() if far), reverse=True)
    words = (traits()[name].words if far > 0 else traits()[name].other for _, name, far in told if name in traits())
    return ", ".join(said for said in words if said)


def _towards(school: str) -> dict[str, float]:
    """How a school's table differs from the default's."""
    step = _weights(placing_schools()[school].costs) - _weights(Costs())
    return {name: float(far) for name, far in zip(_ROW_NAMES, step, strict=True) if far}


def _weights(costs: Costs) -> NDArray[np.float64]:
    return np.array([getattr(costs, name) for name in ROWS] + list(costs.home))


@cache
def _directions() -> dict[str, NDArray[np.float64]]:
    return {name: np.array([trait.rows.get(row, 0.0) for row in _ROW_NAMES]) for name, trait in traits().items()}


def _wrong(lesson: Lesson, costs: Costs) -> int:
    """How many notes would be put elsewhere than the player has them, or taken with another finger."""
    free = [replace(n, string=None, fret=None, finger=None, pins=n.pins - {"place", "finger"}) for n in lesson.notes]
    places = find_fingering(free, lesson.instrument, costs, lesson.key).places
    return sum(
        place is None
        or (place.string, place.fret) != (note.string, note.fret)
        or note.finger not in (None, place.finger)
        for place, note in zip(places, lesson.notes, strict=True)
    )
