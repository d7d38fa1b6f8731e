"""What engravers and notation files group by: beams and triplets within a beat, and the first bar's missing rests."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby

from eager_owl.notation.score import Event, Measure

LONG_REST_BARS = 3


def flags(event: Event) -> int:
    """How many flags or beams a value has: one for an eighth, none for a quarter."""
    return max(0, event.value.denominator.bit_length() - 3) if event.notes else 0


def beam_groups(voice: Sequence[Event]) -> list[list[int]]:
    """Indices of the events that hang on one beam: flagged notes of one beat with no rest between them."""
    groups: list[list[int]] = []
    for index, event in enumerate(voice):
        if not flags(event):
            continue
        last = groups[-1][-1] if groups else None
        if last == index - 1 and voice[last].beat // 1 == event.beat // 1:
            groups[-1].append(index)
        else:
            groups.append([index])
    return [group for group in groups if len(group) > 1]


def triplet_groups(voice: Sequence[Event]) -> list[list[int]]:
    """Indices of the events of each triplet: those of one beat, or of as many as the longest of them spans."""
    groups: list[list[int]] = []
    for index, event in enumerate(voice):
        if not event.value.triplet:
            continue
        open_group = groups[-1] if groups and groups[-1][-1] == index - 1 else None
        if open_group is not None and (event.beat - voice[open_group[0]].beat) < 1 and not _full(voice, open_group):
            open_group.append(index)
        else:
            groups.append([index])
    return groups


def _full(voice: Sequence[Event], group: Sequence[int]) -> bool:
    """Whether a triplet is complete: it ends on a beat."""
    return voice[group[-1]].end % 1 == 0


def is_empty(measure: Measure) -> bool:
    """Whether nothing is struck or held in a bar."""
    return not any(event.notes or event.graces for voice in measure.voices for event in voice)


def without_long_rests(measures: Sequence[Measure]) -> list[tuple[Measure, int]]:
    """Bars, of several empty ones in a row only the first, each with how many bars it stands for."""
    kept: list[tuple[Measure, int]] = []
    for empty, group in groupby(measures, key=is_empty):
        run = list(group)
        if empty and len(run) >= LONG_REST_BARS:
            kept.append((run[0], len(run)))
        else:
            kept += [(measure, 1) for measure in run]
    return kept


def trimmed(measure: Measure) -> Measure:
    """A pickup bar without the rests before its first note, in all voices alike; other bars as they are."""
    if measure.number >= 1:
        return measure
    first = min((e.beat for voice in measure.voices for e in voice if e.notes), default=None)
    if first is None:
        return measure
    starts = max(e.beat for e in measure.voices[0] if e.beat <= first)
    voices = []
    for voice in measure.voices:
        kept = [event for event in voice if event.end > starts]
        if kept and kept[0].beat < starts:
            # A longer rest of another voice: only its end is left.
            kept[0] = replace(kept[0], beat=starts, length=kept[0].end - starts, bar_rest=True)
        voices.append(tuple(kept))
    return replace(measure, voices=tuple(voices))
