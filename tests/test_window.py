"""The real window, driven by keys and the mouse as a player would, on a simulated sound device."""

import gc
import io
import sys
import unittest
from collections.abc import Callable
from contextlib import redirect_stderr
from dataclasses import replace
from unittest import mock

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLabel, QPushButton, QScrollArea

from eager_owl.desktop import theme as themes
from eager_owl.desktop.app import tell_fault
from eager_owl.desktop.entries import PANELS
from eager_owl.desktop.theme import DAY, DUSK, worn
from eager_owl.notation.tab import text_tab
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.unsaved import unsaved_folder
from eager_owl.solo.document import Instrument, Solo
from eager_owl.solo.store import load
from eager_owl.solo.tunings import TUNINGS
from tests.windows import CTRL, KEY, SHIFT, WindowCase

SEVEN = Instrument(TUNINGS["seven strings, drop A"], 0, 24, 686.0)


class ThroughAnEvening(WindowCase):
    def test_mark_loop_hear_correct_save_reopen_export(self) -> None:
        self.demo()
        window, opened = self.window, self.opened
        # The last phrase is taken away, and marked anew by dragging over the whole recording.
        last = self.solo.phrases[-1]
        while opened.view.phrase != len(self.solo.phrases) - 1:
            self.press(KEY.Key_PageDown)
        self.press(KEY.Key_Backspace, CTRL)
        self.assertEqual(len(self.solo.phrases), 6)
        self.press(KEY.Key_W)
        self.assertIsNone(opened.view.phrase)
        desk = window.desk
        self.drag(
            desk,
            QPoint(round(desk.desk_layout.x_of(last.start)) + 1, 60),
            QPoint(round(desk.desk_layout.x_of(last.end)) - 2, 60),
        )
        self.press(KEY.Key_M)
        self.assertEqual(len(self.solo.phrases), 7)
        phrase = self.solo.phrases[-1]
        self.assertAlmostEqual(phrase.start, last.start, delta=0.15)

        # Looped at half speed.
        self.assertEqual(window.session.playing.speed, 0.5)
        self.press(KEY.Key_Space)
        self.assertTrue(window.session.player.playing)
        source = window.session.player.source
        assert source is not None
        self.play_until(lambda: opened.view.cursor > phrase.start + 0.2)
        self.assertEqual((source.speed, source.start_s), (0.5, phrase.start))
        self.assertLess(opened.view.cursor, phrase.end)
        self.play_until(lambda: source.passes > 0)
        self.assertEqual(source.passes, 1)
        self.press(KEY.Key_Space)
        self.assertFalse(window.session.player.playing)

        # Heard.
        self.press(KEY.Key_H)
        notes = self.solo.notes_in(phrase)
        # What is left of the long last note under the band may be heard as taken again.
        self.assertEqual([n.pitch for n in notes][:7], [65, 68, 72, 72, 72, 72, 77])
        self.assertTrue(all(n.string for n in notes))
        self.assertEqual(self.solo.phrases[-1].stage, "placed")

        # One pitch corrected, another note moved to another string, a technique toggled.
        opened.move_cursor(phrase.start)
        self.press(KEY.Key_Right)
        self.press(KEY.Key_Right)
        second = self.chosen[0]
        self.press(KEY.Key_Up)
        self.assertEqual(self.solo.note(second).pitch, 69)
        self.press(KEY.Key_Right)
        third = self.chosen[0]
        string = self.solo.note(third).string
        self.press(KEY.Key_Down, SHIFT)
        moved = self.solo.note(third)
        self.assertEqual(moved.string, (string or 0) + 1)
        self.press(KEY.Key_V)
        self.assertIsNotNone(self.solo.note(third).technique("vibrato"))

        # Undone and redone.
        after = self.solo
        self.press(KEY.Key_Z, CTRL)
        self.assertIsNone(self.solo.note(third).technique("vibrato"))
        self.press(KEY.Key_Z, CTRL)
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.solo.note(second).pitch, 68)
        for _ in range(3):
            self.press(KEY.Key_Z, CTRL | SHIFT)
        self.assertEqual(self.solo, after)

        # Saved, closed, reopened: all there.
        path = self.folder / "ferry.owl.json"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.press(KEY.Key_S, CTRL)
        self.assertFalse(opened.dirty)
        window.close()
        self.window = self.new_window()
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            self.press(KEY.Key_O, CTRL)
        self.assertEqual(self.solo.notes, after.notes)
        self.assertEqual(self.solo.phrases, after.phrases)
        self.assertIsNotNone(self.opened.sound)

        # The tab that is exported is the solo's.
        tab = self.folder / "ferry.txt"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(tab), "")):
            self.press(KEY.Key_E, CTRL)
        self.assertEqual(tab.read_text(), text_tab(self.solo))
        self.assertRegex(tab.read_text(), r"7 Phrase 7\n")

    def test_hearing_again_keeps_what_the_player_fixed(self) -> None:
        self.demo()
        self.press(KEY.Key_Right)
        chosen = self.chosen[0]
        self.press(KEY.Key_Up)
        self.press(KEY.Key_Right)
        fixed, thrown_out = self.solo.note(chosen), self.solo.note(self.chosen[0])
        self.press(KEY.Key_Delete)
        count = len(self.solo.notes)
        self.press(KEY.Key_H)
        self.assertEqual(self.solo.note(chosen).pitch, fixed.pitch)
        self.assertEqual(len(self.solo.notes), count)
        at = (thrown_out.onset + thrown_out.end) / 2
        again = [note for note in self.opened.notes if note.pitch == thrown_out.pitch and note.onset < at < note.end]
        self.assertEqual(again, [])


