"""The stages between pitch track and notes, on contours drawn by hand."""

import unittest
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.articulation import measure_techniques
from eager_owl.hearing.attacks import find_attacks, fresh_fullness
from eager_owl.hearing.frames import HOP_S, Frames, measure_frames
from eager_owl.hearing.measures import loudness_db
from eager_owl.hearing.pitch_track import track_pitch
from eager_owl.hearing.plateaus import Plateau, calm_vibrato, find_plateaus, measure_transition
from eager_owl.hearing.segment import RawNote, find_notes
from tests.support import RATE, after_silence, tone

NONE = np.array([], dtype=np.intp)


def contour(*legs: tuple[float, float, float]) -> NDArray[np.float64]:
    """Legs of (seconds, from pitch, to pitch), a value a frame."""
    return np.concatenate([np.linspace(a, b, round(s / HOP_S)) for s, a, b in legs])


class Plateaus(unittest.TestCase):
    def test_steps_make_plateaus(self) -> None:
        found = find_plateaus(contour((0.2, 60, 60), (0.2, 62, 62), (0.2, 60, 60)), 0, 103)
        self.assertEqual([round(p.midi, 2) for p in found], [60, 62, 60])

    def test_a_glide_is_no_plateau(self) -> None:
        found = find_plateaus(contour((0.2, 60, 60), (0.25, 60, 63), (0.3, 63, 63)), 0, 128)
        self.assertEqual([round(p.midi) for p in found], [60, 63])

    def test_gaps_without_pitch_split_nothing_of_one_pitch(self) -> None:
        line = contour((0.4, 60, 60))
        line[30:33] = np.nan
        self.assertEqual(len(find_plateaus(line, 0, len(line))), 1)

    def test_no_pitch_no_plateau(self) -> None:
        self.assertEqual(find_plateaus(np.full(50, np.nan), 0, 50), [])

    def test_the_start_of_a_bend_does_not_raise_its_plateau(self) -> None:
        found = find_plateaus(contour((0.06, 64, 64), (0.12, 64, 65), (0.4, 65, 65)), 0, 100)
        self.assertAlmostEqual(found[0].midi, 64, delta=0.2)


class Transitions(unittest.TestCase):
    def move(self, seconds: float, semitones: float = 2.0) -> tuple[float, float, float]:
        line = contour((0.2, 60, 60), (seconds, 60, 60 + semitones), (0.3, 60 + semitones, 60 + semitones))
        after = round((0.2 + seconds) / HOP_S)
        move = measure_transition(line, Plateau(0, 34, 60.0), Plateau(after, len(line), 60 + semitones))
        return move.seconds, move.whole_s, move.semitones

    def test_a_ramp_is_timed(self) -> None:
        for seconds in (0.06, 0.1, 0.2):
            for semitones in (2.0, -3.0):
                half, whole, way = self.move(seconds, semitones)
                self.assertAlmostEqual(half, seconds, delta=0.02)
                self.assertAlmostEqual(whole, seconds / 0.875, delta=0.03)
                self.assertAlmostEqual(way, semitones)

    def test_a_step_takes_no_time(self) -> None:
        self.assertLess(self.move(0.006)[0], 0.015)


