"""A small band for the demo: bass, brushes and soft chords in three-four."""

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from eager_owl.rhythm.chart import Chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo.document import Note
from eager_owl.sound.string import play_notes
from eager_owl.theory.pitch import midi_to_hz

_BASS_LOW, _CHORD_LOW = 29, 53


def render_band(
    chart: Chart, grid: BeatGrid, bars: int, duration_s: float, rate: int, cents: float
) -> NDArray[np.float32]:
    """The band through the chart's bars, stereo, shape (frames, 2)."""
    frames = round(duration_s * rate)
    bass = play_notes(_bass_line(chart, grid, bars), rate, duration_s, cents)
    chords = _chords(chart, grid, bars, frames, rate, cents)
    brushes = _brushes(grid, bars, frames, rate)
    left = 0.8 * bass + 0.75 * chords + 0.35 * brushes
    right = 0.8 * bass + 0.3 * chords + 0.8 * brushes
    return np.stack([left, right], axis=1).astype(np.float32)


def _bass_line(chart: Chart, grid: BeatGrid, bars: int) -> list[Note]:
    notes: list[Note] = []
    fifth = min(2, grid.beats_per_bar - 1)
    for bar in range(bars):
        for beat, step in ((0, 0), (fifth, 7)) if fifth else ((0, 0),):
            at = bar * grid.beats_per_bar + beat
            chord = chart.chord_at(at, grid.beats_per_bar)
            if chord is None:
                continue
            wanted = chord.bass if step == 0 else (chord.root + (6 if chord.has("b5") else 7))
            pitch = _BASS_LOW + (wanted - _BASS_LOW) % 12
            length = grid.beat_s * (1.9 if step == 0 else 0.9)
            notes.append(Note(len(notes) + 1, grid.time_of(at), length, pitch, loudness_db=-12.0))
    return notes


def _chords(chart: Chart, grid: BeatGrid, bars: int, frames: int, rate: int, cents: float) -> NDArray[np.float64]:
    """Soft chords on the second and third beat: three partials a tone, struck gently."""
    sound = np.zeros(frames)
    for bar in range(bars):
        for beat in range(1, grid.beats_per_bar):
            at = bar * grid.beats_per_bar + beat
            chord = chart.chord_at(at, grid.beats_per_bar)
            if chord is None:
                continue
            start = round(grid.time_of(at) * rate)
            time = np.arange(max(0, min(round(0.9 * grid.beat_s * rate), frames - start))) / rate
            swell = np.clip(time / 0.012, 0, 1) * np.exp(-time / 0.35)
            for step in list(chord.degrees)[1:4]:
                pitch = _CHORD_LOW + (chord.root + step - _CHORD_LOW) % 12
                hz = midi_to_hz(pitch + cents / 100)
                tone = sum(np.sin(2 * np.pi * k * hz * time) / k**2 for k in (1, 2, 3))
                sound[start : start + len(time)] += 0.035 * swell * tone
    return sound


def _brushes(grid: BeatGrid, bars: int, frames: int, rate: int) -> NDArray[np.float64]:
    """A swish on every beat, a tap on the second and third; a bar of taps before the first."""
    noise = np.random.default_rng(3).standard_normal(frames)
    hiss = sosfilt(butter(2, [1800.0, 7500.0], "bandpass", fs=rate, output="sos"), noise)
    shape = np.zeros(frames)
    for beat in range(-grid.beats_per_bar, bars * grid.beats_per_bar):
        start = round(grid.time_of(beat) * rate)
        if start < 0:
            continue
        time = np.arange(max(0, min(round(grid.beat_s * rate), frames - start))) / rate
        if beat >= 0:
            shape[start : start + len(time)] += 0.02 * np.sin(np.pi * time / grid.beat_s) ** 2
        if beat < 0 or beat % grid.beats_per_bar:
            shape[start : start + len(time)] += 0.09 * np.exp(-time / 0.03)
    return np.asarray(shape * hiss)
