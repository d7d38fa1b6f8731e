"""MusicXML 4.0: the score as other notation programs read it (W3C Music Notation Community Group, 2021).

One part: a standard staff over a tab staff, or the tab staff alone. Pitches are written as they sound, on a treble
clef an octave down. Techniques stand on the standard staff where there is one, as readers complain of them on tab;
string, fret and finger on both. What the format has no element for (a rake, the words of a palm mute) is an
`other-technical`.
"""

import io
import zipfile
from collections.abc import Mapping, Sequence
from fractions import Fraction
from xml.etree import ElementTree as ET

from eager_owl.notation.grouping import beam_groups, flags, trimmed, triplet_groups
from eager_owl.notation.musicxml.words import KINDS, MODES
from eager_owl.notation.musicxml.write_notes import (
    PartSheet,
    arrivals_of,
    write_note,
    write_pitch,
    write_step,
    write_tuplet,
    write_value,
)
from eager_owl.notation.score import Event, Measure, Score, write_score
from eager_owl.rhythm.chart import ChordSpan
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.rhythm.values import TICKS
from eager_owl.solo.document import Note, Solo, Stroke
from eager_owl.theory.chord import Chord
from eager_owl.theory.harmony import function_of
from eager_owl.theory.pitch import FLAT_NAMES

HEAD = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
    '"http://www.musicxml.org/dtds/partwise.dtd">\n'
)
_CONTAINER = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<container><rootfiles><rootfile full-path="score.musicxml" '
    'media-type="application/vnd.recordare.musicxml+xml"/></rootfiles></container>\n'
)
OCTAVE_DOWN = -1


def write_musicxml(
    solo: Solo,
    notes: Sequence[Note],
    grid: BeatGrid,
    strokes: Sequence[Stroke | None] = (),
    standard_staff: bool = True,
) -> str:
    """These notes of a solo as MusicXML text, on a grid; `strokes` are how each is struck, if that is to be told."""
    score = write_score(notes, grid)
    staves = 2 if standard_staff else 1
    loudest = max((note.loudness_db for note in notes), default=0.0)
    told = {note.id: stroke for note, stroke in zip(notes, strokes, strict=False)}
    sheet = PartSheet(solo, score, solo.key, solo.chart, staves, loudest, told, arrivals_of(notes))
    root = ET.Element("score-partwise", version="4.0")
    ET.SubElement(ET.SubElement(root, "work"), "work-title").text = solo.title
    identification = ET.SubElement(root, "identification")
    if solo.about.player:
        ET.SubElement(identification, "creator", type="composer").text = solo.about.player
    encoding = ET.SubElement(identification, "encoding")
    ET.SubElement(encoding, "software").text = "Eager Owl"
    part_list = ET.SubElement(root, "part-list")
    ET.SubElement(ET.SubElement(part_list, "score-part", id="P1"), "part-name").text = "Guitar"
    part = ET.SubElement(root, "part", id="P1")
    phrases = _phrase_beats(solo, score)
    for index, bar in enumerate(map(trimmed, score.measures)):
        _write_measure(part, bar, sheet, phrases, index == 0)
    if not score.measures:
        measure = ET.SubElement(part, "measure", number="1")
        _write_attributes(measure, sheet)
        note = ET.SubElement(measure, "note")
        ET.SubElement(note, "rest", measure="yes")
        ET.SubElement(note, "duration").text = str(grid.beats_per_bar * TICKS)
    return HEAD + ET.tostring(root, encoding="unicode") + "\n"


def packed_musicxml(text: str) -> bytes:
    """MusicXML text as the bytes of an `.mxl` file."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("META-INF/container.xml", _CONTAINER)
        archive.writestr("score.musicxml", text)
    return packed.getvalue()


def _phrase_beats(solo: Solo, score: Score) -> dict[tuple[int, Fraction], str]:
    """Phrase names by the bar's number and the beat of the first event of each."""
    places = {
        note.id: (bar.number, event.beat)
        for bar in score.measures
        for event in bar.voices[0]
        if not event.tied_from
        for note in (*event.graces, *event.notes)
    }
    named: dict[tuple[int, Fraction], str] = {}
    for phrase in solo.phrases:
        first = next((places[note.id] for note in solo.notes_in(phrase) if note.id in places), None)
        if first is not None and phrase.name:
            named[first] = phrase.name
    return named


# Bars


