"""What a page tells of a phrase, or of the whole line: the notes as written, and what is said of each."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from eager_owl.notation.score import Score
from eager_owl.reasons.explain import Reason
from eager_owl.rhythm.chart import Chart
from eager_owl.solo.document import Instrument, Note, Remark, Stroke
from eager_owl.theory.key import Key


@dataclass(frozen=True)
class SourceSpan:
    """Notes in a row of one source, in words; `lead` as the explanation has it."""

    words: str
    notes: tuple[int, ...]
    lead: int


@dataclass(frozen=True)
class Passage:
    """Notes by their score, under a number and a name; ids key what is told of single notes.

    `leading` are pairs of notes that a step leads between; `names` are the phrases that begin at notes of a passage
    that holds several.
    """

    score: Score
    notes: tuple[Note, ...]
    number: int | None = None
    name: str = ""
    sentences: tuple[str, ...] = ()
    strokes: Mapping[int, Stroke | None] = field(default_factory=dict)
    reasons: Mapping[int, Reason] = field(default_factory=dict)
    targets: frozenset[int] = frozenset()
    leading: tuple[tuple[int, int], ...] = ()
    spans: tuple[SourceSpan, ...] = ()
    doubts: frozenset[int] = frozenset()
    remarks: tuple[Remark, ...] = ()
    names: Mapping[int, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Matter:
    """All that a sheet is made of. `facts` are lines for the head's right side, `about` one under the title;
    `author` is who plays."""

    title: str
    about: str
    author: str
    facts: tuple[str, ...]
    instrument: Instrument
    key: Key | None
    chart: Chart
    passages: Sequence[Passage]
    remarks: tuple[Remark, ...] = ()
    loudest_db: float = 0.0
