"""Three notes on each string, for speed: every string is crossed at the same place of the hand's pattern."""

from dataclasses import replace

from eager_owl.neck.costs import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "three-a-string",
    "Three notes on every string: one pattern for the fingers, and the pick knows when to cross.",
    replace(
        Costs(), shift=0.4, shift_fret=0.3, glide=0.3, glide_fret=0.25, hurry_fret=0.1, out_of_place=0.1,
        reach_cm=0.05, open_string=2.0, three_left_steady=6.0,
        three_stayed_steady=5.0, home=(0.0,) * 12,
    ),
)  # fmt: skip
