"""Another voice told from the lead, kept apart from it, shown and taken; and the picture of the sound."""

import unittest
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt

from eager_owl.hearing.detect import Listening, detect_notes, detected, listen
from eager_owl.hearing.judge import judge_candidates
from eager_owl.hearing.picture import picture_sound
from eager_owl.hearing.ringing import describe_ringing
from eager_owl.hearing.salience import COARSE_HOP_S, find_candidates, measure_spectra
from eager_owl.hearing.stereo import note_places
from eager_owl.hearing.stretches import lasting
from eager_owl.hearing.voices import NoteSound, describe_pairs, note_sounds, other_voices, parted, two_sides
from eager_owl.session.hearing import Heard, parted_together
from eager_owl.session.next_steps import next_steps
from eager_owl.solo.document import Note, Phrase, Solo, change_notes, change_phrase
from eager_owl.solo.edits import EditError, lay_detection, leave_to_other, swap_voices, take_others
from eager_owl.solo.gate import GateError, check_solo
from eager_owl.solo.phrase_edits import merge_with_next, split_phrase
from tests.sessions import SessionCase
from tests.support import RATE, after_silence, line, tone
from tests.windows import WindowCase

HORNS = {3, 4, 5, 12, 13, 14}  # of the notes of `answered`


def horn(midi: float, seconds: float) -> NDArray[np.float32]:
    """A sound that stays as loud, of odd harmonics."""
    time = np.arange(round(seconds * RATE)) / RATE
    hz = 440 * 2 ** ((midi - 69) / 12)
    return (0.2 * sum(np.sin(2 * np.pi * k * hz * time) / k**0.3 for k in (1, 3, 5, 7))).astype(np.float32)


def answered(rest_s: float = 0.5) -> tuple[NDArray[np.float32], list[Note]]:
    """Stereo: six runs of three notes a half second each, the second and fifth of them a horn's on the right."""
    sound, notes = np.zeros((round(13.0 * RATE), 2), np.float32), []
    at = 0.3
    for run in range(6):
        is_horn = run in (1, 4)
        for pitch in (64, 67, 69):
            part = horn(pitch, 0.5) if is_horn else tone(float(pitch), 0.5, 0.6)
            first = round(at * RATE)
            for channel, share in ((0, 0.2), (1, 1.0)) if is_horn else ((0, 0.9), (1, 0.9)):
                sound[first : first + len(part), channel] += share * part
            notes.append(Note(len(notes) + 1, at, 0.5, pitch, confidence=0.95))
            at += 0.5
        at += rest_s
    return sound, notes


