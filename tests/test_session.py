import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from eager_owl.audio.decode import Cancelled, Recording
from eager_owl.neck.story import tell_hand
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session import explaining, facts, hearing, placing
from eager_owl.session.recordings import as_stored, decode_sound, recording_path, reference_to
from eager_owl.solo.document import CONTOUR_HOP_S, Note, Phrase, Solo, with_notes
from eager_owl.solo.edits import set_place, toggle_pins
from tests.support import RATE, FolderCase, after_silence, line, tone


def recording(*pitches: int) -> Recording:
    return Recording(after_silence(*(tone(float(p), 0.3, 0.2) for p in pitches))[:, None], RATE)


def go_on(share: float, doing: str) -> bool:
    return True


class Places(unittest.TestCase):
    def solo(self) -> Solo:
        return Solo(phrases=(Phrase(0, 1, "One"), Phrase(1, 9, "Two")), notes=tuple(line(64, 67, 69, 72, 74, 76)))

    def test_placing_a_phrase_leaves_the_other_alone(self) -> None:
        placed = placing.place_phrase(self.solo(), 0)
        self.assertTrue(all(n.string for n in placed.notes[:4]))
        self.assertTrue(all(n.string is None for n in placed.notes[4:]))

    def test_placing_around_a_note_places_its_phrase_or_itself(self) -> None:
        placed = placing.place_around(self.solo(), [5])
        self.assertEqual([n.string is None for n in placed.notes], [True] * 4 + [False] * 2)
        loose = replace(self.solo(), phrases=(Phrase(0, 0.5, "One"),))
        placed = placing.place_around(loose, [6])
        self.assertEqual([n.id for n in placed.notes if n.string], [6])

    def test_the_school_is_the_solos_and_an_unknown_one_is_the_first(self) -> None:
        one_string = placing.place_phrase(replace(self.solo(), placing_school="along-one-string"), 0)
        self.assertEqual(len({n.string for n in one_string.notes[:4]}), 1)
        placing.place_phrase(replace(self.solo(), placing_school="gone"), 0)

    def test_a_pin_draws_the_phrase_along(self) -> None:
        pinned = set_place(placing.place_phrase(self.solo(), 0), 1, 4)
        placed = placing.place_phrase(pinned, 0)
        self.assertEqual(placed.note(1).string, 4)
        self.assertLess(tell_hand(placed.notes[:4], placed.instrument).shifts, 3)


class Strings(unittest.TestCase):
    def test_the_sound_speaks_for_a_string_once_two_are_known(self) -> None:
        def stiff(note_id: int, string: int, fret: int, open_stiffness: float, pinned: bool) -> Note:
            pitch = Solo().instrument.tuning[string - 1] + fret
            note = Note(note_id, float(note_id), 0.9, pitch, string, fret, stiffness=open_stiffness * 2 ** (fret / 6))
            return note.pinned("place") if pinned else note

        known = (stiff(1, 3, 2, 9e-5, True), stiff(2, 4, 2, 3e-5, True))
        asked = stiff(3, 4, 9, 3e-5, False)
        solo = Solo(notes=(*known, replace(asked, string=3, fret=4)))
        heard = placing.string_heard(solo, solo.note(3))
        assert heard is not None
        self.assertEqual(heard[0], 4)
        self.assertGreater(heard[1], 0.5)
        self.assertEqual(placing.place_notes(solo, [solo.note(3)]).note(3).string, 4)
        self.assertIsNone(placing.string_heard(replace(solo, notes=known[:1]), solo.note(3)))


class Reading(unittest.TestCase):
    def test_key_and_chart_that_cannot_be_read_count_as_none(self) -> None:
        solo = Solo(key_text="nonsense", chart_text="| ??? |")
        self.assertIsNone(facts.key_of(solo))
        self.assertEqual(facts.chart_of(solo).bars, ())

    def test_explaining_uses_the_solos_school_unless_told(self) -> None:
        solo = Solo(key_text="F minor", chart_text="| Fm7 |", grid=BeatGrid(), notes=tuple(line(68)))
        self.assertEqual(explaining.explain_notes(solo, solo.notes).unexplained, 0)
        told = explaining.explain_notes(solo, solo.notes, "chord-by-chord").reasons[0]
        self.assertEqual(told.source.name if told.source else None, "F natural minor")

    def test_doubts_are_the_unsure_and_unpinned_worst_first(self) -> None:
        notes = [replace(n, confidence=c) for n, c in zip(line(60, 62, 64, 65), (0.5, 0.95, 0.3, 0.8), strict=True)]
        solo = toggle_pins(Solo(notes=tuple(notes), phrases=(Phrase(0, 0.6, "One"),)), [4])
        self.assertEqual([n.id for n in facts.doubts(solo)], [3, 1])
        self.assertEqual([n.id for n in facts.doubts(solo, Phrase(0.4, 9))], [3])


