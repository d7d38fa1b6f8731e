"""The solo as plain frozen data. Every change makes a new Solo that shares what did not change.

Times are seconds of the recording; pitches are MIDI numbers after the recording's own tuning offset is
taken out; strings count from 1, the thinnest.
"""

from bisect import bisect_left
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from eager_owl.rhythm.chart import Chart, parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.techniques import BENDS, LEGATO, Manner, Technique, TechniqueName
from eager_owl.theory.key import Key, parse_key

# How the plucking hand strikes: the pick down or up, or a finger.
Stroke = Literal["down", "up", "finger", "thumb", "index", "middle", "ring"]
# The letters of those that the plucking hand takes with a finger, some finger first.
PLUCKED: dict[Stroke, str] = {"finger": "f", "thumb": "p", "index": "i", "middle": "m", "ring": "a"}

# What of a note the player has fixed. "place" is string and fret.
Pin = Literal["pitch", "timing", "place", "finger", "techniques"]
PINS: tuple[Pin, ...] = ("pitch", "timing", "place", "finger", "techniques")

# How far a phrase has come, in order.
Stage = Literal["to hear", "heard", "placed", "reasoned", "proved", "learned"]
STAGES: tuple[Stage, ...] = ("to hear", "heard", "placed", "reasoned", "proved", "learned")

# Sampling step of a note's measured contour and level.
CONTOUR_HOP_S = 0.01
MIN_NOTE_S = 0.02
# Another manner of playing a note, by so much, is a doubt.
MANNER_IN_DOUBT = 0.3
# Onsets within this are one stroke: a strum over a few strings, or one string heard a little after the other.
TOGETHER_S = 0.035
# A note heard again is found this near to where it was.
SAME_ONSET_S = 0.05
MIN_PHRASE_S = 0.1


@dataclass(frozen=True)
class Remark:
    """What the player says in their own words of a note, a phrase, a stretch or the solo: of whichever holds it.

    A `question` is the player's own doubt. `span` is the stretch (s) that one of the solo's remarks is about.
    """

    text: str
    question: bool = False
    span: tuple[float, float] | None = None


@dataclass(frozen=True)
class About:
    """The facts of the recording, a line each, in the player's words."""

    player: str = ""
    take: str = ""
    place: str = ""
    date: str = ""
    tone: str = ""
    guitar: str = ""


@dataclass(frozen=True)
class Note:
    """One note. `pitch` is the fretted pitch before any bend; `id` is unique within its solo.

    `contour_cents` (against the fretted pitch) and `level_db` are sampled every CONTOUR_HOP_S from the
    onset. `runners_up` are (pitch, share of belief) of other readings, `other_manners` those of how it was played;
    `other_place` is the string and fret that it would have in another way to play its phrase that is nearly as good.
    `stroke`, `source` (a scale source by name) and `role` (what it does in the line) are the player's own choices,
    None where the proposed one stands. `stiffness` is the measured inharmonicity of the partials (B in
    f = k f0 sqrt(1 + B k^2)), None where the note was too short or unclear for it.
    """

    id: int
    onset: float
    duration: float
    pitch: int
    string: int | None = None
    fret: int | None = None
    finger: int | None = None
    stroke: Stroke | None = None
    techniques: tuple[Technique, ...] = ()
    loudness_db: float = -20.0
    confidence: float = 1.0
    runners_up: tuple[tuple[int, float], ...] = ()
    other_manners: tuple[tuple[Manner, float], ...] = ()
    contour_cents: tuple[int, ...] = ()
    level_db: tuple[int, ...] = ()
    stiffness: float | None = None
    other_place: tuple[int, int] | None = None
    source: str | None = None
    role: str | None = None
    remarks: tuple[Remark, ...] = ()
    pins: frozenset[Pin] = frozenset()

    @property
    def place_in_doubt(self) -> tuple[int, int] | None:
        """The string and fret that it might as well have, until the player has said which."""
        return self.other_place if "place" not in self.pins and self.string is not None else None

    @property
    def end(self) -> float:
        """Seconds at which the note stops."""
        return self.onset + self.duration

    def together(self, other: "Note") -> bool:
        """Whether both are of one stroke."""
        return abs(self.onset - other.onset) <= TOGETHER_S

    def technique(self, *names: TechniqueName) -> Technique | None:
        """The first technique of one of these names, if the note has one."""
        return next((technique for technique in self.techniques if technique.name in names), None)

    @property
    def bend(self) -> Technique | None:
        """The note's bend of whatever kind, if it has one."""
        return self.technique(*BENDS)

    @property
    def landed(self) -> int:
        """The pitch it arrives at: the fretted one, or where its bend takes it, to the nearest semitone."""
        if self.bend is None or (self.bend.kind.struck_bent and self.bend.kind.released):
            return self.pitch
        return self.pitch + round(self.bend.bend_semitones)

    def is_same(self, other: "Note") -> bool:
        """Whether another note, heard another time, is this one."""
        return self.pitch == other.pitch and abs(self.onset - other.onset) <= SAME_ONSET_S

    @property
    def harmonic(self) -> bool:
        """Whether it is a harmonic: its pitch is what sounds, its fret where the string is touched or held."""
        return self.technique("harmonic") is not None

    @property
    def manner(self) -> Manner:
        """How it was come to: by the fretting hand, by a bend, as a harmonic, or plainly picked."""
        arrival = self.technique(*LEGATO) or self.bend or self.technique("harmonic")
        return arrival.name if arrival else "picked"

    @property
    def manner_in_doubt(self) -> Manner | None:
        """How else it may well have been played, unless the player has said how it was."""
        if not self.other_manners or "techniques" in self.pins:
            return None
        manner, share = self.other_manners[0]
        return manner if share >= MANNER_IN_DOUBT else None

    @property
    def muted(self) -> bool:
        """Whether it was struck without a pitch: a ghost whose level was measured and whose pitch could not be."""
        return bool(self.level_db) and not self.contour_cents and self.technique("ghost") is not None

    def bracketed(self, fret: str) -> str:
        """Its fret, as it is written, in the brackets of its techniques, such as "(5)" or "<12>"."""
        for technique in self.techniques:
            left, right = technique.kind.around
            fret = left + fret + right
        return fret

    def pinned(self, *pins: Pin) -> "Note":
        """The note with these pins added."""
        return replace(self, pins=self.pins | frozenset(pins))


