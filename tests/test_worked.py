"""Worked examples: invented phrases whose sources, roles and events were reasoned out on paper first."""

import unittest
from dataclasses import dataclass, field
from itertools import groupby

from eager_owl.reasons.explain import Reading, explain, read_line
from eager_owl.reasons.schools import reason_schools
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.key import parse_key
from tests.worked import written


@dataclass(frozen=True)
class Example:
    """A line and what is expected: per school its spans as "name*count" (">" ahead of its chord, "<" behind), its
    unexplained notes; roles, intervals to the chord and to the key by note number; events as (kind, note numbers)."""

    name: str
    key: str
    chart: str
    line: str
    spans: dict[str, str] = field(default_factory=dict)
    unexplained: dict[str, int] = field(default_factory=dict)
    roles: dict[int, str] = field(default_factory=dict)
    chord: dict[int, str] = field(default_factory=dict)
    tonic: dict[int, str] = field(default_factory=dict)
    events: tuple[tuple[str, tuple[int, ...]], ...] = ()
    never: tuple[str, ...] = ()
    beats: int = 4


TWO, HOME, CHORDS, SHAPES, CELL = "two-pentatonics", "home-and-chord-tones", "chord-by-chord", "shapes", "root-cell"

EXAMPLES = (
    # Two pentatonics
    Example(
        "plain minor pentatonic",
        "F minor",
        "| Fm7 |",
        "8:F4 Ab4 Bb4 C5 Eb5 C5 4:F5",
        {TWO: "F minor pentatonic*7"},
        {TWO: 0},
        {1: "chord tone", 3: "passing"},
        {3: "4", 5: "b7"},
    ),
    Example(
        "blues with both thirds",
        "A major",
        "| A7 | D7 | A7 | E7 |",
        "8:A4 C5 C#5 E5 F#5 E5 C#5 A4 C5 A4 G4 E4 4:D4",
        {TWO: "A major blues*8 A minor pentatonic*5", CHORDS: "A Mixolydian*8 D Mixolydian*5"},
        {TWO: 0, CHORDS: 0},
        {2: "blue note", 3: "chord tone"},
        {2: "b3", 3: "3", 9: "b7"},
        {2: "b3", 3: "3"},
        (("minor to major", (2, 3)), ("target", (9,))),
    ),
    Example(
        "the flat five between four and five",
        "E minor",
        "| Em7 |",
        "8:E4 G4 A4 Bb4 B4 D5 4:E5",
        {TWO: "E blues*7"},
        {TWO: 0},
        {4: "blue note"},
        {4: "b5"},
        {4: "b5"},
    ),
    Example(
        "major pentatonic under its own name and home",
        "C major",
        "| C | Am |",
        "8:C5 D5 E5 G5 A5 G5 E5 D5 C5 A4 G4 E4 A4+++",
        {TWO: "C major pentatonic*13", HOME: "C major*13", CHORDS: "C major*8 A natural minor*5"},
        {TWO: 0},
        {2: "passing", 5: "neighbour"},
        {9: "b3"},
        {9: "R", 10: "6"},
        (("target", (9,)),),
    ),
    Example(
        "minor third pushed to the major one by a bend",
        "G major",
        "| G7 |",
        "4:G4 Bb4^1 D5 G5",
        {TWO: "G major pentatonic*4"},
        {TWO: 0},
        {2: "chord tone"},
        {2: "b3"},
        {2: "b3"},
        (("minor to major", (2,)),),
    ),
    Example(
        "a scale is more than two pentatonics",
        "E minor",
        "| Em |",
        "8:E4 F#4 G4 A4 B4 C5 D5 E5 2:B4",
        {HOME: "E natural minor*9", CHORDS: "E natural minor*9", TWO: "E minor pentatonic*9"},
        {TWO: 2, HOME: 0},
        {2: "passing", 6: "passing"},
        {6: "b6"},
        {2: "2", 7: "b7"},
    ),
    # The third of the one chord over four and five
    Example(
        "third of one clashes on four and is the thirteenth on five",
        "C major",
        "| C7 | F7 | G7 |",
        "1:E4 E4 E4",
        {TWO: "C major pentatonic*3"},
        {CHORDS: 1},
        {1: "chord tone", 2: "clash", 3: "tension"},
        {1: "3", 2: "7", 3: "13"},
        {1: "3", 2: "3", 3: "3"},
        never=("anticipation",),
    ),
    # Altered lines, ahead of the chord and behind it
    Example(
        "altered line begun two beats early",
        "F major",
        "| Gm7 | C7 | Fmaj7 |",
        "8:G4 A4 Bb4 D5 Eb5 Db5 Bb4 Ab4 Gb4 E4 Db4 Eb4 Gb4 Ab4 4:Bb4 1:A4",
        {CHORDS: "G Dorian*4 C altered>*4 C altered*7 F major*1"},
        {CHORDS: 0},
        {5: "tension", 7: "chord tone", 9: "tension"},
        {5: "b6", 9: "#11", 10: "3", 11: "b9", 12: "#9"},
        {},
        (("anticipation", (5, 6, 7, 8)), ("guide tone", (15, 16))),
    ),
    Example(
        "altered line that lasts past its chord",
        "F minor",
        "| C7alt | Fm7 |",
        "8:C5 Db5 Eb5 E5 Gb5 Ab5 Bb5 Ab5 Gb5 E5 4:F5 8:Eb5 C5",
        {CHORDS: "C altered*8 C altered<*2 F natural minor*3"},
        {CHORDS: 0},
        {9: "chord tone"},
        {2: "b9", 3: "#9"},
        {},
        (("delay", (9, 10)), ("enclosure", (9, 10, 11))),
    ),
    Example(
        "melodic minor run under both names",
        "C minor",
        "| G7alt | Cm7 |",
        "8:G4 Ab4 Bb4 B4 Db5 Eb5 F5 G5 2:C5",
        {CHORDS: "G altered*8 C natural minor*1"},
        {CHORDS: 0},
        {2: "chord tone", 5: "chord tone"},
        {2: "b9", 3: "#9", 4: "3", 5: "b5", 6: "#5"},
        {4: "7"},
        (("target", (9,)),),
    ),
    Example(
        "Lydian dominant on a plain seventh chord wants two signs",
        "C major",
        "| F7 |",
        "8:F4 G4 A4 B4 C5 B4 A4 G4 2:F4",
        {CHORDS: "F Lydian dominant*9"},
        {CHORDS: 0},
        {4: "passing"},
        {4: "#4"},
    ),
    # A phrase that begins on its chord and is ahead of the next from its third note on
    Example(
        "ahead from the note that asks for it",
        "C major",
        "| Cmaj7 A7 | Dm7 |",
        "8:E5 G5 C#5 Bb4 A4 G4 C#5 E5 4:F5",
        {CHORDS: "C major*2 A Phrygian dominant>*2 A Phrygian dominant*4 D Dorian*1"},
        {CHORDS: 0},
        {3: "chord tone"},
        {3: "b2", 9: "b3"},
        {},
        (("anticipation", (3, 4)),),
    ),
    Example(
        "one stray half step does not make a scale",
        "C major",
        "| G7 |",
        "8:G4 B4 D5 F5 D5 C#5 D5 B4 2:G4",
        {CHORDS: "G Mixolydian*9"},
        {CHORDS: 0},
        {6: "neighbour"},
        {6: "b5"},
    ),
    Example(
        "whole tone on a five",
        "C major",
        "| G7#5 | Cmaj7 |",
        "8:G4 A4 B4 C#5 D#5 F5 D#5 C#5 2:C5",
        {CHORDS: "G whole tone*8 C major*1"},
        {CHORDS: 0},
        {},
        {5: "#5"},
    ),
    Example(
        "half-whole diminished",
        "C minor",
        "| G7b9 | Cm |",
        "8:G4 Ab4 Bb4 B4 C#5 D5 E5 F5 2:Eb5",
        {CHORDS: "G half-whole diminished*8 C natural minor*1"},
        {CHORDS: 0},
        {},
        {2: "b9", 3: "#9", 5: "#11", 7: "13"},
        {},
        (("guide tone", (8, 9)),),
    ),
    # Each chord its own
    Example(
        "two five one in minor",
        "F minor",
        "| Gm7b5 | C7 | Fm7 |",
        "8:G4 Bb4 Db5 F5 Eb5 Db5 C5 Bb4 4:E4 G4 Bb4 Db5 1:C5",
        {CHORDS: "G Locrian*8 C Phrygian dominant*4 F natural minor*1"},
        {CHORDS: 0},
        {7: "passing", 12: "tension"},
        {3: "b5", 9: "3", 12: "b9"},
        {9: "7"},
        (("target", (9,)),),
    ),
    Example(
        "two five one in major with guide tones",
        "C major",
        "| Dm7 | G7 | Cmaj7 |",
        "8:D5 E5 F5 A5 C6 A5 F5 C5 B4 D5 F5 A5 G5 D5 4:F5 1:E5",
        {CHORDS: "D Dorian*8 G Mixolydian*7 C major*1", HOME: "C major*16"},
        {CHORDS: 0, HOME: 0},
        {2: "passing", 9: "chord tone"},
        {8: "b7", 9: "3", 15: "b7", 16: "3"},
        {},
        (("guide tone", (8, 9)), ("guide tone", (15, 16))),
    ),
    Example(
        "Lydian on the four",
        "C major",
        "| Fmaj7 |",
        "8:F4 G4 A4 B4 C5 E5 4:F5",
        {CHORDS: "F Lydian*7"},
        {CHORDS: 0},
        {4: "passing"},
        {4: "#4"},
    ),
    Example(
        "Dorian on the four of a minor key",
        "A minor",
        "| Dm7 |",
        "8:D4 E4 F4 G4 A4 B4 C5 D5",
        {CHORDS: "D Dorian*8", HOME: "A natural minor*8"},
        {CHORDS: 0},
        {6: "passing"},
        {6: "6"},
        {6: "2"},
    ),
    Example(
        "melodic minor on a minor six",
        "F minor",
        "| Bbm6 |",
        "8:Bb4 C5 Db5 Eb5 F5 G5 A5 Bb5",
        {CHORDS: "Bb melodic minor*8"},
        {CHORDS: 0},
        {6: "chord tone"},
        {6: "6", 7: "7"},
    ),
    Example(
        "diminished chord",
        "F minor",
        "| Bdim7 |",
        "8:B4 C#5 D5 E5 F5 G5 Ab5 Bb5",
        {CHORDS: "B whole-half diminished*8"},
        {CHORDS: 0},
        {3: "chord tone"},
        {3: "b3", 7: "bb7"},
    ),
    Example(
        "harmonic minor home over its five",
        "A minor",
        "| Am | E7 | Am |",
        "8:A4 B4 C5 E5 D5 C5 B4 A4 G#4 B4 D5 F5 E5 D5 B4 G#4 2:A4",
        {CHORDS: "A natural minor*8 E Phrygian dominant*8 A natural minor*1", HOME: "A natural minor*17"},
        {HOME: 0, CHORDS: 0},
        {9: "chord tone"},
        {9: "3", 12: "b2"},
        {9: "7", 12: "b6"},
        (("guide tone", (16, 17)),),
    ),
    # A minor blues and the note that the four chord changes
    Example(
        "minor blues aims at the note the four chord changes",
        "A minor",
        "| Am | Dm | E7 |",
        "8:E5 C5 A4 G#4 A4 B4 C5 E5 4:F5 8:E5 D5 F5 D5 4:A4 8:G#4 B4 D5 F5 E5 D5 4:B4",
        {CHORDS: "A harmonic minor*8 D Dorian*6 E Phrygian dominant*7"},
        {CHORDS: 0},
        {4: "neighbour", 9: "chord tone"},
        {4: "7", 9: "b3"},
        {4: "7", 9: "b6"},
        (("target", (9,)),),
    ),
    # Shapes
    Example(
        "two arpeggios a step apart, one note altered to stay in key",
        "F major",
        "| Dm7 |",
        "8:D4 F4 A4 D5 E4 G4 Bb4 E5",
        {SHAPES: "Dm7 arpeggio*4 Edim arpeggio*4"},
        {SHAPES: 0},
        {1: "chord tone"},
        {7: "b6"},
        {7: "4"},
        (("sequence", (1, 2, 3, 4, 5, 6, 7, 8)),),
    ),
    Example(
        "the arpeggio on the third of the chord",
        "C major",
        "| Dm7 |",
        "8:F4 A4 C5 E5 C5 A4 4:F4",
        {SHAPES: "Fmaj7 arpeggio*7"},
        {SHAPES: 0},
        {1: "chord tone", 4: "tension"},
        {4: "2"},
    ),
    Example(
        "a shape with half steps into it",
        "C major",
        "| Cmaj7 |",
        "8:B4 ~C5 D#5 ~E5 F#5 ~G5 4:B5",
        {SHAPES: "Cmaj7 arpeggio*7"},
        {SHAPES: 0},
        {3: "approach from below", 5: "approach from below"},
        {3: "b3"},
        {},
        (("approach", (3, 4)), ("approach", (5, 6))),
    ),
    Example(
        "diminished seventh on the third of a dominant",
        "F minor",
        "| C7 |",
        "8:E4 G4 Bb4 Db5 E5 Db5 Bb4 G4",
        {SHAPES: "Edim7 arpeggio*8"},
        {SHAPES: 0},
        {4: "tension"},
        {4: "b9"},
    ),
    # The root cell
    Example(
        "root cell in two octaves",
        "A minor",
        "| Am7 |",
        "8:G4 A4 C5 D5^2 C5 A4 G4 A4 G5 A5 C6 D6^2 C6 A5 4:A5",
        {CELL: "A root cell*8 A root cell*7", TWO: "A minor pentatonic*15"},
        {CELL: 0},
        {4: "chord tone"},
        {4: "4"},
        {4: "4"},
        (("repeat", (1, 2, 3, 4, 5, 6, 7, 9, 10, 11, 12, 13, 14, 15)),),
    ),
    Example(
        "home moves from root to root",
        "A minor",
        "| Am7 | Dm7 |",
        "8:G4 A4 C5 D5^2 C5 A4 4:A4 8:C5 D5 F5 G5^2 F5 D5 4:D5",
        {CELL: "A root cell*7 D root cell*7"},
        {CELL: 0},
        {10: "chord tone"},
        {9: "R"},
    ),
    # Approaches and ornaments
    Example(
        "chromatic approaches by slide",
        "C major",
        "| C7 |",
        "8:D#4 ~E4 F#4 ~G4 B4 ~C5 4:E5",
        {CHORDS: "C Mixolydian*7"},
        {CHORDS: 0, TWO: 0},
        {1: "approach from below", 3: "approach from below", 5: "approach from below"},
        {1: "b3", 2: "3"},
        {},
        (("approach", (1, 2)), ("approach", (3, 4)), ("approach", (5, 6))),
    ),
    Example(
        "enclosure of the root",
        "C major",
        "| Cmaj7 |",
        "4:G4 E4 G4 8:D5 B4 4:C5",
        {CHORDS: "C major*6"},
        {CHORDS: 0},
        {4: "enclosure"},
        {},
        {},
        (("enclosure", (4, 5, 6)),),
    ),
    Example(
        "chromatic enclosure of the third",
        "F major",
        "| Fmaj7 |",
        "4:F4 C5 8:Bb4 G#4 4:A4",
        {CHORDS: "F major*5"},
        {CHORDS: 0},
        {3: "enclosure", 4: "enclosure"},
        {4: "b3", 5: "3"},
        {},
        (("enclosure", (3, 4, 5)),),
    ),
    Example(
        "upper neighbour",
        "C major",
        "| C |",
        "8:G4 A4 G4 E4 2:C4",
        {CHORDS: "C major*5"},
        {},
        {2: "neighbour"},
        {2: "6"},
    ),
    Example(
        "approach from above",
        "G major",
        "| G7 |",
        "8:D4 G4 C#5 C5 4:B4 2:G4",
        {},
        {},
        {5: "chord tone", 4: "passing"},
        {4: "4"},
    ),
    Example(
        "a chromatic run is a source of its own",
        "C major",
        "| C7 |",
        "8:G4 G#4 A4 A#4 B4 C5 4:E5",
        {CHORDS: "chromatic*5 C Mixolydian*2", TWO: "chromatic*5 C major pentatonic*2"},
        {CHORDS: 0, TWO: 0},
        {2: "passing"},
    ),
    # What happens in the line
    Example(
        "common tone held and turned",
        "C minor",
        "| Abmaj7 | D7 | Gm7 |",
        "2:Eb5 2:C5+ 4:A4 F#4 1:G4",
        {},
        {},
        {2: "chord tone"},
        {2: "3"},
        {},
        (("common tone", (2,)), ("guide tone", (4, 5))),
    ),
    Example(
        "common tone struck again",
        "F minor",
        "| Fm7 | Dbmaj7 |",
        "2:F5 4:Eb5 C5 1:C5",
        {},
        {},
        {4: "chord tone"},
        {3: "5", 4: "7"},
        {},
        (("common tone", (3, 4)),),
    ),
    Example(
        "pivot line",
        "A minor",
        "| Am7 |",
        "8:E4 A4 E4 B4 E4 C5 E4 D5 2:E5",
        {CHORDS: "A natural minor*9"},
        {CHORDS: 0},
        {4: "tension"},
        {4: "2", 8: "4"},
        {},
        (("pivot", (1, 3, 5, 7)),),
    ),
    Example(
        "sequence within the scale",
        "A minor",
        "| Am7 |",
        "8:A4 B4 C5 A4 B4 C5 D5 B4 C5 D5 E5 C5 2:A4",
        {CHORDS: "A natural minor*13"},
        {CHORDS: 0},
        {2: "passing"},
        {},
        {},
        (("sequence", (1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12)),),
    ),
    Example(
        "a scale straight on is no sequence",
        "C major",
        "| C |",
        "8:C4 D4 E4 F4 G4 A4 B4 C5",
        {CHORDS: "C major*8"},
        {},
        never=("sequence", "repeat", "pivot"),
    ),
    Example(
        "octave displacement",
        "C major",
        "| Cmaj7 |",
        "8:C4 D4 E5 F5 G5 A5 2:G5",
        {CHORDS: "C major*7"},
        {CHORDS: 0},
        {4: "passing", 6: "neighbour"},
        {},
        {},
        (("octave displacement", (2, 3)),),
    ),
    Example(
        "outside, then inside",
        "D minor",
        "| Dm7 |",
        "4:D5 8:F5 A5 4:Eb5 F#5 2:E5+ 2:F5",
        {},
        {CHORDS: 2},
        {4: "clash", 5: "clash"},
        {4: "b2", 5: "3"},
        {},
        (),
    ),
    Example(
        "a push belongs to the next chord",
        "F minor",
        "| C7 | Fm7 |",
        "4:E5 G5 Bb4 8:C5 F5++ Ab4 2:C5",
        {CHORDS: "C Phrygian dominant*4 F natural minor*3"},
        {CHORDS: 0},
        {5: "chord tone"},
        {5: "R"},
        {},
        (("anticipation", (5,)), ("target", (5,))),
    ),
    Example(
        "a figure that comes again, one note changed",
        "A minor",
        "| Am7 |",
        "8:A4 C5 E5 D5 C5 A4 4:G4 2:r 8:A4 C5 E5 D5 B4 A4 4:G4",
        {},
        {},
        {},
        {},
        {},
        (("repeat", (1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14)),),
    ),
    Example(
        "waltz time, two chords to the bar",
        "F minor",
        "| Bbm7 | Gm7b5 / C7 | Fm7 |",
        "4:Db5 F5 Ab5 G5 Bb5 E5 2.:F5",
        {CHORDS: "Bb Dorian*3 G Locrian*2 C Phrygian dominant*1 F natural minor*1"},
        {CHORDS: 0},
        {6: "chord tone"},
        {5: "b3", 6: "3", 7: "R"},
        {},
        (("guide tone", (6, 7)),),
        beats=3,
    ),
    # What hangs over, and what only seems to
    Example(
        "the seventh struck again as its chord has gone",
        "C major",
        "| G7 | C |",
        "4:D5 B4 8:G4 B4 D5 F5 4:F5 E5 2:C5",
        {CHORDS: "G Mixolydian*6 C major*3", SHAPES: "G7 arpeggio*6 C arpeggio*3"},
        {CHORDS: 0, SHAPES: 0},
        {7: "approach from above"},
        {7: "4", 8: "3"},
        events=(("delay", (7, 8)),),
        never=("approach", "guide tone"),
    ),
    Example(
        "the seventh held over the change",
        "C major",
        "| G7 | C |",
        "4:D5 B4 D5 F5+ E5 2:C5",
        {CHORDS: "G Mixolydian*4 C major*2"},
        events=(("delay", (4, 5)),),
    ),
    Example(
        "a scale that runs through a change hangs over nothing",
        "D minor",
        "| Dm7 G7 | Dm7 G7 |",
        "8:D5 E5 F5 G5 A5 B5 C6 A5 B5 A5 G5 F5 4:E5 D5",
        # Four notes could be natural minor, but the chord comes again with a B: it keeps one scale.
        {CHORDS: "D Dorian*4 G Mixolydian*4 D Dorian*4 G Mixolydian*2", HOME: "D Dorian*14"},
        {CHORDS: 0, HOME: 0},
        never=("delay", "anticipation"),
    ),
    # What half steps mean and don't
    Example(
        "a chromatic run is no minor third turned major",
        "C major",
        "| G7 | C |",
        "8:G4 G#4 A4 A#4 B4 C5 C#5 D5 2:E5",
        {HOME: "C major*9", TWO: "chromatic*8 C major pentatonic*1"},
        {HOME: 0},
        {2: "passing", 4: "passing", 7: "passing"},
        events=(("target", (9,)),),
        never=("minor to major",),
    ),
    Example(
        "one ornament does not move home",
        "C major",
        "| G7 |",
        "4:D5 8:C5 Bb4 2:B4",
        {HOME: "C major*4"},
        {HOME: 0},
        {2: "enclosure", 3: "enclosure"},
        {2: "4", 3: "b3", 4: "3"},
        events=(("enclosure", (2, 3, 4)),),
    ),
    Example(
        "the arpeggio a half step up and home through ornaments",
        "D minor",
        "| Dm7 | Dm7 |",
        "8:D5 F5 A5 C6 Eb5 Gb5 Bb5 Db6 2:C6 A5",
        {},
        {CHORDS: 3},
        {5: "clash", 6: "clash", 9: "chord tone"},
        events=(("outside, then inside", (5, 6, 7, 8, 9)), ("sequence", (1, 2, 3, 4, 5, 6, 7, 8))),
    ),
    # Figures
    Example(
        "thirds up the scale, told from the beat",
        "C major",
        "| C | C |",
        "8:C5 E5 D5 F5 E5 G5 F5 A5 4:G5",
        {CHORDS: "C major*9"},
        events=(("sequence", (1, 2, 3, 4, 5, 6, 7, 8)),),
    ),
    Example(
        "three notes down the scale come back to no pivot",
        "C major",
        "| C | G7 |",
        "8t:G5 F5 E5 F5 E5 D5 E5 D5 C5 D5 C5 B4 4:G4",
        {CHORDS: "C major*12 G Mixolydian*1"},
        events=(("sequence", tuple(range(1, 13))),),
        never=("pivot",),
    ),
    Example(
        "a line that passes by is no enclosure",
        "C major",
        "| Fm7 Bb7 | Cmaj7 |",
        "8:Ab4 C5 Eb5 G5 F5 D5 Bb4 Ab4 1:G4",
        {CHORDS: "F Dorian*4 Bb Mixolydian*4 C major*1", SHAPES: "Abmaj7 arpeggio*4 Bb7 arpeggio*4 Cmaj7 arpeggio*1"},
        {CHORDS: 0},
        events=(("guide tone", (8, 9)),),
        never=("enclosure",),
    ),
    # Names as the chord and the key spell them
    Example(
        "a diminished chord keeps its sharp name",
        "C major",
        "| C#dim7 | Dm7 |",
        "8:C#5 D#5 E5 F#5 G5 A5 Bb5 C6 1:A5",
        {CHORDS: "C# whole-half diminished*8 D Dorian*1"},
        {CHORDS: 0},
        {1: "chord tone", 2: "passing"},
        {1: "R", 7: "bb7"},
        events=(("target", (9,)),),
    ),
    Example(
        "the third of the five chord in a minor key without flats",
        "A minor",
        "| E7 | Am |",
        "8:E5 F5 G#5 B5 D6 C6 B5 G#5 1:A5",
        {CHORDS: "E Phrygian dominant*8 A natural minor*1", SHAPES: "E7 arpeggio*1 G#dim7 arpeggio*7 Am arpeggio*1"},
        {CHORDS: 0, SHAPES: 0},
        {2: "tension", 6: "passing"},
        {2: "b9", 3: "3", 6: "b6"},
        {3: "7"},
        (("guide tone", (8, 9)),),
    ),
    Example(
        "no chord leaves the key",
        "A minor",
        "| N.C. |",
        "8:A4 C5 D#5 E5",
        {TWO: "A blues*4"},
        {TWO: 0},
        {1: "scale tone", 3: "blue note"},
        {},
        {3: "b5"},
    ),
)


