"""Recordings too long to be held or heard in one piece."""

import io
import os
import signal
import subprocess
import sys
import threading
import time
import unittest
from contextlib import redirect_stderr
from dataclasses import replace
from pathlib import Path
from unittest import mock

import av
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from eager_owl import cli
from eager_owl.audio import decode as decoding
from eager_owl.audio import player as players
from eager_owl.audio import stretch
from eager_owl.audio.decode import AudioError, Cancelled, Recording, decode, open_part, resample
from eager_owl.audio.files import FileSamples, open_samples
from eager_owl.audio.player import LoopSource
from eager_owl.audio.stretch import stretch_blocks
from eager_owl.desktop.words import clock_text
from eager_owl.hearing import long
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session import hearing, recordings
from eager_owl.session.editing import parse_clock
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.solo.gate import MOST_SECONDS
from tests.sessions import SessionCase
from tests.support import RATE, FolderCase, after_silence, tone
from tests.windows import WindowCase


class Seeking(FolderCase):
    """Whatever is asked for, and in whatever order, a file gives what it gives from start to end."""

    def setUp(self) -> None:
        super().setUp()
        rng = np.random.default_rng(3)
        steps = np.repeat(rng.integers(45, 75, 40), RATE // 5)
        self.sound = np.stack([tone(steps.astype(float), decay_s=20), tone(steps + 12.0, decay_s=20)], axis=1)

    def encoded(self, name: str, codec: str, rate: int) -> Path:
        path, sound = self.folder / name, resample(self.sound, RATE, rate)
        with av.open(str(path), "w") as container:
            stream = container.add_stream(codec, rate=rate)
            stream.layout = "stereo"
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound.T), format="fltp", layout="stereo")
            frame.sample_rate = rate
            for packet in [*stream.encode(frame), *stream.encode(None)]:
                container.mux(packet)
        return path

    def files(self) -> list[Path]:
        own = [self.sound_file(f"a.{suffix}", self.sound) for suffix in ("wav", "flac", "ogg", "mp3", "aiff")]
        return [*own, self.encoded("a.m4a", "aac", 44100), self.encoded("a.webm", "libopus", 48000)]

    def test_slices_are_the_same_in_any_order(self) -> None:
        rng = np.random.default_rng(4)
        for path in self.files():
            whole = np.concatenate(list(open_samples(path).blocks(5000)))
            asked = open_samples(path)
            for first in [*rng.integers(0, len(whole) - 9000, 12).tolist(), 0, len(whole) - 4000]:
                found, wanted = asked[first : first + 8000], whole[first : first + 8000]
                wanted = wanted[: len(asked) - first]  # as long as the file says that it is
                self.assertAlmostEqual(len(found), len(wanted), delta=30 if path.suffix == ".webm" else 0)
                wanted = wanted[: len(found)]
                # Lossy kinds make up some of their noise anew; a frame too early or late would be 0.01 and more.
                # WebM counts in milliseconds.
                late = range(-25, 26) if path.suffix == ".webm" else (0,)
                middle = slice(100, len(wanted) - 100)
                off = min(float(np.abs(np.roll(found, by, axis=0) - wanted)[middle].mean()) for by in late)
                self.assertLess(off, 5e-4, f"{path.name} from {first}")
            self.assertEqual(asked[10:10].shape, (0, 2))
            self.assertEqual(asked[5:2].shape, (0, 2))

    def test_the_length_is_what_was_found(self) -> None:
        for path in self.files():
            samples = open_samples(path)
            count = sum(len(block) for block in samples.blocks(5000))
            self.assertEqual(len(samples), count, path.name)
            self.assertAlmostEqual(count / samples.rate, 8.0, delta=0.1, msg=path.name)

    def test_a_name_that_is_no_text_opens(self) -> None:
        for source in (self.files()[0], self.files()[3], self.files()[5]):
            odd = self.folder / os.fsdecode(b"caf\xe9 " + os.fsencode(source.name))
            source.rename(odd)
            self.assertAlmostEqual(decode(odd).duration_s, 8.0, delta=0.1)

    def test_a_file_that_is_gone_or_shorter_meanwhile_gives_less_not_an_error(self) -> None:
        for path in self.files():
            recording = decode(path)
            with path.open("r+b") as file:
                file.truncate(path.stat().st_size // 3)
            self.assertEqual(recording.between(0.0, 8.0).shape[1], 2, path.name)
            path.unlink()
            self.assertEqual(recording.between(7.0, 8.0).shape[1], 2, path.name)

    def test_a_part_is_looked_into_where_it_lies(self) -> None:
        holes = self.sound.copy()
        holes[4 * RATE] = np.nan
        path = self.sound_file("holes.wav", holes)
        with mock.patch.object(FileSamples, "blocks", side_effect=AssertionError("all of it is read")):
            part = open_part(path, 1.0, 2.0)
            assert part is not None
            np.testing.assert_array_equal(part.between(1.0, 2.0), self.sound[RATE : 2 * RATE])
            self.assertIsNone(open_part(path, 7.0, 9.0))
            with self.assertRaisesRegex(AudioError, "no numbers.* from 4.00 s"):
                open_part(path, 3.5, 5.0)

    def test_the_command_line_reads_the_part_it_was_asked_for(self) -> None:
        path, out = self.sound_file("a.wav", self.sound), self.folder / "slow.wav"
        with mock.patch.object(FileSamples, "blocks", side_effect=AssertionError("all of it is read")):
            command = ["slow", str(path), "--speed", "0.5", "--from", "2", "--to", "3.5", "--out", str(out)]
            self.assertEqual(cli.main(command), 0)
            command = ["transcribe", str(path), "--from", "2", "--to", "3", "--out", str(self.folder / "n.json")]
            self.assertEqual(cli.main(command), 0)
        self.assertAlmostEqual(decode(out).duration_s, 3.0, delta=0.01)
        self.assertEqual(out.read_bytes()[:4], b"RIFF")
        with mock.patch.object(cli, "_WAV_BYTES", 1000):
            self.assertEqual(cli.main(["slow", str(path), "--speed", "1", "--out", str(out)]), 0)
        self.assertEqual(out.read_bytes()[:4], b"RF64")
        self.assertAlmostEqual(decode(out).duration_s, 8.0, delta=0.01)
        for odd in ("nan", "inf"):
            with redirect_stderr(io.StringIO()) as said:
                self.assertEqual(cli.main(["slow", str(path), "--speed", "1", "--from", odd, "--out", str(out)]), 2)
            self.assertIn("--to must come after --from", said.getvalue())


class OddFiles(FolderCase):
    """Files that are something else than they say, or more than anybody can use."""

    def refused(self, sound: NDArray[np.float32], words: str, rate: int = RATE) -> None:
        with self.assertRaisesRegex(AudioError, words):
            decode(self.sound_file("odd.wav", sound, rate))

    def test_what_no_sound_can_be_is_refused(self) -> None:
        loud = np.full((RATE, 1), 0.1, np.float32)
        loud[500] = 1e30
        self.refused(loud, "far too large. from 0.02 s")
        self.refused(np.full((50, 65), 0.1, np.float32), "65 channels; up to 64")
        with mock.patch.object(decoding, "LONGEST_S", 0.5):
            self.refused(tone(60.0, 1.0), "longer than 0 hours")
        self.assertLessEqual(decoding.LONGEST_S, MOST_SECONDS)

    def test_a_few_samples_are_played_and_heard_as_nothing(self) -> None:
        for frames in (1, 2, 40, 900):
            sound = np.random.default_rng(0).normal(0, 0.1, (frames, 2)).astype(np.float32)
            self.assertEqual(sum(map(len, stretch_blocks(sound, RATE, 0.5))), 2 * frames)
            hearing.hear_phrase(Solo(), Phrase(0.0, 1.0), Recording(sound, RATE))


class LongLoops(unittest.TestCase):
    """A loop longer than is kept: only what lies ahead of the ear is held, and it goes round all the same."""

    @mock.patch.object(stretch, "_LONGEST_BLOCK_S", 1.0)
    def test_it_sounds_as_it_would_if_it_were_kept(self) -> None:
        sound = (np.random.default_rng(0).normal(0, 0.1, (8 * RATE, 1))).astype(np.float32)
        for speed in (1.0, 0.5):
            with mock.patch.object(players, "_KEPT_S", 6.0):
                source = LoopSource(sound, RATE, 0.0, speed, loop=True)
            whole = np.concatenate(list(stretch_blocks(sound, RATE, speed)))
            self.assertLess(len(source._sound), len(whole))
            stop = threading.Event()
            worker = threading.Thread(target=source.render, args=(lambda stop=stop: not stop.is_set(),))
            worker.start()
            heard, until = [], time.monotonic() + 20
            while source.passes < 2 and time.monotonic() < until:
                before = source._heard
                piece = source.read(4000)
                heard.append(piece[: source._heard - before])
            stop.set()
            worker.join(5)
            self.assertFalse(worker.is_alive())
            twice = np.concatenate(heard)[: 2 * len(whole)]
            edge = round(0.006 * RATE)
            for start in (0, len(whole)):
                part = twice[start + edge : start + len(whole) - edge]
                np.testing.assert_allclose(part, whole[edge:-edge], atol=1e-6)

    def test_a_stretch_that_a_file_no_longer_has_is_silent(self) -> None:
        source = LoopSource(np.zeros((0, 2), np.float32), RATE, 0.0, 1.0, loop=True)
        source.render(lambda: True)
        self.assertFalse(source.read(100).any())


class Blocks(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.floats(0.02, 9.0), min_size=1, max_size=120), st.floats(0, 20))
    def test_every_note_is_in_one_block(self, waits: list[float], start: float) -> None:
        onsets = start + np.cumsum(waits)
        notes = [Note(i, float(at), 0.01, 60) for i, at in enumerate(onsets)]
        spans: list[tuple[float, float]] = []

        def hear(low: float, high: float) -> list[Note]:
            spans.append((low, high))
            return [note for note in notes if low <= note.onset < high]

        end = float(onsets[-1]) + 1
        self.assertEqual([n.id for n in long.in_blocks(start, end, hear)], [n.id for n in notes])
        self.assertLessEqual(max(high - low for low, high in spans), long.AT_ONCE_S + 1)

    def test_two_minutes_are_heard_as_in_one_piece(self) -> None:
        rng = np.random.default_rng(8)
        pitches = rng.integers(48, 72, 60)
        notes = [tone(float(pitch) + 0.2, 0.4, decay_s=0.6) for pitch in pitches]
        quiet = np.zeros((65 * RATE,), np.float32)
        sound = np.concatenate([after_silence(*notes), quiet, after_silence(*notes)])
        recording = Recording(sound[:, None], RATE)
        self.assertGreater(recording.duration_s, long.AT_ONCE_S)
        told: list[float] = []

        def progress(share: float, doing: str) -> bool:
            told.append(share)
            return True

        found = hearing.survey(recording, progress)
        self.assertEqual(told, sorted(told))
        self.assertEqual(found.mix, "solo")
        self.assertAlmostEqual(found.reference_cents, 20.0, delta=4.0)
        at = 0.3 + 0.4 * np.arange(60) + 0.2
        for offset in (0.0, 0.6 + 24.0 + 65.0):
            there = found.midi[((at + offset) / hearing.SURVEY_HOP_S).astype(int)]
            self.assertGreater(float(np.mean(np.abs(there - 0.2 - pitches) < 0.3)), 0.9)
        self.assertTrue(
            np.isnan(found.midi[round(40 / hearing.SURVEY_HOP_S) : round(80 / hearing.SURVEY_HOP_S)]).all()
        )
        heard = hearing.hear_phrase(Solo(), Phrase(0.0, recording.duration_s), recording)
        self.assertEqual([note.id for note in heard.notes], list(range(1, len(heard.notes) + 1)))
        wanted = [*pitches.tolist(), *pitches.tolist()]
        self.assertGreater(len(heard.notes), 0.9 * len(wanted))
        self.assertLess(len(heard.notes), 1.05 * len(wanted))

    def test_a_stretch_is_surveyed_at_its_own_times(self) -> None:
        sound = np.concatenate([np.zeros(3 * RATE, np.float32), tone(60.0, 2.0), np.zeros(3 * RATE, np.float32)])
        found = hearing.survey(Recording(sound[:, None], RATE), span=(2.5, 6.0))
        self.assertEqual(len(found.midi), round(6.0 / hearing.SURVEY_HOP_S))
        self.assertTrue(np.isnan(found.midi[: round(2.4 / hearing.SURVEY_HOP_S)]).all())
        self.assertAlmostEqual(float(found.midi[round(4.0 / hearing.SURVEY_HOP_S)]), 60.0, delta=0.2)

    def test_it_stops_within_a_fraction_of_the_work(self) -> None:
        """Asked often enough that a block of a minute does not keep anybody waiting."""
        recording = Recording(np.random.default_rng(1).normal(0, 0.1, (100 * 8000, 1)).astype(np.float32), 8000)
        asked: list[float] = []

        def progress(share: float, doing: str) -> bool:
            asked.append(share)
            return len(asked) < 60

        with self.assertRaises(Cancelled):
            hearing.survey(recording, progress)
        self.assertLess(max(np.diff(asked)), 0.25)


