"""Pitch, interval, chord symbol, key and scale: the arithmetic of music, with no sound and no guitar in it."""
