"""The open solo's recording: found, decoded, listened through, and its phrases heard, all on workers."""

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar
from urllib.parse import quote, unquote_to_bytes

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import decode, file_sha256
from eager_owl.audio.peaks import build_peaks, finest_peaks
from eager_owl.session.facts import tuning_words
from eager_owl.session.hearing import (
    ONE_TUNE_S,
    Heard,
    Progress,
    Survey,
    hear_phrase,
    hear_phrases,
    lay_heard,
    suggest_phrases,
    survey,
    take_beat,
    unheard,
)
from eager_owl.session.jobs import Job
from eager_owl.session.open_solo import OpenSolo, Sound
from eager_owl.solo.document import Phrase, RecordingReference, Solo
from eager_owl.theory.words import plural

if TYPE_CHECKING:
    from eager_owl.session.session import Session

Result = TypeVar("Result")

SOUND_SUFFIXES = (".wav", ".flac", ".ogg", ".mp3", ".aif", ".aiff", ".m4a", ".mp4", ".webm")
SOUND_FILES = f"Recordings ({' '.join('*' + suffix for suffix in SOUND_SUFFIXES)})"
_PATIENCE_S = 0.1
_AS_BYTES = "file:"  # before a path in percent signs
_CHOOSE_STRETCH = "choose the stretch of the solo, and Ctrl T finds its beat, Ctrl P its phrases"
_BEAT_UNSURE = 0.55  # a beat that stands out hardly more than the next likely tempo


def recording_path(reference: RecordingReference, document: Path | None) -> Path:
    """Where a document at a path says that its recording is."""
    path = _path_of(reference.path)
    return path if path.is_absolute() or document is None else (document.parent / path).resolve()


def _path_of(words: str) -> Path:
    if words.startswith(_AS_BYTES):
        return Path(os.fsdecode(unquote_to_bytes(words.removeprefix(_AS_BYTES))))
    return Path(words)


def _path_words(path: Path) -> str:
    """A path as text; one that is no text, as a file's name need not be, by its bytes."""
    words = str(path)
    plain = not words.startswith(_AS_BYTES) and words.encode(errors="replace").decode() == words
    return words if plain else _AS_BYTES + quote(os.fsencode(path))


def reference_to(sound: Sound) -> RecordingReference:
    """How a document refers to a recording, until it is written somewhere."""
    return RecordingReference(_path_words(sound.path.resolve()), sound.sha256, round(sound.recording.duration_s, 3))


def as_stored(solo: Solo, recording: Path | None, document: Path | None) -> Solo:
    """The solo as it is written to a path, if any: its recording by a relative path where both are in one tree."""
    if solo.recording is None or recording is None:
        return solo
    where = recording.resolve()
    if document is not None and where.is_relative_to(document.parent.resolve()):
        where = where.relative_to(document.parent.resolve())
    return replace(solo, recording=replace(solo.recording, path=_path_words(where)))


def decode_sound(path: Path, progress: Progress = lambda share, doing: True) -> Sound:
    """Read a file through, hash it and find its peaks. Raises AudioError, or Cancelled."""
    finest: list[NDArray[np.float32]] = []
    going = True

    def go_on(share: float) -> bool:
        nonlocal going
        going = progress(share, f"reading {path.name}")
        return going

    with ThreadPoolExecutor(1) as pool:
        hashing = pool.submit(file_sha256, path, lambda: going) if path.is_file() else None
        try:
            recording = decode(path, go_on, lambda block: finest.append(finest_peaks(block)))
        except BaseException:
            going = False  # nobody wants the hash any more
            raise
        while hashing and not wait([hashing], _PATIENCE_S).done:
            go_on(1.0)
        return Sound(path, hashing.result() if hashing else "", recording, build_peaks(finest, recording.rate))


