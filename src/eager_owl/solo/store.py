"""`NAME.owl.json`: load with migration, save atomically with one previous copy."""

import errno
import glob
import json
import os
import shutil
from collections.abc import Callable
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from eager_owl.solo.document import Solo
from eager_owl.solo.gate import GateError, JSONError, check_solo, parse_json, validation_words

if TYPE_CHECKING:
    from pydantic import TypeAdapter

SUFFIX = ".owl.json"
FORMAT = "eager-owl/solo"
VERSION = 1
MOST_BYTES = 300_000_000
_NAME_CHARACTERS = 60  # of a file's name in that of what is written beside it: names have an end

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
        content = parse_json(text)
    except JSONError as error:
        raise DocumentError(f"{name} is damaged: {error}") from None
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
        return check_solo(_adapter().validate_python(body, strict=False))
    except ValidationError as error:
        raise DocumentError(f"{name} is damaged at {validation_words(error.errors()[0])}") from None
    except GateError as error:
        raise DocumentError(f"{name} is damaged at {error}") from None


def load(path: Path) -> Solo:
    """Read a document. Raises DocumentError."""
    return from_json(read_text(path), path.name)


def read_text(path: Path) -> str:
    """A file's text. Raises DocumentError naming the file where it can't be read."""
    try:
        if path.exists() and not path.is_file():
            raise DocumentError(f"{path.name} is no file that can be read")  # a pipe would be waited for
        if path.exists() and path.stat().st_size > MOST_BYTES:
            raise DocumentError(f"{path.name} is larger than {MOST_BYTES // 1_000_000} MB")
        return path.read_text(encoding="utf-8")
    except UnicodeDecodeError:
        raise DocumentError(f"{path.name} can't be read: it is not text") from None
    except (OSError, ValueError) as error:
        reason = error.strerror if isinstance(error, OSError) else str(error)
        raise DocumentError(f"{path.name} can't be read: {reason}") from None


def save(solo: Solo, path: Path) -> bytes:
    """Write the document whole or not at all; the copy before it stays as `NAME.owl.json~`. Answers what was written.

    Raises DocumentError; the file on disk is then what it was.
    """
    try:
        content = to_json(check_solo(solo)).encode()
    except (GateError, ValueError) as error:
        raise DocumentError(f"{path.name} can't be written as it stands: {error}") from None
    write_atomically(path, content, keep_previous=True)
    return content


def previous_path(path: Path) -> Path:
    """The copy that the last save left of what was there before."""
    return path.with_name(path.name + "~")


def write_atomically(path: Path, content: bytes, keep_previous: bool = False) -> None:
    """Write beside, sync, read back, rename. Raises DocumentError and leaves nothing half-written.

    A link is followed, and the file keeps its permissions. `keep_previous` leaves what was there as a copy.
    """
    beside: Path | None = None
    try:
        target = path.resolve() if path.is_symlink() else path
        beside = _beside(target, "part")
        sweep(target)
        with beside.open("wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        if beside.read_bytes() != content:
            raise OSError(errno.EIO, "what was written reads back otherwise")
        if target.exists():
            os.chmod(beside, target.stat().st_mode & 0o7777)
            if keep_previous:
                _keep_previous(target)
        os.replace(beside, target)
        _sync_folder(target.parent)
    except (OSError, ValueError, RuntimeError) as error:  # the last, of pathlib: links in a circle
        if beside is not None:
            with suppress(OSError, ValueError):
                beside.unlink(missing_ok=True)
        reason = error.strerror if isinstance(error, OSError) else str(error)
        raise DocumentError(f"{path} can't be written: {reason}") from None


def _beside(path: Path, kind: str) -> Path:
    """A name of this process's own beside a file, no longer than names may be."""
    return path.with_name(f".{path.name.lstrip('.')[:_NAME_CHARACTERS]}.{os.getpid()}.{kind}")


def _keep_previous(path: Path) -> None:
    """What is there, as the copy before: by a second name where the disk has those, else copied."""
    kept = _beside(path, "copy")
    kept.unlink(missing_ok=True)
    try:
        os.link(path, kept)
    except OSError:
        shutil.copy2(path, kept)
    os.replace(kept, previous_path(path))
    kept.unlink(missing_ok=True)  # two names of one file, as a killed save leaves them, are not renamed to each other


def sweep(path: Path) -> None:
    """Take away what was left beside a file by those who were killed while they wrote it or its journals."""
    stem = glob.escape(path.name.lstrip(".")[:_NAME_CHARACTERS])
    for left in (*path.parent.glob(f".{stem}.*.part"), *path.parent.glob(f".{stem}.*.copy")):
        pid = left.name.rsplit(".", 2)[-2]
        if pid.isdigit() and int(pid) != os.getpid() and not _runs(int(pid)):
            with suppress(OSError):
                left.unlink()


def _runs(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _sync_folder(folder: Path) -> None:
    """The renaming itself on disk; not every file system can."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
