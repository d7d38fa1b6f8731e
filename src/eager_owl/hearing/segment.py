"""From frames and pitch track to raw notes: attacks, plateaus of pitch between them, and what links plateaus.

A note begins at an attack, or where the pitch steps or slides to another plateau without one. A rise that is
slow and ends within a bend's reach, and its release, stay inside the note.
"""

import itertools
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, median_filter

from eager_owl.hearing.attacks import find_attacks
from eager_owl.hearing.frames import HOP_S, Frames
from eager_owl.hearing.pitch_track import PitchTrack
from eager_owl.hearing.plateaus import GAP_S, Plateau, calm_vibrato, find_plateaus, measure_transition

Arrival = Literal["attack", "hammer_on", "pull_off", "slide"]

# Without pitch between two attacks this near, the second belongs to the first.
_UNPITCHED_GAP_S = 0.1
# At a pitch step: what remains of the attack once the spectrum before is moved by the step, and how far the
# level changes, against which a sum of 1 divides legato from picked.
# Set on sampled guitars of two soundfonts, beside a third that nothing was set on (docs/hearing.md).
_LONGEST_LEAP = 9.5  # semitones: further than a hand hammers is tapped
_LEGATO_RISE = 3.2  # flux that remains, in the units of `Frames.flux`
# A pitch that glides for so many frames makes more flux by itself, for so long at the most.
_GLIDING_RISE, _GLIDING_FRAMES, _LONGEST_GLIDE_S = 9.0, 4, 0.25
_LEGATO_LEVEL_DB, _LEGATO_LEVEL_FREE_DB = 2.6, 0.5  # what is over the second counts, in units of the first

_SETTLE_FRAMES = 3  # after an attack, before pitch can be trusted
# A smooth rise from the attack into the first plateau is a bend begun at once.
_SCOOP_SEMITONES, _SCOOP_S = 0.6, 0.05  # at least so far, in at least so long
_SCOOP_STEEPEST, _SCOOP_BACK = 0.35, 0.08  # semitones from frame to frame, up and down


# Frets passed in a slide: a plateau this short between two steps of about a semitone in one direction.
_PASSED_FRET_S = 0.06
_PASSED_FRET_STEP = 1.4

# Transitions, by the time from plateau to plateau.
_STEP_S = 0.045  # quicker: hammer-on or pull-off
# Slower: a bend or release, where it can be one; between: a slide. A bend mostly starts soon after the attack,
# so the bound grows with the time the note has stood.
_BEND_BOUNDS_S = (0.062, 0.097, 0.13)
_LET_DOWN_S = 0.095  # slower than this, a fall from the attack is a bend let down
_STOOD_S = (0.12, 0.22, 0.4)  # times for which the bounds above hold, straight lines between
_BEND_REACH = 3.6  # semitones
_STEEPEST_BEND = 38.0  # semitones a second

# A note's end: this far below its loudest.
_END_DROP_DB = 32.0
_SHORTEST_NOTE_S = 0.035  # shorter is the edge of another
_SOFT_NOTE_S = 0.07  # a note without any attack must be this long
_TAPPED_S = 0.1  # a tap this near a note's start is that note's


@dataclass
class RawNote:
    """Frames [start, end); `midi` the fretted pitch (not rounded); how it was reached; the plateaus in it."""

    start: int
    end: int
    midi: float
    arrival: Arrival
    attack_flux: float
    plateaus: list[Plateau] = field(default_factory=list)
    from_midi: float = 0.0
    arrival_s: float = 0.0


def aligned_rise(frames: Frames, at: int, settled: int, semitones: float) -> float:
    """Attack strength at a pitch step once the spectrum before is moved by the step: small for legato.

    `at` is the frame the step begins at, `settled` the frame from which the new pitch stands.
    """
    shift = round(semitones)
    before = frames.bands[max(0, at - 6) : max(1, at - 2)].mean(axis=0)
    after = frames.bands[settled : settled + 4].max(axis=0)
    if frames.aligned:
        return float(np.abs(after - before).sum())
    moved = np.roll(before, shift)
    if shift > 0:
        moved[:shift] = before[0]
    elif shift < 0:
        moved[shift:] = before[-1]
    return float(np.maximum(after - maximum_filter1d(moved, 3), 0).sum())


