"""Names of intervals above a root: "R", "b3", "5", "#9"."""

from functools import cache

from eager_owl.theory.pitch import FLAT_NAMES, NATURALS, SHARP_NAMES, Names, parse_pitch_class

_LETTERS = "CDEFGAB"
PLAIN = ("R", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")

_WORDS = {
    "R": "root", "2": "second", "3": "third", "4": "fourth", "5": "fifth", "6": "sixth", "7": "seventh",
    "9": "ninth", "11": "eleventh", "13": "thirteenth",
}  # fmt: skip


def interval_name(pitch: int, root: int) -> str:
    """Plain name of the interval from a root (pitch or pitch class) up to a pitch, within the octave."""
    return PLAIN[(pitch - root) % 12]


@cache
def names_above(root: str) -> Names:
    """The twelve pitch classes spelled by their degrees above a root, so that the seventh above A is G#.

    No name has more than one accidental, nor is it E#, B#, Cb or Fb. Raises ValueError for no note name.
    """
    names = list(FLAT_NAMES)
    for step, label in enumerate(PLAIN):
        pitch_class = (parse_pitch_class(root) + step) % 12
        degree = 0 if label == "R" else int(label.removeprefix("b")) - 1
        letter = _LETTERS[(_LETTERS.index(root[0]) + degree) % 7]
        if (pitch_class - NATURALS[letter] + 6) % 12 > 6:
            names[pitch_class] = SHARP_NAMES[pitch_class]
    return tuple(names)


def interval_words(name: str) -> str:
    """The name as one says it: "b5" is "flat five", "3" is "third"."""
    numbers = {"2": "two", "3": "three", "4": "four", "5": "five", "6": "six", "7": "seven", "9": "nine"}
    numbers |= {"11": "eleven", "13": "thirteen"}
    if name[:1] in "b#" and name[1:] in numbers:
        return f"{'flat' if name[0] == 'b' else 'sharp'} {numbers[name[1:]]}"
    return _WORDS.get(name, name)


_STEPS = (
    "at the same pitch", "a half step", "a whole step", "a minor third", "a major third", "a fourth", "a tritone",
    "a fifth", "a minor sixth", "a major sixth", "a minor seventh", "a major seventh",
)  # fmt: skip


def step_words(semitones: int) -> str:
    """How far a move goes: "a whole step up", "an octave and a fourth down"."""
    octaves, rest = divmod(abs(semitones), 12)
    way = "up" if semitones > 0 else "down"
    whole = {0: "", 1: "an octave"}.get(octaves, f"{octaves} octaves")
    if rest == 0:
        return f"{whole} {way}" if octaves else _STEPS[0]
    return f"{whole} and {_STEPS[rest]} {way}" if octaves else f"{_STEPS[rest]} {way}"
