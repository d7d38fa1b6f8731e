import json
import os
import unittest
from dataclasses import replace
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from eager_owl.solo import edits, phrase_edits, store
from eager_owl.solo.document import Instrument, Note, Phrase, Solo
from eager_owl.solo.edits import EditError
from eager_owl.solo.techniques import Technique
from tests.support import FolderCase, line


def solo(*pitches: int) -> Solo:
    notes = [replace(n, contour_cents=(0,) * 22, level_db=(-20,) * 22) for n in line(*pitches)]
    return Solo(phrases=(Phrase(0.0, 10.0, "One"),), notes=tuple(notes))


class NoteEdits(unittest.TestCase):
    def test_pitch_moves_fret_and_contour_and_pins(self) -> None:
        before = edits.set_place(solo(67, 70), 1, 3)
        after = edits.change_pitch(before, [1], 1)
        note = after.note(1)
        self.assertEqual((note.pitch, note.string, note.fret), (68, 3, 13))
        self.assertLessEqual({"pitch", "place"}, note.pins)
        self.assertEqual(note.contour_cents[0], -100)
        self.assertEqual(after.note(2), before.note(2))

    def test_pitch_off_the_neck_is_refused(self) -> None:
        with self.assertRaisesRegex(EditError, "off this neck"):
            edits.change_pitch(solo(40), [1], -1)

    def test_string_moves_skip_strings_that_cannot_sound_it(self) -> None:
        moved = edits.move_string(edits.set_place(solo(64), 1, 1), [1], 1)
        self.assertEqual((moved.note(1).string, moved.note(1).fret), (2, 5))
        with self.assertRaisesRegex(EditError, "thinner"):
            edits.move_string(edits.set_place(solo(64), 1, 1), [1], -1)

    def test_toggling_a_technique_twice_gives_back_the_note_pinned(self) -> None:
        once = edits.toggle_technique(solo(60), [1], "bend")
        self.assertIsNotNone(once.note(1).bend)
        twice = edits.toggle_technique(once, [1], "bend")
        self.assertEqual(twice.note(1).techniques, ())
        self.assertIn("techniques", twice.note(1).pins)

    def test_a_contour_is_kept_an_octave_off_and_given_up_where_it_is_of_another_sound(self) -> None:
        self.assertEqual(edits.change_pitch(solo(60), [1], 12).notes[0].contour_cents[0], 0)
        self.assertEqual(edits.change_pitch(solo(60), [1], -3).notes[0].contour_cents[0], 300)
        self.assertEqual(edits.change_pitch(solo(50), [1], 20).notes[0].contour_cents, ())

    def test_timing_keeps_the_contour_at_its_instant(self) -> None:
        ramp = replace(solo(60).notes[0], contour_cents=tuple(range(22)))
        start = Solo(notes=(ramp,))
        cut = edits.set_timing(start, 1, 0.05, 0.15).note(1)
        self.assertEqual(cut.contour_cents, tuple(range(5, 15)))
        with self.assertRaisesRegex(EditError, "20 ms"):
            edits.set_timing(start, 1, 0.1, 0.11)

    def test_split_and_join(self) -> None:
        parts = edits.split_note(solo(60, 62), 1, 0.1)
        self.assertEqual(len(parts.notes), 3)
        self.assertAlmostEqual(parts.notes[0].end, parts.notes[1].onset)
        joined = edits.join_notes(parts, [parts.notes[0].id, parts.notes[1].id])
        self.assertEqual(len(joined.notes), 2)
        self.assertAlmostEqual(joined.notes[0].end, solo(60).notes[0].end)
        with self.assertRaisesRegex(EditError, "two notes"):
            edits.join_notes(parts, [1])
        with self.assertRaisesRegex(EditError, "inside the note"):
            edits.split_note(parts, 2, 9.0)

    def test_joining_different_pitches_keeps_what_was_heard(self) -> None:
        joined = edits.join_notes(solo(60, 62), [1, 2]).note(1)
        self.assertEqual(joined.contour_cents[-1], 200)

    def test_pins_toggle(self) -> None:
        pinned = edits.toggle_pins(solo(60), [1])
        self.assertEqual(len(pinned.note(1).pins), 5)
        self.assertEqual(edits.toggle_pins(pinned, [1]).note(1).pins, frozenset())


