"""The one table of techniques, and that everything which reads it agrees."""

import unittest
from dataclasses import replace
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from eager_owl.neck.picking import propose_picking
from eager_owl.notation.marks import fret_text, over_text, used_signs
from eager_owl.solo.document import Note, Solo
from eager_owl.solo.edits import toggle_technique
from eager_owl.solo.techniques import BENDS, TECHNIQUES, Technique, TechniqueName
from eager_owl.sound.string import pitch_contour, play_notes, strokes
from tests.support import line

RATE = 22050


def note(*techniques: Technique) -> Note:
    return Note(1, 0.3, 0.5, 67, string=2, fret=8, techniques=techniques)


def sound(*notes: Note) -> NDArray[np.float32]:
    return play_notes(notes, RATE, 2.5)


def level(samples: NDArray[np.float32], start: float, end: float) -> float:
    return float(np.sqrt(np.mean(samples[round(start * RATE) : round(end * RATE)] ** 2)))


class Table(unittest.TestCase):
    def test_every_name_has_its_row(self) -> None:
        self.assertEqual(set(TECHNIQUES), set(get_args(TechniqueName)))
        words = [kind.words for kind in TECHNIQUES.values()]
        self.assertEqual(len(words), len(set(words)))

    def test_every_technique_can_be_read_in_the_tab(self) -> None:
        plain = fret_text(note())
        for name in TECHNIQUES:
            if name != "double_stop":  # two numbers over one another say it
                marked = note(Technique(name))
                self.assertTrue(fret_text(marked) != plain or over_text(marked), name)
                self.assertTrue(used_signs([marked]), name)
        self.assertNotEqual(fret_text(note(Technique("tap"))), fret_text(note(Technique("hammer_on"))))

    def test_bends_of_other_sizes_are_written_otherwise(self) -> None:
        written = [fret_text(note(Technique("bend", size))) for size in (0.5, 1.0, 1.5, 2.0, 2.5, 3.0)]
        self.assertEqual(written, ["8b¼", "8b9", "8b9½", "8b10", "8b10½", "8b11"])

    def test_signs_are_explained_once_and_only_those_used(self) -> None:
        notes = [note(Technique("bend", 2.0)), note(Technique("bend_release", 1.0)), note(Technique("slide", -2.0))]
        self.assertEqual(
            used_signs(notes), ["b bend up to", "r release to", "/ slide up or into", "\\ slide down or away"]
        )


class Unsized(unittest.TestCase):
    def test_all_agree_where_an_unsized_bend_lands(self) -> None:
        for name in BENDS:
            bent, sized = note(Technique(name)), note(Technique(name, 2.0))
            self.assertEqual(bent.landed, sized.landed, name)
            self.assertEqual(fret_text(bent), fret_text(sized))
            times = np.arange(0.3, 0.8, 0.01)
            contours = [pitch_contour(strokes([each])[0], times) for each in (bent, sized)]
            np.testing.assert_allclose(*contours)
        self.assertEqual([note(Technique(name)).landed - 67 for name in BENDS], [2, 2, 2, 0])

    def test_a_bend_named_by_the_player_is_sized_by_the_measurement(self) -> None:
        rising = tuple([0] * 10 + list(range(0, 200, 20)) + [198] * 30)
        solo = Solo(notes=(replace(note(), contour_cents=rising), replace(note(), id=2, contour_cents=(3,) * 50)))
        bent = toggle_technique(solo, [1, 2], "bend")
        self.assertEqual([n.bend.semitones for n in bent.notes if n.bend], [1.98, None])

    def test_a_slide_named_by_the_player_falls_where_it_comes_from_above(self) -> None:
        fret = {67: 8, 69: 10}
        line = [replace(note(), id=i, onset=i, pitch=p, fret=fret[p]) for i, p in enumerate((67, 69, 67))]
        slid = toggle_technique(Solo(notes=tuple(line)), [1, 2], "slide").notes
        self.assertEqual([fret_text(each) for each in slid], ["8", "/10", "\\8"])


class Sound(unittest.TestCase):
    def test_palm_muting_dies_soon(self) -> None:
        plain, muted = sound(note()), sound(note(Technique("palm_mute")))
        self.assertLess(level(muted, 0.6, 0.8), 0.2 * level(plain, 0.6, 0.8))

    def test_what_rings_sounds_past_its_end(self) -> None:
        plain, rung = sound(note()), sound(note(Technique("let_ring")))
        self.assertGreater(level(rung, 1.1, 1.6), 20 * level(plain, 1.1, 1.6))

    def test_a_harmonic_is_purer(self) -> None:
        def upper(samples: NDArray[np.float32]) -> float:
            spectrum = np.abs(np.fft.rfft(samples[round(0.35 * RATE) : round(0.75 * RATE)]))
            return float(spectrum[round(0.4 * 1000) :].sum() / spectrum.sum())

        self.assertLess(upper(sound(note(Technique("harmonic")))), 0.7 * upper(sound(note())))

    def test_a_rake_is_heard_before_its_note(self) -> None:
        plain, raked = sound(note()), sound(note(Technique("rake")))
        self.assertGreater(level(raked, 0.2, 0.29), 10 * level(plain, 0.2, 0.29) + 1e-4)

    def test_a_tapped_note_goes_on_from_the_one_before_and_is_not_picked(self) -> None:
        notes = [replace(n, string=2, fret=n.pitch - 59) for n in line(67, 72)]
        notes[1] = replace(notes[1], techniques=(Technique("tap"),))
        self.assertEqual(len(strokes(notes)), 1)
        self.assertIsNone(propose_picking(notes, "alternate")[1])


if __name__ == "__main__":
    unittest.main()
