"""Echoes, which are not notes."""

import unittest

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Recording
from eager_owl.hearing.detect import detect_notes
from eager_owl.hearing.echo import find_echo, without_echo
from eager_owl.session.hearing import hear_phrase
from eager_owl.solo.document import Phrase, Solo
from tests.support import RATE, after_silence, tone

PITCHES = (57, 60, 62, 64, 67, 64, 62, 60, 57, 62, 55, 60)


def struck(pitches: tuple[int, ...]) -> NDArray[np.float32]:
    """Tones with an attack's noise, as strings have and sums of sines have not."""
    rng = np.random.default_rng(2)
    parts = []
    for pitch in pitches:
        part = tone(float(pitch), 0.36 + float(rng.uniform(0, 0.05)), decay_s=0.25)
        noise = rng.normal(0, 0.12, len(part)) * np.exp(-np.arange(len(part)) / (0.012 * RATE))
        parts.append(part + noise.astype(np.float32))
    return after_silence(*parts)


def echoed(sound: NDArray[np.float32], delay_s: float, gain: float, feedback: float) -> NDArray[np.float32]:
    """A delay with feedback."""
    late = round(delay_s * RATE)
    back = np.zeros(len(sound), np.float64)
    for first in range(late, len(sound), late):
        before = slice(first - late, min(first, len(sound) - late))
        back[first : first + late] = sound[before] + feedback * back[before]
    return (sound + gain * back).astype(np.float32)


class Echoes(unittest.TestCase):
    def setUp(self) -> None:
        self.sound = struck(PITCHES)

    def test_its_delay_and_gain_are_found(self) -> None:
        found = find_echo(echoed(self.sound, 0.31, 0.45, 0.0), RATE)
        assert found is not None
        self.assertAlmostEqual(found.delay_s, 0.31, delta=2 / RATE)
        self.assertAlmostEqual(found.gains[0], 0.45, delta=0.12)

    def test_playing_has_none(self) -> None:
        self.assertIsNone(find_echo(self.sound, RATE))
        self.assertIsNone(find_echo(struck((60,) * 12), RATE))
        self.assertIsNone(find_echo(np.zeros(4 * RATE, np.float32), RATE))
        self.assertIsNone(find_echo(self.sound[: 2 * RATE], RATE))

    def test_what_comes_back_is_taken_out(self) -> None:
        wet = echoed(self.sound, 0.31, 0.45, 0.3)
        found = find_echo(wet, RATE)
        assert found is not None
        left = without_echo(wet, RATE, found) - self.sound
        self.assertLess(float(np.mean(left**2)), 0.15 * float(np.mean((wet - self.sound) ** 2)))

    def test_no_note_is_written_twice(self) -> None:
        wet = echoed(self.sound, 0.23, 0.5, 0.3)
        found = [note.pitch for note in detect_notes(wet, RATE, 0.0, mix="solo").notes]
        self.assertEqual(found, list(PITCHES))

    def test_nor_one_that_was_played_before_the_phrase(self) -> None:
        wet = echoed(self.sound, 0.29, 0.5, 0.3)
        recording = Recording(wet[:, None], RATE)
        plain = Recording(self.sound[:, None], RATE)
        phrase = Phrase(2.05, recording.duration_s)
        heard = [[n.pitch for n in hear_phrase(Solo(mix="solo"), phrase, r).notes] for r in (recording, plain)]
        self.assertEqual(*heard)


if __name__ == "__main__":
    unittest.main()
