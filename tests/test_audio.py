import itertools
import unittest

import av
import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import AudioError, Cancelled, decode, mono, resample
from eager_owl.audio.focus import bring_forward
from eager_owl.audio.hold import hold_instant
from eager_owl.audio.peaks import build_peaks, finest_peaks
from eager_owl.audio.player import LoopSource, SteadySource
from eager_owl.audio.stretch import stretch, stretch_blocks
from tests.support import RATE, FolderCase, tone


def pitch_hz(samples: NDArray[np.float32], rate: int) -> float:
    """The strongest frequency of a steady sound."""
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples)), 8 * len(samples)))
    return float(np.argmax(spectrum)) * rate / (8 * len(samples))


class Decoding(FolderCase):
    def test_formats_of_soundfile(self) -> None:
        sound = tone(69.0, 1.0)
        for name in ("a.wav", "a.flac", "a.ogg", "a.mp3", "a.aiff"):
            recording = decode(self.sound_file(name, sound, 22050))
            self.assertAlmostEqual(recording.duration_s, 1.0, delta=0.06, msg=name)
            self.assertAlmostEqual(pitch_hz(mono(recording.samples[:]), recording.rate), 440, delta=3, msg=name)
            self.assertEqual(recording.notice, "", name)

    def test_formats_of_av(self) -> None:
        sound = resample(tone(69.0, 1.0), RATE, 48000)
        for name, codec in (("a.m4a", "aac"), ("a.mp4", "aac"), ("a.webm", "libopus")):
            path = self.folder / name
            with av.open(str(path), "w") as container:
                stream = container.add_stream(codec, rate=48000)
                stream.layout = "mono"
                frame = av.AudioFrame.from_ndarray(sound[None, :], format="fltp", layout="mono")
                frame.sample_rate = 48000
                for packet in [*stream.encode(frame), *stream.encode(None)]:
                    container.mux(packet)
            recording = decode(path)
            self.assertAlmostEqual(recording.duration_s, 1.0, delta=0.1, msg=name)
            self.assertAlmostEqual(pitch_hz(mono(recording.samples[:]), recording.rate), 440, delta=3, msg=name)

    def test_a_list_of_other_files_is_never_followed(self) -> None:
        other = self.sound_file("private.flac", tone(69.0, 1.0))
        for name in ("list.mp3", "list.m4a"):
            path = self.folder / name
            path.write_text(f"ffconcat version 1.0\nfile {other.name}\n")
            with self.assertRaisesRegex(AudioError, "not a sound file"):
                decode(path)

    def test_stereo_stays_stereo(self) -> None:
        both = np.stack([tone(69.0, 0.5), tone(60.0, 0.5)], axis=1)
        recording = decode(self.sound_file("s.wav", both))
        self.assertEqual(recording.samples.shape[1], 2)

    def test_channels_that_cancel_each_other_are_heard_all_the_same(self) -> None:
        left = tone(69.0, 0.5)
        for gain in (-1.0, -0.9):
            np.testing.assert_array_equal(mono(np.stack([left, gain * left], axis=1).astype(np.float32)), left)
        for other in (np.zeros_like(left), tone(61.3, 0.5), left):
            both = np.stack([left, other], axis=1)
            np.testing.assert_allclose(mono(both), both.mean(axis=1), atol=1e-6)

    def test_odd_rates(self) -> None:
        for rate in (8000, 192_000):
            recording = decode(self.sound_file("r.wav", tone(69.0, 0.5), rate))
            self.assertEqual(recording.rate, rate)

    def test_bad_files_are_told_in_one_sentence(self) -> None:
        text = self.folder / "words.wav"
        text.write_text("dear diary, this is no sound at all\n" * 20)
        empty = self.folder / "empty.wav"
        empty.touch()
        holes = tone(69.0, 0.5)
        holes[4000:4010] = np.nan
        nan = self.sound_file("nan.wav", holes)
        silent = self.sound_file("silent.wav", np.zeros(RATE, np.float32))
        no_frames = self.sound_file("none.wav", np.zeros(0, np.float32))
        for path, reason in (
            (text, "not a sound file|holds no sound"),
            (empty, "is empty"),
            (nan, "no numbers.* from 0.18 s"),
            (silent, "silent from start to end"),
            (no_frames, "holds no sound"),
            (self.folder / "gone.wav", "is not there"),
        ):
            with self.assertRaisesRegex(AudioError, reason) as caught:
                decode(path)
            self.assertNotIn("\n", str(caught.exception))

    def test_a_truncated_mp3_gives_what_is_there(self) -> None:
        whole = self.sound_file("whole.mp3", np.tile(tone(69.0, 1.0), 6))
        cut = self.folder / "cut.mp3"
        cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
        recording = decode(cut)
        self.assertGreater(recording.duration_s, 2.0)
        self.assertLess(recording.duration_s, 4.0)

    def test_cancel(self) -> None:
        with self.assertRaises(Cancelled):
            decode(self.sound_file("a.wav", tone(69.0, 0.5)), lambda share: False)


