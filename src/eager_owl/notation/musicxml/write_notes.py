"""One note of MusicXML: value, place, and the techniques as notations."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from xml.etree import ElementTree as ET

from eager_owl.notation.loudness import loudness_marks
from eager_owl.notation.musicxml.words import TYPES
from eager_owl.notation.score import Event, Score
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.values import TICKS
from eager_owl.solo.document import PLUCKED, Note, Solo, Stroke
from eager_owl.solo.techniques import UNSIZED_BEND_SEMITONES
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES, NATURALS, Names

_FORTE = 90.0  # the MIDI velocity that MusicXML counts loudness against


@dataclass(frozen=True)
class PartSheet:
    """What stays the same through the part."""

    solo: Solo
    score: Score
    key: Key | None
    chart: Chart
    staves: int
    loudest_db: float
    strokes: Mapping[int, Stroke | None]
    arrivals: Mapping[int, Note]  # by the id of the note that a slide, hammer-on or pull-off starts from

    @cached_property
    def loudness(self) -> tuple[list[tuple[int, str]], list[tuple[int, int, bool]]]:
        """Marks by note id, and hairpins between two."""
        notes = {note.id: note for event in self.score.events() for note in event.notes}
        return loudness_marks(list(notes.values()), self.loudest_db)

    @cached_property
    def arrived(self) -> frozenset[int]:
        """Ids of the notes that are arrived at from another."""
        return frozenset(note.id for note in self.arrivals.values())

    @cached_property
    def slurs(self) -> dict[int, str]:
        """The slur that ends at each hammered or pulled note, numbered in turn: one may end where the next begins."""
        slurred = [note.id for note in self.arrivals.values() if not note.technique("slide")]
        return {note_id: str(1 + turn % 2) for turn, note_id in enumerate(slurred)}


_BOWS: dict[str, str] = {"down": "down-bow", "up": "up-bow"}


def arrivals_of(notes: Sequence[Note]) -> dict[int, Note]:
    """Notes that are slid, hammered or pulled to, by the id of the note they come from: of their string if any."""
    found: dict[int, Note] = {}
    for index, note in enumerate(notes):
        if note.technique("slide", "hammer_on", "pull_off"):
            earlier = [n for n in notes[max(0, index - 6) : index] if not n.together(note) and n.id not in found]
            same = [n for n in earlier if n.string == note.string]
            if same or earlier:
                found[(same or earlier)[-1].id] = note
    return found


def write_step(parent: ET.Element, name: str, prefix: str) -> None:
    """A note name as step and alter."""
    ET.SubElement(parent, f"{prefix}step").text = name[0]
    if len(name) > 1:
        ET.SubElement(parent, f"{prefix}alter").text = "1" if name[1] == "#" else "-1"


def write_pitch(parent: ET.Element, pitch: int, names: Names, prefix: str = "") -> None:
    """A pitch as these names spell it."""
    name = names[pitch % 12]
    write_step(parent, name, prefix)
    ET.SubElement(parent, f"{prefix}octave").text = str(round((pitch - NATURALS[name[0]]) / 12) - 1)


def write_value(note: ET.Element, event: Event) -> None:
    """Type, dots and triplet of an event."""
    ET.SubElement(note, "type").text = TYPES[event.value.denominator]
    for _ in range(event.value.dots):
        ET.SubElement(note, "dot")
    if event.value.triplet:
        modification = ET.SubElement(note, "time-modification")
        ET.SubElement(modification, "actual-notes").text, ET.SubElement(modification, "normal-notes").text = "3", "2"


def write_tuplet(notations: ET.Element, tuplet: tuple[bool, bool]) -> None:
    """Where a triplet starts and stops."""
    for is_there, kind in zip(tuplet, ("start", "stop"), strict=True):
        if is_there:
            ET.SubElement(notations, "tuplet", type=kind)


def write_note(
    measure: ET.Element,
    note: Note,
    event: Event,
    sheet: PartSheet,
    staff: int,
    voice: int,
    chord: bool = False,
    grace: bool = False,
    beams: Sequence[str] = (),
    tuplet: tuple[bool, bool] = (False, False),
) -> None:
    """One note of an event, or a grace before it."""
    written = ET.SubElement(measure, "note")
    loud = 10 ** ((note.loudness_db - sheet.loudest_db) / 40)
    written.set("dynamics", f"{100 * (127 * loud) / _FORTE:.1f}")
    if grace:
        ET.SubElement(written, "grace", slash="yes")
    if chord:
        ET.SubElement(written, "chord")
    moment = sheet.score.grid.beat_at(note.onset)
    at = sheet.chart.chord_at(moment, sheet.score.grid.beats_per_bar)
    own = at is not None and note.pitch % 12 in at.pitch_classes
    names = at.names if at is not None and own else sheet.key.names if sheet.key else FLAT_NAMES
    write_pitch(ET.SubElement(written, "pitch"), note.pitch, names)
    if not grace:
        ET.SubElement(written, "duration").text = str(int(event.length * TICKS))
        for tied, kind in ((event.tied_from, "stop"), (event.tied_on, "start")):
            if tied:
                ET.SubElement(written, "tie", type=kind)
    begins = grace or not event.tied_from
    if begins and note.remarks:
        words = " · ".join(f"? {r.text}" if r.question else r.text for r in note.remarks)
        ET.SubElement(written, "footnote").text = words
    ET.SubElement(written, "voice").text = str(4 * (staff - 1) + voice + 1)
    if grace:
        ET.SubElement(written, "type").text = "eighth"
    else:
        write_value(written, event)
    if voice:
        ET.SubElement(written, "stem").text = "down"
    if note.muted:
        ET.SubElement(written, "notehead").text = "x"
    elif note.technique("ghost"):
        ET.SubElement(written, "notehead", parentheses="yes").text = "normal"
    ET.SubElement(written, "staff").text = str(staff)
    for level, word in enumerate(beams, 1):
        ET.SubElement(written, "beam", number=str(level)).text = word
    _write_notations(written, note, event, sheet, staff, begins, grace, tuplet)
    if begins and note.technique("palm_mute"):
        ET.SubElement(ET.SubElement(written, "play"), "mute").text = "palm"


def _write_notations(
    written: ET.Element,
    note: Note,
    event: Event,
    sheet: PartSheet,
    staff: int,
    begins: bool,
    grace: bool,
    tuplet: tuple[bool, bool],
) -> None:
    notations = ET.Element("notations")
    if not grace:
        for tied, kind in ((event.tied_from, "stop"), (event.tied_on, "start")):
            if tied:
                ET.SubElement(notations, "tied", type=kind)
        write_tuplet(notations, tuplet)
    if begins and note.technique("let_ring"):
        ET.SubElement(notations, "tied", type="let-ring")
    if begins:
        if note.technique("slide") and note.id in sheet.arrived:
            ET.SubElement(notations, "slide", type="stop", number="1")
        arriving = sheet.arrivals.get(note.id)
        if arriving is not None and arriving.technique("slide"):
            ET.SubElement(notations, "slide", type="start", number="1")
        if arriving is not None and not arriving.technique("slide"):
            ET.SubElement(notations, "slur", type="start", number=sheet.slurs[arriving.id])
        if note.id in sheet.slurs:
            ET.SubElement(notations, "slur", type="stop", number=sheet.slurs[note.id])
    if begins and staff == 1:
        _write_ornaments(notations, note)
        _write_technical(notations, note, sheet)
        _write_articulations(notations, note)
    elif note.string is not None and note.fret is not None:
        technical = ET.SubElement(notations, "technical")
        _write_place(technical, note, begins)
    if len(notations):
        written.append(notations)


def _write_ornaments(notations: ET.Element, note: Note) -> None:
    trill, vibrato = note.technique("trill"), note.technique("vibrato")
    if not (trill or vibrato):
        return
    ornaments = ET.SubElement(notations, "ornaments")
    if trill:
        step = "half" if (trill.semitones or 2.0) < 1.5 else "whole"
        ET.SubElement(ornaments, "trill-mark", attrib={"trill-step": step})
    if vibrato:
        ET.SubElement(ornaments, "wavy-line", type="start", number="1")
        ET.SubElement(ornaments, "wavy-line", type="stop", number="1")


def _write_technical(notations: ET.Element, note: Note, sheet: PartSheet) -> None:
    technical = ET.Element("technical")
    stroke = sheet.strokes.get(note.id)
    if stroke is not None:
        ET.SubElement(technical, _BOWS.get(stroke, "pluck")).text = PLUCKED.get(stroke)
    if note.technique("harmonic"):
        ET.SubElement(ET.SubElement(technical, "harmonic"), "natural")
    _write_place(technical, note, with_finger=True)
    arriving = sheet.arrivals.get(note.id)
    for name, tag, sign in (("hammer_on", "hammer-on", "H"), ("pull_off", "pull-off", "P")):
        if note.technique(name) and note.id in sheet.arrived:  # type: ignore[arg-type]
            ET.SubElement(technical, tag, type="stop", number="1")
        elif note.technique(name):  # type: ignore[arg-type]
            ET.SubElement(technical, "other-technical").text = tag
        if arriving is not None and arriving.technique(name):  # type: ignore[arg-type]
            ET.SubElement(technical, tag, type="start", number="1").text = sign
    if note.technique("slide") and note.id not in sheet.arrived:
        ET.SubElement(technical, "other-technical").text = "slide"
    if (bend := note.bend) is not None:
        size = f"{bend.bend_semitones:.2f}".rstrip("0").rstrip(".")
        up = ET.SubElement(technical, "bend")
        ET.SubElement(up, "bend-alter").text = size
        if bend.kind.struck_bent:
            ET.SubElement(up, "pre-bend")
        if bend.kind.released:
            down = ET.SubElement(technical, "bend")
            ET.SubElement(down, "bend-alter").text = f"-{size}"
            ET.SubElement(down, "release")
    if (bar := note.technique("dip", "dive")) is not None:
        size = f"{abs(bar.semitones or UNSIZED_BEND_SEMITONES):.2f}".rstrip("0").rstrip(".")
        for way, released in ((f"-{size}", False), (size, True))[: 2 if bar.name == "dip" else 1]:
            bent = ET.SubElement(technical, "bend")
            ET.SubElement(bent, "bend-alter").text = way
            if released:
                ET.SubElement(bent, "release")
            ET.SubElement(bent, "with-bar").text = bar.name
    if note.technique("tap"):
        ET.SubElement(technical, "tap")
    for name in ("rake", "palm_mute"):
        if note.technique(name):  # type: ignore[arg-type]
            ET.SubElement(technical, "other-technical").text = name.replace("_", " ")
    if len(technical):
        notations.append(technical)


def _write_place(technical: ET.Element, note: Note, with_finger: bool) -> None:
    if note.finger and with_finger:
        ET.SubElement(technical, "fingering").text = str(note.finger)
    if note.string is not None and note.fret is not None:
        ET.SubElement(technical, "string").text = str(note.string)
        ET.SubElement(technical, "fret").text = str(note.fret)


def _write_articulations(notations: ET.Element, note: Note) -> None:
    tags = []
    if note.technique("staccato"):
        tags.append("staccato")
    if slid_in := note.technique("slide_in"):
        tags.append("plop" if slid_in.falls else "scoop")
    if slid_out := note.technique("slide_out"):
        tags.append("doit" if (slid_out.semitones or -1.0) > 0 else "falloff")
    if tags:
        articulations = ET.SubElement(notations, "articulations")
        for tag in tags:
            ET.SubElement(articulations, tag)
