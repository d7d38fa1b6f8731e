"""What notes are among their neighbours, and strokes without pitch."""

import unittest
from dataclasses import replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from eager_owl.desktop.words import technique_words
from eager_owl.hearing.articulation import drop_passed_frets, measure_techniques
from eager_owl.hearing.detect import detect_notes
from eager_owl.hearing.plateaus import Plateau
from eager_owl.hearing.segment import Arrival, RawNote
from eager_owl.hearing.styles import name_styles
from eager_owl.notation.marks import fret_text
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import Technique
from tests.support import RATE, after_silence, tone


def silence(seconds: float) -> NDArray[np.float32]:
    return np.zeros(round(seconds * RATE), np.float32)


def heard(*parts: NDArray[np.float32]) -> tuple[Note, ...]:
    return detect_notes(after_silence(*parts), RATE, 0.0, mix="solo").notes


def names(note: Note) -> set[str]:
    return {technique.name for technique in note.techniques}


def thud(seconds: float) -> NDArray[np.float32]:
    """A dead string: a burst of noise that is gone at once."""
    noise = np.random.default_rng(1).standard_normal(round(seconds * RATE))
    time = np.arange(len(noise)) / RATE
    return (0.25 * noise * np.exp(-time / 0.012)).astype(np.float32)


class Short(unittest.TestCase):
    def test_notes_let_go_early_are_cut_short_with_their_share(self) -> None:
        parts = [part for p in (64, 67, 69, 67, 64) for part in (tone(float(p), 0.1), silence(0.12))]
        notes = heard(*parts)
        self.assertEqual(len(notes), 5)
        for note in notes[:-1]:
            cut = note.technique("staccato")
            assert cut is not None and cut.ratio is not None
            self.assertAlmostEqual(cut.ratio, 0.45, delta=0.15)
            self.assertIn("in 100 of its time", technique_words(cut))

    def test_notes_held_are_not_nor_is_the_one_before_a_rest(self) -> None:
        plain = [tone(float(p), 0.22) for p in (64, 67, 69, 67)]
        for note in heard(*plain, silence(0.35), *plain):
            self.assertNotIn("staccato", names(note))


class Grace(unittest.TestCase):
    def test_a_quick_note_that_another_is_joined_to(self) -> None:
        arrivals: tuple[Arrival, ...] = ("hammer_on", "attack")
        for frames, arrival in product((10, 30), arrivals):
            second = 70 + frames
            notes = [
                RawNote(0, 70, 64.0, "attack", 2.0, [Plateau(0, 70, 64.0)]),
                RawNote(70, second, 67.0, "attack", 2.0, [Plateau(70, second, 67.0)]),
                RawNote(second, 200, 69.0, arrival, 0.0, [Plateau(second, 200, 69.0)], 67.0),
            ]
            named = name_styles(notes, [()] * 3, np.full(220, -12.0), [np.full(220, np.nan)] * 3)
            graces = [any(technique.name == "grace" for technique in each) for each in named]
            self.assertEqual(graces, [False, frames == 10 and arrival == "hammer_on", False])

    def test_one_that_is_heard(self) -> None:
        for seconds in (0.055, 0.065):
            contour = np.concatenate([np.full(round(seconds * RATE), 57.0), np.full(round(0.5 * RATE), 59.0)])
            notes = heard(tone(64.0, 0.4), tone(contour))
            self.assertEqual([note.pitch for note in notes], [64, 57, 59])
            self.assertIn("grace", names(notes[1]))
            self.assertIn("hammer_on", names(notes[2]))


class Tapped(unittest.TestCase):
    def test_a_leap_up_without_an_attack_is_tapped_a_small_one_hammered(self) -> None:
        for step, name in ((7, "tap"), (2, "hammer_on")):
            note = RawNote(60, 120, 64.0 + step, "hammer_on", 0.0, [Plateau(60, 120, 64.0 + step)], 64.0)
            found, fretted = measure_techniques(note, np.repeat([64.0, 64.0 + step], 60))
            self.assertEqual([(t.name, t.semitones) for t in found], [(name, float(step))])
            self.assertEqual(fretted, 64.0 + step)


class Slipped(unittest.TestCase):
    def test_a_plateau_that_slips_far_down_is_no_bend(self) -> None:
        """The line leaves an upper plateau for an undertone: what is held there is under the note, not over it."""
        contour = np.concatenate([np.full(40, 64.0), np.full(15, 66.0), np.full(45, 40.0)])
        note = RawNote(0, 100, 64.0, "attack", 2.0, [Plateau(0, 40, 64.0), Plateau(40, 100, 66.0)])
        found, fretted = measure_techniques(note, contour)
        self.assertEqual([t.name for t in found if t.kind.bends], [])
        self.assertEqual(fretted, 64.0)


