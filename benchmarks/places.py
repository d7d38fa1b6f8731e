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
from benchmarks.phrases import GUITAR, PHRASES, SECOND, THIRD, UNSEEN, written_notes
from eager_owl.neck.fingering import find_fingering
from eager_owl.solo.document import Note
from eager_owl.theory.key import Key, parse_key

Phrase = tuple[str, Key, list[Note]]


def share_right(phrases: Sequence[Phrase], keyed: bool, pin_every: int = 0) -> dict[str, float]:
    """Of the notes of each habit the share put where the phrase has them; every so many-th is pinned if asked."""
    hits: dict[str, list[bool]] = defaultdict(list)
    for habit, key, notes in phrases:
        asked = [
            note.pinned("place")
            if pin_every and i % pin_every == pin_every // 2
            else replace(note, string=None, fret=None)
            for i, note in enumerate(notes)
        ]
        places = find_fingering(asked, GUITAR, None, key if keyed else None).places
        right = [
            p is not None and (p.string, p.fret) == (n.string, n.fret) for p, n in zip(places, notes, strict=True)
        ]
        hits[habit] += right
        hits["all"] += right
    return {habit: float(np.mean(right)) for habit, right in hits.items()}


def main() -> None:
    written = {
        "written, first": PHRASES,
        "written, second": SECOND,
        "written, third": THIRD,
        "written, unseen": UNSEEN,
    }
    sets = {
        name: [(phrase.habit, parse_key(phrase.key), written_notes(phrase)) for phrase in phrases]
        for name, phrases in written.items()
    }
    sets["composed"] = [(phrase.habit, phrase.key, phrase.notes) for phrase in compose(300, seed=99)]
    for name, phrases in sets.items():
        print(f"{name}, {sum(len(notes) for _, _, notes in phrases)} notes")
        for what, options in (("key", (True,)), ("no key", (False,)), ("one in eight pinned", (True, 8))):
            shares = share_right(phrases, *options)
            habits = ", ".join(f"{habit} {share:.2f}" for habit, share in shares.items() if habit != "all")
            print(f"  {what:20} {shares['all']:.3f}   ({habits})")
    find_fingering(walk(12), GUITAR)
    for count in (200, 1000, 5000, 20000):
        notes = walk(count)
        began = time.perf_counter()
        find_fingering(notes, GUITAR)
        seconds = time.perf_counter() - began
        print(f"fingering, {count:5} notes    {1000 * seconds:.0f} ms, {1e6 * seconds / count:.0f} µs a note")


if __name__ == "__main__":
    main()
