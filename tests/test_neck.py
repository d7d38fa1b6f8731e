import itertools
import unittest
from dataclasses import replace

import numpy as np
from benchmarks.phrases import GUITAR, PHRASES, SECOND, written_notes
from hypothesis import given, settings
from hypothesis import strategies as st

from eager_owl.neck import fingering
from eager_owl.neck.costs import Costs
from eager_owl.neck.fingering import Around, find_alternatives, find_fingering, with_places
from eager_owl.neck.hand import COMFORT_MM, REACHES, fret_mm, reach_mm
from eager_owl.neck.schools import placing_schools
from eager_owl.neck.states import candidates, rows_for, wanted
from eager_owl.neck.story import price_words, tell_hand
from eager_owl.solo.document import Instrument, Note
from eager_owl.solo.techniques import Technique
from eager_owl.solo.tunings import TUNINGS
from eager_owl.theory.key import parse_key
from tests.support import line

SEVEN = Instrument(TUNINGS["seven strings, drop A"], frets=24)


def placed(notes: list[Note], instrument: Instrument = GUITAR, **options: object) -> list[Note]:
    return with_places(notes, find_fingering(notes, instrument, **options))


def spots(notes: list[Note]) -> list[tuple[int | None, int | None]]:
    return [(note.string, note.fret) for note in notes]


def named(notes: list[Note], index: int, *names: str) -> list[Note]:
    techniques = tuple(Technique(name) for name in names)
    return [replace(n, techniques=techniques) if i == index else n for i, n in enumerate(notes)]


def struck(*pitches: int, onset: float = 0.0) -> list[Note]:
    return [Note(i + 1, onset, 0.5, pitch, techniques=(Technique("double_stop"),)) for i, pitch in enumerate(pitches)]


class Harmonics(unittest.TestCase):
    def test_they_are_placed_over_their_nodes_and_nowhere_else(self) -> None:
        self.assertEqual(candidates(69, GUITAR, harmonic=True), [(4, 7), (5, 5)])
        self.assertEqual(candidates(71, GUITAR, harmonic=True), [(2, 12)])
        notes = placed(named(line(62, 69, 74), 1, "harmonic"))
        self.assertIn(spots(notes)[1], [(4, 7), (5, 5)])

    def test_one_that_is_pinned_where_it_is_fretted_stays_there(self) -> None:
        fretted = replace(named(line(83), 0, "harmonic")[0], string=1, fret=19).pinned("place")
        self.assertEqual(spots(placed([fretted])), [(1, 19)])
        self.assertTrue(GUITAR.holds(fretted))
        self.assertFalse(GUITAR.holds(replace(fretted, fret=18)))
        self.assertFalse(GUITAR.holds(replace(fretted, string=7)))

    def test_one_that_no_open_string_has_is_fretted(self) -> None:
        self.assertEqual(candidates(73, GUITAR, harmonic=True), candidates(73, GUITAR))


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

    def test_reach_is_the_published_one(self) -> None:
        # Parncutt et al. 1997, table 1: fingers 2 and 5 lie 6 semitones apart at ease, 8 comfortably, 10 at most;
        # an octave of white keys is 164 to 165 mm.
        self.assertAlmostEqual(REACHES[1, 4].comfort_mm * 12 / 8, 164.4, delta=0.5)
        self.assertEqual(COMFORT_MM, 110)
        for spans in REACHES.values():
            self.assertTrue(spans.ease_mm <= spans.comfort_mm < spans.most_mm)
        # So frets 1 to 5 are uncomfortable for index and little finger, and 5 to 9 are not.
        self.assertGreater(reach_mm(1, 5, 648), COMFORT_MM)
        self.assertLess(reach_mm(5, 9, 648), COMFORT_MM)


class States(unittest.TestCase):
    def test_every_place_of_a_pitch(self) -> None:
        self.assertEqual(candidates(64, GUITAR), [(1, 0), (2, 5), (3, 9), (4, 14), (5, 19)])
        self.assertEqual(candidates(39, GUITAR), [])
        self.assertEqual(candidates(64, replace(GUITAR, capo=2)), [(2, 5), (3, 9), (4, 14), (5, 19)])

    def test_no_state_reaches_further_than_a_hand(self) -> None:
        for pitches in ((41,), (53, 45), (72, 67, 62), (64, 60, 55, 52)):
            rows = rows_for(tuple(wanted(note) for note in struck(*pitches)), GUITAR)
            self.assertGreater(len(rows), 0)
            for frets, fingers, position in zip(rows.frets, rows.fingers, rows.position, strict=True):
                held = {g: f for g, f in zip(fingers.tolist(), frets.tolist(), strict=True) if g}
                for (low, high), spans in REACHES.items():
                    if low in held and high in held:
                        self.assertLessEqual(reach_mm(held[low], held[high], 648), spans.most_mm)
                self.assertTrue(all(-1 <= fret - position <= 5 for fret in held.values()))

    def test_one_finger_holds_one_fret_and_may_bar_it(self) -> None:
        rows = rows_for(tuple(wanted(note) for note in struck(65, 60, 56)), GUITAR)  # F minor at fret 1
        barred = [i for i in range(len(rows)) if set(rows.frets[i]) == {1}]
        self.assertTrue(any(len(set(rows.fingers[i])) == 1 for i in barred))
        for frets, fingers in zip(rows.frets.tolist(), rows.fingers.tolist(), strict=True):
            by_finger: dict[int, set[int]] = {}
            for fret, finger in zip(frets, fingers, strict=True):
                by_finger.setdefault(finger, set()).add(fret)
            self.assertTrue(all(len(held) == 1 for finger, held in by_finger.items() if finger))


