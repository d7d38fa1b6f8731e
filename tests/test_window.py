"""The real window, driven by keys and the mouse as a player would, on a simulated sound device."""

import gc
import re
import sys
import unittest
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QLabel, QMessageBox, QPushButton, QWidget

from eager_owl.audio.decode import Recording
from eager_owl.desktop import theme as themes
from eager_owl.desktop.actions import ALL, GROUPS
from eager_owl.desktop.keeping import never_saved_path
from eager_owl.desktop.playback import SimulatedDevice
from eager_owl.desktop.theme import DAY, DUSK
from eager_owl.desktop.window import Window
from eager_owl.notation.tab import text_tab
from eager_owl.session import Survey, survey
from eager_owl.solo.document import PINS, Instrument, Solo
from eager_owl.solo.edits import mark_phrase
from eager_owl.solo.store import journal_path, load, save, write_journal
from tests.support import DEMO, FolderCase, after_silence, tone

APP = QApplication.instance() or QApplication([])
themes.load_fonts()

ALT, CTRL, SHIFT = (
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
KEY = Qt.Key


_SURVEYS: dict[tuple[int, float], Survey] = {}


def survey_once(recording: Recording, _progress: object = None) -> Survey:
    """The real survey, made once for a recording however many windows ask for it."""
    key = (len(recording.samples), float(np.abs(recording.samples).sum()))
    if key not in _SURVEYS:
        _SURVEYS[key] = survey(recording)
    return _SURVEYS[key]


class WindowCase(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        once = mock.patch("eager_owl.desktop.recordings.survey", survey_once)
        once.start()
        self.addCleanup(once.stop)
        QSettings("eager-owl", "eager-owl").clear()
        never_saved_path().unlink(missing_ok=True)
        self.device = SimulatedDevice()
        self.window = self.new_window()

    def new_window(self) -> Window:
        window = Window(self.device, DAY)
        window.show()
        window.activateWindow()
        self.assertTrue(QTest.qWaitForWindowActive(window))
        self.addCleanup(self.close, window)
        return window

    def close(self, window: Window) -> None:
        window.wait_until_idle()
        with mock.patch.object(QMessageBox, "question", return_value=QMessageBox.StandardButton.Discard):
            window.close()
        window.deleteLater()
        APP.processEvents()

    def demo(self) -> None:
        self.window.open_demo()
        self.window.wait_until_idle()

    def press(self, key: Qt.Key, modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.window, key, modifiers)
        self.window.wait_until_idle()

    def drag(self, widget: QWidget, start: QPoint, end: QPoint) -> None:
        left = Qt.MouseButton.LeftButton
        QTest.mousePress(widget, left, Qt.KeyboardModifier.NoModifier, start)
        for share in (0.3, 0.7, 1.0):
            QTest.mouseMove(widget, start + (end - start) * share)
            APP.processEvents()
        QTest.mouseRelease(widget, left, Qt.KeyboardModifier.NoModifier, end)
        self.window.wait_until_idle()

    def play_until(self, reached: Callable[[], bool]) -> None:
        """Let the device pull faster than the clock; it gets silence where the stretching is not done yet."""
        for _ in range(2000):
            self.device.advance(0.5)
            QTest.qWait(5)
            if reached():
                return
        self.fail("it was never reached")

    @property
    def solo(self) -> Solo:
        assert self.window.opened is not None
        return self.window.opened.solo

    @property
    def chosen(self) -> list[int]:
        assert self.window.opened is not None
        return list(self.window.opened.view.selection)

    @property
    def notice(self) -> str:
        return self.window.notice.words.text() if self.window.notice.isVisible() else ""

    def answer(self, words: str) -> None:
        button = next(b for b in self.window.notice.findChildren(QPushButton) if b.text() == words)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.window.wait_until_idle()


class ThroughAnEvening(WindowCase):
    def test_mark_loop_hear_correct_save_reopen_export(self) -> None:
        self.demo()
        window, opened = self.window, self.window.opened
        assert opened is not None
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
        self.assertEqual(window.listening.speed, 0.5)
        self.press(KEY.Key_Space)
        self.assertTrue(window.player.playing)
        source = window.player.source
        assert source is not None
        self.play_until(lambda: opened.view.cursor > phrase.start + 0.2)
        self.assertEqual((source.speed, source.start_s), (0.5, phrase.start))
        self.assertLess(opened.view.cursor, phrase.end)
        self.play_until(lambda: source.passes > 0)
        self.assertEqual(source.passes, 1)
        self.press(KEY.Key_Space)
        self.assertFalse(window.player.playing)

        # Heard.
        self.press(KEY.Key_H)
        notes = self.solo.notes_in(phrase)
        self.assertEqual([n.pitch for n in notes], [65, 68, 72, 72, 72, 72, 77])
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
        self.assertTrue(opened.undo_stack.isClean())
        window.close()
        self.window = self.new_window()
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            self.press(KEY.Key_O, CTRL)
        self.assertEqual(self.solo.notes, after.notes)
        self.assertEqual(self.solo.phrases, after.phrases)
        self.assertIsNotNone(self.window.opened.sound)

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
        self.press(KEY.Key_Delete)
        fixed, count = self.solo.note(chosen), len(self.solo.notes)
        self.press(KEY.Key_H)
        self.assertEqual(self.solo.note(chosen).pitch, fixed.pitch)
        self.assertEqual(len(self.solo.notes), count)


class Listening(WindowCase):
    def test_speeds_count_in_and_once(self) -> None:
        self.demo()
        self.press(KEY.Key_Minus)
        self.assertEqual(self.window.listening.speed, 0.35)
        self.press(KEY.Key_Equal)
        self.press(KEY.Key_Equal)
        self.assertEqual(self.window.listening.speed, 0.7)
        self.assertTrue(self.window.transport.speed_buttons[0.7].isChecked())
        self.press(KEY.Key_C)
        self.press(KEY.Key_Return)
        source = self.window.player.source
        assert source is not None
        self.assertTrue(source.counting_in)
        self.play_until(lambda: not self.window.player.playing)
        self.assertTrue(source.finished)

    def test_changing_speed_goes_on_playing(self) -> None:
        self.demo()
        self.press(KEY.Key_Space)
        self.press(KEY.Key_Minus)
        source = self.window.player.source
        assert source is not None
        self.assertEqual((source.speed, source.loop), (0.35, True))
        self.assertEqual(self.window.transport.loop_button.text(), "Stop   Space")

    def test_no_sound_is_told(self) -> None:
        self.press(KEY.Key_Space)
        self.assertIn("no sound", self.notice)


class Notes(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_Right)

    def test_walking_extending_selecting_all(self) -> None:
        notes = self.window.opened.notes
        self.assertEqual(self.chosen, [notes[0].id])
        self.press(KEY.Key_Right, SHIFT)
        self.assertEqual(self.chosen, [n.id for n in notes[:2]])
        self.press(KEY.Key_Left)
        self.press(KEY.Key_A, CTRL)
        self.assertEqual(len(self.chosen), len(notes))
        self.press(KEY.Key_Escape)
        self.assertEqual(self.chosen, [])

    def test_pins_and_fingers(self) -> None:
        note = self.chosen[0]
        self.press(KEY.Key_P)
        self.assertEqual(self.solo.note(note).pins, frozenset(PINS))
        self.assertEqual(self.window.evidence.pin_button.text(), "Free   P")
        self.press(KEY.Key_P)
        self.assertEqual(self.solo.note(note).pins, frozenset())
        self.press(KEY.Key_3)
        self.assertEqual((self.solo.note(note).finger, self.solo.note(note).pins), (3, frozenset({"finger"})))

    def test_timing_by_keys(self) -> None:
        before = self.solo.note(self.chosen[0])
        self.press(KEY.Key_Left, ALT)
        self.press(KEY.Key_Right, ALT | SHIFT)
        after = self.solo.note(self.chosen[0])
        self.assertAlmostEqual(after.onset, before.onset - 0.01)
        self.assertAlmostEqual(after.end, before.end + 0.01)

    def test_add_split_join_delete(self) -> None:
        count = len(self.solo.notes)
        self.window.opened.move_cursor(self.solo.note(self.chosen[0]).onset + 0.2)
        self.press(KEY.Key_S)
        self.assertEqual(len(self.solo.notes), count + 1)
        self.press(KEY.Key_Right, SHIFT)
        self.press(KEY.Key_J)
        self.assertEqual(len(self.solo.notes), count)
        self.press(KEY.Key_A)
        self.assertEqual(len(self.solo.notes), count + 1)
        self.press(KEY.Key_Delete)
        self.assertEqual(len(self.solo.notes), count)

    def test_every_technique_key(self) -> None:
        note = self.chosen[0]
        for name in (n for n in ALL if n.startswith("technique_")):
            before = self.solo.note(note).technique(name.removeprefix("technique_"))
            self.window.actions_by_name[name].trigger()
            self.window.wait_until_idle()
            after = self.solo.note(note).technique(name.removeprefix("technique_"))
            self.assertNotEqual(before is None, after is None, name)

    def test_doubts_worst_first(self) -> None:
        ids = [n.id for n in self.window.opened.notes]
        worse = {ids[3]: 0.4, ids[1]: 0.7}
        notes = tuple(replace(n, confidence=worse.get(n.id, n.confidence)) for n in self.solo.notes)
        self.window.opened.do("test", lambda solo: replace(solo, notes=notes))
        self.press(KEY.Key_D)
        self.assertEqual(self.chosen, [ids[3]])
        self.press(KEY.Key_D)
        self.assertEqual(self.chosen, [ids[1]])
        self.press(KEY.Key_P)
        self.press(KEY.Key_D)
        self.assertEqual(self.chosen, [ids[3]])

    def test_taking_the_other_reading(self) -> None:
        note = self.solo.note(self.chosen[0])
        self.press(KEY.Key_E)
        taken = self.solo.note(note.id)
        self.assertEqual(taken.pitch, note.runners_up[0][0])
        self.assertIn("pitch", taken.pins)

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
        desk, note = self.window.desk, self.window.opened.notes[-1]
        end = QPoint(round(desk.desk_layout.x_of(note.end)), round(desk.desk_layout.string_y(note.string or 1)))
        self.drag(desk, end, end - QPoint(60, 0))
        self.assertLess(self.solo.note(note.id).end, note.end - 0.1)

    def test_click_selects_on_desk_and_neck(self) -> None:
        second = self.window.opened.notes[1]
        QTest.mouseClick(
            self.window.desk,
            Qt.MouseButton.LeftButton,
            pos=self.window.desk.desk_layout.plate(second).center().toPoint(),
        )
        self.assertEqual(self.chosen, [second.id])
        first = self.window.opened.notes[0]
        spot = self.window.neck.spot(first.string or 1, first.fret or 0).center().toPoint()
        QTest.mouseClick(self.window.neck, Qt.MouseButton.LeftButton, pos=spot)
        self.assertEqual(self.chosen, [first.id])

    def test_what_cannot_be_done_is_told_and_changes_nothing(self) -> None:
        self.press(KEY.Key_Escape)
        before = self.solo
        for key in (KEY.Key_Up, KEY.Key_J, KEY.Key_S, KEY.Key_M, KEY.Key_B):
            self.window.notice.dismiss()
            self.press(key)
            self.assertNotEqual(self.notice, "", key)
        self.assertEqual(self.solo, before)

    def test_schools_by_key(self) -> None:
        reason, placing = self.solo.reason_school, self.solo.placing_school
        self.press(KEY.Key_R)
        self.assertNotEqual(self.solo.reason_school, reason)
        self.press(KEY.Key_N)
        self.assertNotEqual(self.solo.placing_school, placing)


class Phrases(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()

    def test_split_merge_nudge_name(self) -> None:
        index = self.window.opened.view.phrase
        phrase = self.solo.phrases[index]
        self.window.opened.move_cursor((phrase.start + phrase.end) / 2)
        self.press(KEY.Key_X)
        self.assertEqual(len(self.solo.phrases), 8)
        self.press(KEY.Key_Y)
        self.assertEqual(self.solo.phrases[index], phrase)
        self.press(KEY.Key_Right, CTRL)
        self.press(KEY.Key_Left, CTRL | SHIFT)
        self.assertAlmostEqual(self.solo.phrases[index].start, phrase.start + 0.05)
        self.assertAlmostEqual(self.solo.phrases[index].end, phrase.end - 0.05)
        with mock.patch.object(QInputDialog, "getText", return_value=("Reply", True)):
            self.press(KEY.Key_F2)
        self.assertEqual(self.solo.phrases[index].name, "Reply")

    def test_span_by_keys_and_tiles_by_mouse(self) -> None:
        QTest.mouseClick(
            self.window.rail.strip, Qt.MouseButton.LeftButton, pos=self.window.rail.strip.tile(-1).center().toPoint()
        )
        self.assertIsNone(self.window.opened.view.phrase)
        self.window.opened.move_cursor(2.0)
        self.press(KEY.Key_BracketLeft)
        self.window.opened.move_cursor(4.0)
        self.press(KEY.Key_BracketRight)
        self.assertEqual(self.window.opened.view.span, (2.0, 4.0))
        self.press(KEY.Key_M)
        self.assertIn("overlaps the phrase “Pickup”", self.notice)
        QTest.mouseClick(
            self.window.rail.strip, Qt.MouseButton.LeftButton, pos=self.window.rail.strip.tile(1).center().toPoint()
        )
        self.assertEqual(self.window.opened.view.phrase, 1)

    def test_cancelling_leaves_all_as_it_was(self) -> None:
        self.press(KEY.Key_PageDown)
        before = self.solo
        QTest.keyClick(self.window, KEY.Key_H)
        QTest.keyClick(self.window, KEY.Key_Escape)
        self.window.wait_until_idle()
        self.assertEqual(self.solo, before)
        self.assertTrue(self.window.transport.hear_button.isVisible())

    def test_edits_made_while_hearing_are_kept(self) -> None:
        self.press(KEY.Key_PageDown)
        QTest.keyClick(self.window, KEY.Key_H)
        self.window.opened.do("title", lambda solo: replace(solo, title="Renamed"))
        self.window.wait_until_idle()
        self.assertEqual(self.solo.title, "Renamed")
        self.assertGreater(len(self.window.opened.notes), 5)


class FactsOfTheSolo(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.press(KEY.Key_F)
        self.facts = self.window.facts

    def enter(self, field: QWidget, text: str) -> None:
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, KEY.Key_Return)
        self.window.wait_until_idle()

    def test_key_beat_and_guitar_are_taken_and_undone(self) -> None:
        self.enter(self.facts.key, "Bb major")
        self.assertEqual(self.solo.key.name, "Bb major")
        self.enter(self.facts.tempo, "96")
        self.assertEqual(self.solo.grid.bpm, 96)
        self.enter(self.facts.tuning, "D4 A3 F3 C3 G2 C2")
        self.assertEqual(self.solo.instrument.tuning[-1], 36)
        self.window.desk.setFocus()
        for _ in range(3):
            self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.solo.key.name, "F minor")

    def test_what_cannot_be_read_is_said_beside_the_field_and_not_taken(self) -> None:
        before = self.solo
        for field, text, reason in (
            (self.facts.key, "Q minor", "not a key"),
            (self.facts.tempo, "fast", "“fast” is not a number"),
            (self.facts.tempo, "2000", "outside"),
            (self.facts.frets, "3", "3 frets"),
            (self.facts.tuning, "E4 X3", "X3"),
        ):
            self.enter(field, text)
            self.assertRegex(self.facts.complaint.text(), reason)
        self.assertEqual(self.solo, before)

    def test_chart(self) -> None:
        self.facts.chart.setFocus()
        self.facts.chart.setPlainText("| Fm7 | Zz |")
        QTest.keyClick(self.facts.chart, KEY.Key_Return, CTRL)
        self.assertRegex(self.facts.complaint.text(), "bar 2 of the chart: the chord “Zz” can't be read")
        self.facts.chart.setPlainText("| Fm7 | C7 |")
        QTest.keyClick(self.facts.chart, KEY.Key_Return, CTRL)
        self.assertEqual(len(self.solo.chart.bars), 2)

    def test_tapping_and_first_beat(self) -> None:
        for beat in range(4):
            self.window.opened.move_cursor(3.0 + 0.6 * beat)
            QTest.mouseClick(self.facts.tap_button, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(self.solo.grid.bpm, 100, places=3)
        self.assertAlmostEqual(self.solo.grid.first_beat_s, 3.0, places=3)
        self.window.opened.move_cursor(4.25)
        QTest.mouseClick(self.facts.here_button, Qt.MouseButton.LeftButton)
        self.assertEqual(self.solo.grid.first_beat_s, 4.25)

    def test_letters_typed_in_a_field_are_not_commands(self) -> None:
        before = self.solo.notes
        self.facts.title.setFocus()
        self.facts.title.selectAll()
        QTest.keyClicks(self.facts.title, "bvlhp x")
        self.assertEqual(self.facts.title.text(), "bvlhp x")
        self.assertEqual(self.solo.notes, before)


class Keeping(WindowCase):
    def test_a_new_solo_from_a_recording(self) -> None:
        path = self.sound_file("take.wav", after_silence(*(tone(float(p), 0.4, 0.3) for p in (60, 63, 65))))
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            self.press(KEY.Key_N, CTRL)
        self.assertEqual((self.solo.title, self.solo.phrases), ("take", ()))
        self.window.opened.set_span((0.1, 1.7))
        self.press(KEY.Key_M)
        self.assertEqual(len(self.solo.phrases), 1, self.notice)
        self.press(KEY.Key_H)
        self.assertEqual([n.pitch for n in self.solo.notes], [60, 63, 65], self.notice)

    def test_files_that_cannot_be_opened_are_told_and_change_nothing(self) -> None:
        self.demo()
        before = self.window.opened
        text = self.folder / "words.wav"
        text.write_text("no sound " * 99)
        silent = self.sound_file("silent.wav", np.zeros(4000, np.float32))
        broken = self.folder / "broken.owl.json"
        broken.write_text("{")
        newer = self.folder / "newer.owl.json"
        newer.write_text(re.sub('"version": 1', '"version": 8', (DEMO / "night-ferry.owl.json").read_text()))
        for path, reason in ((text, "sound"), (silent, "silent"), (broken, "damaged"), (newer, "newer"),
                             (self.folder / "gone.owl.json", "can't be read")):  # fmt: skip
            self.window.notice.dismiss()
            self.window.open_path(path)
            self.window.wait_until_idle()
            self.assertRegex(self.notice, reason)
            self.assertIs(self.window.opened, before)

    def saved(self, solo: Solo) -> Path:
        path = self.folder / "s.owl.json"
        save(solo, path)
        return path

    def test_a_missing_recording_is_asked_for_and_only_the_same_one_is_taken(self) -> None:
        sound = self.sound_file("take.wav", after_silence(tone(60.0, 0.5)))
        self.window.open_path(sound)
        self.window.wait_until_idle()
        path = self.folder / "deeper" / "s.owl.json"
        path.parent.mkdir()
        self.assertTrue(self.window.keeping.save_to(path))
        moved = self.folder / "elsewhere.wav"
        sound.rename(moved)
        self.window.open_path(path)
        self.window.wait_until_idle()
        self.assertIn("take.wav is not at", self.notice)
        other = self.sound_file("other.wav", after_silence(tone(64.0, 0.5)))
        self.window.recordings.use_recording(other)
        self.assertIn("another recording", self.notice)
        self.assertIsNone(self.window.opened.sound)
        self.window.open_path(path)
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(moved), "")):
            self.answer("Locate it")
        self.assertIsNotNone(self.window.opened.sound)
        self.assertEqual(self.solo.recording.path, str(moved))

    def test_unsaved_work_comes_back_after_a_crash(self) -> None:
        path = self.saved(mark_phrase(Solo(title="Crash"), 0, 1))
        write_journal(mark_phrase(load(path), 2, 3, "Rescued"), path)
        self.window.open_path(path)
        self.assertIn("Unsaved work", self.notice)
        self.answer("Bring it back")
        self.assertEqual(self.solo.phrases[1].name, "Rescued")
        self.assertTrue(self.window.keeping.save_to(path))
        self.assertFalse(journal_path(path).exists())

    def test_work_never_saved_comes_back_too(self) -> None:
        self.demo()
        self.press(KEY.Key_PageUp)
        self.press(KEY.Key_Right)
        self.press(KEY.Key_Up)
        fixed = self.solo
        self.window.keeping.write_journal()
        other = self.new_window()
        self.window, first = other, self.window
        self.assertIn("never saved", self.notice)
        self.answer("Bring it back")
        self.assertEqual(self.solo.notes, fixed.notes)
        self.assertFalse(self.window.opened.undo_stack.isClean())
        self.assertIsNot(first, other)

    def test_leaving_unsaved_work_is_asked(self) -> None:
        self.demo()
        self.press(KEY.Key_P)
        buttons = QMessageBox.StandardButton
        with mock.patch.object(QMessageBox, "question", return_value=buttons.Cancel) as asked:
            self.window.close()
        asked.assert_called_once()
        self.assertTrue(self.window.isVisible())
        path = self.folder / "kept.owl.json"
        with (
            mock.patch.object(QMessageBox, "question", return_value=buttons.Save),
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")),
        ):
            self.window.close()
        self.assertFalse(self.window.isVisible())
        self.assertTrue(path.exists())

    def test_a_save_that_fails_is_told_and_nothing_is_lost(self) -> None:
        self.demo()
        self.press(KEY.Key_P)
        before = self.solo
        self.assertFalse(self.window.keeping.save_to(self.folder / "no" / "place.owl.json"))
        self.assertIn("can't be written", self.notice)
        self.assertEqual(self.solo, before)
        self.assertFalse(self.window.opened.undo_stack.isClean())

    def test_recent_solos_are_on_the_first_screen(self) -> None:
        path = self.saved(Solo(title="Recent"))
        self.window.open_path(path)
        other = self.new_window()
        names = [b.text() for b in other.welcome.findChildren(QPushButton)]
        self.assertIn("s", names)


class Looks(WindowCase):
    def test_help_lists_every_action_and_any_key_puts_it_away(self) -> None:
        self.demo()
        self.press(KEY.Key_F1)
        self.assertTrue(self.window.sheet.isVisible())
        spoken = self.window.sheet.accessibleDescription()
        for group in GROUPS.values():
            for action in group:
                self.assertIn(action.words, spoken)
        before = self.solo
        self.press(KEY.Key_Up)
        self.assertFalse(self.window.sheet.isVisible())
        self.assertEqual(self.solo, before)

    def test_no_key_is_bound_twice(self) -> None:
        keys = [key for action in ALL.values() for key in action.keys]
        self.assertEqual(len(keys), len(set(keys)))

    def test_dusk_and_day(self) -> None:
        self.demo()
        self.press(KEY.Key_F6)
        self.assertIs(self.window.theme, DUSK)
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
        for view in (self.window.desk, self.window.neck, self.window.rail.strip, self.window.transport.progress):
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
            lambda: self.window.opened.do("strings", lambda s: replace(s, instrument=seven)),
            lambda: self.window.opened.do("no beat", lambda s: replace(s, grid=None, chart_text="", key_text="")),
            lambda: self.window._show_solo(type(self.window.opened)(Solo(), None, self.window)),
        )
        for change in views:
            change()
            self.window.wait_until_idle()
            self.assertFalse(self.window.grab().isNull())

    def test_the_binding_keeps_references_to_none(self) -> None:
        """A binding that loses a reference to None with each call ends the program after an hour or so."""
        gc.collect()
        before = sys.getrefcount(None)
        for _ in range(10_000):
            self.window.desk.update()
        self.assertLess(before - sys.getrefcount(None), 5_000)


if __name__ == "__main__":
    unittest.main()
