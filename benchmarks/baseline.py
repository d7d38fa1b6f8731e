"""The plain baseline: a general audio library's probabilistic YIN, cut at onsets and at changes of pitch."""

from itertools import pairwise

import librosa
import numpy as np
from numpy.typing import NDArray


def baseline_notes(samples: NDArray[np.float32], rate: int) -> list[tuple[float, float, int]]:
    """(onset s, end s, MIDI pitch) of mono samples, with the library's defaults over a guitar's range."""
    signal = librosa.resample(samples, orig_sr=rate, target_sr=22050)
    f0, voiced, _ = librosa.pyin(signal, fmin=librosa.note_to_hz("D2"), fmax=librosa.note_to_hz("G6"), sr=22050)
    times = librosa.times_like(f0, sr=22050)
    onsets = librosa.onset.onset_detect(y=signal, sr=22050, units="time")
    pitch = np.where(voiced, np.round(librosa.hz_to_midi(np.where(voiced, f0, 440.0))), -1)
    cuts = np.concatenate([[True], pitch[1:] != pitch[:-1]])
    cuts[np.searchsorted(times, onsets[onsets < times[-1]])] = True
    starts = [*np.flatnonzero(cuts), len(pitch)]
    notes = []
    for start, end in pairwise(starts):
        if pitch[start] > 0 and end - start >= 2:
            notes.append((float(times[start]), float(times[min(end, len(times) - 1)]), int(pitch[start])))
    return notes
