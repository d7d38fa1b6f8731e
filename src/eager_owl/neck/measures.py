"""The measures that costs multiply: what each state, and each step between states, asks of a hand.

A lattice holds the states of all strokes in arrays of shape (strokes, most states of a stroke), filled up with
states that cost too much to be taken. Measures are yielded by the name of their row in `costs.Costs`.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eager_owl.neck.habits import Home, in_first_frets, points_at_open, run_places, slides_around
from eager_owl.neck.states import Rows
from eager_owl.solo.document import Instrument, Note
from eager_owl.solo.techniques import BENDS, LEGATO

REST_S = 0.35
_ON_BEAT = 0.13  # of a beat
_HURRY_S = 0.33
_STRING_HURRY_S = 0.12
# The upper neck begins where the octave of the nut is.
HIGH_NECK = 12
# A hand further up stands in a closed position, however low its line.
OPEN_POSITION = 2
# Strings from the fourth on are wound.
WOUND_FROM = 4
# Strings from the thinnest and frets from the minor root on it, where a root cell's notes lie.
_CELL_PLACES = frozenset(
    (string + across, (root + along) % 12)
    for string, root in ((2, 5), (4, 2), (6, 0))
    for across, along in ((0, 0), (0, -2), (-1, -2), (-1, 0))
)

# The minor box's bends, likewise: fourth on the third string, flat seventh on the second, flat third on the first.
_BOX_BENDS = ((3, 2), (2, 3), (1, 3))

_SUMMED = ("little", "opened", "stopped", "thick_high")
# Single precision is enough for costs, and half the memory to walk through.
_SURE = np.float32(1.0)

Measure = tuple[str, NDArray[Any]]


@dataclass(frozen=True)
class Strokes:
    """What the strokes of a line are, whatever takes them; arrays of shape (strokes,).

    `members` are indices into the notes, the highest first. `top` and `bottom` are pitches, `gap_s` and `rest_s` from
    the stroke before; `pointed`, `low`, `run`, `steady_run` and `slides` as in `habits`.
    """

    members: Sequence[Sequence[int]]
    top: NDArray[np.int64]
    bottom: NDArray[np.int64]
    gap_s: NDArray[np.float64]
    rest_s: NDArray[np.float64]
    bent: NDArray[np.bool_]
    slid: NDArray[np.bool_]
    legato: NDArray[np.bool_]
    surely_legato: NDArray[np.float32]
    rings: NDArray[np.bool_]
    pointed: NDArray[np.bool_]
    low: NDArray[np.bool_]
    run: NDArray[np.int64]
    steady_run: NDArray[np.int64]
    slides: NDArray[np.float64]


@dataclass(frozen=True)
class Lattice(Strokes):
    """Strokes and their states, shape (strokes, states), of the highest note of each (`string`, `fret`, `finger`),

    the thinnest and thickest string of it, and the hand's position; sums over its notes.
    """

    exists: NDArray[np.bool_]
    string: NDArray[np.int16]
    fret: NDArray[np.int16]
    finger: NDArray[np.int16]
    thinnest: NDArray[np.int16]
    thickest: NDArray[np.int16]
    position: NDArray[np.int16]
    reach_cm: NDArray[np.float32]
    strain_cm: NDArray[np.float32]
    out_of_place: NDArray[np.float32]
    barre: NDArray[np.float32]
    little: NDArray[np.float32]
    opened: NDArray[np.float32]
    stopped: NDArray[np.float32]
    thick_high: NDArray[np.float32]
    sounds_elsewhere: NDArray[np.float32]

    def along(self, path: Sequence[int]) -> "Lattice":
        """The lattice with one state a stroke: those of a path."""
        at = np.arange(len(path)), np.asarray(path)
        states = [f.name for f in fields(Lattice) if f.name not in _OF_STROKES]
        return replace(self, **{name: getattr(self, name)[at][:, None] for name in states})


_OF_STROKES = frozenset(f.name for f in fields(Strokes))


def surely(note: Note) -> float:
    """How far a note was come to as it is named: what is in doubt binds the hand less."""
    return 1.0 if note.manner_in_doubt in (None, "vibrato") else max(0.0, 1 - 2 * note.other_manners[0][1])


def read_strokes(
    notes: Sequence[Note],
    strokes: Sequence[Sequence[int]],
    instrument: Instrument,
    beats: Sequence[float] | None = None,
) -> Strokes:
    """What strokes (indices into notes, the highest first) are; `beats` are the notes' places on the beat grid."""
    heads_beats = None if beats is None else np.array([beats[stroke[0]] for stroke in strokes])
    on_beat = None if heads_beats is None else np.abs(heads_beats - np.round(heads_beats)) <= _ON_BEAT
    heads = [notes[stroke[0]] for stroke in strokes]
    onsets = np.array([note.onset for note in heads])
    ends = np.array([max(notes[i].end for i in stroke) for stroke in strokes])
    gap_s = np.diff(onsets, prepend=onsets[:1])
    named = [{technique.name for i in stroke for technique in notes[i].techniques} for stroke in strokes]
    slid = np.array(["slide" in names for names in named], dtype=np.bool_)
    pointed = points_at_open(notes, instrument)
    top = np.array([note.pitch for note in heads])
    legato = np.array([not names.isdisjoint(LEGATO) for names in named], dtype=np.bool_)
    surely_legato = [
        max(surely(notes[i]) * bool(notes[i].technique(*LEGATO)) for i in stroke) if is_legato else 0.0
        for stroke, is_legato in zip(strokes, legato, strict=True)
    ]
    return Strokes(
        strokes,
        top=top,
        bottom=np.array([notes[stroke[-1]].pitch for stroke in strokes]),
        gap_s=gap_s,
        rest_s=np.append(0.0, onsets[1:] - ends[:-1]),
        bent=np.array([not names.isdisjoint(BENDS) for names in named], dtype=np.bool_),
        slid=slid,
        legato=legato,
        surely_legato=np.array(surely_legato, np.float32),
        rings=np.array(["let_ring" in names for names in named], dtype=np.bool_),
        pointed=np.array([all(pointed[i] for i in stroke) for stroke in strokes]),
        low=in_first_frets(top, instrument),
        run=run_places(top, gap_s, True, on_beat),
        steady_run=run_places(top, gap_s, False, on_beat),
        slides=slides_around(slid),
    )


