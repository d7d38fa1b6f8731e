"""Schools of explaining. Each module here holds one ReasonSchool named SCHOOL; adding one adds one file."""

import importlib
import pkgutil
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

from eager_owl.reasons.sources import Source
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key


@dataclass(frozen=True)
class ReasonSchool:
    """A way of explaining notes: its name, its creed in a line, and the sources it sees over a chord in a key.

    `looks_ahead`: a chord's sources may begin before it and outlast it. `detours`: notes that lead by step into the
    next one need no source of their own, whether the key holds them or not.
    """

    name: str
    creed: str
    sources: Callable[[Chord | None, Key | None], list[Source]]
    looks_ahead: bool = False
    detours: bool = False


@cache
def reason_schools() -> dict[str, ReasonSchool]:
    """All schools by name."""
    modules = sorted(module.name for module in pkgutil.iter_modules(__path__))
    schools = (importlib.import_module(f"{__name__}.{module}").SCHOOL for module in modules)
    return {school.name: school for school in schools}
