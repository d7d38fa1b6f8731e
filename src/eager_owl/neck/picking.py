"""Which way the pick goes: strokes proposed from strings and timing, and where crossing is awkward.

A pick that has struck down lies under its string, one that has struck up over it. Going on to another string it
need not be lifted over one where it already lies on the way ("free"): a downstroke to a thinner string and down
again, an upstroke to a thicker one and up again; three such in quick succession are a sweep. Between strings the
pick turns inside the pair (up on the thicker, down on the thinner, or the other way) or outside it; players find
inside turns the awkward ones.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from eager_owl.solo.document import PLUCKED, Note, Stroke, struck_together
from eager_owl.solo.techniques import LEGATO

_QUICK_S = 0.25  # slower than this a pick goes wherever it likes
_REST_S = 0.6
_SWEEP = 3
# What plucks each string, the thinnest first; the thumb all others.
_FINGER_OF: dict[int, Stroke] = {1: "ring", 2: "middle", 3: "index"}


@dataclass(frozen=True)
class PickingStyle:
    """What a style finds costly: one way twice on a string, off the beat's way, inside turns, skips, fingers.

    `bare` hands have no pick.
    """

    name: str
    creed: str
    same_way: float
    off_beat: float
    free_crossing: float
    inside: float
    skip: float
    finger: float
    bare: bool = False


STYLES = {
    style.name: style
    for style in (
        PickingStyle("alternate", "Down and up by turns, whatever the string.", 3.0, 0.5, 3.0, 0.3, 0.2, 9.0),
        PickingStyle("economy", "To the next string the way the pick already goes.", 3.0, 0.2, -0.6, 0.8, 0.4, 9.0),
        PickingStyle("hybrid", "A finger for the string that is skipped to.", 3.0, 0.3, 0.6, 0.6, 1.2, 0.8),
        PickingStyle(
            "fingers", "Thumb for the thick strings, fingers for the thin.", 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, True
        ),
    )
}


def propose_picking(notes: Sequence[Note], style: str, beats: Sequence[float] | None = None) -> list[Stroke | None]:
    """A stroke for each placed note, None where it is not struck (legato) or has no place.

    `beats` are the notes' places on the beat grid: strokes on the beat are better down, between beats up. A stroke
    that the player gave (`note.stroke`) is kept. The cheapest sequence, by dynamic programming.
    """
    costs = STYLES[style]
    if costs.bare:
        return _plucked(notes)
    groups = [group for group in struck_together(notes) if _is_struck(notes[group[0]])]
    result: list[Stroke | None] = [None] * len(notes)
    if not groups:
        return result
    ways: tuple[Stroke, ...] = ("down", "up", "middle")
    totals: dict[Stroke, float] = {}
    backs: list[dict[Stroke, Stroke]] = []
    for number, group in enumerate(groups):
        note = notes[group[0]]
        allowed: tuple[Stroke, ...] = ways if note.stroke is None else (note.stroke,)
        own = {way: _own_cost(way, note, costs, beats[group[0]] if beats is not None else None) for way in allowed}
        if number == 0:
            # Nothing leads here: the first is struck down, unless the beat says otherwise.
            totals = {way: cost + 0.1 * (way == "up") for way, cost in own.items()}
            continue
        before = notes[groups[number - 1][0]]
        back: dict[Stroke, Stroke] = {}
        through: dict[Stroke, float] = {}
        for way in allowed:
            back[way] = min(totals, key=lambda old: totals[old] + _turn_cost(before, old, note, way, costs))
            through[way] = totals[back[way]] + _turn_cost(before, back[way], note, way, costs) + own[way]
        backs.append(back)
        totals = through
    way = min(totals, key=lambda old: totals[old])
    for number in range(len(groups) - 1, -1, -1):
        for index in groups[number]:
            result[index] = way
        way = backs[number - 1][way] if number else way
    return result


def _plucked(notes: Sequence[Note]) -> list[Stroke | None]:
    """A finger of the plucking hand for each note: the thumb on the thick strings, above it a finger a string, two by

    turns where a string comes again.
    """
    picked: list[Stroke | None] = []
    last: tuple[int, Stroke] | None = None
    for note in notes:
        if not _is_struck(note) or note.string is None:
            picked.append(None)
            continue
        way: Stroke = note.stroke or _FINGER_OF.get(note.string, "thumb")
        if note.stroke is None and last == (note.string, way) and way != "thumb":
            way = "middle" if way == "index" else "index"
        picked.append(way)
        last = note.string, way
    return picked


def find_sweeps(notes: Sequence[Note], picked: Sequence[Stroke | None]) -> list[tuple[int, ...]]:
    """Runs of three strokes and more, by index, that the pick makes in one move over neighbouring strings."""
    found: list[tuple[int, ...]] = []
    run: list[int] = []
    for i, way in enumerate(picked):
        if way is None:
            continue
        if run:
            before, note = notes[run[-1]], notes[i]
            _, skipped, free = _crossing(before, picked[run[-1]] or way, note, way)
            if free and not skipped and 0 < note.onset - before.onset < _QUICK_S:
                run.append(i)
                continue
        found += [tuple(run)] * (len(run) >= _SWEEP)
        run = [i]
    return found + [tuple(run)] * (len(run) >= _SWEEP)


def awkward_crossings(notes: Sequence[Note], picked: Sequence[Stroke | None]) -> list[int]:
    """Indices of the notes that are come to by an inside turn or over a skipped string, in quick succession."""
    found = []
    last: tuple[Note, Stroke] | None = None
    for index, (note, way) in enumerate(zip(notes, picked, strict=True)):
        if way is None:
            continue
        if last is not None and note.onset > last[0].onset and note.onset - last[0].onset < _QUICK_S:
            inside, skipped, _ = _crossing(last[0], last[1], note, way)
            if inside or skipped:
                found.append(index)
        last = note, way
    return found


def _is_struck(note: Note) -> bool:
    return note.string is not None and not note.technique(*LEGATO)


def _own_cost(way: Stroke, note: Note, costs: PickingStyle, beat: float | None) -> float:
    if way in PLUCKED:
        return costs.finger
    if beat is None:
        return 0.0
    # On the beat's first and third quarter down, between them up.
    down = round(4 * (beat % 1)) % 4 in (0, 2) if abs(4 * (beat % 1) - round(4 * (beat % 1))) < 0.3 else True
    eighths = round(2 * (beat % 1)) % 2 == 0
    wanted_down = eighths if note.duration > _QUICK_S / 2 else down
    return costs.off_beat * ((way == "down") != wanted_down)


def _turn_cost(before: Note, old: Stroke, note: Note, way: Stroke, costs: PickingStyle) -> float:
    gap = note.onset - before.onset
    if gap > _REST_S:
        return 0.0
    hurry = 1.0 if gap < _QUICK_S else 0.5
    inside, skipped, free = _crossing(before, old, note, way)
    cost = costs.inside * inside + costs.skip * skipped
    if free:
        cost += costs.free_crossing
    elif old == way and way not in PLUCKED:
        cost += costs.same_way
    return cost * hurry


def _crossing(before: Note, old: Stroke, note: Note, way: Stroke) -> tuple[bool, int, bool]:
    """Whether the pick turns inside the strings, how many it skips, and whether it just goes on its way."""
    across = (note.string or 0) - (before.string or 0)
    if across == 0 or old in PLUCKED or way in PLUCKED:
        return False, 0, False
    skipped = max(abs(across) - 1, 0)
    onward: Stroke = "down" if across < 0 else "up"  # a smaller number is the thinner string, nearer the floor
    free = old == way == onward
    inside = old != way and old != onward
    return inside, skipped, free
