"""What a line of notes says by itself about where it is played: its home, its runs, slides and pedals."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.solo.document import Instrument, Note
from eager_owl.theory.key import Key

# How much a pitch class speaks for the minor pentatonic home whose root lies so many semitones under it.
_HOME_PROFILE = np.array([1.0, -0.6, 0.2, 0.8, -0.4, 0.7, 0.0, 0.9, 0.1, 0.15, 0.75, -0.4])
_FINAL_SPEAKS, _FIRST_SPEAKS, _BLUES_SPEAKS = 0.15, 0.05, 0.2
# A home so much less likely, per unit of profile, is so much dearer.
_DOUBT_COST = 40.0
HOMES_TRIED = 3
_RUN_NOTES, _RUN_S, _SCALE_NOTES, _THIRDS_IN_RUN = 8, 0.17, 4, 0.2
_PICKUP = 2
_SLIDES_AROUND, _LOW_AROUND = 4, 8
_SLIDING = 0.6  # a line slides, where it does so as much around
_FIRST_FRETS, _OPEN_SHARE = 3, 0.2
_PEDAL_S = 1.0
# Semitones from a tonic under the index finger on the second string to what lies under the hand there.
_ROOT_BOX = frozenset((-5, -3, 0, 2, 5, 7, 9))
_ROOT_BOX_SHARE, _ROOT_BOX_NOTES = 0.9, 4


@dataclass(frozen=True)
class Home:
    """A pitch class whose minor pentatonic boxes the line may stand in, and what it costs to believe so.

    `tonic` is the MIDI pitch around which the line stays as the major root box has it, or None.
    """

    root: int
    cost: float
    tonic: int | None = None


def homes(notes: Sequence[Note], key: Key | None) -> list[Home]:
    """The likely homes, likeliest first.

    With a minor key there is one. With a major key or a blues it is the relative minor, or the tonic where the line
    has more of the tonic's minor than of its major; besides it the major root box, if the line stays around a tonic.
    With none, the notes say.
    """
    if key is not None and key.mode == "minor":
        return [Home(key.tonic, 0.0)]
    score = _home_scores(notes)
    roots = range(12) if key is None else ((key.tonic + 9) % 12, key.tonic)
    if key is not None and key.is_blues:
        score[key.tonic] += _BLUES_SPEAKS
    likely = sorted(roots, key=lambda root: -score[root])[:HOMES_TRIED]
    found = [Home(root, _DOUBT_COST * float(score[likely[0]] - score[root])) for root in likely]
    tonic = _root_box_tonic(notes, key.tonic) if key is not None else None
    return found if tonic is None else [replace(home, tonic=tonic) for home in found]


def _root_box_tonic(notes: Sequence[Note], tonic: int) -> int | None:
    """The pitch of the tonic around which a line moves as in the major root box, with the sixth below it or the

    second bent to the third.
    """
    if len(notes) < _ROOT_BOX_NOTES:
        return None
    for root in sorted({note.pitch for note in notes if (note.pitch - tonic) % 12 == 0}):
        inside = sum(note.pitch - root in _ROOT_BOX for note in notes)
        spoken = any(note.pitch - root == -3 or (note.pitch - root == 2 and note.bend) for note in notes)
        if spoken and inside >= _ROOT_BOX_SHARE * len(notes):
            return root
    return None


def _home_scores(notes: Sequence[Note]) -> NDArray[np.float64]:
    """How well each root's minor pentatonic explains the notes, weighed by how long they are held."""
    weight = np.zeros(12)
    for note in notes:
        landed = note.landed
        for pitch in {note.pitch, landed}:
            weight[pitch % 12] += min(note.duration, 1.0) ** 0.5
    weight /= max(weight.sum(), 1e-9)
    scores = np.array([float(np.roll(weight, -root) @ _HOME_PROFILE) for root in range(12)])
    if notes:
        scores[notes[-1].pitch % 12] += _FINAL_SPEAKS
        scores[notes[0].pitch % 12] += _FIRST_SPEAKS
    return scores


