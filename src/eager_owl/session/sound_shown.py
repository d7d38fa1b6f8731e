"""The picture of the sound behind the tab: worked out for what is on the desk while it is looked at."""

from typing import TYPE_CHECKING

from eager_owl.session.jobs import Job
from eager_owl.session.signal import Signal

if TYPE_CHECKING:
    from eager_owl.audio.decode import Recording
    from eager_owl.hearing.picture import SoundPicture as SoundPicture
    from eager_owl.session.session import Session
    from eager_owl.solo.document import LeadFocus

_MARGIN_S = 0.5  # a little more than is wanted, so that an edge moved needs no new picture


class SoundShown:
    """Whether the sound is looked at, and its picture once there is one. `changed` tells of either."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.changed = Signal[[]]()
        self.on = False
        self._picture: SoundPicture | None = None
        self._of: tuple[Recording, LeadFocus] | None = None
        self._job: Job | None = None
        self._wanted = (0.0, 0.0)

    def toggle(self) -> None:
        """Show the sound behind the tab, or the tab alone."""
        if not self.on and self._session.solo.sound is None:
            self._session.tell("there is no sound to look at yet")
            return
        self.on = not self.on
        self.changed.emit()

    def picture(self, start: float, end: float) -> "SoundPicture | None":
        """What sounds between two times; None until it has been worked out, which `changed` tells."""
        opened = self._session.solo
        if not self.on or opened.sound is None:
            return None
        of, start, end = (opened.sound.recording, opened.solo.focus), max(start, 0.0), min(end, opened.duration_s)
        same = self._is_of(of)
        there = self._picture if same else None
        if there is not None and there.start <= start and there.end >= end - _MARGIN_S / 2:
            return there
        if self._job is None or not same or self._wanted != (start, end):
            self._work_out(of, start, end)
        return None

    def _is_of(self, of: "tuple[Recording, LeadFocus]") -> bool:
        """Whether what is kept or worked out is of this recording (no copy of it) and focus."""
        return self._of is not None and self._of[0] is of[0] and self._of[1] == of[1]

    def _work_out(self, of: "tuple[Recording, LeadFocus]", start: float, end: float) -> None:
        from eager_owl.audio.decode import mono
        from eager_owl.hearing.picture import picture_sound
        from eager_owl.session.hearing import focused

        if self._job is not None:
            self._job.cancel()
        solo, recording = self._session.solo.solo, of[0]
        low, high = max(0.0, start - _MARGIN_S), end + _MARGIN_S

        def work(_job: Job) -> "SoundPicture":
            return picture_sound(
                mono(focused(solo, recording.between(low, high), recording.rate)), recording.rate, low
            )

        def show(found: "SoundPicture") -> None:
            if self._is_of(of) and self._wanted == (start, end):
                self._picture = found
                self.changed.emit()

        def ended() -> None:
            if self._job is job:
                self._job = None

        self._picture, self._of, self._wanted = None, of, (start, end)
        job = self._session.start(work, show, ended)
        self._job = job