class Voices(unittest.TestCase):
    sound, notes = answered()
    spectra = measure_spectra(sound.mean(axis=1), RATE)
    found = find_candidates(spectra)
    judged = judge_candidates(spectra, found, "band")

    def sounds(self, notes: Sequence[Note], in_stereo: bool = True) -> tuple[NoteSound, ...]:
        places = note_places(self.sound, notes, 0.0) if in_stereo else None
        return note_sounds(notes, self.spectra, self.found, self.judged, 0.0, places)

    def test_a_horn_that_answers_is_another_voice(self) -> None:
        places = note_places(self.sound, self.notes, 0.0)
        self.assertTrue(all((place > 0.5) == (i in HORNS) for i, place in enumerate(places)))
        for in_stereo in (True, False):
            others = other_voices(self.sounds(self.notes, in_stereo))
            self.assertEqual({self.notes.index(note) for note in others}, HORNS)
        lead, apart = parted(self.notes, others)
        self.assertEqual([note.id for note in lead], list(range(1, 13)))
        self.assertEqual(apart, others)

    def test_it_may_come_in_without_a_rest(self) -> None:
        sound, notes = answered(rest_s=0.0)
        spectra = measure_spectra(sound.mean(axis=1), RATE)
        found = find_candidates(spectra)
        judged = judge_candidates(spectra, found, "band")
        others = other_voices(note_sounds(notes, spectra, found, judged, 0.0, None))
        self.assertEqual({notes.index(note) for note in others}, HORNS)

    def test_of_one_voice_what_is_usual_differs_little(self) -> None:
        sounds = self.sounds(self.notes, in_stereo=False)[::3]  # of each three the first, all of one pitch
        apart = np.array([[np.abs(one.timbre - other.timbre).mean() for one in sounds] for other in sounds])
        self.assertLess(max(apart[0, i] for i in (2, 3, 5)), min(apart[0, 1], apart[0, 4]) / 3)
        self.assertLess(apart[1, 4], apart[0, 1] / 3)

    def test_a_pick_rises_at_once_and_falls_and_a_horn_lasts(self) -> None:
        sounds = self.sounds(self.notes)
        rises, falls = np.array([sound.manner[[3, 5]] for sound in sounds]).T
        horns = np.array([index in HORNS for index in range(len(sounds))])
        self.assertGreater(rises[~horns].min(), 0.3)
        self.assertLess(max(falls[~horns]), min(falls[horns]) - 0.1)

    def test_a_pair_is_seen_alike_from_either_side(self) -> None:
        sounds = self.sounds(self.notes)
        seen = describe_pairs(sounds, sounds)
        self.assertTrue(np.array_equal(seen, seen.transpose(1, 0, 2)))
        self.assertTrue(np.array_equal(describe_pairs(sounds[3:5], sounds), seen[3:5]))
        self.assertTrue(np.isfinite(seen).all())
        waits = [seen[0, other, 5] for other in (0, 1, 3, 17)]
        self.assertEqual([round(float(wait), 3) for wait in waits], [0.0, 0.0, 1.5, 1.5])  # and no longer

    def test_a_note_at_the_very_end_is_measured(self) -> None:
        end = len(self.spectra) * COARSE_HOP_S
        short = [replace(self.notes[0], onset=end - 0.005, duration=0.01), replace(self.notes[0], onset=0.0)]
        for sound in self.sounds(short, in_stereo=False):
            self.assertTrue(np.isfinite([*sound.timbre, *sound.manner, sound.level]).all())

    def test_a_phrase_that_is_all_another_voices_is_told_by_the_others(self) -> None:
        sounds = self.sounds(self.notes)
        threes = [sounds[first : first + 3] for first in range(0, len(sounds), 3)]
        heard = {i: Heard(tuple(sound.note for sound in three), 0.0, (), three) for i, three in enumerate(threes)}
        together = parted_together(heard)
        self.assertEqual([len(each.notes) for each in together.values()], [3, 0, 3, 3, 0, 3])
        self.assertEqual([len(each.others) for each in together.values()], [0, 3, 0, 0, 3, 0])
        self.assertEqual(parted_together({1: heard[1]}), {1: heard[1]})

    def turns(self, sounds: Sequence[NoteSound]) -> tuple[NoteSound, ...]:
        """Sounds at half a second each, one after the other."""
        return tuple(replace(each, note=replace(each.note, onset=i / 2)) for i, each in enumerate(sounds))

    def two_guitars(self) -> list[list[NoteSound]]:
        """Three notes each, somewhat another sound at another place."""
        edge = np.array([0.5, -0.5] * 4)
        return [
            [replace(each, place=place, timbre=each.timbre + more) for each in self.sounds(self.notes)[:3]]
            for place, more in ((-0.6, 0 * edge), (0.6, edge))
        ]

    def test_of_two_as_long_what_sounds_like_a_guitar_leads_and_without_a_difference_what_begins(self) -> None:
        sounds = self.sounds(self.notes)
        guitar, horn = sounds[:3], [replace(sound, place=0.0) for sound in sounds[3:6]]
        for first, second in ((guitar, horn), (horn, guitar)):
            both = self.turns([*first, *second] * 3)
            horns = tuple(each.note for i, each in enumerate(both) if (i % 6 >= 3) == (second is horn))
            self.assertEqual(other_voices(both), horns)
        for first, second in (self.two_guitars(), self.two_guitars()[::-1]):
            both = self.turns([*first, *second] * 6)
            after = tuple(each.note for i, each in enumerate(both) if i % 6 >= 3)
            self.assertEqual(other_voices(both), after)
            stray = self.turns([second[0], *first, *second[1:], *[*first, *second] * 5])
            told = {each.onset for each in other_voices(stray)}
            self.assertIn(0.0, told)  # a single note is no turn
            self.assertEqual(len(told), 18)
        self.assertEqual(other_voices(self.turns([*guitar] * 4)), ())

    def test_a_sound_that_changes_once_is_a_pedal_and_no_other_player(self) -> None:
        one, other = (guitar * 6 for guitar in self.two_guitars())
        self.assertEqual(other_voices(self.turns([*one, *other])), ())
        self.assertEqual(other_voices(self.turns([*one[:4], other[4], *one[5:], *other])), ())
        back = self.turns([*one, *other, *one])
        self.assertEqual(other_voices(back), tuple(each.note for each in back[18:36]))
        # A horn need not come back.
        sounds = self.sounds(self.notes)
        solo = self.turns([*sounds[:3] * 2, *sounds[3:6]])
        self.assertEqual(other_voices(solo), tuple(each.note for each in solo[6:]))

    def test_two_sides_hold_most_of_what_ties_say(self) -> None:
        rng = np.random.default_rng(4)
        sides = np.array([1, 1, -1, 1, -1, -1, 1])
        ties = np.outer(sides, sides) * rng.uniform(0.2, 2.0, (7, 7))
        ties = ties + ties.T
        found = two_sides(ties)
        self.assertEqual(abs(int(found @ sides)), 7)
        # Even where a tie says otherwise, as long as the rest say more.
        ties[0, 2] = ties[2, 0] = 2.0
        self.assertEqual(abs(int(two_sides(ties) @ sides)), 7)
        self.assertEqual(abs(int(two_sides(np.abs(ties)).sum())), 7)

    def test_one_voice_is_not_parted(self) -> None:
        alone = [note for i, note in enumerate(self.notes) if i not in HORNS]
        self.assertEqual(other_voices(self.sounds(alone, in_stereo=False)), ())
        self.assertEqual(other_voices(self.sounds(alone[:3], in_stereo=False)), ())


