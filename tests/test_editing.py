"""Notes, techniques, places and phrases changed by their keys, without a window."""

import unittest
from dataclasses import replace

from eager_owl.session import editing
from eager_owl.solo.document import PINS
from eager_owl.solo.edits import delete_notes
from eager_owl.solo.techniques import TECHNIQUES
from tests.sessions import SessionCase


class Notes(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.press("Esc")
        self.press("Right")

    def test_walking_extending_selecting_all(self) -> None:
        notes = self.opened.notes
        self.assertEqual(self.chosen, (notes[0].id,))
        self.press("Shift+Right")
        self.assertEqual(self.chosen, tuple(n.id for n in notes[:2]))
        self.press("Left")
        self.press("Ctrl+A")
        self.assertEqual(len(self.chosen), len(notes))
        self.press("Esc")
        self.assertEqual(self.chosen, ())

    def test_pins_and_fingers(self) -> None:
        note = self.chosen[0]
        self.press("P")
        self.assertEqual(self.solo.note(note).pins, frozenset(PINS))
        self.press("P")
        self.assertEqual(self.solo.note(note).pins, frozenset())
        self.press("3")
        self.assertEqual((self.solo.note(note).finger, self.solo.note(note).pins), (3, frozenset({"finger"})))

    def test_timing_by_keys(self) -> None:
        before = self.solo.note(self.chosen[0])
        self.press("Alt+Left")
        self.press("Alt+Shift+Right")
        after = self.solo.note(self.chosen[0])
        self.assertAlmostEqual(after.onset, before.onset - 0.01)
        self.assertAlmostEqual(after.end, before.end + 0.01)

    def test_add_split_join_delete(self) -> None:
        count = len(self.solo.notes)
        self.opened.move_cursor(self.solo.note(self.chosen[0]).onset + 0.2)
        self.press("S")
        self.assertEqual(len(self.solo.notes), count + 1)
        self.press("Shift+Right")
        self.press("J")
        self.assertEqual(len(self.solo.notes), count)
        self.press("A")
        self.assertEqual(len(self.solo.notes), count + 1)
        self.press("Del")
        self.assertEqual(len(self.solo.notes), count)

    def test_every_technique_key(self) -> None:
        note = self.chosen[0]
        for name in TECHNIQUES:
            before = self.solo.note(note).technique(name)
            self.run_command(f"technique_{name}")
            after = self.solo.note(note).technique(name)
            self.assertNotEqual(before is None, after is None, name)

    def test_doubts_worst_first(self) -> None:
        ids = [n.id for n in self.opened.notes]
        worse = {ids[3]: 0.4, ids[1]: 0.7}
        notes = tuple(replace(n, confidence=worse.get(n.id, n.confidence)) for n in self.solo.notes)
        self.opened.do("test", lambda solo: replace(solo, notes=notes))
        self.press("D")
        self.assertEqual(self.chosen, (ids[3],))
        self.press("D")
        self.assertEqual(self.chosen, (ids[1],))
        self.press("P")
        self.press("D")
        self.assertEqual(self.chosen, (ids[3],))

    def test_taking_the_other_reading(self) -> None:
        note = self.solo.note(self.chosen[0])
        self.press("E")
        taken = self.solo.note(note.id)
        self.assertEqual(taken.pitch, note.runners_up[0][0])
        self.assertIn("pitch", taken.pins)

    def test_what_cannot_be_done_is_told_and_changes_nothing(self) -> None:
        self.press("Esc")
        before = self.solo
        for key in ("Up", "J", "S", "M", "B"):
            self.said.clear()
            self.press(key)
            self.assertNotEqual(self.notice, "", key)
        self.assertEqual(self.solo, before)

    def test_schools_by_key(self) -> None:
        reason, placing = self.solo.reason_school, self.solo.placing_school
        self.press("R")
        self.assertNotEqual(self.solo.reason_school, reason)
        self.press("N")
        self.assertNotEqual(self.solo.placing_school, placing)


class Phrases(SessionCase):
    def test_how_far_a_phrase_has_come(self) -> None:
        self.phrase(3)
        for keys, stage in (("Ctrl+Shift+R", "reasoned"), ("Shift+P", "proved"), ("Ctrl+Shift+P", "learned")):
            self.press(keys)
            self.assertEqual(self.solo.phrases[3].stage, stage)
        self.press("Shift+P")  # not proved, after all
        self.assertEqual(self.solo.phrases[3].stage, "reasoned")
        for _ in range(4):
            self.press("Ctrl+Z")
        self.assertEqual(self.solo.phrases[3].stage, "to hear")

    def test_a_stretch_by_keys(self) -> None:
        self.press("W")
        self.assertIsNone(self.opened.view.phrase)
        self.opened.move_cursor(2.0)
        self.press("[")
        self.opened.move_cursor(4.0)
        self.press("]")
        self.assertEqual(self.opened.view.span, (2.0, 4.0))
        self.press("M")
        self.assertIn("overlaps the phrase “Pickup”", self.notice)

    def setUp(self) -> None:
        super().setUp()
        self.demo()

    def test_split_merge_nudge_name(self) -> None:
        index = self.opened.view.phrase
        phrase = self.solo.phrases[index]
        self.opened.move_cursor((phrase.start + phrase.end) / 2)
        self.press("X")
        self.assertEqual(len(self.solo.phrases), 8)
        self.press("Y")
        self.assertEqual(self.solo.phrases[index], phrase)
        self.press("Ctrl+Right")
        self.press("Ctrl+Shift+Left")
        self.assertAlmostEqual(self.solo.phrases[index].start, phrase.start + 0.05)
        self.assertAlmostEqual(self.solo.phrases[index].end, phrase.end - 0.05)
        self.dialogs.words = "Reply"
        self.press("F2")
        self.assertEqual(self.solo.phrases[index].name, "Reply")

    def test_cancelling_leaves_all_as_it_was(self) -> None:
        self.press("PgDown")
        before = self.solo
        self.session.run(self.session.commands["hear"])
        self.session.run(self.session.commands["stop_work"])
        self.finish()
        self.assertEqual(self.solo, before)
        self.assertFalse(self.session.jobs.busy)

    def test_edits_made_while_hearing_are_kept(self) -> None:
        self.press("PgDown")
        self.session.run(self.session.commands["hear"])
        self.opened.do("title", lambda solo: replace(solo, title="Renamed"))
        self.finish()
        self.assertEqual(self.solo.title, "Renamed")
        self.assertGreater(len(self.opened.notes), 5)


class Stale(SessionCase):
    """A button may be pressed an instant after what it was about has gone."""

    def test_a_note_that_is_gone_is_told(self) -> None:
        self.demo()
        gone = self.opened.notes[0].id
        self.edit(lambda solo: delete_notes(solo, [gone]))
        before = self.solo
        editing.set_string(self.session, gone, 1)
        self.assertIs(self.solo, before)
        self.assertIn("not there any more", self.notice)

    def test_a_phrase_that_is_not_chosen_is_asked_for(self) -> None:
        self.demo()
        self.opened.look_at_phrase(None)
        before = self.solo
        for act in (editing.reached("reasoned"), editing.rename_phrase, editing.delete_phrase):
            act(self.session)
            self.assertIn("choose a phrase first", self.notice)
        self.assertIs(self.solo, before)


if __name__ == "__main__":
    unittest.main()
