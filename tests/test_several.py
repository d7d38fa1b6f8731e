"""Several pitches at once, a lead among others, the judge, and what the player hints at."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import mono
from eager_owl.hearing import stereo
from eager_owl.hearing.belief import Claim
from eager_owl.hearing.detect import Detection, believed_line, claimed, detect_notes, listen, measured_notes
from eager_owl.hearing.frames import HOP_S
from eager_owl.hearing.hints import Hints, PinnedNote, tapped_attacks
from eager_owl.hearing.judge import judge_candidates
from eager_owl.hearing.lead import begin_frames, follow_lead
from eager_owl.hearing.mix import Claimed, compared, is_band
from eager_owl.hearing.plateaus import Plateau
from eager_owl.hearing.salience import COARSE_HOP_S, LOWEST_MIDI, find_candidates, measure_spectra
from eager_owl.hearing.segment import RawNote
from eager_owl.hearing.several import Beginning, find_beginnings, follow_ridge, without_mixtures
from eager_owl.hearing.stereo import detect_in_stereo, lead_place
from tests.support import RATE, after_silence, tone


def together(*pitches: int, seconds: float = 0.6) -> NDArray[np.float32]:
    return np.sum([tone(float(p), seconds) for p in pitches], axis=0).astype(np.float32)


def detect(sound: NDArray[np.float32], **options: object) -> Detection:
    return detect_notes(sound, RATE, 0.0, mix="solo", **options)  # type: ignore[arg-type]


def pitches(found: Detection) -> list[int]:
    return [note.pitch for note in found.notes]


def claims(*beliefs: float, midi: float = 60.0) -> list[Claimed]:
    """One claim every third of a second."""
    return [Claimed(belief, midi, index / 3) for index, belief in enumerate(beliefs)]


class Salience(unittest.TestCase):
    def test_a_candidate_stands_at_each_pitch(self) -> None:
        for pair in ((45, 57), (52, 64), (60, 67), (72, 81)):
            spectra = measure_spectra(after_silence(together(*pair)), RATE)
            found = find_candidates(spectra)
            row = round(0.55 / COARSE_HOP_S)
            for pitch in pair:
                nearest = float(np.abs(found.midi[row][found.bins[row] >= 0] - pitch).min())
                self.assertLess(nearest, 0.2, f"{pitch} of {pair}")

    def test_silence_has_none(self) -> None:
        found = find_candidates(measure_spectra(np.zeros(RATE, np.float32), RATE))
        self.assertTrue((found.bins == -1).all())

    def test_levels_do_not_depend_on_how_loud_it_all_is(self) -> None:
        sound = after_silence(tone(64.0, 0.5))
        loud, soft = measure_spectra(sound, RATE), measure_spectra(0.01 * sound, RATE)
        row = round(0.5 / COARSE_HOP_S)
        self.assertAlmostEqual(float(loud.sharp[row].max()), float(soft.sharp[row].max()), delta=0.02)
        self.assertAlmostEqual(loud.loudest_db - soft.loudest_db, 40.0, delta=1.0)


class Mixtures(unittest.TestCase):
    """A note between two strings struck together, of which the lower is bent up to the higher."""

    def setUp(self) -> None:
        self.contour = np.concatenate([np.full(20, 71.5), np.full(40, 72.0), np.full(40, 70.0)])
        self.plateaus = [Plateau(0, 20, 71.5), Plateau(20, 60, 72.0), Plateau(60, 100, 70.0)]

    def heard(self, other: float, late_s: float = 0.0) -> tuple[RawNote, NDArray[np.float64]]:
        note = RawNote(0, 100, 71.5, "attack", 2.0, self.plateaus)
        frame = round((20 * HOP_S + late_s) / COARSE_HOP_S) if late_s else 0
        raw, contour = without_mixtures([note], self.contour, [Beginning(frame, other, 0.9)])
        return raw[0], contour

    def test_it_stands_where_the_two_meet_from_the_first(self) -> None:
        note, contour = self.heard(70.0)
        self.assertEqual((note.start, note.midi, [p.midi for p in note.plateaus]), (0, 72.0, [72.0, 70.0]))
        self.assertTrue((contour[:60] == 72.0).all())
        self.assertTrue((contour[60:] == 70.0).all())
        self.assertEqual(self.contour[0], 71.5)

    def test_without_another_below_that_begins_with_it_it_is_a_small_bend(self) -> None:
        for other, late_s in ((71.5, 0.0), (67.0, 0.0), (70.0, 0.3)):
            note, contour = self.heard(other, late_s)
            self.assertEqual(note.plateaus, self.plateaus)
            self.assertTrue((contour == self.contour).all())


class Judge(unittest.TestCase):
    def test_what_sounds_is_told_from_its_octaves(self) -> None:
        spectra = measure_spectra(after_silence(tone(64.0, 0.6)), RATE)
        found = find_candidates(spectra)
        judged = judge_candidates(spectra, found, "alone")
        row = round(0.55 / COARSE_HOP_S)
        by_pitch = {round(float(m)): float(p) for m, p in zip(found.midi[row], judged.sounds[row], strict=True)}
        self.assertGreater(by_pitch[64], 0.8)
        self.assertLess(max((p for m, p in by_pitch.items() if m != 64), default=0.0), 0.3)

    def test_it_begins_where_it_begins(self) -> None:
        spectra = measure_spectra(after_silence(tone(60.0, 0.5), tone(65.0, 0.5)), RATE)
        found = find_candidates(spectra)
        beginnings = find_beginnings(found, judge_candidates(spectra, found, "alone"))
        sure = [(round(b.midi), b.frame * COARSE_HOP_S) for b in beginnings if b.begins > 0.5]
        self.assertEqual([pitch for pitch, _ in sure], [60, 65])
        for (_, heard), true in zip(sure, (0.3, 0.8), strict=True):
            self.assertAlmostEqual(heard, true, delta=0.04)

    def test_a_ridge_follows_a_bend_and_ends_with_the_sound(self) -> None:
        contour = np.concatenate([np.full(RATE // 5, 67.0), np.linspace(67, 69, RATE // 5), np.full(RATE // 5, 69.0)])
        spectra = measure_spectra(after_silence(tone(contour), seconds=0.5), RATE)
        found = find_candidates(spectra)
        judged = judge_candidates(spectra, found, "alone")
        start = round(0.52 / COARSE_HOP_S)
        ridge = follow_ridge(found, judged, start, 67.0, len(spectra))
        self.assertAlmostEqual(float(ridge[0]), 67, delta=0.3)
        self.assertAlmostEqual(float(np.median(ridge[-15:-8])), 69, delta=0.3)
        self.assertLess((start + len(ridge)) * COARSE_HOP_S, 1.3)


class TwoAtOnce(unittest.TestCase):
    def test_double_stops(self) -> None:
        for pair in ((64, 67), (60, 65), (57, 66), (69, 76)):
            found = detect(after_silence(together(*pair)))
            self.assertEqual(sorted(pitches(found)), list(pair))
            self.assertTrue(all(note.technique("double_stop") for note in found.notes), pair)

    def test_one_note_is_one_note(self) -> None:
        for pitch in (45, 57, 64, 76, 83):
            found = detect(after_silence(tone(float(pitch), 0.6)))
            self.assertEqual(pitches(found), [pitch])
            self.assertIsNone(found.notes[0].technique("double_stop"))

    def test_a_line_after_a_double_stop(self) -> None:
        found = detect(after_silence(together(60, 64), tone(67.0, 0.3), tone(69.0, 0.3)))
        self.assertEqual(sorted(pitches(found)), [60, 64, 67, 69])

    def test_every_note_has_a_contour_of_its_own(self) -> None:
        for note in detect(after_silence(together(62, 69))).notes:
            self.assertGreater(len(note.contour_cents), 20)
            self.assertLess(max(map(abs, note.contour_cents[5:-5])), 30)


def band(seconds: float, rng: np.random.Generator) -> NDArray[np.float32]:
    """Bass, a held chord and a beat of noise."""
    count = round(seconds * RATE)
    time = np.arange(count) / RATE
    sound = 0.7 * np.concatenate([tone(float(p), seconds / 4, 0.8) for p in (33, 40, 38, 33)])[:count]
    for pitch in (57, 60, 64):
        sound += 0.35 * tone(float(pitch), seconds, 5.0)[:count]
    beat = np.exp(-(time % 0.5) / 0.02) * rng.standard_normal(count) * 0.06
    return np.asarray(sound + beat, dtype=np.float32)


def over_band(line: NDArray[np.float32]) -> NDArray[np.float32]:
    """Four seconds of a line, with half as much of a band."""
    accompaniment = band(4.0, np.random.default_rng(4))
    ratio = np.sqrt(np.mean(line**2) / np.mean(accompaniment**2))
    return np.concatenate([np.zeros(RATE // 5, np.float32), line + 0.5 * ratio * accompaniment])


class OverABand(unittest.TestCase):
    def setUp(self) -> None:
        self.line = np.concatenate([tone(float(p), 0.5) for p in (76, 79, 81, 79, 76, 74, 72, 74)])
        self.mix = over_band(self.line)

    def test_the_lead_is_told_from_the_rest(self) -> None:
        found = detect_notes(self.mix, RATE, 0.0, mix="band")
        self.assertEqual(found.mix, "band")
        right = [p for p, true in zip(pitches(found), (76, 79, 81, 79, 76, 74, 72, 74), strict=False) if p == true]
        self.assertGreaterEqual(len(right), 7)
        self.assertLessEqual(len(found.notes), 10)

    def test_a_lead_among_the_basss_pitches(self) -> None:
        low = (45, 48, 50, 48, 45, 43, 45, 43)
        line = np.concatenate([tone(float(p), 0.5) for p in low])
        self.assertEqual(pitches(detect_notes(over_band(line), RATE, 0.0, mix="band")), [*low])

    def test_a_lead_plays_one_note_at_a_time(self) -> None:
        heard = listen(after_silence(tone(72.0, 1.0)), RATE, mix="band")

        def note(start: int, end: int, midi: float, heard_from: int = 0) -> Claim:
            plateaus = [Plateau(start + heard_from, end, midi)]
            return Claim(RawNote(start, end, midi, "attack", 1.0, plateaus), None)

        claims = (
            note(50, 200, 72.0),
            note(100, 150, 79.0),
            note(102, 150, 67.0),
            note(140, 170, 74.0, heard_from=20),
        )
        heard = replace(heard, claims=(*claims, note(150, 190, 76.0)))
        with mock.patch("eager_owl.hearing.detect.believe", return_value=np.array([0.9, 0.7, 0.8, 0.9, 0.9])):
            line = measured_notes(heard)
        # Of two at once the one that is believed more; one cut before its pitch is heard is none.
        spans = [(each.note.start, each.note.end, each.note.midi) for each in line]
        self.assertEqual(spans, [(50, 102, 72.0), (102, 140, 67.0), (150, 190, 76.0)])
        self.assertEqual([each.note.plateaus[-1].end for each in line], [102, 140, 190])

    def test_auto_tells_which_it_is(self) -> None:
        for samples, kind in ((self.mix, "band"), (after_silence(self.line), "solo")):
            self.assertEqual(listen(samples, RATE).mix, kind)

    def test_where_the_sound_leaves_it_open_beliefs_decide(self) -> None:
        # Many notes of little belief heard alone, a bass's among them, and a sure line through a band.
        line = claims(*[0.97] * 60)
        self.assertTrue(is_band(1.0, [*claims(*[0.7] * 60), *claims(*[0.9] * 20, midi=40)], line, 0.9))
        # A sure guitar, of which a band leaves doubtful pieces; and one of which it leaves nothing.
        self.assertFalse(is_band(1.0, claims(*[0.97] * 40), claims(*[0.93] * 12, *[0.4] * 12), 0.5))
        self.assertFalse(is_band(1.0, claims(*[0.97] * 40), [], 0.2))
        # Two sure notes among doubtful claims are no line of a lead.
        self.assertFalse(is_band(-1.0, claims(*[0.9] * 27), claims(*[0.98] * 2, *[0.3] * 20), 0.4))

    def test_what_two_hearings_are_compared_by(self) -> None:
        alone = [*claims(0.9, 0.9, 0.9, 0.1), *claims(0.9, 0.9, midi=40), *claims(0.9, midi=70)]
        seen = compared(0.5, alone, claims(0.95, 0.95, 0.95, 0.0), 0.8)
        self.assertEqual((seen["score"], seen["lead"]), (0.5, 0.8))
        self.assertAlmostEqual(seen["doubt alone"], 4 * 0.9 * 0.1)
        # What is surely no note does not make a hearing less sure.
        self.assertAlmostEqual(seen["doubt through a band"], 4 * 0.95 * 0.05 * 3 / 4)
        # Of the three that the line has not, two lie under it.
        self.assertAlmostEqual(seen["beneath"], 2 / 3)
        # Of the six that are believed all but the last of the line begin with another.
        self.assertAlmostEqual(seen["together"], 5 / 6)

    def test_a_low_riff_is_a_guitar_alone(self) -> None:
        riff = np.concatenate([tone(float(p), 0.24, decay_s=0.8) for p in (40, 40, 43, 45, 40, 40, 46, 45) * 3])
        hum = 0.01 * np.sin(2 * np.pi * 50 * np.arange(len(riff)) / RATE)
        heard = listen(after_silence((riff + hum).astype(np.float32)), RATE)
        self.assertEqual(heard.mix, "solo")
        self.assertGreater(sum(1 for each in claimed(heard) if each.belief > 0.5), 18)

    def test_the_line_is_one_line(self) -> None:
        spectra = measure_spectra(self.mix, RATE)
        found = find_candidates(spectra)
        lead = follow_lead(spectra, found, judge_candidates(spectra, found, "band"))
        self.assertEqual(lead.midi.shape, (len(spectra),))
        middle = round(0.45 / COARSE_HOP_S)
        self.assertAlmostEqual(float(lead.midi[middle]), 76, delta=0.3)
        self.assertGreater(lead.sounds[middle], 0.5)

    def test_a_pitch_that_goes_on_needs_a_surer_beginning(self) -> None:
        begins = np.zeros(60)
        begins[20], begins[40] = 0.5, 0.5
        midi = np.concatenate([np.full(40, 60.0), np.full(20, 62.0)])
        self.assertEqual(begin_frames(begins, midi).tolist(), [40])
        begins[20] = 0.9
        self.assertEqual(begin_frames(begins, midi).tolist(), [20, 40])


class Belief(unittest.TestCase):
    def test_clear_notes_are_believed_and_dropped_claims_are_not(self) -> None:
        heard = listen(after_silence(*(tone(float(p), 0.3) for p in (60, 64, 67))), RATE, mix="solo")
        both = [belief for claim, belief in heard.weighed() if claim.raw and claim.beginning]
        self.assertEqual(len(both), 3)
        self.assertGreater(min(both), 0.9)

    def test_runners_up_are_other_pitches_and_share_the_doubt(self) -> None:
        for note in detect(after_silence(together(60, 67), together(59, 71))).notes:
            self.assertNotIn(note.pitch, [pitch for pitch, _ in note.runners_up])
            self.assertLessEqual(sum(share for _, share in note.runners_up), 1 - note.confidence + 0.01)


class BelievedLine(unittest.TestCase):
    def test_strings_that_ring_into_each_other_leave_no_gap(self) -> None:
        chord, beat = (52, 59, 64, 68, 71), round(0.4 * RATE)
        sound = np.zeros(len(chord) * beat, np.float32)
        for index, pitch in enumerate(chord):
            sound[index * beat :] += tone(float(pitch), (len(chord) - index) * beat / RATE)
        line = believed_line(listen(after_silence(sound), RATE, mix="solo"))
        for index, pitch in enumerate(chord):
            middle = round((0.3 + (index + 0.5) * 0.4) / HOP_S)
            self.assertAlmostEqual(float(line[middle]), pitch, delta=0.3)
        self.assertTrue(np.isnan(line[: round(0.25 / HOP_S)]).all())


class HintsFromThePlayer(unittest.TestCase):
    def test_a_range_keeps_what_is_outside_out(self) -> None:
        sound = after_silence(tone(48.0, 0.4), tone(72.0, 0.4))
        self.assertEqual(pitches(detect(sound)), [48, 72])
        self.assertEqual(pitches(detect(sound, hints=Hints(low=60.0, high=84.0))), [72])

    def test_a_pin_decides_what_is_heard_there(self) -> None:
        sound = after_silence(together(55, 67, seconds=0.5), tone(69.0, 0.4))
        pinned = Hints(pinned=(PinnedNote(0.28, 0.8, 67.0),))
        found = detect(sound, hints=pinned)
        self.assertEqual([n.pitch for n in found.notes if abs(n.onset - 0.3) < 0.1], [67])
        self.assertIn(69, pitches(found))

    def test_taps_cut_where_nothing_was_struck_and_nowhere_else(self) -> None:
        held = tone(64.0, 1.2, decay_s=3.0)
        taps = (0.3, 0.7, 1.1)
        found = detect(after_silence(held), hints=Hints(taps=taps))
        self.assertEqual(len(found.notes), 3)
        for note, tap in zip(found.notes, taps, strict=True):
            self.assertAlmostEqual(note.onset, tap, delta=0.11)
        run = after_silence(*(tone(float(p), 0.25) for p in (60, 62, 64, 65)))
        self.assertEqual(len(detect(run, hints=Hints(taps=(0.3, 0.8))).notes), 2)

    def test_a_tap_goes_to_the_strongest_rise_near_it(self) -> None:
        strength = np.zeros(200)
        strength[100] = 3.0
        self.assertEqual(tapped_attacks((0.96, 1.5), strength, 0.01).tolist(), [100, 150])

    def test_a_bend_may_leave_the_range(self) -> None:
        allowed = Hints(high=70.0).allows(np.array([[72.0, 75.0, np.nan, float(LOWEST_MIDI)]]), 0.01)
        self.assertEqual(allowed.tolist(), [[True, False, False, True]])


class BetweenTheChannels(unittest.TestCase):
    """A line to the left of the middle, chords to the right."""

    PITCHES = (76, 79, 81, 79, 76, 74, 72, 74)

    def setUp(self) -> None:
        line = np.concatenate([tone(float(p), 0.5) for p in self.PITCHES])
        chords = band(4.0, np.random.default_rng(4))
        chords = chords * np.sqrt(np.mean(line**2) / np.mean(chords**2))
        self.sound = np.stack([0.9 * line + 0.3 * chords, 0.3 * line + 0.9 * chords], axis=1).astype(np.float32)

    def test_the_place_of_the_lead_is_found(self) -> None:
        heard = listen(mono(self.sound), RATE, mix="band")
        place = lead_place(self.sound, heard)
        assert place is not None
        self.assertLess(place, -0.2)
        same = np.repeat(mono(self.sound)[:, None], 2, axis=1)
        self.assertIsNone(lead_place(same, heard))

    def test_its_notes_are_found_there(self) -> None:
        found = detect_in_stereo(self.sound, RATE, 0.0, mix="band")
        right = [p for p, true in zip(pitches(found), self.PITCHES, strict=False) if p == true]
        self.assertGreaterEqual(len(right), 7)

    def test_another_line_at_that_place_is_not_taken_for_it(self) -> None:
        before = detect_notes(mono(self.sound), RATE, 0.0, mix="band")
        other = tuple(replace(note, pitch=note.pitch - 5, confidence=1.0) for note in before.notes)
        with mock.patch("eager_owl.hearing.stereo.bring_forward", return_value=np.zeros_like(self.sound)):
            self.assertEqual(pitches(detect_in_stereo(self.sound, RATE, 0.0, mix="band")), pitches(before))
        self.assertEqual(stereo._kept(before, replace(before, notes=other)), 0.0)
        self.assertEqual(stereo._kept(before, before), 1.0)


if __name__ == "__main__":
    unittest.main()