class PeakPyramid(unittest.TestCase):
    def test_columns_hold_least_and_greatest(self) -> None:
        noise = np.random.default_rng(1).uniform(-1, 1, (48000, 1)).astype(np.float32)
        noise[24000] = 3.0
        peaks = build_peaks([finest_peaks(noise)], 48000)
        for count in (7, 100, 900):
            columns = peaks.columns(0.0, 1.0, count)
            self.assertEqual(columns.shape, (count, 2))
            self.assertEqual(columns[:, 1].max(), 3.0)
            self.assertAlmostEqual(int(columns[:, 1].argmax()), count / 2, delta=1)

    def test_outside_the_recording_is_flat(self) -> None:
        peaks = build_peaks([finest_peaks(np.ones((4800, 1), np.float32))], 48000)
        columns = peaks.columns(-1.0, 1.1, 21)
        self.assertEqual(columns[0].tolist(), [0.0, 0.0])
        self.assertEqual(columns[10, 1], 1.0)


class Stretching(unittest.TestCase):
    def setUp(self) -> None:
        self.sound = tone(69.0, 3.0, decay_s=50)[:, None]

    def test_length_and_pitch(self) -> None:
        for speed in (0.1, 0.5, 0.77, 1.0, 1.5):
            blocks = list(stretch_blocks(self.sound, RATE, speed))
            slowed = np.concatenate(blocks)
            self.assertEqual(len(slowed), round(len(self.sound) / speed), speed)
            middle = slowed[len(slowed) // 3 : 2 * len(slowed) // 3, 0]
            self.assertAlmostEqual(pitch_hz(middle, RATE), 440, delta=4, msg=str(speed))

    def test_the_first_block_is_short_and_joints_do_not_click(self) -> None:
        blocks = list(stretch_blocks(self.sound, RATE, 0.5))
        self.assertLess(len(blocks[0]), 1.0 * RATE)
        slowed = np.concatenate(blocks)[:, 0]
        steps = np.abs(np.diff(slowed))
        usual = np.percentile(steps, 99.9)
        for joint in itertools.accumulate(len(b) for b in blocks[:-1]):
            self.assertLess(steps[joint - 20 : joint + 20].max(), 2 * usual)

    def test_blocks_sound_like_the_whole(self) -> None:
        whole = stretch(self.sound, RATE, 0.5)
        blocks = np.concatenate(list(stretch_blocks(self.sound, RATE, 0.5)))
        loudness = [np.sqrt(np.mean(x[RATE:-RATE] ** 2)) for x in (whole, blocks)]
        self.assertAlmostEqual(loudness[1] / loudness[0], 1.0, delta=0.1)

    def test_impossible_speeds(self) -> None:
        for speed in (0.05, 2.0, float("nan")):
            with self.assertRaisesRegex(ValueError, "outside"):
                list(stretch_blocks(self.sound, RATE, speed))


class Playing(unittest.TestCase):
    def source(self, **options: object) -> LoopSource:
        sound = np.linspace(0.1, 0.9, RATE, dtype=np.float32)[:, None]
        settings = {"speed": 1.0, "loop": True} | options
        return LoopSource(sound, RATE, 5.0, **settings)

    def test_nothing_sounds_before_it_is_ready_and_the_clock_waits(self) -> None:
        source = self.source()
        self.assertFalse(source.read(100).any())
        self.assertEqual(source.position_s(), 5.0)
        source.render(lambda: True)
        self.assertTrue(source.read(1000).any())
        self.assertGreater(source.position_s(), 5.0)

    def test_the_loop_goes_round(self) -> None:
        source = self.source()
        source.render(lambda: True)
        source.read(RATE + RATE // 2)
        self.assertEqual(source.passes, 1)
        self.assertAlmostEqual(source.position_s(), 5.5, places=3)
        self.assertFalse(source.finished)

    def test_once_ends(self) -> None:
        source = self.source(loop=False)
        source.render(lambda: True)
        tail = source.read(RATE + 500)[RATE:]
        self.assertTrue(source.finished)
        self.assertFalse(tail.any())
        self.assertEqual(source.position_s(), 6.0)

    def test_half_speed_halves_the_clock(self) -> None:
        source = self.source(speed=0.5)
        source.render(lambda: True)
        source.read(RATE)
        self.assertAlmostEqual(source.position_s(), 5.5, places=3)
        self.assertAlmostEqual(source.position_s(latency_frames=RATE // 2), 5.25, places=3)

    def test_count_in_sounds_once_before(self) -> None:
        source = self.source(count_in=np.full(RATE // 2, 0.3, np.float32))
        source.render(lambda: True)
        self.assertTrue(source.counting_in)
        first = source.read(RATE)
        self.assertEqual(float(first[100, 0]), np.float32(0.3))
        self.assertFalse(source.counting_in)
        self.assertAlmostEqual(source.position_s(), 5.5, places=3)

    def test_rendering_stops_when_told(self) -> None:
        source = self.source(speed=0.25)
        source.render(lambda: False)
        self.assertFalse(source.read(500).any())


class Focus(unittest.TestCase):
    """Low tone left, high tone right, clicks in the middle."""

    def setUp(self) -> None:
        time = np.arange(2 * RATE) / RATE
        self.low, self.high = (0.3 * np.sin(2 * np.pi * hz * time) for hz in (300.0, 2000.0))
        clicks = np.zeros(len(time))
        clicks[:: RATE // 4] = 0.9
        self.sound = np.stack([self.low + clicks, self.high + clicks], axis=1).astype(np.float32)

    def level(self, sound: NDArray[np.float32], hz: float) -> float:
        middle = sound[RATE // 2 : -RATE // 2].mean(axis=1)
        return float(np.abs(np.fft.rfft(middle * np.hanning(len(middle))))[round(hz * len(middle) / RATE)])

    def test_without_a_wish_nothing_changes(self) -> None:
        self.assertIs(bring_forward(self.sound, RATE), self.sound)

    def test_stereo_place(self) -> None:
        left = bring_forward(self.sound, RATE, place=-1.0)
        self.assertEqual(left.shape, self.sound.shape)
        self.assertGreater(self.level(left, 300), 0.8 * self.level(self.sound, 300))
        self.assertLess(self.level(left, 2000), 0.2 * self.level(self.sound, 2000))

    def test_band(self) -> None:
        narrow = bring_forward(self.sound, RATE, low_hz=1000.0, high_hz=4000.0)
        self.assertLess(self.level(narrow, 300), 0.1 * self.level(self.sound, 300))
        self.assertGreater(self.level(narrow, 2000), 0.8 * self.level(self.sound, 2000))

    def test_tones_over_clicks(self) -> None:
        tones = bring_forward(self.sound, RATE, tones_only=True)
        at = slice(RATE // 2 - 30, RATE // 2 + 30)
        self.assertLess(np.abs(np.diff(tones[at, 0])).max(), 0.5 * np.abs(np.diff(self.sound[at, 0])).max())
        self.assertGreater(self.level(tones, 300), 0.8 * self.level(self.sound, 300))

    def test_long_recordings_have_no_seams(self) -> None:
        time = np.arange(65 * 8000) / 8000
        steady = (0.3 * np.sin(2 * np.pi * 440 * time))[:, None].astype(np.float32)
        kept = bring_forward(steady, 8000, low_hz=100.0)[4000:-4000, 0]
        pieces = np.sqrt(np.mean(kept[: len(kept) // 800 * 800].reshape(-1, 800) ** 2, axis=1))
        self.assertLess(float(pieces.max() - pieces.min()), 0.02)


class Held(unittest.TestCase):
    def test_the_instant_is_held_at_its_pitch_without_a_seam(self) -> None:
        time = np.arange(2 * RATE) / RATE
        sound = (0.3 * np.sin(2 * np.pi * np.where(time < 1, 330.0, 550.0) * time))[:, None].astype(np.float32)
        for at, hz in ((0.6, 330.0), (1.5, 550.0)):
            held = hold_instant(sound, RATE, at, 1.5)[:, 0]
            spectrum = np.abs(np.fft.rfft(held * np.hanning(len(held))))
            self.assertAlmostEqual(float(spectrum.argmax()) * RATE / len(held), hz, delta=2.5)
            inside = float(np.abs(np.diff(held)).max())
            self.assertLess(abs(float(held[0] - held[-1])), 1.5 * inside)
            self.assertLessEqual(float(np.abs(held).max()), 0.5 + 1e-6)

    def test_before_the_start_and_past_the_end_there_is_silence_not_an_error(self) -> None:
        for at in (0.0, 5.0):
            self.assertTrue(np.isfinite(hold_instant(np.zeros((RATE, 2), np.float32), RATE, at, 0.5)).all())

    def test_a_steady_source_goes_round_while_the_clock_stands(self) -> None:
        sound = np.linspace(-1, 1, 100, dtype=np.float32)[:, None]
        source = SteadySource(sound, RATE, 3.25)
        source.render(lambda: True)
        np.testing.assert_allclose(source.read(250)[:, 0], np.tile(sound[:, 0], 3)[:250])
        self.assertEqual(source.position_s(), 3.25)
        self.assertFalse(source.finished)