def _write_measure(
    part: ET.Element, bar: Measure, sheet: PartSheet, phrases: Mapping[tuple[int, Fraction], str], first: bool
) -> None:
    measure = ET.SubElement(part, "measure", number=str(bar.number))
    if bar.number < 1:
        measure.set("implicit", "yes")
    if first:
        _write_attributes(measure, sheet)
        _write_tempo(measure, sheet.score.grid)
    start = min(voice[0].beat for voice in bar.voices if voice)
    end = Fraction(bar.start + sheet.score.grid.beats_per_bar)
    changes = {} if bar.number < 1 else {Fraction(c.start).limit_denominator(TICKS): c for c in _changes(bar, sheet)}
    for staff in range(1, sheet.staves + 1):
        for number, voice in enumerate(bar.voices):
            if staff > 1 or number:
                _move(measure, "backup", end - start)
            at = start
            if voice and voice[0].beat > start:
                _move(measure, "forward", voice[0].beat - start)
            own_changes = changes if staff == 1 and number == 0 else {}
            names = phrases if staff == 1 and number == 0 else {}
            _write_voice(measure, bar, voice, sheet, staff, number, own_changes, names)
            at = voice[-1].end if voice else start
            if at < end:
                _move(measure, "forward", end - at)
    if bar is sheet.score.measures[-1] or bar.number == sheet.score.measures[-1].number:
        ET.SubElement(ET.SubElement(measure, "barline", location="right"), "bar-style").text = "light-heavy"


def _write_attributes(measure: ET.Element, sheet: PartSheet) -> None:
    solo, grid = sheet.solo, sheet.score.grid
    attributes = ET.SubElement(measure, "attributes")
    ET.SubElement(attributes, "divisions").text = str(divisions(grid))
    if sheet.key is not None:
        key = ET.SubElement(attributes, "key")
        ET.SubElement(key, "fifths").text = str(sheet.key.fifths)
        ET.SubElement(key, "mode").text = home if (home := sheet.key.home.lower()) in MODES else sheet.key.mode
    time = ET.SubElement(attributes, "time")
    beats, beat_type = grid.meter.split("/")
    ET.SubElement(time, "beats").text, ET.SubElement(time, "beat-type").text = beats, beat_type
    if sheet.staves > 1:
        ET.SubElement(attributes, "staves").text = str(sheet.staves)
        clef = ET.SubElement(attributes, "clef", number="1")
        ET.SubElement(clef, "sign").text, ET.SubElement(clef, "line").text = "G", "2"
        ET.SubElement(clef, "clef-octave-change").text = str(OCTAVE_DOWN)
    clef = ET.SubElement(attributes, "clef", number=str(sheet.staves))
    tuning = solo.instrument.tuning
    ET.SubElement(clef, "sign").text, ET.SubElement(clef, "line").text = "TAB", str(min(5, len(tuning) - 1))
    details = ET.SubElement(attributes, "staff-details", number=str(sheet.staves))
    ET.SubElement(details, "staff-lines").text = str(len(tuning))
    for line, pitch in enumerate(reversed(tuning), 1):
        open_string = ET.SubElement(details, "staff-tuning", line=str(line))
        write_pitch(open_string, pitch, FLAT_NAMES, "tuning-")
    if solo.instrument.capo:
        ET.SubElement(details, "capo").text = str(solo.instrument.capo)


def divisions(grid: BeatGrid) -> int:
    """Parts of a quarter note, of which a beat has TICKS: a beat of three parts is a dotted quarter."""
    return TICKS if grid.division == 2 else TICKS * 2 // 3


def _write_tempo(measure: ET.Element, grid: BeatGrid) -> None:
    direction = ET.SubElement(measure, "direction", placement="above")
    metronome = ET.SubElement(ET.SubElement(direction, "direction-type"), "metronome")
    ET.SubElement(metronome, "beat-unit").text = "quarter"
    if grid.division == 3:
        ET.SubElement(metronome, "beat-unit-dot")
    ET.SubElement(metronome, "per-minute").text = f"{grid.bpm:.2f}".rstrip("0").rstrip(".")
    quarters = grid.bpm * (1.5 if grid.division == 3 else 1.0)
    sound = ET.SubElement(direction, "sound", tempo=f"{quarters:.6f}".rstrip("0").rstrip("."))
    if grid.swung:
        swing = ET.SubElement(sound, "swing")
        ET.SubElement(swing, "first").text, ET.SubElement(swing, "second").text = "2", "1"
        ET.SubElement(swing, "swing-type").text = "eighth"


def _changes(bar: Measure, sheet: PartSheet) -> list[ChordSpan]:
    """The chords of a bar; none changes before its first event."""
    per_bar = sheet.score.grid.beats_per_bar
    return sheet.chart.changes(bar.start, bar.start + per_bar - 1e-6, per_bar)


def _move(measure: ET.Element, which: str, beats: Fraction) -> None:
    if beats:
        ET.SubElement(ET.SubElement(measure, which), "duration").text = str(int(beats * TICKS))


# Voices and notes


