"""Chords in a key: Roman numerals, what a chord from outside is, and the key that a run of chords speaks for."""

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key
from eager_owl.theory.scale import SCALES

_NUMERALS = ("I", "bII", "II", "bIII", "III", "IV", "bV", "V", "bVI", "VI", "bVII", "VII")
# The scales whose chords a key calls its own.
_OWN_SCALES = {"major": ("major",), "minor": ("natural minor", "harmonic minor", "melodic minor")}
_PARALLEL = {"major": ("natural minor", "harmonic minor"), "minor": ("major",)}
_MARKS = {"half-diminished": "ø", "diminished": "°", "augmented": "+"}

Kind = Literal[
    "own", "blues", "secondary dominant", "tritone substitute", "borrowed", "passing diminished", "outside"
]


@dataclass(frozen=True)
class Function:
    """What a chord is in a key: its numeral, its kind, and in words where it is not the key's own."""

    numeral: str
    kind: Kind
    words: str = ""


def degree_numeral(chord: Chord, key: Key) -> str:
    """The degree of the key that a chord stands on, lower case where its third is minor: "ii", "bVI", "#iv"."""
    numeral = _NUMERALS[(chord.root - key.tonic) % 12]
    if chord.quality in ("minor", "half-diminished", "diminished"):
        numeral = "#IV" if numeral == "bV" and chord.quality != "minor" else numeral
        return "".join(sign if sign == "b" else sign.lower() for sign in numeral)
    return numeral


def roman_numeral(chord: Chord, key: Key) -> str:
    """The chord as a degree of the key with what it adds: "iiø7", "V7", "bVImaj7"."""
    degree, suffix = degree_numeral(chord, key), chord.suffix
    if mark := _MARKS.get(chord.quality):
        return degree + mark + ("7" if chord.has("b7") or chord.has("bb7") else "")
    if chord.quality == "minor":
        suffix = re.sub(r"^(min|mi|m(?!aj)|-)", "", suffix)
    return degree + suffix


def function_of(chord: Chord, key: Key, following: Chord | None = None) -> Function:
    """What a chord is in a key, by what follows it where that matters."""
    numeral = roman_numeral(chord, key)
    step = (chord.root - key.tonic) % 12
    core = _core_tones(chord)
    if key.is_blues and chord.quality == "dominant" and step in (0, 5, 7):
        return Function(numeral, "blues", "a chord of the blues: its flat seven is at home")
    if any(core <= scale for scale in _own_scales(key)):
        return Function(numeral, "own")
    if chord.quality == "dominant":
        if step == 7:
            return Function(numeral, "own")
        if following is not None and following.root != chord.root:
            goal = degree_numeral(following, key)
            if (chord.root - following.root) % 12 == 7:
                return Function(numeral, "secondary dominant", f"secondary dominant, V7 of {goal}")
            if (chord.root - following.root) % 12 == 1:
                return Function(numeral, "tritone substitute", f"tritone substitute for V7 of {goal}")
        if step in (0, 5):
            return Function(numeral, "blues", "a blues chord: the flat seven is at home on it")
    if chord.quality == "diminished" and following is not None and (following.root - chord.root) % 12 in (1, 11):
        return Function(numeral, "passing diminished", f"diminished, passing to {degree_numeral(following, key)}")
    if any(core <= scale for scale in _scales(key, _PARALLEL)):
        other = "minor" if key.mode == "major" else "major"
        return Function(numeral, "borrowed", f"borrowed from {key.tonic_name} {other}")
    if chord.quality == "dominant":
        goal_pc = (chord.root + 5) % 12
        if goal_pc in _own_scales(key)[0]:
            goal = _NUMERALS[(goal_pc - key.tonic) % 12]
            return Function(numeral, "secondary dominant", f"secondary dominant, pointing at {goal}")
    return Function(numeral, "outside", "outside the key")


_CORE = frozenset({"R", "b3", "3", "b5", "5", "#5", "6", "bb7", "b7", "7"})


def _scales(key: Key, names: dict[str, tuple[str, ...]]) -> list[frozenset[int]]:
    return [frozenset((key.tonic + step) % 12 for step in SCALES[name].degrees) for name in names[key.mode]]