class Hearing(unittest.TestCase):
    def test_a_phrase_is_heard_at_its_own_place_and_time(self) -> None:
        sound = recording(60, 63, 65, 67)
        heard = hearing.hear_phrase(Solo(reference_cents=0.0), Phrase(0.55, 1.15, "Middle"), sound, None, go_on)
        self.assertEqual([n.pitch for n in heard.notes], [63, 65])
        self.assertAlmostEqual(heard.notes[0].onset, 0.6, delta=0.03)
        self.assertLessEqual(heard.notes[-1].end, 1.15 + 1e-6)
        solo = hearing.lay_heard(Solo(phrases=(Phrase(0.55, 1.15, "Middle"),)), 0, heard)
        self.assertEqual(solo.phrases[0].stage, "placed")
        self.assertEqual(solo.reference_cents, 0.0)
        self.assertTrue(all(n.fret is not None for n in solo.notes))

    def test_a_phrase_at_the_very_start_and_end(self) -> None:
        sound = recording(60, 63)
        everything = Phrase(0.0, sound.duration_s, "All")
        heard = hearing.hear_phrase(Solo(reference_cents=0.0), everything, sound, None, go_on)
        self.assertEqual([n.pitch for n in heard.notes], [60, 63])

    def test_a_note_that_sounds_past_its_phrase_ends_with_it_and_so_does_what_was_measured(self) -> None:
        short = Phrase(0, 0.5, "Short")  # its note sounds from 0.3 to 0.6
        heard = hearing.hear_phrase(Solo(reference_cents=0.0), short, recording(60, 63), None, go_on)
        (note,) = heard.notes
        self.assertAlmostEqual(note.end, short.end)
        self.assertLessEqual(len(note.contour_cents) * CONTOUR_HOP_S, note.duration + CONTOUR_HOP_S)

    def test_cancel(self) -> None:
        with self.assertRaises(Cancelled):
            hearing.hear_phrase(Solo(), Phrase(0, 1), recording(60), None, lambda share, doing: share < 0.5)

    def test_survey_follows_the_line(self) -> None:
        found = hearing.survey(recording(60, 67))
        self.assertAlmostEqual(float(found.midi[round(0.45 / hearing.SURVEY_HOP_S)]), 60, delta=0.1)
        self.assertAlmostEqual(float(found.midi[round(0.75 / hearing.SURVEY_HOP_S)]), 67, delta=0.1)
        self.assertTrue(np.isnan(found.midi[0]))
        self.assertAlmostEqual(found.reference_cents, 0, delta=3)


class Recordings(FolderCase):
    def test_paths_are_relative_inside_the_documents_folder_and_absolute_outside(self) -> None:
        path = self.sound_file("take.wav", tone(60.0, 0.2))
        solo = Solo(recording=reference_to(decode_sound(path)))
        stored = as_stored(solo, path, self.folder / "a.owl.json").recording
        assert stored is not None
        self.assertEqual(stored.path, "take.wav")
        self.assertEqual(recording_path(stored, self.folder / "a.owl.json"), path.resolve())
        outside = as_stored(solo, path, Path("/somewhere/a.owl.json")).recording
        assert outside is not None
        self.assertEqual(outside.path, str(path.resolve()))
        self.assertEqual(as_stored(Solo(), path, None), Solo())


class NoteFacts(unittest.TestCase):
    def test_a_note_knows_its_end_and_its_bend(self) -> None:
        note = Note(1, 1.0, 0.5, 60)
        self.assertEqual((note.end, note.bend), (1.5, None))
        self.assertEqual(note.pinned("pitch").pinned("place").pins, {"pitch", "place"})


