"""Natural harmonics: a string touched at its half, third or quarter, which lets only some of its partials be.

Small networks tell them (eager_owl.hearing.networks, benchmarks/train_harmonics.py) by what sounds over the pitch
and, left by the touch, under it. N. H. Fletcher and T. D. Rossing, "The Physics of Musical Instruments", 1998, ch. 9.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.salience import COARSE_HOP_S, RANGE_DB, Spectra, harmonic_shift, pitch_bins
from eager_owl.solo.document import TOGETHER_S, Note

# In seconds of a note: as struck, settled, and later; and of no note less than this.
_SPANS_S, _LEAST_S = ((0.0, 0.04), (0.06, 0.14), (0.2, 0.35)), 0.05
_OVER = (1, 2, 3, 4, 5, 6, 8)
# Where the open string has partials that the touched one has not.
_UNDER = (1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4, 4 / 3, 3 / 2, 5 / 3)
_NEAR = np.array([[harmonic_shift(share) + beside for beside in (-1, 0, 1)] for share in (*_OVER, *_UNDER)])
_FAINTEST = -6.0  # tens of dB under the strongest
_ALIKE_SEMITONES = 5.0  # notes so near in pitch are compared most
_MIDDLE_MIDI = 64
# Of the notes at nodes that this is learnt from a third are harmonics, of those that are played perhaps one in 15.
_RARER = 0.16


def describe_touch(notes: Sequence[Note], spectra: Spectra, reference_cents: float) -> NDArray[np.float32]:
    """What the networks see of each note, shape (notes, features), levels in tens of dB.

    Each measure stands beside what notes of about its pitch have in the recording: a harmonic has fewer partials than
    they, whatever the guitar and the amplifier.
    """
    seen = np.array([_describe(index, notes, spectra, reference_cents) for index in range(len(notes))])
    pitches = np.array([note.pitch for note in notes], dtype=np.float64)
    alike = np.exp(-0.5 * ((pitches[:, None] - pitches) / _ALIKE_SEMITONES) ** 2)
    np.fill_diagonal(alike, 0.0)
    usual = alike @ seen / np.maximum(alike.sum(axis=1, keepdims=True), 1e-9)
    # Nothing to compare with: nothing stands out.
    beside = np.where(alike.sum(axis=1, keepdims=True) > 1e-3, seen - usual, 0.0)
    return np.column_stack([(pitches - _MIDDLE_MIDI) / 12, seen, beside]).astype(np.float32)


def _describe(index: int, notes: Sequence[Note], spectra: Spectra, reference_cents: float) -> NDArray[np.float64]:
    note = notes[index]
    following = next((other.onset for other in notes[index + 1 :] if other.onset - note.onset > TOGETHER_S), np.inf)
    seconds = max(_LEAST_S, min(following, len(spectra) * COARSE_HOP_S) - note.onset)
    first = pitch_bins(note.landed + reference_cents / 100)
    near = (first + _NEAR).clip(0, spectra.quick.shape[1] - 1)

    def frames(span: tuple[float, float]) -> slice:
        """A part of the note, or its last one."""
        late = max(0.0, span[1] - seconds)
        start, end = (max(0, round((note.onset + edge - late) / COARSE_HOP_S)) for edge in span)
        start = min(start, len(spectra) - 1)
        return slice(start, max(start, end) + 1)

    def levels(of: NDArray[np.float32], rows: slice) -> NDArray[np.float64]:
        return np.asarray(of[rows][:, near].max(axis=2).mean(axis=0, dtype=np.float64) * (RANGE_DB / 10))

    struck, settled, later = (frames(span) for span in _SPANS_S)
    quick = [levels(spectra.quick, rows) for rows in (struck, settled, later)]
    sharp = [levels(spectra.sharp, rows) for rows in (settled, later)]
    strongest = [each[: len(_OVER)].max() for each in (*quick, *sharp)]
    relative = [np.maximum(each - top, _FAINTEST) for each, top in zip((*quick, *sharp), strongest, strict=True)]
    wide = [float(spectra.quick[rows].mean() * (RANGE_DB / 10)) for rows in (struck, settled)]
    falls = [quick[0][0] - quick[1][0], quick[1][0] - quick[2][0], strongest[1] - strongest[2]]
    return np.array(
        [
            *relative[0], *relative[1][: len(_OVER)], *relative[2][: len(_OVER)], *relative[3], *relative[4],
            wide[0] - strongest[0], wide[1] - strongest[1], *falls, min(seconds, 1.0), min(note.duration, 1.5),
        ]
    )  # fmt: skip


def touched(
    notes: Sequence[Note], spectra: Spectra, reference_cents: float, nodes: frozenset[int]
) -> dict[int, float]:
    """How likely a note is a natural harmonic, by index, of all at pitches (MIDI) that strings have one at."""
    at = [index for index, note in enumerate(notes) if note.pitch in nodes]
    if not at:
        return {}
    shares = ask(layers_of("harmonics"), describe_touch(notes, spectra, reference_cents)[at])[:, 0].astype(np.float64)
    odds = _RARER * shares / np.maximum(1 - shares, 1e-9)
    return dict(zip(at, (odds / (1 + odds)).tolist(), strict=True))
