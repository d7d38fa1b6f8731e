"""How a note's fret and techniques are written in the field's common tab signs."""

from eager_owl.solo.document import Note, Technique

MARKS = {
    "h": "hammer-on", "p": "pull-off", "/": "slide up", "\\": "slide down", "b": "bend up to",
    "r": "release to", "~": "vibrato", "tr": "trill", "x": "muted", "()": "ghost note", ".": "cut short",
}  # fmt: skip


def fret_text(note: Note) -> str:
    """A note as tab writes it, such as "8", "h10", "11b13r11~", "(5)"."""
    if note.fret is None:
        return "?"
    fret = str(note.fret)
    bend = note.bend
    if bend:
        fret = bend_text(note.fret, bend)
    if note.technique("ghost"):
        fret = "x" if note.muted else f"({fret})"
    slide = note.technique("slide", "slide_in")
    before = ""
    if slide:
        before = "\\" if (slide.semitones or 0) < 0 else "/"
    elif note.technique("hammer_on", "tap"):
        before = "h"
    elif note.technique("pull_off"):
        before = "p"
    after = "tr" if note.technique("trill") else ""
    after += "~" if note.technique("vibrato") else ""
    after += "." if note.technique("staccato") else ""
    after += "\\" if note.technique("slide_out") else ""
    return before + fret + after


def bend_text(fret: int, bend: Technique) -> str:
    """A bend by the fret it sounds like: "11b13", "11b13r11"; a quarter step is "11b¼"."""
    steps = bend.semitones or 0.0
    target = "¼" if steps < 0.75 else str(fret + round(steps))
    if bend.name == "prebend":
        return f"({target}){fret}" if target == "¼" else f"({fret}b){target}"
    if bend.name == "prebend_release":
        return f"({fret}b){target}r{fret}"
    return f"{fret}b{target}" + (f"r{fret}" if bend.name == "bend_release" else "")


def bend_words(semitones: float) -> str:
    """The size of a bend as one says it."""
    quarters = round(semitones * 2)
    names = {1: "quarter-step", 2: "half-step", 3: "three-quarter", 4: "whole-step", 6: "step-and-a-half"}
    return names.get(quarters) or f"{semitones:.1f}-semitone"
