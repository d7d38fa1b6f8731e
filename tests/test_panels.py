"""Panels beside the desk in the real window: facts, the lead, the evidence; and what is shown of proving."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton, QWidget

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import LeadFocus, Phrase, Solo, change_phrase, with_notes
from eager_owl.solo.edits import toggle_pins
from eager_owl.solo.gate import check_solo
from tests.support import line, with_doubt
from tests.windows import ALT, CTRL, KEY, SHIFT, WindowCase, rows


class PanelCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()

    def edit(self, change: Callable[[Solo], Solo]) -> None:
        self.opened.do("for the test", change)
        self.settle()

    def phrase(self, index: int) -> None:
        self.opened.look_at_phrase(index)
        self.settle()


class Evidence(PanelCase):
    def doubtful(self) -> int:
        """Make the second note of the phrase the worst doubt."""
        self.phrase(0)
        self.edit(with_doubt)
        return self.solo.notes_in(self.solo.phrases[0])[1].id

    def test_a_note_that_is_nudged_out_of_its_phrase_stays_selected(self) -> None:
        self.phrase(0)
        last = self.opened.notes[-1]
        self.opened.select([last.id])
        self.edit(lambda solo: change_phrase(solo, 0, end=last.onset + 0.015))
        for _ in range(3):
            self.press(KEY.Key_Right, ALT)
        self.assertGreater(self.solo.note(last.id).onset, self.solo.phrases[0].end)
        self.assertEqual(self.chosen, [last.id])
        self.assertNotIn(last.id, [note.id for note in self.opened.notes])

    def test_a_number_typed_where_none_is_wanted_is_told(self) -> None:
        carry = self.panel("elsewhere")
        self.window.session.run(self.window.session.commands["show_elsewhere"])
        carry.semitones.setText("x")
        carry.to_key.setText("G minor")
        carry.to_key.setModified(True)
        QTest.keyClick(carry.to_key, KEY.Key_Return)
        self.settle()
        self.assertIn("“x” is not a number", carry.complaint.text())

    def test_the_queue_is_listed_and_a_row_leads_to_its_note(self) -> None:
        worst = self.doubtful()
        rows = [b for b in self.window.side.evidence.findChildren(QPushButton) if b.text().startswith("note ")]
        self.assertEqual(rows[0].text(), "note 2")
        rows[0].click()
        self.settle()
        self.assertEqual(self.chosen, [worst])

    def test_a_figure_that_comes_more_than_once_is_counted(self) -> None:
        figure = (65, 68, 70, 72, 70)
        notes = line(*figure, 60, *figure, 61, *(pitch + 2 for pitch in figure))
        self.edit(lambda solo: with_notes(replace(solo, phrases=(Phrase(0.0, 1.24, "One"),)), notes))
        self.phrase(0)
        said = " ".join(label.text() for label in self.window.side.evidence.findChildren(QLabel))
        self.assertIn("three times: the same figure, at 0:01.5; again, a whole step up, at 0:03.0", said)

    def test_ways_of_explaining_are_compared_only_where_there_is_something_to_explain_by(self) -> None:
        self.phrase(0)
        self.press(KEY.Key_Escape)
        for key, told in (("F minor", True), ("", False)):
            self.edit(lambda solo, key=key: replace(solo, key_text=key, chart_text=""))
            said = " ".join(label.text() for label in self.window.side.evidence.findChildren(QLabel))
            self.assertIs("ways of explaining" in said.lower(), told)

    def test_before_anything_is_heard_the_next_steps_stand_there_and_can_be_taken(self) -> None:
        self.edit(lambda solo: replace(solo, grid=None, key_text="", chart_text=""))
        self.phrase(4)
        self.press(KEY.Key_Escape)
        steps = {row.text(): row for row in rows(self.window.side.evidence)}
        for words in ("Take the beat: 3/4 at 112   Ctrl T", "Hear this phrase   H"):
            self.assertIn(words, steps)
        told = " ".join(label.text() for label in self.window.side.evidence.findChildren(QLabel))
        self.assertNotIn("two pentatonics", told)
        steps["Take the beat: 3/4 at 112   Ctrl T"].setFocus()
        QTest.keyClick(steps["Take the beat: 3/4 at 112   Ctrl T"], KEY.Key_Return)
        self.settle()
        self.assertIsNotNone(self.solo.grid)


class Lead(PanelCase):
    def setUp(self) -> None:
        super().setUp()
        self.press(KEY.Key_F, SHIFT)
        self.assertIs(self.window.side.currentWidget(), self.panel("lead"))
        self.lead = self.panel("lead")

    def test_escape_leaves_a_field(self) -> None:
        self.assertIs(self.window.focusWidget(), self.lead.lowest)
        QTest.keyClick(self.lead.lowest, KEY.Key_Escape)
        self.assertIs(self.window.focusWidget(), self.window.desk)

    def test_boxes_choices_and_the_slider_by_keys(self) -> None:
        for key in (KEY.Key_Space, KEY.Key_Return):
            was = self.lead.tones_only.isChecked()
            self.lead.tones_only.setFocus()
            QTest.keyClick(self.lead.tones_only, key)
            self.settle()
            self.assertIsNot(self.lead.tones_only.isChecked(), was)
            self.assertIsNot(self.solo.focus.tones_only, was)
            self.assertFalse(self.window.session.player.playing)
        self.lead.mix.setFocus()
        mix = self.lead.mix.currentIndex()
        QTest.keyClick(self.lead.mix, KEY.Key_Up if mix else KEY.Key_Down)
        self.assertNotEqual(self.lead.mix.currentIndex(), mix)
        self.lead.everywhere.click()
        self.settle()
        self.lead.place.setFocus()
        view, place = self.window.session.solo.view, self.lead.place.value()
        QTest.keyClick(self.lead.place, KEY.Key_Right)
        self.settle()
        self.assertEqual(self.window.session.solo.view, view)
        self.assertGreater(self.lead.place.value(), place)

    def test_fields_are_taken_and_undone(self) -> None:
        self.lead.lowest.setText("C4")
        self.lead.lowest.editingFinished.emit()
        self.lead.tones_only.click()
        self.lead.high.setText("5000")
        self.lead.high.editingFinished.emit()
        self.assertEqual(self.solo.lead_range, (60, self.solo.instrument.highest))
        self.assertEqual(self.solo.focus, LeadFocus(None, None, 5000.0, True))
        self.lead.everywhere.click()
        self.lead.place.setSliderPosition(-5)
        self.lead.place.sliderReleased.emit()
        self.assertEqual(self.solo.focus.place, -0.5)
        for _ in range(5):
            self.press(KEY.Key_Z, CTRL)
        self.assertEqual((self.solo.lead_range, self.solo.focus), (None, LeadFocus()))

    def test_what_cannot_be_is_said_and_not_taken(self) -> None:
        for field, text, reason in (
            (self.lead.lowest, "E9", "."),
            (self.lead.high, "many", "not a number"),
            (self.lead.highest, "E2", "under"),
        ):
            before = field.text()
            field.setText(text)
            field.editingFinished.emit()
            self.assertRegex(self.lead.complaint.text(), reason)
            field.setText(before)
            field.editingFinished.emit()
        self.assertEqual((self.solo.lead_range, self.solo.focus), (None, LeadFocus()))


class Beats(PanelCase):
    def grid(self) -> BeatGrid:
        assert self.solo.grid is not None
        return self.solo.grid

    def test_a_beat_is_held_at_the_cursor_by_key_and_by_mouse(self) -> None:
        self.phrase(2)
        opened = self.opened
        opened.move_cursor(9.4)
        beat = round(self.grid().beat_at(9.4))
        self.press(KEY.Key_G, CTRL)
        self.assertAlmostEqual(self.grid().time_of(beat), 9.4)
        layout = self.window.desk.desk_layout
        start = QPoint(round(layout.x_of(9.4)), 14)
        self.drag(self.window.desk, start, start + QPoint(12, 0))
        self.assertGreater(self.grid().time_of(beat), 9.42)
        self.press(KEY.Key_F)
        self.panel("facts").drift.click()
        self.assertEqual(self.grid().anchors, ())

    def test_the_feel_is_chosen_in_the_facts(self) -> None:
        self.press(KEY.Key_F)
        self.panel("facts").feel.setCurrentIndex(1)
        self.panel("facts").feel.activated.emit(1)
        self.assertTrue(self.grid().swung)


class Proving(PanelCase):
    def test_a_phrase_is_proved_and_the_rail_tells(self) -> None:
        self.phrase(2)
        before = self.window.rail.strip.grab().toImage()
        self.press(KEY.Key_P, SHIFT)
        self.assertEqual(self.solo.phrases[2].stage, "proved")
        self.assertNotEqual(before, self.window.rail.strip.grab().toImage())
        self.press(KEY.Key_P, SHIFT)
        self.assertEqual(self.solo.phrases[2].stage, "reasoned")

    def test_how_the_tab_would_sound_is_drawn_over_it(self) -> None:
        plain = self.window.desk.grab().toImage()
        self.press(KEY.Key_Backslash)
        self.assertNotEqual(plain, self.window.desk.grab().toImage())


class FactsOfTheSolo(PanelCase):
    def setUp(self) -> None:
        super().setUp()
        self.press(KEY.Key_F)
        self.facts = self.panel("facts")

    def enter(self, field: QWidget, text: str) -> None:
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, KEY.Key_Return)
        self.settle()

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
            self.opened.move_cursor(3.0 + 0.6 * beat)
            QTest.mouseClick(self.facts.tap_button, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(self.solo.grid.bpm, 100, places=3)
        self.assertAlmostEqual(self.solo.grid.first_beat_s, 3.0, places=3)
        self.opened.move_cursor(4.25)
        QTest.mouseClick(self.facts.here_button, Qt.MouseButton.LeftButton)
        self.assertEqual(self.solo.grid.first_beat_s, 4.25)

    def test_what_is_no_number_is_told_and_changes_nothing(self) -> None:
        before = self.solo
        for field, words in ((self.facts.first_beat, "1e999"), (self.facts.tempo, "nan"), (self.facts.beats, "x")):
            field.setText(words)
            field.setModified(True)
            QTest.keyClick(field, KEY.Key_Return)
            self.assertIn("is not a number", self.facts.complaint.text())
            field.setModified(False)
            self.facts.refresh()
        self.facts.beats.setText("x")
        for beat in range(4):
            self.opened.move_cursor(3.0 + 0.6 * beat)
            QTest.mouseClick(self.facts.tap_button, Qt.MouseButton.LeftButton)
        self.assertIn("“x” is not a number", self.facts.complaint.text())
        self.assertEqual(self.solo, before)

    def test_another_guitar_lets_go_of_places_that_it_has_not(self) -> None:
        note = next(note for note in self.solo.notes if note.string == 1)
        self.edit(lambda solo: toggle_pins(solo, [note.id]))
        self.facts.tuning.setText("B3 G3 D3 A2")
        self.facts.tuning.setModified(True)
        QTest.keyClick(self.facts.tuning, KEY.Key_Return)
        self.settle()
        self.assertEqual(len(self.solo.instrument.tuning), 4)
        self.assertEqual(check_solo(self.solo), self.solo)
        self.assertNotEqual(self.solo.note(note.id).fret, note.fret)

    def test_letters_typed_in_a_field_are_not_commands(self) -> None:
        before = self.solo.notes
        self.facts.title.setFocus()
        self.facts.title.selectAll()
        QTest.keyClicks(self.facts.title, "bvlhp x")
        self.assertEqual(self.facts.title.text(), "bvlhp x")
        self.assertEqual(self.solo.notes, before)


del PanelCase, WindowCase
