"""Stay in one position as long as the notes allow it."""

from eager_owl.neck.hand import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool("one-position", "The hand stays where it is; the strings bring the notes.", Costs())
