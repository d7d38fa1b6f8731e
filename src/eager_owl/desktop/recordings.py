"""The solo's recording: found, decoded, listened through, and its phrases heard, all on workers."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog, QWidget

from eager_owl.audio.decode import AudioError, decode
from eager_owl.audio.peaks import build_peaks
from eager_owl.desktop.helping import Helping
from eager_owl.desktop.jobs import Job, Work
from eager_owl.desktop.notice import Notice
from eager_owl.desktop.open_solo import OpenSolo, Sound
from eager_owl.desktop.transport import Transport
from eager_owl.session import (
    Heard,
    Survey,
    check_is_recording,
    hear_phrase,
    lay_heard,
    recording_path,
    reference_to,
    survey,
)
from eager_owl.solo.document import Phrase

SOUND_FILES = "Recordings (*.wav *.flac *.ogg *.mp3 *.aif *.aiff *.m4a *.mp4 *.webm)"
_BEAT_UNSURE = 0.55  # a beat that stands out hardly more than the next likely tempo


class Recordings:
    """One method an action, named as in `actions`; results are laid into the solo that asked for them."""

    def __init__(
        self,
        parent: QWidget,
        opened: Callable[[], OpenSolo | None],
        run: Callable[[Work, Callable[[Any], None]], Job],
        notice: Notice,
        transport: Transport,
        helping: Helping,
        complain: Callable[..., None],
        refresh: Callable[[], None],
    ) -> None:
        """`run` starts work and hands its result on; `refresh` shows the solo anew; `parent` owns the dialogs."""
        self._parent, self._opened, self._run = parent, opened, run
        self._notice, self._transport, self._helping = notice, transport, helping
        self._complain, self._refresh = complain, refresh
        self._hearing: Job | None = None
        self._surveying: Job | None = None

    def leave(self) -> None:
        """Another solo is opened: what is under way for this one ends."""
        for job in (self._hearing, self._surveying):
            if job is not None:
                job.cancel()

    def find(self) -> None:
        opened = self._opened()
        reference = opened.solo.recording if opened is not None else None
        if opened is None or reference is None:
            return
        path = recording_path(reference, opened.path)
        if not path.is_file():
            self._notice.ask(
                f"The recording {path.name} is not at {path.parent}. The notes are here; sound is not.",
                {"Locate it": self.locate},
            )
            return
        self.decode(path, self.hear_sound)

    def locate(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._parent, "Locate the recording", "", SOUND_FILES)
        if path:
            self.use_recording(Path(path))

    def use_recording(self, path: Path) -> None:
        """Take this file as the solo's recording, if it is the same one."""
        opened = self._opened()
        if opened is None or opened.solo.recording is None:
            return
        try:
            check_is_recording(opened.solo.recording, path)
        except AudioError as error:
            self._notice.ask(str(error), {"Locate it": self.locate})
            return

        def take(sound: Sound) -> None:
            reference = reference_to(path, sound.recording, opened.path)
            opened.do("locate the recording", lambda solo: replace(solo, recording=reference))
            self.hear_sound(sound)

        self._notice.dismiss()
        self.decode(path, take)

    def decode(self, path: Path, then: Callable[[Sound], None]) -> None:
        def work(job: Job) -> Sound:
            recording = decode(path, job.keep_going)
            return Sound(path, recording, build_peaks(recording))

        self._run(work, then)

    def hear_sound(self, sound: Sound) -> None:
        opened = self._opened()
        if opened is None:
            return
        opened.sound = sound
        self._refresh()

        def surveyed(found: Survey) -> None:
            opened.sound = replace(sound, survey=found)
            self._refresh()
            if opened is self._opened() and not opened.solo.phrases and opened.solo.grid is None:
                self._offer_survey(found)

        self._surveying = job = self._run(lambda job: survey(sound.recording, job.progress), surveyed)
        job.progressed.connect(lambda share, doing: self._transport.show_work(share, doing))
        for ended in (job.done, job.failed, job.cancelled):
            ended.connect(lambda *_: self._on_surveyed(job))

    def _on_surveyed(self, job: Job) -> None:
        if self._surveying is job:
            self._surveying = None
        if self._surveying is None and self._hearing is None:
            self._transport.show_work(None)

    def _offer_survey(self, found: Survey) -> None:
        """Tell what was heard of a new recording, and offer its beat and phrases."""
        what = "a lead over a band" if found.mix == "band" else "a guitar alone"
        facts = [f"Heard {what}, A = {440 * 2 ** (found.reference_cents / 1200):.0f}"]
        if found.grid is not None:
            swung = ", swung" if found.grid.swung else ""
            unsure = ", though not surely" if found.beat_confidence < _BEAT_UNSURE else ""
            facts.append(f"{found.grid.meter} at {found.grid.bpm:.0f}{swung}{unsure}")

        def take_all() -> None:
            if found.grid is not None:
                self._helping.find_beat()
            self._helping.suggest_phrases()

        answers: dict[str, Callable[[], object]] = {"Suggest phrases": take_all}
        if found.grid is not None:
            answers = {"Take beat and phrases": take_all, "Phrases only": self._helping.suggest_phrases}
        self._notice.ask(f"{'; '.join(facts)}.", answers)

    # Hearing

    def hear(self) -> None:
        """Detect the notes of the phrase on the desk, on a worker; edits made meanwhile are kept."""
        opened = self._opened()
        if opened is None or opened.sound is None:
            self._complain("there is no sound to hear yet")
            return
        phrase, sound = opened.phrase, opened.sound
        if phrase is None:
            self._complain("choose a phrase first: drag over a stretch and press M, or Page down")
            return
        if self._hearing is not None:
            return
        solo, taps = opened.solo, opened.view.taps
        self._hearing = job = self._run(
            lambda job: hear_phrase(solo, phrase, sound.recording, sound.survey, job.progress, taps),
            lambda heard: self._lay(opened, phrase, heard),
        )
        job.progressed.connect(lambda share, doing: self._transport.show_work(share, doing))
        for ended in (job.done, job.failed, job.cancelled):
            ended.connect(self._on_heard)
        self._transport.show_work(0.0)

    def hear_around(self) -> None:
        """Hear the phrase anew around what is pinned in it, if there is a sound to hear."""
        opened = self._opened()
        if opened is not None and opened.sound is not None and opened.phrase is not None:
            opened.settle()
            self.hear()

    def _lay(self, opened: OpenSolo, phrase: Phrase, heard: Heard) -> None:
        spans = [(p.start, p.end) for p in opened.solo.phrases]
        if (phrase.start, phrase.end) not in spans:
            self._complain("the phrase was changed while it was heard: press H again")
            return
        index = spans.index((phrase.start, phrase.end))
        if not heard.notes:
            self._complain(f"no notes were found in “{phrase.name}”: is there a lead in it?", lasting=True)
        opened.do(f"hear {phrase.name}", lambda solo: lay_heard(solo, index, heard))

    def _on_heard(self, *_: object) -> None:
        self._hearing = None
        self._transport.show_work(None)

    def stop_work(self) -> None:
        """Cancel hearing, or listening through; else let go of the stretch, then of the selection."""
        opened = self._opened()
        if (job := self._hearing or self._surveying) is not None:
            job.cancel()
        elif opened is not None and opened.view.span is not None:
            opened.set_span(None)
        elif opened is not None:
            opened.select(())
