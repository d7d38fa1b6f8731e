"""The map that is looked at on the neck, under the notes: a source as the story has it or as chosen, by position."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from eager_owl.neck.maps import NeckMap as NeckMap
from eager_owl.neck.maps import grip_maps, nearest, scale_maps, string_maps
from eager_owl.reasons.sources import Source, parse_source
from eager_owl.session.facts import key_of
from eager_owl.session.signal import Signal
from eager_owl.solo.document import Instrument, Note

if TYPE_CHECKING:
    from eager_owl.session.open_solo import OpenSolo
    from eager_owl.session.session import Session

_Lay = Callable[[int, dict[int, str], Instrument], list[NeckMap]]
_OF_THE_KEY = ("minor pentatonic", "major pentatonic", "blues", "major blues")


@dataclass(frozen=True)
class _Kind:
    """A source and how it is laid out; `place` is what one of its maps is called."""

    source: Source
    lay: _Lay
    name: str
    place: str


class NeckMaps:
    """Which map is looked at, if any. `changed` tells of another one."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self.changed = Signal[[]]()
        self._name = ""  # of the kind that is looked at; none where it is empty
        self._step = 0  # positions from the one under the hand

    def look(self) -> tuple[NeckMap | None, str]:
        """What is looked at, and its words, such as "A minor pentatonic, position 2 of 9, from fret 5"."""
        kind, maps, at = self._found()
        if kind is None or not maps:
            return None, ""
        where = "" if kind.place == "string" else f", from fret {maps[at].fret}"
        return maps[at], f"{kind.name}, {kind.place} {at + 1} of {len(maps)}{where}"

    def next(self, by: int = 1) -> None:
        """The next kind of map; after the last none is shown."""
        names = ["", *(kind.name for kind in self._kinds(self._session.solo))]
        at = names.index(self._name) if self._name in names else 0
        self._show(names[(at + by) % len(names)], 0)

    def step(self, by: int) -> None:
        """The next position of the map, or one before."""
        if not self._name:
            self.next()
        else:
            self._show(self._name, self._step + by)

    def _show(self, name: str, step: int) -> None:
        self._name, self._step = name, step
        self.changed.emit()
        if not name:
            self._session.tell("no map on the neck")

    def _found(self) -> tuple[_Kind | None, list[NeckMap], int]:
        opened = self._session.opened
        if opened is None or not self._name:
            return None, [], 0
        kind = next((kind for kind in self._kinds(opened) if kind.name == self._name), None)
        if kind is None:
            return None, [], 0
        maps = kind.lay(kind.source.root, kind.source.degrees, opened.solo.instrument)
        played = [(n.string, n.fret) for n in _near(opened) if n.string is not None and n.fret is not None]
        stands = opened.answers.hand.stands
        here = nearest(maps, stands[0].position if stands else 1, played)
        return kind, maps, (here + self._step) % max(len(maps), 1)

    def _kinds(self, opened: "OpenSolo") -> list[_Kind]:
        """What there is to look at: the story's sources, the chord of the note, then the key's."""
        reasons = [opened.reasons[note.id] for note in _near(opened) if note.id in opened.reasons]
        sources = list(dict.fromkeys(reason.source for reason in reasons if reason.source is not None))
        key = key_of(opened.solo)
        if key is not None:
            names = dict.fromkeys((*_OF_THE_KEY, key.scale_name))
            sources += [parse_source(f"{key.tonic_name} {name}") for name in names]
        chord = next((reason.chord for reason in reasons if reason.chord is not None), None)
        kinds = [_Kind(source, scale_maps, source.name, "position") for source in dict.fromkeys(sources)]
        if chord is not None:
            arpeggio = parse_source(f"{chord.names[chord.root]}{chord.suffix} arpeggio")
            kinds += [
                _Kind(arpeggio, scale_maps, arpeggio.name, "position"),
                _Kind(arpeggio, grip_maps, f"{chord.symbol} grips", "grip"),
            ]
        if sources:
            kinds.append(_Kind(sources[0], string_maps, f"{sources[0].name} along one string", "string"))
        return list({kind.name: kind for kind in kinds if kind.source.degrees}.values())


def _near(opened: "OpenSolo") -> list[Note]:
    """The notes that a map is looked at for: the selected ones, or all on the desk."""
    return opened.selected or list(opened.notes)
