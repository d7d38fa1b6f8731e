"""The cheapest fingering of a phrase: exact dynamic programming over string, fret, finger and hand position.

A state is every note of a stroke with its string, fret and finger, and the fret where the hand stands. What a
state and a step between states cost is in `costs.Costs`; the path of least sum is found by forward recursion (R.
Bellman, 1957), so for n strokes of at most k states the work is n * k * k. S. Sayegh, "Fingering for string
instruments with the optimum path paradigm", Computer Music Journal 13(3), 1989, describes the approach. The
least sum through each state, from recursions both ways, gives the alternatives.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from eager_owl.neck.costs import Costs
from eager_owl.neck.habits import Home, homes
from eager_owl.neck.measures import (
    Lattice,
    Measure,
    build_lattice,
    finger_measures,
    finger_step_measures,
    home_measures,
    read_strokes,
    state_measures,
    step_measures,
)
from eager_owl.neck.states import Rows, playable, rows_for, wanted
from eager_owl.solo.document import Instrument, Note, struck_together
from eager_owl.theory.key import Key

_CHUNK = 64  # steps costed at once: enough for NumPy, little enough for memory
_CANDIDATES = 512  # alternatives looked at together
_DIFFERENT = 0.3  # an alternative differs from every other in this share of its notes
_NEVER = 1e9
# Where on the neck a place is says nothing of the finger that takes it.
_OF_PLACES = frozenset({"low_neck", "high_neck", "up_neck"})
BOX_FRETS = 5  # another box is another box, however far away


@dataclass(frozen=True)
class Place:
    """Where a note is played: string from 1, fret, finger (0 open, 1 to 4), and the hand's position."""

    string: int
    fret: int
    finger: int
    position: int


@dataclass(frozen=True)
class Fingering:
    """A place for each note (None where there is none), the total cost, and why notes were left out.

    `home` is the pitch class of the minor pentatonic root whose boxes the hand was taken to think in.
    """

    places: tuple[Place | None, ...]
    cost: float
    refusals: dict[int, str]
    home: int | None = None


@dataclass(frozen=True)
class Around:
    """What bears on a phrase from outside it, None where nothing does.

    `from_fret` is where the player wants the hand; `box` where it stands in a neighbouring phrase that the player put
    there, which pulls on what does not slide; `hand_before` and `hand_after` where it stands before the phrase and
    must be after it; `sounds` what the sound says against each string, as negative log-likelihood of shape (notes,
    strings); `beats` the notes' places on the beat grid.
    """

    from_fret: int | None = None
    hand_before: int | None = None
    hand_after: int | None = None
    sounds: NDArray[np.float64] | None = None
    box: int | None = None
    beats: Sequence[float] | None = None


@dataclass(frozen=True)
class _Problem:
    """The states of strokes, laid out, and what they cost under each home; why notes were left out."""

    rows: list[Rows]
    lattice: Lattice
    homes: list[Home]
    own: NDArray[np.float64]  # (homes, strokes, states)
    costs: Costs
    refusals: dict[int, str]
    settled: bool = False  # the places are, and only fingers are sought

    def steps(self, first: int, last: int) -> NDArray[np.float32]:
        """Costs of the steps into strokes first to last - 1, shape (steps, states before, states)."""
        lattice = self.lattice
        total = np.zeros((last - first, lattice.exists.shape[1], lattice.exists.shape[1]), dtype=np.float32)
        of_fingers = finger_step_measures(lattice, first, last) if self.settled else ()
        for name, measure in chain(step_measures(lattice, first, last), of_fingers):
            if weight := getattr(self.costs, name):
                total += np.float32(weight) * measure
        return total


def find_fingering(
    notes: Sequence[Note],
    instrument: Instrument,
    costs: Costs | None = None,
    key: Key | None = None,
    around: Around | None = None,
) -> Fingering:
    """The cheapest places for notes in order of onset. Pinned places and fingers are kept.

    A note off the neck, whose pins contradict each other, or that can't be played with what is struck at the same
    time, gets no place and a reason under its index.
    """
    problem = _pose(notes, instrument, costs or Costs(), key, around or Around())
    if problem is None:
        return Fingering((None,) * len(notes), 0.0, _refusals(notes, instrument))
    totals, backs = _forward(problem)
    home = int(totals[-1].min(axis=1).argmin())
    found = _read(problem, len(notes), _walk_back(backs, home, int(totals[-1][home].argmin())), home)
    return _with_fingers(found, notes, instrument, problem, (around or Around()).sounds)


