"""What happens in a line against its chords: resolutions, targets, anticipations, enclosures, sequences and the like.

Each finder is a plain function; indices are of the notes as given. Guide tones, targets and enclosures are meant as
in common jazz teaching: a third or seventh that moves by step into a tone of the next chord, a chord tone met at its
change, a tone approached from above and below.
"""

from collections.abc import Sequence, Set
from dataclasses import dataclass, replace
from itertools import groupby, pairwise
from typing import Literal

from eager_owl.reasons.colours import colour_of, in_key
from eager_owl.reasons.context import HELD_BEATS, Context, Moment, neighbours
from eager_owl.reasons.progressions import (
    find_cells,
    find_pickup,
    find_progressions,
    find_side_slips,
    find_upper_structures,
)
from eager_owl.reasons.roles import ORNAMENTS, Role, find_enclosures, find_suspensions, is_at_home
from eager_owl.reasons.sequences import Run, find_sequences, is_straight
from eager_owl.solo.document import Note
from eager_owl.solo.figures import find_returns
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key
from eager_owl.theory.scale import SCALES

EventKind = Literal[
    "guide tone", "target", "anticipation", "delay", "pivot", "sequence", "repeat", "enclosure", "approach",
    "common tone", "octave displacement", "minor to major", "outside, then inside", "progression", "cell",
    "upper structure", "pickup", "side slip",
]  # fmt: skip

_GUIDE_TONES = ("3", "b3", "7", "b7", "bb7")
# A note this near a change is on it; the note before a change is no further from it than this.
_AT_CHANGE_BEATS, _BEFORE_CHANGE_BEATS = 0.55, 2.5
_THROUGH_BEATS = 2.1  # how long ornaments may keep a guide tone from where it goes
_PIVOT_TIMES = 3
# A figure has so many pitches, and so many notes if one of them is to have changed.
_FIGURE_PITCHES, _CHANGED_FIGURE = 3, 6


@dataclass(frozen=True)
class Event:
    """One thing that happens. `notes` are indices in order; `chords`, `intervals` and `semitones` are its facts.

    For a guide tone, target and common tone: the chords before and after and the intervals there. For an
    anticipation or delay: the chord whose sound it is; for one note that hangs over, as for a guide tone. For
    sequences and repeats: how far each turn moves, `turns`, the indices of the notes `changed`, and whether the turns
    move `even`ly or by the steps of a scale; of the key's, if `key` is given, by so many `degrees`. For an enclosure
    and pivot: the chord of the tone they are around and its interval there. For an approach and displacement: the
    step taken. For a progression and an upper structure: what it is called by `name`; for a cell its chord and
    intervals; for a pickup the chord that it leads to.
    """

    kind: EventKind
    notes: tuple[int, ...]
    chords: tuple[Chord, ...] = ()
    intervals: tuple[str, ...] = ()
    semitones: int = 0
    turns: int = 0
    changed: tuple[int, ...] = ()
    even: bool = True
    degrees: int = 0
    key: Key | None = None
    name: str = ""


def find_events(
    notes: Sequence[Note], context: Context, roles: Sequence[Role], leads: Sequence[int], key: Key | None
) -> list[Event]:
    """All events, by their first note. `leads` says of each note whether its source is ahead of its chord (1) or
    behind it (-1)."""
    moments = context.moments
    sequences = find_sequences(moments)
    suspended = find_suspensions(context)
    pivots = [pivot for pivot in _pivots(moments) if not any(s.tells(pivot.notes) for s in sequences)]
    around_tones = [
        *(Event("enclosure", triple, *_tone(moments, triple[2:])) for triple in find_enclosures(moments, key)),
        *_approaches(moments, roles, {i for i, _, _ in suspended}),
    ]
    found = [
        *_changes(context, roles, {i for i, _, _ in suspended}),
        *_ahead_and_behind(context, leads, suspended),
        *(event for event in around_tones if not _of_a_pattern(event, sequences, moments, key)),
        *pivots,
        *(_sequence(s, moments, key) for s in sequences),
        *_repeats(notes, sequences),
        *(leap for leap in _displacements(moments) if not any(leap.notes[0] in pivot.notes for pivot in pivots)),
        *_minor_to_major(moments, roles, key),
        *_outside_then_inside(moments, roles, key),
        *(Event("progression", notes, name=words) for words, notes in find_progressions(context, key)),
        *_pickup(context),
        *(Event("side slip", run, semitones=shift) for run, shift in find_side_slips(moments, roles, key)),
        *(Event("cell", notes, (chord,), labels) for notes, chord, labels in find_cells(moments)),
        *(
            Event("upper structure", *told[:1], (told[1],), name=told[2])
            for told in find_upper_structures(moments, key)
        ),
    ]
    return sorted(found, key=lambda event: (event.notes[0], event.notes[-1]))


