"""Counts as one says them."""

_NUMBERS = {1: "one", 2: "two", 3: "three", 4: "four", 5: "five", 6: "six"}


def plural(count: int, what: str) -> str:
    """Such as "1 change" or "2 changes"."""
    return f"{count} {plural_of(what, count)}"


def spelled(count: int, what: str) -> str:
    """Such as "one barre" or "two barres"; from seven on in figures."""
    return f"{_NUMBERS.get(count, count)} {plural_of(what, count)}"


def plural_of(what: str, count: int) -> str:
    """A noun in the number that a count asks for: "note" or "notes"."""
    return what if count == 1 else f"{what}s"
