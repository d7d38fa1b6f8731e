"""Shapes under the hand, picking, cautions, carrying a phrase elsewhere, and what the sound says of strings."""

import itertools
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from eager_owl.hearing.stiffness import string_stiffness
from eager_owl.neck import picking
from eager_owl.neck.cautions import PAIN_WORDS, Limits, find_cautions, rest_words
from eager_owl.neck.fingering import find_fingering, with_places
from eager_owl.neck.moving import move_phrase
from eager_owl.neck.picking import STYLES, awkward_crossings, find_sweeps, propose_picking
from eager_owl.neck.shapes import arpeggio_name, pentatonic_box, position_name, root_cells, shape_words
from eager_owl.neck.strings_heard import calibrate, sounds_elsewhere, string_shares
from eager_owl.solo.document import Instrument, Note
from eager_owl.solo.techniques import Technique
from eager_owl.solo.tunings import TUNINGS, tuning_name
from eager_owl.sound.string import play_notes
from tests.support import line

GUITAR = Instrument()


def at(*places: tuple[int, int], finger: int | None = None, beat_s: float = 0.2) -> list[Note]:
    """Notes in a line at (string, fret)."""
    notes = line(*(GUITAR.tuning[string - 1] + fret for string, fret in places), beat_s=beat_s)
    return [replace(n, string=s, fret=f, finger=finger) for n, (s, f) in zip(notes, places, strict=True)]


class Shapes(unittest.TestCase):
    def test_positions_have_ordinals(self) -> None:
        names = [position_name(fret).split()[0] for fret in (1, 2, 3, 4, 11, 12, 21)]
        self.assertEqual(names, ["1st", "2nd", "3rd", "4th", "11th", "12th", "21st"])

    def test_the_first_box_of_a_minor_stands_at_the_fifth_fret(self) -> None:
        box = {spot for spot in pentatonic_box(9, 1, GUITAR) if 5 <= spot[1] <= 8}
        self.assertEqual(box, {(s, 5) for s in range(1, 7)} | {(1, 8), (2, 8), (3, 7), (4, 7), (5, 7), (6, 8)})

    def test_the_root_cell_and_its_octaves(self) -> None:
        cells = dict(root_cells(9, GUITAR))
        self.assertEqual(cells[2, 10], {(2, 8), (2, 10), (1, 8), (1, 10)})
        self.assertEqual(cells[4, 7], {(4, 5), (4, 7), (3, 5), (3, 7)})

    def test_shapes_are_named_by_what_lies_in_them(self) -> None:
        box = at((4, 7), (3, 5), (3, 7), (2, 5), (2, 8), (1, 5))
        self.assertEqual(shape_words(box, 9, GUITAR), "box 1 of A minor pentatonic")
        cell = at((2, 10), (1, 8), (1, 10), (2, 8))
        self.assertEqual(shape_words(cell, 9, GUITAR), "root cell of A at fret 10")
        below = at((4, 7), (3, 5), (3, 7), (4, 5))
        self.assertEqual(
            shape_words(below, 9, GUITAR, cell), "root cell of A at fret 7, an octave down from the one at fret 10"
        )
        self.assertEqual(shape_words(cell, 9, GUITAR, cell), "root cell of A at fret 10")
        self.assertEqual(shape_words(at((4, 7), (3, 5), (2, 5), (1, 5)), 9, GUITAR), "Am arpeggio")
        self.assertEqual(shape_words(at((1, 1), (1, 2), (1, 3)), 9, GUITAR), "")
        self.assertEqual(shape_words(at((1, 5), (1, 8)), 9, GUITAR), "")
        chord = [replace(note, onset=0.0) for note in at((4, 7), (3, 5), (2, 5), (1, 5))]
        self.assertEqual(shape_words(chord, 9, GUITAR), "Am chord")
        self.assertEqual(arpeggio_name([60, 63, 66, 70]), "Cm7b5")

    def test_tunings_have_names(self) -> None:
        self.assertEqual(tuning_name(GUITAR.tuning), "standard")
        self.assertEqual(tuning_name((64, 59)), "E4 B3")
        for tuning in TUNINGS.values():
            self.assertTrue(5 <= len(tuning) <= 8)
            Instrument(tuning)


