"""Tempo, beats, bars and feel of a recording.

Onset strength by spectral flux in three ranges; tempo from its autocorrelation with a prior for walking pace;
beats by dynamic programming: D. P. W. Ellis, "Beat tracking by dynamic programming", JNMR 36, 2007. Of several
likely tempi the one is taken whose beats stand out best. Bars: the count and phase at which changes of harmony and
bass and what is struck fall on the first beat, weighed as benchmarks/train_bars.py found best. Feel: where between
the beats the onsets fall.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import gaussian_filter1d, maximum_filter1d, uniform_filter1d

from eager_owl.hearing.regressions import log_odds, weights_of
from eager_owl.hearing.salience import AXIS_LOW_MIDI, BINS_PER_SEMITONE, COARSE_HOP_S, Spectra
from eager_owl.rhythm.grid import BeatGrid

_SLOWEST_BPM, _FASTEST_BPM = 45.0, 210.0  # outside, people count half or double
# The prior over tempi: a normal curve over octaves of tempo around a walking pace, and its width (Ellis 2007).
_PRIOR_BPM, _PRIOR_OCTAVES = 105.0, 0.75
_TIGHTNESS = 60.0  # what a squared log ratio off the period costs, in units of onset strength (Ellis's alpha)
_TEMPI = 8  # likely tempi that are tried
_LAG = 2  # frames over which a rise is measured
_SHORTEST_S, _LEAST_BEATS = 3.0, 6  # of sound, and beats in it, that can have a tempo
_HARMONY_MIDI = (48, 77)  # where chords lie, between the bass and what a lead plays over them
_BASS_MIDI = (28, 48)
METERS = (2, 3, 4)  # beats a bar that are tried; benchmarks/train_bars.py fits what decides
# A count-in is of so many bars at most, with so much of the usual pitch in each beat.
_COUNT_IN_BARS, _CLICK_SHARE = 2, 0.5
_CUT_IN_S = 0.08  # so near its start a recording begins on the beat
_SWUNG_OVER = 1.6  # onset strength at the last third of a beat against that at the first
_DRIFT_S = 0.04  # where beats drift further than this from an even grid, their bars are held by anchors
# Bass and bass drum; the middle; cymbals and attacks.
_RANGES_MIDI = ((AXIS_LOW_MIDI, 52), (52, 88), (88, 123))


@dataclass(frozen=True)
class Beats:
    """Beat times in seconds, which of them is bar 1's first (-1: the one before them all), beats a bar, and the feel

    of the beat's parts.
    """

    times_s: NDArray[np.float64]
    first: int
    beats_per_bar: int
    division: int
    swung: bool
    confidence: float


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


def tempo_strength(novelty: NDArray[np.float64]) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
    """Lags in frames and the strength of each as a beat: the autocorrelation at it and at its multiples."""
    n = novelty.shape[1]
    size = fft.next_fast_len(2 * n)
    spectrum = fft.rfft(novelty, size, axis=1)
    correlation = fft.irfft(np.abs(spectrum) ** 2, size, axis=1)[:, :n].sum(axis=0)
    correlation /= correlation[0] + 1e-9
    lags = np.arange(round(60 / _FASTEST_BPM / COARSE_HOP_S), round(60 / _SLOWEST_BPM / COARSE_HOP_S) + 1)
    strength = np.zeros(len(lags))
    for multiple, weight in ((1, 1.0), (2, 0.6), (3, 0.3), (4, 0.5)):
        strength += weight * np.interp(multiple * lags, np.arange(n), correlation, right=0.0)
    octaves = np.log2(60 / (lags * COARSE_HOP_S) / _PRIOR_BPM)
    return lags, strength * np.exp(-0.5 * (octaves / _PRIOR_OCTAVES) ** 2)


def place_beats(novelty: NDArray[np.float64], period: float) -> NDArray[np.intp]:
    """Frames of the beats nearest to `period` frames apart that gather the most novelty."""
    n = len(novelty)
    reach = np.arange(round(period / 1.6), round(period * 1.6) + 1)
    price = -_TIGHTNESS * np.log(reach / period) ** 2
    total = novelty.copy()
    before = np.full(n, -1, np.intp)
    # As many frames at once as lie nearer to each other than any two beats.
    for first in range(int(reach[0]), n, int(reach[0])):
        here = np.arange(first, min(first + int(reach[0]), n))
        earlier = here[:, None] - reach
        score = np.where(earlier >= 0, total[earlier] + price, -np.inf)
        best = score.argmax(axis=1)
        gained = score[np.arange(len(here)), best]
        total[here] += np.maximum(gained, 0)
        before[here] = np.where(gained > 0, here - reach[best], -1)
    tail = max(0, n - round(1.5 * period))
    beat = tail + int(total[tail:].argmax())
    beats = [beat]
    while before[beat] >= 0:
        beat = int(before[beat])
        beats.append(beat)
    return np.array(beats[::-1], dtype=np.intp)


def find_beats(pulse: Pulse) -> Beats | None:
    """Beats and bars of a whole recording; None where nothing recurs steadily."""
    ranges = onset_strength(pulse)
    if ranges.shape[1] * COARSE_HOP_S < _SHORTEST_S:
        return None
    novelty, near = ranges.sum(axis=0), _greatest_near(ranges.sum(axis=0))
    lags, strength = tempo_strength(ranges)
    peaks = np.flatnonzero((strength[1:-1] >= strength[:-2]) & (strength[1:-1] > strength[2:])) + 1
    likely = peaks[np.argsort(-strength[peaks])[:_TEMPI]]
    if not len(likely) or strength[likely[0]] <= 0 or novelty.sum() == 0:
        return None
    tried = [place_beats(novelty, float(lags[i])) for i in likely]
    # A beat stands out; slower beats leave much out, faster ones take in what is weak.
    standing = np.array([near[beats].mean() for beats in tried])
    gathered = np.array([near[beats].sum() for beats in tried]) / novelty.sum()
    score = np.sqrt(np.maximum(standing * gathered, 0)) * strength[likely]
    best = int(score.argmax())
    beats = tried[best]
    if len(beats) < _LEAST_BEATS:
        return None
    beats = _while_sounding(beats, near)
    per_bar, first = _bars(pulse, beats)
    first = _past_count_in(pulse, beats, per_bar, _at_the_start(beats, per_bar, first))
    division, swung = _feel(near, beats)
    rivals = score[np.abs(np.log2(lags[likely] / lags[likely[best]])) > 0.1]
    confidence = float(score[best] / (score[best] + rivals.max(initial=0.0)))
    return Beats(beats.astype(np.float64) * COARSE_HOP_S, first, per_bar, division, swung, confidence)


def _greatest_near(novelty: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(maximum_filter1d(novelty, 5))


def _while_sounding(beats: NDArray[np.intp], near: NDArray[np.float64]) -> NDArray[np.intp]:
    """Without the beats that the tracker carries into the silence before and after."""
    struck = np.flatnonzero(near[beats] > 0.1 * np.median(near[beats]))
    return beats[struck[0] : struck[-1] + 1] if len(struck) else beats


def mark_beats(pulse: Pulse, beats: NDArray[np.intp]) -> dict[str, NDArray[np.float64]]:
    """What tells of each beat whether a bar begins there, by name, of mean 0 and deviation 1.

    How far the harmony changes, from beat to beat and over some beats, and the bass; what is struck in each range.
    """
    edges = np.array([0, *beats, len(pulse)])

    def change(levels: NDArray[np.float32], reach: int) -> NDArray[np.float64]:
        result = np.zeros(len(beats))
        for i, beat in enumerate(beats):
            before = levels[edges[max(i + 1 - reach, 0)] : max(beat - 1, 1)].mean(axis=0)
            after = levels[min(beat + 2, len(levels) - 1) : edges[min(i + 1 + reach, len(edges) - 1)] + 1].mean(
                axis=0
            )
            size = float(np.linalg.norm(before) * np.linalg.norm(after))
            result[i] = 1 - float(before @ after) / size if size > 0 else 0.0
        return result

    low, middle, high = onset_strength(pulse)
    marks = {
        "chord": change(pulse.harmony, 2),
        "chords": change(pulse.harmony, 4),
        "bass": change(pulse.bass, 1),
        "low": _greatest_near(low)[beats],
        "middle": _greatest_near(middle)[beats],
        "high": _greatest_near(high)[beats],
    }
    return {name: _standard(values) for name, values in marks.items()}


def describe_bars(marks: dict[str, NDArray[np.float64]], per_bar: int, phase: int) -> dict[str, float]:
    """How the beats that bars would begin on stand out of the others by each mark, and out of those half a bar on."""
    count = len(marks["low"])
    place = (np.arange(count) - phase) % per_bar
    here, half = place == 0, place == per_bar // 2
    if not here.any() or here.all():
        return {}
    weight = float(np.sqrt(here.mean() * (1 - here.mean())))
    seen = {f"meter {per_bar}": 1.0}
    for name, values in marks.items():
        seen[name] = float(values[here].mean() - values[~here].mean()) * weight
        if per_bar == 4 and half.any():
            seen[f"{name}, not half a bar on"] = float(values[here].mean() - values[half].mean()) * weight
    return seen


def _bars(pulse: Pulse, beats: NDArray[np.intp]) -> tuple[int, int]:
    """(beats a bar, index of the first first beat)."""
    marks, weights = mark_beats(pulse, beats), weights_of("bars")["bar"]
    scores = {
        (per_bar, phase): log_odds(weights, seen)
        for per_bar in METERS
        for phase in range(per_bar)
        if (seen := describe_bars(marks, per_bar, phase))
    }
    return max(scores, key=lambda bars: scores[bars])


def _at_the_start(beats: NDArray[np.intp], per_bar: int, first: int) -> int:
    """The index of the first bar's first beat, -1 for the one that the recording begins on: no rise tells of that."""
    before = float(beats[0] - np.median(np.diff(beats))) * COARSE_HOP_S
    return -1 if first == per_bar - 1 and abs(before) <= _CUT_IN_S else first


