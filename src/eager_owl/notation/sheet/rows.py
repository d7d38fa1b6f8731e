"""Rows of facts under a system: strokes and fingers, counted beats, intervals, sources, loud and soft."""

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

from eager_owl.notation.sheet import faces
from eager_owl.notation.sheet.block import Lanes, Writer
from eager_owl.notation.sheet.glyphs import SIGNS
from eager_owl.notation.sheet.ink import Curve
from eager_owl.notation.sheet.passage import Passage
from eager_owl.notation.sheet.placed import Placed, Standing
from eager_owl.reasons.tell import interval_text
from eager_owl.solo.document import PLUCKED
from eager_owl.theory.pitch import pretty

STROKE_ROW, COUNT_ROW, INTERVAL_ROW, SOURCE_ROW, LOUD_ROW = 14.0, 11.0, 17.0, 15.0, 13.0
_STROKE_SPACE = 4.4
_STROKE_SIGNS = {"down": "stringsDownBow", "up": "stringsUpBow"}
_OPENING_PT = 3.2
_LOUD_SIGNS = {"pp": "dynamicPP", "p": "dynamicPiano", "mp": "dynamicMP", "mf": "dynamicMF", "f": "dynamicForte"}
_SYLLABLES = {2: ("", "and"), 3: ("", "trip", "let"), 4: ("", "e", "and", "a")}
_LEAD = ("", ", ahead", ", behind")


def draw_strokes(writer: Writer, placed: Placed, passage: Passage, y: float, strokes: bool, fingers: bool) -> None:
    """How each stroke is struck and which finger frets it, lowest string last."""
    by_place: dict[float, list[Standing]] = {}
    for standing in placed.started():
        if not standing.grace:
            by_place.setdefault(round(standing.x, 2), []).append(standing)
    for x, standings in by_place.items():
        standings.sort(key=lambda s: s.note.string or 0)
        stroke = next((s for st in standings if (s := passage.strokes.get(st.note.id))), None) if strokes else None
        digits = "".join(str(st.note.finger) for st in standings if st.note.finger) if fingers else ""
        finger_width = writer.widths(digits, faces.FINGER) if digits else 0.0
        sign = _STROKE_SIGNS.get(stroke or "")
        letter = PLUCKED.get(stroke) if stroke else None
        sign_width = SIGNS[sign].advance * _STROKE_SPACE if sign else 4.0 if letter else 0.0
        gap = 1.6 if digits and sign_width else 0.0
        left = x - (finger_width + gap + sign_width) / 2
        note_id = standings[0].note.id
        if sign:
            writer.sign(left, y, sign, _STROKE_SPACE, note=note_id)
        elif letter:
            writer.words(left, y, letter, faces.MARK, note=note_id)
        if digits:
            writer.words(left + sign_width + gap, y, digits, faces.FINGER, "here", note=note_id)


def draw_counts(writer: Writer, placed: Placed, passage: Passage, y: float, division: int) -> None:
    """Beats by their numbers, and what lies between by its syllable, where notes begin; plain beats in quiet ink."""
    per_bar = passage.score.grid.beats_per_bar
    for bar in placed.bars:
        struck = {event.beat for event, _ in bar.events(0) if event.notes and not event.tied_from}
        beats = sorted({*struck, *(at for at in bar.beats if at.denominator == 1)})
        right = -1e9
        for at in beats:
            if at not in bar.beats:
                continue
            words = count_of(at % per_bar, division)
            width = writer.widths(words, faces.COUNT)
            x = bar.beats[at]
            if not words or x - width / 2 < right + 1.5:
                continue
            writer.words(x, y, words, faces.COUNT, "ink" if at in struck else "quiet", 0.5)
            right = x + width / 2


def count_of(within: Fraction, division: int) -> str:
    """How a place in the bar is counted: "1", "e", "and", "a"; "trip", "let" in thirds.

    In compound meters each part of a beat is counted: 6/8 is one to six.
    """
    if division == 3:
        within *= 3
    whole, part = divmod(within, 1)
    if part == 0:
        return str(int(whole) + 1)
    parts = 3 if (part * 3).denominator == 1 else 4 if (part * 4).denominator == 1 else 0
    if parts == 4 and (part * 2).denominator == 1:
        parts = 2
    return _SYLLABLES[parts][int(part * parts)] if parts else ""


