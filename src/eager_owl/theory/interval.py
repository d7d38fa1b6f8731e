"""Names of intervals above a root: "R", "b3", "5", "#9"."""

PLAIN = ("R", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")

_WORDS = {
    "R": "root", "2": "second", "3": "third", "4": "fourth", "5": "fifth", "6": "sixth", "7": "seventh",
    "9": "ninth", "11": "eleventh", "13": "thirteenth",
}  # fmt: skip


def interval_name(pitch: int, root: int) -> str:
    """Plain name of the interval from a root (pitch or pitch class) up to a pitch, within the octave."""
    return PLAIN[(pitch - root) % 12]


def interval_words(name: str) -> str:
    """The name as one says it: "b5" is "flat five", "3" is "third"."""
    numbers = {"2": "two", "3": "three", "4": "four", "5": "five", "6": "six", "7": "seven", "9": "nine"}
    numbers |= {"11": "eleven", "13": "thirteen"}
    if name[:1] in "b#" and name[1:] in numbers:
        return f"{'flat' if name[0] == 'b' else 'sharp'} {numbers[name[1:]]}"
    return _WORDS.get(name, name)
