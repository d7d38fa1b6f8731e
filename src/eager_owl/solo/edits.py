"""The player's changes to a solo. Each takes a Solo and gives a Solo; what the player fixed is pinned.

An edit that can't be made raises EditError with a sentence for the player and changes nothing.
"""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import pairwise

from eager_owl.solo.document import (
    CONTOUR_HOP_S,
    MIN_NOTE_S,
    PINS,
    SAME_ONSET_S,
    Instrument,
    Note,
    Solo,
    Stroke,
    change_notes,
    change_phrase,
    with_notes,
)
from eager_owl.solo.techniques import BENDS, LEGATO, TECHNIQUES, Manner, Technique, TechniqueName
from eager_owl.theory.pitch import pitch_name

# A detection this near a note the player threw out, and of its pitch, is the same note.
_ANOTHER_SOUND_SEMITONES = 4
# A bend named by the player is as large as the contour is in all but its highest tenth; less than this is none.
_HELD_SHARE, _LEAST_BEND_CENTS = 0.9, 30
_CURL_MOST = 0.75  # semitones: a bend that goes less far is on no other fret's pitch


class EditError(ValueError):
    """An edit that can't be made; the message says why."""


# Notes


def change_pitch(solo: Solo, ids: Iterable[int], semitones: int) -> Solo:
    """Move notes by semitones, keeping their string where the neck allows it."""

    def change(note: Note) -> Note:
        pitch = note.pitch + semitones
        if not solo.instrument.lowest <= pitch <= solo.instrument.highest:
            raise EditError(f"{pitch_name(pitch)} is off this neck")
        fret = solo.instrument.fret_of(note.string, pitch, note.harmonic) if note.string else None
        moved = replace(
            note,
            pitch=pitch,
            string=note.string if fret is not None else None,
            fret=fret,
            pins=note.pins if fret is not None else note.pins - {"place"},
            contour_cents=_contour_against(note.contour_cents, semitones),
        )
        return moved.pinned("pitch")

    return change_notes(solo, ids, change)


def _contour_against(contour_cents: tuple[int, ...], semitones: int) -> tuple[int, ...]:
    """A contour measured against one pitch, against another so many semitones higher.

    A reading an octave off is of the same line. What is further away than a bend goes is of another sound, and tells
    nothing of this note.
    """
    if semitones % 12 == 0:
        return contour_cents
    if abs(semitones) > _ANOTHER_SOUND_SEMITONES:
        return ()
    return tuple(cents - 100 * semitones for cents in contour_cents)


def move_string(solo: Solo, ids: Iterable[int], by: int) -> Solo:
    """Play the same pitch `by` strings further down (towards the thick ones) or up; pins the place."""

    def change(note: Note) -> Note:
        string = (note.string or 1) + by
        while 1 <= string <= len(solo.instrument.tuning):
            fret = solo.instrument.fret_for(note, string)
            if fret is not None:
                return replace(note, string=string, fret=fret).pinned("place")
            string += by
        way = "thicker" if by > 0 else "thinner"
        raise EditError(f"{pitch_name(note.pitch)} can't be played on a {way} string")

    return change_notes(solo, ids, change)


def set_place(solo: Solo, note_id: int, string: int) -> Solo:
    """Play a note on a given string; pins the place."""
    note = solo.note(note_id)
    fret = solo.instrument.fret_for(note, string)
    if fret is None:
        raise EditError(f"{pitch_name(note.pitch)} can't be played on string {string}")
    return change_notes(solo, [note_id], lambda n: replace(n, string=string, fret=fret).pinned("place"))


def take_places(solo: Solo, placed: Sequence[Note]) -> Solo:
    """Play notes where these, of the same ids and pitches, are placed; pins place and finger."""
    places = {note.id: note for note in placed if note.string is not None}

    def change(note: Note) -> Note:
        place = places[note.id]
        if place.pitch != note.pitch:
            raise EditError("those are other pitches than were played")
        return replace(note, string=place.string, fret=place.fret, finger=place.finger).pinned("place", "finger")

    return change_notes(solo, places, change)


def set_stroke(solo: Solo, ids: Iterable[int], stroke: Stroke | None) -> Solo:
    """Strike notes this way; None leaves it to the proposal again."""
    return change_notes(solo, ids, lambda note: replace(note, stroke=stroke))


