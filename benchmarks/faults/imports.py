"""Broken files of other programs: each is brought in, or refused in a line, at once, and what is brought in keeps."""

import json
import random
import tempfile
from collections.abc import Callable
from pathlib import Path

from benchmarks.faults import LONGEST_LINE, Tally
from benchmarks.faults.documents import odd_json
from benchmarks.faults.recordings import odd_bytes
from eager_owl import ASSETS
from eager_owl.notation.imported import ForeignFileError
from eager_owl.notation.notes_file import write_notes
from eager_owl.session.exports import EXPORTS, Wanted
from eager_owl.session.importing import read_foreign
from eager_owl.solo.document import Solo
from eager_owl.solo.store import DocumentError, load, save

_DEMO = ASSETS / "demo" / "night-ferry.owl.json"
# What is put into texts: numbers that are none or too many, markup that opens other files, signs of tab and table.
_ODD = (
    "", "0", "-1", "1e999", "NaN", "9" * 400, "𝄞", "\0", "\n", ",", ";", '"', "<", "</note>", "<note>", "&lol;",
    "&#0;", '<!DOCTYPE x [<!ENTITY a "ha"><!ENTITY lol "&a;&a;&a;&a;&a;">]>', '<!ENTITY x SYSTEM "file:///etc/hostname">',
    "<duration>999999999</duration>", "<beats>0</beats>", "<divisions>0</divisions>", "<octave>99</octave>", "|",
    "e|", "e|--99--5b7r5~~--|", "B|--3h5p3/7--|", "-" * 3000, "x1000", "(", "~", "onset", "1,2,3\n" * 50,
    "\ud83d", "é",
)  # fmt: skip


def odd_text(text: str, rng: random.Random) -> bytes:
    """A text with up to five things wrong: cut out, doubled, swapped, put in, or its bytes broken."""
    for _ in range(rng.randint(1, 5)):
        at = rng.randrange(len(text) + 1)
        end = at + rng.choice((0, 1, 3, 20, 300))
        kind = rng.randrange(4)
        if kind == 0:
            text = text[:at] + text[end:]
        elif kind == 1:
            text = text[:end] + text[at:]
        elif kind == 2:
            digits = [i for i in range(at, min(at + 200, len(text))) if text[i].isdigit()]
            text = text[: digits[0]] + rng.choice(_ODD) + text[digits[0] + 1 :] if digits else text
        else:
            text = text[:at] + rng.choice(_ODD) + text[end:]
    content = text.encode(errors="replace")
    return odd_bytes(content, rng) if rng.random() < 0.15 else content


def break_imports(count: int, rng: random.Random) -> Tally:
    """MIDI, MusicXML plain and packed, tab, tables and notes files in turn."""
    tally, demo = Tally("files brought in"), load(_DEMO)

    def exported(name: str, suffix: str) -> bytes:
        return EXPORTS[name].write(demo, Wanted(Path(f"solo{suffix}")))

    texts = {
        ".musicxml": exported("musicxml", ".musicxml"),
        ".txt": exported("tab", ".txt"),
        ".csv": exported("csv", ".csv"),
    }
    packed, midi = exported("musicxml", ".mxl"), exported("midi", ".mid")
    notes = write_notes(demo.notes, demo.instrument, 0.0)
    makers: list[tuple[str, Callable[[], bytes]]] = [
        (".mid", lambda: odd_bytes(midi, rng)),
        (".mxl", lambda: odd_bytes(packed, rng)),
        (".json", lambda: odd_json(notes, rng).encode(errors="replace")),
        *((suffix, lambda t=text: odd_text(t.decode(), rng)) for suffix, text in texts.items()),  # type: ignore[misc]
    ]
    with tempfile.TemporaryDirectory() as folder:
        for number in range(count):
            suffix, make = makers[number % len(makers)]
            path = Path(folder) / f"a{suffix}"
            path.write_bytes(make())
            with tally.watched(f"{suffix} {number}"):
                _bring_in(tally, path, rng)
    return tally


def _bring_in(tally: Tally, path: Path, rng: random.Random) -> None:
    bpm, track = rng.choice((None, 60.0, 171.5)), rng.choice((None, None, 1, 2, 99))
    try:
        found = read_foreign(path, bpm, track)
    except (ForeignFileError, DocumentError) as error:
        tally.count(f"{path.suffix} refused")
        if not str(error) or "\n" in str(error) or len(str(error)) > LONGEST_LINE:
            tally.wrong.append(f"a message of {len(str(error))} characters: {str(error)[:80]!r}")
        return
    tally.count(f"{path.suffix} read")
    if long := next((c for c in found.complaints if "\n" in c or len(c) > LONGEST_LINE), None):
        tally.wrong.append(f"a complaint of {len(long)} characters: {long[:80]!r}")
    _keep(tally, found.solo, path.with_name("kept.owl.json"))


def _keep(tally: Tally, solo: Solo, path: Path) -> None:
    """What was brought in is saved and read again as it is, and handed on."""
    save(solo, path)
    if load(path) != solo:
        tally.wrong.append("what was brought in is another after saving")
    json.loads(path.read_text())
    for name, suffix in (("tab", ".txt"), ("midi", ".mid"), ("csv", ".csv")):
        EXPORTS[name].write(solo, Wanted(Path(f"solo{suffix}")))
