"""Text tab as people type it, read into a solo: any number of wrapped systems of four to eight lines.

Rhythm is read from spacing: a bar's signs are spread over its beats, and laid on likely values. Where there are no
bars, the commonest gap is taken for an eighth note.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise
from statistics import median

from eager_owl.notation.imported import (
    MOST_BARS,
    Complaints,
    ForeignFileError,
    Imported,
    chart_from,
    checked,
    with_phrases,
)
from eager_owl.notation.tab_strings import Struck, read_string
from eager_owl.notation.tab_systems import NAMED, System, chords_in, find_systems, is_bar_number
from eager_owl.rhythm.grid import MAX_BPM, MIN_BPM, BeatGrid
from eager_owl.rhythm.values import played_beat, write_values
from eager_owl.solo.document import Instrument, Note, Solo
from eager_owl.solo.techniques import Technique, TechniqueName
from eager_owl.theory.chord import Chord, parse_chord
from eager_owl.theory.key import parse_key
from eager_owl.theory.pitch import parse_pitch_class

_DEFAULT_BPM = 120.0
_MUTED_LEVEL_DB = -30
_SAME = str.maketrans({"–": "-", "—": "-", "−": "-", "‐": "-", "‑": "-", "─": "-", "━": "-", "_": "-", "│": "|",
                       "┃": "|", "¦": "|", "║": "|", "\t": " ", "\u00a0": " ", "•": ".", "×": "x"})  # fmt: skip
# The usual tuning of as many lines; four and five are a bass's.
_USUAL = {
    4: (43, 38, 33, 28), 5: (43, 38, 33, 28, 23), 6: (64, 59, 55, 50, 45, 40), 7: (64, 59, 55, 50, 45, 40, 35),
    8: (64, 59, 55, 50, 45, 40, 35, 30),
}  # fmt: skip
_METER = re.compile(r"(?<![\d/])(\d{1,2})/(2|4|8)(?![\d/])")
_TEMPO = re.compile(r"(?:tempo|bpm|♩|q|quarter)\s*[:=]?\s*=?\s*(\d{2,3}(?:\.\d+)?)", re.IGNORECASE)
_TEMPO_AFTER = re.compile(r"(\d{2,3}(?:\.\d+)?)\s*(?:bpm|beats a minute)", re.IGNORECASE)
_TO_THE_BAR = re.compile(r"(\d{1,2}) to the bar")
_CAPO = re.compile(r"capo\D{0,12}(\d{1,2})", re.IGNORECASE)
_KEY = re.compile(
    r"(?:^|key\s*(?:of|:)?\s*|· )([A-G][#b♯♭]? ?(?:minor|major|min|maj|m)\b|[A-G][#b♯♭]?(?=\s*$))", re.IGNORECASE
)
_TUNING = re.compile(r"tun(?:ing|ed)\W+((?:[A-G][#b♯♭]?[\s\-,]*){4,8})(?![a-z])", re.IGNORECASE)
_OVER: dict[str, TechniqueName] = {"p.m.": "palm_mute", "pm": "palm_mute", "ring": "let_ring", "let ring": "let_ring",
                                   "rake": "rake", "dip": "dip", "dive": "dive"}  # fmt: skip


@dataclass
class _Bar:
    """One bar: its width, its notes by string, the chords over it, its number if that is told."""

    width: int
    strings: list[list[Struck]]
    chords: list[tuple[float, Chord | None]] = field(default_factory=list)
    name: str = ""
    number: int | None = None


def read_tab(text: str, name: str, bpm: float | None = None) -> Imported:
    """Read a text; `bpm` goes before a tempo that it names itself. Raises ForeignFileError where there is no tab."""
    told = Complaints()
    lines = [line.rstrip().translate(_SAME) for line in text.lstrip("\ufeff").splitlines()]
    systems, rest = find_systems(lines, told)
    if not systems:
        raise ForeignFileError(f"{name} has no tab in it: no four to eight lines of dashes and frets together")
    strings = max({len(s.bodies) for s in systems}, key=[len(s.bodies) for s in systems].count)
    for system in systems:
        if len(system.bodies) != strings:
            told.add(
                f"a system of {len(system.bodies)} strings among those of {strings} is left out",
                f"line {system.first_line}",
            )
    systems = [system for system in systems if len(system.bodies) == strings]
    facts = "\n".join(rest)
    instrument = _instrument(systems, facts, strings, told)
    grid = _grid(facts, bpm)
    bars = [bar for system in systems for bar in _bars(system, told)]
    if len(bars) > MOST_BARS:
        raise ForeignFileError(f"{name} has more than {MOST_BARS} bars")
    barred = any(system.barred for system in systems)
    title = next((line.strip() for line in rest[:8] if _is_title(line)), name.rsplit(".", 1)[0])
    key = _key(facts)
    solo = Solo(title=title[:120], instrument=instrument, key_text=key, grid=grid)
    return _as_solo(solo, bars, barred, told)


def _bars(system: System, told: Complaints) -> list[_Bar]:
    """The bars of a system: each line is cut at its own bar lines, so that a line typed askew does no harm."""
    cut = [re.split(r"\|+", body) for body in system.bodies]
    counts = [len(parts) for parts in cut]
    count = max(set(counts), key=counts.count)
    if len(set(counts)) > 1:
        told.add("its lines do not have the same bars: what is too much is left out", f"line {system.first_line}")
    bars: list[_Bar] = []
    column = system.margin
    for index in range(count):
        parts = [parts[index] if index < len(parts) else "" for parts in cut]
        width = max(len(part) for part in parts)
        strings = []
        for place, part in enumerate(parts):
            where = f"line {system.first_line + place}, column {column + 1}"
            strings.append(read_string(part, lambda at, sign, where=where: told.add(f"“{sign}” is not known", where)))  # type: ignore[misc]
        bar = _Bar(width, strings)
        bar.number, bar.chords = _headed(system, column, width, last=index + 1 == count)
        for over in system.over:
            _apply_over(over, column, bar)
        if width or any(strings):
            bars.append(bar)
        column += width + 1
    if bars:
        bars[0].name = system.name
    return _repeated(bars, cut[0])


def _repeated(bars: list[_Bar], parts: Sequence[str]) -> list[_Bar]:
    """Bars between repeat signs, twice."""
    if len(bars) != len([part for part in parts if part]):
        return bars
    played: list[_Bar] = []
    start = 0
    for index, part in enumerate([part for part in parts if part]):
        if part.startswith((":", "*:")):
            start = len(played)
        played.append(bars[index])
        if part.rstrip("*").endswith(":"):
            played += [replace(bar, name="", number=None) for bar in played[start:]]
            start = len(played)
    return played


def _headed(
    system: System, column: int, width: int, last: bool
) -> tuple[int | None, list[tuple[float, Chord | None]]]:
    """The number and the chords over a bar, the chords by the share of the bar at which they come."""
    number: int | None = None
    chords: list[tuple[float, Chord | None]] = []
    for line in system.over:
        for at, word in chords_in(line):
            before = at < column - 1 and column > system.margin
            if before or at >= column + width or (at >= column + width - 1 and not last):
                continue
            share = max(0.0, (at - column) / max(width, 1))
            if is_bar_number(word):
                number = int(word)
            elif word == "pickup":
                number = 0
            elif word.upper() in ("N.C.", "NC"):
                chords.append((share, None))
            elif word != "%":
                chords.append((share, parse_chord(word)))
    return number, chords


def _apply_over(line: str, column: int, bar: _Bar) -> None:
    """Palm mutes and ringing said over the strings: on the notes under the words and the dashes after them."""
    for match in re.finditer(r"(let ring|p\.?m\.?|ring|rake)[-.\s]*(?:\||$|[-.]*)", line, re.IGNORECASE):
        name = _OVER.get(re.sub(r"[-\s.|]+$", "", match[1].lower().replace("p.m", "pm").replace("pm.", "pm")))
        if name is None:
            continue
        for string in bar.strings:
            for note in string:
                if match.start() - 1 <= column + note.column < max(match.end(), match.start() + 2):
                    note.give(name)


# Facts


def _is_title(line: str) -> bool:
    """Whether a line of words is what the tab is called, and no fact, phrase name or row of chords."""
    facts = (_TEMPO, _TEMPO_AFTER, _METER, _CAPO, _TUNING, NAMED)
    told = any(pattern.search(line) for pattern in facts) or re.search(r"\bkey\b", line, re.IGNORECASE)
    return bool(re.search(r"[A-Za-z]{2}", line)) and not told and not chords_in(line)


def _instrument(systems: Sequence[System], facts: str, strings: int, told: Complaints) -> Instrument:
    usual = _USUAL[strings]
    labels = systems[0].labels
    said = _TUNING.search(facts)
    letters = re.findall(r"[A-G][#b♯♭]?", said[1], re.IGNORECASE) if said else []
    if len(letters) == strings:
        labels = letters[::-1] if _distance(letters[::-1], usual) <= _distance(letters, usual) else letters
    tuning = tuple(_near(label, pitch) for label, pitch in zip(labels, usual, strict=True))
    capo = _CAPO.search(facts)
    try:
        return Instrument(tuning, int(capo[1]) if capo else 0, max(22, 24 if strings > 6 else 22))
    except ValueError as error:
        told.add(f"its tuning is taken as the usual one: {error}")
        return Instrument(usual)


def _near(label: str, usual: int) -> int:
    """The pitch of a string's letter that lies nearest the usual one."""
    if not label or label.isdecimal():
        return usual
    step = (parse_pitch_class(label[0].upper() + label[1:]) - usual) % 12
    return usual + (step if step <= 6 else step - 12)


