"""What the player does to help the detector: doubts, taps, focus, beats, phrases, repeats; without a window."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from unittest import mock

import numpy as np

from eager_owl.audio.decode import Cancelled
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.facts import doubts
from eager_owl.session.hearing import hear_phrase
from eager_owl.solo.document import Phrase, with_notes
from eager_owl.sound import night_ferry
from tests.sessions import SessionCase
from tests.support import after_silence, line, tone, with_doubt


class HelpingCase(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()

    def doubtful(self) -> int:
        """Make the second note of the phrase the worst doubt."""
        self.phrase(0)
        self.edit(with_doubt)
        return self.solo.notes_in(self.solo.phrases[0])[1].id


class Doubts(HelpingCase):
    def test_the_worst_is_first_and_it_is_right_pins_it_and_goes_on(self) -> None:
        worst = self.doubtful()
        self.press("D")
        self.assertEqual(self.chosen, (worst,))
        before = len(doubts(self.solo, self.solo.phrases[0]))
        self.press("Z")
        self.assertIn("pitch", self.solo.note(worst).pins)
        self.assertEqual(len(doubts(self.solo, self.solo.phrases[0])), before - 1)

    def test_a_runner_up_is_taken_and_what_is_around_it_is_heard_anew(self) -> None:
        worst = self.doubtful()
        pitch = self.solo.note(worst).pitch
        self.press("D")
        with mock.patch("eager_owl.session.recordings.hear_phrase", wraps=hear_phrase) as heard:
            self.press("E")
        self.assertEqual(heard.call_count, 1)
        note = self.solo.note(worst)
        self.assertEqual(note.pitch, pitch + 12)
        self.assertIn("pitch", note.pins)
        self.assertTrue(any(n.pitch == 60 for n in self.solo.notes_in(self.solo.phrases[0])))

    def test_accepting_with_nothing_selected_goes_to_the_worst(self) -> None:
        worst = self.doubtful()
        self.press("Z")
        self.assertEqual(self.chosen, (worst,))


def _hear() -> object:
    from eager_owl.session import hear_phrase

    return hear_phrase


class Taps(HelpingCase):
    def test_taps_are_kept_where_the_ear_is_and_let_go(self) -> None:
        opened = self.opened
        assert opened is not None
        self.phrase(1)
        for time_s in (5.0, 5.3, 5.31):
            opened.move_cursor(time_s)
            self.press("I")
        self.assertEqual(opened.view.taps, (5.0, 5.31))
        self.press("Shift+I")
        self.assertEqual(opened.view.taps, ())

    def test_hearing_puts_a_note_at_each_tap(self) -> None:
        self.phrase(3)
        taps = tuple(night_ferry.GRID.time_of(beat) for beat in (18, 19, 20, 21.5))
        self.opened.set_taps(taps)
        self.press("H")
        notes = self.solo.notes_in(self.solo.phrases[3])
        self.assertEqual(len(notes), len(taps))
        for note, tap in zip(notes, taps, strict=True):
            self.assertAlmostEqual(note.onset, tap, delta=0.1)


class Hearing(HelpingCase):
    def test_the_range_bounds_what_is_heard(self) -> None:
        self.edit(lambda solo: replace(solo, lead_range=(72, 86), notes=()))
        self.phrase(1)
        self.press("H")
        notes = self.solo.notes_in(self.solo.phrases[1])
        self.assertTrue(notes)
        self.assertGreaterEqual(min(note.pitch for note in notes), 71)

    def test_on_the_whole_recording_all_that_is_not_heard_is_heard(self) -> None:
        self.phrase(1)
        self.press("Right")
        self.press("P")
        before = {index: self.solo.notes_in(self.solo.phrases[index]) for index in range(3)}
        self.press("W")
        self.press("H")
        self.assertEqual([phrase.stage == "to hear" for phrase in self.solo.phrases], [False] * 7)
        self.assertEqual({i: self.solo.notes_in(self.solo.phrases[i]) for i in range(3)}, before)
        self.assertTrue(all(self.solo.notes_in(phrase) for phrase in self.solo.phrases))
        self.assertIn("4 phrases heard", self.notice)
        self.press("H")
        self.assertIn("every phrase is heard", self.notice)
        self.press("Ctrl+Z")
        self.assertEqual([phrase.stage for phrase in self.solo.phrases[3:]], ["to hear"] * 4)

    def test_hearing_all_shows_how_far_it_is_and_what_is_heard_stays_when_it_is_stopped(self) -> None:
        told: list[tuple[float | None, str]] = []

        def watch(share: float | None, doing: str) -> None:
            told.append((share, doing))
            if share is not None and share > 0.3:
                self.session.recordings.stop()

        self.session.working.connect(watch)
        self.press("W")
        self.session.run(self.session.commands["hear"])
        work = self.workers.waiting.pop(0)
        with mock.patch.object(self.workers, "post", lambda call: call()):  # progress is told while it works
            work()
        self.finish()
        self.assertTrue(any("2 of 4" in doing for _, doing in told))
        self.assertEqual(told[-1], (None, ""))
        stages = [phrase.stage for phrase in self.solo.phrases[3:]]
        self.assertEqual((stages[0], stages[-1]), ("placed", "to hear"))

    def test_without_phrases_there_is_nothing_to_hear_yet(self) -> None:
        self.edit(lambda solo: replace(solo, phrases=(), notes=()))
        self.press("H")
        self.assertIn("Ctrl P suggests them", self.notice)


class BeatAndBars(HelpingCase):
    def grid(self) -> BeatGrid:
        assert self.solo.grid is not None
        return self.solo.grid

    def test_the_beat_found_is_taken(self) -> None:
        self.edit(lambda solo: replace(solo, grid=None))
        self.press("Ctrl+T")
        self.assertEqual(self.grid().meter, "3/4")
        self.assertAlmostEqual(self.grid().bpm, night_ferry.GRID.bpm, delta=0.2)
        off = self.grid().beat_at(night_ferry.GRID.first_beat_s) % 3
        self.assertLess(min(off, 3 - off), 0.1)

    def test_a_bar_begins_where_the_player_says(self) -> None:
        opened = self.opened
        assert opened is not None
        opened.move_cursor(night_ferry.GRID.time_of(13))
        self.press("Ctrl+D")
        self.assertAlmostEqual(self.grid().beat_at(opened.view.cursor) % 3, 0, delta=1e-6)


class NewRecording(SessionCase):
    def open(self, name: str, *parts: object) -> None:
        self.session.keeping.open_path(self.sound_file(name, after_silence(*parts)))  # type: ignore[arg-type]
        self.finish()

    def test_beat_and_phrases_are_offered_and_taken(self) -> None:
        self.open("take.wav", *(tone(float(p), 0.3) for p in (60, 62, 64) * 3))
        self.assertIn("Heard a guitar alone", self.notice)
        self.answer(next(words for words in self.answers if "phrases" in words))
        self.assertGreaterEqual(len(self.solo.phrases), 1)
        self.assertEqual(self.solo.phrases[0].name, "Phrase 1")

    def test_an_offer_is_gone_once_its_key_has_taken_it(self) -> None:
        self.open("take.wav", *(tone(float(p), 0.3) for p in (60, 62, 64) * 3))
        self.assertTrue(self.answers)
        self.press("Ctrl+P")
        self.assertFalse(self.answers)

    def stopped_midway(self, start: Callable[[], object]) -> list[float | None]:
        """What is told of long work that Esc stops as soon as it has begun to tell how far it is."""
        told: list[float | None] = []

        def watch(share: float | None, doing: str) -> None:
            told.append(share)
            if share:
                self.session.run(self.session.commands["stop_work"])

        self.session.working.connect(watch)
        start()
        work = self.workers.waiting.pop(0)
        with mock.patch.object(self.workers, "post", lambda call: call()):
            work()
        self.finish()
        return told

    def test_whatever_shows_how_far_it_is_can_be_stopped(self) -> None:
        self.open("line.wav", np.tile(tone(64.0, 1.0), 8))
        self.edit(lambda solo: replace(solo, grid=BeatGrid(120.0)))
        self.assertIsNone(self.stopped_midway(self.session.chords.suggest)[-1])
        self.assertLess(len(self.session.chords.suggested), 4)
        notes = tuple(line(64, 64, 64, 64, beat_s=1.0))
        self.edit(lambda solo: replace(solo, notes=notes))
        before = self.solo
        path = self.folder / "line.wav"
        self.assertIsNone(self.stopped_midway(lambda: self.session.bringing_in.lay_on(path))[-1])
        self.assertIs(self.solo, before)

    def test_listening_through_can_be_stopped(self) -> None:
        def stopped(_recording: object, progress: Callable[[float, str], bool]) -> None:
            self.session.recordings.stop()
            self.assertFalse(progress(0.5, "listening"))
            raise Cancelled

        told: list[float | None] = []
        self.session.working.connect(lambda share, doing: told.append(share))
        with mock.patch("eager_owl.session.recordings.survey", stopped):
            self.open("long.wav", np.tile(tone(64.0, 1.0), 3))
        self.assertIsNone(told[-1])
        assert self.opened.sound is not None
        self.assertIsNone(self.opened.sound.survey)
        self.press("Ctrl+P")
        self.assertTrue(any("being listened through" in words for words in self.said))
        self.assertIsNotNone(self.opened.sound.survey)  # begun again, for somebody asked


class Repeats(HelpingCase):
    def test_a_correction_is_carried_to_the_repeat(self) -> None:
        figure = (65, 68, 70, 72, 70)
        phrases = (Phrase(0.0, 1.24, "One"), Phrase(1.24, 3.5, "Two"))
        notes = line(*figure, 60, 61, *figure)
        self.edit(lambda solo: with_notes(replace(solo, phrases=phrases), notes))
        self.phrase(0)
        self.opened.select([4])
        self.press("Up")
        self.press("Ctrl+R")
        self.assertEqual([self.solo.note(i).pitch for i in (4, 11)], [73, 73])

    def test_suggested_phrases_fill_what_is_unmarked(self) -> None:
        self.edit(lambda solo: replace(solo, phrases=solo.phrases[:1]))
        self.press("Ctrl+P")
        self.assertGreaterEqual(len(self.solo.phrases), 4)
        self.assertEqual(self.solo.phrases[0].name, "Pickup")


del HelpingCase

if __name__ == "__main__":
    unittest.main()
