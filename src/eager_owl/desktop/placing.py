"""The actions on where and how a phrase is played: ways looked at, heard and taken; and rests minded."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QWidget

from eager_owl.desktop.hand_panel import HandPanel
from eager_owl.desktop.listening import Listening
from eager_owl.desktop.move_panel import MovePanel
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.playback import Player
from eager_owl.neck.cautions import rest_words

_TICK_S = 5.0
_PAUSE_S = 240.0  # silence this long is a rest


class Placing(QObject):
    """One method an action, named as in `actions`."""

    def __init__(
        self,
        opened: Callable[[], OpenSolo | None],
        panels: tuple[HandPanel, MovePanel],
        desk_card: QWidget,
        listening: Listening,
        player: Player,
        complain: Callable[[str, bool], None],
    ) -> None:
        super().__init__()
        self._opened, self._desk_card, self._listening, self._player = opened, desk_card, listening, player
        self._hand, self._move = panels
        self._complain = complain
        self._played_s = self._silent_s = 0.0
        for panel in panels:
            panel.hear_asked.connect(self.hear_way)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.mind_the_time)
        self._timer.start(round(1000 * _TICK_S))

    def next_way(self) -> None:
        """Look at the next way to play the phrase."""
        self._in_sight("next_way")

    def previous_way(self) -> None:
        """Look at the way before."""
        self._in_sight("previous_way")

    def take_way(self) -> None:
        """Take the way that is looked at."""
        self._in_sight("take_way")

    def _in_sight(self, name: str) -> None:
        if self._hand.isVisible():
            getattr(self._hand, name)()
        else:
            self._complain("Shift N shows the ways to play the phrase first", False)

    def next_picking(self) -> None:
        """The next style of picking."""
        opened = self._opened()
        if opened is not None:
            self._hand.next_picking()
            self._complain(f"{opened.solo.picking} picking", False)

    def hear_way(self) -> None:
        """Hear the way, or the moved phrase, that is looked at; else the phrase as it is written."""
        opened = self._opened()
        if opened is None or not opened.notes:
            self._complain("there are no notes to hear yet", False)
            return
        self._listening.play_notes(opened.view.tried or opened.notes)

    def neck_large(self) -> None:
        """The neck alone and large, or the desk again."""
        self._desk_card.setVisible(not self._desk_card.isVisible())

    def mind_the_time(self) -> None:
        """Count how long has been played along with, and remind of a rest."""
        if not self._player.playing:
            self._silent_s += _TICK_S
            if self._silent_s >= _PAUSE_S:
                self._played_s = 0.0
            return
        self._silent_s = 0.0
        self._played_s += _TICK_S
        if words := rest_words(self._played_s, self._hand.limits):
            self._played_s = 0.0
            self._complain(words, True)
