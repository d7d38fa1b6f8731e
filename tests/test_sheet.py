"""The written page: nothing on it touches, whatever is set; its text is text; only what changed is laid out anew."""

import re
import unittest
from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from hypothesis import HealthCheck, given, settings
from PySide6.QtGui import QImage, QPainter

from eager_owl.desktop.drawing import Drawing
from eager_owl.desktop.sheet_painter import paint_page, text_width
from eager_owl.notation.grouping import beam_groups, trimmed, triplet_groups
from eager_owl.notation.loudness import loudness_marks
from eager_owl.notation.score import write_score
from eager_owl.notation.sheet.ink import Line, Shape, Sign, Words
from eager_owl.notation.sheet.memory import Memory
from eager_owl.notation.sheet.pages import PAPERS, ROLL, Paper, Sheet, items_of, lay_sheet
from eager_owl.notation.sheet.presets import PRESETS
from eager_owl.notation.sheet.rows import _widest_between, count_of
from eager_owl.notation.sheet.standard_staff import signature_of, staff_step
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.sheets import SheetMatter
from eager_owl.solo.document import Instrument, Note, Phrase, Remark, Solo, with_notes
from eager_owl.solo.techniques import Technique
from eager_owl.theory.key import parse_key
from tests.support import line
from tests.windows import APP
from tests.written import demo_solo, placed, written_solos

_SLACK_PT = 0.4


def lay(solo: Solo, preset: str = "analysis", paper: Paper = PAPERS["A4"], phrase: int | None = None) -> Sheet:
    return lay_sheet(SheetMatter().of(solo, PRESETS[preset], phrase), PRESETS[preset], paper, text_width)


def touching(sheet: Sheet) -> list[str]:
    """Words and signs that touch one another; the parts of one wavy line do."""
    found = []
    for page in sheet.pages:
        boxes = sorted(page.boxes(), key=lambda pair: pair[1][0])
        for index, (item, box) in enumerate(boxes):
            for other, its in boxes[index + 1 :]:
                if its[0] >= box[2] - _SLACK_PT:
                    break
                wave = isinstance(item, Sign) and isinstance(other, Sign) and item.name == other.name == "wiggleTrill"
                if box[1] < its[3] - _SLACK_PT and its[1] < box[3] - _SLACK_PT and not wave:
                    found.append(f"{label(item)} and {label(other)}")
    return found


def label(item: Words | Sign) -> str:
    return item.text if isinstance(item, Words) else item.name


def outside(sheet: Sheet) -> list[str]:
    return [
        label(item)
        for page in sheet.pages
        for item, (left, top, right, bottom) in page.boxes()
        if left < 0 or top < 0 or right > page.width or bottom > page.height
    ]


def words_on(sheet: Sheet) -> list[str]:
    return [item.text for page in sheet.pages for item, _ in page.boxes() if isinstance(item, Words)]


def signs_on(sheet: Sheet) -> list[str]:
    return [item.name for page in sheet.pages for item, _ in page.boxes() if isinstance(item, Sign)]


def solo_of(notes: Iterable[Note], grid: BeatGrid | None = None, **fields: object) -> Solo:
    notes = list(notes)
    phrase = Phrase(0.0, notes[-1].end + 0.1, "Phrase")
    solo = Solo(
        key_text="F minor", chart_text="| Fm7 | Bbm7 | Gm7b5 C7 | Fm7 |", grid=grid or BeatGrid(), phrases=(phrase,)
    )
    return placed(with_notes(replace(solo, **fields), notes))  # type: ignore[arg-type]


def dense_run(count: int = 64) -> Solo:
    pitches = [65 + (0, 3, 5, 7, 10, 12)[i % 6] for i in range(count)]
    return solo_of(line(*pitches, beat_s=0.125))


def double_stops() -> Solo:
    notes = [
        Note(2 * i + n, 0.5 * i, 0.48, pitch, techniques=(Technique("double_stop"),))
        for i in range(24)
        for n, pitch in enumerate((65 + i % 5, 69 + i % 5), 1)
    ]
    return solo_of(notes)


def in_six_eight() -> Solo:
    grid = BeatGrid(80, 0.0, 2, division=3)
    return solo_of(line(*[65, 67, 68, 70, 72, 75] * 8, beat_s=0.25), grid)