def build_lattice(strokes: Strokes, rows: Sequence[Rows], sounds: NDArray[np.float64] | None) -> Lattice:
    """Lay the states of strokes into arrays.

    `sounds` is what the sound says against each string, shape (notes, strings), or None.
    """
    count = np.array([len(r) for r in rows])
    most = int(count.max())
    exists = np.arange(most)[None, :] < count[:, None]

    def laid(values: Sequence[NDArray[Any]], kind: type) -> NDArray[Any]:
        array: NDArray[Any] = np.zeros(exists.shape, dtype=kind)
        array[exists] = np.concatenate(values)
        return array

    against = [
        sounds[np.asarray(stroke)[None, :], r.strings - 1].sum(axis=1) if sounds is not None else np.zeros(len(r))
        for stroke, r in zip(strokes.members, rows, strict=True)
    ]
    of_strokes: dict[str, Any] = {name: getattr(strokes, name) for name in _OF_STROKES}
    sums: dict[str, Any] = {name: laid([r.sums[name] for r in rows], np.float32) for name in _SUMMED}
    return Lattice(
        **of_strokes,
        **sums,
        exists=exists,
        string=laid([r.strings[:, 0] for r in rows], np.int16),
        fret=laid([r.frets[:, 0] for r in rows], np.int16),
        finger=laid([r.fingers[:, 0] for r in rows], np.int16),
        position=laid([r.position for r in rows], np.int16),
        reach_cm=laid([r.reach_cm for r in rows], np.float32),
        strain_cm=laid([r.strain_cm for r in rows], np.float32),
        out_of_place=laid([r.out_of_place for r in rows], np.float32),
        barre=laid([r.barre for r in rows], np.float32),
        thinnest=laid([r.sums["thinnest"] for r in rows], np.int16),
        thickest=laid([r.sums["thickest"] for r in rows], np.int16),
        sounds_elsewhere=laid(against, np.float32),
    )


