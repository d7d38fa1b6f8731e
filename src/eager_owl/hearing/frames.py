"""What is measured of the sound every 5.8 ms: candidate pitches with their clarity, level, and attack strength.

Pitch: the normalised square difference of a frame with itself at each lag, P. McLeod and G. Wyvill, "A
smarter way to find pitch", ICMC 2005, its peaks refined by a parabola. Two window lengths are used: a long
one that holds three periods of the lowest string, a short one for high notes, where it follows fast runs.

Attack strength: spectral flux of log-compressed logarithmic bands against the greatest of neighbouring bands
a little earlier, so that vibrato and bends do not count as attacks: S. Böck and G. Widmer, "Maximum filter
vibrato suppression for onset detection", DAFx 2013.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import maximum_filter1d, uniform_filter1d
from scipy.sparse import csr_array

from eager_owl.audio.decode import resample
from eager_owl.hearing.blocks import in_blocks
from eager_owl.theory.pitch import hz_to_midi, midi_to_hz

RATE_HZ = 22050
HOP = 128
HOP_S = HOP / RATE_HZ
LOWEST_HZ, HIGHEST_HZ = 70.0, 1700.0
CANDIDATES = 5

_LONG, _SHORT = 1024, 512
# Lags up to this are read from the short window (210 Hz and above: five periods fit it).
_SHORT_LAGS = 105
_MAX_LAG = int(RATE_HZ / LOWEST_HZ) + 2
_MIN_LAG = int(RATE_HZ / HIGHEST_HZ)
_HIGH_PASS_HZ = 55.0
# Frames analysed at once: fits a processor cache, and bounds memory however long the recording is.
_BLOCK = 256
_ROWS = 8192

HARMONIC_WEIGHTS = 0.85 ** np.arange(8)

_FLUX_WINDOW = 1024
_FLUX_LAG = 2
BANDS_PER_OCTAVE = 12
FLUX_LOW_HZ, _FLUX_HIGH_HZ = 120.0, 10_000.0
_COMPRESSION = 300.0


@dataclass(frozen=True)
class Frames:
    """Arrays over n frames, the centre of frame i at i * HOP_S seconds.

    `midi`, `clarity` and `fullness` have shape (n, CANDIDATES): candidate pitches (nan where there is none),
    their normalised autocorrelation, and how much of the sound stands at their harmonics, each 0 to 1; a
    subharmonic is as clear as the true pitch but less full. `level_db` of full scale and `flux`, the attack
    strength, have shape (n,).
    `bands` are log-compressed magnitudes, a semitone each, shape (n, bands).
    """

    midi: NDArray[np.float64]
    clarity: NDArray[np.float64]
    fullness: NDArray[np.float64]
    level_db: NDArray[np.float64]
    flux: NDArray[np.float64]
    bands: NDArray[np.float32]

    def __len__(self) -> int:
        return len(self.level_db)


def measure_frames(
    samples: NDArray[np.float32], rate: int, each: Callable[[float], object] = lambda share: None
) -> Frames:
    """Measure mono samples at any rate, all finite; `each` is told the share done."""
    signal = resample(samples, rate, RATE_HZ)
    signal = _without_rumble(signal)
    peak = float(np.abs(signal).max(initial=0.0))
    if peak > 0:
        signal /= peak  # a copy of its own by now
    count = max(1, -(-len(signal) // HOP))
    padded = np.pad(signal, (_LONG // 2, _LONG // 2 + HOP))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _LONG)

    filterbank = _log_filterbank()
    hann = np.hanning(_FLUX_WINDOW).astype(np.float32)

    midi, clarity, fullness = (np.empty((count, CANDIDATES)) for _ in range(3))
    level, bands = np.empty(count), np.empty((count, filterbank.shape[0]), np.float32)

    def measure(first: int, end: int) -> None:
        rows, block = slice(first, end), windows[first * HOP : end * HOP : HOP]
        midi[rows], clarity[rows] = _pitch_candidates(_likeness(padded[first * HOP : (end - 1) * HOP + _LONG]))
        middle = block[:, _LONG // 4 : -_LONG // 4]
        level[rows] = 10 * np.log10(np.mean(middle.astype(np.float64) ** 2, axis=1) + 1e-10)
        spectrum = np.abs(fft.rfft(block * hann, axis=1))
        fullness[rows] = _fullness(spectrum, midi[rows])
        bands[rows] = np.log10(1 + _COMPRESSION / _FLUX_WINDOW * (filterbank @ spectrum.T).T)

    in_blocks(measure, count, _BLOCK, each)
    absolute = 20 * np.log10(peak) if peak > 0 else 0.0
    return Frames(midi, clarity, fullness, level + absolute, _flux(bands), bands)


def _without_rumble(signal: NDArray[np.float32]) -> NDArray[np.float32]:
    """The signal less its running mean, taken twice over a cycle of 55 Hz: what is well below the lowest string."""
    cycle = round(RATE_HZ / _HIGH_PASS_HZ)
    rumble = uniform_filter1d(signal, cycle)
    uniform_filter1d(rumble, cycle, output=rumble)
    return np.subtract(signal, rumble, out=rumble)


def _likeness(signal: NDArray[np.float32]) -> NDArray[np.float32]:
    """Normalised square difference at lags 0 to _MAX_LAG of the windows of _LONG that lie a HOP apart in a signal,

    shape (windows, lags). Windows share most of their samples: each HOP is correlated once with itself and with each
    that follows within reach, and a window's correlation is the sum of those between its own.
    """
    spectra = fft.rfft(signal.reshape(-1, HOP), 2 * HOP, axis=1)
    turned = spectra.conj()
    reach = range(_MAX_LAG // HOP + 2)
    hops = [fft.irfft(turned[: len(spectra) - d] * spectra[d:], 2 * HOP, axis=1) for d in reach]
    sums, squares = (np.concatenate([[0.0], np.cumsum(x, dtype=np.float64)]) for x in (signal, signal * signal))
    short = _square_difference(hops, sums, squares, _SHORT, range(_SHORT_LAGS))
    long = _square_difference(hops, sums, squares, _LONG, range(_SHORT_LAGS, _MAX_LAG))
    return np.concatenate([short, long], axis=1)


def _square_difference(
    hops: list[NDArray[np.float32]], sums: NDArray[np.float64], squares: NDArray[np.float64], length: int, lags: range
) -> NDArray[np.float32]:
    """In the middle `length` of each window: from the correlations of each HOP with the one so many on, and the

    running sums of samples and of their squares.
    """
    count, first = len(hops[0]) - _LONG // HOP + 1, (_LONG - length) // 2 // HOP
    reach = (lags.stop - 1) // HOP + 2
    correlation = np.zeros((count, reach * HOP), np.float32)
    for apart, each in enumerate(hops[:reach]):
        total = _running_sum(each, length // HOP - apart)[first : first + count]
        # The second half are lags less than the distance of the two, from the greatest on.
        at = apart * HOP
        correlation[:, at : at + HOP] += total[:, :HOP]
        if apart:
            correlation[:, at - HOP + 1 : at] += total[:, HOP + 1 :]
    correlation = correlation[:, lags.start : lags.stop]

    def of_both(running: NDArray[np.float64]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Of the part before lag-from-the-end and the part after lag; and of all of it."""
        at = slice(first * HOP, (first + count) * HOP, HOP)
        reached = np.lib.stride_tricks.sliding_window_view(running, len(lags))
        parts = np.empty((count, len(lags)), np.float32)
        before_end, after = reached[length - lags[-1] :][at, ::-1], reached[lags.start :][at]
        np.subtract(before_end, after, out=parts, casting="same_kind")
        whole = (running[length:][at] - running[at])[:, None].astype(np.float32)
        parts += whole
        return parts, whole

    both, whole = of_both(sums)
    energy, _ = of_both(squares)
    # Less the mean: what the sums would be of samples that have none.
    mean = whole / length
    both -= mean * (length - np.arange(lags.start, lags.stop, dtype=np.float32))
    both *= mean
    correlation -= both
    correlation *= 2
    both *= 2
    energy -= both
    energy += np.float32(1e-9)
    return np.divide(correlation, energy, out=energy)


