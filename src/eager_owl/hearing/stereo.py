"""A lead heard where it stands between two channels.

What plays somewhere else is in the way of a lead. Each candidate pitch has a place: the balance of the channels at
its harmonics (C. Avendano, "Frequency-domain source identification and manipulation in stereo mixes", WASPAA 2003).
Where a hearing leaves doubts, the sound is brought forward where most of what is judged to be the lead has its place,
and heard once more. The second hearing counts where it has hardly fewer notes and is still the same line. What of the
line is another voice's is told apart.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from eager_owl.audio.decode import mono, resample
from eager_owl.audio.focus import bring_forward
from eager_owl.hearing.detect import Detection, Listening, MixWanted, Progress, detected, listen
from eager_owl.hearing.frames import RATE_HZ
from eager_owl.hearing.hints import NO_HINTS, Hints
from eager_owl.hearing.salience import COARSE_HOP
from eager_owl.hearing.voices import NoteSound, note_sounds, other_voices, parted
from eager_owl.solo.document import Note
from eager_owl.theory.pitch import midi_to_hz

_WINDOW = 2048
_HARMONICS = (1, 2, 3, 4, 5, 6)
_ROWS = 1024  # frames at once
# One frame in so many tells where the lead stands, and at most so many where a note does.
_EACH, _LOOKS = 4, 12
_PLACES = 40  # from left to right
_LIKELY = 0.5  # a candidate judged so probable is of the lead
_WIDE = 0.06  # a mix of which all stands nearer together than this tells nothing
# The second hearing must not have fewer notes than this share of the first one's, as far as they are believed, and
# keep so many of them: another instrument at that place is believed as readily.
_FEWEST, _KEPT = 0.94, 0.55
# Of a first hearing as sure as this the second changes as much for the worse as for the better.
_SURE_ENOUGH = 0.985


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

    samples = resample(samples, rate, RATE_HZ)
    heard = listen(mono(samples), RATE_HZ, reference_cents, first, mix, hints)
    found = detected(heard, hints)
    sounds = _sounds(samples, found, heard) if heard.kind == "band" and not hints.taps else ()
    doubtful = is_stereo and heard.kind == "band" and _expected(found) < _SURE_ENOUGH * len(found.notes)
    place = lead_place(samples, heard) if doubtful else None
    cents = heard.reference_cents
    del heard  # it is as large as the next one
    if place is not None:
        forward = mono(bring_forward(samples, RATE_HZ, place=place))
        again = detected(listen(forward, RATE_HZ, cents, second, "band", hints), hints)
        if _expected(again) > _FEWEST * _expected(found) and _kept(found, again) >= _KEPT:
            found = again
    progress(1.0, "done")
    others = other_voices(sounds)
    return replace(found, notes=parted(found.notes, others)[0], others=others, sounds=sounds)


def _sounds(samples: NDArray[np.float32], found: Detection, heard: Listening) -> tuple[NoteSound, ...]:
    """What the notes of the lead and perhaps another voice sound like; `samples` are what was `heard`."""
    places = note_places(samples, found.notes, found.reference_cents) if samples.shape[1] == 2 else None
    return note_sounds(found.notes, heard.spectra, heard.found, heard.judged, found.reference_cents, places)


def note_places(samples: NDArray[np.float32], notes: Sequence[Note], cents: float) -> NDArray[np.float64]:
    """The balance, -1 (left) to 1, of each note; `samples`, (frames, 2), are at RATE_HZ."""
    frames, result = _framed(samples), []
    for note in notes:
        first, last = round(note.onset * RATE_HZ / COARSE_HOP) + 2, round(note.end * RATE_HZ / COARSE_HOP) + 2
        rows = np.arange(first, last + 1, 1 + (last - first) // _LOOKS)
        rows = np.minimum(rows, len(frames) - 1)
        result.append(float(np.median(_places(frames[rows], np.full((len(rows), 1), note.pitch + cents / 100)))))
    return np.array(result)


def _expected(found: Detection) -> float:
    """How many of the notes are right, as far as they are believed."""
    return sum(note.confidence for note in found.notes)


def _kept(before: Detection, after: Detection) -> float:
    """The share of notes that are there still."""
    kept = [any(note.is_same(other) for other in after.notes) for note in before.notes]
    return float(np.mean(kept)) if kept else 1.0


def lead_place(samples: NDArray[np.float32], heard: Listening) -> float | None:
    """The balance, -1 (left) to 1, of most of what is judged to be the lead; None where all stands in one place.

    `samples`, (frames, 2) at RATE_HZ, are what was `heard`.
    """
    places = _candidate_places(samples, heard.found.midi)
    there, sounds = heard.found.bins[::_EACH] >= 0, heard.judged.sounds[::_EACH]
    if not there.any() or float(np.std(places[there])) < _WIDE:
        return None
    weight = np.where(there & (sounds > _LIKELY), sounds, 0.0)
    if weight.sum() <= 0:
        return None
    found, edges = np.histogram(places, _PLACES, (-1.0, 1.0), weights=weight)
    smooth = np.convolve(found, np.hanning(5), "same")
    at = int(smooth.argmax())
    return float(edges[at] + edges[at + 1]) / 2


def _candidate_places(samples: NDArray[np.float32], midi: NDArray[np.float32]) -> NDArray[np.float64]:
    """The balance at the harmonics of each candidate, weighed by their magnitude, of each _EACH-th row of `midi`."""
    frames, midi = _framed(samples)[: len(midi) : _EACH], midi[::_EACH]
    return np.concatenate(
        [_places(frames[first : first + _ROWS], midi[first : first + _ROWS]) for first in range(0, len(midi), _ROWS)]
    )


def _framed(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """A window around each frame of COARSE_HOP, shape (frames, 2, samples)."""
    padded = np.pad(samples, ((_WINDOW // 2, _WINDOW // 2 + COARSE_HOP), (0, 0)))
    return np.lib.stride_tricks.sliding_window_view(padded, _WINDOW, axis=0)[::COARSE_HOP]


def _places(frames: NDArray[np.float32], midi: NDArray[np.floating]) -> NDArray[np.float64]:
    """Of some frames, shape (frames, 2, samples)."""
    power = np.abs(fft.rfft(frames * np.hanning(_WINDOW).astype(np.float32), axis=2)) ** 2
    rows, hz = np.arange(len(midi))[:, None], midi_to_hz(midi.astype(np.float64))
    total, weights = np.zeros(midi.shape), np.zeros(midi.shape)
    for harmonic in _HARMONICS:
        bins = np.minimum(np.round(hz * harmonic * _WINDOW / RATE_HZ).astype(np.intp), _WINDOW // 2)
        left, right = power[rows, 0, bins], power[rows, 1, bins]
        weight = np.sqrt(left + right)
        total += weight * (right - left) / (left + right + 1e-12)
        weights += weight
    return np.asarray(total / (weights + 1e-12), dtype=np.float64)
