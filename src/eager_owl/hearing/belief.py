"""How far a note is to be believed: two witnesses, the line that was followed and the judge, weighed together.

Small networks (eager_owl.hearing.networks) see what the line makes of a claim, the judge's word on its pitch and on
the others before and after it begins, and the claims next to it. benchmarks/train_belief.py trains them, once for a
guitar alone and once for a lead over a band; a belief of 0.9 is right about nine times in ten.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.frames import HOP_S, Frames
from eager_owl.hearing.judge import Judgement, Kind
from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.pitch_track import PitchTrack
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates
from eager_owl.hearing.segment import RawNote
from eager_owl.hearing.several import Beginning

BELIEVED = 0.5  # a claim less probable than not is no note
_SAME_SEMITONES, _SAME_S = 0.6, 0.05
# Coarse frames from where a claim begins: of its own pitch, of where it may begin, of what else sounds, and before
# and after it.
_SOUNDS_AT = (-16, -11, -8, -6, -4, -3, -2, -1, 0, 1, 2, 3, 4, 6, 8, 11, 15, 20, 28)
_BEGINS_AT = (-8, -6, -4, -3, -2, -1, 0, 1, 2, 3, 4, 6, 8)
_OTHERS_AT = (-8, -3, 0, 3, 6, 11, 18)
_BEFORE_AT, _AFTER_AT = (-7, -6, -5, -4, -3, -2), (2, 3, 4, 5, 6, 7, 8)
_SOUNDING_AT = 2  # its own pitch has begun
# Semitones at which other strings are taken for a pitch's octave, fifth or twelfth, or that for theirs.
_RELATED = (-24, -19, -12, -7, -5, 5, 7, 12, 19, 24)
# Fine frames from where it begins: parts in which it is struck, its loudest, what was before.
_STROKE_EDGES, _LOUDEST, _BEFORE = (-20, -10, -4, 0, 4, 10, 20), slice(0, 14), slice(-6, -1)
_LINE_NEAR, _LINE_SEMITONES, _ENTERED = slice(-3, 10), 0.8, 4
_MOST_FLUX, _MOST_STEADY_S, _MOST_S, _SILENT_DB = 8.0, 0.2, 2.0, -120.0
_NEIGHBOURS, _SOON_S, _AROUND_S = 4, 0.15, 1.0


@dataclass(frozen=True)
class Claim:
    """A note that may be one: `raw` from the line or `beginning` from the judge, or both."""

    raw: RawNote | None
    beginning: Beginning | None

    @property
    def onset_s(self) -> float:
        """Seconds at which it would begin."""
        return self.raw.start * HOP_S if self.raw else self.beginning.frame * COARSE_HOP_S if self.beginning else 0.0

    @property
    def midi(self) -> float:
        """The fretted pitch it would have."""
        return self.raw.midi if self.raw else self.beginning.midi if self.beginning else 0.0

    @property
    def struck_midi(self) -> float:
        """The pitch it begins at: not its fretted one where it is struck already bent."""
        return self.raw.plateaus[0].midi if self.raw else self.midi


def collect_claims(raw: Sequence[RawNote], beginnings: Sequence[Beginning]) -> list[Claim]:
    """Everything either witness heard, by onset."""
    claims: list[Claim] = []
    taken: set[int] = set()
    for note in raw:
        near = [
            index
            for index, b in enumerate(beginnings)
            if index not in taken
            and abs(b.frame * COARSE_HOP_S - note.start * HOP_S) < _SAME_S
            and abs(b.midi - note.plateaus[0].midi) < _SAME_SEMITONES
        ]
        best = max(near, key=lambda index: beginnings[index].begins, default=None)
        if best is not None:
            taken.add(best)
        claims.append(Claim(note, beginnings[best] if best is not None else None))
    claims += [Claim(None, beginning) for index, beginning in enumerate(beginnings) if index not in taken]
    return sorted(claims, key=lambda claim: claim.onset_s)


def believe(seen: NDArray[np.float32], kind: Kind) -> NDArray[np.float32]:
    """Probability that each claim is a note, its pitch and onset right; `seen` as describe_claims has it."""
    return ask(layers_of(f"belief_{kind}"), seen)[:, 0] if len(seen) else np.zeros(0, np.float32)


def describe_claims(
    claims: Sequence[Claim],
    frames: Frames,
    track: PitchTrack,
    found: Candidates,
    judged: Judgement,
    reference_cents: float,
) -> NDArray[np.float32]:
    """What the networks see of claims, ascending by onset: shape (len(claims), features)."""
    if not claims:
        return np.zeros((0, 0), np.float32)
    midi = np.array([claim.struck_midi for claim in claims])
    onsets_s = np.array([claim.onset_s for claim in claims])
    own = np.array([_of_witnesses(claim, track) for claim in claims])
    words = _words(midi, np.rint(onsets_s / COARSE_HOP_S).astype(np.intp), found, judged)
    fretted = np.array([claim.midi for claim in claims])
    off = fretted - reference_cents / 100
    parts = [
        own,
        np.column_stack([np.abs(off - np.round(off)), (midi - 60) / 12]),
        _beside_the_line(claims, fretted, track),
        _loudness(onsets_s, frames),
        *words.values(),
        _neighbours(onsets_s, fretted, words["begins"], words["sounds"]),
    ]
    return np.concatenate(parts, axis=1).astype(np.float32)


def _of_witnesses(claim: Claim, track: PitchTrack) -> list[float]:
    """Who claims it, and what the line makes of it."""
    heard, note = float(claim.beginning is not None), claim.raw
    if note is None:
        return [heard, *[0.0] * 6]
    longest = max(note.plateaus, key=lambda p: p.end - p.start)
    return [
        heard,
        1.0,
        float(track.clarity[longest.start : longest.end].mean()),
        min((longest.end - longest.start) * HOP_S, _MOST_STEADY_S),
        float(note.arrival != "attack"),
        len(note.plateaus) / 2,
        min((note.end - note.start) * HOP_S, _MOST_S),
    ]


def _beside_the_line(claims: Sequence[Claim], midi: NDArray[np.float64], track: PitchTrack) -> NDArray[np.float64]:
    """Whether the line has its pitch about then, whether another note of it begins, holds that pitch, or goes on."""
    raw = [(index, claim.raw) for index, claim in enumerate(claims) if claim.raw]
    start, end = (np.array(part) for part in ([note.start for _, note in raw], [note.end for _, note in raw]))
    at = np.array([round(claim.onset_s / HOP_S) for claim in claims])
    other = np.arange(len(claims))[:, None] != np.array([index for index, _ in raw], dtype=np.intp)
    over = other & (start - _ENTERED <= at[:, None]) & (at[:, None] < end)
    same = np.abs(midi[:, None] - np.array([note.midi for _, note in raw])) < _LINE_SEMITONES
    line = [track.midi[max(0, frame + _LINE_NEAR.start) : frame + _LINE_NEAR.stop] for frame in at]
    there = [bool((np.abs(part - pitch) < _LINE_SEMITONES).any()) for part, pitch in zip(line, midi, strict=True)]
    begins = (other & (np.abs(start - at[:, None]) * HOP_S < _SAME_S)).any(axis=1)
    return np.column_stack([there, begins, (over & same).any(axis=1), over.any(axis=1)]).astype(np.float64)


def _loudness(onsets_s: NDArray[np.float64], frames: Frames) -> NDArray[np.float64]:
    """How much softer each is than the loudest near it, how much the level rises, and what is struck when."""
    at = np.rint(onsets_s / HOP_S).astype(np.intp)
    levels = np.array([frames.level_db[a + _LOUDEST.start : a + _LOUDEST.stop].max(initial=_SILENT_DB) for a in at])
    before = [frames.level_db[max(0, a + _BEFORE.start) : max(1, a + _BEFORE.stop)].mean() for a in at]
    around = np.abs(onsets_s[:, None] - onsets_s) < _AROUND_S
    louder = np.where(around, levels, -np.inf).max(axis=1)
    first, last = _STROKE_EDGES[0], _STROKE_EDGES[-1]
    near = np.pad(frames.flux, (-first, last + 1))[at[:, None] + np.arange(last - first)]
    strokes = np.maximum.reduceat(near, np.array(_STROKE_EDGES[:-1]) - first, axis=1)
    flux = np.clip(strokes, 0, _MOST_FLUX) / _MOST_FLUX
    return np.column_stack([np.clip((levels - louder) / 10, -3, 0), np.clip((levels - before) / 10, -1, 3), flux])


def _words(
    midi: NDArray[np.float64], rows: NDArray[np.intp], found: Candidates, judged: Judgement
) -> dict[str, NDArray[np.float32]]:
    """The judge's word on each claim's pitch, on all others, and on those that are taken for each other."""
    # All that is asked for lies in the frames of _SOUNDS_AT: they are gathered once.
    wanted = rows[:, None] + np.arange(_SOUNDS_AT[0], _SOUNDS_AT[-1] + 1)
    frames = np.clip(wanted, 0, len(found.bins) - 1)
    there = (found.bins[frames] >= 0) & (wanted == frames)[..., None]
    steps = found.midi[frames] - midi[:, None, None].astype(np.float32)
    sounds, begins, struck = (
        np.where(there, layer[frames], 0) for layer in (judged.sounds, judged.begins, judged.struck)
    )

    def word(layer: NDArray[np.float32], at: tuple[int, ...], step: float | None) -> NDArray[np.float32]:
        """The highest on candidates some semitones from the pitch, or (None) on all but it: (claims, frames)."""
        columns = np.array(at) - _SOUNDS_AT[0]
        near = np.abs(steps[:, columns] - (step or 0.0)) < _SAME_SEMITONES
        return np.asarray((layer[:, columns] * (near == (step is not None))).max(axis=2))

    related = [
        word(sounds, at, step).mean(axis=1, keepdims=True) for step in _RELATED for at in (_BEFORE_AT, _AFTER_AT)
    ]
    return {
        "sounds": word(sounds, _SOUNDS_AT, 0.0),
        "begins": word(begins, _BEGINS_AT, 0.0),
        "struck": word(struck, _BEGINS_AT, 0.0),
        "others sound": word(sounds, _OTHERS_AT, None),
        "others begin": word(begins, _OTHERS_AT, None),
        "related": np.concatenate(related, axis=1),
    }


def _neighbours(
    onsets_s: NDArray[np.float64], midi: NDArray[np.float64], begins: NDArray[np.float32], sounds: NDArray[np.float32]
) -> NDArray[np.float64]:
    """The claims next to each, _NEIGHBOURS to either side: how soon, how far off, and what the judge says of them."""
    here = np.column_stack([begins[:, _BEGINS_AT.index(0)], sounds[:, _SOUNDS_AT.index(_SOUNDING_AT)]])
    result = []
    for away in (*range(-_NEIGHBOURS, 0), *range(1, _NEIGHBOURS + 1)):
        other = np.arange(len(midi)) + away
        is_one = (other >= 0) & (other < len(midi))
        other = np.where(is_one, other, 0)
        since, step = np.abs(onsets_s[other] - onsets_s), midi[other] - midi
        seen = [np.exp(-since / _SOON_S), np.clip(step / 12, -2, 2), np.abs(step) < _SAME_SEMITONES, *here[other].T]
        result.append(np.where(is_one[:, None], np.column_stack(seen), 0.0))
    return np.concatenate(result, axis=1)
