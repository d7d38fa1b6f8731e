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
_MODES = {"major": ("major", "Mixolydian", "Lydian"), "minor": ("natural minor", "Dorian", "Phrygian")}
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
    if any(core <= scale for scale in _scales(key, _OWN_SCALES)):
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
        if goal_pc in _scales(key, _OWN_SCALES)[0]:
            goal = _NUMERALS[(goal_pc - key.tonic) % 12]
            return Function(numeral, "secondary dominant", f"secondary dominant, pointing at {goal}")
    return Function(numeral, "outside", "outside the key")


_CORE = frozenset({"R", "b3", "3", "b5", "5", "#5", "6", "bb7", "b7", "7"})


def _scales(key: Key, names: dict[str, tuple[str, ...]]) -> list[frozenset[int]]:
    return [frozenset((key.tonic + step) % 12 for step in SCALES[name].degrees) for name in names[key.mode]]


def mode_of(chords: Sequence[Chord | None], key: Key) -> str:
    """The mode that holds every chord of a form where the key's plain scale does not: "Dorian", or nothing."""
    tones = [_core_tones(chord) for chord in chords if chord is not None]
    for name in _MODES[key.mode]:
        scale = frozenset((key.tonic + step) % 12 for step in SCALES[name].degrees)
        if tones and all(each <= scale for each in tones):
            return "" if name == _MODES[key.mode][0] else name
    return ""


def _core_tones(chord: Chord) -> frozenset[int]:
    return frozenset((chord.root + step) % 12 for step, label in chord.degrees.items() if label in _CORE)


# How much a chord of a kind counts for a key, and one of no kind that is named.
_SPEAKS_FOR_KEY, _SPEAKS_AGAINST_KEY = {"own": 1.0, "blues": 1.0, "secondary dominant": 0.2, "borrowed": 0.1}, -0.5


def suggest_keys(chords: Sequence[Chord | None]) -> list[tuple[Key, float]]:
    """The keys that the chords of a form, bar by bar, speak for, best first, with their shares of belief.

    A chord of the key counts for it, one that is not against it; a dominant that falls to the tonic, and the tonic at
    the start and the end, count more. Shares are a softmax of the counts.
    """
    named = [chord for chord in chords if chord is not None]
    if not named:
        return []
    scored: list[tuple[Key, float]] = []
    pairs = Counter(zip(named, [*named[1:], named[0]], strict=True))  # a long form repeats itself
    for mode in ("major", "minor"):
        for tonic in range(12):
            key = Key(tonic, mode)
            score = 0.0
            for (chord, following), times in pairs.items():
                kind = function_of(chord, key, following).kind
                score += times * _SPEAKS_FOR_KEY.get(kind, _SPEAKS_AGAINST_KEY)
                at_home = following.root == tonic and following.quality == mode
                if at_home and chord.quality == "dominant" and (chord.root - tonic) % 12 == 7:
                    score += 1.5 * times
            for chord, worth in ((named[0], 1.0), (named[-1], 1.0)):
                score += worth * (chord.root == tonic and (chord.quality == "minor") == (mode == "minor"))
            scored.append((key, score))
    scored.sort(key=lambda item: -item[1])
    weights = [2.0 ** (score - scored[0][1]) for _, score in scored]
    return [(key, weight / sum(weights)) for (key, _), weight in zip(scored, weights, strict=True)]