class PhraseEdits(unittest.TestCase):
    def test_mark_split_merge_name_nudge_delete(self) -> None:
        marked = phrase_edits.mark_phrase(Solo(), 1.0, 3.0)
        self.assertEqual(marked.phrases[0].name, "Phrase 1")
        halves = phrase_edits.split_phrase(marked, 0, 2.0)
        self.assertEqual([(p.start, p.end) for p in halves.phrases], [(1.0, 2.0), (2.0, 3.0)])
        self.assertEqual(phrase_edits.merge_with_next(halves, 0).phrases[0].end, 3.0)
        self.assertEqual(phrase_edits.rename_phrase(halves, 1, " Answer ").phrases[1].name, "Answer")
        nudged = phrase_edits.nudge_phrase(halves, 0, -0.5, 0.5)
        self.assertEqual((nudged.phrases[0].start, nudged.phrases[0].end), (0.5, 2.0))
        self.assertEqual(len(phrase_edits.delete_phrase(halves, 0).phrases), 1)

    def test_what_cannot_be_done_is_said(self) -> None:
        marked = phrase_edits.mark_phrase(Solo(), 1.0, 3.0, "One")
        for wrong, reason in (
            (lambda: phrase_edits.mark_phrase(marked, 2.0, 4.0), "overlaps the phrase “One”"),
            (lambda: phrase_edits.mark_phrase(marked, 5.0, 5.01), "tenth of a second"),
            (lambda: phrase_edits.split_phrase(marked, 0, 9.0), "inside the phrase"),
            (lambda: phrase_edits.merge_with_next(marked, 0), "no later phrase"),
            (lambda: phrase_edits.rename_phrase(marked, 0, " "), "needs a name"),
        ):
            with self.assertRaisesRegex(EditError, reason):
                wrong()


class Detections(unittest.TestCase):
    """What the player fixed is never overwritten."""

    def test_unpinned_notes_are_replaced(self) -> None:
        laid = edits.lay_detection(solo(60, 62), 0, line(65))
        self.assertEqual([n.pitch for n in laid.notes], [65])
        self.assertEqual(laid.phrases[0].stage, "heard")

    def test_a_pinned_pitch_stays_and_takes_the_rest(self) -> None:
        pinned = edits.change_pitch(solo(60, 62), [1], 1)
        new = [replace(n, loudness_db=-3.0, techniques=(Technique("vibrato"),)) for n in line(60, 62)]
        note = edits.lay_detection(pinned, 0, new).note(1)
        self.assertEqual((note.pitch, note.loudness_db), (61, -3.0))
        self.assertTrue(note.technique("vibrato"))

    def test_pinned_timing_techniques_and_added_notes_stay(self) -> None:
        fixed = edits.set_timing(solo(60, 62), 1, 0.02, 0.3)
        fixed = edits.toggle_technique(fixed, [2], "ghost")
        fixed = edits.add_note(fixed, 5.0, 0.2, 70)
        laid = edits.lay_detection(fixed, 0, line(60, 62))
        self.assertEqual((laid.note(1).onset, round(laid.note(1).end, 6)), (0.02, 0.3))
        self.assertTrue(laid.note(2).technique("ghost"))
        self.assertEqual(laid.notes[-1].pitch, 70)

    def test_what_was_thrown_out_does_not_come_back(self) -> None:
        thrown = edits.delete_notes(solo(60, 62), [2])
        laid = edits.lay_detection(thrown, 0, line(60, 62))
        self.assertEqual([n.pitch for n in laid.notes], [60])

    @given(st.lists(st.tuples(st.integers(45, 80), st.integers(0, 40)), max_size=12), st.integers(0, 3))
    def test_every_pinned_pitch_survives_any_detection(self, found: list[tuple[int, int]], which: int) -> None:
        start = edits.change_pitch(solo(60, 62, 64, 65), [which + 1], 2)
        kept = start.note(which + 1)
        new = [Note(i + 1, t / 20, 0.05, p) for i, (p, t) in enumerate(sorted(found, key=lambda f: f[1]))]
        laid = edits.lay_detection(start, 0, new)
        self.assertEqual(laid.note(kept.id).pitch, kept.pitch)
        self.assertEqual(len({n.id for n in laid.notes}), len(laid.notes))


