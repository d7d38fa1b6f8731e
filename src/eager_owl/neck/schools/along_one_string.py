"""Along one string, for the singing sound of it."""

from eager_owl.neck.hand import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "along-one-string",
    "One string has one voice: follow it up and down the neck.",
    Costs(shift=0.25, shift_fret=0.08, string_change=1.6, string_skip=0.6, same_finger=0.1, key_position=0.0),
)
