"""What the player does to help the detector: taps, beats, suggested phrases, and corrections carried to repeats."""

from collections.abc import Callable
from dataclasses import replace

from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.rhythm.grid import BeatGrid, anchored, shifted_bar
from eager_owl.session import Survey, carry_note, suggest_phrases, take_beat
from eager_owl.solo.document import Solo

_SAME_TAP_S = 0.04


class Helping:
    """One method an action, named as in `actions`."""

    def __init__(self, opened: Callable[[], OpenSolo | None], complain: Callable[[str], None]) -> None:
        self._opened, self._complain = opened, complain

    def _solo(self) -> OpenSolo | None:
        opened = self._opened()
        if opened is None:
            self._complain("open a recording or a solo first")
        return opened

    def _survey(self) -> Survey | None:
        opened = self._solo()
        survey = opened.sound.survey if opened and opened.sound else None
        if opened and survey is None:
            self._complain("the recording is still being listened through: a moment")
        return survey

    def _do(self, words: str, change: Callable[[Solo], Solo]) -> bool:
        opened = self._solo()
        return opened is not None and opened.do(words, change)

    def tap(self) -> None:
        """A note begins where the ear is now."""
        opened = self._solo()
        if opened is None:
            return
        now = opened.view.cursor
        # A loop comes round: a tap on an earlier one moves it.
        others = [tap for tap in opened.view.taps if abs(tap - now) > _SAME_TAP_S]
        opened.set_taps([*others, now])

    def clear_taps(self) -> None:
        """Let go of the taps."""
        if (opened := self._solo()) is not None:
            opened.set_taps(())

    def find_beat(self) -> None:
        """The beat that was found in the recording."""
        if (survey := self._survey()) is not None:
            self._do("the beat found", lambda solo: take_beat(solo, survey))

    def _on_grid(self, words: str, change: Callable[[BeatGrid, float], BeatGrid]) -> None:
        opened = self._solo()
        if opened is None:
            return
        grid, now = opened.solo.grid, opened.view.cursor
        if grid is None:
            self._complain("there is no beat yet: Ctrl T takes the one that was found")
            return
        opened.do(words, lambda solo: replace(solo, grid=change(grid, now)))

    def beat_here(self) -> None:
        """The nearest beat lies at the cursor; the tempo drifts to it."""
        self._on_grid("a beat here", lambda grid, now: anchored(grid, round(grid.beat_at(now)), now))

    def move_beat(self, beat: int, time_s: float) -> None:
        """A beat was dragged to a time."""
        self._on_grid("a beat moved", lambda grid, _: anchored(grid, beat, time_s))

    def bar_here(self) -> None:
        """A bar begins at the beat nearest the cursor."""
        self._on_grid(
            "a bar begins here", lambda grid, now: shifted_bar(grid, round(grid.beat_at(now)) % grid.beats_per_bar)
        )

    def suggest_phrases(self) -> None:
        """Phrases where the lead breathes."""
        survey = self._survey()
        if survey is not None and not self._do("phrases suggested", lambda solo: suggest_phrases(solo, survey)):
            self._complain("no other phrases were found")

    def carry_to_repeats(self) -> None:
        """The selected note's pitch and techniques, wherever its figure comes back."""
        opened = self._solo()
        if opened is None:
            return
        if not opened.selected:
            self._complain("select a note first: → and ← walk through them")
            return
        note_id = opened.selected[0].id
        opened.do("carry to the repeats", lambda solo: carry_note(solo, note_id))
