"""The real window, where the player helps the detector: doubts, taps, focus, beats, phrases, repeats, proving."""

import time
from collections.abc import Callable
from dataclasses import replace
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton

from eager_owl.audio.decode import Cancelled
from eager_owl.audio.player import SteadySource
from eager_owl.desktop.window import Window
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session import doubts, transcription_contours, transcription_sound
from eager_owl.solo.document import LeadFocus, Phrase, Solo, with_notes
from eager_owl.sound import night_ferry
from tests.support import RATE, after_silence, line, tone
from tests.test_window import APP, CTRL, KEY, SHIFT, WindowCase


class HelpingCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()

    def edit(self, change: object) -> None:
        assert self.window.opened is not None
        self.window.opened.do("for the test", change)  # type: ignore[arg-type]
        self.window.wait_until_idle()

    def phrase(self, index: int) -> None:
        assert self.window.opened is not None
        self.window.opened.look_at_phrase(index)
        self.window.wait_until_idle()

    def doubtful(self) -> int:
        """Make the second note of the phrase the worst doubt."""
        self.phrase(0)
        note = self.solo.notes_in(self.solo.phrases[0])[1]
        doubtful = replace(note, confidence=0.3, runners_up=((note.pitch + 12, 0.4),))
        self.edit(lambda solo: with_notes(solo, (doubtful if n.id == note.id else n for n in solo.notes)))
        return note.id

    @property
    def chosen(self) -> tuple[int, ...]:
        assert self.window.opened is not None
        return self.window.opened.view.selection


class Doubts(HelpingCase):
    def test_the_worst_is_first_and_it_is_right_pins_it_and_goes_on(self) -> None:
        worst = self.doubtful()
        self.press(KEY.Key_D)
        self.assertEqual(self.chosen, (worst,))
        before = len(doubts(self.solo, self.solo.phrases[0]))
        self.press(KEY.Key_Z)
        self.assertIn("pitch", self.solo.note(worst).pins)
        self.assertEqual(len(doubts(self.solo, self.solo.phrases[0])), before - 1)

    def test_the_queue_is_listed_and_a_row_leads_to_its_note(self) -> None:
        worst = self.doubtful()
        rows = [b for b in self.window.evidence.findChildren(QPushButton) if b.text().startswith("note ")]
        self.assertEqual(rows[0].text(), "note 2")
        rows[0].click()
        self.window.wait_until_idle()
        self.assertEqual(self.chosen, (worst,))

    def test_a_runner_up_is_taken_and_what_is_around_it_is_heard_anew(self) -> None:
        worst = self.doubtful()
        pitch = self.solo.note(worst).pitch
        self.press(KEY.Key_D)
        with mock.patch("eager_owl.desktop.recordings.hear_phrase", wraps=_hear()) as heard:
            self.press(KEY.Key_E)
        self.assertEqual(heard.call_count, 1)
        note = self.solo.note(worst)
        self.assertEqual(note.pitch, pitch + 12)
        self.assertIn("pitch", note.pins)
        self.assertTrue(any(n.pitch == 60 for n in self.solo.notes_in(self.solo.phrases[0])))

    def test_accepting_with_nothing_selected_goes_to_the_worst(self) -> None:
        worst = self.doubtful()
        self.press(KEY.Key_Z)
        self.assertEqual(self.chosen, (worst,))


def _hear() -> object:
    from eager_owl.session import hear_phrase

    return hear_phrase


class Taps(HelpingCase):
    def test_taps_are_kept_where_the_ear_is_and_let_go(self) -> None:
        opened = self.window.opened
        assert opened is not None
        self.phrase(1)
        for time_s in (5.0, 5.3, 5.31):
            opened.move_cursor(time_s)
            self.press(KEY.Key_I)
        self.assertEqual(opened.view.taps, (5.0, 5.31))
        self.press(KEY.Key_I, SHIFT)
        self.assertEqual(opened.view.taps, ())

    def test_hearing_puts_a_note_at_each_tap(self) -> None:
        opened = self.window.opened
        assert opened is not None
        self.phrase(1)
        taps = (4.97, 5.5, 6.57, 7.1)
        opened.set_taps(taps)
        self.press(KEY.Key_H)
        notes = self.solo.notes_in(self.solo.phrases[1])
        self.assertEqual(len(notes), len(taps))
        for note, tap in zip(notes, taps, strict=True):
            self.assertAlmostEqual(note.onset, tap, delta=0.1)


