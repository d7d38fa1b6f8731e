"""What beats and bars are found in: how much is struck, and how harmony and bass lie, frame by frame.

Onset strength is spectral flux in three ranges of pitch: J. P. Bello et al., "A tutorial on onset detection in music
signals", IEEE TSAP 13, 2005.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, maximum_filter1d, uniform_filter1d

from eager_owl.hearing.salience import AXIS_LOW_MIDI, BINS_PER_SEMITONE, COARSE_HOP_S, Spectra

_LAG = 2  # frames over which a rise is measured
_HARMONY_MIDI = (48, 77)  # where chords lie, between the bass and what a lead plays over them
_BASS_MIDI = (28, 48)
# Bass and bass drum; the middle; cymbals and attacks.
_RANGES_MIDI = ((AXIS_LOW_MIDI, 52), (52, 88), (88, 123))
_NEAR_FRAMES = 5


@dataclass(frozen=True)
class Pulse:
    """What beats are found in, over n frames of COARSE_HOP_S.

    `rises` of level in three ranges of pitch, shape (3, n); `harmony` and `bass`, shape (n, semitones), how far each
    semitone where chords and where the bass lies stands over their mean.
    """

    rises: NDArray[np.float64]
    harmony: NDArray[np.float32]
    bass: NDArray[np.float32]

    def __len__(self) -> int:
        return len(self.harmony)

    def part(self, first: int, end: int) -> "Pulse":
        """Of the frames [first, end)."""
        return Pulse(self.rises[:, first:end], self.harmony[first:end], self.bass[first:end])


def measure_pulse(spectra: Spectra) -> Pulse:
    """The pulse of spectra."""
    rise = np.zeros_like(spectra.quick)
    rise[_LAG:] = np.maximum(spectra.quick[_LAG:] - spectra.quick[:-_LAG], 0)
    rises = [rise[:, _bins(low, high)].mean(axis=1).astype(np.float64) for low, high in _RANGES_MIDI]

    def standing(low: int, high: int) -> NDArray[np.float32]:
        semitones = spectra.sharp[:, _bins(low, high)].reshape(len(spectra), -1, BINS_PER_SEMITONE).max(axis=2)
        return np.asarray(np.maximum(semitones - semitones.mean(axis=1, keepdims=True), 0))

    return Pulse(np.stack(rises), standing(*_HARMONY_MIDI), standing(*_BASS_MIDI))


def empty_pulse(frames: int) -> Pulse:
    """The pulse of silence."""
    chords, bass = (np.zeros((frames, high - low), np.float32) for low, high in (_HARMONY_MIDI, _BASS_MIDI))
    return Pulse(np.zeros((len(_RANGES_MIDI), frames)), chords, bass)


def join_pulses(pulses: Sequence[Pulse]) -> Pulse:
    """One after the other."""
    harmony, bass = (np.concatenate([getattr(p, name) for p in pulses]) for name in ("harmony", "bass"))
    return Pulse(np.concatenate([p.rises for p in pulses], axis=1), harmony, bass)


def _bins(low_midi: int, high_midi: int) -> slice:
    return slice((low_midi - AXIS_LOW_MIDI) * BINS_PER_SEMITONE, (high_midi - AXIS_LOW_MIDI) * BINS_PER_SEMITONE)


def onset_strength(pulse: Pulse) -> NDArray[np.float64]:
    """The rises, shape (3, n), each of mean square 1, their slow means taken out."""
    result = np.zeros_like(pulse.rises)
    for row, rise in zip(result, pulse.rises, strict=True):
        flux = gaussian_filter1d(rise, 1.5)
        flux -= uniform_filter1d(flux, round(1.5 / COARSE_HOP_S))
        row[:] = np.maximum(flux, 0)
        row /= np.sqrt(np.mean(row**2)) + 1e-9
    return result


def greatest_near(novelty: NDArray[np.float64]) -> NDArray[np.float64]:
    """The greatest within two frames of each."""
    return np.asarray(maximum_filter1d(novelty, _NEAR_FRAMES))
