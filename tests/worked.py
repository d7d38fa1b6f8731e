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


EXAMPLES = (
    # Two pentatonics
    Example(
        "plain minor pentatonic",
        key="F minor",
        chart="| Fm7 |",
        line="8:F4 Ab4 Bb4 C5 Eb5 C5 4:F5",
        told=(Told(TWO, sources="7 of F minor pentatonic", unexplained=0),),
        notes=(At(1, role="chord tone"), At(3, role="passing", in_chord="4"), At(5, in_chord="b7")),
    ),
    Example(
        "blues with both thirds",
        key="A major",
        chart="| A7 | D7 | A7 | E7 |",
        line="8:A4 C5 C#5 E5 F#5 E5 C#5 A4 C5 A4 G4 E4 4:D4",
        told=(
            Told(TWO, sources="8 of A major blues, 5 of A minor pentatonic", unexplained=0),
            Told(CHORDS, sources="8 of A Mixolydian, 5 of D Mixolydian", unexplained=0),
        ),
        notes=(
            At(2, role="blue note", in_chord="b3", in_key="b3"),
            At(3, role="chord tone", in_chord="3", in_key="3"),
            At(9, in_chord="b7"),
        ),
        events=("minor to major: 2 3", "target: 9"),
    ),
    Example(
        "the flat five between four and five",
        key="E minor",
        chart="| Em7 |",
        line="8:E4 G4 A4 Bb4 B4 D5 4:E5",
        told=(Told(TWO, sources="7 of E blues", unexplained=0),),
        notes=(At(4, role="blue note", in_chord="b5", in_key="b5"),),
    ),
    Example(
        "major pentatonic under its own name and home",
        key="C major",
        chart="| C | Am |",
        line="8:C5 D5 E5 G5 A5 G5 E5 D5 C5 A4 G4 E4 A4+++",
        told=(
            Told(TWO, sources="13 of C major pentatonic", unexplained=0),
            Told(HOME, sources="13 of C major"),
            Told(CHORDS, sources="8 of C major, 5 of A natural minor"),
        ),
        notes=(At(2, role="passing"), At(5, role="neighbour"), At(9, in_chord="b3", in_key="R"), At(10, in_key="6")),
        events=("target: 9",),
    ),
    Example(
        "minor third pushed to the major one by a bend",
        key="G major",
        chart="| G7 |",
        line="4:G4 Bb4^1 D5 G5",
        told=(Told(TWO, sources="4 of G major pentatonic", unexplained=0),),
        notes=(At(2, role="chord tone", in_chord="b3", in_key="b3"),),
        events=("minor to major: 2",),
    ),
    Example(
        "a scale is more than two pentatonics",
        key="E minor",
        chart="| Em |",
        line="8:E4 F#4 G4 A4 B4 C5 D5 E5 2:B4",
        told=(
            Told(HOME, sources="9 of E natural minor", unexplained=0),
            Told(CHORDS, sources="9 of E natural minor"),
            Told(TWO, sources="9 of E minor pentatonic", unexplained=2),
        ),
        notes=(At(2, role="passing", in_key="2"), At(6, role="passing", in_chord="b6"), At(7, in_key="b7")),
    ),
    # The third of the one chord over four and five
    Example(
        "third of one clashes on four and is the thirteenth on five",
        key="C major",
        chart="| C7 | F7 | G7 |",
        line="1:E4 E4 E4",
        told=(Told(TWO, sources="3 of C major pentatonic"), Told(CHORDS, unexplained=1)),
        notes=(
            At(1, role="chord tone", in_chord="3", in_key="3"),
            At(2, role="clash", in_chord="7", in_key="3"),
            At(3, role="tension", in_chord="13", in_key="3"),
        ),
        never=("anticipation",),
    ),
    # Altered lines, ahead of the chord and behind it
    Example(
        "altered line begun two beats early",
        key="F major",
        chart="| Gm7 | C7 | Fmaj7 |",
        line="8:G4 A4 Bb4 D5 Eb5 Db5 Bb4 Ab4 Gb4 E4 Db4 Eb4 Gb4 Ab4 4:Bb4 1:A4",
        told=(
            Told(CHORDS, sources="4 of G Dorian, 4 of C altered ahead, 7 of C altered, 1 of F major", unexplained=0),
        ),
        notes=(
            At(5, role="tension", in_chord="b6"),
            At(7, role="chord tone"),
            At(9, role="tension", in_chord="#11"),
            At(10, in_chord="3"),
            At(11, in_chord="b9"),
            At(12, in_chord="#9"),
        ),
        events=("anticipation: 5 6 7 8", "guide tone: 15 16"),
    ),
    Example(
        "altered line that lasts past its chord",
        key="F minor",
        chart="| C7alt | Fm7 |",
        line="8:C5 Db5 Eb5 E5 Gb5 Ab5 Bb5 Ab5 Gb5 E5 4:F5 8:Eb5 C5",
        told=(Told(CHORDS, sources="8 of C altered, 2 of C altered behind, 3 of F natural minor", unexplained=0),),
        notes=(At(2, in_chord="b9"), At(3, in_chord="#9"), At(9, role="tension")),
        events=("delay: 9 10", "enclosure: 9 10 11"),
    ),
    Example(
        "melodic minor run under both names",
        key="C minor",
        chart="| G7alt | Cm7 |",
        line="8:G4 Ab4 Bb4 B4 Db5 Eb5 F5 G5 2:C5",
        told=(Told(CHORDS, sources="8 of G altered, 1 of C natural minor", unexplained=0),),
        notes=(
            At(2, role="tension", in_chord="b9"),
            At(3, in_chord="#9"),
            At(4, role="chord tone", in_chord="3", in_key="7"),
            At(5, role="tension", in_chord="b5"),
            At(6, in_chord="#5"),
        ),
        events=("target: 9",),
    ),
    Example(
        "Lydian dominant on a plain seventh chord wants two signs",
        key="C major",
        chart="| F7 |",
        line="8:F4 G4 A4 B4 C5 B4 A4 G4 2:F4",
        told=(Told(CHORDS, sources="9 of F Lydian dominant", unexplained=0),),
        notes=(At(4, role="passing", in_chord="#4"),),
    ),
    # A phrase that begins on its chord and is ahead of the next from its third note on
    Example(
        "ahead from the note that asks for it",
        key="C major",
        chart="| Cmaj7 A7 | Dm7 |",
        line="8:E5 G5 C#5 Bb4 A4 G4 C#5 E5 4:F5",
        told=(
            Told(
                CHORDS,
                sources="2 of C major, 2 of A Phrygian dominant ahead, 4 of A Phrygian dominant, 1 of D Dorian",
                unexplained=0,
            ),
        ),
        notes=(At(3, role="chord tone", in_chord="b2"), At(9, in_chord="b3")),
        events=("anticipation: 3 4",),
    ),
    Example(
        "one stray half step does not make a scale",
        key="C major",
        chart="| G7 |",
        line="8:G4 B4 D5 F5 D5 C#5 D5 B4 2:G4",
        told=(Told(CHORDS, sources="9 of G Mixolydian", unexplained=0),),
        notes=(At(6, role="neighbour", in_chord="b5"),),
    ),
    Example(
        "whole tone on a five",
        key="C major",
        chart="| G7#5 | Cmaj7 |",
        line="8:G4 A4 B4 C#5 D#5 F5 D#5 C#5 2:C5",
        told=(Told(CHORDS, sources="8 of G whole tone, 1 of C major", unexplained=0),),
        notes=(At(5, in_chord="#5"),),
    ),
    Example(
        "half-whole diminished",
        key="C minor",
        chart="| G7b9 | Cm |",
        line="8:G4 Ab4 Bb4 B4 C#5 D5 E5 F5 2:Eb5",
        told=(Told(CHORDS, sources="8 of G half-whole diminished, 1 of C natural minor", unexplained=0),),
        notes=(At(2, in_chord="b9"), At(3, in_chord="#9"), At(5, in_chord="#11"), At(7, in_chord="13")),
        events=("guide tone: 8 9",),
    ),
    # Each chord its own
    Example(
        "two five one in minor",
        key="F minor",
        chart="| Gm7b5 | C7 | Fm7 |",
        line="8:G4 Bb4 Db5 F5 Eb5 Db5 C5 Bb4 4:E4 G4 Bb4 Db5 1:C5",
        told=(Told(CHORDS, sources="8 of G Locrian, 4 of C Phrygian dominant, 1 of F natural minor", unexplained=0),),
        notes=(
            At(3, in_chord="b5"),
            At(7, role="passing"),
            At(9, in_chord="3", in_key="7"),
            At(12, role="tension", in_chord="b9"),
        ),
        events=("target: 9",),
    ),
    Example(
        "two five one in major with guide tones",
        key="C major",
        chart="| Dm7 | G7 | Cmaj7 |",
        line="8:D5 E5 F5 A5 C6 A5 F5 C5 B4 D5 F5 A5 G5 D5 4:F5 1:E5",
        told=(
            Told(CHORDS, sources="8 of D Dorian, 7 of G Mixolydian, 1 of C major", unexplained=0),
            Told(HOME, sources="16 of C major", unexplained=0),
        ),
        notes=(
            At(2, role="passing"),
            At(8, in_chord="b7"),
            At(9, role="chord tone", in_chord="3"),
            At(15, in_chord="b7"),
            At(16, in_chord="3"),
        ),
        events=("guide tone: 8 9", "guide tone: 15 16"),
    ),
    Example(
        "Lydian on the four",
        key="C major",
        chart="| Fmaj7 |",
        line="8:F4 G4 A4 B4 C5 E5 4:F5",
        told=(Told(CHORDS, sources="7 of F Lydian", unexplained=0),),
        notes=(At(4, role="passing", in_chord="#4"),),
    ),
    Example(
        "Dorian on the four of a minor key",
        key="A minor",
        chart="| Dm7 |",
        line="8:D4 E4 F4 G4 A4 B4 C5 D5",
        told=(Told(CHORDS, sources="8 of D Dorian", unexplained=0), Told(HOME, sources="8 of A natural minor")),
        notes=(At(6, role="passing", in_chord="6", in_key="2"),),
    ),
    Example(
        "melodic minor on a minor six",
        key="F minor",
        chart="| Bbm6 |",
        line="8:Bb4 C5 Db5 Eb5 F5 G5 A5 Bb5",
        told=(Told(CHORDS, sources="8 of Bb melodic minor", unexplained=0),),
        notes=(At(6, role="chord tone", in_chord="6"), At(7, in_chord="7")),
    ),
    Example(
        "diminished chord",
        key="F minor",
        chart="| Bdim7 |",
        line="8:B4 C#5 D5 E5 F5 G5 Ab5 Bb5",
        told=(Told(CHORDS, sources="8 of B whole-half diminished", unexplained=0),),
        notes=(At(3, role="chord tone", in_chord="b3"), At(7, in_chord="bb7")),
    ),
    Example(
        "harmonic minor home over its five",
        key="A minor",
        chart="| Am | E7 | Am |",
        line="8:A4 B4 C5 E5 D5 C5 B4 A4 G#4 B4 D5 F5 E5 D5 B4 G#4 2:A4",
        told=(
            Told(
                CHORDS, sources="8 of A natural minor, 8 of E Phrygian dominant, 1 of A natural minor", unexplained=0
            ),
            Told(HOME, sources="17 of A harmonic minor", unexplained=0),
        ),
        notes=(At(9, role="chord tone", in_chord="3", in_key="7"), At(12, in_chord="b9", in_key="b6")),
        events=("guide tone: 16 17",),
    ),
    # A minor blues and the note that the four chord changes
    Example(
        "minor blues aims at the note the four chord changes",
        key="A minor",
        chart="| Am | Dm | E7 |",
        line="8:E5 C5 A4 G#4 A4 B4 C5 E5 4:F5 8:E5 D5 F5 D5 4:A4 8:G#4 B4 D5 F5 E5 D5 4:B4",
        told=(Told(CHORDS, sources="8 of A harmonic minor, 6 of D Dorian, 7 of E Phrygian dominant", unexplained=0),),
        notes=(
            At(4, role="neighbour", in_chord="7", in_key="7"),
            At(9, role="chord tone", in_chord="b3", in_key="b6"),
        ),
        events=("target: 9",),
    ),
    # Shapes
    Example(
        "two arpeggios a step apart, one note altered to stay in key",
        key="F major",
        chart="| Dm7 |",
        line="8:D4 F4 A4 D5 E4 G4 Bb4 E5",
        told=(Told(SHAPES, sources="4 of Dm7 arpeggio, 4 of Edim arpeggio", unexplained=0),),
        notes=(At(1, role="chord tone"), At(7, in_chord="b6", in_key="4")),
        events=("sequence: 1 2 3 4 5 6 7 8",),
    ),
    Example(
        "the arpeggio on the third of the chord",
        key="C major",
        chart="| Dm7 |",
        line="8:F4 A4 C5 E5 C5 A4 4:F4",
        told=(Told(SHAPES, sources="7 of Fmaj7 arpeggio", unexplained=0),),
        notes=(At(1, role="chord tone"), At(4, role="tension", in_chord="2")),
    ),
    Example(
        "a shape with half steps into it",
        key="C major",
        chart="| Cmaj7 |",
        line="8:B4 ~C5 D#5 ~E5 F#5 ~G5 4:B5",
        told=(Told(SHAPES, sources="7 of Cmaj7 arpeggio", unexplained=0),),
        notes=(At(3, role="approach from below", in_chord="b3"), At(5, role="approach from below")),
        events=("approach: 3 4", "approach: 5 6"),
    ),
    Example(
        "diminished seventh on the third of a dominant",
        key="F minor",
        chart="| C7 |",
        line="8:E4 G4 Bb4 Db5 E5 Db5 Bb4 G4",
        told=(Told(SHAPES, sources="8 of Edim7 arpeggio", unexplained=0),),
        notes=(At(4, role="tension", in_chord="b9"),),
    ),
    # The root cell
    Example(
        "root cell in two octaves",
        key="A minor",
        chart="| Am7 |",
        line="8:G4 A4 C5 D5^2 C5 A4 G4 A4 G5 A5 C6 D6^2 C6 A5 4:A5",
        told=(
            Told(CELL, sources="8 of A root cell, 7 of A root cell", unexplained=0),
            Told(TWO, sources="15 of A minor pentatonic"),
        ),
        notes=(At(4, role="chord tone", in_chord="4", in_key="4"),),
        events=("repeat: 1 2 3 4 5 6 7 9 10 11 12 13 14 15",),
    ),
    Example(
        "home moves from root to root",
        key="A minor",
        chart="| Am7 | Dm7 |",
        line="8:G4 A4 C5 D5^2 C5 A4 4:A4 8:C5 D5 F5 G5^2 F5 D5 4:D5",
        told=(Told(CELL, sources="7 of A root cell, 7 of D root cell", unexplained=0),),
        notes=(At(9, in_chord="R"), At(10, role="chord tone")),
    ),
    # Approaches and ornaments
    Example(
        "chromatic approaches by slide",
        key="C major",
        chart="| C7 |",
        line="8:D#4 ~E4 F#4 ~G4 B4 ~C5 4:E5",
        told=(Told(CHORDS, sources="7 of C Mixolydian", unexplained=0), Told(TWO, unexplained=0)),
        notes=(
            At(1, role="approach from below", in_chord="b3"),
            At(2, in_chord="3"),
            At(3, role="approach from below"),
            At(5, role="approach from below"),
        ),
        events=("approach: 1 2", "approach: 3 4", "approach: 5 6"),
    ),
    Example(
        "enclosure of the root",
        key="C major",
        chart="| Cmaj7 |",
        line="4:G4 E4 G4 8:D5 B4 4:C5",
        told=(Told(CHORDS, sources="6 of C major", unexplained=0),),
        notes=(At(4, role="enclosure"),),
        events=("enclosure: 4 5 6",),
    ),
    Example(
        "chromatic enclosure of the third",
        key="F major",
        chart="| Fmaj7 |",
        line="4:F4 C5 8:Bb4 G#4 4:A4",
        told=(Told(CHORDS, sources="5 of F major", unexplained=0),),
        notes=(At(3, role="enclosure"), At(4, role="enclosure", in_chord="b3"), At(5, in_chord="3")),
        events=("enclosure: 3 4 5",),
    ),
    Example(
        "upper neighbour",
        key="C major",
        chart="| C |",
        line="8:G4 A4 G4 E4 2:C4",
        told=(Told(CHORDS, sources="5 of C major"),),
        notes=(At(2, role="neighbour", in_chord="6"),),
    ),
    Example(
        "approach from above",
        key="G major",
        chart="| G7 |",
        line="8:D4 G4 C#5 C5 4:B4 2:G4",
        notes=(At(4, role="passing", in_chord="4"), At(5, role="chord tone")),
    ),
    Example(
        "a chromatic run is a source of its own",
        key="C major",
        chart="| C7 |",
        line="8:G4 G#4 A4 A#4 B4 C5 4:E5",
        told=(
            Told(CHORDS, sources="5 of chromatic, 2 of C Mixolydian", unexplained=0),
            Told(TWO, sources="5 of chromatic, 2 of C major pentatonic", unexplained=0),
        ),
        notes=(At(2, role="passing"),),
    ),
    # What happens in the line
    Example(
        "common tone held and turned",
        key="C minor",
        chart="| Abmaj7 | D7 | Gm7 |",
        line="2:Eb5 2:C5+ 4:A4 F#4 1:G4",
        notes=(At(2, role="chord tone", in_chord="3"),),
        events=("common tone: 2", "guide tone: 4 5"),
    ),
    Example(
        "common tone struck again",
        key="F minor",
        chart="| Fm7 | Dbmaj7 |",
        line="2:F5 4:Eb5 C5 1:C5",
        notes=(At(3, in_chord="5"), At(4, role="chord tone", in_chord="7")),
        events=("common tone: 3 4",),
    ),
    Example(
        "pivot line",
        key="A minor",
        chart="| Am7 |",
        line="8:E4 A4 E4 B4 E4 C5 E4 D5 2:E5",
        told=(Told(CHORDS, sources="9 of A natural minor", unexplained=0),),
        notes=(At(4, role="tension", in_chord="2"), At(8, in_chord="4")),
        events=("pivot: 1 3 5 7",),
    ),
    Example(
        "sequence within the scale",
        key="A minor",
        chart="| Am7 |",
        line="8:A4 B4 C5 A4 B4 C5 D5 B4 C5 D5 E5 C5 2:A4",
        told=(Told(CHORDS, sources="13 of A natural minor", unexplained=0),),
        notes=(At(2, role="passing"),),
        events=("sequence: 1 2 3 4 5 6 7 8 9 10 11 12",),
    ),
    Example(
        "a scale straight on is no sequence",
        key="C major",
        chart="| C |",
        line="8:C4 D4 E4 F4 G4 A4 B4 C5",
        told=(Told(CHORDS, sources="8 of C major"),),
        never=("sequence", "repeat", "pivot"),
    ),
    Example(
        "octave displacement",
        key="C major",
        chart="| Cmaj7 |",
        line="8:C4 D4 E5 F5 G5 A5 2:G5",
        told=(Told(CHORDS, sources="7 of C major", unexplained=0),),
        notes=(At(4, role="passing"), At(6, role="neighbour")),
        events=("octave displacement: 2 3",),
    ),
    Example(
        "two clashes that no chord tone follows: a tension does not make them good",
        key="D minor",
        chart="| Dm7 |",
        line="4:D5 8:F5 A5 4:Eb5 F#5 2:E5+ 2:F5",
        told=(Told(CHORDS, unexplained=2),),
        notes=(At(4, role="clash", in_chord="b2"), At(5, role="clash", in_chord="3")),
        never=("outside, then inside",),
    ),
    Example(
        "a push belongs to the next chord",
        key="F minor",
        chart="| C7 | Fm7 |",
        line="4:E5 G5 Bb4 8:C5 F5++ Ab4 2:C5",
        told=(Told(CHORDS, sources="4 of C Phrygian dominant, 3 of F natural minor", unexplained=0),),
        notes=(At(5, role="chord tone", in_chord="R"),),
        events=("anticipation: 5", "target: 5"),
    ),
    Example(
        "a figure that comes again, one note changed",
        key="A minor",
        chart="| Am7 |",
        line="8:A4 C5 E5 D5 C5 A4 4:G4 2:r 8:A4 C5 E5 D5 B4 A4 4:G4",
        events=("repeat: 1 2 3 4 5 6 7 8 9 10 11 12 13 14",),
    ),
    Example(
        "waltz time, two chords to the bar",
        key="F minor",
        chart="| Bbm7 | Gm7b5 / C7 | Fm7 |",
        line="4:Db5 F5 Ab5 G5 Bb5 E5 2.:F5",
        beats=3,
        told=(
            Told(
                CHORDS,
                sources="3 of Bb Dorian, 2 of G Locrian, 1 of C Phrygian dominant, 1 of F natural minor",
                unexplained=0,
            ),
        ),
        notes=(At(5, in_chord="b3"), At(6, role="chord tone", in_chord="3"), At(7, in_chord="R")),
        events=("guide tone: 6 7",),
    ),
    # What hangs over, and what only seems to
    Example(
        "the seventh struck again as its chord has gone",
        key="C major",
        chart="| G7 | C |",
        line="4:D5 B4 8:G4 B4 D5 F5 4:F5 E5 2:C5",
        told=(
            Told(CHORDS, sources="6 of G Mixolydian, 3 of C major", unexplained=0),
            Told(SHAPES, sources="6 of G7 arpeggio, 3 of C arpeggio", unexplained=0),
        ),
        notes=(At(7, role="approach from above", in_chord="4"), At(8, in_chord="3")),
        events=("delay: 7 8",),
        never=("approach", "guide tone"),
    ),
    Example(
        "the seventh held over the change",
        key="C major",
        chart="| G7 | C |",
        line="4:D5 B4 D5 F5+ E5 2:C5",
        told=(Told(CHORDS, sources="4 of G Mixolydian, 2 of C major"),),
        events=("delay: 4 5",),
    ),
    Example(
        "a scale that runs through a change hangs over nothing",
        key="D minor",
        chart="| Dm7 G7 | Dm7 G7 |",
        line="8:D5 E5 F5 G5 A5 B5 C6 A5 B5 A5 G5 F5 4:E5 D5",
        told=(
            Told(CHORDS, sources="4 of D Dorian, 4 of G Mixolydian, 4 of D Dorian, 2 of G Mixolydian", unexplained=0),
            Told(HOME, sources="14 of D Dorian", unexplained=0),
        ),
        never=("delay", "anticipation"),
    ),
    # What half steps mean and don't
    Example(
        "a chromatic run is no minor third turned major",
        key="C major",
        chart="| G7 | C |",
        line="8:G4 G#4 A4 A#4 B4 C5 C#5 D5 2:E5",
        told=(
            Told(HOME, sources="9 of C major", unexplained=0),
            Told(TWO, sources="9 of C major pentatonic", unexplained=0),
        ),
        notes=(At(2, role="passing"), At(4, role="passing"), At(7, role="passing")),
        events=("target: 9",),
        never=("minor to major",),
    ),
    Example(
        "one ornament does not move home",
        key="C major",
        chart="| G7 |",
        line="4:D5 8:C5 Bb4 2:B4",
        told=(Told(HOME, sources="4 of C major", unexplained=0),),
        notes=(At(2, role="enclosure", in_chord="4"), At(3, role="enclosure", in_chord="b3"), At(4, in_chord="3")),
        events=("enclosure: 2 3 4",),
    ),
    Example(
        "the arpeggio a half step up and home through ornaments",
        key="D minor",
        chart="| Dm7 | Dm7 |",
        line="8:D5 F5 A5 C6 Eb5 Gb5 Bb5 Db6 2:C6 A5",
        told=(Told(CHORDS, unexplained=3),),
        notes=(At(5, role="clash"), At(6, role="clash"), At(9, role="chord tone")),
        events=("outside, then inside: 5 6 7 8 9", "sequence: 1 2 3 4 5 6 7 8"),
    ),
    # Figures
    Example(
        "thirds up the scale, told from the beat",
        key="C major",
        chart="| C | C |",
        line="8:C5 E5 D5 F5 E5 G5 F5 A5 4:G5",
        told=(Told(CHORDS, sources="9 of C major"),),
        events=("sequence: 1 2 3 4 5 6 7 8",),
    ),
    Example(
        "three notes down the scale come back to no pivot",
        key="C major",
        chart="| C | G7 |",
        line="8t:G5 F5 E5 F5 E5 D5 E5 D5 C5 D5 C5 B4 4:G4",
        told=(Told(CHORDS, sources="12 of C major, 1 of G Mixolydian"),),
        events=("sequence: 1 2 3 4 5 6 7 8 9 10 11 12",),
        never=("pivot",),
    ),
    Example(
        "a line that passes by is no enclosure",
        key="C major",
        chart="| Fm7 Bb7 | Cmaj7 |",
        line="8:Ab4 C5 Eb5 G5 F5 D5 Bb4 Ab4 1:G4",
        told=(
            Told(CHORDS, sources="4 of F Dorian, 4 of Bb Lydian dominant, 1 of C major", unexplained=0),
            Told(SHAPES, sources="4 of Abmaj7 arpeggio, 4 of Bb7 arpeggio, 1 of Cmaj7 arpeggio"),
        ),
        events=("guide tone: 8 9",),
        never=("enclosure",),
    ),
    # Names as the chord and the key spell them
    Example(
        "a diminished chord keeps its sharp name",
        key="C major",
        chart="| C#dim7 | Dm7 |",
        line="8:C#5 D#5 E5 F#5 G5 A5 Bb5 C6 1:A5",
        told=(Told(CHORDS, sources="8 of C# whole-half diminished, 1 of D Dorian", unexplained=0),),
        notes=(At(1, role="chord tone", in_chord="R"), At(2, role="passing"), At(7, in_chord="bb7")),
        events=("target: 9",),
    ),
    Example(
        "the third of the five chord in a minor key without flats",
        key="A minor",
        chart="| E7 | Am |",
        line="8:E5 F5 G#5 B5 D6 C6 B5 G#5 1:A5",
        told=(
            Told(CHORDS, sources="8 of E Phrygian dominant, 1 of A natural minor", unexplained=0),
            Told(SHAPES, sources="1 of E7 arpeggio, 7 of G#dim7 arpeggio, 1 of Am arpeggio", unexplained=0),
        ),
        notes=(
            At(2, role="tension", in_chord="b9"),
            At(3, in_chord="3", in_key="7"),
            At(6, role="passing", in_chord="b6"),
        ),
        events=("guide tone: 8 9",),
    ),
    Example(
        "no chord leaves the key",
        key="A minor",
        chart="| N.C. |",
        line="8:A4 C5 D#5 E5",
        told=(Told(TWO, sources="4 of A blues", unexplained=0),),
        notes=(At(1, role="scale tone"), At(3, role="blue note", in_key="b5")),
    ),
    # What is on the way, and what is only a pattern
    Example(
        "an accented note between two chord tones passes",
        key="C major",
        chart="| Dm7 |",
        line="8:D5 C#5 D5 F5 E5 D5 C5 A4",
        notes=(At(2, role="neighbour"), At(5, role="passing")),
    ),
    Example(
        "what rubs and gives way by a half step leans on the next",
        key="C major",
        chart="| C |",
        line="8:G4 C5 E5 C6 F5 E5 C5 G4 2:F5",
        notes=(At(5, role="approach from above"), At(9, role="clash")),
    ),
    Example(
        "the key's own flat six leans on the fifth where it is accented, and else colours",
        key="A minor",
        chart="| Am | Am |",
        line="4:A5 C6 F5 E5 4:A5 C6 8:A5 F5 4:C5",
        notes=(At(3, role="approach from above"), At(8, role="tension")),
    ),
    Example(
        "a major seventh held against a dominant's own is wrong, unless the tune is a blues",
        key="F major",
        chart="| C7 |",
        line="4:E5 G5 2:B5",
        notes=(At(3, role="clash"),),
    ),
    Example(
        "a strange note a half step under a chord tone leads up to it, and going down passes",
        key="F major",
        chart="| Fmaj7 | C7 |",
        line="8:A4 B4 C5 E5 4:C5 A4 8:Bb4 Ab4 G4 E4 2:G4",
        notes=(At(2, role="approach from below"), At(8, role="passing")),
    ),
    Example(
        "a half step from outside closes an enclosure on whatever beat",
        key="C major",
        chart="| Am7 |",
        line="8:A4 C5 E5 F5 D#5 E5 G5 E5 2:C5",
        notes=(At(4, role="enclosure"), At(5, role="enclosure")),
    ),
    Example(
        "a phrase opens with a leading tone",
        key="D minor",
        chart="| Dm |",
        line="8:C#5 D5 F5 E5 D5 A4 4:D5",
        notes=(At(1, role="approach from below"),),
        events=("approach: 1 2",),
    ),
    Example(
        "broken thirds of the key aim at nothing",
        key="C major",
        chart="| C |",
        line="8:C5 E5 D5 F5 E5 G5 F5 A5 2:G5",
        events=("sequence: 1 2 3 4 5 6 7 8",),
        never=("approach", "enclosure"),
    ),
    Example(
        "a leap from a pivot displaces nothing",
        key="A minor",
        chart="| Am |",
        line="8:A5 E5 A5 D5 A5 C5 A5 B4 2:C5",
        events=("pivot: 1 3 5 7",),
        never=("octave displacement",),
    ),
)
