"""The worked examples, and that all schools agree on intervals."""

import unittest
from itertools import groupby

from eager_owl.reasons.explain import Explanation, Reading, explain, read_line
from eager_owl.reasons.schools import reason_schools
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.key import parse_key
from eager_owl.theory.scale import degree_semitones
from tests.worked import Example, written
from tests.worked_events import EVENTS
from tests.worked_sources import SOURCES

EXAMPLES = (*SOURCES, *EVENTS)


def read(example: Example) -> Reading:
    grid = BeatGrid(120, 0.0, example.beats)
    return read_line(written(example.line, 0.0, grid), parse_key(example.key), parse_chart(example.chart), grid)


def explained(example: Example, reading: Reading, school: str) -> Explanation:
    grid = BeatGrid(120, 0.0, example.beats)
    notes, key, chart = written(example.line, 0.0, grid), parse_key(example.key), parse_chart(example.chart)
    return explain(notes, key, chart, grid, reason_schools()[school], reading)


def sources_of(told: Explanation) -> str:
    """So many notes of each source, in order, as the examples say it."""
    spans = []
    for (source, lead), group in groupby(told.reasons, key=lambda reason: (reason.source, reason.lead)):
        name = source.name if source else "nothing"
        spans.append(f"{len(list(group))} of {name}{('', ' ahead', ' behind')[lead]}")
    return ", ".join(spans)


class Worked(unittest.TestCase):
    def test_they_are_many_and_of_every_school(self) -> None:
        self.assertGreaterEqual(len(EXAMPLES), 40)
        self.assertEqual({told.school for example in EXAMPLES for told in example.told}, set(reason_schools()))
        self.assertEqual(len({example.name for example in EXAMPLES}), len(EXAMPLES))

    def test_every_example_asks_for_something(self) -> None:
        for example in EXAMPLES:
            self.assertTrue(example.told or example.notes or example.events, example.name)

    def test_examples(self) -> None:
        for example in EXAMPLES:
            with self.subTest(example.name):
                self.check(example, read(example))

    def check(self, example: Example, reading: Reading) -> None:
        for told in example.told:
            found = explained(example, reading, told.school)
            if told.sources is not None:
                self.assertEqual(sources_of(found), told.sources, told.school)
            if told.unexplained is not None:
                self.assertEqual(found.unexplained, told.unexplained, told.school)
        reasons = explained(example, reading, "chord-by-chord").reasons
        for at in example.notes:
            reason, index = reasons[at.note - 1], at.note - 1
            for asked, answer in (
                (at.role, reading.roles[index]),
                (at.in_chord, reason.interval_chord),
                (at.in_key, reason.interval_key),
            ):
                if asked is not None:
                    self.assertEqual(answer, asked, f"note {at.note}")
        events = [f"{event.kind}: {' '.join(str(i + 1) for i in event.notes)}" for event in reading.events]
        for wanted in example.events:
            self.assertIn(wanted, events)
        self.assertFalse({event.kind for event in reading.events} & set(example.never))

    def test_intervals_are_the_same_in_all_schools(self) -> None:
        for example in EXAMPLES:
            reading = read(example)
            told = [explained(example, reading, school) for school in reason_schools()]
            sizes = {
                tuple(degree_semitones(r.interval_chord) if r.interval_chord else None for r in each.reasons)
                for each in told
            }
            self.assertEqual(len(sizes), 1, example.name)


if __name__ == "__main__":
    unittest.main()
