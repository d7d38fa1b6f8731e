"""Over which chords a phrase fits: note by note safe, colour or clash, what to change, and which part fits alone."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from eager_owl.reasons.colours import colour_of
from eager_owl.reasons.context import find_context
from eager_owl.reasons.roles import ORNAMENTS, find_roles
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key
from eager_owl.theory.words import plural

FitVerdict = Literal["safe", "colour", "clash"]
# Rubs growl below this pitch and soften above that one (E3 and E5).
_LOW_PITCH, _HIGH_PITCH = 52, 76


@dataclass(frozen=True)
class NoteFit:
    """How one note fits, why in words, and the semitones that would make a clash fit (0: nothing need change)."""

    verdict: FitVerdict
    why: str
    change: int = 0


@dataclass(frozen=True)
class Fit:
    """A phrase over one chord. `alone` are the first and last index of its longest part without a clash, or None."""

    chord: Chord
    notes: tuple[NoteFit, ...]
    alone: tuple[int, int] | None

    def count(self, verdict: FitVerdict) -> int:
        """How many notes fit so."""
        return sum(note.verdict == verdict for note in self.notes)

    @property
    def words(self) -> str:
        """Such as "fits: 6 safe, 2 colours" or "2 of 8 clash"."""
        clashes, colours = self.count("clash"), self.count("colour")
        if clashes:
            return f"{clashes} of {len(self.notes)} clash{'es' * (clashes == 1)}"
        return f"fits: {self.count('safe')} safe, {plural(colours, 'colour')}"


def fit_over(notes: Sequence[Note], chord: Chord, key: Key | None, grid: BeatGrid | None = None) -> Fit:
    """Try a phrase over one chord held throughout. Ornaments that lead into a safe note are colours."""
    context = find_context(notes, Chart(((chord,),)), grid or BeatGrid())
    roles = find_roles(context, key)
    found = []
    for i, note in enumerate(notes):
        pitch = note.landed
        colour = colour_of(pitch, chord, key)
        if colour.verdict == "chord tone":
            found.append(NoteFit("safe", colour.why))
        elif roles[i] in ORNAMENTS and i + 1 < len(notes):
            found.append(NoteFit("colour", f"{colour.why}; {roles[i]}, so light that it only leads on"))
        elif colour.verdict == "tension":
            found.append(NoteFit("colour", colour.why))
        else:
            found.append(NoteFit("clash", colour.why + _register(pitch), _change(pitch, chord, key)))
    return Fit(chord, tuple(found), _longest_part(found))


def fits_over_chart(notes: Sequence[Note], chart: Chart, key: Key | None, grid: BeatGrid | None = None) -> list[Fit]:
    """The phrase over every chord of the chart, in the order they first come."""
    return [fit_over(notes, chord, key, grid) for chord in chart.chords]


def _register(pitch: int) -> str:
    if pitch < _LOW_PITCH:
        return ", and low, where it growls"
    return ", though high, where it is milder" if pitch >= _HIGH_PITCH else ""


def _change(pitch: int, chord: Chord, key: Key | None) -> int:
    """The least move to a chord tone, or to a colour where no chord tone is within a whole step."""
    for wanted in ("chord tone", "tension"):
        for move in (-1, 1, -2, 2):
            if colour_of(pitch + move, chord, key).verdict == wanted:
                return move
    return 0


def _longest_part(fits: Sequence[NoteFit]) -> tuple[int, int] | None:
    best: tuple[int, int] | None = None
    start = 0
    for i in range(len(fits) + 1):
        if i == len(fits) or fits[i].verdict == "clash":
            if i > start and (best is None or i - start > best[1] - best[0] + 1):
                best = (start, i - 1)
            start = i + 1
    return best
