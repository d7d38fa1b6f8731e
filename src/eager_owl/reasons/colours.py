"""How a pitch sits on a chord, by itself: a tone of it, a colour over it, or a rub.

A note a half step above a tone of the chord rubs with it, unless the chord is a dominant, which takes altered
colours. (The usual teaching of available and avoided tensions in chord-scale practice.)
"""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from eager_owl.theory.chord import Chord
from eager_owl.theory.interval import PLAIN, interval_words
from eager_owl.theory.key import Key
from eager_owl.theory.scale import SCALES

Verdict = Literal["chord tone", "tension", "clash", "outside"]

# Semitones above the root that colour a chord of each kind; the rest rub where a chord tone lies a half step under
# them, or in the pairs below, and are else merely outside.
_TENSIONS = {
    "major": {2, 6, 9, 10, 11},
    "minor": {2, 5, 9, 10, 11},
    "dominant": {1, 2, 3, 6, 8, 9},
    "half-diminished": {2, 5, 8},
    "diminished": {2, 5, 8, 11},
    "augmented": {2, 6},
    "suspended": {1, 2, 4, 9, 10},
}
_EXTENSIONS = {"b2": "b9", "2": "9", "b3": "#9", "4": "11", "b5": "#11", "b6": "b13", "6": "13"}


@dataclass(frozen=True)
class Colour:
    """How a pitch sits, in a few words why, and the label of the chord tone that it rubs with, if any."""

    verdict: Verdict
    why: str
    rubs: str = ""


def colour_of(pitch: int, chord: Chord, key: Key | None = None) -> Colour:
    """How a pitch (or pitch class) sits on a chord."""
    return _colour_of(pitch % 12, chord, key)


@lru_cache(maxsize=4096)
def _colour_of(pitch: int, chord: Chord, key: Key | None) -> Colour:
    step = (pitch - chord.root) % 12
    if label := chord.label_of(pitch):
        colours = pitch % 12 not in chord.plain_pitch_classes
        return Colour("tension" if colours else "chord tone", f"its {interval_words(label)}{', altered' * colours}")
    if pitch % 12 == chord.bass:
        return Colour("chord tone", "its bass")
    plain = PLAIN[step]
    tensions = _TENSIONS[chord.quality]
    rubbed = _rubbed(step, chord)
    minor_home = key is not None and key.mode == "minor" and chord.root == key.tonic and in_key(pitch, key)
    if chord.quality == "minor" and step == 8 and minor_home:
        return Colour("tension", "the key's own flat six", "5")
    if step in tensions and not (rubbed and chord.quality not in ("dominant", "suspended", "diminished")):
        altered = chord.quality == "dominant" and step in (1, 3, 8)
        return Colour("tension", f"its {interval_words(tension_name(plain, chord))}{', altered' if altered else ''}")
    if rubbed:
        return Colour("clash", f"a half step {rubbed[0]} its {interval_words(rubbed[1])}", rubbed[1])
    return Colour("outside", f"the {interval_words(plain)} over it, no tone of its scales")


def _rubbed(step: int, chord: Chord) -> tuple[str, str] | None:
    """The chord tone a half step from a pitch that it rubs with: above it, or major against minor."""
    below = chord.degrees.get((step - 1) % 12)
    if below is not None and below != "bb7":
        return "above", below
    above = chord.degrees.get((step + 1) % 12)
    if (step, above) in ((3, "3"), (10, "7")):
        return "below", str(above)
    return None


def tension_name(plain: str, chord: Chord) -> str:
    """The interval as a tension over the chord: over a seventh chord the second is a ninth."""
    seventh = any(chord.has(label) for label in ("7", "b7", "bb7"))
    if plain == "b5" and not chord.has("5"):
        return "b5"
    return _EXTENSIONS.get(plain, plain) if seventh else plain


def in_key(pitch: int, key: Key) -> bool:
    """Whether a pitch belongs to the key, in minor with the raised sixth and seventh."""
    return pitch % 12 in key.pitch_classes


def is_blue(pitch: int, key: Key) -> bool:
    """Whether a pitch is a blue note of the key: its flat five, and in major its flat three."""
    return (pitch - key.tonic) % 12 in ((3, 6) if key.mode == "major" else (6,))


def in_one_blues_scale(pitches: Iterable[int], key: Key) -> bool:
    """Whether pitches belong to one of the key's blues scales, or in a blues to both together."""
    steps = {(pitch - key.tonic) % 12 for pitch in pitches}
    names = ("blues", "major blues") if key.mode == "major" else ("blues",)
    scales = [SCALES[name].degrees.keys() for name in names]
    return any(steps <= scale for scale in scales) or (key.is_blues and steps <= set().union(*scales))