class Recordings:
    """Results are laid into the solo that asked for them, and edits made meanwhile are kept."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._reading: Job | None = None
        self._hearing: Job | None = None
        self._surveying: Job | None = None

    def leave(self) -> None:
        """Another solo is opened: what is under way for this one ends."""
        for job in (self._reading, self._hearing, self._surveying):
            if job is not None:
                job.cancel()

    # The file

    def read(self, path: Path, then: Callable[[Sound], object]) -> None:
        """Read a recording through, and give `then` its sound; of two wishes the later one counts."""
        if self._reading is not None:
            self._reading.cancel()

        def ended() -> None:
            if self._reading is job:
                self._reading = None

        job = self._session.start(lambda job: decode_sound(path, job.progress), then, ended, shows_progress=True)
        self._reading = job

    def find(self) -> None:
        """Find and decode the open solo's recording; where it is missing or another, ask."""
        opened = self._session.solo
        reference, path = opened.solo.recording, opened.recording_path
        if reference is None or path is None:
            return
        locate = {"Locate it": self.locate}
        if not path.is_file():
            words = f"The recording {path.name} is not at {path.parent}. The notes are here; sound is not."
            self._session.ask(words, locate)
            return

        def check(sound: Sound) -> None:
            if sound.sha256 == reference.sha256:
                self.listen_through(sound)
                return
            words = f"{path.name} is another recording than the one transcribed here."
            self._session.ask(words, {**locate, "Use it all the same": lambda: self._take(sound)})

        self.read(path, check)

    def locate(self) -> None:
        """Ask where the recording is."""
        path = self._session.ports.dialogs.open_file("Locate the recording", SOUND_FILES)
        if path is not None:
            self.use(path)

    def use(self, path: Path) -> None:
        """Take this file as the solo's recording, if it is the same one."""
        reference = self._session.solo.solo.recording

        def check(sound: Sound) -> None:
            if reference is not None and sound.sha256 == reference.sha256:
                self._take(sound)
                return
            words = f"{path.name} is another recording than the one transcribed here."
            self._session.ask(words, {"Locate it": self.locate, "Use it all the same": lambda: self._take(sound)})

        self._session.drop_questions()
        self.read(path, check)

    def _take(self, sound: Sound) -> None:
        opened = self._session.solo
        opened.recording_path = sound.path
        opened.never_kept()
        if opened.solo.recording is None or opened.solo.recording.sha256 != sound.sha256:
            reference = reference_to(sound)
            opened.do("another recording", lambda solo: replace(solo, recording=reference))
        self.listen_through(sound)

    def listen_through(self, sound: Sound) -> None:
        """Take a decoded recording as the open solo's sound, and survey it."""
        opened = self._session.solo
        opened.sound = sound
        self._session.refreshed.emit()

        def surveyed(found: Survey) -> None:
            opened.sound = replace(sound, survey=found)
            self._session.refreshed.emit()
            if not opened.solo.phrases and opened.solo.grid is None:
                self._offer(found)

        def ended() -> None:
            self._surveying = None

        self._surveying = self._session.start(
            lambda job: survey(sound.recording, job.progress), surveyed, ended, shows_progress=True
        )

    def _offer(self, found: Survey) -> None:
        """Tell what was heard of a new recording, and offer its beat and phrases."""
        what = "a lead over a band" if found.mix == "band" else "a guitar alone"
        facts = [f"Heard {what}, {tuning_words(found.reference_cents)}"]
        if found.grid is not None:
            swung = ", swung" if found.grid.swung else ""
            unsure = ", though not surely" if found.beat_confidence < _BEAT_UNSURE else ""
            facts.append(f"{found.grid.meter} at {found.grid.bpm:.0f}{swung}{unsure}")
        phrases_only = self.suggest_phrases
        answers: dict[str, Callable[[], object]] = {"Suggest phrases": phrases_only}
        if self._session.solo.duration_s > ONE_TUNE_S:
            facts, answers = [*facts, _CHOOSE_STRETCH], {}
        elif found.grid is not None:
            answers = {"Take beat and phrases": self.take_beat_and_phrases, "Phrases only": phrases_only}
        self._session.ask(f"{'; '.join(facts)}.", answers)

    # What the survey says of beat and phrases

    def _with_survey(self, then: Callable[[Survey], object]) -> None:
        """Give `then` what is found in the chosen stretch, else in all of it; where nothing can be yet, tell why."""
        opened = self._session.solo
        sound, span = opened.sound, opened.view.span
        if sound is None:
            self._session.tell("there is no sound to listen through yet")
        elif span is not None:
            self._start_hearing(lambda job: survey(sound.recording, job.progress, span), then)
        elif sound.recording.duration_s > ONE_TUNE_S:
            self._session.tell(_CHOOSE_STRETCH)
        elif sound.survey is None:
            self._session.tell("the recording is being listened through: the same again in a moment")
            if self._surveying is None:
                self.listen_through(sound)
        else:
            then(sound.survey)

    def find_beat(self) -> None:
        """Take the beat that was found in the recording."""
        self._with_survey(self._take_beat)

    def _take_beat(self, found: Survey) -> None:
        self._session.drop_questions()
        if self._session.solo.do("the beat found", lambda solo: take_beat(solo, found)) and found.grid is not None:
            bpm = found.grid.bpm
            self._session.tell(
                f"{found.grid.meter} at {bpm:.0f}; Alt 2 counts it at {2 * bpm:.0f}, Alt 1 at {bpm / 2:.0f}; "
                "Ctrl D: a bar begins at the cursor"
            )

    def suggest_phrases(self) -> None:
        """Phrases where the lead breathes."""
        self._with_survey(self._take_phrases)

    def _take_phrases(self, found: Survey) -> None:
        self._session.drop_questions()
        if not self._session.solo.do("phrases suggested", lambda solo: suggest_phrases(solo, found)):
            self._session.tell("no other phrases were found")

    def take_beat_and_phrases(self) -> None:
        """Take all that the survey offers."""

        def take(found: Survey) -> None:
            self._take_beat(found)
            self._take_phrases(found)

        self._with_survey(take)

    # Hearing

    def hear(self) -> None:
        """Detect the notes of the phrase on the desk; on the whole recording, of every phrase not heard yet."""
        opened = self._session.solo
        if opened.sound is None:
            self._session.tell("there is no sound to hear yet")
        elif self._hearing is not None:
            self._session.tell("hearing is under way: Esc stops it")
        elif opened.phrase is not None:
            self._hear_one(opened, opened.phrase, opened.sound)
        elif not opened.solo.phrases:
            self._session.tell(
                "cut the solo into phrases first: Ctrl P suggests them, or drag over a stretch and press M"
            )
        elif indices := unheard(opened.solo):
            self._hear_all(opened, indices, opened.sound)
        else:
            self._session.tell("every phrase is heard; Page down to one, and H hears it anew")

    def hear_around(self) -> None:
        """Hear the phrase anew around what is pinned in it, if there is a sound to hear."""
        opened = self._session.solo
        if opened.sound is not None and opened.phrase is not None:
            opened.settle()
            self.hear()

    def _hear_one(self, opened: OpenSolo, phrase: Phrase, sound: Sound) -> None:
        solo, taps = opened.solo, opened.view.taps

        def lay(heard: Heard) -> None:
            if not heard.notes:
                words = f"no notes were found in “{phrase.name}”: is there a lead in it?"
                self._session.tell(words, lasting=True)
            self._lay(opened, f"hear {phrase.name}", [(phrase, heard)])

        self._start_hearing(
            lambda job: hear_phrase(solo, phrase, sound.recording, sound.survey, job.progress, taps), lay
        )

    def _hear_all(self, opened: OpenSolo, indices: Sequence[int], sound: Sound) -> None:
        solo = opened.solo

        def lay(heard: dict[int, Heard]) -> None:
            if self._lay(opened, "hear all phrases", [(solo.phrases[index], each) for index, each in heard.items()]):
                self._session.tell(f"{plural(len(heard), 'phrase')} heard: D goes through what is in doubt")

        def work(job: Job) -> dict[int, Heard]:
            return hear_phrases(solo, indices, sound.recording, sound.survey, job.progress)

        self._start_hearing(work, lay, takes_part=True)

    def _start_hearing(
        self, work: Callable[[Job], Result], lay: Callable[[Result], object], takes_part: bool = False
    ) -> None:
        def ended() -> None:
            self._hearing = None

        self._hearing = self._session.start(work, lay, ended, True, takes_part)

    def _lay(self, opened: OpenSolo, words: str, found: Sequence[tuple[Phrase, Heard]]) -> bool:
        """Lay what was heard into the phrases it was heard in, if they still stand as they did."""
        spans = {(phrase.start, phrase.end): index for index, phrase in enumerate(opened.solo.phrases)}
        standing = [(spans[p.start, p.end], heard) for p, heard in found if (p.start, p.end) in spans]
        if len(standing) < len(found):
            self._session.tell("a phrase was changed while it was heard: press H again")

        def lay(solo: Solo) -> Solo:
            for index, heard in standing:
                solo = lay_heard(solo, index, heard, opened.hand)
            return solo

        return opened.do(words, lay)

    def stop(self) -> None:
        """Stop the work under way; else let go of the stretch, then of the selection."""
        opened = self._session.opened
        if self._session.stop_work():
            return
        if opened is not None and opened.view.span is not None:
            opened.set_span(None)
        elif opened is not None:
            opened.select(())
