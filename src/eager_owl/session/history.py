"""The history of a document: a plain list of what it was, and where in it we stand."""

from dataclasses import dataclass

from eager_owl.solo.document import Solo


@dataclass(frozen=True)
class Step:
    """A document, and in words what made it of the one before."""

    solo: Solo
    words: str


class History:
    """Documents in order. A step is never changed; one that comes after an undo takes the place of those undone."""

    def __init__(self, solo: Solo) -> None:
        self._steps = [Step(solo, "")]
        self._at = 0

    @property
    def now(self) -> Solo:
        """The document as it stands."""
        return self._steps[self._at].solo

    def add(self, solo: Solo, words: str) -> None:
        """A step further."""
        self._steps[self._at + 1 :] = [Step(solo, words)]
        self._at += 1

    def back(self) -> str | None:
        """A step back; answers what was undone, or None where there is nothing before."""
        if self._at == 0:
            return None
        self._at -= 1
        return self._steps[self._at + 1].words

    def forth(self) -> str | None:
        """A step forward again; answers what was done again, or None where nothing was undone."""
        if self._at + 1 == len(self._steps):
            return None
        self._at += 1
        return self._steps[self._at].words

    def __len__(self) -> int:
        """How many steps can be undone."""
        return self._at