class AroundPins(unittest.TestCase):
    def test_pinning_one_string_of_a_double_stop_keeps_the_other(self) -> None:
        sound = after_silence(tone(60.0, 0.6) + tone(67.0, 0.6), tone(69.0, 0.4))
        whole = Recording(sound[:, None], RATE)
        phrase = Phrase(0.0, whole.duration_s, "All")
        solo = Solo(reference_cents=0.0, mix="solo", phrases=(phrase,))
        solo = hearing.lay_heard(solo, 0, hearing.hear_phrase(solo, phrase, whole, None, go_on))
        self.assertEqual(sorted(n.pitch for n in solo.notes), [60, 67, 69])
        upper = next(n for n in solo.notes if n.pitch == 67)
        solo = with_notes(solo, (n.pinned("pitch") if n.id == upper.id else n for n in solo.notes))
        again = hearing.lay_heard(solo, 0, hearing.hear_phrase(solo, solo.phrases[0], whole, None, go_on))
        self.assertEqual(sorted(n.pitch for n in again.notes), [60, 67, 69])
        self.assertIn("pitch", again.note(upper.id).pins)


class Several(unittest.TestCase):
    def solo(self) -> Solo:
        phrases = (Phrase(0.1, 0.6, "One"), Phrase(0.6, 0.88, "Two", stage="placed"), Phrase(0.88, 1.2, "Three"))
        return Solo(reference_cents=0.0, mix="solo", phrases=phrases)

    def test_what_is_unheard_is_heard_in_one_go(self) -> None:
        solo = self.solo()
        self.assertEqual(hearing.unheard(solo), [0, 2])
        told: list[float] = []

        def progress(share: float, doing: str) -> bool:
            told.append(share)
            return True

        heard = hearing.hear_phrases(solo, [0, 2], recording(60, 63, 65), None, progress)
        self.assertEqual([[n.pitch for n in heard[i].notes] for i in (0, 2)], [[60], [65]])
        self.assertEqual(told, sorted(told))

    def test_what_was_heard_before_it_was_stopped_stays(self) -> None:
        heard = hearing.hear_phrases(self.solo(), [0, 2], recording(60, 63, 65), None, lambda share, _: share < 0.6)
        self.assertEqual(list(heard), [0])


class Surveys(unittest.TestCase):
    def surveyed(self, **fields: object) -> hearing.Survey:
        midi = np.full(500, np.nan)
        midi[20:180], midi[210:420] = 64.0, 66.0
        plain = hearing.Survey(midi, -12.0, "solo", BeatGrid(90.0, 0.5, 3), 0.8)
        return replace(plain, **fields)  # type: ignore[arg-type]

    def test_a_survey_tells_tuning_mix_line_and_beat(self) -> None:
        found = hearing.survey(recording(60, 63, 67))
        self.assertEqual(found.mix, "solo")
        self.assertAlmostEqual(found.reference_cents, 0.0, delta=6.0)
        self.assertLessEqual({60, 63, 67}, {round(float(m)) for m in found.midi[np.isfinite(found.midi)]})

    def test_the_beat_found_is_taken_or_refused(self) -> None:
        self.assertEqual(hearing.take_beat(Solo(), self.surveyed()).grid, BeatGrid(90.0, 0.5, 3))
        with self.assertRaisesRegex(ValueError, "tap it"):
            hearing.take_beat(Solo(), self.surveyed(grid=None))

    def test_suggested_phrases_leave_the_players_own(self) -> None:
        own = Phrase(0.3, 3.8, "Mine", stage="proved")
        solo = hearing.suggest_phrases(Solo(phrases=(own,)), self.surveyed())
        self.assertEqual([phrase.name for phrase in solo.phrases], ["Mine", "Phrase 2"])
        self.assertEqual(solo.phrases[0], own)

    def test_the_surveys_mix_and_tuning_serve_until_the_solo_has_its_own(self) -> None:
        sound, phrase = recording(60, 63), Phrase(0.0, 1.4)
        heard = hearing.hear_phrase(Solo(), phrase, sound, self.surveyed(), go_on)
        self.assertEqual(heard.reference_cents, -12.0)
        own = hearing.hear_phrase(
            Solo(reference_cents=3.0, mix="solo"), phrase, sound, self.surveyed(mix="band"), go_on
        )
        self.assertEqual((own.reference_cents, [n.pitch for n in own.notes]), (3.0, [60, 63]))
