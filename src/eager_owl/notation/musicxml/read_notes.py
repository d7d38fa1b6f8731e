"""One note of MusicXML, and what else is gathered of a part, as the file has it."""

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from xml.etree.ElementTree import Element

from eager_owl.notation.imported import Complaints
from eager_owl.solo.document import PLUCKED, Stroke
from eager_owl.solo.techniques import Technique, TechniqueName
from eager_owl.theory.chord import Chord
from eager_owl.theory.pitch import NATURALS


@dataclass
class RawNote:
    """A note as the file has it: place and length in quarter notes."""

    at: Fraction
    length: Fraction
    pitch: int
    voice: str
    staff: str
    grace: bool
    tied_from: bool
    tied_on: bool
    string: int | None = None
    fret: int | None = None
    finger: int | None = None
    stroke: Stroke | None = None
    techniques: dict[TechniqueName, Technique] = field(default_factory=dict)
    muted: bool = False
    loud: float | None = None
    remark: str = ""


@dataclass
class Part:
    """What is gathered bar by bar."""

    notes: list[RawNote] = field(default_factory=list)
    chords: list[tuple[Fraction, Chord | None]] = field(default_factory=list)
    tempos: list[tuple[Fraction, float]] = field(default_factory=list)
    marks: list[tuple[Fraction, str, bool]] = field(default_factory=list)  # rehearsal marks, and whether of a section
    meters: list[tuple[Fraction, tuple[int, int]]] = field(default_factory=list)
    tuning: dict[int, int] = field(default_factory=dict)
    capo: int = 0
    key: str = ""
    swung: bool = False
    transpose: int = 0
    divisions: int = 1
    first_number: int = 1
    pickup: Fraction | None = None


def text_of(element: Element, path: str) -> str:
    """The text at a path, its spaces single; empty where there is none."""
    return " ".join((element.findtext(path) or "").split())


def number_of(element: Element, path: str, default: float) -> float:
    """A number in the file, or the default where it is none, or not finite."""
    try:
        value = float(element.findtext(path) or default)
    except ValueError:
        return default
    return value if abs(value) < 1e9 else default


def attribute_of(element: Element, name: str, default: float) -> float:
    """A number above 0 in an attribute, or the default where it is none."""
    try:
        value = float(element.get(name, default))
    except ValueError:
        return default
    return value if 0 < value < 1e6 else default


def bar_quarters(meter: tuple[int, int]) -> Fraction:
    """Quarter notes in a bar."""
    return Fraction(4 * meter[0], meter[1])


def pitch_of(element: Element, prefix: str = "") -> int | None:
    """The MIDI number that step, alter and octave say, or None."""
    step = text_of(element, f"{prefix}step").upper()
    if step not in NATURALS:
        return None
    return round(
        NATURALS[step] + number_of(element, f"{prefix}alter", 0) + 12 * (number_of(element, f"{prefix}octave", 4) + 1)
    )


def read_note(
    element: Element, at: Fraction, length: Fraction, part: Part, told: Complaints, where: str
) -> RawNote | None:
    """A note element, or None for a rest and what is left out."""
    pitch_element = element.find("pitch")
    if pitch_element is None:
        if element.find("unpitched") is not None:
            told.add("a note without pitch is left out", where)
        return None
    if element.find("cue") is not None:
        return None
    pitch = pitch_of(pitch_element)
    if pitch is None:
        told.add("a note whose pitch can't be read is left out", where)
        return None
    ties = {tie.get("type") for tie in element.iterfind("tie")}
    raw = RawNote(
        at,
        length,
        pitch + part.transpose,
        text_of(element, "voice"),
        text_of(element, "staff"),
        element.find("grace") is not None,
        "stop" in ties,
        "start" in ties,
        remark=text_of(element, "footnote"),
    )
    if (loud := element.get("dynamics")) is not None:
        raw.loud = attribute_of(element, "dynamics", float(loud == "0"))
    if (head := element.find("notehead")) is not None:
        raw.muted = (head.text or "").strip() == "x"
        if raw.muted or head.get("parentheses") == "yes":
            raw.techniques["ghost"] = Technique("ghost")
    if element.find("play/mute") is not None and text_of(element, "play/mute") == "palm":
        raw.techniques["palm_mute"] = Technique("palm_mute")
    for notations in element.iterfind("notations"):
        _read_notations(notations, raw)
    return raw


