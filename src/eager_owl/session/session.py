"""A session: the open solo, the player, the work under way, and one object for each thing that is done."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, partial
from typing import TYPE_CHECKING, TypeVar

from eager_owl.session.bringing_in import BringingIn
from eager_owl.session.chords import Chords
from eager_owl.session.jobs import Job, Jobs
from eager_owl.session.keeping import Keeping
from eager_owl.session.neck_maps import NeckMaps
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.player import Player
from eager_owl.session.players_hand import PlayersHand
from eager_owl.session.playing import Playing
from eager_owl.session.ports import Ports, Screen
from eager_owl.session.recordings import Recordings
from eager_owl.session.resting import Resting
from eager_owl.session.signal import Signal
from eager_owl.session.sound_shown import SoundShown
from eager_owl.session.ways import WaysLookedAt
from eager_owl.session.writing import Writing
from eager_owl.theory.words import one_line

if TYPE_CHECKING:
    from eager_owl.session.commands import Command
    from eager_owl.session.sheets import Sheets

Result = TypeVar("Result")
Answers = Mapping[str, Callable[[], object]]

_MISSING = {
    "solo": "open a recording or a solo first",
    "notes": "select a note first: → and ← walk through them",
    "phrase": "choose a phrase first: drag over a stretch and press M, or Page down",
}


@dataclass(frozen=True, eq=False)
class Question:
    """Something asked of the player, and what each answer does."""

    words: str
    answers: Answers
    keeps: bool


class Session:
    """What a window shows and a command changes. Everything here runs on one thread but the work of `jobs`."""

    def __init__(self, ports: Ports, commands: Iterable["Command"]) -> None:
        self.ports = ports
        self.commands = {command.name: command for command in commands}
        self.screen: Screen | None = None
        self.opened: OpenSolo | None = None
        self.shown = Signal[[OpenSolo]]()  # another solo is open
        self.refreshed = Signal[[]]()  # the open solo's sound is another, or has been listened through
        self.told = Signal[[str, bool]]()  # words for the player, and whether they stay until they are read
        self.asked = Signal[[str, Answers]]()  # a question, and what each answer to it does
        self._questions: list[Question] = []
        self._shown_work: list[Job] = []  # that shows how far it is, what was begun last at the end
        self.answered = Signal[[]]()  # questions that were asked do not matter any more
        self.working = Signal[[float | None, str]]()  # share of long work done (None: none under way), and what it is
        self.jobs = Jobs(ports.workers, lambda words: self.tell(words, lasting=True))
        self.player = Player(ports.device, ports.clock)
        self.player.moved.connect(self._on_ear)
        self.playing = Playing(self)
        self.recordings = Recordings(self)
        self.keeping = Keeping(self)
        self.ways = WaysLookedAt(self)
        self.hand = PlayersHand(self)
        self.maps = NeckMaps(self)
        self.chords = Chords(self)
        self.resting = Resting(self)
        self.writing = Writing(self)
        self.sound_shown = SoundShown(self)
        self.bringing_in = BringingIn(self)

    @cached_property
    def sheets(self) -> "Sheets":
        """The written page; its engraver is not loaded before it is looked at."""
        from eager_owl.session.sheets import Sheets

        return Sheets(self)

    def attach(self, screen: Screen) -> None:
        """There is a screen now."""
        self.screen = screen

    def run(self, command: "Command") -> None:
        """Run a command, or tell what it needs first."""
        if (missing := self.missing(command)) is None:
            command.run(self)
        else:
            self.tell_missing(missing)

    def tell_missing(self, what: str) -> None:
        """Tell how to come by what is needed first: a solo, notes that are selected, or a phrase."""
        self.tell(_MISSING[what])

    def missing(self, command: "Command") -> str | None:
        """What a command needs and there is not; None where it can be run."""
        if command.needs == "nothing":
            return None
        if self.opened is None:
            return "solo"
        if command.needs == "notes" and not self.opened.view.selection:
            return "notes"
        if command.needs == "phrase" and self.opened.phrase is None:
            return "phrase"
        return None

    @property
    def solo(self) -> OpenSolo:
        """The open solo, for what is only done with one."""
        assert self.opened is not None
        return self.opened

    def show(self, opened: OpenSolo) -> None:
        """Another solo is open."""
        self.player.stop()
        if self.opened is not None:
            self.keeping.leave()
            self.hand.leave()
        self.recordings.leave()
        self.writing.on = False
        self.drop_questions()
        self.opened = opened
        opened.told.connect(self.tell)
        opened.changed.connect(lambda _: self.keeping.unsaved.soon())
        opened.unkept.connect(self.keeping.unsaved.soon)
        self.hand.attend(opened)
        self.shown.emit(opened)

    def start(
        self,
        work: Callable[[Job], Result],
        then: Callable[[Result], object],
        ended: Callable[[], object] = lambda: None,
        shows_progress: bool = False,
        takes_part: bool = False,
    ) -> Job:
        """Start work for the solo that is open now; once another is open, its result is wanted no more."""
        owner = self.opened

        def wanted() -> bool:
            return self.opened is owner

        if not shows_progress:
            return self.jobs.start(work, then, wanted, ended, takes_part=takes_part)

        def over() -> None:
            self._shown_work.remove(job)
            if not self._shown_work:
                self.working.emit(None, "")
            ended()

        job = self.jobs.start(work, then, wanted, over, self.working.emit, takes_part)
        self._shown_work.append(job)
        self.working.emit(0.0, "")
        return job

    def stop_work(self) -> bool:
        """Stop, of the work that shows how far it is, what was begun last; answers whether there was any."""
        if self._shown_work:
            self._shown_work[-1].cancel()
        return bool(self._shown_work)

    def tell(self, words: str, lasting: bool = False) -> None:
        """Tell the player something, without stopping anything."""
        self.told.emit(one_line(words), lasting)

    def ask(self, words: str, answers: Answers, keeps: bool = False) -> None:
        """Ask the player something, after what was asked before; nothing waits for the answer.

        A question that `keeps` stays until it is answered; others go when they do not matter any more. One without
        answers is something that must be read.
        """
        self._questions.append(Question(one_line(words), answers, keeps))
        if len(self._questions) == 1:
            self._ask_first()

    def _ask_first(self) -> None:
        if self._questions:
            first = self._questions[0]
            acts = {**first.answers, ("Not now" if first.answers else "Good"): lambda: None}
            answers = {words: partial(self._answer, first, act) for words, act in acts.items()}
            self.asked.emit(first.words, answers)

    def _answer(self, question: Question, act: Callable[[], object]) -> None:
        if question in self._questions:
            self._questions.remove(question)
        act()
        self._ask_first()

    def drop_questions(self) -> None:
        """Questions that do not keep matter no more."""
        kept = [question for question in self._questions if question.keeps]
        if len(kept) < len(self._questions):
            self._questions = kept
            self.answered.emit()
            self._ask_first()

    def show_notes(self, ids: Sequence[int]) -> None:
        """Show notes on the desk, those of one phrase at a time; rows from before an edit may name some that went."""
        there = {note.id for note in self.solo.solo.notes}
        ids = [note_id for note_id in ids if note_id in there]
        if not ids:
            return
        if self.screen is not None:
            self.screen.show_desk()
        homes = self.solo.go_to_notes(ids)
        if len(homes) > 1:
            here = len(self.solo.view.selection)
            self.tell(f"{here} of {len(ids)} notes, in {len(homes)} phrases; the same again shows the next")

    def show_phrase(self, index: int) -> None:
        """Show a phrase on the desk."""
        if self.screen is not None:
            self.screen.show_desk()
        self.solo.look_at_phrase(index)

    def _on_ear(self, time_s: float) -> None:
        if self.opened is not None and self.playing.follows:
            self.opened.move_cursor(time_s)
