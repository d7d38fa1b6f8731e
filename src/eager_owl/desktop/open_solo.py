"""The solo that is open: the document with its undo history, its recording, and what is looked at."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from eager_owl.audio.decode import Recording
from eager_owl.audio.peaks import Peaks
from eager_owl.reasons.explain import Explanation, Reading, Reason, shortest_first
from eager_owl.reasons.schools import reason_schools
from eager_owl.reasons.tell import Sentence, tell_story
from eager_owl.session import Survey, explain_notes, place_around, reading_of, returns_in
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.solo.edits import EditError
from eager_owl.solo.figures import Return

# Placing and explaining anew wait this long after an edit, so that the key is seen to act first.
_SETTLE_MS = 20


Voice = Literal["recording", "transcription", "both"]
VOICES: tuple[Voice, ...] = ("recording", "transcription", "both")


@dataclass(frozen=True)
class Sound:
    """A decoded recording, its peaks, and its survey once that is made."""

    path: Path
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


class _Change(QUndoCommand):
    """From one solo to another."""

    def __init__(self, owner: "OpenSolo", before: Solo, after: Solo, words: str) -> None:
        super().__init__(words)
        self._owner, self.before, self.after = owner, before, after

    def redo(self) -> None:
        self._owner.show(self.after)

    def undo(self) -> None:
        self._owner.show(self.before)


class OpenSolo(QObject):
    """Holds the document and tells views when something changed."""

    changed = Signal(object)  # the notes an edit touched, as they were and as they are
    view_changed = Signal()
    cursor_moved = Signal()
    settled = Signal()
    complaint = Signal(str)

    def __init__(self, solo: Solo, path: Path | None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.solo, self.path = solo, path
        self.sound: Sound | None = None
        self.view = View(phrase=0 if solo.phrases else None)
        if solo.phrases:
            self.view.cursor = solo.phrases[0].start
        self.undo_stack = QUndoStack(self)
        self.reasons: dict[int, Reason] = {}
        self._explanations: dict[str, Explanation] = {}
        self._reading: Reading | None = None
        self._notes: tuple[Note, ...] = ()
        self._returns: list[Return] | None = None
        self._stale = True
        self._unplaced: set[int] = set()
        self._settle_timer = QTimer(self)
        self._settle_timer.setSingleShot(True)
        self._settle_timer.setInterval(_SETTLE_MS)
        self._settle_timer.timeout.connect(self.settle)
        self.settle()

    # The document

    def do(self, words: str, change: Callable[[Solo], Solo], place: Sequence[int] = ()) -> bool:
        """Make a change that can be undone; notes in `place` are placed anew shortly after.

        What can't be done is told by `complaint`; the answer is whether it was done.
        """
        self.settle()
        try:
            after = change(self.solo)
        except (EditError, ValueError) as error:
            self.complaint.emit(str(error))
            return False
        if after == self.solo:
            return False
        self._unplaced |= set(place)
        self.undo_stack.push(_Change(self, self.solo, after, words))
        return True

    def kept(self, solo: Solo, path: Path) -> None:
        """This document is on disk at this path."""
        self.solo, self.path = solo, path
        self.undo_stack.setClean()
        self._stale = True
        self.settle()

    def undo(self) -> None:
        """Take back the last change."""
        self.settle()
        self.undo_stack.undo()

    def redo(self) -> None:
        """Make it again."""
        self.settle()
        self.undo_stack.redo()

    def show(self, solo: Solo) -> None:
        """Make this the document (undo, redo and `do` come here)."""
        before, after = ({id(note): note for note in notes} for notes in (self.solo.notes, solo.notes))
        touched = [note for key, note in (before | after).items() if (key in before) != (key in after)]
        self.solo = solo
        self.view.tried = ()
        ids = {note.id for note in solo.notes}
        self.view.selection = tuple(i for i in self.view.selection if i in ids)
        if self.view.phrase is not None and self.view.phrase >= len(solo.phrases):
            self.view.phrase = len(solo.phrases) - 1 if solo.phrases else None
        self._find_notes()
        self._settle_timer.start()
        self.changed.emit(touched)

    def settle(self) -> None:
        """Place what an edit left unplaced and explain the phrase anew, now, if there is anything to settle."""
        self._settle_timer.stop()
        if not self._stale:
            return
        if self._unplaced:
            ids, self._unplaced = self._unplaced, set()
            self.solo = place_around(self.solo, ids)
            command = self.undo_stack.command(self.undo_stack.index() - 1)
            if isinstance(command, _Change):
                command.after = self.solo
        self._find_notes()
        reasons = self.explanation(self.solo.reason_school).reasons
        self.reasons = {note.id: reason for note, reason in zip(self._notes, reasons, strict=True)}
        self._stale = False
        self.settled.emit()

    def explanation(self, school: str) -> Explanation:
        """The notes on the desk as a school explains them."""
        if school not in self._explanations:
            self._explanations[school] = explain_notes(self.solo, self._notes, school, self.reading)
        return self._explanations[school]

    @property
    def reading(self) -> Reading:
        """What the notes on the desk do, whatever the school."""
        if self._reading is None:
            self._reading = reading_of(self.solo, self._notes)
        return self._reading

    @property
    def stories(self) -> list[Explanation]:
        """The notes on the desk under every school, the shortest honest story first."""
        return shortest_first(map(self.explanation, reason_schools()))

    def sentences(self) -> list[Sentence]:
        """What the solo's school and the line's events come to, in words."""
        return tell_story(self.explanation(self.solo.reason_school), self.reading, self.solo.grid)

    @property
    def returns(self) -> list[Return]:
        """Where the figures of the phrase on the desk come back; of the whole recording none are sought."""
        if self._returns is None:
            self._returns = returns_in(self.solo, self.phrase) if self.phrase else []
        return self._returns

    def _find_notes(self) -> None:
        phrase = self.phrase
        self._notes = self.solo.notes if phrase is None else self.solo.notes_in(phrase)
        self._explanations = {}
        self._reading = None
        self._returns = None
        self._stale = True

    # What is looked at

    @property
    def phrase(self) -> Phrase | None:
        """The phrase on the desk."""
        return None if self.view.phrase is None else self.solo.phrases[self.view.phrase]

    @property
    def notes(self) -> tuple[Note, ...]:
        """The notes on the desk."""
        return self._notes

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
        self._find_notes()
        self.settle()
        self.view_changed.emit()

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
        """Length of the recording, as far as it is known."""
        if self.sound is not None:
            return self.sound.recording.duration_s
        return self.solo.recording.duration_s if self.solo.recording else 0.0

    def play_range(self) -> tuple[float, float]:
        """What a loop plays: the stretch, else the phrase, else all from the cursor on."""
        if self.view.span is not None:
            return self.view.span
        if self.phrase is not None:
            return self.phrase.start, self.phrase.end
        return (self.view.cursor if self.view.cursor < self.duration_s - 0.1 else 0.0), self.duration_s
