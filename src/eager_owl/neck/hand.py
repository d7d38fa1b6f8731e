"""The hand on the neck: distances in mm, how far two fingers reach, and what each demand on a hand costs.

Fret n lies scale * (1 - 2 ** (-n / 12)) from the nut (twelfth root of two). How far apart two fingers lie at
ease, comfortably and at most is taken from R. Parncutt, J. Sloboda, E. Clarke, M. Raekallio and P. Desain, "An
ergonomic model of keyboard fingering for melodic fragments", Music Perception 14(4), 1997, table 1: spans of a
right hand on the piano in semitones, of 13.7 mm each. Their fingers 2 to 5 are a guitarist's 1 to 4.
"""

from dataclasses import dataclass

from eager_owl.solo.document import fret_mm

SEMITONE_ON_PIANO_MM = 13.7

# (finger, higher finger): semitones on the piano at ease, comfortable, at most.
_SPANS = {
    (1, 2): (2, 3, 5), (1, 3): (4, 5, 7), (1, 4): (6, 8, 10),
    (2, 3): (2, 2, 4), (2, 4): (4, 5, 7), (3, 4): (2, 3, 5),
}  # fmt: skip


@dataclass(frozen=True)
class Reach:
    """How far apart two fingers lie, in mm: at ease, comfortably, at most."""

    ease_mm: float
    comfort_mm: float
    most_mm: float


REACHES: dict[tuple[int, int], Reach] = {
    fingers: Reach(*(SEMITONE_ON_PIANO_MM * semitones for semitones in spans)) for fingers, spans in _SPANS.items()
}
# Index to little finger: 110 mm. At a 648 mm scale frets 1 to 5 lie 126 mm apart, 5 to 9 lie 100 mm.
COMFORT_MM = round(REACHES[1, 4].comfort_mm)


def reach_mm(low_fret: int, high_fret: int, scale_mm: float) -> float:
    """Distance between two fretting fingers, each just behind its fret, in mm."""
    return fret_mm(high_fret, scale_mm) - fret_mm(low_fret, scale_mm)
