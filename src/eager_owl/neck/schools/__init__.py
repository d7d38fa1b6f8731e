"""Schools of placing. Each module here holds one PlacingSchool named SCHOOL; adding one adds one file."""

import importlib
import pkgutil
from dataclasses import dataclass

from eager_owl.neck.costs import Costs


@dataclass(frozen=True)
class PlacingSchool:
    """A way of choosing where to play: its name, its creed in a line, and what it finds costly."""

    name: str
    creed: str
    costs: Costs


def placing_schools() -> dict[str, PlacingSchool]:
    """All schools by name, in the order of their modules' names."""
    modules = sorted(module.name for module in pkgutil.iter_modules(__path__))
    schools = (importlib.import_module(f"{__name__}.{module}").SCHOOL for module in modules)
    return {school.name: school for school in schools}
