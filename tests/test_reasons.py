import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from eager_owl.reasons.explain import Explanation, explain
from eager_owl.reasons.schools import reason_schools
from eager_owl.reasons.sources import parse_source
from eager_owl.rhythm.chart import Chart, parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import Technique
from eager_owl.theory.chord import transpose_chord
from eager_owl.theory.key import Key, parse_key
from tests.support import line

F_MINOR = parse_key("F minor")
GRID = BeatGrid(120, 0.0, 4)


def told(notes: list[Note], chart: str, school: str, key: Key | None = F_MINOR) -> Explanation:
    return explain(notes, key, parse_chart(chart), GRID, reason_schools()[school])


def sources(explanation: Explanation) -> list[str | None]:
    return [r.source_name for r in explanation.reasons]


class Intervals(unittest.TestCase):
    def test_to_key_and_chord(self) -> None:
        found = told(line(72, 73, 76), "| C7 |", "two-pentatonics").reasons
        self.assertEqual([r.interval_key for r in found], ["5", "b6", "7"])
        self.assertEqual([r.interval_chord for r in found], ["R", "b9", "3"])

    def test_a_flat_five_of_the_two_chord(self) -> None:
        self.assertEqual(told(line(73), "| Gm7b5 |", "chord-by-chord").reasons[0].interval_chord, "b5")

    def test_an_altered_line_is_spelled_as_such(self) -> None:
        found = told(line(75, 73, 70, 68, 64), "| C7alt |", "chord-by-chord")
        self.assertEqual([r.interval_chord for r in found.reasons], ["#9", "b9", "b7", "#5", "3"])
        self.assertEqual(set(sources(found)), {"C altered"})
        source = found.reasons[0].source
        assert source is not None
        self.assertEqual(source.also, "Db melodic minor")

    def test_a_bend_is_told_by_both_its_ends(self) -> None:
        note = replace(line(75)[0], techniques=(Technique("bend", 1.96),))
        self.assertEqual(note.landed, 77)
        reason = told([note], "| Fm7 |", "two-pentatonics").reasons[0]
        self.assertEqual((reason.interval_chord, reason.lands_chord), ("b7", "R"))
        self.assertEqual(reason.role, "chord tone")

    def test_an_early_note_belongs_to_the_chord_it_sounds_into(self) -> None:
        early = Note(1, 1.9, 0.8, 77)
        short = Note(1, 1.9, 0.08, 77)
        chart = "| C7 | Fm7 |"
        self.assertEqual(told([early], chart, "chord-by-chord").reasons[0].chord.symbol, "Fm7")
        self.assertEqual(told([short], chart, "chord-by-chord").reasons[0].chord.symbol, "C7")


class Sources(unittest.TestCase):
    def test_one_source_for_a_plain_pentatonic_line(self) -> None:
        found = told(line(65, 68, 70, 72, 75, 77), "| Fm7 |", "two-pentatonics")
        self.assertEqual(set(sources(found)), {"F minor pentatonic"})
        self.assertEqual((found.unexplained, found.switches), (0, 0))

    def test_the_blue_note_brings_the_blues_scale(self) -> None:
        found = told(line(65, 68, 70, 71, 72), "| Fm7 |", "two-pentatonics")
        self.assertEqual(set(sources(found)), {"F blues"})
        self.assertEqual(found.reasons[3].role, "blue note")

    def test_major_and_minor_mixed_switch_once(self) -> None:
        notes = line(65, 68, 70, 72, 75, 72, 69, 67, 65, 62)
        found = told(notes, "| F7 |", "two-pentatonics", parse_key("F major"))
        self.assertEqual(found.unexplained, 0)
        self.assertEqual(found.switches, 1)

    def test_a_note_outside_is_said_to_be(self) -> None:
        found = told(line(65, 66, 72), "| Fm7 |", "two-pentatonics")
        self.assertEqual(found.unexplained, 1)
        self.assertEqual((sources(found)[1], found.reasons[1].role), (None, "clash"))

    def test_each_chord_its_scale(self) -> None:
        # Half-note steps: G B♭ | C E G, then F.
        notes = [
            Note(1, 0, 0.9, 67),
            Note(2, 1, 0.9, 70),
            Note(3, 2, 0.9, 73),
            Note(4, 3, 0.9, 76),
            Note(5, 4, 1, 77),
        ]
        found = told(notes, "| Gm7b5 | C7 | Fm7 |", "chord-by-chord")
        names = sources(found)
        self.assertEqual(names[:2], ["G Locrian"] * 2)
        self.assertEqual(names[2:4], ["C Phrygian dominant"] * 2)
        self.assertEqual(names[4], "F natural minor")

    def test_a_source_is_never_chosen_note_by_note(self) -> None:
        found = told(line(65, 67, 68, 70, 72, 73, 75, 77, 75, 73), "| Fm7 |", "chord-by-chord")
        self.assertEqual(len(set(sources(found))), 1)


