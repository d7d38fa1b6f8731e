import itertools
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from eager_owl.neck import fingering
from eager_owl.neck.fingering import candidates, find_fingering, with_places
from eager_owl.neck.hand import Costs, fret_mm, reach_mm
from eager_owl.neck.schools import placing_schools
from eager_owl.neck.story import tell_hand
from eager_owl.solo.document import Instrument, Note, Technique
from eager_owl.theory.key import parse_key
from tests.support import line

GUITAR = Instrument()


def placed(notes: list[Note], **options: object) -> list[Note]:
    return with_places(notes, find_fingering(notes, GUITAR, **options))


def named(notes: list[Note], index: int, *names: str) -> list[Note]:
    techniques = tuple(Technique(name) for name in names)
    return [replace(n, techniques=techniques) if i == index else n for i, n in enumerate(notes)]


class Distances(unittest.TestCase):
    def test_the_twelfth_fret_halves_the_scale(self) -> None:
        self.assertAlmostEqual(fret_mm(12, 648), 324)
        self.assertAlmostEqual(fret_mm(24, 648), 486)

    def test_first_fret_is_a_seventeen_eight_one_seventh_of_the_scale(self) -> None:
        # The luthier's constant: each fret takes 1/17.817 of what is left of the string.
        self.assertAlmostEqual(fret_mm(1, 648), 648 / 17.817, places=2)

    def test_a_reach_shrinks_up_the_neck(self) -> None:
        self.assertAlmostEqual(reach_mm(1, 5, 648), 126.2, delta=0.1)
        self.assertAlmostEqual(reach_mm(13, 17, 648), reach_mm(1, 5, 648) / 2)


class Candidates(unittest.TestCase):
    def test_every_place_of_a_pitch(self) -> None:
        self.assertEqual(candidates(64, GUITAR), [(1, 0), (2, 5), (3, 9), (4, 14), (5, 19)])
        self.assertEqual(candidates(39, GUITAR), [])
        self.assertEqual(candidates(40, GUITAR), [(6, 0)])

    def test_capo_takes_places_away(self) -> None:
        self.assertEqual(candidates(64, replace(GUITAR, capo=2)), [(2, 5), (3, 9), (4, 14), (5, 19)])


