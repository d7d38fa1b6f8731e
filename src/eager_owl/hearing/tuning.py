"""How far a recording is tuned from A4 = 440 Hz."""

from collections.abc import Sequence

import numpy as np


def tuning_offset_cents(midi: Sequence[float], weights: Sequence[float]) -> float:
    """Offset in cents, -50 to 50, at which weighted pitches lie nearest to semitones (circular mean); 0 for none."""
    if len(midi) == 0:
        return 0.0
    turn = np.exp(2j * np.pi * np.asarray(midi)) * np.asarray(weights)
    return round(float(np.angle(turn.sum()) / (2 * np.pi) * 100), 1)
