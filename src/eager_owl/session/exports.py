"""The formats that a solo is handed on in: one row each, for the command line, the menu and the finder alike."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Recording
from eager_owl.notation.tab import TabRows, text_tab
from eager_owl.session import sound_files
from eager_owl.session.answers import Answers
from eager_owl.session.explaining import reading_of, reasons_of
from eager_owl.session.facts import chart_of, is_doubtful, key_of
from eager_owl.session.placing import picking
from eager_owl.session.ports import Drawing
from eager_owl.session.sounding import transcription_contours
from eager_owl.solo.document import Solo

if TYPE_CHECKING:
    from eager_owl.notation.sheet.pages import Paper, Sheet

_SOUNDING = (
    "bend",
    "bend_release",
    "prebend",
    "prebend_release",
    "vibrato",
    "slide",
    "slide_in",
    "slide_out",
    "dip",
    "dive",
    "trill",
)
_SLOWED = 0.5


@dataclass(frozen=True)
class Wanted:
    """How a solo is to be written: to which file, one phrase of it or all, by which preset of a page, on what paper.

    `drawing` is there for what is drawn, `recording` where the solo has one that was found. `written` has MIDI stand
    where the score does, not where it was played.
    """

    path: Path
    phrase: int | None = None
    preset: str | None = None
    paper: "Paper | None" = None
    drawing: Drawing | None = None
    recording: Recording | None = None
    speed: float = _SLOWED
    written: bool = False


@dataclass(frozen=True)
class Export:
    """A row: `name` after `--to`, words for the player, the suffixes of the files it makes, and how it is written.

    `write` gives the file's bytes; it raises ValueError for a solo that can't be written so. What is `drawn` needs a
    drawing, what `sounds` the recording. One that is not `listed` is in the window only.
    """

    name: str
    words: str
    suffixes: tuple[str, ...]
    files: str
    write: Callable[[Solo, Wanted], bytes]
    drawn: bool = False
    sounds: bool = False
    listed: bool = True


def only_phrase(solo: Solo, phrase: int | None) -> Solo:
    """The solo with one phrase (index from 0) and its notes, or all of it. Raises ValueError for none.

    A key or chart that can't be read counts as none, as on the desk.
    """
    key, chart = key_of(solo), chart_of(solo)
    if (solo.key_text.strip() and key is None) or (solo.chart_text.strip() and not chart.bars):
        solo = replace(solo, key_text=solo.key_text if key else "", chart_text=solo.chart_text if chart.bars else "")
    if phrase is None:
        return solo
    if not 0 <= phrase < len(solo.phrases):
        raise ValueError(f"there is no phrase {phrase + 1}: the solo has {len(solo.phrases)}")
    one = solo.phrases[phrase]
    return replace(solo, phrases=(one,), notes=solo.notes_in(one))


def _tab(solo: Solo, wanted: Wanted) -> bytes:
    solo = only_phrase(solo, wanted.phrase)
    rows = {None: TabRows(), "stand": TabRows(), "lesson": TabRows(rhythm=True, hands=True),
            "analysis": TabRows(rhythm=True, hands=True, reasons=True)}[wanted.preset]  # fmt: skip
    reasons = reasons_of(solo) if rows.reasons else {}
    strokes = {n.id: s for n, s in zip(solo.notes, picking(solo, solo.notes), strict=True)}
    return text_tab(solo, rows, reasons, strokes if rows.hands else {}).encode()


def notes_text(solo: Solo) -> str:
    """The notes file, with each phrase's own reasons and what happens in the line."""
    from eager_owl.notation.notes_file import write_notes  # its package takes long to load: not for the window

    events = reading_of(solo, solo.notes).events
    return write_notes(
        solo.notes, solo.instrument, solo.reference_cents or 0.0, list(reasons_of(solo).values()), events
    )


def _notes(solo: Solo, wanted: Wanted) -> bytes:
    return notes_text(only_phrase(solo, wanted.phrase)).encode()


def _csv(solo: Solo, wanted: Wanted) -> bytes:
    from eager_owl.notation.csv_file import write_csv

    solo = only_phrase(solo, wanted.phrase)
    return write_csv(solo, solo.notes, list(reasons_of(solo).values()), picking(solo, solo.notes)).encode()


def _musicxml(solo: Solo, wanted: Wanted) -> bytes:
    from eager_owl.notation.musicxml.write import packed_musicxml, write_musicxml
    from eager_owl.session.sheets import written_grid

    solo = only_phrase(solo, wanted.phrase)
    strokes = picking(solo, solo.notes)
    text = write_musicxml(solo, solo.notes, written_grid(solo), strokes, standard_staff=wanted.preset != "stand")
    return packed_musicxml(text) if wanted.path.suffix.lower() == ".mxl" else text.encode()


def _midi(solo: Solo, wanted: Wanted) -> bytes:
    from eager_owl.notation.midi_out import write_midi
    from eager_owl.session.sheets import written_grid

    solo = only_phrase(solo, wanted.phrase)
    timing = "written" if wanted.written else "played"
    return write_midi(solo, solo.notes, written_grid(solo), sounding_contours(solo), timing)  # type: ignore[arg-type]


