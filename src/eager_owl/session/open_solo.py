"""The solo that is open: its document and history, where it lies on disk, its recording, and what is looked at."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from eager_owl.audio.decode import Recording
from eager_owl.audio.peaks import Peaks
from eager_owl.session.answers import Answers
from eager_owl.session.explaining import Reason
from eager_owl.session.hearing import Survey
from eager_owl.session.history import History
from eager_owl.session.placing import USUAL_HAND, Hand, place_around
from eager_owl.session.ports import Clock
from eager_owl.session.signal import Signal
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.solo.edits import EditError
from eager_owl.solo.gate import check_solo

# Placing and explaining anew wait this long after an edit, so that the key is seen to act first.
_SETTLE_S = 0.02

Voice = Literal["recording", "transcription", "both"]
VOICES: tuple[Voice, ...] = ("recording", "transcription", "both")


@dataclass(frozen=True)
class Sound:
    """A decoded recording, the hash of its file, its peaks, and its survey once that is made."""

    path: Path
    sha256: str
    recording: Recording
    peaks: Peaks
    survey: Survey | None = None


@dataclass
class View:
    """What is looked at: a phrase (None: the whole recording), notes, a stretch, a cursor in seconds.

    `taps` are where the player tapped notes, in seconds; `voice` is what plays; `tried` are notes as another
    fingering, or another key, would have them, while they are looked at.
    """

    phrase: int | None = None
    selection: tuple[int, ...] = ()
    span: tuple[float, float] | None = None
    cursor: float = 0.0
    taps: tuple[float, ...] = ()
    voice: Voice = "recording"
    tried: tuple[Note, ...] = ()


@dataclass(frozen=True)
class _Unsettled:
    """A change that is seen already, and whose notes are still to be placed before it is a step of the history."""

    solo: Solo
    words: str
    place: frozenset[int]


class OpenSolo:
    """Holds the document and tells who looks at it when something changed.

    Where the document and its recording lie on disk is no part of the history: undo does not move files.
    """

    def __init__(self, solo: Solo, path: Path | None, recording_path: Path | None, clock: Clock) -> None:
        self.path, self.recording_path = path, recording_path
        self.hand = USUAL_HAND  # whose places are proposed
        self.stamp: str | None = None  # of the document as it was last read or written
        self.changed = Signal[[list[Note]]]()  # the notes an edit touched, as they were and as they are
        self.view_changed = Signal[[]]()
        self.cursor_moved = Signal[[]]()
        self.settled = Signal[[]]()
        self.unkept = Signal[[]]()  # what is on disk, if anything, is another document than this
        self.told = Signal[[str]]()
        self.sound: Sound | None = None
        self.view = View(phrase=0 if solo.phrases else None)
        if solo.phrases:
            self.view.cursor = solo.phrases[0].start
        self.history = History(solo)
        self._kept: Solo | None = solo
        self._unsettled: _Unsettled | None = None
        self._settle_timer = clock.timer(_SETTLE_S, self.settle)
        self.answers = Answers(solo, self.phrase)
        self.settled_answers = self.answers  # what takes longer is shown of these, until an edit has settled
        self.reasons: dict[int, Reason] = self.answers.reasons

    # The document

    @property
    def solo(self) -> Solo:
        """The document as it is seen."""
        return self._unsettled.solo if self._unsettled else self.history.now

    @property
    def dirty(self) -> bool:
        """Whether there is anything that is not on disk."""
        return self.solo is not self._kept

    def do(self, words: str, change: Callable[[Solo], Solo], place: Sequence[int] = ()) -> bool:
        """Make a change that can be undone; notes in `place` are placed anew shortly after, as part of the step.

        What can't be done is told; the answer is whether it was done.
        """
        self.settle()
        before = self.solo
        try:
            after = check_solo(change(before), known=before)
        except (EditError, ValueError) as error:
            self.told.emit(str(error))
            return False
        if after == before:
            return False
        self._unsettled = _Unsettled(after, words, frozenset(place))
        self._show(before, after)
        return True

    def undo(self) -> None:
        """Take back the last change."""
        self._walk(self.history.back)

    def redo(self) -> None:
        """Make it again."""
        self._walk(self.history.forth)

    def _walk(self, step: Callable[[], str | None]) -> None:
        self.settle()
        before = self.solo
        if step() is not None:
            self._show(before, self.solo)

    def kept(self, path: Path) -> None:
        """This document is on disk at this path now."""
        self.settle()
        self.path, self._kept = path, self.solo
        self.settled.emit()

    def never_kept(self) -> None:
        """This document is nowhere on disk: it came back from a journal, or its recording has moved."""
        self._kept = None
        self.unkept.emit()

    def _show(self, before: Solo, after: Solo) -> None:
        old, new = ({id(note): note for note in solo.notes} for solo in (before, after))
        touched = [note for key, note in (old | new).items() if (key in old) != (key in new)]
        self.view.tried = ()
        ids = {note.id for note in after.notes}
        self.view.selection = tuple(i for i in self.view.selection if i in ids)
        if self.view.phrase is not None and self.view.phrase >= len(after.phrases):
            self.view.phrase = len(after.phrases) - 1 if after.phrases else None
        self.answers = Answers(after, self.phrase, self.hand)
        self._settle_timer.start()
        self.changed.emit(touched)

    def settle(self) -> None:
        """Place what a change left unplaced, make it a step of the history, and explain anew, if any is to do."""
        self._settle_timer.stop()
        if self._unsettled is not None:
            change = self._unsettled
            placed = place_around(change.solo, change.place, self.hand) if change.place else change.solo
            self._unsettled = None
            self.history.add(placed, change.words)
            if placed is not change.solo:
                self.answers = Answers(placed, self.phrase, self.hand)
        if self.settled_answers is not self.answers:
            self.settled_answers, self.reasons = self.answers, self.answers.reasons
            self.settled.emit()

    # What is looked at

    @property
    def phrase(self) -> Phrase | None:
        """The phrase on the desk."""
        return None if self.view.phrase is None else self.solo.phrases[self.view.phrase]

    @property
    def notes(self) -> tuple[Note, ...]:
        """The notes on the desk."""
        return self.answers.notes

    @property
    def selected(self) -> list[Note]:
        """The selected notes, in order."""
        chosen = set(self.view.selection)
        return [note for note in self.solo.notes if note.id in chosen] if chosen else []

    def look_at_phrase(self, index: int | None) -> None:
        """Put a phrase, or the whole recording, on the desk."""
        self.view.phrase, self.view.selection, self.view.span, self.view.tried = index, (), None, ()
        if index is not None:
            self.view.cursor = self.solo.phrases[index].start
        self.answers = Answers(self.solo, self.phrase, self.hand)
        self.settle()
        self.view_changed.emit()

    def play_with(self, hand: Hand) -> None:
        """Places are proposed for this hand from now on."""
        self.hand = hand
        self.answers = Answers(self.solo, self.phrase, hand)
        self.settle()

    def select(self, ids: Sequence[int], move_cursor: bool = True) -> None:
        """Select notes; the cursor goes to the first."""
        self.view.selection = tuple(ids)
        if ids and move_cursor:
            self.view.cursor = self.solo.note(ids[0]).onset
        self.view_changed.emit()

    def go_to_notes(self, ids: Sequence[int]) -> dict[int | None, tuple[int, ...]]:
        """Select those of the notes that lie in one phrase, this one if it has any; asked again, the next one's.

        Returns all of them by phrase, None for what lies in none.
        """
        homes: dict[int | None, tuple[int, ...]] = {}
        for note_id in ids:
            home = self.solo.phrase_index_at(self.solo.note(note_id).onset)
            homes[home] = (*homes.get(home, ()), note_id)
        order = list(homes)
        here = self.view.phrase
        if here not in homes:
            here = order[0]
        elif set(homes[here]) == set(self.view.selection):
            here = order[(order.index(here) + 1) % len(order)]
        if here != self.view.phrase:
            self.look_at_phrase(here)
        self.select(homes[here])
        return homes

    def set_span(self, span: tuple[float, float] | None) -> None:
        """Choose a stretch of time."""
        self.view.span = span
        self.view_changed.emit()

    def set_taps(self, taps: Sequence[float]) -> None:
        """Where the player tapped."""
        self.view.taps = tuple(sorted(taps))
        self.view_changed.emit()

    def try_notes(self, notes: Sequence[Note]) -> None:
        """Look at notes as they could be played; an empty sequence looks away."""
        self.view.tried = tuple(notes)
        self.view_changed.emit()

    def set_voice(self, voice: Voice) -> None:
        """What plays: the recording, the transcription, or one in each ear."""
        self.view.voice = voice
        self.view_changed.emit()

    def move_cursor(self, time_s: float) -> None:
        """Put the cursor at a time, within the recording."""
        end = self.duration_s
        self.view.cursor = min(max(time_s, 0.0), end) if end else max(time_s, 0.0)
        self.cursor_moved.emit()

    @property
    def duration_s(self) -> float:
        """Length of the recording, as far as it is known, or of what is written without one."""
        if self.sound is not None:
            return self.sound.recording.duration_s
        if self.solo.recording:
            return self.solo.recording.duration_s
        # Written by hand: as long as what there is, and a bar.
        ends = [note.end for note in self.solo.notes] + [phrase.end for phrase in self.solo.phrases]
        return max(ends) + (self.solo.grid.bar_s if self.solo.grid else 1.0) if ends else 0.0

    def play_range(self) -> tuple[float, float]:
        """What a loop plays: the stretch, else the phrase, else all from the cursor on."""
        if self.view.span is not None:
            return self.view.span
        if self.phrase is not None:
            return self.phrase.start, self.phrase.end
        return (self.view.cursor if self.view.cursor < self.duration_s - 0.1 else 0.0), self.duration_s
