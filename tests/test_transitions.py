"""What leads from one plateau to the next, how it is told, and how the player says that it was otherwise."""

import unittest
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.articulation import measure_techniques, other_manners
from eager_owl.hearing.frames import Frames, measure_frames
from eager_owl.hearing.judge import judge_candidates
from eager_owl.hearing.pitch_track import PitchTrack
from eager_owl.hearing.plateaus import Plateau
from eager_owl.hearing.salience import find_candidates, measure_spectra
from eager_owl.hearing.segment import RawNote, find_notes
from eager_owl.hearing.transitions import (
    OUTCOMES,
    Beliefs,
    Junction,
    Outcome,
    describe_junction,
    gather_evidence,
    judge_junction,
    likeliest,
    possible,
)
from eager_owl.neck.measures import surely
from eager_owl.notation.questions import questions_text
from eager_owl.session.editing import take_manner as take_other_manner
from eager_owl.session.facts import other_reading
from eager_owl.solo.document import Note, Solo, change_notes
from eager_owl.solo.edits import take_manner
from eager_owl.solo.techniques import Technique
from tests.sessions import SessionCase
from tests.support import RATE, line, tone

NONE = np.array([], dtype=np.intp)


def junction(to: float, bent: float = 0.0, legato: bool = False, attack: int | None = None) -> Junction:
    last = Plateau(10, 40, 60.0 + bent)
    return Junction(10, 60.0, legato, last, Plateau(45, 90, to), None, attack)


def cut(
    contour: NDArray[np.float64], outcome: Outcome | Callable[[], Outcome], attacks: NDArray[np.intp] = NONE
) -> list[RawNote]:
    """The notes of a contour, each of whose junctions has this outcome, or the next of them."""
    count = len(contour)
    candidates = contour[:, None]
    clear = np.ones((count, 1))
    frames = Frames(candidates, clear, clear, np.full(count, -20.0), np.full(count, 2.0), np.zeros((count, 0), "f4"))

    def decide(_contour: NDArray[np.float64], _at: Junction) -> Beliefs:
        return {outcome() if callable(outcome) else outcome: 1.0}

    return find_notes(frames, PitchTrack(contour, np.ones(count)), attacks, decide)


class Outcomes(unittest.TestCase):
    step = np.repeat([60.0, 62.0], 60)
    sound = tone(step.repeat(128))
    spectra = measure_spectra(sound, RATE)
    frames = measure_frames(sound, RATE)
    found = find_candidates(spectra)
    evidence = gather_evidence(frames, spectra, found, judge_candidates(spectra, found, "alone"), NONE)

    def test_all_ways_of_another_note_together_speak_against_a_bend(self) -> None:
        self.assertEqual(
            likeliest({"struck": 0.3, "legato": 0.25, "slide": 0.0, "bent": 0.45, "let_down": 0.0}), "struck"
        )
        self.assertEqual(
            likeliest({"struck": 0.4, "legato": 0.0, "slide": 0.05, "bent": 0.45, "let_down": 0.1}), "bent"
        )
        self.assertEqual(likeliest({"struck": 0.4, "legato": 0.6}), "legato")

    def test_a_slip_to_another_pitch_is_no_bend(self) -> None:
        plateaus = [Plateau(0, 40, 60.0), Plateau(44, 80, 62.0), Plateau(84, 120, 72.0)]
        contour = np.concatenate([np.full(42, 60.0), np.full(40, 62.0), np.full(38, 72.0)])
        techniques, fretted = measure_techniques(RawNote(0, 120, 60.0, "attack", 1.0, plateaus), contour)
        self.assertEqual([(t.name, t.semitones) for t in techniques], [("bend", 2.0)])
        self.assertEqual(fretted, 60.0)

    def test_each_makes_of_a_step_what_it_is(self) -> None:
        outcomes: tuple[tuple[Outcome, list[str]], ...] = (
            ("struck", ["attack", "attack"]), ("legato", ["attack", "hammer_on"]), ("slide", ["attack", "slide"]),
            ("bent", ["attack"]), ("let_down", ["attack"]),
        )  # fmt: skip
        for outcome, arrivals in outcomes:
            with self.subTest(outcome):
                notes = cut(self.step, outcome)
                self.assertEqual([note.arrival for note in notes], arrivals)
                self.assertEqual(round(notes[-1].midi), 60 if outcome == "bent" else 62)

    def test_downwards_it_is_pulled_off(self) -> None:
        self.assertEqual([note.arrival for note in cut(self.step[::-1], "legato")], ["attack", "pull_off"])

    def test_an_attack_that_was_none_leaves_the_note_whole(self) -> None:
        attacks = np.array([1, 60])
        self.assertEqual(len(cut(np.full(120, 60.0), "bent", attacks)), 1)
        self.assertEqual(len(cut(np.full(120, 60.0), "struck", attacks)), 2)

    def test_a_slide_comes_from_where_it_began_not_from_a_fret_on_the_way(self) -> None:
        contour = np.concatenate([np.full(60, 60.0), np.full(6, 63.0), np.full(60, 64.0)])
        outcomes = iter(("bent", "slide"))
        before, reached = cut(contour, lambda: next(outcomes))
        techniques, _ = measure_techniques(reached, contour)
        self.assertEqual([(t.name, t.semitones) for t in techniques], [("slide", 4.0)])
        self.assertEqual(([round(p.midi) for p in before.plateaus], before.inner), ([60], []))
        # What was stood on is a bend that the slide leaves.
        outcomes = iter(("bent", "slide"))
        bent, _ = cut(np.repeat([60.0, 63.0, 64.0], (60, 30, 60)), lambda: next(outcomes))
        self.assertEqual([round(p.midi) for p in bent.plateaus], [60, 63])

    def test_what_no_hand_can_do_is_not_believed(self) -> None:
        for case, impossible in (
            (junction(60.1, attack=44), {"legato", "slide", "let_down"}),
            (junction(67.0), {"bent", "let_down"}),
            (junction(72.0), {"legato", "bent", "let_down"}),
            (junction(58.0, legato=True), {"let_down"}),
            (junction(60.0, bent=2.0), {"let_down"}),
            (junction(58.0), set()),
        ):
            allowed = dict(zip(OUTCOMES, possible(case).tolist(), strict=True))
            self.assertEqual({name for name, can in allowed.items() if not can}, impossible)
            seen = describe_junction(self.evidence, self.step, case)
            told = judge_junction(seen, case, "alone")
            self.assertAlmostEqual(sum(told.values()), 1.0, places=5)
            self.assertTrue(all(told[name] < 1e-6 for name in OUTCOMES if name in impossible))