def seven_strings() -> Solo:
    seven = Instrument((64, 59, 55, 50, 45, 40, 35))
    return solo_of(line(*range(36, 60), beat_s=0.25), instrument=seven)


def every_technique() -> Solo:
    kinds = [
        Technique("bend", 2.0), Technique("bend_release", 1.0), Technique("prebend", 2.0),
        Technique("prebend_release", 3.0), Technique("vibrato"), Technique("slide", 2.0), Technique("slide_in", 2.0),
        Technique("slide_out", -2.0), Technique("hammer_on"), Technique("pull_off"), Technique("trill", 2.0),
        Technique("grace"), Technique("ghost"), Technique("rake"), Technique("staccato"), Technique("palm_mute"),
        Technique("let_ring"), Technique("harmonic"), Technique("tap"),
    ]  # fmt: skip
    notes = [
        replace(n, techniques=(kind,)) for n, kind in zip(line(*[65] * len(kinds), beat_s=0.5), kinds, strict=True)
    ]
    return solo_of(notes)


def remarked() -> Solo:
    solo = demo_solo()
    notes = [
        replace(n, remarks=(Remark("I think he shifts here, " * 8),), confidence=0.4) if i % 4 == 0 else n
        for i, n in enumerate(solo.notes)
    ]
    phrases = tuple(
        replace(p, remarks=(Remark("falls away", False), Remark("on purpose?", True))) for p in solo.phrases
    )
    return replace(solo, notes=tuple(notes), phrases=phrases, remarks=(Remark("from the tape"),))


class Room(unittest.TestCase):
    def assert_clear(self, sheet: Sheet) -> None:
        self.assertEqual(touching(sheet), [])
        self.assertEqual(outside(sheet), [])

    def test_nothing_touches_at_any_preset_and_paper(self) -> None:
        solos = {
            "demo": demo_solo(), "dense": dense_run(), "double": double_stops(), "six eight": in_six_eight(),
            "seven": seven_strings(), "techniques": every_technique(), "remarks": remarked(),
        }  # fmt: skip
        papers = [*PAPERS.values(), *(paper.turned for paper in PAPERS.values()), ROLL]
        for name, solo in solos.items():
            for preset in PRESETS:
                for paper in papers:
                    with self.subTest(solo=name, preset=preset, paper=paper.name, width=paper.width):
                        self.assert_clear(lay(solo, preset, paper))

    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
    @given(written_solos())
    def test_nothing_touches_whatever_is_written(self, solo: Solo) -> None:
        for preset in PRESETS:
            self.assert_clear(lay(solo, preset))

    def test_long_solos_fill_their_pages_and_numbers_stand_at_the_foot(self) -> None:
        solo = solo_of(line(*[65, 68, 70, 72] * 90, beat_s=0.25))
        sheet = lay(solo, "stand")
        self.assertGreater(len(sheet.pages), 2)
        self.assertIn(f"2 of {len(sheet.pages)}", words_on(sheet))
        for page in sheet.pages[:-1]:
            lowest = max(box[3] for item, box in page.boxes() if isinstance(item, Words) and " of " not in item.text)
            self.assertGreater(lowest, 0.6 * page.height)
        self.assertEqual(len(lay(solo, "stand", ROLL).pages), 1)

    def test_systems_are_as_wide_as_the_page_but_a_last_half_empty_one(self) -> None:
        sheet = lay(solo_of(line(*[65, 68, 70, 72] * 30, beat_s=0.25)), "stand")
        rights = [
            max(item.end[0] for item in block.items if isinstance(item, Line) and item.ink == "string")
            for page in sheet.pages
            for _, _, block in page.blocks
            if any(isinstance(item, Line) and item.ink == "string" for item in block.items)
        ]
        room = PAPERS["A4"].width - 2 * PAPERS["A4"].margin
        for right in rights[:-1]:
            self.assertAlmostEqual(right, room, delta=0.5)

    def test_a_bar_too_dense_for_a_line_is_cut_at_a_beat(self) -> None:
        narrow = Paper("narrow", 260.0, 700.0, 20.0)
        sheet = lay(dense_run(32), "stand", narrow)
        self.assertEqual((touching(sheet), outside(sheet)), ([], []))

    def test_a_long_rest_is_one_bar_that_says_how_many(self) -> None:
        far = [replace(note, id=note.id + 10) for note in line(70, 72, start=80.0)]
        sheet = lay(solo_of([*line(65, 67), *far]), "stand")
        self.assertIn("39 bars", words_on(sheet))
        self.assertEqual((len(sheet.pages), touching(sheet)), (1, []))

    def test_an_empty_solo_and_one_without_a_beat_have_a_page(self) -> None:
        self.assertIn("There are no notes yet.", words_on(lay(Solo())))
        free = lay(replace(demo_solo(), grid=None), "stand")
        self.assertTrue(any("without a beat" in words for words in words_on(free)))
        self.assertEqual(touching(free), [])