def _write_voice(
    measure: ET.Element,
    bar: Measure,
    voice: Sequence[Event],
    sheet: PartSheet,
    staff: int,
    number: int,
    changes: Mapping[Fraction, ChordSpan],
    phrases: Mapping[tuple[int, Fraction], str],
) -> None:
    beams = _beam_words(voice)
    triplets = triplet_groups(voice)
    starts, stops = {group[0] for group in triplets}, {group[-1] for group in triplets}
    waiting = sorted(changes)
    if number == 0 and staff == 1 and bar.number >= 1 and sheet.chart.bars:
        section = dict(sheet.chart.sections).get((bar.number - 1) % len(sheet.chart.bars))
        if section is not None:
            _write_rehearsal(measure, section, "square")
    for index, event in enumerate(voice):
        if name := phrases.get((bar.number, event.beat)):
            _write_rehearsal(measure, name, "none")
        if staff == 1 and number == 0 and not event.tied_from:
            _write_loudness(measure, event, sheet)
        while waiting and waiting[0] < event.end:
            beat = waiting.pop(0)
            _write_harmony(measure, changes[beat].chord, sheet, max(Fraction(0), beat - event.beat))
        tuplet = (index in starts, index in stops)
        for grace in event.graces:
            write_note(measure, grace, event, sheet, staff, number, grace=True)
        if not event.notes:
            _write_rest(measure, event, staff, number, tuplet)
        for place, note in enumerate(event.notes):
            words = beams.get(index, []) if place == 0 else []
            write_note(measure, note, event, sheet, staff, number, chord=place > 0, beams=words, tuplet=tuplet)


def _write_rehearsal(measure: ET.Element, words: str, enclosure: str) -> None:
    direction = ET.SubElement(measure, "direction", placement="above")
    ET.SubElement(ET.SubElement(direction, "direction-type"), "rehearsal", enclosure=enclosure).text = words


def _write_loudness(measure: ET.Element, event: Event, sheet: PartSheet) -> None:
    """A mark of loudness that begins here, and wedges that begin or end here."""
    marks, pins = sheet.loudness
    ids = {note.id for note in event.notes}
    for note_id, mark in marks:
        if note_id in ids:
            direction = ET.SubElement(measure, "direction", placement="below")
            ET.SubElement(ET.SubElement(ET.SubElement(direction, "direction-type"), "dynamics"), mark)
    for first, last, grows in pins:
        for note_id, kind in ((last, "stop"), (first, "crescendo" if grows else "diminuendo")):
            if note_id in ids:
                direction = ET.SubElement(measure, "direction", placement="below")
                ET.SubElement(ET.SubElement(direction, "direction-type"), "wedge", type=kind)


def _write_harmony(measure: ET.Element, chord: Chord | None, sheet: PartSheet, offset: Fraction) -> None:
    harmony = ET.SubElement(measure, "harmony")
    root = ET.SubElement(harmony, "root")
    if chord is None:
        ET.SubElement(root, "root-step", text="").text = "C"
        ET.SubElement(harmony, "kind", text="N.C.").text = "none"
    else:
        write_step(root, chord.names[chord.root], "root-")
        kind = next((name for name, labels in KINDS.items() if set(labels) == set(chord.labels)), None) or next(
            (name for name, labels in KINDS.items() if set(labels) <= set(chord.labels)), "other"
        )
        ET.SubElement(harmony, "kind", text=chord.suffix).text = kind
        if chord.bass != chord.root:
            write_step(ET.SubElement(harmony, "bass"), chord.names[chord.bass], "bass-")
        for label in chord.labels:
            if label not in KINDS.get(kind, ()):
                degree = ET.SubElement(harmony, "degree")
                ET.SubElement(degree, "degree-value").text = label.lstrip("b#").replace("R", "1")
                ET.SubElement(degree, "degree-alter").text = str(label.count("#") - label.count("b"))
                ET.SubElement(degree, "degree-type").text = "add"
    if offset:
        ET.SubElement(harmony, "offset").text = str(int(offset * TICKS))
    if chord is not None and sheet.key is not None:
        direction = ET.SubElement(measure, "direction", placement="below")
        ET.SubElement(ET.SubElement(direction, "direction-type"), "words").text = function_of(
            chord, sheet.key
        ).numeral
        if offset:
            ET.SubElement(direction, "offset").text = str(int(offset * TICKS))


def _write_rest(measure: ET.Element, event: Event, staff: int, voice: int, tuplet: tuple[bool, bool]) -> None:
    note = ET.SubElement(measure, "note")
    ET.SubElement(note, "rest", attrib={"measure": "yes"} if event.bar_rest else {})
    ET.SubElement(note, "duration").text = str(int(event.length * TICKS))
    ET.SubElement(note, "voice").text = str(4 * (staff - 1) + voice + 1)
    if not event.bar_rest:
        write_value(note, event)
    ET.SubElement(note, "staff").text = str(staff)
    if any(tuplet):
        write_tuplet(ET.SubElement(note, "notations"), tuplet)


def _beam_words(voice: Sequence[Event]) -> dict[int, list[str]]:
    """What each beam does at each event: begin, continue, end, or a hook where it stands alone."""
    words: dict[int, list[str]] = {}
    for group in beam_groups(voice):
        for place, index in enumerate(group):
            counts = [flags(voice[i]) for i in group]
            words[index] = []
            for level in range(1, counts[place] + 1):
                before = place > 0 and counts[place - 1] >= level
                after = place + 1 < len(group) and counts[place + 1] >= level
                alone = "backward hook" if place else "forward hook"
                words[index].append(
                    "continue" if before and after else "end" if before else "begin" if after else alone
                )
    return words
