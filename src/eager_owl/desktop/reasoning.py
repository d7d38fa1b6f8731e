"""The actions on reasons: chords heard in the recording, and a note heard against its chord."""

from collections.abc import Callable
from typing import Any

from eager_owl.audio.decode import mono
from eager_owl.desktop.chart_panel import ChartPanel
from eager_owl.desktop.jobs import Job, Work
from eager_owl.desktop.listening import Listening
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.session import against_chord, key_of


class Reasoning:
    """One method an action, named as in `actions`."""

    def __init__(
        self,
        opened: Callable[[], OpenSolo | None],
        chart: ChartPanel,
        listening: Listening,
        run: Callable[[Work, Callable[[Any], None]], Job],
        complain: Callable[[str], None],
    ) -> None:
        self._opened, self._chart, self._listening = opened, chart, listening
        self._run, self._complain = run, complain
        chart.listen_asked.connect(self.suggest_chords)

    def suggest_chords(self) -> None:
        """Chords bar by bar from the recording, shown and not entered."""
        opened = self._opened()
        if opened is None or opened.sound is None:
            self._complain("there is no sound to hear chords in")
            return
        grid, key, cents = opened.solo.grid, key_of(opened.solo), opened.solo.reference_cents or 0.0
        if grid is None:
            self._complain("there is no beat yet, so no bars: Ctrl T takes the one that was found")
            return
        recording = opened.sound.recording

        def work(job: Job) -> object:
            from eager_owl.hearing.chords import suggest_chords

            return suggest_chords(mono(recording.samples), recording.rate, grid, cents, key, job.keep_going)

        self._run(work, self._chart.show_suggested)

    def hear_on_chord(self) -> None:
        """The selected note against its chord: the chord, then the note over it."""
        opened = self._opened()
        chosen = opened.selected if opened is not None else []
        if opened is None or not chosen:
            self._complain("select a note first: → and ← walk through them")
            return
        reason = opened.reasons.get(chosen[0].id)
        if reason is None or reason.chord is None:
            self._complain("this note has no chord: the chart says none here")
            return
        self._listening.play_notes(against_chord(chosen[0], reason.chord))
