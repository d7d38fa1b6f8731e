import unittest
from dataclasses import replace

import numpy as np

from eager_owl.hearing.detect import detect_notes
from eager_owl.hearing.frames import measure_frames
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import Technique
from eager_owl.sound import night_ferry
from eager_owl.sound.band import render_band
from eager_owl.sound.click import count_in
from eager_owl.sound.string import pitch_contour, play_notes, strokes
from tests.support import line

RATE = 22050


class Strings(unittest.TestCase):
    def test_legato_joins_strokes(self) -> None:
        notes = line(60, 62, 64)
        notes[1] = replace(notes[1], techniques=(Technique("hammer_on"),))
        self.assertEqual([len(s.notes) for s in strokes(notes)], [2, 1])

    def test_contour_of_a_bend_and_release(self) -> None:
        note = Note(1, 0.0, 1.0, 70, techniques=(Technique("bend_release", 2.0, 0.14, 0.14),))
        contour = pitch_contour(strokes([note])[0], np.linspace(0, 1, 101))
        self.assertEqual(contour[0], 70)
        self.assertAlmostEqual(contour[40], 72)
        self.assertAlmostEqual(contour[95], 70)

    def test_the_bar_lets_a_dip_come_back(self) -> None:
        times = np.array([1.1, 1.34, 1.8])
        for bar, after in ((Technique("dip", -2.0), 60.0), (Technique("dive", -2.0), 58.0)):
            note = Note(1, 1.0, 1.0, 60, techniques=(bar,))
            np.testing.assert_allclose(pitch_contour(strokes([note])[0], times), [60.0, 58.0, after], atol=0.05)

    def test_a_slide_passes_its_frets(self) -> None:
        notes = line(60, 64)
        notes[1] = replace(notes[1], techniques=(Technique("slide", rise_s=0.1),))
        contour = pitch_contour(strokes(notes)[0], np.arange(0.15, 0.35, 0.002))
        self.assertTrue({60.0, 61.0, 62.0, 63.0, 64.0} <= set(np.round(contour, 6)))

    def test_what_is_played_is_what_was_written(self) -> None:
        """The synthesiser is checked by ear of the detector, not the detector by the synthesiser."""
        notes = line(60, 64, 67, 72, start=0.3)
        sound = play_notes(notes, RATE, 2.0)
        self.assertEqual([n.pitch for n in detect_notes(sound, RATE, 0.0).notes], [60, 64, 67, 72])

    def test_loudness_and_no_overload(self) -> None:
        loud = play_notes([Note(1, 0.1, 0.5, 60, loudness_db=-6.0)], RATE, 1.0)
        soft = play_notes([Note(1, 0.1, 0.5, 60, loudness_db=-26.0)], RATE, 1.0)
        self.assertGreater(np.abs(loud).max(), 3 * np.abs(soft).max())
        self.assertLessEqual(np.abs(loud).max(), 1.0)

    def test_legato_has_less_attack_than_a_pick(self) -> None:
        plain = line(60, 62, start=0.3)
        hammered = [plain[0], replace(plain[1], techniques=(Technique("hammer_on"),))]
        flux = [measure_frames(play_notes(n, RATE, 1.2), RATE).flux[95:105].max() for n in (plain, hammered)]
        self.assertGreater(flux[0], 2 * flux[1])


class Band(unittest.TestCase):
    def test_band_is_stereo_finite_and_follows_the_chart(self) -> None:
        sound = render_band(parse_chart("| Fm7 | N.C. |"), BeatGrid(120, 0.5, 3), 2, 4.0, RATE, 0.0)
        self.assertEqual(sound.shape, (4 * RATE, 2))
        self.assertTrue(np.isfinite(sound).all())
        first, second = sound[RATE // 2 : 2 * RATE], sound[2 * RATE : int(3.5 * RATE)]
        self.assertGreater(np.abs(first).mean(), 2 * np.abs(second).mean())

    def test_count_in(self) -> None:
        clicks = count_in(RATE, 0.5, 3)
        self.assertEqual(len(clicks), round(1.5 * RATE))
        for beat in range(3):
            self.assertGreater(np.abs(clicks[round(beat * 0.5 * RATE) :][:200]).max(), 0.2)


class Demo(unittest.TestCase):
    def test_the_tune_has_all_it_promises(self) -> None:
        notes = night_ferry.solo_notes()
        names = {t.name for n in notes for t in n.techniques}
        self.assertLessEqual(
            {"bend", "bend_release", "vibrato", "slide", "hammer_on", "pull_off", "trill", "ghost", "staccato",
             "double_stop"}, names,
        )  # fmt: skip
        sizes = {t.semitones for n in notes for t in n.techniques if t.name == "bend"}
        self.assertEqual(sizes, {1.0, 2.0})
        self.assertGreaterEqual(len(night_ferry.PHRASES), 7)
        self.assertEqual(len(parse_chart(night_ferry.CHART).bars), night_ferry.BARS)

    def test_phrases_follow_each_other_and_hold_their_notes(self) -> None:
        for (_, _, end, _), (_, start, _, _) in zip(night_ferry.PHRASES, night_ferry.PHRASES[1:], strict=False):
            self.assertEqual(end, start)
        for _, start, end, events in night_ferry.PHRASES:
            self.assertTrue(all(start <= e.beat < end for e in events))
