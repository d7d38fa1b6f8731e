"""What a line of notes says by itself about where it is played."""

import unittest
from dataclasses import replace

import numpy as np
from benchmarks.habits import compose

from eager_owl.neck.costs import ROWS, Costs
from eager_owl.neck.habits import Home, homes, in_first_frets, points_at_open, run_places, slides_around
from eager_owl.neck.measures import (
    build_lattice,
    finger_measures,
    finger_step_measures,
    home_measures,
    read_strokes,
    state_measures,
    step_measures,
)
from eager_owl.neck.states import playable
from eager_owl.solo.document import Instrument, Note, struck_together
from eager_owl.solo.techniques import Technique
from eager_owl.theory.key import parse_key
from tests.support import line

GUITAR = Instrument()


def named(note: Note, name: str) -> Note:
    return replace(note, techniques=(Technique(name),))


class Homes(unittest.TestCase):
    def test_a_minor_key_is_its_own_home(self) -> None:
        found = homes(line(60, 63, 65), parse_key("F minor"))
        self.assertEqual([home.root for home in found], [5])
        self.assertEqual(found[0].cost, 0.0)

    def test_a_major_key_is_its_relative_minor_or_its_own_blues(self) -> None:
        major = homes(line(69, 71, 73, 76, 78, 76, 73, 71, 69), parse_key("A major"))
        self.assertEqual(major[0].root, 6)  # F sharp minor's boxes
        blues = homes(line(69, 72, 74, 76, 79, 76, 74, 72, 69), parse_key("A major"))
        self.assertEqual(blues[0].root, 9)
        self.assertEqual(len(major), 2)

    def test_a_line_around_the_tonic_may_stand_in_the_major_root_box(self) -> None:
        key = parse_key("A major")
        self.assertEqual({home.tonic for home in homes(line(69, 66, 69, 71, 69), key)}, {69})
        bent = line(69, 71, 74, 71, 69)
        self.assertEqual(homes(bent, key)[0].tonic, None)  # neither the sixth below nor a bend to the third
        bent[1] = replace(bent[1], techniques=(Technique("bend", semitones=2.0),))
        self.assertEqual(homes(bent, key)[0].tonic, 69)
        self.assertEqual(homes(line(69, 66, 73, 80, 69), key)[0].tonic, None)
        self.assertEqual(homes(line(69, 66, 69, 71, 69), parse_key("A minor"))[0].tonic, None)

    def test_without_a_key_the_notes_say(self) -> None:
        for root in range(12):
            notes = line(*(57 + root + step for step in (0, 3, 5, 7, 10, 12, 10, 7, 5, 3, 0)))
            likely = homes(notes, None)
            self.assertEqual(likely[0].root, (57 + root) % 12)
            self.assertEqual(sorted(home.cost for home in likely), [home.cost for home in likely])

    def test_a_bend_speaks_for_where_it_lands_too(self) -> None:
        bent = [replace(n, techniques=(Technique("bend", semitones=2.0),)) for n in line(74)]
        self.assertIn(9, [home.root for home in homes([*line(69, 72), *bent], None)])


class Lines(unittest.TestCase):
    def test_only_quick_long_runs_of_one_direction_count(self) -> None:
        scale = np.array([48, 50, 52, 53, 55, 57, 59, 60, 62, 60])
        quick, slow = np.full(10, 0.1), np.full(10, 0.4)
        self.assertEqual(run_places(scale, quick, quick=True).tolist(), [*range(9), -1])
        self.assertEqual(set(run_places(scale, slow, quick=True).tolist()), {-1})
        self.assertEqual(run_places(scale, slow, quick=False).tolist(), [*range(9), -1])
        on_beat = np.array([False, False, True, *[False] * 7])
        self.assertEqual(run_places(scale, quick, True, on_beat).tolist(), [-1, -1, *range(7), -1])
        self.assertEqual(run_places(scale, quick, True, np.zeros(10, bool)).tolist(), [*range(9), -1])
        pentatonic = np.array([45, 48, 50, 52, 55, 57, 60, 62, 64, 67])
        self.assertEqual(set(run_places(pentatonic, quick, quick=True).tolist()), {-1})

    def test_a_line_slides_where_a_third_of_it_does(self) -> None:
        slid = np.zeros(30, bool)
        slid[2:12:3] = True
        around = slides_around(slid)
        self.assertGreater(around[6], 0.99)
        self.assertEqual(around[-1], 0.0)

    def test_low_lines_on_open_pitches(self) -> None:
        low = in_first_frets(np.array([40, 43, 45, 47, 50, 52, 55, 59, 64]), GUITAR)
        self.assertTrue(low.all())
        self.assertFalse(in_first_frets(np.array([40, 43, 45, 69]), GUITAR).any())
        self.assertFalse(in_first_frets(np.array([41, 44, 46, 48, 51]), GUITAR).any())

    def test_pull_offs_hammer_ons_and_pedals_point_at_the_open_string(self) -> None:
        first, second = line(67, 64)
        self.assertEqual(points_at_open([first, named(second, "pull_off")], GUITAR), [False, True])
        first, second = line(64, 67)
        self.assertEqual(points_at_open([first, named(second, "hammer_on")], GUITAR), [True, False])
        self.assertEqual(points_at_open(line(71, 64, 69, 64, 67), GUITAR), [False] * 5)  # twice is no pedal yet
        pedal = points_at_open(line(71, 64, 69, 64, 67, 64), GUITAR)
        self.assertEqual(pedal, [False, True, False, True, False, True])
        slid = [named(note, "slide") for note in line(69, 71, 72)]
        last = replace(named(line(64)[0], "pull_off"), onset=1.0)
        self.assertFalse(points_at_open([*slid, last], GUITAR)[-1])  # the hand is on its way along the neck
        self.assertEqual(points_at_open(line(64, 67), GUITAR), [False, False])
        self.assertEqual(points_at_open([first, named(second, "hammer_on")], replace(GUITAR, capo=2)), [False, False])


class Measures(unittest.TestCase):
    def test_every_row_of_the_table_is_measured_and_no_other(self) -> None:
        notes = line(60, 62, 64)
        groups = struck_together(notes)
        rows = [found[1] for group in groups if (found := playable(notes, group, GUITAR, {})) is not None]
        lattice = build_lattice(read_strokes(notes, groups, GUITAR), rows, None)
        _, by_home = home_measures(lattice, Home(0, 0.0, 60), GUITAR)
        steps = (*step_measures(lattice, 1, 3), *finger_step_measures(lattice, 1, 3))
        measures = (*state_measures(lattice), *finger_measures(lattice), *by_home, *steps)
        # What the player asked for is measured where the solver is told.
        self.assertEqual({name for name, _ in measures} | {"from_fret", "from_box"}, set(ROWS))
        for name, measure in steps:
            self.assertEqual(measure.shape[0], 2, name)
            self.assertTrue(np.isfinite(measure).all(), name)
        self.assertEqual(len(Costs().home), 12)


class Composed(unittest.TestCase):
    def test_composed_phrases_can_be_played_where_they_are_composed(self) -> None:
        for phrase in compose(60, seed=5):
            for note in phrase.notes:
                assert note.string is not None
                self.assertEqual(GUITAR.fret_of(note.string, note.pitch), note.fret)
