"""What is read from another program's file: a solo, and what of the file could not be read."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from eager_owl.rhythm.chart import Chart, chart_text
from eager_owl.rhythm.grid import MAX_BEATS_PER_BAR, MAX_BPM, MIN_BPM, BeatGrid
from eager_owl.solo.document import MIN_PHRASE_S, Note, Phrase, Solo
from eager_owl.theory.chord import Chord
from eager_owl.theory.words import one_line

# A file says so much at most; what says more is broken or meant to do harm.
MOST_NOTES, MOST_BARS, MOST_BYTES = 20_000, 4_000, 64_000_000
MOST_SECONDS = 4 * 3600.0
MOST_COMPLAINTS = 40
# A phrase ends at a rest of so many beats, once it is as long as that many bars.
_BREATH_BEATS, _LEAST_BARS = 0.9, 1.0
# Without rests it is cut all the same, once it is longer than so many bars, so many bars after it began.
_MOST_BARS, _CUT_BARS = 5.0, (1.9, 4.2)
_LONGEST_WORDS = 200
_LIKELY_PARTS = (1, 2, 3, 4, 6, 8, 12)


class ForeignFileError(ValueError):
    """A file that can't be read at all; the message says why, for the player."""


@dataclass(frozen=True)
class Imported:
    """A solo without a recording, and a line for each thing in the file that was left out or changed.

    `parts` are the tracks or parts that the file has notes in, in words; `part` is which was read, from 1.
    """

    solo: Solo
    complaints: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    part: int = 1


class Complaints:
    """Lines gathered while a file is read; what is said often is said once, with how often."""

    def __init__(self) -> None:
        self._times: dict[str, list[str]] = {}

    def add(self, words: str, where: str = "") -> None:
        """Something that could not be read, and where."""
        told = one_line(words)  # it may quote the file
        if len(told) > _LONGEST_WORDS:
            told = f"{told[:_LONGEST_WORDS]}…"
        self._times.setdefault(told, []).append(where)

    @property
    def lines(self) -> tuple[str, ...]:
        """A line each, in the order they first came."""
        lines = []
        for words, places in self._times.items():
            first = next((place for place in places if place), "")
            more = f", and {len(places) - 1} more" if len(places) > 1 else ""
            lines.append(f"{first}{more}: {words}" if first else words)
        if len(lines) > MOST_COMPLAINTS:
            return (*lines[:MOST_COMPLAINTS], f"and {len(lines) - MOST_COMPLAINTS} other lines like these")
        return tuple(lines)


def grid_of(
    meter: tuple[int, int],
    bpm_quarters: float,
    changes: Sequence[tuple[Fraction, float]],
    swung: bool,
    told: Complaints,
) -> tuple[BeatGrid, Fraction]:
    """A grid for a meter and tempo in quarter notes a minute, and how many quarter notes a beat of it has.

    `changes` are (quarter note, tempo) of every tempo, the first included, for the grid's anchors.
    """
    number, unit = meter
    if unit == 8 and number % 3 == 0 and number > 3:
        beats, quarters, division = number // 3, Fraction(3, 2), 3
    elif unit in (1, 2, 4) and number * 4 // unit <= MAX_BEATS_PER_BAR:
        beats, quarters, division = number * 4 // unit, Fraction(1), 2
    else:
        beats, quarters, division = number, Fraction(4, max(unit, 1)), 2
        told.add(f"{number}/{unit} is counted as {number}/4, its tempo to match")
    if not 1 <= beats <= MAX_BEATS_PER_BAR:
        told.add(f"a meter of {number}/{unit} can't be counted here: bars are of four")
        beats, quarters, division = 4, Fraction(1), 2
    bpm = bpm_quarters / float(quarters)
    if not MIN_BPM <= bpm <= MAX_BPM:
        told.add(f"a tempo of {bpm:g} is outside {MIN_BPM:g} to {MAX_BPM:g}")
        bpm = min(max(bpm, MIN_BPM), MAX_BPM)
    grid = BeatGrid(bpm, 0.0, beats, division=division, swung=swung and division == 2)
    tempos = sorted(dict(changes).items())
    if len(tempos) > 1:
        anchors, at, time = [(0.0, 0.0)], Fraction(0), 0.0
        tempo = bpm_quarters
        for place, following in tempos:
            if place > at:
                time += float(place - at) * 60 / tempo
                anchors.append((float(place / quarters), time))
                at = place
            tempo = following
        anchors.append((float(at / quarters) + 64.0, time + 64 * float(quarters) * 60 / tempo))
        grid = replace(grid, anchors=tuple(anchors))
    return grid, quarters


def later(grid: BeatGrid, seconds: float) -> BeatGrid:
    """The grid so many seconds later."""
    anchors = tuple((beat, time + seconds) for beat, time in grid.anchors)
    return replace(grid, first_beat_s=grid.first_beat_s + seconds, anchors=anchors)