def set_finger(solo: Solo, ids: Iterable[int], finger: int) -> Solo:
    """Give notes a fretting finger, 1 to 4; pins it."""
    return change_notes(solo, ids, lambda note: replace(note, finger=finger).pinned("finger"))


def set_timing(solo: Solo, note_id: int, onset: float, end: float) -> Solo:
    """Set a note's onset and end in seconds; its contour stays where it was in the recording."""
    if end - onset < MIN_NOTE_S - 1e-9:
        raise EditError("a note can't be shorter than 20 ms")
    if onset < 0:
        raise EditError("a note can't start before the recording")
    return change_notes(solo, [note_id], lambda note: cut_note(note, onset, end).pinned("timing"))


def nudge_timing(solo: Solo, ids: Sequence[int], onset_s: float, end_s: float) -> Solo:
    """Shift onsets and ends of notes by seconds."""
    for note_id in ids:
        note = solo.note(note_id)
        solo = set_timing(solo, note_id, note.onset + onset_s, note.end + end_s)
    return solo


def toggle_technique(solo: Solo, ids: Iterable[int], name: TechniqueName) -> Solo:
    """Give notes a technique, or take it away where all have it.

    A bend is sized by what was measured of its note, a slide by the note that it comes from. A harmonic at a place
    that the player has pinned sounds what the string gives there; elsewhere it keeps its pitch.
    """
    chosen = [solo.note(note_id) for note_id in ids]
    remove = all(note.technique(name) for note in chosen)
    before = {note.id: earlier for earlier, note in pairwise(solo.notes)}

    def change(note: Note) -> Note:
        others = tuple(technique for technique in note.techniques if technique.name != name)
        kept = others if remove else (*others, note.technique(name) or _sized(note, name, before.get(note.id)))
        changed = replace(note, techniques=kept).pinned("techniques")
        return _touched(changed, solo.instrument) if name == "harmonic" else changed

    return change_notes(solo, [note.id for note in chosen], change)


def _touched(note: Note, instrument: Instrument) -> Note:
    """A note that has become a harmonic, or is one no more, where the string can give it."""
    if note.string is None or note.fret is None:
        return note
    if "place" in note.pins:
        return replace(note, pitch=instrument.pitch_at(note.string, note.fret, note.harmonic))
    fret = instrument.fret_for(note, note.string)
    return replace(note, string=note.string if fret is not None else None, fret=fret)


def take_manner(solo: Solo, note_id: int, manner: Manner) -> Solo:
    """Say how a note was played: this, and not what was heard. A note that is a bend of the one before joins that;

    of a bend that is none, what it went to becomes a note, where it went to another fret's pitch. Vibrato is added.
    What becomes a harmonic, or is one no more, is where the string can give it.
    """
    if manner == "vibrato":
        added = Technique("vibrato")
        return change_notes(
            solo, [note_id], lambda each: replace(each, techniques=(*each.techniques, added)).pinned("techniques")
        )
    note = solo.note(note_id)
    before = max((other for other in solo.notes if other.onset < note.onset), key=lambda n: n.onset, default=None)
    if manner == "bend" and note.technique(*LEGATO) and before is not None:
        return _bent_to(solo, before, note)
    other_bend = manner != "picked" and TECHNIQUES[manner].bends
    if note.bend and note.bend.bend_semitones > _CURL_MOST and note.contour_cents and not other_bend:
        return _stepped_to(solo, note, note.bend, manner)
    arrived = (*LEGATO, *BENDS, "harmonic")
    kept = tuple(technique for technique in note.techniques if technique.name not in arrived)
    named = () if manner == "picked" else (_sized(note, manner, before),)

    def change(each: Note) -> Note:
        changed = replace(each, techniques=(*named, *kept)).pinned("techniques")
        return changed if changed.harmonic == each.harmonic else _touched(changed, solo.instrument)

    return change_notes(solo, [note_id], change)


