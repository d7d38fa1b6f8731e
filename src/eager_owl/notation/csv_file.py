"""Notes as a table of comma-separated values (RFC 4180), a row each with all that is known; written and read."""

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import fields, replace
from typing import get_args

from eager_owl.notation.imported import Complaints, ForeignFileError, Imported, checked, with_phrases
from eager_owl.reasons.explain import Reason
from eager_owl.solo.document import Instrument, Note, Remark, Solo, Stroke
from eager_owl.solo.techniques import TECHNIQUES, Technique
from eager_owl.solo.tunings import TUNINGS
from eager_owl.theory.pitch import parse_pitch, pitch_name

COLUMNS = (
    "onset", "duration", "pitch", "name", "string", "fret", "finger", "stroke", "techniques", "loudness_db",
    "confidence", "bar", "beat", "phrase", "chord", "interval_key", "interval_chord", "source", "role", "remarks",
)  # fmt: skip
_TECHNIQUE = re.compile(r"([a-z_]+)(?:\(([^)]*)\))?$")
_MEASURES = tuple(field.name for field in fields(Technique) if field.name != "name")
_STROKES: tuple[Stroke, ...] = get_args(Stroke)


def write_csv(solo: Solo, notes: Sequence[Note], reasons: Sequence[Reason], strokes: Sequence[Stroke | None]) -> str:
    """These notes of a solo, with their reasons and strokes, one of each a note."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\r\n")
    writer.writeheader()
    names = solo.key.names if solo.key else None
    for note, reason, stroke in zip(notes, reasons, strokes, strict=True):
        row: dict[str, object] = {"onset": round(note.onset, 4), "duration": round(note.duration, 4)}
        row |= {"pitch": note.pitch, "name": pitch_name(note.pitch, names) if names else pitch_name(note.pitch)}
        row |= {"string": note.string, "fret": note.fret, "finger": note.finger, "stroke": stroke}
        row |= {"loudness_db": note.loudness_db, "confidence": note.confidence}
        row["techniques"] = " ".join(map(_technique_text, note.techniques))
        if solo.grid is not None:
            bar, beat = solo.grid.bar_and_beat(note.onset)
            row |= {"bar": bar, "beat": round(beat, 3)}
        index = solo.phrase_index_at(note.onset)
        row["phrase"] = solo.phrases[index].name if index is not None else None
        row |= {"chord": reason.chord.symbol if reason.chord else None, "interval_key": reason.interval_key}
        row |= {"interval_chord": reason.interval_chord, "source": reason.source_name, "role": reason.role_name}
        row["remarks"] = "\n".join(f"? {remark.text}" if remark.question else remark.text for remark in note.remarks)
        writer.writerow({key: "" if value is None else value for key, value in row.items()})
    return out.getvalue()


def _technique_text(technique: Technique) -> str:
    """A technique with its measures: "bend(semitones=2.0;rise_s=0.14)"."""
    measured = [(name, getattr(technique, name)) for name in _MEASURES]
    inside = ";".join(f"{name}={value:g}" for name, value in measured if value is not None)
    return f"{technique.name}({inside})" if inside else technique.name


def read_csv(text: str, name: str) -> Imported:
    """Read a table with at least an onset and either a pitch (a number or a name) or a string and fret in each row.

    Columns are told by their headings. Raises ForeignFileError where there are none of these.
    """
    told = Complaints()
    csv.field_size_limit(1_000_000)
    separator = max(",;\t", key=text[:2000].count)
    try:
        reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff")), delimiter=separator)
        headings = {heading.strip().lower(): heading for heading in reader.fieldnames or [] if heading}
        if "onset" not in headings or not ({"pitch", "fret"} & set(headings)):
            raise ForeignFileError(f"{name} has no columns “onset” and “pitch” (or “string” and “fret”)")
        notes: list[Note] = []
        phrases: list[tuple[float, str]] = []
        for number, row in enumerate(reader, 2):
            cells = {key: str(row.get(heading) or "").strip() for key, heading in headings.items()}
            if not any(cells.values()):
                continue
            try:
                note = _note(cells, told, f"line {number}")
            except ValueError as error:
                told.add(f"left out: {error}", f"line {number}")
                continue
            notes.append(note)
            if cells.get("phrase") and (not phrases or phrases[-1][1] != cells["phrase"]):
                phrases.append((note.onset, cells["phrase"]))
    except csv.Error as error:
        raise ForeignFileError(f"{name} is not a table of comma-separated values ({error})") from None
    if not notes:
        raise ForeignFileError(
            f"{name} has no notes that can be read" + "".join(f"; {line}" for line in told.lines[:1])
        )
    instrument = _instrument(notes)
    settled = [_settled(note, instrument, told) for note in notes]
    solo = Solo(title=name.rsplit(".", 1)[0], instrument=instrument, notes=checked(settled, told))
    return Imported(with_phrases(solo, sorted(phrases)), told.lines)


def _instrument(notes: Sequence[Note]) -> Instrument:
    """The usual guitar, or one with as many strings as are named, tuned as the open strings come out of the frets."""
    count = max((note.string or 0 for note in notes), default=0)
    found = [
        instrument
        for tuning in TUNINGS.values()
        if len(tuning) >= max(6, count)
        for instrument in [Instrument(tuning, frets=24)]
    ]

    def fits(instrument: Instrument) -> int:
        return sum(instrument.holds(n) for n in notes if n.string and n.string <= count)

    return max(found, key=fits) if found and count <= 8 else Instrument(frets=24)


def _settled(note: Note, instrument: Instrument, told: Complaints) -> Note:
    """The note where it says it is played, if it sounds there."""
    if note.string is None or instrument.holds(note):
        return note
    told.add(
        f"string {note.string}, fret {note.fret} does not sound the pitch that is given; the note is placed anew"
    )
    return replace(note, string=None, fret=None, finger=None, pins=note.pins - {"place"})


def _note(cells: Mapping[str, str], told: Complaints, where: str) -> Note:
    """A row as a note. Raises ValueError saying what is wrong with it."""
    string, fret, finger = (_whole(cells.get(key, ""), key) for key in ("string", "fret", "finger"))
    pitch = parse_pitch(cells["pitch"]) if cells.get("pitch") else None
    if pitch is None:
        instrument = Solo().instrument
        if string is None or fret is None or not 1 <= string <= len(instrument.tuning):
            raise ValueError("it has neither a pitch nor a string and fret")
        pitch = instrument.pitch_at(string, fret, "harmonic" in cells.get("techniques", "").split())
    onset, duration = _measure(cells["onset"], "onset"), _measure(cells.get("duration") or "0.2", "duration")
    if duration <= 0:
        raise ValueError(f"a duration of {duration:g}")
    note = Note(0, onset, duration, pitch, string, fret, finger if finger is None or 0 <= finger <= 4 else None)
    techniques = []
    for word in cells.get("techniques", "").split():
        if (technique := _technique(word)) is None:
            told.add(f"the technique “{word}” is not known", where)
        else:
            techniques.append(technique)
    stroke = next((stroke for stroke in _STROKES if stroke == cells.get("stroke")), None)
    remarks = tuple(
        Remark(line.removeprefix("? "), line.startswith("? "))
        for line in cells.get("remarks", "").splitlines()
        if line
    )
    note = replace(note, techniques=tuple(techniques), stroke=stroke, remarks=remarks)
    if cells.get("loudness_db"):
        note = replace(note, loudness_db=_measure(cells["loudness_db"], "loudness_db", -200))
    if cells.get("confidence"):
        note = replace(note, confidence=min(1.0, _measure(cells["confidence"], "confidence")))
    return note.pinned("place") if string is not None and fret is not None else replace(note, string=None, fret=None)


def _whole(text: str, what: str) -> int | None:
    if not text:
        return None
    if not re.fullmatch(r"\d{1,3}(\.0+)?", text):
        raise ValueError(f"“{text[:20]}” is no {what}")
    return int(float(text))


def _measure(text: str, what: str, least: float = 0.0) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        raise ValueError(f"“{text[:20]}” is no {what}") from None
    if not least <= value <= 1e6:
        raise ValueError(f"“{text[:20]}” is no {what}")
    return value


def _technique(word: str) -> Technique | None:
    match = _TECHNIQUE.match(word)
    name = next((known for known in TECHNIQUES if match and known == match[1]), None)
    if match is None or name is None:
        return None
    measures: dict[str, float] = {}
    for part in (match[2] or "").split(";"):
        key, _, value = part.partition("=")
        if key in _MEASURES and re.fullmatch(r"-?\d{1,6}(\.\d+)?", value):
            measures[key] = float(value)
    return Technique(name, **measures)
