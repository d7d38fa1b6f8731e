"""The one gate that a document passes, on load and before it is written: nothing in it can hang, crash or be lost.

Types are checked by its schema; this checks what types do not say: finite and bounded numbers, text that can be kept,
notes in order on the neck with ids of their own, phrases that do not overlap.
"""

import json
from collections.abc import Mapping, Sequence
from dataclasses import fields, is_dataclass
from itertools import pairwise
from math import isfinite
from typing import Any

from eager_owl.solo.document import Instrument, Note, Phrase, Solo
from eager_owl.theory.key import parse_key

MOST_SECONDS = 12 * 3600.0
MOST_NOTES, MOST_PHRASES, MOST_ANCHORS = 50_000, 5_000, 50_000
MOST_CHARACTERS = 200_000
_MOST_NUMBER = 1e9
_LOUDNESS_DB = (-500.0, 200.0)
_LONGEST_QUOTED = 120
_OVERLAP_S = 0.005  # suggested phrases once overlapped by a thousandth of a second


class GateError(ValueError):
    """What is wrong with a document, and where."""


class JSONError(ValueError):
    """Text that is not JSON with finite numbers; the message says why."""


def parse_json(text: str) -> Any:
    """JSON as plain values. Raises JSONError, also where Python's reader would take a number that is none."""

    def refuse(word: str) -> object:
        raise JSONError(f"{word} is no number")

    try:
        return json.loads(text, parse_constant=refuse)
    except json.JSONDecodeError as error:
        raise JSONError(f"not JSON at line {error.lineno}") from None
    except RecursionError:
        raise JSONError("it is nested too deeply") from None
    except JSONError:
        raise
    except ValueError as error:  # a number of thousands of digits
        raise JSONError(str(error)[:80].lower()) from None


def validation_words(error: Mapping[str, Any]) -> str:
    """Where JSON is not what its model asks for, and how, from a validation error's details."""
    place = " › ".join(map(str, error["loc"])) or "the file"
    if error["type"] in ("model_type", "model_attributes_type", "dataclass_type"):
        return f"{place}: it should be an object"  # the library's own words name the class
    return f"{place}: {error['msg'].lower()}"


def check_solo(solo: Solo, known: Solo | None = None) -> Solo:
    """The solo itself, if it may be kept. Raises GateError naming the first thing that may not.

    The parts of `known`, which has passed, are not looked into again: an edit changes few.
    """
    passed = frozenset(map(id, (*known.notes, *known.phrases, *vars(known).values()) if known else ()))
    _walk(solo, "", passed)
    _check_count("notes", len(solo.notes), MOST_NOTES)
    _check_count("phrases", len(solo.phrases), MOST_PHRASES)
    if solo.grid is not None:
        _check_count("grid › anchors", len(solo.grid.anchors), MOST_ANCHORS)
        _check_seconds("grid › first_beat_s", abs(solo.grid.first_beat_s))
        for _, time_s in solo.grid.anchors:
            _check_seconds("grid › anchors", abs(time_s))
    if solo.recording is not None:
        _check_seconds("recording › duration_s", solo.recording.duration_s)
    for index, note in enumerate(solo.notes):
        if id(note) not in passed or solo.instrument is not (known and known.instrument):
            _check_note(f"notes › {index}", note, solo.instrument)
    for index, phrase in enumerate(solo.phrases):
        if id(phrase) not in passed:
            for number, other in enumerate(phrase.others):
                _check_note(f"phrases › {index} › others › {number}", other, solo.instrument)
    _check_key(solo.key_text)
    _check_order(solo.notes)
    _check_phrases(solo.phrases)
    return solo


