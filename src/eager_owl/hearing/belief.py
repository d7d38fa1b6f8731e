"""How far a note is to be believed: two witnesses, the line that was followed and the judge, weighed together.

Three logistic regressions, for what both heard, what only the line passed through and what only the judge heard
begin. benchmarks/train_belief.py fits them into belief_alone.json and belief_band.json; a belief of 0.9 is right
about nine times in ten.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.frames import HOP_S, Frames
from eager_owl.hearing.judge import Judgement, Kind, mean_best
from eager_owl.hearing.pitch_track import PitchTrack
from eager_owl.hearing.regressions import probability, weights_of
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates
from eager_owl.hearing.segment import RawNote
from eager_owl.hearing.several import Beginning

BELIEVED = 0.5  # a claim less probable than not is no note
_SAME_SEMITONES, _SAME_S = 0.6, 0.05
_HEARD_S = 0.16
_PARTIALS = (19, 24, 28, 31)  # semitones over a note at which its third to sixth harmonics lie
_MOST_STEADY_S, _MOST_FLUX = 0.2, 5.0
# Of neighbours in time: at once, soon, around; frames within which a claim is at its loudest.
_AT_ONCE_S, _SOON_S, _AROUND_S, _PEAK_FRAMES = 0.02, 0.12, 1.0, 14
_SILENT_DB = -120.0


@dataclass(frozen=True)
class Claim:
    """A note that may be one. `raw` from the line or `beginning` from the judge, or both; `features` by name."""

    raw: RawNote | None
    beginning: Beginning | None
    features: dict[str, float]

    @property
    def witnesses(self) -> str:
        """Who claims it: both, line or judge."""
        return "both" if self.raw and self.beginning else "line" if self.raw else "judge"

    @property
    def onset_s(self) -> float:
        """Seconds at which it would begin."""
        return self.raw.start * HOP_S if self.raw else self.beginning.frame * COARSE_HOP_S if self.beginning else 0.0

    @property
    def midi(self) -> float:
        """The fretted pitch it would have."""
        return self.raw.midi if self.raw else self.beginning.midi if self.beginning else 0.0


def struck(note: RawNote) -> float:
    """The pitch a note begins at: not its fretted one where it is struck already bent."""
    return note.plateaus[0].midi


def off_pitch(midi: float, reference_cents: float) -> float:
    """Semitones from the nearest pitch of the recording's own tuning."""
    true = midi - reference_cents / 100
    return abs(true - round(true))


def collect_claims(
    raw: list[RawNote],
    frames: Frames,
    track: PitchTrack,
    beginnings: list[Beginning],
    found: Candidates,
    judged: Judgement,
    reference_cents: float,
) -> list[Claim]:
    """Everything either witness heard, by onset."""
    claims: list[Claim] = []
    taken: set[int] = set()
    for note in raw:
        near = [
            index
            for index, b in enumerate(beginnings)
            if index not in taken
            and abs(b.frame * COARSE_HOP_S - note.start * HOP_S) < _SAME_S
            and abs(b.midi - struck(note)) < _SAME_SEMITONES
        ]
        best = max(near, key=lambda index: beginnings[index].begins, default=None)
        if best is not None:
            taken.add(best)
        beginning = beginnings[best] if best is not None else None
        claims.append(Claim(note, beginning, _of_line(note, beginning, track, found, judged, reference_cents)))
    for index, beginning in enumerate(beginnings):
        if index not in taken:
            claims.append(Claim(None, beginning, _of_judge(beginning, raw, frames, track, reference_cents)))
    return _among_neighbours(sorted(claims, key=lambda claim: claim.onset_s), frames)


def _among_neighbours(claims: list[Claim], frames: Frames) -> list[Claim]:
    """With what stands around each in time: what comes soon, softly, on the same pitch or far away is less likely."""
    if not claims:
        return []
    times = np.array([claim.onset_s for claim in claims])
    pitches = np.array([claim.midi for claim in claims])
    fine = (times / HOP_S).astype(np.intp)
    levels = np.array([frames.level_db[at : at + _PEAK_FRAMES].max(initial=_SILENT_DB) for at in fine])
    rises = levels - [frames.level_db[max(0, at - 6) : max(1, at - 1)].mean() for at in fine]
    # Of each claim (row) against each other.
    since, step = times[:, None] - times, np.abs(pitches[:, None] - pitches)
    before, at_least_with = since > _AT_ONCE_S, since > -_AT_ONCE_S
    same, octave = step < _SAME_SEMITONES, np.abs(step - 12) < _SAME_SEMITONES
    around = (np.abs(since) < _AROUND_S) & (since != 0)
    louder = np.maximum(np.where(around, levels, -np.inf).max(axis=1), levels)
    seen = {
        "soon": _soon(since, before),
        "soon_again": _soon(since, before & same),
        "soon_octave": _soon(np.abs(since), at_least_with & octave),
        "left_soon": _soon(-since, since < -_AT_ONCE_S),
        "softer": np.clip((levels - louder) / 10, -3, 0),
        "rise": np.clip(rises / 10, -1, 3),
        "far": np.minimum(_medians(step, around), 24.0) / 12,
    }
    names, rows = [*seen], np.column_stack([*seen.values()]).tolist()
    return [
        replace(claim, features=claim.features | dict(zip(names, row, strict=True)))
        for claim, row in zip(claims, rows, strict=True)
    ]


