"""What the player changes by hand: notes, techniques, places, phrases and beats. Each is asked of a session."""

import re
from collections.abc import Callable, Sequence
from dataclasses import replace

from eager_owl.rhythm.grid import BeatGrid, anchored, at_other_pace, shifted_bar
from eager_owl.session.explaining import reason_schools
from eager_owl.session.facts import other_reading
from eager_owl.session.hearing import carry_note
from eager_owl.session.placing import placing_schools
from eager_owl.session.session import Session
from eager_owl.solo import edits, phrase_edits
from eager_owl.solo.document import PLUCKED, STAGES, Note, Pin, Solo, Stage, Stroke, change_notes, change_phrase
from eager_owl.solo.techniques import Manner, TechniqueName
from eager_owl.theory.words import quoted

NOTE_NUDGE_S, PHRASE_NUDGE_S, CURSOR_STEP_S = 0.01, 0.05, 0.02
_NEW_NOTE_S = 0.2
_SAME_TAP_S = 0.04
_CLOCK = re.compile(r"[0-9]{1,6}(\.[0-9]{1,3})?")

Act = Callable[[Session], object]


def on_notes(words: str, change: Callable[[Solo, Sequence[int]], Solo], place: bool = False) -> Act:
    """A change of the selected notes; where it asks for it, they are placed anew."""

    def act(session: Session) -> None:
        ids = list(session.solo.view.selection)
        session.solo.do(words, lambda solo: change(solo, ids), ids if place else ())

    return act


def on_phrase(words: str, change: Callable[[Solo, int], Solo]) -> Act:
    """A change of the phrase on the desk; a button that is still there may ask for it when there is none."""

    def act(session: Session) -> None:
        index = session.solo.view.phrase
        if index is None:
            session.tell_missing("phrase")
        else:
            session.solo.do(words, lambda solo: change(solo, index))

    return act


# Walking


def walk_notes(session: Session, by: int, extend: bool = False) -> None:
    """Select the next note (1) or the one before (-1), instead of what is selected or too."""
    opened = session.solo
    ids = [note.id for note in opened.notes]
    chosen = [i for i in opened.view.selection if i in ids]
    if not ids:
        return
    if not chosen:
        later = [note.id for note in opened.notes if note.onset >= opened.view.cursor - 0.005]
        opened.select([(later or ids)[0]])
        return
    edge = ids.index(chosen[-1] if by > 0 else chosen[0]) + by
    if 0 <= edge < len(ids):
        grown = [*chosen, ids[edge]] if by > 0 else [ids[edge], *chosen]
        opened.select(grown if extend else [ids[edge]])


def select_all(session: Session) -> None:
    """Select every note on the desk."""
    session.solo.select([note.id for note in session.solo.notes])


def click_note(session: Session, note_id: int, more: bool = False) -> None:
    """Select a note that was pointed at, or it too."""
    chosen = session.solo.view.selection if more else ()
    session.solo.select((*(i for i in chosen if i != note_id), note_id), move_cursor=not more)


def next_doubt(session: Session) -> None:
    """Go to the next doubtful note: the worst first, then the one less bad."""
    opened = session.solo
    queue = [note.id for note in opened.answers.doubts]
    if not queue:
        session.tell("no note in doubt here")
        return
    here = opened.view.selection[:1]
    at = queue.index(here[0]) + 1 if here and here[0] in queue else 0
    opened.select([queue[at % len(queue)]])


def accept(session: Session) -> None:
    """What is in doubt of the selected notes is right: pin it, and go to the next doubt."""
    opened = session.solo
    queue = [note.id for note in opened.answers.doubts]
    here = list(opened.view.selection)
    if not here:
        next_doubt(session)
        return
    opened.do("accept", lambda solo: change_notes(solo, here, _accepted))
    later = [i for i in queue if i not in here]
    if later:
        at = queue.index(here[0]) if here[0] in queue else 0
        opened.select([later[at % len(later)]])


def _accepted(note: Note) -> Note:
    pins: list[Pin] = ["pitch"]
    pins += ["techniques"] if note.manner_in_doubt is not None else []
    pins += ["place"] if note.place_in_doubt is not None else []
    return note.pinned(*pins)


def walk_phrases(session: Session, by: int) -> None:
    """The next phrase (1) or the one before (-1)."""
    opened = session.solo
    count, here = len(opened.solo.phrases), opened.view.phrase
    if count:
        index = (0 if by > 0 else count - 1) if here is None else min(max(here + by, 0), count - 1)
        opened.look_at_phrase(index)


def show_whole(session: Session) -> None:
    """The whole recording, or back to the phrase at the cursor."""
    opened = session.solo
    if opened.view.phrase is not None:
        opened.look_at_phrase(None)
    elif opened.solo.phrases:
        index = opened.solo.phrase_index_at(opened.view.cursor)
        opened.look_at_phrase(0 if index is None else index)


def move_cursor(session: Session, seconds: float) -> None:
    """The cursor a little on, or back."""
    session.solo.move_cursor(session.solo.view.cursor + seconds)


# Notes


