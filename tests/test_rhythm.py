import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from eager_owl.rhythm.chart import ChartError, parse_chart
from eager_owl.rhythm.grid import BeatGrid, grid_from_taps
from eager_owl.rhythm.values import write_values


class Grid(unittest.TestCase):
    @given(st.floats(30, 300), st.floats(0, 10), st.floats(-5, 100))
    def test_time_and_beat_are_inverse(self, bpm: float, first: float, time_s: float) -> None:
        grid = BeatGrid(bpm, first, 3)
        self.assertAlmostEqual(grid.time_of(grid.beat_at(time_s)), time_s, places=6)

    def test_bars_count_from_one_and_a_pickup_is_before(self) -> None:
        grid = BeatGrid(60, 1.0, 3)
        self.assertEqual(grid.bar_and_beat(1.0), (1, 1.0))
        self.assertEqual(grid.bar_and_beat(4.5), (2, 1.5))
        self.assertEqual(grid.bar_and_beat(0.0), (0, 3.0))

    def test_taps(self) -> None:
        taps = [2.0, 2.51, 2.99, 3.5, 4.5]  # one tap left out
        grid = grid_from_taps(taps, 4)
        self.assertAlmostEqual(grid.bpm, 120, delta=1)
        self.assertAlmostEqual(grid.first_beat_s, 2.0, delta=0.02)

    def test_impossible_grids(self) -> None:
        for wrong in ((5, 0, 4), (120, 0, 0), (900, 0, 4)):
            with self.assertRaises(ValueError):
                BeatGrid(*wrong)
        with self.assertRaisesRegex(ValueError, "three"):
            grid_from_taps([1.0, 1.5], 4)


class Charts(unittest.TestCase):
    def test_bars_chords_and_signs(self) -> None:
        chart = parse_chart("A | Fm7 | % | Gm7b5 C7 | N.C. |\n| Ab | Db | x2")
        symbols = [[c.symbol if c else None for c in bar] for bar in chart.bars]
        self.assertEqual(symbols[:4], [["Fm7"], ["Fm7"], ["Gm7b5", "C7"], [None]])
        self.assertEqual(symbols[4:], [["Ab"], ["Db"], ["Ab"], ["Db"]])

    def test_chords_share_a_bar_and_the_form_repeats(self) -> None:
        chart = parse_chart("| Gm7b5 C7 | Fm7 |")
        names = [chart.chord_at(beat, 4).symbol for beat in (0, 1.9, 2, 3.9, 4, 8, 10)]
        self.assertEqual(names, ["Gm7b5", "Gm7b5", "C7", "C7", "Fm7", "Gm7b5", "C7"])
        self.assertIsNone(chart.chord_at(-0.5, 4))

    def test_spans(self) -> None:
        chart = parse_chart("| Gm7b5 C7 | N.C. | Fm7 |")
        spans = [(a, b, c.symbol) for a, b, c in chart.spans(0, 12, 4)]
        self.assertEqual(spans, [(0, 2, "Gm7b5"), (2, 4, "C7"), (8, 12, "Fm7")])

    def test_what_cannot_be_read_is_told_with_its_bar(self) -> None:
        cases = {
            "| Fm7 | Hm7 |": (2, "“Hm7” can't be read"),
            "| Fm7 | | C7 |": (2, "empty"),
            "| % | Fm7 |": (1, "no bar before"),
            "just words": (1, "no bars"),
            "| Fm7 |\n| C7 | G7b8 |": (3, "G7b8"),
        }
        for text, (bar, reason) in cases.items():
            with self.assertRaisesRegex(ChartError, f"bar {bar} .*{reason}") as caught:
                parse_chart(text)
            self.assertEqual(caught.exception.bar, bar)

    def test_an_empty_chart_has_no_chords(self) -> None:
        self.assertEqual(parse_chart("").bars, ())
        self.assertIsNone(parse_chart("").chord_at(0, 4))


class WrittenValues(unittest.TestCase):
    def test_eighths_played_loosely(self) -> None:
        grid = BeatGrid(120, 0, 4)
        written = write_values([0.01, 0.24, 0.52, 0.74], [0.2, 0.2, 0.2, 0.2], grid)
        self.assertEqual([w.beat for w in written], [0, Fraction(1, 2), 1, Fraction(3, 2)])
        self.assertAlmostEqual(written[0].late_ms, 10, delta=0.01)
        self.assertAlmostEqual(written[1].late_ms, -10, delta=0.01)
        self.assertEqual([w.length for w in written[:3]], [Fraction(1, 2)] * 3)

    def test_triplets(self) -> None:
        grid = BeatGrid(60, 0, 4)
        written = write_values([0.0, 0.333, 0.667, 1.0], [0.3, 0.3, 0.3, 1.0], grid)
        self.assertEqual([w.beat for w in written], [0, Fraction(1, 3), Fraction(2, 3), 1])

    @given(st.lists(st.floats(0, 30), min_size=1, max_size=20))
    def test_lengths_are_positive_and_onsets_ascend(self, onsets: list[float]) -> None:
        onsets = sorted(onsets)
        written = write_values(onsets, [0.1] * len(onsets), BeatGrid(97, 0.3, 3))
        self.assertTrue(all(w.length > 0 for w in written))
        beats = [w.beat for w in written]
        self.assertEqual(beats, sorted(beats))
