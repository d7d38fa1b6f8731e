"""Which pitches could be sounding, where several do: a log-frequency spectrum, and the peaks of its harmonic sum.

Harmonic summation on a logarithmic frequency axis: D. J. Hermes, "Measurement of pitch by subharmonic
summation", JASA 83, 1988; several pitches from its peaks: A. Klapuri, "Multiple fundamental frequency
estimation by summing harmonic amplitudes", ISMIR 2006. Two windows: a long one that tells neighbouring pitches
apart, a short one that tells when something began.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import uniform_filter1d
from scipy.sparse import csr_array

from eager_owl.audio.decode import resample
from eager_owl.hearing.blocks import in_blocks
from eager_owl.hearing.frames import RATE_HZ
from eager_owl.theory.pitch import midi_to_hz

COARSE_HOP = 256
COARSE_HOP_S = COARSE_HOP / RATE_HZ
BINS_PER_SEMITONE = 3
LOWEST_MIDI, HIGHEST_MIDI = 36, 90
PEAKS = 12
# The frequency axis: an octave under the lowest pitch, up to what the sound still has.
AXIS_LOW_MIDI, _AXIS_HIGH_MIDI = LOWEST_MIDI - 12, 123
_AXIS_BINS = (_AXIS_HIGH_MIDI - AXIS_LOW_MIDI) * BINS_PER_SEMITONE
_PITCH_BINS = (HIGHEST_MIDI - LOWEST_MIDI) * BINS_PER_SEMITONE
FIRST_PITCH_BIN = (LOWEST_MIDI - AXIS_LOW_MIDI) * BINS_PER_SEMITONE
# Below the crossing the longest window, on every eighth sample; above it one half as long; and the short one.
_LONGEST, _LONG, _SHORT = 4096, 2048, 1024
_CROSSING_MIDI, _FEWER = 66, 8
RANGE_DB = 70.0
_BLOCK = 256

HARMONICS = (0.5, 1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 10.0)
_SUMMED = (1, 2, 3, 4, 5, 6, 7, 8)
_SUM_DECAY = 0.86
# Before summing, each partial is weighed against the mean of an octave around it.
# A peak lower than this share of the highest is not looked at.
_LEAST_SHARE = 0.25
CONTRAST_BINS = 12 * BINS_PER_SEMITONE + 1


@dataclass(frozen=True)
class Spectra:
    """Levels of n frames, frame i centred at i * COARSE_HOP_S, on the axis of bins: from RANGE_DB under the loudest

    (0) to it (1).

    `sharp` from the long windows, `quick` from the short one, shape (n, bins), float32; `loudest_db` of full
    scale is what 1 stands for in `quick`.
    """

    sharp: NDArray[np.float32]
    quick: NDArray[np.float32]
    loudest_db: float

    def __len__(self) -> int:
        return len(self.sharp)


@dataclass(frozen=True)
class Candidates:
    """The peaks of the harmonic sum, strongest first, shape (n, PEAKS): bin of pitch and height.

    `bins` counts from LOWEST_MIDI, -1 where there are fewer peaks; `midi` is refined between bins.
    """

    bins: NDArray[np.intp]
    midi: NDArray[np.float32]
    height: NDArray[np.float32]


def harmonic_shift(harmonic: float) -> int:
    """Bins from a pitch to its harmonic."""
    return round(12 * BINS_PER_SEMITONE * float(np.log2(harmonic)))


def pitch_bins(midi: NDArray[np.floating] | float) -> NDArray[np.intp]:
    """The bins of pitches (MIDI, finite) on the axis of the spectra."""
    at = np.round((np.asarray(midi) - LOWEST_MIDI) * BINS_PER_SEMITONE)
    return np.asarray(at.astype(np.intp) + FIRST_PITCH_BIN)


def measure_spectra(
    samples: NDArray[np.float32], rate: int, each: Callable[[float], object] = lambda share: None
) -> Spectra:
    """The spectra of mono samples at any rate; `each` is told the share done."""
    signal = resample(samples, rate, RATE_HZ).astype(np.float32)
    count = max(1, -(-len(signal) // COARSE_HOP))
    low = _windows(resample(signal, RATE_HZ, RATE_HZ / _FEWER), _LONGEST // _FEWER, COARSE_HOP // _FEWER)
    long, short = _windows(signal, _LONG, COARSE_HOP), _windows(signal, _SHORT, COARSE_HOP)
    crossing = (_CROSSING_MIDI - AXIS_LOW_MIDI) * BINS_PER_SEMITONE
    sharp = np.empty((count, _AXIS_BINS), np.float32)
    quick = np.empty((count, _AXIS_BINS), np.float32)

    def measure(first: int, end: int) -> None:
        rows = slice(first, end)
        sharp[rows, :crossing] = _levels_db(low[rows], RATE_HZ / _FEWER, 0, crossing)
        sharp[rows, crossing:] = _levels_db(long[rows], RATE_HZ, crossing, _AXIS_BINS)
        quick[rows] = _levels_db(short[rows], RATE_HZ, 0, _AXIS_BINS)

    in_blocks(measure, count, _BLOCK, each)
    for levels in (sharp, quick):
        loudest_db = float(np.percentile(levels.max(axis=1), 98))
        levels -= loudest_db - RANGE_DB
        levels /= RANGE_DB
        np.clip(levels, 0.0, 1.2, out=levels)
    return Spectra(sharp, quick, loudest_db)


def _windows(signal: NDArray[np.float32], length: int, hop: int) -> NDArray[np.float32]:
    """Stretches of a signal, the middle of stretch i at i * hop; at least as many as it has hops."""
    padded = np.pad(signal, (length // 2, length // 2 + hop))
    return np.lib.stride_tricks.sliding_window_view(padded, length)[::hop]


def _levels_db(windows: NDArray[np.float32], rate_hz: float, first: int, end: int) -> NDArray[np.float32]:
    """Levels of the axis' bins [first, end) in each window."""
    length = windows.shape[1]
    filterbank, top = _filterbank(length, rate_hz, first, end)
    magnitude = np.abs(fft.rfft(windows * _hann(length), axis=1)[:, :top])
    return 20 * np.log10((filterbank @ magnitude.T).T + np.float32(1e-6))


