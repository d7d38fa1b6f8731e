"""Chord symbols: "Gm7b5", "C7alt", "Fm(maj7)", "Bb/D" read into their tones."""

import re
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

from eager_owl.theory.interval import names_above
from eager_owl.theory.pitch import FLAT_NAMES, Names, parse_pitch_class
from eager_owl.theory.scale import degree_semitones
from eager_owl.theory.words import quoted

_SYMBOL = re.compile(r"([A-G][#♯b♭]?)([^/]*(?:6/9[^/]*)?)(?:/([A-G][#♯b♭]?))?")
_PART = re.compile(
    r"(?P<alteration>[b#+\-](?:5|9|11|13)|\+$)|add(?P<added>2|4|9|11|13)|(?P<sus>sus[24]?)|(?P<altered>alt)"
    r"|no(?P<left_out>[35])|(?P<major>[mM]aj|ma|M)(?P<major_number>7|9|11|13)?|(?P<sixnine>6/?9)"
    r"|(?P<number>13|11|9|7|6|5)"
)
_EXTENSIONS = {"7": (), "9": ("9",), "11": ("9", "11"), "13": ("9", "13")}

_FIFTHS = frozenset({"b5", "#5"})
_ALTERED = frozenset({"b9", "#9", "#11", "b13"}) | _FIFTHS

Quality = Literal["major", "minor", "dominant", "half-diminished", "diminished", "augmented", "suspended"]
# Suffixes under which the tones of a chord may have a second name.
_SECOND_NAMES = ("m6", "m7b5", "6", "m7", "dim7", "+")


@dataclass(frozen=True)
class Chord:
    """A chord: its symbol as written, root and bass pitch classes, and the labels of its tones."""

    symbol: str
    root: int
    labels: tuple[str, ...]
    bass: int

    def __hash__(self) -> int:
        return hash(self.symbol)  # nearly tells chords apart, and text remembers its hash: chords are looked up a lot

    @cached_property
    def degrees(self) -> dict[int, str]:
        """Semitones above the root to the tone's label, root first."""
        return {degree_semitones(label): label for label in self.labels}

    @property
    def suffix(self) -> str:
        """What the symbol says after its root: "m7b5"."""
        match = _SYMBOL.fullmatch(self.symbol)
        return match[2] if match else ""

    @property
    def names(self) -> Names:
        """The twelve pitch classes as this chord spells them: the third of D7 is F#."""
        match = _SYMBOL.fullmatch(self.symbol)
        return names_above(match[1].replace("♯", "#").replace("♭", "b")) if match else FLAT_NAMES

    @property
    def quality(self) -> Quality:
        """The chord's kind, by its third, fifth and seventh."""
        if self.has("b3"):
            if self.has("b5"):
                return "half-diminished" if self.has("b7") else "diminished"
            return "minor"
        if self.has("3"):
            if self.has("b7"):
                return "dominant"
            return "augmented" if self.has("#5") else "major"
        return "suspended"

    @property
    def is_altered(self) -> bool:
        """Whether it is a dominant with two altered colours and more, which names a scale more than a chord."""
        return self.has("3") and self.has("b7") and len(_ALTERED & set(self.labels)) > 1

    @cached_property
    def plain_pitch_classes(self) -> frozenset[int]:
        """Pitch classes of the tones that a line rests on: those with no altered colour, of an altered chord root,

        third and seventh.
        """
        colours = _ALTERED if self.is_altered else _ALTERED - _FIFTHS
        steps = (step for step, name in self.degrees.items() if name not in colours)
        return frozenset((self.root + step) % 12 for step in steps) | {self.bass}

    @cached_property
    def pitch_classes(self) -> frozenset[int]:
        """Pitch classes of the tones, bass included."""
        return frozenset((self.root + step) % 12 for step in self.degrees) | {self.bass}

    def label_of(self, pitch: int) -> str | None:
        """The label of a pitch that is one of its tones; a bass that is none of them has no label."""
        return self.degrees.get((pitch - self.root) % 12)

    def has(self, label: str) -> bool:
        """Whether a tone with exactly this label belongs to the chord."""
        return label in self.labels


