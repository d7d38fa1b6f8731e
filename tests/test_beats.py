"""Beats, bars and feel; phrases at breaths; the grid's anchors; values written against it."""

import unittest
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.bars import METERS, describe_bars, find_bars
from eager_owl.hearing.beats import find_beats, fit_grid, place_beats
from eager_owl.hearing.breaths import find_breaths, suggest_phrases
from eager_owl.hearing.pulse import Pulse, measure_pulse
from eager_owl.hearing.salience import measure_spectra
from eager_owl.rhythm.grid import BeatGrid, anchored, at_other_pace, shifted_bar
from eager_owl.rhythm.values import write_values
from tests.support import RATE, tone


def groove(beat_s: list[float], per_bar: int, parts: tuple[float, ...]) -> tuple[NDArray[np.float32], list[float]]:
    """A low thump on a bar's first beat, a noise on the others, ticks at parts of the beat, a new chord each bar."""
    rng = np.random.default_rng(0)
    starts = [0.4 + sum(beat_s[:i]) for i in range(len(beat_s))]
    sound = np.zeros(round((starts[-1] + 1.0) * RATE), np.float32)

    def lay(at: float, part: NDArray[np.float32]) -> None:
        first = round(at * RATE)
        part = part[: len(sound) - first]
        sound[first : first + len(part)] += part

    def burst(level: float, decay_s: float) -> NDArray[np.float32]:
        time = np.arange(round(0.08 * RATE)) / RATE
        return (level * rng.standard_normal(len(time)) * np.exp(-time / decay_s)).astype(np.float32)

    for index, start in enumerate(starts):
        first = index % per_bar == 0
        lay(start, burst(0.25, 0.02))
        if first:
            lay(start, 3 * tone(31.0, 0.3, 0.15))
            chord = ((60, 64, 67), (57, 60, 64), (62, 65, 69))[index // per_bar % 3]
            for pitch in chord:
                lay(start, tone(float(pitch), 0.9 * per_bar * beat_s[index], 3.0))
        for part in parts:
            lay(start + part * beat_s[index], burst(0.1, 0.008))
    return sound, starts


class Beats(unittest.TestCase):
    def found(self, beat_s: list[float], per_bar: int, parts: tuple[float, ...]) -> tuple[BeatGrid, list[float]]:
        sound, starts = groove(beat_s, per_bar, parts)
        beats = find_beats(measure_pulse(measure_spectra(sound, RATE)))
        assert beats is not None
        return fit_grid(beats), starts

    def assert_on_the_beat(self, grid: BeatGrid, starts: list[float]) -> None:
        for start in starts[2:-2]:
            beat = grid.beat_at(start)
            self.assertLess(abs(beat - round(beat)) * grid.beat_s, 0.05)

    def test_four_four_straight(self) -> None:
        grid, starts = self.found([0.5] * 32, 4, (0.5,))
        self.assertAlmostEqual(grid.bpm, 120, delta=0.5)
        self.assertEqual((grid.beats_per_bar, grid.division, grid.swung), (4, 2, False))
        self.assertEqual(grid.anchors, ())
        self.assert_on_the_beat(grid, starts)
        self.assertAlmostEqual(grid.beat_at(starts[0]) % 4, 0, delta=0.1)

    def test_a_waltz(self) -> None:
        grid, _ = self.found([0.55] * 30, 3, (0.5,))
        self.assertEqual(grid.meter, "3/4")

    def test_swing_and_threes(self) -> None:
        self.assertTrue(self.found([0.5] * 32, 4, (2 / 3,))[0].swung)
        self.assertEqual(self.found([0.8] * 24, 2, (1 / 3, 2 / 3))[0].division, 3)

    def test_a_tempo_that_drifts_gets_anchors(self) -> None:
        grid, starts = self.found([float(s) for s in np.linspace(0.5, 0.6, 40)], 4, (0.5,))
        self.assertGreater(len(grid.anchors), 3)
        self.assert_on_the_beat(grid, starts)

    def test_a_count_in_is_told_from_the_first_bar(self) -> None:
        sound, starts = groove([0.5] * 32, 4, (0.5,))
        clicks = np.zeros(4 * round(0.5 * RATE), np.float32)
        for beat in range(4):
            at = beat * round(0.5 * RATE) + round(0.4 * RATE)
            clicks[at : at + 200] = sound[round(starts[1] * RATE) : round(starts[1] * RATE) + 200]
        beats = find_beats(measure_pulse(measure_spectra(np.concatenate([clicks, sound]), RATE)))
        assert beats is not None
        self.assertAlmostEqual(fit_grid(beats).beat_at(2.0 + starts[0]), 0, delta=0.1)

    def test_a_recording_that_begins_on_the_beat_begins_with_bar_1(self) -> None:
        sound, starts = groove([0.5] * 32, 4, (0.5,))
        beats = find_beats(measure_pulse(measure_spectra(sound[round(starts[0] * RATE) :], RATE)))
        assert beats is not None
        self.assertAlmostEqual(fit_grid(beats).beat_at(0.0), 0, delta=0.15)

    def test_counted_at_another_pace(self) -> None:
        grid = BeatGrid(100.0, 0.3, 4, ((0.0, 0.3), (8.0, 5.2)))
        for times in (0.5, 2.0):
            other = at_other_pace(grid, times)
            self.assertEqual(other.bpm, 100 * times)
            for time_s in (0.1, 2.0, 7.0):
                self.assertAlmostEqual(other.beat_at(time_s), times * grid.beat_at(time_s))
        with self.assertRaises(ValueError):
            at_other_pace(BeatGrid(250.0), 2.0)

    def test_nothing_recurs_in_silence_or_a_moment(self) -> None:
        for seconds in (1, 6):
            self.assertIsNone(find_beats(measure_pulse(measure_spectra(np.zeros(seconds * RATE, np.float32), RATE))))

    def test_beats_keep_near_their_period(self) -> None:
        novelty = np.zeros(1000)
        novelty[10::50] = 1.0
        novelty[37] = 0.8
        self.assertTrue((np.diff(place_beats(novelty, 50.0)) == 50).all())


class Bars(unittest.TestCase):
    def pulse(self, per_bar: int, phase: int, bars: int = 8) -> tuple[Pulse, NDArray[np.intp]]:
        """A bass drum on every other beat, a snare between, so that only chords and bass tell the bar."""
        beats = 20 + 44 * np.arange(per_bar * bars)
        rises, rng = np.zeros((3, beats[-1] + 60)), np.random.default_rng(2)
        rises[0, beats[phase % 2 :: 2]] = rises[1, beats[1 - phase % 2 :: 2]] = rises[2, beats] = 1.0
        rises += 0.02 * rng.random(rises.shape)
        harmony, bass = (np.zeros((rises.shape[1], width), np.float32) for width in (29, 20))
        for bar, first in enumerate(range(phase - per_bar, len(beats), per_bar)):
            start = beats[first] if first >= 0 else 0
            harmony[start:, :] = bass[start:, :] = 0.0
            harmony[start:, [bar * 5 % 12, bar * 5 % 12 + 4, bar * 5 % 12 + 7]] = 0.5
            bass[start:, bar * 5 % 12] = 0.5
        return Pulse(rises, harmony, bass), beats

    def test_chords_tell_the_bar_where_drums_leave_it_open(self) -> None:
        for phase in range(4):
            self.assertEqual(find_bars(*self.pulse(4, phase)), (4, phase))

    def test_what_recurs_each_bar_is_seen_at_its_beat(self) -> None:
        marks = np.zeros((13, 24))
        marks[5, 1::4] = 1.0
        seen = describe_bars(marks, 4, 0)
        on_beats, recurs = seen[: 4 * 13].reshape(4, 13), seen[-2 * 13 :].reshape(2, 13)
        self.assertEqual(on_beats[:, 5].tolist(), [0.0, 1.0, 0.0, 0.0])
        self.assertEqual(on_beats.sum(), 1.0)
        self.assertTrue(np.allclose(recurs[:, 5], 0.25))
        # The same as bars of three: on no beat more than on another, and nothing comes back.
        seen = describe_bars(marks, 3, 0)
        self.assertLess(np.ptp(seen[: 3 * 13].reshape(3, 13)[:, 5]), 0.2)
        self.assertEqual(seen[-2 * 13 :].reshape(2, 13)[0, 5], 0.0)

    def test_few_beats_still_have_bars(self) -> None:
        pulse, beats = self.pulse(4, 0)
        per_bar, first = find_bars(pulse, beats[:6])
        self.assertIn(per_bar, METERS)
        self.assertLess(first, per_bar)


class Breaths(unittest.TestCase):
    def line(self, *spans: tuple[float, float], seconds: float) -> NDArray[np.float64]:
        midi = np.full(round(seconds / 0.02), np.nan)
        for start, end in spans:
            midi[round(start / 0.02) : round(end / 0.02)] = 64.0
        return midi

    def test_phrases_lie_between_the_breaths(self) -> None:
        spans = ((1.0, 4.0), (4.6, 8.0), (8.7, 12.5))
        found = suggest_phrases(self.line(*spans, seconds=13.5), 0.02, None)
        self.assertEqual(len(found), 3)
        for (start, end), (true_start, true_end) in zip(found, spans, strict=True):
            self.assertTrue(true_start - 0.35 <= start <= true_start, (start, true_start))
            self.assertTrue(true_end <= end <= true_end + 0.4, (end, true_end))

    def test_short_silences_within_a_phrase_stay_in_it(self) -> None:
        spans = tuple((0.5 + 0.5 * i, 0.5 + 0.5 * i + 0.4) for i in range(7))
        self.assertEqual(len(suggest_phrases(self.line(*spans, seconds=5.0), 0.02, None)), 1)

    def test_of_two_like_breaths_the_one_at_the_bar_is_chosen(self) -> None:
        spans = ((0.0, 3.4), (3.6, 3.9), (4.1, 8.0))
        found = suggest_phrases(self.line(*spans, seconds=9.0), 0.02, BeatGrid(60.0, 0.1, 4))
        self.assertIn(4.0, [round(start, 1) for start, _ in found])

    def test_silence_has_no_phrases(self) -> None:
        self.assertEqual(suggest_phrases(np.full(100, np.nan), 0.02, None), [])
        self.assertEqual(find_breaths(np.full(100, np.nan), 0.02), [(0.0, 2.0)])


class Anchors(unittest.TestCase):
    def test_beats_between_two_anchors_are_even(self) -> None:
        grid = BeatGrid(120.0, 1.0, 4, ((0.0, 1.0), (4.0, 3.4)))
        self.assertAlmostEqual(grid.time_of(2), 2.2)
        self.assertAlmostEqual(grid.beat_at(2.2), 2.0)
        self.assertAlmostEqual(grid.time_of(-1), 0.5)
        self.assertAlmostEqual(grid.time_of(5), 3.9)

    def test_time_and_beat_undo_each_other(self) -> None:
        grid = BeatGrid(97.0, 0.3, 3, ((0.0, 0.3), (3.0, 2.5), (9.0, 5.0)))
        for beat in (-4.0, 0.0, 1.3, 3.0, 5.5, 9.0, 12.25):
            self.assertAlmostEqual(grid.beat_at(grid.time_of(beat)), beat)

    def test_holding_a_beat_moves_it_and_not_the_first(self) -> None:
        grid = anchored(BeatGrid(120.0, 1.0, 4), 8, 5.2)
        self.assertAlmostEqual(grid.time_of(8), 5.2)
        self.assertAlmostEqual(grid.time_of(0), 1.0)
        again = anchored(grid, 8, 5.1)
        self.assertEqual(len(again.anchors), 2)
        self.assertAlmostEqual(again.time_of(8), 5.1)

    def test_an_anchor_that_would_cross_another_replaces_it(self) -> None:
        grid = anchored(anchored(BeatGrid(120.0, 1.0, 4), 4, 3.1), 6, 2.9)
        self.assertEqual(grid.anchors, ((0.0, 1.0), (6.0, 2.9)))

    def test_a_bar_may_begin_on_another_beat(self) -> None:
        grid = shifted_bar(BeatGrid(60.0, 0.0, 3, ((0.0, 0.0), (3.0, 3.3))), 1)
        self.assertAlmostEqual(grid.time_of(0), 1.1)
        self.assertEqual(grid.bar_and_beat(1.1)[0], 1)

    def test_what_cannot_be_is_refused(self) -> None:
        for wrong in ({"anchors": ((1.0, 2.0), (0.0, 3.0))}, {"division": 5}, {"division": 3, "swung": True}):
            with self.assertRaises(ValueError):
                BeatGrid(**wrong)  # type: ignore[arg-type]

    def test_meters_as_one_writes_them(self) -> None:
        self.assertEqual([BeatGrid(beats_per_bar=n).meter for n in (3, 4)], ["3/4", "4/4"])
        self.assertEqual([BeatGrid(beats_per_bar=n, division=3).meter for n in (2, 4)], ["6/8", "12/8"])


class Values(unittest.TestCase):
    def test_swung_eighths_are_written_straight(self) -> None:
        grid = BeatGrid(60.0, 0.0, 4, swung=True)
        written = write_values([0.0, 2 / 3, 1.0, 1.67], [0.6, 0.3, 0.6, 0.3], grid)
        self.assertEqual([w.beat for w in written], [Fraction(n, 2) for n in range(4)])
        self.assertAlmostEqual(written[1].late_ms, 0.0, delta=1.0)
        self.assertAlmostEqual(written[3].late_ms, 3.3, delta=1.0)

    def test_a_grace_note_takes_the_beat_it_leads_into_and_no_time(self) -> None:
        written = write_values([0.0, 0.94, 1.0], [0.5, 0.06, 0.5], BeatGrid(60.0), graces=[1])
        self.assertEqual([(w.beat, w.length > 0) for w in written], [(0, True), (1, False), (1, True)])

    def test_threes_are_at_home_in_a_compound_meter(self) -> None:
        written = write_values([0.0, 0.34, 0.66], [0.3, 0.3, 0.3], BeatGrid(60.0, 0.0, 2, division=3))
        self.assertEqual([w.beat for w in written], [Fraction(n, 3) for n in range(3)])


if __name__ == "__main__":
    unittest.main()
