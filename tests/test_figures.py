"""Figures that come back, and loud and soft in words."""

import unittest
from dataclasses import replace

from eager_owl.session.hearing import carry_note, returns_in
from eager_owl.solo.document import Note, Phrase, Solo, with_notes
from eager_owl.solo.dynamics import dynamics_words
from eager_owl.solo.figures import find_returns, return_words, twins_of
from eager_owl.solo.techniques import Technique
from eager_owl.theory.interval import step_words
from tests.support import line

FIGURE = (65, 68, 70, 72, 70)


def twice(second: tuple[int, ...], between: tuple[int, ...] = (60, 61)) -> list[Note]:
    return line(*FIGURE, *between, *second)


class Returns(unittest.TestCase):
    def only(self, notes: list[Note]) -> str:
        found = find_returns(notes[: len(FIGURE)], notes)
        self.assertEqual(len(found), 1)
        return return_words(found[0], notes)

    def test_the_same_figure(self) -> None:
        self.assertEqual(self.only(twice(FIGURE)), "the same figure")

    def test_higher_or_lower(self) -> None:
        self.assertEqual(self.only(twice(tuple(p + 2 for p in FIGURE))), "again, a whole step up")
        self.assertEqual(self.only(twice(tuple(p - 12 for p in FIGURE))), "again, an octave down")

    def test_one_note_changed_is_named(self) -> None:
        self.assertEqual(self.only(twice((65, 68, 70, 73, 70))), "the same figure, top note changed")
        self.assertEqual(self.only(twice((65, 68, 70, 72, 65))), "the same figure, last note changed")
        self.assertEqual(self.only(twice((65, 68, 71, 72, 70))), "the same figure, note 3 changed")

    def test_two_changed_or_another_rhythm_is_another_figure(self) -> None:
        self.assertEqual(find_returns(line(*FIGURE), twice((65, 69, 70, 73, 70))), [])
        slow = [replace(note, onset=note.onset * (2 if note.id > 7 else 1)) for note in twice(FIGURE)]
        self.assertEqual(find_returns(slow[:5], slow), [])

    def test_it_can_come_back_more_than_once(self) -> None:
        notes = line(*FIGURE, 60, *FIGURE, 61, *FIGURE)
        found = find_returns(notes[:5], notes)
        self.assertEqual(len(found), 2)
        self.assertEqual(twins_of(2, found), {8: 0, 14: 0})

    def test_a_correction_is_carried_and_pinned(self) -> None:
        notes = twice(tuple(p + 2 for p in FIGURE))
        phrases = (Phrase(0.0, 1.24, "One"), Phrase(1.24, 3.5, "Two"))
        solo = with_notes(Solo(phrases=phrases), notes)
        bent = replace(solo.notes[3], pitch=73, techniques=(Technique("vibrato"),))
        solo = with_notes(solo, [bent if note.id == 4 else note for note in solo.notes])
        self.assertEqual(len(returns_in(solo, phrases[0])), 1)
        carried = carry_note(solo, 4).note(11)
        self.assertEqual((carried.pitch, carried.techniques), (75, bent.techniques))
        self.assertTrue({"pitch", "techniques"} <= carried.pins)
        self.assertIsNotNone(carried.string)

    def test_a_note_without_repeat_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "nowhere"):
            carry_note(with_notes(Solo(), line(60, 62)), 1)


class Words(unittest.TestCase):
    def test_steps(self) -> None:
        said = {0: "at the same pitch", -1: "a half step down", 5: "a fourth up", 12: "an octave up"}
        said |= {-14: "an octave and a whole step down", 24: "2 octaves up"}
        for semitones, words in said.items():
            self.assertEqual(step_words(semitones), words)

    def shape(self, *levels: float) -> str:
        notes = [replace(n, loudness_db=db) for n, db in zip(line(*[60] * len(levels)), levels, strict=True)]
        return dynamics_words(notes, -5.0)

    def test_shapes(self) -> None:
        self.assertEqual(self.shape(-6, -7, -6, -6), "even, loud")
        self.assertEqual(self.shape(-5, -6, -12, -18, -22, -23), "fades from loud to almost nothing")
        self.assertEqual(self.shape(-20, -18, -12, -8, -6, -6), "swells from soft to loud")
        self.assertEqual(self.shape(-16, -16, -6, -6, -16, -16), "swells and falls back")
        self.assertEqual(self.shape(-6, -6, -16, -16, -6, -6), "falls back and swells again")
        self.assertEqual(self.shape(-8, -8, -17, -8, -8, -17, -8, -8, -17), "accents among softer notes")
        self.assertEqual(self.shape(-6), "loud")
        self.assertEqual(dynamics_words([], 0.0), "silent")


if __name__ == "__main__":
    unittest.main()
