"""Palm muting: a palm on the bridge lets notes die within tenths of a second, their upper partials first.

Small networks tell it (eager_owl.hearing.networks, benchmarks/train_palm.py): a way of playing a stretch, no note.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.salience import COARSE_HOP_S, RANGE_DB, Spectra, harmonic_shift, pitch_bins
from eager_owl.hearing.stretches import lasting
from eager_owl.solo.document import TOGETHER_S, Note

# In seconds of a note: as struck, settled, and later.
_STRUCK_S, _SETTLED_S, _LATER_S = (0.01, 0.05), (0.09, 0.13), (0.2, 0.26)
# Bins from a note's own to its first harmonics and just beside them.
_NEAR_HARMONICS = np.array([[harmonic_shift(h) + beside for beside in (-1, 0, 1)] for h in range(1, 9)])
_STOPPED_S, _AT_ONCE = 0.4, 5  # seconds in which it may be stopped, frames in which that is done
_LEAST_S, _LAST_S = 0.08, 0.03  # shorter notes are not described; the last part of one that ends early
_OPEN, _LIKELY = 0.5, 0.6  # how likely a note too short to tell is muted, and a stretch has to be


def palm_muted(notes: Sequence[Note], spectra: Spectra, reference_cents: float) -> set[int]:
    """The indices of notes, ascending by onset, that are palm-muted: of runs of three such and more."""
    described = describe_damping(notes, spectra, reference_cents)
    shares = np.full(len(notes), _OPEN)
    known = [index for index, seen in enumerate(described) if seen is not None]
    if known:
        seen = np.array([[*seen.values()] for seen in described if seen is not None], dtype=np.float32)
        shares[known] = ask(layers_of("palm"), seen)[:, 0]
    return lasting(shares, _LIKELY)


def describe_damping(
    notes: Sequence[Note], spectra: Spectra, reference_cents: float
) -> list[dict[str, float] | None]:
    """What the networks see of each note, in tens of dB; None where it is too short to tell.

    Each measure stands beside its median over the recording, for amplifiers and rooms change them all.
    """
    loudest = spectra.quick.max(axis=1).astype(np.float64) * (RANGE_DB / 10)
    seen = [_describe(index, notes, spectra, loudest, reference_cents) for index in range(len(notes))]
    known = [each for each in seen if each is not None]
    usual = {name: float(np.median([each[name] for each in known])) for name in (known[0] if known else {})}
    return [each and each | {f"{name} beside": each[name] - usual[name] for name in usual} for each in seen]


def _describe(
    index: int, notes: Sequence[Note], spectra: Spectra, loudest: NDArray[np.float64], reference_cents: float
) -> dict[str, float] | None:
    """Of one note; `loudest` is the highest level of each frame, in tens of dB."""
    note = notes[index]
    following = next((other.onset for other in notes[index + 1 :] if other.onset - note.onset > TOGETHER_S), np.inf)
    seconds = min(following, len(spectra) * COARSE_HOP_S) - note.onset
    if seconds < _LEAST_S:
        return None
    first = pitch_bins(note.landed + reference_cents / 100)
    near = (first + _NEAR_HARMONICS).clip(0, spectra.quick.shape[1] - 1)

    def frames(span: tuple[float, float]) -> slice:
        """A part of the note, or its last one."""
        late = max(0.0, span[0] - (seconds - _LAST_S))
        start, end = (round((note.onset + edge - late) / COARSE_HOP_S) for edge in span)
        return slice(max(0, start), end + 1)

    def harmonics(rows: slice) -> NDArray[np.float64]:
        return np.asarray(spectra.quick[rows][:, near].max(axis=2).mean(axis=0, dtype=np.float64) * (RANGE_DB / 10))

    struck_at, settled_at = frames(_STRUCK_S), frames(_SETTLED_S)
    struck, settled = harmonics(struck_at), harmonics(settled_at)
    loud, less, least = (float(loudest[rows].mean()) for rows in (struck_at, settled_at, frames(_LATER_S)))
    # A hand that stops a string does it at once, and later.
    whole = round((note.onset + _STRUCK_S[0]) / COARSE_HOP_S)
    levels = loudest[whole : whole + round(min(seconds, _STOPPED_S) / COARSE_HOP_S)]
    falls = levels[:-_AT_ONCE] - levels[_AT_ONCE:]
    return {
        "steepest": float(falls.max(initial=0.0)),
        "steepest at": int(falls.argmax()) * COARSE_HOP_S if len(falls) else 0.0,
        "fall": loud - less,
        "later": loud - least,
        "sounding": note.duration / min(seconds, 1.0),
        "upper": float(struck[3:].mean() - struck[:2].max()),
        "upper settled": float(settled[3:].mean() - settled[:2].max()),
        "first": float(settled[0] - settled[1:6].max()),
        "odd": float(settled[2] - settled[1]),
        "upper fall": float((struck[3:] - settled[3:]).mean()),
    }