_BOWS: dict[str, Stroke] = {"down-bow": "down", "up-bow": "up"}
_PLUCKED: dict[str, Stroke] = {letter: stroke for stroke, letter in PLUCKED.items()}
_OTHERS: dict[str, TechniqueName] = {
    "rake": "rake", "palm mute": "palm_mute", "slide": "slide", "hammer-on": "hammer_on", "pull-off": "pull_off",
}  # fmt: skip


def _read_notations(notations: Element, raw: RawNote) -> None:
    def take(name: TechniqueName, **measured: float) -> None:
        raw.techniques[name] = Technique(name, **measured)

    for element in notations:
        if element.tag == "tied" and element.get("type") == "let-ring":
            take("let_ring")
        elif element.tag in ("slide", "glissando") and element.get("type") == "stop":
            take("slide")
        elif element.tag == "ornaments":
            if (trill := element.find("trill-mark")) is not None:
                take("trill", semitones=1.0 if trill.get("trill-step") == "half" else 2.0)
            if (any(line.get("type") == "start" for line in element.iterfind("wavy-line")) and trill is None) or (
                trill is not None and element.find("wavy-line[@type='stop']") is not None
            ):
                take("vibrato")
        elif element.tag == "articulations":
            for mark in element:
                if mark.tag in ("staccato", "staccatissimo"):
                    take("staccato")
                elif mark.tag in ("scoop", "plop"):
                    take("slide_in", semitones=2.0 if mark.tag == "scoop" else -2.0)
                elif mark.tag in ("doit", "falloff"):
                    take("slide_out", semitones=2.0 if mark.tag == "doit" else -2.0)
    for technical in notations.iterfind("technical"):
        _read_technical(technical, raw, take)


def _read_technical(technical: Element, raw: RawNote, take: Callable[..., None]) -> None:
    for element in technical:
        text = (element.text or "").strip()
        if element.tag in ("string", "fret") and text.isdecimal() and len(text) < 4:
            setattr(raw, element.tag, int(text))
        elif element.tag == "fingering" and text in ("0", "1", "2", "3", "4"):
            raw.finger = int(text)
        elif element.tag in _BOWS:
            raw.stroke = _BOWS[element.tag]
        elif element.tag == "pluck":
            raw.stroke = _PLUCKED.get(text, "finger")
        elif element.tag in ("hammer-on", "pull-off") and element.get("type") == "stop":
            take("hammer_on" if element.tag == "hammer-on" else "pull_off")
        elif element.tag == "harmonic":
            take("harmonic")
        elif element.tag == "tap":
            take("tap")
        elif element.tag == "other-technical" and text in _OTHERS:
            take(_OTHERS[text])
    barred = [bend for bend in technical.findall("bend") if bend.find("with-bar") is not None]
    depth = max((abs(number_of(bend, "bend-alter", 2.0)) for bend in barred), default=0.0)
    if 0 < depth <= 12:
        dipped = len(barred) > 1 or text_of(barred[0], "with-bar") == "dip"
        take("dip" if dipped else "dive", semitones=-depth)
    bends = [bend for bend in technical.findall("bend") if bend not in barred]
    if bends:
        sizes = [abs(number_of(bend, "bend-alter", 2.0)) for bend in bends]
        before = any(bend.find("pre-bend") is not None for bend in bends)
        released = any(bend.find("release") is not None for bend in bends)
        name = ("prebend_release" if released else "prebend") if before else "bend_release" if released else "bend"
        if 0 < max(sizes) <= 12:
            take(name, semitones=max(sizes))
