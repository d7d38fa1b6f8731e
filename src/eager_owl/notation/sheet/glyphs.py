"""The signs of the shipped music typeface that the page uses: code point, advance and box, in staff spaces.

Code points by SMuFL 1.4 (W3C Music Notation Community Group); measures from the metadata of Bravura 1.392. Boxes are
(left, bottom, right, top) around the origin, up being positive.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Sign:
    """One glyph."""

    code: int
    advance: float
    box: tuple[float, float, float, float]


SIGNS: dict[str, Sign] = {
    "noteheadBlack": Sign(0xE0A4, 1.18, (0.0, -0.5, 1.18, 0.5)),
    "noteheadHalf": Sign(0xE0A3, 1.18, (0.0, -0.5, 1.18, 0.5)),
    "noteheadWhole": Sign(0xE0A2, 1.69, (0.0, -0.5, 1.69, 0.5)),
    "noteheadXBlack": Sign(0xE0A9, 1.16, (0.0, -0.5, 1.16, 0.5)),
    "noteheadParenthesisLeft": Sign(0xE0F5, 0.29, (0.0, -0.72, 0.44, 0.72)),
    "noteheadParenthesisRight": Sign(0xE0F6, 0.29, (-0.14, -0.72, 0.29, 0.72)),
    "flag8thUp": Sign(0xE240, 1.06, (0.0, -3.24, 1.06, 0.04)),
    "flag8thDown": Sign(0xE241, 1.22, (0.0, -0.06, 1.22, 3.23)),
    "flag16thUp": Sign(0xE242, 1.12, (0.0, -3.25, 1.12, 0.01)),
    "flag16thDown": Sign(0xE243, 1.17, (-0.0, -0.04, 1.16, 3.25)),
    "flag32ndUp": Sign(0xE244, 1.05, (0.0, -3.25, 1.04, 0.6)),
    "flag32ndDown": Sign(0xE245, 1.1, (0.0, -0.69, 1.09, 3.25)),
    "restWhole": Sign(0xE4E3, 1.13, (0.0, -0.54, 1.13, 0.04)),
    "restHalf": Sign(0xE4E4, 1.13, (0.0, -0.01, 1.13, 0.57)),
    "restQuarter": Sign(0xE4E5, 1.08, (0.0, -1.5, 1.08, 1.49)),
    "rest8th": Sign(0xE4E6, 1.0, (0.0, -1.0, 0.99, 0.7)),
    "rest16th": Sign(0xE4E7, 1.28, (0.0, -2.0, 1.28, 0.72)),
    "rest32nd": Sign(0xE4E8, 1.45, (0.0, -2.0, 1.45, 1.7)),
    "gClef8vb": Sign(0xE052, 2.66, (0.0, -3.51, 2.68, 4.39)),
    "accidentalFlat": Sign(0xE260, 0.9, (0.0, -0.7, 0.9, 1.76)),
    "accidentalNatural": Sign(0xE261, 0.67, (0.0, -1.34, 0.67, 1.36)),
    "accidentalSharp": Sign(0xE262, 1.0, (0.0, -1.39, 1.0, 1.4)),
    "augmentationDot": Sign(0xE1E7, 0.4, (0.0, -0.2, 0.4, 0.2)),
    "stringsDownBow": Sign(0xE610, 1.25, (0.0, 0.0, 1.25, 1.27)),
    "stringsUpBow": Sign(0xE612, 1.0, (0.0, 0.0, 1.0, 1.98)),
    "dynamicPP": Sign(0xE52B, 2.91, (-0.33, -0.57, 2.91, 1.1)),
    "dynamicPiano": Sign(0xE520, 1.46, (-0.36, -0.57, 1.46, 1.1)),
    "dynamicMP": Sign(0xE52C, 3.3, (-0.08, -0.57, 3.3, 1.1)),
    "dynamicMF": Sign(0xE52D, 3.19, (-0.08, -0.66, 3.27, 1.72)),
    "dynamicForte": Sign(0xE522, 1.46, (-0.56, -0.61, 1.46, 1.78)),
    "ornamentTrill": Sign(0xE566, 2.08, (0.0, -0.04, 2.08, 1.56)),
    "wiggleTrill": Sign(0xEAA4, 0.95, (-0.14, 0.39, 1.08, 0.84)),
    "articStaccatoAbove": Sign(0xE4A2, 0.34, (0.0, 0.0, 0.34, 0.34)),
    "timeSig0": Sign(0xE080, 1.88, (0.08, -1.0, 1.8, 1.0)),
    "timeSig1": Sign(0xE081, 1.34, (0.08, -1.0, 1.26, 1.0)),
    "timeSig2": Sign(0xE082, 1.78, (0.08, -1.03, 1.7, 1.02)),
    "timeSig3": Sign(0xE083, 1.68, (0.08, -1.0, 1.6, 1.0)),
    "timeSig4": Sign(0xE084, 1.88, (0.08, -1.0, 1.8, 1.0)),
    "timeSig5": Sign(0xE085, 1.61, (0.08, -1.0, 1.53, 0.98)),
    "timeSig6": Sign(0xE086, 1.74, (0.08, -1.0, 1.66, 1.0)),
    "timeSig7": Sign(0xE087, 1.76, (0.08, -1.0, 1.68, 1.0)),
    "timeSig8": Sign(0xE088, 1.74, (0.08, -1.04, 1.66, 1.04)),
    "timeSig9": Sign(0xE089, 1.74, (0.08, -1.0, 1.66, 1.0)),
}
