"""Phrases composed by the habits of players, with the places they imply: what the costs are weighed on.

Each habit is a function from a random generator to a phrase. They share nothing with the phrases written by hand
in `phrases.py`, on which the solver is tried.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from eager_owl.solo.document import Instrument, Note
from eager_owl.solo.techniques import Technique, TechniqueName
from eager_owl.theory.key import Key

GUITAR = Instrument()
_STRINGS = len(GUITAR.tuning)
_PENTATONIC = (0, 3, 5, 7, 10)
_SCALES = {"minor": (0, 2, 3, 5, 7, 8, 10), "Dorian": (0, 2, 3, 5, 7, 9, 10), "harmonic": (0, 2, 3, 5, 7, 8, 11)}
_CHORDS = {"minor": (0, 3, 7), "major": (0, 4, 7), "m7": (0, 3, 7, 10), "7": (0, 4, 7, 10), "maj7": (0, 4, 7, 11)}

Spot = tuple[int, int]  # string, fret


@dataclass(frozen=True)
class Composed:
    """A phrase with its key; every note has string and fret."""

    habit: str
    key: Key
    notes: list[Note]


class _Line:
    """Strokes put one after the other."""

    def __init__(self, beat_s: float) -> None:
        self.beat_s, self.at, self.notes = beat_s, 0.0, list[Note]()

    def play(self, *spots: Spot, name: TechniqueName | None = None, bend: float = 0.0, beats: float = 1.0) -> None:
        named = (Technique("bend", semitones=bend, rise_s=0.12),) if bend else (Technique(name),) if name else ()
        named += (Technique("double_stop"),) if len(spots) > 1 else ()
        for string, fret in sorted(spots, key=lambda spot: GUITAR.tuning[spot[0] - 1] + spot[1]):
            pitch = GUITAR.tuning[string - 1] + fret
            length = 0.92 * beats * self.beat_s
            self.notes.append(
                Note(len(self.notes) + 1, round(self.at, 4), round(length, 4), pitch, string, fret, techniques=named)
            )
        self.at += beats * self.beat_s

    def rest(self, beats: float) -> None:
        self.at += beats * self.beat_s


def _minor_key(rng: np.random.Generator, root: int) -> Key:
    return Key(root % 12, "minor") if rng.random() < 0.75 else Key((root + 3) % 12, "major")


def _fret(string: int, pitch: int) -> int:
    return pitch - GUITAR.tuning[string - 1]


def _scale_frets(string: int, root: int, steps: tuple[int, ...], low: int, high: int) -> list[int]:
    open_pitch = GUITAR.tuning[string - 1]
    return [fret for fret in range(low, high + 1) if (open_pitch + fret - root) % 12 in steps]


def pentatonic_box(root: int, box: int) -> list[Spot]:
    """The box's spots from the lowest note up: two a string, from the box's first note on the thickest string."""
    low = _scale_frets(_STRINGS, root, _PENTATONIC, 0, 40)
    first = [f for f in low if (GUITAR.tuning[-1] + f - root) % 12 == _PENTATONIC[box]]
    pitch = GUITAR.tuning[-1] + next(f for f in first if f >= 1)
    ladder = [p for p in range(pitch, pitch + 60) if (p - root) % 12 in _PENTATONIC]
    return [(_STRINGS - i // 2, _fret(_STRINGS - i // 2, ladder[i])) for i in range(2 * _STRINGS)]


def _walk(
    rng: np.random.Generator, line: _Line, spots: list[Spot], count: int, start: int, bends: bool = True
) -> None:
    at, way = start, int(rng.choice([-1, 1]))
    for i in range(count):
        string, fret = spots[at]
        before = (line.notes[-1].string, line.notes[-1].fret) if line.notes else (0, 0)
        legato = before[0] == string and before[1] != fret and rng.random() < 0.25
        upper = at % 2 == 1 and string <= 3
        if bends and upper and fret >= 3 and rng.random() < 0.15:
            line.play((string, fret), bend=float(rng.choice([1.0, 2.0])), beats=float(rng.choice([1, 2])))
        else:
            name: TechniqueName | None = ("hammer_on" if fret > (before[1] or 0) else "pull_off") if legato else None
            line.play((string, fret), name=name, beats=float(rng.choice([1, 1, 1, 1, 2])))
        if rng.random() < 0.06:
            line.rest(float(rng.choice([1, 2])))
        if rng.random() < 0.3:
            way = -way
        step = way * int(rng.choice([1, 1, 1, 2, 2, 3], p=[0.3, 0.2, 0.2, 0.15, 0.1, 0.05]))
        at = min(max(at + step, 0), len(spots) - 1)
        if (string, fret) == spots[at] and i + 1 < count and rng.random() < 0.8:
            way = -way
            at = min(max(at + way, 0), len(spots) - 1)


def box(rng: np.random.Generator) -> Composed:
    """One of the five pentatonic boxes, most often the first, now and then with a note of the scale more."""
    while True:
        root, number = int(rng.integers(12)), int(rng.choice(5, p=[0.48, 0.18, 0.1, 0.14, 0.1]))
        spots = pentatonic_box(root, number)
        octave = 12 if spots[0][1] < 6 and rng.random() < 0.35 else 0
        spots = [(s, f + octave) for s, f in spots]
        if min(f for _, f in spots) >= 1 and max(f for _, f in spots) <= 21:
            break
    if rng.random() < 0.3:  # the blue note
        low, high = min(f for _, f in spots), max(f for _, f in spots)
        extra = [(s, f) for s in range(1, 7) for f in _scale_frets(s, root, (6,), low, high)]
        spots = sorted(dict.fromkeys([*spots, *extra]), key=lambda spot: GUITAR.tuning[spot[0] - 1] + spot[1])
    line = _Line(float(rng.uniform(0.12, 0.35)))
    middle = int(rng.integers(len(spots) // 3, len(spots)))
    _walk(rng, line, spots, int(rng.integers(9, 18)), middle)
    return Composed("box", _minor_key(rng, root), line.notes)


def position(rng: np.random.Generator) -> Composed:
    """A seven-note scale in one position: where the root lies under the index, the middle or the little finger."""
    steps = _SCALES[str(rng.choice(list(_SCALES), p=[0.5, 0.35, 0.15]))]
    while True:
        root = int(rng.integers(12))
        fret = (root - GUITAR.tuning[-1]) % 12 + int(rng.choice([0, 0, 12])) + int(rng.choice([0, 0, 0, 2, 5, 7, 10]))
        if 1 <= fret <= 14:
            break
    spots = [(s, f) for s in range(6, 0, -1) for f in _scale_frets(s, root, steps, fret, fret + 3)]
    spots += [
        (s, f)
        for s in range(6, 0, -1)
        for f in _scale_frets(s, root, steps, fret - 1, fret - 1)
        if f > 0 and s in (3,)
    ]
    by_pitch = {GUITAR.tuning[s - 1] + f: (s, f) for s, f in spots}
    ladder = [by_pitch[p] for p in sorted(by_pitch)]
    line = _Line(float(rng.uniform(0.13, 0.4)))
    _walk(rng, line, ladder, int(rng.integers(8, 18)), int(rng.integers(len(ladder) // 4, len(ladder))), bends=False)
    return Composed("position", _minor_key(rng, root), line.notes)


def one_string(rng: np.random.Generator) -> Composed:
    """A scale up and down a single string, slid here and there."""
    root, string = int(rng.integers(12)), int(rng.choice([1, 1, 2, 2, 3, 4]))
    frets = _scale_frets(string, root, _SCALES[str(rng.choice(["minor", "Dorian"]))], 1, 18)
    at = int(rng.integers(0, len(frets) - 5))
    line, rate = _Line(float(rng.uniform(0.2, 0.45))), float(rng.uniform(0.25, 0.6))
    way = 1
    for i in range(int(rng.integers(8, 14))):
        line.play((string, frets[at]), name="slide" if i and rng.random() < rate else None)
        if rng.random() < 0.2:
            way = -way
        if not 0 <= at + way < len(frets):
            way = -way
        at += way
    return Composed("one string", _minor_key(rng, root), line.notes)


def three_a_string(rng: np.random.Generator) -> Composed:
    """A quick scale, three notes on each string, up or down."""
    while True:
        root, steps = int(rng.integers(12)), _SCALES[str(rng.choice(["minor", "Dorian", "harmonic"]))]
        string, count = int(rng.choice([6, 6, 6, 5, 4])), int(rng.integers(3, 7))
        count = min(count, string)
        starts = _scale_frets(string, root, steps, 1, 12)
        pitch = GUITAR.tuning[string - 1] + int(rng.choice(starts))
        ladder = [p for p in range(pitch, pitch + 40) if (p - root) % 12 in steps][: 3 * count]
        spots = [(string - i // 3, _fret(string - i // 3, p)) for i, p in enumerate(ladder)]
        if all(1 <= f <= 20 for _, f in spots):
            break
    up = rng.random() < 0.6
    spots = spots if up else spots[::-1]
    line, legato = _Line(float(rng.uniform(0.08, 0.16))), rng.random() < 0.5
    for i, spot in enumerate(spots):
        name: TechniqueName = "hammer_on" if up else "pull_off"
        line.play(spot, name=name if legato and i % 3 else None)
    if rng.random() < 0.4:  # and a turn back over the last string
        line.play(spots[-2], name="pull_off" if up else "hammer_on")
        line.play(spots[-3])
    return Composed("three a string", _minor_key(rng, root), line.notes)


def two_positions(rng: np.random.Generator) -> Composed:
    """An arpeggio in one position, then carried on in another further along."""
    while True:
        root, steps = int(rng.integers(12)), _CHORDS[str(rng.choice(list(_CHORDS)))]
        first, further = int(rng.integers(2, 9)), int(rng.choice([4, 5, 5, 7]))
        if first + further <= 16:
            break
    lower = [(s, f) for s in range(6, 0, -1) for f in _scale_frets(s, root, steps, first, first + 3)]
    upper = [
        (s, f) for s in range(6, 0, -1) for f in _scale_frets(s, root, steps, first + further, first + further + 3)
    ]
    pitch = lambda spot: GUITAR.tuning[spot[0] - 1] + spot[1]  # noqa: E731
    lower, upper = [list({pitch(s): s for s in spots}.values()) for spots in (lower, upper)]
    lower.sort(key=pitch)
    upper.sort(key=pitch)
    line = _Line(float(rng.uniform(0.14, 0.3)))
    start = int(rng.integers(0, max(len(lower) - 5, 1)))
    run = lower[start : start + int(rng.integers(4, 7))]
    for spot in run:
        line.play(spot)
    later = [spot for spot in upper if pitch(spot) > pitch(run[-1])]
    joined = [spot for spot in later if spot[0] == run[-1][0]]
    if not later:
        return two_positions(rng)
    if joined:
        line.play(joined[0], name="slide")
        later = later[later.index(joined[0]) :]
    at = 0
    for _ in range(int(rng.integers(3, 7))):
        at = min(max(at + int(rng.choice([-1, 1, 1])), 0), len(later) - 1)
        line.play(later[at])
    minor = 3 in steps
    return Composed("two positions", Key(root, "minor" if minor else "major"), line.notes)


def open_strings(rng: np.random.Generator) -> Composed:
    """A lick in the first frets with the strings open, or one string pedalled against its open pitch."""
    key = [
        Key(4, "minor"),
        Key(9, "minor"),
        Key(7, "major"),
        Key(2, "major"),
        Key(0, "major"),
        Key(9, "major"),
        Key(4, "major"),
    ][int(rng.integers(7))]
    root = key.tonic if key.mode == "minor" else (key.tonic + 9) % 12
    line = _Line(float(rng.uniform(0.14, 0.3)))
    if rng.random() < 0.25:
        string = int(rng.choice([s for s in range(1, 6) if (GUITAR.tuning[s - 1] - root) % 12 in _SCALES["minor"]]))
        frets = _scale_frets(string, root, _SCALES["minor"], 2, 12)
        at = int(rng.integers(len(frets)))
        for _ in range(int(rng.integers(4, 8))):
            line.play((string, frets[at]))
            line.play((string, 0), name="pull_off" if rng.random() < 0.6 else None)
            at = min(max(at + int(rng.choice([-1, 1])), 0), len(frets) - 1)
        return Composed("open strings", key, line.notes)
    steps = _PENTATONIC if rng.random() < 0.5 else _SCALES["minor"]
    spots = [(s, f) for s in range(6, 0, -1) for f in _scale_frets(s, root, steps, 0, 3)]
    by_pitch: dict[int, Spot] = {}
    for s, f in spots:  # where two places sound a pitch the open string is the one
        pitch = GUITAR.tuning[s - 1] + f
        if pitch not in by_pitch or f == 0:
            by_pitch[pitch] = (s, f)
    ladder = [by_pitch[p] for p in sorted(by_pitch)]
    _walk(rng, line, ladder, int(rng.integers(9, 16)), int(rng.integers(len(ladder))), bends=False)
    return Composed("open strings", key, line.notes)


def octaves(rng: np.random.Generator) -> Composed:
    """A melody in octaves, one string between the two, together or broken."""
    root = int(rng.integers(12))
    string = int(rng.choice([6, 5, 5, 4, 4, 3]))
    frets = _scale_frets(string, root, _SCALES[str(rng.choice(["minor", "Dorian"]))], 1, 13)
    at = int(rng.integers(len(frets)))
    line, broken = _Line(float(rng.uniform(0.2, 0.45))), rng.random() < 0.25
    for _ in range(int(rng.integers(5, 9))):
        low = (string, frets[at])
        high = (string - 2, _fret(string - 2, GUITAR.tuning[string - 1] + frets[at] + 12))
        if broken:
            line.play(low)
            line.play(high)
        else:
            line.play(low, high)
        at = min(max(at + int(rng.choice([-2, -1, -1, 1, 1, 2])), 0), len(frets) - 1)
    return Composed("octaves", _minor_key(rng, root), line.notes)


def root_cell(rng: np.random.Generator) -> Composed:
    """A root with its flat seven below and its flat three and four above, the four bent; home may move an octave."""
    while True:
        root = int(rng.integers(12))
        copies = [(s, f) for s in (2, 4, 6) for f in range(3, 19) if (GUITAR.tuning[s - 1] + f - root) % 12 == 0]
        copies = [copy for copy in copies if copy[1] <= 17]
        first = copies[int(rng.integers(len(copies)))]
        others = [copy for copy in copies if copy != first and abs(copy[1] - first[1]) <= 4]
        if first[0] < 6 or others:
            break
    if first[0] != 2 and rng.random() < 0.4:  # the thin strings sing, and are bent
        return root_cell(rng)
    line = _Line(float(rng.uniform(0.2, 0.4)))
    for number, (string, fret) in enumerate([first, *others[:1]] if rng.random() < 0.5 else [first]):
        across = string - 1
        third = _fret(across, GUITAR.tuning[string - 1] + fret + 3)
        cell = [(string, fret - 2), (string, fret), (across, third), (across, third + 2)]
        if number:
            line.rest(float(rng.choice([0, 2])))
        at = 1
        for _ in range(int(rng.integers(5, 10))):
            bend = at == 3 and across <= 3 and rng.random() < 0.75
            line.play(cell[at], bend=2.0 if bend else 0.0, beats=float(rng.choice([1, 1, 2])))
            at = min(max(at + int(rng.choice([-1, 1])), 0), 3)
    return Composed("root cell", Key(root, "minor"), line.notes)


def double_stops(rng: np.random.Generator) -> Composed:
    """Fourths and thirds of a pentatonic box on neighbouring strings, between single notes."""
    root = int(rng.integers(12))
    spots = pentatonic_box(root, int(rng.choice([0, 0, 1, 3])))
    line = _Line(float(rng.uniform(0.2, 0.35)))
    for _ in range(int(rng.integers(4, 8))):
        string, level = int(rng.integers(2, 5)), int(rng.integers(2))
        pair = [spot for spot in spots if spot[0] == string][level], [s for s in spots if s[0] == string - 1][level]
        line.play(*pair)
        if rng.random() < 0.5:
            line.play([spot for spot in spots if spot[0] == string][1 - level])
    return Composed("double stops", _minor_key(rng, root), line.notes)


HABITS: dict[Callable[[np.random.Generator], Composed], float] = {
    box: 0.28, position: 0.12, one_string: 0.1, three_a_string: 0.12, two_positions: 0.1, open_strings: 0.1,
    octaves: 0.06, root_cell: 0.1, double_stops: 0.02,
}  # fmt: skip


def _handy(rng: np.random.Generator, phrase: Composed) -> bool:
    """Whether a player would stand there: in the middle of the neck gladly, at its ends less often."""
    stopped = [note.fret or 0 for note in phrase.notes if note.fret]
    if phrase.habit == "open strings" or not stopped:
        return True
    low, high = min(stopped), max(stopped)
    return bool(rng.random() < {1: 0.3, 2: 0.55}.get(low, 1.0) * float(np.clip(1.0 - (high - 13) / 9, 0.1, 1.0)))


def compose(count: int, seed: int) -> list[Composed]:
    """So many phrases of all habits."""
    rng = np.random.default_rng(seed)
    habits, shares = list(HABITS), np.array(list(HABITS.values()))
    phrases: list[Composed] = []
    for i in rng.choice(len(habits), count, p=shares / shares.sum()):
        phrase = habits[i](rng)
        while not _handy(rng, phrase):
            phrase = habits[i](rng)
        phrases.append(phrase)
    return phrases
