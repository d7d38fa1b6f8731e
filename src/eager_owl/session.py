"""The open solo: runs the engines over the document and lays their results around what the player fixed."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import AudioError, Recording, file_sha256, mono
from eager_owl.neck.fingering import Fingering, find_fingering, with_places
from eager_owl.neck.schools import placing_schools
from eager_owl.reasons.explain import Explanation, explain
from eager_owl.reasons.schools import reason_schools
from eager_owl.rhythm.chart import Chart
from eager_owl.solo.document import MIN_NOTE_S, Note, Phrase, RecordingReference, Solo, change_phrase, with_notes
from eager_owl.solo.edits import lay_detection
from eager_owl.theory.key import Key

# A phrase is heard with this much of the recording around it, so that its first attack is one.
_MARGIN_S = 0.3
# Below this confidence a note stands in the doubt queue.
DOUBT_BELOW = 0.9
SURVEY_HOP_S = 0.02


@dataclass(frozen=True)
class Survey:
    """The whole recording at a glance: pitch every SURVEY_HOP_S (MIDI, nan for none), tuning offset in cents."""

    midi: NDArray[np.float64]
    reference_cents: float


def survey(recording: Recording) -> Survey:
    """Follow the line through the whole recording, for the rail's contours and the tuning offset."""
    # Hearing brings SciPy, which takes half a second to load: the window does not wait for it.
    from eager_owl.hearing.frames import HOP_S, measure_frames
    from eager_owl.hearing.pitch_track import track_pitch
    from eager_owl.hearing.segment import find_notes
    from eager_owl.hearing.tuning import tuning_offset_cents

    frames = measure_frames(mono(recording.samples), recording.rate)
    track = track_pitch(frames)
    raw = find_notes(frames, track)
    seconds = [(note.plateaus[0].end - note.plateaus[0].start) * HOP_S for note in raw]
    at = np.arange(0, recording.duration_s, SURVEY_HOP_S) / HOP_S
    midi = track.midi[np.minimum(at.astype(int), len(track.midi) - 1)]
    return Survey(midi, tuning_offset_cents([note.midi for note in raw], seconds))


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


def hear_phrase(
    phrase: Phrase, recording: Recording, reference_cents: float | None, progress: Callable[[float, str], bool]
) -> Heard:
    """Detect the notes of a phrase. Raises Cancelled once `progress` answers False."""
    from eager_owl.hearing.detect import detect_notes

    start = max(0.0, phrase.start - _MARGIN_S)
    samples = mono(recording.between(start, phrase.end + _MARGIN_S))
    found = detect_notes(samples, recording.rate, reference_cents, progress)
    notes = [replace(note, onset=note.onset + start) for note in found.notes]
    return Heard(
        tuple(
            replace(note, duration=min(note.duration, phrase.end - note.onset))
            for note in notes
            if phrase.holds(note.onset) and phrase.end - note.onset > MIN_NOTE_S
        ),
        found.reference_cents,
    )


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
    schools = placing_schools()
    costs = schools.get(school or solo.placing_school, next(iter(schools.values()))).costs
    return find_fingering(list(notes), solo.instrument, costs, key_of(solo))


def key_of(solo: Solo) -> Key | None:
    """The solo's key, or None where there is none that can be read."""
    try:
        return solo.key
    except ValueError:
        return None


def chart_of(solo: Solo) -> Chart:
    """The solo's chart; empty where it can't be read."""
    try:
        return solo.chart
    except ValueError:
        return Chart()


def explain_notes(solo: Solo, notes: Iterable[Note], school: str | None = None) -> Explanation:
    """Explain notes under a school (the solo's own unless given)."""
    schools = reason_schools()
    chosen = schools.get(school or solo.reason_school, next(iter(schools.values())))
    return explain(list(notes), key_of(solo), chart_of(solo), solo.grid, chosen)


def doubts(solo: Solo, phrase: Phrase | None = None) -> list[Note]:
    """Notes not wholly trusted and not yet pinned by the player, worst first."""
    notes = solo.notes if phrase is None else solo.notes_in(phrase)
    open_ones = [note for note in notes if note.confidence < DOUBT_BELOW and "pitch" not in note.pins]
    return sorted(open_ones, key=lambda note: note.confidence)
