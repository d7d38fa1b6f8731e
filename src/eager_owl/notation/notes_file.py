"""NOTES.json, the open format in which notes go to and come from other programs."""

import json
from collections.abc import Sequence
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from eager_owl.reasons.events import Event
from eager_owl.reasons.explain import Reason
from eager_owl.reasons.tell import event_words
from eager_owl.solo.document import Instrument, Note, Solo
from eager_owl.solo.gate import GateError, JSONError, check_solo, parse_json, validation_words
from eager_owl.solo.techniques import Technique

FORMAT = "eager-owl/notes"
VERSION = 1


class NotesFileError(ValueError):
    """A notes file that can't be read; the message says why."""


class _Entry(BaseModel):
    model_config = ConfigDict(extra="ignore", defer_build=True)  # most starts of the program read no such file


class _Note(_Entry):
    onset: float = Field(ge=0, allow_inf_nan=False)
    duration: float = Field(default=0.2, gt=0, allow_inf_nan=False)
    pitch: int = Field(ge=0, le=127)
    string: int | None = Field(default=None, ge=1)
    fret: int | None = Field(default=None, ge=0)
    finger: int | None = Field(default=None, ge=0, le=4)
    techniques: tuple[Technique, ...] = ()
    loudness_db: float = -20.0
    confidence: float = Field(default=1.0, ge=0, le=1)


class _File(_Entry):
    format: str
    version: int
    tuning: list[int] = list(Instrument().tuning)
    capo: int = 0
    frets: int = Instrument().frets
    reference_cents: float = 0.0
    notes: list[_Note]


def read_notes(text: str, name: str) -> tuple[list[Note], Instrument, float]:
    """Notes (ids from 1, by onset), the instrument and the tuning offset in cents.

    A place given in the file is pinned: whoever wrote it meant it. Raises NotesFileError.
    """
    try:
        content = parse_json(text)
    except JSONError as error:
        raise NotesFileError(f"{name} is damaged: {error}") from None
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise NotesFileError(f"{name} is not a notes file (its format is not “{FORMAT}”)")
    if content.get("version") != VERSION:
        version = str(content.get("version"))[:20]
        raise NotesFileError(f"{name} has version {version}; this program reads {VERSION}")
    try:
        file = _File.model_validate(content)
        instrument = Instrument(tuple(file.tuning), file.capo, file.frets)
    except ValidationError as error:
        raise NotesFileError(f"{name}: {validation_words(error.errors()[0])}") from None
    except ValueError as error:
        raise NotesFileError(f"{name}: {error}") from None
    notes = []
    for index, entry in enumerate(sorted(file.notes, key=lambda n: (n.onset, n.pitch))):
        if entry.string is not None and entry.string > len(instrument.tuning):
            raise NotesFileError(f"{name}: there is no string {entry.string}")
        fields = {name: getattr(entry, name) for name in type(entry).model_fields}
        note = Note(index + 1, **fields)
        if note.string is not None:
            note = note.pinned("place")
        if note.finger is not None:
            note = note.pinned("finger")
        notes.append(note)
    try:
        check_solo(Solo(instrument=instrument, reference_cents=file.reference_cents, notes=tuple(notes)))
    except GateError as error:
        raise NotesFileError(f"{name}: {error}") from None
    return notes, instrument, file.reference_cents


def write_notes(
    notes: Sequence[Note],
    instrument: Instrument,
    reference_cents: float,
    reasons: Sequence[Reason] | None = None,
    events: Sequence[Event] = (),
) -> str:
    """The file's text; the reasons, one a note, and what happens in the line, where they are known."""
    rows = []
    for index, note in enumerate(notes):
        row: dict[str, Any] = {"onset": round(note.onset, 4), "duration": round(note.duration, 4)}
        row |= {"pitch": note.pitch, "string": note.string, "fret": note.fret, "finger": note.finger}
        row["techniques"] = [
            {key: value for key, value in vars(technique).items() if value is not None}
            for technique in note.techniques
        ]
        row |= {"loudness_db": note.loudness_db, "confidence": note.confidence}
        if reasons is not None:
            reason = reasons[index]
            row["chord"] = reason.chord.symbol if reason.chord else None
            row["interval_key"] = reason.interval_key
            row["interval_chord"] = reason.interval_chord
            row["interval_key_landing"] = reason.lands_key
            row["interval_chord_landing"] = reason.lands_chord
            row["source"] = reason.source_name
            row["role"] = reason.role_name
        rows.append({key: value for key, value in row.items() if value is not None})
    head = {
        "format": FORMAT,
        "version": VERSION,
        "tuning": list(instrument.tuning),
        "capo": instrument.capo,
        "frets": instrument.frets,
        "reference_cents": reference_cents,
    }
    listed = [("notes", rows)]
    if events:
        told = [
            {"kind": event.kind, "notes": [i + 1 for i in event.notes], "words": event_words(event)}
            for event in events
        ]
        listed.append(("events", told))
    text = json.dumps(head, ensure_ascii=False)[:-1]
    for name, entries in listed:
        lines = ",\n  ".join(json.dumps(entry, ensure_ascii=False) for entry in entries)
        text += f',\n "{name}": [\n  {lines}\n ]'
    return text + "}\n"