class Fingerings(unittest.TestCase):
    def test_phrases_that_players_place(self) -> None:
        free = {p: [replace(n, string=None, fret=None) for n in written_notes(p)] for p in (*PHRASES, *SECOND)}

        def right(keyed: bool, pinned: bool = False) -> float:
            hits = []
            for phrase, notes in free.items():
                truth = written_notes(phrase)
                if pinned:
                    notes = [
                        t.pinned("place") if i % 8 == 3 else n
                        for i, (n, t) in enumerate(zip(notes, truth, strict=True))
                    ]
                found = placed(notes, key=parse_key(phrase.key) if keyed else None)
                hits += [a == b for a, b in zip(spots(found), spots(truth), strict=True)]
            return sum(hits) / len(hits)

        self.assertGreaterEqual(right(keyed=True), 0.90)
        self.assertGreaterEqual(right(keyed=False), 0.85)
        self.assertGreaterEqual(right(keyed=True, pinned=True), 0.97)

    def test_a_box_stays_in_its_box(self) -> None:
        notes = placed(line(69, 72, 74, 76, 79, 81, 79, 76), key=parse_key("A minor"))
        story = tell_hand(notes, GUITAR)
        self.assertEqual(story.shifts, 0)
        self.assertLess(story.reach.mm, 110)

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

    def test_more_notes_at_once_than_strings_are_refused_by_rule(self) -> None:
        notes = [Note(number, 1.0, 0.5, 40 + number) for number in range(40)]
        found = find_fingering(notes[::2] + notes[1::2], Instrument())
        self.assertGreater(sum(place is not None for place in found.places), 0)
        self.assertRegex(" ".join(found.refusals.values()), "one note more than there are strings")
        self.assertEqual(len(found.refusals) + sum(place is not None for place in found.places), 40)

    def test_notes_struck_together_are_one_shape(self) -> None:
        chord = placed(struck(48, 52, 55, 60, 64))  # C major, open
        self.assertEqual(len({note.string for note in chord}), 5)
        self.assertLess(tell_hand(chord, GUITAR).reach.mm, COMFORT_MM)
        octaves = placed([*struck(55, 67), *struck(57, 69, onset=0.4), *struck(60, 72, onset=0.8)])
        for low, high in zip(octaves[::2], octaves[1::2], strict=True):
            self.assertEqual((low.string or 0) - (high.string or 0), 2)
        self.assertEqual(len({note.string for note in octaves}), 2)

    def test_seven_strings_reach_below_six(self) -> None:
        notes = placed(line(33, 36, 38, 40), instrument=SEVEN)
        self.assertEqual([note.string for note in notes][:3], [7] * 3)
        self.assertEqual([note.fret for note in notes][:3], [0, 3, 5])

    def test_what_lies_around_a_phrase_draws_the_hand(self) -> None:
        low, high = (placed(line(64, 67, 69), around=Around(fret)) for fret in (3, 12))
        self.assertLess(max(n.fret or 0 for n in low), 9)
        self.assertGreaterEqual(min(n.fret or 0 for n in high), 9)
        hands = [
            tell_hand(placed(line(67, 69, 67), around=Around(None, fret, fret)), GUITAR).stands[0].position
            for fret in (2, 12)
        ]
        self.assertGreater(hands[1] - hands[0], 4)
        against = np.zeros((3, 6))
        against[:, :3] = 4.0  # the sound speaks against the thin strings
        heard = placed(line(64, 67, 69), around=Around(sounds=against))
        self.assertTrue(all((note.string or 0) > 3 for note in heard))

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

    def test_two_notes_for_one_string_and_hands_that_would_have_to_be_two(self) -> None:
        both = find_fingering([*struck(41, 43), *line(60, start=1.0)], GUITAR)
        self.assertEqual(sum(place is None for place in both.places), 1)
        self.assertRegex(next(iter(both.refusals.values())), "needs string 6, which .* takes at that moment")
        pinned = [replace(n, string=1, fret=n.pitch - 64).pinned("place") for n in struck(66, 68)]
        self.assertRegex(next(iter(find_fingering(pinned, GUITAR).refusals.values())), "needs string 1")
        far = [
            replace(n, string=s, fret=f).pinned("place")
            for n, (s, f) in zip(struck(45, 84), ((6, 5), (1, 20)), strict=True)
        ]
        self.assertRegex(next(iter(find_fingering(far, GUITAR).refusals.values())), "no hand reaches")
        nothing = find_fingering(line(20, 21), GUITAR)
        self.assertEqual((nothing.places, len(nothing.refusals)), ((None, None), 2))
        self.assertEqual(find_alternatives(line(20), GUITAR), [])

    @settings(max_examples=25, deadline=None)
    @given(
        st.lists(st.tuples(st.integers(40, 86), st.sampled_from(["", "slide", "bend"])), min_size=1, max_size=3),
        st.sampled_from(list(placing_schools())),
        st.sampled_from(["F minor", "C major", ""]),
    )
    def test_optimal_as_brute_force(self, what: list[tuple[int, str]], school: str, key: str) -> None:
        notes = line(*(pitch for pitch, _ in what))
        notes = [replace(n, techniques=(Technique(t),) if t else ()) for n, (_, t) in zip(notes, what, strict=True)]
        costs, home = placing_schools()[school].costs, parse_key(key) if key else None
        problem = fingering._pose(notes, GUITAR, costs, home, Around())
        assert problem is not None
        steps = problem.steps(1, len(notes)) if len(notes) > 1 else np.zeros((0, 1, 1))
        best = np.inf
        for own in problem.own:
            total = own[0]  # every path's cost, one axis a note
            for i, step in enumerate(steps, 1):
                total = total[..., :, None] + step + own[i]
            best = min(best, float(total.min()))
        self.assertAlmostEqual(find_fingering(notes, GUITAR, costs, home).cost, best, places=4)

    @given(st.lists(st.integers(41, 85), min_size=1, max_size=30))
    @settings(max_examples=30, deadline=None)
    def test_fingers_lie_under_the_hand(self, pitches: list[int]) -> None:
        for note in placed(line(*pitches)):
            if note.fret == 0:
                self.assertEqual(note.finger, 0)
            else:
                self.assertIn(note.finger, (1, 2, 3, 4))


