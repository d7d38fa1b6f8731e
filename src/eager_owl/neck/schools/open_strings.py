"""Open strings are welcome: they ring, and free the hand."""

from dataclasses import replace

from eager_owl.neck.costs import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "open-strings",
    "A string that rings by itself frees the hand for the next move.",
    replace(
        Costs(), open_string=-1.5, open_low=-1.5, open_pointed_at=-2.0, open_shift=0.2, open_fret=0.05, low_neck=0.0,
        home=(0.0,) * 12,
    ),
)  # fmt: skip