class Manners(unittest.TestCase):
    def note(self, beliefs: Beliefs, to: float = 62.0) -> RawNote:
        return RawNote(60, 120, to, "hammer_on", 0.0, [Plateau(60, 120, to)], 60.0, beliefs=beliefs)

    def test_what_else_it_may_have_been_the_likeliest_first(self) -> None:
        told = other_manners(self.note({"legato": 0.5, "struck": 0.3, "slide": 0.19, "bent": 0.01}))
        self.assertEqual(told, (("picked", 0.3), ("slide", 0.19)))
        self.assertEqual(other_manners(self.note({"legato": 0.98, "struck": 0.02})), ())

    def test_a_doubtful_step_within_a_bend_and_its_direction(self) -> None:
        note = RawNote(0, 120, 60.0, "attack", 0.0, [Plateau(0, 60, 60.0), Plateau(64, 120, 62.0)])
        note.inner = [(2.0, {"bent": 0.6, "legato": 0.4}), (-2.0, {"bent": 0.8, "legato": 0.2})]
        self.assertEqual(other_manners(note), (("hammer_on", 0.348), ("pull_off", 0.13)))

    def test_doubts_of_their_own_do_not_make_the_name_the_less_likely(self) -> None:
        note = RawNote(0, 120, 60.0, "attack", 0.0, [Plateau(0, 60, 60.0), Plateau(64, 120, 62.0)])
        note.inner = [(2.0, {"bent": 0.75, "slide": 0.25})]
        (picked, most), (slide, least) = other_manners(note, [("picked", 0.41)])
        self.assertEqual((picked, slide), ("picked", "slide"))
        self.assertGreater(1 - most - least, most)
        self.assertEqual(other_manners(replace(note, inner=[]), [("picked", 1.0)]), (("picked", 0.999),))

    def test_a_doubt_binds_the_hand_less(self) -> None:
        sure = Note(1, 0.0, 0.5, 62, techniques=(Technique("hammer_on", 2.0),))
        self.assertEqual(surely(sure), 1.0)
        self.assertAlmostEqual(surely(replace(sure, other_manners=(("picked", 0.4),))), 0.2)


