"""Passages with what a player says of them, written down before they were run: where they come from, what notes do.

./run-benchmarks passages

Lines are written as in `tests/worked.py`. `source` names what a player may call the bulk of a passage, one name or
more that would do; `roles` what single notes do; `events` what must be found, as "kind: its notes".
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from tests.worked import written

from eager_owl.reasons.explain import explain_by_all, read_line
from eager_owl.reasons.roles import Role
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.key import parse_key


@dataclass(frozen=True)
class Passage:
    """A line over its chords, and what is said of it; notes are counted from 1."""

    name: str
    key: str
    chart: str
    line: str
    source: tuple[str, ...]
    roles: dict[int, str] = field(default_factory=dict)
    events: tuple[str, ...] = ()
    beats: int = 4


PASSAGES = (
    # Blues
    Passage(
        "minor pentatonic over the one chord",
        "A blues",
        "| A7 |",
        "8:A4 C5 D5 E5 G5 E5 D5 C5 4:A4",
        ("A minor pentatonic",),
        {1: "chord tone", 4: "chord tone", 5: "chord tone"},
    ),
    Passage(
        "blue note on the way down",
        "A blues",
        "| A7 |",
        "4:E5 8:Eb5 D5 C5 A4 4:G4 4:A4",
        ("A blues",),
        {2: "blue note", 1: "chord tone"},
    ),
    Passage(
        "both thirds",
        "A blues",
        "| A7 |",
        "8:C5 C#5 E5 A5 G5 E5 D5 C5 4:A4",
        ("A minor pentatonic",),
        {2: "chord tone"},
        ("minor to major: 1 2",),
    ),
    Passage(
        "major blues",
        "G blues",
        "| G7 |",
        "8:G4 A4 Bb4 B4 D5 E5 G5 E5 4:D5",
        ("G major pentatonic", "G major blues"),
        {2: "tension", 4: "chord tone"},
        ("minor to major: 3 4",),
    ),
    Passage(
        "minor pentatonic with the sixth",
        "C blues",
        "| F7 |",
        "8:C5 Eb5 F5 A5 G5 F5 Eb5 C5 4:Bb4",
        ("C minor pentatonic",),
        {4: "chord tone", 2: "chord tone"},
    ),
    Passage(
        "four chord met by its third",
        "E blues",
        "| E7 | A7 |",
        "8:E5 G5 A5 B5 D5 B4 A4 G4 4:C#5 8:E5 C#5 4:A4",
        ("E minor pentatonic",),
        {9: "chord tone"},
        ("target: 9",),
    ),
    Passage(
        "turnaround in the home scale",
        "A blues",
        "| E7 | D7 | A7 | E7 |",
        "8:E5 G5 E5 D5 C5 D5 C5 A4 8:D5 C5 A4 G4 A4 C5 A4 G4 4:A4",
        ("A minor pentatonic",),
    ),
    Passage(
        "minor blues",
        "D minor",
        "| Dm7 | Gm7 |",
        "8:D5 F5 G5 A5 C6 A5 G5 F5 4:D5 8:F5 D5 4:C5",
        ("D minor pentatonic",),
        {2: "chord tone", 4: "chord tone"},
    ),
    # Modes and keys
    Passage(
        "Dorian sixth",
        "E Dorian",
        "| Em7 | A7 |",
        "8:E4 F#4 G4 A4 B4 C#5 D5 E5 4:C#5 8:B4 A4 4:G4",
        ("E Dorian",),
        {9: "chord tone"},
    ),
    Passage(
        "Mixolydian",
        "G Mixolydian",
        "| G | F | C | G |",
        "8:G4 A4 B4 C5 D5 E5 F5 D5 8:C5 A4 F4 A4 4:C5 4:A4 8:E5 D5 C5 B4 4:C5 4:D5 2:B4",
        ("G Mixolydian",),
    ),
    Passage("Phrygian", "E Phrygian", "| Em | F |", "8:E4 F4 G4 A4 B4 C5 D5 B4 4:C5 8:A4 F4 2:G4", ("E Phrygian",)),
    Passage(
        "plain major",
        "D major",
        "| D | G | A | D |",
        "8:D5 E5 F#5 G5 A5 F#5 E5 D5 4:B4 8:C#5 D5 4:G5 F#5 8:E5 C#5 D5 E5 4:C#5 A4 2:D5",
        ("D major",),
    ),
    Passage(
        "natural minor",
        "B minor",
        "| Bm | G | A | Bm |",
        "8:B4 C#5 D5 E5 F#5 D5 C#5 B4 4:G4 8:A4 B4 4:D5 B4 8:C#5 D5 E5 C#5 4:A4 C#5 2:B4",
        ("B natural minor", "B minor"),
    ),
    Passage(
        "major pentatonic",
        "C major",
        "| C | Am | F | G |",
        "8:C5 D5 E5 G5 A5 G5 E5 D5 4:C5 8:A4 C5 4:E5 D5 8:C5 A4 C5 D5 4:E5 C5 8:D5 E5 4:G5 2:D5",
        ("C major pentatonic", "A minor pentatonic"),
    ),
    Passage(
        "harmonic minor at the five",
        "A minor",
        "| Dm | E7 | Am |",
        "8:F5 E5 D5 A4 D5 E5 F5 D5 8:E5 G#5 B5 A5 G#5 F5 E5 D5 2:C5",
        ("A harmonic minor", "E Phrygian dominant"),
        {10: "chord tone"},
        ("guide tone: 16 17",),
    ),
    # Changes
    Passage(
        "guide tones of two five one",
        "C major",
        "| Dm7 | G7 | Cmaj7 |",
        "4:D5 8:F5 A5 4:C6 8:A5 C6 4:B5 8:G5 F5 4:D5 8:B4 F5 2:E5",
        ("C major", "D Dorian", "Dm7 arpeggio"),
        {7: "chord tone"},
        ("guide tone: 6 7", "guide tone: 12 13"),
    ),
    Passage(
        "arpeggio of each chord",
        "G major",
        "| Am7 | D7 | Gmaj7 |",
        "8:A4 C5 E5 G5 E5 C5 A4 C5 8:D5 F#5 A5 C6 A5 F#5 D5 C5 4:B4 D5 2:G5",
        ("Am7 arpeggio",),
        {10: "chord tone"},
        ("guide tone: 16 17",),
    ),
    Passage(
        "altered dominant",
        "F minor",
        "| C7alt | Fm7 |",
        "8:E5 Eb5 Db5 Bb4 Ab4 Gb4 E4 Db5 2:C5",
        ("C altered",),
        {2: "tension", 3: "tension"},
    ),
    Passage(
        "Lydian dominant on the two",
        "C major",
        "| D7 | Dm7 |",
        "8:D5 E5 F#5 G#5 A5 G#5 F#5 E5 4:F5 8:D5 A4 4:C5",
        ("D Lydian dominant",),
        {4: "tension"},
        ("target: 9",),
    ),
    Passage(
        "diminished on the third of the five",
        "D minor",
        "| A7 | Dm7 |",
        "8:C#5 E5 G5 Bb5 G5 E5 C#5 Bb4 2:A4",
        ("C#dim7 arpeggio", "A Phrygian dominant", "D harmonic minor"),
        {4: "tension", 1: "chord tone"},
    ),
    Passage(
        "enclosure of the third",
        "F major",
        "| C7 | Fmaj7 |",
        "4:C5 8:E5 G5 Bb5 G5 Bb4 G#4 2:A4 2:C5",
        ("C7 arpeggio", "C Mixolydian", "F major"),
        {6: "enclosure", 7: "enclosure"},
        ("enclosure: 6 7 8",),
    ),
    Passage(
        "half step from below",
        "Bb major",
        "| Bbmaj7 | Cm7 |",
        "8:C#5 D5 F5 A5 F#5 G5 F5 D5 8:D5 Eb5 G5 Bb5 2:G5",
        ("Bbmaj7 arpeggio", "Bb major"),
        {1: "approach from below"},
        ("approach: 1 2",),
    ),
    Passage(
        "two five ahead of itself",
        "C major",
        "| Dm7 | G7 | Cmaj7 |",
        "8:D5 F5 A5 C6 B5 G5 F5 D5 8:B4 D5 F5 A5 G5 F5 D5 B4 2:C5",
        ("C major", "D Dorian", "Dm7 arpeggio"),
    ),
    Passage(
        "minor two five",
        "D minor",
        "| Em7b5 | A7 | Dm7 |",
        "8:E5 G5 Bb5 D6 Bb5 G5 E5 D5 8:C#5 E5 G5 Bb5 A5 G5 E5 C#5 2:D5",
        ("D harmonic minor", "Em7b5 arpeggio", "E Locrian"),
        {9: "chord tone", 12: "tension"},
        ("guide tone: 8 9",),
    ),
    Passage(
        "borrowed four minor",
        "G major",
        "| C | Cm | G |",
        "8:E5 D5 C5 G4 C5 D5 E5 C5 8:Eb5 D5 C5 G4 Eb5 D5 C5 Eb5 2:D5",
        ("G major", "C major", "C Lydian"),
        {9: "chord tone"},
        ("target: 9",),
    ),
    Passage(
        "bebop scale",
        "F major",
        "| C7 |",
        "8:C6 B5 Bb5 A5 G5 F5 E5 D5 4:C5",
        ("C Mixolydian", "F major"),
        {2: "passing", 3: "chord tone"},
    ),
    Passage(
        "chromatic run into the third",
        "C major",
        "| Cmaj7 |",
        "8:G5 F#5 F5 4:E5 8:D5 C5 4:G4",
        ("C major",),
        {2: "passing"},
    ),
    Passage(
        "one two three five",
        "Eb major",
        "| Ebmaj7 | Ab7 |",
        "8:Eb5 F5 G5 Bb5 Eb5 F5 G5 Bb5 8:Ab5 Bb5 C6 Eb6 4:Gb5 4:C6",
        ("Eb major", "Eb major pentatonic"),
    ),
    Passage(
        "suspended into the third",
        "C major",
        "| G7sus4 | G7 | C |",
        "4:G4 C5 D5 C5 2:B4 4:D5 B4 2:C5",
        ("C major", "G Mixolydian"),
        {5: "chord tone"},
    ),
    Passage(
        "vamp on one minor chord",
        "A Dorian",
        "| Am7 |",
        "8:A4 B4 C5 D5 E5 F#5 G5 E5 4:D5 8:C5 B4 2:A4",
        ("A Dorian",),
        {1: "chord tone"},
    ),
    Passage(
        "sequence in thirds",
        "G major",
        "| G |",
        "8:G4 B4 A4 C5 B4 D5 C5 E5 4:D5 2:B4",
        ("G major",),
        {},
        ("sequence: 1 2 3 4 5 6 7 8",),
    ),
    Passage(
        "waltz in minor",
        "F minor",
        "| Fm7 | Bbm7 | C7 |",
        "4:F4 Ab4 C5 4:Db5 Bb4 F4 4:E4 G4 Bb4",
        ("F harmonic minor", "Fm7 arpeggio"),
        {4: "chord tone", 7: "chord tone"},
        (),
        3,
    ),
)

# Written after the rules were set by the list above, and before any of it was run.
FRESH = (
    Passage(
        "descending minor pentatonic",
        "E blues",
        "| E7 |",
        "8:E5 D5 B4 A4 G4 E4 D4 E4 4:G4",
        ("E minor pentatonic",),
        {1: "chord tone", 5: "tension"},
    ),
    Passage(
        "major pentatonic then minor on the four",
        "A blues",
        "| A7 | D7 |",
        "8:A4 B4 C#5 E5 F#5 E5 C#5 A4 8:C5 A4 G4 A4 C5 D5 4:C5",
        ("A major pentatonic", "A minor pentatonic"),
        {9: "chord tone", 3: "chord tone"},
    ),
    Passage(
        "blue note hammered", "B minor", "| Bm7 |", "8:B4 D5 E5 F5 F#5 A5 F#5 E5 4:D5", ("B blues",), {4: "blue note"}
    ),
    Passage(
        "minor blues turned around",
        "C minor",
        "| Cm7 | Fm7 | Cm7 |",
        "8:C5 Eb5 F5 G5 Bb5 G5 F5 Eb5 8:F5 Eb5 C5 Bb4 C5 Eb5 F5 Eb5 2:C5",
        ("C minor pentatonic",),
    ),
    Passage(
        "jazz blues two five",
        "F blues",
        "| Gm7 | C7 | F7 |",
        "8:G4 Bb4 D5 F5 D5 Bb4 A4 G4 8:E5 G5 Bb5 Db6 Bb5 G5 E5 Db5 2:C5",
        ("Gm7 arpeggio", "E dim7 arpeggio", "Edim7 arpeggio"),
        {9: "chord tone", 12: "tension"},
    ),
    Passage("Dorian vamp", "D Dorian", "| Dm7 | G7 |", "8:D5 E5 F5 G5 A5 B5 C6 A5 4:B5 8:A5 G5 4:F5", ("D Dorian",)),
    Passage("Lydian", "F Lydian", "| F | G |", "8:F4 G4 A4 B4 C5 D5 E5 C5 4:D5 8:B4 A4 2:G4", ("F Lydian",)),
    Passage(
        "Phrygian dominant",
        "E minor",
        "| B7 |",
        "8:B4 C5 D#5 E5 F#5 G5 A5 F#5 4:D#5",
        ("B Phrygian dominant", "E harmonic minor"),
        {3: "chord tone"},
    ),
    Passage(
        "harmonic minor line",
        "D harmonic minor",
        "| Dm | A7 |",
        "8:D5 E5 F5 G5 A5 Bb5 C#6 A5 8:C#6 Bb5 A5 G5 2:E5",
        ("D harmonic minor",),
        {9: "chord tone"},
        ("target: 9",),
    ),
    Passage(
        "melodic minor over the tonic",
        "A minor",
        "| Am6 |",
        "8:A4 B4 C5 D5 E5 F#5 G#5 A5 4:F#5",
        ("A melodic minor",),
    ),
    Passage(
        "seventh arpeggios up the scale",
        "C major",
        "| Cmaj7 | Fmaj7 |",
        "8:C5 E5 G5 B5 G5 E5 C5 E5 8:F5 A5 C6 E6 2:C6",
        ("Cmaj7 arpeggio",),
    ),
    Passage(
        "arpeggio on the third of the chord",
        "G major",
        "| Am7 | D7 |",
        "8:C5 E5 G5 B5 G5 E5 C5 B4 4:C5 2:F#5",
        ("Cmaj7 arpeggio",),
        {4: "tension"},
    ),
    Passage(
        "back door",
        "C major",
        "| Fm7 | Bb7 | Cmaj7 |",
        "8:F5 Ab5 C6 Eb6 C6 Ab5 G5 F5 8:D5 F5 Ab5 C6 Bb5 Ab5 F5 D5 2:E5",
        ("Fm7 arpeggio", "F Dorian"),
        {},
        ("guide tone: 16 17", "progression: 9 10 11 12 13 14 15 16 17"),
    ),
    Passage(
        "tritone substitute",
        "C major",
        "| Dm7 | Db7 | Cmaj7 |",
        "8:D5 F5 A5 C6 A5 F5 D5 C5 8:B4 Db5 F5 Ab5 F5 Db5 B4 Ab4 2:G4",
        ("Dm7 arpeggio",),
        {10: "chord tone"},
        ("guide tone: 8 9",),
    ),
    Passage(
        "now in another key",
        "F major",
        "| Fmaj7 | Bbm7 | Eb7 | Abmaj7 |",
        "8:F5 E5 C5 A4 C5 E5 F5 A5 8:Ab5 F5 Db5 Bb4 Db5 F5 Ab5 F5 8:G5 Eb5 Db5 Bb4 Db5 Eb5 F5 Db5 2:C5",
        ("Fmaj7 arpeggio", "Bbm7 arpeggio", "F major"),
        {9: "chord tone"},
        ("guide tone: 24 25",),
    ),
    Passage(
        "chromatic enclosure of the root",
        "G major",
        "| D7 | Gmaj7 |",
        "8:D5 F#5 A5 C6 A5 F#5 Ab5 F#5 2:G5",
        ("D7 arpeggio",),
        {7: "enclosure", 8: "enclosure"},
        ("enclosure: 7 8 9",),
    ),
    Passage(
        "passing between two and one",
        "Bb major",
        "| Bbmaj7 |",
        "8:D5 C#5 C5 Bb4 D5 F5 G5 F5 2:D5",
        ("Bb major", "Bb major pentatonic"),
        {2: "passing"},
    ),
    Passage(
        "approach to each chord tone",
        "C major",
        "| Cmaj7 |",
        "8:C5 D#5 E5 F#5 G5 A#5 B5 G5 2:E5",
        ("Cmaj7 arpeggio",),
        {2: "approach from below", 4: "approach from below", 6: "approach from below"},
    ),
    Passage(
        "neighbour of the fifth",
        "A minor",
        "| Am |",
        "8:E5 F5 E5 D5 C5 B4 A4 B4 2:C5",
        ("A natural minor", "A minor"),
        {2: "neighbour", 3: "chord tone"},
    ),
    Passage(
        "suspension over the change",
        "G major",
        "| C | D | G |",
        "4:E5 G5 2:C5 4:C5 B4 2:A4 4:G4 B4 2:D5",
        ("G major",),
        {},
        ("delay: 4 5",),
    ),
    Passage(
        "anticipated third",
        "D major",
        "| G | A |",
        "8:G5 B5 D5 G5 B4 D5 G4 C#5 4:C#5 E5 2:A5",
        ("G arpeggio", "D major"),
    ),
    Passage(
        "pedal under a moving line",
        "E minor",
        "| Em7 |",
        "8:E5 B4 D5 B4 C#5 B4 D5 B4 2:E5",
        ("E Dorian",),
        {},
        ("pivot: 2 4 6 8",),
    ),
    Passage(
        "sequence down the key",
        "Eb major",
        "| Ebmaj7 |",
        "8:Bb5 Ab5 G5 Ab5 G5 F5 G5 F5 Eb5 4:F5 Eb5",
        ("Eb major",),
        {},
        ("sequence: 1 2 3 4 5 6 7 8 9",),
    ),
    Passage(
        "waltz down the key",
        "A minor",
        "| Am | Dm | E7 | Am |",
        "4:E5 C5 A4 4:F5 D5 A4 4:G#5 E5 B4 2.:A4",
        ("Am arpeggio", "A harmonic minor"),
        {7: "chord tone"},
        (),
        3,
    ),
    Passage(
        "rock riff in the box",
        "G minor",
        "| Gm | Bb | C |",
        "8:G4 Bb4 C5 D5 F5 D5 C5 Bb4 4:D5 8:C5 Bb4 4:G4 8:Bb4 C5 2:E5",
        ("G minor pentatonic",),
        {14: "chord tone"},
    ),
    Passage(
        "country major",
        "G major",
        "| G | C |",
        "8:G4 A4 A#4 B4 D5 E5 D5 B4 8:E5 D5 C5 G4 2:E4",
        ("G major pentatonic", "G major blues"),
        {3: "passing"},
    ),
    Passage(
        "whole tone on the five",
        "C major",
        "| G7#5 | Cmaj7 |",
        "8:G4 A4 B4 C#5 D#5 F5 G5 D#5 2:E5",
        ("G whole tone",),
        {},
        ("guide tone: 8 9",),
    ),
    Passage(
        "diminished scale on the five",
        "C minor",
        "| G7b9 | Cm7 |",
        "8:G4 Ab4 Bb4 B4 Db5 D5 E5 F5 2:Eb5",
        ("G half-whole diminished",),
        {2: "tension"},
        ("guide tone: 8 9",),
    ),
    Passage(
        "outside by a half step",
        "D Dorian",
        "| Dm7 |",
        "8:D5 F5 A5 C6 Eb5 Gb5 Bb5 Gb5 F5 D5 4:C5 2:A4",
        ("D Dorian", "Dm7 arpeggio"),
        {},
        ("outside, then inside: 5 6 7 8 9",),
    ),
    Passage(
        "half-diminished two",
        "Bb minor",
        "| Cm7b5 | F7 | Bbm7 |",
        "8:C5 Eb5 Gb5 Bb5 Ab5 Gb5 Eb5 C5 8:A4 C5 Eb5 Gb5 F5 Eb5 C5 A4 2:Bb4",
        ("Cm7b5 arpeggio", "Bb harmonic minor", "C Locrian"),
        {12: "tension"},
        ("guide tone: 16 17",),
    ),
)

# The third list: written after the second was looked at, and before any of it was run.
LAST = (
    Passage(
        "slow blues opening",
        "C blues",
        "| C7 | F7 |",
        "4:G5 8:Gb5 F5 4:Eb5 C5 4:Bb4 C5 2:Eb5",
        ("C blues",),
        {2: "blue note", 7: "tension"},
    ),
    Passage(
        "sliding into the sweet third",
        "G blues",
        "| G7 |",
        "8:D5 ~B4 G4 B4 D5 E5 ~G5 E5 4:D5",
        ("G major pentatonic",),
        {2: "chord tone"},
    ),
    Passage(
        "minor over major",
        "E blues",
        "| E7 |",
        "8:E5 G5 G#5 B5 D6 B5 A5 G5 2:E5",
        ("E minor pentatonic", "E blues"),
        {3: "chord tone"},
        ("minor to major: 2 3",),
    ),
    Passage(
        "rock in natural minor",
        "A minor",
        "| Am | F | G | Am |",
        "8:A4 C5 E5 A5 G5 E5 C5 E5 8:F5 E5 C5 A4 C5 E5 F5 C5 8:D5 B4 G4 B4 D5 G5 F5 D5 2:E5",
        ("A natural minor", "A minor pentatonic", "Am arpeggio"),
        {9: "chord tone", 17: "chord tone"},
    ),
    Passage(
        "Dorian rock",
        "B Dorian",
        "| Bm7 | E |",
        "8:B4 D5 E5 F#5 G#5 F#5 E5 D5 4:B4 8:G#4 B4 2:E5",
        ("B Dorian",),
        {10: "chord tone"},
    ),
    Passage(
        "Mixolydian with its flat seven",
        "A Mixolydian",
        "| A | G | D |",
        "8:A4 B4 C#5 D5 E5 G5 F#5 E5 8:D5 B4 G4 B4 D5 E5 G5 E5 2:F#5",
        ("A Mixolydian",),
        {6: "tension"},
    ),
    Passage(
        "major scale run down", "Ab major", "| Abmaj7 |", "16:C6 Bb5 Ab5 G5 F5 Eb5 Db5 C5 4:Bb4 2:Ab4", ("Ab major",)
    ),
    Passage(
        "minor six",
        "G minor",
        "| Gm6 |",
        "8:G4 Bb4 D5 E5 G5 E5 D5 Bb4 2:G4",
        ("Gm6 arpeggio", "G Dorian", "G melodic minor"),
        {4: "chord tone"},
    ),
    Passage(
        "ninths on the two chord",
        "F major",
        "| Gm7 | C7 |",
        "8:G4 A4 Bb4 D5 A5 G5 F5 D5 4:E5 8:D5 C5 2:Bb4",
        ("F major", "G Dorian"),
        {5: "tension"},
        ("target: 9",),
    ),
    Passage(
        "five of the two",
        "C major",
        "| A7 | Dm7 | G7 | C |",
        "8:A4 C#5 E5 G5 Bb5 G5 E5 C#5 8:D5 F5 A5 F5 D5 C5 A4 C5 8:B4 D5 F5 A5 G5 F5 D5 B4 2:C5",
        ("A7 arpeggio", "C#dim7 arpeggio"),
        {2: "chord tone", 5: "tension"},
        ("guide tone: 8 9", "guide tone: 16 17"),
    ),
    Passage(
        "diminished passing",
        "G major",
        "| Gmaj7 | G#dim7 | Am7 |",
        "8:G4 B4 D5 F#5 D5 B4 G4 A4 8:G#4 B4 D5 F5 D5 B4 G#4 B4 2:C5",
        ("Gmaj7 arpeggio",),
        {9: "chord tone"},
        ("guide tone: 16 17",),
    ),
    Passage(
        "rhythm changes bridge",
        "Bb major",
        "| D7 | G7 | C7 | F7 |",
        "8:F#5 A5 C6 E6 D6 C6 A5 F#5 8:F5 D5 B4 D5 F5 A5 G5 F5 "
        "8:E5 G5 Bb5 D6 C6 Bb5 G5 E5 8:Eb5 C5 A4 C5 Eb5 G5 F5 Eb5",
        ("D Mixolydian", "D7 arpeggio"),
        {4: "tension", 9: "chord tone"},
        ("guide tone: 16 17",),
    ),
    Passage(
        "bossa over the flat two",
        "C minor",
        "| Cm7 | Dbmaj7 |",
        "8:C5 Eb5 G5 Bb5 G5 F5 Eb5 C5 8:Db5 F5 Ab5 C6 Ab5 F5 Db5 F5 2:Eb5",
        ("Cm7 arpeggio",),
        {9: "chord tone"},
    ),
    Passage("quartal line", "D Dorian", "| Dm7 |", "8:D5 G5 C6 F5 E5 A5 B5 G5 4:A5 F5 2:D5", ("D Dorian",)),
    Passage(
        "double chromatic approach",
        "C major",
        "| Fmaj7 | Em7 |",
        "8:A5 C6 A5 F5 E5 G5 Gb5 F5 2:E5",
        ("C major", "F Lydian", "Fmaj7 arpeggio"),
        {7: "passing"},
    ),
    Passage(
        "surround from both sides",
        "Eb major",
        "| Bb7 | Ebmaj7 |",
        "8:D5 F5 Ab5 C6 Bb5 Ab5 A5 F#5 2:G5",
        ("Bb7 arpeggio", "Bb Mixolydian", "Eb major"),
        {8: "enclosure"},
    ),
    Passage(
        "held seventh becomes the third's neighbour",
        "D minor",
        "| Gm7 | A7 | Dm |",
        "4:G5 Bb5 2:F5 4:E5 G5 2:C#5 4:D5 F5 2:A5",
        ("D harmonic minor", "D natural minor"),
        {6: "chord tone"},
        ("guide tone: 3 4",),
    ),
    Passage(
        "pentatonic on the five",
        "G major",
        "| Gmaj7 |",
        "8:D5 E5 F#5 A5 B5 A5 F#5 E5 2:D5",
        ("D major pentatonic", "G major"),
        {3: "chord tone", 4: "tension"},
    ),
    Passage(
        "two beats early",
        "F major",
        "| Gm7 | C7 | F |",
        "8:Bb4 D5 F5 A5 4:G5 8:E5 C5 8:Bb4 C5 E5 G5 4:A5 C6 2:A5",
        ("F major", "C7 arpeggio", "Gm7 arpeggio"),
    ),
    Passage(
        "bends to the fourth's third",
        "A blues",
        "| D7 |",
        "4:E5^2 8:D5 C5 A4 C5 4:D5 2:F#5",
        ("A minor pentatonic",),
        {7: "chord tone", 1: "chord tone"},
    ),
    Passage(
        "repeated lick over three chords",
        "D minor",
        "| Dm | Gm | A7 |",
        "8:D5 F5 E5 D5 4:A4 8:r D5 8:G5 Bb5 A5 G5 4:D5 8:r G5 8:E5 G5 F5 E5 4:C#5 A4 2:D5",
        ("D harmonic minor", "D natural minor"),
        {},
    ),
    Passage(
        "altered run to minor",
        "A minor",
        "| E7alt | Am7 |",
        "8:G#5 G5 F5 E5 D5 C5 Bb4 G#4 2:A4",
        ("E altered", "E Phrygian dominant"),
        {2: "tension", 3: "tension"},
    ),
    Passage(
        "six eight ballad",
        "G major",
        "| Em | C | G | D |",
        "4:B4 8:D5 4:E5 8:G5 4:E5 8:D5 4:C5 8:E5 4:D5 8:B4 4:G4 8:B4 2.:A4",
        ("G major", "G major pentatonic", "E minor pentatonic"),
        {},
        (),
        3,
    ),
    Passage(
        "side step and back",
        "G minor",
        "| Gm7 |",
        "8:G5 F5 D5 Bb4 Ab4 Gb5 Eb5 B4 8:C5 D5 F5 D5 2:G4",
        ("G minor pentatonic", "G Dorian", "G natural minor"),
        {},
        ("outside, then inside: 5 6 7 8 9",),
    ),
    Passage(
        "whole chorus of the home box",
        "G blues",
        "| G7 | C7 | G7 | D7 |",
        "8:G4 Bb4 C5 D5 F5 D5 C5 Bb4 8:C5 Bb4 G4 F4 G4 Bb4 C5 Bb4 "
        "8:G4 Bb4 D5 F5 G5 F5 D5 Bb4 8:C5 D5 F5 D5 C5 Bb4 4:A4",
        ("G minor pentatonic",),
    ),
)


# Written after all rules were set, and run once.
NEWEST = (
    Passage(
        "andalusian",
        "A minor",
        "| Am | G | F | E7 |",
        "8:A4 B4 C5 D5 E5 D5 C5 B4 8:B4 C5 D5 G4 B4 D5 G5 D5 8:F5 E5 D5 C5 A4 C5 F5 A5 8:G#5 E5 B4 G#4 2:E4",
        ("A natural minor", "A harmonic minor"),
    ),
    Passage(
        "mixed thirds",
        "E blues",
        "| E7 |",
        "8:E5 G5 G#5 B5 C#6 B5 G#5 E5",
        ("E major pentatonic", "E major blues", "E minor pentatonic"),
    ),
    Passage(
        "dorian groove",
        "D Dorian",
        "| Dm7 | G7 |",
        "8:D5 F5 G5 A5 C6 A5 G5 F5 8:D5 F5 G5 B5 A5 G5 F5 D5",
        ("D Dorian", "D minor pentatonic"),
    ),
    Passage(
        "major pentatonic over three chords",
        "C major",
        "| C | F | G | C |",
        "8:E5 G5 A5 G5 E5 D5 C5 D5 8:C5 D5 E5 G5 A5 G5 E5 D5 8:D5 E5 G5 E5 D5 C5 A4 G4 2:C5",
        ("C major pentatonic",),
    ),
    Passage(
        "minor blues scale",
        "G minor",
        "| Gm |",
        "8:G4 Bb4 C5 C#5 D5 F5 D5 C5 4:Bb4 2.:G4",
        ("G blues", "G minor blues", "G minor pentatonic"),
    ),
    Passage(
        "five of minor",
        "B minor",
        "| F#7 | Bm |",
        "8:F#5 G5 A#5 C#6 E6 C#6 A#5 G5 2:F#5 2:D5",
        ("B harmonic minor", "F# Phrygian dominant", "F#7 arpeggio"),
    ),
    Passage(
        "scale over two five one",
        "Bb major",
        "| Cm7 | F7 | Bbmaj7 |",
        "8:C5 D5 Eb5 F5 G5 A5 Bb5 C6 8:A5 G5 F5 Eb5 D5 C5 Bb4 A4 2:Bb4",
        ("Bb major", "C Dorian"),
    ),
    Passage("maj7 arpeggio", "Eb major", "| Ebmaj7 |", "8:Eb4 G4 Bb4 D5 Eb5 D5 Bb4 G4 2:Eb4", ("Ebmaj7 arpeggio",)),
    Passage(
        "dorian vamp in minor",
        "C minor",
        "| Cm7 | F7 |",
        "8:C5 D5 Eb5 F5 G5 A5 Bb5 G5 8:A5 F5 Eb5 C5 D5 C5 Bb4 A4 2:C5",
        ("C Dorian",),
    ),
    Passage(
        "mixolydian line", "A Mixolydian", "| A7 |", "8:A4 C#5 D5 E5 F#5 G5 F#5 E5 4:C#5 2.:A4", ("A Mixolydian",)
    ),
    Passage(
        "minor riff over three chords",
        "E minor",
        "| Em | D | C |",
        "8:E4 G4 A4 B4 D5 B4 A4 G4 8:F#4 A4 D5 A4 F#4 D4 E4 F#4 8:G4 C5 E5 C5 G4 E4 2:E4",
        ("E natural minor", "E minor", "E minor pentatonic"),
    ),
    Passage(
        "waltz of chords",
        "F minor",
        "| Fm | Bbm | C7 | Fm |",
        "8:F4 Ab4 C5 F5 Eb5 C5 8:Db5 Bb4 F4 Bb4 Db5 F5 8:E5 G5 Bb5 G5 E5 C5 2.:F5",
        ("Fm arpeggio", "F harmonic minor", "Fm7 arpeggio"),
        beats=3,
    ),
    Passage(
        "blues over one and four",
        "A blues",
        "| A7 | D7 | A7 |",
        "8:A4 C5 D5 E5 G5 E5 D5 C5 8:D5 F5 E5 D5 C5 A4 G4 A4 8:C5 A4 G4 A4 2:A4",
        ("A minor pentatonic", "A blues"),
    ),
    Passage(
        "harmonic minor run",
        "D minor, harmonic",
        "| A7 | Dm |",
        "16:A4 Bb4 C#5 D5 E5 F5 G5 A5 8:Bb5 A5 G5 E5 2:F5",
        ("D harmonic minor", "A Phrygian dominant"),
    ),
    Passage(
        "bop descent",
        "Ab major",
        "| Bbm7 | Eb7 | Abmaj7 |",
        "8:Bb4 Db5 F5 Ab5 G5 F5 E5 Eb5 8:D5 Db5 Bb4 G4 Ab4 C5 Eb5 G5 2:C5",
        ("Ab major", "Bbm7 arpeggio", "Eb7 arpeggio"),
    ),
    Passage(
        "phrygian",
        "E Phrygian",
        "| Em | F | G |",
        "8:E5 F5 G5 F5 E5 D5 C5 B4 8:C5 F5 A5 F5 C5 A4 B4 C5 2:D5",
        ("E Phrygian",),
    ),
    Passage(
        "jazz blues",
        "C blues",
        "| C7 | F7 |",
        "8:C5 E5 G5 Bb5 A5 G5 F5 E5 8:Eb5 F5 A5 C6 Bb5 A5 G5 F5 2:E5",
        ("C7 arpeggio", "C Mixolydian", "F Mixolydian"),
    ),
    Passage(
        "pentatonic over four chords",
        "F# minor",
        "| F#m | D | A | E |",
        "8:F#4 A4 B4 C#5 E5 C#5 B4 A4 8:A4 B4 C#5 E5 F#5 E5 C#5 B4 8:C#5 E5 C#5 B4 A4 B4 C#5 A4 2:B4",
        ("F# minor pentatonic", "A major pentatonic"),
    ),
    Passage(
        "country sixth",
        "G major",
        "| G | C | G | D |",
        "8:G4 A4 B4 D5 E5 D5 B4 A4 8:C5 D5 E5 G5 E5 D5 C5 E5 8:D5 B4 A4 G4 A4 B4 D5 E5 2:F#5",
        ("G major pentatonic", "G major"),
    ),
    Passage(
        "ballad in major",
        "D major",
        "| Dmaj7 | Bm7 | Em7 | A7 |",
        "4:F#5 8:E5 D5 4:C#5 A4 4:B4 8:C#5 D5 4:F#5 D5 4:G5 8:F#5 E5 4:B4 G4 4:A4 8:B4 C#5 2:E5",
        ("D major",),
    ),
    Passage(
        "altered to one",
        "C major",
        "| Dm7 | G7alt | Cmaj7 |",
        "8:D5 F5 A5 C6 A5 F5 E5 D5 8:Ab4 B4 Db5 Eb5 F5 Eb5 Db5 B4 2:C5",
        ("G altered", "D Dorian", "Dm7 arpeggio", "C major"),
    ),
    Passage(
        "lydian vamp",
        "F Lydian",
        "| Fmaj7 | G |",
        "8:F5 G5 A5 B5 C6 A5 B5 G5 8:D5 G5 B5 A5 G5 F5 E5 D5 2:C5",
        ("F Lydian",),
    ),
    Passage("diminished", "A minor", "| G#dim7 | Am |", "8:G#4 B4 D5 F5 G#5 F5 D5 B4 2:C5", ("G#dim7 arpeggio",)),
    Passage(
        "minor pentatonic over major four",
        "E minor",
        "| Em7 | A7 |",
        "8:E5 G5 A5 B5 D6 B5 A5 G5 8:E5 G5 A5 C#6 B5 A5 G5 E5",
        ("E minor pentatonic", "E Dorian"),
    ),
    Passage("whole tone", "F major", "| C7#5 | F |", "8:C5 D5 E5 F#5 G#5 Bb5 G#5 F#5 2:A5", ("C whole tone",)),
    Passage(
        "two keys",
        "C major",
        "| C | Am | Cm7 | F7 | Bbmaj7 |",
        "8:C5 D5 E5 F5 G5 E5 D5 C5 8:A4 C5 E5 D5 C5 B4 A4 G4 "
        "8:C5 D5 Eb5 F5 G5 F5 Eb5 D5 8:C5 Eb5 F5 A5 G5 F5 Eb5 C5 2:D5",
        ("C major", "Bb major", "C Dorian"),
    ),
)

# Lines of which every note is said, short: c chord tone, t tension, p passing, n neighbour, e enclosure, b and a
# approach from below and above, u blue note, x clash; a dot where more than one would do.
IN_FULL: tuple[tuple[str, str, str, str, str], ...] = (
    ("scale up and down", "G major", "| Gmaj7 |", "8:G4 A4 B4 C5 D5 C5 B4 A4 2:G4", "c p c p c p c p c"),
    ("half step under", "C major", "| Dm7 |", "8:D5 C#5 D5 F5 E5 D5 C5 A4", "c n c c p c c c"),
    (
        "enclosure at the change",
        "C major",
        "| G7 | C |",
        "8:G4 B4 D5 F5 A5 G5 F5 D#5 4:E5 C5 2:G4",
        "c c c c t c . e c c c",
    ),
    ("bebop dominant", "F major", "| C7 |", "8:C6 B5 Bb5 A5 G5 F5 E5 D5 2:C5", "c p c p c p c p c"),
    ("from below", "Bb major", "| Bbmaj7 |", "8:A4 Bb4 C#5 D5 E5 F5 G#5 A5 2:D5", "c c b c b c b c c"),
    ("from above", "D minor", "| Dm7 |", "8:Bb4 A4 Gb5 F5 D5 Eb5 D5 C5 2:A4", "a c a c c n c c c"),
    ("dorian sixth", "E Dorian", "| Em7 |", "8:E5 F#5 G5 A5 B5 C#6 D6 B5 4:C#6 2.:B5", "c p c p c p c c t c"),
    ("altered", "C minor", "| G7alt | Cm |", "8:Ab4 B4 Db5 Eb5 F5 Eb5 Db5 B4 2:C5", "t c t t c t t c c"),
    (
        "minor two five",
        "G minor",
        "| Am7b5 | D7b9 | Gm |",
        "8:C5 Eb5 G5 A5 G5 Eb5 C5 A4 8:F#4 A4 C5 Eb5 D5 C5 A4 F#4 2:G4",
        "c c c c c c c c c c c t c c c c c",
    ),
    ("blues scale", "C blues", "| C7 |", "8:C5 Eb5 F5 F#5 G5 Bb5 G5 Eb5 4:C5", "c u . u c c c u c"),
    ("neighbours", "A major", "| A |", "8:C#5 D5 C#5 E5 F#5 E5 A5 G#5 2:A5", "c n c c n c c n c"),
    (
        "one four",
        "F major",
        "| F | Bb |",
        "8:F4 G4 A4 Bb4 C5 Bb4 A4 C5 8:D5 C5 Bb4 C5 D5 Eb5 D5 F5 2:Bb5",
        "c p c p c p c c c p c p c n c c .",
    ),
    ("suspension", "C major", "| Dm7 | G7 | C |", "2:F5 4:A5 C6 4:C6 2.:B5 1:G5", "c c c a c c"),
    ("flat nine", "A minor", "| E7 | Am |", "8:E5 F5 G#5 B5 D6 C6 B5 G#5 2:A5", "c t c c c p c c c"),
    ("rock with the blue note", "E minor", "| Em |", "8:E5 G5 A5 A#5 B5 A5 G5 E5 4:D5 2.:E5", "c c p u c p c c t c"),
    ("country", "G major", "| G |", "8:G4 A4 A#4 B4 D5 E5 D5 B4 2:G4", "c p p c c n c c c"),
    ("six and nine held", "C major", "| Cmaj7 |", "8:E5 G5 A5 B5 4:A5 8:G5 E5 2:D5", "c c p c t c c t"),
    ("fourth held", "C major", "| Cmaj7 |", "4:C5 E5 2:F5", "c c x"),
    ("tritone sub", "C major", "| Db7 | C |", "8:Db5 F5 Ab5 B5 Ab5 G5 F5 Db5 2:C5", "c c c c c p c c c"),
    ("minor six", "D minor", "| Dm6 |", "8:D5 E5 F5 G5 A5 B5 A5 F5 2:D5", "c p c p c c c c c"),
    ("slid third", "A minor", "| Am |", "16:B4 8.:~C5 8:E5 A5 4:G5 8:E5 C5 4:A4", "b c c c t c c c"),
    ("lydian", "F Lydian", "| Fmaj7 |", "8:F5 G5 A5 B5 C6 B5 A5 G5 2:B5", "c p c p c p c . t"),
    ("harmonic minor five", "A minor, harmonic", "| E7 |", "8:E5 F5 E5 D5 C5 B4 C5 D5 2:E5", "c n c c p c p c c"),
    ("half steps up", "D major", "| A7 | D |", "8:E5 F5 F#5 G5 A5 G5 E5 C#5 2:D5", "c p p c c c c c c"),
    ("diatonic enclosure", "C major", "| Fmaj7 |", "8:C6 A5 D5 B4 4:C5 8:E5 A5 2:F5", "c c e e c c c c"),
    (
        "two five in Db",
        "Db major",
        "| Ebm7 | Ab7 | Dbmaj7 |",
        "8:Eb5 F5 Gb5 Bb5 Ab5 Gb5 F5 Db5 8:C5 Eb5 Gb5 Bb5 A5 Gb5 Eb5 C5 2:F5",
        "c p c c p c t c c c c t t c c c c",
    ),
    (
        "triplets",
        "Bb major",
        "| Bb7 |",
        "8t:D5 F5 Ab5 C6 Ab5 F5 D5 C#5 D5 Bb4 C5 D5 4:F5",
        "c c c t c c c n c c p c c",
    ),
    (
        "approach pair",
        "G major",
        "| Am7 | D7 |",
        "8:E5 C5 D#5 E5 G5 F#5 E5 C5 8:B4 C5 C#5 D5 F#5 A5 Ab5 G5 4:F#5",
        "c c b c c p c c . c p c c c p p .",
    ),
    (
        "pentatonic over minor",
        "C minor",
        "| Cm7 | Fm7 |",
        "8:C5 Eb5 F5 G5 Bb5 G5 F5 Eb5 8:C5 Eb5 F5 Ab5 G5 F5 Eb5 C5 2:Ab4",
        "c c p c c c p c c c c c p c c c .",
    ),
    ("major third from minor", "G blues", "| G7 |", "8:D5 F5 D5 C5 Bb4 B4 G4 E4 4:G4", "c c c . u c c t c"),
)
# Written after the rules that those had taught, and run once before the next were set.
AGAIN_IN_FULL: tuple[tuple[str, str, str, str, str], ...] = (
    (
        "dorian climb",
        "A Dorian",
        "| Am7 | D7 |",
        "8:A4 B4 C5 D5 E5 F#5 G5 E5 8:F#5 E5 D5 C5 A4 B4 C5 D5 2:F#5",
        "c p c p c p c c c p c c c p c c .",
    ),
    ("a fret under each", "F major", "| Fmaj7 |", "8:E4 F4 G#4 A4 B4 C5 D#5 E5 2:A5", "c c b c b c b c c"),
    ("down by half steps", "C major", "| C7 | F |", "8:C6 B5 Bb5 A5 Ab5 G5 F5 E5 2:F5", "c p c p p c p c c"),
    (
        "two five with the ninth",
        "G major",
        "| Am7 | D7 | Gmaj7 |",
        "8:E5 G5 B5 A5 G5 E5 C5 B4 8:A4 C5 E5 F#5 D5 C5 Bb4 A4 2:B4",
        "c c . c c c c p c c . c c c p c c",
    ),
    ("turn to the third", "Bb major", "| F7 | Bb |", "8:F4 A4 C5 F5 Eb5 D5 Eb5 C#5 4:D5", "c c c c c n . e c"),
    (
        "blues over one and four",
        "A blues",
        "| A7 | D7 |",
        "8:A4 C5 D5 D#5 E5 G5 A5 G5 8:F#5 A5 G5 F5 D5 C5 A4 C5 2:A4",
        "c u . u c c c c c c . . c c c c .",
    ),
    ("sixth in minor", "C minor", "| Cm6 |", "8:C5 D5 Eb5 G5 A5 G5 F5 Eb5 2:C5", "c p c c c c p c c"),
    ("ninth held", "D major", "| Dmaj7 |", "8:F#5 A5 C#6 A5 2:E5", "c c c c t"),
    ("thirteenth held", "Eb major", "| Bb7 | Eb |", "8:D5 F5 Ab5 F5 2:G5 4:G5 8:F5 Eb5 2:Bb4", "c c c c t c p c c"),
    ("sharp eleven held", "G major", "| Cmaj7 |", "8:E5 G5 B5 G5 2:F#5", "c c c c t"),
    ("wrong seventh", "F major", "| C7 |", "4:E5 G5 2:B5", "c c x"),
    ("flat nine on a minor chord", "C major", "| Am7 |", "4:A4 C5 2:Bb5", "c c x"),
    ("sighs", "A minor", "| Am | E7 |", "4:B5 A5 F5 E5 4:C6 B5 A5 G#5", ". c a c a c a c"),
    ("both neighbours", "E minor", "| Em |", "8:B4 C5 B4 A#4 B4 E5 F#5 G5 2:B5", "c n c n c c p c c"),
    (
        "triplet climb",
        "C major",
        "| Cmaj7 |",
        "8t:C5 D5 E5 F5 G5 A5 B5 C6 D6 E6 D6 B5 2:C6",
        "c p c p c p c c p c . c .",
    ),
    ("country", "A major", "| A |", "8:A4 C5 C#5 E5 F#5 E5 D#5 E5 4:C#5 2.:A4", "c b c c n c n c c c"),
    (
        "diminished between",
        "G major",
        "| Am7 | A#dim7 | G |",
        "8:A4 C5 E5 G5 E5 C5 B4 A4 8:A#4 C#5 E5 G5 E5 C#5 A#4 C#5 2:B4",
        "c c c c c c p c c c c c c c c c c",
    ),
    ("melodic minor", "D minor", "| Dm |", "8:D5 E5 F5 G5 A5 B5 C#6 D6 2:A5", "c p c p c p p c c"),
    (
        "harmonic minor on the five",
        "A minor, harmonic",
        "| E7 | Am |",
        "8:E5 F5 G#5 A5 B5 A5 G#5 F5 2:E5",
        "c . c p c p c . c",
    ),
    (
        "fourth lets down to the third",
        "F major",
        "| C7sus4 | C7 | F |",
        "2:F5 4:G5 Bb5 4:E5 G5 8:Bb5 A5 G5 E5 2:F5",
        "c c c c c c p c c c",
    ),
    (
        "minor two five",
        "D minor",
        "| Em7b5 | A7 | Dm7 |",
        "8:E5 G5 Bb5 D6 C6 Bb5 A5 G5 8:C#5 E5 G5 Bb5 A5 G5 F5 E5 2:D5",
        "c c c c p c p c c c c t c c p c c",
    ),
    (
        "rock pentatonic",
        "A minor",
        "| Am | G |",
        "8:A4 C5 D5 E5 G5 E5 D5 C5 8:B4 D5 E5 G5 E5 D5 B4 G4 2:A4",
        "c c p c . c p c c c p c p c c c .",
    ),
    (
        "walk into the four",
        "Bb blues",
        "| Bb7 | Eb7 |",
        "8:Bb4 D5 F5 Ab5 G5 F5 E5 D5 8:Eb5 G5 Bb5 Db6 C6 Bb5 A5 G5 2:F5",
        "c c c c p c p c c c c c p c p c .",
    ),
    ("around the fifth", "Eb major", "| Fm7 |", "8:F4 Ab4 Db5 B4 C5 Eb5 F5 Eb5 2:C5", "c c e e c c c c c"),
    (
        "half steps to the root",
        "E minor",
        "| Em | B7 |",
        "8:G5 F#5 F5 E5 D#5 E5 G5 A5 8:B5 A5 F#5 D#5 C5 B4 A4 F#4 2:E4",
        "c p p c n c c p c c c c . c c c .",
    ),
    (
        "from a half step above",
        "F major",
        "| Gb7 | Fmaj7 |",
        "8:Bb4 Db5 E5 Gb5 Ab5 Gb5 E5 Db5 2:C5",
        "c c c c n c c c c",
    ),
    ("two thirds", "D blues", "| D7 |", "8:F5 F#5 A5 C6 B5 A5 F5 D5 2:D5", ". c c c p c u c c"),
    (
        "leading note",
        "G minor",
        "| Gm | D7 | Gm |",
        "8:G4 F#4 G4 A4 Bb4 C5 D5 Bb4 8:A4 C5 Eb5 D5 C5 A4 F#4 A4 2:G4",
        "c n c p c p c c c c . c c c c c c",
    ),
    ("lydian", "C Lydian", "| Cmaj7 |", "8:C5 D5 E5 F#5 G5 F#5 E5 D5 2:B4", "c p c p c p c . c"),
    (
        "back door",
        "C major",
        "| Fm7 | Bb7 | Cmaj7 |",
        "8:Ab4 C5 Eb5 G5 F5 Eb5 C5 Ab4 8:Bb4 D5 F5 Ab5 G5 F5 D5 C5 2:B4",
        "c c c . c c c c c c c c p c c p c",
    ),
    (
        "quick turn",
        "A minor",
        "| Am7 |",
        "16:C5 B4 C5 D5 8:E5 G5 16:A5 G5 E5 D5 8:C5 E5 2:A4",
        "c n c p c c c c c p c c c",
    ),
)
# Written after those rules, and run once before the last was set.
ONCE_MORE_IN_FULL: tuple[tuple[str, str, str, str, str], ...] = (
    ("walk up to the fifth", "G major", "| G |", "8:G4 A4 B4 C5 C#5 D5 B4 G4 2:D5", "c p c p p c c c c"),
    (
        "turns",
        "D major",
        "| D |",
        "16:A5 B5 A5 G5 8:F#5 E5 16:D5 E5 D5 C#5 8:D5 A4 2:D5",
        "c n c p c p c n c n c c c",
    ),
    ("minor scale falls", "E minor", "| Em |", "8:B5 A5 G5 F#5 E5 D5 C5 B4 2:E5", "c p c p c p p c c"),
    ("ninth first", "C major", "| Cmaj7 |", "2:D5 4:E5 G5", "t c c"),
    ("thirteenth held", "F major", "| C7 |", "8:E5 G5 Bb5 G5 2:A5", "c c c c t"),
    ("eleventh held", "C major", "| Dm7 |", "8:D5 F5 A5 F5 2:G5", "c c c c t"),
    ("blues scale up", "E blues", "| E7 |", "8:E5 G5 A5 A#5 B5 D6 B5 A5 4:G5 2.:E5", "c u . u c c c . u c"),
    ("half steps to the third", "Bb major", "| Bb |", "8:D5 F5 E5 Eb5 D5 C5 C#5 D5 2:F5", "c c p p c . p c c"),
    ("around the fifth", "C major", "| Am7 |", "8:A4 C5 E5 F5 D#5 E5 G5 E5 2:C5", "c c c e e c c c c"),
    (
        "from under over the bar",
        "C major",
        "| Dm7 | G7 |",
        "8:D5 F5 A5 C6 A5 F5 D5 Bb4 4:B4 D5 2:G5",
        "c c c c c c c b c c c",
    ),
    (
        "from over over the bar",
        "C major",
        "| Dm7 | G7 |",
        "8:D5 F5 A5 C6 A5 F5 D5 Ab5 4:G5 2.:B5",
        "c c c c c c c a c c",
    ),
    ("flat nine on a major chord", "C major", "| C |", "8:C5 E5 G5 E5 2:C#5", "c c c c x"),
    ("fourth held on the five", "C major", "| G7 |", "4:B4 D5 2:C5", "c c x"),
    ("sharp eleven in passing", "G major", "| C7 | G |", "8:C5 E5 F#5 G5 Bb5 G5 F#5 E5 2:D5", "c c p c c c p c c"),
    ("neighbours in minor", "A minor", "| Am |", "8:A4 G#4 A4 B4 C5 B4 C5 D5 2:E5", "c n c p c n c p c"),
    ("opens on the leading tone", "F major", "| F |", "8:E5 F5 A5 G5 F5 C5 D5 C5 2:A4", "b c c p c c n c c"),
    ("flat nine beside the root", "D minor", "| A7 | Dm |", "8:A5 Bb5 A5 G5 E5 C#5 E5 G5 2:F5", "c n c c c c c c c"),
    ("diminished over the five", "C major", "| G7 | C |", "8:G#4 B4 D5 F5 G#5 F5 D5 B4 2:C5", "t c c c t c c c c"),
    (
        "suspended",
        "D major",
        "| A7sus4 | A7 | D |",
        "4:D5 E5 8:G5 E5 D5 A4 4:C#5 E5 8:G5 F#5 E5 C#5 2:D5",
        "c c c c c c c c c p c c c",
    ),
    ("six chord", "Eb major", "| Eb6 |", "8:Eb5 F5 G5 Bb5 C6 Bb5 G5 F5 2:Eb5", "c p c c c c c p c"),
    ("both thirds", "G blues", "| G7 |", "8:F5 G5 F5 D5 C5 D5 Bb4 B4 2:G4", "c c c c n c . c c"),
    ("slid third", "G major", "| G |", "16:A#4 8.:~B4 8:D5 E5 D5 B4 A4 G4 2:D5", "b c c n c c p c c"),
    (
        "minor and its five",
        "F minor",
        "| Fm | C7 |",
        "8:F5 Eb5 Db5 C5 Bb4 Ab4 G4 F4 8:E4 G4 Bb4 Db5 C5 Bb4 G4 E4 2:F4",
        "c p p c p c p c c c c t c c c c .",
    ),
    ("trill", "A minor", "| Am |", "16:E5 F5 E5 F5 E5 F5 E5 D5 4:C5 2:A4", "c n c n c n c p c c"),
    (
        "leads into the four",
        "C major",
        "| C | F |",
        "8:C5 E5 G5 C6 B5 G5 E5 G#5 4:A5 C6 2:F5",
        "c c c c . c c b c c c",
    ),
)
# Written after those rules, and run once before any other was set.
STILL_IN_FULL: tuple[tuple[str, str, str, str, str], ...] = (
    ("ninth first in minor", "D minor", "| Dm7 |", "4.:E5 8:F5 A5 C6 A5 F5", "t c c c c c"),
    ("two sevenths", "F major", "| C7 | F |", "8:C6 B5 Bb5 A5 G5 F5 E5 D5 2:C5", "c p c p c p c p c"),
    ("raised fifth on the way", "Eb major", "| Eb6 |", "8:Eb4 F4 G4 Ab4 Bb4 B4 C5 D5 2:Eb5", "c p c p c p c p c"),
    (
        "around the third to come",
        "Bb major",
        "| Bb7 | Eb |",
        "8:D5 F5 Ab5 F5 D5 Bb4 Ab4 F#4 2:G4",
        "c c c c c c . e c",
    ),
    (
        "both thirds and a climb",
        "F blues",
        "| F7 | Bb7 | Bb7 |",
        "8:F5 Ab5 A5 C6 Eb6 C6 Ab5 F5 8:D5 F5 Ab5 Bb5 B5 C6 Ab5 F5 2:D5",
        "c . c c c c u c c c c c p t c c c",
    ),
    (
        "five notes over minor",
        "A minor",
        "| Am | F |",
        "8:A5 G5 E5 D5 C5 A4 G4 A4 8:C5 A4 F4 A4 C5 D5 E5 F5 2:A5",
        "c . c p c c n c c c c c c p p c c",
    ),
    ("sixth held in minor", "D Dorian", "| Dm7 |", "8:D5 F5 A5 C6 2:B5", "c c c c t"),
    ("flat thirteenth held", "G minor", "| D7 | Gm |", "8:F#4 A4 C5 Eb5 2:Bb4 2:Bb4", "c c c t t c"),
    ("sharp ninth held", "C minor", "| G7 | Cm |", "8:B4 D5 F5 Ab5 2:Bb5 2:G5", "c c c t t c"),
    ("half steps back up", "G major", "| D7 | G |", "8:A4 C5 D5 F#5 E5 F5 F#5 A5 2:G5", "c c c c . p c c c"),
    ("fourth leans first", "F major", "| F |", "8:Bb4 A4 C5 F5 D5 C5 Bb4 A4 2:F4", "a c c c . c p c c"),
    (
        "two five one by half steps",
        "C major",
        "| Dm7 | G7 | C |",
        "8:D5 E5 F5 A5 C6 B5 A5 Ab5 8:G5 F5 D5 B4 A#4 B4 D5 F5 2:E5",
        "c p c c c p c p c c c c n c c c c",
    ),
    ("harmonic minor falls", "E minor", "| B7 | Em |", "8:B5 A5 G5 F#5 E5 D#5 C5 B4 2:E5", "c c p c p c . c c"),
    ("bent third", "A major", "| A |", "8:B4^2 E5 C#5 A4 B4 C5 C#5 A4 2:E4", "c c c c p p c c c"),
    (
        "triplets with neighbours",
        "F minor",
        "| Fm | Bbm |",
        "8t:F5 G5 Ab5 Bb5 Ab5 G5 F5 E5 F5 C5 Db5 C5 2:Bb4",
        "c p c n c p c n c c n c c",
    ),
    (
        "flat seventh chord",
        "D Mixolydian",
        "| D | C | G |",
        "8:D5 E5 F#5 G5 A5 F#5 D5 A4 8:C5 D5 E5 G5 C6 B5 A5 G5 2:B5",
        "c p c p c c c c c p c c c p p c c",
    ),
    (
        "tritone",
        "C major",
        "| Dm7 | Db7 | C |",
        "8:D5 F5 A5 C6 B5 A5 F5 D5 8:Db5 F5 Ab5 Cb6 Bb5 Ab5 F5 Db5 2:C5",
        "c c c c p c c c c c c c p c c c c",
    ),
    ("fourth held", "C major", "| Cmaj7 |", "8:C5 E5 G5 E5 2:F5", "c c c c x"),
    ("flat sixth held on the three", "C major", "| Em7 |", "8:E5 G5 B5 G5 2:C6", "c c c c x"),
    (
        "from a half step under",
        "Bb major",
        "| Bb |",
        "8t:Bb4 A4 Bb4 D5 C#5 D5 F5 E5 F5 Bb5 A5 Bb5 2:D5",
        "c n c c n c c n c c n c c",
    ),
    (
        "flat fifth on the way down",
        "A blues",
        "| A7 | D7 |",
        "8:E5 Eb5 D5 C5 A4 G4 A4 C5 8:D5 F#5 A5 C6 A5 F#5 D5 C5 2:A4",
        "c u . u c c c . c c c c c c c c c",
    ),
    ("melodic minor climb", "C minor", "| Cm |", "8:G4 A4 B4 C5 D5 Eb5 F5 G5 2:Eb5", "c p p c p c p c c"),
    ("slid to the fifth", "E minor", "| Em |", "16:A#4 8.:~B4 8:D5 E5 G5 F#5 E5 D5 2:B4", "b c . c c p c . c"),
    (
        "two five in the major",
        "Bb major",
        "| Cm7 | F7 | Bb |",
        "8:Eb5 G5 Bb5 D6 C6 Bb5 G5 Eb5 8:F5 A5 C6 Eb6 D6 C6 Eb5 C#5 2:D5",
        "c c c . c c c c c c c c p c . e c",
    ),
    (
        "phrygian",
        "E Phrygian",
        "| Em | F | F |",
        "8:E5 F5 G5 F5 E5 D5 E5 G5 8:A5 C6 A5 F5 G5 A5 C6 A5 2:F5",
        "c p c p c n c c c c c c p c c c c",
    ),
    ("whole tones", "C major", "| G7#5 | C |", "8:G4 A4 B4 C#5 D#5 F5 D#5 B4 2:C5", "c p c p c c c c c"),
    ("hangs over", "G major", "| C | G |", "2:E5 4:G5 C6 8:C6 B5 A5 G5 2:D5", "c c c a c p c c"),
    (
        "diminished leads on",
        "C major",
        "| C | C#dim7 | Dm7 |",
        "8:C5 E5 G5 C6 B5 G5 E5 G5 8:C#5 E5 G5 Bb5 G5 E5 C#5 E5 2:F5",
        "c c c c . c c c c c c c c c c c c",
    ),
)
_SHORT: dict[str, Role] = {
    "c": "chord tone", "t": "tension", "p": "passing", "n": "neighbour", "e": "enclosure", "b": "approach from below",
    "a": "approach from above", "u": "blue note", "x": "clash",
}  # fmt: skip


@dataclass
class Score:
    """How many of what was said the program says too, and what it says instead of the rest."""

    right: Counter[str] = field(default_factory=Counter)
    asked: Counter[str] = field(default_factory=Counter)
    instead: list[str] = field(default_factory=list)

    def add(self, kind: str, right: bool, instead: str) -> None:
        """One thing that was said."""
        self.asked[kind] += 1
        self.right[kind] += right
        if not right:
            self.instead.append(instead)


def judge(passages: Sequence[Passage]) -> Score:
    """What the shortest story, the roles and the events come to, against what was said."""
    score = Score()
    for passage in passages:
        grid, key, chart = BeatGrid(120, 0.0, passage.beats), parse_key(passage.key), parse_chart(passage.chart)
        notes = written(passage.line, 0.0, grid)
        reading = read_line(notes, key, chart, grid)
        told = explain_by_all(notes, key, chart, grid, reading)[0]
        names = Counter(reason.source.name for reason in told.reasons if reason.source is not None)
        most = names.most_common(1)[0][0] if names else ""
        score.add(
            "source", most in passage.source, f"{passage.name}: {most} ({told.school}), not {passage.source[0]}"
        )
        for number, role in passage.roles.items():
            found = reading.roles[number - 1]
            score.add("role", found == role, f"{passage.name}: note {number} {found}, not {role}")
        events = [f"{event.kind}: {' '.join(str(i + 1) for i in event.notes)}" for event in reading.events]
        for event in passage.events:
            score.add("event", event in events, f"{passage.name}: no {event}")
    return score


def judge_roles(lines: Sequence[tuple[str, str, str, str, str]]) -> Score:
    """The roles of all notes of lines said in full, chord tones apart from the others."""
    score = Score()
    for name, key, chart, line, said in lines:
        grid = BeatGrid(120, 0.0, 4)
        roles = read_line(written(line, 0.0, grid), parse_key(key), parse_chart(chart), grid).roles
        for number, (found, short) in enumerate(zip(roles, said.split(), strict=True), 1):
            if short != ".":
                kind = "chord tone" if short == "c" else "other role"
                score.add(kind, found == _SHORT[short], f"{name}: note {number} {found}, not {_SHORT[short]}")
    return score


def main() -> None:
    lists = {"first": PASSAGES, "fresh": FRESH, "last": LAST, "newest": NEWEST}
    scores = {name: judge(passages) for name, passages in lists.items()}
    full = {
        "in full": IN_FULL,
        "again in full": AGAIN_IN_FULL,
        "once more in full": ONCE_MORE_IN_FULL,
        "still in full": STILL_IN_FULL,
    }
    scores |= {name: judge_roles(lines) for name, lines in full.items()}
    for name, score in scores.items():
        shares = ", ".join(f"{kind} {score.right[kind]} of {asked}" for kind, asked in score.asked.items())
        print(f"{name}: {shares}")
        for words in score.instead:
            print(f"  {words}")


if __name__ == "__main__":
    main()
