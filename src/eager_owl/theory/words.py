"""Counts as one says them, and text as it can be told."""

_QUOTED = 60
_NUMBERS = {1: "one", 2: "two", 3: "three", 4: "four", 5: "five", 6: "six"}


def one_line(text: str) -> str:
    """A text on one line and without what can't be printed: files are named anything."""
    return " ".join("".join(c if c.isprintable() or c.isspace() else "\ufffd" for c in text).split())


def quoted(text: str) -> str:
    """What somebody wrote, in quotation marks and no longer than one cares to read again."""
    told = one_line(text)
    return f"“{told[:_QUOTED]}…”" if len(told) > _QUOTED else f"“{told}”"


def plural(count: int, what: str) -> str:
    """Such as "1 change" or "2 changes"."""
    return f"{count} {plural_of(what, count)}"


def spelled(count: int, what: str) -> str:
    """Such as "one barre" or "two barres"; from seven on in figures."""
    return f"{_NUMBERS.get(count, count)} {plural_of(what, count)}"


def plural_of(what: str, count: int) -> str:
    """A noun in the number that a count asks for: "note" or "notes"."""
    return what if count == 1 else f"{what}s"