def _past_count_in(pulse: Pulse, beats: NDArray[np.intp], per_bar: int, first: int) -> int:
    """The index of the first bar's first beat: bars of clicks before anything has a pitch only count in."""
    edges = np.array([*beats, len(pulse)])
    pitched = np.array([pulse.harmony[a:b].max(axis=1).mean() if b > a else 0.0 for a, b in pairwise(edges)])
    usual = float(np.median(pitched))
    most = min(first + _COUNT_IN_BARS * per_bar, len(beats) - per_bar)
    while first < most and pitched[: first + per_bar].max() < _CLICK_SHARE * usual:
        first += per_bar
    return first


def _standard(values: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray((values - values.mean()) / (values.std() + 1e-9))


def _feel(near: NDArray[np.float64], beats: NDArray[np.intp]) -> tuple[int, bool]:
    """(parts of a beat, swung): what is struck at the half, at the first third and at the second third."""
    start, length = beats[:-1], np.diff(beats)
    half, third, later = (
        float(near[np.round(start + part * length).astype(np.intp)].mean()) for part in (1 / 2, 1 / 3, 2 / 3)
    )
    if later > half and later > _SWUNG_OVER * third:
        return 2, True
    return (3, False) if min(third, later) > half else (2, False)


def fit_grid(beats: Beats) -> BeatGrid:
    """The beats as a grid: one tempo where that keeps within a few ms of them, else with anchors at the bars."""
    numbers = np.arange(len(beats.times_s)) - beats.first
    period, start = np.polyfit(numbers, beats.times_s, 1)
    off = beats.times_s - (start + period * numbers)
    # Single beats jitter with what was played on them: the drift is what is left of it over two bars.
    drift = uniform_filter1d(off, 2 * beats.beats_per_bar + 1, mode="nearest")
    anchors: tuple[tuple[float, float], ...] = ()
    if np.abs(drift).max() > _DRIFT_S:
        bars = np.flatnonzero(numbers % beats.beats_per_bar == 0)
        smooth = start + period * numbers + drift
        anchors = tuple((float(numbers[i]), round(float(smooth[i]), 3)) for i in bars)
    return BeatGrid(
        round(60.0 / float(period), 2),
        round(float(start), 3),
        beats.beats_per_bar,
        anchors,
        beats.division,
        beats.swung,
    )