class Guitars(unittest.TestCase):
    def test_limits(self) -> None:
        for wrong in ({"tuning": (64,)}, {"frets": 60}, {"capo": 22}, {"tuning": (200, 59, 55, 50)}):
            with self.assertRaises(ValueError):
                Instrument(**wrong)

    def test_capo_raises_the_lowest_note(self) -> None:
        guitar = Instrument(capo=3)
        self.assertIsNone(guitar.fret_of(6, 42))
        self.assertTrue(guitar.is_open(guitar.fret_of(6, 43)))

    def test_a_harmonic_is_at_the_fret_over_its_node(self) -> None:
        guitar, capoed = Instrument(), Instrument(capo=2)
        self.assertEqual([guitar.fret_of(4, 50 + over, True) for over in (12, 19, 24, 5)], [12, 7, 5, 5])
        self.assertEqual([guitar.pitch_at(4, fret, True) for fret in (12, 7, 5, 3)], [62, 69, 74, 53])
        self.assertEqual((capoed.fret_of(4, 52 + 19, True), capoed.pitch_at(4, 9, True)), (9, 71))

    def test_a_note_that_becomes_a_harmonic_keeps_its_pitch_or_the_place_that_was_pinned(self) -> None:
        heard = edits.toggle_technique(solo(69), [1], "harmonic")
        self.assertEqual(heard.note(1).pitch, 69)
        touched = edits.set_place(heard, 1, 4)
        self.assertEqual((touched.note(1).string, touched.note(1).fret), (4, 7))
        written = edits.set_place(solo(57), 1, 4)  # fret 7, as it was written
        touched = edits.toggle_technique(written, [1], "harmonic")
        self.assertEqual((touched.note(1).fret, touched.note(1).pitch), (7, 69))
        self.assertEqual(edits.toggle_technique(touched, [1], "harmonic").note(1).pitch, 57)


class Keeping(FolderCase):
    def test_round_trip_keeps_everything(self) -> None:
        path = self.folder / "a.owl.json"
        before = edits.toggle_technique(edits.toggle_pins(solo(60, 62), [1]), [2], "bend")
        store.save(before, path)
        self.assertEqual(store.load(path), before)

    def test_the_previous_copy_stays(self) -> None:
        path = self.folder / "a.owl.json"
        store.save(solo(60), path)
        store.save(solo(62), path)
        self.assertEqual(store.load(self.folder / "a.owl.json~"), solo(60))

    def test_a_failed_save_leaves_the_old_file_and_no_rubbish(self) -> None:
        path = self.folder / "a.owl.json"
        store.save(solo(60), path)
        for broken in ("os.fsync", "os.replace"):
            with (
                mock.patch(broken, side_effect=OSError(28, "No space left on device")),
                self.assertRaisesRegex(store.DocumentError, "No space left"),
            ):
                store.save(solo(62), path)
            self.assertEqual(store.load(path), solo(60))
        self.assertEqual([p.name for p in self.folder.iterdir() if ".part" in p.name], [])

    def test_broken_and_foreign_files(self) -> None:
        good = json.loads(store.to_json(solo(60)))
        cases = {
            "": "not JSON at line 1",
            "{": "not JSON",
            "[]": "not an Eager Owl solo",
            '{"format": "something"}': "not an Eager Owl solo",
            json.dumps({**good, "version": 99}): "newer Eager Owl",
            json.dumps({**good, "version": "x"}): "no version",
            json.dumps({**good, "notes": [{"id": 1}]}): "damaged at notes › 0",
            json.dumps({**good, "instrument": {"tuning": [1]}}): "damaged at instrument",
        }
        for text, reason in cases.items():
            with self.assertRaisesRegex(store.DocumentError, reason):
                store.from_json(text, "x.owl.json")
        binary = self.folder / "b.owl.json"
        binary.write_bytes(os.urandom(64) + b"\xff")
        with self.assertRaisesRegex(store.DocumentError, "not text"):
            store.load(binary)
        with self.assertRaisesRegex(store.DocumentError, "No such file"):
            store.load(self.folder / "none.owl.json")
