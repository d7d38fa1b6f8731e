"""What a teacher adds: what chords do together, and pickups, cells, upper structures and side slips over them."""

from collections.abc import Sequence
from itertools import pairwise

from eager_owl.reasons.colours import colour_of
from eager_owl.reasons.context import Context, Moment
from eager_owl.reasons.roles import Role
from eager_owl.theory.chord import Chord
from eager_owl.theory.interval import interval_name
from eager_owl.theory.key import Key
from eager_owl.theory.scale import SCALES

# The notes of a cell, the chord it is of, and their names in that.
Cell = tuple[tuple[int, ...], Chord, tuple[str, ...]]

_CELLS = (("R", "2", "3", "5"), ("R", "2", "b3", "5"))
_SAME_GAP = 1.2
_PICKUP_NOTES, _PICKUP_BEATS, _ON_BAR, _LANDS_BEATS = 4, 2.1, 0.2, 0.4
_SLIP_NOTES = 3
_TRIADS = {frozenset({0, 4, 7}): "", frozenset({0, 3, 7}): "m"}


def find_progressions(context: Context, key: Key | None) -> list[tuple[str, tuple[int, ...]]]:
    """What the chords under a line do, each with the notes over it; the longest where several begin together."""
    spans = context.spans
    over: dict[int, list[int]] = {}
    for i, moment in enumerate(context.moments):
        if moment.span is not None:
            over.setdefault(moment.span, []).append(i)
    found = []
    at = 0
    while at < len(spans):
        named = _named([span.chord for span in spans[at : at + 3]], key)
        if named is None:
            at += 1
            continue
        words, length = named
        notes = tuple(i for span in range(at, at + length) for i in over.get(span, ()))
        if all(span in over for span in range(at, at + length)):
            found.append((words, notes))
        at += max(length - 1, 1)
    return found


def _named(chords: Sequence[Chord | None], key: Key | None) -> tuple[str, int] | None:
    """What chords from one on do, and how many of them take part; None where it has no name."""
    first = chords[0]
    second = chords[1] if len(chords) > 1 else None
    third = chords[2] if len(chords) > 2 else None
    if first is None or second is None:
        return None
    five = _is_two(first) and second.quality in ("dominant", "suspended") and _rises(first, second) == 5
    if five and third is not None and _rises(second, third) == 5 and third.quality in ("major", "minor"):
        home = third.names[third.root] + (" minor" if third.quality == "minor" else "")
        strange = key is not None and third.root != key.tonic
        return f"a two-five-one in {home}" + (f": now in {home}" if strange else ""), 3
    if second.quality == "major" and first.quality == "dominant":
        if _rises(first, second) == 2:
            return f"the back door, {first.symbol} to {second.symbol}", 2
        if _rises(first, second) == 11:
            return f"a tritone substitute, {first.symbol} to {second.symbol}", 2
    if key is not None and key.mode == "major" and (first.root - key.tonic) % 12 == 5 and first.quality == "minor":
        return f"{first.symbol}, the four minor borrowed from {key.tonic_name} minor", 1
    return None


def _is_two(chord: Chord) -> bool:
    return chord.quality in ("minor", "half-diminished") and chord.has("b7")


def _rises(before: Chord, after: Chord) -> int:
    return (after.root - before.root) % 12


def find_cells(moments: Sequence[Moment]) -> list[Cell]:
    """Four even notes on the first, second, third and fifth of their chord, up or down, with their names."""
    found: list[Cell] = []
    at = 0
    while at + 4 <= len(moments):
        four = moments[at : at + 4]
        cell = _cell(four)
        if cell is not None:
            found.append((tuple(range(at, at + 4)), cell[0], cell[1]))
        at += 4 if cell is not None else 1
    return found


