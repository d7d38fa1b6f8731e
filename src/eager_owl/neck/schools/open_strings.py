"""Open strings are welcome: they ring, and free the hand."""

from eager_owl.neck.hand import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "open-strings",
    "A string that rings by itself frees the hand for the next move.",
    Costs(open_string=-0.8, extreme=0.06, key_position=0.0),
)
