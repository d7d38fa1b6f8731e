"""Nearest the root cell: a root, its flat seven, flat three and four, and the same four notes in the next octave."""

from dataclasses import replace

from eager_owl.neck.costs import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "root-cell",
    "Every root is a home: four notes around it, then jump to the next one.",
    replace(
        Costs(), shift=0.6, shift_fret=0.12, glide=0.5, glide_fret=0.12, open_shift=0.5, open_fret=0.1,
        hurry_fret=0.1, root_cell=-2.5, three_left=0.0, three_stayed=0.0, open_string=2.0, repeat_elsewhere=0.5,
    ),
)  # fmt: skip