def sounding_contours(solo: Solo) -> dict[int, NDArray[np.float64]]:
    """Pitch curves of the notes that have one by name: as measured, or else as their techniques sound."""
    bent = [note for note in solo.notes if note.technique(*_SOUNDING) and not note.muted]  # type: ignore[arg-type]
    named = transcription_contours(solo, [note for note in bent if not note.contour_cents])
    measured = {note.id: np.array(note.contour_cents) / 100 for note in bent if note.contour_cents}
    return {**named, **measured}


def _sheet(solo: Solo, wanted: Wanted, roll: bool, headed: bool = True) -> "Sheet":
    from eager_owl.notation.sheet.pages import PAPERS, ROLL, lay_sheet
    from eager_owl.notation.sheet.presets import PRESETS
    from eager_owl.session.sheets import SheetMatter

    assert wanted.drawing is not None
    only_phrase(solo, wanted.phrase)
    preset = PRESETS[wanted.preset or "stand"]
    paper = ROLL if roll else wanted.paper or PAPERS["A4"]
    return lay_sheet(SheetMatter().of(solo, preset, wanted.phrase), preset, paper, wanted.drawing.widths, headed)


def _pdf(solo: Solo, wanted: Wanted) -> bytes:
    assert wanted.drawing is not None
    return wanted.drawing.pdf(_sheet(solo, wanted, roll=False))


def _svg(solo: Solo, wanted: Wanted) -> bytes:
    assert wanted.drawing is not None
    sheet = _sheet(solo, wanted, roll=True)
    svg = wanted.drawing.svg(sheet)
    at = svg.index(">", svg.index("<svg")) + 1
    return f"{svg[:at]}\n<style>{wanted.drawing.typefaces([sheet])}</style>{svg[at:]}".encode()


def _html(solo: Solo, wanted: Wanted) -> bytes:
    from eager_owl.notation.web_page import WebPart, web_page

    assert wanted.drawing is not None
    only_phrase(solo, wanted.phrase)
    all_phrases: list[int | None] = [*range(len(solo.phrases))] or [None]
    phrases = [wanted.phrase] if wanted.phrase is not None else all_phrases
    parts, sheets = [], []
    for index in phrases:
        sheets.append(
            _sheet(solo, replace(wanted, phrase=index, preset=wanted.preset or "analysis"), True, index == phrases[0])
        )
        picture = wanted.drawing.svg(sheets[-1])
        answers = Answers(solo, solo.phrases[index] if index is not None else None)
        if not answers.notes:
            continue
        sounds = []
        for words, speed in (("slowed to half", wanted.speed), ("as it is", 1.0)):
            sound = sound_files.slowed_sound(solo, index, wanted.recording, speed)
            sounds.append((words, sound_files.encoded(sound, ".ogg")))
        name = solo.phrases[index].name if index is not None else solo.title
        told = [sentence.words for sentence in answers.sentences]
        remarks = [remark.text for note in answers.notes for remark in note.remarks]
        remarks = [*(r.text for r in (solo.phrases[index].remarks if index is not None else ())), *remarks]
        parts.append(WebPart((index or 0) + 1, name, picture, tuple(sounds), tuple(told), tuple(remarks)))
    source = "the recording" if wanted.recording is not None else "the transcription, as the program plays it"
    return web_page(solo.title, parts, source, wanted.drawing.typefaces(sheets)).encode()


def _questions(solo: Solo, wanted: Wanted) -> bytes:
    from eager_owl.notation.questions import questions_text

    solo = only_phrase(solo, wanted.phrase)
    return questions_text(solo, {note.id for note in solo.notes if is_doubtful(note)}).encode()


def _sound_row(name: str, words: str, render: sound_files.Render) -> Export:
    """The row of a sound."""

    def write(solo: Solo, wanted: Wanted) -> bytes:
        only_phrase(solo, wanted.phrase)
        return sound_files.sound_bytes(render, solo, wanted.phrase, wanted.recording, wanted.speed, wanted.path)

    return Export(name, words, tuple(sound_files.FORMATS), "Sound", write, sounds=True, listed=False)


EXPORTS: dict[str, Export] = {
    export.name: export
    for export in (
        Export("pdf", "the sheet as PDF", (".pdf",), "PDF", _pdf, drawn=True),
        Export("svg", "the sheet as a picture", (".svg",), "SVG", _svg, drawn=True),
        Export("html", "a page for the web", (".html",), "Web pages", _html, drawn=True, sounds=True),
        Export("tab", "the tab as text", (".txt",), "Text", _tab),
        Export("musicxml", "the score for notation programs", (".musicxml", ".mxl"), "MusicXML", _musicxml),
        Export("midi", "the notes for sequencers", (".mid",), "MIDI", _midi),
        Export("csv", "the notes as a table", (".csv",), "Tables", _csv),
        Export("json", "the notes for other programs", (".json",), "Notes files", _notes),
        Export("questions", "the doubts, to ask others", (".txt",), "Text", _questions, listed=False),
        _sound_row("phrase_sound", "the phrase's sound", sound_files.phrase_sound),
        _sound_row("slowed_sound", "the phrase, slowed", sound_files.slowed_sound),
        _sound_row("transcription_sound", "the transcription's sound", sound_files.transcribed_sound),
        _sound_row("band_sound", "a band to play along to", sound_files.band_sound),
        _sound_row("without_lead", "the recording without its lead", sound_files.without_lead),
    )
}