class KeptApart(unittest.TestCase):
    def solo(self) -> Solo:
        first, second, third = line(60, 62, 64)
        solo = Solo(phrases=(Phrase(0.0, 2.0, "One"),))
        return lay_detection(solo, 0, [first, third], [second])

    def test_it_is_none_of_the_solo_until_it_is_taken(self) -> None:
        solo = self.solo()
        self.assertEqual([note.pitch for note in solo.notes], [60, 64])
        taken = take_others(solo, 0)
        self.assertEqual([note.pitch for note in taken.notes], [60, 62, 64])
        self.assertEqual(taken.phrases[0].others, ())
        self.assertRaises(EditError, take_others, taken, 0)
        again = lay_detection(taken, 0, [], [line(60, 62)[1]])
        self.assertEqual((len(again.notes), again.phrases[0].others), (1, ()))

    def test_it_may_lead(self) -> None:
        swapped = swap_voices(self.solo())
        self.assertEqual([note.pitch for note in swapped.notes], [62])
        self.assertEqual([note.pitch for note in swapped.phrases[0].others], [60, 64])
        back = swap_voices(check_solo(swapped))
        self.assertEqual([note.pitch for note in back.notes], [60, 64])
        self.assertEqual([note.pitch for note in back.phrases[0].others], [62])
        self.assertRaises(EditError, swap_voices, Solo(phrases=(Phrase(0.0, 2.0, "One"),)))

    def test_notes_may_be_left_to_it_and_hearing_again_does_not_bring_them_back(self) -> None:
        solo = self.solo()
        left = leave_to_other(solo, [solo.notes[1].id])
        self.assertEqual([note.pitch for note in left.notes], [60])
        self.assertEqual([note.pitch for note in left.phrases[0].others], [62, 64])
        again = lay_detection(left, 0, [replace(note, pins=frozenset()) for note in solo.notes], [])
        self.assertEqual([note.pitch for note in again.notes], [60])
        self.assertEqual([note.pitch for note in take_others(check_solo(left), 0).notes], [60, 62, 64])
        self.assertRaises(EditError, leave_to_other, change_phrase(solo, 0, end=0.2), [solo.notes[1].id])

    def test_it_goes_with_its_phrase(self) -> None:
        cut = split_phrase(self.solo(), 0, 0.2)
        self.assertEqual([len(phrase.others) for phrase in cut.phrases], [0, 1])
        self.assertEqual(len(merge_with_next(cut, 0).phrases[0].others), 1)

    def test_the_gate_looks_at_it_too(self) -> None:
        solo = self.solo()
        wrong = replace(solo.phrases[0].others[0], pitch=400)
        with self.assertRaisesRegex(GateError, "others"):
            check_solo(change_phrase(solo, 0, others=(wrong,)))


