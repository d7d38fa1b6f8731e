"""A solo without a recording, typed by string and fret, and what it sounds like."""

from dataclasses import replace
from fractions import Fraction

from eager_owl.session.writing import VALUES
from eager_owl.solo.document import Solo
from tests.sessions import SessionCase


class Typed(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.press("Ctrl+Shift+N")
        self.writing = self.session.writing

    def type(self, *digits: int) -> None:
        for digit in digits:
            self.writing.digit(digit)
        self.finish()

    def rows(self) -> list[tuple[int | None, int | None, float, float]]:
        return [(n.string, n.fret, round(n.onset, 3), round(n.duration, 3)) for n in self.solo.notes]

    def test_frets_strings_and_values(self) -> None:
        self.assertTrue(self.writing.on)
        self.assertIsNone(self.solo.recording)
        self.type(8)
        self.writing.step(1)
        self.writing.move_string(-1)
        self.type(1, 1)
        self.writing.value(2)
        self.writing.step(1)
        self.type(6)
        self.assertEqual(self.rows(), [(2, 8, 0.0, 0.25), (1, 11, 0.25, 0.5), (1, 6, 0.75, 0.5)])
        self.assertEqual(self.writing.value_words, "quarter")
        self.assertTrue(all(note.finger for note in self.solo.notes))
        self.assertEqual(self.solo.phrases[0].stage, "placed")
        self.assertTrue(self.session.player.playing)  # each note is heard
        here = self.opened.view.cursor
        self.session.player.moved.emit(1.3)
        self.assertEqual(self.opened.view.cursor, here)  # and writing stays where it is

    def test_a_digit_too_many_begins_anew_and_a_chord_is_typed_over_its_strings(self) -> None:
        self.type(2, 3)
        self.assertEqual([note.fret for note in self.solo.notes], [3])
        self.writing.move_string(1)
        self.type(5)
        self.assertEqual(self.rows(), [(3, 5, 0.0, 0.25), (2, 3, 0.0, 0.25)])

    def test_techniques_by_their_keys_and_taking_back(self) -> None:
        self.type(8)
        self.press("B")
        self.assertIsNotNone(self.solo.notes[0].bend)
        self.writing.erase()
        self.assertEqual(self.solo.notes, ())
        self.press("Ctrl+Z")
        self.assertEqual(len(self.solo.notes), 1)
        self.writing.step(1)
        before = self.opened.view.cursor
        self.writing.erase()  # nothing there: back
        self.assertLess(self.opened.view.cursor, before)

    def test_a_string_sounds_one_note_at_a_time(self) -> None:
        self.writing.value(6)  # a whole note
        self.type(5)
        self.opened.move_cursor(0.5)
        self.writing.value(-6)
        self.type(7)
        self.assertEqual(self.rows()[0][3], 0.5)

    def test_the_phrase_grows_with_what_is_written(self) -> None:
        end = self.solo.phrases[0].end
        self.opened.move_cursor(end - 0.25)
        self.writing.step(1)
        self.type(3)
        self.assertGreater(self.solo.phrases[0].end, end)
        self.assertTrue(self.solo.phrases[0].holds(self.solo.notes[0].onset))

    def test_what_is_off_the_neck_is_told(self) -> None:
        self.opened.do("capo", lambda solo: with_capo(solo, 3))
        self.type(1)
        self.assertRegex(self.notice, "behind the capo")
        self.assertEqual(self.solo.notes, ())

    def test_it_is_played_saved_and_shown_on_the_page(self) -> None:
        self.press("Space")
        self.assertRegex(self.notice, "no sound to play")
        for fret in (5, 8, 7):
            self.type(fret)
            self.writing.step(1)
        self.session.player.stop()
        self.press("Space")
        self.assertTrue(self.session.player.playing)
        self.dialogs.file = self.folder / "mine.owl.json"
        self.press("Ctrl+S")
        self.assertFalse(self.opened.dirty)
        self.assertEqual(len(self.session.sheets.laid().pages), 1)

    def test_writing_begins_and_ends_by_one_key_and_gives_a_beat(self) -> None:
        self.press("Ctrl+K")
        self.assertFalse(self.writing.on)
        self.opened.do("no beat", lambda solo: replace(solo, grid=None))
        self.press("Ctrl+K")
        self.assertIsNotNone(self.solo.grid)
        self.assertRegex(self.notice, "no beat")
        self.writing.stop()
        self.writing.stop()
        self.assertFalse(self.writing.on)

    def test_triplets_and_swing_are_typed_where_they_are_played(self) -> None:
        while dict(VALUES)[self.writing.value_words] != Fraction(1, 3):
            self.writing.value(-1)
        for fret in (5, 6, 7):
            self.type(fret)
            self.writing.step(1)
        self.assertEqual([round(note.onset * 6) for note in self.solo.notes], [0, 1, 2])
        score = self.opened.answers.score
        assert score is not None
        self.assertTrue(all(event.value.triplet for event in score.measures[0].voices[0][:3]))


def with_capo(solo: Solo, capo: int) -> Solo:
    return replace(solo, instrument=replace(solo.instrument, capo=capo))
