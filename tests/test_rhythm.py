import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from eager_owl.rhythm.chart import ChartError, bar_text, chart_text, parse_chart, transpose_chart, with_bar
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

    def test_a_form_has_an_end(self) -> None:
        for text, reason in (
            ("| C :| x99 C :| x99 C :| x99 C |", "more than 2000 bars"),
            ("| C " * 2001 + "|", "no more than 2000 bars"),
            (f"| {'C G ' * 40}|", "80 chords are more than the 64"),
        ):
            with self.assertRaisesRegex(ChartError, reason):
                parse_chart(text)
        with self.assertRaisesRegex(ChartError, "no more than 2000 bars"):
            with_bar(parse_chart("| C " * 2000 + "|"), 2000, "C")

    def test_every_chart_reads_back_as_it_is(self) -> None:
        for text in ("| Fm7 % / | C7 / |", "A |\nB | C | C |", "| C |\nnowhere |", "A | C |\nB | % |"):
            chart = parse_chart(text)
            self.assertEqual(parse_chart(chart_text(chart)), chart)
        self.assertEqual(parse_chart("A |\nB | C |").sections, ((0, "B"),))

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


class Form(unittest.TestCase):
    def test_repeats(self) -> None:
        self.assertEqual(len(parse_chart("|: C | F :| x3").bars), 6)
        chart = parse_chart("A |: C | F stop :| G |\nB | Am | x2")
        self.assertEqual([bar[0].symbol for bar in chart.bars if bar[0]], ["C", "F", "C", "F", "G", "Am", "Am"])
        self.assertEqual(chart.stops, frozenset({1, 3}))
        self.assertEqual([chart.section_of(bar) for bar in (0, 4, 5)], ["A", "A", "B"])
        self.assertEqual([chord.symbol for chord in chart.chords], ["C", "F", "G", "Am"])
        with self.assertRaisesRegex(ChartError, "never closed"):
            parse_chart("|: C | F")

    def test_shares_are_held_with_strokes(self) -> None:
        chart = parse_chart("| C / / F |")
        self.assertEqual([chart.chord_at(beat, 4).symbol for beat in (0, 1, 2.9, 3)], ["C", "C", "C", "F"])
        with self.assertRaisesRegex(ChartError, "no bar before"):
            parse_chart("| / |")

    def test_changes_have_no_gaps(self) -> None:
        spans = parse_chart("| C | C | N.C. | F G |").changes(-1, 16, 4)
        told = [(span.start, span.end, span.chord and span.chord.symbol) for span in spans]
        expected = [(-4, 0, None), (0, 8, "C"), (8, 12, None), (12, 14, "F"), (14, 16, "G"), (16, 20, "C")]
        self.assertEqual(told, expected)

    @given(st.lists(st.sampled_from(["C", "Fm7 Bb7", "N.C.", "C / / G7", "Am7b5 stop"]), min_size=1, max_size=14))
    def test_a_chart_reads_back_from_its_text(self, cells: list[str]) -> None:
        chart = parse_chart("A | " + " | ".join(cells) + " |")
        self.assertEqual(parse_chart(chart_text(chart)), chart)
        self.assertEqual(transpose_chart(transpose_chart(chart, 5), 7).bars[0][0] is None, chart.bars[0][0] is None)

    def test_one_bar_written_anew(self) -> None:
        chart = with_bar(parse_chart("A | C | F stop | G |"), 1, "F / Dm")
        self.assertEqual((bar_text(chart, 1), chart.stops), ("F F Dm", frozenset()))
        self.assertEqual(bar_text(with_bar(chart, 3, "% stop"), 3), "G stop")
        with self.assertRaises(ChartError):
            with_bar(chart, 0, "")