class Taken(SessionCase):
    def test_by_key_and_they_are_placed(self) -> None:
        self.demo()
        self.press("Esc")
        self.press("Alt+V")
        self.assertIn("no other voice", self.notice)
        start = self.opened.phrase.start if self.opened.phrase else 0.0
        other = Note(0, start + 0.05, 0.2, 65, contour_cents=(0,) * 20, level_db=(-20,) * 20)
        self.opened.do("test", lambda solo: change_phrase(solo, self.opened.view.phrase or 0, others=(other,)))
        self.press("Alt+V")
        self.opened.settle()
        (taken,) = self.opened.selected
        self.assertEqual(taken.pitch, 65)
        self.assertIsNotNone(taken.string)

    def test_by_key_a_note_is_left_to_it(self) -> None:
        self.demo()
        note, count = self.opened.selected[0], len(self.opened.notes)
        self.press("Ctrl+Alt+V")
        self.assertEqual(len(self.opened.notes), count - 1)
        phrase = self.opened.solo.phrases[self.opened.view.phrase or 0]
        self.assertEqual([other.pitch for other in phrase.others], [note.pitch])
        self.press("Ctrl+Z")
        self.assertEqual(len(self.opened.notes), count)

    def test_where_it_leads_by_key_the_notes_change_places(self) -> None:
        self.demo()
        self.press("Alt+Shift+V")
        self.assertIn("no other voice", self.notice)
        index = self.opened.view.phrase or 0
        phrase = self.opened.solo.phrases[index]
        before = self.opened.solo.notes_in(phrase)
        other = Note(900, phrase.start + 0.1, 0.3, 65)
        self.opened.do("test", lambda solo: change_phrase(solo, index, others=(other,)))
        self.press("Alt+Shift+V")
        self.opened.settle()
        (leading,) = self.opened.solo.notes_in(phrase)
        self.assertEqual(leading.pitch, 65)
        self.assertIsNotNone(leading.string)
        self.assertEqual(self.opened.solo.phrases[index].others, before)
        self.assertNotIn("hear", dict(next_steps(self.opened)))

    def test_notes_under_the_lowest_string_ask_for_the_tuning(self) -> None:
        self.demo()
        note = self.opened.notes[0]
        low = replace(note, pitch=self.solo.instrument.lowest - 2)
        self.opened.do("test", lambda solo: change_notes(solo, [note.id], lambda _: low))
        self.assertIn(("show_facts", "1 note under the lowest string: is it tuned to D2?"), next_steps(self.opened))


