"""The lines of a text tab gathered into systems: which lines are strings, what stands over them."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from eager_owl.notation.imported import Complaints
from eager_owl.theory.chord import parse_chord

_LABELLED = re.compile(r"^\s*\[?([A-Ga-g][#b♯♭]?|[1-8])?\]?\s*(\d?)\s*(?=[|:\-])[|:\s]*")
# What is no sign of a tab; a few of them do not make a line another thing.
_STRANGE = re.compile(r"[^\-\s\dhHpPsSbBrRtTgGvVwWxX/\\~^()<>\[\]{}*=|:.½¼¾fuloO+'`]")
_STRANGE_SHARE = 0.08
# Lines without bar lines in them are one bar if they are no longer.
_ONE_BAR_COLUMNS = 40
_BAR_DIGITS = 5
NAMED = re.compile(
    r"^\s*(?:\[(?P<bracket>[^\]]{1,60})\]|(?P<number>\d{1,2})\s+(?P<name>[A-Za-z][^|]{0,58}))\s*:?\s*$"
)


@dataclass
class System:
    """Lines that stand under one another, thinnest string first, and what stands over them."""

    labels: list[str]
    bodies: list[str]
    margin: int
    first_line: int
    barred: bool = False  # whether it has bar lines, or is one short bar between two
    name: str = ""
    over: list[str] = field(default_factory=list)


def find_systems(lines: Sequence[str], told: Complaints) -> tuple[list[System], list[str]]:
    """Systems, with the lines over each; and all the lines that are not of one."""
    systems: list[System] = []
    rest: list[str] = []
    over: list[str] = []
    index = 0
    while index < len(lines):
        end = index
        while end < len(lines) and _is_tab(lines[end]):
            end += 1
        count = end - index
        if 4 <= count <= 8:
            systems.append(_system(lines[index:end], index + 1, over))
            over = []
        elif count > 8:
            for start in range(index, end, 6):
                if end - start >= 6:
                    systems.append(_system(lines[start : start + 6], start + 1, over))
                    over = []
        elif count:
            told.add("too few lines of tab together to be strings", f"line {index + 1}")
        if count:
            index = end
            continue
        line = lines[index]
        rest.append(line)
        if not line.strip():
            over = over[-3:] if over else []
        over.append(line)
        index += 1
    return systems, rest


def _is_tab(line: str) -> bool:
    match = _LABELLED.match(line)
    if match is None or not line.strip():
        return False
    body = re.split(r"\s{2,}(?=[A-Za-z])|\s[xX]\d\s*$", line[match.end() :])[0]
    signs = body.count("-") + sum(sign.isdigit() for sign in body)
    strange = len(_STRANGE.findall(body))
    if signs < 3 or strange > _STRANGE_SHARE * len(body) + 1:
        return False
    return body.count("-") >= 3 and signs >= 0.5 * len(body.replace(" ", ""))


def _system(lines: Sequence[str], first_line: int, over: Sequence[str]) -> System:
    labels, bodies, margin = [], [], 0
    for line in lines:
        match = _LABELLED.match(line)
        assert match is not None
        labels.append(match[1] or "")
        margin = max(margin, match.end())
        body = re.split(r"\s{2,}(?=[A-Za-z])|\s[xX]\d\s*$", line[match.end() :])[0].rstrip()
        bodies.append(body.rstrip("|").rstrip() if body.endswith("|") and not body.endswith(":|") else body)
    named = next((m for line in reversed(over) if (m := NAMED.match(line)) and not chords_in(line)), None)
    name = (named["bracket"] or named["name"] or "").strip() if named else ""
    barred = any("|" in body.strip("| ") for body in bodies)
    drawn = all("|" in line for line in lines)
    barred |= drawn and max(map(len, bodies)) <= _ONE_BAR_COLUMNS
    over_lines = [line for line in over if line.strip()][-3:]
    if _low_first(labels):
        labels.reverse()
        bodies.reverse()
    return System(labels, bodies, margin, first_line, barred, name, over_lines)


def _low_first(labels: Sequence[str]) -> bool:
    """Whether the thickest string is on top: a small e below, or the low strings' order of letters."""
    if labels[0] == "E" and labels[-1] == "e":
        return True
    return (
        [label.upper() for label in labels] in (list("EADGBE"), list("EADG"), list("BEADGBE"))
        and labels[0] != "e"
        and (labels[1].upper() == "A")
    )


def is_bar_number(word: str) -> bool:
    """Whether a word is a number that a bar can have."""
    return word.isdecimal() and len(word) <= _BAR_DIGITS


def chords_in(line: str) -> list[tuple[int, str]]:
    """(column, word) of a line of nothing but chords and bar numbers; empty for any other."""
    words = [(match.start(), match[0]) for match in re.finditer(r"[^\s|]+", line)]
    chords = numbers = 0
    for _, word in words:
        if is_bar_number(word) or word == "pickup":
            numbers += 1
            continue
        if word.upper() not in ("N.C.", "NC", "%"):
            try:
                parse_chord(word)
            except ValueError:
                return []
        chords += 1
    return words if chords or numbers > 1 else []