class Content(unittest.TestCase):
    def test_the_analysis_tells_what_the_desk_does(self) -> None:
        told = words_on(lay(demo_solo()))
        for words in ("Night Ferry", "Pickup", "F minor pentatonic", "iiø7", "B♭m7", "♭7", "½", "h", "p"):
            self.assertIn(words, told)
        self.assertTrue(any(words.startswith("Notes 1 to") for words in told))
        self.assertTrue(any("♩ = 112" in words for words in told))
        self.assertIn("stringsDownBow", signs_on(lay(demo_solo())))

    def test_each_preset_shows_its_own(self) -> None:
        stand, lesson = lay(demo_solo(), "stand"), lay(demo_solo(), "lesson")
        self.assertNotIn("gClef8vb", signs_on(stand))
        self.assertIn("gClef8vb", signs_on(lesson))
        self.assertIn("and", words_on(lesson))
        self.assertNotIn("iiø7", words_on(lesson))
        self.assertIn("Question", words_on(stand))
        self.assertFalse(any(words.startswith("Notes 1 to") for words in words_on(stand)))

    def test_remarks_are_footnotes_on_their_own_page_and_doubts_question_marks(self) -> None:
        sheet = lay(remarked())
        for page in sheet.pages:
            marks = [item.text for item, _ in page.boxes() if isinstance(item, Words) and item.ink == "here"]
            numbers = [mark for words in marks for mark in words.split() if re.fullmatch(r"\d+", mark)]
            fingers = {"1", "2", "3", "4"}
            for number in set(numbers) - fingers:
                self.assertEqual(numbers.count(number), 2, number)  # at the note, and at the foot
        self.assertTrue(any("?" in words.split() for words in words_on(sheet)))

    def test_a_note_is_found_by_its_place(self) -> None:
        sheet = lay(demo_solo())
        note = demo_solo().notes[0]
        page, (left, top, right, bottom) = sheet.places_of(note.id)[0]
        self.assertEqual(sheet.note_at(page, (left + right) / 2, (top + bottom) / 2), note.id)
        self.assertIsNone(sheet.note_at(page, 2.0, 2.0))

    def test_only_a_phrase_that_changed_is_laid_out_anew(self) -> None:
        solo, matter, memory = demo_solo(), SheetMatter(), Memory()
        preset = PRESETS["analysis"]
        first = lay_sheet(matter.of(solo, preset), preset, PAPERS["A4"], text_width, memory=memory)
        changed = replace(solo, notes=(replace(solo.notes[0], finger=4), *solo.notes[1:]))
        second = lay_sheet(matter.of(changed, preset), preset, PAPERS["A4"], text_width, memory=memory)
        before, after = ({id(block) for page in s.pages for _, _, block in page.blocks} for s in (first, second))
        self.assertGreater(len(before & after), 1)
        self.assertEqual(touching(second), [])
        self.assertEqual(words_on(second), words_on(lay(changed)))


