"""Where the notes of a solo come from and what they do, under its schools; over which chords they fit."""

from collections.abc import Collection, Sequence

from eager_owl.reasons.events import Event as Event
from eager_owl.reasons.explain import Explanation as Explanation
from eager_owl.reasons.explain import Reading as Reading
from eager_owl.reasons.explain import Reason as Reason
from eager_owl.reasons.explain import explain, read_line
from eager_owl.reasons.explain import shortest_first as shortest_first
from eager_owl.reasons.fits import Fit as Fit
from eager_owl.reasons.fits import fit_over, fits_over_chart
from eager_owl.reasons.overview import Overview as Overview
from eager_owl.reasons.overview import PhraseCount as PhraseCount
from eager_owl.reasons.overview import look_over
from eager_owl.reasons.roles import ROLES as ROLES
from eager_owl.reasons.schools import ReasonSchool as ReasonSchool
from eager_owl.reasons.schools import reason_schools as reason_schools
from eager_owl.reasons.sources import parse_source
from eager_owl.reasons.tell import Sentence as Sentence
from eager_owl.reasons.tell import event_words as event_words
from eager_owl.reasons.tell import interval_text as interval_text
from eager_owl.reasons.tell import tell_story
from eager_owl.reasons.tell import times_words as times_words
from eager_owl.session.facts import chart_of, key_of
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.solo.edits import set_source
from eager_owl.theory.chord import parse_chord

_LEADING = ("guide tone", "approach", "enclosure")


def leads_by_step(event: Event) -> bool:
    """Whether an event is a step from its first note into its last, for an arc to be drawn."""
    return event.kind in _LEADING or (event.kind == "delay" and bool(event.intervals))


def school_of(solo: Solo, phrase: Phrase | None) -> str:
    """The name of the school that explains a phrase: its own, or the solo's, which explains the whole."""
    return (phrase.reason_school if phrase is not None else "") or solo.reason_school


def reading_of(solo: Solo, notes: Sequence[Note]) -> Reading:
    """What notes do against the solo's key and chart, whatever the school."""
    return read_line(notes, key_of(solo), chart_of(solo), solo.grid)


def explain_notes(
    solo: Solo, notes: Sequence[Note], school: str | None = None, reading: Reading | None = None
) -> Explanation:
    """Explain notes under a school (the solo's own unless given); `reading` saves reading them again."""
    schools = reason_schools()
    chosen = schools.get(school or solo.reason_school, schools[Solo().reason_school])
    return explain(notes, key_of(solo), chart_of(solo), solo.grid, chosen, reading)


def reasons_of(solo: Solo) -> dict[int, Reason]:
    """A reason for every note of a solo by its id: the solo's school's, or that of the phrase it is in."""
    reasons = dict(zip((n.id for n in solo.notes), explain_notes(solo, solo.notes).reasons, strict=True))
    for phrase in solo.phrases:
        if phrase.reason_school:
            notes = solo.notes_in(phrase)
            told = explain_notes(solo, notes, phrase.reason_school)
            reasons |= dict(zip((n.id for n in notes), told.reasons, strict=True))
    return reasons


def fits_of(solo: Solo, notes: Sequence[Note], typed: str = "") -> list[Fit]:
    """The notes over a typed chord, or else over each of the chart's. Raises ValueError for one it can't read."""
    key, grid = key_of(solo), solo.grid
    if typed.strip():
        return [fit_over(notes, parse_chord(typed), key, grid)]
    return fits_over_chart(notes, chart_of(solo), key, grid)


def overview_of(solo: Solo, reading: Reading, explanation: Explanation) -> Overview:
    """The whole solo counted, from the reading and an explanation of all its notes."""
    return look_over(solo.notes, solo.phrases, reading, explanation, chart_of(solo), solo.grid)


def named_source(solo: Solo, ids: Collection[int], text: str) -> Solo:
    """Notes said to come from a source, or left to the school where `text` is empty. Raises ValueError for none."""
    source = parse_source(text).name if text.strip() else None
    return set_source(solo, ids, source)


def explain_by_all(solo: Solo, notes: Sequence[Note], reading: Reading | None = None) -> list[Explanation]:
    """The notes under every school, the shortest honest story first."""
    reading = reading or reading_of(solo, notes)
    return shortest_first(explain_notes(solo, notes, name, reading) for name in reason_schools())


def sentences_of(solo: Solo, explanation: Explanation, reading: Reading) -> list[Sentence]:
    """What an explanation and the line's events come to, in words."""
    return tell_story(explanation, reading, solo.grid)
