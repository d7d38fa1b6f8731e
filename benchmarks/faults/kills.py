"""Processes killed while they save and journal: what is on disk afterwards is whole, and never older than it was."""

import os
import random
import signal
import tempfile
import time
from dataclasses import replace
from pathlib import Path

from benchmarks.faults import Tally
from eager_owl import ASSETS
from eager_owl.solo.document import Solo
from eager_owl.solo.journals import Journal, document_lock, left_behind, read_left
from eager_owl.solo.store import DocumentError, load, previous_path, save

_DEMO = ASSETS / "demo" / "night-ferry.owl.json"
_LONGEST_LIFE_S = 0.04


def kill_savers(count: int, rng: random.Random) -> Tally:
    """So many processes save and journal ever newer versions of one document until they are killed."""
    tally = Tally("kills")
    solo = load(_DEMO)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "s.owl.json"
        save(_version(solo, 0), path)
        latest = 0
        for number in range(count):
            child = os.fork()
            if child == 0:
                _save_on(solo, path, latest)
            time.sleep(rng.uniform(0.0, _LONGEST_LIFE_S))
            os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
            tally.count("kills")
            with tally.watched(f"kill {number}"):
                latest = _check(tally, number, path, latest)
        left = sorted(each.name for each in Path(folder).iterdir())
        for journal in left_behind(path, Path(folder)):
            journal.unlink()
        save(_version(solo, latest + 1), path)
        kept = {path.name, previous_path(path).name}
        rest = {each.name for each in Path(folder).iterdir()} - kept - {document_lock(path).path.name}
        if rest:
            tally.wrong.append(f"left lying about: {sorted(rest)[:5]} of {len(left)}")
    return tally


def _version(solo: Solo, number: int) -> Solo:
    return replace(solo, title=str(number))


def _save_on(solo: Solo, path: Path, number: int) -> None:
    """In a process of its own: save and journal until the end."""
    lock = document_lock(path)
    if not lock.take():
        os._exit(3)
    journal = Journal(path, path.parent)
    while True:
        number += 1
        journal.write(_version(solo, number))
        save(_version(solo, number), path)


def _check(tally: Tally, number: int, path: Path, before: int) -> int:
    """The version on disk: the newest of the document and its journals."""
    try:
        saved = int(load(path).title)
    except DocumentError as error:
        tally.wrong.append(f"kill {number}: {error}")
        return before
    if saved < before:
        tally.wrong.append(f"kill {number}: version {saved} after {before}")
    previous = previous_path(path)
    if previous.exists() and int(load(previous).title) > saved:
        tally.wrong.append(f"kill {number}: the copy before is newer")
    for journal in left_behind(path, path.parent):
        tally.count("journals left")
        if not 0 <= int(read_left(journal).title) - saved <= 1:
            tally.wrong.append(f"kill {number}: a journal of another version")
        journal.unlink()
    if not (lock := document_lock(path)).take():
        tally.wrong.append(f"kill {number}: the dead hold the lock")
    lock.release()
    return saved
