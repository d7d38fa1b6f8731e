"""Stay in one position as long as the notes allow it."""

from dataclasses import replace

from eager_owl.neck.costs import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "one-position",
    "The hand stays where it is; the strings bring the notes.",
    replace(
        Costs(), shift=4.0, shift_fret=0.8, glide=4.0, glide_fret=0.8, glide_among_slides=0.8, open_shift=4.0,
        rest_shift=3.0, out_of_place=0.6, slide_line=0.0, three_left=0.0, three_stayed=0.0, picked_stays=0.0,
        shape_elsewhere=0.3,
    ),
)  # fmt: skip
