"""The hand on the neck: distances in mm, and what each demand on it costs.

Fret n lies scale * (1 - 2 ** (-n / 12)) from the nut (twelfth root of two). Costs are in one unit: 1.0 is
about the effort of a change of position by one fret in a moderate tempo; they are proportions, not joules.
"""

from dataclasses import dataclass


def fret_mm(fret: float, scale_mm: float) -> float:
    """Distance of a fret from the nut in mm."""
    return float(scale_mm * (1.0 - 2.0 ** (-fret / 12.0)))


def reach_mm(low_fret: int, high_fret: int, scale_mm: float) -> float:
    """Distance between two fretting fingers, each just behind its fret, in mm."""
    return fret_mm(high_fret, scale_mm) - fret_mm(low_fret, scale_mm)


@dataclass(frozen=True)
class Costs:
    """What is hard, and how hard. One row, one reason. A placing school is mostly another such table."""

    # Moving the hand: for setting off at all, and for each fret of the way.
    shift: float = 1.0
    shift_fret: float = 0.35
    # A shift while a finger stays on its string (it glides along) is easier by this factor.
    glide_factor: float = 0.6
    # A shift over a rest of at least this long costs nearly nothing.
    rest_s: float = 0.35
    rest_factor: float = 0.35
    # Index or little finger one fret outside the four-fret hand.
    stretch: float = 0.9
    # A string away, and each string skipped beyond the neighbour.
    string_change: float = 0.12
    string_skip: float = 0.25
    # The same finger on another fret or string right after (a slide excepted).
    same_finger: float = 0.5
    # The same finger over one string at one fret: rolled.
    rolled_finger: float = 0.2
    # The little finger is the weakest.
    little_finger: float = 0.12
    # An open string rings on and sounds unlike its neighbours.
    open_string: float = 0.5
    # High frets on thick strings are hard to reach and sound dull: per fret above the twelfth, per string from
    # the third on.
    thick_high: float = 0.06
    # Bending pushes two or three strings' worth of tension: index alone, wound strings, the first frets.
    bend_index: float = 0.9
    bend_little: float = 0.4
    bend_wound: float = 1.2
    bend_low_fret: float = 0.25  # per fret below the fifth
    # Legato wants its string: a hammer-on, pull-off, slide or trill on another one is not one.
    legato_elsewhere: float = 30.0
    slide_other_finger: float = 1.2
    # Away from where the player said to be, per fret.
    from_fret: float = 0.5
    # A pinned place or finger not kept: never, short of impossible.
    pin_broken: float = 1000.0
    # Being in a position at all, per fret from the middle of the neck: breaks ties.
    extreme: float = 0.015
    # Distance per fret from the nearest box of the key's root (see key_position).
    key_position: float = 0.08


STRETCH_BELOW, STRETCH_ABOVE = 1, 1
# Reach between two fingers beyond which the player is cautioned. At a 648 mm scale frets 1 to 5 lie 126 mm apart.
COMFORT_MM = 115.0