def _bent_to(solo: Solo, before: Note, note: Note) -> Solo:
    """Two notes as one: the second is where the first was bent to, let down to, or struck bent from."""
    step = float(note.pitch - before.landed)
    kept = tuple(technique for technique in before.techniques if not technique.kind.bends)
    pitch, bend = before.pitch, Technique("bend", float(note.pitch - before.pitch))
    if step < 0 and before.bend:
        bend = replace(before.bend, name="bend_release")
    elif step < 0:
        pitch, bend = note.pitch, Technique("prebend_release", -step)

    def change(joined: Note) -> Note:
        cents = tuple(value + 100 * (before.pitch - pitch) for value in joined.contour_cents)
        bent = replace(joined, pitch=pitch, contour_cents=cents, techniques=(bend, *kept)).pinned("techniques")
        # Fretted elsewhere than it was taken for, it has its place still to find.
        moved = replace(bent, string=None, fret=None, finger=None, pins=bent.pins - {"place", "finger"})
        return bent if pitch == before.pitch else moved

    return change_notes(join_notes(solo, (before.id, note.id)), [before.id], change)


def _stepped_to(solo: Solo, note: Note, bend: Technique, manner: Manner) -> Solo:
    """A bend as two notes, cut where it passes half of its way."""
    size = round(bend.bend_semitones)
    halfway = next(
        (i for i, cents in enumerate(note.contour_cents) if cents > 50 * size), len(note.contour_cents) // 2
    )
    at = note.onset + min(max(halfway * CONTOUR_HOP_S, MIN_NOTE_S), note.duration - MIN_NOTE_S)
    first = replace(note, techniques=tuple(t for t in note.techniques if t.name != bend.name))
    cut = split_note(change_notes(solo, [note.id], lambda _: first.pinned("techniques")), note.id, at)
    named = () if manner == "picked" else (Technique(manner, float(size)),)

    def change(after: Note) -> Note:
        cents = tuple(value - 100 * size for value in after.contour_cents)
        after = replace(after, pitch=note.pitch + size, contour_cents=cents, techniques=named, string=None, fret=None)
        return replace(after, finger=None, other_manners=()).pinned("techniques")

    return change_notes(cut, [solo.next_id], change)


def _sized(note: Note, name: TechniqueName, before: Note | None) -> Technique:
    """A technique with its size: a bend's by the contour, if that rises at all; a slide's by the note before."""
    technique = Technique(name)
    if name == "slide" and before is not None and before.landed != note.pitch:
        return replace(technique, semitones=float(note.pitch - before.landed))
    if not technique.kind.bends or not note.contour_cents:
        return technique
    highest = sorted(note.contour_cents)[int(_HELD_SHARE * (len(note.contour_cents) - 1))]
    return replace(technique, semitones=highest / 100) if highest >= _LEAST_BEND_CENTS else technique


def add_note(solo: Solo, onset: float, duration: float, pitch: int) -> Solo:
    """Add a note by hand; its pitch and timing are pinned."""
    if not solo.instrument.lowest <= pitch <= solo.instrument.highest:
        raise EditError(f"{pitch_name(pitch)} is off this neck")
    note = Note(solo.next_id, onset, max(duration, MIN_NOTE_S), pitch).pinned("pitch", "timing")
    return with_notes(solo, (*solo.notes, note))


def delete_notes(solo: Solo, ids: Iterable[int]) -> Solo:
    """Throw notes out; a later detection does not bring them back."""
    gone = set(ids)
    for note in solo.notes:
        index = solo.phrase_index_at(note.onset)
        if note.id in gone and index is not None:
            removed = (*solo.phrases[index].removed, (note.onset, note.pitch))
            solo = change_phrase(solo, index, removed=removed)
    return with_notes(solo, (note for note in solo.notes if note.id not in gone))


def split_note(solo: Solo, note_id: int, time_s: float) -> Solo:
    """Cut a note in two at a time inside it."""
    note = solo.note(note_id)
    if not note.onset + MIN_NOTE_S <= time_s <= note.end - MIN_NOTE_S:
        raise EditError("put the cursor inside the note to split it")
    first = cut_note(note, note.onset, time_s).pinned("timing")
    second = replace(cut_note(note, time_s, note.end), id=solo.next_id, techniques=(), remarks=())
    second = second.pinned("timing")
    return with_notes(solo, (*(n for n in solo.notes if n.id != note_id), first, second))


