import json
import unittest
from dataclasses import replace

from eager_owl.notation.marks import fret_text
from eager_owl.notation.notes_file import NotesFileError, read_notes, write_notes
from eager_owl.notation.tab import text_tab
from eager_owl.reasons.explain import explain
from eager_owl.reasons.schools import reason_schools
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Instrument, Note, Phrase, Solo
from eager_owl.solo.techniques import Technique, bend_words
from eager_owl.theory.key import parse_key
from tests.support import line


def note(fret: int, *techniques: Technique) -> Note:
    return Note(1, 0.0, 0.5, 59 + fret, string=2, fret=fret, techniques=techniques)


class Marks(unittest.TestCase):
    def test_every_sign(self) -> None:
        cases = {
            "8": (),
            "h8": (Technique("hammer_on"),),
            "p8": (Technique("pull_off"),),
            "/8": (Technique("slide", 2.0),),
            "\\8": (Technique("slide", -2.0),),
            "8b10": (Technique("bend", 1.96),),
            "8b9r8": (Technique("bend_release", 1.02),),
            "8b¼": (Technique("bend", 0.5),),
            "(8b)10": (Technique("prebend", 2.0),),
            "(8b)10r8": (Technique("prebend_release", 2.0),),
            "8b10~": (Technique("bend", 2.0), Technique("vibrato")),
            "(8)": (Technique("ghost"),),
            "8.": (Technique("staccato"),),
            "8tr": (Technique("trill", 2.0),),
        }
        for text, techniques in cases.items():
            self.assertEqual(fret_text(note(8, *techniques)), text)
        self.assertEqual(fret_text(replace(note(8), fret=None)), "?")

    def test_bend_words(self) -> None:
        self.assertEqual([bend_words(s) for s in (0.45, 0.97, 1.9, 3.05)],
                         ["quarter-step", "half-step", "whole-step", "step-and-a-half"])  # fmt: skip


class Tab(unittest.TestCase):
    def solo(self) -> Solo:
        notes = line(67, 70, 72, 75, 72, beat_s=0.5)
        spots = [(2, 8), (2, 11), (1, 8), (1, 11), (1, 8)]
        notes = [replace(n, string=s, fret=f) for n, (s, f) in zip(notes, spots, strict=True)]
        notes[3] = replace(notes[3], techniques=(Technique("bend", 2.0),))
        return Solo("Test tune", key_text="F minor", chart_text="| Fm7 | C7 |", grid=BeatGrid(120, 0, 4),
                    phrases=(Phrase(0, 4, "One"),), notes=tuple(notes))  # fmt: skip

    def test_barred_tab(self) -> None:
        text = text_tab(self.solo())
        self.assertIn("Test tune\n=========\nF minor · tuning E A D G B E · 120 beats a minute, 4 to the bar", text)
        self.assertIn("1 One\n", text)
        rows = [row for row in text.splitlines() if row.startswith("e|")]
        self.assertRegex(rows[0], r"^e\|-+8-+11b13-+\|-8-+\|$")
        self.assertIn("1 Fm7", text)
        self.assertIn("2 C7", text)
        self.assertIn("Marks: b bend up to", text)
        widths = {len(r) for r in text.splitlines() if r[1:2] == "|"}
        self.assertEqual(len(widths), 1)

    def test_without_a_beat_it_is_spaced_by_time(self) -> None:
        text = text_tab(replace(self.solo(), grid=None))
        self.assertRegex(text, r"e\|-+8-+11b13-+8-+\|")

    def test_unplaced_notes_and_other_guitars(self) -> None:
        solo = replace(self.solo(), instrument=Instrument((64, 59, 55, 50, 45, 40, 35)), phrases=())
        solo = replace(solo, notes=(*solo.notes[:4], replace(solo.notes[4], string=None, fret=None)))
        text = text_tab(solo)
        self.assertIn("?", text)
        self.assertEqual(sum(row.startswith("B|") for row in text.splitlines()), 2)

    def test_long_lines_wrap(self) -> None:
        notes = [replace(n, string=1, fret=n.pitch - 64) for n in line(*[64, 65, 67, 69] * 20, beat_s=0.25)]
        text = text_tab(Solo(notes=tuple(notes), grid=BeatGrid(120, 0, 4)))
        self.assertLessEqual(max(map(len, text.splitlines())), 80)
        self.assertEqual(text.count("e|"), 5)

    def test_an_empty_solo(self) -> None:
        self.assertIn("Untitled solo", text_tab(Solo()))


class NotesFile(unittest.TestCase):
    def test_round_trip(self) -> None:
        notes = [replace(note(8, Technique("bend", 2.0, 0.14)), finger=3, confidence=0.9, loudness_db=-12.0)]
        text = write_notes(notes, Instrument(), -12.0)
        read, instrument, cents = read_notes(text, "x.json")
        self.assertEqual((instrument, cents), (Instrument(), -12.0))
        self.assertEqual(replace(read[0], pins=frozenset()), notes[0])

    def test_the_written_form(self) -> None:
        notes = line(72)
        reasons = explain(
            notes, parse_key("F minor"), parse_chart("| Fm7 |"), BeatGrid(), reason_schools()["two-pentatonics"]
        )
        content = json.loads(write_notes(notes, Instrument(), 0.0, reasons.reasons))
        self.assertEqual(
            (content["format"], content["version"], content["capo"], content["frets"]), ("eager-owl/notes", 1, 0, 22)
        )
        row = content["notes"][0]
        self.assertEqual(
            {k: row[k] for k in ("pitch", "chord", "interval_key", "interval_chord", "source", "role")},
            {"pitch": 72, "chord": "Fm7", "interval_key": "5", "interval_chord": "5",
             "source": "F minor pentatonic", "role": "chord tone"},
        )  # fmt: skip
        self.assertNotIn("string", row)

    def test_bare_notes_are_enough_and_given_places_are_pins(self) -> None:
        bare, given = {"onset": 1, "pitch": 64}, {"onset": 0, "pitch": 67, "string": 2, "fret": 8}
        text = json.dumps({"format": "eager-owl/notes", "version": 1, "notes": [bare, given]})
        notes, instrument, _ = read_notes(text, "x.json")
        self.assertEqual([n.onset for n in notes], [0, 1])
        self.assertEqual(notes[0].pins, frozenset({"place"}))
        self.assertEqual(instrument, Instrument())

    def test_bad_files(self) -> None:
        head = '{"format": "eager-owl/notes", "version": 1, '
        for text, reason in (
            ("nope", "not JSON"),
            ("{}", "not a notes file"),
            ('{"format": "eager-owl/notes", "version": 7, "notes": []}', "version 7"),
            (head + '"notes": [{"pitch": 64}]}', "notes › 0 › onset"),
            (head + '"notes": [{"onset": 0, "pitch": 640}]}', "notes › 0 › pitch"),
            (head + '"notes": [{"onset": 0, "pitch": 64, "techniques": [{"name": "wobble"}]}]}', "techniques"),
            (head + '"notes": [{"onset": 0, "pitch": 64, "string": 9}]}', "no string 9"),
            (head + '"tuning": [64], "notes": []}', "tuning of 1"),
            (head + '"notes": [{"onset": NaN, "pitch": 64}]}', "NaN is no number"),
        ):
            with self.assertRaisesRegex(NotesFileError, reason):
                read_notes(text, "x.json")