class Focus(HelpingCase):
    def setUp(self) -> None:
        super().setUp()
        self.press(KEY.Key_F, SHIFT)
        self.assertIs(self.window.side.currentWidget(), self.window.lead)
        self.lead = self.window.lead

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
            self.window.undo()
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

    def test_the_loop_plays_what_is_brought_forward(self) -> None:
        self.edit(lambda solo: replace(solo, focus=LeadFocus(low_hz=2000.0)))
        self.window.listening.play_once()
        self.window.wait_until_idle()
        source = self.window.player.source
        assert source is not None
        recording = self.window.opened.sound.recording  # type: ignore[union-attr]
        plain = recording.between(source.start_s, source.end_s)
        self.assertLess(float(np.std(source._samples)), 0.7 * float(np.std(plain)))

    def test_the_range_bounds_what_is_heard(self) -> None:
        self.edit(lambda solo: replace(solo, lead_range=(72, 86), notes=()))
        self.phrase(1)
        self.press(KEY.Key_H)
        notes = self.solo.notes_in(self.solo.phrases[1])
        self.assertTrue(notes)
        self.assertGreaterEqual(min(note.pitch for note in notes), 71)


class BeatAndBars(HelpingCase):
    def grid(self) -> BeatGrid:
        assert self.solo.grid is not None
        return self.solo.grid

    def test_the_beat_found_is_taken(self) -> None:
        self.edit(lambda solo: replace(solo, grid=None))
        self.press(KEY.Key_T, CTRL)
        self.assertEqual(self.grid().meter, "3/4")
        self.assertAlmostEqual(self.grid().bpm, night_ferry.GRID.bpm, delta=0.2)
        off = self.grid().beat_at(night_ferry.GRID.first_beat_s) % 3
        self.assertLess(min(off, 3 - off), 0.1)

    def test_a_beat_is_held_at_the_cursor_by_key_and_by_mouse(self) -> None:
        self.phrase(2)
        opened = self.window.opened
        assert opened is not None
        opened.move_cursor(9.4)
        beat = round(self.grid().beat_at(9.4))
        self.press(KEY.Key_G, CTRL)
        self.assertAlmostEqual(self.grid().time_of(beat), 9.4)
        layout = self.window.desk.desk_layout
        start = QPoint(round(layout.x_of(9.4)), 14)
        self.drag(self.window.desk, start, start + QPoint(12, 0))
        self.assertGreater(self.grid().time_of(beat), 9.42)
        self.window.facts.drift.click()
        self.assertEqual(self.grid().anchors, ())

    def test_a_bar_begins_where_the_player_says(self) -> None:
        opened = self.window.opened
        assert opened is not None
        opened.move_cursor(night_ferry.GRID.time_of(13))
        self.press(KEY.Key_D, CTRL)
        self.assertAlmostEqual(self.grid().beat_at(opened.view.cursor) % 3, 0, delta=1e-6)

    def test_the_feel_is_chosen_in_the_facts(self) -> None:
        self.window.facts.feel.setCurrentIndex(1)
        self.window.facts.feel.activated.emit(1)
        self.assertTrue(self.grid().swung)


class NewRecording(WindowCase):
    def test_beat_and_phrases_are_offered_and_taken(self) -> None:
        path = self.sound_file("take.wav", after_silence(*(tone(float(p), 0.3) for p in (60, 62, 64) * 3)))
        self.window.open_path(path)
        self.window.wait_until_idle()
        answers = {b.text(): b for b in self.window.notice.findChildren(QPushButton) if b.isVisible()}
        take = next(b for words, b in answers.items() if "phrases" in words)
        take.click()
        self.window.wait_until_idle()
        self.assertGreaterEqual(len(self.solo.phrases), 1)
        self.assertEqual(self.solo.phrases[0].name, "Phrase 1")

    def test_listening_through_can_be_stopped(self) -> None:
        path = self.sound_file("long.wav", np.tile(tone(64.0, 1.0), 20))
        stopped: list[bool] = []

        def slow(_recording: object, progress: Callable[[float, str], bool]) -> None:
            while progress(0.5, "listening"):
                time.sleep(0.01)
            stopped.append(True)
            raise Cancelled

        with mock.patch("eager_owl.desktop.recordings.survey", slow):
            self.window.open_path(path)
            for _ in range(500):
                QTest.qWait(10)
                if self.window.transport.doing.text() == "listening":
                    break
            self.press(KEY.Key_Escape)
        self.assertEqual(stopped, [True])
        self.assertFalse(self.window.transport.progress.isVisible())

    def test_what_needs_a_solo_says_so(self) -> None:
        for key, modifiers in ((KEY.Key_I, None), (KEY.Key_T, CTRL), (KEY.Key_P, CTRL), (KEY.Key_Backslash, None)):
            self.press(key, modifiers or Qt.KeyboardModifier.NoModifier)
            self.assertIn("pen a recording or a solo first", self.window.notice.words.text())