def find_notes(frames: Frames, track: PitchTrack, attacks: NDArray[np.intp] | None = None) -> list[RawNote]:
    """All raw notes, in order; `attacks` (frames) are found unless given."""
    attacks = find_attacks(frames) if attacks is None else attacks
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
        first = chain[0]
        strength = float(frames.flux[start]) if struck else 0.0
        if struck and notes and _is_legato(frames, notes[-1], first, start, contour):
            note = _arrive(notes[-1], first, start, contour, strength)
            if note is not notes[-1]:
                notes.append(note)
        else:
            onset = (
                start if struck and np.isnan(contour[start : first.start]).sum() < 2 * GAP_S / HOP_S else first.start
            )
            if waiting is not None and onset - waiting < _UNPITCHED_GAP_S / HOP_S:
                onset, strength = waiting, max(strength, float(frames.flux[waiting]))
            notes.append(RawNote(onset, first.end, first.midi, "attack", strength, [first]))
        waiting = None
        for plateau in chain[1:]:
            note = _arrive(notes[-1], plateau, None, contour, 0.0)
            if note is not notes[-1]:
                notes.append(note)
    return _trim(notes, frames, track)


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


def _is_legato(frames: Frames, note: RawNote, plateau: Plateau, at: int, contour: NDArray[np.float64]) -> bool:
    """Whether a rise in flux is only the spectrum moving with a new pitch."""
    last = note.plateaus[-1]
    step = plateau.midi - last.midi
    way = contour[last.end : plateau.start]
    if (
        not 0.6 <= abs(step) <= _LONGEST_LEAP
        or np.isnan(way).sum() > GAP_S / HOP_S
        or len(way) > _LONGEST_GLIDE_S / HOP_S
    ):
        return False
    before = frames.level_db[max(0, at - 5) : max(1, at - 1)].mean()
    after = frames.level_db[at + 2 : at + 8].max(initial=-200.0)
    changed = max(0.0, abs(float(after - before)) - _LEGATO_LEVEL_FREE_DB)
    # A pick breaks the line; a slide is heard on its way, and its passing frets are flux of their own.
    share = (way - last.midi) / step
    gliding = np.count_nonzero((share > 0.15) & (share < 0.85)) >= _GLIDING_FRAMES
    limit = _GLIDING_RISE if gliding else _LEGATO_RISE
    return aligned_rise(frames, at, max(plateau.start, at + 2), step) / limit + changed / _LEGATO_LEVEL_DB < 1.0


def _arrive(
    note: RawNote, plateau: Plateau, at: int | None, contour: NDArray[np.float64], strength: float
) -> RawNote:
    """The note that a plateau belongs to when it is reached without an attack: this one, or a new one."""
    last = note.plateaus[-1]
    if np.isnan(contour[last.end : plateau.start]).sum() > GAP_S / HOP_S:
        return RawNote(plateau.start, plateau.end, plateau.midi, "attack", 0.0, [plateau])
    if abs(plateau.midi - last.midi) < 0.4:
        note.plateaus.append(plateau)
        note.end = plateau.end
        return note
    move = measure_transition(contour, last, plateau)
    rises, bent = move.semitones > 0, last.midi - note.midi > 0.4
    above = plateau.midi - note.midi
    stood = (move.middle - note.start) * HOP_S - move.seconds / 2
    bound = _BEND_BOUNDS_S[0] if bent else float(np.interp(stood, _STOOD_S, _BEND_BOUNDS_S))
    slow = move.seconds > bound and move.steepest < _STEEPEST_BEND
    if slow and ((rises and above <= _BEND_REACH) or (bent and above > -0.4)):
        note.plateaus.append(plateau)
        note.end = plateau.end
        return note
    let_down = move.seconds > _LET_DOWN_S and move.steepest < _STEEPEST_BEND
    if let_down and not rises and not bent and move.semitones >= -2.4 and note.arrival == "attack":
        # Struck already bent, then let down: the fretted pitch is where it ends.
        note.plateaus.append(plateau)
        note.end, note.midi = plateau.end, plateau.midi
        return note
    name: Arrival = "slide"
    if move.seconds <= _STEP_S:
        name = "hammer_on" if rises else "pull_off"
    start = min(max(move.middle if at is None else at, last.start + 1), plateau.end - 1)
    note.end = min(note.end, start)
    return RawNote(start, plateau.end, plateau.midi, name, strength, [plateau], last.midi, move.seconds)


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
