"""A source for every note by a global best path, under one school of thought.

A school proposes sources for each chord; the path through them leaves the fewest notes unexplained, then changes
source the fewest times, and prefers what the school weighs less (dynamic programming over the notes, exact). A change
is paid where the line makes it: one that follows its chord is paid lightly. A source may begin before its chord or
outlast it, where the school says so and the notes ask for it, and then holds up to the change, or from it on.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from eager_owl.reasons.context import Context, Moment
from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, source
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES

UNEXPLAINED_COST = 10.0
# A change of source: to one that follows its chord, at the change; to one that does not; and from one of a chord's
# scales to another while the chord stays, which one strange note alone does not buy.
FOLLOWING_COST, SWITCH_COST, LEAVING_COST = 0.75, 4.5, 9.0
_AT_CHANGE_BONUS = 0.1  # where a change may fall here or there, it falls where the chord changes
# Beginning before the chord, and outlasting it.
_AHEAD_COST, _BEHIND_COST = 1.0, 1.5
_AHEAD_BEATS, _BEHIND_BEATS = 4.0, 2.0
_LED_COST = 0.1  # for each note of it
_NEVER = 200.0
_LED_PITCHES = 2
_CHROMATIC_COST = 4.0
_CHROMATIC_RUN = 4  # notes by half steps one way
_CHROMATIC = source(0, "chromatic", FLAT_NAMES, _CHROMATIC_COST)


@dataclass(frozen=True)
class Choice:
    """The source of a note. `lead` is 1 where it begins before its chord, -1 where it outlasts it."""

    source: Source
    lead: int
    explains: bool


@dataclass(frozen=True)
class _Choices:
    """What a note may come from, with what each costs to begin with; `chord` is what they were made for."""

    sources: tuple[Source, ...]
    leads: NDArray[np.intp]
    entry: NDArray[np.float64]

    @cached_property
    def each(self) -> NDArray[np.intp]:
        """The indices of all."""
        return np.arange(len(self.sources))


_Wanted = tuple[Chord | None, Chord | None, Chord | None, bool, Source | None]


def best_path(
    context: Context,
    key: Key | None,
    school: ReasonSchool,
    excused: Sequence[float | None],
    own: Sequence[Source | None],
) -> list[Choice | None]:
    """The source of each note; None where the school has nothing to say.

    `excused` notes need not be explained, at the cost given; `own` are the player's choices, None where the school is
    free. A source is ahead of its chord, or behind it, only where two pitches and more say so. A chord that comes
    again keeps its source, if one explains the notes of both.
    """
    everywhere = [1] * len(context.moments) if school.looks_ahead else []
    held = _poorly_led(context, key, school, everywhere)
    while True:
        path = _path(context, key, school, excused, own, held)
        doubtful = _poorly_led(context, key, school, [choice.lead if choice else 0 for choice in path])
        if not doubtful - held:
            return _settled(context, path, own)
        held |= doubtful


def _settled(context: Context, path: Sequence[Choice | None], own: Sequence[Source | None]) -> list[Choice | None]:
    """The path with one source for a chord wherever it comes, if one of those chosen explains all its notes."""
    chosen: dict[Chord, dict[int, Choice]] = {}
    for i, (moment, choice) in enumerate(zip(context.moments, path, strict=True)):
        if choice is not None and choice.source.follows_chord and own[i] is None and moment.span is not None:
            chord = context.spans[moment.span + choice.lead].chord
            if chord is not None:
                chosen.setdefault(chord, {})[i] = choice
    settled = list(path)
    for choices in chosen.values():
        landed = [context.moments[i] for i, choice in choices.items() if choice.explains]
        for one, _ in Counter(choice.source for choice in choices.values()).most_common():
            if all(one.explains(moment.fretted, moment.landed) for moment in landed):
                for i, choice in choices.items():
                    moment = context.moments[i]
                    settled[i] = Choice(one, choice.lead, one.explains(moment.fretted, moment.landed))
                break
    return settled


def _poorly_led(context: Context, key: Key | None, school: ReasonSchool, leads: Sequence[int]) -> frozenset[int]:
    """The spans of led notes of which fewer than two pitches are strange to the chord's own likeliest source."""
    strange: dict[int, set[int]] = {}
    for moment, lead in zip(context.moments, leads, strict=False):
        if lead == 0 or moment.span is None:
            continue
        pitches = strange.setdefault(moment.span, set())
        likeliest = _choices((moment.chord, None, None, False, None), key, school).sources[:1]
        if not any(plain.explains(moment.fretted, moment.landed) for plain in likeliest):
            pitches.add(moment.landed % 12)
    return frozenset(span for span, pitches in strange.items() if len(pitches) < _LED_PITCHES)


