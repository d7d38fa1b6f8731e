"""The open solo, its history and its answers; the player and the jobs; all without a window."""

import time
import unittest
from dataclasses import replace

import numpy as np

from eager_owl.audio.decode import AudioError, Cancelled
from eager_owl.audio.player import LoopSource
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.history import History
from eager_owl.session.jobs import Job, Jobs
from eager_owl.session.next_steps import next_steps
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.placing import place_notes
from eager_owl.session.player import Player, SimulatedDevice
from eager_owl.session.signal import Signal
from eager_owl.solo import edits
from eager_owl.solo.document import Note, Phrase, Solo
from tests.sessions import ManualClock, SessionCase, WorkersAtHand
from tests.support import line


def solo() -> Solo:
    notes = tuple(replace(n, contour_cents=(0,) * 22, level_db=(-20,) * 22) for n in line(65, 68, 70, 72))
    base = Solo("Test", key_text="F minor", chart_text="| Fm7 |", grid=BeatGrid(), phrases=(Phrase(0, 1.2, "One"),))
    return place_notes(replace(base, notes=notes), notes)


class Opened(unittest.TestCase):
    def setUp(self) -> None:
        self.clock = ManualClock()
        self.opened = OpenSolo(solo(), None, None, self.clock)

    def test_an_edit_is_seen_at_once_and_settles_into_one_step(self) -> None:
        opened, before = self.opened, self.opened.solo
        opened.do("pitch", lambda s: edits.change_pitch(s, [1], 1), [1])
        self.assertEqual(opened.solo.note(1).pitch, 66)
        self.assertEqual(len(opened.history), 0)
        self.clock.advance(0.1)
        self.assertEqual(len(opened.history), 1)
        after = opened.solo
        self.assertIsNotNone(after.note(1).string)
        opened.undo()
        self.assertIs(opened.solo, before)
        opened.redo()
        self.assertIs(opened.solo, after)

    def test_undo_before_an_edit_has_settled(self) -> None:
        before = self.opened.solo
        self.opened.do("pitch", lambda s: edits.change_pitch(s, [1], 1), [1])
        self.opened.undo()
        self.assertIs(self.opened.solo, before)
        self.opened.undo()
        self.assertIs(self.opened.solo, before)

    def test_what_cannot_be_done_is_told_and_leaves_no_step(self) -> None:
        told: list[str] = []
        self.opened.told.connect(told.append)
        self.assertFalse(self.opened.do("pitch", lambda s: edits.change_pitch(s, [1], 60), [1]))
        self.assertFalse(self.opened.do("nothing", lambda s: s))
        self.assertEqual(len(self.opened.history), 0)
        self.assertRegex(told[0], "off this neck")

    def test_a_change_tells_which_notes_it_touched(self) -> None:
        touched: list[list[Note]] = []
        self.opened.changed.connect(touched.append)
        self.opened.do("pin", lambda s: edits.toggle_pins(s, [2]))
        self.assertEqual([n.id for n in touched[0]], [2, 2])

    def test_answers_are_kept_until_the_notes_change(self) -> None:
        first = self.opened.answers.explanation("chord-by-chord")
        self.assertIs(self.opened.answers.explanation("chord-by-chord"), first)
        self.opened.do("pitch", lambda s: edits.change_pitch(s, [1], 1), [1])
        self.assertIsNot(self.opened.answers.explanation("chord-by-chord"), first)

    def test_what_a_loop_plays(self) -> None:
        self.assertEqual(self.opened.play_range(), (0, 1.2))
        self.opened.set_span((0.2, 0.4))
        self.assertEqual(self.opened.play_range(), (0.2, 0.4))


class Histories(unittest.TestCase):
    def test_a_step_after_an_undo_takes_the_place_of_what_was_undone(self) -> None:
        one, two, three = (Solo(title=name) for name in ("one", "two", "three"))
        history = History(one)
        history.add(two, "to two")
        self.assertEqual((history.now, history.back(), history.now), (two, "to two", one))
        self.assertIsNone(history.back())
        history.add(three, "to three")
        self.assertIsNone(history.forth())
        self.assertEqual((history.now, len(history)), (three, 1))


