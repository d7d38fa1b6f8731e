"""Passages with what a player says of them, written down before they were run: where they come from, what notes do.

Lines are written as in `tests/worked.py`. `source` names what a player may call the bulk of a passage, one name or
more that would do; `roles` what single notes do; `events` what must be found, as "kind: its notes".
"""

from dataclasses import dataclass, field


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
