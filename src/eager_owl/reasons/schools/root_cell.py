"""A root, the flat seven below it, the flat three and four above, the four bent to the five; then the next root."""

from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, root_cell
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key
from eager_owl.theory.pitch import FLAT_NAMES

_LOWEST, _MIDDLE, _HIGHEST = 34, 62, 94


def _sources(chord: Chord | None, key: Key | None) -> list[Source]:
    roots: dict[int, float] = {}
    if key is not None:
        roots = {key.tonic: 0.0, (key.tonic + 5) % 12: 0.8, (key.tonic + 7) % 12: 0.8}
    if chord is not None:
        roots[chord.root] = min(roots.get(chord.root, 0.6), 0.6)
    names = key.names if key else FLAT_NAMES
    cells = [
        root_cell(pitch, names, cost)
        for root, cost in roots.items()
        for pitch in range(_LOWEST + (root - _LOWEST) % 12, _HIGHEST, 12)
    ]
    # Where none holds a note, the first is named: one in the middle of the neck.
    return sorted(cells, key=lambda cell: abs((cell.register or 0) - _MIDDLE))


SCHOOL = ReasonSchool(
    "root-cell", "Find a root, play the few notes around it, and move home from root to root.", _sources
)