def _own_scales(key: Key) -> list[frozenset[int]]:
    """What a key calls its own: the scale it is named by, or those of its mode."""
    if key.home in SCALES and not key.is_blues:
        return [key.pitch_classes]
    return _scales(key, _OWN_SCALES)


def _core_tones(chord: Chord) -> frozenset[int]:
    return frozenset((chord.root + step) % 12 for step, label in chord.degrees.items() if label in _CORE)


# How much a chord of a kind counts for a key, and one of no kind that is named.
_SPEAKS_FOR_KEY, _SPEAKS_AGAINST_KEY = {"own": 1.0, "blues": 0.5, "secondary dominant": 0.2, "borrowed": 0.1}, -0.5
_BLUES, _NO_BLUES = 1.2, -0.3  # a chord of the blues in a blues, and any other chord there
_ONE_SCALE = 1.0  # one scale holds all chords
_CADENCE, _PLAIN_CADENCE = 1.5, 1.0  # a dominant that falls to the tonic; a plain triad on the fifth
_FIRST, _LAST = 1.5, 0.75  # the tonic at the start, where a vamp comes back to, and at the end
# The keys suggested, and what each has to make up for: a mode is named only where it says more than a plain key.
_SUGGESTED = {
    ("major", ""): 0.0, ("minor", ""): 0.0, ("major", "blues"): 0.3, ("major", "Mixolydian"): 0.5,
    ("minor", "Dorian"): 0.5, ("minor", "Phrygian"): 0.6, ("major", "Lydian"): 0.8,
}  # fmt: skip


def suggest_keys(chords: Sequence[Chord | None]) -> list[tuple[Key, float]]:
    """The keys that the chords of a form, bar by bar, speak for, best first, with their shares of belief.

    A chord of the key counts for it, one that is not against it; a dominant that falls to the tonic, and the tonic at
    the start and the end, count more. Three dominant chords on its first, fourth and fifth are a blues. A tonic is
    spelled as the chords spell it. Shares are a softmax of the counts.
    """
    named = [chord for chord in chords if chord is not None]
    if not named:
        return []
    spelled = {chord.root: chord.names[chord.root] for chord in reversed(named)}
    pairs = Counter(zip(named, [*named[1:], named[0]], strict=True))  # a long form repeats itself
    keys = [Key(tonic, *kind, spelled.get(tonic, "")) for kind in _SUGGESTED for tonic in range(12)]
    scored = [(key, _speaks_for(key, named, pairs) - _SUGGESTED[key.mode, key.home]) for key in keys]
    scored.sort(key=lambda item: -item[1])
    weights = [2.0 ** (score - scored[0][1]) for _, score in scored]
    return [(key, weight / sum(weights)) for (key, _), weight in zip(scored, weights, strict=True)]


def _speaks_for(key: Key, named: Sequence[Chord], pairs: Counter[tuple[Chord, Chord]]) -> float:
    """How much chords, and pairs of them that follow each other so many times, speak for a key."""
    score = 0.0
    for (chord, following), times in pairs.items():
        kind = function_of(chord, key, following).kind
        if key.is_blues:
            score += times * (_BLUES if kind == "blues" else _NO_BLUES)
        else:
            score += times * _SPEAKS_FOR_KEY.get(kind, _SPEAKS_AGAINST_KEY)
        home = following.root == key.tonic and (following.quality == "minor") == (key.mode == "minor")
        if home and (chord.root - key.tonic) % 12 == 7 and chord.quality in ("dominant", "major"):
            score += times * (_CADENCE if chord.quality == "dominant" else _PLAIN_CADENCE)
    for chord, worth in ((named[0], _FIRST), (named[-1], _LAST)):
        score += worth * (chord.root == key.tonic and (chord.quality == "minor") == (key.mode == "minor"))
    scale = frozenset((key.tonic + step) % 12 for step in SCALES[key.scale_name].degrees)
    return score + _ONE_SCALE * (not key.is_blues and all(_core_tones(chord) <= scale for chord in named))
