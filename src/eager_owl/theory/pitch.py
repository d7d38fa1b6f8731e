"""Pitches as MIDI numbers (60 is C4, 69 is A4 = 440 Hz), pitch classes 0 to 11 from C, and their names."""

import re
from typing import overload

import numpy as np
from numpy.typing import NDArray

from eager_owl.theory.words import quoted

A4_HZ = 440.0
A4_MIDI = 69

NATURALS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
Names = tuple[str, ...]  # of the twelve pitch classes from C
SHARP_NAMES: Names = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
FLAT_NAMES: Names = ("C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B")
_ACCIDENTALS = {"#": 1, "♯": 1, "b": -1, "♭": -1, "": 0}
_PITCH = re.compile(r"([A-Ga-g])([#♯b♭]?)(-?\d)")


@overload
def midi_to_hz(midi: float) -> float: ...
@overload
def midi_to_hz(midi: NDArray[np.float64]) -> NDArray[np.float64]: ...
def midi_to_hz(midi: float | NDArray[np.float64]) -> float | NDArray[np.float64]:
    """Frequency in Hz of a (fractional) MIDI number in equal temperament, A4 = 440 Hz."""
    return A4_HZ * 2.0 ** ((midi - A4_MIDI) / 12.0)


@overload
def hz_to_midi(hz: float) -> float: ...
@overload
def hz_to_midi(hz: NDArray[np.float64]) -> NDArray[np.float64]: ...
def hz_to_midi(hz: float | NDArray[np.float64]) -> float | NDArray[np.float64]:
    """Fractional MIDI number of a frequency in Hz (above 0)."""
    midi = A4_MIDI + 12.0 * np.log2(np.asarray(hz) / A4_HZ)
    return midi if isinstance(hz, np.ndarray) else float(midi)


def concert_a_hz(cents: float) -> float:
    """The A4 of a recording tuned by so many cents against 440 Hz."""
    return midi_to_hz(A4_MIDI + cents / 100.0)


def parse_pitch_class(name: str) -> int:
    """Pitch class of a note name such as "Bb", "F#" or "E♭". Raises ValueError."""
    if len(name) in (1, 2) and name[0].upper() in NATURALS and name[1:] in _ACCIDENTALS:
        return (NATURALS[name[0].upper()] + _ACCIDENTALS[name[1:]]) % 12
    raise ValueError(f"{quoted(name)} is not a note name (such as F, Bb or C#)")


def parse_pitch(name: str) -> int:
    """MIDI number of a pitch such as "E4" or "Bb3", or of a number written out. Raises ValueError."""
    name = name.strip()
    if name.isdigit() and int(name) < 128:
        return int(name)
    match = _PITCH.fullmatch(name)
    if not match:
        raise ValueError(f"{quoted(name)} is not a pitch (such as E4 or Bb3)")
    letter, accidental, octave = match.groups()
    return NATURALS[letter.upper()] + _ACCIDENTALS[accidental] + 12 * (int(octave) + 1)


def pitch_class_name(pitch_class: int, names: Names = FLAT_NAMES) -> str:
    """Name of a pitch class; `names` are a key's, or flats."""
    return names[pitch_class % 12]


def pitch_name(midi: int, names: Names = FLAT_NAMES) -> str:
    """Name of a MIDI number with its octave: 64 is "E4"."""
    return f"{names[midi % 12]}{midi // 12 - 1}"


def pretty(name: str) -> str:
    """A note, chord or interval name with typographic accidentals, for the screen: "Bb7" gives "B♭7"."""
    return re.sub(r"(?<![a-zA-Z])b(?=[\dIViv])|(?<=[A-G])b", "♭", name).replace("#", "♯")
