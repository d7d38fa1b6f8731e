"""Broken documents, notes files and charts: each is read, or refused in a line, at once, and what is read keeps."""

import json
import random
import tempfile
from collections.abc import Callable, Sequence
from copy import deepcopy
from functools import partial
from pathlib import Path
from typing import Any

from benchmarks.faults import LONGEST_LINE, Tally
from eager_owl import ASSETS
from eager_owl.notation.notes_file import NotesFileError, read_notes, write_notes
from eager_owl.rhythm.chart import ChartError, chart_text, parse_chart
from eager_owl.session.exports import EXPORTS, Wanted
from eager_owl.session.placing import place_notes
from eager_owl.solo.document import Solo
from eager_owl.solo.store import DocumentError, from_json, load, save, to_json

_DEMO = ASSETS / "demo" / "night-ferry.owl.json"
_ODD: tuple[Any, ...] = (
    None, True, 0, -1, 1, 7, 128, 10**6, 10**30, -(10**12), 0.5, -0.0, 1e-300, 1e300, 43_000.0, "", "x", "\ud800",
    "\0", "9" * 5000, "F#", "| C |", [], [1], [[1]], {}, {"name": "slide"}, [None] * 3,
)  # fmt: skip
_ODD_TEXT = ("NaN", "-Infinity", "1e999", "9" * 5000, "[" * 3000, '"\\ud800"', "nul", "\x00", "\ufeff", "}")
_ODD_CHART = (
    "|", "|:", ":|", " x99 ", ":| x99", "%", "/", "stop", "N.C.", "\n", "C" * 300, "H7", "\0", "♭♭♭", "| C " * 700,
)  # fmt: skip


def odd_json(text: str, rng: random.Random) -> str:
    """A document's text with up to three things wrong: a value, a key, an order, a length, or the text itself."""
    content = json.loads(text)
    for _ in range(rng.randint(1, 3)):
        _break_value(content, rng)
    broken = json.dumps(content)
    if rng.random() < 0.25:
        at = rng.randrange(len(broken))
        end = at + rng.choice((0, 1, 5, 200))
        broken = broken[:at] + rng.choice(("", *_ODD_TEXT)) + broken[end:]
    return broken


def _break_value(content: Any, rng: random.Random) -> None:
    """One thing in it, however deep, is made another, taken away, doubled or moved."""
    while True:
        keys: Sequence[Any] = list(content) if isinstance(content, dict) else range(len(content))
        if not keys:
            return
        key = rng.choice(keys)
        if isinstance(content[key], dict | list) and content[key] and rng.random() < 0.85:
            content = content[key]
            continue
        break
    kind = rng.randrange(4)
    if kind == 0 and isinstance(content, list):
        content.append(deepcopy(content[key]))
    elif kind == 1 and isinstance(content, list):
        rng.shuffle(content)
    elif kind == 2:
        del content[key]
    elif isinstance(content[key], int | float) and rng.random() < 0.5:
        content[key] = content[key] * rng.choice((-1, 0, 10, 1000, 1e9))
    else:
        content[key] = deepcopy(rng.choice(_ODD))


def _read(tally: Tally, read: Callable[[], Solo], refusals: type[Exception]) -> Solo | None:
    """What is read, or None where it is refused: in one line that says what is the matter."""
    try:
        found = read()
    except refusals as error:
        tally.count("refused")
        if not str(error) or "\n" in str(error) or len(str(error)) > LONGEST_LINE:
            tally.wrong.append(f"a message of {len(str(error))} characters: {str(error)[:80]!r}")
        return None
    tally.count("read")
    return found


def break_documents(count: int, rng: random.Random) -> Tally:
    """Broken documents are refused in a line, or read, saved and loaded again as they were, and can be worked on."""
    tally = Tally("documents")
    good = to_json(load(_DEMO))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "s.owl.json"
        for number in range(count):
            text = odd_json(good, rng)
            with tally.watched(f"document {number}"):
                solo = _read(tally, partial(from_json, text, "s.owl.json"), DocumentError)
                if solo is not None:
                    save(solo, path)
                    if load(path) != solo:
                        tally.wrong.append(f"document {number} is another after saving")
                    _work_on(solo)
    return tally


def _work_on(solo: Solo) -> None:
    """What is done with a document in the end."""
    EXPORTS["tab"].write(solo, Wanted(Path("solo.txt")))
    EXPORTS["midi"].write(solo, Wanted(Path("solo.mid")))


def break_notes(count: int, rng: random.Random) -> Tally:
    """Broken notes files and charts, half of each."""
    tally = Tally("notes and charts")
    demo = load(_DEMO)
    good = write_notes(demo.notes, demo.instrument, 0.0)
    for number in range(count):
        if number % 2:
            with tally.watched(f"chart {number}"):
                _break_chart(tally, _odd_chart(demo.chart_text, rng))
        else:
            text = odd_json(good, rng)

            def read(text: str = text) -> Solo:
                notes, instrument, cents = read_notes(text, "n.json")
                return Solo(instrument=instrument, reference_cents=cents, notes=tuple(notes))

            with tally.watched(f"notes {number}"):
                solo = _read(tally, read, NotesFileError)
                if solo is not None:
                    placed = place_notes(solo, solo.notes)
                    again = read_notes(write_notes(placed.notes, placed.instrument, 0.0), "again.json")[0]
                    if len(again) != len(solo.notes):
                        tally.wrong.append(f"notes {number} are others after writing")
    return tally


def _odd_chart(text: str, rng: random.Random) -> str:
    pieces = list(text)
    for _ in range(rng.randint(1, 6)):
        at = rng.randrange(len(pieces) + 1)
        odd = rng.choice(_ODD_CHART)
        pieces[at : at + rng.choice((0, 0, 1, 3))] = [odd]
    return "".join(pieces)


def _break_chart(tally: Tally, text: str) -> None:
    try:
        chart = parse_chart(text)
    except ChartError as error:
        tally.count("refused")
        if "\n" in str(error) or len(str(error)) > LONGEST_LINE:
            tally.wrong.append(f"a chart's message: {str(error)[:80]!r}")
        return
    tally.count("read")
    if parse_chart(chart_text(chart)) != chart:
        tally.wrong.append(f"a chart reads back as another: {text[:80]!r}")
