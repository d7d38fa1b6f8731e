"""What each note does in the line: a tone of its chord, a colour, a blue note, an ornament of the next, or a clash.

Roles are read from the notes, the chords and the key alone, so every school agrees on them. Ornaments are light: off
the strong beats, short, and followed at once (the usual classes of non-chord tones).
"""

from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

from eager_owl.reasons.colours import colour_of, in_key, in_one_blues_scale, is_blue
from eager_owl.reasons.context import HELD_BEATS, Context, Moment, neighbours
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key

Role = Literal[
    "chord tone", "tension", "blue note", "approach from below", "approach from above", "passing", "neighbour",
    "enclosure", "clash", "outside", "scale tone", "unpitched", "unknown",
]  # fmt: skip
# Those that a player may give a note; "unknown" is said where there is neither key nor chord.
ROLES: tuple[Role, ...] = (
    "chord tone", "tension", "blue note", "approach from below", "approach from above", "passing", "neighbour",
    "enclosure", "clash", "outside", "scale tone", "unpitched",
)  # fmt: skip
ORNAMENTS: frozenset[Role] = frozenset(
    ("approach from below", "approach from above", "passing", "neighbour", "enclosure")
)
_LIGHT_BEATS = 0.8
_AROUND = 3  # notes on either side that say whether a line is a blues
_STRESSED_BEATS = 0.3  # a shorter note is light even on a strong beat
_SHORT_BEATS = 0.55
_AT_ONCE_BEATS = 0.6
_LONGER = 1.3
_LEANING_BEATS = 1.05
_LONGEST_SUSPENSION_BEATS = 3.1


def find_roles(context: Context, key: Key | None) -> list[Role]:
    """The role of each note."""
    moments = context.moments
    suspended = {i for i, _, _ in find_suspensions(context)}
    enclosing = {i for first, second, _ in find_enclosures(moments, key) for i in (first, second)}
    roles: list[Role] = []
    for i, (moment, (before, after)) in enumerate(zip(moments, neighbours(moments), strict=True)):
        if moment.muted:
            roles.append("unpitched")
        elif is_at_home(moment, key):
            roles.append("chord tone" if moment.chord else "scale tone")
        elif i in enclosing:
            roles.append("enclosure")
        else:
            came_from = None if before is None else moments[before]
            leads_to = None if after is None else moments[after]
            around = [near for near in moments[max(i - _AROUND, 0) : i + _AROUND + 1] if not near.muted]
            role = _role(moment, came_from, leads_to, around, key)
            if i in suspended and role in ("clash", "outside"):
                role = "approach from above" if moments[i + 1].fretted < moment.landed else "approach from below"
            roles.append(role)
    return roles


def is_at_home(moment: Moment, key: Key | None) -> bool:
    """Whether a note is a tone of its chord, or without chords one of the key."""
    if moment.muted:
        return False
    if moment.chord is not None:
        return colour_of(moment.landed, moment.chord).verdict == "chord tone"
    return key is not None and in_key(moment.landed, key)


def is_light(moment: Moment, slid_from: bool = False) -> bool:
    """Whether a note is too light to be more than an ornament of the next one; a slide away makes it lighter."""
    heavy = moment.stressed and moment.beats > _STRESSED_BEATS and not slid_from
    return moment.beats <= _LIGHT_BEATS and not heavy and moment.gap < _AT_ONCE_BEATS


def is_short(moment: Moment) -> bool:
    """Whether a note is no longer than an eighth and followed at once."""
    return moment.beats <= _SHORT_BEATS and moment.gap < _AT_ONCE_BEATS


def is_chromatic(moment: Moment, key: Key | None) -> bool:
    """Whether a note belongs neither to the key nor to its chord."""
    if moment.chord is not None and moment.landed % 12 in moment.chord.pitch_classes:
        return False
    return key is None or not in_key(moment.landed, key)


