"""A tiny signal: who listens is called in the order they came, on the thread that tells."""

from collections.abc import Callable
from typing import Generic, ParamSpec

Told = ParamSpec("Told")


class Signal(Generic[Told]):
    """Tells its listeners that something happened."""

    def __init__(self) -> None:
        self._listeners: list[Callable[Told, object]] = []

    def connect(self, listener: Callable[Told, object]) -> None:
        """Call this from now on."""
        self._listeners.append(listener)

    def emit(self, *values: Told.args, **named: Told.kwargs) -> None:
        """Tell all who listen."""
        for listener in tuple(self._listeners):
            listener(*values, **named)
