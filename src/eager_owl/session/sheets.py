"""The written page of a solo: what is told on it, and the page laid out."""

from collections.abc import Mapping, Sequence
from dataclasses import astuple, replace
from itertools import groupby
from typing import TYPE_CHECKING

from eager_owl.notation.score import write_score
from eager_owl.notation.sheet.glyphs import SIGNS as SIGNS
from eager_owl.notation.sheet.ink import Curve as Curve
from eager_owl.notation.sheet.ink import Face as Face
from eager_owl.notation.sheet.ink import Frame as Frame
from eager_owl.notation.sheet.ink import Ink as Ink
from eager_owl.notation.sheet.ink import Item as Item
from eager_owl.notation.sheet.ink import Line as Line
from eager_owl.notation.sheet.ink import Shape as Shape
from eager_owl.notation.sheet.ink import Sign as Sign
from eager_owl.notation.sheet.ink import Wave as Wave
from eager_owl.notation.sheet.ink import Widths as Widths
from eager_owl.notation.sheet.ink import Words as Words
from eager_owl.notation.sheet.memory import Memory
from eager_owl.notation.sheet.pages import PAPERS as PAPERS
from eager_owl.notation.sheet.pages import ROLL as ROLL
from eager_owl.notation.sheet.pages import Page as Page
from eager_owl.notation.sheet.pages import Paper as Paper
from eager_owl.notation.sheet.pages import Sheet as Sheet
from eager_owl.notation.sheet.pages import items_of as items_of
from eager_owl.notation.sheet.pages import lay_sheet as lay_sheet
from eager_owl.notation.sheet.passage import Matter as Matter
from eager_owl.notation.sheet.passage import Passage, SourceSpan
from eager_owl.notation.sheet.presets import PRESETS as PRESETS
from eager_owl.notation.sheet.presets import Preset as Preset
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.answers import Answers
from eager_owl.session.explaining import leads_by_step
from eager_owl.session.exports import EXPORTS
from eager_owl.session.facts import chart_of, is_doubtful, key_of, tuning_words
from eager_owl.session.placing import picking
from eager_owl.session.signal import Signal
from eager_owl.solo.document import Note, Phrase, Solo, Stroke
from eager_owl.theory.pitch import pitch_class_name, pretty

if TYPE_CHECKING:
    from eager_owl.session.session import Session

# Where a solo has no beat of its own, it is written as if at this.
PLAIN_BPM = 120.0
_SENTENCES = 3


def written_grid(solo: Solo) -> BeatGrid:
    """The solo's beat, or where it has none a plain one from its first note on."""
    if solo.grid is not None:
        return solo.grid
    return BeatGrid(PLAIN_BPM, solo.notes[0].onset if solo.notes else 0.0)


class Sheets:
    """How the open solo's page is looked at, kept between runs; `changed` tells that it is another way now."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._settings = session.ports.settings
        self.changed = Signal[[]]()
        self._matter = SheetMatter()
        self._memory = Memory()

    @property
    def preset(self) -> Preset:
        """What is shown."""
        return PRESETS.get(str(self._settings.read("sheet_preset")), PRESETS["stand"])

    @property
    def paper(self) -> Paper:
        """What it is printed on."""
        paper = PAPERS.get(str(self._settings.read("sheet_paper")), PAPERS["A4"])
        return paper.turned if self.landscape else paper

    @property
    def landscape(self) -> bool:
        """Whether the paper lies on its side."""
        return str(self._settings.read("sheet_landscape")).lower() == "true"

    @property
    def rolled(self) -> bool:
        """Whether it is looked at as one long roll."""
        return str(self._settings.read("sheet_rolled")).lower() == "true"

    @property
    def one_phrase(self) -> bool:
        """Whether only the phrase on the desk is shown."""
        return str(self._settings.read("sheet_one_phrase")).lower() == "true"

    def choose(self, name: str, value: object) -> None:
        """Set one of these."""
        self._settings.write(f"sheet_{name}", str(value))
        self.changed.emit()

    def next_preset(self) -> None:
        """The next of the presets."""
        names = list(PRESETS)
        self.choose("preset", names[(names.index(self.preset.name) + 1) % len(names)])

    @property
    def phrase(self) -> int | None:
        """The index of the phrase that is shown alone, if one is."""
        return self._session.solo.view.phrase if self.one_phrase else None

    def laid(self) -> Sheet:
        """The open solo's sheet, as it is looked at."""
        matter = self._matter.of(self._session.solo.solo, self.preset, self.phrase)
        paper = ROLL if self.rolled else self.paper
        return lay_sheet(matter, self.preset, paper, self._session.ports.drawing().widths, memory=self._memory)

    def export(self, name: str) -> None:
        """Write the page in one of the formats, as it is looked at."""
        self._session.keeping.export(EXPORTS[name], self.preset.name, self.phrase, self.paper)


