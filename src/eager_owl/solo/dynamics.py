"""A phrase's loud and soft in words, from its notes' measured levels."""

from collections.abc import Sequence

import numpy as np

from eager_owl.solo.document import Note

# A note so many dB under the loudest of all is called so.
_LEVELS = ((5.0, "loud"), (10.0, "middling"), (16.0, "soft"))
_NEXT_TO_NOTHING = "almost nothing"
_EVEN_DB = 4.0  # from softest to loudest, less than which is even
_TURN_DB = 4.0


def level_word(under_db: float) -> str:
    """What a level is called that lies so many dB under the loudest."""
    return next((word for most, word in _LEVELS if under_db < most), _NEXT_TO_NOTHING)


def dynamics_words(notes: Sequence[Note], loudest_db: float) -> str:
    """The shape of a phrase's loudness: "fades from loud to almost nothing", "swells and falls back"."""
    if len(notes) < 3:
        return level_word(loudest_db - notes[0].loudness_db) if notes else "silent"
    levels = np.array([note.loudness_db for note in notes])
    third = max(1, len(levels) // 3)
    start, end = float(np.median(levels[:third])), float(np.median(levels[-third:]))
    middle = float(np.median(levels[third:-third])) if len(levels) > 2 * third else (start + end) / 2
    first, last = level_word(loudest_db - start), level_word(loudest_db - end)
    if float(levels.max() - levels.min()) < _EVEN_DB:
        return f"even, {level_word(loudest_db - float(np.median(levels)))}"
    if middle > max(start, end) + _TURN_DB:
        return "swells and falls back"
    if middle < min(start, end) - _TURN_DB:
        return "falls back and swells again"
    if start - end > _EVEN_DB:
        return f"fades from {first} to {last}" if first != last else f"fades by {start - end:.0f} dB"
    if end - start > _EVEN_DB:
        return f"swells from {first} to {last}" if first != last else f"swells by {end - start:.0f} dB"
    return "accents among softer notes"