class Mouse(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_Right)

    def test_dragging_a_plate_moves_it_over_the_strings_or_in_time(self) -> None:
        desk, note = self.window.desk, self.solo.note(self.chosen[0])
        middle = desk.desk_layout.plate(note).center().toPoint()
        self.drag(desk, middle, QPoint(middle.x(), round(desk.desk_layout.string_y((note.string or 0) + 1))))
        self.assertEqual(self.solo.note(note.id).string, (note.string or 0) + 1)
        middle = desk.desk_layout.plate(self.solo.note(note.id)).center().toPoint()
        self.drag(desk, middle, middle + QPoint(40, 0))
        self.assertGreater(self.solo.note(note.id).onset, note.onset + 0.05)
        self.assertIn("timing", self.solo.note(note.id).pins)

    def test_dragging_an_end(self) -> None:
        desk, note = self.window.desk, self.opened.notes[-1]
        end = QPoint(round(desk.desk_layout.x_of(note.end)), round(desk.desk_layout.string_y(note.string or 1)))
        self.drag(desk, end, end - QPoint(60, 0))
        self.assertLess(self.solo.note(note.id).end, note.end - 0.1)

    def test_click_selects_on_desk_and_neck(self) -> None:
        second = self.opened.notes[1]
        QTest.mouseClick(
            self.window.desk,
            Qt.MouseButton.LeftButton,
            pos=self.window.desk.desk_layout.plate(second).center().toPoint(),
        )
        self.assertEqual(self.chosen, [second.id])
        first = self.opened.notes[0]
        spot = self.window.centre.neck.spot(first.string or 1, first.fret or 0).center().toPoint()
        QTest.mouseClick(self.window.centre.neck, Qt.MouseButton.LeftButton, pos=spot)
        self.assertEqual(self.chosen, [first.id])

    def test_tiles(self) -> None:
        strip = self.window.rail.strip
        for index in (-1, 1):
            QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=strip.tile(index).center().toPoint())
            self.settle()
            self.assertEqual(self.opened.view.phrase, None if index < 0 else index)


class Finder(WindowCase):
    def test_a_few_letters_and_enter_run_a_command(self) -> None:
        self.demo()
        self.press(KEY.Key_Right)
        note = self.chosen[0]
        had = self.solo.note(note).technique("vibrato") is not None
        self.press(KEY.Key_F3)
        finder = self.window.finder
        self.assertTrue(finder.isVisible())
        QTest.keyClicks(finder.field, "vibr")
        self.assertEqual([command.name for command in finder.found], ["technique_vibrato"])
        QTest.keyClick(finder.field, KEY.Key_Return)
        self.settle()
        self.assertFalse(finder.isVisible())
        self.assertNotEqual(self.solo.note(note).technique("vibrato") is not None, had)

    def test_arrows_choose_and_escape_leaves(self) -> None:
        self.demo()
        before = self.solo
        self.press(KEY.Key_Space, CTRL)
        finder = self.window.finder
        QTest.keyClicks(finder.field, "day or dusk")
        QTest.keyClick(finder.field, KEY.Key_Escape)
        self.assertFalse(finder.isVisible())
        self.press(KEY.Key_F3)
        QTest.keyClicks(finder.field, "finger")
        QTest.keyClick(finder.field, KEY.Key_Down)
        self.assertEqual(finder.at, 1)
        QTest.keyClick(finder.field, KEY.Key_Up)
        QTest.keyClick(finder.field, KEY.Key_Up)
        self.assertEqual(finder.at, len(finder.found) - 1)
        self.assertIs(self.solo, before)
        QTest.keyClicks(finder.field, " nothing like it")
        QTest.keyClick(finder.field, KEY.Key_Return)
        self.assertTrue(finder.isVisible())


