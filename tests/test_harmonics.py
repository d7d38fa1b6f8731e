"""Natural harmonics: told by what sounds over a note's pitch and under it, placed at the nodes, doubted."""

import unittest
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Recording
from eager_owl.desktop.words import plate_text
from eager_owl.hearing.detect import detect_notes
from eager_owl.hearing.harmonics import describe_touch, touched
from eager_owl.hearing.hints import Hints
from eager_owl.hearing.salience import measure_spectra
from eager_owl.notation.marks import fret_text
from eager_owl.session.hearing import hear_phrase
from eager_owl.session.placing import place_phrase
from eager_owl.solo.document import Instrument, Note, Phrase, Solo
from eager_owl.solo.edits import lay_detection, take_manner
from eager_owl.solo.techniques import Manner, Technique
from eager_owl.sound.string import play_notes
from tests.support import RATE, line

_E_MINOR = (52, 55, 57, 59, 64, 62, 59, 67, 69, 66)
# Over the seventh fret of the third and fourth strings.
_CHIMES = (74, 69, 74)
_HARMONIC = (Technique("harmonic"),)


def played() -> list[Note]:
    """A line, three harmonics after it, and the line again."""
    plain = line(*_E_MINOR, beat_s=0.3, start=0.3)
    chimes = [replace(n, techniques=_HARMONIC) for n in line(*_CHIMES, beat_s=0.7, start=3.5)]
    return [*plain, *chimes, *line(*_E_MINOR, beat_s=0.3, start=5.7)]


def sound(notes: list[Note]) -> NDArray[np.float32]:
    """Notes as played; of a string touched at its third only every third partial is left: the mean of the open string

    and of itself late by a third and two thirds of its period.
    """
    seconds = notes[-1].end + 0.5
    fretted = np.asarray(play_notes([note for note in notes if not note.harmonic], RATE, seconds), dtype=np.float64)
    times = np.arange(len(fretted)) / RATE
    for note in notes:
        if note.harmonic:
            open_string = replace(note, pitch=note.pitch - 19, techniques=())
            rings = np.asarray(play_notes([open_string], RATE, seconds), dtype=np.float64)
            third = 1 / (3 * 440 * 2 ** ((open_string.pitch - 69) / 12))
            fretted += np.mean([np.interp(times - k * third, times, rings) for k in range(3)], axis=0)
    return fretted.astype(np.float32)


def harmonics(notes: tuple[Note, ...]) -> list[int]:
    return [note.pitch for note in notes if note.harmonic]


class Heard(unittest.TestCase):
    def test_what_the_strings_can_give_is_named_among_a_line(self) -> None:
        found = detect_notes(sound(played()), RATE, 0.0, mix="solo", hints=Hints(nodes=Instrument().nodes))
        self.assertEqual(harmonics(found.notes), [*_CHIMES])

    def test_what_no_open_string_gives_is_not(self) -> None:
        tuned_up = Instrument(tuning=tuple(pitch + 1 for pitch in Instrument().tuning))
        found = detect_notes(sound(played()), RATE, 0.0, mix="solo", hints=Hints(nodes=tuned_up.nodes))
        self.assertEqual(harmonics(found.notes), [])

    def test_a_line_of_fretted_notes_has_none(self) -> None:
        plain = [replace(note, techniques=()) for note in played()]
        found = detect_notes(sound(plain), RATE, 0.0, mix="solo", hints=Hints(nodes=Instrument().nodes))
        self.assertEqual(harmonics(found.notes), [])

    def test_they_are_placed_where_the_string_is_touched(self) -> None:
        notes = played()
        recording = Recording(sound(notes)[:, None], RATE)
        phrase = Phrase(0.0, recording.duration_s)
        solo = Solo(phrases=(phrase,), mix="solo")
        solo = place_phrase(lay_detection(solo, 0, hear_phrase(solo, phrase, recording).notes), 0)
        places = [(note.string, note.fret) for note in solo.notes if note.harmonic]
        self.assertEqual(places, [(3, 7), (4, 7), (3, 7)])


class Described(unittest.TestCase):
    def test_only_what_stands_at_a_node_is_weighed(self) -> None:
        notes = played()
        spectra = measure_spectra(sound(notes), RATE)
        shares = touched(notes, spectra, 0.0, frozenset(_CHIMES))
        self.assertEqual({notes[index].pitch for index in shares}, set(_CHIMES))
        self.assertTrue(all(0 <= share <= 1 for share in shares.values()))
        self.assertEqual(touched(notes, spectra, 0.0, frozenset()), {})

    def test_a_note_alone_stands_beside_nothing(self) -> None:
        spectra = measure_spectra(sound(played()), RATE)
        (seen,) = describe_touch(played()[:1], spectra, 0.0)
        beside = seen[1 + (len(seen) - 1) // 2 :]
        self.assertTrue(np.isfinite(seen).all())
        self.assertFalse(beside.any())

    def test_a_note_at_the_very_end_can_be_described(self) -> None:
        spectra = measure_spectra(sound(played()), RATE)
        late = Note(1, len(spectra) * 256 / RATE - 0.01, 0.3, 64)
        self.assertTrue(np.isfinite(describe_touch([late], spectra, 0.0)).all())


class Instruments(unittest.TestCase):
    def test_nodes_go_up_with_a_capo_and_down_with_a_string(self) -> None:
        self.assertIn(40 + 19, Instrument().nodes)
        self.assertIn(40 + 2 + 19, Instrument(capo=2).nodes)
        self.assertIn(38 + 19, Instrument(tuning=(64, 59, 55, 50, 45, 38)).nodes)
        self.assertNotIn(40 + 1, Instrument().nodes)


class Drawn(unittest.TestCase):
    def test_its_fret_stands_in_pointed_brackets_on_the_desk_as_in_tab(self) -> None:
        touched_there = Note(1, 0.5, 0.5, 74, 3, 7, techniques=_HARMONIC)
        self.assertEqual((plate_text(touched_there), fret_text(touched_there)), ("<7>", "<7>"))
        self.assertEqual(plate_text(replace(touched_there, string=None, fret=None)), "?")


class Doubted(unittest.TestCase):
    def solo(self, *techniques: Technique, doubt: Manner) -> Solo:
        note = Note(1, 0.5, 0.5, 74, 1, 10, techniques=techniques, other_manners=((doubt, 0.4),))
        placed = replace(note, string=3, fret=7) if techniques else note
        return Solo(notes=(placed,), phrases=(Phrase(0.0, 2.0),))

    def test_one_that_was_taken_for_fretted_becomes_a_harmonic(self) -> None:
        solo = self.solo(doubt="harmonic")
        self.assertEqual(solo.notes[0].manner_in_doubt, "harmonic")
        (note,) = take_manner(solo, 1, "harmonic").notes
        self.assertTrue(note.harmonic)
        self.assertEqual(note.pitch, 74)
        self.assertIn("techniques", note.pins)
        self.assertIsNone(note.manner_in_doubt)

    def test_one_that_was_taken_for_a_harmonic_is_fretted(self) -> None:
        solo = self.solo(*_HARMONIC, doubt="picked")
        self.assertEqual((solo.notes[0].manner, solo.notes[0].manner_in_doubt), ("harmonic", "picked"))
        (note,) = take_manner(solo, 1, "picked").notes
        self.assertFalse(note.harmonic)
        self.assertEqual((note.pitch, note.string, note.fret), (74, 3, 19))


if __name__ == "__main__":
    unittest.main()
