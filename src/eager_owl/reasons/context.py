"""Where each note stands: its chord, the chords around it, its beat, and how it is stressed."""

from collections.abc import Sequence
from dataclasses import dataclass

from eager_owl.rhythm.chart import Chart, ChordSpan
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note, struck_together
from eager_owl.theory.chord import Chord

# A note this many beats before a chord, and longer after its start than before, is heard with it: it is pushed.
PUSH_BEATS = 0.55
# A note is held over a change that it sounds this many beats before and after.
HELD_BEATS = 0.25
# How far from a beat an onset may lie to be on it.
ON_BEAT = 0.13
_PAST_THE_END_BEATS = 8.0


@dataclass(frozen=True)
class Moment:
    """Where one note stands. Beats are counted from the first beat of bar 1; spans are of the form's changes.

    `stroke` numbers what was struck at once. `span` is the index of the chord's span in the line's `spans`, None
    without grid or chart. `gap` is the beats of silence before the next note. `stressed` notes lie on a strong beat
    or are held for a beat and more; a `slid` one is reached by a slide, a `muted` one has no pitch to speak of.
    """

    stroke: int
    fretted: int
    landed: int
    beat: float
    beats: float
    gap: float
    stressed: bool
    slid: bool
    muted: bool
    span: int | None
    chord: Chord | None


@dataclass(frozen=True)
class Context:
    """The notes' moments in order, and the form's spans around them."""

    moments: tuple[Moment, ...]
    spans: tuple[ChordSpan, ...]
    beats_per_bar: int | None = None  # where there is a beat

    def chord_after(self, span: int) -> Chord | None:
        """The chord of the span after one."""
        return self.spans[span + 1].chord if span + 1 < len(self.spans) else None

    def chord_before(self, span: int) -> Chord | None:
        """The chord of the span before one."""
        return self.spans[span - 1].chord if span else None


def neighbours(moments: Sequence[Moment]) -> list[tuple[int | None, int | None]]:
    """For each note the index of the one before and the one after it, not those struck together with it."""
    found: list[tuple[int | None, int | None]] = []
    for i, moment in enumerate(moments):
        before, after = i - 1, i + 1
        while before >= 0 and moments[before].stroke == moment.stroke:
            before -= 1
        while after < len(moments) and moments[after].stroke == moment.stroke:
            after += 1
        found.append((before if before >= 0 else None, after if after < len(moments) else None))
    return found


def find_context(notes: Sequence[Note], chart: Chart, grid: BeatGrid | None) -> Context:
    """Each note's moment; notes ascend by onset. Without a grid beats are seconds and there are no chords."""
    if not notes:
        return Context((), ())
    onsets = [grid.beat_at(note.onset) if grid else note.onset for note in notes]
    ends = [grid.beat_at(note.end) if grid else note.end for note in notes]
    spans: list[ChordSpan] = []
    if grid is not None:
        spans = chart.changes(onsets[0], ends[-1] + _PAST_THE_END_BEATS, grid.beats_per_bar)
    stroke_of = {i: number for number, stroke in enumerate(struck_together(notes)) for i in stroke}
    at = 0
    moments = []
    for i, (note, beat, end) in enumerate(zip(notes, onsets, ends, strict=True)):
        span = None
        if spans:
            while at + 1 < len(spans) and spans[at].end <= beat + 1e-9:
                at += 1
            change = spans[at].end
            pushed = at + 1 < len(spans) and change - beat <= PUSH_BEATS and end - change > change - beat
            span = at + pushed
        following = next((onset for onset in onsets[i + 1 :] if onset > beat + 1e-6), end)
        within = beat % grid.beats_per_bar if grid else beat % 1.0
        strong = abs(within - round(within)) <= ON_BEAT and (
            grid is None or round(within) % grid.beats_per_bar in _strong_beats(grid.beats_per_bar)
        )
        moments.append(
            Moment(
                stroke_of[i],
                note.pitch,
                note.landed,
                beat,
                end - beat,
                max(following - end, 0.0),
                strong or end - beat >= 1.2,
                note.technique("slide") is not None,
                note.muted,
                span,
                None if span is None else spans[span].chord,
            )
        )
    return Context(tuple(moments), tuple(spans), grid.beats_per_bar if grid else None)


def _strong_beats(beats_per_bar: int) -> tuple[int, ...]:
    return (0, 2) if beats_per_bar == 4 else (0, 3) if beats_per_bar == 6 else (0,)
