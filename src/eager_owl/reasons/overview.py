"""A whole solo counted: sources over the form, targets, techniques, range and places, pace, dynamics, figures."""

from bisect import bisect_left
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import TypeVar

from eager_owl.reasons.events import Event
from eager_owl.reasons.explain import Explanation, Reading, Reason
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note, Phrase

_MOST_FIGURES = 6
_Kind = TypeVar("_Kind")
# Names, each with the ids of its notes, most notes first.
Counts = tuple[tuple[str, tuple[int, ...]], ...]


@dataclass(frozen=True)
class PhraseCount:
    """A phrase: its index, seconds, notes, notes a second, and its loudness against the solo's loudest note in dB."""

    index: int
    seconds: float
    notes: int
    notes_a_second: float
    loudness_db: float


@dataclass(frozen=True)
class Overview:
    """Counts of a solo. Every figure names notes by id, so that it leads to where they are played.

    `sources` are (name, ids), most notes first; `bars` for each bar of the form the sources played over it, likewise;
    `targets` (interval, ids) of the tones met at changes; `roles` and `techniques` (name, ids); `places` the ids on
    each string and fret; `figures` (ids of a figure, how often it is played).
    """

    sources: Counts
    bars: tuple[Counts, ...]
    targets: Counts
    roles: Counts
    techniques: Counts
    lowest: int | None
    highest: int | None
    places: dict[tuple[int, int], tuple[int, ...]]
    phrases: tuple[PhraseCount, ...]
    figures: tuple[tuple[tuple[int, ...], int], ...]


def look_over(
    notes: Sequence[Note],
    phrases: Sequence[Phrase],
    reading: Reading,
    explanation: Explanation,
    chart: Chart,
    grid: BeatGrid | None,
) -> Overview:
    """Count a solo's notes, which ascend by onset, with their reading and an explanation of them all."""
    reasons = explanation.reasons
    bars: list[list[tuple[str, int]]] = [[] for _ in chart.bars]
    if grid is not None and chart.bars:
        for note, moment, reason in zip(notes, reading.context.moments, reasons, strict=True):
            if moment.beat >= 0:
                bars[int(moment.beat // grid.beats_per_bar) % len(bars)].append((_from(reason), note.id))
    targets = [
        (event.intervals[-1], notes[event.notes[-1]].id)
        for event in reading.events
        if event.kind in ("target", "guide tone")
    ]
    pitches = [note.landed for note in notes]
    return Overview(
        _counted((_from(reason), note.id) for reason, note in zip(reasons, notes, strict=True)),
        tuple(_counted(bar) for bar in bars),
        _counted(targets),
        _counted((role, n.id) for role, n in zip(reading.roles, notes, strict=True) if role != "unknown"),
        _counted((technique.name, note.id) for note in notes for technique in note.techniques),
        min(pitches, default=None),
        max(pitches, default=None),
        dict(_grouped(((n.string, n.fret), n.id) for n in notes if n.string is not None and n.fret is not None)),
        tuple(_count_phrases(notes, phrases)),
        _figures(notes, reading.events),
    )


def _from(reason: Reason) -> str:
    return reason.source_name or ("no pitch" if reason.standing == "unpitched" else "outside")


def _counted(pairs: Iterable[tuple[str, int]]) -> Counts:
    return tuple(sorted(_grouped(pairs), key=lambda item: -len(item[1])))


def _grouped(pairs: Iterable[tuple[_Kind, int]]) -> list[tuple[_Kind, tuple[int, ...]]]:
    """The numbers of each kind, kinds as they first come."""
    found: dict[_Kind, list[int]] = defaultdict(list)
    for kind, number in pairs:
        found[kind].append(number)
    return [(kind, tuple(numbers)) for kind, numbers in found.items()]


def _count_phrases(notes: Sequence[Note], phrases: Sequence[Phrase]) -> list[PhraseCount]:
    loudest = max((note.loudness_db for note in notes), default=0.0)
    onsets = [note.onset for note in notes]
    counts = []
    for index, phrase in enumerate(phrases):
        members = notes[bisect_left(onsets, phrase.start) : bisect_left(onsets, phrase.end)]
        if members:
            seconds = max(members[-1].end - members[0].onset, 0.1)
            level = max(note.loudness_db for note in members) - loudest
            counts.append(PhraseCount(index, phrase.end - phrase.start, len(members), len(members) / seconds, level))
    return counts


def _figures(notes: Sequence[Note], events: Sequence[Event]) -> tuple[tuple[tuple[int, ...], int], ...]:
    """The figures played most often, each by its first playing."""
    times: Counter[tuple[int, ...]] = Counter()
    for event in events:
        if event.kind == "repeat":
            times[tuple(notes[i].id for i in event.notes[: len(event.notes) // 2])] += 1
    return tuple((ids, count + 1) for ids, count in times.most_common(_MOST_FIGURES))
