"""Worked examples: invented phrases whose sources, roles and events were reasoned out on paper first.

A line is written short: "8:C5 Bb4 16:A4 ~B4 4:r Eb5^2" has eighths, a slide, a rest and a bend. Notes are counted
from 1.
"""

import re
from dataclasses import dataclass, replace

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import Technique
from eager_owl.theory.pitch import parse_pitch

TWO, HOME, CHORDS, SHAPES, CELL = "two-pentatonics", "home-and-chord-tones", "chord-by-chord", "shapes", "root-cell"


@dataclass(frozen=True)
class Told:
    """What a school tells of a line: so many notes of each source ("ahead" of its chord, or "behind"), in order, and

    how many are unexplained; None where the example is not about it.
    """

    school: str
    sources: str | None = None
    unexplained: int | None = None


@dataclass(frozen=True)
class At:
    """What is said of one note: its role, its interval in the chord and in the key; None where nothing is asked."""

    note: int
    role: str | None = None
    in_chord: str | None = None
    in_key: str | None = None


@dataclass(frozen=True)
class Example:
    """A line over its chords. `events` must be found, each as "kind: its notes"; kinds in `never` must not be."""

    name: str
    key: str
    chart: str
    line: str
    told: tuple[Told, ...] = ()
    notes: tuple[At, ...] = ()
    events: tuple[str, ...] = ()
    never: tuple[str, ...] = ()
    beats: int = 4


_TOKEN = re.compile(r"(?:(\d+)(t?)(\.?):)?(~?)([A-G][b#]?\d|r)(?:\^(\d))?(\+*)")


def written(text: str, at_beat: float = 0.0, grid: BeatGrid | None = None) -> list[Note]:
    """The notes of a line from a beat on.

    "4" is a beat, "8t" a third of one, "4." half as long again; "~" slides into the note, "^2" bends it two
    semitones, each "+" holds it one more value.
    """
    grid = grid or BeatGrid(120, 0.0, 4)
    notes: list[Note] = []
    value, beat = 1.0, at_beat
    for token in text.split():
        match = _TOKEN.fullmatch(token)
        assert match is not None, token
        number, triplet, dotted, slide, pitch, bend, held = match.groups()
        if number:
            value = 4 / int(number) * (2 / 3 if triplet else 1) * (1.5 if dotted else 1)
        length = value * (1 + len(held))
        if pitch != "r":
            start, end = grid.time_of(beat), grid.time_of(beat + length)
            note = Note(len(notes) + 1, start, 0.98 * (end - start), parse_pitch(pitch))
            techniques = (Technique("bend", float(bend), 0.12),) if bend else ()
            techniques += (Technique("slide", 1.0),) if slide else ()
            notes.append(replace(note, techniques=techniques))
        beat += length
    return notes