class Picking(unittest.TestCase):
    def test_alternate_turns_by_turn_and_legato_is_not_struck(self) -> None:
        notes = at((2, 5), (2, 6), (2, 8), (2, 6), (2, 5))
        notes[2] = replace(notes[2], techniques=(Technique("hammer_on"),))
        self.assertEqual(propose_picking(notes, "alternate"), ["down", "up", None, "down", "up"])

    def test_economy_sweeps_on_and_alternate_does_not(self) -> None:
        arpeggio = at((4, 7), (3, 5), (2, 5), (1, 5), beat_s=0.12)
        self.assertEqual(propose_picking(arpeggio, "economy"), ["down"] * 4)
        self.assertIn("up", propose_picking(arpeggio, "alternate"))
        back = at((1, 5), (2, 5), (3, 5), (4, 7), beat_s=0.12)
        self.assertEqual(propose_picking(back, "economy"), ["up"] * 4)

    def test_hybrid_takes_a_finger_over_a_skip(self) -> None:
        skips = at((5, 7), (2, 8), (5, 7), (2, 8), beat_s=0.15)
        self.assertIn("middle", propose_picking(skips, "hybrid"))
        self.assertNotIn("middle", propose_picking(skips, "economy"))

    def test_bare_fingers_take_a_string_each_and_turn_by_turn_on_one(self) -> None:
        notes = at((5, 7), (3, 7), (2, 8), (1, 7), (2, 8), (2, 8), (2, 8), (6, 5), (6, 5))
        told = ["thumb", "index", "middle", "ring", "middle", "index", "middle", "thumb", "thumb"]
        self.assertEqual(propose_picking(notes, "fingers"), told)
        notes[1] = replace(notes[1], stroke="ring")
        self.assertEqual(propose_picking(notes, "fingers")[1], "ring")

    def test_three_strings_in_one_move_are_a_sweep(self) -> None:
        arpeggio = at((4, 7), (3, 5), (2, 5), (1, 5), beat_s=0.12)
        self.assertEqual(find_sweeps(arpeggio, ["down"] * 4), [(0, 1, 2, 3)])
        self.assertEqual(find_sweeps(arpeggio, ["down", "up", "down", "up"]), [])
        slow = at((4, 7), (3, 5), (2, 5), (1, 5), beat_s=0.6)
        self.assertEqual(find_sweeps(slow, ["down"] * 4), [])
        skipping = at((6, 7), (4, 5), (2, 5), beat_s=0.12)
        self.assertEqual(find_sweeps(skipping, ["down"] * 3), [])

    def test_beats_lead_and_the_players_stroke_is_kept(self) -> None:
        notes = at((2, 5), (2, 6), (2, 8), (2, 6))
        self.assertEqual(propose_picking(notes, "alternate", [0.5, 1.0, 1.5, 2.0])[0], "up")
        notes[0] = replace(notes[0], stroke="up")
        self.assertEqual(propose_picking(notes, "alternate")[:2], ["up", "down"])

    def test_awkward_crossings_are_inside_turns_and_skips(self) -> None:
        notes = at((3, 5), (2, 5), beat_s=0.15)
        self.assertEqual(awkward_crossings(notes, ["up", "down"]), [1])  # inside
        self.assertEqual(awkward_crossings(notes, ["down", "up"]), [])  # outside
        self.assertEqual(awkward_crossings(at((5, 5), (2, 5), beat_s=0.15), ["down", "up"]), [1])
        self.assertEqual(awkward_crossings(at((5, 5), (2, 5), beat_s=0.6), ["down", "up"]), [])

    @given(
        st.lists(st.integers(1, 6), min_size=1, max_size=6),
        st.sampled_from([name for name, style in STYLES.items() if not style.bare]),
    )
    @settings(max_examples=25, deadline=None)
    def test_no_sequence_is_cheaper(self, strings: list[int], style: str) -> None:
        notes, costs = at(*((string, 5) for string in strings), beat_s=0.15), STYLES[style]

        def price(ways: tuple[str, ...]) -> float:
            total = 0.1 * (ways[0] == "up")
            for i, (note, way) in enumerate(zip(notes, ways, strict=True)):
                total += picking._own_cost(way, note, costs, None)
                total += picking._turn_cost(notes[i - 1], ways[i - 1], note, way, costs) if i else 0.0
            return total

        least = min(price(ways) for ways in itertools.product(("down", "up", "middle"), repeat=len(notes)))
        self.assertAlmostEqual(price(tuple(propose_picking(notes, style))), least)