class SheetMatter:
    """What a sheet of a solo tells, phrase by phrase; a phrase that has not changed is not told anew."""

    def __init__(self) -> None:
        self._told: dict[tuple[object, ...], Passage] = {}
        self._struck: dict[tuple[object, ...], tuple[Sequence[Note], dict[int, Stroke | None]]] = {}

    def of(self, solo: Solo, preset: Preset, phrase: int | None = None) -> Matter:
        """The matter of a solo, or of one phrase of it (index from 0)."""
        grid = written_grid(solo)
        kept: dict[tuple[object, ...], Passage] = {}
        strokes = self._strokes(solo) if preset.strokes else {}

        def passage(number: int | None, of: Phrase | None, notes: Sequence[Note]) -> Passage:
            # Identity is enough, and quick: the passage holds its notes, so that no other takes their place.
            key = (number, id(of), tuple(map(id, notes)), grid, solo.key_text, solo.chart_text, preset.name,
                   solo.reason_school, solo.picking, solo.instrument)  # fmt: skip
            kept[key] = self._told.get(key) or _passage(solo, preset, grid, number, of, notes, strokes)
            return kept[key]

        if phrase is not None:
            one = solo.phrases[phrase]
            passages = [passage(phrase + 1, one, solo.notes_in(one))]
        elif preset.by_phrase:
            passages = [passage(number, of, notes) for number, of, notes in _parts(solo)]
        else:
            passages = [passage(None, None, solo.notes)]
        self._told = kept
        passages = [each for each in passages if each.notes]
        facts, about = _facts(solo, grid, preset), _about(solo)
        loudest = max((note.loudness_db for note in solo.notes), default=0.0)
        return Matter(
            solo.title,
            about,
            solo.about.player,
            facts,
            solo.instrument,
            key_of(solo),
            chart_of(solo),
            passages,
            solo.remarks,
            loudest,
        )

    def _strokes(self, solo: Solo) -> dict[int, Stroke | None]:
        """How every note is struck, by its id; of a phrase that has not changed as before."""
        kept: dict[tuple[object, ...], tuple[Sequence[Note], dict[int, Stroke | None]]] = {}
        for _, _, notes in _parts(solo):
            key = (solo.picking, solo.grid, tuple(map(id, notes)))
            found = self._struck.get(key)
            if found is None:
                found = notes, dict(zip((n.id for n in notes), picking(solo, notes), strict=True))
            kept[key] = found
        self._struck = kept
        return {id_: stroke for _, strokes in kept.values() for id_, stroke in strokes.items()}


def _parts(solo: Solo) -> list[tuple[int | None, Phrase | None, tuple[Note, ...]]]:
    """Phrases in order, with the notes between them that are in none."""
    parts: list[tuple[int | None, Phrase | None, tuple[Note, ...]]] = []
    inside = [solo.notes_in(phrase) for phrase in solo.phrases]
    held = {note.id for notes in inside for note in notes}
    loose = [note for note in solo.notes if note.id not in held]
    for number, (phrase, notes) in enumerate(zip(solo.phrases, inside, strict=True), 1):
        before = tuple(note for note in loose if note.onset < phrase.start)
        loose = loose[len(before) :]
        parts += [(None, None, before), (number, phrase, notes)]
    return [part for part in (*parts, (None, None, tuple(loose))) if part[2]]


def _passage(
    solo: Solo,
    preset: Preset,
    grid: BeatGrid,
    number: int | None,
    phrase: Phrase | None,
    notes: Sequence[Note],
    strokes: Mapping[int, Stroke | None],
) -> Passage:
    score = write_score(notes, grid)
    strokes = {note.id: strokes[note.id] for note in notes if note.id in strokes}
    names = {}
    if not preset.by_phrase:
        firsts = [(next(iter(solo.notes_in(each)), None), each.name) for each in solo.phrases]
        ids = {note.id for note in notes}
        names = {first.id: name for first, name in firsts if first is not None and name and first.id in ids}
    passage = Passage(
        score, tuple(notes), number, phrase.name if phrase else "", strokes=strokes, names=names,
        doubts=frozenset(note.id for note in notes if is_doubtful(note)), remarks=phrase.remarks if phrase else (),
    )  # fmt: skip
    if not (preset.intervals or preset.sentences) or not (solo.key_text.strip() or solo.chart_text.strip()):
        return passage
    answers = Answers(solo, phrase) if phrase is not None else Answers(with_only(solo, notes), None)
    events = answers.reading.events
    told = [(note.id, answers.reasons[note.id]) for note in answers.notes]
    spans = []
    for (source, lead), group in groupby(told, key=lambda pair: (pair[1].source, pair[1].lead)):
        members = list(group)
        if source is not None and any(reason.standing != "outside" for _, reason in members):
            spans.append(SourceSpan(source.name, tuple(id_ for id_, _ in members), lead))
    ids_of = [note.id for note in answers.notes]
    return Passage(
        score, tuple(notes), number, passage.name,
        sentences=tuple(sentence.words for sentence in answers.sentences[:_SENTENCES]),
        strokes=strokes, reasons=answers.reasons,
        targets=frozenset(ids_of[e.notes[-1]] for e in events if e.kind in ("target", "guide tone")),
        leading=tuple((ids_of[e.notes[0]], ids_of[e.notes[-1]]) for e in events if leads_by_step(e)),
        spans=tuple(spans), doubts=passage.doubts, remarks=passage.remarks, names=names,
    )  # fmt: skip


def with_only(solo: Solo, notes: Sequence[Note]) -> Solo:
    """The solo with these notes and no others."""
    return replace(solo, notes=tuple(notes), phrases=())


def _facts(solo: Solo, grid: BeatGrid, preset: Preset) -> tuple[str, ...]:
    key = key_of(solo)
    unit = "♩" if grid.division == 2 else "♩."
    head = [pretty(key.name)] if key else []
    head += [grid.meter, f"{unit} = {grid.bpm:.0f}" + (" swung" if grid.swung else "")]
    if solo.grid is None:
        head = [*head[:-2], "written without a beat of its own"]
    tuning = " ".join(pretty(pitch_class_name(pitch)) for pitch in reversed(solo.instrument.tuning))
    strings = [tuning]
    if solo.instrument.capo:
        strings.append(f"capo {solo.instrument.capo}")
    if solo.reference_cents is not None and abs(solo.reference_cents) >= 2:
        strings.append(tuning_words(solo.reference_cents))
    return " · ".join(head), " · ".join(strings), preset.words


def _about(solo: Solo) -> str:
    return ", ".join(fact for fact in astuple(solo.about) if fact)
