"""A short way to write a line down: "8:C5 Bb4 16:A4 ~B4 4:r Eb5^2" has eighths, a slide, a rest and a bend."""

import re
from dataclasses import replace

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import Technique
from eager_owl.theory.pitch import parse_pitch

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