class Proving(HelpingCase):
    def test_the_voices_go_round_and_both_is_one_in_each_ear(self) -> None:
        opened = self.window.opened
        assert opened is not None
        self.press(KEY.Key_Backslash)
        self.assertEqual(opened.view.voice, "transcription")
        self.window.listening.play_once()
        self.window.wait_until_idle()
        source = self.window.player.source
        assert source is not None
        np.testing.assert_array_equal(source._samples[:, 0], source._samples[:, 1])
        self.press(KEY.Key_Backslash)
        source = self.window.player.source
        assert source is not None
        self.assertFalse(np.array_equal(source._samples[:, 0], source._samples[:, 1]))
        self.press(KEY.Key_Backslash)
        self.assertEqual(opened.view.voice, "recording")

    def test_a_phrase_is_proved_and_the_rail_tells(self) -> None:
        self.phrase(2)
        before = self.window.rail.strip.grab().toImage()
        self.press(KEY.Key_P, SHIFT)
        self.assertEqual(self.solo.phrases[2].stage, "proved")
        self.assertNotEqual(before, self.window.rail.strip.grab().toImage())
        self.press(KEY.Key_P, SHIFT)
        self.assertEqual(self.solo.phrases[2].stage, "placed")

    def test_how_the_tab_would_sound_is_drawn_over_it(self) -> None:
        plain = self.window.desk.grab().toImage()
        self.press(KEY.Key_Backslash)
        self.assertNotEqual(plain, self.window.desk.grab().toImage())

    def test_an_instant_is_held_and_let_go(self) -> None:
        opened = self.window.opened
        assert opened is not None
        opened.move_cursor(8.6)
        self.press(KEY.Key_Semicolon)
        self.assertIsInstance(self.window.player.source, SteadySource)
        APP.processEvents()
        self.assertAlmostEqual(opened.view.cursor, 8.6, delta=0.01)
        self.press(KEY.Key_Semicolon)
        self.assertFalse(self.window.player.playing)

    def test_a_reference_tone_has_the_notes_pitch_in_the_recordings_tuning(self) -> None:
        self.press(KEY.Key_Right)
        note = self.window.opened.selected[0]  # type: ignore[union-attr]
        self.press(KEY.Key_Apostrophe)
        source = self.window.player.source
        assert isinstance(source, SteadySource)
        sound = source._samples[:, 0]
        hz = float(np.abs(np.fft.rfft(sound)).argmax()) * source.rate / len(sound)
        true = 440 * 2 ** ((note.pitch + (self.solo.reference_cents or 0) / 100 - 69) / 12)
        self.assertAlmostEqual(hz, true, delta=0.5)

    def test_the_transcription_is_as_loud_as_the_recording(self) -> None:
        solo = with_notes(Solo(), line(60, 64, 67))
        recorded = 0.3 * np.ones((RATE, 2), np.float32)
        sound = transcription_sound(solo, 0.0, 1.0, RATE, recorded)
        self.assertAlmostEqual(float(np.sqrt(np.mean(sound**2))), 0.3, delta=0.08)

    def test_contours_of_the_transcription_bend_as_the_notes_do(self) -> None:
        notes = self.solo.notes_in(self.solo.phrases[2])
        contours = transcription_contours(self.solo, notes)
        bent = next(note for note in notes if note.bend)
        self.assertAlmostEqual(float(contours[bent.id].max()), bent.bend.semitones or 0, delta=0.1)  # type: ignore[union-attr]


class Repeats(HelpingCase):
    def test_a_correction_is_carried_to_the_repeat(self) -> None:
        figure = (65, 68, 70, 72, 70)
        phrases = (Phrase(0.0, 1.24, "One"), Phrase(1.24, 3.5, "Two"))
        notes = line(*figure, 60, 61, *figure)
        self.edit(lambda solo: with_notes(replace(solo, phrases=phrases), notes))
        self.phrase(0)
        said = [label.text() for label in self.window.evidence.findChildren(QLabel)]
        self.assertTrue(any("the same figure" in text and "Two" in text for text in said))
        self.window.opened.select([4])  # type: ignore[union-attr]
        self.press(KEY.Key_Up)
        self.press(KEY.Key_R, CTRL)
        self.assertEqual([self.solo.note(i).pitch for i in (4, 11)], [73, 73])

    def test_a_figure_that_comes_more_than_once_is_counted(self) -> None:
        figure = (65, 68, 70, 72, 70)
        notes = line(*figure, 60, *figure, 61, *(pitch + 2 for pitch in figure))
        self.edit(lambda solo: with_notes(replace(solo, phrases=(Phrase(0.0, 1.24, "One"),)), notes))
        self.phrase(0)
        said = " ".join(label.text() for label in self.window.evidence.findChildren(QLabel))
        self.assertIn("three times: the same figure, at 0:01.5; again, a whole step up, at 0:03.0", said)

    def test_suggested_phrases_fill_what_is_unmarked(self) -> None:
        self.edit(lambda solo: replace(solo, phrases=solo.phrases[:1]))
        self.press(KEY.Key_P, CTRL)
        self.assertGreaterEqual(len(self.solo.phrases), 4)
        self.assertEqual(self.solo.phrases[0].name, "Pickup")


del WindowCase, HelpingCase  # unittest would run the first of them here again
assert Window