class Fingers(unittest.TestCase):
    """Fingers are chosen once the places are."""

    A_MINOR = parse_key("A minor")

    def fingers(self, notes: list[Note], costs: Costs | None = None) -> list[tuple[int, int]]:
        found = find_fingering(notes, GUITAR, costs, self.A_MINOR).places
        return [(place.fret, place.finger) for place in found if place is not None]

    def test_three_fingers_unless_a_run_asks_for_the_fourth(self) -> None:
        box = line(72, 69, 67, 64, 62, 60, 57)
        self.assertEqual(self.fingers(box), [(8, 3), (5, 1), (8, 3), (5, 1), (7, 3), (5, 1), (7, 3)])
        run = line(60, 62, 64, 65, 67, 69, 71, 72)
        self.assertIn(4, [finger for _, finger in self.fingers(run)])

    def test_a_finger_a_fret_is_another_row(self) -> None:
        costs = replace(Costs(), ring_at_three=3.0, little_outside_run=0.0)
        self.assertEqual(self.fingers(line(72, 69, 67, 64), costs), [(8, 4), (5, 1), (8, 4), (5, 1)])

    def test_low_on_the_neck_the_ring_finger_reaches_no_three_frets(self) -> None:
        found = find_fingering(line(68, 65, 63, 60, 58), GUITAR, key=parse_key("F minor")).places
        self.assertEqual([(p.fret, p.finger) for p in found if p][:2], [(4, 4), (1, 1)])

    def test_bends_are_the_ring_fingers(self) -> None:
        notes = line(62, 64, 67, 69)
        notes[0] = replace(notes[0], techniques=(Technique("bend", semitones=2.0),))
        self.assertEqual(self.fingers(notes)[0], (7, 3))

    def test_places_do_not_depend_on_fingers(self) -> None:
        notes = line(72, 69, 67, 64, 62, 60, 57, 60, 62)
        a_fret_each = replace(Costs(), ring_at_three=3.0, little_outside_run=0.0)
        two = [find_fingering(notes, GUITAR, costs, self.A_MINOR).places for costs in (Costs(), a_fret_each)]
        places = [[(p.string, p.fret) for p in each if p] for each in two]
        self.assertEqual(places[0], places[1])

    def test_a_pinned_finger_is_kept(self) -> None:
        notes = line(72, 69)
        notes[0] = replace(notes[0], finger=4).pinned("finger")
        self.assertEqual(self.fingers(notes)[0], (8, 4))


