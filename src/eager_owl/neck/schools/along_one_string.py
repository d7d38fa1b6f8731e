"""Along one string, for the singing sound of it."""

from dataclasses import replace

from eager_owl.neck.costs import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "along-one-string",
    "One string has one voice: follow it up and down the neck.",
    replace(
        Costs(), shift=0.25, shift_fret=0.08, glide=0.1, glide_fret=0.05, open_shift=0.1, open_fret=0.05,
        hurry_fret=0.1, string_change=4.0, string_skip=1.0, leap_along=0.0, same_finger=0.1, three_left=0.0,
        three_stayed=0.0, octave_other=0.0, home=(0.0,) * 12,
    ),
)  # fmt: skip
