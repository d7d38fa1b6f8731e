"""Geometry and words of the views, without a whole window."""

import unittest
from dataclasses import replace
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel

from eager_owl.audio.decode import Cancelled
from eager_owl.audio.player import LoopSource
from eager_owl.desktop import theme as themes
from eager_owl.desktop.actions import key_words
from eager_owl.desktop.desk import Desk
from eager_owl.desktop.desk_layout import MARGIN_LEFT, DeskLayout
from eager_owl.desktop.evidence import Evidence
from eager_owl.desktop.jobs import Job
from eager_owl.desktop.neck_view import NeckView
from eager_owl.desktop.notice import Notice
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.playback import Player, SimulatedDevice, default_device
from eager_owl.desktop.rail import Rail, contour_points
from eager_owl.desktop.theme import DAY
from eager_owl.desktop.words import clock_text, interval_text, mark_text, technique_name, technique_words
from eager_owl.neck.hand import fret_mm
from eager_owl.reasons.explain import Reason
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session import place_notes
from eager_owl.solo import edits
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.solo.techniques import Technique
from eager_owl.theory.chord import parse_chord
from tests.support import line

APP = QApplication.instance() or QApplication([])
themes.load_fonts()


def solo() -> Solo:
    notes = tuple(replace(n, contour_cents=(0,) * 22, level_db=(-20,) * 22) for n in line(65, 68, 70, 72))
    base = Solo("Test", key_text="F minor", chart_text="| Fm7 |", grid=BeatGrid(), phrases=(Phrase(0, 1.2, "One"),))
    return place_notes(replace(base, notes=notes), notes)


class Layout(unittest.TestCase):
    def layout(self, strings: int = 6) -> DeskLayout:
        return DeskLayout(900, 400, 2.0, 6.0, (64, 59, 55, 50, 45, 40, 35, 30)[:strings])

    def test_time_and_pixels_are_inverse(self) -> None:
        layout = self.layout()
        self.assertEqual(layout.x_of(2.0), MARGIN_LEFT)
        self.assertEqual(layout.x_of(6.0), layout.right)
        for time in (2.5, 3.14, 5.9):
            self.assertAlmostEqual(layout.time_at(layout.x_of(time)), time)

    def test_rows_follow_each_other_at_every_size_and_number_of_strings(self) -> None:
        for height in (360, 400, 900):
            for strings in (4, 6, 8):
                layout = replace(self.layout(strings), height=height)
                rows = [layout.wave.bottom(), layout.written, layout.first_string, layout.string_y(strings)]
                rows += [layout.chords, layout.intervals, layout.sources, layout.sentence, height]
                self.assertEqual(rows, sorted(rows), (height, strings))

    def test_a_whole_step_on_the_thinnest_string_stays_under_the_written_values(self) -> None:
        layout = self.layout()
        self.assertGreater(layout.first_string - 2 * layout.semitone, layout.written + 10)

    def test_strings_plates_and_points(self) -> None:
        layout = self.layout()
        note = Note(1, 3.0, 1.0, 64, string=2, fret=5)
        self.assertEqual(layout.string_at(layout.string_y(4) + 3), 4)
        self.assertTrue(layout.is_on(note, layout.plate(note).center()))
        self.assertTrue(layout.is_on(note, QPointF(layout.x_of(3.8), layout.string_y(2))))
        self.assertFalse(layout.is_on(note, QPointF(layout.x_of(3.8), layout.string_y(4))))
        self.assertFalse(layout.is_on(note, QPointF(layout.x_of(5.0), layout.string_y(2))))
        self.assertGreater(layout.plate(replace(note, fret=15)).width(), layout.plate(note).width())
        self.assertTrue(layout.shows(note))
        self.assertFalse(layout.shows(replace(note, onset=7.0)))

    def test_a_note_without_a_place_has_a_line_all_the_same(self) -> None:
        self.assertIn(self.layout().line_of(Note(1, 3, 1, 62)), range(1, 7))