def find_alternatives(
    notes: Sequence[Note],
    instrument: Instrument,
    costs: Costs | None = None,
    key: Key | None = None,
    count: int = 4,
    around: Around | None = None,
) -> list[Fingering]:
    """The cheapest fingerings, dearer ones later, that differ from each other in string and fret.

    Each is the best one through some place; it differs from every cheaper one in three notes of ten, or is left out.
    """
    problem = _pose(notes, instrument, costs or Costs(), key, around or Around())
    if problem is None:
        return []
    totals, backs = _forward(problem)
    home = int(totals[-1].min(axis=1).argmin())
    rests, nexts = _backward(problem, home)
    through = np.array([total[home] for total in totals]) + rests
    order = np.argsort(through, axis=None)[: int(problem.lattice.exists.sum())]
    spots = problem.lattice.string * np.int16(100) + problem.lattice.fret
    rows = np.arange(len(spots))
    chosen: list[NDArray[np.intp]] = []
    for first in range(0, len(order), _CANDIDATES):
        if len(chosen) == count:
            break
        strokes, states = np.divmod(order[first : first + _CANDIDATES], through.shape[1])
        paths = _paths(backs, nexts, home, strokes, states)
        places = spots[rows, paths]
        here = spots[strokes, states]
        left = np.ones(len(paths), bool)
        for path in chosen:
            left &= _differs(places, here, strokes, spots[rows, path])
        while left.any() and len(chosen) < count:
            best = int(left.argmax())
            chosen.append(paths[best])
            left &= _differs(places, here, strokes, places[best])
    found = [_read(problem, len(notes), path.tolist(), home) for path in chosen]
    sounds = (around or Around()).sounds
    return [_with_fingers(way, notes, instrument, problem, sounds) for way in found]


def _with_fingers(
    found: Fingering,
    notes: Sequence[Note],
    instrument: Instrument,
    problem: _Problem,
    sounds: NDArray[np.float64] | None,
) -> Fingering:
    """The same places with the fingers a hand takes them with, which may go a fret further than their own.

    Places are settled first, with a finger a fret: so there are fewer states, and a finger decides no place.
    """
    settled = [
        None if place is None else replace(wanted(note), string=place.string, fret=place.fret)
        for note, place in zip(notes, found.places, strict=True)
    ]
    rows = [
        rows_for(tuple(asked for i in stroke if (asked := settled[i])), instrument, stretched=True)
        for stroke in problem.lattice.members
    ]
    lattice = build_lattice(problem.lattice, rows, sounds)
    measures = chain(state_measures(lattice), finger_measures(lattice))
    own = _added(problem.costs, (each for each in measures if each[0] not in _OF_PLACES), lattice)
    fingers = replace(problem, rows=rows, lattice=lattice, own=own[None], settled=True)
    totals, backs = _forward(fingers)
    path = _walk_back(backs, 0, int(totals[-1][0].argmin()))
    return replace(found, places=_places(fingers, len(notes), path))


def _added(costs: Costs, measures: Iterable[Measure], lattice: Lattice) -> NDArray[np.float64]:
    """What states cost by these measures, shape (strokes, states)."""
    own = np.where(lattice.exists, 0.0, _NEVER)
    for name, measure in measures:
        if weight := getattr(costs, name):
            own += weight * measure
    return own


def _differs(
    places: NDArray[np.int16], here: NDArray[np.int16], strokes: NDArray[np.intp], other: NDArray[np.int16]
) -> NDArray[np.bool_]:
    """Which paths are another way than `other`: enough places differ, and the one they were sought through does."""
    enough: NDArray[np.bool_] = (places != other).mean(axis=1) >= _DIFFERENT
    through: NDArray[np.bool_] = here != other[strokes]
    return enough & through


def with_places(notes: Sequence[Note], fingering: Fingering) -> list[Note]:
    """The notes with string, fret and finger filled in."""
    placed = []
    for note, place in zip(notes, fingering.places, strict=True):
        if place is None:
            placed.append(replace(note, string=None, fret=None, finger=None))
        else:
            placed.append(replace(note, string=place.string, fret=place.fret, finger=place.finger))
    return placed


def _refusals(notes: Sequence[Note], instrument: Instrument) -> dict[int, str]:
    refusals: dict[int, str] = {}
    for stroke in struck_together(notes):
        playable(notes, stroke, instrument, refusals)
    return refusals


