"""The open solo: runs the engines over the document and lays their results around what the player fixed."""

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import AudioError, Recording, file_sha256, mono
from eager_owl.neck.costs import Costs
from eager_owl.neck.fingering import Around, Fingering, find_alternatives, find_fingering, with_places
from eager_owl.neck.habits import homes
from eager_owl.neck.moving import Moved, move_phrase
from eager_owl.neck.picking import propose_picking
from eager_owl.neck.schools import placing_schools
from eager_owl.neck.shapes import position_name
from eager_owl.neck.states import candidates
from eager_owl.neck.story import price_words, tell_hand
from eager_owl.neck.strings_heard import Calibration, calibrate, sounds_elsewhere, string_shares
from eager_owl.reasons.explain import Explanation, Reading, explain, read_line
from eager_owl.reasons.fits import Fit, fit_over, fits_over_chart
from eager_owl.reasons.overview import Overview, look_over
from eager_owl.reasons.schools import reason_schools
from eager_owl.reasons.sources import parse_source
from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import (
    CONTOUR_HOP_S,
    MIN_NOTE_S,
    LeadFocus,
    Note,
    Phrase,
    RecordingReference,
    Solo,
    Stroke,
    change_phrase,
    with_notes,
)
from eager_owl.solo.edits import lay_detection, set_source
from eager_owl.solo.figures import Return, carry, find_returns, twins_of
from eager_owl.theory.chord import Chord, parse_chord
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES, Names, midi_to_hz

# A phrase is heard with this much of the recording around it, so that its first attack is one.
_MARGIN_S = 0.3
# A hand is taken from the phrase before, or to the one after, over a rest of up to this long.
_HAND_S = 4.0
_OTHER_WAYS = 4
# Below this confidence a note stands in the doubt queue.
DOUBT_BELOW = 0.9
SURVEY_HOP_S = 0.02
# A chord to hear a note against: its bass from E2 up, its tones from C3 up, held so long.
_CHORD_LOW, _CHORD_MIDDLE, _CHORD_S = 40, 48, 3.0
_TONE_S, _TONE_LEVEL = 2.0, 0.25


@dataclass(frozen=True)
class Survey:
    """The whole recording at a glance: the lead's pitch every SURVEY_HOP_S (MIDI, nan for none), its tuning offset,

    the kind of mix, its beats (None where none recur) and how far they stand out from other tempi, 0 to 1.
    """

    midi: NDArray[np.float64]
    reference_cents: float
    mix: Literal["solo", "band"]
    grid: BeatGrid | None
    beat_confidence: float


def survey(recording: Recording, progress: Callable[[float, str], bool] = lambda share, doing: True) -> Survey:
    """Follow the line through the whole recording: for the rail's contours, the tuning, the beat, the phrases."""
    # Hearing brings SciPy, which takes half a second to load: the window does not wait for it.
    from eager_owl.hearing.beats import find_beats, fit_grid
    from eager_owl.hearing.detect import believed_line, listen
    from eager_owl.hearing.frames import HOP_S

    heard = listen(mono(recording.samples), recording.rate, progress=progress)
    at = np.arange(0, recording.duration_s, SURVEY_HOP_S) / HOP_S
    line = believed_line(heard)
    midi = line[np.minimum(at.astype(int), len(line) - 1)]
    beats = find_beats(heard.spectra)
    grid = fit_grid(beats) if beats else None
    return Survey(midi, heard.reference_cents, heard.mix, grid, beats.confidence if beats else 0.0)


def reference_to(path: Path, recording: Recording, document: Path | None) -> RecordingReference:
    """How a document names its recording: by a relative path where both are in one tree."""
    return RecordingReference(_relative(path, document), file_sha256(path), round(recording.duration_s, 3))


def moved_document(solo: Solo, old: Path | None, new: Path) -> Solo:
    """The solo with its recording's path told from the document's new place."""
    if solo.recording is None:
        return solo
    where = recording_path(solo.recording, old)
    return replace(solo, recording=replace(solo.recording, path=_relative(where, new)))


def recording_path(reference: RecordingReference, document: Path | None) -> Path:
    """Where the recording should be."""
    path = Path(reference.path)
    return path if path.is_absolute() or document is None else (document.parent / path).resolve()