class SaidOtherwise(unittest.TestCase):
    def solo(self, *techniques: Technique) -> Solo:
        first, second = line(60, 62)
        first = replace(first, duration=0.25, contour_cents=(0,) * 25, level_db=(-20,) * 25)
        second = replace(second, contour_cents=(0,) * 22, level_db=(-22,) * 22, techniques=techniques)
        return Solo(notes=(first, second))

    def test_picked_or_by_the_hand(self) -> None:
        picked = take_manner(self.solo(Technique("hammer_on", 2.0), Technique("vibrato")), 2, "picked").note(2)
        self.assertEqual([t.name for t in picked.techniques], ["vibrato"])
        self.assertIn("techniques", picked.pins)
        slid = take_manner(self.solo(), 2, "slide").note(2)
        self.assertEqual([(t.name, t.semitones) for t in slid.techniques], [("slide", 2.0)])

    def test_a_note_that_is_a_bend_of_the_one_before(self) -> None:
        (bent,) = take_manner(self.solo(Technique("slide", 2.0)), 2, "bend").notes
        self.assertEqual([(t.name, t.semitones) for t in bent.techniques], [("bend", 2.0)])
        self.assertEqual((bent.pitch, bent.contour_cents[0], bent.contour_cents[-1]), (60, 0, 200))
        first, second = self.solo(Technique("pull_off", -2.0)).notes
        down = Solo(notes=(replace(first, pitch=64), second))
        (let_down,) = take_manner(down, 2, "bend").notes
        self.assertEqual((let_down.pitch, let_down.manner, let_down.contour_cents[0]), (62, "prebend_release", 200))

    def test_a_bend_that_is_none_is_two_notes(self) -> None:
        (bent,) = take_manner(self.solo(Technique("slide", 2.0)), 2, "bend").notes
        first, second = take_manner(Solo(notes=(bent,)), bent.id, "hammer_on").notes
        self.assertEqual((first.pitch, first.techniques), (60, ()))
        self.assertEqual((second.pitch, second.manner, second.contour_cents[5]), (62, "hammer_on", 0))
        self.assertAlmostEqual(second.onset, 0.25, delta=0.02)


class InTheQueue(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.press("Esc")
        self.press("Right")
        self.note = self.solo.note(self.chosen[0])
        doubted = replace(
            self.note, confidence=0.99, pins=frozenset(), techniques=(), other_manners=(("pull_off", 0.45),)
        )
        self.opened.do("test", lambda solo: change_notes(solo, [self.note.id], lambda _: doubted))

    def test_it_is_a_doubt_until_it_is_accepted(self) -> None:
        self.assertIn(self.note.id, [note.id for note in self.opened.answers.doubts])
        self.assertRegex(questions_text(self.solo, {self.note.id}), r"picked, or .*pull-off\?")
        self.press("Z")
        self.assertNotIn(self.note.id, [note.id for note in self.opened.answers.doubts])
        self.assertLessEqual({"pitch", "techniques"}, self.solo.note(self.note.id).pins)

    def test_its_other_manner_is_taken_by_key(self) -> None:
        self.press("E")
        taken = self.solo.note(self.note.id)
        self.assertEqual((taken.pitch, taken.manner), (self.note.pitch, "pull_off"))
        self.assertNotIn(self.note.id, [note.id for note in self.opened.answers.doubts])

    def test_the_key_changes_what_is_in_doubt(self) -> None:
        doubted = replace(self.solo.note(self.note.id), runners_up=((self.note.pitch + 12, 0.01),))
        self.assertEqual(other_reading(doubted), "manner")
        self.assertEqual(other_reading(replace(doubted, confidence=0.4)), "pitch")
        sure = replace(doubted, other_manners=(), other_place=(2, 9))
        self.assertEqual(other_reading(sure), "place")
        self.assertIsNone(other_reading(replace(sure, other_place=None, runners_up=())))

    def becomes(self, step: int) -> Note:
        """The first note of two, the second of which came `step` semitones away, and is said to be a bend of it."""
        first, second = self.opened.notes[:2]
        changed = {
            first.id: replace(first, pitch=second.pitch - step, techniques=(), pins=frozenset()),
            second.id: replace(second, techniques=(Technique("slide"),), pins=frozenset()),
        }
        self.opened.do("test", lambda solo: change_notes(solo, changed, lambda note: changed[note.id]))
        count = len(self.opened.notes)
        take_other_manner(self.session, second.id, "bend")
        self.opened.settle()
        self.assertEqual((len(self.opened.notes), self.chosen), (count - 1, (first.id,)))
        return self.solo.note(first.id)

    def test_what_two_notes_become_is_placed_where_it_is_fretted(self) -> None:
        for step, manner in ((2, "bend"), (-2, "prebend_release")):
            with self.subTest(step):
                note = self.becomes(step)
                assert note.string is not None and note.fret is not None
                self.assertEqual(note.manner, manner)
                self.assertEqual(self.solo.instrument.tuning[note.string - 1] + note.fret, note.pitch)
                self.opened.undo()
                self.opened.undo()


if __name__ == "__main__":
    unittest.main()