class Words(unittest.TestCase):
    def test_a_name_stands_beside_its_measurement(self) -> None:
        cases = {
            Technique("bend", 1.96, 0.14): "whole-step bend, 196 cents in 140 ms",
            Technique(
                "bend_release", 1.0, 0.1, 0.2
            ): "half-step bend, released, 100 cents in 100 ms, let down in 200 ms",
            Technique("vibrato", rate_hz=5.43, extent_cents=20.2): "vibrato 5.4 a second, ±20 cents",
            Technique("trill", 2.0, rate_hz=9.1): "trill of 2.0 semitones, 9.1 notes a second",
            Technique("slide", -2.0, 0.08): "slide, 200 cents in 80 ms",
            Technique("ghost"): "ghost note",
        }
        for technique, words in cases.items():
            self.assertEqual(technique_words(technique), words)
        self.assertEqual(technique_name(Technique("prebend_release", 2.0)), "whole-step pre-bend, released")

    def test_intervals(self) -> None:
        chord = parse_chord("Fm7")
        plain = Reason(chord, "b7", "b7", None, "outside", "chord tone")
        self.assertEqual(interval_text(plain), "♭7")
        self.assertEqual(interval_text(replace(plain, lands_chord="R")), "♭7→R")
        self.assertEqual(interval_text(replace(plain, interval_chord=None)), "♭7")
        self.assertEqual(interval_text(Reason(None, None, None, None, "outside", "outside")), "·")

    def test_signs_clock_and_keys(self) -> None:
        note = Note(1, 0, 1, 60)
        for technique, sign in ((Technique("hammer_on"), "h"), (Technique("pull_off"), "p"),
                                (Technique("slide", 2.0), "/"), (Technique("slide", -2.0), "\\")):  # fmt: skip
            self.assertEqual(mark_text(replace(note, techniques=(technique,))), sign)
        self.assertEqual(mark_text(note), "")
        self.assertEqual([clock_text(t) for t in (0, 61.25, -1)], ["0:00.0", "1:01.2", "0:00.0"])
        self.assertEqual([key_words(k) for k in ("Ctrl+Shift+Left", "PgDown", "Ctrl++")],
                         ["Ctrl Shift ←", "Page down", "Ctrl +"])  # fmt: skip


class Opened(unittest.TestCase):
    def test_an_edit_settles_into_one_step_of_undo(self) -> None:
        opened = OpenSolo(solo(), None)
        before = opened.solo
        opened.do("pitch", lambda s: edits.change_pitch(s, [1], 1), [1])
        opened.settle()
        self.assertEqual(opened.undo_stack.count(), 1)
        after = opened.solo
        self.assertIsNotNone(after.note(1).string)
        opened.undo()
        self.assertEqual(opened.solo, before)
        opened.redo()
        self.assertEqual(opened.solo, after)

    def test_what_cannot_be_done_is_told_and_leaves_no_step(self) -> None:
        opened = OpenSolo(solo(), None)
        told: list[str] = []
        opened.complaint.connect(told.append)
        self.assertFalse(opened.do("pitch", lambda s: edits.change_pitch(s, [1], 60), [1]))
        self.assertFalse(opened.do("nothing", lambda s: s))
        self.assertEqual(opened.undo_stack.count(), 0)
        self.assertRegex(told[0], "off this neck")

    def test_a_change_tells_which_notes_it_touched(self) -> None:
        opened = OpenSolo(solo(), None)
        touched: list[list[Note]] = []
        opened.changed.connect(touched.append)
        opened.do("pin", lambda s: edits.toggle_pins(s, [2]))
        self.assertEqual([n.id for n in touched[0]], [2, 2])

    def test_explanations_are_kept_until_the_notes_change(self) -> None:
        opened = OpenSolo(solo(), None)
        first = opened.explanation("chord-by-chord")
        self.assertIs(opened.explanation("chord-by-chord"), first)
        opened.do("pitch", lambda s: edits.change_pitch(s, [1], 1), [1])
        self.assertIsNot(opened.explanation("chord-by-chord"), first)

    def test_what_a_loop_plays(self) -> None:
        opened = OpenSolo(solo(), None)
        self.assertEqual(opened.play_range(), (0, 1.2))
        opened.set_span((0.2, 0.4))
        self.assertEqual(opened.play_range(), (0.2, 0.4))


