"""Playing what is on the desk: the recording, the transcription or both; looped or once, with a count-in."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Samples
from eager_owl.audio.hold import hold_instant
from eager_owl.audio.player import LoopSource, SteadySource
from eager_owl.session.facts import pitch_text
from eager_owl.session.hearing import focused
from eager_owl.session.open_solo import VOICES
from eager_owl.session.signal import Signal
from eager_owl.session.sounding import notes_sound, reference_tone, voiced
from eager_owl.solo.document import LeadFocus, Note, with_notes
from eager_owl.sound.click import count_in

if TYPE_CHECKING:
    from eager_owl.session.session import Session

SPEEDS = (0.25, 0.35, 0.5, 0.7, 0.85, 1.0, 1.25)
_FIRST_SPEED = 0.5
_HELD_S = 2.0
_PREPARED_S = 600.0  # the most that is filtered or synthesised before it plays
_RATE = 44100  # where there is no recording to follow
_LEAD_IN_S, _LEAD_OUT_S = 0.1, 0.4
# Without a beat grid a count-in is a bar of four at 120.
_PLAIN_BEAT_S, _PLAIN_BEATS = 0.5, 4


class Playing:
    """How the open solo sounds now. `changed` tells of another speed, voice or count-in, and of playing or not."""

    def __init__(self, session: "Session") -> None:
        self._session, self._player = session, session.player
        self.changed = Signal[[]]()
        self.speed = _FIRST_SPEED
        self.counts_in = False
        self.follows = True  # whether the cursor goes with what is heard
        self._asked = 0  # the latest request: a sound prepared for an earlier one is not played
        self._player.stopped.connect(self.changed.emit)

    def toggle_loop(self) -> None:
        """Loop what is on the desk, or stop."""
        if self._player.playing:
            self._asked += 1
            self._player.stop()
        else:
            self._play(loop=True)

    def play_once(self) -> None:
        """Play what is on the desk once."""
        self._play(loop=False)

    def _begin(self, source: LoopSource, follows: bool = True) -> None:
        self.follows = follows
        self._player.play(source)
        self.changed.emit()

    def _play(self, loop: bool) -> None:
        opened = self._session.solo
        opened.settle()
        if opened.sound is None:
            self._play_written(loop)
            return
        start, end = opened.play_range()
        recording, solo, voice = opened.sound.recording, opened.solo, opened.view.voice
        self._asked += 1
        asked = self._asked

        def begin(prepared: Samples) -> None:
            if asked == self._asked:
                clicks = self._clicks(recording.rate) if self.counts_in else None
                self._begin(LoopSource(prepared, recording.rate, start, self.speed, loop, clicks))

        if voice == "recording" and solo.focus == LeadFocus():
            begin(recording.part(start, end))
        else:
            end = min(end, start + _PREPARED_S)
            self._session.start(
                lambda job: voiced(solo, recording.between(start, end), recording.rate, start, voice), begin
            )

    def _play_written(self, loop: bool) -> None:
        """Without a sound to play, what is written is played."""
        opened = self._session.solo
        if opened.solo.recording is not None or not opened.solo.notes:
            self._session.tell("there is no sound to play yet")
            return
        start, end = opened.play_range()
        end = min(end, start + _PREPARED_S)
        solo = opened.solo
        self._asked += 1
        asked = self._asked

        def begin(prepared: NDArray[np.float32]) -> None:
            if asked == self._asked:
                clicks = self._clicks(_RATE) if self.counts_in else None
                self._begin(LoopSource(prepared[:, None], _RATE, start, self.speed, loop, clicks))

        self._session.start(lambda job: notes_sound(solo, start, end, _RATE), begin)

    def _clicks(self, rate: int) -> NDArray[np.float32]:
        grid = self._session.solo.solo.grid
        beat_s, beats = (grid.beat_s, grid.beats_per_bar) if grid else (_PLAIN_BEAT_S, _PLAIN_BEATS)
        return count_in(rate, beat_s / self.speed, beats)

    @property
    def _rate(self) -> int:
        sound = self._session.solo.sound
        return sound.recording.rate if sound else _RATE

    def play_notes(self, notes: Sequence[Note], follows: bool = True) -> None:
        """Play notes, placed as they are, as the synthesiser sounds them: once, at the speed chosen.

        The cursor goes with them if it `follows`.
        """
        rate = self._rate
        start, end = notes[0].onset - _LEAD_IN_S, max(note.end for note in notes) + _LEAD_OUT_S
        solo = with_notes(self._session.solo.solo, notes)
        self._asked += 1
        asked = self._asked

        def begin(prepared: NDArray[np.float32]) -> None:
            if asked == self._asked:
                self._begin(LoopSource(prepared[:, None], rate, start, self.speed, False, None), follows)

        self._session.start(lambda job: notes_sound(solo, start, end, rate), begin)

    def next_voice(self) -> None:
        """The recording, the transcription, or one in each ear."""
        opened = self._session.solo
        opened.set_voice(VOICES[(VOICES.index(opened.view.voice) + 1) % len(VOICES)])
        self.changed.emit()
        self.play_anew()

    def play_anew(self) -> None:
        """Start again what plays, as it would sound now."""
        source = self._player.source
        if isinstance(source, LoopSource) and not isinstance(source, SteadySource):
            self._play(source.loop)

    def _let_go(self) -> bool:
        """Stop a steady sound; answers whether there was one."""
        steady = isinstance(self._player.source, SteadySource)
        if steady:
            self._player.stop()
        return steady

    def hold_instant(self) -> None:
        """Hold the sound at the cursor, or let it go."""
        opened = self._session.solo
        if self._let_go():
            return
        if opened.sound is None:
            self._session.tell("there is no sound to hold yet")
            return
        recording, at = opened.sound.recording, opened.view.cursor
        first = max(0.0, at - 0.5)
        around = focused(opened.solo, recording.between(first, at + 0.5), recording.rate)
        held = hold_instant(around, recording.rate, at - first, _HELD_S)
        self._begin(SteadySource(held, recording.rate, at))

    def reference_tone(self) -> None:
        """A steady tone at the selected note's place, to compare by ear, or silence again."""
        opened = self._session.solo
        if self._let_go():
            return
        if not opened.selected:
            self._session.tell("select a note first: its pitch is sounded")
            return
        note, rate = opened.selected[0], self._rate
        self._begin(SteadySource(reference_tone(opened.solo, note.pitch, rate), rate, note.onset))
        self._session.tell(f"a steady {pitch_text(note.pitch, opened.solo)}: ' again, or Space, stops it")

    def set_speed(self, speed: float) -> None:
        """Play at another speed, from the start of the stretch if something plays."""
        self.speed = speed
        self.changed.emit()
        self.play_anew()

    def slower(self) -> None:
        """The next slower speed."""
        self.set_speed(max((s for s in SPEEDS if s < self.speed), default=SPEEDS[0]))

    def faster(self) -> None:
        """The next faster speed."""
        self.set_speed(min((s for s in SPEEDS if s > self.speed), default=SPEEDS[-1]))

    def toggle_count_in(self) -> None:
        """Count a bar in, or not."""
        self.counts_in = not self.counts_in
        self.changed.emit()