def state_measures(lattice: Lattice) -> Iterator[Measure]:
    """What each state asks by itself, shape (strokes, states)."""
    yield "reach_cm", lattice.reach_cm
    yield "strain_cm", lattice.strain_cm
    yield "out_of_place", lattice.out_of_place
    yield "little_finger", lattice.little
    yield "barre_string", lattice.barre
    pointed = lattice.pointed[:, None]
    low = lattice.low[:, None] & ~pointed
    at_hand = low & (lattice.position <= OPEN_POSITION)
    yield "open_string", lattice.opened * ~(pointed | at_hand)
    yield "open_low", lattice.opened * at_hand
    yield "open_pointed_at", lattice.opened * pointed
    yield "high_for_low", low * np.maximum(lattice.position - 3.0, 0.0)
    yield "thick_high", lattice.thick_high
    bent, finger = lattice.bent[:, None], lattice.finger
    yield "bend_index", _SURE * (bent & (finger == 1))
    yield "bend_little", _SURE * (bent & (finger == 4))
    yield "bend_wound", _SURE * (bent & (lattice.string >= WOUND_FROM))
    yield "bend_low_fret", bent * np.maximum(5.0 - lattice.fret, 0.0)
    octave = lattice.top - lattice.bottom == 12
    yield "octave_other", _SURE * (octave[:, None] & (lattice.thickest - lattice.thinnest != 2))
    yield "up_neck", lattice.position * (lattice.stopped > 0)
    yield "low_neck", np.maximum(5.0 - lattice.position, 0.0)
    yield "high_neck", np.maximum(lattice.position - HIGH_NECK, 0.0)
    yield "sounds_elsewhere", lattice.sounds_elsewhere


def finger_measures(lattice: Lattice) -> Iterator[Measure]:
    """What each state asks by its finger alone, once its place is settled, shape (strokes, states)."""
    beyond = lattice.fret - lattice.position
    yield "little_outside_run", lattice.little * (lattice.steady_run < 0)[:, None]
    yield "ring_at_three", _SURE * ((lattice.finger == 3) & (beyond == 3))
    yield "middle_outside_run", _SURE * ((lattice.finger == 2) & (lattice.steady_run < 0)[:, None])
    yield "middle_at_two", _SURE * ((lattice.finger == 2) & (beyond == 2))
    bent = lattice.bent[:, None]
    yield "bend_without_ring", _SURE * (bent & (lattice.finger != 3))


def finger_step_measures(lattice: Lattice, first: int, last: int) -> Iterator[Measure]:
    """What steps ask by the fingers alone, once places are settled, shape as of `step_measures`."""
    before, after = slice(first - 1, last - 1), slice(first, last)
    finger, following = lattice.finger[before][:, :, None], lattice.finger[after][:, None, :]
    along = lattice.string[before][:, :, None] == lattice.string[after][:, None, :]
    bound = (lattice.surely_legato * ~lattice.slid * (lattice.rest_s < REST_S))[after][:, None, None]
    yield "legato_same_finger", _SURE * bound * ((finger == following) & (finger > 0) & along)


def home_measures(lattice: Lattice, home: Home, instrument: Instrument) -> tuple[NDArray[np.int16], list[Measure]]:
    """Frets (0 to 11) of each state's hand above the home's root on the thinnest string, and measures by the home:

    whether its note lies in a root cell, is bent where the minor box has its bends, lies in the major root box.
    """
    root_fret = home.root - instrument.tuning[0]
    above = (lattice.position - root_fret) % 12
    strings, along = np.minimum(lattice.string, 7), (lattice.fret - root_fret) % 12
    cell, bends = np.zeros((8, 12)), np.zeros((8, 12))
    for table, places in ((cell, _CELL_PLACES), (bends, _BOX_BENDS)):
        for string, fret in places:
            table[string, fret] = 1.0
    at_home = lattice.bent[:, None] & np.isin(above, (11, 0, 1))
    measures: list[Measure] = [("root_cell", cell[strings, along]), ("box_bend", bends[strings, along] * at_home)]
    if home.tonic is not None:
        tonic_fret = home.tonic - instrument.tuning[1]
        measures.append(("root_box", _SURE * np.isin(lattice.position, (tonic_fret - 1, tonic_fret))))
    return above, measures