def find_enclosures(moments: Sequence[Moment], key: Key | None) -> list[tuple[int, int, int]]:
    """Triples of notes of which the third is at home and the two before lie around it, a step above and below."""
    found = []
    for i in range(len(moments) - 2):
        first, second, target = moments[i : i + 3]
        sides = (first.landed - target.fretted, second.landed - target.fretted)
        apart = first.beat < second.beat < target.beat  # not struck together
        around = apart and sides[0] * sides[1] < 0 and all(1 <= abs(side) <= 2 for side in sides)
        strange = is_short(second) and is_chromatic(second, key) and not _colours(second, key)  # whatever its beat
        light = (is_light(second) or strange) and first.beats <= 1.05 and first.gap < _AT_ONCE_BEATS
        guests = not is_at_home(second, key) or not is_at_home(first, key)
        chromatic = any(is_chromatic(side, key) and not _is_natural_colour(side) for side in (first, second))
        # Tones of the key around one that is no longer than they are may as well be a line that passes by.
        rests = target.stressed and target.beats > second.beats * _LONGER
        if around and light and is_at_home(target, key) and guests and (rests or chromatic):
            found.append((i, i + 1, i + 2))
    return found


def find_suspensions(context: Context) -> list[tuple[int, Chord, Chord]]:
    """Notes that hang over, with the chord they are a tone of and the one that has come, of which they are none.

    Each moves by step into a tone of the chord that has come: struck before the change and held, or struck after it
    where it rubs, or is the last chord's last note again.
    """
    moments, spans = context.moments, context.spans
    found = []
    for i, (moment, after) in enumerate(pairwise(moments)):
        if moment.muted or after.muted or moment.gap >= _AT_ONCE_BEATS or moment.span is None or after.span is None:
            continue
        held = after.span == moment.span + 1 and moment.beat + moment.beats > spans[moment.span].end + HELD_BEATS
        struck = i > 0 and after.span == moment.span and moments[i - 1].span == moment.span - 1
        if not (held or struck) or moment.beats > _LONGEST_SUSPENSION_BEATS:
            continue
        old, new = spans[after.span - 1].chord, spans[after.span].chord
        if old is None or new is None or not old.label_of(moment.landed) or new.label_of(moment.landed):
            continue
        again = moments[i - 1].landed == moment.fretted
        rubs = colour_of(moment.landed, new).verdict in ("clash", "outside")
        if (held or again or rubs) and 1 <= abs(after.fretted - moment.landed) <= 2 and new.label_of(after.fretted):
            found.append((i, old, new))
    return found


def _role(
    moment: Moment, before: Moment | None, after: Moment | None, around: Sequence[Moment], key: Key | None
) -> Role:
    if key is None and moment.chord is None:
        return "unknown"
    if moment.chord is not None and moment.chord.label_of(moment.landed):
        return "tension"  # a chord's altered colours are what it is played for
    blue = key is not None and is_blue(moment.landed, key)
    if after is not None and after.slid and (ornament := _ornament(moment, before, after, key)):
        return ornament
    if blue and _among_blues(moment, around, key):
        return "blue note"
    if ornament := _ornament(moment, before, after, key):
        return ornament
    if moment.chord is None:
        return "blue note" if blue else "outside"
    colour = colour_of(moment.landed, moment.chord, key)
    bare = colour.verdict in ("clash", "outside")
    if (bare or (colour.rubs and moment.stressed)) and after is not None and _leans_on(moment, after, key):
        return _approach(after.fretted - moment.landed)
    # Against the root, third and fifth from above, a light note of the key is heard as a colour in passing.
    soft = colour.rubs in ("R", "3", "5") and not moment.stressed and moment.beats <= _LIGHT_BEATS
    if colour.verdict == "clash" and soft and key is not None and in_key(moment.landed, key):
        return "tension"
    # Against a seventh that sounds it is no colour of a blues, only wrong.
    if blue and colour.verdict != "tension" and (key is None or key.is_blues or colour.rubs != "b7"):
        return "blue note"
    return "outside" if colour.verdict == "chord tone" else colour.verdict