class Clock(unittest.TestCase):
    def test_hours_are_told_where_there_are_any(self) -> None:
        self.assertEqual(clock_text(65.25), "1:05.2")
        self.assertEqual(clock_text(3600 + 65), "1:01:05.0")
        self.assertEqual(clock_text(7200, short=True), "2:00:00")

    def test_times_are_read(self) -> None:
        for words, seconds in (("75", 75.0), ("1:15", 75.0), (" 1:01:15.5 ", 3675.5)):
            self.assertEqual(parse_clock(words), seconds)
        for words in ("", "soon", "1:2:3:4", "1e9", "-4", "1::2", "nan"):
            with self.assertRaisesRegex(ValueError, "is no time"):
                parse_clock(words)


class LongRecordings(SessionCase):
    def take(self, seconds: float = 9.0) -> Path:
        sound: NDArray[np.float32] = after_silence(*(tone(60.0 + k % 5, 0.5) for k in range(round(2 * seconds))))
        return self.sound_file("rehearsal.wav", sound)

    def test_reading_shows_how_far_it_is_and_stops_when_told(self) -> None:
        told: list[tuple[float | None, str]] = []
        self.session.working.connect(lambda share, doing: told.append((share, doing)))
        self.session.keeping.open_path(self.take())
        self.session.recordings.stop()
        self.finish()
        self.assertIsNone(self.session.opened)
        self.assertIsNone(told[-1][0])
        self.session.keeping.open_path(self.take())
        self.finish()
        self.assertIn("reading rehearsal.wav", [doing for _, doing in told])
        self.assertEqual(self.solo.title, "rehearsal")

    def test_of_two_recordings_the_one_asked_for_last_is_opened(self) -> None:
        first, second = self.take(), self.sound_file("second.wav", after_silence(tone(64.0, 1.0)))
        self.session.keeping.open_path(first)
        self.session.keeping.open_path(second)
        self.finish()
        self.assertEqual(self.solo.title, "second")

    def test_one_of_several_tunes_asks_for_a_stretch(self) -> None:
        with mock.patch.object(recordings, "ONE_TUNE_S", 5.0):
            self.session.keeping.open_path(self.take())
            self.finish()
            self.assertIn("choose the stretch", self.notice)
            self.press("Ctrl+T")
            self.assertIn("choose the stretch", self.notice)
            self.opened.set_span((1.0, 5.0))
            self.press("Ctrl+P")
            self.assertTrue(self.solo.phrases)
            for phrase in self.solo.phrases:
                self.assertGreater(phrase.end, 1.0)
                self.assertLess(phrase.start, 5.0)

    def test_the_beat_of_a_stretch(self) -> None:
        self.session.keeping.open_path(self.take(20.0))
        self.finish()
        self.opened.set_span((6.0, 18.0))
        self.press("Ctrl+T")
        assert self.solo.grid is not None
        beat = self.solo.grid.beat_s
        self.assertAlmostEqual(beat % 0.5 if beat > 0.4 else 0.5 % beat, 0.0, delta=0.02)
        self.assertAlmostEqual((self.solo.grid.time_of(0) - 0.3 + 0.25) % 0.5, 0.25, delta=0.05)

    def test_going_to_a_time(self) -> None:
        self.demo()
        self.dialogs.words = "0:05"
        self.press("Alt+G")
        self.assertAlmostEqual(self.opened.view.cursor, 5.0)
        self.dialogs.words = "half past"
        self.press("Alt+G")
        self.assertIn("is no time", self.notice)


