"""From frames and pitch track to raw notes: attacks, plateaus of pitch between them, and what links plateaus.

A note begins at an attack, or where the pitch steps or slides to another plateau without one; what a junction of
two plateaus is, eager_owl.hearing.transitions judges. A bend and its release stay inside the note.
"""

import itertools
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, median_filter

from eager_owl.hearing.frames import HOP_S, Frames
from eager_owl.hearing.pitch_track import PitchTrack
from eager_owl.hearing.plateaus import GAP_S, Plateau, calm_vibrato, find_plateaus, measure_transition
from eager_owl.hearing.transitions import GOES_ON, SAME_SEMITONES, Beliefs, Decide, Junction, likeliest

Arrival = Literal["attack", "hammer_on", "pull_off", "slide"]

# Without pitch between two attacks this near, the second belongs to the first.
_UNPITCHED_GAP_S = 0.1
_SETTLE_FRAMES = 3  # after an attack, before pitch can be trusted
# A smooth rise from the attack into the first plateau is a bend begun at once.
_SCOOP_SEMITONES, _SCOOP_S = 0.6, 0.05  # at least so far, in at least so long
_SCOOP_STEEPEST, _SCOOP_BACK = 0.35, 0.08  # semitones from frame to frame, up and down


# Frets passed in a slide: a plateau this short between two steps of about a semitone in one direction.
_PASSED_FRET_S = 0.06
_PASSED_FRET_STEP = 1.4

_BEND_REACH = 3.6  # semitones

# A note's end: this far below its loudest.
_END_DROP_DB = 32.0
_SHORTEST_NOTE_S = 0.035  # shorter is the edge of another
_SOFT_NOTE_S = 0.07  # a note without any attack must be this long
_TAPPED_S = 0.1  # a tap this near a note's start is that note's


@dataclass
class RawNote:
    """Frames [start, end); `midi` the fretted pitch (not rounded); how it was reached; the plateaus in it.

    `beliefs` in what led to it, where it may have come out of the note at `from_midi`; `inner` are those of the
    junctions within it, with their semitones.
    """

    start: int
    end: int
    midi: float
    arrival: Arrival
    attack_flux: float
    plateaus: list[Plateau] = field(default_factory=list)
    from_midi: float = 0.0
    arrival_s: float = 0.0
    beliefs: Beliefs | None = None
    inner: list[tuple[float, Beliefs]] = field(default_factory=list)


def find_notes(frames: Frames, track: PitchTrack, attacks: NDArray[np.intp], decide: Decide) -> list[RawNote]:
    """All raw notes, in order: `attacks` are frames, and `decide` judges each junction of plateaus."""
    contour = calm_vibrato(_smooth(track.midi), attacks)
    edges = [0, *(int(a) for a in attacks), len(contour)]
    notes: list[RawNote] = []
    waiting: int | None = None  # an attack whose pitch is not clear yet
    for number, (start, end) in enumerate(itertools.pairwise(edges)):
        if end - start < 2:
            continue
        settled = start + (_SETTLE_FRAMES if number else 0)
        struck = number > 0
        chain = find_plateaus(contour, settled, end)
        chain = _drop_passed_frets(_drop_octave_slips(chain))
        if not chain:
            if struck and (end - start) * HOP_S < _UNPITCHED_GAP_S:
                waiting = waiting if waiting is not None else start
            continue
        if struck and (scooped := _scooped_from(contour, settled, chain[0])) is not None:
            chain.insert(0, scooped)
        for plateau, following in zip(chain, [*chain[1:], None], strict=True):
            at = start if struck and plateau is chain[0] else None
            beliefs = _beliefs(notes, plateau, following, at, contour, decide)
            if beliefs is None or not _carry_on(notes, plateau, at, beliefs, frames, contour):
                note = _struck(plateau, at, waiting, frames, contour)
                if beliefs is not None:
                    note.beliefs, note.from_midi = beliefs, notes[-1].plateaus[-1].midi
                notes.append(note)
            waiting = None
    return _trim(notes, frames, track)


