"""Someone's written notes laid against a recording: warped onto it, corrected by hearing, told where they differ."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Recording
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.facts import pitch_text
from eager_owl.session.hearing import Survey, hear_phrase
from eager_owl.session.placing import place_notes
from eager_owl.solo.aligning import align_notes
from eager_owl.solo.document import MIN_PHRASE_S, Note, Phrase, Solo, with_notes

# What is said of a note that the tab has and the record has not, or has otherwise.
_UNHEARD, _OTHERWISE = 0.3, 0.45
_SURELY_HEARD = 0.8
_LEAST_MATCHED = 0.3
_STEADY_BEATS = 0.12  # notes as far off a steady beat, in the middle, still follow it
_SMOOTH = 5  # pairs: a warp follows the tempo, not each note


@dataclass(frozen=True)
class Disagreement:
    """One place where the written notes and the record differ: words, and the note it is about, if it is written."""

    words: str
    time_s: float
    note: int | None


@dataclass(frozen=True)
class LaidOut:
    """The solo on the recording's time, and where it disagrees."""

    solo: Solo
    disagreements: tuple[Disagreement, ...]
    matched: int


def lay_against(
    solo: Solo, recording: Recording, surveyed: Survey | None, progress: Callable[[float, str], bool]
) -> LaidOut:
    """Lay a solo's notes against a recording. Raises ValueError where too little of it is heard there."""
    whole = Phrase(0.0, recording.duration_s)
    heard = hear_phrase(replace(solo, grid=None), whole, recording, surveyed, progress)
    solo = replace(solo, reference_cents=heard.reference_cents)
    return lay_on(solo, heard.notes, recording.duration_s)


def lay_on(solo: Solo, heard: Sequence[Note], duration_s: float) -> LaidOut:
    """Lay a solo's notes on those that were heard."""
    written = solo.notes
    pairs = align_notes(written, heard, within=True)
    both = [(i, j) for i, j in pairs if i is not None and j is not None]
    same = [(i, j) for i, j in both if _same(written[i], heard[j])]
    if len(same) < max(3, _LEAST_MATCHED * len(written)):
        raise ValueError(f"only {len(same)} of {len(written)} notes are heard in that recording: is it of this solo?")
    warp = _warp([written[i].onset for i, _ in same], [heard[j].onset for _, j in same])
    partner = dict(both)
    notes: list[Note] = []
    told: list[Disagreement] = []
    for index, note in enumerate(written):
        at = partner.get(index)
        onset, end = (float(t) for t in warp(np.array([note.onset, note.end])))
        if at is None:
            onset = max(0.0, onset)
            notes.append(_free(replace(note, onset=onset, duration=max(0.05, end - onset), confidence=_UNHEARD)))
            words = f"{pitch_text(note.pitch, solo)} is written and not heard"
            told.append(Disagreement(words, onset, note.id))
            continue
        found = heard[at]
        timed = replace(note, onset=found.onset, duration=found.duration, loudness_db=found.loudness_db)
        if _same(note, found):
            shift = found.pitch - note.pitch
            contour = tuple(cents + 100 * shift for cents in found.contour_cents)
            notes.append(
                _free(replace(timed, contour_cents=contour, level_db=found.level_db, confidence=found.confidence))
            )
        else:
            doubt = ((found.pitch, round(found.confidence, 2)),)
            notes.append(_free(replace(timed, level_db=found.level_db, confidence=_OTHERWISE, runners_up=doubt)))
            words = f"{pitch_text(note.pitch, solo)} is written, {pitch_text(found.pitch, solo)} is heard"
            told.append(Disagreement(words, found.onset, note.id))
    first, last = heard[same[0][1]].onset, heard[same[-1][1]].end
    alone = [heard[j] for i, j in pairs if i is None and j is not None]
    for note in alone:
        if note.confidence >= _SURELY_HEARD and first <= note.onset <= last:
            words = f"{pitch_text(note.pitch, solo)} is heard and not written"
            told.append(Disagreement(words, note.onset, None))
    laid = with_notes(
        replace(
            solo,
            grid=_beat_of(solo, warp, [(written[i].onset, heard[j].onset) for i, j in same]),
            phrases=_warped_phrases(solo, warp, duration_s),
        ),
        notes,
    )
    loose = [note for note in laid.notes if note.string is None]
    laid = place_notes(laid, laid.notes) if loose else laid
    return LaidOut(laid, tuple(sorted(told, key=lambda each: each.time_s)), len(same))