class NextSteps(SessionCase):
    def test_a_new_solo_is_led_through_the_order_of_the_work(self) -> None:
        self.demo()
        self.edit(lambda s: replace(s, grid=None, phrases=(), chart_text="", key_text="", notes=()))
        steps = [name for name, _ in next_steps(self.opened)]
        self.assertEqual(steps, ["find_beat", "suggest_phrases", "show_chart", "show_facts"])
        self.press("Ctrl+T")
        self.press("Ctrl+P")
        self.assertEqual([name for name, _ in next_steps(self.opened)], ["show_chart", "show_facts", "hear"])
        self.assertIn("phrases", next_steps(self.opened)[-1][1])
        self.phrase(0)
        self.assertEqual(next_steps(self.opened)[-1], ("hear", "hear this phrase"))
        for name, _ in next_steps(self.opened):
            self.assertIn(name, self.session.commands)

    def test_nothing_is_left_to_say_of_a_phrase_that_is_heard(self) -> None:
        self.demo()
        self.phrase(1)
        self.assertEqual(next_steps(self.opened), [])


class Playing(unittest.TestCase):
    def test_closing_waits_for_all_that_still_stretch(self) -> None:
        player = Player(SimulatedDevice(clock := ManualClock()), clock)
        for start in (0.0, 1.0, 2.0):
            player.play(LoopSource(np.full((80_000, 2), 0.1, np.float32), 8000, start, 0.5, loop=True))
        threads = list(player._renderers)
        player.close()
        self.assertFalse(any(thread.is_alive() for thread in threads))

    def test_the_player_tells_where_the_ear_is_and_when_it_ends(self) -> None:
        clock, moved, stopped = ManualClock(), [], []
        device = SimulatedDevice(clock)
        player = Player(device, clock)
        player.moved.connect(moved.append)
        player.stopped.connect(lambda: stopped.append(1))
        source = LoopSource(np.full((4000, 2), 0.1, np.float32), 8000, 2.0, 1.0, loop=False)
        player.play(source)
        self.assertTrue(player.playing)
        until = time.monotonic() + 10
        while not stopped and time.monotonic() < until:
            device.advance(0.02)
            clock.advance(0.02)
        self.assertFalse(player.playing)
        self.assertEqual(moved[-1], 2.5)
        self.assertEqual(moved, sorted(moved))
        player.close()
        self.assertEqual((stopped, device.latency_frames()), ([1], 0))


class Work(unittest.TestCase):
    def run_job(self, work: object, cancel: bool = False, wanted: bool = True) -> list[object]:
        seen: list[object] = []
        workers = WorkersAtHand()
        jobs = Jobs(workers, lambda words: seen.append(("failed", words)))
        job = jobs.start(work, lambda result: seen.append(("done", result)), lambda: wanted,
                         lambda: seen.append("ended"))  # type: ignore[arg-type, func-returns-value] # fmt: skip
        self.assertTrue(jobs.busy)
        if cancel:
            job.cancel()
        workers.finish()
        self.assertFalse(jobs.busy)
        return seen

    def test_how_a_job_can_end(self) -> None:
        def stopped(job: Job) -> None:
            raise Cancelled

        def broken(job: Job) -> None:
            raise AudioError("the reason")

        def faulty(job: Job) -> None:
            raise ZeroDivisionError

        self.assertEqual(self.run_job(lambda job: 7), ["ended", ("done", 7)])
        self.assertEqual(self.run_job(broken), ["ended", ("failed", "the reason")])
        self.assertEqual(self.run_job(stopped), ["ended"])
        self.assertEqual(self.run_job(lambda job: job.progress(0.5, "x"), cancel=True), ["ended"])
        self.assertEqual(self.run_job(lambda job: 7, wanted=False), ["ended"])
        with self.assertLogs("eager_owl.log", "ERROR") as logged:
            (_, (_, words)) = self.run_job(faulty)  # type: ignore[misc]
        self.assertRegex(words, "a fault of its own: .*written down in")
        self.assertIn("Traceback", logged.output[0])


class Signals(unittest.TestCase):
    def test_all_who_listen_are_told_in_order(self) -> None:
        signal, told = Signal[[int]](), []
        signal.connect(lambda n: told.append(("first", n)))
        signal.connect(lambda n: told.append(("second", n)))
        signal.emit(3)
        self.assertEqual(told, [("first", 3), ("second", 3)])


class Shown(SessionCase):
    def test_notes_that_are_gone_are_not_shown(self) -> None:
        self.demo()
        before = self.opened.view.selection
        self.session.show_notes([9999])
        self.assertEqual(self.opened.view.selection, before)
        self.session.show_notes([9999, self.solo.notes[-1].id])
        self.assertEqual(self.opened.view.selection, (self.solo.notes[-1].id,))


if __name__ == "__main__":
    unittest.main()