def _beliefs(
    notes: list[RawNote],
    plateau: Plateau,
    following: Plateau | None,
    at: int | None,
    contour: NDArray[np.float64],
    decide: Decide,
) -> Beliefs | None:
    """What led to a plateau; None where it cannot have come out of the note before."""
    if not notes or np.isnan(contour[notes[-1].plateaus[-1].end : plateau.start]).sum() > GAP_S / HOP_S:
        return None
    note = notes[-1]
    junction = Junction(note.start, note.midi, note.arrival != "attack", note.plateaus[-1], plateau, following, at)
    if at is None and abs(junction.step) < SAME_SEMITONES:
        return {"bent": 1.0}
    return decide(contour, junction)


def _struck(
    plateau: Plateau, at: int | None, waiting: int | None, frames: Frames, contour: NDArray[np.float64]
) -> RawNote:
    """A note begun by a stroke: at the attack, if the pitch was there soon after it."""
    onset, strength = plateau.start, 0.0
    if at is not None:
        strength = float(frames.flux[at])
        if np.isnan(contour[at : plateau.start]).sum() < 2 * GAP_S / HOP_S:
            onset = at
        if waiting is not None and onset - waiting < _UNPITCHED_GAP_S / HOP_S:
            onset, strength = waiting, max(strength, float(frames.flux[waiting]))
    return RawNote(onset, plateau.end, plateau.midi, "attack", strength, [plateau])


def _carry_on(
    notes: list[RawNote],
    plateau: Plateau,
    at: int | None,
    beliefs: Beliefs,
    frames: Frames,
    contour: NDArray[np.float64],
) -> bool:
    """Add a plateau that nobody struck: to the last note, or as another that the fretting hand made of it."""
    outcome, note = likeliest(beliefs), notes[-1]
    if outcome == "struck":
        return False
    if outcome == "slide":
        _leave_passed_frets(note, plateau)
    last = note.plateaus[-1]
    if outcome in GOES_ON:
        note.plateaus.append(plateau)
        note.end = plateau.end
        note.inner.append((plateau.midi - last.midi, beliefs))
        if outcome == "let_down":  # the fretted pitch is where it ends
            note.midi = plateau.midi
        return True
    move = measure_transition(contour, last, plateau)
    name: Arrival = "slide" if outcome == "slide" else "hammer_on" if move.semitones > 0 else "pull_off"
    start = min(max(move.middle if at is None else at, last.start + 1), plateau.end - 1)
    note.end = min(note.end, start)
    strength = float(frames.flux[at]) if at is not None else 0.0
    notes.append(
        RawNote(start, plateau.end, plateau.midi, name, strength, [plateau], last.midi, move.seconds, beliefs)
    )
    return True


def _leave_passed_frets(note: RawNote, reached: Plateau) -> None:
    """A slide comes from the pitch that a note had before the frets that are passed on the way.

    Where a bend was let down, what it was let down to is the note's own pitch and stays.
    """
    while len(note.plateaus) > 1:
        before, passed = note.plateaus[-2:]
        onwards = (passed.midi - before.midi) * (reached.midi - passed.midi) > 0
        if not onwards or (passed.end - passed.start) * HOP_S >= _PASSED_FRET_S or note.midi == passed.midi:
            return
        note.plateaus.pop()
        note.inner.pop()


