"""A source for every note by a global best path, under one school of thought.

A school proposes sources for each harmonic situation; the path through them leaves the fewest notes
unexplained, then changes source the fewest times, and prefers what the school weighs less. A change is paid
only where the line makes it: a source that follows its chord is paid once a chord, lightly.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from eager_owl.reasons.schools import ReasonSchool, Source
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.theory.chord import Chord
from eager_owl.theory.interval import interval_name
from eager_owl.theory.key import Key
from eager_owl.theory.scale import degree_semitones

UNEXPLAINED_COST = 10.0
SWITCH_COST = 3.0
# A note this many beats before a chord is heard with that chord: the player anticipates.
_ANTICIPATION_BEATS = 0.3


@dataclass(frozen=True)
class Reason:
    """Where one note comes from. Names are plain ("b3"); None where there is no key, chord or source.

    `lands_key` and `lands_chord` are the intervals a bent note arrives at.
    """

    chord: Chord | None
    interval_key: str | None
    interval_chord: str | None
    source: Source | None
    role: str
    lands_key: str | None = None
    lands_chord: str | None = None


@dataclass(frozen=True)
class Explanation:
    """Reasons note by note, with the count of unexplained notes and of changes of source."""

    reasons: tuple[Reason, ...]
    unexplained: int
    switches: int


def explain(
    notes: Sequence[Note], key: Key | None, chart: Chart, grid: BeatGrid | None, school: ReasonSchool
) -> Explanation:
    """Explain notes in order of onset. Without a grid or chart only the key speaks."""
    chords = [_chord_of(note, chart, grid) for note in notes]
    sources = _best_sources(notes, chords, key, school)
    reasons = tuple(
        _reason(note, chord, key, source) for note, chord, source in zip(notes, chords, sources, strict=True)
    )
    spans = [source for source in sources if source is not None]
    switches = sum(a != b for a, b in itertools.pairwise(spans))
    return Explanation(reasons, sum(reason.source is None for reason in reasons), switches)


def _chord_of(note: Note, chart: Chart, grid: BeatGrid | None) -> Chord | None:
    if grid is None or not chart.bars:
        return None
    beat = grid.beat_at(note.onset)
    ahead = beat + _ANTICIPATION_BEATS
    # A short note just before the bar line still belongs to the old chord; one that sounds into the new, to it.
    if int(ahead // grid.beats_per_bar) != int(beat // grid.beats_per_bar):
        boundary = grid.time_of((ahead // grid.beats_per_bar) * grid.beats_per_bar)
        if note.end - boundary > boundary - note.onset:
            beat = ahead
    return chart.chord_at(beat, grid.beats_per_bar)


def sounding_pitch(note: Note) -> int:
    """The pitch a note arrives at: the fretted one, or where its bend takes it, to the nearest semitone."""
    return note.pitch + round(note.bend.semitones or 0.0) if note.bend else note.pitch


def _best_sources(
    notes: Sequence[Note], chords: Sequence[Chord | None], key: Key | None, school: ReasonSchool
) -> list[Source | None]:
    """The source of each note, None where the best path leaves it outside of every source."""
    if not notes:
        return []
    choices = [school.sources(chord, key) for chord in chords]
    costs: list[list[float]] = []
    backs: list[list[int]] = []
    for i, note in enumerate(notes):
        here = [
            source.cost + UNEXPLAINED_COST * (not source.explains(note.pitch, sounding_pitch(note)))
            for source in choices[i]
        ]
        if i == 0 or not costs[-1] or not here:
            base = min(costs[-1]) if costs and costs[-1] else 0.0
            best_before = costs[-1].index(base) if costs and costs[-1] else 0
            costs.append([base + cost for cost in here] or [base])
            backs.append([best_before] * max(len(here), 1))
            continue
        new_chord = chords[i] != chords[i - 1]
        row, back = [], []
        for j, source in enumerate(choices[i]):
            through = [
                costs[-1][k] + _switch_cost(before, source, new_chord) for k, before in enumerate(choices[i - 1])
            ] or [min(costs[-1])]
            best = min(range(len(through)), key=through.__getitem__)
            row.append(through[best] + here[j])
            back.append(best)
        costs.append(row)
        backs.append(back)
    at = min(range(len(costs[-1])), key=costs[-1].__getitem__)
    path: list[Source | None] = []
    for i in range(len(notes) - 1, -1, -1):
        found = choices[i][at] if choices[i] else None
        fits = found is not None and found.explains(notes[i].pitch, sounding_pitch(notes[i]))
        path.append(found if fits else None)
        at = backs[i][at]
    return path[::-1]


def _switch_cost(before: Source, after: Source, new_chord: bool) -> float:
    if before == after:
        return 0.0
    return SWITCH_COST / 4 if new_chord and after.follows_chord else SWITCH_COST


def _reason(note: Note, chord: Chord | None, key: Key | None, source: Source | None) -> Reason:
    landed = sounding_pitch(note)
    bent = landed != note.pitch
    return Reason(
        chord=chord,
        interval_key=_spelled(note.pitch, key.tonic, source) if key else None,
        interval_chord=_in_chord(note.pitch, chord, source) if chord else None,
        source=source,
        role=_role(landed, chord, source),
        lands_key=_spelled(landed, key.tonic, source) if key and bent else None,
        lands_chord=_in_chord(landed, chord, source) if chord and bent else None,
    )


def _spelled(pitch: int, root: int, source: Source | None) -> str:
    """The interval above a root, as the source spells it where it stands on that root."""
    plain = interval_name(pitch, root)
    if source is None or source.root != root:
        return plain
    return source.degrees.get((pitch - root) % 12, plain)


def _in_chord(pitch: int, chord: Chord, source: Source | None) -> str:
    label = chord.degrees.get((pitch - chord.root) % 12)
    return label or _spelled(pitch, chord.root, source)


def _role(pitch: int, chord: Chord | None, source: Source | None) -> str:
    if chord is None:
        return "scale tone" if source else "outside"
    step = (pitch - chord.root) % 12
    if step in chord.degrees:
        return "chord tone"
    if source is None:
        return "outside"
    if source.is_blue(pitch):
        return "blue note"
    third_is_minor = "b3" in chord.labels and "3" not in chord.labels
    clash = (step == degree_semitones("3") and third_is_minor) or (step == degree_semitones("7") and chord.has("b7"))
    return "clash" if clash else "tension"