class Alternatives(unittest.TestCase):
    def test_they_differ_and_the_first_is_the_best(self) -> None:
        notes = line(69, 72, 74, 76, 79, 76, 74, 72)
        key = parse_key("A minor")
        found = find_alternatives(notes, GUITAR, key=key, count=4)
        self.assertEqual(len(found), 4)
        self.assertEqual(found[0].places, find_fingering(notes, GUITAR, key=key).places)
        costs = [other.cost for other in found]
        self.assertEqual(costs, sorted(costs))
        for a, b in itertools.combinations(found, 2):
            elsewhere = [
                (p.string, p.fret) != (q.string, q.fret) for p, q in zip(a.places, b.places, strict=True) if p and q
            ]
            self.assertGreaterEqual(sum(elsewhere) / len(elsewhere), 0.3)

    def test_pins_bind_them_all(self) -> None:
        notes = line(69, 72, 74, 76)
        notes[0] = replace(notes[0], string=3, fret=14).pinned("place")
        for other in find_alternatives(notes, GUITAR):
            assert other.places[0] is not None
            self.assertEqual((other.places[0].string, other.places[0].fret), (3, 14))


class Schools(unittest.TestCase):
    RUN = line(48, 50, 52, 53, 55, 57, 59, 60, 62, 64, 65, 67)

    def test_schools_place_differently(self) -> None:
        notes = line(64, 65, 67, 69, 71, 72, 74, 76)
        by = {name: placed(notes, costs=school.costs) for name, school in placing_schools().items()}
        self.assertEqual(len({n.string for n in by["along-one-string"]}), 1)
        self.assertEqual(tell_hand(by["one-position"], GUITAR).shifts, 0)
        opened = placed(line(64, 59, 55), costs=placing_schools()["open-strings"].costs)
        self.assertEqual([n.fret for n in opened], [0, 0, 0])

    def test_three_a_string(self) -> None:
        notes = placed(self.RUN, costs=placing_schools()["three-a-string"].costs)
        counts = [len(list(group)) for _, group in itertools.groupby(n.string for n in notes)]
        self.assertEqual(counts, [3, 3, 3, 3])

    def test_fewest_shifts_shifts_least(self) -> None:
        wide = line(45, 48, 52, 57, 60, 64, 69, 72, 76, 81, 76, 72)
        shifts = {n: tell_hand(placed(wide, costs=s.costs), GUITAR).shifts for n, s in placing_schools().items()}
        self.assertEqual(shifts["fewest-shifts"], min(shifts.values()))
        self.assertGreater(shifts["along-one-string"], shifts["fewest-shifts"])

    def test_root_cell_takes_its_own_four_notes(self) -> None:
        notes = placed(
            line(69, 72, 74, 72, 69, 67, 69), costs=placing_schools()["root-cell"].costs, key=parse_key("A minor")
        )
        self.assertEqual(spots(notes)[:3], [(2, 10), (1, 8), (1, 10)])

    def test_every_school_has_a_creed(self) -> None:
        self.assertEqual(len(placing_schools()), 7)
        for name, school in placing_schools().items():
            self.assertEqual(school.name, name)
            self.assertTrue(school.creed.endswith("."))
        self.assertEqual(placing_schools()["key-and-position"].costs, Costs())


class Story(unittest.TestCase):
    def test_stands_shifts_and_reach(self) -> None:
        notes = line(64, 68, 76, 79)
        where = [(2, 5, 1), (2, 9, 4), (1, 12, 1), (1, 15, 4)]
        notes = [replace(n, string=s, fret=f, finger=g) for n, (s, f, g) in zip(notes, where, strict=True)]
        story = tell_hand(notes, GUITAR)
        self.assertEqual([stand.position for stand in story.stands], [5, 12])
        self.assertEqual(story.shifts, 1)
        self.assertEqual((story.reach.fingers, story.reach.fret), ((1, 4), 5))
        self.assertAlmostEqual(story.reach.mm, reach_mm(5, 9, 648))
        self.assertEqual(price_words(story), "one shift, 5th to 12th; widest reach 100 mm between 1 and 4 at fret 5")

    def test_barres_and_open_notes_have_their_price(self) -> None:
        chord = [replace(n, string=s, fret=5, finger=1) for n, s in zip(struck(64, 69), (2, 1), strict=True)]
        story = tell_hand([*chord, replace(line(55, start=1.0)[0], string=3, fret=0, finger=0)], GUITAR)
        self.assertEqual(price_words(story), "one position, 5th; one barre; one open note")
        self.assertEqual(price_words(tell_hand(line(60), GUITAR)), "nothing placed")

    def test_nothing_placed_is_no_story(self) -> None:
        story = tell_hand(line(60, 62), GUITAR)
        self.assertEqual((story.stands, story.shifts), ((), 0))