class Cautions(unittest.TestCase):
    def test_a_wide_reach_is_told_with_its_millimetres(self) -> None:
        notes = at((3, 1), (3, 5))
        notes = [replace(notes[0], finger=1), replace(notes[1], finger=4)]
        told = find_cautions(notes, GUITAR, Limits())
        self.assertRegex(told[0].words, "^126 mm between fingers 1 and 4 at fret 1, over your 110")
        self.assertEqual(told[0].note_ids, (1, 2))
        self.assertEqual(find_cautions(notes, GUITAR, Limits(reach_mm=130)), [])

    def test_bends_long_heavy_and_low(self) -> None:
        bend = (Technique("bend", semitones=2.0),)
        thick = [replace(n, techniques=bend, finger=3, duration=0.8) for n in at((4, 7), (5, 7), beat_s=1.0)]
        words = " ".join(caution.words for caution in find_cautions(thick, GUITAR, Limits()))
        self.assertRegex(words, "of bending in a minute")
        self.assertRegex(words, "2 bends on a wound string")
        low = [replace(n, techniques=bend, finger=3) for n in at((2, 3), (2, 1), (2, 1), (2, 1), beat_s=3.0)][:1]
        self.assertIn("near the nut", " ".join(c.words for c in find_cautions(low, GUITAR, Limits())))

    def test_the_little_finger_tires(self) -> None:
        told = find_cautions(at(*[(1, 8)] * 8, finger=4), GUITAR, Limits())
        self.assertRegex(told[0].words, "8 of 8 notes fall to the little finger")

    def test_a_rest_is_due_after_the_players_own_bound(self) -> None:
        self.assertEqual(rest_words(600, Limits(rest_min=11)), "")
        self.assertIn(PAIN_WORDS, rest_words(600, Limits(rest_min=10)))
        for wrong in ({"reach_mm": 10}, {"bend_s": 0}, {"rest_min": 0.5}):
            with self.assertRaises(ValueError):
                Limits(**wrong)


class Moving(unittest.TestCase):
    def phrase(self) -> list[Note]:
        notes = line(48, 53, 57, 60, 64)
        return with_places(notes, find_fingering(notes, GUITAR))

    def test_an_octave_up_the_reach_is_less(self) -> None:
        notes = [replace(n, finger=g) for n, g in zip(at((3, 1), (3, 5)), (1, 4), strict=True)]
        pinned = [replace(n, pitch=n.pitch) for n in notes]
        moved = move_phrase(pinned, GUITAR, 12)
        self.assertTrue(any("the reach of 126 mm here is" in words for words in moved.words), moved.words)
        self.assertEqual([n.pitch for n in moved.notes], [n.pitch + 12 for n in notes])

    def test_open_strings_are_lost_and_what_is_off_the_neck_is_told(self) -> None:
        opened = at((1, 0), (2, 0), (3, 0), finger=0)
        moved = move_phrase(opened, GUITAR, 1)
        self.assertTrue(any("open notes have to be stopped" in words for words in moved.words), moved.words)
        gone = move_phrase(opened, GUITAR, 24)
        self.assertEqual(len(gone.refusals), 1)
        self.assertIn("1 note can't be played there", gone.words)

    def test_a_string_set_and_a_fret_are_kept_to(self) -> None:
        notes = self.phrase()
        thin = move_phrase(notes, GUITAR, 12, strings={1, 2, 3})
        self.assertTrue(all(n.string in (1, 2, 3) for n in thin.notes))
        low = move_phrase(notes, GUITAR, strings={1})
        self.assertTrue(low.refusals)
        high = move_phrase(line(64, 67, 69), GUITAR, from_fret=12)
        self.assertGreaterEqual(min(n.fret or 0 for n in high.notes), 9)

    def test_a_shape_is_kept_up_the_neck_and_across(self) -> None:
        shape = [replace(n, finger=g) for n, g in zip(at((4, 7), (3, 5), (2, 5)), (3, 1, 1), strict=True)]
        up = move_phrase(shape, GUITAR, 3, keep_shape=True)
        self.assertEqual([(n.string, n.fret, n.finger) for n in up.notes], [(4, 10, 3), (3, 8, 1), (2, 8, 1)])
        across = move_phrase(shape, GUITAR, -5, strings={3, 4, 5}, keep_shape=True)
        self.assertEqual([n.string for n in across.notes], [5, 4, 3])
        self.assertEqual([n.finger for n in across.notes], [3, 1, 1])
        self.assertEqual([n.pitch for n in across.notes], [n.pitch - 5 for n in shape])

    def test_what_a_shape_cannot_reach_is_told(self) -> None:
        opened = [*at((1, 0), finger=0), *at((1, 20), finger=1)]
        moved = move_phrase(opened, GUITAR, 3, keep_shape=True)
        self.assertEqual(set(moved.refusals), {0, 1})

    def test_pins_hold_only_where_nothing_moves(self) -> None:
        notes = [replace(line(64)[0], string=4, fret=14).pinned("place")]
        self.assertEqual(move_phrase(notes, GUITAR).notes[0].string, 4)
        self.assertNotIn("place", move_phrase(notes, GUITAR, 2).notes[0].pins)


