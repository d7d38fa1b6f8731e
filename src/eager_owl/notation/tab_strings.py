"""One string of a text tab, read sign by sign: fret numbers, what joins them, what is hung on them."""

import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from eager_owl.solo.techniques import Technique, TechniqueName

# Signs between two notes join them if no more dashes than these lie between the sign and either.
_NEAR = 2
_JOINING: dict[str, TechniqueName] = {"h": "hammer_on", "p": "pull_off", "t": "tap", "g": "grace"}
_SIZES = {
    "full": 2.0,
    "1/2": 1.0,
    "½": 1.0,
    "1/4": 0.5,
    "¼": 0.5,
    "3/4": 1.5,
    "¾": 1.5,
    "1½": 3.0,
    "1": 2.0,
    "2": 4.0,
}
_BEND = re.compile(r"\(?(full|1/2|1/4|3/4|[½¼¾]|\d{1,2}[½]?)?\)?", re.IGNORECASE)
_RELEASE = re.compile(r"r\(?\d{0,2}\)?", re.IGNORECASE)


@dataclass
class Struck:
    """A note as typed: its column, fret (None: muted), and what is said of it."""

    column: int
    fret: int | None
    techniques: dict[TechniqueName, Technique] = field(default_factory=dict)

    def give(self, name: TechniqueName, semitones: float | None = None) -> None:
        """Hang a technique on it."""
        self.techniques[name] = Technique(name, semitones)


def read_string(text: str, unknown: Callable[[int, str], object]) -> list[Struck]:
    """The notes of one string between two bar lines; what is not known is told by its column and sign."""
    return _Scanner(text, unknown).read()


class _Scanner:
    """Goes along a string's signs."""

    def __init__(self, text: str, unknown: Callable[[int, str], object]) -> None:
        self._text, self._unknown = text, unknown
        self._at = 0
        self._notes: list[Struck] = []
        self._joining: tuple[str, int] | None = None  # the sign before the next note, and its column
        self._ended = -9  # the column after the last note's own signs

    def read(self) -> list[Struck]:
        text = self._text
        while self._at < len(text):
            sign = text[self._at]
            if sign.isdecimal() or sign in "([<{":
                self._number()
            elif sign in "xX":
                self._add(Struck(self._at, None))
                self._at += 1
            elif sign in "hHpPtTgG/\\sS":
                self._join(sign)
            else:
                self._hang(sign)
        self._slid_away()
        return self._notes

    def _number(self) -> None:
        """A fret number, bare or in brackets, with its bend."""
        start = self._at
        match = re.compile(r"([(\[<{]?)(\d{1,2}|[xX])").match(self._text, start)
        if match is None:
            self._hang(self._text[start])
            return
        bracket, fret = match.groups()
        self._at = match.end()
        note = Struck(start, int(fret) if fret.isdecimal() else None)
        if self._text[self._at : self._at + 1] in ("b", "B", "^"):
            self._bend(note, struck_bent=bracket == "(")
        closing = {"(": ")", "[": "]", "<": ">", "{": "}"}.get(bracket)
        if closing and self._text[self._at : self._at + 1] == closing:
            self._at += 1
        if bracket == "(" and "prebend" not in note.techniques and "prebend_release" not in note.techniques:
            note.give("ghost")
        elif bracket in ("[", "<"):
            note.give("harmonic")
        if bracket == "(" and self._text[self._at : self._at + 1].isdecimal() and "prebend" in note.techniques:
            self._target(note, "prebend")  # "(11b)13r11"
            self._released(note, "prebend_release")
        self._add(note)
        self._ended = self._at

    def _bend(self, note: Struck, struck_bent: bool = False) -> None:
        self._at += 1
        name: TechniqueName = "prebend" if struck_bent else "bend"
        note.give(name)
        self._target(note, name)
        self._released(note, "prebend_release" if struck_bent else "bend_release")

    def _target(self, note: Struck, name: TechniqueName) -> None:
        """How far a bend goes: by the fret it sounds like, or by its size."""
        match = _BEND.match(self._text, self._at)
        said = (match[1] or "") if match else ""
        if match is None or not said:
            return
        opened = match[0].startswith("(")
        if opened != match[0].endswith(")"):
            self._at = match.end() - (match[0].endswith(")") and not opened)
        else:
            self._at = match.end()
        if said[0].isdecimal() and "/" not in said and note.fret is not None:
            way = int(re.match(r"\d+", said)[0]) - note.fret + (0.5 if said.endswith("½") else 0.0)  # type: ignore[index]
            if 0 < way <= 6:
                note.give(name, way)
                return
        if (size := _SIZES.get(said.lower())) is not None:
            note.give(name, size)
        else:
            self._unknown(note.column, f"a bend to {said}")

    def _released(self, note: Struck, name: TechniqueName) -> None:
        match = _RELEASE.match(self._text, self._at)
        if match is None:
            return
        self._at = match.end()
        bend = note.techniques.pop("prebend", None) or note.techniques.pop("bend", None)
        note.give(name, bend.semitones if bend else None)

    def _join(self, sign: str) -> None:
        """A sign that belongs to the note that follows, or a slide away from the one before."""
        if sign in "tT" and self._text[self._at : self._at + 2].lower() == "tr":
            if self._notes:
                self._notes[-1].give("trill")
            self._at += 2
            return
        self._slid_away()
        self._joining = (sign.lower(), self._at)
        self._at += 1

    def _add(self, note: Struck) -> None:
        if self._joining is not None:
            sign, column = self._joining
            self._joining = None
            if column > self._ended and note.column - column <= _NEAR:
                note = replace(note, column=column)  # the sign stands where the note is struck
            before = self._notes[-1] if self._notes and column - self._ended <= _NEAR else None
            after = note.column - column <= _NEAR + 1
            if sign in "/\\s" and before is not None and after:
                way = (note.fret or 0) - (before.fret or 0)
                note.give("slide", float(way) or None)
            elif sign in "/\\s" and after:
                note.give("slide_in", -2.0 if sign == "\\" else 2.0)
            elif sign in "/\\s" and before is not None:
                before.give("slide_out", 2.0 if sign == "/" else -2.0)
            elif sign in _JOINING:
                note.give(_JOINING[sign])
        if note.fret is None:
            note.give("ghost")
        self._notes.append(note)
        self._ended = self._at + (1 if note.fret is None else 0)

    def _slid_away(self) -> None:
        """A slide that no note followed."""
        if self._joining is not None and self._joining[0] in "/\\" and self._notes:
            self._notes[-1].give("slide_out", 2.0 if self._joining[0] == "/" else -2.0)
        self._joining = None

    def _hang(self, sign: str) -> None:
        """A sign after a note: vibrato, cut short, harmonic; dashes and spaces are time."""
        last = self._notes[-1] if self._notes else None
        if sign in "~vVwW" and last is not None:
            last.give("vibrato")
            self._ended = self._at + 1
        elif sign == "." and last is not None and self._at == self._ended:
            last.give("staccato")
        elif sign == "*" and last is not None and self._at == self._ended:
            last.give("harmonic")
        elif sign in "bB^" and last is not None:
            self._bend(last)
            self._ended = self._at
            return
        elif sign in "rR" and last is not None and ("bend" in last.techniques or "prebend" in last.techniques):
            self._released(last, "prebend_release" if "prebend" in last.techniques else "bend_release")
            self._ended = self._at
            return
        elif sign not in "-= .*:)]>}~_+'`":
            self._unknown(self._at, sign)
        self._at += 1
