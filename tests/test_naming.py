"""How far bends and vibratos that were measured are believed, and what becomes of those that are not."""

import unittest
from dataclasses import replace
from unittest.mock import patch

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.detect import detect_notes, listen, measured_notes
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.naming import Played, belief_in_name, describe_names
from eager_owl.hearing.plateaus import Plateau
from eager_owl.hearing.salience import Candidates
from eager_owl.hearing.segment import RawNote
from eager_owl.neck.measures import surely
from eager_owl.solo.document import Note, Solo
from eager_owl.solo.edits import take_manner
from eager_owl.solo.techniques import Technique
from tests.support import RATE, after_silence, glide, line, tone

BENT = after_silence(tone(glide(70, (0.15, 70), (0.14, 72), (0.6, 72))))
SHAKEN = after_silence(tone(67 + 0.3 * np.sin(2 * np.pi * 5.5 * np.arange(RATE) / RATE)))


def played(way: NDArray[np.float64], *techniques: Technique) -> Played:
    """A note on fret 60 whose contour stands there, goes this way, told to be bent, and stays where that ends."""
    contour = np.concatenate([np.full(40, 60.0), way, np.full(80, way[-1])])
    plateaus = [Plateau(0, 40, 60.0), Plateau(40 + len(way), len(contour), float(way[-1]))]
    note = RawNote(0, len(contour), 60.0, "attack", 2.0, plateaus, inner=[(float(way[-1]) - 60, {"bent": 0.97})])
    return Played(note, contour, 0.97, techniques, 60.0)


def judged(each: Played, begins_at: int | None = None) -> tuple[Candidates, Judgement]:
    """A judge that hears the note's own contour, and where it is told to something that begins on its last pitch."""
    midi = each.contour[::2, None]
    count = len(midi)
    begins = np.zeros((count, 1), "f4")
    if begins_at is not None:
        begins[begins_at // 2 + 1 : begins_at // 2 + 3] = 0.98
    sounds = np.full((count, 1), 0.97, "f4")
    return Candidates(np.ones((count, 1), np.intp), midi, np.ones((count, 1))), Judgement(sounds, begins, begins)


class Seen(unittest.TestCase):
    def test_of_each_bend_and_each_vibrato_by_itself(self) -> None:
        vibrato, bend = Technique("vibrato", rate_hz=5.5, extent_cents=25.0), Technique("bend", 2.0, 0.14)
        first = played(np.linspace(60, 62, 24), Technique("hammer_on", 2.0), bend, vibrato)
        told = [*describe_names([first, played(np.array([60.0]))], *judged(first))]
        self.assertEqual([(i, t, weighed) for i, t, weighed, _ in told], [(0, bend, "bend"), (0, vibrato, "vibrato")])
        self.assertTrue(all(np.isfinite(seen).all() for *_, seen in told))

    def test_a_bend_takes_its_time_and_nothing_begins_where_it_arrives(self) -> None:
        smooth = played(np.linspace(60, 62, 26), Technique("bend", 2.0, 0.15))
        jumped = played(np.array([60.0, 62.0]), Technique("bend", 2.0, 0.006))
        beliefs = []
        for each, begins_at in ((smooth, None), (jumped, 41)):
            ((_, _, weighed, seen),) = describe_names([each], *judged(each, begins_at))
            beliefs.append(belief_in_name(weighed, seen, "alone"))
        self.assertGreater(beliefs[0], 0.8)
        self.assertLess(beliefs[1], 0.3)

    def test_what_is_struck_with_a_bend_and_meets_it_is_seen(self) -> None:
        bent = played(np.linspace(60, 62, 26), Technique("bend", 2.0, 0.15))
        seen = []
        for midi in (62.0, 67.0):
            other = Played(
                RawNote(2, 146, midi, "attack", 2.0, [Plateau(2, 146, midi)]), bent.contour, 0.97, (), midi
            )
            ((_, _, _, of_bend),) = describe_names([bent, other], *judged(bent))
            seen.append(float(of_bend[-1]))
        self.assertEqual(seen, [1.0, 0.0])


class Named(unittest.TestCase):
    def heard(self, belief: float, sound: NDArray[np.float32] = BENT) -> Note:
        with patch("eager_owl.hearing.detect.belief_in_name", return_value=belief):
            (note,) = detect_notes(sound, RATE, mix="solo").notes
        return note

    def test_what_is_not_believed_is_not_named_but_a_doubt_where_it_may_be(self) -> None:
        for belief, bent, others in (
            (0.96, True, ()), (0.65, True, (("picked", 0.35),)), (0.4, False, (("bend", 0.4),)), (0.02, False, ()),
        ):  # fmt: skip
            note = self.heard(belief)
            self.assertEqual((note.pitch, note.bend is not None, note.other_manners), (70, bent, others))

    def test_so_is_vibrato(self) -> None:
        for belief, named, others in ((0.9, True, ()), (0.4, False, (("vibrato", 0.4),)), (0.02, False, ())):
            note = self.heard(belief, SHAKEN)
            self.assertEqual((note.technique("vibrato") is not None, note.other_manners), (named, others))

    def test_a_clean_bend_is_believed(self) -> None:
        heard = listen(BENT, RATE, mix="solo")
        ((_, technique, weighed, seen),) = describe_names(measured_notes(heard), heard.found, heard.judged)
        self.assertEqual(technique.name, "bend")
        self.assertGreater(belief_in_name(weighed, seen, "alone"), 0.8)


class SaidOtherwise(unittest.TestCase):
    def test_vibrato_is_added_to_how_a_note_was_come_to(self) -> None:
        (note,) = line(62)
        slid = replace(note, techniques=(Technique("slide", 2.0),), other_manners=(("vibrato", 0.4),))
        self.assertEqual(surely(slid), 1.0)
        (shaken,) = take_manner(Solo(notes=(slid,)), 1, "vibrato").notes
        self.assertEqual([technique.name for technique in shaken.techniques], ["slide", "vibrato"])
        self.assertIsNone(shaken.manner_in_doubt)

    def test_a_curl_that_is_none_leaves_one_note(self) -> None:
        (note,) = line(62)
        curl, contour = Technique("bend", 0.4, 0.2), (0,) * 25 + (40,) * 25
        curled = replace(note, techniques=(curl,), contour_cents=contour)
        (plain,) = take_manner(Solo(notes=(curled,)), 1, "picked").notes
        self.assertEqual((plain.pitch, plain.techniques), (62, ()))
