"""The whole of hearing in one call: mono samples in, notes out."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Cancelled
from eager_owl.hearing.articulation import mark_trills, measure_techniques
from eager_owl.hearing.frames import HOP_S, Frames, measure_frames
from eager_owl.hearing.pitch_track import PitchTrack, track_pitch
from eager_owl.hearing.segment import RawNote, find_notes
from eager_owl.hearing.tuning import tuning_offset_cents
from eager_owl.solo.document import CONTOUR_HOP_S, Note

Progress = Callable[[float, str], bool]

_RUNNERS_UP = 3
_WINDOW_LEFT = 6  # frames


@dataclass(frozen=True)
class Detection:
    """Notes with ids from 1, onsets in seconds of the given samples, and the tuning offset they are read against."""

    notes: tuple[Note, ...]
    reference_cents: float


def detect_notes(
    samples: NDArray[np.float32],
    rate: int,
    reference_cents: float | None = None,
    progress: Progress = lambda share, doing: True,
) -> Detection:
    """Find the notes of a lead guitar alone in mono samples.

    The tuning offset is estimated unless given. `progress` is told (share done, what is being done) and
    answers whether to go on; once it does not, Cancelled is raised.
    """

    def step(share: float, doing: str) -> None:
        if not progress(share, doing):
            raise Cancelled

    step(0.0, "measuring pitch and level")
    frames = measure_frames(samples, rate)
    step(0.6, "following the line")
    track = track_pitch(frames)
    step(0.75, "cutting it into notes")
    raw = find_notes(frames, track)
    step(0.9, "measuring bends, vibrato and slides")
    techniques, fretted = [], []
    for note in raw:
        found, midi = measure_techniques(note, track.midi)
        techniques.append(found)
        fretted.append(midi)
    mark_trills(raw, techniques)
    if reference_cents is None:
        seconds = [(note.plateaus[0].end - note.plateaus[0].start) * HOP_S for note in raw]
        reference_cents = tuning_offset_cents([note.midi for note in raw], seconds)
    notes = []
    for index, (note, found, midi) in enumerate(zip(raw, techniques, fretted, strict=True)):
        pitch = round(midi - reference_cents / 100)
        share, others = _belief(
            note, abs(midi - reference_cents / 100 - pitch), pitch, reference_cents, frames, track
        )
        contour, level = _sampled(note, pitch + reference_cents / 100, frames, track)
        notes.append(
            Note(
                id=index + 1,
                onset=round(note.start * HOP_S, 4),
                duration=round((note.end - note.start) * HOP_S, 4),
                pitch=pitch,
                techniques=found,
                loudness_db=_loudness_db(note, frames),
                confidence=share,
                runners_up=others,
                contour_cents=contour,
                level_db=level,
            )
        )
    step(1.0, "done")
    return Detection(tuple(notes), reference_cents)


def _loudness_db(note: RawNote, frames: Frames) -> float:
    """The greatest level once the note before has left the window, half of which lies before the onset."""
    start = min(note.start + _WINDOW_LEFT, (note.start + note.end) // 2)
    return round(float(frames.level_db[start : note.end].max()), 1)


def _sampled(
    note: RawNote, zero: float, frames: Frames, track: PitchTrack
) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """The note's contour in cents above `zero` (a MIDI number) and its level, every CONTOUR_HOP_S."""
    at = np.arange(note.start * HOP_S, note.end * HOP_S, CONTOUR_HOP_S) / HOP_S
    inside = np.arange(note.start, note.end)
    voiced = inside[np.isfinite(track.midi[inside])]
    # Frames whose pitch is not of this note (the attack's noise, the next note) would draw as spikes.
    low, high = min(p.midi for p in note.plateaus) - 1, max(p.midi for p in note.plateaus) + 1
    voiced = voiced[(track.midi[voiced] > low) & (track.midi[voiced] < high)]
    cents = np.interp(at, voiced, 100 * (track.midi[voiced] - zero)) if len(voiced) else np.zeros(len(at))
    level = np.interp(at, inside, frames.level_db[inside])
    return tuple(round(c) for c in cents), tuple(round(d) for d in level)


# Logistic weights of the belief in a note's pitch and onset, fitted on benchmarks/confidence.py.
_BELIEF = {"bias": -4.0, "clarity": 6.0, "steady_s": 6.0, "attack": 0.35, "legato": 0.8, "off_pitch": -3.0}


def _belief(
    note: RawNote, off_pitch: float, pitch: int, reference_cents: float, frames: Frames, track: PitchTrack
) -> tuple[float, tuple[tuple[int, float], ...]]:
    """Confidence in the note as detected, `off_pitch` semitones from its pitch, and (pitch, share) of others."""
    plateau = max(note.plateaus, key=lambda p: p.end - p.start)
    clarity = float(track.clarity[plateau.start : plateau.end].mean())
    score = (
        _BELIEF["bias"]
        + _BELIEF["clarity"] * clarity
        + _BELIEF["steady_s"] * min((plateau.end - plateau.start) * HOP_S, 0.2)
        + _BELIEF["attack"] * min(note.attack_flux, 5.0)
        + _BELIEF["legato"] * (note.arrival != "attack")
        + _BELIEF["off_pitch"] * off_pitch
    )
    confidence = float(1 / (1 + np.exp(-score)))
    window = slice(note.plateaus[0].start, note.plateaus[0].end)
    candidates = np.round(frames.midi[window] - reference_cents / 100)
    other = np.isfinite(candidates) & (candidates != pitch)
    weights = np.bincount(candidates[other].astype(int), frames.clarity[window][other] ** 4, minlength=1)
    ranked = [int(midi) for midi in np.argsort(-weights)[:_RUNNERS_UP] if weights[midi] > 0]
    others = tuple((midi, round((1 - confidence) * float(weights[midi] / weights.sum()), 3)) for midi in ranked)
    return round(confidence, 3), others
