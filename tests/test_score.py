import unittest
from dataclasses import replace
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from eager_owl.notation.score import Score, write_score
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.rhythm.values import TICKS, Value, split_values
from eager_owl.solo.document import Note, struck_together
from eager_owl.solo.techniques import Technique

FOUR = BeatGrid(60.0)  # a beat is a second
HALF, THIRD = Fraction(1, 2), Fraction(1, 3)


def played(*spans: tuple[float, float], pitch: int = 60) -> list[Note]:
    """Notes from and to these beats."""
    return [Note(i + 1, start, end - start, pitch + i) for i, (start, end) in enumerate(spans)]


def told(score: Score, voice: int = 0) -> list[str]:
    """A voice as words: "4" a quarter note, "8." a dotted eighth, "8t" one of a triplet, "r" a rest, "~" tied on."""
    words = []
    for measure in score.measures:
        for event in measure.voices[voice]:
            value = event.value
            word = f"{value.denominator}{'.' * value.dots}{'t' * value.triplet}"
            words.append(f"{word}{'' if event.notes else 'r'}{'~' * event.tied_on}")
        words.append("|")
    return words


class Bars(unittest.TestCase):
    def test_plain_notes_and_rests_fill_the_bar(self) -> None:
        score = write_score(played((0, 1), (1, 1.5), (2, 2.5), (2.5, 3)), FOUR)
        self.assertEqual(told(score), ["4", "8", "8r", "8", "8", "4r", "|"])
        self.assertEqual([event.beat for event in score.events()], [0, 1, Fraction(3, 2), 2, Fraction(5, 2), 3])

    def test_what_is_held_over_a_beat_or_a_bar_line_is_tied(self) -> None:
        score = write_score(played((0, 0.5), (0.5, 2), (2, 5.5)), FOUR)
        self.assertEqual(told(score), ["8", "8~", "4", "2~", "|", "4.", "8r", "2r", "|"])
        tied = [event.tied_from for event in score.events() if event.notes]
        self.assertEqual(tied, [False, False, True, False, True])

    def test_dots(self) -> None:
        self.assertEqual(told(write_score(played((0, 1.5), (1.5, 2), (2, 2.75), (2.75, 3)), FOUR)),
                         ["4.", "8", "8.", "16", "4r", "|"])  # fmt: skip
        self.assertEqual(told(write_score(played((0, 3), (3, 4)), FOUR)), ["2.", "4", "|"])

    def test_triplets_are_laid_on_one_subdivision_of_their_beat(self) -> None:
        score = write_score(played((0, 0.35), (0.35, 0.64), (0.64, 1), (1, 1.66), (1.66, 2), (2, 4)), FOUR)
        self.assertEqual(told(score), ["8t", "8t", "8t", "4t", "8t", "2", "|"])

    def test_a_pickup_is_bar_nought(self) -> None:
        score = write_score(played((-1, 0), (0, 4)), replace(FOUR, first_beat_s=0.0))
        self.assertEqual([measure.number for measure in score.measures], [0, 1])
        self.assertEqual(told(score)[:3], ["2.r", "4", "|"])

    def test_compound_beats(self) -> None:
        grid = BeatGrid(60.0, 0.0, 2, division=3)
        score = write_score(played((0, 1 / 3), (1 / 3, 2 / 3), (2 / 3, 1), (1, 2)), grid)
        self.assertEqual(told(score), ["8", "8", "8", "4.", "|"])

    def test_fast_notes_are_not_written_at_once(self) -> None:
        notes = played(*((i / 8, (i + 1) / 8) for i in range(8)), (1, 2))
        self.assertEqual(told(write_score(notes, FOUR))[:9], ["32"] * 8 + ["4"])

    def test_a_bar_without_notes_rests_whole(self) -> None:
        score = write_score(played((0, 4), (8, 12)), FOUR)
        (rest,) = score.measures[1].voices[0]
        self.assertTrue(rest.bar_rest and not rest.notes)

    def test_nothing(self) -> None:
        self.assertEqual(write_score([], FOUR).measures, ())


