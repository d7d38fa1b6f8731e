"""Work begun elsewhere: files of other programs and notes files as solos, each note placed."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from eager_owl.notation.imported import MOST_BYTES, ForeignFileError
from eager_owl.notation.imported import Imported as Imported
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.placing import place_notes
from eager_owl.solo.document import Solo
from eager_owl.solo.gate import GateError, check_solo
from eager_owl.solo.store import DocumentError
from eager_owl.theory.words import one_line

Reader = Callable[[bytes, str, float | None, int | None], Imported]


def _midi(content: bytes, name: str, bpm: float | None, track: int | None) -> Imported:
    from eager_owl.notation.midi_in import read_midi

    return read_midi(content, name, track)


def _musicxml(content: bytes, name: str, bpm: float | None, track: int | None) -> Imported:
    from eager_owl.notation.musicxml.read import read_musicxml

    return read_musicxml(content, name, track)


def _tab(content: bytes, name: str, bpm: float | None, track: int | None) -> Imported:
    from eager_owl.notation.tab_in import read_tab

    return read_tab(_text(content, name), name, bpm)


def _csv(content: bytes, name: str, bpm: float | None, track: int | None) -> Imported:
    from eager_owl.notation.csv_file import read_csv

    return _on_beat(read_csv(_text(content, name), name), bpm)


def _notes(content: bytes, name: str, bpm: float | None, track: int | None) -> Imported:
    from eager_owl.notation.imported import with_phrases
    from eager_owl.notation.notes_file import NotesFileError, read_notes

    try:
        notes, instrument, cents = read_notes(_text(content, name), name)
    except NotesFileError as error:
        raise ForeignFileError(str(error)) from None
    title = name.removesuffix(".json")
    solo = Solo(title=title, instrument=instrument, reference_cents=cents, notes=tuple(notes))
    return _on_beat(Imported(with_phrases(solo)), bpm)


# What is read, by the file's suffix.
READERS: dict[str, Reader] = {
    ".mid": _midi, ".midi": _midi, ".musicxml": _musicxml, ".xml": _musicxml, ".mxl": _musicxml, ".txt": _tab,
    ".tab": _tab, ".csv": _csv, ".json": _notes,
}  # fmt: skip


def read_foreign(path: Path, bpm: float | None = None, track: int | None = None) -> Imported:
    """Read another program's file as a solo whose notes are placed on the neck.

    `bpm` is for files without a tempo, `track` for those of several parts. Raises ForeignFileError, or DocumentError
    where the file can't be read at all.
    """
    reader = READERS.get(path.suffix.lower())
    if reader is None:
        raise ForeignFileError(f"{path.name} is of no kind that is read here: {', '.join(READERS)}")
    try:
        if not path.is_file():
            raise DocumentError(f"there is no file {path}")
        if path.stat().st_size > MOST_BYTES:
            raise ForeignFileError(f"{path.name} is larger than {MOST_BYTES // 1_000_000} MB")
        content = path.read_bytes()
    except OSError as error:
        raise DocumentError(f"{path.name} can't be read: {error.strerror}") from None
    found = reader(content, one_line(path.name), bpm, track)
    try:
        check_solo(found.solo)
    except GateError as error:
        raise ForeignFileError(f"{path.name}: {error}") from None
    return placed(found)


def read_pasted_tab(text: str, bpm: float | None = None) -> Imported:
    """Read tab that was pasted. Raises ForeignFileError."""
    from eager_owl.notation.tab_in import read_tab

    return placed(read_tab(text, "the pasted text", bpm))


def placed(found: Imported) -> Imported:
    """The solo with every note that the file did not place placed by the solo's school."""
    solo = found.solo
    loose = [note for note in solo.notes if note.string is None or note.finger is None]
    return replace(found, solo=place_notes(solo, solo.notes)) if loose else found


def _on_beat(found: Imported, bpm: float | None) -> Imported:
    if bpm is None or found.solo.grid is not None:
        return found
    return replace(found, solo=replace(found.solo, grid=BeatGrid(bpm)))


def _text(content: bytes, name: str) -> str:
    """A file's text: UTF-8, UTF-16 by its mark, or else the old Western one."""
    if b"\0" in content and content[:2] not in (b"\xff\xfe", b"\xfe\xff"):
        raise ForeignFileError(f"{name} is not text")
    for encoding in ("utf-16",) if content[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig", "cp1252", "latin-1"):
        try:
            return content.decode(encoding)
        except UnicodeDecodeError:
            continue
    raise ForeignFileError(f"{name} is not text")
