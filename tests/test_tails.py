"""Halls, whose tails are not notes and do not hide them."""

import unittest

import numpy as np
from numpy.typing import NDArray
from scipy.signal import fftconvolve

from eager_owl.hearing.detect import detect_notes, listen
from eager_owl.hearing.salience import measure_spectra
from eager_owl.hearing.tails import without_tail
from tests.support import RATE, after_silence, tone

SILENCE_S = 0.3  # before the first
PITCHES = (57, 60, 64, 69, 67, 64, 60, 62, 65, 69, 65, 62)


def stopped(note_s: float, rest_s: float) -> NDArray[np.float32]:
    """Tones that are stopped, with rests between them."""
    rest = np.zeros(round(rest_s * RATE), np.float32)
    return after_silence(
        *(part for pitch in PITCHES for part in (tone(float(pitch), note_s), rest)), seconds=SILENCE_S
    )


def in_a_hall(sound: NDArray[np.float32], t60_s: float, level: float) -> NDArray[np.float32]:
    """With what comes back from a hall: noise that dies away by 60 dB in a time, so loud against the sound."""
    late = np.arange(round(t60_s * RATE))
    answer = np.random.default_rng(4).standard_normal(len(late)) * 10 ** (-3 * late / len(late))
    back = fftconvolve(sound, answer)[: len(sound)]
    return np.asarray(sound + level * back * np.std(sound) / np.std(back), dtype=np.float32)


def in_rests_db(sound: NDArray[np.float32], note_s: float, rest_s: float) -> float:
    """The level in the second half of the rests against that of the notes."""
    levels = []
    for begin_s, end_s in ((0.0, note_s), (note_s + rest_s / 2, note_s + rest_s)):
        at = [SILENCE_S + index * (note_s + rest_s) for index in range(len(PITCHES))]
        parts = [sound[round((t + begin_s) * RATE) : round((t + end_s) * RATE)] for t in at]
        levels.append(float(np.mean(np.concatenate(parts) ** 2)))
    return 10 * float(np.log10(levels[1] / levels[0]))


class Tails(unittest.TestCase):
    def test_a_dry_sound_stays_as_it_is(self) -> None:
        for sound in (stopped(0.3, 0.2), np.zeros(RATE, np.float32), np.zeros(10, np.float32)):
            self.assertIs(without_tail(sound, RATE), sound)

    def test_a_tail_goes_from_the_rests_and_the_notes_stay(self) -> None:
        wet = in_a_hall(stopped(0.2, 0.1), 2.5, 0.5)
        dry = without_tail(wet, RATE)
        self.assertEqual(dry.shape, wet.shape)
        self.assertLess(in_rests_db(dry, 0.2, 0.1), in_rests_db(wet, 0.2, 0.1) - 3)
        notes = float(np.mean(dry**2)) / float(np.mean(wet**2))
        self.assertGreater(notes, 0.6)

    def test_what_is_all_but_silent_is_no_trouble(self) -> None:
        wet = in_a_hall(stopped(0.2, 0.1), 2.5, 0.5)
        with np.errstate(over="raise", divide="raise", invalid="raise"):
            dry = without_tail(np.concatenate([wet, 1e-19 * wet[RATE:], np.zeros(RATE, np.float32)]), RATE)
        self.assertTrue(np.isfinite(dry).all())

    def test_a_guitar_is_heard_without_it_and_a_band_as_it_is(self) -> None:
        wet = in_a_hall(stopped(0.2, 0.1), 2.5, 0.5)
        alone, band = (listen(wet, RATE, 0.0, mix=mix).spectra.sharp for mix in ("solo", "band"))
        np.testing.assert_array_equal(band, measure_spectra(wet, RATE).sharp)
        self.assertLess(float(alone.mean()), float(band.mean()))

    def test_in_a_hall_each_note_is_heard_once(self) -> None:
        wet = in_a_hall(stopped(0.12, 0.02), 2.5, 0.5)
        found = [note.pitch for note in detect_notes(wet, RATE, 0.0, mix="solo").notes]
        self.assertEqual(found, list(PITCHES))


if __name__ == "__main__":
    unittest.main()
