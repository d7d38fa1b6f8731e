"""A phrase carried elsewhere: to another key, octave, string set or position, and what gets harder or easier."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from eager_owl.neck.costs import Costs
from eager_owl.neck.fingering import Around, find_fingering, with_places
from eager_owl.neck.story import HandStory, tell_hand
from eager_owl.solo.document import Instrument, Note
from eager_owl.theory.key import Key
from eager_owl.theory.words import plural

# What a string outside the set costs: more than any way round.
_OUTSIDE = 200.0
_NOTABLE_MM = 8.0


@dataclass(frozen=True)
class Moved:
    """The notes where they went, why some (by index) can't be played there, and the change in words."""

    notes: tuple[Note, ...]
    refusals: dict[int, str]
    words: tuple[str, ...]


def move_phrase(
    notes: Sequence[Note],
    instrument: Instrument,
    semitones: int = 0,
    from_fret: int | None = None,
    strings: Collection[int] | None = None,
    costs: Costs | None = None,
    key: Key | None = None,
    keep_shape: bool = False,
) -> Moved:
    """Transpose placed notes by semitones and place them anew: near a fret, on a set of strings, if asked.

    Or with their shape kept: the same fingers, so many frets up, or on other strings as far as the tuning allows.

    What was pinned to a place stays pinned only where nothing moves. Notes that only a string outside the set has
    are refused. Ids and measurements stay.
    """
    if keep_shape:
        return _in_shape(notes, instrument, semitones, strings)
    still = semitones == 0 and from_fret is None and strings is None
    lifted = [
        replace(note, pitch=note.pitch + semitones, pins=note.pins if still else note.pins - {"place", "finger"})
        for note in notes
    ]
    against = None
    if strings is not None:
        outside = [string not in strings for string in range(1, len(instrument.tuning) + 1)]
        against = np.tile(_OUTSIDE * np.array(outside), (len(notes), 1))
    moved_key = key.moved(semitones) if key else None
    found = find_fingering(lifted, instrument, costs, moved_key, Around(from_fret, sounds=against))
    refusals = dict(found.refusals)
    placed = with_places(lifted, found)
    for i, note in enumerate(placed):
        if strings is not None and note.string is not None and note.string not in strings:
            refusals[i] = f"string {note.string} is the only way to it"
            placed[i] = replace(note, string=None, fret=None, finger=None)
    before, after = tell_hand(notes, instrument), tell_hand(placed, instrument)
    return Moved(tuple(placed), refusals, tuple(_changes(notes, placed, before, after, len(refusals))))


def _in_shape(
    notes: Sequence[Note], instrument: Instrument, semitones: int, strings: Collection[int] | None
) -> Moved:
    """The notes with the fingers they have, as many strings on as lets most of them sound, near where they were."""
    allowed = set(range(1, len(instrument.tuning) + 1) if strings is None else strings)
    ways = [
        [_shifted(note, instrument, semitones, across, allowed) for note in notes]
        for across in ([0] if strings is None else range(-len(instrument.tuning) + 1, len(instrument.tuning)))
    ]
    best = min(ways, key=lambda way: (sum(note is None for note in way), _bent_shape(notes, way)))
    placed, refusals = [], {}
    for i, (note, there) in enumerate(zip(notes, best, strict=True)):
        if there is None:
            refusals[i] = "its shape has no place there"
        lost = replace(note, pitch=note.pitch + semitones, string=None, fret=None, finger=None)
        placed.append(lost if there is None else there)
    before, after = tell_hand(notes, instrument), tell_hand(placed, instrument)
    return Moved(tuple(placed), refusals, tuple(_changes(notes, placed, before, after, len(refusals))))


def _shifted(
    note: Note, instrument: Instrument, semitones: int, across: int, allowed: Collection[int]
) -> Note | None:
    """A note so many strings on and semitones up with the same finger, or None; an open string stays what it is."""
    string = (note.string or 0) + across
    fret = instrument.fret_of(string, note.pitch + semitones) if string in allowed and note.string else None
    if fret is None or instrument.is_open(fret) != (note.finger == 0):
        return None
    pins = note.pins - {"place", "finger"}
    return replace(note, pitch=note.pitch + semitones, string=string, fret=fret, pins=pins)


def _bent_shape(notes: Sequence[Note], way: Sequence[Note | None]) -> int:
    """By how many frets notes lie otherwise to each other than in the shape, and the way it has gone."""
    moves = [(there.fret or 0) - (note.fret or 0) for note, there in zip(notes, way, strict=True) if there]
    return 24 * (max(moves) - min(moves)) + abs(moves[0]) if moves else 0


def _changes(
    old: Sequence[Note], new: Sequence[Note], before: HandStory, after: HandStory, refused: int
) -> list[str]:
    words = []
    if refused:
        words.append(f"{plural(refused, 'note')} can't be played there")
    lost = sum(a.finger == 0 and b.finger not in (0, None) for a, b in zip(old, new, strict=True))
    won = sum(a.finger not in (0, None) and b.finger == 0 for a, b in zip(old, new, strict=True))
    if lost:
        words.append(f"harder: {lost} open note{'s have' if lost > 1 else ' has'} to be stopped, ringing less")
    if won:
        words.append(f"easier, and other in sound: {plural(won, 'note')} fall{'s' * (won == 1)} on open strings")
    if before.reach.mm and after.reach.mm and abs(after.reach.mm - before.reach.mm) >= _NOTABLE_MM:
        how = "easier" if after.reach.mm < before.reach.mm else "harder"
        words.append(
            f"{how}: the reach of {before.reach.mm:.0f} mm here is {after.reach.mm:.0f} mm at fret {after.reach.fret}"
        )
    if after.shifts != before.shifts:
        how = "easier" if after.shifts < before.shifts else "harder"
        words.append(f"{how}: {_shifts(after)} instead of {before.shifts or 'none'}")
    bends = [(a, b) for a, b in zip(old, new, strict=True) if a.bend and a.fret is not None and b.fret is not None]
    if any((b.string or 0) >= 4 > (a.string or 0) for a, b in bends):
        words.append("harder: a bend comes to lie on a wound string")
    elif any((b.fret or 0) < 4 <= (a.fret or 0) for a, b in bends):
        words.append("harder: a bend comes to lie near the nut")
    if not words:
        words.append("as easy as before")
    return words


def _shifts(story: HandStory) -> str:
    return plural(story.shifts, "shift") if story.shifts else "no shifts"