def _pose(
    notes: Sequence[Note], instrument: Instrument, costs: Costs, key: Key | None, around: Around
) -> _Problem | None:
    """Lay out what there is to choose from; None where no note can be played."""
    refusals: dict[int, str] = {}
    found = [playable(notes, stroke, instrument, refusals) for stroke in struck_together(notes)]
    kept = [stroke for stroke in found if stroke is not None]
    if not kept:
        return None
    indices, rows = [stroke for stroke, _ in kept], [rows for _, rows in kept]
    lattice = build_lattice(read_strokes(notes, indices, instrument, around.beats), rows, around.sounds)
    own = _added(costs, state_measures(lattice), lattice)
    if around.from_fret is not None:
        own += costs.from_fret * np.abs(lattice.position - around.from_fret) * (lattice.stopped > 0)
    if around.box is not None:
        away = np.minimum(np.abs(lattice.position - around.box), BOX_FRETS) * (1 - lattice.slides[:, None])
        own += costs.from_box * away * (lattice.stopped > 0)
    for stroke, hand in ((0, around.hand_before), (-1, around.hand_after)):
        if hand is not None:
            way = np.abs(lattice.position[stroke] - hand)
            own[stroke] += costs.rest_shift * (way > 0) + costs.rest_fret * way
    likely = homes([notes[i] for stroke in indices for i in stroke], key) if any(costs.home) else [Home(0, 0.0)]
    weights = np.asarray(costs.home)
    layers = []
    for home in likely:
        above, measures = home_measures(lattice, home, instrument)
        layer = weights[above] + sum(getattr(costs, name) * measure for name, measure in measures)
        layers.append(own + layer * (lattice.stopped > 0) + home.cost * (np.arange(len(own)) == 0)[:, None])
    return _Problem(rows, lattice, likely, np.array(layers), costs, refusals)


def _forward(problem: _Problem) -> tuple[list[NDArray[np.float64]], list[NDArray[np.intp]]]:
    """Least costs up to each state, shape (homes, states) a stroke, and the state before on the way there."""
    own = problem.own
    totals, backs = [own[:, 0]], list[NDArray[np.intp]]()
    count = own.shape[1]
    for first in range(1, count, _CHUNK):
        last = min(first + _CHUNK, count)
        for i, step in enumerate(problem.steps(first, last), first):
            through = totals[-1][:, :, None] + step
            back = through.argmin(axis=1)
            backs.append(back)
            totals.append(through.min(axis=1) + own[:, i])
    return totals, backs


def _backward(problem: _Problem, home: int) -> tuple[NDArray[np.float64], list[NDArray[np.intp]]]:
    """Least costs from each state to the end under one home, its own not counted, and the state after it."""
    own = problem.own[home]
    count = len(own)
    rests, nexts = np.zeros_like(own), list[NDArray[np.intp]]()
    for last in range(count, 1, -_CHUNK):
        first = max(last - _CHUNK, 1)
        steps = problem.steps(first, last)
        for i in range(last - 1, first - 1, -1):
            onward = steps[i - first] + (own[i] + rests[i])[None, :]
            nexts.append(onward.argmin(axis=1))
            rests[i - 1] = onward.min(axis=1)
    return rests, nexts[::-1]


def _walk_back(backs: Sequence[NDArray[np.intp]], home: int, state: int) -> list[int]:
    path = [state]
    for back in reversed(backs):
        path.append(int(back[home, path[-1]]))
    return path[::-1]


def _paths(
    backs: Sequence[NDArray[np.intp]],
    nexts: Sequence[NDArray[np.intp]],
    home: int,
    strokes: NDArray[np.intp],
    states: NDArray[np.intp],
) -> NDArray[np.intp]:
    """The cheapest path through each of these states of these strokes, shape (states, strokes)."""
    paths = np.empty((len(strokes), len(backs) + 1), np.intp)
    paths[np.arange(len(strokes)), strokes] = states
    for stroke in range(len(backs) - 1, -1, -1):
        rows = strokes > stroke
        paths[rows, stroke] = backs[stroke][home, paths[rows, stroke + 1]]
    for stroke, following in enumerate(nexts):
        rows = strokes <= stroke
        paths[rows, stroke + 1] = following[paths[rows, stroke]]
    return paths


def _read(problem: _Problem, count: int, path: Sequence[int], home: int) -> Fingering:
    """The path of states as places of the notes, with its cost."""
    cost = float(sum(problem.own[home, i, state] for i, state in enumerate(path)))
    lattice = problem.lattice.along(path)
    for name, measure in step_measures(lattice, 1, len(path)):
        cost += getattr(problem.costs, name) * float(measure.sum())
    return Fingering(_places(problem, count, path), cost, problem.refusals, problem.homes[home].root)


def _places(problem: _Problem, count: int, path: Sequence[int]) -> tuple[Place | None, ...]:
    """Where a path of states has the notes; None for those that no stroke holds."""
    places: list[Place | None] = [None] * count
    for stroke, rows, state in zip(problem.lattice.members, problem.rows, path, strict=True):
        position = int(rows.position[state])
        for column, index in enumerate(stroke):
            string, fret, finger = (int(each[state, column]) for each in (rows.strings, rows.frets, rows.fingers))
            places[index] = Place(string, fret, finger, position)
    return tuple(places)