class Vibrato(unittest.TestCase):
    def wave(self, rate_hz: float, semitones: float) -> NDArray[np.float64]:
        return 60 + semitones * np.sin(2 * np.pi * rate_hz * np.arange(250) * HOP_S)

    def test_a_wide_vibrato_is_calmed(self) -> None:
        for rate, extent in ((4.5, 0.8), (6.0, 1.0)):
            calmed = calm_vibrato(self.wave(rate, extent), NONE)
            self.assertLess(np.abs(calmed[60:190] - 60).max(), 0.45 * extent)

    def test_a_narrow_one_a_trill_a_bend_and_a_slide_are_left_alone(self) -> None:
        trill = np.where(np.arange(250) // 17 % 2, 62.0, 60.0)
        bend = contour((0.3, 60, 60), (0.15, 60, 62), (0.3, 62, 62), (0.15, 62, 60), (0.3, 60, 60))
        slide = contour((0.4, 60, 60), (0.07, 60, 64), (0.5, 64, 64))
        for line in (self.wave(5.5, 0.25), trill, bend, slide):
            np.testing.assert_array_equal(calm_vibrato(line, NONE), line)


class Curls(unittest.TestCase):
    def test_a_quarter_step_curl_is_fretted_where_it_starts(self) -> None:
        line = contour((0.15, 60, 60), (0.15, 60, 60.5), (0.4, 60.5, 60.5))
        note = RawNote(0, len(line), 60.4, "attack", 5.0, [Plateau(0, len(line), 60.4)])
        techniques, fretted = measure_techniques(note, line)
        self.assertEqual([t.name for t in techniques], ["bend"])
        self.assertAlmostEqual(fretted, 60, delta=0.05)
        self.assertAlmostEqual(techniques[0].semitones or 0, 0.5, delta=0.08)

    def test_a_steady_note_with_a_rough_start_and_end_has_none(self) -> None:
        line = contour((0.4, 60, 60))
        line[:3] += 0.4
        line[-4:] += 0.6
        note = RawNote(0, len(line), 60.0, "attack", 5.0, [Plateau(0, len(line), 60.0)])
        self.assertEqual(measure_techniques(note, line), ((), 60.0))


class Loudness(unittest.TestCase):
    def test_it_is_of_where_the_note_has_its_pitch(self) -> None:
        level, midi = np.full(20, -90.0), np.full(20, np.nan)
        level[:4], level[8:12] = -20.0, -10.0
        midi[:4] = midi[12:18] = 60.0
        frames = measure_frames(np.zeros(4096, np.float32), RATE)
        frames = replace(frames, level_db=level)

        def loudness(start: int, end: int) -> float:
            return loudness_db(RawNote(start, end, 60.0, "attack", 5.0, []), frames, midi)

        # A line that is lost after four frames was as loud as in those; once it is settled, what is late counts.
        self.assertEqual(loudness(0, 9), -20.0)
        level[14] = -30.0
        self.assertEqual(loudness(0, 20), -30.0)
        # And one that has no pitch at all is as loud as it is.
        self.assertEqual(loudness(8, 12), -10.0)


class Attacks(unittest.TestCase):
    def frames(self, decay_s: float = 5.0) -> Frames:
        low, high = tone(50.0, 1.0, decay_s), tone(65.0, 0.6, 5.0)
        both = low.copy()
        both[round(0.4 * RATE) :] += high[: len(both) - round(0.4 * RATE)]
        return measure_frames(after_silence(both), RATE)

    def test_attacks_are_found_and_vibrato_is_none(self) -> None:
        times = find_attacks(self.frames()) * HOP_S
        self.assertEqual(len(times), 2)
        np.testing.assert_allclose(times, [0.3, 0.7], atol=0.02)
        wave = 60 + 0.4 * np.sin(2 * np.pi * 5.5 * np.arange(RATE) / RATE)
        self.assertEqual(len(find_attacks(measure_frames(after_silence(tone(wave)), RATE))), 1)

    def test_the_new_note_is_fuller_in_what_is_fresh(self) -> None:
        frames = self.frames()
        fresh = fresh_fullness(frames, find_attacks(frames))
        at = round(0.85 / HOP_S)
        new = [k for k in range(frames.midi.shape[1]) if abs(frames.midi[at, k] - 65) < 0.5]
        old = [k for k in range(frames.midi.shape[1]) if abs(frames.midi[at, k] - 50) < 0.5]
        self.assertTrue(new)
        for k in old:
            self.assertGreater(fresh[at, new[0]], fresh[at, k])

    def test_no_attack_nothing_fresh(self) -> None:
        frames = self.frames()
        self.assertEqual(fresh_fullness(frames, NONE).shape, frames.midi.shape)


class WholeNotes(unittest.TestCase):
    def test_a_note_over_one_that_rings_on_is_heard(self) -> None:
        frames = Attacks().frames(decay_s=0.35)
        attacks = find_attacks(frames)
        notes = find_notes(frames, track_pitch(frames), attacks, lambda _contour, _junction: {"struck": 1.0})
        self.assertIn(65, [round(n.midi) for n in notes])
