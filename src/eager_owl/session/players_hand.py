"""The player's own hand: what is learned of it from the places they put right, kept in their own data folder."""

import json
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from platformdirs import user_data_path

from eager_owl.log import log_fault
from eager_owl.session.facts import key_of
from eager_owl.session.jobs import Job
from eager_owl.session.placing import FINGERS, Hand, Lesson, leaning_words, learn
from eager_owl.session.signal import Signal
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.solo.store import write_atomically
from eager_owl.theory.key import parse_key
from eager_owl.theory.words import plural

if TYPE_CHECKING:
    from eager_owl.session.open_solo import OpenSolo
    from eager_owl.session.session import Session

_FORMAT, _VERSION = "eager-owl/hand", 1
# So long after the last place that was put right the phrases are learned from.
_SETTLE_S = 4.0
_MOST_LESSONS = 24
_LESSON_STAGES = ("proved", "learned")  # whose places were played, and stand
_PLACE_PINS = frozenset({"place", "finger"})


class PlayersHand:
    """Notices places that are put right, learns of them, and says how places are to be proposed.

    `changed` tells that something is known now, or forgotten, or turned on or off.
    """

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.changed = Signal[[]]()
        self.lessons: dict[str, Lesson] = {}
        self._leaning: dict[str, float] = {}
        self._unlearned: set[str] = set()  # names of phrases with places that were put right just now
        self._timer = session.ports.clock.timer(_SETTLE_S, self._learn)
        self._job: Job | None = None
        self._read()

    @property
    def on(self) -> bool:
        """Whether what is known of the hand is used."""
        return str(self._session.ports.settings.read("hand_on")).lower() != "false"

    @property
    def fingers(self) -> str:
        """How many fingers it plays with, by name."""
        name = str(self._session.ports.settings.read("hand_fingers"))
        return name if name in FINGERS else next(iter(FINGERS))

    @property
    def now(self) -> Hand:
        """The hand that places are proposed for."""
        return Hand(self.fingers, tuple(self._leaning.items()) if self.on else ())

    @property
    def words(self) -> str:
        """What is known of it, in words."""
        if not self.lessons:
            return "Nothing is known of your hand yet: put the places of a few phrases right, and it is learned."
        known = leaning_words(self._leaning)
        told = f"From {plural(len(self.lessons), 'phrase')}: {known or 'your hand goes as most do'}."
        return told if self.on else f"{told} It is not used now."

    def toggle(self) -> None:
        """Use what is known of the hand, or do not."""
        self._session.ports.settings.write("hand_on", str(not self.on).lower())
        self._tell("your own hand is used" if self.on else "places are proposed as for any hand")

    def next_fingers(self) -> None:
        """Play with another number of fingers."""
        names = list(FINGERS)
        self.choose_fingers(names[(names.index(self.fingers) + 1) % len(names)])

    def choose_fingers(self, name: str) -> None:
        """Play with so many fingers, by name."""
        if name != self.fingers:
            self._session.ports.settings.write("hand_fingers", name)
            self._tell(f"{name}, from the next placing on")

    def forget(self) -> None:
        """Forget all that was learned."""
        self._timer.stop()
        self._stop()
        self.lessons, self._leaning, self._unlearned = {}, {}, set()
        self._write()
        self._tell("what was known of your hand is forgotten")

    def attend(self, opened: "OpenSolo") -> None:
        """Notice what is put right in a solo that is open now."""
        opened.play_with(self.now)
        opened.changed.connect(lambda touched: self._notice(opened, touched))

    def _notice(self, opened: "OpenSolo", touched: list[Note]) -> None:
        """Places and fingers pinned elsewhere than they were: the phrases they are in are to be learned from."""
        before: dict[int, Note] = {}
        for note in touched:  # each as it was, then as it is
            old = before.setdefault(note.id, note)
            moved = (old.string, old.fret, old.finger) != (note.string, note.fret, note.finger)
            if moved and old.pitch == note.pitch and note.pins & _PLACE_PINS:
                index = opened.solo.phrase_index_at(note.onset)
                if index is not None:
                    self._unlearned.add(_name(opened.solo, opened.solo.phrases[index]))
        if self._unlearned:
            self._timer.start()

    def leave(self) -> None:
        """The open solo is left: what was put right in it is kept, and learned from with what comes next."""
        self._timer.stop()
        self._stop()
        self._gather()

    def _learn(self) -> None:
        """Learn from what was put right, on a worker's thread."""
        if not self._gather():
            return
        self._stop()
        lessons, fingers = list(self.lessons.values()), self.fingers
        self._job = self._session.start(lambda job: learn(lessons, fingers, lambda: not job.keep_going()), self._take)

    def _gather(self) -> bool:
        """Make lessons of what was put right, and keep them; answers whether anything was."""
        opened = self._session.opened
        if opened is None or not self._unlearned:
            return False
        opened.settle()
        self._read()  # another window may have learned since
        solo = opened.solo
        for phrase in solo.phrases:
            name = _name(solo, phrase)
            if name in self._unlearned or phrase.stage in _LESSON_STAGES:
                notes = tuple(_lesson_note(note) for note in solo.notes_in(phrase) if note.fret is not None)
                if notes:
                    self.lessons.pop(name, None)
                    self.lessons[name] = Lesson(notes, solo.instrument, key_of(solo))
        self._unlearned = set()
        for name in [*self.lessons][:-_MOST_LESSONS]:
            del self.lessons[name]
        self._write()
        return True

    def _stop(self) -> None:
        if self._job is not None:
            self._job.cancel()
            self._job = None

    def _take(self, leaning: dict[str, float]) -> None:
        self._read()
        leaning = leaning if self.lessons else {}  # another window may have forgotten all of it
        news = leaning != self._leaning
        self._leaning = leaning
        self._write()
        if news and leaning and self.on:
            self._tell(f"learned of your hand: {leaning_words(leaning)}")
        else:
            self._pass_on()

    def _tell(self, words: str) -> None:
        self._pass_on()
        self._session.tell(words)

    def _pass_on(self) -> None:
        if self._session.opened is not None:
            self._session.opened.play_with(self.now)
        self.changed.emit()

    def _read(self) -> None:
        """What was learned before; a file that can't be read is no reason to stop, and is written anew."""
        path = hand_file()
        if not path.exists():
            return
        from eager_owl.notation.notes_file import read_notes  # its package takes long to load

        try:
            content = json.loads(path.read_text("utf-8"))
            if content.get("format") != _FORMAT or content.get("version") != _VERSION:
                return
            lessons: dict[str, Lesson] = {}
            for entry in content["lessons"]:
                notes, instrument, _ = read_notes(json.dumps(entry["notes"]), path.name)
                key = parse_key(entry["key"]) if entry["key"] else None
                lessons[str(entry["phrase"])] = Lesson(tuple(notes), instrument, key)
            leaning = {str(name): float(far) for name, far in content["leaning"].items()}
        except (OSError, ValueError, KeyError, TypeError, AttributeError) as error:
            log_fault("reading what was learned of the hand", error)
        else:
            self.lessons, self._leaning = lessons, leaning

    def _write(self) -> None:
        from eager_owl.notation.notes_file import write_notes

        lessons: list[dict[str, Any]] = [
            {
                "phrase": name,
                "key": lesson.key.name if lesson.key else "",
                "notes": json.loads(write_notes(lesson.notes, lesson.instrument, 0.0)),
            }
            for name, lesson in self.lessons.items()
        ]
        content = {"format": _FORMAT, "version": _VERSION, "leaning": self._leaning, "lessons": lessons}
        try:
            hand_file().parent.mkdir(parents=True, exist_ok=True)
            write_atomically(hand_file(), json.dumps(content).encode())
        except OSError as error:
            self._session.tell(f"what was learned of your hand could not be kept: {error.strerror}", lasting=True)


def hand_file() -> Path:
    """Where it is kept on this machine."""
    return user_data_path("eager-owl") / "hand.json"


def _name(solo: Solo, phrase: Phrase) -> str:
    return f"{solo.title} at {phrase.start:.2f} s"


def _lesson_note(note: Note) -> Note:
    """What is learned of a note: its place, and its finger if that is the player's own."""
    return replace(note, finger=note.finger if "finger" in note.pins else None, contour_cents=(), level_db=())