def _pickup(context: Context) -> list[Event]:
    found = find_pickup(context.moments, context.beats_per_bar)
    return [] if found is None else [Event("pickup", found[0], (found[1],))]


def _changes(context: Context, roles: Sequence[Role], suspended: Set[int]) -> list[Event]:
    """Guide tones resolved, targets met and common tones held where one chord follows another.

    Ornaments on either side of a change are looked through: the last tone of the chord before them, and the one that
    they lead to, are what moves.
    """
    moments = context.moments
    found: list[Event] = []
    for i in range(1, len(moments)):
        after = moments[i]
        if after.span is None or after.chord is None:
            continue
        before_index = _last_before(moments, i)
        first_of_span = moments[i - 1].span != after.span
        change = context.spans[after.span].start
        if first_of_span and before_index is not None and abs(after.beat - change) <= _AT_CHANGE_BEATS:
            met = _at_change(moments, before_index, i)
            resolved = i in suspended or any(event.kind == "guide tone" for event in met)
            through = [] if resolved else _through_ornaments(moments, roles, before_index, i)
            found += [*through, *met]
    for i, moment in enumerate(moments):
        found += _held_over(context, i, moment)
    return found


def _last_before(moments: Sequence[Moment], i: int) -> int | None:
    """The index of the last note of the chord before note i's own, where it is the next one in the form."""
    after = moments[i]
    before = moments[i - 1]
    near = before.span is not None and after.span is not None and after.span - before.span == 1
    close = after.beat - before.beat - before.beats <= _BEFORE_CHANGE_BEATS
    return i - 1 if near and close and before.chord is not None else None


def _at_change(moments: Sequence[Moment], i: int, j: int) -> list[Event]:
    """What note j, the first of its chord, makes of note i, the last of the one before."""
    before, after = moments[i], moments[j]
    assert before.chord is not None and after.chord is not None
    here, there = after.chord.label_of(after.fretted), before.chord.label_of(before.landed)
    if here is None or after.muted:
        return []
    there = None if before.muted else there
    step = after.fretted - before.landed
    old = before.chord.label_of(after.fretted)
    chords = (before.chord, after.chord)
    if there in _GUIDE_TONES and 1 <= abs(step) <= 2:
        return [Event("guide tone", (i, j), chords, (there, here), step)]
    if step == 0 and there is not None:
        return [Event("common tone", (i, j), chords, (there, here))]
    if here in _GUIDE_TONES or old is None:
        return [Event("target", (j,), chords, (here,))]
    return []


def _through_ornaments(moments: Sequence[Moment], roles: Sequence[Role], i: int, j: int) -> list[Event]:
    """As at a change, for the last note before i that is no ornament and the first from j on that is none."""
    before = next((k for k in range(i, -1, -1) if roles[k] not in ORNAMENTS), i)
    after = next((k for k in range(j, len(moments)) if roles[k] not in ORNAMENTS), j)
    apart = moments[after].beat - moments[before].beat - moments[before].beats
    same = moments[before].span == moments[i].span and moments[after].span == moments[j].span
    if (before, after) == (i, j) or not same or apart > _THROUGH_BEATS:
        return []
    return [event for event in _at_change(moments, before, after) if event.kind == "guide tone"]


def _held_over(context: Context, i: int, moment: Moment) -> list[Event]:
    """A chord tone that sounds on into the next chord and is a tone of that too."""
    if moment.span is None or moment.chord is None or moment.span + 1 >= len(context.spans):
        return []
    change, following = context.spans[moment.span].end, context.spans[moment.span + 1].chord
    if following is None or moment.beat > change - HELD_BEATS or moment.beat + moment.beats < change + HELD_BEATS:
        return []
    here, there = moment.chord.label_of(moment.landed), following.label_of(moment.landed)
    if here is None or there is None:
        return []
    return [Event("common tone", (i,), (moment.chord, following), (here, there))]