class Fingerings(unittest.TestCase):
    def test_a_box_stays_in_its_box(self) -> None:
        notes = placed(line(69, 72, 74, 76, 79, 81, 79, 76), key=parse_key("A minor"))
        story = tell_hand(notes, GUITAR)
        self.assertEqual(story.shifts, 0)
        self.assertLess(story.widest_mm, 110)

    def test_pitch_is_always_right(self) -> None:
        for note in placed(line(45, 52, 57, 64, 69, 76, 84, 86)):
            assert note.string is not None and note.fret is not None
            self.assertEqual(GUITAR.tuning[note.string - 1] + note.fret, note.pitch)

    def test_pins_are_kept(self) -> None:
        notes = line(64, 66, 67)
        notes[1] = replace(notes[1], string=4, fret=16).pinned("place")
        notes[2] = replace(notes[2], finger=3).pinned("finger")
        result = placed(notes)
        self.assertEqual((result[1].string, result[1].fret), (4, 16))
        self.assertEqual(result[2].finger, 3)

    def test_legato_stays_on_its_string(self) -> None:
        for name in ("hammer_on", "pull_off", "slide"):
            for first, second in ((59, 62), (64, 67), (71, 69), (55, 59)):
                notes = placed(named(line(first, second), 1, name))
                self.assertEqual(notes[0].string, notes[1].string, (name, first, second))

    def test_a_bend_is_never_on_an_open_string(self) -> None:
        for name in ("bend", "bend_release", "prebend"):
            for pitch in (45, 50, 55, 59, 64):
                self.assertGreater(placed(named(line(pitch), 0, name))[0].fret or 0, 0)

    def test_a_bend_prefers_a_thin_string_and_a_strong_finger(self) -> None:
        note = placed(named(line(69, 72, 74, 72), 2, "bend"), key=parse_key("A minor"))[2]
        self.assertLessEqual(note.string or 9, 3)
        self.assertIn(note.finger, (2, 3))

    def test_double_stop_takes_two_strings(self) -> None:
        low, high = Note(1, 0.0, 0.5, 67), Note(2, 0.0, 0.5, 72)
        both = [replace(n, techniques=(Technique("double_stop"),)) for n in (low, high)]
        notes = placed(both)
        self.assertNotEqual(notes[0].string, notes[1].string)
        self.assertLess(abs((notes[0].fret or 0) - (notes[1].fret or 0)), 4)

    def test_from_fret_draws_the_hand_there(self) -> None:
        low = placed(line(64, 67, 69), from_fret=3)
        high = placed(line(64, 67, 69), from_fret=12)
        self.assertLess(max(n.fret or 0 for n in low), 9)
        self.assertGreaterEqual(min(n.fret or 0 for n in high), 9)

    def test_what_cannot_be_placed_is_told_and_the_rest_is_placed(self) -> None:
        notes = line(64, 30, 67, 69)
        notes[2] = replace(notes[2], string=6, fret=3).pinned("place")
        notes[3] = replace(notes[3], string=1, fret=5, finger=0).pinned("place", "finger")
        found = find_fingering(notes, GUITAR)
        self.assertRegex(found.refusals[1], "off this neck")
        self.assertRegex(found.refusals[2], "pinned fret of string 6")
        self.assertRegex(found.refusals[3], "finger 0 can't play")
        self.assertIsNotNone(found.places[0])
        self.assertEqual(find_fingering([], GUITAR).places, ())
        self.assertEqual(with_places(notes, found)[1].string, None)

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.tuples(st.integers(40, 86), st.sampled_from(["", "slide", "bend"])), min_size=1, max_size=3))
    def test_optimal_as_brute_force(self, what: list[tuple[int, str]]) -> None:
        notes = line(*(pitch for pitch, _ in what))
        notes = [replace(n, techniques=(Technique(t),) if t else ()) for n, (_, t) in zip(notes, what, strict=True)]
        costs = Costs()
        states = [fingering._states(note, GUITAR) for note in notes]
        own = [fingering._state_costs(n, s, GUITAR, costs, None) for n, s in zip(notes, states, strict=True)]
        steps = [
            fingering._step_costs(notes[i], notes[i + 1], states[i], states[i + 1], GUITAR, costs)
            for i in range(len(notes) - 1)
        ]
        best = min(
            sum(own[i][k] for i, k in enumerate(path))
            + sum(steps[i][path[i], path[i + 1]] for i in range(len(steps)))
            for path in itertools.product(*(range(len(s)) for s in states))
        )
        self.assertAlmostEqual(find_fingering(notes, GUITAR, costs).cost, best, places=9)

    @given(st.lists(st.integers(41, 85), min_size=1, max_size=30))
    @settings(max_examples=30, deadline=None)
    def test_fingers_lie_under_the_hand(self, pitches: list[int]) -> None:
        for note in placed(line(*pitches)):
            if note.fret == 0:
                self.assertEqual(note.finger, 0)
            else:
                self.assertIn(note.finger, (1, 2, 3, 4))


class Schools(unittest.TestCase):
    def test_schools_place_differently(self) -> None:
        notes = line(64, 65, 67, 69, 71, 72, 74, 76)
        strings = {
            name: len({n.string for n in placed(notes, costs=school.costs)})
            for name, school in placing_schools().items()
        }
        self.assertEqual(strings["along-one-string"], 1)
        self.assertGreater(strings["one-position"], 1)
        opened = placed(line(64, 59, 55), costs=placing_schools()["open-strings"].costs)
        self.assertEqual([n.fret for n in opened], [0, 0, 0])

    def test_every_school_has_a_creed(self) -> None:
        for name, school in placing_schools().items():
            self.assertEqual(school.name, name)
            self.assertTrue(school.creed.endswith("."))


class Story(unittest.TestCase):
    def test_stands_shifts_and_reach(self) -> None:
        notes = line(64, 68, 76, 79)
        spots = [(2, 5, 1), (2, 9, 4), (1, 12, 1), (1, 15, 4)]
        notes = [replace(n, string=s, fret=f, finger=g) for n, (s, f, g) in zip(notes, spots, strict=True)]
        story = tell_hand(notes, GUITAR)
        self.assertEqual([stand.position for stand in story.stands], [5, 12])
        self.assertEqual(story.shifts, 1)
        self.assertEqual((story.fingers, story.at_fret), ((1, 4), 5))
        self.assertAlmostEqual(story.widest_mm, reach_mm(5, 9, 648))

    def test_nothing_placed_is_no_story(self) -> None:
        story = tell_hand(line(60, 62), GUITAR)
        self.assertEqual((story.stands, story.shifts), ((), 0))