def draw_intervals(writer: Writer, placed: Placed, passage: Passage, y: float) -> None:
    """The interval of each note, boxed where it meets a change of chord, slanted beside its source; arcs of steps."""
    right: dict[int, float] = {}
    where: dict[int, tuple[float, float]] = {}
    for standing in placed.started():
        reason = passage.reasons.get(standing.note.id)
        if reason is None:
            continue
        beside = reason.standing == "detour"
        text = interval_text(reason)
        if reason.standing == "outside" and reason.source is not None:
            text = f"({text})"
        face = faces.DETOUR if beside else faces.INTERVAL
        width = writer.widths(text, face)
        left = standing.x - width / 2
        if left < right.get(0, -1e9) + 2.0:
            continue
        words = writer.words(left, y, text, face, "quiet" if beside else "ink", note=standing.note.id)
        if standing.note.id in passage.targets:
            writer.frame(words, "pinned")
        right[0] = left + width
        where[standing.note.id] = (left, left + width)
    for first, last in passage.leading:
        if first in where and last in where:
            a, b = where[first][1] + 2.0, where[last][0] - 3.0
            if b - a > 6:
                level, quarter = y - 3.4, (b - a) / 3
                points = ((a, level), (a + quarter, level - 5), (b - quarter, level - 5), (b, level))
                writer.add(Curve(points, 0.9, "pinned"))


def source_lanes(
    writer: Writer, placed: Placed, passage: Passage
) -> tuple[list[tuple[int, float, float, str, bool]], int]:
    """Brackets of this system as (lane, left, right, words, whether it is one note's or led), and how many lanes."""
    lanes = Lanes(SOURCE_ROW, gap=4.0)
    found = []
    for span in passage.spans:
        inside = [placed.notes[note] for note in span.notes if note in placed.notes]
        if not inside:
            continue
        left = min(standing.x for standing in inside) - 5.0
        words = pretty(span.words) + _LEAD[span.lead]
        width = writer.widths(words, faces.SOURCE)
        right = max(max(standing.x for standing in inside) + 8.0, left + width + 16.0)
        right = min(right, placed.right)
        left = min(left, right - width - 16.0)
        found.append((lanes.take(left, right), left, right, words, span.lead != 0))
    return found, round(lanes.total / SOURCE_ROW)


def draw_sources(writer: Writer, found: Sequence[tuple[int, float, float, str, bool]], y: float) -> None:
    """Brackets with the source's name in them; a dashed one is ahead of its chord, or behind."""
    for lane, left, right, words, led in found:
        level = y + lane * SOURCE_ROW
        dash = 3.0 if led else 0.0
        start = left + 7.0
        width = writer.widths(words, faces.SOURCE)
        writer.line(left, level - 5.0, left, level, 0.9, "pinned")
        writer.line(left, level, start - 1.5, level, 0.9, "pinned")
        writer.words(start, level + 2.6, words, faces.SOURCE)
        if right - (start + width + 2) > 2:
            writer.line(start + width + 2, level, right, level, 0.9, "pinned", dash)
        writer.line(right, level - 5.0, right, level, 0.9, "pinned")


def _widest_between(left: float, right: float, taken: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The widest stretch from left to right that is clear of what is taken."""
    edges = [
        (left, left),
        *sorted((a - 3.0, b + 3.0) for a, b in taken if b > left - 3 and a < right + 3),
        (right, right),
    ]
    gaps = [(before[1], after[0]) for before, after in pairwise(edges)]
    return max(gaps, key=lambda gap: gap[1] - gap[0])


def draw_loudness(
    writer: Writer, placed: Placed, levels: Sequence[tuple[int, str]], pins: Sequence[tuple[int, int, bool]], y: float
) -> None:
    """Marks of loudness under the notes they begin at, and hairpins between two notes, opening or closing."""
    taken: list[tuple[float, float]] = []
    for note_id, mark in levels:
        name = _LOUD_SIGNS[mark]
        standing = placed.notes.get(note_id)
        if standing is None:
            continue
        left, _, right, _ = SIGNS[name].box
        width = (right - left) * 4.2
        x = standing.x - width / 2
        if not any(a - 3 < x + width and x < b + 3 for a, b in taken):
            writer.sign(x - left * 4.2, y, name, 4.2)
            taken.append((x, x + width))
    for first, last, opens in pins:
        inside = [s.x for note, s in placed.notes.items() if first <= s.note.id <= last or note in (first, last)]
        ends = [placed.notes[id_].x for id_ in (first, last) if id_ in placed.notes]
        if len(ends) < 2 or not inside:
            continue
        left, right = _widest_between(min(ends), max(ends), taken)
        if right - left < 14:
            continue
        middle = y - 2.0
        point, wide = (left, right) if opens else (right, left)
        writer.line(point, middle, wide, middle - _OPENING_PT, 0.6)
        writer.line(point, middle, wide, middle + _OPENING_PT, 0.6)
        taken.append((left, right))