def _ahead_and_behind(
    context: Context, leads: Sequence[int], suspended: Sequence[tuple[int, Chord, Chord]]
) -> list[Event]:
    """Notes that already have the next chord's sound, or still the last one's: runs of them, and single ones."""
    found: list[Event] = []
    for (span, lead), group in groupby(
        range(len(context.moments)), key=lambda i: (context.moments[i].span, leads[i])
    ):
        indices = tuple(group)
        if lead == 0 or span is None:
            continue
        chord = context.chord_after(span) if lead == 1 else context.chord_before(span)
        if chord is not None:
            found.append(Event("anticipation" if lead == 1 else "delay", indices, (chord,)))
    for i, old, new in suspended:
        if leads[i] == 0:
            held, resolved = context.moments[i : i + 2]
            labels = (old.label_of(held.landed) or "", new.label_of(resolved.fretted) or "")
            found.append(Event("delay", (i, i + 1), (old, new), labels, resolved.fretted - held.landed))
    for i, moment in enumerate(context.moments):
        if moment.span is None or moment.chord is None or leads[i]:
            continue
        change = context.spans[moment.span].start
        early = change - moment.beat > 0.13 and moment.chord.label_of(moment.landed) is not None
        last = context.chord_before(moment.span)
        if early and last is not None and colour_of(moment.landed, last).verdict != "chord tone":
            found.append(Event("anticipation", (i,), (moment.chord,)))
    return found


def _approaches(moments: Sequence[Moment], roles: Sequence[Role], suspended: Set[int]) -> list[Event]:
    return [
        Event("approach", (i, after), semitones=moments[after].fretted - moments[i].landed)
        for i, (role, (_, after)) in enumerate(zip(roles, neighbours(moments), strict=True))
        if role.startswith("approach") and after is not None and i not in suspended
    ]


def _of_a_pattern(event: Event, sequences: Sequence[Run], moments: Sequence[Moment], key: Key | None) -> bool:
    """Whether ornaments are no aim of the line but what a pattern of the key's own notes brings with it."""
    ornaments = event.notes[:-1]
    own = key is not None and all(in_key(moments[i].landed, key) for i in ornaments)
    return own and any(set(ornaments) <= set(run.notes) for run in sequences)


def _tone(moments: Sequence[Moment], indices: Sequence[int]) -> tuple[tuple[Chord, ...], tuple[str, ...]]:
    """The chord that these notes of one pitch are over and what they are to it, if it is one chord and has them."""
    chords = {moments[i].chord for i in indices}
    chord = chords.pop()
    label = None if chord is None or chords else chord.label_of(moments[indices[0]].fretted)
    return ((chord,), (label,)) if chord is not None and label is not None else ((), ())


def _sequence(run: Run, moments: Sequence[Moment], key: Key | None) -> Event:
    """A sequence as an event: one whose turns are the same steps of the key's scale moves by its degrees."""
    plain = Event("sequence", run.notes, (), (), run.semitones, run.turns, run.changed, run.even)
    if key is None or (run.even and not run.changed):
        return plain
    scale = sorted(SCALES[key.scale_name].degrees)
    places = []
    for i in run.notes:
        octave, step = divmod(moments[i].landed - key.tonic, 12)
        if step not in scale:
            return plain
        places.append(len(scale) * octave + scale.index(step))
    moves = {b - a for a, b in zip(places, places[run.length :], strict=False)}
    return replace(plain, changed=(), even=False, degrees=moves.pop(), key=key) if len(moves) == 1 else plain


def _pivots(moments: Sequence[Moment]) -> list[Event]:
    """A note that the line comes back to every other time while the notes between it move."""
    found: list[Event] = []
    i = 0
    while i < len(moments):
        pivot, at = moments[i].landed, [i]
        others: list[int] = []
        while at[-1] + 2 < len(moments) and moments[at[-1] + 2].landed == pivot != moments[at[-1] + 1].landed:
            others.append(moments[at[-1] + 1].landed)
            at.append(at[-1] + 2)
        if len(at) >= _PIVOT_TIMES and len(set(others)) > 1 and not _is_arpeggio(moments[i], pivot, others):
            found.append(Event("pivot", tuple(at), *_tone(moments, at), turns=len(at)))
            i = at[-1] + 1
        else:
            i += 1
    return found


