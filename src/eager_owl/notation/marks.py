"""How a note's fret and techniques are written in the field's common tab signs."""

from collections.abc import Iterable

from eager_owl.solo.document import Note
from eager_owl.solo.techniques import TECHNIQUES, Technique

_MUTED = "x"


def fret_text(note: Note) -> str:
    """A note as tab writes it, such as "8", "h10", "11b13r11~", "(5)", "<12>"."""
    if note.fret is None:
        return "?"
    named = sorted(note.techniques, key=lambda t: list(TECHNIQUES).index(t.name))
    text = bend_text(note.fret, note.bend) if note.bend else str(note.fret)
    text = _MUTED if note.muted else note.bracketed(text)
    before = "".join(_before(technique) for technique in named)
    after = "".join(technique.kind.after for technique in named if not technique.kind.bends)
    return before + text + after


def over_text(note: Note) -> str:
    """What stands over the staff at a note, such as "PM"."""
    return " ".join(technique.kind.over for technique in note.techniques if technique.kind.over)


def _before(technique: Technique) -> str:
    kind = technique.kind
    return kind.before_falling if technique.falls and kind.before_falling else kind.before


def bend_text(fret: int, bend: Technique) -> str:
    """A bend by the fret it sounds like: "11b13", "11b12½", "11b13r11"; a quarter step is "11b¼"."""
    quarters = round(2 * bend.bend_semitones)
    whole, half = divmod(2 * fret + quarters, 2)
    target = "¼" if quarters <= 1 else f"{whole}{'½' * half}"
    if bend.kind.struck_bent:
        released = f"r{fret}" if bend.kind.released else ""
        return f"({fret}b){target}{released}"
    return f"{fret}b{target}" + (f"r{fret}" if bend.kind.released else "")


def used_signs(notes: Iterable[Note]) -> list[str]:
    """The signs that these notes are written with, each with what it means."""
    placed = [note for note in notes if note.fret is not None]
    used = {technique.name for note in placed for technique in note.techniques}
    signs: dict[str, str] = {}
    for name, kind in TECHNIQUES.items():
        if name in used and kind.sign_words:
            sign = kind.before or kind.after or "".join(kind.around) or kind.over
            signs.setdefault(sign, kind.sign_words)
            if kind.released:
                signs.setdefault("r", "release to")
    if any(technique.falls and technique.kind.before_falling for note in placed for technique in note.techniques):
        signs.setdefault("\\", "slide down or away")
    if any(note.muted for note in placed):
        signs["x"] = "muted"
        if all(note.muted for note in placed if note.technique("ghost")):
            signs.pop("()", None)
    return [f"{sign} {words}" for sign, words in signs.items()]