def run_places(
    tops: NDArray[np.int64], gaps: NDArray[np.float64], quick: bool, on_beat: NDArray[np.bool_] | None = None
) -> NDArray[np.int64]:
    """For each stroke its place in a scale run of one direction, from 0; -1 where it is in none.

    A run moves by half steps, whole steps and the steps of a harmonic minor: eight notes at least, of at most 0.17 s
    each, if it has to be quick; else four at any pace. It begins on the beat, where that is known, after a pickup of
    one note or two.
    """
    fewest, slowest_s = (_RUN_NOTES, _RUN_S) if quick else (_SCALE_NOTES, np.inf)
    ways = np.diff(tops, prepend=tops[:1])
    steps = (np.abs(ways) >= 1) & (np.abs(ways) <= 3) & (gaps <= slowest_s)
    places = np.full(len(tops), -1)
    start = 0
    for i in range(1, len(tops) + 1):
        if i < len(tops) and steps[i] and (i - start == 1 or ways[i] * ways[i - 1] > 0):
            continue
        if i - start >= fewest and np.mean(np.abs(ways[start + 1 : i]) == 3) <= _THIRDS_IN_RUN:
            beats = on_beat[start : start + _PICKUP + 1] if on_beat is not None else np.ones(1, np.bool_)
            pickup = int(beats.argmax()) if beats.any() else 0
            places[start + pickup : i] = np.arange(i - start - pickup)
        start = i - 1 if i < len(tops) and steps[i] else i
    return places


def slides_around(slid: NDArray[np.bool_]) -> NDArray[np.float64]:
    """How much the line slides around each stroke, 0 to 1: wholly where a third of it and its eight neighbours do."""
    return np.minimum(3 * _share_around(slid, _SLIDES_AROUND), 1.0)


def in_first_frets(tops: NDArray[np.int64], instrument: Instrument) -> NDArray[np.bool_]:
    """Whether the line around each stroke lies within three frets, and a fifth of it on the pitches of open strings,

    of two at least: one alone may as well be a tone of a closed position.
    """
    opens = np.array(instrument.tuning) + instrument.capo
    low = _share_around(tops <= opens.max() + _FIRST_FRETS, _LOW_AROUND) > 0.99
    shares = np.array([_share_around(tops == pitch, _LOW_AROUND) for pitch in opens])
    return np.asarray(low & (shares.sum(axis=0) >= _OPEN_SHARE) & ((shares > 0).sum(axis=0) > 1))


def _share_around(marks: NDArray[np.bool_], reach: int) -> NDArray[np.float64]:
    """The share of marked strokes among each and so many on either side."""
    sums = np.concatenate([[0.0], np.cumsum(marks)])
    at = np.arange(len(marks))
    first, last = np.maximum(at - reach, 0), np.minimum(at + reach + 1, len(marks))
    return np.asarray((sums[last] - sums[first]) / (last - first))


def points_at_open(notes: Sequence[Note], instrument: Instrument) -> list[bool]:
    """Whether the line points at each note's open string: by legato to or from it, or as a pedal between others.

    Legato in a line that slides does not: it belongs to the hand's way along the neck. A pedal comes three times.
    """
    opens = {pitch + instrument.capo for pitch in instrument.tuning}
    slides = slides_around(np.array([note.technique("slide") is not None for note in notes], dtype=np.bool_))

    def returns(i: int, j: int) -> bool:
        """Whether note i comes back as note j, two on or back, around another."""
        return (
            0 <= j < len(notes)
            and notes[j].pitch == notes[i].pitch
            and notes[(i + j) // 2].pitch != notes[i].pitch
            and abs(notes[j].onset - notes[i].onset) < _PEDAL_S
        )

    pointed = []
    for i, note in enumerate(notes):
        pulled = note.technique("pull_off") is not None
        hammered = i + 1 < len(notes) and notes[i + 1].technique("hammer_on") is not None
        legato = (pulled or hammered) and slides[i] < _SLIDING
        pedal = any(
            returns(i, i + a) and returns(i + b, i + b + c) for a, b, c in ((2, 2, 2), (-2, 0, 2), (-2, -2, -2))
        )
        pointed.append(note.pitch in opens and (legato or pedal))
    return pointed
