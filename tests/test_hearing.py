"""The detector on simple sounds whose truth is plain. How well it does on instruments: see benchmarks/."""

import unittest

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Cancelled
from eager_owl.hearing.articulation import measure_vibrato
from eager_owl.hearing.detect import detect_notes
from eager_owl.hearing.frames import HOP_S, measure_frames
from eager_owl.hearing.pitch_track import track_pitch
from eager_owl.hearing.tuning import tuning_offset_cents
from eager_owl.solo.document import Note
from tests.support import RATE, after_silence, glide, tone


def heard(*parts: NDArray[np.float32], reference: float | None = 0.0) -> tuple[Note, ...]:
    return detect_notes(after_silence(*parts), RATE, reference).notes


class Tracking(unittest.TestCase):
    def test_pitch_over_the_whole_neck(self) -> None:
        for midi in (38, 40, 45, 52, 59, 64, 71, 76, 81, 86, 88):
            track = track_pitch(measure_frames(after_silence(tone(float(midi), 0.5)), RATE))
            middle = track.midi[int(0.5 / HOP_S) : int(0.7 / HOP_S)]
            self.assertTrue(np.isfinite(middle).all(), midi)
            self.assertAlmostEqual(float(np.median(middle)), midi, delta=0.06, msg=str(midi))

    def test_silence_has_no_pitch(self) -> None:
        track = track_pitch(measure_frames(np.zeros(RATE, np.float32), RATE))
        self.assertFalse(np.isfinite(track.midi).any())

    def test_noise_has_little(self) -> None:
        noise = np.random.default_rng(0).normal(0, 0.1, RATE).astype(np.float32)
        track = track_pitch(measure_frames(noise, RATE))
        self.assertLess(np.isfinite(track.midi).mean(), 0.1)

    def test_bad_samples_are_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "finite"):
            detect_notes(np.array([0.0, np.nan], np.float32), RATE)


class Notes(unittest.TestCase):
    def test_a_scale(self) -> None:
        pitches = [60, 62, 63, 65, 67, 68, 70, 72]
        notes = heard(*(tone(float(p), 0.2, decay_s=0.3) for p in pitches))
        self.assertEqual([n.pitch for n in notes], pitches)
        for i, note in enumerate(notes):
            self.assertAlmostEqual(note.onset, 0.3 + 0.2 * i, delta=0.02)
            self.assertEqual(note.techniques, ())

    def test_fast_repeated_notes(self) -> None:
        notes = heard(*(tone(67.0, 0.09) for _ in range(8)))
        self.assertEqual([n.pitch for n in notes], [67] * 8)

    def test_silence_and_noise_give_no_notes(self) -> None:
        self.assertEqual(detect_notes(np.zeros(RATE, np.float32), RATE).notes, ())
        self.assertEqual(detect_notes(np.zeros(10, np.float32), RATE).notes, ())

    def test_loudness_is_measured(self) -> None:
        loud, soft = heard(tone(60.0, 0.4), 0.1 * tone(64.0, 0.4))
        self.assertAlmostEqual(loud.loudness_db - soft.loudness_db, 20, delta=2)

    def test_hammer_on_and_pull_off(self) -> None:
        notes = heard(tone(glide(60, (0.25, 60), (0.01, 62), (0.25, 62), (0.01, 60), (0.25, 60))))
        self.assertEqual([n.pitch for n in notes], [60, 62, 60])
        self.assertEqual([n.techniques[0].name for n in notes[1:]], ["hammer_on", "pull_off"])

    def test_slide(self) -> None:
        notes = heard(tone(glide(60, (0.3, 60), (0.07, 64), (0.4, 64))))
        self.assertEqual([n.pitch for n in notes], [60, 64])
        slide = notes[1].technique("slide")
        assert slide is not None and slide.semitones is not None
        self.assertAlmostEqual(slide.semitones, 4, delta=0.1)

    def test_a_stepped_slide_is_one_slide(self) -> None:
        steps = glide(60, (0.3, 60), (0.003, 61), (0.03, 61), (0.003, 62), (0.03, 62), (0.003, 63), (0.4, 63))
        notes = heard(tone(steps))
        self.assertEqual([n.pitch for n in notes], [60, 63])
        self.assertIsNotNone(notes[1].technique("slide"))

    def test_trill(self) -> None:
        legs = [leg for p in (64, 62) * 4 for leg in ((0.004, p), (0.1, p))]
        contour = glide(62, (0.1, 62), *legs)
        notes = heard(tone(contour))
        trill = notes[0].technique("trill")
        assert trill is not None and trill.rate_hz is not None and trill.semitones is not None
        self.assertAlmostEqual(trill.rate_hz, 9.6, delta=0.5)
        self.assertAlmostEqual(trill.semitones, 2, delta=0.1)

    def test_cancel(self) -> None:
        with self.assertRaises(Cancelled):
            detect_notes(after_silence(tone(60.0, 0.3)), RATE, progress=lambda share, doing: False)


