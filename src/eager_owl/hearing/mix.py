"""Whether a recording is a guitar alone or a lead over a band.

A band reaches from a bass's pitches up to a lead's, fills the highs, and leaves the judge of a guitar alone in doubt.
Where that leaves it open (low riffs, small bands), it is heard as both, and what is believed decides: a band heard as
a guitar alone gives notes of little belief, a bass's among them, and through a band that is not there most claims are
doubtful. Both are weighed as logistic regressions (mix.json), as benchmarks/train_mix.py fits them.
"""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.belief import BELIEVED
from eager_owl.hearing.judge import Judgement
from eager_owl.hearing.regressions import log_odds, weights_of
from eager_owl.hearing.salience import AXIS_LOW_MIDI, BINS_PER_SEMITONE, LOWEST_MIDI, RANGE_DB, Candidates, Spectra

Mix = Literal["solo", "band"]

_LOUD_DB = 35.0
# From the lowest to the highest of the pitches that are more likely to sound than not, strays left out.
_SURE, _RANGE_PERCENT = 0.5, (3, 95)
# Where basses and drums are struck, where most of what is struck stands out, and what cymbals fill (MIDI).
_LOW, _MIDDLE, _HIGH = (AXIS_LOW_MIDI, 52), (80, 100), (111, 123)
_RISE, _HARDEST_PERCENT = 2, 97  # frames over which a rise of level is measured; the hardest strokes
# Of the score, between these bounds both are tried.
OPEN_FROM, OPEN_TO = -2.0, 2.0
_SAME_S, _SAME_SEMITONES = 0.06, 0.6  # nearer than this, two hearings claim the same note


class Claimed(NamedTuple):
    """A note that a hearing claims: how far it is believed, its pitch (MIDI number) and its onset."""

    belief: float
    midi: float
    onset_s: float


def sound_of_mix(spectra: Spectra, found: Candidates, judged: Judgement) -> dict[str, float]:
    """What the score is weighed from, by name; `judged` as of a guitar alone."""
    loud = _loud(spectra)
    sure = found.midi[judged.sounds > _SURE]
    lowest, highest = np.percentile(sure, _RANGE_PERCENT) if len(sure) else (LOWEST_MIDI, LOWEST_MIDI)
    high = spectra.quick[loud, _part(_HIGH)]
    p = judged.sounds[loud]
    entropy = -(p * np.log(p + 1e-6) + (1 - p) * np.log(1 - p + 1e-6)).sum(axis=1)
    return {
        "doubt": float(entropy.mean()),
        "lowest": float(lowest),
        "range": float(highest - lowest),
        "struck": float(judged.struck[loud].max(axis=1).mean()),
        "struck low": float(_rises(spectra, _LOW).mean()),
        "struck in the middle": float(np.percentile(_rises(spectra, _MIDDLE), _HARDEST_PERCENT)),
        "struck high": float(_rises(spectra, _HIGH).mean()),
        "highs": float((high.mean(axis=1) - spectra.quick[loud].max(axis=1)).mean()),
        "uneven highs": float(high.std(axis=1).mean()),
    }


def lead_sounds(spectra: Spectra, judged: Judgement) -> float:
    """How likely anything of a lead sounds, in the mean over what is not silent; `judged` as of a band."""
    return float(judged.sounds[_loud(spectra)].max(axis=1).mean())


def _loud(spectra: Spectra) -> NDArray[np.intp]:
    """The frames that are not silent; at least one."""
    loudest = spectra.quick.max(axis=1)
    return np.flatnonzero(loudest >= loudest.max() - _LOUD_DB / RANGE_DB)


def _part(of_axis: tuple[int, int]) -> slice:
    """The bins of some MIDI numbers."""
    return slice(*((midi - AXIS_LOW_MIDI) * BINS_PER_SEMITONE for midi in of_axis))


def _rises(spectra: Spectra, of_axis: tuple[int, int]) -> NDArray[np.float32]:
    """How much the level rises in each frame, in the mean of a part of the axis; of a sound too short, not."""
    levels = spectra.quick[:, _part(of_axis)]
    if len(levels) <= _RISE:
        return np.zeros(1, np.float32)
    return np.asarray(np.maximum(levels[_RISE:] - levels[:-_RISE], 0).mean(axis=1))


def mix_score(spectra: Spectra, found: Candidates, judged: Judgement) -> float:
    """How much it sounds like a band, in log-odds; `judged` as of a guitar alone."""
    return log_odds(weights_of("mix")["sound"], sound_of_mix(spectra, found, judged))


def compared(score: float, alone: Sequence[Claimed], band: Sequence[Claimed], lead: float) -> dict[str, float]:
    """What decides between two hearings, from all that each claims, and how likely a lead sounds (lead_sounds).

    How doubtful either's claims are, 0 to 1, where the sure and the surely wrong ones are 0. Of the notes that a
    guitar alone would have, how many begin together; and how many of those beside the band's line lie beneath all of
    it, as a bass does and few second strings.
    """
    notes, line = ([each for each in claims if each.belief >= BELIEVED] for claims in (alone, band))
    lowest = min((each.midi for each in line), default=0.0)
    beside = [note for note in notes if not any(_same(note, each) for each in line)]
    return {
        "score": score,
        "doubt alone": _doubt(alone),
        "doubt through a band": _doubt(band),
        "beneath": float(np.mean([note.midi < lowest for note in beside])) if beside else 0.0,
        "together": float(np.mean([_struck_with_another(note, notes) for note in notes])) if notes else 0.0,
        "lead": lead,
    }


def _same(note: Claimed, other: Claimed) -> bool:
    return abs(note.onset_s - other.onset_s) < _SAME_S and abs(note.midi - other.midi) < _SAME_SEMITONES


def _struck_with_another(note: Claimed, notes: Sequence[Claimed]) -> bool:
    return any(abs(note.onset_s - each.onset_s) < _SAME_S and each is not note for each in notes)


def _doubt(claims: Sequence[Claimed]) -> float:
    return float(np.mean([4 * each.belief * (1 - each.belief) for each in claims])) if claims else 1.0


def is_band(score: float, alone: Sequence[Claimed], band: Sequence[Claimed], lead: float) -> bool:
    """Whether what is heard through a band is to be taken, and not what is heard of a guitar alone; as compared."""
    return log_odds(weights_of("mix")["believed"], compared(score, alone, band, lead)) > 0
