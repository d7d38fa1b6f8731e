"""What a solo hands on as sound: a phrase, slowed, as transcribed, its band, and the record without the lead."""

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from eager_owl.audio.decode import Recording
from eager_owl.audio.stretch import stretch
from eager_owl.session.facts import chart_of
from eager_owl.session.sounding import notes_sound, transcription_contours, transcription_sound
from eager_owl.solo.document import CONTOUR_HOP_S, Solo
from eager_owl.theory.pitch import midi_to_hz

_RATE = 44100
_TAIL_S = 0.6
_LONGEST_S = 1200.0  # of the recording; at a tenth of the speed and in stereo, four gigabytes
# By a file's suffix: the library's name for its format, and how samples are kept.
FORMATS = {".wav": ("WAV", "PCM_24"), ".flac": ("FLAC", "PCM_24"), ".ogg": ("OGG", "VORBIS")}
_BLOCK = 65536  # frames: the Vorbis encoder overflows its stack on very long writes

Rendered = tuple[NDArray[np.float32], int]


def encoded(sound: Rendered, suffix: str) -> bytes:
    """Sound as the bytes of a file of this suffix. Raises ValueError for one that is not written here."""
    if suffix.lower() not in FORMATS:
        raise ValueError(f"sound is written as {', '.join(FORMATS)}, not as “{suffix or 'a file without a suffix'}”")
    kind, subtype = FORMATS[suffix.lower()]
    samples, rate = sound
    out = io.BytesIO()
    with soundfile.SoundFile(out, "w", rate, samples.shape[1], subtype, format=kind) as file:
        for start in range(0, len(samples), _BLOCK):
            file.write(np.clip(samples[start : start + _BLOCK], -1, 1))
    return out.getvalue()


def stretch_of(solo: Solo, phrase: int | None) -> tuple[float, float]:
    """Start and end in seconds of a phrase (index from 0), or of all that there is."""
    if phrase is not None:
        return solo.phrases[phrase].start, solo.phrases[phrase].end
    end = max([note.end + _TAIL_S for note in solo.notes], default=0.0)
    return 0.0, solo.recording.duration_s if solo.recording else end


def phrase_sound(solo: Solo, phrase: int | None, recording: Recording | None, speed: float) -> Rendered:
    """The recording as it is."""
    if recording is None:
        raise ValueError("there is no recording to take the sound from")
    return recording.between(*stretch_of(solo, phrase)), recording.rate


def slowed_sound(solo: Solo, phrase: int | None, recording: Recording | None, speed: float) -> Rendered:
    """The recording at a speed, its pitch kept; without a recording, the transcription."""
    source = phrase_sound if recording is not None else transcribed_sound
    samples, rate = source(solo, phrase, recording, speed)
    return stretch(samples, rate, speed), rate


def transcribed_sound(solo: Solo, phrase: int | None, recording: Recording | None, speed: float) -> Rendered:
    """The transcription as the synthesiser plays it."""
    start, end = stretch_of(solo, phrase)
    rate = recording.rate if recording else _RATE
    recorded = recording.between(start, end) if recording else None
    if recorded is not None and len(recorded):
        return transcription_sound(solo, start, end, rate, recorded)[:, None], rate
    played = notes_sound(solo, start, end, rate)
    return (0.9 * played / max(1e-6, float(np.abs(played).max(initial=0.0))))[:, None].astype(np.float32), rate


def band_sound(solo: Solo, phrase: int | None, recording: Recording | None, speed: float) -> Rendered:
    """Bass, brushes and chords through the chart. Raises ValueError where there is no chart or beat."""
    from eager_owl.sound.band import render_band

    chart = chart_of(solo)
    if solo.grid is None or not chart.bars:
        raise ValueError("a band needs chords and a beat: Shift C and F")
    start, end = stretch_of(solo, phrase)
    rate = recording.rate if recording else _RATE
    bars = int(solo.grid.beat_at(end) // solo.grid.beats_per_bar) + 1
    band = render_band(chart, solo.grid, max(bars, 0), end, rate, solo.reference_cents or 0.0)
    return band[round(start * rate) :], rate


def without_lead(solo: Solo, phrase: int | None, recording: Recording | None, speed: float) -> Rendered:
    """The recording with the partials of the transcribed notes made quiet."""
    from eager_owl.audio.hush import hush_tones  # its package takes long to load

    samples, rate = phrase_sound(solo, phrase, recording, speed)
    start, end = stretch_of(solo, phrase)
    steps = round((end - start) / CONTOUR_HOP_S) + 1
    hz = np.zeros((2, steps))
    notes = [note for note in solo.notes if note.onset < end and note.end > start and not note.muted]
    for note_id, contour in transcription_contours(solo, notes).items():
        note = solo.note(note_id)
        measured = np.array(note.contour_cents) / 100 if note.contour_cents else contour
        first = round((note.onset - start) / CONTOUR_HOP_S)
        tones = midi_to_hz(note.pitch + measured + (solo.reference_cents or 0.0) / 100)
        low, high = max(first, 0), min(first + len(tones), steps)
        if high > low:
            voice = int(hz[0, low:high].any())
            hz[voice, low:high] = tones[low - first : high - first]
    return hush_tones(samples, rate, hz, CONTOUR_HOP_S), rate


Render = Callable[[Solo, int | None, Recording | None, float], Rendered]


def sound_bytes(
    render: Render, solo: Solo, phrase: int | None, recording: Recording | None, speed: float, path: Path
) -> bytes:
    """A sound of the solo as the bytes of the file at a path, by its suffix.

    Raises ValueError for more of it than is held at once.
    """
    start, end = stretch_of(solo, phrase)
    if end - start > _LONGEST_S:
        raise ValueError(f"up to {_LONGEST_S / 60:.0f} minutes of the recording are written at once: choose a phrase")
    return encoded(render(solo, phrase, recording, speed), path.suffix)