class Views(unittest.TestCase):
    def setUp(self) -> None:
        themes.apply(DAY)
        self.opened = OpenSolo(solo(), None)

    def test_frets_stand_at_their_true_distances(self) -> None:
        neck = NeckView(DAY)
        neck.resize(900, 200)
        neck.show_solo(self.opened)
        low, high = neck._frets
        gaps = np.diff([neck.fret_x(f) for f in range(low, high + 1)])
        true = np.diff([fret_mm(f, 648.0) for f in range(low, high + 1)])
        np.testing.assert_allclose(gaps / gaps[0], true / true[0], rtol=1e-6)

    def test_the_evidence_tells_measurement_name_doubt_and_schools(self) -> None:
        bent = replace(
            self.opened.solo.notes[1], techniques=(Technique("bend", 1.96, 0.14),), runners_up=((56, 0.05),)
        )
        self.opened.do("bend", lambda s: replace(s, notes=(s.notes[0], bent, *s.notes[2:])))
        self.opened.settle()
        self.opened.select([bent.id])
        evidence = Evidence(DAY)
        evidence.show_solo(self.opened)
        words = " | ".join(label.text() for label in evidence.findChildren(QLabel))
        for part in ("Note 2", "A♭4", "B♭4", "196 cents in 140 ms", "How sure: > 99 in 100", "flat three",
                     "of F minor", "chord by chord", "two pentatonics", "bar 1, beat"):  # fmt: skip
            self.assertIn(part, words)

    def test_the_desk_repaints_only_around_an_edit(self) -> None:
        desk = Desk(DAY)
        desk.resize(930, 405)
        desk.show_solo(self.opened)
        before = desk.grab().toImage()
        self.opened.do("ghost", lambda s: edits.toggle_technique(s, [1], "ghost"))
        desk.refresh_notes(self.opened.solo.notes[:1])
        after = desk.grab().toImage()
        layout = desk.desk_layout
        plate, far = layout.plate(self.opened.solo.notes[0]), layout.plate(self.opened.solo.notes[3])
        self.assertNotEqual(before.copy(plate.toRect()), after.copy(plate.toRect()))
        self.assertEqual(before.copy(far.toRect()), after.copy(far.toRect()))

    def test_tiles_share_the_rail_and_narrow_ones_scroll(self) -> None:
        rail = Rail(DAY)
        rail.resize(1000, 90)
        for count in (1, 5, 30):
            phrases = tuple(Phrase(i, i + 1, f"Phrase {i}") for i in range(count))
            rail.strip.show_solo(OpenSolo(Solo(phrases=phrases), None))
            tiles = [rail.strip.tile(i) for i in range(count)]
            self.assertTrue(all(t.width() >= 119 for t in tiles))
            self.assertTrue(all(a.right() < b.left() for a, b in pairwise(tiles)))

    def test_a_tile_is_drawn_from_what_was_measured(self) -> None:
        phrase = self.opened.solo.phrases[0]
        lines = contour_points(self.opened.solo, phrase)
        self.assertEqual([points[0][1] for points in lines], [65, 68, 70, 72])

    def test_a_question_is_not_covered_by_a_remark(self) -> None:
        notice, done = Notice(), []
        notice.ask("Bring it back?", {"Yes": lambda: done.append(1)})
        notice.show()
        notice.tell("something small", 1000)
        self.assertEqual(notice.words.text(), "Bring it back?")
        notice._buttons[0].click()
        self.assertEqual(done, [1])
        notice.tell("something small", 1000)
        self.assertEqual(notice.words.text(), "Something small")


class Playing(unittest.TestCase):
    def test_the_player_tells_where_the_ear_is_and_when_it_ends(self) -> None:
        device, moved, stopped = SimulatedDevice(), [], []
        player = Player(device, APP)
        player.moved.connect(moved.append)
        player.stopped.connect(lambda: stopped.append(1))
        source = LoopSource(np.full((4000, 2), 0.1, np.float32), 8000, 2.0, 1.0, loop=False)
        player.play(source)
        self.assertTrue(player.playing)
        for _ in range(400):
            device.advance(0.1)
            QTest.qWait(5)
            if stopped:
                break
        self.assertFalse(player.playing)
        self.assertEqual(moved[-1], 2.5)
        self.assertEqual(moved, sorted(moved))
        player.stop()
        self.assertEqual(stopped, [1])

    def test_there_is_always_a_device(self) -> None:
        self.assertTrue(default_device().name)
        self.assertEqual(SimulatedDevice().latency_frames(), 0)


class Jobs(unittest.TestCase):
    def run_job(self, work: object, cancel: bool = False) -> list[object]:
        job, seen = Job(work), []
        job.done.connect(lambda result: seen.append(("done", result)))
        job.failed.connect(lambda words: seen.append(("failed", words)))
        job.cancelled.connect(lambda: seen.append(("cancelled", None)))
        if cancel:
            job.cancel()
        job.start()
        for _ in range(500):
            QTest.qWait(5)
            if seen:
                break
        return seen

    def test_a_job_ends_in_one_of_three_ways(self) -> None:
        def stopped(job: Job) -> None:
            raise Cancelled

        def broken(job: Job) -> None:
            raise ValueError("the reason")

        self.assertEqual(self.run_job(lambda job: 7), [("done", 7)])
        self.assertEqual(self.run_job(broken), [("failed", "the reason")])
        self.assertEqual(self.run_job(stopped), [("cancelled", None)])
        self.assertEqual(self.run_job(lambda job: job.progress(0.5, "x"), cancel=True), [("cancelled", None)])
