"""What a note is among its neighbours: grace, trill, cut short, ghosted, one of two at once, slid from nowhere."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.articulation import mark_trills
from eager_owl.hearing.frames import HOP_S
from eager_owl.hearing.segment import RawNote
from eager_owl.solo.document import TOGETHER_S
from eager_owl.solo.techniques import LEGATO, Technique

# A grace note gives way within so many seconds, and within this share of the note that it leads into.
_GRACE_S, _GRACE_SHARE = 0.09, 0.4
# Cut short: sounding for less than this share of the time to the next note, which is within these seconds.
_SHORT_SHARE, _SHORT_BEAT_S = 0.78, (0.13, 0.9)
# A gap so much longer than those of the notes around is a rest after a note, not a note cut short.
_REST_SHARE, _PACE_NOTES = 1.5, 4
# A note stopped falls this far under its loudest, and this steeply; one that dies away by itself does not.
_STOPPED_DB, _STOPPED_AT_ONCE_DB, _AT_ONCE_S = 8.0, 9.0, 0.06
# A ghost note is so many dB under the median of its neighbours (so many to each side), and no longer than this.
_GHOST_UNDER_DB, _GHOST_S, _GHOST_NEIGHBOURS = 11.0, 0.16, 3
# To and from nowhere: an unbroken way of so many semitones, within so many seconds before or after the note; no
# further than this from frame to frame (further into it, where the plateau's end has already left its pitch).
_NOWHERE_SEMITONES, _NOWHERE_S, _NOWHERE_STEP, _NOWHERE_BEGUN = 1.6, 0.3, 0.7, 1.1
# A bend no larger than this is a curl.
_CURL_MOST = 0.7
_ALONE_S = 0.08  # after a slide away nothing begins for so long, else it was a slide to that


def name_styles(
    notes: Sequence[RawNote],
    techniques: Sequence[tuple[Technique, ...]],
    level_db: NDArray[np.float64],
    contours: Sequence[NDArray[np.float64]],
) -> list[tuple[Technique, ...]]:
    """The techniques of each note with what its neighbours make of it added."""
    named = list(techniques)
    mark_trills(notes, named)
    peaks = [float(level_db[note.start : max(note.end, note.start + 1)].max()) for note in notes]
    for index, note in enumerate(notes):
        before, after = notes[:index], notes[index + 1 :]
        together = [n for n in (*before[-3:], *after[:3]) if abs(n.start - note.start) * HOP_S < TOGETHER_S]
        following = next((n for n in after if (n.start - note.start) * HOP_S >= TOGETHER_S), None)
        if together:
            # Two strings near each other in pitch beat, which looks like a curl of either.
            kept = (t for t in named[index] if not (t.kind.bends and t.bend_semitones < _CURL_MOST))
            named[index] = (*kept, Technique("double_stop"))
        if following is not None and _is_grace(note, following):
            named[index] += (Technique("grace", rise_s=round((following.start - note.start) * HOP_S, 3)),)
        elif (
            following is not None
            and not _rests(index, notes)
            and (share := _short_share(note, following, level_db)) is not None
        ):
            named[index] += (Technique("staccato", ratio=round(share, 2)),)
        if _is_ghost(index, notes, peaks):
            named[index] += (Technique("ghost"),)
        # A fretted string goes under its pitch only where the hand slides away, or a bar lets it down.
        sunk = min(0.0, note.plateaus[-1].midi - note.midi)
        limit = following.start if following else len(level_db)
        fell = sunk + _way(contours[index], note.end, limit, note.plateaus[-1].midi)
        alone = following is None or (following.start - note.end) * HOP_S > _ALONE_S or bool(sunk)
        by_the_bar = any(technique.name == "dive" for technique in named[index])
        if fell <= -_NOWHERE_SEMITONES and alone and not by_the_bar:
            named[index] += (Technique("slide_out", round(fell, 1)),)
        # Backwards from the first plateau, to the attack or the note before.
        limit = len(level_db) - max(note.start - 2, before[-1].end if before else 0)
        rose = _way(contours[index][::-1], len(level_db) - note.plateaus[0].start, limit, note.midi)
        if abs(rose) >= _NOWHERE_SEMITONES and note.arrival == "attack" and not named[index]:
            named[index] = (Technique("slide_in", round(-rose, 1)), *named[index])
    return named


def _way(contour: NDArray[np.float64], start: int, limit: int, midi: float) -> float:
    """How far the contour goes on from `midi` in one direction without a break, from frame `start` on."""
    end = min(limit, start + round(_NOWHERE_S / HOP_S), len(contour))
    at, gone = midi, 0.0
    for value in contour[start:end]:
        # Where the plateau ends, the way has already begun.
        step = _NOWHERE_STEP if gone else _NOWHERE_BEGUN
        if not np.isfinite(value) or abs(value - at) > step or gone * (value - at) < -0.05:
            break
        at, gone = float(value), float(value) - midi
    return gone


def _is_grace(note: RawNote, following: RawNote) -> bool:
    seconds = (following.start - note.start) * HOP_S
    longer = seconds < _GRACE_SHARE * (following.end - following.start) * HOP_S
    return seconds < _GRACE_S and longer and following.arrival in LEGATO


def _rests(index: int, notes: Sequence[RawNote]) -> bool:
    """Whether the time to the next note is so much longer than those around it that a rest is in it."""
    near = notes[max(0, index - _PACE_NOTES) : index + _PACE_NOTES + 2]
    gaps = [b.start - a.start for a, b in pairwise(near)]
    return notes[index + 1].start - notes[index].start > _REST_SHARE * float(np.median(gaps))


def _short_share(note: RawNote, following: RawNote, level_db: NDArray[np.float64]) -> float | None:
    """The share of the time to the next note that a note cut short sounds for; None for one that is not."""
    frames = following.start - note.start
    if not _SHORT_BEAT_S[0] < frames * HOP_S < _SHORT_BEAT_S[1] or following.arrival in LEGATO:
        return None
    level = level_db[note.start : following.start - 3]
    top = int(level[: max(4, len(level) // 2)].argmax()) if len(level) > 4 else 0
    stopped = np.flatnonzero(level[top:] < level[top] - _STOPPED_DB) if len(level) > 4 else np.array([])
    if not len(stopped):
        return None
    share, at_once = (top + int(stopped[0])) / frames, round(_AT_ONCE_S / HOP_S)
    steepest = float((level[:-at_once] - level[at_once:]).max(initial=0.0))
    return share if share < _SHORT_SHARE and steepest > _STOPPED_AT_ONCE_DB else None


def _is_ghost(index: int, notes: Sequence[RawNote], peaks: Sequence[float]) -> bool:
    near = [*peaks[max(0, index - _GHOST_NEIGHBOURS) : index], *peaks[index + 1 : index + 1 + _GHOST_NEIGHBOURS]]
    short = (notes[index].end - notes[index].start) * HOP_S < _GHOST_S
    return len(near) >= 2 and short and peaks[index] < float(np.median(near)) - _GHOST_UNDER_DB