def _running_sum(rows: NDArray[np.float32], size: int) -> NDArray[np.float32]:
    """The sum of each `size` rows that follow each other: that of half as many, twice, and one more if it is odd."""
    if size == 1:
        return rows
    half = size // 2
    sums = _running_sum(rows, half)
    both = sums[:-half] + sums[half:]
    return both[:-1] + rows[size - 1 :] if size % 2 else both


def _pitch_candidates(likeness: NDArray[np.float32]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The strongest peaks of each frame: MIDI numbers and clarity, shape (frames, CANDIDATES)."""
    middle = likeness[:, 1:-1]
    is_peak = (middle > likeness[:, :-2]) & (middle >= likeness[:, 2:]) & (middle > 0.3)
    is_peak[:, : _MIN_LAG - 1] = False
    is_peak[:, _SHORT_LAGS - 2 : _SHORT_LAGS] &= middle[:, _SHORT_LAGS - 2 : _SHORT_LAGS] > 0.6
    # Before the first dip below zero every lag resembles itself.
    is_peak &= np.logical_or.accumulate(middle < 0.1, axis=1)
    rows, lags = np.nonzero(is_peak)
    lags += 1
    # Multiples of the period peak as high as the period itself; a slight lean towards short lags decides.
    score = likeness[rows, lags] - 0.04 * np.log2(lags / _MIN_LAG)
    order = np.lexsort((-score, rows))
    place = np.arange(len(rows)) - np.searchsorted(rows, rows)  # in its frame, the strongest first
    order, place = order[place < CANDIDATES], place[place < CANDIDATES]
    rows, lags = rows[order], lags[order]
    left, centre, right = likeness[rows, lags - 1], likeness[rows, lags], likeness[rows, lags + 1]
    bow = left - 2 * centre + right
    shift = np.where(np.abs(bow) > 1e-9, 0.5 * (left - right) / np.where(bow == 0, 1, bow), 0.0)
    midi, clarity = np.full((len(likeness), CANDIDATES), np.nan), np.zeros((len(likeness), CANDIDATES))
    midi[rows, place] = hz_to_midi(RATE_HZ / (lags + np.clip(shift, -0.5, 0.5)))
    clarity[rows, place] = np.clip(centre - 0.25 * (left - right) * shift, 0, 1)
    return midi, clarity


def _fullness(spectrum: NDArray[np.float32], midi: NDArray[np.float64]) -> NDArray[np.float64]:
    """Weighted mean over the first harmonics of a candidate of the root magnitude there, greatest = 1."""
    root = np.sqrt(spectrum[:, : _FLUX_WINDOW // 4])
    root /= root.max(axis=1, keepdims=True) + 1e-9
    bins = midi_to_hz(np.nan_to_num(midi)) * _FLUX_WINDOW / RATE_HZ
    at = bins[..., None] * np.arange(1, len(HARMONIC_WEIGHTS) + 1)
    inside = at < root.shape[1] - 1
    low = np.minimum(at, root.shape[1] - 2).astype(np.intp)
    rows = np.arange(len(root))[:, None, None]
    height = np.maximum(root[rows, low], root[rows, low + 1]) * inside
    weights = HARMONIC_WEIGHTS * inside
    full = (height * weights).sum(axis=2) / np.maximum(weights.sum(axis=2), 1e-9)
    return np.where(np.isnan(midi), 0.0, full)


def _log_filterbank() -> csr_array:
    """Triangular bands, BANDS_PER_OCTAVE to the octave, shape (bands, bins); nearly all zeros."""
    count = int(BANDS_PER_OCTAVE * np.log2(_FLUX_HIGH_HZ / FLUX_LOW_HZ))
    edges = FLUX_LOW_HZ * 2.0 ** (np.arange(count + 2) / BANDS_PER_OCTAVE)
    bins = edges * _FLUX_WINDOW / RATE_HZ
    # Low bands are narrower than a bin; each reaches at least one bin to either side.
    low, mid, high = bins[:-2], bins[1:-1], bins[2:]
    low, high = np.minimum(low, mid - 1), np.maximum(high, mid + 1)
    at = np.arange(_FLUX_WINDOW // 2 + 1)[:, None]
    weights = np.minimum((at - low) / (mid - low), (high - at) / (high - mid)).clip(0)
    return csr_array((weights / weights.sum(axis=0)).T.astype(np.float32))


def _flux(bands: NDArray[np.float32]) -> NDArray[np.float64]:
    """Sum over bands of the rise over the greatest of their neighbours _FLUX_LAG frames before."""
    flux = np.zeros(len(bands))
    for first in range(_FLUX_LAG, len(bands), _ROWS):
        now = bands[first : first + _ROWS]
        before = maximum_filter1d(bands[first - _FLUX_LAG : first - _FLUX_LAG + len(now)], 3, axis=1)
        flux[first : first + len(now)] = np.maximum(now - before, 0).sum(axis=1)
    return flux
