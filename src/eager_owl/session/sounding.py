"""What a solo sounds like: its notes on their strings, beside the record or alone, and tones to compare by ear."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import mono
from eager_owl.session.hearing import focused
from eager_owl.solo.document import CONTOUR_HOP_S, Note, Solo
from eager_owl.theory.chord import Chord
from eager_owl.theory.pitch import midi_to_hz

# A chord to hear a note against: its bass from E2 up, its tones from C3 up, held so long.
_CHORD_LOW, _CHORD_MIDDLE, _CHORD_S = 40, 48, 3.0
_TONE_S, _TONE_LEVEL = 2.0, 0.25


def voiced(solo: Solo, samples: NDArray[np.float32], rate: int, start: float, voice: str) -> NDArray[np.float32]:
    """What is to be heard from `start` s on: the recording as the focus lets it through, the transcription, or both.

    Both are the recording in the left ear and the transcription in the right.
    """
    heard = focused(solo, samples, rate)
    if voice == "recording":
        return heard
    played = transcription_sound(solo, start, start + len(samples) / rate, rate, samples)
    played = np.pad(played, (0, max(0, len(samples) - len(played))))[: len(samples)]
    left = mono(heard) if voice == "both" else played
    return np.stack([left, played], axis=1)


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


def against_chord(note: Note, chord: Chord) -> list[Note]:
    """A chord struck and held, and the note over it where its bend lands: for the ear to judge."""
    low = _CHORD_LOW + (chord.bass - _CHORD_LOW) % 12
    pitches = {low, *(_CHORD_MIDDLE + (chord.root + step - _CHORD_MIDDLE) % 12 for step in chord.degrees)}
    held = [Note(i + 1, 0.03 * i, _CHORD_S - 0.03 * i, p, loudness_db=-20.0) for i, p in enumerate(sorted(pitches))]
    over = Note(len(held) + 1, _CHORD_S / 3, 2 * _CHORD_S / 3, note.landed, loudness_db=-10.0)
    return [*held, over]