def step_measures(lattice: Lattice, first: int, last: int) -> Iterator[Measure]:
    """What each step into the strokes first to last - 1 asks, shape (steps, states before, states)."""
    before, after = slice(first - 1, last - 1), slice(first, last)

    def pair(array: NDArray[np.int16]) -> tuple[NDArray[np.int16], NDArray[np.int16]]:
        return array[before][:, :, None], array[after][:, None, :]

    def of(array: NDArray[Any]) -> NDArray[Any]:
        return array[after][:, None, None]

    position, position_after = pair(lattice.position)
    finger, finger_after = pair(lattice.finger)
    thinnest, thinnest_after = pair(lattice.thinnest)
    thickest, thickest_after = pair(lattice.thickest)
    string, string_after = pair(lattice.string)
    fret, fret_after = pair(lattice.fret)
    slid, legato, gap_s = of(lattice.slid), of(lattice.legato), of(lattice.gap_s.astype(np.float32))
    interval = np.abs(np.diff(lattice.top, prepend=lattice.top[:1]))[after][:, None, None]

    chords = (thinnest != thickest) & (thinnest_after != thickest_after)
    way = np.abs(position_after - position).astype(np.float32)
    moved = way > 0
    same_strings = (thinnest == thinnest_after) & (thickest == thickest_after)
    strings = np.maximum(np.maximum(thinnest_after - thickest, thinnest - thickest_after), 0)
    stopped = (finger > 0) & (finger_after > 0)
    resting = of(lattice.rest_s) >= REST_S
    sliding = slid & same_strings & ~resting
    opened = ~stopped & ~resting
    gliding = same_strings & stopped & ~resting & ~sliding
    plain = ~(resting | sliding | opened | gliding)
    yield "shift", _SURE * (plain & moved)
    yield "shift_fret", plain * way
    slides = of(lattice.slides.astype(np.float32))
    single = gliding & ~chords
    yield "glide", (single & moved) * (1 - slides)
    yield "glide_fret", single * way * (1 - slides)
    yield "glide_among_slides", single * way * slides
    yield "shape_fret", (gliding & chords) * way
    yield "open_shift", _SURE * (opened & moved)
    yield "open_fret", opened * way
    yield "rest_shift", _SURE * (resting & moved)
    yield "rest_fret", resting * way
    yield "slide_fret", sliding * way
    yield "hurry_fret", (plain | gliding) * way * np.clip(1 - gap_s / _HURRY_S, 0, 1)
    yield "string_change", _SURE * (strings > 0)
    yield "shape_elsewhere", chords * (_SURE * (thinnest != thinnest_after) + _SURE * (thickest != thickest_after))
    yield "string_skip", np.maximum(strings - 1, 0)
    yield "string_hurry", strings * np.clip(1 - gap_s / _STRING_HURRY_S, 0, 1)
    yield "repeat_elsewhere", _SURE * ((interval == 0) & (string != string_after) & stopped)
    yield "half_step_across", _SURE * ((interval == 1) & (strings > 0))
    yield "leap_along", np.maximum(interval - 4, 0).astype(np.float32) * (same_strings & ~slid)
    yield "octave_other", _SURE * ((interval == 12) & (strings != 2))
    same = (finger == finger_after) & stopped & ~((string == string_after) & (fret == fret_after))
    rolled = same & (np.abs(string - string_after) == 1) & (fret == fret_after)
    yield "rolled_finger", _SURE * (rolled & ~slid)
    yield "same_finger", _SURE * (same & ~rolled & ~slid & (~moved | (string == string_after)) & ~resting)
    yield (
        "legato_elsewhere",
        _SURE * of(lattice.surely_legato) * ~same_strings
        + _SURE
        * (lattice.rings[before][:, None, None] & (thinnest_after <= thickest) & (thickest_after >= thinnest)),
    )
    yield "slide_other_finger", _SURE * (slid & (finger != finger_after))
    yield "slide_line", (strings > 0) * slides
    run, steady = of(lattice.run), of(lattice.steady_run)
    left, stayed = (strings > 0), (strings == 0)
    yield "three_left", _SURE * ((run > 0) & (run % 3 != 0) & left)
    yield "three_stayed", _SURE * ((run > 0) & (run % 3 == 0) & stayed)
    yield "three_left_steady", _SURE * ((steady > 0) & (steady % 3 != 0) & left)
    yield "three_stayed_steady", _SURE * ((steady > 0) & (steady % 3 == 0) & stayed)
    yield "picked_stays", _SURE * ((run > 0) & ~legato & lattice.legato[before][:, None, None] & (strings == 0))