@lru_cache
def _hann(length: int) -> NDArray[np.float32]:
    return np.hanning(length).astype(np.float32)


@lru_cache
def _filterbank(length: int, rate_hz: float, first: int, end: int) -> tuple[csr_array, int]:
    """From a spectrum to the axis' bins, and how many of its own are needed: triangles a bin to each side."""
    centre = midi_to_hz(np.arange(first, end) / BINS_PER_SEMITONE + AXIS_LOW_MIDI)
    centre = centre * length / rate_hz
    ratio = 2.0 ** (1 / (12 * BINS_PER_SEMITONE))
    low, high = np.minimum(centre / ratio, centre - 1), np.maximum(centre * ratio, centre + 1)
    top = min(length // 2 + 1, int(high.max()) + 2)
    at = np.arange(top)[:, None]
    weights = np.minimum((at - low) / (centre - low), (high - at) / (high - centre)).clip(0)
    weights /= weights.sum(axis=0) * length / 4  # a full-scale sine is 0 dB
    return csr_array(weights.T.astype(np.float32)), top


def find_candidates(spectra: Spectra) -> Candidates:
    """The strongest peaks of the harmonic sum of each frame."""
    shape = len(spectra), PEAKS
    found = Candidates(np.empty(shape, np.intp), np.empty(shape, np.float32), np.empty(shape, np.float32))

    def find(first: int, end: int) -> None:
        rows = slice(first, end)
        found.bins[rows], found.midi[rows], found.height[rows] = _candidates(spectra.sharp[rows])

    in_blocks(find, len(spectra), _BLOCK)
    return found


def _candidates(sharp: NDArray[np.float32]) -> tuple[NDArray[np.intp], NDArray[np.float32], NDArray[np.float32]]:
    """Bins, refined pitches and heights of some frames."""
    standing = np.maximum(sharp - uniform_filter1d(sharp, CONTRAST_BINS, axis=1), 0)
    total = np.zeros((len(sharp), _PITCH_BINS + 2), np.float32)
    for harmonic in _SUMMED:
        start = FIRST_PITCH_BIN - 1 + harmonic_shift(harmonic)
        part = standing[:, start : start + _PITCH_BINS + 2]
        total[:, : part.shape[1]] += _SUM_DECAY ** (harmonic - 1) * part
    middle, left, right = total[:, 1:-1], total[:, :-2], total[:, 2:]
    peaks = np.where((middle > left) & (middle >= right), middle, 0.0)
    order = np.argpartition(-peaks, PEAKS, axis=1)[:, :PEAKS]
    rows = np.arange(len(total))[:, None]
    order = np.take_along_axis(order, np.argsort(-peaks[rows, order], axis=1), axis=1)
    height = peaks[rows, order]
    before, at, after = left[rows, order], middle[rows, order], right[rows, order]
    bow = np.minimum(before - 2 * at + after, -1e-9)
    shift = np.clip(0.5 * (before - after) / bow, -0.5, 0.5)
    midi = LOWEST_MIDI + (order + shift) / BINS_PER_SEMITONE
    there = (height > 0) & (height >= _LEAST_SHARE * height[:, :1])
    return np.where(there, order, -1), midi.astype(np.float32), height.astype(np.float32)
