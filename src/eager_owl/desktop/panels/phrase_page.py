"""The evidence of a phrase, or of the whole: its measures, doubts and figures; and what is to be done next."""

from eager_owl.desktop.widgets.fact_grid import FactGrid
from eager_owl.desktop.words import clock_text, percent, place_words
from eager_owl.session import editing
from eager_owl.session.commands import Command, key_words
from eager_owl.session.explaining import times_words
from eager_owl.session.facts import other_reading, pitch_text, sureness, tuning_words
from eager_owl.session.next_steps import next_steps
from eager_owl.session.session import Session
from eager_owl.solo.document import Note
from eager_owl.solo.dynamics import dynamics_words
from eager_owl.solo.figures import return_words
from eager_owl.solo.techniques import manner_words
from eager_owl.theory.words import plural

_QUEUE_SHOWN, _FIGURES_SHOWN = 6, 4


class PhrasePage:
    """Writes the page of the phrase on the desk, or of the whole recording."""

    def __init__(self, session: Session, page: FactGrid) -> None:
        self.session, self.opened, self.page = session, session.solo, page
        self.notes = self.opened.notes
        self._order = {note.id: i for i, note in enumerate(self.notes, 1)}

    def write(self) -> None:
        """All of it."""
        self._measured()
        self._next_steps()
        self._queue()
        self._others()
        self._returns()
        if self.notes:
            self._schools()
        self.page.heading("Keys")
        self.page.row("→  ←", "walk through the notes")
        self.page.row("F3", "find a command")
        self.page.row("?", "all keys")

    def _pitch(self, pitch: int, note: Note | None = None) -> str:
        """A pitch by name; one that is told of a note as its chord spells it."""
        reason = self.opened.reasons.get(note.id) if note is not None else None
        return pitch_text(pitch, self.opened.solo, reason.chord if reason is not None else None)

    def _measured(self) -> None:
        solo, phrase, notes, page = self.opened.solo, self.opened.phrase, self.notes, self.page
        page.heading(phrase.name if phrase else solo.title)
        chosen = len(self.opened.view.selection)
        if chosen:
            page.row("selected", plural(chosen, "note"))
        if phrase:
            page.row("length", f"{phrase.end - phrase.start:.2f} s")
        page.row("notes", str(len(notes)) if notes else "none yet")
        if notes:
            low, high = min(n.pitch for n in notes), max(n.pitch for n in notes)
            page.row("range", f"{self._pitch(low)} to {self._pitch(high)}")
            loud = max(n.loudness_db for n in notes) - min(n.loudness_db for n in notes)
            loudest = max(n.loudness_db for n in solo.notes)
            page.row("loudness", f"{dynamics_words(notes, loudest)}; {loud:.0f} dB from softest to loudest")
            seconds = max(notes[-1].end - notes[0].onset, 0.1)
            page.row("speed", f"{len(notes) / seconds:.1f} notes a second")
        if solo.reference_cents is not None:
            page.row("tuning", f"{solo.reference_cents:+.0f} cents, {tuning_words(solo.reference_cents)} Hz")

    def _next_steps(self) -> None:
        """What is still to be said or done before there is anything to explain."""
        steps = next_steps(self.opened)
        if not steps:
            return
        self.page.heading("Next")
        for name, words in steps:
            command = self.session.commands[name]
            keys = f"   {key_words(command.keys[0])}" if command.keys else ""

            def act(command: Command = command) -> None:
                self.session.run(command)

            self.page.step(f"{words[:1].upper()}{words[1:]}{keys}", act)

    def _queue(self) -> None:
        """The doubts of the phrase, worst first, each with what else it could be."""
        queue = self.opened.answers.doubts
        if not queue:
            return
        self.page.heading(f"Doubts, worst first: {len(queue)}")
        for note in queue[:_QUEUE_SHOWN]:
            words = self._doubt_words(note)

            def look(note_id: int = note.id) -> None:
                editing.click_note(self.session, note_id)

            self.page.choice(f"note {self._order[note.id]}", look, words, percent(sureness(note)))

    def _others(self) -> None:
        """What another voice played in the phrase or in all of them, and how to take it or let it lead."""
        phrase, within = self.opened.phrase, [each for each in self.opened.solo.phrases if each.others]
        if phrase is not None:
            within = [phrase] if phrase.others else []
        if not within:
            return
        self.page.heading("Another voice")
        pitches = [other.pitch for each in within for other in each.others]
        where = "" if phrase is not None else f" in {plural(len(within), 'phrase')}"
        self.page.row("notes", f"{len(pitches)}{where}, {self._pitch(min(pitches))} to {self._pitch(max(pitches))}")
        if phrase is not None:
            self.page.button("Take them too   Alt V", lambda: editing.take_others(self.session))
        self.page.button("It leads   Alt Shift V", lambda: editing.swap_voices(self.session))

    def _doubt_words(self, note: Note) -> str:
        """A note and what else it could be, or how else it may have been played."""
        pitch = self._pitch(note.pitch, note)
        reading = other_reading(note)
        if reading == "manner" and note.manner_in_doubt is not None:
            return f"{pitch}: {manner_words(note.manner)}, or {manner_words(note.manner_in_doubt)}"
        if reading == "place" and note.place_in_doubt is not None:
            return f"{pitch}: {place_words(note.string, note.fret)}, or {place_words(*note.place_in_doubt)}"
        others = " or ".join(self._pitch(other, note) for other, _ in note.runners_up[:2])
        return f"{pitch}{f', or {others}' if others else ''}"

    def _returns(self) -> None:
        """Where the phrase's figures come back, in words."""
        solo, returns = self.opened.solo, self.opened.answers.returns
        if not returns:
            return
        self.page.heading("Figures that come back")
        figures: dict[tuple[int, ...], list[str]] = {}
        for run in returns:
            at = solo.note(run.again[0]).onset
            index = solo.phrase_index_at(at)
            where = f" in “{solo.phrases[index].name}”" if index is not None else ""
            figures.setdefault(run.first, []).append(f"{return_words(run, solo.notes)}, at {clock_text(at)}{where}")
        for first, told in [*figures.items()][:_FIGURES_SHOWN]:
            words = "; ".join(told)
            if len(told) > 1:
                words = f"{times_words(len(told) + 1)}: {words}"
            self.page.row(f"notes {self._order[first[0]]}–{self._order[first[-1]]}", words)

    def _schools(self) -> None:
        """How much each school explains of the phrase, where there is a key or a chord to explain it by."""
        count = len(self.notes)
        if all(told.unexplained == count for told in self.opened.answers.stories):
            return
        self.page.heading("Ways of explaining")
        for told in self.opened.answers.stories:
            words = f"{count - told.unexplained} of {count}, {plural(told.switches, 'change')}"
            here = told.school == self.opened.answers.told.school
            self.page.row(told.school.replace("-", " "), words, here)
