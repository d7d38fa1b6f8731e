"""The one table of techniques: what each is called, how tab writes it, what it does to the pitch and to the sound.

The desk, the tab, the picking, the reasons and the synthesiser all read it; a new technique is a name and a row.
"""

from dataclasses import dataclass
from typing import Literal

TechniqueName = Literal[
    "bend", "bend_release", "prebend", "prebend_release", "vibrato", "slide", "slide_in", "slide_out",
    "hammer_on", "pull_off", "trill", "grace", "ghost", "rake", "staccato", "palm_mute", "double_stop",
    "let_ring", "harmonic", "tap", "dip", "dive",
]  # fmt: skip

# How a note may have been played: by a technique, or plainly picked.
Manner = TechniqueName | Literal["picked"]

# Where a bend goes that somebody named without a size: a whole step, the commonest.
UNSIZED_BEND_SEMITONES = 2.0


@dataclass(frozen=True)
class Technique:
    """A technique with what was measured of it; fields that do not apply are None.

    `semitones` of a bend or slide (how far, signed for slides; down for a dip or dive of the bar), `rise_s` and
    `release_s` of these (of a dip the way down and the way back), `rate_hz` and `extent_cents` (peak above the mean)
    of a vibrato or rate of a trill, `ratio` of a staccato: the share of the time to the next note that it sounds for.
    """

    name: TechniqueName
    semitones: float | None = None
    rise_s: float | None = None
    release_s: float | None = None
    rate_hz: float | None = None
    extent_cents: float | None = None
    ratio: float | None = None

    @property
    def kind(self) -> "TechniqueKind":
        """Its row in the table."""
        return TECHNIQUES[self.name]

    @property
    def bend_semitones(self) -> float:
        """How far a bend goes, sized or not."""
        return UNSIZED_BEND_SEMITONES if self.semitones is None else self.semitones

    @property
    def falls(self) -> bool:
        """Whether a slide comes from above, or one away goes down."""
        return self.semitones is not None and self.semitones < 0


@dataclass(frozen=True)
class TechniqueKind:
    """A row: `words` for the screen; signs in tab; what it is; how the synthesiser plays it.

    `before` and `after` stand beside the fret number (`before_falling` where it comes from above), `around` encloses
    it, `over` stands over the staff; `sign_words` say in a tab's legend what the sign means. A `legato` note goes on
    from the one before without a stroke. `bends` leave the fret; some are `struck_bent`, some `released`.

    The synthesiser: `decay_s` in which a partial falls to 1/e and `damping_s` in which the note is stopped, where
    they are not a plain note's; `muffled` times as fast as its own decay each higher partial dies; `rings_s` that it
    sounds past its end; `pure` leaves it the lowest partials only; `scraped` muted strings are struck before it.
    """

    words: str
    before: str = ""
    before_falling: str = ""
    after: str = ""
    around: tuple[str, str] = ("", "")
    over: str = ""
    sign_words: str = ""
    legato: bool = False
    bends: bool = False
    struck_bent: bool = False
    released: bool = False
    decay_s: float | None = None
    damping_s: float | None = None
    muffled: float = 1.0
    rings_s: float = 0.0
    pure: bool = False
    scraped: int = 0


# Signs after a fret number stand in the order of the rows.
TECHNIQUES: dict[TechniqueName, TechniqueKind] = {
    "bend": TechniqueKind("bend", after="b", sign_words="bend up to", bends=True),
    "bend_release": TechniqueKind("bend and release", after="b", sign_words="bend up to", bends=True, released=True),
    "prebend": TechniqueKind(
        "bent before it is struck", after="b", sign_words="bend up to", bends=True, struck_bent=True
    ),
    "prebend_release": TechniqueKind(
        "struck bent, then let down", after="b", sign_words="bend up to", bends=True, struck_bent=True, released=True
    ),
    "slide": TechniqueKind("slide", before="/", before_falling="\\", sign_words="slide up or into", legato=True),
    "slide_in": TechniqueKind("slide from below", before="/", before_falling="\\", sign_words="slide up or into"),
    "hammer_on": TechniqueKind("hammer-on", before="h", sign_words="hammer-on", legato=True),
    "pull_off": TechniqueKind("pull-off", before="p", sign_words="pull-off", legato=True),
    "tap": TechniqueKind("tapped", before="t", sign_words="tapped", legato=True),
    "grace": TechniqueKind("grace note", before="g", sign_words="grace note"),
    "ghost": TechniqueKind("ghost note", around=("(", ")"), sign_words="ghost note", decay_s=0.035),
    "harmonic": TechniqueKind("harmonic", around=("<", ">"), sign_words="harmonic", pure=True),
    "trill": TechniqueKind("trill", after="tr", sign_words="trill"),
    "vibrato": TechniqueKind("vibrato", after="~", sign_words="vibrato"),
    "staccato": TechniqueKind("cut short", after=".", sign_words="cut short", damping_s=0.05),
    "slide_out": TechniqueKind("slide away", after="\\", sign_words="slide down or away"),
    "rake": TechniqueKind("rake", over="rake", sign_words="muted strings raked into the note", scraped=2),
    "palm_mute": TechniqueKind("palm-muted", over="PM", sign_words="palm-muted", decay_s=0.16, muffled=1.8),
    "let_ring": TechniqueKind("let ring", over="ring", sign_words="let ring", rings_s=1.2),
    "dip": TechniqueKind("dip of the bar", over="dip", sign_words="dipped with the whammy bar"),
    "dive": TechniqueKind("dive of the bar", over="dive", sign_words="let down with the whammy bar"),
    "double_stop": TechniqueKind("double stop"),  # the numbers over one another say it
}

BENDS: tuple[TechniqueName, ...] = tuple(name for name, kind in TECHNIQUES.items() if kind.bends)
LEGATO: tuple[TechniqueName, ...] = tuple(name for name, kind in TECHNIQUES.items() if kind.legato)


def manner_words(manner: Manner) -> str:
    """A manner of playing as one says it."""
    if manner == "picked":
        return "picked"
    return "with vibrato" if manner == "vibrato" else TECHNIQUES[manner].words


def bend_words(semitones: float) -> str:
    """The size of a bend as one says it."""
    quarters = round(semitones * 2)
    names = {
        1: "quarter-step", 2: "half-step", 3: "three-quarter-step", 4: "whole-step", 5: "step-and-a-quarter",
        6: "step-and-a-half", 8: "two-step",
    }  # fmt: skip
    return names.get(quarters) or f"{semitones:.1f}-semitone"