class Together(unittest.TestCase):
    def test_a_stroke_is_one_event(self) -> None:
        notes = [Note(1, 0.0, 1.0, 60), Note(2, 0.02, 1.0, 64), Note(3, 1.0, 1.0, 62)]
        first = next(write_score(notes, FOUR).events())
        self.assertEqual([note.id for note in first.notes], [1, 2])

    def test_graces_lead_into_their_note(self) -> None:
        notes = played((0, 0.94), (0.94, 1), (1, 2))
        notes[1] = replace(notes[1], techniques=(Technique("grace"),))
        score = write_score(notes, FOUR)
        self.assertEqual([[n.id for n in e.graces] for e in score.events() if e.notes], [[], [2]])
        self.assertEqual(score.event_of(2), score.event_of(3))

    def test_a_grace_that_leads_nowhere_is_a_note(self) -> None:
        notes = played((0, 1), (1, 1.1))
        notes[1] = replace(notes[1], techniques=(Technique("grace"),))
        self.assertEqual([n.id for n in write_score(notes, FOUR).event_of(2).notes], [2])

    def test_a_note_held_under_others_is_a_voice_of_its_own(self) -> None:
        score = write_score(
            [Note(1, 0.0, 4.0, 50), *(Note(i + 1, float(i), 0.95, 60 + i) for i in range(1, 4))], FOUR
        )
        self.assertEqual(told(score), ["4r", "4", "4", "4", "|"])
        self.assertEqual(told(score, 1), ["1", "|"])

    def test_what_is_to_ring_is_written_where_it_is_struck(self) -> None:
        rings = (Technique("let_ring"),)
        notes = [replace(note, techniques=rings) for note in played((0, 4), (1, 4), (2, 4), (3, 4))]
        self.assertEqual(told(write_score(notes, FOUR)), ["4", "4", "4", "4", "|"])

    def test_lateness(self) -> None:
        score = write_score(played((0.03, 1), (0.98, 2)), FOUR)
        self.assertEqual({i: round(ms) for i, ms in score.late_ms.items()}, {1: 30, 2: -20})

    def test_a_grace_that_leads_nowhere_is_written_in_parts_of_its_own_beat(self) -> None:
        notes = played((2.5, 4.75), (7.6875, 1.0))
        notes[1] = replace(notes[1], techniques=(Technique("grace"),))
        self.assertEqual(
            sum(bool(event.notes) for event in write_score(notes, FOUR).events() if not event.tied_from), 2
        )


GRIDS = st.sampled_from(
    [
        BeatGrid(60.0),
        BeatGrid(97.0, 0.3, 3),
        BeatGrid(60.0, 0.0, 2, division=3),
        BeatGrid(120.0, 0.0, 4, swung=True),
        BeatGrid(90.0, 0.5, 5, anchors=((0.0, 0.5), (8.0, 6.1))),
    ]
)
LINES = st.lists(st.tuples(st.floats(0, 9), st.floats(0.02, 5)), min_size=1, max_size=24)


class AnyLine(unittest.TestCase):
    @given(LINES, GRIDS, st.sets(st.integers(0, 23)))
    def test_every_voice_fills_its_bars_and_every_note_is_written_once(
        self, line: list[tuple[float, float]], grid: BeatGrid, graces: set[int]
    ) -> None:
        grace = (Technique("grace"),)
        notes = [
            Note(i + 1, onset, length, 60, techniques=grace if i in graces else ())
            for i, (onset, length) in enumerate(sorted(line))
        ]
        score = write_score(notes, grid)
        begun: list[int] = []
        for measure in score.measures:
            for voice in measure.voices:
                at = Fraction(measure.start)
                for event in voice:
                    self.assertEqual(event.beat, at)
                    self.assertGreater(event.length, 0)
                    at = event.end
                    if not event.tied_from:
                        begun += [note.id for note in (*event.graces, *event.notes)]
                self.assertEqual(at, measure.start + grid.beats_per_bar)
        self.assertEqual(sorted(begun), [note.id for note in notes])
        self.assertEqual(set(score.late_ms), {note.id for note in notes})

    @given(LINES, GRIDS)
    def test_ties_join_what_is_next_to_each_other(self, line: list[tuple[float, float]], grid: BeatGrid) -> None:
        notes = [Note(i + 1, onset, length, 60) for i, (onset, length) in enumerate(sorted(line))]
        score = write_score(notes, grid)
        ends = {(e.end, e.notes) for e in score.events() if e.tied_on}
        starts = {(e.beat, e.notes) for e in score.events() if e.tied_from}
        self.assertEqual(ends, starts)

    @given(st.integers(0, 3), st.integers(1, 4), st.sampled_from([2, 3]))
    def test_values_last_as_long_as_they_say(self, start: int, beats: int, division: int) -> None:
        pieces = split_values(start * TICKS, beats * TICKS, division)
        self.assertEqual(sum(ticks for _, ticks, _ in pieces), beats * TICKS)
        whole = TICKS * 4 if division == 2 else Fraction(TICKS * 8, 3)
        for _, ticks, value in pieces:
            self.assertEqual(ticks, whole * (2 - Fraction(1, 2**value.dots)) / value.denominator)

    def test_no_value_for_a_sliver(self) -> None:
        with self.assertRaises(ValueError):
            split_values(0, 1, 2)
        self.assertEqual(split_values(8, 8, 2), [(8, 8, Value(8, 0, True))])


class Strokes(unittest.TestCase):
    def test_the_highest_of_a_stroke_first(self) -> None:
        notes = [Note(1, 0.0, 1, 60), Note(2, 0.03, 1, 64), Note(3, 0.2, 1, 62)]
        self.assertEqual(struck_together(notes), [[1, 0], [2]])


if __name__ == "__main__":
    unittest.main()
