"""What is kept from one laying out to the next, and marks counted through a sheet."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

Made = TypeVar("Made")


class Memory:
    """What was laid out before, by what it hung on; `forget` drops what was not asked for since the last time.

    Keys hold ids; what they are ids of is kept with the value, so that no other object takes their place.
    """

    def __init__(self) -> None:
        self._kept: dict[tuple[object, ...], tuple[Any, Any]] = {}
        self._used: dict[tuple[object, ...], tuple[Any, Any]] = {}

    def get(self, key: tuple[object, ...], make: Callable[[], Made], holds: object = None) -> Made:
        """The value of a key, made if it is not known."""
        found = self._kept.get(key)
        if found is None:
            found = (make(), holds)
            self._kept[key] = found
        self._used[key] = found
        made: Made = found[0]
        return made

    def forget(self) -> None:
        """Keep only what was asked for."""
        self._kept, self._used = self._used, {}


@dataclass
class Numbering:
    """Marks of remarks through the sheet, in the order they are met."""

    count: int = 0

    def next(self) -> str:
        """The next number."""
        self.count += 1
        return str(self.count)
