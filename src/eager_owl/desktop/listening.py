"""Playing what is on the desk: looped or once, at a speed, with a count-in."""

from collections.abc import Callable

from eager_owl.audio.player import LoopSource
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.playback import Player
from eager_owl.desktop.transport import SPEEDS, Transport
from eager_owl.sound.click import count_in

_FIRST_SPEED = 0.5
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
    ) -> None:
        self._player, self._transport, self._opened, self._complain = player, transport, opened, complain
        self.speed = _FIRST_SPEED
        self._counts_in = False
        transport.show_speed(self.speed)
        player.stopped.connect(lambda: transport.show_playing(False))

    def toggle_loop(self) -> None:
        """Loop what is on the desk, or stop."""
        if self._player.playing:
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
        start, end = opened.play_range()
        recording, clicks = opened.sound.recording, None
        if self._counts_in:
            grid = opened.solo.grid
            beat_s, beats = (grid.beat_s, grid.beats_per_bar) if grid else (_PLAIN_BEAT_S, _PLAIN_BEATS)
            clicks = count_in(recording.rate, beat_s / self.speed, beats)
        samples = recording.between(start, end)
        self._player.play(LoopSource(samples, recording.rate, start, self.speed, loop, clicks))
        self._transport.show_playing(True)

    def set_speed(self, speed: float) -> None:
        """Play at another speed, from the start of the stretch if something plays."""
        self.speed = speed
        self._transport.show_speed(speed)
        if self._player.source is not None:
            self._play(self._player.source.loop)

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