def join_notes(solo: Solo, ids: Iterable[int]) -> Solo:
    """Make one note of several that follow each other; it keeps the first one's pitch and place."""
    wanted = set(ids)
    chosen = [note for note in solo.notes if note.id in wanted]
    if len(chosen) < 2:
        raise EditError("select two notes or more to join them")
    first, end = chosen[0], max(note.end for note in chosen)
    joined = replace(
        cut_note(first, first.onset, end),
        contour_cents=_joined_contour(chosen, end),
        techniques=tuple(dict.fromkeys(t for note in chosen for t in note.techniques)),
        remarks=tuple(dict.fromkeys(r for note in chosen for r in note.remarks)),
    ).pinned("timing")
    return with_notes(solo, (*(note for note in solo.notes if note.id not in wanted), joined))


def toggle_pins(solo: Solo, ids: Iterable[int]) -> Solo:
    """Pin everything about notes, or free them where all are wholly pinned."""
    chosen = [solo.note(note_id) for note_id in ids]
    free = all(note.pins == frozenset(PINS) for note in chosen)
    pins = frozenset() if free else frozenset(PINS)
    return change_notes(solo, [note.id for note in chosen], lambda note: replace(note, pins=pins))


def cut_note(note: Note, onset: float, end: float) -> Note:
    """The note between other times. What was measured stays at its own instant; new ground repeats the edge."""
    shift, count = round((onset - note.onset) / CONTOUR_HOP_S), max(1, round((end - onset) / CONTOUR_HOP_S))

    def cut(values: tuple[int, ...]) -> tuple[int, ...]:
        if not values:
            return ()
        return tuple(values[min(max(i + shift, 0), len(values) - 1)] for i in range(count))

    contour, level = cut(note.contour_cents), cut(note.level_db)
    return replace(note, onset=onset, duration=end - onset, contour_cents=contour, level_db=level)


def _joined_contour(notes: Sequence[Note], end: float) -> tuple[int, ...]:
    """Each note's contour at its own time, against the first one's pitch; the last value lasts to the end."""
    first = notes[0]
    values = list(cut_note(first, first.onset, end).contour_cents)
    for note in notes[1:]:
        start = round((note.onset - first.onset) / CONTOUR_HOP_S)
        cents = [c + 100 * (note.pitch - first.pitch) for c in note.contour_cents]
        if cents:
            values[start:] = (cents + [cents[-1]] * len(values))[: max(len(values) - start, 0)]
    return tuple(values)


# Schools


def with_instrument(solo: Solo, instrument: Instrument) -> Solo:
    """The solo on another guitar; places that are not on its neck, or sound another pitch there, are let go."""

    def change(note: Note) -> Note:
        if note.string is None or instrument.holds(note):
            return note
        return replace(note, string=None, fret=None, finger=None, pins=note.pins - {"place"})

    return replace(solo, instrument=instrument, notes=tuple(map(change, solo.notes)))


def choose_schools(solo: Solo, placing: str | None = None, reasons: str | None = None) -> Solo:
    """Place or explain by another school."""
    return replace(solo, placing_school=placing or solo.placing_school, reason_school=reasons or solo.reason_school)


def choose_reason_school(solo: Solo, phrase: int | None, name: str) -> Solo:
    """Explain a phrase, by its index, by a school of its own (the solo's if `name` is empty); for None the solo."""
    if phrase is None:
        return choose_schools(solo, reasons=name)
    phrases = [replace(p, reason_school=name) if i == phrase else p for i, p in enumerate(solo.phrases)]
    return replace(solo, phrases=tuple(phrases))


def set_source(solo: Solo, ids: Iterable[int], source: str | None) -> Solo:
    """Say where notes come from, by a source's name; None leaves it to the school again."""
    return change_notes(solo, ids, lambda note: replace(note, source=source))


def set_role(solo: Solo, ids: Iterable[int], role: str | None) -> Solo:
    """Say what notes do in the line; None leaves it to be read again."""
    return change_notes(solo, ids, lambda note: replace(note, role=role))


def choose_picking(solo: Solo, style: str) -> Solo:
    """Pick in another style."""
    return replace(solo, picking=style)


# Detection


