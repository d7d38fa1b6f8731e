"""Geometry and words of the views, without a whole window."""

import threading
import unittest
from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QLabel, QMessageBox, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.adapters import QtClock, QtDialogs, QtWorkers
from eager_owl.desktop.panels.evidence import Evidence
from eager_owl.desktop.sound_device import default_device
from eager_owl.desktop.theme import DAY
from eager_owl.desktop.views.desk import Desk
from eager_owl.desktop.views.desk_layout import MARGIN_LEFT, DeskLayout
from eager_owl.desktop.views.neck import Neck
from eager_owl.desktop.views.rail import Rail, contour_points
from eager_owl.desktop.widgets.notice import Notice
from eager_owl.desktop.words import beat_text, clock_text, mark_text, technique_name, technique_words
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.explaining import Reason, interval_text
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.placing import place_notes
from eager_owl.solo import edits
from eager_owl.solo.document import Note, Phrase, Solo, fret_mm
from eager_owl.solo.techniques import Technique
from eager_owl.theory.chord import parse_chord
from tests.sessions import SessionCase
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
        grid = BeatGrid(60.0, 4.01, 4)
        self.assertEqual([beat_text(grid, t) for t in (0.0, 4.01, 9.51)], ["0, 1.0", "1, 1.0", "2, 2.5"])
        self.assertEqual([clock_text(t) for t in (0, 61.25, -1)], ["0:00.0", "1:01.2", "0:00.0"])


class Views(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        themes.apply(DAY)
        self.session.show(OpenSolo(solo(), None, None, self.clock))

    def test_frets_stand_at_their_true_distances(self) -> None:
        neck = Neck(self.session)
        neck.resize(900, 200)
        neck.refresh()
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
        evidence = Evidence(self.session)
        evidence.write(self.opened)
        words = " | ".join(label.text() for label in evidence.findChildren(QLabel))
        for part in ("Note 2", "A♭4", "B♭4", "196 cents in 140 ms", "How sure: > 99 in 100", "flat three",
                     "of F minor", "chord by chord", "two pentatonics", "bar 1, beat"):  # fmt: skip
            self.assertIn(part, words)

    def test_the_desk_repaints_only_around_an_edit(self) -> None:
        desk = Desk(self.session)
        desk.resize(930, 405)
        desk.refresh()
        before = desk.grab().toImage()
        self.opened.do("ghost", lambda s: edits.toggle_technique(s, [1], "ghost"))
        desk.refresh_notes(self.opened.solo.notes[:1])
        after = desk.grab().toImage()
        layout = desk.desk_layout
        plate, far = layout.plate(self.opened.solo.notes[0]), layout.plate(self.opened.solo.notes[3])
        self.assertNotEqual(before.copy(plate.toRect()), after.copy(plate.toRect()))
        self.assertEqual(before.copy(far.toRect()), after.copy(far.toRect()))

    def test_the_arc_out_of_a_bend_stands_under_the_string(self) -> None:
        first, second = (
            replace(n, string=2, fret=f, pitch=59 + f) for n, f in zip(self.opened.notes, (8, 6), strict=False)
        )
        bent = replace(first, techniques=(Technique("bend_release", 2.0, 0.1, release_s=0.1),))
        desk = Desk(self.session)
        desk.resize(930, 405)
        for before, is_under in ((first, False), (bent, True)):
            pictures = []
            for after in (second, replace(second, techniques=(Technique("pull_off"),))):
                notes = (before, after, *self.opened.solo.notes[2:])
                self.opened.do("played so", lambda solo, notes=notes: replace(solo, notes=notes))
                desk.refresh()
                pictures.append(desk.grab().toImage())
            layout = desk.desk_layout
            middle = round((layout.plate(before).right() + layout.plate(second).left()) / 2)
            string = round(layout.string_y(2))
            changed = {
                under
                for under, rows in ((False, range(string - 30, string - 5)), (True, range(string + 6, string + 30)))
                if any(pictures[0].pixel(middle, y) != pictures[1].pixel(middle, y) for y in rows)
            }
            self.assertEqual(changed, {is_under})

    def test_tiles_share_the_rail_and_narrow_ones_scroll(self) -> None:
        rail = Rail(self.session)
        rail.resize(1000, 90)
        for count in (1, 5, 30):
            phrases = tuple(Phrase(i, i + 1, f"Phrase {i}") for i in range(count))
            self.session.show(OpenSolo(Solo(phrases=phrases), None, None, self.clock))
            rail.refresh()
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
        notice.tell("something small", False)
        self.assertEqual(notice.words.text(), "Bring it back?\nSomething small")
        notice._timer.timeout.emit()
        self.assertEqual(notice.words.text(), "Bring it back?")
        notice._buttons[0].click()
        self.assertEqual(done, [1])
        notice.tell("something small", False)
        self.assertEqual(notice.words.text(), "Something small")


class Sound(unittest.TestCase):
    def test_there_is_always_a_device(self) -> None:
        self.assertTrue(default_device(QtClock()).name)


def comes(reached: Callable[[], bool]) -> bool:
    """Whether something comes about, with time enough for a busy machine."""
    for _ in range(1000):
        if reached():
            return True
        QTest.qWait(5)
    return False


class Adapters(unittest.TestCase):
    def test_a_timer_calls_once_or_again_and_again(self) -> None:
        called: list[str] = []
        once = QtClock().timer(0.005, lambda: called.append("once"))
        again = QtClock().timer(0.005, lambda: called.append("again"), repeat=True)
        self.assertFalse(once.running)
        once.start()
        again.start()
        self.assertTrue(comes(lambda: called.count("again") > 2))
        again.stop()
        self.assertEqual((called.count("once"), once.running, again.running), (1, False, False))

    def test_work_is_done_on_a_thread_and_told_on_this_one(self) -> None:
        workers, threads = QtWorkers(), []

        def work() -> None:
            threads.append(threading.current_thread())
            workers.post(lambda: threads.append(threading.current_thread()))

        workers.start(work)
        self.assertTrue(comes(lambda: len(threads) == 2))
        self.assertIsNot(threads[0], threading.main_thread())
        self.assertIs(threads[1], threading.main_thread())

    def test_dialogs_answer_or_decline(self) -> None:
        dialogs, buttons = QtDialogs(QWidget()), QMessageBox.StandardButton
        for path, answer in (("/a/b.wav", Path("/a/b.wav")), ("", None)):
            with (
                mock.patch.object(QFileDialog, "getOpenFileName", return_value=(path, "")),
                mock.patch.object(QFileDialog, "getSaveFileName", return_value=(path, "")),
            ):
                self.assertEqual(dialogs.open_file("Open", "Any (*)"), answer)
                self.assertEqual(dialogs.save_file("Save", Path("x"), "Any (*)"), answer)
        for given in (("Name", True), ("", False)):
            with mock.patch.object(QInputDialog, "getText", return_value=given):
                self.assertEqual(dialogs.text("Name?", ""), given[0] if given[1] else None)
        for button, answer in ((buttons.Save, "save"), (buttons.Discard, "discard"), (buttons.Cancel, "cancel")):
            with mock.patch.object(QMessageBox, "question", return_value=button):
                self.assertEqual(dialogs.keep_changes("Solo"), answer)