def _cell(four: Sequence[Moment]) -> tuple[Chord, tuple[str, ...]] | None:
    chord = four[0].chord
    gaps = [b.beat - a.beat for a, b in pairwise(four)]
    if chord is None or any(m.chord != chord or m.muted for m in four) or max(gaps) > _SAME_GAP * min(gaps):
        return None
    labels = tuple(interval_name(m.landed, chord.root) for m in four)
    spread = max(m.landed for m in four) - min(m.landed for m in four)
    if spread == 7 and (labels in _CELLS or labels[::-1] in _CELLS):
        return chord, labels
    return None


def find_upper_structures(moments: Sequence[Moment], key: Key | None) -> list[tuple[tuple[int, ...], Chord, str]]:
    """Three notes and more of a triad, two of its tones colours of the chord below, with the triad's name."""
    found: list[tuple[tuple[int, ...], Chord, str]] = []
    at = 0
    while at + 3 <= len(moments):
        chord = moments[at].chord
        end = at
        classes: set[int] = set()
        while end < len(moments) and moments[end].chord == chord and not moments[end].muted:
            if len(classes | {moments[end].landed % 12}) > 3:
                break
            classes.add(moments[end].landed % 12)
            end += 1
        name = _triad_name(classes, chord, key) if chord is not None else ""
        if chord is not None and name:
            found.append((tuple(range(at, end)), chord, name))
            at = end
        else:
            at += 1
    return found


def _triad_name(classes: set[int], chord: Chord, key: Key | None) -> str:
    """The triad of three pitch classes, if it stands over the chord as an upper structure; empty for none."""
    for root in classes:
        suffix = _TRIADS.get(frozenset((pitch - root) % 12 for pitch in classes))
        if suffix is not None:
            sits = [colour_of(pitch, chord, key).verdict for pitch in classes]
            over = sits.count("tension") >= 2 and not {"clash", "outside"} & set(sits)
            return chord.names[root] + suffix if over else ""
    return ""


def find_pickup(moments: Sequence[Moment], beats_per_bar: int | None) -> tuple[tuple[int, ...], Chord] | None:
    """The few notes that a line begins with before its first bar line, and the chord that they lead to."""
    if beats_per_bar is None:
        return None
    for i, moment in enumerate(moments[1 : _PICKUP_NOTES + 1], 1):
        within = (moment.beat + _ON_BAR) % beats_per_bar
        if within <= 2 * _ON_BAR and moment.chord is not None:
            early = moment.beat - moments[0].beat <= min(_PICKUP_BEATS, beats_per_bar - 1)
            return (tuple(range(i)), moment.chord) if early and moment.beats >= _LANDS_BEATS else None
    return None


def find_side_slips(
    moments: Sequence[Moment], roles: Sequence[Role], key: Key | None
) -> list[tuple[tuple[int, ...], int]]:
    """Runs of three notes and more of the key's scale a half step up (1) or down (-1), two of them strange to it.

    They begin with a note that is outside or clashes, and one of the key by step after them is home.
    """
    if key is None:
        return []
    found: list[tuple[tuple[int, ...], int]] = []
    scale = {(key.tonic + step) % 12 for step in SCALES[key.scale_name].degrees}
    at = 0
    while at < len(moments):
        runs = [(_run_within(moments, at, {(tone + shift) % 12 for tone in scale}), shift) for shift in (1, -1)]
        end, shift = max(runs) if roles[at] in ("outside", "clash") else (at, 0)
        while end > at and moments[end - 1].landed % 12 in scale:
            end -= 1  # it is over with the last note that the key has not
        strange = sum(moment.landed % 12 not in scale for moment in moments[at:end])
        home = end < len(moments) and 1 <= abs(moments[end].fretted - moments[end - 1].landed) <= 2
        if end - at >= _SLIP_NOTES and strange >= 2 and home:
            found.append((tuple(range(at, end)), shift))
        at = max(end, at + 1)
    return found


def _run_within(moments: Sequence[Moment], start: int, tones: set[int]) -> int:
    """The index after the last of the notes from one on that are all of these pitch classes."""
    end = start
    while end < len(moments) and not moments[end].muted and moments[end].landed % 12 in tones:
        end += 1
    return end
