"""The recording with one thing brought forward: a stereo place, a band of frequencies, tones over what is struck.

Masks over a short-time spectrum. Stereo place by the balance of the two channels in each bin: C. Avendano,
"Frequency-domain source identification and manipulation in stereo mixes", WASPAA 2003. Tones over strokes by
medians along time and along frequency: D. Fitzgerald, "Harmonic/percussive separation using median filtering",
DAFx 2010.
"""

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import median_filter

from eager_owl.audio.short_time import OVERLAP, sound_of, spectra_of

_WINDOW_S = 0.046  # the power of two of samples next to it
_PLACE_WIDTH = 0.25
_LEFT_OVER = 0.05  # of what is masked, so that it does not gurgle
_ALONG_S, _ACROSS_HZ = 0.2, 400.0
_BLOCK_S, _OVERLAP_S = 10.0, 0.25


def bring_forward(
    samples: NDArray[np.float32],
    rate: int,
    place: float | None = None,
    low_hz: float | None = None,
    high_hz: float | None = None,
    tones_only: bool = False,
) -> NDArray[np.float32]:
    """Samples of shape (frames, channels) with the wanted part kept; the same shape.

    `place` is -1 (left) to 1 (right); it says nothing of a mono recording.
    """
    if place is None and low_hz is None and high_hz is None and not tones_only:
        return samples
    size, overlap = round(_BLOCK_S * rate), round(_OVERLAP_S * rate)
    out = np.zeros_like(samples)
    weight = np.zeros((len(samples), 1), np.float32)
    for start in range(0, max(1, len(samples) - overlap), size - overlap):
        part = samples[start : start + size]
        kept = _masked(part, rate, place, low_hz, high_hz, tones_only)
        # Neighbouring blocks are faded into each other.
        fade = np.ones((len(part), 1), np.float32)
        ramp = np.linspace(0.001, 1, min(overlap, len(part)), dtype=np.float32)[:, None]
        if start > 0:
            fade[: len(ramp)] = ramp
        if start + size < len(samples):
            fade[len(part) - len(ramp) :] *= ramp[::-1]
        out[start : start + len(part)] += fade * kept
        weight[start : start + len(part)] += fade
    return np.asarray(out / np.maximum(weight, 1e-6), dtype=np.float32)


def _masked(
    part: NDArray[np.float32],
    rate: int,
    place: float | None,
    low_hz: float | None,
    high_hz: float | None,
    tones_only: bool,
) -> NDArray[np.float32]:
    window = 2 ** round(np.log2(_WINDOW_S * rate))
    spectrum, frequencies = spectra_of(part, window), fft.rfftfreq(window, 1 / rate)
    magnitude = np.abs(spectrum)
    mask = np.ones(spectrum.shape[1:], np.float32)
    if place is not None and part.shape[1] == 2:
        power = magnitude**2
        balance = (power[1] - power[0]) / (power.sum(axis=0) + 1e-12)
        mask *= np.exp(-0.5 * ((balance - place) / _PLACE_WIDTH) ** 2)
    if tones_only:
        whole = magnitude.mean(axis=0)
        along = median_filter(whole, (1, 2 * round(_ALONG_S * rate * OVERLAP / window / 2) + 1))
        across = median_filter(whole, (2 * round(_ACROSS_HZ * window / rate / 2) + 1, 1))
        mask *= along**2 / (along**2 + across**2 + 1e-12)
    mask = _LEFT_OVER + (1 - _LEFT_OVER) * mask
    # Two octaves of slope, so that the edges do not ring.
    if low_hz:
        mask *= np.clip(frequencies / low_hz, 0, 1)[:, None] ** 3
    if high_hz:
        mask *= np.clip(high_hz / np.maximum(frequencies, 1.0), 0, 1)[:, None] ** 3
    return sound_of(spectrum * mask, window, len(part))
