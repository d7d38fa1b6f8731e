"""The hand is learned from what its player puts right, kept, used, and forgotten."""

import json
import unittest
from dataclasses import replace

from benchmarks.phrases import FOURTH, GUITAR, PHRASES, written_notes
from benchmarks.places import lifted
from benchmarks.players import PLAYERS, corrected, wrong_notes

from eager_owl.neck.costs import Costs
from eager_owl.neck.fingering import find_fingering
from eager_owl.neck.preference import FINGERS, Hand, Lesson, lean, leaning_words, learn, traits
from eager_owl.session.players_hand import hand_file
from eager_owl.theory.key import parse_key
from tests.sessions import SessionCase
from tests.support import line

BOXES = [(parse_key(p.key), written_notes(p)) for p in (*PHRASES[:12], *FOURTH)]


def lessons_of(player: str, phrases: range) -> list[Lesson]:
    return [Lesson(tuple(corrected(BOXES[i][1], BOXES[i][0], PLAYERS[player])), GUITAR, BOXES[i][0]) for i in phrases]


class Learning(unittest.TestCase):
    def test_nothing_is_learned_from_nothing_or_from_what_was_right(self) -> None:
        self.assertEqual(learn([]), {})
        right = [Lesson(tuple(corrected(n, k, Costs())), GUITAR, k) for k, n in BOXES[:4]]
        self.assertEqual(learn(right), {})

    def test_one_phrase_alone_teaches_nothing(self) -> None:
        self.assertEqual(learn(lessons_of("low on the neck", range(1, 2))), {})

    def test_habits_are_told_and_carry_over(self) -> None:
        for player, words in (
            ("low on the neck", "low"),
            ("never the little finger", "seldom use the little finger"),
        ):
            with self.subTest(player):
                leaning = learn(lessons_of(player, range(12)))
                self.assertIn(words, leaning_words(leaning))
                learned = lean(Costs(), leaning)
                rest = [(key, corrected(notes, key, PLAYERS[player])) for key, notes in BOXES[12:]]
                by_table = sum(wrong_notes(notes, key, Costs()) for key, notes in rest)
                self.assertLess(sum(wrong_notes(notes, key, learned) for key, notes in rest), 0.6 * by_table)

    def test_it_stops_when_asked(self) -> None:
        self.assertEqual(learn(lessons_of("low on the neck", range(6)), cancelled=lambda: True), {})

    def test_leaning_is_bounded_and_what_is_unknown_is_passed_over(self) -> None:
        far = lean(Costs(), {"low": 50.0, "of another version": 1.0})
        self.assertEqual(far, lean(Costs(), {"low": 1.0}))
        self.assertEqual(lean(Costs(), {}), Costs())
        self.assertEqual(leaning_words({"of another version": 1.0}), "")
        for name, trait in traits().items():
            self.assertTrue(trait.words and (trait.other or trait.least == 0.0), name)

    def test_a_finger_a_fret(self) -> None:
        notes = lifted(line(72, 69, 67, 64))
        for fingers, finger in zip(FINGERS, (3, 4), strict=True):
            places = find_fingering(notes, GUITAR, Hand(fingers).costs(Costs()), parse_key("A minor")).places
            self.assertEqual(next(p.finger for p in places if p), finger)


