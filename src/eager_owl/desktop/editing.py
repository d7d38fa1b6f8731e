"""The keys that change the document: notes, techniques, places and phrases."""

from collections.abc import Callable
from typing import cast

from eager_owl.desktop.desk import Desk
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.neck.schools import placing_schools
from eager_owl.reasons.schools import reason_schools
from eager_owl.session import doubts
from eager_owl.solo import edits
from eager_owl.solo.document import Note, Solo, Stroke, change_notes, change_phrase
from eager_owl.solo.techniques import TechniqueName

_PHRASE_NUDGE_S, _NOTE_NUDGE_S, _CURSOR_STEP_S = 0.05, 0.01, 0.02
_NEW_NOTE_S = 0.2


class Editing:
    """One method an action, named as in `actions`; all work on the solo that is open."""

    def __init__(self, opened: OpenSolo, desk: Desk, hear_around: Callable[[], None]) -> None:
        """`hear_around` hears the phrase anew around what is pinned."""
        self._open, self._desk, self._hear_around = opened, desk, hear_around

    # Walking

    def next_note(self) -> None:
        """Select the next note."""
        self._step(1)

    def previous_note(self) -> None:
        """Select the note before."""
        self._step(-1)

    def _step(self, by: int, extend: bool = False) -> None:
        notes = self._open.notes
        if not notes:
            return
        ids = [note.id for note in notes]
        chosen = [i for i in self._open.view.selection if i in ids]
        if not chosen:
            cursor = self._open.view.cursor
            later = [note.id for note in notes if note.onset >= cursor - 0.005]
            self._open.select([(later or ids)[0]])
            return
        edge = ids.index(chosen[-1] if by > 0 else chosen[0]) + by
        if 0 <= edge < len(ids):
            grown = [*chosen, ids[edge]] if by > 0 else [ids[edge], *chosen]
            self._open.select(grown if extend else [ids[edge]])

    def extend_next(self) -> None:
        """Select the next note too."""
        self._step(1, extend=True)

    def extend_previous(self) -> None:
        """Select the note before too."""
        self._step(-1, extend=True)

    def select_all(self) -> None:
        """Select every note on the desk."""
        self._open.select([note.id for note in self._open.notes])

    def next_doubt(self) -> None:
        """Go to the next doubtful note: the worst first, then the one less bad."""
        queue = [note.id for note in doubts(self._open.solo, self._open.phrase)]
        if not queue:
            self._open.complaint.emit("no note in doubt here")
            return
        here = self._open.view.selection[:1]
        at = queue.index(here[0]) + 1 if here and here[0] in queue else 0
        self._open.select([queue[at % len(queue)]])

    def accept(self) -> None:
        """The selected notes' pitches are right: pin them, and go to the next doubt."""
        queue = [note.id for note in doubts(self._open.solo, self._open.phrase)]
        here = self._open.view.selection[:1]
        if not here:
            self.next_doubt()
            return
        self._on_notes("accept", lambda solo, ids: change_notes(solo, ids, lambda note: note.pinned("pitch")))
        later = [i for i in queue if i not in here]
        if later:
            at = queue.index(here[0]) if here[0] in queue else 0
            self._open.select([later[at % len(later)]])

    def cursor_back(self) -> None:
        """Cursor a little back."""
        self._open.move_cursor(self._open.view.cursor - _CURSOR_STEP_S)

    def cursor_on(self) -> None:
        """Cursor a little on."""
        self._open.move_cursor(self._open.view.cursor + _CURSOR_STEP_S)

    # Notes

    def _ids(self) -> list[int]:
        ids = list(self._open.view.selection)
        if not ids:
            self._open.complaint.emit("select a note first: → and ← walk through them")
        return ids

    def _on_notes(self, words: str, change: Callable[[Solo, list[int]], Solo], place: bool = False) -> None:
        ids = self._ids()
        if ids:
            self._open.do(words, lambda solo: change(solo, ids), ids if place else ())

    def pin(self) -> None:
        """Pin the notes or free them."""
        self._on_notes("pin", edits.toggle_pins)

    def pitch_up(self) -> None:
        """A semitone up."""
        self._on_notes("pitch", lambda solo, ids: edits.change_pitch(solo, ids, 1), place=True)

    def pitch_down(self) -> None:
        """A semitone down."""
        self._on_notes("pitch", lambda solo, ids: edits.change_pitch(solo, ids, -1), place=True)

    def take_pitch(self, note_id: int, semitones: int) -> None:
        """Take another reading of one note's pitch; what is around it is then heard anew."""
        if self._open.do("pitch", lambda solo: edits.change_pitch(solo, [note_id], semitones), [note_id]):
            self._hear_around()

    def take_runner_up(self) -> None:
        """Take the likeliest other reading of the selected note."""
        for note in self._open.selected[:1]:
            if note.runners_up:
                self.take_pitch(note.id, note.runners_up[0][0] - note.pitch)
            else:
                self._open.complaint.emit("nothing else was heard in this note")

    def onset_earlier(self) -> None:
        """Onset earlier."""
        self._nudge(-_NOTE_NUDGE_S, 0)

    def onset_later(self) -> None:
        """Onset later."""
        self._nudge(_NOTE_NUDGE_S, 0)

    def note_end_earlier(self) -> None:
        """End earlier."""
        self._nudge(0, -_NOTE_NUDGE_S)

    def note_end_later(self) -> None:
        """End later."""
        self._nudge(0, _NOTE_NUDGE_S)

    def _nudge(self, onset_s: float, end_s: float) -> None:
        self._on_notes("timing", lambda solo, ids: edits.nudge_timing(solo, ids, onset_s, end_s))

    def set_timing(self, note_id: int, onset: float, end: float) -> None:
        """Onset and end of one note, as dragged."""
        self._open.do("timing", lambda solo: edits.set_timing(solo, note_id, onset, end))

    def add_note(self) -> None:
        """Add a note at the cursor, at the pitch of the selected or nearest note."""
        cursor = self._open.view.cursor
        near: list[Note] = self._open.selected or sorted(self._open.notes, key=lambda n: abs(n.onset - cursor))
        pitch = near[0].pitch if near else self._open.solo.instrument.tuning[0]
        new_id = self._open.solo.next_id
        if self._open.do("add note", lambda solo: edits.add_note(solo, cursor, _NEW_NOTE_S, pitch), [new_id]):
            self._open.select([new_id])

    def delete_notes(self) -> None:
        """Throw the selected notes out."""
        self._on_notes("throw out", edits.delete_notes)

    def split_note(self) -> None:
        """Cut the note under the cursor."""
        cursor = self._open.view.cursor
        under = [note for note in self._open.notes if note.onset < cursor < note.end]
        if not under:
            self._open.complaint.emit("put the cursor inside the note to split it")
            return
        note_id, new_id = under[0].id, self._open.solo.next_id
        self._open.do("split note", lambda solo: edits.split_note(solo, note_id, cursor), [note_id, new_id])

    def join_notes(self) -> None:
        """Join the selected notes."""
        self._on_notes("join notes", edits.join_notes, place=True)

    def technique(self, name: str) -> None:
        """Toggle a technique on the selected notes."""
        wanted = cast(TechniqueName, name)
        self._on_notes("technique", lambda solo, ids: edits.toggle_technique(solo, ids, wanted), place=True)

    # Places

    def string_up(self) -> None:
        """A thinner string."""
        self._on_notes("string", lambda solo, ids: edits.move_string(solo, ids, -1), place=True)

    def string_down(self) -> None:
        """A thicker string."""
        self._on_notes("string", lambda solo, ids: edits.move_string(solo, ids, 1), place=True)

    def set_string(self, note_id: int, string: int) -> None:
        """One note to a string, as dragged or clicked."""
        self._open.do("string", lambda solo: edits.set_place(solo, note_id, string), [note_id])

    def finger(self, finger: int) -> None:
        """A finger for the selected notes."""
        self._on_notes("finger", lambda solo, ids: edits.set_finger(solo, ids, finger), place=True)

    def stroke_down(self) -> None:
        """Struck down."""
        self._stroke("down")

    def stroke_up(self) -> None:
        """Struck up."""
        self._stroke("up")

    def stroke_finger(self) -> None:
        """Plucked with a finger."""
        self._stroke("finger")

    def stroke_free(self) -> None:
        """Struck as proposed."""
        self._stroke(None)

    def _stroke(self, stroke: Stroke | None) -> None:
        self._on_notes("picking stroke", lambda solo, ids: edits.set_stroke(solo, ids, stroke))

    def next_placing_school(self) -> None:
        """Place by the next school."""
        names = list(placing_schools())
        name = names[(names.index(self._open.solo.placing_school) + 1) % len(names)]
        ids = [note.id for note in self._open.solo.notes]
        self._open.do("way of placing", lambda solo: edits.choose_schools(solo, placing=name), ids)

    def next_reason_school(self) -> None:
        """Explain by the next school."""
        names = list(reason_schools())
        name = names[(names.index(self._open.solo.reason_school) + 1) % len(names)]
        self._open.do("way of explaining", lambda solo: edits.choose_schools(solo, reasons=name))

    # Phrases

    def next_phrase(self) -> None:
        """The next phrase."""
        self._walk_phrases(1)

    def previous_phrase(self) -> None:
        """The phrase before."""
        self._walk_phrases(-1)

    def _walk_phrases(self, by: int) -> None:
        count = len(self._open.solo.phrases)
        if count:
            here = self._open.view.phrase
            index = (0 if by > 0 else count - 1) if here is None else min(max(here + by, 0), count - 1)
            self._open.look_at_phrase(index)

    def show_whole(self) -> None:
        """The whole recording, or back to the phrase at the cursor."""
        if self._open.view.phrase is not None:
            self._open.look_at_phrase(None)
        elif self._open.solo.phrases:
            index = self._open.solo.phrase_index_at(self._open.view.cursor)
            self._open.look_at_phrase(0 if index is None else index)

    def span_start(self) -> None:
        """The stretch starts here."""
        start = self._open.view.cursor
        end = self._open.view.span[1] if self._open.view.span else self._open.duration_s
        self._open.set_span((start, end) if end > start else (start, self._open.duration_s))

    def span_end(self) -> None:
        """The stretch ends here."""
        end = self._open.view.cursor
        start = self._open.view.span[0] if self._open.view.span else 0.0
        if end > start:
            self._open.set_span((start, end))

    def mark_phrase(self) -> None:
        """Make the stretch a phrase."""
        span = self._open.view.span
        if span is None:
            self._open.complaint.emit("choose a stretch first: drag over the sound, or press [ and ]")
            return
        if self._open.do("mark phrase", lambda solo: edits.mark_phrase(solo, *span)):
            self._open.look_at_phrase(self._open.solo.phrase_index_at((span[0] + span[1]) / 2))

    def _on_phrase(self, words: str, change: Callable[[Solo, int], Solo]) -> bool:
        index = self._open.view.phrase
        if index is None:
            self._open.complaint.emit("choose a phrase first: Page down")
            return False
        return self._open.do(words, lambda solo: change(solo, index))

    def split_phrase(self) -> None:
        """Cut the phrase at the cursor."""
        cursor = self._open.view.cursor
        self._on_phrase("split phrase", lambda solo, i: edits.split_phrase(solo, i, cursor))

    def merge_phrase(self) -> None:
        """Merge with the next phrase."""
        self._on_phrase("merge phrases", edits.merge_with_next)

    def prove_phrase(self) -> None:
        """The phrase stood up against the record; or not yet, after all."""

        def change(solo: Solo, index: int) -> Solo:
            proved = solo.phrases[index].stage == "proved"
            return change_phrase(solo, index, stage="placed" if proved else "proved")

        self._on_phrase("proved", change)

    def name_phrase(self, name: str) -> None:
        """Give the phrase a name."""
        self._on_phrase("name phrase", lambda solo, i: edits.rename_phrase(solo, i, name))

    def delete_phrase(self) -> None:
        """Remove the phrase."""
        if self._on_phrase("remove phrase", edits.delete_phrase):
            self._open.look_at_phrase(self._open.view.phrase)

    def start_earlier(self) -> None:
        """Phrase starts earlier."""
        self._on_phrase("phrase start", lambda solo, i: edits.nudge_phrase(solo, i, -_PHRASE_NUDGE_S, 0))

    def start_later(self) -> None:
        """Phrase starts later."""
        self._on_phrase("phrase start", lambda solo, i: edits.nudge_phrase(solo, i, _PHRASE_NUDGE_S, 0))

    def end_earlier(self) -> None:
        """Phrase ends earlier."""
        self._on_phrase("phrase end", lambda solo, i: edits.nudge_phrase(solo, i, 0, -_PHRASE_NUDGE_S))

    def end_later(self) -> None:
        """Phrase ends later."""
        self._on_phrase("phrase end", lambda solo, i: edits.nudge_phrase(solo, i, 0, _PHRASE_NUDGE_S))

    # The look of the desk

    def zoom_in(self) -> None:
        """Look closer."""
        self._desk.zoom(1)

    def zoom_out(self) -> None:
        """Step back."""
        self._desk.zoom(-1)