class LetRing(unittest.TestCase):
    def listening(self, seconds: float, pitches: Sequence[int] = (48, 55, 60, 64, 67, 72)) -> Listening:
        """A broken chord, a note each quarter second, each sounding for so long."""
        sound = np.zeros(round(3.0 * RATE), np.float32)
        for i, pitch in enumerate(pitches):
            first = round((0.3 + 0.25 * i) * RATE)
            part = tone(float(pitch), seconds, 1.5)
            sound[first : first + len(part)] += part[: len(sound) - first]
        return listen(sound, RATE, mix="solo")

    def named(self, seconds: float) -> int:
        notes = detected(self.listening(seconds)).notes
        return sum(note.technique("let_ring") is not None for note in notes)

    def described(self, seconds: float, pitches: Sequence[int]) -> list[dict[str, float] | None]:
        heard = self.listening(seconds, pitches)
        notes = [Note(i + 1, 0.3 + 0.25 * i, 0.25, pitch) for i, pitch in enumerate(pitches)]
        return describe_ringing(notes, heard.spectra, heard.found, heard.judged, 0.0)

    def test_strings_that_sound_on_are_let_ring_and_others_are_not(self) -> None:
        self.assertGreaterEqual(self.named(1.6), 4)
        self.assertEqual(self.named(0.24), 0)

    def test_a_string_that_sounds_on_is_heard_and_its_own_harmonics_hardly_fall(self) -> None:
        pitches = (52, 59, 64)
        on, stopped = (self.described(seconds, pitches)[0] for seconds in (1.6, 0.24))
        assert on and stopped
        self.assertGreater(on["sounds"], 0.5)
        self.assertLess(stopped["sounds"], 0.2)
        self.assertLess(on["fall"] + 1, stopped["fall"])

    def test_the_last_note_and_one_that_is_struck_again_tell_nothing(self) -> None:
        self.assertEqual([seen is None for seen in self.described(1.6, (60, 60, 67))], [True, False, True])

    def test_a_stretch_lasts_and_carries_what_one_note_leaves_open(self) -> None:
        shares = np.array([0.1, 0.9, 0.45, 0.8, 0.9, 0.1, 0.0, 0.9, 0.1, 0.1])
        self.assertEqual(lasting(shares, 0.5), {2, 3, 4})
        self.assertEqual(lasting(np.zeros(0), 0.5), set())


class PalmMuted(unittest.TestCase):
    def heard(self, decay_s: float) -> list[bool]:
        riff = [tone(float(pitch), 0.25, decay_s) for pitch in (43, 43, 46, 43, 48, 46, 43, 43)]
        open_ones = [tone(float(pitch), 0.5, 1.5) for pitch in (58, 60, 63, 58, 60)]
        notes = detect_notes(after_silence(*riff, *open_ones), RATE, 0.0, mix="solo").notes
        return [note.technique("palm_mute") is not None for note in notes]

    def test_a_run_that_dies_at_once_is_named_and_what_sounds_on_is_not(self) -> None:
        told = self.heard(0.05)
        self.assertGreaterEqual(sum(told[:8]), 5)
        self.assertFalse(any(told[-4:]))
        self.assertFalse(any(self.heard(1.5)))


class Picture(unittest.TestCase):
    def test_a_tone_is_darkest_at_its_pitch_and_time(self) -> None:
        sound = np.concatenate([np.zeros(RATE, np.float32), tone(69.0, 1.0)])
        picture = picture_sound(sound, RATE, 4.0)
        self.assertAlmostEqual(picture.end, 6.0, delta=0.05)
        self.assertEqual(picture.levels[: round(0.8 / COARSE_HOP_S)].max(), 0)
        column = int(picture.levels[round(1.4 / COARSE_HOP_S)].argmax())
        self.assertAlmostEqual(picture.lowest + (column + 0.5) / 3, 69.0, delta=0.4)


class PictureOnTheDesk(WindowCase):
    def test_it_comes_and_goes_by_its_key_and_follows_the_phrase(self) -> None:
        self.demo()
        desk = self.window.desk
        plain = desk.grab().toImage()
        self.press(Qt.Key.Key_F8)
        self.settle()
        assert desk._painter is not None and desk._painter.sound is not None
        self.assertNotEqual(desk.grab().toImage(), plain)
        self.press(Qt.Key.Key_PageDown)
        self.settle()
        assert desk._painter.sound is not None
        self.press(Qt.Key.Key_PageUp)
        self.press(Qt.Key.Key_F8)
        self.settle()
        self.assertIsNone(desk._painter.sound)


if __name__ == "__main__":
    unittest.main()