def _among_blues(moment: Moment, around: Sequence[Moment], key: Key | None) -> bool:
    """Whether a line around a blue note stays in one of the key's blues scales, on a chord that may be of a blues.

    Elsewhere a blue note is what is said last of a note: it may be an ornament, or a tension of its chord.
    """
    if key is None or (moment.chord is not None and moment.chord.is_altered):
        return False
    plain = key.mode == "major" and not key.is_blues
    if plain and moment.chord is not None and moment.chord.quality != "dominant":
        return False
    return in_one_blues_scale((near.landed for near in around), key)


def _ornament(moment: Moment, before: Moment | None, after: Moment | None, key: Key | None) -> Role | None:
    """The ornament that a light note is of the one after it, if it is one."""
    if after is None:
        return None
    onward = after.fretted - moment.landed
    if before is not None and abs(onward) == 1 and moment.landed - before.landed == onward and is_short(moment):
        return "passing"  # by half steps, on whatever beat
    if before is not None and onward == before.landed - moment.landed and abs(onward) in (1, 2) and is_short(moment):
        return "neighbour"
    if before is not None and not after.slid and is_short(moment) and _fills_a_third(before, moment, after, key):
        # Accented, but on the way all the same. A strange fourth raised to the fifth is its leading tone.
        raised = onward > 0 and moment.chord is not None and (moment.landed - moment.chord.root) % 12 == 6
        strange = is_chromatic(moment, key) and (raised or not _colours(moment, key))
        return _approach(onward) if abs(onward) == 1 and strange else "passing"
    into_tone = abs(onward) == 1 and (is_at_home(after, key) or _is_own_colour(after, key))
    if into_tone and is_short(moment) and before is None and not _is_natural_colour(moment):
        return _approach(onward)  # a phrase may begin with one on the beat
    if not is_light(moment, after.slid):
        return None
    if after.slid and into_tone:
        return _approach(onward)
    came = moment.landed - before.landed if before is not None and before.gap < _AT_ONCE_BEATS else None
    colours = _colours(moment, key)
    leading = into_tone and came is not None and abs(came) == 2 and is_chromatic(moment, key) and not colours
    if came is not None and 1 <= abs(came) <= 2 and 1 <= abs(onward) <= 2 and onward * came > 0 and not leading:
        return "passing"
    # A colour of its chord that the key has, leapt to, is more than an approach: the flat nine of an arpeggio.
    leapt = (came is None or abs(came) > 2) and not colours
    if into_tone and (is_chromatic(moment, key) or leapt):
        return _approach(onward)
    return None


def _leans_on(moment: Moment, after: Moment, key: Key | None) -> bool:
    """Whether a note of a beat or less rubs only to give way by a half step to a tone of the chord."""
    resolved = abs(after.fretted - moment.landed) == 1 and after.span == moment.span and is_at_home(after, key)
    return resolved and moment.beats <= _LEANING_BEATS and moment.gap < _AT_ONCE_BEATS


def _fills_a_third(before: Moment, moment: Moment, after: Moment, key: Key | None) -> bool:
    """Whether a note steps from one tone of its chord to the next, as the line does before and after it."""
    came, onward = moment.landed - before.landed, after.fretted - moment.landed
    stepwise = came * onward > 0 and abs(came) <= 2 and abs(onward) <= 2
    within = before.span == moment.span == after.span and before.gap < _AT_ONCE_BEATS
    return stepwise and within and is_at_home(before, key) and is_at_home(after, key)


def _is_own_colour(moment: Moment, key: Key | None) -> bool:
    """Whether a note is a tension of its chord that the key has."""
    return key is not None and not moment.muted and in_key(moment.landed, key) and _colours(moment, key)


def _is_natural_colour(moment: Moment) -> bool:
    """Whether a note is the ninth or thirteenth of its chord, which belong to it though the key has them not."""
    return moment.chord is not None and (moment.landed - moment.chord.root) % 12 in (2, 9)


def _colours(moment: Moment, key: Key | None) -> bool:
    """Whether a note is a tension of its chord."""
    return moment.chord is not None and colour_of(moment.landed, moment.chord, key).verdict == "tension"


def _approach(onward: int) -> Role:
    return "approach from below" if onward > 0 else "approach from above"
