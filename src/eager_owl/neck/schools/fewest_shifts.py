"""As few moves of the hand as can be, however far each goes, and a stretch rather than a move."""

from dataclasses import replace

from eager_owl.neck.costs import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "fewest-shifts",
    "Every move is a chance to miss: move once, and far if need be.",
    replace(
        Costs(), shift=20.0, shift_fret=0.02, glide=20.0, glide_fret=0.02, glide_among_slides=0.02, open_shift=20.0,
        open_fret=0.02, rest_shift=20.0, rest_fret=0.02, hurry_fret=0.02, out_of_place=0.3, slide_line=0.0,
        three_left=0.0, three_stayed=0.0, picked_stays=0.0, home=(0.0,) * 12,
    ),
)  # fmt: skip
