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
_TRIES = 100  # to lock a file that others keep taking away


class FileLock:
    """A lock on a file beside what is locked. The system lets go of it when the process ends, however it ends."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._handle: int | None = None

    def take(self) -> bool:
        """Whether the lock is ours now. Where locks can't be had (some network folders), it is."""
        if self._handle is not None:
            return True
        for _ in range(_TRIES):
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
        return True

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
        """`folder` is where work is journalled that lies nowhere else, or where nothing else can be written."""
        name = f"{uuid4().hex[:12]}{_SUFFIX}"
        self._places = [where / f"{stem}.{name}" for where, stem in _homes(document, folder)]
        self._locks = [FileLock(_lock_of(place)) for place in self._places]

    @property
    def there(self) -> bool:
        """Whether anything is kept in it."""
        return any(map(os.path.exists, self._places))

    def write(self, solo: Solo) -> None:
        """Keep unsaved work. Raises DocumentError where it can be kept nowhere."""
        content, failed = to_json(solo).encode(), None
        for index in range(len(self._places)):
            try:
                self._write(index, content)
            except DocumentError as error:
                failed = failed or error
                continue
            for other in range(len(self._places)):
                if other != index:
                    self._take_away(other)
            return
        assert failed is not None
        raise failed

    def _write(self, index: int, content: bytes) -> None:
        folder = self._places[index].parent
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except (OSError, ValueError) as error:
            raise DocumentError(f"{folder} can't be made: {error}") from None
        self._locks[index].take()
        write_atomically(self._places[index], content)

    def forget(self) -> None:
        """What is in it is saved, or was thrown away."""
        for index in range(len(self._places)):
            self._take_away(index)

    def _take_away(self, index: int) -> None:
        with suppress(OSError, ValueError):
            self._places[index].unlink(missing_ok=True)
        self._locks[index].release()


def _homes(document: Path | None, folder: Path) -> list[tuple[Path, str]]:
    """Where journals may lie, and how their names begin there: beside the document, else in `folder`."""
    if document is None:
        return [(folder, _stem(None))]
    return [(document.parent, _stem(document)), (folder, f".kept~{_digest(os.path.abspath(document))}")]


def _stem(document: Path | None) -> str:
    """The beginning of what is written beside a document; names have an end, and two long ones must differ."""
    name = "unsaved" if document is None else document.name
    if len(name) > _NAME_CHARACTERS:
        name = f"{name[:_NAME_CHARACTERS]}~{_digest(name)}"
    return f".{name}"


def _digest(text: str) -> str:
    return sha256(text.encode(errors="replace")).hexdigest()[:8]


def _lock_of(journal: Path) -> Path:
    return journal.with_name(journal.name + _LOCK)


def left_behind(document: Path | None, folder: Path) -> list[Path]:
    """Journals of a document (None: of work never saved) whose owner is no more, oldest first."""
    found: list[tuple[float, Path]] = []
    for where, stem in _homes(document, folder):
        sweep(where / stem)
        begins = glob.escape(stem)
        for path in where.glob(f"{begins}.*{_SUFFIX}{_LOCK}"):
            if not path.with_name(path.name.removesuffix(_LOCK)).exists() and (lock := FileLock(path)).take():
                lock.release()  # its owner ended before it wrote, or after it had taken its journal away
        # The plain name is that of a journal as it was written before each window had its own.
        for path in (*where.glob(f"{begins}.*{_SUFFIX}"), *where.glob(f"{begins}{_SUFFIX}")):
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
        try:
            os.replace(path, aside)
        except OSError:
            aside = path
        raise DocumentError(f"{error}; it is kept as {aside.name}") from None