def _same(written: Note, heard: Note) -> bool:
    """Whether both name one sound: a bend may be told by where it starts or where it lands."""
    return bool({written.pitch, written.landed} & {heard.pitch, heard.landed})


def _free(note: Note) -> Note:
    """Nothing of its timing and pitch is the player's own word any more: it is to be checked."""
    return replace(note, pins=note.pins - {"pitch", "timing"})


Warp = Callable[[NDArray[np.float64]], NDArray[np.float64]]


def _warp(written_s: Sequence[float], heard_s: Sequence[float]) -> Warp:
    """From written time to the record's: through matched onsets, averaged over a few; straight on beyond the ends."""
    a, b = np.array(written_s), np.array(heard_s)
    a, keep = np.unique(a, return_index=True)
    b = np.maximum.accumulate(b[keep])
    if len(a) > 2 * _SMOOTH:
        window = np.ones(_SMOOTH) / _SMOOTH
        middle_a, middle_b = (np.convolve(v, window, mode="valid") for v in (a, b))
        a = np.concatenate([a[:1], middle_a, a[-1:]])
        b = np.concatenate([b[:1], middle_b, b[-1:]])
    tempo = (b[-1] - b[0]) / max(a[-1] - a[0], 1e-6) if len(a) > 1 else 1.0

    def warp(times: NDArray[np.float64]) -> NDArray[np.float64]:
        inside = np.interp(times, a, b)
        inside = np.where(times < a[0], b[0] + (times - a[0]) * tempo, inside)
        return np.asarray(np.where(times > a[-1], b[-1] + (times - a[-1]) * tempo, inside))

    return warp


def _beat_of(solo: Solo, warp: Warp, matched: Sequence[tuple[float, float]]) -> BeatGrid | None:
    """The beat on the record's time: a steady one if the matched notes lie about one, else held at each bar line."""
    if solo.grid is None:
        return None
    beats = np.array([solo.grid.beat_at(written) for written, _ in matched])
    times = np.array([heard for _, heard in matched])
    keep = np.ones(len(beats), dtype=bool)
    for _ in range(3):
        # Typed rhythm is rough: what lies far off the line is left out, and the line drawn anew.
        beat_s, first = np.polyfit(beats[keep], times[keep], 1)
        off = np.abs(times - first - beat_s * beats)
        spread = float(np.median(off))
        keep = off <= max(3 * spread, 0.01)
    steady = spread < _STEADY_BEATS * beat_s and 60 / 400 <= beat_s <= 60 / 20
    if steady and keep.sum() >= max(4, len(beats) / 2):
        return replace(solo.grid, bpm=float(60 / beat_s), first_beat_s=float(first), anchors=())
    return _warped_grid(solo, warp)


def _warped_grid(solo: Solo, warp: Warp) -> BeatGrid | None:
    """The beat on the record's time, held at each bar line."""
    grid = solo.grid
    if grid is None or not solo.notes:
        return None
    first = int(grid.beat_at(solo.notes[0].onset) // grid.beats_per_bar)
    last = int(grid.beat_at(solo.notes[-1].end) // grid.beats_per_bar) + 1
    beats = [float(bar * grid.beats_per_bar) for bar in range(first, last + 1)]
    times = [float(t) for t in warp(np.array([grid.time_of(beat) for beat in beats]))]
    anchors = [(beats[0], times[0])]
    for beat, time in zip(beats[1:], times[1:], strict=True):
        if time > anchors[-1][1] + 1e-3:
            anchors.append((beat, time))
    if len(anchors) < 2:
        return grid
    beat_s = (anchors[-1][1] - anchors[0][1]) / (anchors[-1][0] - anchors[0][0])
    bpm = min(max(60 / beat_s, 20.0), 400.0)
    return replace(grid, bpm=bpm, anchors=tuple(anchors), first_beat_s=anchors[0][1])


def _warped_phrases(solo: Solo, warp: Warp, duration_s: float) -> tuple[Phrase, ...]:
    phrases: list[Phrase] = []
    for phrase in solo.phrases:
        start, end = (float(t) for t in warp(np.array([phrase.start, phrase.end])))
        start = max(start, phrases[-1].end if phrases else 0.0)
        end = min(end, duration_s)
        if end - start >= MIN_PHRASE_S:
            phrases.append(replace(phrase, start=start, end=end))
    return tuple(phrases)
