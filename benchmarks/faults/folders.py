"""Disks and folders that fail: what was saved stays as it was, it is told in a line, and saving goes on later."""

import errno
import os
import random
import shutil
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import mock

from benchmarks.faults import LONGEST_LINE, Tally
from eager_owl import ASSETS
from eager_owl.solo.document import Solo
from eager_owl.solo.journals import Journal, document_lock, left_behind, read_left
from eager_owl.solo.store import DocumentError, load, previous_path, save

_DEMO = ASSETS / "demo" / "night-ferry.owl.json"
_ERRORS = (
    errno.ENOSPC, errno.EROFS, errno.EIO, errno.EACCES, errno.EPERM, errno.EDQUOT, errno.EMLINK, errno.ENAMETOOLONG,
    errno.ESTALE, errno.ENOLCK, errno.EBUSY, errno.EXDEV, errno.EMFILE, errno.ENOENT,
)  # fmt: skip
# What of the system saving and journalling come through.
_CALLS: tuple[tuple[Any, str], ...] = (
    (os, "replace"), (os, "link"), (os, "fsync"), (os, "chmod"), (os, "open"), (shutil, "copy2"), (Path, "open"),
    (Path, "read_bytes"), (Path, "unlink"), (Path, "stat"), (Path, "mkdir"), (Path, "resolve"), (Path, "exists"),
)  # fmt: skip


def fail_folders(count: int, rng: random.Random) -> Tally:
    """Half of them calls of the system that fail, once or from then on, half places where nothing can be written."""
    tally, solo = Tally("folders and disks"), load(_DEMO)
    for number in range(count):
        with tempfile.TemporaryDirectory() as name, tally.watched(f"folder {number}"):
            folder = Path(name)
            if number % 2:
                _failing_calls(tally, number, solo, folder, rng)
            else:
                _odd_place(tally, number, solo, folder, rng)
    return tally


def _version(solo: Solo, number: int) -> Solo:
    return replace(solo, title=str(number))


def _attempt(tally: Tally, number: int, what: Callable[[], object]) -> bool:
    """Whether something was done; where it was not, it must be told in a line."""
    try:
        what()
    except DocumentError as error:
        tally.count("told")
        if not str(error) or "\n" in str(error) or len(str(error)) > LONGEST_LINE + 300:  # the place may be long
            tally.wrong.append(f"{number}: a message of {len(str(error))} characters: {str(error)[:80]!r}")
        return False
    tally.count("done")
    return True


def _failing_calls(tally: Tally, number: int, solo: Solo, folder: Path, rng: random.Random) -> None:
    path = folder / "s.owl.json"
    save(_version(solo, 0), path)
    save(_version(solo, 1), path)
    if rng.random() < 0.3:
        link = folder / "link.owl.json"
        link.symlink_to(path)
        path = link
    elsewhere = folder / "state"
    with _failing(rng):
        saved = _attempt(tally, number, lambda: save(_version(solo, 2), path))
    found = load(path).title
    if found != ("2" if saved else "1"):
        tally.wrong.append(f"{number}: version {found} after a save that was {'done' if saved else 'not done'}")
    if previous_path(path).exists() and load(previous_path(path)).title not in ("0", "1"):
        tally.wrong.append(f"{number}: the copy before is of another version")
    journal = Journal(path, elsewhere)
    journal.write(_version(solo, 3))
    with _failing(rng):
        kept = _attempt(tally, number, lambda: journal.write(_version(solo, 4)))
    for lock in journal._locks:
        if lock._handle is not None:
            os.close(lock._handle)
    versions = [read_left(each).title for each in left_behind(path, elsewhere)]
    if max(versions, default="") != ("4" if kept else "3"):
        tally.wrong.append(f"{number}: journals {versions} after one that was {'kept' if kept else 'not kept'}")
    for each in left_behind(path, elsewhere):
        each.unlink()
    save(_version(solo, 5), path)
    wanted = {"s.owl.json", "s.owl.json~", "link.owl.json", "link.owl.json~", "state", document_lock(path).path.name}
    if rest := {each.name for each in folder.iterdir()} - wanted:
        tally.wrong.append(f"{number}: left lying about: {sorted(rest)[:4]}")


@contextmanager
def _failing(rng: random.Random) -> Iterator[None]:
    """Some call of the system fails with some error, once or for good, from its first use or a later one on."""
    owner, name = rng.choice(_CALLS)
    fault, first, lasts = rng.choice(_ERRORS), rng.choice((0, 0, 1, 2, 3)), rng.random() < 0.5
    real, calls = getattr(owner, name), 0

    def call(*words: Any, **more: Any) -> Any:
        nonlocal calls
        calls += 1
        if calls - 1 == first or (lasts and calls > first):
            raise OSError(fault, os.strerror(fault))
        return real(*words, **more)

    with mock.patch.object(owner, name, call):
        yield


def _odd_place(tally: Tally, number: int, solo: Solo, folder: Path, rng: random.Random) -> None:
    """A place where a document can't be, or hardly: saving and opening there is told, or done."""
    plain = folder / "plain.owl.json"
    save(_version(solo, 0), plain)
    (folder / "file").write_text("x")
    (folder / "folder.owl.json").mkdir()
    (folder / "dangling.owl.json").symlink_to(folder / "nowhere" / "s.owl.json")
    (folder / "circle.owl.json").symlink_to(folder / "circle.owl.json")
    (folder / "linked.owl.json").symlink_to(plain)
    os.mkfifo(folder / "pipe.owl.json")
    os.link(plain, folder / "twin.owl.json")
    (folder / "shut.owl.json").write_bytes(plain.read_bytes())
    (folder / "shut.owl.json").chmod(0o400)
    names = (
        "file/s.owl.json", "gone/s.owl.json", "folder.owl.json", "dangling.owl.json", "circle.owl.json",
        "linked.owl.json", "twin.owl.json", "pipe.owl.json", "shut.owl.json", "x" * 300 + ".owl.json",
        "é" * 120 + ".owl.json", "a\nb.owl.json", "nul\0.owl.json", "\ud800.owl.json", os.fsdecode(b"\xe9.owl.json"),
        ".owl.json", "-.owl.json", "[a]*?.owl.json", " .owl.json",
    )  # fmt: skip
    path = rng.choice([folder / name for name in names] + [Path("/proc/s.owl.json"), Path("/nowhere/s.owl.json")])
    lock = document_lock(path)
    if not lock.take():
        tally.wrong.append(f"{number}: {path.name[:40]!r} is locked by nobody")
    if _attempt(tally, number, lambda: save(_version(solo, 1), path)) and load(path).title != "1":
        tally.wrong.append(f"{number}: what was saved at {path.name[:40]!r} is not there")
    journal = Journal(path, folder / "state")
    if _attempt(tally, number, lambda: journal.write(_version(solo, 2))):
        if not journal.there:
            tally.wrong.append(f"{number}: a journal of {path.name[:40]!r} is nowhere")
    else:
        tally.wrong.append(f"{number}: work on {path.name[:40]!r} is kept nowhere")
    journal.forget()
    lock.release()
    if load(plain).title not in ("0", "1"):
        tally.wrong.append(f"{number}: another document is changed")
