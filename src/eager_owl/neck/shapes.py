"""What lies under a hand: the position's name, a pentatonic box, a root cell, an arpeggio or chord shape."""

from collections.abc import Iterable, Sequence
from functools import lru_cache

from eager_owl.solo.document import Instrument, Note, struck_together
from eager_owl.theory.interval import step_words
from eager_owl.theory.pitch import FLAT_NAMES, Names

Spot = tuple[int, int]  # string, fret

PENTATONIC = (0, 3, 5, 7, 10)
# Semitones over a root, from the plainest chord on: the first that holds all pitch classes of a shape names it.
_ARPEGGIOS = {
    "minor": (0, 3, 7), "major": (0, 4, 7), "diminished": (0, 3, 6), "augmented": (0, 4, 8), "m7": (0, 3, 7, 10),
    "7": (0, 4, 7, 10), "maj7": (0, 4, 7, 11), "m7b5": (0, 3, 6, 10), "m6": (0, 3, 7, 9), "6": (0, 4, 7, 9),
    "dim7": (0, 3, 6, 9), "m(maj7)": (0, 3, 7, 11),
}  # fmt: skip
# A box or cell is named where this share of a stand's notes lie in it.
_SHARE = 0.75
_FEWEST = 3


def position_name(fret: int) -> str:
    """The position by the fret of the index finger: "3rd position"."""
    ending = "th" if 10 < fret % 100 < 14 else {1: "st", 2: "nd", 3: "rd"}.get(fret % 10, "th")
    return f"{fret}{ending} position"


@lru_cache(maxsize=512)
def pentatonic_box(root: int, number: int, instrument: Instrument) -> frozenset[Spot]:
    """The spots of a box, 1 to 5, of the minor pentatonic on a root, wherever it lies on the neck.

    Two notes a string, from the scale's number-th note on the thickest string up.
    """
    thickest = instrument.tuning[-1]
    step = PENTATONIC[number - 1]
    spots: set[Spot] = set()
    for start in range(-12, instrument.frets + 1):
        if (thickest + start - root) % 12 != step:
            continue
        ladder = [p for p in range(thickest + start, thickest + start + 72) if (p - root) % 12 in PENTATONIC]
        for i, pitch in enumerate(ladder[: 2 * len(instrument.tuning)]):
            string = len(instrument.tuning) - i // 2
            fret = instrument.fret_of(string, pitch)
            if fret is not None:
                spots.add((string, fret))
    return frozenset(spots)


def root_cells(root: int, instrument: Instrument) -> list[tuple[Spot, frozenset[Spot]]]:
    """Each root on the neck with its cell: the flat seven below it, flat three and four on the next string."""
    cells = []
    for string in range(2, len(instrument.tuning) + 1):
        for fret in range(instrument.capo, instrument.frets + 1):
            pitch = instrument.tuning[string - 1] + fret
            if (pitch - root) % 12:
                continue
            own, across = ((string, pitch - 2), (string, pitch)), ((string - 1, pitch + 3), (string - 1, pitch + 5))
            spots = {(s, f) for s, p in (*own, *across) if (f := instrument.fret_of(s, p)) is not None}
            if len(spots) == 4:
                cells.append(((string, fret), frozenset(spots)))
    return sorted(cells, key=lambda cell: cell[0][1])


def arpeggio_name(pitches: Iterable[int], names: Names = FLAT_NAMES) -> str:
    """The chord of which all pitches are tones and which has no other, such as "Fm7", or nothing."""
    classes = {pitch % 12 for pitch in pitches}
    lowest = min(pitches, default=0) % 12
    for root in sorted(classes, key=lambda pc: (pc - lowest) % 12):
        for name, steps in _ARPEGGIOS.items():
            if {(root + step) % 12 for step in steps} == classes:
                return names[root] + {"minor": "m", "major": ""}.get(name, name)
    return ""


def shape_words(
    notes: Sequence[Note],
    root: int | None,
    instrument: Instrument,
    before: Sequence[Note] = (),
    names: Names = FLAT_NAMES,
) -> str:
    """What the placed notes of one stand of the hand lie in: "box 1 of A minor pentatonic", "root cell at fret 10".

    `root` is the minor pentatonic home's pitch class; `before` the notes of the stand before, so that a root cell can
    be told as the octave copy of one just played. Empty where nothing fits.
    """
    if len(set(_spots(notes))) < _FEWEST:
        return ""
    if chord := arpeggio_name([n.pitch for n in notes], names):
        together = max(len(stroke) for stroke in struck_together(notes))
        return f"{chord} chord" if together >= _FEWEST else f"{chord} arpeggio"
    if root is None:
        return ""
    if cell := cell_under(notes, root, instrument):
        words = f"root cell of {names[root % 12]} at fret {cell[1]}"
        last = cell_under(before, root, instrument)
        apart = _pitch(cell, instrument) - _pitch(last, instrument) if last else 0
        return f"{words}, {step_words(apart)} from the one at fret {last[1]}" if last and apart else words
    spots = _spots(notes)
    shares = {number: _within(spots, pentatonic_box(root, number, instrument)) for number in range(1, 6)}
    best = max(shares, key=lambda number: shares[number])
    return f"box {best} of {names[root % 12]} minor pentatonic" if shares[best] >= _SHARE else ""


def cell_under(notes: Sequence[Note], root: int, instrument: Instrument) -> Spot | None:
    """The place of the root whose cell the notes lie in: the root itself is played, and the next string too."""
    spots = _spots(notes)
    places = set(spots)
    for (string, fret), cell in root_cells(root, instrument):
        crossed = any(s == string - 1 for s, _ in places)
        if (string, fret) in places and crossed and _within(spots, cell) >= _SHARE:
            return string, fret
    return None


def _spots(notes: Sequence[Note]) -> list[Spot]:
    return [(n.string, n.fret) for n in notes if n.string is not None and n.fret is not None]


def _pitch(spot: Spot, instrument: Instrument) -> int:
    return instrument.tuning[spot[0] - 1] + spot[1]


def _within(spots: Sequence[Spot], shape: frozenset[Spot]) -> float:
    return sum(spot in shape for spot in spots) / len(spots)