def _path(
    context: Context,
    key: Key | None,
    school: ReasonSchool,
    excused: Sequence[float | None],
    own: Sequence[Source | None],
    held: frozenset[int],
) -> list[Choice | None]:
    """The best path with no source ahead or behind in the spans `held`; notes without sources part it."""
    runs = _chromatic_runs(context.moments)
    wanted = [_wanted(context, i, school, runs[i], own[i], held) for i in range(len(context.moments))]
    # Each kind of choice by a number: the same ones come again and again, and a number is quick to look up.
    kinds = {asked: number for number, asked in enumerate(dict.fromkeys(wanted))}
    numbers = [kinds[asked] for asked in wanted]
    choices = [_choices(asked, key, school) for asked in kinds]
    asked_by = list(kinds)
    turns: dict[tuple[int, int, int], NDArray[np.float64]] = {}

    def turn(before: int, after: int, apart: int) -> NDArray[np.float64]:
        if (before, after, apart) not in turns:
            turns[before, after, apart] = _turn_costs(asked_by[before], asked_by[after], key, school, apart)
        return turns[before, after, apart]

    found: list[Choice | None] = [None] * len(wanted)
    start = 0
    for speaks, group in groupby(numbers, key=lambda number: bool(choices[number].sources)):
        members = range(start, start + len(list(group)))
        start = members.stop
        if not speaks:
            continue
        explained, prices = [], []
        for i in members:
            moment = context.moments[i]
            fits, misses, borrowed = _fits(wanted[i], key, school, moment.fretted, moment.landed)
            forgiven = excused[i]
            explained.append(fits)
            prices.append((UNEXPLAINED_COST if forgiven is None else forgiven) * misses + borrowed)
        first = choices[numbers[members.start]]
        costs = first.entry + (SWITCH_COST + _AHEAD_COST + _LED_COST) * (first.leads != 0)
        backs: list[NDArray[np.intp]] = []
        for at, i in enumerate(members):
            if at:
                apart = _apart(context.moments[i - 1], context.moments[i])
                through = turn(numbers[i - 1], numbers[i], apart) + costs
                back = through.argmin(axis=1)
                backs.append(back)
                costs = through[choices[numbers[i]].each, back]
            costs = costs + prices[at]
        best = int(costs.argmin())
        for at in range(len(members) - 1, -1, -1):
            i = members[at]
            kind = choices[numbers[i]]
            found[i] = Choice(kind.sources[best], int(kind.leads[best]), explained[at][best])
            best = int(backs[at - 1][best]) if at else best
    return found


def _wanted(
    context: Context, i: int, school: ReasonSchool, run: bool, own: Source | None, held: frozenset[int]
) -> _Wanted:
    """What the sources of a note are made for: its chord, the one it may look ahead to, the one that may last."""
    moment = context.moments[i]
    ahead = behind = None
    if school.looks_ahead and moment.span is not None and moment.span not in held:
        span = context.spans[moment.span]
        if span.end - moment.beat <= _AHEAD_BEATS:
            ahead = context.chord_after(moment.span)
        if moment.beat - span.start <= _BEHIND_BEATS:
            behind = context.chord_before(moment.span)
    return moment.chord, ahead, behind, run, own