class InASession(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.opened.look_at_phrase(0)

    def put_right(self) -> None:
        """A note of the phrase that can be is moved to another string, with its finger named."""
        for note in self.opened.notes:
            self.opened.select([note.id])
            self.press("Shift+Down")
            if self.opened.solo.note(note.id).string != note.string:
                self.press("1")
                return
        self.fail("no note could be moved")

    def test_what_is_put_right_is_a_lesson_once_the_hand_rests(self) -> None:
        hand = self.session.hand
        self.assertIn("Nothing is known", hand.words)
        self.put_right()
        self.assertEqual(hand.lessons, {})
        self.clock.advance(10.0)
        self.finish()
        (lesson,) = hand.lessons.values()
        self.assertEqual(len(lesson.notes), len(self.opened.notes))
        self.assertIn(1, [note.finger for note in lesson.notes])
        self.assertIn("From 1 phrase: your hand goes as most do.", hand.words)
        content = json.loads(hand_file().read_text("utf-8"))
        self.assertEqual((content["format"], len(content["lessons"])), ("eager-owl/hand", 1))

    def test_it_is_read_again_turned_off_and_forgotten(self) -> None:
        self.put_right()
        self.clock.advance(10.0)
        self.finish()
        content = json.loads(hand_file().read_text("utf-8"))
        hand_file().write_text(json.dumps(content | {"leaning": {"low": 1.0}}), "utf-8")
        later = self.new_session()
        self.assertEqual(later.hand.now.leaning, (("low", 1.0),))
        self.assertIn("you go low on the neck", later.hand.words)
        later.run(later.commands["toggle_hand"])
        self.assertEqual(later.hand.now, Hand())
        self.assertIn("not used now", later.hand.words)
        later.run(later.commands["forget_hand"])
        self.assertIn("Nothing is known", later.hand.words)
        self.assertEqual(self.new_session().hand.lessons, {})

    def test_a_damaged_file_stops_nothing(self) -> None:
        hand_file().parent.mkdir(parents=True, exist_ok=True)
        for damaged in ("{", "[]", '{"format": "eager-owl/hand", "version": 1}', '{"format": 1}'):
            hand_file().write_text(damaged, "utf-8")
            self.assertEqual(self.new_session().hand.lessons, {})

    def test_places_are_proposed_for_the_hand(self) -> None:
        def fingers() -> list[int | None]:
            title = f"{self.solo.title} again"
            ids = [note.id for note in self.solo.notes]
            self.opened.do("again", lambda solo: replace(solo, title=title), place=ids)
            self.finish()
            return [note.finger for note in self.solo.notes]

        three = fingers().count(4)
        self.press("Alt+F")
        self.assertEqual(self.opened.hand.fingers, "a finger a fret")
        self.assertGreater(fingers().count(4), three)

    def test_a_pitch_that_is_put_right_is_no_lesson(self) -> None:
        self.opened.select([self.opened.notes[0].id])
        self.press("Up")
        self.clock.advance(10.0)
        self.finish()
        self.assertEqual(self.session.hand.lessons, {})

    def test_what_was_put_right_is_kept_when_the_solo_is_left(self) -> None:
        self.put_right()
        self.session.keeping.open_demo()
        self.assertEqual(len(self.new_session().hand.lessons), 1)

    def test_what_another_window_learned_meanwhile_stays(self) -> None:
        self.put_right()
        self.clock.advance(10.0)
        self.finish()
        content = json.loads(hand_file().read_text("utf-8"))
        theirs = content["lessons"][0] | {"phrase": "learned in another window"}
        hand_file().write_text(json.dumps(content | {"lessons": [*content["lessons"], theirs]}), "utf-8")
        self.opened.look_at_phrase(1)
        self.put_right()
        self.clock.advance(10.0)
        self.finish()
        self.assertEqual(len(self.session.hand.lessons), 3)
        self.assertIn(theirs["phrase"], self.new_session().hand.lessons)

    def test_what_another_window_forgot_meanwhile_is_not_used(self) -> None:
        self.put_right()
        self.clock.advance(10.0)
        content = json.loads(hand_file().read_text("utf-8"))
        self.assertEqual(len(content["lessons"]), 1)
        hand_file().write_text(json.dumps(content | {"lessons": [], "leaning": {}}), "utf-8")
        self.finish()
        self.assertEqual((self.session.hand.lessons, self.session.hand.now), ({}, Hand()))

    def test_a_file_that_is_damaged_meanwhile_loses_nothing_known(self) -> None:
        self.put_right()
        self.clock.advance(10.0)
        hand_file().write_text("{", "utf-8")
        self.finish()
        self.assertEqual(len(self.new_session().hand.lessons), 1)