class Engraving(unittest.TestCase):
    def test_beams_hang_within_a_beat_and_triplets_are_three(self) -> None:
        score = write_score(line(65, 67, 68, 70, beat_s=0.25), BeatGrid())
        self.assertEqual(beam_groups(score.measures[0].voices[0]), [[0, 1], [2, 3]])
        thirds = write_score(line(*[65] * 6, beat_s=1 / 6), BeatGrid())
        self.assertEqual(triplet_groups(thirds.measures[0].voices[0]), [[0, 1, 2], [3, 4, 5]])

    def test_a_pickup_is_without_the_rests_before_it(self) -> None:
        score = write_score(line(65, 67, start=1.0), BeatGrid(120, 1.5))
        bar = trimmed(score.measures[0])
        self.assertEqual((bar.number, bar.voices[0][0].beat, bool(bar.voices[0][0].notes)), (0, -1, True))

    def test_heads_stand_where_they_are_spelled(self) -> None:
        self.assertEqual(
            [staff_step(p, n) for p, n in ((52, "E"), (53, "F"), (64, "E"), (61, "Db"), (61, "C#"))], [0, 1, 7, 6, 5]
        )
        self.assertEqual(signature_of(parse_key("F minor")), {"B": "b", "E": "b", "A": "b", "D": "b"})
        self.assertEqual(signature_of(parse_key("D major")), {"F": "#", "C": "#"})
        self.assertEqual((signature_of(parse_key("C major")), signature_of(None)), ({}, {}))

    def test_an_accidental_holds_for_its_bar(self) -> None:
        sheet = lay(solo_of(line(65, 66, 66, 65, beat_s=0.5), chart_text="", key_text="C major"), "lesson")
        self.assertEqual(signs_on(sheet).count("accidentalFlat"), 1)
        again = lay(solo_of(line(66, 67, beat_s=0.5), chart_text="", key_text="C major"), "lesson")
        self.assertEqual(signs_on(again).count("accidentalNatural"), 1)

    def test_beats_are_counted_in_syllables(self) -> None:
        half, third, quarter = Fraction(1, 2), Fraction(1, 3), Fraction(1, 4)
        counted = [
            (Fraction(0), "1"),
            (1 + half, "and"),
            (quarter, "e"),
            (3 * quarter, "a"),
            (third, "trip"),
            (quarter / 2, ""),
        ]
        for at, words in counted:
            self.assertEqual(count_of(at, 2), words)
        self.assertEqual([count_of(at * third, 3) for at in range(6)], ["1", "2", "3", "4", "5", "6"])
        self.assertEqual(count_of(third / 2, 3), "and")

    def test_loudness_is_marked_where_it_changes_and_swells_have_hairpins(self) -> None:
        levels = [-30, -27, -24, -21, -18, -15, -12, -12, -12, -12]
        notes = [replace(n, loudness_db=level) for n, level in zip(line(*[65] * 10), levels, strict=True)]
        marks, pins = loudness_marks(notes, -12)
        self.assertEqual((marks[0][1], marks[-1][1]), ("p", "f"))
        self.assertEqual([opens for _, _, opens in pins], [True])
        self.assertEqual(loudness_marks(line(*[65] * 10), -20), ([(1, "f")], []))
        self.assertEqual(loudness_marks([], 0.0), ([], []))
        self.assertEqual(_widest_between(0, 100, [(20, 30), (90, 120)]), (33, 87))
        self.assertIn("dynamicForte", signs_on(lay(solo_of(notes), "stand")))


class Drawn(unittest.TestCase):
    def test_a_page_is_painted_and_beams_are_black(self) -> None:
        sheet = lay(demo_solo())
        page = sheet.pages[0]
        picture = QImage(round(3 * page.width), round(3 * page.height), QImage.Format.Format_RGB32)
        picture.fill(0xFFFFFFFF)
        painter = QPainter(picture)
        painter.scale(3, 3)
        paint_page(painter, page)
        painter.end()
        x, y, beam = next((x, y, item) for x, y, item in items_of(page) if isinstance(item, Shape))
        (left, top), (right, _), (_, bottom), _ = beam.points
        colour = picture.pixelColor(round(3 * (x + (left + right) / 2)), round(3 * (y + (top + bottom) / 2)))
        self.assertLess(colour.lightness(), 120)
        self.assertIsNotNone(APP)

    def test_pdf_and_svg_hold_the_words(self) -> None:
        sheet = lay(demo_solo())
        pdf = Drawing().pdf(sheet)
        self.assertTrue(pdf.startswith(b"%PDF"))
        self.assertEqual(len(re.findall(rb"/Type\s*/Page\b", pdf)), len(sheet.pages))
        for family in (b"Cabin", b"Vollkorn"):
            self.assertIn(family, pdf)
        svg = Drawing().svg(lay(demo_solo(), paper=ROLL))
        for words in ("Night Ferry", "Question", "F minor pentatonic"):
            self.assertIn(words, svg)
        faces = Drawing().typefaces([sheet])
        self.assertEqual(faces.count("@font-face"), len(set(re.findall(r"@font-face\{[^;]*;[^;]*;[^;]*;", faces))))
        self.assertGreaterEqual(faces.count("@font-face"), 5)
        self.assertLess(len(faces), 400_000)
        self.assertNotIn("http:", faces)
