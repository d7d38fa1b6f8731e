"""Playing what is on the desk: the recording, the transcription or both; looped or once, with a count-in."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import mono
from eager_owl.audio.hold import hold_instant
from eager_owl.audio.player import LoopSource, SteadySource
from eager_owl.desktop.jobs import Job, Work
from eager_owl.desktop.open_solo import VOICES, OpenSolo
from eager_owl.desktop.playback import Player
from eager_owl.desktop.transport import SPEEDS, Transport
from eager_owl.desktop.words import pitch_text
from eager_owl.session import focused, notes_sound, reference_tone, transcription_sound
from eager_owl.solo.document import LeadFocus, Note, Solo, with_notes
from eager_owl.sound.click import count_in

_FIRST_SPEED = 0.5
_HELD_S = 2.0
_RATE = 44100  # where there is no recording to follow
_LEAD_IN_S, _LEAD_OUT_S = 0.1, 0.4
# Without a beat grid a count-in is a bar of four at 120.
_PLAIN_BEAT_S, _PLAIN_BEATS = 0.5, 4


class Listening:
    """One method an action, named as in `actions`."""

    def __init__(
        self,
        player: Player,
        transport: Transport,
        opened: Callable[[], OpenSolo | None],
        complain: Callable[[str], None],
        run: Callable[[Work, Callable[[Any], None]], Job],
    ) -> None:
        self._player, self._transport, self._opened, self._complain = player, transport, opened, complain
        self._run = run
        self.speed = _FIRST_SPEED
        self._counts_in = False
        self._asked = 0  # the latest request: a sound prepared for an earlier one is not played
        transport.show_speed(self.speed)
        player.stopped.connect(lambda: transport.show_playing(False))

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

    def _play(self, loop: bool) -> None:
        opened = self._opened()
        if opened is None or opened.sound is None:
            self._complain("there is no sound to play yet")
            return
        opened.settle()
        start, end = opened.play_range()
        recording, solo, voice = opened.sound.recording, opened.solo, opened.view.voice
        samples = recording.between(start, end)
        self._asked += 1
        asked = self._asked

        def begin(prepared: NDArray[np.float32]) -> None:
            if asked != self._asked:
                return
            clicks = None
            if self._counts_in:
                grid = solo.grid
                beat_s, beats = (grid.beat_s, grid.beats_per_bar) if grid else (_PLAIN_BEAT_S, _PLAIN_BEATS)
                clicks = count_in(recording.rate, beat_s / self.speed, beats)
            self._player.play(LoopSource(prepared, recording.rate, start, self.speed, loop, clicks))
            self._transport.show_playing(True)

        if voice == "recording" and solo.focus == LeadFocus():
            begin(samples)
        else:
            self._run(lambda job: _prepared(solo, samples, recording.rate, start, voice), begin)

    def play_notes(self, notes: Sequence[Note]) -> None:
        """Play notes, placed as they are, as the synthesiser sounds them: once, at the speed chosen."""
        opened = self._opened()
        if opened is None:
            return
        rate = opened.sound.recording.rate if opened.sound else _RATE
        start, end = notes[0].onset - _LEAD_IN_S, max(note.end for note in notes) + _LEAD_OUT_S
        solo = with_notes(opened.solo, notes)
        self._asked += 1
        asked = self._asked

        def begin(prepared: NDArray[np.float32]) -> None:
            if asked == self._asked:
                self._player.play(LoopSource(prepared[:, None], rate, start, self.speed, False, None))
                self._transport.show_playing(True)

        self._run(lambda job: notes_sound(solo, start, end, rate), begin)

    def next_voice(self) -> None:
        """The recording, the transcription, or one in each ear."""
        opened = self._opened()
        if opened is None:
            self._complain("open a recording or a solo first")
            return
        opened.set_voice(VOICES[(VOICES.index(opened.view.voice) + 1) % len(VOICES)])
        self._transport.show_voice(opened.view.voice)
        self.play_anew()

    def play_anew(self) -> None:
        """Start again what plays, as it would sound now."""
        if isinstance(self._player.source, LoopSource) and not isinstance(self._player.source, SteadySource):
            self._play(self._player.source.loop)

    def hold_instant(self) -> None:
        """Hold the sound at the cursor, or let it go."""
        opened = self._opened()
        if isinstance(self._player.source, SteadySource):
            self._player.stop()
        elif opened is None or opened.sound is None:
            self._complain("there is no sound to hold yet")
        else:
            recording, at = opened.sound.recording, opened.view.cursor
            first = max(0.0, at - 0.5)
            around = focused(opened.solo, recording.between(first, at + 0.5), recording.rate)
            held = hold_instant(around, recording.rate, at - first, _HELD_S)
            self._player.play(SteadySource(held, recording.rate, at))
            self._transport.show_playing(True)

    def reference_tone(self) -> None:
        """A steady tone at the selected note's place, to compare by ear, or silence again."""
        opened = self._opened()
        if isinstance(self._player.source, SteadySource):
            self._player.stop()
            return
        if opened is None or not opened.selected:
            self._complain("select a note first: its pitch is sounded")
            return
        note = opened.selected[0]
        rate = opened.sound.recording.rate if opened.sound else 44100
        self._player.play(SteadySource(reference_tone(opened.solo, note.pitch, rate), rate, note.onset))
        self._transport.show_playing(True)
        self._complain(f"a steady {pitch_text(note.pitch, opened.solo)}: ' again, or Space, stops it")

    def set_speed(self, speed: float) -> None:
        """Play at another speed, from the start of the stretch if something plays."""
        self.speed = speed
        self._transport.show_speed(speed)
        self.play_anew()

    def slower(self) -> None:
        """The next slower speed."""
        self.set_speed(max((s for s in SPEEDS if s < self.speed), default=SPEEDS[0]))

    def faster(self) -> None:
        """The next faster speed."""
        self.set_speed(min((s for s in SPEEDS if s > self.speed), default=SPEEDS[-1]))

    def toggle_count_in(self) -> None:
        """Count-in on or off."""
        self._transport.count_button.toggle()

    def set_count_in(self, on: bool) -> None:
        """Whether a bar is counted in."""
        self._counts_in = on


def _prepared(solo: Solo, samples: NDArray[np.float32], rate: int, start: float, voice: str) -> NDArray[np.float32]:
    """What is to be heard: the recording as the focus lets it through, the transcription, or left and right both."""
    heard = focused(solo, samples, rate)
    if voice == "recording":
        return heard
    played = transcription_sound(solo, start, start + len(samples) / rate, rate, samples)
    played = np.pad(played, (0, max(0, len(samples) - len(played))))[: len(samples)]
    left = mono(heard) if voice == "both" else played
    return np.stack([left, played], axis=1)