# A finger over a fret stops a string at its half, third or quarter: by frets over the open string (or the capo), the
# semitones over it that its natural harmonics sound.
NODES = {12: 12, 7: 19, 5: 24}
# Frets that a neck has dots at; two at each octave.
INLAID_FRETS = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24, 27, 29, 31, 33, 36)


@dataclass(frozen=True)
class Instrument:
    """A guitar: open strings as MIDI pitches, thinnest first; capo fret; frets; scale length in mm.

    A left-handed guitar is drawn the other way round; nothing else changes.
    """

    tuning: tuple[int, ...] = (64, 59, 55, 50, 45, 40)
    capo: int = 0
    frets: int = 22
    scale_mm: float = 648.0
    left_handed: bool = False

    def __post_init__(self) -> None:
        if not 4 <= len(self.tuning) <= 8:
            raise ValueError(f"a tuning of {len(self.tuning)} strings is outside 4 to 8")
        if any(not 12 <= pitch <= 88 for pitch in self.tuning):
            raise ValueError("an open string is outside C0 to E6")
        if not 12 <= self.frets <= 36:
            raise ValueError(f"{self.frets} frets is outside 12 to 36")
        if not 0 <= self.capo < self.frets:
            raise ValueError(f"a capo at fret {self.capo} leaves no frets")
        if not 400 <= self.scale_mm <= 900:
            raise ValueError(f"a scale of {self.scale_mm:g} mm is outside 400 to 900")

    @property
    def nodes(self) -> frozenset[int]:
        """The pitches of the strings' natural harmonics."""
        return frozenset(string + self.capo + over for string in self.tuning for over in NODES.values())

    def fret_of(self, string: int, pitch: int, harmonic: bool = False) -> int | None:
        """The fret that sounds a pitch on a string (0 is open; with a capo, the capo's fret), or None.

        Of a `harmonic` the fret over its node; one that the open string does not have is fretted there.
        """
        fret = pitch - self.tuning[string - 1]
        if harmonic:
            fret = next((self.capo + node for node, over in NODES.items() if over == fret - self.capo), fret)
        return fret if self.capo <= fret <= self.frets else None

    def fret_for(self, note: Note, string: int) -> int | None:
        """The fret at which a string gives a note, or None."""
        return self.fret_of(string, note.pitch, note.harmonic)

    def sounds(self, string: int, fret: int | None, pitch: int, harmonic: bool = False) -> bool:
        """Whether a pitch can be played there; a harmonic also where it is fretted, as an artificial one."""
        if fret is None or not 1 <= string <= len(self.tuning):
            return False
        return fret in (self.fret_of(string, pitch), self.fret_of(string, pitch, harmonic))

    def holds(self, note: Note) -> bool:
        """Whether a note sounds at its own place."""
        return note.string is not None and self.sounds(note.string, note.fret, note.pitch, note.harmonic)

    def pitch_at(self, string: int, fret: int, harmonic: bool = False) -> int:
        """What sounds at a fret, or, of a `harmonic`, over the node there; one that has no node there is fretted."""
        over = fret - self.capo
        return self.tuning[string - 1] + self.capo + (NODES.get(over, over) if harmonic else over)

    def is_open(self, fret: int | None) -> bool:
        """Whether a fret is the open string or the capo's own fret."""
        return fret == self.capo

    @property
    def lowest(self) -> int:
        """Lowest pitch on the neck."""
        return min(self.tuning) + self.capo

    @property
    def highest(self) -> int:
        """Highest fretted pitch on the neck."""
        return max(self.tuning) + self.frets


def fret_mm(fret: float, scale_mm: float) -> float:
    """Distance of a fret from the nut in mm."""
    return float(scale_mm * (1.0 - 2.0 ** (-fret / 12.0)))


