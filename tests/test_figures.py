"""Figures that come back, and loud and soft in words."""

import unittest
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

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


def longest_run(notes: Sequence[Note], sources: set[int], i: int, j: int) -> tuple[int, int | None]:
    """As it is defined: how far notes i and j on go alike, and which one note is changed."""
    gaps = [max(b.onset - a.onset, 0.03) for a, b in pairwise(notes)]
    moved = notes[j].pitch - notes[i].pitch
    changed, length = None, 1
    while length < min(abs(j - i), len(notes) - max(i, j)) and notes[i + length].id in sources:
        one, other = gaps[i + length - 1], gaps[j + length - 1]
        if one > 1.35 * other or other > 1.35 * one:
            break
        if notes[j + length].pitch - notes[i + length].pitch != moved:
            if changed is not None:
                break
            changed = length
        length += 1
    return length, changed


class AnyLine(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.sampled_from((60, 62, 63)), st.sampled_from((0.1, 0.13, 0.2))), max_size=24),
        st.integers(0, 24),
        st.integers(0, 24),
    )
    def test_returns_are_the_longest_runs_that_do_not_overlap(
        self, played: list[tuple[int, float]], first: int, last: int
    ) -> None:
        onset, notes = 0.0, []
        for number, (pitch, gap) in enumerate(played):
            notes.append(Note(number, onset, 0.1, pitch))
            onset += gap
        source = notes[first:last]
        sources = {note.id for note in source}
        found = []
        for i, note in enumerate(notes):
            for j in range(len(notes)) if note.id in sources else ():
                length, changed = longest_run(notes, sources, i, j)
                if abs(i - j) >= 4 and length >= 4 and not (changed == length - 1 and length == 4):
                    found.append((-length, changed is not None, i, j, changed))
        expected, taken = [], set[int]()
        for short, _, i, j, changed in sorted(found, key=lambda run: run[:4]):
            if taken.isdisjoint(range(j, j - short)):
                taken |= set(range(j, j - short))
                expected.append((i, j, -short, changed))
        returns = find_returns(source, notes)
        self.assertEqual([(r.first[0], r.again[0], len(r.first), r.changed) for r in returns], expected)

    def test_an_ostinato_is_read_as_a_whole(self) -> None:
        notes = line(*(60, 63, 65, 63) * 200)
        (halves,) = find_returns(notes, notes)[:1]
        self.assertEqual((len(halves.first), halves.semitones, halves.changed), (400, 0, None))


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