def lay_detection(solo: Solo, index: int, detected: Sequence[Note], others: Sequence[Note] = ()) -> Solo:
    """Lay newly detected notes into a phrase around what the player fixed.

    A note with any pin or remark stays, taking from its detection (same onset within 50 ms) only what is not pinned;
    other old notes go; detections that overlap a note with pinned timing or pitch, or that match one the
    player threw out, are left out. `others` are kept with the phrase, less those that the player has taken.
    """
    phrase = solo.phrases[index]
    kept, fresh = [], list(detected)
    for note in solo.notes:
        if not phrase.holds(note.onset):
            kept.append(note)
        elif note.pins or note.remarks:
            near = [d for d in fresh if abs(d.onset - note.onset) <= SAME_ONSET_S]
            # Of two strings struck at once it is the one of its pitch.
            twin = min(near, key=lambda d: (d.pitch != note.pitch, abs(d.onset - note.onset)), default=None)
            if twin is None:
                kept.append(note)
                continue
            fresh.remove(twin)
            kept.append(_around_pins(note, twin))
    fixed = [note for note in kept if note.pins & {"timing", "pitch"}]
    next_id = solo.next_id
    for new in fresh:
        thrown_out = any(abs(new.onset - t) <= SAME_ONSET_S and new.pitch == p for t, p in phrase.removed)
        covered = any(
            note.onset - SAME_ONSET_S <= new.onset < note.end - SAME_ONSET_S and not _struck_together(note, new)
            for note in fixed
        )
        if phrase.holds(new.onset) and not thrown_out and not covered:
            kept.append(replace(new, id=next_id))
            next_id += 1
    apart = tuple(other for other in others if not any(note.is_same(other) for note in fixed))
    return change_phrase(with_notes(solo, kept), index, stage="heard", others=apart)


def take_others(solo: Solo, index: int) -> Solo:
    """Make what another voice played in a phrase notes of the solo. Raises EditError where there is nothing of it."""
    phrase = solo.phrases[index]
    if not phrase.others:
        raise EditError("no other voice was heard in this phrase")
    return change_phrase(with_notes(solo, (*solo.notes, *_taken(phrase.others, solo))), index, others=())


def leave_to_other(solo: Solo, ids: Iterable[int]) -> Solo:
    """Say that another voice plays notes: they stand beside the solo, and a later detection does not bring them back.

    Raises EditError where one is in no phrase.
    """
    wanted = set(ids)
    left = [note for note in solo.notes if note.id in wanted]
    solo = delete_notes(solo, wanted)
    for note in left:
        index = solo.phrase_index_at(note.onset)
        if index is None:
            raise EditError("only what is in a phrase can be another voice's")
        others = sorted((*solo.phrases[index].others, note), key=lambda other: other.onset)
        solo = change_phrase(solo, index, others=tuple(others))
    return solo


def swap_voices(solo: Solo) -> Solo:
    """Let the other voice lead: in each phrase its notes and those of the solo change places.

    Raises EditError where no phrase has another voice.
    """
    if not any(phrase.others for phrase in solo.phrases):
        raise EditError("no other voice was heard")
    led = {index: solo.notes_in(phrase) for index, phrase in enumerate(solo.phrases)}
    gone = {note.id for notes in led.values() for note in notes}
    taken = _taken([other for phrase in solo.phrases for other in phrase.others], solo)
    solo = with_notes(solo, (*(note for note in solo.notes if note.id not in gone), *taken))
    for index, notes in led.items():
        solo = change_phrase(solo, index, others=notes)
    return solo


def _taken(others: Sequence[Note], solo: Solo) -> list[Note]:
    """Another voice's notes as notes of the solo, which hearing again leaves where they are."""
    return [replace(other, id=solo.next_id + i).pinned("timing") for i, other in enumerate(others)]


def _struck_together(note: Note, other: Note) -> bool:
    """Whether these are two strings of a double stop."""
    both = note.technique("double_stop") and other.technique("double_stop")
    return bool(both) and note.pitch != other.pitch and abs(note.onset - other.onset) <= SAME_ONSET_S


def _around_pins(note: Note, twin: Note) -> Note:
    merged = replace(
        twin,
        id=note.id,
        pins=note.pins,
        remarks=note.remarks,
        stroke=note.stroke,
        techniques=note.techniques if "techniques" in note.pins else twin.techniques,
    )
    if "pitch" in note.pins or "place" in note.pins:
        contour = _contour_against(twin.contour_cents, note.pitch - twin.pitch)
        merged = replace(merged, pitch=note.pitch, contour_cents=contour)
    if note.pins:
        merged = replace(merged, string=note.string, fret=note.fret, finger=note.finger)
    if "timing" in note.pins:
        merged = cut_note(merged, note.onset, note.end)
    return merged
