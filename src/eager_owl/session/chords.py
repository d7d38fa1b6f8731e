"""Chords heard in the recording, bar by bar, and a note heard against its chord."""

from dataclasses import replace
from typing import TYPE_CHECKING

from eager_owl.rhythm.chart import chart_text, parse_chart
from eager_owl.session.facts import key_of
from eager_owl.session.jobs import Job
from eager_owl.session.signal import Signal
from eager_owl.session.sounding import against_chord

if TYPE_CHECKING:
    from eager_owl.hearing.chords import BarChord
    from eager_owl.session.session import Session


class Chords:
    """What was heard and is not entered; `suggested_changed` tells of it."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.suggested: tuple[BarChord, ...] = ()
        self.suggested_changed = Signal[[]]()
        session.shown.connect(lambda _: self.forget())

    def forget(self) -> None:
        """Suggest nothing any more."""
        self.suggested = ()
        self.suggested_changed.emit()

    def suggest(self) -> None:
        """Chords bar by bar from the recording, shown and not entered."""
        opened = self._session.solo
        if opened.sound is None:
            self._session.tell("there is no sound to hear chords in")
            return
        grid, key, cents = opened.solo.grid, key_of(opened.solo), opened.solo.reference_cents or 0.0
        if grid is None:
            self._session.tell("there is no beat yet, so no bars: Ctrl T takes the one that was found")
            return
        recording = opened.sound.recording

        def work(job: Job) -> "tuple[BarChord, ...]":
            # Hearing brings SciPy: the window does not wait for it.
            from eager_owl.hearing.chords import suggest_chords

            def go_on(share: float) -> bool:
                return job.progress(share, "hearing chords")

            return tuple(suggest_chords(recording, grid, cents, key, go_on))

        def show(found: "tuple[BarChord, ...]") -> None:
            self.suggested = found
            if not found:
                self._session.tell("no chords were found in the recording")
            self.suggested_changed.emit()

        self._session.start(work, show, shows_progress=True, takes_part=True)

    def take(self) -> None:
        """The chords heard as the solo's chart; a bar in which none was heard has no chord."""
        if not self.suggested:
            self._session.tell("no chords are suggested yet: have them heard in the recording first")
            return
        heard = {suggestion.bar: suggestion.symbol for suggestion in self.suggested}
        cells = [heard.get(bar, "N.C.") for bar in range(max(heard) + 1)]
        text = chart_text(parse_chart(f"| {' | '.join(cells)} |"))
        self._session.solo.do("chords heard", lambda solo: replace(solo, chart_text=text))
        self.forget()

    def hear_note(self) -> None:
        """The selected note against its chord: the chord, then the note over it."""
        opened = self._session.solo
        note = opened.selected[0]
        reason = opened.reasons.get(note.id)
        if reason is None or reason.chord is None:
            self._session.tell("this note has no chord: the chart says none here")
            return
        self._session.playing.play_notes(against_chord(note, reason.chord))
