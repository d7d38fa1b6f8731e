"""Writing by hand: notes typed by string and fret at a place in the bar, for a solo with or without a recording."""

from dataclasses import replace
from fractions import Fraction
from typing import TYPE_CHECKING

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.rhythm.values import played_beat
from eager_owl.session.signal import Signal
from eager_owl.solo.document import MIN_NOTE_S, Note, Phrase, Solo, change_notes, change_phrase, with_notes
from eager_owl.solo.edits import EditError, cut_note

if TYPE_CHECKING:
    from eager_owl.session.session import Session

# Values that a key goes through, in quarter notes, shortest first.
VALUES: tuple[tuple[str, Fraction], ...] = (
    ("thirty-second", Fraction(1, 8)), ("sixteenth triplet", Fraction(1, 6)), ("sixteenth", Fraction(1, 4)),
    ("eighth triplet", Fraction(1, 3)), ("eighth", Fraction(1, 2)), ("dotted eighth", Fraction(3, 4)),
    ("quarter", Fraction(1)), ("dotted quarter", Fraction(3, 2)), ("half", Fraction(2)), ("dotted half", Fraction(3)),
    ("whole", Fraction(4)),
)  # fmt: skip
_EIGHTH = 4
_FIRST_BARS = 4
_STEP = 24  # places in a beat that the cursor is laid on


def empty_solo() -> Solo:
    """A solo to be written by hand: a plain beat, and one phrase of a few bars."""
    grid = BeatGrid()
    return Solo(title="New solo", grid=grid, phrases=(Phrase(0.0, _FIRST_BARS * grid.bar_s, "Phrase 1"),))


