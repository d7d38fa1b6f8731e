"""What was done to a note: bends with their size, vibrato with rate and extent, slides, legato, trills."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from eager_owl.hearing.frames import HOP_S
from eager_owl.hearing.plateaus import Plateau, find_plateaus, measure_transition
from eager_owl.hearing.segment import RawNote
from eager_owl.hearing.transitions import BEND_REACH, GOES_ON, SAME_SEMITONES, Outcome
from eager_owl.solo.techniques import Manner, Technique, TechniqueName

_BEND_LEAST = 0.4  # semitones, between plateaus
_CURL_LEAST = 0.28  # semitones, within a plateau: a quarter-step curl is 0.5
_CURL_BASE_S, _CURL_MEAN_S, _CURL_HELD_S = 0.06, 0.12, 0.09
_CURL_EDGES = slice(3, -5)
_HAMMER_REACH = 5.5  # semitones: what comes further up without an attack, the other hand has tapped
# Manners less likely than this are not told, nor more than so many.
_LIKELY, _MANNERS_TOLD = 0.05, 2
_LEAST_NAMED = 1e-3  # some belief in the name is always left
_MANNERS: dict[Outcome, Manner] = {
    "struck": "picked",
    "slide": "slide",
    "bent": "bend",
    "let_down": "prebend_release",
}
_ARRIVAL_TAIL_S = 0.08  # after a slide or hammer-on the contour still settles
# A fret that a slide passes is stood on for less than this, and the slide's note begins at once after it.
_PASSED_S, _JOINED_S = 0.15, 0.03
_RETURNED = 0.4  # semitones from where it began: the bend was let down again
# Semitones under the fret, and the least time that a bar takes for the way: a finger, and a slide, is quicker.
_DIP_LEAST, _DIVE_MOST, _QUICKEST_DIP_S, _QUICKEST_DIVE_S, _DIVE_STANDS_S = 0.6, 6.5, 0.04, 0.07, 0.1

_VIBRATO_RATE_HZ = (3.5, 9.0)
_VIBRATO_LEAST_S = 0.3
_VIBRATO_LEAST_CENTS = 8.0
_VIBRATO_MOST_CENTS = 220.0
_SWINGING_CENTS = 25.0  # wider ones are taken out of the contour before bends are sought
_VIBRATO_CYCLES = 1.8
_VIBRATO_PERIODICITY = 0.45  # autocorrelation of the contour at one cycle

_TRILL_NOTES, _TRILL_RATE_HZ = 4, 5.0


def measure_techniques(note: RawNote, contour: NDArray[np.float64]) -> tuple[tuple[Technique, ...], float]:
    """The techniques of one raw note and its fretted pitch; `contour` is the whole track in MIDI numbers.

    The fretted pitch is the raw note's, but for a curl within a plateau, whose start it is.
    """
    fretted = note.midi
    found: list[Technique] = []
    if note.arrival == "slide":
        found.append(Technique("slide", round(note.midi - note.from_midi, 2), round(note.arrival_s, 3)))
    elif note.arrival in ("hammer_on", "pull_off"):
        step = round(note.midi - note.from_midi, 2)
        found.append(Technique(_by_hammer(step), step))
    vibrato = _vibrato(note, contour)
    steady, calmed = _calmed(note, contour, vibrato) if vibrato else (note, contour)
    if bend := _bend(steady, calmed):
        found.append(bend)
    elif curl := _curl(steady, calmed):
        found.append(curl[0])
        fretted = curl[1]
    if vibrato:
        found.append(vibrato)
    elif bend is None and (bar := _bar(note, contour)):
        found.append(bar)
    return tuple(found), fretted


def _calmed(note: RawNote, contour: NDArray[np.float64], vibrato: Technique) -> tuple[RawNote, NDArray[np.float64]]:
    """The note and the contour less its vibrato, where that swings so far that it would pass for bends."""
    if (vibrato.extent_cents or 0.0) < _SWINGING_CENTS:
        return note, contour
    start, end = note.plateaus[0].start, note.plateaus[-1].end
    where = np.flatnonzero(np.isfinite(contour[start:end])) + start
    calmed = contour.copy()
    calmed[where] = uniform_filter1d(contour[where], round(1 / (vibrato.rate_hz or 5.0) / HOP_S), mode="nearest")
    plateaus = find_plateaus(calmed, start, end)
    return (replace(note, plateaus=plateaus) if plateaus else note), calmed


def other_manners(note: RawNote, doubts: Sequence[tuple[Manner, float]] = ()) -> tuple[tuple[Manner, float], ...]:
    """How else a note may have been played, with the belief in each, the likeliest first.

    Of how it began, of the steps within it, and of the `doubts` in what was measured of it.
    """
    begun = {"hammer_on": "legato", "pull_off": "legato", "slide": "slide"}.get(note.arrival, "struck")
    told = [] if note.beliefs is None else [(note.midi - note.from_midi, note.beliefs, begun)]
    told += [(step, beliefs, "bent") for step, beliefs in note.inner if abs(step) >= SAME_SEMITONES]
    junctions = [
        {
            _MANNERS.get(outcome) or _by_hammer(step): share
            for outcome, share in beliefs.items()
            if outcome != named and share >= _LIKELY and not {outcome, named} <= set(GOES_ON)
        }
        for step, beliefs, named in told
    ]
    return _weighed([*junctions, *({manner: share} for manner, share in doubts)])


def with_doubts(
    told: Sequence[tuple[Manner, float]], doubts: Sequence[tuple[Manner, float]]
) -> tuple[tuple[Manner, float], ...]:
    """How else a note may have been played, with those doubts that are likely enough, the likeliest first."""
    return _weighed([dict(told), *({manner: share} for manner, share in doubts)])


def _weighed(questions: Sequence[dict[Manner, float]]) -> tuple[tuple[Manner, float], ...]:
    """The shares of what else it may be, the likeliest first, of the shares in each of several questions.

    What each leaves is its belief in the name, by which its shares are weighed: a name that holds in all of them is
    not less likely than what only one of them doubts.
    """
    odds: dict[Manner, float] = {}
    for shares in questions:
        named = max(1 - sum(shares.values()), _LEAST_NAMED)
        for manner, share in shares.items():
            odds[manner] = max(odds.get(manner, 0.0), share / named)
    whole = 1 + sum(odds.values())
    ranked = sorted(((manner, each / whole) for manner, each in odds.items()), key=lambda item: -item[1])
    return tuple((manner, round(share, 3)) for manner, share in ranked[:_MANNERS_TOLD] if share >= _LIKELY)


def _by_hammer(step: float) -> TechniqueName:
    """What the fretting hand alone does over so many semitones."""
    return "pull_off" if step < 0 else "tap" if step > _HAMMER_REACH else "hammer_on"


def _bend(note: RawNote, contour: NDArray[np.float64]) -> Technique | None:
    levels = [plateau.midi - note.midi for plateau in note.plateaus]
    # Further up than a bend goes the line has slipped to another pitch.
    top = max(range(len(levels)), key=lambda index: levels[index] if levels[index] < BEND_REACH else 0.0)
    size = levels[top]
    if size < _BEND_LEAST:
        return None
    before = next((i for i in range(top - 1, -1, -1) if levels[i] < size - _BEND_LEAST), None)
    after = next((i for i in range(top + 1, len(levels)) if levels[i] < size - _BEND_LEAST), None)
    bent = _held(note.plateaus[top], contour)
    size = round(bent - note.midi, 2)
    if not _BEND_LEAST <= size <= BEND_REACH:  # a plateau that slips half of its time to another pitch
        return None
    rise = _seconds(contour, note.plateaus, before, top) if before is not None else None
    release = _seconds(contour, note.plateaus, top, after) if after is not None else None
    released = after is not None and min(levels[after:]) < _RETURNED
    if rise is None:
        return Technique("prebend_release" if released else "prebend", size, None, release)
    return Technique("bend_release" if released else "bend", size, rise, release if released else None)


def _bar(note: RawNote, contour: NDArray[np.float64]) -> Technique | None:
    """A dip of the whammy bar, which comes back to the fret, or a dive, which does not.

    A fretted string goes under its pitch in no other way: but for a hand that slides off, which stands nowhere.
    """
    levels = [plateau.midi - note.midi for plateau in note.plateaus]
    first = next((i for i, level in enumerate(levels) if level < -_DIP_LEAST), 0)
    if first == 0 or not all(-_DIVE_MOST < level < _RETURNED for level in levels):
        return None
    back = next((i for i in range(first + 1, len(levels)) if levels[i] > -_RETURNED), None)
    down = _seconds(contour, note.plateaus, first - 1, first)
    if back is None:
        stands_s = np.count_nonzero(np.isfinite(contour[note.plateaus[first].start : note.end])) * HOP_S
        if down < _QUICKEST_DIVE_S or stands_s < _DIVE_STANDS_S:
            return None
        return Technique("dive", round(min(levels[first:]), 2), down)
    if down < _QUICKEST_DIP_S:
        return None
    way = contour[note.plateaus[first - 1].end : note.plateaus[back].start]
    depth = float(np.nanmin(way, initial=min(levels[first:back]) + note.midi)) - note.midi
    return Technique("dip", round(depth, 2), down, _seconds(contour, note.plateaus, back - 1, back))


def _held(plateau: Plateau, contour: NDArray[np.float64]) -> float:
    """Pitch a bend is held at: the median of the plateau's later two thirds, past its overshoot or approach."""
    held = contour[plateau.start + (plateau.end - plateau.start) // 3 : plateau.end]
    held = held[np.isfinite(held)]
    return float(np.median(held)) if len(held) else plateau.midi


def _seconds(contour: NDArray[np.float64], plateaus: Sequence[Plateau], a: int, b: int) -> float:
    return round(measure_transition(contour, plateaus[a], plateaus[b]).whole_s, 3)


def _curl(note: RawNote, contour: NDArray[np.float64]) -> tuple[Technique, float] | None:
    """A bend so small that it never leaves its plateau, and the pitch it starts from."""
    start = note.plateaus[0].start + (0 if note.arrival == "attack" else round(_ARRIVAL_TAIL_S / HOP_S))
    values = contour[start : note.plateaus[-1].end]
    # The first frames hold the pick, the last ones the next note.
    values = values[np.isfinite(values)][_CURL_EDGES]
    base, window = round(_CURL_BASE_S / HOP_S), round(_CURL_MEAN_S / HOP_S)
    if len(values) < base + 2 * window:
        return None
    mean = uniform_filter1d(values, window)[base : -window // 2]
    zero = float(np.median(values[:base]))
    top = int(mean.argmax())
    size = float(mean[top]) - zero
    held_s = np.count_nonzero(values > zero + 0.6 * size) * HOP_S
    if size < _CURL_LEAST or held_s < _CURL_HELD_S:
        return None
    back = float(mean[-1]) - zero
    rise = round(float(np.argmax(mean > zero + 0.9 * size)) * HOP_S + _CURL_BASE_S, 3)
    released = back < size / 3 and top < len(mean) - window
    return Technique("bend_release" if released else "bend", round(size, 2), rise), zero


def _vibrato(note: RawNote, contour: NDArray[np.float64]) -> Technique | None:
    best: Technique | None = None
    spans = [(plateau.start, plateau.end) for plateau in note.plateaus]
    if len(spans) > 1:  # swings so wide that each side is a plateau of its own
        spans.append((spans[0][0], spans[-1][1]))
    for start, end in spans:
        values = contour[start:end]
        values = values[np.isfinite(values)]
        if len(values) * HOP_S < _VIBRATO_LEAST_S:
            continue
        # Let the tail of a bend into the plateau and the last frames before the note's end go.
        values = values[6:-3]
        found = measure_vibrato(values)
        if found and (best is None or (found[1] > (best.extent_cents or 0))):
            best = Technique("vibrato", rate_hz=round(found[0], 2), extent_cents=round(found[1], 1))
    return best


def measure_vibrato(values: NDArray[np.float64]) -> tuple[float, float] | None:
    """(rate in Hz, peak extent in cents) of a contour in semitones sampled every HOP_S, or None.

    Rate from the autocorrelation of the contour less its mean over a cycle of the slowest vibrato; extent is
    sqrt(2) times the root mean square, as of a sine. The vibrating stretch is the strongest half second.
    """
    slow = round(1.0 / _VIBRATO_RATE_HZ[0] / HOP_S)
    if len(values) < slow + 4:
        return None
    swing = values - uniform_filter1d(values, slow, mode="nearest")
    span = min(len(swing), round(0.6 / HOP_S))
    power = uniform_filter1d(swing**2, span, mode="constant")
    middle = int(power[span // 2 : len(swing) - (span - 1) // 2].argmax()) + span // 2
    swing = swing[max(0, middle - span // 2) : middle - span // 2 + span]
    swing = swing - swing.mean()
    energy = float((swing**2).sum())
    extent = 100 * np.sqrt(2 * energy / len(swing))
    if not _VIBRATO_LEAST_CENTS <= extent <= _VIBRATO_MOST_CENTS:
        return None
    lags = np.arange(round(1 / _VIBRATO_RATE_HZ[1] / HOP_S), min(slow, len(swing) // 2 + 8, len(swing) - 4) + 1)
    if len(lags) < 3:
        return None
    likeness = np.array([_likeness(swing[k:], swing[:-k]) for k in lags])
    # Two cycles resemble each other as much as one; the first peak that is nearly the highest is the cycle.
    peaks = (likeness[1:-1] >= likeness[:-2]) & (likeness[1:-1] >= likeness[2:])
    peaks &= likeness[1:-1] > max(_VIBRATO_PERIODICITY, 0.9 * float(likeness.max()))
    best = int(peaks.argmax()) + 1
    if not peaks.any():
        return None
    rate = 1.0 / (lags[best] * HOP_S)
    if len(swing) * HOP_S * rate < _VIBRATO_CYCLES:
        return None
    # The running mean swings a little with the vibrato, by the sine cardinal of the cycles it spans.
    return float(rate), float(extent / (1 - np.sinc(rate * slow * HOP_S)))


def _likeness(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    return float(2 * (a * b).sum() / ((a**2).sum() + (b**2).sum() + 1e-12))


def drop_passed_frets(notes: Sequence[RawNote], techniques: list[tuple[Technique, ...]]) -> None:
    """Take out bends and dives that are frets on the way to a next note that is slid to."""
    for index, (note, following) in enumerate(pairwise(notes)):
        last = note.plateaus[-1]
        climbed = last.midi - note.midi
        further = (following.midi - note.midi) / climbed if abs(climbed) > SAME_SEMITONES else 0.0
        joined = abs(following.start - note.end) * HOP_S < _JOINED_S
        brief = (last.end - last.start) * HOP_S < _PASSED_S
        if following.arrival == "slide" and joined and brief and further > 1:
            kept = (t for t in techniques[index] if t.name not in ("bend", "dive"))
            techniques[index] = tuple(kept)


def mark_trills(notes: Sequence[RawNote], techniques: list[tuple[Technique, ...]]) -> None:
    """Add a trill, with its width and notes a second, to the first note of each quick legato alternation."""
    start = 0
    while start < len(notes) - 1:
        end = start + 1
        while end < len(notes) and _alternates(notes, start, end):
            end += 1
        count = end - start
        seconds = (notes[end - 1].start - notes[start].start) * HOP_S
        if count >= _TRILL_NOTES and (count - 1) / seconds >= _TRILL_RATE_HZ:
            width = round(abs(notes[start + 1].midi - notes[start].midi), 2)
            rate = round((count - 1) / seconds, 1)
            techniques[start] += (Technique("trill", width, rate_hz=rate),)
        start = end if count > 2 else start + 1


def _alternates(notes: Sequence[RawNote], start: int, index: int) -> bool:
    note, before = notes[index], notes[index - 1]
    legato = note.arrival in ("hammer_on", "pull_off") and note.start - before.end <= 2
    width = abs(note.midi - before.midi)
    same = index - start < 2 or abs(note.midi - notes[index - 2].midi) < 0.5
    return legato and same and 0.6 < width < 4.5
