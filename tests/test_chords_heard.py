"""Chords heard bar by bar in sounds that are made here, and what is said where there is nothing."""

import unittest

import numpy as np

from eager_owl.audio.decode import Recording
from eager_owl.hearing.chords import suggest_chords
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.key import parse_key
from tests.support import RATE, tone

GRID = BeatGrid(120, 0.0, 4)


def struck(*pitches: int, seconds: float = 2.0) -> np.ndarray:
    return np.sum([tone(float(pitch), seconds) for pitch in pitches], axis=0) / len(pitches)


class Suggestions(unittest.TestCase):
    def test_triads_and_sevenths(self) -> None:
        chords = ((41, 56, 60, 63), (46, 53, 61, 65), (43, 58, 61, 65), (36, 52, 58, 67))
        sound = np.concatenate([struck(*chord) for chord in chords]).astype(np.float32)
        found = suggest_chords(Recording(sound[:, None], RATE), GRID)
        self.assertEqual([(s.bar, s.symbol) for s in found], [(0, "Fm7"), (1, "Bbm"), (2, "Gm7b5"), (3, "C7")])
        self.assertTrue(all(0 < s.confidence <= 1 and s.runner_up != s.symbol for s in found))

    def test_two_chords_in_a_bar_and_one_over_another_bass(self) -> None:
        halves = [struck(38, 53, 57, 60, seconds=1.0), struck(43, 53, 59, 62, seconds=1.0)]
        sound = np.concatenate([*halves, struck(36, 52, 55, 60), struck(40, 55, 60, 67)]).astype(np.float32)
        found = suggest_chords(Recording(sound[:, None], RATE), GRID)
        self.assertEqual([s.symbol for s in found], ["Dm7 G7", "C", "C/E"])
        self.assertNotIn(" ", found[0].runner_up)

    def test_sixths_and_augmented_ones_and_suspended_ones_at_least_in_doubt(self) -> None:
        chords = ((36, 55, 57, 60, 64), (36, 56, 60, 64), (43, 60, 62, 67))
        sound = np.concatenate([struck(*chord) for chord in chords]).astype(np.float32)
        found = suggest_chords(Recording(sound[:, None], RATE), GRID)
        self.assertEqual([s.symbol for s in found[:2]], ["C6", "C+"])
        self.assertIn("Gsus4", (found[2].symbol, found[2].runner_up))

    def test_a_recording_off_pitch(self) -> None:
        sound = np.sum([tone(pitch - 0.4, 2.0) for pitch in (36.0, 60.0, 64.0, 67.0)], axis=0).astype(np.float32)
        self.assertEqual([s.symbol for s in suggest_chords(Recording(sound[:, None], RATE), GRID, -40.0)], ["C"])

    def test_a_key_makes_its_own_chords_likelier(self) -> None:
        bare = struck(36, 60, 67).astype(np.float32)  # a fifth is either, without a key
        for key, symbol in (("C minor", "Cm"), ("C major", "C")):
            self.assertEqual(
                [s.symbol for s in suggest_chords(Recording(bare[:, None], RATE), GRID, key=parse_key(key))], [symbol]
            )

    def test_silence_has_no_chord(self) -> None:
        sound = np.concatenate([struck(48, 52, 55), np.zeros(2 * RATE), struck(48, 52, 55)]).astype(np.float32)
        self.assertEqual([s.bar for s in suggest_chords(Recording(sound[:, None], RATE), GRID)], [0, 2])
        self.assertEqual(suggest_chords(Recording(np.zeros((RATE, 1), np.float32), RATE), GRID), [])

    def test_it_can_be_cancelled(self) -> None:
        sound = np.concatenate([struck(48, 52, 55)] * 3).astype(np.float32)
        self.assertEqual(suggest_chords(Recording(sound[:, None], RATE), GRID, go_on=lambda share: False), [])