def chart_from(
    changes: Sequence[tuple[Fraction, Chord | None]],
    beats_per_bar: int,
    bars: int,
    sections: Sequence[tuple[int, str]] = (),
) -> str:
    """Chart text for chords that begin at beats of bar 1 on, each until the next."""
    if not changes:
        return ""
    per_bar: dict[int, dict[Fraction, Chord | None]] = {}
    for beat, chord in changes:
        bar, within = divmod(beat, beats_per_bar)
        if bar >= 0:
            per_bar.setdefault(int(bar), {})[within / beats_per_bar] = chord
    held: Chord | None = None
    rows: list[tuple[Chord | None, ...]] = []
    for bar in range(min(max(bars, max(per_bar, default=0) + 1), MOST_BARS)):
        own = per_bar.get(bar, {})
        parts = next((n for n in _LIKELY_PARTS if all((at * n).denominator == 1 for at in own)), 12)
        shares: list[Chord | None] = []
        starts = {round(at * parts): chord for at, chord in own.items()}
        for share in range(parts):
            held = starts.get(share, held)
            shares.append(held)
        rows.append(tuple(shares))
    return chart_text(Chart(tuple(rows), tuple((bar, name) for bar, name in sections if bar < len(rows))))


def with_phrases(solo: Solo, named: Sequence[tuple[float, str]] = ()) -> Solo:
    """The solo cut into phrases: at the named times (s), or where there are none, at its rests."""
    if not solo.notes:
        return solo
    end = max(note.end for note in solo.notes) + 0.05
    starts = [(max(time - 0.02, 0.0), name) for time, name in named if time < end]
    if starts:
        first = solo.notes[0].onset
        if starts[0][0] > first:
            starts.insert(0, (max(first - 0.02, 0.0), "Beginning"))
    else:
        onsets = _shortened(_rests(solo), solo)
        starts = [(max(time - 0.02, 0.0), f"Phrase {number}") for number, time in enumerate(onsets, 1)]
    bounds = [*(start for start, _ in starts), end]
    phrases = tuple(
        Phrase(start, bounds[index + 1], name, "heard")
        for index, (start, name) in enumerate(starts)
        if bounds[index + 1] - start >= MIN_PHRASE_S
    )
    return replace(solo, phrases=phrases)


def _rests(solo: Solo) -> list[float]:
    """Onsets of the first note and of those after a breath."""
    beat_s = solo.grid.beat_s if solo.grid else 0.5
    least = _LEAST_BARS * (solo.grid.bar_s if solo.grid else 2.0)
    starts = [solo.notes[0].onset]
    until = solo.notes[0].end
    for note in solo.notes[1:]:
        if note.onset - until >= _BREATH_BEATS * beat_s and note.onset - starts[-1] >= least:
            starts.append(note.onset)
        until = max(until, note.end)
    return starts


def _shortened(starts: list[float], solo: Solo) -> list[float]:
    """Beginnings with none further apart than a few bars: a longer phrase is cut before the longest-awaited bar."""
    if solo.grid is None:
        return starts
    grid = solo.grid
    shorter: list[float] = []
    for start, end in zip(starts, [*starts[1:], solo.notes[-1].end], strict=True):
        shorter.append(start)
        inside = [note.onset for note in solo.notes if start < note.onset < end]
        while grid.beat_at(end) - grid.beat_at(shorter[-1]) > _MOST_BARS * grid.beats_per_bar:
            first = grid.beat_at(shorter[-1])
            least, most = (first + bars * grid.beats_per_bar for bars in _CUT_BARS)
            near = [at for at in inside if least <= grid.beat_at(at) <= most]
            if not near:
                break
            # Notes that begin a bar, and follow the longest note.
            shorter.append(
                max(near, key=lambda at: (_on_bar(at, solo), at - max([start, *(n for n in inside if n < at)])))
            )
    return shorter


def _on_bar(time_s: float, solo: Solo) -> bool:
    assert solo.grid is not None
    beat = solo.grid.beat_at(time_s) / solo.grid.beats_per_bar
    return abs(beat - round(beat)) * solo.grid.beats_per_bar < 0.2


def checked(notes: Sequence[Note], told: Complaints) -> tuple[Note, ...]:
    """Notes in order with ids from 1; what lies outside all bounds is left out and told. Raises ForeignFileError."""
    if len(notes) > MOST_NOTES:
        raise ForeignFileError(f"it has {len(notes)} notes, more than the {MOST_NOTES} that a solo may have")
    kept = []
    for note in notes:
        if not 0 <= note.onset <= MOST_SECONDS or not note.duration <= MOST_SECONDS:
            told.add("a note that begins or lasts hours away is left out")
        elif not 0 <= note.pitch <= 127:
            told.add("a note outside all pitches is left out")
        else:
            kept.append(note)
    kept.sort(key=lambda note: (note.onset, note.pitch))
    return tuple(replace(note, id=number) for number, note in enumerate(kept, 1))