def _distance(letters: Sequence[str], usual: Sequence[int]) -> int:
    return sum(abs(_near(letter, pitch) - pitch) for letter, pitch in zip(letters, usual, strict=True))


def _grid(facts: str, bpm: float | None) -> BeatGrid:
    tempo = bpm
    found = _TEMPO.search(facts) or _TEMPO_AFTER.search(facts)
    if tempo is None and found:
        tempo = float(found[1])
    tempo = min(max(tempo or _DEFAULT_BPM, MIN_BPM), MAX_BPM)
    beats, division = 4, 2
    if (meter := _METER.search(facts)) is not None and 1 <= int(meter[1]) <= 15:
        number, unit = int(meter[1]), int(meter[2])
        if unit == 8 and number % 3 == 0:
            beats, division = number // 3, 3
        else:
            beats = max(1, number * 4 // unit)
    elif (said := _TO_THE_BAR.search(facts)) is not None and 1 <= int(said[1]) <= 15:
        beats = int(said[1])
    return BeatGrid(tempo, 0.0, beats, division=division)


def _key(facts: str) -> str:
    for line in facts.splitlines():
        for match in _KEY.finditer(line):
            if "key" not in match[0].lower() and "·" not in line and not re.search(r"minor|major", match[0]):
                continue
            try:
                return parse_key(match[1]).name
            except ValueError:
                continue
    return ""


# As a solo


def _as_solo(solo: Solo, bars: list[_Bar], barred: bool, told: Complaints) -> Imported:
    assert solo.grid is not None
    per_bar = solo.grid.beats_per_bar
    numbered = barred and all(bar.number is not None for bar in bars) and len(bars) > 0
    first = min((bar.number or 0 for bar in bars), default=1) if numbered else 1
    offset = max(0, 1 - first)  # bars before bar 1
    grid = replace(solo.grid, first_beat_s=offset * solo.grid.bar_s)
    places = [(bar.number or 0) - 1 if numbered else index for index, bar in enumerate(bars)]
    if barred:
        columns = _bar_columns(bars)
        beats = min(
            (_spread(bars, places, per_bar, pad, columns) for pad in (0, 1, 2)), key=lambda b: _roughness(b, grid)
        )
    else:
        beats = _by_gaps(bars)
    notes: list[Note] = []
    for beat, string, struck in sorted(beats, key=lambda b: (b[0], -b[1])):
        note = _note(struck, string, solo.instrument, grid.time_of(beat), told)
        if note is not None:
            notes.append(note)
    notes = _timed(notes, grid, barred)
    changes = [
        (Fraction(place * per_bar) + (round(share * per_bar) if share > 0.2 else 0), chord)
        for place, bar in zip(places, bars, strict=True)
        for share, chord in bar.chords
    ]
    chart = chart_from(sorted(dict(changes).items()), per_bar, max(places, default=0) + 1) if barred else ""
    named = []
    for place, bar in zip(places, bars, strict=True):
        own = [note.onset for note in notes if grid.beat_at(note.onset) >= place * per_bar - 0.01]
        if bar.name and own:
            named.append((own[0], bar.name))
    solo = replace(solo, grid=grid, chart_text=chart, notes=checked(notes, told))
    if not solo.notes:
        raise ForeignFileError("the tab has no notes: its lines are empty")
    return Imported(with_phrases(solo, named), told.lines)


_Placed = list[tuple[float, int, Struck]]  # beat from bar 1, string, note


def _bar_columns(bars: Sequence[_Bar]) -> int:
    """The column that a bar's first beat stands on: the least that any note has, of all bars."""
    return min((note.column for bar in bars for string in bar.strings for note in string), default=0)


def _spread(bars: Sequence[_Bar], places: Sequence[int], per_bar: int, pad: int, first: int) -> _Placed:
    """Notes over their bars' beats, where so many columns at a bar's end are no time."""
    placed: _Placed = []
    for place, bar in zip(places, bars, strict=True):
        width = max(1, bar.width - first + 1 - pad)
        for string, notes in enumerate(bar.strings, 1):
            for note in notes:
                share = min((note.column - first) / width, 0.999)
                placed.append((place * per_bar + per_bar * share, string, note))
    return placed


def _roughness(placed: _Placed, grid: BeatGrid) -> float:
    """How far notes lie from the values that they would be written with, and how odd those are."""
    onsets = [grid.time_of(beat) for beat in sorted({beat for beat, _, _ in placed})]
    written = write_values(onsets, [0.2] * len(onsets), grid)
    return sum(abs(w.late_ms) / 1000 / grid.beat_s + 0.02 * w.beat.denominator for w in written)


def _by_gaps(bars: Sequence[_Bar]) -> _Placed:
    """Without bars: the commonest gap between strokes is half a beat."""
    start, placed = 0, []
    columns: list[int] = []
    for bar in bars:
        for string, notes in enumerate(bar.strings, 1):
            for note in notes:
                placed.append((start + note.column, string, note))
        start += bar.width + 1
    columns = sorted({at for at, _, _ in placed})
    gaps = [b - a for a, b in pairwise(columns)]
    unit = median(gaps) if gaps else 2
    origin = columns[0] if columns else 0
    return [((at - origin) / unit / 2, string, note) for at, string, note in placed]


def _note(struck: Struck, string: int, instrument: Instrument, onset: float, told: Complaints) -> Note | None:
    fret = struck.fret if struck.fret is not None else 0
    if instrument.capo and struck.fret is not None:
        fret += instrument.capo
    if fret > instrument.frets:
        told.add(f"fret {fret} is past the neck's {instrument.frets}: left out")
        return None
    pitch = instrument.pitch_at(string, fret, "harmonic" in struck.techniques)
    level = (_MUTED_LEVEL_DB,) * 12 if struck.fret is None else ()
    techniques = tuple(struck.techniques.values())
    note = Note(0, onset, 0.1, pitch, string, max(fret, instrument.capo), techniques=techniques, level_db=level)
    return note.pinned("pitch", "timing", "place", "techniques")


def _timed(notes: Sequence[Note], grid: BeatGrid, barred: bool) -> list[Note]:
    """Notes on the values they are likely written with, each until the next stroke, or its bar's end."""
    onsets = [note.onset for note in notes]
    per_bar = grid.beats_per_bar
    bar_ends = [grid.time_of((grid.beat_at(onset + 0.01) // per_bar + 1) * per_bar) for onset in onsets]
    ends = [next((later for later in onsets[i + 1 :] if later > onset + 0.01), onset + grid.beat_s)
            for i, onset in enumerate(onsets)]  # fmt: skip
    if barred:
        ends = [min(end, bar_end) for end, bar_end in zip(ends, bar_ends, strict=True)]
    graces = [index for index, note in enumerate(notes) if note.technique("grace")]
    written = write_values(onsets, [end - onset for onset, end in zip(onsets, ends, strict=True)], grid, graces)
    timed = []
    for note, place in zip(notes, written, strict=True):
        onset = grid.time_of(played_beat(float(place.beat), grid))
        length = grid.time_of(played_beat(float(place.beat + place.length), grid)) - onset
        if not place.length:
            onset, length = max(0.0, onset - 0.06), 0.06
        if note.technique("staccato"):
            length = max(0.05, length / 2)
        timed.append(replace(note, onset=onset, duration=max(length, 0.02)))
    return [_double(note, timed) for note in timed]


def _double(note: Note, notes: Sequence[Note]) -> Note:
    """Two at once are a double stop."""
    if sum(other.together(note) for other in notes) == 2 and not note.technique("double_stop"):
        return replace(note, techniques=(*note.techniques, Technique("double_stop")))
    return note
