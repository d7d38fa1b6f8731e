"""What several tests need: notes in a line, tones, a folder of their own."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from eager_owl.solo.document import Note, Solo, change_notes

RATE = 22050
DEMO = Path(__file__).resolve().parents[1] / "src/eager_owl/assets/demo"


def line(*pitches: int, beat_s: float = 0.25, start: float = 0.0) -> list[Note]:
    """Plain notes of equal length, one after the other."""
    return [
        Note(i + 1, round(start + i * beat_s, 4), round(0.9 * beat_s, 4), pitch) for i, pitch in enumerate(pitches)
    ]


def with_doubt(solo: Solo) -> Solo:
    """The second note of the first phrase in doubt, more than any other."""
    note = solo.notes_in(solo.phrases[0])[1]
    doubtful = replace(note, confidence=0.3, runners_up=((note.pitch + 12, 0.4),))
    return change_notes(solo, [note.id], lambda _: doubtful)


def tone(midi: NDArray[np.float64] | float, seconds: float = 0.0, decay_s: float = 2.0) -> NDArray[np.float32]:
    """A decaying sound of eight harmonics along a pitch contour (one value, or one a sample)."""
    frames = len(midi) if isinstance(midi, np.ndarray) else round(seconds * RATE)
    hz = 440 * 2 ** ((np.broadcast_to(midi, frames) - 69) / 12)
    phase = 2 * np.pi * np.cumsum(hz) / RATE
    wave = sum(np.sin(k * phase) / k for k in range(1, 9))
    time = np.arange(frames) / RATE
    seconds = frames / RATE
    swell = np.clip(time / 0.003, 0, 1) * np.clip((seconds - time) / 0.01, 0, 1)
    return (0.2 * wave * np.exp(-time / decay_s) * swell).astype(np.float32)


def glide(start: float, *legs: tuple[float, float]) -> NDArray[np.float64]:
    """A pitch contour from `start` through (seconds, pitch) legs, one value a sample at RATE."""
    pieces, at = [], start
    for seconds, pitch in legs:
        pieces.append(np.linspace(at, pitch, round(seconds * RATE)))
        at = pitch
    return np.concatenate(pieces)


def after_silence(*parts: NDArray[np.float32], seconds: float = 0.3) -> NDArray[np.float32]:
    """Sounds one after the other, with silence before and after."""
    quiet = np.zeros(round(seconds * RATE), np.float32)
    return np.concatenate([quiet, *parts, quiet])


class FolderCase(unittest.TestCase):
    """A test with a folder that is gone afterwards."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def sound_file(self, name: str, samples: NDArray[np.float32], rate: int = RATE) -> Path:
        path = self.folder / name
        subtype = "FLOAT" if path.suffix == ".wav" else None
        soundfile.write(path, samples, rate, subtype=subtype)
        return path