class Roles(unittest.TestCase):
    def test_roles(self) -> None:
        roles = [r.role for r in told(line(68, 69, 67), "| Fm7 |", "chord-by-chord").reasons]
        self.assertEqual(roles, ["chord tone", "clash", "tension"])

    def test_the_major_third_clashes_over_minor(self) -> None:
        found = told(line(65, 69, 65), "| Fm7 |", "two-pentatonics", parse_key("F major"))
        self.assertEqual(found.reasons[1].role, "clash")

    def test_notes_struck_together_are_not_each_others_ornaments(self) -> None:
        pair = [Note(1, 0.0, 0.24, 72), Note(2, 0.25, 0.24, 74), Note(3, 0.25, 0.24, 76), Note(4, 0.5, 0.24, 72)]
        roles = [r.role for r in told(pair, "| C |", "chord-by-chord", parse_key("C major")).reasons]
        self.assertEqual(roles, ["chord tone", "neighbour", "chord tone", "chord tone"])

    def test_a_muted_ghost_is_not_reasoned_about(self) -> None:
        ghost = replace(line(61)[0], id=9, onset=0.25, techniques=(Technique("ghost"),), level_db=(-30, -40))
        plain = line(60, 64, beat_s=0.5)
        found = told(sorted([*plain, ghost], key=lambda n: n.onset), "| C |", "chord-by-chord", parse_key("C major"))
        self.assertEqual((found.reasons[1].role, found.reasons[1].interval_chord), ("unpitched", None))
        self.assertEqual((found.unexplained, found.reasons[1].source_name), (0, None))


class Missing(unittest.TestCase):
    def test_no_chart_leaves_the_key(self) -> None:
        found = explain(line(65, 68), F_MINOR, Chart(), None, reason_schools()["two-pentatonics"])
        self.assertEqual([r.interval_key for r in found.reasons], ["R", "b3"])
        self.assertIsNone(found.reasons[0].chord)

    def test_no_key_and_no_chart_says_nothing(self) -> None:
        for school in reason_schools().values():
            found = explain(line(65, 68), None, Chart(), None, school)
            self.assertEqual(found.unexplained, 2)
            self.assertIsNone(found.reasons[0].interval_key)

    def test_no_key_with_a_chart_still_explains_chord_by_chord(self) -> None:
        self.assertEqual(told(line(65, 68), "| Fm7 |", "chord-by-chord", None).unexplained, 0)

    def test_no_notes(self) -> None:
        self.assertEqual(told([], "| Fm7 |", "two-pentatonics").reasons, ())

    def test_no_chord_bars(self) -> None:
        found = told([*line(65, 68), Note(9, 2.5, 0.3, 70)], "| N.C. | Fm7 |", "chord-by-chord")
        self.assertIsNone(found.reasons[0].chord)
        self.assertEqual(found.unexplained, 0)


class Properties(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.integers(50, 80), min_size=1, max_size=16), st.integers(1, 11))
    def test_transposing_all_changes_no_interval_or_role(self, pitches: list[int], by: int) -> None:
        chart = parse_chart("| Fm7 | Gm7b5 C7alt | Bb7 | Dbmaj7 |")
        moved_chart = Chart(tuple(tuple(c and transpose_chord(c, by) for c in bar) for bar in chart.bars))
        moved_key = Key((F_MINOR.tonic + by) % 12, "minor")
        for school in reason_schools().values():
            one = explain(line(*pitches), F_MINOR, chart, GRID, school)
            two = explain(line(*(p + by for p in pitches)), moved_key, moved_chart, GRID, school)
            for a, b in zip(one.reasons, two.reasons, strict=True):
                self.assertEqual(
                    (a.interval_key, a.interval_chord, a.role), (b.interval_key, b.interval_chord, b.role)
                )
            self.assertEqual((one.unexplained, one.switches), (two.unexplained, two.switches))

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.integers(50, 80), min_size=1, max_size=16))
    def test_a_source_named_holds_where_the_note_lands(self, pitches: list[int]) -> None:
        for school in reason_schools().values():
            for note, reason in zip(
                line(*pitches), told(line(*pitches), "| Fm7 | C7 |", school.name).reasons, strict=True
            ):
                if reason.source is not None:
                    held = reason.source.explains(note.pitch, note.pitch)
                    self.assertEqual(held, reason.standing in ("in", "borrowed"))
                if reason.source_name not in (None, "blue note", "chromatic"):
                    self.assertTrue(parse_source(reason.source_name).holds(note.pitch), reason.source_name)