@lru_cache(maxsize=1024)
def parse_chord(text: str) -> Chord:
    """Read one chord symbol. Raises ValueError naming the symbol."""
    symbol = text.strip()
    match = _SYMBOL.fullmatch(symbol)
    labels = _labels(match[2]) if match else None
    if match is None or labels is None:
        raise ValueError(f"the chord {quoted(symbol)} can't be read")
    root = parse_pitch_class(match[1])
    return Chord(symbol, root, labels, parse_pitch_class(match[3]) if match[3] else root)


def transpose_chord(chord: Chord, semitones: int, names: Names = FLAT_NAMES) -> Chord:
    """The same chord on a root so many semitones higher."""
    root, bass = (chord.root + semitones) % 12, (chord.bass + semitones) % 12
    symbol = names[root] + chord.suffix
    return Chord(symbol if bass == root else f"{symbol}/{names[bass]}", root, chord.labels, bass)


def second_names(chord: Chord, names: Names = FLAT_NAMES) -> list[Chord]:
    """The same tones and bass under other roots: Gm7b5 is Bbm6 over G, Fm7 is Ab6 over F."""
    found = []
    for root in sorted(chord.pitch_classes - {chord.root}, key=lambda pc: (pc - chord.root) % 12):
        for suffix in _SECOND_NAMES:
            name = names[root] + suffix
            if root != chord.bass:
                name += f"/{names[chord.bass]}"
            other = parse_chord(name)
            if other.pitch_classes == chord.pitch_classes and len(other.labels) == len(chord.labels):
                found.append(other)
    return found


def _labels(suffix: str) -> tuple[str, ...] | None:
    """Tone labels of a quality suffix, or None where it can't be read."""
    rest = re.sub(r"[(),\s]", "", suffix).replace("♭", "b").replace("♯", "#")
    rest = re.sub(r"Δ(?!\d)", "maj7", rest).replace("Δ", "maj")
    third, fifth, seventh = "3", "5", ""
    more: list[str] = []
    minor = re.match(r"min|mi|m(?!a(?!dd))|-", rest)
    diminished = re.match(r"dim|°|o(?=7|$)", rest)
    half = re.match(r"ø", rest)
    augmented = re.match(r"aug|\+(?=7|$)", rest)
    if half:
        third, fifth, seventh, rest = "b3", "b5", "b7", rest[half.end() :].removeprefix("7")
    elif diminished:
        third, fifth, rest = "b3", "b5", rest[diminished.end() :]
        if rest.startswith("7"):
            seventh, rest = "bb7", rest[1:]
    elif augmented:
        fifth, rest = "#5", rest[augmented.end() :]
    elif minor:
        third, rest = "b3", rest[minor.end() :]

    while rest:
        part = _PART.match(rest)
        if part is None:
            return None
        rest = rest[part.end() :]
        if alteration := part["alteration"]:
            alteration = alteration.replace("+", "#").replace("-", "b")
            alteration = "#5" if alteration == "#" else alteration
            if alteration[1:] == "5":
                fifth = alteration
            else:
                more = [m for m in more if m != alteration[1:]] + [alteration]
        elif added := part["added"]:
            more.append({"2": "9", "4": "11"}.get(added, added))
        elif part["sus"]:
            third = "2" if part["sus"] == "sus2" else "4"
        elif part["altered"]:
            third, fifth, seventh, more = "3", "", "b7", ["b9", "#9", "b5", "#5"]
        elif left_out := part["left_out"]:
            third, fifth = ("", fifth) if left_out == "3" else (third, "")
        elif part["major"]:
            seventh = "7" if part["major_number"] or third == "b3" else seventh
            more += _EXTENSIONS.get(part["major_number"] or "7", ())
        elif part["sixnine"]:
            more += ["6", "9"]
        elif (number := part["number"]) == "6":
            more.append("6")
        elif number == "5":
            third = ""
        else:
            seventh = seventh or "b7"
            more += _EXTENSIONS[number]
    tones = ["R", third, fifth, seventh, *more]
    return tuple(dict.fromkeys(tone for tone in tones if tone))
