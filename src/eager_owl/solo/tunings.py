"""Tunings by name, from the thinnest string, for five to eight strings."""

from eager_owl.theory.pitch import parse_pitch, pitch_name

_NAMED = {
    "standard": "E4 B3 G3 D3 A2 E2",
    "half step down": "Eb4 Bb3 Gb3 Db3 Ab2 Eb2",
    "whole step down": "D4 A3 F3 C3 G2 D2",
    "drop D": "E4 B3 G3 D3 A2 D2",
    "drop C": "D4 A3 F3 C3 G2 C2",
    "double drop D": "D4 B3 G3 D3 A2 D2",
    "modal D": "D4 A3 G3 D3 A2 D2",
    "open D": "D4 A3 F#3 D3 A2 D2",
    "open E": "E4 B3 G#3 E3 B2 E2",
    "open G": "D4 B3 G3 D3 G2 D2",
    "open A": "E4 C#4 A3 E3 A2 E2",
    "open C": "E4 C4 G3 C3 G2 C2",
    "all fourths": "F4 C4 G3 D3 A2 E2",
    "five strings, open G": "D4 B3 G3 D3 G2",
    "seven strings": "E4 B3 G3 D3 A2 E2 B1",
    "seven strings, drop A": "E4 B3 G3 D3 A2 E2 A1",
    "eight strings": "E4 B3 G3 D3 A2 E2 B1 F#1",
    "eight strings, drop E": "E4 B3 G3 D3 A2 E2 B1 E1",
}
TUNINGS: dict[str, tuple[int, ...]] = {
    name: tuple(parse_pitch(pitch) for pitch in pitches.split()) for name, pitches in _NAMED.items()
}


def tuning_name(tuning: tuple[int, ...]) -> str:
    """The tuning's name, or its pitches from the thinnest string."""
    return next((name for name, known in TUNINGS.items() if known == tuning), " ".join(map(pitch_name, tuning)))
