"""What an interval is called: by the chord's own tones, then by the source, then by what the note does."""

from eager_owl.reasons.colours import tension_name
from eager_owl.reasons.roles import Role
from eager_owl.reasons.sources import Source
from eager_owl.theory.chord import Chord
from eager_owl.theory.interval import interval_name
from eager_owl.theory.key import Key


def interval_in_key(pitch: int, key: Key, source: Source | None) -> str:
    """The interval above the tonic, as a source on the tonic spells it, else plainly."""
    plain = interval_name(pitch, key.tonic)
    if source is not None and source.root == key.tonic:
        return source.degrees.get((pitch - key.tonic) % 12, plain)
    return plain


def interval_in_chord(pitch: int, chord: Chord, source: Source | None, role: Role, weighty: bool) -> str:
    """The interval above the chord's root, by what it is there.

    The chord's own tones as they are, altered ones as an altered source has them; a tension over a seventh chord as
    ninth, eleventh or thirteenth where it is `weighty` or altered; anything else plainly.
    """
    step = (pitch - chord.root) % 12
    if label := chord.label_of(pitch):
        return label
    if source is not None and source.root == chord.root and step in source.degrees and role != "blue note":
        label = source.degrees[step]
        if label in ("b9", "#9", "#11", "#4", "#5", "13"):
            return label
    plain = interval_name(pitch, chord.root)
    if role != "tension":
        return plain
    extended = tension_name(plain, chord)
    return extended if weighty or (chord.quality == "dominant" and extended[0] in "b#") else plain