def _scooped_from(contour: NDArray[np.float64], settled: int, first: Plateau) -> Plateau | None:
    """The short start of a bend that begins with the attack, before its first plateau."""
    where = np.flatnonzero(np.isfinite(contour[settled : first.start + 1])) + settled
    if len(where) * HOP_S < _SCOOP_S:
        return None
    values = contour[where]
    # Where the rise begins: the lowest pitch, past what is left of the pick.
    lowest = int(values[: max(3, len(values) // 2)].argmin())
    steps = np.diff(values[lowest:])
    rise = first.midi - float(values[lowest])
    if not _SCOOP_SEMITONES < rise < _BEND_REACH or len(steps) < 3:
        return None
    if steps.min() < -_SCOOP_BACK or steps.max() > _SCOOP_STEEPEST:
        return None
    at = int(where[lowest])
    return Plateau(at, at + 3, float(values[lowest : lowest + 3].mean()))


def _smooth(midi: NDArray[np.float64]) -> NDArray[np.float64]:
    """Median over five frames where there is pitch; single frames without pitch are bridged."""
    voiced = np.isfinite(midi)
    if not voiced.any():
        return midi
    filled = np.interp(np.arange(len(midi)), np.flatnonzero(voiced), midi[voiced])
    near = maximum_filter1d(voiced.astype(np.uint8), 3).astype(bool)
    return np.where(near, median_filter(filled, 5, mode="nearest"), np.nan)


def _drop_octave_slips(chain: list[Plateau]) -> list[Plateau]:
    """Without the shorter of two neighbouring plateaus more than nine semitones apart: a tracking slip."""
    kept = list(chain)
    i = 1
    while i < len(kept):
        if abs(kept[i].midi - kept[i - 1].midi) > 9:
            shorter = min(kept[i - 1 : i + 1], key=lambda p: p.end - p.start)
            kept.remove(shorter)
            i = max(1, i - 1)
        else:
            i += 1
    return kept


def _drop_passed_frets(chain: list[Plateau]) -> list[Plateau]:
    """Without the plateaus that are frets a slide passes over."""
    kept = chain[:1]
    for index in range(1, len(chain)):
        here = chain[index]
        if index + 1 < len(chain) and (here.end - here.start) * HOP_S < _PASSED_FRET_S:
            into, out = here.midi - chain[index - 1].midi, chain[index + 1].midi - here.midi
            if into * out > 0 and max(abs(into), abs(out)) < _PASSED_FRET_STEP:
                continue
        kept.append(here)
    return kept


def _trim(notes: list[RawNote], frames: Frames, track: PitchTrack) -> list[RawNote]:
    """Notes ended where they fade or the next begins; slivers and echoes left out."""
    kept: list[RawNote] = []
    loudest = float(frames.level_db.max(initial=-200.0))
    for number, note in enumerate(notes):
        limit = notes[number + 1].start if number + 1 < len(notes) else len(frames)
        level = frames.level_db[note.start : limit]
        if len(level) == 0:
            continue
        peak = float(level[: max(1, note.end - note.start)].max(initial=-200.0))
        faded = np.flatnonzero(level < max(peak - _END_DROP_DB, loudest - 50.0))
        faded = faded[faded > int(level.argmax())]
        end = min(note.end if note.end > note.start else limit, limit)
        if len(faded):
            end = min(end, note.start + int(faded[0]))
        voiced = np.isfinite(track.midi[note.start : end])
        seconds = (end - note.start) * HOP_S
        needed = _SOFT_NOTE_S if note.arrival == "attack" and note.attack_flux == 0 else _SHORTEST_NOTE_S
        if seconds < needed or voiced.mean() < 0.4 or peak < loudest - 45.0:
            continue
        note.end = end
        kept.append(note)
    return kept


def merge_untapped(notes: list[RawNote], taps: tuple[float, ...]) -> list[RawNote]:
    """With taps, a note begins only where one is: what begins elsewhere belongs to the note before."""
    if not taps:
        return notes
    tapped: list[RawNote] = []
    for note in notes:
        if any(abs(note.start * HOP_S - tap) < _TAPPED_S for tap in taps) or not tapped:
            tapped.append(note)
        elif note.plateaus[-1].end > tapped[-1].end:
            tapped[-1].plateaus += note.plateaus
            tapped[-1].end = note.end
    return tapped