class Writing:
    """Whether notes are being typed, on which string, of which value; `changed` tells of another of these."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.changed = Signal[[]]()
        self.on = False
        self.string = 2
        self._value = _EIGHTH
        self._typed: int | None = None  # the note that another digit belongs to

    @property
    def value_words(self) -> str:
        """The value that is typed next."""
        return VALUES[self._value][0]

    def toggle(self) -> None:
        """Begin to write, or stop. Where there is no beat yet, a plain one is taken."""
        opened = self._session.solo
        self.on = not self.on
        self._typed = None
        if self.on and opened.solo.grid is None:
            opened.do("a plain beat", lambda solo: replace(solo, grid=BeatGrid(first_beat_s=opened.view.cursor)))
            self._session.tell("there was no beat: 120 from the cursor on; F changes it")
        if self.on:
            self._to_beat(self.beat)
            if self._session.screen is not None:
                self._session.screen.show_desk()
        self.changed.emit()

    def stop(self) -> None:
        """Stop writing."""
        if self.on:
            self.toggle()

    @property
    def _grid(self) -> BeatGrid:
        grid = self._session.solo.solo.grid
        assert grid is not None
        return grid

    @property
    def beat(self) -> Fraction:
        """Where the cursor is, on a place that notes are written at."""
        grid = self._grid
        at = grid.beat_at(self._session.solo.view.cursor)
        near = [Fraction(round(at * _STEP) + off, _STEP) for off in (-8, *range(-3, 4), 8)]
        return min(near, key=lambda beat: abs(played_beat(float(beat), grid) - at))

    @property
    def _length(self) -> Fraction:
        """Beats of the value that is typed."""
        quarters = VALUES[self._value][1]
        return quarters if self._grid.division == 2 else quarters * 2 / 3

    def _time(self, beat: Fraction) -> float:
        return self._grid.time_of(played_beat(float(beat), self._grid))

    def _to_beat(self, beat: Fraction) -> None:
        """The cursor to a beat; the phrase on the desk grows with it where nothing is in the way."""
        opened = self._session.solo
        time = max(0.0, self._time(beat))
        phrase, index = opened.phrase, opened.view.phrase
        if phrase is not None and index is not None and time >= phrase.end - 1e-6:
            following = opened.solo.phrases[index + 1].start if index + 1 < len(opened.solo.phrases) else None
            end = time + self._grid.bar_s
            if following is None or following > phrase.end + 1e-6:
                end = end if following is None else min(end, following)
                opened.do("a longer phrase", lambda solo: change_phrase(solo, index, end=end))
        opened.move_cursor(time)

    def value(self, by: int) -> None:
        """A longer value (1) or a shorter one (-1); the note just typed takes it too."""
        self._value = min(max(self._value + by, 0), len(VALUES) - 1)
        opened = self._session.solo
        if self._typed is not None and self._typed in self._at_cursor():
            note = opened.solo.note(self._typed)
            end = self._time(self.beat + self._length)
            opened.do("value", lambda solo: change_notes(solo, [note.id], lambda n: cut_note(n, n.onset, end)))
        self.changed.emit()

    def move_string(self, by: int) -> None:
        """The next string down (1) or up (-1)."""
        count = len(self._session.solo.solo.instrument.tuning)
        self.string = min(max(self.string + by, 1), count)
        self._typed = None
        self.changed.emit()

    def step(self, by: int) -> None:
        """On by the value (1), or back (-1)."""
        self._typed = None
        self._to_beat(self.beat + by * self._length)
        self._session.solo.select(self._at_cursor(), move_cursor=False)
        self.changed.emit()

    def _at_cursor(self) -> tuple[int, ...]:
        """Ids of the notes on this string that begin at the cursor."""
        now = self._session.solo.view.cursor
        return tuple(
            note.id
            for note in self._session.solo.solo.notes
            if note.string == self.string and abs(note.onset - now) < MIN_NOTE_S
        )

    def digit(self, digit: int) -> None:
        """A fret's digit: a note at the cursor, or the second digit of the one just typed."""
        opened = self._session.solo
        self._to_beat(self.beat)
        here = self._at_cursor()
        fret = digit
        if here and here[0] == self._typed:
            fret_before = opened.solo.note(here[0]).fret or 0
            fret = 10 * fret_before + digit if 10 * fret_before + digit <= opened.solo.instrument.frets else digit
        note_id = here[0] if here else opened.solo.next_id
        if opened.do("write a note", lambda solo: self._with_note(solo, note_id, fret), [note_id]):
            self._typed = note_id
            opened.select([note_id], move_cursor=False)
            self._session.playing.play_notes([opened.solo.note(note_id)], follows=False)
        self.changed.emit()

    def _with_note(self, solo: Solo, note_id: int, fret: int) -> Solo:
        """A note on the string at the cursor; one that still sounds on that string ends there."""
        instrument = solo.instrument
        pitch = instrument.pitch_at(self.string, fret)
        if instrument.fret_of(self.string, pitch) is None:
            behind = fret < instrument.capo
            raise EditError(f"fret {fret} is behind the capo" if behind else f"fret {fret} is past the neck's end")
        onset, end = self._time(self.beat), self._time(self.beat + self._length)
        old = next((note for note in solo.notes if note.id == note_id), None)
        kept = [
            cut_note(note, note.onset, onset)
            if note.string == self.string and note.onset < onset - MIN_NOTE_S and note.end > onset
            else note
            for note in solo.notes
            if note.id != note_id
        ]
        later = [n.onset for n in kept if n.string == self.string and n.onset > onset + MIN_NOTE_S]
        new = Note(note_id, onset, min([end, *later]) - onset, pitch, self.string, fret)
        if old is not None:
            new = replace(old, pitch=pitch, fret=fret, contour_cents=())
        solo = with_notes(solo, [*kept, new.pinned("pitch", "timing", "place")])
        index = solo.phrase_index_at(onset)
        if index is not None and solo.phrases[index].stage == "to hear":
            solo = change_phrase(solo, index, stage="placed")
        return solo

    def erase(self) -> None:
        """Take away the note at the cursor, or where there is none, go back."""
        here = self._at_cursor()
        self._typed = None
        if not here:
            self.step(-1)
            return
        opened = self._session.solo
        opened.do("erase", lambda solo: with_notes(solo, [note for note in solo.notes if note.id not in here]))
        self.changed.emit()
