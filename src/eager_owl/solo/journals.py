"""Journals of unsaved work, one for each window and document, and locks that end with the process that holds them."""

import fcntl
import glob
import os
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from uuid import uuid4

from eager_owl.solo.document import Solo
from eager_owl.solo.store import DocumentError, load, sweep, to_json, write_atomically

_SUFFIX, _LOCK = ".journal", ".lock"
_DAMAGED = ".damaged"
_NAME_CHARACTERS = 60


class FileLock:
    """A lock on a file beside what is locked. The system lets go of it when the process ends, however it ends."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._handle: int | None = None

    def take(self) -> bool:
        """Whether the lock is ours now. Where locks can't be had (some network folders), it is."""
        if self._handle is not None:
            return True
        while True:
            try:
                handle = os.open(self.path, os.O_RDWR | os.O_CREAT, 0o600)
            except (OSError, ValueError):
                return True
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                # Who held it may have taken the file away between our opening and our locking it.
                if os.fstat(handle).st_ino == self.path.stat().st_ino:
                    self._handle = handle
                    return True
            except BlockingIOError:
                os.close(handle)
                return False
            except FileNotFoundError:
                pass
            except OSError:
                os.close(handle)
                return True
            os.close(handle)

    def release(self) -> None:
        """Let go, and take the file away."""
        if self._handle is not None:
            with suppress(OSError):
                self.path.unlink()
            os.close(self._handle)
            self._handle = None


def document_lock(document: Path) -> FileLock:
    """The lock of a document that is open in a window, whichever of its names it was opened by."""
    with suppress(OSError, RuntimeError, ValueError):  # saving tells what is the matter with it
        document = document.resolve()
    return FileLock(document.with_name(f"{_stem(document)}{_LOCK}"))


class Journal:
    """One window's journal of one document, or of work that was never saved; only its owner deletes it."""

    def __init__(self, document: Path | None, folder: Path) -> None:
        """`folder` is where work that lies nowhere else is journalled."""
        stem = _stem(document)
        where = folder if document is None else document.parent
        self.path = where / f"{stem}.{uuid4().hex[:12]}{_SUFFIX}"
        self._lock = FileLock(_lock_of(self.path))

    def write(self, solo: Solo) -> None:
        """Keep unsaved work. Raises DocumentError."""
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise DocumentError(f"{self.path.parent} can't be made: {error.strerror}") from None
        self._lock.take()
        write_atomically(self.path, to_json(solo).encode())

    def forget(self) -> None:
        """What is in it is saved, or was thrown away."""
        with suppress(OSError):
            self.path.unlink(missing_ok=True)
        self._lock.release()


def _stem(document: Path | None) -> str:
    """The beginning of what is written beside a document; names have an end, and two long ones must differ."""
    name = "unsaved" if document is None else document.name
    if len(name) > _NAME_CHARACTERS:
        name = f"{name[:_NAME_CHARACTERS]}~{sha256(name.encode(errors='replace')).hexdigest()[:8]}"
    return f".{name}"


def _lock_of(journal: Path) -> Path:
    return journal.with_name(journal.name + _LOCK)


def left_behind(document: Path | None, folder: Path) -> list[Path]:
    """Journals of a document (None: of work never saved) whose owner is no more, oldest first."""
    where = folder if document is None else document.parent
    stem = glob.escape(_stem(document))
    sweep(where / _stem(document))
    for path in where.glob(f"{stem}.*{_SUFFIX}{_LOCK}"):
        if not path.with_name(path.name.removesuffix(_LOCK)).exists() and (lock := FileLock(path)).take():
            lock.release()  # its owner ended before it wrote, or after it had taken its journal away
    found: list[tuple[float, Path]] = []
    # The plain name is that of a journal as it was written before each window had its own.
    for path in (*where.glob(f"{stem}.*{_SUFFIX}"), *where.glob(f"{stem}{_SUFFIX}")):
        lock = FileLock(_lock_of(path))
        if not lock.take():
            continue  # another window's
        lock.release()
        with suppress(OSError):
            found.append((path.stat().st_mtime, path))
    return [path for _, path in sorted(found)]


def read_left(path: Path) -> Solo:
    """The work in a journal that was left behind; one that can't be read is set aside. Raises DocumentError."""
    try:
        return load(path)
    except DocumentError as error:
        aside = path.with_name(path.name.lstrip(".") + _DAMAGED)
        with suppress(OSError):
            os.replace(path, aside)
        raise DocumentError(f"{error}; it is kept as {aside.name}") from None