class Looks(WindowCase):
    def test_in_a_small_window_the_keys_take_several_pages(self) -> None:
        self.window.resize(853, 533)
        self.press(KEY.Key_F1)
        sheet = self.window.sheet
        lines = [line for page in sheet.pages() for column in page for line in column]
        listed = {line.name for line in lines if not isinstance(line, str)}
        self.assertEqual(listed, {c.name for c in self.window.session.commands.values() if c.keys})
        for page in range(len(sheet.pages())):
            self.assertEqual((sheet.isVisible(), sheet.page), (True, page))
            self.assertFalse(sheet.grab().isNull())
            self.press(KEY.Key_Up)
        self.assertGreater(page, 0)
        self.assertFalse(sheet.isVisible())

    def test_help_lists_every_action_and_any_key_puts_it_away(self) -> None:
        self.demo()
        self.press(KEY.Key_F1)
        self.assertTrue(self.window.sheet.isVisible())
        spoken = self.window.sheet.accessibleDescription()
        for command in self.window.session.commands.values():
            if command.keys:
                self.assertIn(command.words, spoken)
        before = self.solo
        for _ in self.window.sheet.pages():
            self.press(KEY.Key_Up)
        self.assertFalse(self.window.sheet.isVisible())
        self.assertEqual(self.solo, before)

    def test_dusk_and_day(self) -> None:
        self.demo()
        self.press(KEY.Key_F6)
        self.assertIs(worn(), DUSK)
        self.assertEqual(self.window.desk.grab().toImage().pixelColor(8, 300).name(), DUSK.paper)
        self.press(KEY.Key_F6)
        self.assertEqual(self.window.desk.grab().toImage().pixelColor(8, 300).name(), DAY.paper)

    def test_contrast(self) -> None:
        def luminance(name: str) -> float:
            parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in QColor(name).getRgbF()[:3]]
            return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

        for theme in (DAY, DUSK):
            for ink, paper in (
                (theme.ink, theme.paper), (theme.quiet, theme.paper), (theme.quiet, theme.desk),
                (theme.ink, theme.cell),
                (theme.here, theme.paper), (theme.on_here, theme.here), (theme.pinned, theme.paper),
                (theme.ink, theme.here_wash), (theme.here, theme.here_wash), (theme.ink, theme.pinned_wash),
            ):  # fmt: skip
                light, dark = sorted((luminance(ink), luminance(paper)), reverse=True)
                self.assertGreaterEqual((light + 0.05) / (dark + 0.05), 4.5, (theme.name, ink, paper))

    def test_no_text_is_smaller_than_eleven_points(self) -> None:
        self.demo()
        for label in self.window.findChildren(QLabel):
            self.assertGreaterEqual(label.font().pointSize(), 11, label.text())
        self.assertGreaterEqual(themes.SMALL, 11)

    def test_controls_have_accessible_names(self) -> None:
        self.demo()
        for button in self.window.findChildren(QPushButton):
            self.assertTrue(button.text() or button.accessibleName())
        for view in (
            self.window.desk,
            self.window.centre.neck,
            self.window.rail.strip,
            self.window.transport.work.progress,
        ):
            self.assertTrue(view.accessibleName())
        self.assertIn("fret", self.window.desk.accessibleDescription())

    def test_all_sizes_strings_and_empty_solos_paint(self) -> None:
        self.demo()
        seven = Instrument((64, 59, 55, 50, 45, 40, 35))
        views: tuple[Callable[[], object], ...] = (
            lambda: self.window.resize(1120, 760),
            lambda: self.window.resize(2000, 1300),
            lambda: self.press(KEY.Key_Equal, CTRL),
            lambda: self.press(KEY.Key_W),
            lambda: self.opened.do("strings", lambda s: replace(s, instrument=seven)),
            lambda: self.opened.do("no beat", lambda s: replace(s, grid=None, chart_text="", key_text="")),
            lambda: self.window.session.show(OpenSolo(Solo(), None, None, self.window.session.ports.clock)),
        )
        for change in views:
            change()
            self.settle()
            self.assertFalse(self.window.grab().isNull())

    def test_it_never_opens_larger_than_the_screen(self) -> None:
        for room in (QSize(853, 533), QSize(1366, 700), QSize(800, 480)):  # 150 % on 1280x800; a laptop; a small one
            with mock.patch.object(
                type(self.window.screen()), "availableGeometry", lambda _, room=room: QRect(QPoint(), room)
            ):
                self.window._fit_screen()
            self.assertLessEqual(self.window.width(), room.width())
            self.assertLessEqual(self.window.height(), room.height())

    def test_in_a_low_or_narrow_window_everything_is_still_there(self) -> None:
        self.demo()
        for width, height in ((1200, 660), (960, 540), (853, 533), (820, 530)):
            self.window.resize(width, height)
            self.settle()
            self.assertEqual((self.window.width(), self.window.height()), (width, height))
            inside = self.window.rect()
            for name in (entry.name for entry in PANELS):
                self.window.show_panel(name)
                self.settle()
                panel = self.window.side.currentWidget()
                corner = panel.mapTo(self.window, panel.rect().bottomRight())
                self.assertTrue(inside.contains(corner), (width, height, name))
                self.assertTrue(self.panel(name).back.isVisible())
                self.window.show_panel(name)
            for button in self.window.transport.findChildren(QPushButton):
                if button.isVisible():
                    self.assertTrue(
                        inside.contains(button.mapTo(self.window, button.rect().bottomRight())), button.text()
                    )
                    self.assertGreaterEqual(button.width(), button.sizeHint().width() - 1, button.text())
            self.assertFalse(self.window.grab().isNull())

    def test_no_words_of_a_panel_are_cut_off(self) -> None:
        self.demo()
        self.press(KEY.Key_PageDown)
        self.window.session.resting.set_limits(60, 45)  # less than the phrase asks, which the hands' panel tells
        self.opened.do("guitar", lambda solo: replace(solo, instrument=SEVEN), [n.id for n in self.solo.notes])
        for entry in PANELS:
            if not self.panel(entry.name).isVisible():
                self.window.show_panel(entry.name)
            self.settle()
            for label in self.panel(entry.name).findChildren(QLabel):
                if label.isVisible() and label.wordWrap():
                    needed = label.heightForWidth(label.width())
                    self.assertGreaterEqual(label.height(), needed, (entry.name, label.text()))
            for area in self.panel(entry.name).findChildren(QScrollArea):
                page = area.widget()
                if area.isVisible() and page is not None:
                    self.assertLessEqual(
                        page.width(), area.viewport().width(), f"{entry.name} is cut off at its side"
                    )

    def test_a_fault_of_its_own_is_told_written_down_and_leaves_the_window(self) -> None:
        with self.assertLogs("eager_owl.log", "ERROR") as logged, redirect_stderr(io.StringIO()) as terminal:
            tell_fault(self.window.session, ZeroDivisionError("by nothing"))
        for words in (self.notice, terminal.getvalue()):
            self.assertIn("ZeroDivisionError: by nothing (written down in ", words)
        self.assertIn("ZeroDivisionError", logged.output[0])
        self.demo()
        self.assertEqual(self.solo.title, "Night Ferry")

    def test_a_fault_while_painting_leaves_the_window_and_journals_the_work(self) -> None:
        self.demo()
        self.opened.do("title", lambda solo: replace(solo, title="At work"))
        fault = ZeroDivisionError("while painting")
        with (
            mock.patch.object(type(self.window.desk), "_paint_cursor", side_effect=fault),
            self.assertRaises(ZeroDivisionError) as caught,
        ):
            self.window.desk.repaint()
        with self.assertLogs("eager_owl.log", "ERROR"), redirect_stderr(io.StringIO()):
            tell_fault(self.window.session, caught.exception)
        titles = [load(path).title for path in unsaved_folder().glob(".*.journal")]
        self.assertEqual(titles, ["At work"])
        self.window.desk.repaint()
        self.assertFalse(self.window.desk.paintingActive())

    def test_on_a_smaller_screen_what_has_no_room_is_scrolled_to(self) -> None:
        self.demo()
        self.window.resize(640, 400)  # 1280x800 at 200 %
        self.settle()
        area = self.window.centralWidget()
        assert isinstance(area, QScrollArea)
        last = self.window.transport
        corner = last.mapTo(area.widget(), last.rect().bottomRight())
        area.ensureVisible(corner.x(), corner.y())
        self.assertTrue(area.viewport().rect().contains(last.mapTo(area.viewport(), last.rect().bottomRight())))

    def test_the_neck_gives_way_in_a_low_window_and_is_a_key_away(self) -> None:
        self.demo()
        self.window.resize(960, 540)
        self.settle()
        self.assertFalse(self.window.centre.neck.isVisible())
        self.press(KEY.Key_F7)
        self.assertTrue(self.window.centre.neck.isVisible())
        self.press(KEY.Key_F7)
        self.window.resize(1280, 800)
        self.settle()
        self.assertTrue(self.window.centre.neck.isVisible())

    def test_the_binding_keeps_references_to_none(self) -> None:
        """A binding that loses a reference to None with each call ends the program after an hour or so."""
        gc.collect()
        before = sys.getrefcount(None)
        for _ in range(10_000):
            self.window.desk.update()
        self.assertLess(before - sys.getrefcount(None), 5_000)


if __name__ == "__main__":
    unittest.main()
