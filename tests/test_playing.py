"""Playing: speeds, loops, voices, steady sounds, and a rest in time; without a window."""

import time
import unittest
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from eager_owl.audio.player import LoopSource, SteadySource
from eager_owl.neck.cautions import Limits
from eager_owl.session.sounding import transcription_contours, transcription_sound
from eager_owl.solo.document import LeadFocus, Solo, with_notes
from eager_owl.theory.pitch import midi_to_hz
from tests.sessions import SessionCase
from tests.support import RATE, line


class PlayingCase(SessionCase):
    def play_until(self, reached: Callable[[], bool]) -> None:
        """Let the device pull; it gets silence where the stretching is not done yet."""
        for _ in range(4000):
            self.device.advance(0.5)
            self.clock.advance(0.05)
            if reached():
                return
            time.sleep(0.002)
        self.fail("it was never reached")

    @property
    def source(self) -> LoopSource:
        source = self.session.player.source
        assert source is not None
        return source


class Listening(PlayingCase):
    def test_speeds_count_in_and_once(self) -> None:
        self.demo()
        self.press("-")
        self.assertEqual(self.session.playing.speed, 0.35)
        self.press("=")
        self.press("=")
        self.assertEqual(self.session.playing.speed, 0.7)
        self.press("C")
        self.press("Return")
        source = self.source
        self.assertTrue(source.counting_in)
        self.play_until(lambda: not self.session.player.playing)
        self.assertTrue(source.finished)

    def test_changing_speed_goes_on_playing(self) -> None:
        self.demo()
        self.press("Space")
        self.press("-")
        self.assertEqual((self.source.speed, self.source.loop), (0.35, True))
        self.press("Space")
        self.assertFalse(self.session.player.playing)

    def test_the_cursor_follows_the_ear_and_the_loop_comes_round(self) -> None:
        self.demo()
        phrase = self.opened.phrase
        assert phrase is not None
        self.press("Space")
        self.play_until(lambda: self.opened.view.cursor > phrase.start + 0.2)
        self.assertLess(self.opened.view.cursor, phrase.end)
        self.play_until(lambda: self.source.passes > 0)

    def test_no_sound_is_told(self) -> None:
        self.demo()
        self.opened.sound = None
        for keys in ("Space", "Return", ";"):
            self.press(keys)
            self.assertIn("no sound", self.notice)

    def test_the_loop_plays_what_is_brought_forward(self) -> None:
        self.demo()
        self.edit(lambda solo: replace(solo, focus=LeadFocus(low_hz=2000.0)))
        self.press("Return")
        assert self.opened.sound is not None
        plain = self.opened.sound.recording.between(self.source.start_s, self.source.end_s)
        self.assertLess(float(np.std(self.source._samples)), 0.7 * float(np.std(plain)))


class Voices(PlayingCase):
    def test_the_voices_go_round_and_both_is_one_in_each_ear(self) -> None:
        self.demo()
        self.press("\\")
        self.assertEqual(self.opened.view.voice, "transcription")
        self.press("Return")
        np.testing.assert_array_equal(self.source._samples[:, 0], self.source._samples[:, 1])
        self.press("\\")
        self.assertFalse(np.array_equal(self.source._samples[:, 0], self.source._samples[:, 1]))
        self.press("\\")
        self.assertEqual(self.opened.view.voice, "recording")

    def test_an_instant_is_held_and_let_go(self) -> None:
        self.demo()
        self.opened.move_cursor(8.6)
        self.press(";")
        self.assertIsInstance(self.source, SteadySource)
        self.clock.advance(0.1)
        self.assertAlmostEqual(self.opened.view.cursor, 8.6, delta=0.01)
        self.press(";")
        self.assertFalse(self.session.player.playing)

    def test_a_reference_tone_has_the_notes_pitch_in_the_recordings_tuning(self) -> None:
        self.demo()
        self.press("Right")
        note = self.opened.selected[0]
        self.press("'")
        self.assertIsInstance(self.source, SteadySource)
        sound = self.source._samples[:, 0]
        hz = float(np.abs(np.fft.rfft(sound)).argmax()) * self.source.rate / len(sound)
        self.assertAlmostEqual(hz, midi_to_hz(note.pitch + (self.solo.reference_cents or 0) / 100), delta=0.5)

    def test_a_note_is_heard_against_its_chord(self) -> None:
        self.demo()
        self.phrase(1)
        self.press("Right")
        self.press("Shift+'")
        self.assertTrue(self.session.player.playing)

    def test_the_transcription_is_as_loud_as_the_recording(self) -> None:
        solo = with_notes(Solo(), line(60, 64, 67))
        recorded = 0.3 * np.ones((RATE, 2), np.float32)
        sound = transcription_sound(solo, 0.0, 1.0, RATE, recorded)
        self.assertAlmostEqual(float(np.sqrt(np.mean(sound**2))), 0.3, delta=0.08)

    def test_contours_of_the_transcription_bend_as_the_notes_do(self) -> None:
        self.demo()
        notes = self.solo.notes_in(self.solo.phrases[2])
        contours = transcription_contours(self.solo, notes)
        bent = next(note for note in notes if note.bend)
        assert bent.bend is not None
        self.assertAlmostEqual(float(contours[bent.id].max()), bent.bend.bend_semitones, delta=0.1)


class Resting(PlayingCase):
    def test_a_rest_is_minded_while_it_plays(self) -> None:
        self.session.resting.set_limits(110, 1)
        self.demo()
        self.press("Space")
        self.clock.advance(61)
        self.assertIn("without a rest", self.notice)

    def test_bounds_are_the_players_and_are_kept(self) -> None:
        self.session.resting.set_limits(95, 20)
        self.assertEqual((self.new_session().resting.limits.reach_mm, self.session.resting.limits.rest_min), (95, 20))
        with self.assertRaises(ValueError):
            self.session.resting.set_limits(2, 20)
        self.settings.write("limits/reach_mm", "much")
        self.assertEqual(self.new_session().resting.limits, Limits())


del PlayingCase

if __name__ == "__main__":
    unittest.main()
