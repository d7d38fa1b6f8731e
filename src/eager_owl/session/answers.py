"""What the engines say of the notes that are looked at, each asked once for a document and a phrase."""

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from eager_owl.notation.score import Event as Event
from eager_owl.notation.score import Score as Score
from eager_owl.notation.score import write_score
from eager_owl.session.explaining import (
    Explanation,
    Reading,
    Reason,
    Sentence,
    explain_notes,
    reading_of,
    reason_schools,
    school_of,
    sentences_of,
    shortest_first,
)
from eager_owl.session.facts import doubts
from eager_owl.session.hearing import returns_in
from eager_owl.session.placing import USUAL_HAND, Hand, HandStory, Way, awkward_crossings, picking, tell_hand, ways
from eager_owl.session.sounding import transcription_contours
from eager_owl.solo.document import Note, Phrase, Solo, Stroke
from eager_owl.solo.figures import Return


class Answers:
    """Of one solo, and the notes of one phrase of it (None: all); `hand` is whose ways to play it are sought."""

    def __init__(self, solo: Solo, phrase: Phrase | None, hand: Hand = USUAL_HAND) -> None:
        self._solo, self._phrase, self._hand = solo, phrase, hand
        self.notes: tuple[Note, ...] = solo.notes if phrase is None else solo.notes_in(phrase)
        self._explanations: dict[str, Explanation] = {}

    @cached_property
    def reading(self) -> Reading:
        """What the notes do, whatever the school."""
        return reading_of(self._solo, self.notes)

    def explanation(self, school: str) -> Explanation:
        """The notes as a school explains them."""
        if school not in self._explanations:
            self._explanations[school] = explain_notes(self._solo, self.notes, school, self.reading)
        return self._explanations[school]

    @property
    def told(self) -> Explanation:
        """The notes as the phrase's own school explains them, or the solo's."""
        return self.explanation(school_of(self._solo, self._phrase))

    @cached_property
    def reasons(self) -> dict[int, Reason]:
        """That school's reason for each note, by its id."""
        return {note.id: reason for note, reason in zip(self.notes, self.told.reasons, strict=True)}

    @property
    def stories(self) -> list[Explanation]:
        """The notes under every school, the shortest honest story first."""
        return shortest_first(map(self.explanation, reason_schools()))

    @cached_property
    def sentences(self) -> list[Sentence]:
        """What that school and the line's events come to, in words."""
        return sentences_of(self._solo, self.told, self.reading)

    @cached_property
    def returns(self) -> list[Return]:
        """Where the figures of the phrase come back; of the whole recording none are sought."""
        return returns_in(self._solo, self._phrase) if self._phrase else []

    @cached_property
    def doubts(self) -> list[Note]:
        """The doubtful notes, worst first."""
        return doubts(self._solo, self._phrase)

    @cached_property
    def hand(self) -> HandStory:
        """How the hand goes through the notes."""
        return tell_hand(self.notes, self._solo.instrument)

    @cached_property
    def strokes(self) -> Sequence[Stroke | None]:
        """How each note is struck, the player's own strokes kept."""
        return picking(self._solo, self.notes)

    @cached_property
    def crossings(self) -> list[int]:
        """Indices of the notes that are awkward for the pick to come to."""
        return awkward_crossings(self.notes, self.strokes)

    @cached_property
    def ways(self) -> list[Way]:
        """Ways to play the phrase, as it is first; of the whole recording none are sought."""
        return ways(self._solo, self.notes, self._hand) if self._phrase and self.notes else []

    @cached_property
    def score(self) -> Score | None:
        """The notes as they are written, or None where there is no beat."""
        return write_score(self.notes, self._solo.grid) if self._solo.grid else None

    @cached_property
    def contours(self) -> dict[int, NDArray[np.float64]]:
        """The pitch each note would sound at, by its id, in semitones over its fret."""
        return transcription_contours(self._solo, self.notes)
