"""Whether the program learns a player's hand: four phrases put right, and how many notes of the next ten are wrong.

The player goes through phrases until four had to be put right; those that were right are lessons too.

./run-benchmarks players

Players with other habits are other tables of costs, which the learning never sees; the player of the default kind
has the written phrases' own places. Phrases are drawn from the written lists, so many times over.
"""

import time
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from benchmarks.phrases import FIFTH, FOURTH, GUITAR, PHRASES, SECOND, THIRD, UNSEEN, written_notes
from benchmarks.places import lifted
from eager_owl.neck.costs import Costs
from eager_owl.neck.fingering import find_fingering, with_places
from eager_owl.neck.preference import Lesson, lean, learn
from eager_owl.solo.document import Note
from eager_owl.theory.key import Key, parse_key

DRAWS, TAUGHT, ASKED = 40, 4, 10

_TABLE = Costs()
PLAYERS: dict[str, Costs] = {
    "never the little finger": replace(_TABLE, little_finger=3.0, little_outside_run=2.5, ring_at_three=0.0),
    "the little finger everywhere": replace(_TABLE, little_outside_run=0.1, ring_at_three=1.6, middle_at_two=1.2),
    "low on the neck": replace(_TABLE, low_neck=-0.1, high_neck=0.5, up_neck=0.2),
    "open strings": replace(_TABLE, open_string=-0.8, open_low=-0.8, open_pointed_at=-0.8, open_shift=0.6),
    "along one string": replace(_TABLE, string_change=3.0, glide=0.3, glide_fret=0.15, shift=0.5, shift_fret=0.4),
}

Phrase = tuple[Key, list[Note]]


def corrected(notes: Sequence[Note], key: Key, costs: Costs | None) -> list[Note]:
    """The notes as the player has them, those pinned that the table would put elsewhere or take with another finger.

    Without a table of the player's own they stand as written.
    """
    free = lifted(notes)
    own = list(notes) if costs is None else with_places(free, find_fingering(free, GUITAR, costs, key))
    proposed = with_places(free, find_fingering(free, GUITAR, None, key))
    found = []
    for mine, theirs in zip(own, proposed, strict=True):
        pins = [
            *(["place"] if (mine.string, mine.fret) != (theirs.string, theirs.fret) else []),
            *(["finger"] if mine.finger is not None and mine.finger != theirs.finger else []),
        ]
        found.append(mine.pinned(*pins) if pins else mine)
    return found


def wrong_notes(own: Sequence[Note], key: Key, costs: Costs) -> int:
    """How many notes are put elsewhere than the player has them, or taken with another finger."""
    places = find_fingering(lifted(own), GUITAR, costs, key).places
    return sum(
        p is None or (p.string, p.fret) != (n.string, n.fret) or (n.finger is not None and p.finger != n.finger)
        for p, n in zip(places, own, strict=True)
    )


def main() -> None:
    written = [p for phrases in (PHRASES, SECOND, THIRD, UNSEEN, FOURTH, FIFTH) for p in phrases]
    phrases: list[Phrase] = [(parse_key(p.key), written_notes(p)) for p in written]
    for name, costs in (*PLAYERS.items(), ("the default kind", None)):
        rng = np.random.default_rng(4)
        before = after = count = 0
        seconds = []
        for _ in range(DRAWS):
            drawn = [phrases[i] for i in rng.permutation(len(phrases))]
            seen: list[Phrase] = []
            while sum(any(note.pins for note in notes) for _, notes in seen) < TAUGHT and drawn[ASKED:]:
                key, notes = drawn.pop()
                seen.append((key, corrected(notes, key, costs)))
            began = time.perf_counter()
            learned = lean(_TABLE, learn([Lesson(tuple(notes), GUITAR, key) for key, notes in seen]))
            seconds.append(time.perf_counter() - began)
            for key, notes in drawn[-ASKED:]:
                own = corrected(notes, key, costs)
                before += wrong_notes(own, key, _TABLE)
                after += wrong_notes(own, key, learned)
                count += len(own)
        change = (after - before) / max(before, 1)
        print(
            f"{name:30} wrong of {count}: {before} by the table, {after} learned ({100 * change:+.0f} %, "
            f"{100 * (after - before) / count:+.1f} % of all); learned in {np.median(seconds):.2f} s"
        )


if __name__ == "__main__":
    main()
