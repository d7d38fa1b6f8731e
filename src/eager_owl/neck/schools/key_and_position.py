"""Where most hands would go: the boxes around the key's root, and what the line itself asks for."""

from eager_owl.neck.costs import Costs
from eager_owl.neck.schools import PlacingSchool

SCHOOL = PlacingSchool(
    "key-and-position", "The key's boxes first; slides, runs, octaves and pedals say when to leave them.", Costs()
)
