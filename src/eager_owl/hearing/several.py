"""Notes of a guitar alone that may sound several strings at once: where the judge hears a pitch begin."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from eager_owl.hearing.frames import HOP_S
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.plateaus import Plateau
from eager_owl.hearing.salience import BINS_PER_SEMITONE, COARSE_HOP_S, HIGHEST_MIDI, LOWEST_MIDI, Candidates
from eager_owl.hearing.segment import RawNote

_BEGIN_LEAST = 0.12
_GAP_FRAMES = 4  # a pitch does not begin twice within this
_NEIGHBOURS = 2  # bins: the same pitch
_STOPS_BELOW, _STOPS_FRAMES = 0.3, 3
_FOLLOW_SEMITONES = 0.7  # a ridge's pitch from frame to frame
# Two strings heard as one between them, until one is bent to the other: semitones from the mixture up to where they
# meet, and down to the one that is bent, which begins so soon.
_MEETS, _BENT_BELOW, _TOGETHER_S = (0.15, 0.95), (0.7, 2.8), 0.05


@dataclass(frozen=True)
class Beginning:
    """A pitch that begins: frame of COARSE_HOP_S, MIDI number, and how probably it does."""

    frame: int
    midi: float
    begins: float


def find_beginnings(found: Candidates, judged: Judgement) -> list[Beginning]:
    """All pitches that begin, by frame."""
    size = (HIGHEST_MIDI - LOWEST_MIDI) * BINS_PER_SEMITONE
    begins, midi = np.zeros((2, len(found.bins), size), np.float32)
    rows, columns = np.nonzero(found.bins >= 0)
    bins = found.bins[rows, columns]
    begins[rows, bins] = judged.begins[rows, columns]
    midi[rows, bins] = found.midi[rows, columns]
    around = (2 * _GAP_FRAMES + 1, 2 * _NEIGHBOURS + 1)
    highest = maximum_filter1d(maximum_filter1d(begins, around[0], axis=0), around[1], axis=1)
    result: list[Beginning] = []
    for row, at in zip(*np.nonzero((begins == highest) & (begins > _BEGIN_LEAST)), strict=True):
        pitch = float(midi[row, at])
        if not any(row - b.frame <= _GAP_FRAMES and abs(b.midi - pitch) < 1 for b in result[-6:]):
            result.append(Beginning(int(row), pitch, float(begins[row, at])))
    return result


def follow_ridge(found: Candidates, judged: Judgement, start: int, midi: float, limit: int) -> NDArray[np.float64]:
    """The pitch of each frame from `start` for as long as it sounds, at most to `limit`."""
    ridge: list[float] = []
    silent = 0
    for row in range(start, limit):
        near = np.abs(found.midi[row] - midi) < _FOLLOW_SEMITONES
        near &= found.bins[row] >= 0
        sounds = float(judged.sounds[row][near].max(initial=0.0))
        silent = silent + 1 if sounds < _STOPS_BELOW and row - start > 2 else 0
        if near.any():
            midi = float(found.midi[row][near][judged.sounds[row][near].argmax()])
        ridge.append(midi)
        if silent == _STOPS_FRAMES:
            ridge = ridge[:-_STOPS_FRAMES]
            break
    return np.array(ridge)


def without_mixtures(
    raw: list[RawNote], contour: NDArray[np.float64], beginnings: list[Beginning]
) -> tuple[list[RawNote], NDArray[np.float64]]:
    """Notes of the line, and its contour, less what two strings at once made of them at first.

    Where a string is bent up to another that was struck with it, the line hears a pitch between the two until they
    meet; it is the other's that the note has, and the bend is the judge's to hear.
    """
    contour = contour.copy()
    result: list[RawNote] = []
    for note in raw:
        if len(note.plateaus) > 1 and _is_mixture(note, beginnings):
            mixed, met, *rest = note.plateaus
            contour[note.start : met.start] = met.midi
            note = replace(note, midi=met.midi, plateaus=[Plateau(mixed.start, met.end, met.midi), *rest])
        result.append(note)
    return result, contour


def _is_mixture(note: RawNote, beginnings: list[Beginning]) -> bool:
    """Whether a note begins between a lower pitch that begins with it and one that it soon keeps."""
    mixed, met = note.plateaus[0].midi, note.plateaus[1].midi
    together = (b for b in beginnings if abs(b.frame * COARSE_HOP_S - note.start * HOP_S) < _TOGETHER_S)
    below = any(_BENT_BELOW[0] <= mixed - b.midi <= _BENT_BELOW[1] for b in together)
    return below and _MEETS[0] <= met - mixed <= _MEETS[1]
