"""What was gathered of a MusicXML part, as a solo: on a grid, ties joined, staves merged."""

import math
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from eager_owl.notation.imported import Complaints, Imported, chart_from, checked, grid_of, later, with_phrases
from eager_owl.notation.musicxml.read_notes import Part, RawNote, bar_quarters
from eager_owl.rhythm.values import played_beat
from eager_owl.solo.document import Instrument, Note, Remark, Solo
from eager_owl.solo.techniques import Technique
from eager_owl.theory.key import parse_key

_GRACE_S = 0.06
_MUTED_LEVEL_DB = -30
_DEFAULT_BPM = 120.0


def as_solo(solo: Solo, part: Part, told: Complaints) -> Imported:
    """The solo with what was gathered of a part."""
    meter = part.meters[0][1] if part.meters else (4, 4)
    bpm = part.tempos[0][1] if part.tempos else _DEFAULT_BPM
    if not part.tempos:
        told.add(f"no tempo is given: it is taken as {_DEFAULT_BPM:g}")
    in_bar = bar_quarters(meter)
    # Bar 1 begins after the bars numbered below it; an incomplete first bar ends where the next begins.
    before = Fraction(max(0, 1 - part.first_number)) * in_bar
    skipped = Fraction(max(0, part.first_number - 1)) * in_bar
    lead = before - (in_bar - part.pickup if part.pickup is not None and part.first_number < 1 else 0)
    shift = skipped - lead  # from the file's quarter notes to those from bar 1 on
    grid, quarters = grid_of(meter, bpm, [(at + shift, tempo) for at, tempo in part.tempos], part.swung, told)
    start = min((grid.time_of(float((raw.at + shift) / quarters)) for raw in part.notes), default=0.0)
    grid = later(
        grid, max(0.0, -start) + (_GRACE_S * 4 if start < _GRACE_S * 4 and any(r.grace for r in part.notes) else 0.0)
    )
    raws = _joined(_merged(part.notes))
    instrument = _instrument(part, told)
    raws = _octave_settled(raws, instrument, told)

    def time_of(quarter: Fraction) -> float:
        return grid.time_of(played_beat(float(quarter / quarters), grid))

    notes = []
    graces = _graces_before(raws)
    for index, raw in enumerate(raws):
        at = raw.at + shift
        onset = time_of(at)
        length = time_of(at + raw.length) - onset
        if raw.grace:
            onset, length = max(0.0, onset - _GRACE_S * graces[index]), _GRACE_S
        notes.append(
            _as_note(
                raw, onset, max(length, 0.02), instrument, told, f"bar {int(at / quarters) // grid.beats_per_bar + 1}"
            )
        )
    notes = list(checked(notes, told))
    notes = [replace(n, techniques=tuple(_sized(t, n, notes, i) for t in n.techniques)) for i, n in enumerate(notes)]
    beats = max((int((raw.at + shift + raw.length) / quarters) for raw in raws), default=0)
    sections = [
        (max(0, int((at + shift) / quarters) // grid.beats_per_bar), words) for at, words, sec in part.marks if sec
    ]
    changes = [(Fraction((at + shift) / quarters), chord) for at, chord in part.chords]
    chart = chart_from(changes, grid.beats_per_bar, -(-beats // grid.beats_per_bar), sections if changes else ())
    named = [(time_of(at + shift), words) for at, words, section in part.marks if not section]
    if not named and len(part.marks) > 1:
        named = [(time_of(at + shift), words) for at, words, _ in part.marks]
    if part.key:
        parse_key(part.key)
    solo = replace(solo, grid=grid, key_text=part.key, chart_text=chart, instrument=instrument, notes=tuple(notes))
    return Imported(with_phrases(solo, named), told.lines)


def _merged(raws: Sequence[RawNote]) -> list[RawNote]:
    """Notes that stand on two staves once, with what either says of them."""
    found: dict[tuple[Fraction, int, bool, Fraction], RawNote] = {}
    for raw in raws:
        key = (raw.at, raw.pitch, raw.grace, raw.length)
        other = found.get(key)
        if other is None or other.staff == raw.staff:
            found[key if other is None else (*key[:3], raw.length + Fraction(len(found) + 1, 10**6))] = raw
            continue
        other.string, other.fret = other.string or raw.string, raw.fret if other.fret is None else other.fret
        other.finger, other.stroke = other.finger or raw.finger, other.stroke or raw.stroke
        other.techniques = {**raw.techniques, **other.techniques}
        other.muted, other.remark = other.muted or raw.muted, other.remark or raw.remark
    return list(found.values())


def _joined(raws: Sequence[RawNote]) -> list[RawNote]:
    """Tied notes as one."""
    joined: list[RawNote] = []
    open_ties: dict[tuple[int, str], RawNote] = {}
    for raw in sorted(raws, key=lambda r: (r.at, not r.grace)):
        tied = open_ties.get((raw.pitch, raw.staff))
        if raw.tied_from and tied is not None and tied.at + tied.length == raw.at:
            tied.length += raw.length
            if not raw.tied_on:
                del open_ties[raw.pitch, raw.staff]
            continue
        joined.append(raw)
        if raw.tied_on:
            open_ties[raw.pitch, raw.staff] = raw
    return joined


def _graces_before(raws: Sequence[RawNote]) -> dict[int, int]:
    """For each grace, by its place in the list, which it is, counted back from the note it leads into."""
    counts: dict[int, int] = {}
    for index in range(len(raws) - 1, -1, -1):
        if raws[index].grace:
            follows = index + 1 < len(raws) and raws[index + 1].grace and raws[index + 1].at == raws[index].at
            counts[index] = counts[index + 1] + 1 if follows else 1
    return counts


def _instrument(part: Part, told: Complaints) -> Instrument:
    if not part.tuning:
        return Instrument()
    tuning = tuple(part.tuning[line] for line in sorted(part.tuning, reverse=True))
    try:
        return Instrument(tuning, part.capo)
    except ValueError as error:
        told.add(f"its strings are not taken: {error}")
        return Instrument()


def _octave_settled(raws: list[RawNote], instrument: Instrument, told: Complaints) -> list[RawNote]:
    """Some write a guitar an octave above its sound, and frets from the capo: the strings and frets tell."""
    placed = [
        raw
        for raw in raws
        if raw.string is not None and raw.fret is not None and raw.string <= len(instrument.tuning)
        if "harmonic" not in raw.techniques  # which sounds an octave and more over its fret
    ]
    off = [r.pitch - instrument.tuning[(r.string or 1) - 1] - (r.fret or 0) for r in placed]
    if placed and sum(o == 12 for o in off) > len(placed) / 2:
        told.add("it is written an octave above its sound, as its frets tell: it is read as it sounds")
        for raw in raws:
            raw.pitch -= 12
    elif placed and instrument.capo and sum(o == instrument.capo for o in off) > len(placed) / 2:
        for raw in placed:
            raw.fret = (raw.fret or 0) + instrument.capo
    return raws


def _as_note(raw: RawNote, onset: float, length: float, instrument: Instrument, told: Complaints, where: str) -> Note:
    techniques = dict(raw.techniques)
    if raw.grace:
        techniques["grace"] = Technique("grace")
    loudness = -20.0 if raw.loud is None else -6.0 + 40 * math.log10(max(raw.loud, 1.0) * 90 / 100 / 127)
    remarks = tuple(
        Remark(words.removeprefix("? "), words.startswith("? ")) for words in raw.remark.split(" · ") if words
    )
    note = Note(0, onset, length, raw.pitch, techniques=tuple(techniques.values()), loudness_db=round(loudness, 1))
    note = replace(note, remarks=remarks, stroke=raw.stroke)
    if raw.muted:
        note = replace(note, level_db=(_MUTED_LEVEL_DB,) * max(1, int(length / 0.01)))
    if raw.string is not None and raw.fret is not None:
        placed = replace(note, string=raw.string, fret=raw.fret).pinned("place")
        if instrument.holds(placed):
            note = placed
        else:
            told.add(
                f"string {raw.string}, fret {raw.fret} does not sound the note that is written; it is placed anew",
                where,
            )
    if raw.finger:
        note = replace(note, finger=raw.finger).pinned("finger")
    return note.pinned("pitch", "timing", "techniques")


def _sized(technique: Technique, note: Note, notes: Sequence[Note], index: int) -> Technique:
    """A slide as far as it is from the note before, of the same string if there is one."""
    if technique.name != "slide" or index == 0:
        return technique
    earlier = [n for n in notes[max(0, index - 6) : index] if not n.together(note)]
    same = [n for n in earlier if n.string == note.string] or earlier
    way = float(note.pitch - same[-1].landed) if same else 0.0
    return replace(technique, semitones=way) if way else technique
