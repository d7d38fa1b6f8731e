"""How often the sound alone names the string, on recorded guitars: FluidR3's are sampled string by string.

./run-benchmarks strings

Each open string's own recording (and, on the thinnest, frets 5, 7, 12 and 15) sounds the notes. One pinned open
note a string calibrates. The thinnest string's fretted samples are the true test. Frets 1 to 4 of every string are
its open recording played faster, so their stiffness does not grow with the fret as a real string's does: it is added
by the law that the fretted samples are held against first.
"""

from collections.abc import Iterable
from dataclasses import replace

import mido
import numpy as np

from benchmarks.pieces import RATE_HZ, play_midi
from eager_owl.hearing.stiffness import string_stiffness
from eager_owl.neck.states import candidates
from eager_owl.neck.strings_heard import calibrate, sounds_elsewhere, string_shares
from eager_owl.solo.document import Instrument, Note

GUITARS = {"nylon": 24, "steel": 25, "clean electric": 27}
GUITAR = Instrument()
SAMPLED_FRETS = (5, 7, 12, 15)  # of the thinnest string
GAP_S, NOTE_S = 1.5, 1.0


def measured(program: int, notes: Iterable[Note], dry: bool) -> list[Note]:
    """The notes as this guitar plays them, with the stiffness measured of each."""
    asked = list(notes)
    events = []
    for i, note in enumerate(asked):
        events.append((i * GAP_S, 1, mido.Message("note_on", note=note.pitch, velocity=90)))
        events.append((i * GAP_S + NOTE_S, 0, mido.Message("note_off", note=note.pitch)))
    sound = play_midi(events, {0: program}, "fluidr3", dry)
    clips = [sound[round(i * GAP_S * RATE_HZ) :][: round(NOTE_S * RATE_HZ)] for i in range(len(asked))]
    return [replace(n, stiffness=string_stiffness(c, RATE_HZ, n.pitch)) for n, c in zip(asked, clips, strict=True)]


def at(string: int, fret: int) -> Note:
    """A note at a place."""
    return Note(0, 0.0, NOTE_S, GUITAR.tuning[string - 1] + fret, string, fret)


def named(notes: Iterable[Note], pinned: list[Note]) -> list[tuple[bool, float]]:
    """For each note whether its likeliest string is its own, and the share given to the likeliest."""
    found = []
    for note in notes:
        against = sounds_elsewhere([note], GUITAR, calibrate(pinned))
        if against is not None and note.stiffness is not None:
            shares = string_shares(against[0], [string for string, _ in candidates(note.pitch, GUITAR)])
            likeliest = max(shares, key=lambda string: shares[string])
            found.append((likeliest == note.string, shares[likeliest]))
    return found


def main() -> None:
    for dry in (True, False):
        print("dry" if dry else "with the synthesiser's reverberation and chorus")
        try_guitars(dry)


def try_guitars(dry: bool) -> None:
    """Print what the sound says of the three guitars' strings."""
    together: dict[str, list[tuple[bool, float]]] = {"sampled frets": [], "frets 1 to 4": []}
    for guitar, program in GUITARS.items():
        opens = [note.pinned("place") for note in measured(program, (at(string, 0) for string in range(1, 7)), dry)]
        sampled = measured(program, (at(1, fret) for fret in SAMPLED_FRETS), dry)
        growth = [
            f"fret {note.fret}: {note.stiffness / opens[0].stiffness:.2f} (law {2 ** ((note.fret or 0) / 6):.2f})"
            for note in sampled
            if note.stiffness and opens[0].stiffness
        ]
        print(f"{guitar}: B of the open strings {[round(1e6 * (n.stiffness or 0)) for n in opens]} e-6")
        print(f"  thinnest string's B over its open one: {', '.join(growth)}")
        low = [
            replace(note, stiffness=note.stiffness * 2 ** ((note.fret or 0) / 6)) if note.stiffness else note
            for note in measured(program, (at(s, fret) for s in range(1, 7) for fret in (1, 2, 3, 4)), dry)
        ]
        for what, notes in (("sampled frets", sampled), ("frets 1 to 4", low)):
            answers = named(notes, opens)
            together[what] += answers
            print(f"  {what}: {sum(right for right, _ in answers)} of {len(answers)} said, of {len(notes)} asked")
    for what, answers in together.items():
        sure = [right for right, share in answers if share >= 0.9]
        print(
            f"{what}: right {np.mean([right for right, _ in answers]):.3f}; "
            f"where 0.9 sure or more {np.mean(sure):.3f} ({len(sure)} of {len(answers)})"
        )


if __name__ == "__main__":
    main()
