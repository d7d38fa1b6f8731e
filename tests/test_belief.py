"""What the networks of belief see of a claimed note."""

import unittest
from math import exp

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.belief import Claim, collect_claims, describe_claims
from eager_owl.hearing.frames import CANDIDATES, HOP_S, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.pitch_track import PitchTrack
from eager_owl.hearing.plateaus import Plateau
from eager_owl.hearing.salience import COARSE_HOP_S, PEAKS, Candidates
from eager_owl.hearing.segment import RawNote
from eager_owl.hearing.several import Beginning

COUNT = 400
SOON_S = 0.15
NEIGHBOURS, OF_EACH = 4, 5


class Described(unittest.TestCase):
    def setUp(self) -> None:
        self.level_db, self.flux = np.full(COUNT, -20.0), np.zeros(COUNT)
        self.line = np.full(COUNT, np.nan)
        coarse = np.zeros((COUNT // 2, PEAKS), np.float32)
        self.bins = np.full(coarse.shape, -1, dtype=np.intp)
        self.midi, self.sounds, self.begins = coarse.copy(), coarse.copy(), coarse.copy()

    def heard(self, peak: int, rows: slice, midi: float, sounds: float, begins: float = 0.0) -> None:
        """A candidate of some coarse frames, with the judge's word on it."""
        self.bins[rows, peak], self.midi[rows, peak] = 1, midi
        self.sounds[rows, peak], self.begins[rows, peak] = sounds, begins

    def seen(self, *begun: tuple[int, float], raw: tuple[RawNote, ...] = ()) -> NDArray[np.float32]:
        """Of claims of the judge, by coarse frame and pitch, and of the line."""
        nothing = np.zeros((COUNT, CANDIDATES))
        frames = Frames(nothing, nothing, nothing, self.level_db, self.flux, np.zeros((COUNT, 1), np.float32))
        found, judged = (
            Candidates(self.bins, self.midi, self.sounds),
            Judgement(self.sounds, self.begins, self.begins),
        )
        track = PitchTrack(self.line, np.ones(COUNT))
        claims = collect_claims(raw, [Beginning(frame, midi, 0.9) for frame, midi in begun])
        return describe_claims(claims, frames, track, found, judged, 0.0)

    def changed(self, before: NDArray[np.float32], after: NDArray[np.float32]) -> list[float]:
        """What one change adds to what is seen of the only claim."""
        return sorted((after - before)[0][(after != before)[0]].round(3).tolist())

    def test_the_claims_next_to_each(self) -> None:
        self.heard(0, slice(60, 70), 72.0, 0.8, 0.5)
        each = self.seen((50, 60.0), (60, 72.0), (90, 60.0))[:, -2 * NEIGHBOURS * OF_EACH :]
        first, octave, again = each.reshape(3, 2 * NEIGHBOURS, OF_EACH)
        soon = exp(-10 * COARSE_HOP_S / SOON_S)
        # How soon, how many octaves off, whether the same pitch, and whether the judge hears it begin and sound.
        np.testing.assert_allclose(first[NEIGHBOURS], [soon, 1.0, 0.0, 0.5, 0.8], rtol=1e-5)
        np.testing.assert_allclose(first[NEIGHBOURS + 1], [soon**4, 0.0, 1.0, 0.0, 0.0], rtol=1e-5)
        np.testing.assert_allclose(octave[NEIGHBOURS - 1], [soon, -1.0, 0.0, 0.0, 0.0], rtol=1e-5)
        self.assertEqual((np.count_nonzero(first[:NEIGHBOURS]), np.count_nonzero(again[NEIGHBOURS:])), (0, 0))

    def test_the_word_on_its_pitch_and_on_others(self) -> None:
        nothing = self.seen((50, 60.0))
        self.heard(0, slice(50, 54), 60.2, 0.75)
        own = self.seen((50, 60.0))
        # Four frames from where it begins.
        self.assertEqual(self.changed(nothing, own), [0.75] * 4)
        self.heard(1, slice(40, 50), 72.0, 0.5)
        # The octave above: twice before it as another, in the mean of all frames before it as what it is taken for.
        self.assertEqual(self.changed(own, self.seen((50, 60.0))), [0.5] * 3)

    def test_at_the_edges_of_a_recording(self) -> None:
        seen = self.seen((0, 60.0), (COUNT // 2 - 1, 60.0))
        self.assertTrue(np.isfinite(seen).all())
        self.assertEqual(self.seen().shape[0], 0)

    def test_how_much_softer_and_what_is_struck(self) -> None:
        seen = self.seen((40, 60.0), (60, 62.0))[1:]
        self.level_db[round(55 * COARSE_HOP_S / HOP_S) :] = -35.0
        softer = self.seen((40, 60.0), (60, 62.0))[1:]
        self.assertEqual(self.changed(seen, softer), [-1.5])
        self.flux[round(60 * COARSE_HOP_S / HOP_S) + 1] = 4.0
        self.assertEqual(self.changed(softer, self.seen((40, 60.0), (60, 62.0))[1:]), [0.5])

    def test_what_the_line_makes_of_it(self) -> None:
        begins = round(50 * COARSE_HOP_S / HOP_S)
        note = RawNote(begins, begins + 50, 60.0, "attack", 1.0, [Plateau(begins, begins + 50, 60.0)])
        both = self.seen((50, 60.1), raw=(note,))
        self.assertEqual(len(both), 1)
        self.assertEqual(len(self.seen((50, 61.0), raw=(note,))), 2)
        self.assertEqual(len(self.seen((60, 60.0), raw=(note,))), 2)
        nothing = self.seen((50, 60.0))
        self.line[begins : begins + 50] = 60.3
        self.assertEqual(self.changed(nothing, self.seen((50, 60.0))), [1.0])


class Claims(unittest.TestCase):
    def test_by_onset_each_beginning_once(self) -> None:
        raw = [
            RawNote(start, start + 40, 60.0, "attack", 1.0, [Plateau(start, start + 40, 60.0)]) for start in (4, 8)
        ]
        claims = collect_claims(raw, [Beginning(100, 64.0, 0.5), Beginning(3, 60.0, 0.9)])
        self.assertEqual([claim.onset_s for claim in claims], sorted(claim.onset_s for claim in claims))
        self.assertEqual([claim.beginning is not None for claim in claims], [True, False, True])
        self.assertEqual(claims[-1], Claim(None, Beginning(100, 64.0, 0.5)))


if __name__ == "__main__":
    unittest.main()
