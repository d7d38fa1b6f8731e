"""Broken recordings: each is read, or refused in a line, at once; no library speaks to the terminal."""

import os
import random
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from multiprocessing import get_context
from pathlib import Path

import av
import numpy as np
import soundfile

from benchmarks.faults import LONGEST_LINE, Tally
from eager_owl.audio.decode import AudioError, Recording, open_part
from eager_owl.audio.stretch import stretch_blocks
from eager_owl.session.hearing import hear_phrase
from eager_owl.session.recordings import decode_sound
from eager_owl.solo.document import Phrase, Solo

_RATE = 22050
_BATCH = 50  # in one process: a library that crashes takes no more with it
_HEARD = 0.05  # of the recordings that are read
# By a file's suffix: how soundfile keeps the samples.
_PLAIN = {
    "wav": ("PCM_16", "PCM_24", "FLOAT", "ULAW", "IMA_ADPCM"), "flac": ("PCM_16",), "aiff": ("PCM_16",),
    "ogg": ("VORBIS",), "mp3": (None,), "caf": ("PCM_16",), "au": ("PCM_16",), "w64": ("PCM_16",),
    "rf64": ("PCM_24",),
}  # fmt: skip
_CODED = {"m4a": ("aac", 44100), "webm": ("libopus", 48000), "mp4": ("aac", 44100)}
_NUMBERS = (b"\0\0\0\0", b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", b"\xff\xff\xff\x7f", b"\x01\0\0\0", b"\0\0\0\x80")
_NAMES = ("take.wav", "take.mp3", "take", "a\nb.wav", "x" * 200 + ".m4a", os.fsdecode(b"caf\xe9.flac"))


def sound_recordings() -> list[bytes]:
    """A second and a half of a plucked line in every format that is read."""
    time = np.arange(round(1.5 * _RATE)) / _RATE
    plucked = sum(np.exp(-3 * (time % 0.3)) * np.sin(2 * np.pi * 196 * k * time) / k for k in (1, 2, 3, 4))
    sound = (0.2 * np.stack([plucked, np.roll(plucked, 60)], axis=1)).astype(np.float32)
    found = []
    with tempfile.TemporaryDirectory() as folder:
        for suffix, kinds in _PLAIN.items():
            for kind in kinds:
                path = Path(folder) / f"a.{suffix}"
                soundfile.write(path, sound[:, :1] if kind == "IMA_ADPCM" else sound, _RATE, subtype=kind)
                found.append(path.read_bytes())
        for suffix, (codec, rate) in _CODED.items():
            path = Path(folder) / f"a.{suffix}"
            with av.open(str(path), "w") as container:
                stream = container.add_stream(codec, rate=rate)
                stream.layout = "stereo"
                frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound.T), format="fltp", layout="stereo")
                frame.sample_rate = _RATE
                resampler = av.AudioResampler(stream.format, "stereo", rate)
                frames = [*resampler.resample(frame), *resampler.resample(None)]
                for packet in [p for f in [*frames, None] for p in stream.encode(f)]:
                    container.mux(packet)
            found.append(path.read_bytes())
    return found


def odd_bytes(content: bytes, rng: random.Random) -> bytes:
    """A file with up to four things wrong, most of them near its beginning, where it says what it is."""
    broken = bytearray(content)
    for _ in range(rng.randint(1, 4)):
        if not broken:
            break
        near = rng.random() < 0.7
        at = rng.randrange(min(len(broken), 300) if near else len(broken))
        kind = rng.randrange(7)
        if kind == 0:
            broken[at] ^= 1 << rng.randrange(8)
        elif kind == 1:
            broken[at : at + 4] = rng.choice(_NUMBERS)
        elif kind == 2:
            del broken[at : at + rng.choice((1, 4, 500, len(broken)))]
        elif kind == 3:
            broken[at:at] = rng.randbytes(rng.choice((1, 4, 500)))
        elif kind == 4:
            end = at + rng.choice((4, 100, 4000))
            broken[at:end] = rng.randbytes(len(broken[at:end]))
        elif kind == 5:
            end = at + rng.choice((4, 100, 4000))
            broken[at:at] = broken[at:end]
        else:
            broken[at : at + 400] = bytes(len(broken[at : at + 400]))
    return bytes(broken)


def break_recordings(count: int, rng: random.Random) -> Tally:
    """So many broken recordings, in processes of their own, so that one that crashes a library is told."""
    tally, whole = Tally("recordings"), sound_recordings()
    for first in range(0, count, _BATCH):
        seed, size = rng.randrange(1 << 30), min(_BATCH, count - first)
        with ProcessPoolExecutor(1, get_context("spawn")) as pool:
            try:
                tally.add(pool.submit(_batch, whole, seed, size, first).result())
            except BrokenProcessPool:
                tally.wrong.append(f"recordings {first} to {first + size}: the process died")
    return tally


def _batch(whole: list[bytes], seed: int, count: int, first: int) -> Tally:
    tally, rng = Tally("recordings"), random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        for number in range(first, first + count):
            path = Path(folder) / rng.choice(_NAMES)
            content = rng.choice(whole) if rng.random() < 0.02 else odd_bytes(rng.choice(whole), rng)
            path.write_bytes(content)
            with tally.watched(f"recording {number}"), _silence(tally, number):
                _use(tally, path, rng)
            path.unlink()
    return tally


def _use(tally: Tally, path: Path, rng: random.Random) -> None:
    """Read it as the window and the command line do; what is read is played, and heard now and then."""
    try:
        open_part(path, 0.3, 0.9)
        sound = decode_sound(path)
    except AudioError as error:
        tally.count("refused")
        if not str(error) or len(str(error)) > LONGEST_LINE:
            tally.wrong.append(f"a message of {len(str(error))} characters: {str(error)[:80]!r}")
        return
    tally.count("read")
    recording: Recording = sound.recording
    for _ in range(3):
        start = rng.uniform(-0.5, recording.duration_s)
        part = recording.between(start, start + rng.uniform(0, 2))
        if part.dtype != np.float32 or part.shape[1] != recording.channels or not np.isfinite(part).all():
            tally.wrong.append(f"a slice of {part.dtype} and shape {part.shape}")
    end = min(recording.duration_s, 2.0)
    for block in stretch_blocks(recording.part(0.0, end), recording.rate, 0.5):
        if not np.isfinite(block).all():
            tally.wrong.append("what is played is no sound")
    if rng.random() < _HEARD:
        hear_phrase(Solo(), Phrase(0.0, end), recording)


@contextmanager
def _silence(tally: Tally, number: int) -> Iterator[None]:
    """Whatever is written to the terminal in here is wrong."""
    with tempfile.TemporaryFile() as said:
        before = os.dup(2)
        os.dup2(said.fileno(), 2)
        try:
            yield
        finally:
            os.dup2(before, 2)
            os.close(before)
        said.seek(0)
        if words := said.read(200):
            tally.wrong.append(f"recording {number}: said on the terminal: {words!r}")
