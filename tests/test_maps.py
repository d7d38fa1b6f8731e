"""Maps of the neck: scales by position, along a string, arpeggios and grips; and walking through them by keys."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from eager_owl.neck.hand import COMFORT_MM, reach_mm
from eager_owl.neck.maps import grip_maps, nearest, scale_maps, string_maps
from eager_owl.neck.shapes import pentatonic_box
from eager_owl.solo.document import Instrument
from eager_owl.solo.tunings import TUNINGS
from eager_owl.theory.chord import parse_chord
from eager_owl.theory.scale import SCALES
from tests.sessions import SessionCase

GUITAR = Instrument()
A = 9


class Maps(unittest.TestCase):
    def test_a_pentatonic_lies_in_its_five_boxes(self) -> None:
        maps = scale_maps(A, SCALES["minor pentatonic"].degrees, GUITAR)
        first = next(each for each in maps if each.fret == 5)
        self.assertEqual(set(first.spots), {spot for spot in pentatonic_box(A, 1, GUITAR) if spot[1] < 12})
        self.assertEqual(first.roots, {(6, 5), (4, 7), (1, 5)})
        self.assertEqual([each.fret for each in maps[:6]], [1, 2, 5, 7, 9, 12])

    def test_the_blue_note_lies_in_the_pentatonics_box(self) -> None:
        blues = next(m for m in scale_maps(A, SCALES["blues"].degrees, GUITAR) if m.fret == 5)
        plain = next(m for m in scale_maps(A, SCALES["minor pentatonic"].degrees, GUITAR) if m.fret == 5)
        self.assertEqual({spot for spot in blues.spots if spot not in plain.spots}, {(3, 8), (5, 6)})

    def test_modes_lie_three_a_string(self) -> None:
        for each in scale_maps(A, SCALES["Dorian"].degrees, GUITAR):
            for string in range(1, 7):
                self.assertEqual(sum(s == string for s, _ in each.spots), 3)

    @given(st.sampled_from(sorted(SCALES)), st.integers(0, 11), st.sampled_from(sorted(TUNINGS)))
    @settings(max_examples=30, deadline=None)
    def test_every_spot_is_a_tone_and_on_the_neck(self, name: str, root: int, tuning: str) -> None:
        guitar = Instrument(TUNINGS[tuning], 2)
        degrees = SCALES[name].degrees
        for each in (*scale_maps(root, degrees, guitar), *string_maps(root, degrees, guitar)):
            for (string, fret), label in each.spots.items():
                self.assertTrue(guitar.capo <= fret <= guitar.frets)
                self.assertEqual(degrees[(guitar.tuning[string - 1] + fret - root) % 12], label)

    @given(st.sampled_from(["Am7", "D", "G7", "Gm7b5", "Cmaj7", "Fdim7", "E7#9"]))
    @settings(max_examples=7, deadline=None)
    def test_grips_are_whole_and_within_reach(self, symbol: str) -> None:
        chord = parse_chord(symbol)
        grips = grip_maps(chord.root, chord.degrees, GUITAR)
        self.assertGreater(len(grips), 4)
        for grip in grips:
            frets = [fret for _, fret in grip.spots]
            self.assertLessEqual(reach_mm(min(frets), max(frets), GUITAR.scale_mm), COMFORT_MM)
            self.assertEqual(len(set(grip.spots.values())), len(grip.spots))
            thirds_and_sevenths = {n for n in chord.degrees.values() if n.lstrip("b#") in ("3", "7")}
            self.assertTrue(thirds_and_sevenths <= set(grip.spots.values()))

    def test_the_nearest_holds_what_is_played(self) -> None:
        maps = scale_maps(A, SCALES["minor pentatonic"].degrees, GUITAR)
        self.assertEqual(maps[nearest(maps, 5)].fret, 5)
        self.assertEqual(maps[nearest(maps, 5, [(1, 15), (2, 15), (3, 14)])].fret, 12)
        self.assertEqual(nearest([], 5), 0)


class InASession(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.opened.look_at_phrase(1)

    def test_keys_walk_through_kinds_and_positions(self) -> None:
        maps = self.session.maps
        self.assertIsNone(maps.look()[0])
        seen = []
        for _ in range(20):
            self.press("Alt+M")
            if maps.look()[0] is None:
                break
            seen.append(maps.look()[1])
        self.assertIn("no map on the neck", self.said)
        told = " ".join(seen)
        for words in ("F minor pentatonic, position", "F blues", "grips", "arpeggio", "along one string"):
            self.assertIn(words, told)
        self.press("Alt+Up")  # without a map it shows the first
        first = maps.look()[0]
        self.press("Alt+Up")
        self.assertNotEqual(maps.look()[0], first)
        self.press("Alt+Down")
        self.assertEqual(maps.look()[0], first)

    def test_it_goes_where_the_phrase_is(self) -> None:
        self.press("Alt+M")
        here = self.session.maps.look()[0]
        assert here is not None
        played = [(n.string, n.fret) for n in self.opened.notes]
        self.assertGreater(sum(spot in here.spots for spot in played), 0)

    def test_without_key_and_chart_there_is_none(self) -> None:
        from dataclasses import replace

        self.opened.do("bare", lambda solo: replace(solo, key_text="", chart_text=""))
        self.finish()
        self.press("Alt+M")
        self.assertEqual(self.session.maps.look()[1], "")
