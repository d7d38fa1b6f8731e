"""The evidence of one note: what was measured, how it was named, how sure, what else it could be, and why."""

from eager_owl.desktop.widgets.fact_grid import FactGrid
from eager_owl.desktop.words import clock_text, in_chord_words, percent, place_words, reason_words, technique_words
from eager_owl.session import editing
from eager_owl.session.explaining import event_words, reason_schools
from eager_owl.session.facts import key_of, names_of, other_reading, pitch_text
from eager_owl.session.placing import other_places, string_heard
from eager_owl.session.session import Session
from eager_owl.solo.document import PINS, Note
from eager_owl.solo.figures import twins_of
from eager_owl.solo.techniques import Manner, manner_words
from eager_owl.theory.chord import second_names
from eager_owl.theory.interval import interval_words
from eager_owl.theory.pitch import pretty
from eager_owl.theory.words import plural

_PLACES_SHOWN, _READINGS_SHOWN = 4, 2


class NotePage:
    """Writes the page of one note."""

    def __init__(self, session: Session, page: FactGrid, note: Note) -> None:
        self.session, self.opened, self.page, self.note = session, session.solo, page, note
        self.index = next((i for i, other in enumerate(self.opened.notes) if other.id == note.id), 0)

    def write(self) -> None:
        """All of it."""
        self._measured()
        self._belief()
        self._manners()
        self._places_in_doubt()
        self._twins()
        self._reasons()
        self._places()

    def _pitch(self, pitch: int) -> str:
        """A pitch as the note's chord spells it."""
        reason = self.opened.reasons.get(self.note.id)
        return pitch_text(pitch, self.opened.solo, reason.chord if reason is not None else None)

    def _measured(self) -> None:
        note, page = self.note, self.page
        page.heading(f"Note {self.index + 1}")
        where = [place_words(note.string, note.fret)]
        if note.finger:
            where.append(f"finger {note.finger}")
        page.row("played", ", ".join(where))
        page.row("sounds" if note.harmonic else "fretted", self._pitch(note.pitch) + self._tune())
        if note.bend:
            page.row("bent to", self._pitch(note.pitch + round(note.bend.bend_semitones)), loud=True)
        for technique in note.techniques:
            page.row("named", technique_words(technique))
        if note.bend and any(other.together(note) and other.landed == note.landed for other in self._others()):
            page.row("together", "a unison bend: bent up to the note struck with it")
        page.row("held", f"{note.duration:.2f} s")
        below = max(n.loudness_db for n in self.opened.notes) - note.loudness_db
        comparison = "the loudest here" if below < 0.5 else f"{below:.0f} dB under the loudest"
        page.row("loudness", f"{note.loudness_db:.0f} dB, {comparison}")
        if self.opened.answers.score is not None:
            page.row("timing", self._timing())
        for remark in note.remarks:
            page.row("your doubt" if remark.question else "remark", remark.text)
        if note.pins:
            page.row("pinned", ", ".join(pin for pin in PINS if pin in note.pins))

    def _others(self) -> list[Note]:
        return [other for other in self.opened.notes if other.id != self.note.id]

    def _tune(self) -> str:
        """How far off its first quarter is, as a median; nothing for a note that is bent."""
        off = sorted(self.note.contour_cents[: max(4, len(self.note.contour_cents) // 4)])
        if self.note.bend or not off:
            return ""
        cents = off[len(off) // 2]
        return f", {plural(abs(cents), 'cent')} {'sharp' if cents >= 0 else 'flat'}"

    def _timing(self) -> str:
        score = self.opened.answers.score
        assert score is not None
        bar, beat = divmod(float(score.event_of(self.note.id).beat), score.grid.beats_per_bar)
        late = score.late_ms[self.note.id]
        how = "on the grid" if abs(late) < 5 else f"{abs(late):.0f} ms {'behind' if late > 0 else 'ahead'}"
        return f"bar {int(bar) + 1}, beat {round(beat + 1, 2):g}; {how}"

    def _belief(self) -> None:
        note = self.note
        pinned = "pitch" in note.pins
        self.page.heading("How sure: you said so" if pinned else f"How sure: {percent(note.confidence)} in 100")
        self.page.share(self._pitch(note.pitch), note.confidence, percent(note.confidence))
        for pitch, share in note.runners_up[:_READINGS_SHOWN]:
            key = _taken_by(pitch == note.runners_up[0][0] and other_reading(note) == "pitch")

            def take(semitones: int = pitch - note.pitch) -> None:
                editing.take_pitch(self.session, note.id, semitones)

            self.page.share(self._pitch(pitch) + key, share, percent(share), take)

    def _manners(self) -> None:
        """How it was played, and how else it may have been."""
        note = self.note
        if not note.other_manners or "techniques" in note.pins:
            return
        heard = note.manner
        left = 1 - sum(share for _, share in note.other_manners)
        self.page.heading("How it was played")
        self.page.share(manner_words(heard), left, percent(left))
        first = note.other_manners[0][0]
        for manner, share in note.other_manners:
            key = _taken_by(manner == first and other_reading(note) == "manner")

            def take(manner: Manner = manner) -> None:
                editing.take_manner(self.session, note.id, manner)

            self.page.share(manner_words(manner) + key, share, percent(share), take)

    def _places_in_doubt(self) -> None:
        """Where it is played, and where it might as well be."""
        note = self.note
        if note.place_in_doubt is not None:
            self.page.heading("Where: two ways nearly as good")
            self.page.row("as placed", place_words(note.string, note.fret))
            self.page.row("or", place_words(*note.place_in_doubt) + _taken_by(other_reading(note) == "place"))

    def _twins(self) -> None:
        """Offer to carry the note to where its figure comes back, once something of it is pinned."""
        twins = twins_of(self.note.id, self.opened.answers.returns)
        if not twins:
            return
        many = "once" if len(twins) == 1 else f"{len(twins)} times"
        times = ", ".join(clock_text(self.opened.solo.note(i).onset) for i in twins)
        self.page.row("comes back", f"{many}, at {times}")
        if self.note.pins:
            self.page.button("Carry it there   Ctrl R", lambda: editing.carry_to_repeats(self.session))

    def _reasons(self) -> None:
        opened, page = self.opened, self.page
        page.heading("Why this note")
        reason = opened.reasons.get(self.note.id)
        if reason is not None and reason.interval_key is not None:
            words = interval_words(reason.interval_key)
            if reason.lands_key and reason.lands_key != reason.interval_key:
                words += f", bent to its {interval_words(reason.lands_key)}"
            key = key_of(opened.solo)
            page.row("in the key", f"{words} of {pretty(key.name)}" if key else words)
        if reason is not None and reason.chord is not None:
            page.row("in the chord", in_chord_words(reason))
        if reason is None or (reason.interval_key is None and reason.chord is None):
            page.row("", "give a key or chart (F), and it is related to them here")
            return
        for event in opened.answers.reading.events:
            if self.index in event.notes and event.kind not in ("sequence", "repeat"):
                page.row("here", pretty(event_words(event)))
        if reason.chord is not None and (others := second_names(reason.chord, names_of(opened.solo))):
            page.row("the chord", pretty(f"{reason.chord.symbol} is also {others[0].symbol}"))
        for name in reason_schools():
            told = opened.answers.explanation(name).reasons[self.index]
            page.row(name.replace("-", " "), reason_words(told), name == opened.answers.told.school)

    def _places(self) -> None:
        note, solo = self.note, self.opened.solo
        others = other_places(solo, note)
        if not others:
            return
        self.page.heading("Where else on the neck")
        if (heard := string_heard(solo, note)) is not None:
            self.page.row("by its sound", f"string {heard[0]}, {percent(heard[1])} in 100")
        for string, fret in others[:_PLACES_SHOWN]:
            away = abs(fret - (note.fret or 0))

            def take(string: int = string) -> None:
                editing.set_string(self.session, note.id, string)

            hint = "open" if fret == 0 else f"{plural(away, 'fret')} away"
            self.page.place(place_words(string, fret), take, hint)


def _taken_by(first: bool) -> str:
    """The key that takes a reading, beside the one that it takes."""
    return "   E" if first else ""