def _walk(value: object, where: str, passed: frozenset[int]) -> None:
    """Every number finite and not absurd, every text one that can be written."""
    if id(value) in passed:
        return
    if isinstance(value, str):
        if len(value) > MOST_CHARACTERS:
            raise GateError(f"{where}: a text of {len(value)} characters")
        try:
            value.encode()
        except UnicodeEncodeError:
            raise GateError(f"{where}: a text that can't be written") from None
    elif isinstance(value, bool) or value is None:
        return
    elif isinstance(value, int | float):
        if not isfinite(value) or abs(value) > _MOST_NUMBER:
            raise GateError(f"{where}: a number that is none or far too large")
    elif isinstance(value, tuple):
        if value and isinstance(value[0], int):
            _check_whole(value, where)
        else:
            for index, part in enumerate(value):
                _walk(part, f"{where} › {index}" if where else str(index), passed)
    elif is_dataclass(value):
        for field in fields(value):
            _walk(getattr(value, field.name), f"{where} › {field.name}" if where else field.name, passed)


def _check_whole(values: Sequence[int], where: str) -> None:
    """Long rows of whole numbers, all at once."""
    if max(values) > _MOST_NUMBER or min(values) < -_MOST_NUMBER:
        raise GateError(f"{where}: a number that is far too large")


def _check_count(where: str, count: int, most: int) -> None:
    if count > most:
        raise GateError(f"{where}: {count} are more than the {most} that a solo may have")


def _check_seconds(where: str, seconds: float) -> None:
    if not 0 <= seconds <= MOST_SECONDS:
        raise GateError(f"{where}: {seconds:g} s is outside 0 to {MOST_SECONDS:g}")


def _check_note(where: str, note: Note, instrument: Instrument) -> None:
    _check_seconds(f"{where} › onset", note.onset)
    _check_seconds(f"{where} › duration", note.duration)
    if note.duration <= 0:
        raise GateError(f"{where} › duration: a note that lasts no time")
    if not 0 <= note.pitch <= 127:
        raise GateError(f"{where} › pitch: {note.pitch} is outside 0 to 127")
    if note.string is not None and not 1 <= note.string <= len(instrument.tuning):
        raise GateError(f"{where} › string: there is no string {note.string}")
    if note.fret is not None and not 0 <= note.fret <= instrument.frets:
        raise GateError(f"{where} › fret: {note.fret} is outside 0 to {instrument.frets}")
    if not 0 <= note.confidence <= 1:
        raise GateError(f"{where} › confidence: {note.confidence:g} is outside 0 to 1")
    if note.other_place is not None and not (note.other_place[0] >= 1 and note.other_place[1] >= 0):
        raise GateError(f"{where} › other_place: there is no such string or fret")
    if any(not 0 <= share <= 1 for _, share in note.other_manners):
        raise GateError(f"{where} › other_manners: a share of belief is outside 0 to 1")
    if not _LOUDNESS_DB[0] <= note.loudness_db <= _LOUDNESS_DB[1]:
        raise GateError(f"{where} › loudness_db: {note.loudness_db:g} is no level")


def _check_key(text: str) -> None:
    if text:
        try:
            parse_key(text)
        except ValueError as error:
            raise GateError(f"key_text: {str(error)[:_LONGEST_QUOTED]}") from None


def _check_order(notes: Sequence[Note]) -> None:
    ids = {note.id for note in notes}
    if len(ids) < len(notes):
        raise GateError("notes: two of them have one id")
    for index, (note, following) in enumerate(pairwise(notes)):
        if following.onset < note.onset:
            raise GateError(f"notes › {index + 1}: it begins before the one before it")


def _check_phrases(phrases: Sequence[Phrase]) -> None:
    for index, phrase in enumerate(phrases):
        _check_seconds(f"phrases › {index} › start", phrase.start)
        _check_seconds(f"phrases › {index} › end", phrase.end)
        if phrase.end <= phrase.start:
            raise GateError(f"phrases › {index}: it ends before it begins")
    for index, (phrase, following) in enumerate(pairwise(phrases)):
        if following.start < phrase.end - _OVERLAP_S:
            raise GateError(f"phrases › {index + 1}: it overlaps the one before it")