@lru_cache(maxsize=2048)
def _choices(asked: _Wanted, key: Key | None, school: ReasonSchool) -> _Choices:
    chord, ahead, behind, run, own = asked
    if own is not None:
        return _Choices((own,), np.zeros(1, np.intp), np.zeros(1))
    found = [(s, 0) for s in school.sources(chord, key)]
    if found and run:
        found.append((_CHROMATIC, 0))
    for other, lead in ((ahead, 1), (behind, -1)):
        if other is not None:
            found += [(s, lead) for s in school.sources(other, key) if s.follows_chord]
    return _Choices(
        tuple(s for s, _ in found),
        np.array([lead for _, lead in found], dtype=np.intp),
        np.array([s.cost for s, _ in found], dtype=np.float64),
    )


@lru_cache(maxsize=16384)
def _fits(
    asked: _Wanted, key: Key | None, school: ReasonSchool, fretted: int, landed: int
) -> tuple[list[bool], NDArray[np.float64], NDArray[np.float64]]:
    """Which of the sources explain a note, 1 for each that does not, and what it costs those that borrow it."""
    sources = _choices(asked, key, school).sources
    fits = [s.explains(fretted, landed) for s in sources]
    borrowed = np.array([s.borrowing * s.borrows(landed) for s in sources], dtype=np.float64)
    return fits, np.logical_not(fits).astype(np.float64), borrowed


def _apart(before: Moment, moment: Moment) -> int:
    """How many spans lie between two notes: 0 within one, 1 over a change, 2 for more."""
    if before.span is None or moment.span is None:
        return 0 if before.span == moment.span else 2
    return min(moment.span - before.span, 2)


@lru_cache(maxsize=8192)
def _turn_costs(
    asked_before: _Wanted, asked_after: _Wanted, key: Key | None, school: ReasonSchool, apart: int
) -> NDArray[np.float64]:
    """What it costs to go from each source to each, shape (after, before)."""
    before, after = _choices(asked_before, key, school), _choices(asked_after, key, school)
    numbers = {source: number for number, source in enumerate(dict.fromkeys((*before.sources, *after.sources)))}
    old, new = (np.array([numbers[s] for s in each.sources], dtype=np.intp) for each in (before, after))
    same = old[None, :] == new[:, None]
    old_lead, new_lead = before.leads[None, :], after.leads[:, None]
    follows = np.array([s.follows_chord for s in after.sources], dtype=np.bool_)[:, None]
    from_run = np.array([s == _CHROMATIC for s in before.sources], dtype=np.bool_)[None, :]
    welcome = (apart > 0) | (old_lead == -1) | from_run
    plain = np.where(
        follows, np.where(welcome, FOLLOWING_COST, LEAVING_COST), SWITCH_COST - _AT_CHANGE_BONUS * (apart > 0)
    )
    costs = np.where(same, 0.0, plain + after.entry[:, None])
    # What begins before its chord, and what outlasts it: it must have been there before the change.
    costs = np.where(new_lead == 1, SWITCH_COST + _AHEAD_COST + after.entry[:, None], costs)
    lasting = (_BEHIND_COST, old_lead == 0) if apart == 1 else (0.0, (old_lead == -1) & (apart == 0))
    costs = np.where(new_lead == -1, np.where(same & lasting[1], lasting[0], _NEVER), costs)
    # What is ahead must hold until its chord comes, and no longer.
    arrives = same & ((new_lead == 1) if apart == 0 else (new_lead == 0) & (apart == 1))
    costs = np.where(old_lead == 1, np.where(arrives, 0.0, _NEVER), costs)
    return np.asarray(costs + _LED_COST * (new_lead != 0), dtype=np.float64)


def _chromatic_runs(moments: Sequence[Moment]) -> list[bool]:
    """Which notes lie in a run of half steps one way."""
    in_run = [False] * len(moments)
    steps = [after.fretted - before.landed for before, after in pairwise(moments)]
    start = 0
    for step, group in groupby(steps):
        count = len(list(group))
        if abs(step) == 1 and count + 1 >= _CHROMATIC_RUN:
            in_run[start : start + count + 1] = [True] * (count + 1)
        start += count
    return in_run
