"""Other ways to play the phrase: looked at on the neck, heard, and taken."""

from typing import TYPE_CHECKING

from eager_owl.session.placing import STYLES, Way, picking_style
from eager_owl.session.signal import Signal
from eager_owl.solo.edits import choose_picking, take_places

if TYPE_CHECKING:
    from eager_owl.session.session import Session


class WaysLookedAt:
    """Which of the phrase's ways is looked at. `changed` tells of another one."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.changed = Signal[[]]()
        self._at = 0
        self._of: tuple[Way, ...] = ()

    @property
    def ways(self) -> list[Way]:
        """The ways to play the phrase, as it is first."""
        return self._session.solo.answers.ways

    @property
    def at(self) -> int:
        """Which one is looked at; the first again once there are others."""
        if self._of != tuple(self.ways):
            self._of, self._at = tuple(self.ways), 0
        return self._at

    @property
    def looked_at(self) -> Way | None:
        """The way that is looked at."""
        return self.ways[self.at] if self.ways else None

    def look_at(self, index: int) -> None:
        """Look at a way on the neck."""
        if not self.ways:
            self._session.tell("choose a phrase with notes first: Page down")
            return
        self._at = index % len(self.ways)
        self.changed.emit()
        self._session.solo.try_notes(self.ways[self._at].notes if self._at else ())

    def next(self) -> None:
        """Look at the next way."""
        self.look_at(self.at + 1)

    def previous(self) -> None:
        """Look at the way before."""
        self.look_at(self.at - 1)

    def take(self) -> None:
        """Play the phrase as it is looked at; its places are pinned."""
        way = self.looked_at
        if way is None or not self.at:
            self._session.tell("look at another way first: Ctrl ↓")
            return
        self._session.solo.do(f"play it {way.name}", lambda solo: take_places(solo, way.notes))

    def hear(self) -> None:
        """Hear the way, or the moved phrase, that is looked at; else the phrase as it is written."""
        opened = self._session.solo
        if opened.notes:
            self._session.playing.play_notes(opened.view.tried or opened.notes)
        else:
            self._session.tell("there are no notes to hear yet")

    def next_picking(self) -> None:
        """The next style of picking."""
        opened, names = self._session.solo, list(STYLES)
        name = names[(names.index(picking_style(opened.solo)) + 1) % len(names)]
        opened.do("picking", lambda solo: choose_picking(solo, name))
        self._session.tell(f"{name} picking")