class StringsHeard(unittest.TestCase):
    RATE = 44100

    def tone(self, midi: float, stiffness: float) -> np.ndarray:
        hz = 440 * 2 ** ((midi - 69) / 12)
        time = np.arange(round(0.7 * self.RATE)) / self.RATE
        partials = range(1, 20)
        noise = 1e-3 * np.random.default_rng(0).standard_normal(len(time))
        wave = [np.sin(2 * np.pi * k * hz * np.sqrt(1 + stiffness * k * k) * time) / k for k in partials]
        return (0.2 * np.exp(-time) * np.sum(wave, axis=0) + noise).astype(np.float32)

    def test_stiffness_is_measured(self) -> None:
        for midi, stiffness in ((45, 6e-5), (57, 1e-4), (64, 3e-4)):
            found = string_stiffness(self.tone(midi, stiffness), self.RATE, midi + 0.1)
            assert found is not None
            self.assertLess(abs(np.log(found / stiffness)), 0.1, (midi, stiffness))

    def test_nothing_is_said_of_what_is_short_or_noise(self) -> None:
        self.assertIsNone(string_stiffness(self.tone(57, 1e-4)[:6000], self.RATE, 57))
        noise = np.random.default_rng(1).standard_normal(self.RATE).astype(np.float32)
        self.assertIsNone(string_stiffness(noise, self.RATE, 57))

    def test_a_few_pinned_notes_tell_the_strings_apart(self) -> None:
        # The same pitches on the plain third and the wound fourth string, from the synthesiser and measured back.
        def heard(string: int, fret: int) -> Note:
            note = replace(line(GUITAR.tuning[string - 1] + fret, beat_s=1.0)[0], string=string, fret=fret)
            sound = play_notes([note], self.RATE, 1.0)
            return replace(note, stiffness=string_stiffness(sound, self.RATE, note.pitch))

        known = [heard(string, fret).pinned("place") for string in (3, 4) for fret in (2, 4)]
        self.assertTrue(all(note.stiffness for note in known))
        calibration = calibrate(known)
        self.assertTrue(calibration.enough)
        for string, fret in ((3, 5), (4, 10), (4, 12), (3, 7)):
            note = heard(string, fret)
            against = sounds_elsewhere([note], GUITAR, calibration)
            assert against is not None
            shares = string_shares(against[0], (3, 4))
            self.assertEqual(max(shares, key=lambda s: shares[s]), string)

    def test_without_a_calibration_the_sound_says_nothing(self) -> None:
        self.assertIsNone(sounds_elsewhere(line(64), GUITAR, calibrate(line(64))))
