"""Remarks: typed at one key of whatever is looked at, walked, kept through hearing, taken away."""

import unittest
from dataclasses import replace

from eager_owl.session import remarking
from eager_owl.solo.document import MIN_NOTE_S, Note, Phrase, Remark, Solo, with_notes
from eager_owl.solo.edits import join_notes, lay_detection, split_note
from eager_owl.solo.phrase_edits import merge_with_next, split_phrase
from eager_owl.solo.remarks import add_remark, as_remark, remarks_of, remove_remark
from tests.sessions import SessionCase
from tests.support import line


class Edits(unittest.TestCase):
    def setUp(self) -> None:
        self.solo = replace(with_notes(Solo(), line(65, 67, 69, 70)), phrases=(Phrase(0, 1.1, "One"),))

    def said(self, solo: Solo) -> list[str]:
        return [remarked.words for remarked in remarks_of(solo)]

    def test_a_remark_is_of_a_note_a_stretch_a_phrase_or_the_solo(self) -> None:
        solo = add_remark(self.solo, "thumb", solo_notes(self.solo, 1))
        self.assertEqual(solo.notes[1].remarks, (Remark("thumb"),))
        solo = add_remark(solo, "rushed", solo_notes(solo, 2, 3))
        self.assertEqual(solo.remarks[0].span, (solo.notes[2].onset, solo.notes[3].end))
        solo = add_remark(solo, " late\n night ", phrase=0)
        self.assertEqual(solo.phrases[0].remarks, (Remark("late night"),))
        solo = add_remark(solo, "third take?")
        self.assertEqual(self.said(solo), ["? third take?", "late night", "thumb", "rushed"])
        for remarked in remarks_of(solo):
            solo = remove_remark(solo, remarked)
        self.assertEqual(solo, self.solo)

    def test_empty_and_endless_ones_are_refused(self) -> None:
        for text in ("", "  \n", "x" * 3000):
            with self.assertRaises(ValueError):
                as_remark(text)

    def test_hearing_again_keeps_what_is_remarked(self) -> None:
        solo = add_remark(self.solo, "here", solo_notes(self.solo, 1))
        again = [replace(note, onset=note.onset + 0.01, string=3, fret=5) for note in line(65, 68, 69)]
        heard = lay_detection(solo, 0, again)
        kept = next(note for note in heard.notes if note.remarks)
        self.assertEqual((kept.pitch, kept.onset, kept.string), (68, again[1].onset, 3))
        self.assertTrue(any(note.remarks for note in lay_detection(solo, 0, []).notes))

    def test_cutting_and_joining_keep_them(self) -> None:
        solo = add_remark(add_remark(self.solo, "a", solo_notes(self.solo, 0)), "b", solo_notes(self.solo, 1))
        joined = join_notes(solo, [solo.notes[0].id, solo.notes[1].id])
        self.assertEqual([remark.text for remark in joined.notes[0].remarks], ["a", "b"])
        parts = split_note(solo, solo.notes[0].id, solo.notes[0].onset + 2 * MIN_NOTE_S).notes[:2]
        self.assertEqual([len(part.remarks) for part in parts], [1, 0])
        halves = split_phrase(add_remark(solo, "p", phrase=0), 0, 0.5)
        self.assertEqual([len(phrase.remarks) for phrase in halves.phrases], [1, 0])
        self.assertEqual(len(merge_with_next(halves, 0).phrases[0].remarks), 1)


def solo_notes(solo: Solo, *indices: int) -> list[Note]:
    return [solo.notes[index] for index in indices]


def bare(solo: Solo) -> Solo:
    for remarked in remarks_of(solo):
        solo = remove_remark(solo, remarked)
    return solo


class Walking(SessionCase):
    def test_from_one_to_the_next_in_time(self) -> None:
        self.demo()
        self.opened.do("bare", bare)
        self.press("Ctrl+J")
        self.assertRegex(self.notice, "no remarks yet")
        first, last = self.solo.notes[1], self.solo.notes[-1]
        self.opened.select([last.id])
        self.assertTrue(remarking.remark(self.session, "last word"))
        self.opened.look_at_phrase(0)
        self.opened.select([first.id])
        self.assertEqual(remarking.remark_target(self.opened), "note 2 of “Pickup”")
        remarking.remark(self.session, "which string?")
        self.opened.select([])
        self.assertEqual(remarking.remark_target(self.opened), "the phrase “Pickup”")
        self.opened.set_span((5.0, 5.5))
        self.assertEqual(remarking.remark_target(self.opened), "the chosen stretch")
        remarking.remark(self.session, "a stretch")
        self.opened.set_span(None)
        self.opened.move_cursor(0.0)
        seen = []
        for _ in range(4):
            self.press("Ctrl+J")
            seen.append((self.notice, self.opened.view.phrase))
        self.assertEqual(seen, [("? which string?", 0), ("a stretch", 1), ("last word", 2), ("? which string?", 0)])
        self.assertEqual(self.opened.view.selection, (first.id,))
        remarking.remove(self.session, remarks_of(self.solo)[0])
        self.assertEqual(len(remarks_of(self.solo)), 2)
        self.press("Ctrl+Z")
        self.assertEqual(len(remarks_of(self.solo)), 3)
        self.press("W")
        self.assertEqual(remarking.remark_target(self.opened), "the whole solo")