def spans_of(example: Example, reading: Reading, school: str) -> tuple[str, int]:
    """The spans as text, and how many notes are unexplained."""
    grid = BeatGrid(120, 0.0, example.beats)
    notes = written(example.line, 0.0, grid)
    key, chart = parse_key(example.key), parse_chart(example.chart)
    told = explain(notes, key, chart, grid, reason_schools()[school], reading)
    spans = []
    for (source, lead), group in groupby(told.reasons, key=lambda reason: (reason.source, reason.lead)):
        name = source.name if source else "nothing"
        spans.append(f"{name}{('', '>', '<')[lead]}*{len(list(group))}")
    return " ".join(spans), told.unexplained


class Worked(unittest.TestCase):
    def test_there_are_forty_and_more(self) -> None:
        self.assertGreaterEqual(len(EXAMPLES), 40)
        self.assertEqual({school for example in EXAMPLES for school in example.spans}, set(reason_schools()))

    def test_examples(self) -> None:
        for example in EXAMPLES:
            grid = BeatGrid(120, 0.0, example.beats)
            notes = written(example.line, 0.0, grid)
            reading = read_line(notes, parse_key(example.key), parse_chart(example.chart), grid)
            with self.subTest(example.name):
                for school, spans in example.spans.items():
                    self.assertEqual(spans_of(example, reading, school)[0], spans, school)
                for school, count in example.unexplained.items():
                    self.assertEqual(spans_of(example, reading, school)[1], count, school)
                self.assertEqual({n: reading.roles[n - 1] for n in example.roles}, example.roles)
                found = [(event.kind, tuple(i + 1 for i in event.notes)) for event in reading.events]
                for event in example.events:
                    self.assertIn(event, found)
                self.assertFalse({kind for kind, _ in found} & set(example.never))

    def test_intervals_are_the_same_in_all_schools(self) -> None:
        from eager_owl.theory.scale import degree_semitones

        for example in EXAMPLES:
            grid = BeatGrid(120, 0.0, example.beats)
            notes = written(example.line, 0.0, grid)
            key, chart = parse_key(example.key), parse_chart(example.chart)
            reading = read_line(notes, key, chart, grid)
            told = {
                name: explain(notes, key, chart, grid, school, reading) for name, school in reason_schools().items()
            }
            with self.subTest(example.name):
                reasons = told[CHORDS].reasons
                self.assertEqual({n: reasons[n - 1].interval_chord for n in example.chord}, example.chord)
                self.assertEqual({n: reasons[n - 1].interval_key for n in example.tonic}, example.tonic)
                sizes = {
                    tuple(degree_semitones(r.interval_chord) if r.interval_chord else None for r in each.reasons)
                    for each in told.values()
                }
                self.assertEqual(len(sizes), 1)