class Bends(unittest.TestCase):
    def bend_of(self, contour: NDArray[np.float64]) -> Note:
        notes = heard(tone(contour))
        self.assertEqual(len(notes), 1, [(n.pitch, n.techniques) for n in notes])
        return notes[0]

    def test_sizes(self) -> None:
        for size in (0.5, 1.0, 2.0, 3.0):
            note = self.bend_of(glide(70, (0.15, 70), (0.14, 70 + size), (0.6, 70 + size)))
            bend = note.bend
            assert bend is not None and bend.semitones is not None
            self.assertEqual((note.pitch, bend.name), (70, "bend"), size)
            self.assertAlmostEqual(bend.semitones, size, delta=0.12)

    def test_rise_time(self) -> None:
        bend = self.bend_of(glide(70, (0.1, 70), (0.15, 72), (0.6, 72))).bend
        assert bend is not None and bend.rise_s is not None
        self.assertAlmostEqual(bend.rise_s, 0.15, delta=0.04)

    def test_release(self) -> None:
        bend = self.bend_of(glide(70, (0.1, 70), (0.14, 72), (0.3, 72), (0.14, 70), (0.3, 70))).bend
        assert bend is not None
        self.assertEqual(bend.name, "bend_release")

    def test_struck_bent_and_let_down(self) -> None:
        note = self.bend_of(glide(72, (0.2, 72), (0.14, 70), (0.4, 70)))
        assert note.bend is not None
        self.assertEqual((note.pitch, note.bend.name), (70, "prebend_release"))

    def test_bend_with_vibrato(self) -> None:
        rise = glide(70, (0.1, 70), (0.14, 72))
        time = np.arange(round(0.9 * RATE)) / RATE
        note = self.bend_of(np.concatenate([rise, 72 + 0.3 * np.sin(2 * np.pi * 5.5 * time)]))
        vibrato = note.technique("vibrato")
        assert note.bend is not None and vibrato is not None
        assert note.bend.semitones is not None and vibrato.rate_hz is not None and vibrato.extent_cents is not None
        self.assertAlmostEqual(note.bend.semitones, 2, delta=0.12)
        self.assertAlmostEqual(vibrato.rate_hz, 5.5, delta=0.4)
        self.assertAlmostEqual(vibrato.extent_cents, 30, delta=6)


class Vibrato(unittest.TestCase):
    def wave(self, rate_hz: float, cents: float, seconds: float = 1.0) -> NDArray[np.float64]:
        time = np.arange(round(seconds / HOP_S)) * HOP_S
        return 60 + cents / 100 * np.sin(2 * np.pi * rate_hz * time)

    def test_rate_and_extent(self) -> None:
        for rate, cents in ((4.2, 20), (5.5, 35), (7.0, 60)):
            found = measure_vibrato(self.wave(rate, cents))
            assert found is not None
            self.assertAlmostEqual(found[0], rate, delta=0.35)
            self.assertAlmostEqual(found[1], cents, delta=0.15 * cents)

    def test_none_in_steady_short_slow_or_faint_sound(self) -> None:
        self.assertIsNone(measure_vibrato(np.full(200, 60.0)))
        self.assertIsNone(measure_vibrato(self.wave(5.5, 30, 0.15)))
        self.assertIsNone(measure_vibrato(self.wave(1.0, 30)))
        self.assertIsNone(measure_vibrato(self.wave(5.5, 3)))


class Tuning(unittest.TestCase):
    def test_offset_is_found_and_taken_out(self) -> None:
        for cents in (-40, -12, 25):
            parts = [tone(p + cents / 100, 0.3) for p in (60, 63, 65, 67)]
            found = detect_notes(after_silence(*parts), RATE)
            self.assertAlmostEqual(found.reference_cents, cents, delta=4)
            self.assertEqual([n.pitch for n in found.notes], [60, 63, 65, 67])
            self.assertLess(abs(np.median(found.notes[0].contour_cents)), 6)

    def test_nothing_known_is_no_offset(self) -> None:
        self.assertEqual(tuning_offset_cents([], []), 0.0)

    def test_long_notes_weigh_more(self) -> None:
        self.assertAlmostEqual(tuning_offset_cents([60.1, 62.1, 64.4], [5, 5, 0.1]), 10, delta=1)


class Evidence(unittest.TestCase):
    def test_contour_level_and_runners_up_are_kept(self) -> None:
        (note,) = heard(tone(glide(60, (0.1, 60), (0.15, 62), (0.5, 62))))
        self.assertAlmostEqual(len(note.contour_cents), note.duration / 0.01, delta=1.5)
        self.assertEqual(len(note.level_db), len(note.contour_cents))
        self.assertAlmostEqual(note.contour_cents[-5], 200, delta=8)
        self.assertTrue(0 < note.confidence <= 1)
        self.assertTrue(all(p != note.pitch for p, _ in note.runners_up))
        self.assertLessEqual(sum(share for _, share in note.runners_up), 1 - note.confidence + 0.01)
