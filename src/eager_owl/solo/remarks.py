"""Remarks of a solo as one list in time, and how they are added and taken away."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from eager_owl.solo.document import Note, Remark, Solo, change_notes, change_phrase

# Ready words: how a hand does it, and what a player is often unsure of.
HAND_WORDS = (
    "two fingers support the bend", "bend pushed up", "bend pulled down", "half-barre", "thumb over the neck",
    "the fretting hand mutes", "the picking hand mutes", "fingers swapped silently", "the finger stays down",
    "lift the fingers, let the strings damp", "rolled from one string to the next",
)  # fmt: skip
DOUBT_WORDS = (
    "slide or hammer-on?", "picked or pulled off?", "which string?", "bent or fretted?", "is there a note under it?",
    "one note or two?",
)  # fmt: skip
_MOST_CHARACTERS = 2000


@dataclass(frozen=True)
class Remarked:
    """A remark with what it is of: a note, a phrase (index from 0), a stretch, or the solo; and when that begins."""

    remark: Remark
    start: float
    note: int | None = None
    phrase: int | None = None

    @property
    def words(self) -> str:
        """The text as it is listed: a doubt is told from a remark."""
        return f"? {self.remark.text}" if self.remark.question else self.remark.text


def remarks_of(solo: Solo) -> list[Remarked]:
    """All remarks, the solo's own first, then by when what they are about begins."""
    found = [Remarked(remark, remark.span[0] if remark.span else -1.0) for remark in solo.remarks]
    found += [
        Remarked(remark, phrase.start, phrase=index)
        for index, phrase in enumerate(solo.phrases)
        for remark in phrase.remarks
    ]
    found += [Remarked(remark, note.onset, note.id) for note in solo.notes for remark in note.remarks]
    return sorted(found, key=lambda remarked: remarked.start)


def as_remark(text: str, span: tuple[float, float] | None = None) -> Remark:
    """Typed words as a remark; what ends in a question mark is a doubt. Raises ValueError for none, or too many."""
    words = " ".join(text.split())
    if not words:
        raise ValueError("a remark needs words")
    if len(words) > _MOST_CHARACTERS:
        raise ValueError(f"a remark of {len(words)} characters is longer than {_MOST_CHARACTERS}")
    return Remark(words, words.endswith("?"), span)


def add_remark(
    solo: Solo,
    text: str,
    notes: Sequence[Note] = (),
    span: tuple[float, float] | None = None,
    phrase: int | None = None,
) -> Solo:
    """Say something of a note, of the stretch that several take or that is chosen, of a phrase, or of the solo."""
    if len(notes) == 1:
        remark = as_remark(text)
        return change_notes(solo, [notes[0].id], lambda note: replace(note, remarks=(*note.remarks, remark)))
    if notes:
        span = (min(note.onset for note in notes), max(note.end for note in notes))
    if span is not None:
        return replace(solo, remarks=(*solo.remarks, as_remark(text, span)))
    remark = as_remark(text)
    if phrase is not None:
        return change_phrase(solo, phrase, remarks=(*solo.phrases[phrase].remarks, remark))
    return replace(solo, remarks=(*solo.remarks, remark))


def remove_remark(solo: Solo, remarked: Remarked) -> Solo:
    """Take a remark away."""

    def without(remarks: tuple[Remark, ...]) -> tuple[Remark, ...]:
        at = remarks.index(remarked.remark)
        return (*remarks[:at], *remarks[at + 1 :])

    if remarked.note is not None:
        return change_notes(solo, [remarked.note], lambda note: replace(note, remarks=without(note.remarks)))
    if remarked.phrase is not None:
        return change_phrase(solo, remarked.phrase, remarks=without(solo.phrases[remarked.phrase].remarks))
    return replace(solo, remarks=without(solo.remarks))