class LongDesk(WindowCase):
    def test_looking_closer_goes_on_as_long_as_there_is_more_to_see(self) -> None:
        self.demo()
        opened, desk = self.window.session.solo, self.window.desk

        def shown() -> float:
            return desk.desk_layout.end - desk.desk_layout.start

        with mock.patch.object(type(opened), "duration_s", 3 * 3600.0):
            opened.look_at_phrase(None)
            for _ in range(40):
                desk.zoom(1)
            self.assertAlmostEqual(shown(), 7.0, delta=3.0)
            opened.look_at_phrase(0)
            phrase = opened.phrase
            assert phrase is not None
            self.assertAlmostEqual(shown(), phrase.end - phrase.start, delta=0.3)
            opened.look_at_phrase(None)
            self.assertLess(shown(), 11.0)
            for _ in range(40):
                desk.zoom(-1)
            self.assertAlmostEqual(shown(), 3 * 3600.0)
            # The line and a grid over hours are drawn in the time of what is seen.
            opened.do("a beat", lambda solo: replace(solo, grid=BeatGrid(208.0)))
            desk.refresh()
            self.window.grab()

    def test_the_first_screen_shows_what_is_read(self) -> None:
        welcome = self.window.welcome
        self.window.session.working.emit(0.4, "reading rehearsal.wav")
        self.assertTrue(welcome.work.isVisibleTo(welcome))
        self.assertEqual((welcome.work.progress.value(), welcome.work.doing.text()), (40, "reading rehearsal.wav"))
        self.window.session.working.emit(None, "")
        self.assertFalse(welcome.work.isVisibleTo(welcome))


class Stopped(FolderCase):
    def test_ctrl_c_ends_a_folders_work_and_its_processes(self) -> None:
        for name in ("a.wav", "b.wav"):
            self.sound_file(name, np.tile(after_silence(tone(60.0, 0.5)), 200))
        command = [
            sys.executable,
            "-m",
            "eager_owl",
            "transcribe",
            str(self.folder),
            "--out",
            str(self.folder / "out"),
        ]
        source = Path(cli.__file__).parents[1]
        work = subprocess.Popen(
            command,
            env=os.environ | {"PYTHONPATH": str(source)},
            stderr=subprocess.PIPE,
            text=True,
            start_new_session=True,
        )
        self.addCleanup(work.kill)
        until = time.monotonic() + 30
        while not (self.folder / "out").exists() and time.monotonic() < until:
            time.sleep(0.05)
        time.sleep(1.0)  # its processes have begun
        os.killpg(work.pid, signal.SIGINT)
        said = work.communicate(timeout=60)[1]
        self.assertEqual((work.returncode, said.strip()), (1, "eager-owl: stopped"))
