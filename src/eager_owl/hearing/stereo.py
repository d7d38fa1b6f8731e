"""A lead heard where it stands between two channels.

What plays somewhere else is in the way of a lead. Each candidate pitch has a place: the balance of the channels at
its harmonics (C. Avendano, "Frequency-domain source identification and manipulation in stereo mixes", WASPAA 2003).
Where most of what is judged to be the lead has its place, the sound is brought forward and heard once more. The
second hearing counts where it is surer and still the same line.
"""

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from eager_owl.audio.decode import mono, resample
from eager_owl.audio.focus import bring_forward
from eager_owl.hearing.detect import Detection, Listening, MixWanted, Progress, detected, listen
from eager_owl.hearing.frames import RATE_HZ
from eager_owl.hearing.hints import NO_HINTS, Hints
from eager_owl.hearing.salience import COARSE_HOP
from eager_owl.theory.pitch import midi_to_hz

_WINDOW = 2048
_HARMONICS = (1, 2, 3, 4, 5, 6)
_PLACES = 40  # from left to right
_LIKELY = 0.5  # a candidate judged so probable is of the lead
_WIDE = 0.06  # a mix of which all stands nearer together than this tells nothing
# So much more belief, in the mean, must the second hearing bring, and keep so many of the first one's notes: another
# instrument at that place is believed as readily.
_SURER, _KEPT = 0.002, 0.55
_SAME_S = 0.05


def detect_in_stereo(
    samples: NDArray[np.float32],
    rate: int,
    reference_cents: float | None = None,
    progress: Progress = lambda share, doing: True,
    mix: MixWanted = "auto",
    hints: Hints = NO_HINTS,
) -> Detection:
    """The notes in samples of shape (frames, channels), as detect_notes finds those in mono samples."""
    is_stereo = samples.shape[1] == 2
    share = 0.5 if is_stereo and mix != "solo" else 1.0

    def first(done: float, doing: str) -> bool:
        return progress(share * done, doing)

    def second(done: float, doing: str) -> bool:
        return progress(0.5 + 0.5 * done, doing)

    heard = listen(mono(samples), rate, reference_cents, first, mix, hints)
    found = detected(heard, hints)
    place = lead_place(samples, rate, heard) if is_stereo and heard.kind == "band" else None
    if place is not None:
        forward = mono(bring_forward(samples, rate, place=place))
        again = detected(listen(forward, rate, heard.reference_cents, second, "band", hints), hints)
        if _belief(again) > _belief(found) + _SURER and _kept(found, again) >= _KEPT:
            found = again
    progress(1.0, "done")
    return found


def _belief(found: Detection) -> float:
    return float(np.mean([note.confidence for note in found.notes])) if found.notes else 0.0


def _kept(before: Detection, after: Detection) -> float:
    """The share of notes that are there still."""
    kept = [
        any(note.pitch == other.pitch and abs(note.onset - other.onset) < _SAME_S for other in after.notes)
        for note in before.notes
    ]
    return float(np.mean(kept)) if kept else 1.0


def lead_place(samples: NDArray[np.float32], rate: int, heard: Listening) -> float | None:
    """The balance, -1 (left) to 1, of most of what is judged to be the lead; None where all stands in one place."""
    left, right = (_power(channel) for channel in resample(samples, rate, RATE_HZ).T)
    count = min(len(left), len(heard.found.bins))
    there = heard.found.bins[:count] >= 0
    places = _candidate_places(left, right, heard.found.midi[:count])
    if not there.any() or float(np.std(places[there])) < _WIDE:
        return None
    weight = np.where(there & (heard.judged.sounds[:count] > _LIKELY), heard.judged.sounds[:count], 0.0)
    if weight.sum() <= 0:
        return None
    found, edges = np.histogram(places, _PLACES, (-1.0, 1.0), weights=weight)
    smooth = np.convolve(found, np.hanning(5), "same")
    at = int(smooth.argmax())
    return float(edges[at] + edges[at + 1]) / 2


def _power(channel: NDArray[np.float32]) -> NDArray[np.float32]:
    """Power spectra centred every COARSE_HOP samples."""
    padded = np.pad(channel, (_WINDOW // 2, _WINDOW // 2 + COARSE_HOP))
    frames = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[::COARSE_HOP]
    return np.asarray(
        np.abs(fft.rfft(frames * np.hanning(_WINDOW).astype(np.float32), axis=1)) ** 2, dtype=np.float32
    )


def _candidate_places(
    left: NDArray[np.float32], right: NDArray[np.float32], midi: NDArray[np.float32]
) -> NDArray[np.float64]:
    """The balance at the harmonics of each candidate, weighed by their magnitude, shape of `midi`."""
    rows = np.arange(len(midi))[:, None]
    hz = midi_to_hz(midi.astype(np.float64))
    total, weights = np.zeros(midi.shape), np.zeros(midi.shape)
    for harmonic in _HARMONICS:
        bins = np.minimum(np.round(hz * harmonic * _WINDOW / RATE_HZ).astype(np.intp), _WINDOW // 2)
        a, b = left[rows, bins], right[rows, bins]
        weight = np.sqrt(a + b)
        total += weight * (b - a) / (a + b + 1e-12)
        weights += weight
    return np.asarray(total / (weights + 1e-12), dtype=np.float64)
