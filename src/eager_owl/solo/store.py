"""`NAME.owl.json`: load with migration, save atomically with one previous copy, and the autosave journal."""

import json
import os
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from eager_owl.solo.document import Solo

if TYPE_CHECKING:
    from pydantic import TypeAdapter

SUFFIX = ".owl.json"
FORMAT = "eager-owl/solo"
VERSION = 1

# From each older version to the next, on the raw JSON. Version 1 is the first.
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}


@cache
def _adapter() -> "TypeAdapter[Solo]":
    """Takes a third of a second with its package: not before there is a solo to read or write."""
    from pydantic import TypeAdapter

    return TypeAdapter(Solo)


class DocumentError(Exception):
    """A file that can't be read as a solo, or can't be written; the message says why, for the player."""


def is_notes_file(text: str) -> bool:
    """Whether a text is notes for other programs, and not a document."""
    return '"eager-owl/notes"' in text[:400]


def to_json(solo: Solo) -> str:
    """The document's text, indented by one so that a diff reads line by line at the top level."""
    content = json.loads(_adapter().dump_json(solo))
    return json.dumps({"format": FORMAT, "version": VERSION, **content}, indent=1, ensure_ascii=False)


def from_json(text: str, name: str) -> Solo:
    """Read a document's text; `name` is used in messages. Raises DocumentError."""
    try:
        content = json.loads(text)
    except json.JSONDecodeError as error:
        raise DocumentError(f"{name} is damaged: not JSON at line {error.lineno}") from None
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise DocumentError(f"{name} is not an Eager Owl solo")
    version = content.get("version")
    if not isinstance(version, int) or version < 1:
        raise DocumentError(f"{name} is damaged: it has no version")
    if version > VERSION:
        raise DocumentError(
            f"{name} was written by a newer Eager Owl (version {version}; this one reads up to {VERSION})"
        )
    for older in range(version, VERSION):
        content = MIGRATIONS[older](content)
    from pydantic import ValidationError

    body = {key: value for key, value in content.items() if key not in ("format", "version")}
    try:
        return _adapter().validate_python(body, strict=False)
    except ValidationError as error:
        first = error.errors()[0]
        place = " › ".join(str(part) for part in first["loc"]) or "the file"
        raise DocumentError(f"{name} is damaged at {place}: {first['msg'].lower()}") from None


def load(path: Path) -> Solo:
    """Read a document. Raises DocumentError."""
    return from_json(read_text(path), path.name)


def read_text(path: Path) -> str:
    """A file's text. Raises DocumentError naming the file where it can't be read."""
    try:
        return path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "it is not text"
        raise DocumentError(f"{path.name} can't be read: {reason}") from None


def save(solo: Solo, path: Path) -> None:
    """Write the document whole or not at all; the copy before it stays as `NAME.owl.json~`.

    Raises DocumentError; the file on disk is then what it was.
    """
    write_atomically(path, to_json(solo).encode(), keep_previous=True)
    journal_path(path).unlink(missing_ok=True)


def journal_path(path: Path) -> Path:
    """Where unsaved work on a document is journalled."""
    return path.with_name(f".{path.name}.journal")


def write_journal(solo: Solo, path: Path) -> None:
    """Keep unsaved work beside the document, so that a crash loses nothing."""
    write_atomically(journal_path(path), to_json(solo).encode())


def read_journal(path: Path) -> Solo | None:
    """The unsaved work on a document, or None where there is none, or none that can be read."""
    try:
        return load(journal_path(path))
    except DocumentError:
        return None


def write_atomically(path: Path, content: bytes, keep_previous: bool = False) -> None:
    """Write beside, fsync, rename. Raises DocumentError and leaves nothing half-written."""
    beside = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        with beside.open("wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        if keep_previous and path.exists():
            previous = path.with_name(path.name + "~")
            previous.unlink(missing_ok=True)
            os.link(path, previous)
        os.replace(beside, path)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise DocumentError(f"{path} can't be written: {error.strerror}") from None