def _is_arpeggio(moment: Moment, pivot: int, others: Sequence[int]) -> bool:
    """Whether a line is no more than its chord broken: all its pitches are tones of it, a third apart and more."""
    pitches = sorted({pivot, *others})
    return (
        moment.chord is not None
        and all(pitch % 12 in moment.chord.pitch_classes for pitch in pitches)
        and all(b - a > 2 for a, b in pairwise(pitches))
    )


def _repeats(notes: Sequence[Note], sequences: Sequence[Run]) -> list[Event]:
    """Figures that come back, other than at once as a sequence; a short one must be the same throughout."""
    order = {note.id: i for i, note in enumerate(notes)}
    told = {i for run in sequences for i in run.notes}
    pitches = {note.id: note.landed for note in notes}
    return [
        Event(
            "repeat",
            (*(order[n] for n in run.first), *(order[n] for n in run.again)),
            semitones=run.semitones,
            turns=2,
            changed=() if run.changed is None else (order[run.again[run.changed]],),
        )
        for run in find_returns(notes, notes)
        if order[run.first[0]] < order[run.again[0]]
        and (run.changed is None or len(run.first) >= _CHANGED_FIGURE)
        and len({pitches[n] for n in run.first}) >= _FIGURE_PITCHES
        and not is_straight([pitches[n] for n in run.first])
        and not told.issuperset(order[n] for n in run.again)
    ]


def _displacements(moments: Sequence[Moment]) -> list[Event]:
    """A step that is taken as a seventh or ninth: the line goes on an octave away."""
    found = []
    for i in range(len(moments) - 1):
        leap = moments[i + 1].fretted - moments[i].landed
        if abs(leap) not in (10, 11, 13, 14):
            continue
        step = leap - 12 if leap > 0 else leap + 12
        near = [moments[j + 1].fretted - moments[j].landed for j in (i - 1, i + 1) if j in range(len(moments) - 1)]
        if any(1 <= abs(other) <= 2 and other * step > 0 for other in near):
            found.append(Event("octave displacement", (i, i + 1), semitones=step, turns=1 if leap > 0 else -1))
    return found


def _minor_to_major(moments: Sequence[Moment], roles: Sequence[Role], key: Key | None) -> list[Event]:
    """The minor third pushed up to the major one: of a chord with a major third, or of the key without chords.

    Both are over one chord, and the lower one encloses nothing.
    """
    found = []
    for i in range(len(moments) - 1):
        chord = moments[i + 1].chord
        if moments[i].chord != chord or roles[i] == "enclosure":
            continue
        root = chord.root if chord is not None and chord.has("3") and not chord.has("#9") else None
        if chord is None and key is not None and key.mode == "major":
            root = key.tonic
        own_bend = moments[i + 1].landed - moments[i + 1].fretted == 1
        if root is None:
            continue
        low, high = (moments[i + 1].fretted,) * 2 if own_bend else (moments[i].landed, moments[i + 1].fretted)
        high += own_bend
        # Half steps that go on through both thirds mean neither.
        blues = key is not None and key.is_blues
        in_run = not blues and not own_bend and i > 0 and low - moments[i - 1].landed == 1
        if high - low == 1 and (high - root) % 12 == 4 and not in_run:
            notes = (i + 1,) if own_bend else (i, i + 1)
            found.append(Event("minor to major", notes, (chord,) if chord else (), ("b3", "3"), 1))
    return found


def _outside_then_inside(moments: Sequence[Moment], roles: Sequence[Role], key: Key | None) -> list[Event]:
    """Two or more notes in a row that clash or lie outside, and the chord tone by step that makes them good.

    Ornaments may stand between: they lead home.
    """
    found = []
    start = 0
    for is_outside, group in groupby(role in ("outside", "clash") for role in roles):
        end = start + len(list(group))
        home = next((i for i in range(end, len(moments)) if roles[i] not in ORNAMENTS), end)
        if is_outside and end - start >= 2 and home < len(moments):
            step = moments[home].fretted - moments[home - 1].landed
            if 1 <= abs(step) <= 2 and is_at_home(moments[home], key):
                found.append(Event("outside, then inside", tuple(range(start, home + 1)), semitones=step))
        start = end
    return found