def take_pitch(session: Session, note_id: int, semitones: int) -> None:
    """Take another reading of one note's pitch; what is around it is then heard anew."""
    if session.solo.do("pitch", lambda solo: edits.change_pitch(solo, [note_id], semitones), [note_id]):
        session.recordings.hear_around()


def take_runner_up(session: Session) -> None:
    """Take the likeliest other reading of the selected note: of its pitch, of how it was played, or of where."""
    note = session.solo.selected[0]
    reading = other_reading(note)
    if reading == "manner" and note.manner_in_doubt is not None:
        take_manner(session, note.id, note.manner_in_doubt)
    elif reading == "place" and note.place_in_doubt is not None:
        set_string(session, note.id, note.place_in_doubt[0])
    elif reading == "pitch":
        take_pitch(session, note.id, note.runners_up[0][0] - note.pitch)
    else:
        session.tell("nothing else was heard in this note")


def take_manner(session: Session, note_id: int, manner: Manner) -> None:
    """Take another reading of how a note was played; what it becomes, part of the note before or two, is placed."""
    opened = session.solo
    before = [note.id for note in opened.solo.notes if note.onset < opened.solo.note(note_id).onset][-1:]
    touched = [*before, note_id, opened.solo.next_id]
    if opened.do("technique", lambda solo: edits.take_manner(solo, note_id, manner), touched):
        opened.select([note_id] if any(note.id == note_id for note in opened.solo.notes) else before)


def set_timing(session: Session, note_id: int, onset: float, end: float) -> None:
    """Onset and end of one note, as dragged."""
    session.solo.do("timing", lambda solo: edits.set_timing(solo, note_id, onset, end))


def set_string(session: Session, note_id: int, string: int) -> None:
    """One note to a string, as dragged or clicked."""
    session.solo.do("string", lambda solo: edits.set_place(solo, note_id, string), [note_id])


def add_note(session: Session) -> None:
    """Add a note at the cursor, at the pitch of the selected or nearest note."""
    opened = session.solo
    cursor, new_id = opened.view.cursor, opened.solo.next_id
    near: list[Note] = opened.selected or sorted(opened.notes, key=lambda note: abs(note.onset - cursor))
    pitch = near[0].pitch if near else opened.solo.instrument.tuning[0]
    if opened.do("add note", lambda solo: edits.add_note(solo, cursor, _NEW_NOTE_S, pitch), [new_id]):
        opened.select([new_id])


def split_note(session: Session) -> None:
    """Cut the note under the cursor."""
    opened = session.solo
    cursor, new_id = opened.view.cursor, opened.solo.next_id
    under = [note.id for note in opened.notes if note.onset < cursor < note.end]
    if not under:
        session.tell("put the cursor inside the note to split it")
        return
    opened.do("split note", lambda solo: edits.split_note(solo, under[0], cursor), [under[0], new_id])


def technique(name: TechniqueName) -> Act:
    """Give the selected notes a technique, or take it away."""
    return on_notes("technique", lambda solo, ids: edits.toggle_technique(solo, ids, name), place=True)


def take_others(session: Session) -> None:
    """Make what another voice played in the phrase notes of the solo."""
    opened = session.solo
    index, first = opened.view.phrase, opened.solo.next_id
    if index is not None:
        ids = range(first, first + len(opened.solo.phrases[index].others))
        if opened.do("another voice taken", lambda solo: edits.take_others(solo, index), list(ids)):
            opened.select(list(ids))


def swap_voices(session: Session) -> None:
    """Let the other voice lead, in all phrases."""
    opened = session.solo
    first, count = opened.solo.next_id, sum(len(phrase.others) for phrase in opened.solo.phrases)
    opened.do("the other voice leads", edits.swap_voices, range(first, first + count))


def carry_to_repeats(session: Session) -> None:
    """The selected note's pitch and techniques, wherever its figure comes back."""
    note_id = session.solo.selected[0].id
    session.solo.do("carry to the repeats", lambda solo: carry_note(solo, note_id))


# Schools


def next_placing_school(session: Session) -> None:
    """Place by the next school."""
    name = _after(session.solo.solo.placing_school, list(placing_schools()))
    ids = [note.id for note in session.solo.solo.notes]
    session.solo.do("way of placing", lambda solo: edits.choose_schools(solo, placing=name), ids)


def pluck(session: Session) -> None:
    """Pluck the selected notes with the thumb, or the finger after the one that plucks the first of them."""
    opened = session.solo
    fingers: list[Stroke] = [stroke for stroke in PLUCKED if stroke != "finger"]
    stroke = opened.selected[0].stroke
    following = fingers[(fingers.index(stroke) + 1) % len(fingers)] if stroke in fingers else fingers[0]
    opened.do("plucked", lambda solo: edits.set_stroke(solo, opened.view.selection, following))


def next_reason_school(session: Session) -> None:
    """Explain by the next school: the phrase, if it has one of its own, or else the solo."""
    opened = session.solo
    own = opened.view.phrase if opened.phrase is not None and opened.phrase.reason_school else None
    name = _after(opened.answers.told.school, list(reason_schools()))
    opened.do("way of explaining", lambda solo: edits.choose_reason_school(solo, own, name))