def check_is_recording(reference: RecordingReference, path: Path) -> None:
    """Raise AudioError where the file is not the one that was transcribed."""
    if file_sha256(path) != reference.sha256:
        raise AudioError(f"{path.name} is another recording than the one transcribed here")


def _relative(path: Path, document: Path | None) -> str:
    path = path.resolve()
    if document is not None and path.is_relative_to(document.resolve().parent):
        return str(path.relative_to(document.resolve().parent))
    return str(path)


@dataclass(frozen=True)
class Heard:
    """What a detection found in a phrase, not yet laid into the document."""

    notes: tuple[Note, ...]
    reference_cents: float


def focused(solo: Solo, samples: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """Samples, shape (frames, channels), as the solo's lead focus lets them be heard."""
    focus = solo.focus
    if focus == LeadFocus():
        return samples
    from eager_owl.audio.focus import bring_forward

    return bring_forward(samples, rate, focus.place, focus.low_hz, focus.high_hz, focus.tones_only)


def hear_phrase(
    solo: Solo,
    phrase: Phrase,
    recording: Recording,
    surveyed: Survey | None,
    progress: Callable[[float, str], bool],
    taps: Sequence[float] = (),
) -> Heard:
    """Detect the notes of a phrase: within the lead's range, around what is pinned, at the taps if there are any.

    The kind of mix and the tuning are the solo's own, else the survey's. Raises Cancelled once `progress`
    answers False.
    """
    from eager_owl.hearing.detect import detect_notes
    from eager_owl.hearing.hints import Hints, PinnedNote

    start = max(0.0, phrase.start - _MARGIN_S)
    cents = solo.reference_cents
    if cents is None and surveyed is not None:
        cents = surveyed.reference_cents
    mix = surveyed.mix if surveyed is not None and solo.mix == "auto" else solo.mix
    low, high = solo.lead_range or (solo.instrument.lowest, solo.instrument.highest)
    offset = (cents or 0.0) / 100
    notes = solo.notes_in(phrase)
    # What was struck with a pinned note stays too: the pin speaks of one string of a double stop.
    pinned_notes = [note for note in notes if "pitch" in note.pins]
    sure = [note for note in notes if any(note.together(other) for other in pinned_notes)]
    pinned = tuple(
        PinnedNote(
            note.onset - start, note.end - start, note.pitch + offset, note.bend.bend_semitones if note.bend else 0.0
        )
        for note in sure
    )
    hints = Hints(low + offset, high + offset, pinned, tuple(tap - start for tap in taps if phrase.holds(tap)))
    sound = focused(solo, recording.between(start, phrase.end + _MARGIN_S), recording.rate)
    found = detect_notes(mono(sound), recording.rate, cents, progress, mix, hints)
    stiff = (
        with_stiffness(found.notes, mono(sound), recording.rate, found.reference_cents)
        if mix == "solo"
        else found.notes
    )
    return Heard(
        tuple(
            replace(note, duration=min(note.duration, phrase.end - note.onset))
            for note in (replace(note, onset=note.onset + start) for note in stiff)
            if phrase.holds(note.onset) and phrase.end - note.onset > MIN_NOTE_S
        ),
        found.reference_cents,
    )


def with_stiffness(notes: Sequence[Note], samples: NDArray[np.float32], rate: int, cents: float) -> tuple[Note, ...]:
    """The notes with their strings' stiffness measured where they are long, plain and alone."""
    from eager_owl.hearing.stiffness import LEAST_S, string_stiffness

    measured = []
    for note in notes:
        plain = not any(t.name not in ("staccato", "let_ring") for t in note.techniques)
        alone = not any(n is not note and n.onset < note.end and note.onset < n.end for n in notes)
        if plain and alone and note.duration >= LEAST_S:
            clip = samples[round(note.onset * rate) : round(note.end * rate)]
            note = replace(note, stiffness=string_stiffness(clip, rate, note.pitch + cents / 100))
        measured.append(note)
    return tuple(measured)


def lay_heard(solo: Solo, index: int, heard: Heard) -> Solo:
    """Lay a detection into a phrase around the pins, and place it."""
    laid = lay_detection(replace(solo, reference_cents=heard.reference_cents), index, heard.notes)
    return change_phrase(place_phrase(laid, index), index, stage="placed")


def place_phrase(solo: Solo, index: int) -> Solo:
    """Place a phrase's notes anew under the solo's school; pins are kept."""
    return place_notes(solo, solo.notes_in(solo.phrases[index]))


def place_notes(solo: Solo, notes: Iterable[Note]) -> Solo:
    """Place these notes anew under the solo's school; pins are kept."""
    chosen = list(notes)
    placed = {note.id: note for note in with_places(chosen, fingering(solo, chosen))}
    return with_notes(solo, (placed.get(note.id, note) for note in solo.notes))


def place_around(solo: Solo, ids: Iterable[int]) -> Solo:
    """Place anew the phrases that hold these notes, and the notes themselves where they are in none."""
    wanted = [note for note in solo.notes if note.id in set(ids)]
    indices = {solo.phrase_index_at(note.onset) for note in wanted}
    for index in indices:
        if index is not None:
            solo = place_phrase(solo, index)
    return (
        place_notes(solo, (n for n in wanted if solo.phrase_index_at(n.onset) is None)) if None in indices else solo
    )


def fingering(solo: Solo, notes: Iterable[Note], school: str | None = None) -> Fingering:
    """The cheapest fingering of notes under a placing school (the solo's own unless given)."""
    chosen = list(notes)
    return find_fingering(chosen, solo.instrument, costs_of(solo, school), key_of(solo), _around(solo, chosen))


def alternatives(solo: Solo, notes: Sequence[Note], count: int = 4) -> list[Fingering]:
    """The cheapest different fingerings of notes under the solo's school; pins are kept."""
    around = _around(solo, notes)
    return find_alternatives(notes, solo.instrument, costs_of(solo), key_of(solo), count, around)


@dataclass(frozen=True)
class Way:
    """A way to play a phrase: what it is called, the notes placed so, its price, how many notes it puts elsewhere."""

    name: str
    notes: tuple[Note, ...]
    price: str
    elsewhere: int


def ways(solo: Solo, notes: Sequence[Note]) -> list[Way]:
    """The phrase as it stands, the best other fingerings of the solo's school, and what other schools would do.

    No two alike; pins are kept by all.
    """
    found = [("as it is", list(notes))]
    for other in alternatives(solo, notes, _OTHER_WAYS):
        placed = with_places(notes, other)
        stands = tell_hand(placed, solo.instrument).stands
        found.append(
            (f"from the {position_name(stands[0].position).split()[0]}" if stands else "open strings", placed)
        )
    for name in placing_schools():
        found.append((name.replace("-", " "), with_places(notes, fingering(solo, notes, name))))
    told: list[Way] = []
    seen = set()
    for name, placed in found:
        spots = tuple((note.string, note.fret) for note in placed)
        if spots not in seen:
            seen.add(spots)
            elsewhere = sum(a != (n.string, n.fret) for a, n in zip(spots, notes, strict=True))
            told.append(Way(name, tuple(placed), price_words(tell_hand(placed, solo.instrument)), elsewhere))
    return told


def home_of(solo: Solo) -> int | None:
    """The pitch class of the minor pentatonic home that the solo's boxes stand on; None without notes or key."""
    key = key_of(solo)
    return homes(solo.notes, key)[0].root if solo.notes or key else None


def costs_of(solo: Solo, school: str | None = None) -> Costs:
    """What a placing school (the solo's own unless given) finds costly; the default's where the name is gone."""
    schools = placing_schools()
    return schools.get(school or solo.placing_school, schools[Solo().placing_school]).costs


def _around(solo: Solo, notes: Sequence[Note]) -> Around:
    """Where the hand comes from and must go, and what the sound says of the strings."""
    if not notes:
        return Around()
    first, end = notes[0].onset, notes[-1].end
    ids = {note.id for note in notes}
    others = [note for note in solo.notes if note.finger and note.id not in ids]
    before = [note for note in others if note.onset < first < note.end + _HAND_S][-1:]
    after = [note for note in others if notes[-1].onset < note.onset < end + _HAND_S][:1]
    hands = [tell_hand(near, solo.instrument).stands[0].position if near else None for near in (before, after)]
    return Around(None, hands[0], hands[1], sounds_elsewhere(notes, solo.instrument, strings_known(solo)))


def strings_known(solo: Solo) -> Calibration:
    """What the pinned notes tell of each string's sound."""
    return calibrate(solo.notes)


def string_heard(solo: Solo, note: Note) -> tuple[int, float] | None:
    """The string that a note's sound speaks for and how likely it is by the sound alone, or None."""
    against = sounds_elsewhere([note], solo.instrument, strings_known(solo))
    if against is None or note.stiffness is None:
        return None
    shares = string_shares(against[0], [string for string, _ in candidates(note.pitch, solo.instrument)])
    likeliest = max(shares, key=lambda string: shares[string])
    return likeliest, shares[likeliest]


def picking(solo: Solo, notes: Sequence[Note]) -> list[Stroke | None]:
    """The picking strokes of notes under the solo's style; the player's own are kept."""
    beats = [solo.grid.beat_at(note.onset) for note in notes] if solo.grid else None
    return propose_picking(notes, solo.picking, beats)


def moved(
    solo: Solo, notes: Sequence[Note], semitones: int, from_fret: int | None, strings: Collection[int] | None
) -> Moved:
    """Notes carried to another key, octave, position or set of strings under the solo's school."""
    return move_phrase(notes, solo.instrument, semitones, from_fret, strings, costs_of(solo), key_of(solo))


def key_of(solo: Solo) -> Key | None:
    """The solo's key, or None where there is none that can be read."""
    try:
        return solo.key
    except ValueError:
        return None


def names_of(solo: Solo) -> Names:
    """The names of the pitch classes as the solo's key spells them."""
    key = key_of(solo)
    return key.names if key else FLAT_NAMES


def chart_of(solo: Solo) -> Chart:
    """The solo's chart; empty where it can't be read."""
    try:
        return solo.chart
    except ValueError:
        return Chart()


def reading_of(solo: Solo, notes: Sequence[Note]) -> Reading:
    """What notes do against the solo's key and chart, whatever the school."""
    return read_line(notes, key_of(solo), chart_of(solo), solo.grid)


def explain_notes(
    solo: Solo, notes: Sequence[Note], school: str | None = None, reading: Reading | None = None
) -> Explanation:
    """Explain notes under a school (the solo's own unless given); `reading` saves reading them again."""
    schools = reason_schools()
    chosen = schools.get(school or solo.reason_school, schools[Solo().reason_school])
    return explain(notes, key_of(solo), chart_of(solo), solo.grid, chosen, reading)


def fits_of(solo: Solo, notes: Sequence[Note], typed: str = "") -> list[Fit]:
    """The notes over a typed chord, or else over each of the chart's. Raises ValueError for one it can't read."""
    key, grid = key_of(solo), solo.grid
    if typed.strip():
        return [fit_over(notes, parse_chord(typed), key, grid)]
    return fits_over_chart(notes, chart_of(solo), key, grid)


def overview_of(solo: Solo, reading: Reading, explanation: Explanation) -> Overview:
    """The whole solo counted, from the reading and an explanation of all its notes."""
    return look_over(solo.notes, solo.phrases, reading, explanation, chart_of(solo), solo.grid)


def named_source(solo: Solo, ids: Collection[int], text: str) -> Solo:
    """Notes said to come from a source, or left to the school where `text` is empty. Raises ValueError for none."""
    source = parse_source(text).name if text.strip() else None
    return set_source(solo, ids, source)


def against_chord(note: Note, chord: Chord) -> list[Note]:
    """A chord struck and held, and the note over it where its bend lands: for the ear to judge."""
    low = _CHORD_LOW + (chord.bass - _CHORD_LOW) % 12
    pitches = {low, *(_CHORD_MIDDLE + (chord.root + step - _CHORD_MIDDLE) % 12 for step in chord.degrees)}
    held = [Note(i + 1, 0.03 * i, _CHORD_S - 0.03 * i, p, loudness_db=-20.0) for i, p in enumerate(sorted(pitches))]
    over = Note(len(held) + 1, _CHORD_S / 3, 2 * _CHORD_S / 3, note.landed, loudness_db=-10.0)
    return [*held, over]


def doubts(solo: Solo, phrase: Phrase | None = None) -> list[Note]:
    """Notes not wholly trusted and not yet pinned by the player, worst first."""
    notes = solo.notes if phrase is None else solo.notes_in(phrase)
    open_ones = [note for note in notes if note.confidence < DOUBT_BELOW and "pitch" not in note.pins]
    return sorted(open_ones, key=lambda note: note.confidence)


def suggest_phrases(solo: Solo, surveyed: Survey) -> Solo:
    """Phrases at the lead's breaths added where the solo has none yet."""
    from eager_owl.hearing.breaths import suggest_phrases as suggested

    phrases = list(solo.phrases)
    for start, end in suggested(surveyed.midi, SURVEY_HOP_S, solo.grid or surveyed.grid):
        if all(end <= phrase.start or start >= phrase.end for phrase in solo.phrases):
            phrases.append(Phrase(start, end))
    phrases.sort(key=lambda phrase: phrase.start)
    named = tuple(p if p.name else replace(p, name=f"Phrase {n}") for n, p in enumerate(phrases, 1))
    return replace(solo, phrases=named)


def take_beat(solo: Solo, surveyed: Survey) -> Solo:
    """The surveyed beat as the solo's own. Raises ValueError where none was found."""
    if surveyed.grid is None:
        raise ValueError("no steady beat was found: tap it instead")
    return replace(solo, grid=surveyed.grid)


def returns_in(solo: Solo, phrase: Phrase | None) -> list[Return]:
    """Where the figures of a phrase (or of all) come back in the solo."""
    return find_returns(solo.notes if phrase is None else solo.notes_in(phrase), solo.notes)


def carry_note(solo: Solo, note_id: int) -> Solo:
    """A note's pitch and techniques carried to where its figure comes back. Raises ValueError where it does not."""
    index = solo.phrase_index_at(solo.note(note_id).onset)
    returns = returns_in(solo, None if index is None else solo.phrases[index])
    twins = twins_of(note_id, returns)
    if not twins:
        raise ValueError("this note's figure comes back nowhere")
    return place_around(carry(solo, note_id, returns), twins)


def transcription_sound(
    solo: Solo, start: float, end: float, rate: int, recorded: NDArray[np.float32]
) -> NDArray[np.float32]:
    """What the transcription sounds like between two times, mono, as loud as `recorded` is there."""
    sound = notes_sound(solo, start, end, rate)
    wanted, has = (float(np.sqrt(np.mean(np.square(s)))) for s in (mono(recorded), sound))
    sound = sound * (wanted / has if has > 0 else 1.0)
    return np.asarray(sound / max(1.0, float(np.abs(sound).max(initial=0.0))), dtype=np.float32)


def notes_sound(solo: Solo, start: float, end: float, rate: int) -> NDArray[np.float32]:
    """The solo's notes between two times as a guitar sounds them on the strings they are placed on, mono."""
    from eager_owl.sound.string import play_notes

    notes = [replace(n, onset=n.onset - start) for n in solo.notes if start - 0.01 <= n.onset < end]
    return play_notes(notes, rate, end - start, solo.reference_cents or 0.0)


def transcription_contours(solo: Solo, notes: Iterable[Note]) -> dict[int, NDArray[np.float64]]:
    """The pitch each note would sound at, in semitones over its fret, every CONTOUR_HOP_S from its onset."""
    from eager_owl.sound.string import pitch_contour, strokes

    contours: dict[int, NDArray[np.float64]] = {}
    for stroke in strokes(sorted(notes, key=lambda note: note.onset)):
        for note in stroke.notes:
            times = note.onset + np.arange(0, note.duration, CONTOUR_HOP_S)
            contours[note.id] = pitch_contour(stroke, times) - note.pitch
    return contours


def reference_tone(solo: Solo, pitch: int, rate: int) -> NDArray[np.float32]:
    """A steady tone of a pitch in the recording's tuning that loops without a seam, shape (frames, 1)."""
    hz = midi_to_hz(pitch + (solo.reference_cents or 0.0) / 100)
    count = round(_TONE_S * rate)
    cycles = round(hz * count / rate)
    phase = 2 * np.pi * cycles * np.arange(count) / count
    tone = sum(np.sin(k * phase) / k**1.5 for k in (1, 2, 3, 4, 5))
    return np.asarray(_TONE_LEVEL * tone, dtype=np.float32)[:, None]
