"""How often notes are put on the string and fret a player gives them, and how long that takes.

./run-benchmarks places
"""

import time
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from benchmarks.desk import walk
from benchmarks.habits import compose
from benchmarks.phrases import FIFTH, FOURTH, GUITAR, PHRASES, SECOND, SIXTH, THIRD, UNSEEN, written_notes
from eager_owl.neck.fingering import Fingering, find_alternatives, find_fingering
from eager_owl.neck.schools import placing_schools
from eager_owl.solo.document import Note
from eager_owl.theory.key import Key, parse_key

Phrase = tuple[str, Key, list[Note]]


def is_right(found: Fingering, notes: Sequence[Note]) -> list[bool]:
    """Whether each note was put on its string and fret."""
    return [
        p is not None and (p.string, p.fret) == (n.string, n.fret) for p, n in zip(found.places, notes, strict=True)
    ]


def lifted(notes: Sequence[Note]) -> list[Note]:
    """The notes without places and fingers."""
    return [replace(note, string=None, fret=None, finger=None) for note in notes]


def share_fingers(phrases: Sequence[Phrase]) -> tuple[float, int]:
    """Of the notes whose finger is named and that are put in their place, the share with that finger; how many."""
    hits: list[bool] = []
    for _, key, notes in phrases:
        found = find_fingering(lifted(notes), GUITAR, None, key)
        hits += [
            place.finger == note.finger
            for place, note, right in zip(found.places, notes, is_right(found, notes), strict=True)
            if place is not None and right and note.finger is not None
        ]
    return float(np.mean(hits)) if hits else 0.0, len(hits)


def share_offered(phrases: Sequence[Phrase]) -> tuple[float, float]:
    """The share right in the best of the four ways offered, and in the best of all schools, phrase by phrase."""
    ways, schools, count = 0, 0, 0
    for _, key, notes in phrases:
        free = lifted(notes)
        ways += max(sum(is_right(way, notes)) for way in find_alternatives(free, GUITAR, None, key))
        schools += max(
            sum(is_right(find_fingering(free, GUITAR, school.costs, key), notes))
            for school in placing_schools().values()
        )
        count += len(notes)
    return ways / count, schools / count


def share_right(phrases: Sequence[Phrase], keyed: bool, pin_every: int = 0, first: bool = False) -> dict[str, float]:
    """Of the notes of each habit the share put where the phrase has them; every so many-th, or the first, is pinned
    if asked."""
    hits: dict[str, list[bool]] = defaultdict(list)
    for habit, key, notes in phrases:
        asked = [
            replace(note, finger=None).pinned("place")
            if (pin_every and i % pin_every == pin_every // 2) or (first and i == 0)
            else free
            for i, (note, free) in enumerate(zip(notes, lifted(notes), strict=True))
        ]
        right = is_right(find_fingering(asked, GUITAR, None, key if keyed else None), notes)
        hits[habit] += right
        hits["all"] += right
    return {habit: float(np.mean(right)) for habit, right in hits.items()}


def main() -> None:
    written = {
        "written, first": PHRASES,
        "written, second": SECOND,
        "written, third": THIRD,
        "written, unseen": UNSEEN,
        "written, as players say": FOURTH,
        "written, last": FIFTH,
        "written, of more kinds": SIXTH,
    }
    sets = {
        name: [(phrase.habit, parse_key(phrase.key), written_notes(phrase)) for phrase in phrases]
        for name, phrases in written.items()
    }
    sets["composed"] = [(phrase.habit, phrase.key, phrase.notes) for phrase in compose(300, seed=99)]
    for name, phrases in sets.items():
        print(f"{name}, {sum(len(notes) for _, _, notes in phrases)} notes")
        for what, options in (
            ("key", (True,)),
            ("no key", (False,)),
            ("one in eight pinned", (True, 8)),
            ("first pinned", (True, 0, True)),
        ):
            shares = share_right(phrases, *options)
            habits = ", ".join(f"{habit} {share:.2f}" for habit, share in shares.items() if habit != "all")
            print(f"  {what:20} {shares['all']:.3f}   ({habits})")
        if name != "composed":
            fingers, named = share_fingers(phrases)
            ways, schools = share_offered(phrases)
            print(f"  of four ways {ways:.3f}, of all schools {schools:.3f}; fingers {fingers:.2f} of {named}")
    find_fingering(walk(12), GUITAR)
    for count in (200, 1000, 5000, 20000):
        notes = walk(count)
        began = time.perf_counter()
        find_fingering(notes, GUITAR)
        seconds = time.perf_counter() - began
        print(f"fingering, {count:5} notes    {1000 * seconds:.0f} ms, {1e6 * seconds / count:.0f} µs a note")


if __name__ == "__main__":
    main()
