"""Loud and soft as marks and hairpins, from the measured levels of the notes."""

from collections.abc import Sequence
from itertools import groupby

import numpy as np

from eager_owl.solo.document import Note

# How marks of loudness begin, in dB under the loudest note of all.
_LOUDNESS = ((5.0, "f"), (10.0, "mf"), (16.0, "mp"), (24.0, "p"))
_SOFTEST = "pp"
_HAIRPIN_DB, _HAIRPIN_NOTES = 5.0, 4


def loudness_marks(
    notes: Sequence[Note], loudest_db: float
) -> tuple[list[tuple[int, str]], list[tuple[int, int, bool]]]:
    """Where loudness is marked, by note id and mark (pp to f), and hairpins as (first id, last id, whether it grows).

    Levels are medians of three notes in a row, so that an accent is no dynamic.
    """
    notes = [note for note in notes if not note.technique("grace", "ghost")]
    if not notes:
        return [], []
    levels = np.array([note.loudness_db for note in notes])
    padded = np.pad(levels, 1, mode="edge")
    smooth = np.median(np.stack([padded[:-2], padded[1:-1], padded[2:]]), axis=0)
    marks: list[tuple[int, str]] = []
    shown, last_at = "", -9
    for index, level in enumerate(smooth):
        name = next((sign for under, sign in _LOUDNESS if loudest_db - level < under), _SOFTEST)
        stays = all(
            name == next((s for under, s in _LOUDNESS if loudest_db - later < under), _SOFTEST)
            for later in smooth[index : index + 3]
        )
        if name != shown and (stays or not marks) and index - last_at >= 3:
            marks.append((notes[index].id, name))
            shown, last_at = name, index
    return marks, _hairpins([note.id for note in notes], smooth)


def _hairpins(ids: Sequence[int], levels: Sequence[float]) -> list[tuple[int, int, bool]]:
    """Stretches in which the level goes one way by enough, over enough notes."""
    steps = np.sign(np.diff(levels))
    pins = []
    at = 0
    for way, group in groupby(steps, key=lambda step: step >= 0):
        length = len(list(group))
        change = float(levels[at + length] - levels[at])
        if length >= _HAIRPIN_NOTES - 1 and abs(change) >= _HAIRPIN_DB:
            pins.append((ids[at], ids[at + length], bool(way)))
        at += length
    return pins
