"""Maps of the neck: where a scale, an arpeggio or a chord lies under the hand, position by position."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product

from eager_owl.neck.hand import COMFORT_MM, reach_mm
from eager_owl.neck.shapes import Spot
from eager_owl.solo.document import Instrument

# Frets from the index finger's on that a hand covers where a scale says nothing of its own.
_WINDOW = range(-1, 4)
_GRIP_FRETS = 4
_SUPPORT = frozenset({"R", "5", "b5", "#5"})


@dataclass(frozen=True)
class NeckMap:
    """What lies in one position: its spots with their degrees, such as "b3"; at `fret` stands the index finger."""

    fret: int
    spots: Mapping[Spot, str]

    @property
    def roots(self) -> frozenset[Spot]:
        """The spots of the root."""
        return frozenset(spot for spot, label in self.spots.items() if label == "R")


def scale_maps(root: int, degrees: Mapping[int, str], instrument: Instrument) -> list[NeckMap]:
    """The positions of a scale or arpeggio from low to high: `degrees` are semitones above the root to labels.

    Five tones lie two a string, from each of them on the thickest string; seven lie three a string; six are a
    pentatonic with one more tone beside it. Of fewer or more tones what lies within five frets.
    """
    steps = sorted(degrees)
    base = _pentatonic_of(steps) if len(steps) == 6 else steps
    each = {5: 2, 7: 3}.get(len(base))
    thickest = instrument.tuning[-1]
    found: dict[frozenset[Spot], NeckMap] = {}
    for start in range(instrument.capo, instrument.frets + 1):
        if (thickest + start - root) % 12 not in base:
            continue
        if each:
            spots = _ladder(thickest + start, root, base, each, instrument)
        else:
            spots = _within(range(start + _WINDOW[0], start + _WINDOW[-1] + 1), root, steps, instrument)
        if spots and len(steps) > len(base):
            frets = [fret for _, fret in spots]
            spots |= _within(range(min(frets), max(frets) + 1), root, steps, instrument)
        if spots:
            labelled = {spot: degrees[(_pitch(spot, instrument) - root) % 12] for spot in sorted(spots)}
            found.setdefault(frozenset(spots), NeckMap(max(min(fret for _, fret in spots), 1), labelled))
    return sorted(found.values(), key=lambda each: each.fret)


def string_maps(root: int, degrees: Mapping[int, str], instrument: Instrument) -> list[NeckMap]:
    """The scale laid along each string by itself, the thinnest first."""
    maps = []
    for string in range(1, len(instrument.tuning) + 1):
        spots = {
            (string, fret): degrees[step]
            for fret in range(instrument.capo, instrument.frets + 1)
            if (step := (instrument.tuning[string - 1] + fret - root) % 12) in degrees
        }
        maps.append(NeckMap(1, spots))
    return maps


def grip_maps(root: int, degrees: Mapping[int, str], instrument: Instrument) -> list[NeckMap]:
    """Grips of a chord on three or four neighbouring strings, from low to high, each tone once, within reach.

    A grip has the chord's third and seventh, where it has them, and its root or fifth. Of those that stand at one
    fret on the same strings the one that reaches least.
    """
    strings = len(instrument.tuning)
    found: dict[tuple[int, int, int], NeckMap] = {}
    for many in (4, 3):
        for first in range(1, strings - many + 2):
            on = range(first, first + many)
            for low in range(instrument.capo + 1, instrument.frets - _GRIP_FRETS + 2):
                grips = [grip for grip in _grips(on, low, root, degrees, instrument) if _is_whole(grip, degrees)]
                if grips:
                    found[many, first, low] = min(grips, key=lambda grip: max(fret for _, fret in grip.spots))
    whole = [grip for grip in found.values() if not any(grip.spots.keys() < o.spots.keys() for o in found.values())]
    return sorted(whole, key=lambda grip: (grip.fret, min(grip.spots)))


def _grips(on: range, low: int, root: int, degrees: Mapping[int, str], instrument: Instrument) -> Iterator[NeckMap]:
    """Ways to stop tones of a chord on these strings from a fret on, one of them there, within comfortable reach."""
    frets = [
        [
            fret
            for fret in range(low, low + _GRIP_FRETS)
            if (_pitch((string, fret), instrument) - root) % 12 in degrees
        ]
        for string in on
    ]
    for chosen in product(*frets):
        if min(chosen) == low and reach_mm(low, max(chosen), instrument.scale_mm) <= COMFORT_MM:
            spots = list(zip(on, chosen, strict=True))
            yield NeckMap(low, {spot: degrees[(_pitch(spot, instrument) - root) % 12] for spot in spots})


def _is_whole(grip: NeckMap, degrees: Mapping[int, str]) -> bool:
    """Whether a grip has no tone twice, the third and seventh that its chord has, and the root or fifth."""
    labels = list(grip.spots.values())
    wanted = {label for label in degrees.values() if label.lstrip("b#") in ("3", "7")}
    return len(set(labels)) == len(labels) and wanted <= set(labels) and not _SUPPORT.isdisjoint(labels)


def nearest(maps: Sequence[NeckMap], position: int, played: Collection[Spot] = ()) -> int:
    """The index of the map that holds most of what is played, lies nearest to a hand's position, and says most."""
    if not maps:
        return 0

    def rank(i: int) -> tuple[int, int, int]:
        held = sum(spot in maps[i].spots for spot in played)
        return -held, abs(maps[i].fret - position), -len(maps[i].spots)

    return min(range(len(maps)), key=rank)


def _pentatonic_of(steps: Sequence[int]) -> list[int]:
    """The five tones of a blues scale without the one that lies a half step from both its neighbours."""
    between = [s for i, s in enumerate(steps) if 0 < i < len(steps) - 1 and steps[i + 1] - steps[i - 1] == 2]
    return [step for step in steps if step not in between[:1]]


def _ladder(start: int, root: int, base: Sequence[int], each: int, instrument: Instrument) -> frozenset[Spot]:
    """So many tones on each string from a pitch on the thickest up; none where one is off the neck."""
    tones = [pitch for pitch in range(start, start + 72) if (pitch - root) % 12 in base]
    spots = set()
    for i, pitch in enumerate(tones[: each * len(instrument.tuning)]):
        string = len(instrument.tuning) - i // each
        fret = instrument.fret_of(string, pitch)
        if fret is None:
            return frozenset()
        spots.add((string, fret))
    return frozenset(spots)


def _within(frets: Collection[int], root: int, steps: Sequence[int], instrument: Instrument) -> frozenset[Spot]:
    return frozenset(
        (string, fret)
        for string in range(1, len(instrument.tuning) + 1)
        for fret in frets
        if instrument.capo <= fret <= instrument.frets and (instrument.tuning[string - 1] + fret - root) % 12 in steps
    )


def _pitch(spot: Spot, instrument: Instrument) -> int:
    return instrument.tuning[spot[0] - 1] + spot[1]