def _soon(seconds: NDArray[np.float64], which: NDArray[np.bool_]) -> NDArray[np.float64]:
    """How soon the nearest of those in question comes, row by row: 1 at once, 0 if there is none."""
    return np.asarray(np.exp(-np.where(which, seconds, np.inf).min(axis=1) / _SOON_S))


def _medians(values: NDArray[np.float64], which: NDArray[np.bool_]) -> NDArray[np.float64]:
    """The median of those in question, row by row, 0 if there is none."""
    ascending, count = np.sort(np.where(which, values, np.inf), axis=1), which.sum(axis=1)
    rows = np.arange(len(values))
    middle = (ascending[rows, np.maximum(count - 1, 0) // 2] + ascending[rows, count // 2]) / 2
    return np.where(count > 0, middle, 0.0)


def _of_line(
    note: RawNote,
    beginning: Beginning | None,
    track: PitchTrack,
    found: Candidates,
    judged: Judgement,
    reference_cents: float,
) -> dict[str, float]:
    longest = max(note.plateaus, key=lambda p: p.end - p.start)
    first = int(note.start * HOP_S / COARSE_HOP_S)
    seconds = min((note.end - note.start) * HOP_S, _HEARD_S)
    rows = np.arange(first, min(max(first + 3, first + round(seconds / COARSE_HOP_S)), len(found.bins)))
    near = np.abs(found.midi[rows] - struck(note)) < _SAME_SEMITONES
    return {
        **_of_beginning(beginning),
        "sounds": mean_best(judged.sounds[rows], near),
        "others_sound": mean_best(judged.sounds[rows], ~near),
        "clarity": float(track.clarity[longest.start : longest.end].mean()),
        "steady_s": min((longest.end - longest.start) * HOP_S, _MOST_STEADY_S),
        "flux": min(note.attack_flux, _MOST_FLUX),
        "legato": float(note.arrival != "attack"),
        "off_pitch": off_pitch(note.midi, reference_cents),
        "bent": float(len(note.plateaus) > 1),
    }


def _of_beginning(beginning: Beginning | None) -> dict[str, float]:
    """The judge's word, nothing where it gave none."""
    return {
        "begins": beginning.begins if beginning else 0.0,
        "begun_sounds": beginning.sounds if beginning else 0.0,
        "begun_struck": beginning.struck if beginning else 0.0,
        "sounded": beginning.sounded if beginning else 0.0,
        "lasts": beginning.lasts if beginning else 0.0,
    }


def _of_judge(
    beginning: Beginning, raw: list[RawNote], frames: Frames, track: PitchTrack, reference_cents: float
) -> dict[str, float]:
    frame = round(beginning.frame * COARSE_HOP_S / HOP_S)
    line = track.midi[max(0, frame - 3) : frame + 10]
    line = line[np.isfinite(line)]
    over = [note for note in raw if note.start - 4 <= frame < note.end]
    starts = any(abs(note.start - frame) * HOP_S < _SAME_S for note in raw)
    return {
        **_of_beginning(beginning),
        "line_there": float(bool(len(line)) and float(np.abs(line - beginning.midi).min()) < 0.8),
        "another_starts": float(starts),
        "begins_with_another": beginning.begins * starts,
        "same_goes_on": float(any(abs(note.midi - beginning.midi) < 0.8 for note in over)),
        "flux": min(float(frames.flux[max(0, frame - 6) : frame + 7].max(initial=0.0)), _MOST_FLUX),
        "octave_of_another": float(any(abs(abs(n.midi - beginning.midi) - 12) < 0.6 for n in over)),
        "partial_of_another": float(
            any(abs(beginning.midi - n.midi - partial) < 0.6 for n in over for partial in _PARTIALS)
        ),
        "off_pitch": off_pitch(beginning.midi, reference_cents),
        "within_another": float(bool(over)),
    }


def belief(claim: Claim, kind: Kind) -> float:
    """Probability that a claim is a note, its pitch and onset right."""
    return probability(weights_of(f"belief_{kind}")[claim.witnesses], claim.features)
