"""Minding the time: what can hurt, the player's own bounds for it, and when to rest."""

from typing import TYPE_CHECKING

from eager_owl.session.placing import Limits, rest_words

if TYPE_CHECKING:
    from eager_owl.session.session import Session

_TICK_S = 5.0
_PAUSE_S = 240.0  # silence this long is a rest
_SETTINGS = {"reach_mm": "limits/reach_mm", "bend_s": "limits/bend_s", "rest_min": "limits/rest_min"}


class Resting:
    """Counts how long has been played along with, and reminds of a rest."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.limits = self._read()
        self._played_s = self._silent_s = 0.0
        session.ports.clock.timer(_TICK_S, self.mind_the_time, repeat=True).start()

    def _read(self) -> Limits:
        """The player's bounds as they were last set; the usual ones where they make no sense."""
        settings = self._session.ports.settings
        found = {name: settings.read(key) for name, key in _SETTINGS.items()}
        try:
            return Limits(**{name: float(str(value)) for name, value in found.items() if value is not None})
        except ValueError:
            return Limits()

    def set_limits(self, reach_mm: float, rest_min: float) -> None:
        """Other bounds. Raises ValueError for what makes no sense."""
        self.limits = Limits(reach_mm, self.limits.bend_s, rest_min)
        for name, key in _SETTINGS.items():
            self._session.ports.settings.write(key, getattr(self.limits, name))

    def mind_the_time(self) -> None:
        """Some time has gone by."""
        if not self._session.player.playing:
            self._silent_s += _TICK_S
            if self._silent_s >= _PAUSE_S:
                self._played_s = 0.0
            return
        self._silent_s = 0.0
        self._played_s += _TICK_S
        if words := rest_words(self._played_s, self.limits):
            self._played_s = 0.0
            self._session.tell(words, lasting=True)
