"""MusicXML's words for values, chords and keys, for writing and reading alike."""

TYPES = {1: "whole", 2: "half", 4: "quarter", 8: "eighth", 16: "16th", 32: "32nd"}
# Kinds of chords by the labels of their tones, and what a chord of any labels is built on, the fullest first.
KINDS: dict[str, tuple[str, ...]] = {
    "major-13th": ("R", "3", "5", "7", "9", "11", "13"), "minor-13th": ("R", "b3", "5", "b7", "9", "11", "13"),
    "dominant-13th": ("R", "3", "5", "b7", "9", "11", "13"), "major-11th": ("R", "3", "5", "7", "9", "11"),
    "minor-11th": ("R", "b3", "5", "b7", "9", "11"), "dominant-11th": ("R", "3", "5", "b7", "9", "11"),
    "major-ninth": ("R", "3", "5", "7", "9"), "minor-ninth": ("R", "b3", "5", "b7", "9"),
    "dominant-ninth": ("R", "3", "5", "b7", "9"), "major-minor": ("R", "b3", "5", "7"),
    "half-diminished": ("R", "b3", "b5", "b7"), "diminished-seventh": ("R", "b3", "b5", "bb7"),
    "augmented-seventh": ("R", "3", "#5", "b7"), "major-seventh": ("R", "3", "5", "7"),
    "minor-seventh": ("R", "b3", "5", "b7"), "dominant": ("R", "3", "5", "b7"), "major-sixth": ("R", "3", "5", "6"),
    "minor-sixth": ("R", "b3", "5", "6"), "augmented": ("R", "3", "#5"), "diminished": ("R", "b3", "b5"),
    "minor": ("R", "b3", "5"), "major": ("R", "3", "5"), "suspended-fourth": ("R", "4", "5"),
    "suspended-second": ("R", "2", "5"), "power": ("R", "5"),
}  # fmt: skip
# What each kind is called in a chord symbol.
SUFFIXES = {
    "major": "", "minor": "m", "augmented": "aug", "diminished": "dim", "dominant": "7", "major-seventh": "maj7",
    "minor-seventh": "m7", "diminished-seventh": "dim7", "augmented-seventh": "aug7", "half-diminished": "m7b5",
    "major-minor": "m(maj7)", "major-sixth": "6", "minor-sixth": "m6", "dominant-ninth": "9", "major-ninth": "maj9",
    "minor-ninth": "m9", "dominant-11th": "11", "major-11th": "maj11", "minor-11th": "m11", "dominant-13th": "13",
    "major-13th": "maj13", "minor-13th": "m13", "suspended-second": "sus2", "suspended-fourth": "sus4", "power": "5",
}  # fmt: skip
# How many sharps each mode's signature has more than that of the major key on its tonic.
MODES = {"major": 0, "ionian": 0, "minor": -3, "aeolian": -3, "dorian": -2, "phrygian": -4, "lydian": 1,
          "mixolydian": -1, "locrian": -5}  # fmt: skip
# The tonics of major keys from seven flats up.
TONICS = ("Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#", "G#", "D#", "A#")