def _after(name: str, names: Sequence[str]) -> str:
    return names[(names.index(name) + 1) % len(names)] if name in names else names[0]


# Phrases


def span_start(session: Session) -> None:
    """The stretch starts at the cursor."""
    opened = session.solo
    start = opened.view.cursor
    end = opened.view.span[1] if opened.view.span else opened.duration_s
    opened.set_span((start, end if end > start else opened.duration_s))


def span_end(session: Session) -> None:
    """The stretch ends at the cursor."""
    opened = session.solo
    end = opened.view.cursor
    start = opened.view.span[0] if opened.view.span else 0.0
    if end > start:
        opened.set_span((start, end))


def mark_phrase(session: Session) -> None:
    """Make the stretch a phrase."""
    opened = session.solo
    span = opened.view.span
    if span is None:
        session.tell("choose a stretch first: drag over the sound, or press [ and ]")
        return
    if opened.do("mark phrase", lambda solo: phrase_edits.mark_phrase(solo, *span)):
        opened.look_at_phrase(opened.solo.phrase_index_at((span[0] + span[1]) / 2))


def split_phrase(session: Session) -> None:
    """Cut the phrase at the cursor."""
    cursor = session.solo.view.cursor
    on_phrase("split phrase", lambda solo, index: phrase_edits.split_phrase(solo, index, cursor))(session)


def rename_phrase(session: Session) -> None:
    """Ask for the phrase's name."""
    phrase = session.solo.phrase
    if phrase is None:
        session.tell_missing("phrase")
        return
    name = session.ports.dialogs.text("Name of the phrase", phrase.name)
    if name is not None:
        on_phrase("name phrase", lambda solo, index: phrase_edits.rename_phrase(solo, index, name))(session)


def go_to_time(session: Session) -> None:
    """Ask for a time of the whole recording, and put the cursor there."""
    words = session.ports.dialogs.text("Go to, in minutes:seconds or hours:minutes:seconds", "")
    if words is None:
        return
    try:
        time_s = parse_clock(words)
    except ValueError as error:
        session.tell(str(error))
        return
    if session.solo.phrase is not None and not session.solo.phrase.holds(time_s):
        session.solo.look_at_phrase(None)
    session.solo.move_cursor(time_s)


def parse_clock(words: str) -> float:
    """Seconds of "75", "1:15" or "1:01:15.5". Raises ValueError for what is no time."""
    parts = words.strip().split(":")
    if len(parts) > 3 or not all(_CLOCK.fullmatch(part) for part in parts):
        raise ValueError(f"{quoted(words)} is no time: write it as 1:15 or 1:01:15")
    return sum(float(part) * 60.0**place for place, part in enumerate(reversed(parts)))


def delete_phrase(session: Session) -> None:
    """Remove the phrase on the desk."""
    on_phrase("remove phrase", phrase_edits.delete_phrase)(session)
    session.solo.look_at_phrase(session.solo.view.phrase)


def reached(stage: Stage) -> Act:
    """The phrase has come so far; or not yet, after all."""
    before = STAGES[STAGES.index(stage) - 1]

    def change(solo: Solo, index: int) -> Solo:
        come = STAGES.index(solo.phrases[index].stage) >= STAGES.index(stage)
        return change_phrase(solo, index, stage=before if come else stage)

    return on_phrase(stage, change)


# Beats and taps


def tap(session: Session) -> None:
    """A note begins where the ear is now."""
    now = session.solo.view.cursor
    # A loop comes round: a tap on an earlier one moves it.
    others = [tap for tap in session.solo.view.taps if abs(tap - now) > _SAME_TAP_S]
    session.solo.set_taps([*others, now])


def clear_taps(session: Session) -> None:
    """Let go of the taps."""
    session.solo.set_taps(())


def _on_grid(session: Session, words: str, change: Callable[[BeatGrid], BeatGrid]) -> None:
    grid = session.solo.solo.grid
    if grid is None:
        session.tell("there is no beat yet: Ctrl T takes the one that was found")
        return
    session.solo.do(words, lambda solo: replace(solo, grid=change(grid)))


def beat_here(session: Session) -> None:
    """The nearest beat lies at the cursor; the tempo drifts to it."""
    now = session.solo.view.cursor
    _on_grid(session, "a beat here", lambda grid: anchored(grid, round(grid.beat_at(now)), now))


def move_beat(session: Session, beat: int, time_s: float) -> None:
    """A beat was dragged to a time."""
    _on_grid(session, "a beat moved", lambda grid: anchored(grid, beat, time_s))


def count_faster(session: Session) -> None:
    """Count twice as fast."""
    _on_grid(session, "counted twice as fast", lambda grid: at_other_pace(grid, 2.0))


def count_slower(session: Session) -> None:
    """Count half as fast."""
    _on_grid(session, "counted half as fast", lambda grid: at_other_pace(grid, 0.5))


def bar_here(session: Session) -> None:
    """A bar begins at the beat nearest the cursor."""
    now = session.solo.view.cursor
    _on_grid(
        session, "a bar begins here", lambda grid: shifted_bar(grid, round(grid.beat_at(now)) % grid.beats_per_bar)
    )
