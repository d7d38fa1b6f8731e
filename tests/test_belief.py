"""What stands around a claimed note in time."""

import unittest
from math import exp

import numpy as np

from eager_owl.hearing.belief import Claim, collect_claims
from eager_owl.hearing.frames import CANDIDATES, HOP_S, Frames
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.pitch_track import PitchTrack
from eager_owl.hearing.salience import COARSE_HOP_S, PEAKS, Candidates
from eager_owl.hearing.several import Beginning

COUNT = 400
SOON_S = 0.12


class Neighbours(unittest.TestCase):
    def claims(self, *begun: tuple[int, float], level_db: np.ndarray | None = None) -> list[Claim]:
        """Claims of the judge alone: coarse frame and pitch of each."""
        nothing = np.zeros((COUNT, CANDIDATES))
        level = np.full(COUNT, -20.0) if level_db is None else level_db
        frames = Frames(nothing, nothing, nothing, level, np.zeros(COUNT), np.zeros((COUNT, 1), np.float32))
        coarse = np.zeros((COUNT // 2, PEAKS), np.float32)
        found, judged = Candidates(coarse.astype(np.intp), coarse, coarse), Judgement(coarse, coarse, coarse)
        track = PitchTrack(np.full(COUNT, np.nan), np.zeros(COUNT))
        beginnings = [Beginning(frame, midi, 0.9, 0.9, 0.9, 0.0, 0.9) for frame, midi in begun]
        return collect_claims([], frames, track, beginnings, found, judged, 0.0)

    def test_how_soon_others_come(self) -> None:
        first, octave, again = (claim.features for claim in self.claims((50, 60.0), (60, 72.0), (90, 60.0)))
        step_s = COARSE_HOP_S
        self.assertEqual((first["soon"], first["soon_again"], again["left_soon"]), (0.0, 0.0, 0.0))
        self.assertAlmostEqual(octave["soon"], exp(-10 * step_s / SOON_S))
        self.assertAlmostEqual(octave["soon_octave"], exp(-10 * step_s / SOON_S))
        self.assertAlmostEqual(first["left_soon"], exp(-10 * step_s / SOON_S))
        self.assertAlmostEqual(again["soon"], exp(-30 * step_s / SOON_S))
        self.assertAlmostEqual(again["soon_again"], exp(-40 * step_s / SOON_S))

    def test_how_far_off_and_how_much_softer(self) -> None:
        level = np.full(COUNT, -20.0)
        level[round(60 * COARSE_HOP_S / HOP_S) - 2 :] = -35.0
        claims = self.claims((40, 60.0), (60, 62.0), (70, 79.0), (80, 66.0), level_db=level)
        far, softer = ([claim.features[name] for claim in claims] for name in ("far", "softer"))
        # The median of the distances to the others, in octaves: of 2, 19 and 6; of 2, 17 and 4; and so on.
        np.testing.assert_allclose(far, np.array([6, 4, 17, 6]) / 12)
        np.testing.assert_allclose(softer, [0.0, -1.5, -1.5, -1.5])

    def test_alone_or_none(self) -> None:
        (one,) = self.claims((50, 60.0))
        self.assertEqual((one.features["far"], one.features["soon"], one.features["softer"]), (0.0, 0.0, 0.0))
        self.assertEqual(self.claims(), [])


if __name__ == "__main__":
    unittest.main()