@dataclass(frozen=True)
class Phrase:
    """A stretch of the recording, named.

    `removed` are (onset, pitch) of detected notes the player threw out; `others` are notes of another voice that were
    heard in it: they are none of the solo, until the player takes them. `reason_school` is its own way of explaining,
    empty where it is explained by the solo's.
    """

    start: float
    end: float
    name: str = ""
    stage: Stage = "to hear"
    removed: tuple[tuple[float, int], ...] = ()
    others: tuple[Note, ...] = ()
    remarks: tuple[Remark, ...] = ()
    reason_school: str = ""

    def holds(self, time_s: float) -> bool:
        """Whether a time lies in the phrase."""
        return self.start <= time_s < self.end


@dataclass(frozen=True)
class RecordingReference:
    """Where the recording is: path relative to the document's folder, or absolute; SHA-256 of its bytes."""

    path: str
    sha256: str
    duration_s: float


@dataclass(frozen=True)
class LeadFocus:
    """What of the recording is listened to, by the loop and the detector alike.

    `place` is the lead's stereo place, -1 left to 1 right, or None for all; `low_hz` and `high_hz` bound the
    band; `tones_only` leaves out what is struck without pitch. Raises ValueError outside these.
    """

    place: float | None = None
    low_hz: float | None = None
    high_hz: float | None = None
    tones_only: bool = False

    def __post_init__(self) -> None:
        if self.place is not None and not -1 <= self.place <= 1:
            raise ValueError(f"a stereo place of {self.place} is outside -1 to 1")
        if (self.low_hz or 0.0) < 0 or (self.high_hz is not None and self.high_hz <= (self.low_hz or 0.0)):
            raise ValueError("the focus's band ends below where it starts")


class NoteGoneError(ValueError):
    """A note that the solo does not have."""


@dataclass(frozen=True)
class Solo:
    """The document. Notes ascend by onset; phrases ascend and do not overlap.

    `mix` is whether the recording is a guitar alone or a lead over a band; `lead_range` the lowest and highest
    pitch that the lead stays in, without its bends.
    """

    title: str = "Untitled solo"
    recording: RecordingReference | None = None
    instrument: Instrument = field(default_factory=Instrument)
    key_text: str = ""
    chart_text: str = ""
    grid: BeatGrid | None = None
    reference_cents: float | None = None
    mix: Literal["auto", "solo", "band"] = "auto"
    lead_range: tuple[int, int] | None = None
    focus: LeadFocus = LeadFocus()
    reason_school: str = "two-pentatonics"
    placing_school: str = "key-and-position"
    picking: str = "economy"
    about: About = About()
    remarks: tuple[Remark, ...] = ()
    phrases: tuple[Phrase, ...] = ()
    notes: tuple[Note, ...] = ()

    @property
    def key(self) -> Key | None:
        """The key, or None where none is given. Raises ValueError where the text can't be read."""
        return parse_key(self.key_text) if self.key_text.strip() else None

    @property
    def chart(self) -> Chart:
        """The chart, parsed. Raises ChartError where the text can't be read."""
        return parse_chart(self.chart_text)

    def note(self, note_id: int) -> Note:
        """The note of this id. Raises NoteGoneError: whoever asks may know it from before an edit."""
        for note in self.notes:
            if note.id == note_id:
                return note
        raise NoteGoneError("that note is not there any more")

    def phrase_index_at(self, time_s: float) -> int | None:
        """Index of the phrase that holds a time."""
        return next((i for i, phrase in enumerate(self.phrases) if phrase.holds(time_s)), None)

    def notes_in(self, phrase: Phrase) -> tuple[Note, ...]:
        """The notes whose onset lies in the phrase."""
        first, last = (bisect_left(self.notes, at, key=lambda note: note.onset) for at in (phrase.start, phrase.end))
        return self.notes[first:last]

    @property
    def next_id(self) -> int:
        """An id no note has yet."""
        return max((note.id for note in self.notes), default=0) + 1


def struck_together(notes: Sequence[Note]) -> list[list[int]]:
    """Indices of the notes of each stroke, in order of onset; the highest of a stroke first."""
    groups: list[list[int]] = []
    for i, note in enumerate(notes):
        if groups and notes[groups[-1][0]].together(note):
            groups[-1].append(i)
        else:
            groups.append([i])
    return [sorted(group, key=lambda i: -notes[i].pitch) for group in groups]


def with_notes(solo: Solo, notes: Iterable[Note]) -> Solo:
    """The solo with these notes instead, sorted by onset."""
    return replace(solo, notes=tuple(sorted(notes, key=lambda note: (note.onset, note.pitch))))


def change_notes(solo: Solo, ids: Iterable[int], change: Callable[[Note], Note]) -> Solo:
    """The solo with `change` applied to the notes of these ids."""
    wanted = set(ids)
    return with_notes(solo, (change(note) if note.id in wanted else note for note in solo.notes))


def change_phrase(solo: Solo, index: int, **fields: object) -> Solo:
    """The solo with fields of one phrase replaced."""
    phrase = replace(solo.phrases[index], **fields)  # type: ignore[arg-type]
    return replace(solo, phrases=(*solo.phrases[:index], phrase, *solo.phrases[index + 1 :]))
