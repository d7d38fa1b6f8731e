"""What a teacher adds: progressions, cells, upper structures; exceptions by name; passages as players tell them."""

import unittest

from benchmarks.passages import FRESH, LAST, PASSAGES, judge

from eager_owl.reasons.explain import explain, explain_by_all, read_line
from eager_owl.reasons.schools import reason_schools
from eager_owl.reasons.tell import tell_story
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.key import parse_key
from tests.worked import written

GRID = BeatGrid(120, 0.0, 4)


def told(line: str, key: str, chart: str, school: str = "") -> list[str]:
    """The sentences of a line, by a school or else of the shortest story."""
    notes, parsed = written(line, 0.0, GRID), parse_chart(chart)
    reading = read_line(notes, parse_key(key), parsed, GRID)
    explained = (
        explain(notes, parse_key(key), parsed, GRID, reason_schools()[school], reading)
        if school
        else explain_by_all(notes, parse_key(key), parsed, GRID, reading)[0]
    )
    return [sentence.words for sentence in tell_story(explained, reading, GRID)]


class Exceptions(unittest.TestCase):
    def test_tones_of_the_chord_are_told_by_their_degree(self) -> None:
        words = told("8:F5 Eb5 Db5 C5 4:Bb4 C5 4:E5 G5 8:E5 C5 4:Bb4 2:C5", "F minor", "| Fm7 | C7 | Fm7 |",
                     "home-and-chord-tones")  # fmt: skip
        self.assertIn("Notes 1 to 12: F natural minor (A♭ major); notes 7 and 9 are the third of C7.", words)

    def test_notes_on_the_way_are_named(self) -> None:
        words = told("8:C6 B5 Bb5 A5 G5 F5 E5 D5 4:C5", "F major", "| C7 |", "chord-by-chord")
        self.assertIn("Notes 1 to 9: C Mixolydian (F major); note 2, B, is on the way.", words)
        words = told("4:E4 F4 8:F#4 G4 4:C5", "C major", "| C |", "home-and-chord-tones")
        self.assertTrue(any("note 3, F♯, is on the way" in each for each in words), words)

    def test_a_pentatonic_with_the_third_of_the_chord(self) -> None:
        words = told("8:C5 C#5 E5 A5 G5 E5 D5 C5 4:A4", "A blues", "| A7 |")
        self.assertIn("Notes 1 to 9: A minor pentatonic (C major pentatonic); note 2 is the third of A7.", words)


class Teachers(unittest.TestCase):
    def test_progressions_by_name(self) -> None:
        for chart, key, words in (
            ("| Dm7 | G7 | Cmaj7 |", "C major", "a two-five-one in C."),
            ("| Em7b5 | A7 | Dm7 |", "D minor", "a two-five-one in D minor."),
            ("| Bbm7 | Eb7 | Abmaj7 |", "F major", "a two-five-one in A♭: now in A♭."),
            ("| Bb7 | Cmaj7 | C |", "C major", "the back door, B♭7 to Cmaj7."),
            ("| Db7 | Cmaj7 | C |", "C major", "a tritone substitute, D♭7 to Cmaj7."),
            ("| C | Fm | C |", "C major", "Fm, the four minor borrowed from C minor."),
        ):
            line = "4:C5 D5 E5 F5 4:C5 D5 E5 F5 4:C5 D5 E5 F5"
            self.assertTrue(any(each.endswith(words) for each in told(line, key, chart)), chart)
        self.assertFalse(any("two-five" in each for each in told("4:C5 D5 E5 F5", "C major", "| Dm7 | G7 | C |")),
                         "the line has gone before its chords come")  # fmt: skip

    def test_cells_and_upper_structures(self) -> None:
        self.assertIn(
            "Notes 1 to 4: the cell 1-2-3-5 of E♭maj7.", told("8:Eb5 F5 G5 Bb5 2:G5", "Eb major", "| Ebmaj7 |")
        )
        self.assertIn("Notes 1 to 4: the cell 5-♭3-2-1 of Cm7.", told("8:G5 Eb5 D5 C5 2:G4", "C minor", "| Cm7 |"))
        words = told("8:D5 F#5 A5 F#5 2:E5", "F major", "| C7 |")
        self.assertIn("Notes 1 to 4: an upper structure, the triad D over C7.", words)
        self.assertFalse(any("upper" in each for each in told("8:C5 E5 G5 E5 2:C5", "C major", "| C7 |")))

    def test_side_slips_and_pickups(self) -> None:
        words = told("8:D5 F5 A5 C6 Eb5 Gb5 Bb5 Gb5 F5 D5 4:C5 2:A4", "D Dorian", "| Dm7 |")
        self.assertIn("Notes 5 to 8: a side slip, the key's scale a half step up.", words)
        inside = told("8:D5 F5 A5 C6 B5 G5 E5 G5 F5 D5 4:C5 2:A4", "D Dorian", "| Dm7 |")
        self.assertFalse(any("side slip" in each for each in inside))
        words = told("2:r 4:r 8:C5 E5 2:F5 4:A5 C6", "F major", "| C7 | F |")
        self.assertIn("Notes 1 and 2: a pickup into F.", words)
        self.assertFalse(any("pickup" in each for each in told("4:C5 E5 G5 C6 2:A5", "F major", "| C7 | F |")))

    def test_guide_tones_are_followed_through_ornaments(self) -> None:
        words = told("4:D5 F5 4.:C6 8:A#5 2:B5 4:G5 F5", "C major", "| Dm7 | G7 |")
        self.assertTrue(any("the flat seven of Dm7 falls a half step to the third of G7" in w for w in words), words)

    def test_steps_of_a_key_are_named_by_it(self) -> None:
        words = told("8:G4 B4 A4 C5 B4 D5 C5 E5 4:D5", "G major", "| G |")
        self.assertTrue(any("one figure four times, each a step up in G" in each for each in words), words)

    def test_what_encloses_is_told_of_its_degree(self) -> None:
        words = told("8:C5 E5 G5 Bb5 A5 F#5 4:G5", "C major", "| C |")
        self.assertTrue(any("and then the fifth of C" in each for each in words), words)


class Passages(unittest.TestCase):
    """The figures of docs/reasons.md, so that they are not lost unnoticed."""

    def test_what_players_said_is_said_as_often_as_it_was(self) -> None:
        for passages, least in ((PASSAGES, (31, 32, 13)), (FRESH, (28, 21, 11)), (LAST, (18, 24, 7))):
            right = judge(passages).right
            for kind, count in zip(("source", "role", "event"), least, strict=True):
                self.assertGreaterEqual(right[kind], count, kind)

    def test_every_named_source_holds_its_notes(self) -> None:
        for passage in (*PASSAGES, *FRESH, *LAST):
            grid = BeatGrid(120, 0.0, passage.beats)
            notes = written(passage.line, 0.0, grid)
            for each in explain_by_all(notes, parse_key(passage.key), parse_chart(passage.chart), grid):
                for note, reason in zip(notes, each.reasons, strict=True):
                    if reason.standing == "in" and reason.source is not None:
                        self.assertFalse(reason.source.borrows(note.landed), passage.name)
