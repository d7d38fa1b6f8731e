"""Where each note comes from and what it does: intervals, a source for every span, roles, events, by any school."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Literal

from eager_owl.reasons.context import Context, Moment, find_context
from eager_owl.reasons.events import Event, find_events
from eager_owl.reasons.length import story_bits
from eager_owl.reasons.path import Choice, best_path
from eager_owl.reasons.roles import ORNAMENTS, ROLES, Role, find_roles, is_chromatic, is_short
from eager_owl.reasons.schools import ReasonSchool, reason_schools
from eager_owl.reasons.sources import Source, arpeggio, homes_of, parse_source
from eager_owl.reasons.spelling import interval_in_chord, interval_in_key
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key

Standing = Literal["in", "borrowed", "detour", "outside", "unpitched"]
# The school whose sources say where the line is ahead of its chord, for the events all schools share.
_CHORD_SCHOOL = "chord-by-chord"
# What a note beside its span's source costs the path, where it needs none of its own.
DETOUR_COST, BLUE_COST = 0.8, 0.4


@dataclass(frozen=True)
class Reason:
    """Where one note comes from. Intervals are plain ("b3"); None where there is no key or chord.

    `source` is that of the note's span, None where the school has none; `standing` says whether the note is in it,
    borrowed from the chord of the moment, beside it (a blue note, or one that leads into the next) or outside, or has
    no pitch. `own_name` says what the note itself is from, where that is not the source. `lands_key` and
    `lands_chord` are the intervals a bent note arrives at. `lead` is 1 where the span begins before its chord, -1
    where it outlasts it.
    """

    chord: Chord | None
    interval_key: str | None
    interval_chord: str | None
    source: Source | None
    standing: Standing
    role: Role
    lands_key: str | None = None
    lands_chord: str | None = None
    lead: int = 0
    own_name: str = ""

    @property
    def role_name(self) -> str | None:
        """What the note does; None where neither key nor chord says."""
        return None if self.role == "unknown" else self.role

    @property
    def source_name(self) -> str | None:
        """What the note itself is from; None for one that is outside."""
        return (self.own_name or (self.source.name if self.source and self.standing == "in" else "")) or None


@dataclass(frozen=True)
class Explanation:
    """Reasons note by note under a school, with how many notes are unexplained, how often the source changes, and how

    long the story is in bits.
    """

    school: str
    reasons: tuple[Reason, ...]
    unexplained: int
    switches: int
    bits: float


@dataclass(frozen=True)
class Reading:
    """What all schools agree on: where each note stands, what it does, and what happens in the line.

    `leads` says of each note whether it already plays the next chord (1) or still the last one (-1); its role is what
    it does on that.
    """

    context: Context
    roles: tuple[Role, ...]
    leads: tuple[int, ...]
    events: tuple[Event, ...]


def read_line(notes: Sequence[Note], key: Key | None, chart: Chart, grid: BeatGrid | None) -> Reading:
    """Read notes, in order of onset, against their chords. Without a grid or chart only the key speaks."""
    context = find_context(notes, chart, grid)
    school = reason_schools()[_CHORD_SCHOOL]
    first = find_roles(context, key)
    path = best_path(context, key, school, _excused(context.moments, first, key, school), [None] * len(notes))
    leads = [choice.lead if choice else 0 for choice in path]
    # What is ahead of its chord plays in the next one.
    played = [_led(context, moment, lead) for moment, lead in zip(context.moments, leads, strict=True)]
    proposed = find_roles(replace(context, moments=tuple(played)), key) if any(leads) else first
    roles = [note.role if note.role in ROLES else role for note, role in zip(notes, proposed, strict=True)]
    return Reading(context, tuple(roles), tuple(leads), tuple(find_events(notes, context, roles, leads, key)))


def _led(context: Context, moment: Moment, lead: int) -> Moment:
    """The moment over the chord that its source is of."""
    if lead == 0 or moment.span is None:
        return moment
    return replace(moment, chord=context.chord_after(moment.span) if lead == 1 else context.chord_before(moment.span))


def explain(
    notes: Sequence[Note],
    key: Key | None,
    chart: Chart,
    grid: BeatGrid | None,
    school: ReasonSchool,
    reading: Reading | None = None,
) -> Explanation:
    """Explain notes in order of onset under a school; `reading` saves reading the line again."""
    if reading is None:
        reading = read_line(notes, key, chart, grid)
    context, roles = reading.context, reading.roles
    own = [_own_source(note) for note in notes]
    excused = _excused(context.moments, roles, key, school)
    path = best_path(context, key, school, excused, own)
    reasons = []
    for i, (moment, role, choice) in enumerate(zip(context.moments, roles, path, strict=True)):
        source = choice.source if choice else None
        bent, chord = moment.landed != moment.fretted, moment.chord
        named = source if choice and choice.explains else None
        # A tension's name is the playing chord's; a bent note's role is that of where it lands.
        weighty = moment.stressed or not is_short(moment)
        landed_role: Role = "scale tone" if reading.leads[i] else role
        fretted_role: Role = "scale tone" if bent else landed_role
        reasons.append(
            Reason(
                chord,
                interval_in_key(moment.fretted, key, named) if key and not moment.muted else None,
                interval_in_chord(moment.fretted, chord, named, fretted_role, weighty)
                if chord and not moment.muted
                else None,
                source,
                "unpitched" if moment.muted else _standing(choice, moment, excused[i]),
                role,
                interval_in_key(moment.landed, key, named) if key and bent else None,
                interval_in_chord(moment.landed, chord, named, landed_role, weighty) if chord and bent else None,
                choice.lead if choice else 0,
            )
        )
    reasons = [_with_own_name(reason, moment, key) for reason, moment in zip(reasons, context.moments, strict=True)]
    spans = [source for source, _ in groupby(reason.source for reason in reasons if reason.standing == "in")]
    unexplained = sum(reason.standing == "outside" for reason in reasons)
    return Explanation(
        school.name, tuple(reasons), unexplained, max(len(spans) - 1, 0), round(story_bits(reasons, key), 2)
    )


def _with_own_name(reason: Reason, moment: Moment, key: Key | None) -> Reason:
    """The reason with what a note that its source does not hold is from instead."""
    if reason.standing == "borrowed" and reason.source is not None and reason.source.plus is not None:
        chord = reason.source.plus
        return replace(reason, own_name=arpeggio(chord, chord.names).name)
    if reason.standing == "detour":
        if reason.role == "blue note":
            return replace(reason, own_name="blue note")
        homes = homes_of(key) if key is not None else []
        held = (home.name for home in homes if home.holds(moment.landed))
        return replace(reason, own_name=next(held, "chromatic"))
    return reason


def explain_by_all(
    notes: Sequence[Note], key: Key | None, chart: Chart, grid: BeatGrid | None, reading: Reading | None = None
) -> list[Explanation]:
    """The notes under every school, the shortest honest story first."""
    reading = reading or read_line(notes, key, chart, grid)
    told = [explain(notes, key, chart, grid, school, reading) for school in reason_schools().values()]
    return shortest_first(told)


def shortest_first(told: Iterable[Explanation]) -> list[Explanation]:
    """Stories by how long they are (see `length`)."""
    return sorted(told, key=lambda each: each.bits)


def _own_source(note: Note) -> Source | None:
    """The source that the player gave a note, if it can be read."""
    try:
        return parse_source(note.source) if note.source else None
    except ValueError:
        return None


def _excused(
    moments: Sequence[Moment], roles: Sequence[Role], key: Key | None, school: ReasonSchool
) -> list[float | None]:
    """What it costs to leave a note without a source; None where it needs one.

    Approaches need none, nor other ornaments from outside key and chord, nor any where detours are welcome, nor blue
    notes.
    """
    return [
        0.0
        if moment.muted
        else BLUE_COST
        if role == "blue note"
        else DETOUR_COST
        if role in ORNAMENTS and (school.detours or role.startswith("approach") or is_chromatic(moment, key))
        else None
        for moment, role in zip(moments, roles, strict=True)
    ]


def _standing(choice: Choice | None, moment: Moment, excused: float | None) -> Standing:
    if choice is not None and choice.explains:
        return "borrowed" if choice.source.borrows(moment.landed) else "in"
    return "detour" if excused is not None and choice is not None else "outside"