class PassedFrets(unittest.TestCase):
    def told(self, brief: bool, arrival: Arrival) -> list[str]:
        """What is left of a bend of two semitones before a note three semitones up."""
        top = 100 if brief else 60
        first = RawNote(20, 112, 64.0, "attack", 2.0, [Plateau(20, 58, 64.0), Plateau(top, 112, 66.0)])
        second = RawNote(112, 180, 67.0, arrival, 0.0, [Plateau(112, 180, 67.0)], 64.0)
        techniques: list[tuple[Technique, ...]] = [(Technique("bend", 2.0), Technique("staccato")), ()]
        drop_passed_frets([first, second], techniques)
        return [technique.name for technique in techniques[0]]

    def test_a_fret_that_a_slide_passes_is_no_bend(self) -> None:
        self.assertEqual(self.told(True, "slide"), ["staccato"])

    def test_one_that_is_held_or_followed_otherwise_is(self) -> None:
        self.assertEqual(self.told(False, "slide"), ["bend", "staccato"])
        self.assertEqual(self.told(True, "attack"), ["bend", "staccato"])


class Nowhere(unittest.TestCase):
    def test_a_slide_away_is_measured(self) -> None:
        away = np.linspace(69, 65, round(0.16 * RATE))
        notes = heard(tone(np.concatenate([np.full(round(0.5 * RATE), 69.0), away])), silence(0.4), tone(60.0, 0.4))
        slid = notes[0].technique("slide_out")
        assert slid is not None and slid.semitones is not None
        self.assertLess(slid.semitones, -1.5)
        self.assertNotIn("slide_out", names(notes[-1]))


class WhammyBar(unittest.TestCase):
    def test_a_dip_comes_back_and_a_dive_does_not(self) -> None:
        def way(*points: tuple[float, float]) -> NDArray[np.float64]:
            return np.interp(np.arange(round(1.1 * RATE)) / RATE, *zip(*points, strict=True))

        dipped = way((0, 67.0), (0.4, 67.0), (0.52, 64.8), (0.66, 67.0))
        dived = way((0, 64.0), (0.4, 64.0), (0.55, 61.5))
        notes = heard(tone(67.0, 0.4), tone(dipped), tone(dived), tone(67.0, 0.4))
        self.assertEqual([note.pitch for note in notes], [67, 67, 64, 67])
        self.assertEqual([names(note) & {"dip", "dive"} for note in notes], [set(), {"dip"}, {"dive"}, set()])
        dip, dive = notes[1].technique("dip"), notes[2].technique("dive")
        assert dip is not None and dive is not None and dip.semitones and dive.semitones
        self.assertAlmostEqual(dip.semitones, -2.2, delta=0.35)
        self.assertAlmostEqual(dive.semitones, -2.5, delta=0.15)
        self.assertRegex(technique_words(dip), r"^dip of the bar, 2\d\d cents in \d+ ms, back in \d+ ms$")

    def test_neither_is_told_of_a_quick_step_down_nor_of_wide_vibrato(self) -> None:
        swung = 66.0 + 1.1 * np.sin(2 * np.pi * 5.0 * np.arange(round(1.2 * RATE)) / RATE)
        stepped = np.concatenate([np.full(round(0.4 * RATE), 67.0), np.full(round(0.5 * RATE), 65.0)])
        for contour in (swung, stepped):
            for note in heard(tone(64.0, 0.4), tone(contour)):
                self.assertFalse(names(note) & {"dip", "dive"})


class Ghosts(unittest.TestCase):
    def test_a_much_softer_short_note(self) -> None:
        loud = [tone(float(p), 0.3) for p in (64, 67, 69)]
        notes = heard(*loud, 0.12 * tone(67.0, 0.12), silence(0.1), *loud)
        ghosts = [note for note in notes if "ghost" in names(note)]
        self.assertEqual([note.pitch for note in ghosts], [67])
        self.assertFalse(ghosts[0].muted)

    def test_a_stroke_without_pitch_is_an_x(self) -> None:
        notes = heard(tone(64.0, 0.25), silence(0.05), thud(0.25), tone(67.0, 0.3))
        muted = [note for note in notes if note.muted]
        self.assertEqual(len(muted), 1)
        self.assertAlmostEqual(muted[0].onset, 0.6, delta=0.03)
        self.assertEqual([note.pitch for note in notes if not note.muted], [64, 67])
        self.assertEqual(fret_text(replace(muted[0], fret=5)), "x")
        self.assertEqual([note.id for note in notes], list(range(1, len(notes) + 1)))

    def test_several_in_a_row_rake_into_the_next_note(self) -> None:
        notes = heard(tone(64.0, 0.25), silence(0.1), thud(0.065), thud(0.065), thud(0.075), tone(67.0, 0.4))
        raked = [note for note in notes if "rake" in names(note)]
        self.assertEqual([note.pitch for note in raked], [67])

    def test_clean_notes_bring_no_ghosts(self) -> None:
        self.assertFalse(any("ghost" in names(note) for note in heard(*(tone(float(p), 0.2) for p in range(60, 72)))))


class Words(unittest.TestCase):
    def test_measurements_stand_beside_the_names(self) -> None:
        said = {
            Technique("grace", rise_s=0.061): "grace note of 61 ms",
            Technique("slide_in", 2.5): "slide from below, 2.5 semitones",
            Technique("slide_in", -2.5): "slide from above, 2.5 semitones",
        }
        for technique, words in said.items():
            self.assertEqual(technique_words(technique), words)


if __name__ == "__main__":
    unittest.main()
