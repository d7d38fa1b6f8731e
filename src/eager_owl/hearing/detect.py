"""The whole of hearing in one call: mono samples in, notes out."""

from collections import defaultdict
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Cancelled, resample
from eager_owl.hearing.articulation import drop_passed_frets, measure_techniques, other_manners, with_doubts
from eager_owl.hearing.attacks import find_attacks
from eager_owl.hearing.belief import BELIEVED, Claim, believe, collect_claims, describe_claims
from eager_owl.hearing.echo import find_echo, without_echo
from eager_owl.hearing.frames import HOP_S, RATE_HZ, Frames, measure_frames
from eager_owl.hearing.harmonics import touched
from eager_owl.hearing.hints import NO_HINTS, Hints, hinted_candidates, hinted_frames, tapped_attacks
from eager_owl.hearing.judge import Judgement, Kind, judge_candidates
from eager_owl.hearing.lead import as_track, follow_lead
from eager_owl.hearing.measures import loudness_db, runners_up, sampled, words_of
from eager_owl.hearing.mix import OPEN_FROM, OPEN_TO, Claimed, Mix, is_band, lead_sounds, mix_score
from eager_owl.hearing.muted import find_muted, raked
from eager_owl.hearing.naming import Played, belief_in_name, describe_names
from eager_owl.hearing.palm import palm_muted
from eager_owl.hearing.pitch_track import PitchTrack, track_pitch
from eager_owl.hearing.plateaus import Plateau, find_plateaus
from eager_owl.hearing.ringing import ringing
from eager_owl.hearing.salience import COARSE_HOP_S, Candidates, Spectra, find_candidates, measure_spectra
from eager_owl.hearing.segment import RawNote, find_notes, merge_untapped
from eager_owl.hearing.several import Beginning, find_beginnings, follow_ridge, without_mixtures
from eager_owl.hearing.styles import name_styles
from eager_owl.hearing.tails import without_tail
from eager_owl.hearing.transitions import decider, gather_evidence
from eager_owl.hearing.tuning import tuning_offset_cents
from eager_owl.hearing.voices import NoteSound
from eager_owl.solo.document import CONTOUR_HOP_S, TOGETHER_S, Note
from eager_owl.solo.techniques import Manner, Technique

Progress = Callable[[float, str], bool]
MixWanted = Literal["auto", "solo", "band"]

_PINNED_S = 0.06
_BEGINS_NEAR = 5  # frames, from where the judge hears a beginning to the attack
_MUTED_FRAMES, _MUTED_BELIEF = 10, 0.75


@dataclass(frozen=True)
class Detection:
    """Notes with ids from 1, onsets in s of the given samples; the tuning offset they are read against; the mix.

    `others` are notes of the line that another voice than the lead plays, as the `sounds` of all tell.
    """

    notes: tuple[Note, ...]
    reference_cents: float
    mix: Mix
    others: tuple[Note, ...] = ()
    sounds: tuple[NoteSound, ...] = ()


@dataclass(frozen=True)
class Listening:
    """What was measured and what was claimed, before anything is believed."""

    kind: Kind
    frames: Frames
    track: PitchTrack
    spectra: Spectra
    found: Candidates
    judged: Judgement
    claims: tuple[Claim, ...]
    reference_cents: float

    @property
    def mix(self) -> Mix:
        """What it was listened to as."""
        return "band" if self.kind == "band" else "solo"

    def described(self) -> NDArray[np.float32]:
        """What is seen of each claim (describe_claims)."""
        return describe_claims(self.claims, self.frames, self.track, self.found, self.judged, self.reference_cents)

    @cached_property
    def beliefs(self) -> list[float]:
        """How far each claim is believed, 0 to 1."""
        beliefs: list[float] = believe(self.described(), self.kind).tolist()
        return beliefs

    def weighed(self) -> Iterator[tuple[Claim, float]]:
        """Each claim, and how far it is believed."""
        return zip(self.claims, self.beliefs, strict=True)


def detect_notes(
    samples: NDArray[np.float32],
    rate: int,
    reference_cents: float | None = None,
    progress: Progress = lambda share, doing: True,
    mix: MixWanted = "auto",
    hints: Hints = NO_HINTS,
) -> Detection:
    """Find the notes of a guitar alone, or of a lead over a band, in mono samples.

    The tuning offset and the kind of mix are estimated unless given. `progress` is told (share done, what is
    being done) and answers whether to go on; once it does not, Cancelled is raised.
    """
    heard = listen(samples, rate, reference_cents, progress, mix, hints)
    progress(1.0, "done")
    return detected(heard, hints)


def detected(heard: Listening, hints: Hints = NO_HINTS) -> Detection:
    """What is believed of what was heard, as measured notes."""
    return Detection(_believed(heard, hints), heard.reference_cents, heard.mix)


def listen(
    samples: NDArray[np.float32],
    rate: int,
    reference_cents: float | None = None,
    progress: Progress = lambda share, doing: True,
    mix: MixWanted = "auto",
    hints: Hints = NO_HINTS,
) -> Listening:
    """What is measured and claimed; as detect_notes. Raises ValueError for samples not finite."""

    def step(share: float, doing: str) -> None:
        if not progress(share, doing):
            raise Cancelled

    def measured(signal: NDArray[np.float32], done: float, work: float) -> tuple[Spectra, Candidates]:
        spectra = measure_spectra(signal, RATE_HZ, lambda share: step(done + work * share, "measuring levels"))
        return spectra, hinted_candidates(find_candidates(spectra), hints)

    def judged_as(kind: Kind, levels: tuple[Spectra, Candidates], done: float, work: float) -> Judgement:
        return judge_candidates(*levels, kind, lambda share: step(done + work * share, "judging pitches"))

    def as_solo() -> Listening:
        # Kinds of mix are told by the sound as it is, so a hall's tail goes once this is taken for a guitar.
        dry = without_tail(signal, RATE_HZ)
        clear, through, done = levels, judged, 0.4
        if dry is not signal:
            clear, done = measured(dry, 0.4, 0.05), 0.5
            through = judged_as("alone", clear, 0.45, 0.05)
        frames = measure_frames(dry, RATE_HZ, lambda share: step(done + (0.6 - done) * share, "measuring pitch"))
        step(0.6, "following the line")
        return _listen_to_solo(frames, *clear, through, hints, reference_cents)

    def as_band(done: float) -> Listening:
        through = judged if mix == "band" else judged_as("band", levels, done, 0.2)
        step(done + 0.2, "following the line")
        return _listen_through_band(*levels, through, hints, reference_cents)

    step(0.0, "measuring levels")
    if not np.isfinite(samples).all():
        raise ValueError("samples must be finite")
    signal = resample(samples, rate, RATE_HZ)
    with ThreadPoolExecutor(1) as pool:
        # Few recordings have an echo: the others need not wait until none is found.
        sought = pool.submit(find_echo, signal, RATE_HZ) if mix != "band" else None
        levels = measured(signal, 0.0, 0.2)
        echo = sought.result() if sought else None
    if echo is not None:
        signal = without_echo(signal, RATE_HZ, echo)
        levels = measured(signal, 0.0, 0.2)
    judged = judged_as("band" if mix == "band" else "alone", levels, 0.2, 0.2)
    score = mix_score(*levels, judged) if mix == "auto" else 0.0
    if mix == "band" or score > OPEN_TO:
        heard = as_band(0.4)
    else:
        heard = as_solo()
        if mix == "auto" and score > OPEN_FROM:
            band = as_band(0.6)
            if is_band(score, claimed(heard), claimed(band), lead_sounds(band.spectra, band.judged)):
                heard = band
    if echo is not None and heard.kind == "band":
        # A band's beat can come back to the sample too: nothing is taken out of it.
        return listen(samples, rate, reference_cents, progress, "band", hints)
    step(0.85, "measuring bends, vibrato and slides")
    return heard


def claimed(heard: Listening) -> list[Claimed]:
    """All that is claimed, and how far each is believed."""
    return [Claimed(belief, claim.midi, claim.onset_s) for claim, belief in heard.weighed()]


def believed_line(heard: Listening) -> NDArray[np.float64]:
    """The pitch of each fine frame within a note that is believed, nan elsewhere.

    Where the line says nothing (strings that ring into each other), the last that the judge alone heard begin.
    """
    inside = np.zeros(len(heard.track.midi), dtype=np.bool_)
    beside = np.full(len(heard.track.midi), np.nan)
    for claim, belief in heard.weighed():
        if belief < BELIEVED:
            continue
        if claim.raw:
            inside[claim.raw.start : claim.raw.end] = True
        elif claim.beginning and (ridge := _from_ridge(claim.beginning, heard)):
            note, contour = ridge
            beside[note.start : note.end] = contour[note.start : note.end]
    line = np.where(inside, heard.track.midi, np.nan)
    return np.where(np.isnan(line), beside, line)


def _listen_to_solo(
    frames: Frames,
    spectra: Spectra,
    found: Candidates,
    judged: Judgement,
    hints: Hints,
    reference_cents: float | None,
) -> Listening:
    frames = hinted_frames(frames, hints)
    track = track_pitch(frames)
    attacks = tapped_attacks(hints.taps, frames.flux, HOP_S) if hints.taps else find_attacks(frames)
    decide = decider(gather_evidence(frames, spectra, found, judged, attacks), "alone", bool(hints.taps))
    raw = merge_untapped(find_notes(frames, track, attacks, decide), hints.taps)
    return _claims("alone", raw, frames, track, spectra, found, judged, hints, reference_cents)


def lead_line(spectra: Spectra, found: Candidates, judged: Judgement) -> tuple[Frames, PitchTrack, NDArray[np.intp]]:
    """The lead of a band on the fine frames, and its attacks."""
    count = max(1, round(len(spectra) * COARSE_HOP_S / HOP_S))
    return as_track(follow_lead(spectra, found, judged), found, judged, count)


def _listen_through_band(
    spectra: Spectra, found: Candidates, judged: Judgement, hints: Hints, reference_cents: float | None
) -> Listening:
    frames, track, attacks = lead_line(spectra, found, judged)
    if hints.taps:
        attacks = tapped_attacks(hints.taps, frames.flux, HOP_S)
    decide = decider(gather_evidence(frames, spectra, found, judged, attacks), "band", bool(hints.taps))
    raw = merge_untapped(find_notes(frames, track, attacks, decide), hints.taps)
    return _claims("band", raw, frames, track, spectra, found, judged, hints, reference_cents)


def _claims(
    kind: Kind,
    raw: list[RawNote],
    frames: Frames,
    track: PitchTrack,
    spectra: Spectra,
    found: Candidates,
    judged: Judgement,
    hints: Hints,
    reference_cents: float | None,
) -> Listening:
    beginnings = find_beginnings(found, judged)
    if hints.taps:
        beginnings = [b for b in beginnings if any(abs(b.frame * COARSE_HOP_S - tap) < 0.1 for tap in hints.taps)]
    if kind == "alone":
        raw, midi = without_mixtures(raw, track.midi, beginnings)
        track = replace(track, midi=midi)
    if reference_cents is None:
        reference_cents = _tuning(raw, beginnings)
    claims = tuple(collect_claims(raw, beginnings))
    return Listening(kind, frames, track, spectra, found, judged, claims, reference_cents)


def _tuning(raw: list[RawNote], beginnings: list[Beginning]) -> float:
    """From the notes of the line that the judge heard too, else from all."""
    heard = [n for n in raw if any(abs(b.midi - n.midi) < 0.6 for b in beginnings)] or raw
    seconds = [(note.plateaus[0].end - note.plateaus[0].start) * HOP_S for note in heard]
    return tuning_offset_cents([note.midi for note in heard], seconds)


def measured_notes(heard: Listening, hints: Hints = NO_HINTS) -> list[Played]:
    """The claims worth believing, each with the techniques that are measured in it."""
    played: list[Played] = []
    for claim, belief in heard.weighed():
        pinned = any(
            abs(pin.start - claim.onset_s) < _PINNED_S and abs(pin.midi - claim.midi) < 1 for pin in hints.pinned
        )
        tapped = bool(hints.taps)
        if belief < BELIEVED and not (pinned or (tapped and claim.raw)):
            continue
        if claim.raw:
            note, contour = claim.raw, heard.track.midi
        elif claim.beginning and (ridge := _from_ridge(claim.beginning, heard)):
            note, contour = ridge
        else:
            continue
        played.append(Played(note, contour, belief, (), note.midi))
    if heard.kind == "band":
        played = _one_line(played)
    raw, techniques_of, fretted = [each.note for each in played], [], []
    for each in played:
        techniques, fret = measure_techniques(each.note, each.contour)
        techniques_of.append(techniques)
        fretted.append(fret)
    drop_passed_frets(raw, techniques_of)
    measured = zip(played, techniques_of, fretted, strict=True)
    return [replace(each, techniques=kept, fretted=fret) for each, kept, fret in measured]


def _one_line(played: list[Played]) -> list[Played]:
    """What a lead plays, one note at a time: each ends where the next begins.

    Of two that begin together the less believed goes, and a note whose pitch would only be heard after its end.
    """
    line: list[Played] = []
    for each in sorted(played, key=lambda each: each.note.start):
        if line and (each.note.start - line[-1].note.start) * HOP_S < TOGETHER_S:
            if each.belief > line[-1].belief:
                line[-1] = each
        else:
            line.append(each)
    ends = [*(each.note.start for each in line[1:]), len(line[-1].contour)] if line else []
    cut = [replace(each, note=_until(each.note, end)) for each, end in zip(line, ends, strict=True)]
    return [each for each in cut if each.note.plateaus]


def _until(note: RawNote, end: int) -> RawNote:
    """A note that ends at a frame at the latest; it has no plateau if that comes before its pitch is heard."""
    plateaus = [replace(p, end=min(p.end, end)) for p in note.plateaus if p.start < end]
    return replace(note, end=min(note.end, end), plateaus=plateaus) if end < note.end else note


def _named(played: list[Played], heard: Listening) -> list[tuple[Played, tuple[tuple[Manner, float], ...]]]:
    """The notes with the bends and vibratos that are believed, and how else each may have been played."""
    doubts: dict[int, list[tuple[Manner, float]]] = defaultdict(list)
    for index, technique, weighed, seen in [*describe_names(played, heard.found, heard.judged)]:
        share, each = belief_in_name(weighed, seen, heard.kind), played[index]
        bends = technique.kind.bends
        if bends and each.note.arrival == "attack":
            doubts[index].append(("picked", 1 - share) if share >= BELIEVED else (technique.name, share))
        elif not bends and share < BELIEVED:
            doubts[index].append((technique.name, share))
        if share < BELIEVED:
            kept = tuple(other for other in each.techniques if other is not technique)
            played[index] = replace(each, techniques=kept, fretted=each.note.midi if bends else each.fretted)
    return [(each, other_manners(each.note, doubts[index])) for index, each in enumerate(played)]


def _believed(heard: Listening, hints: Hints) -> tuple[Note, ...]:
    """The claims worth believing as measured notes, each with its techniques."""
    named = _named(measured_notes(heard, hints), heard)
    raw, contours = [each.note for each, _ in named], [each.contour for each, _ in named]
    techniques = [each.techniques for each, _ in named]
    muted: list[int] = []
    if heard.kind == "alone":  # the level of a lead among others says too little
        techniques = name_styles(raw, techniques, heard.frames.level_db, contours)
        starts = [note.start for note in raw]
        muted = find_muted(heard.frames, find_attacks(heard.frames), heard.found, heard.judged, starts)
        for index in raked(muted, starts):
            techniques[index] += (Technique("rake"),)
    notes, words = [], words_of(heard.frames, heard.found, heard.judged, heard.reference_cents)
    for index, (each, manners) in enumerate(named):
        note, pitch = each.note, round(each.fretted - heard.reference_cents / 100)
        cents, level = sampled(note, pitch + heard.reference_cents / 100, heard.frames, each.contour)
        notes.append(
            Note(
                id=0,
                onset=round(note.start * HOP_S, 4),
                duration=round((note.end - note.start) * HOP_S, 4),
                pitch=pitch,
                techniques=techniques[index],
                loudness_db=loudness_db(note, heard.frames, each.contour),
                confidence=round(each.belief, 3),
                runners_up=runners_up(note, pitch, 1 - each.belief, words),
                other_manners=manners,
                contour_cents=cents,
                level_db=level,
            )
        )
    notes += [_muted_note(frame, notes, heard.frames) for frame in muted]
    notes.sort(key=lambda note: note.onset)
    if heard.kind == "alone":
        for index in ringing(notes, heard.spectra, heard.found, heard.judged, heard.reference_cents):
            notes[index] = replace(notes[index], techniques=(*notes[index].techniques, Technique("let_ring")))
        notes = _with_harmonics(_with_palm(notes, heard), heard, hints.nodes)
    return tuple(replace(note, id=index) for index, note in enumerate(notes, 1))


def _with_palm(notes: list[Note], heard: Listening) -> list[Note]:
    """With palm muting named: such notes die by themselves, and are not cut short."""
    pitched = [note for note in notes if not note.muted]
    damped = {id(pitched[index]) for index in palm_muted(pitched, heard.spectra, heard.reference_cents)}

    def named(note: Note) -> Note:
        kept = tuple(technique for technique in note.techniques if technique.name != "staccato")
        return replace(note, techniques=(*kept, Technique("palm_mute")))

    return [named(note) if id(note) in damped else note for note in notes]


def _with_harmonics(notes: list[Note], heard: Listening, nodes: frozenset[int]) -> list[Note]:
    """With natural harmonics named, of the notes that are plainly struck, and the doubt in either reading kept."""
    pitched = [note for note in notes if not note.muted]
    shares = {
        id(pitched[i]): share for i, share in touched(pitched, heard.spectra, heard.reference_cents, nodes).items()
    }

    def named(note: Note) -> Note:
        share = shares.get(id(note), 0.0)
        if note.manner != "picked":
            return note
        if share < BELIEVED:
            return replace(note, other_manners=with_doubts(note.other_manners, [("harmonic", share)]))
        doubted = with_doubts((), [("picked", 1 - share)])
        return replace(note, techniques=(*note.techniques, Technique("harmonic")), other_manners=doubted)

    return [named(note) for note in notes]


def _muted_note(frame: int, notes: list[Note], frames: Frames) -> Note:
    """A stroke without pitch, written on the pitch nearest in time: the hand is there. It has no contour."""
    onset = frame * HOP_S
    nearest = min(notes, key=lambda note: abs(note.onset - onset), default=None)
    level = frames.level_db[frame : frame + _MUTED_FRAMES]
    return Note(
        id=0,
        onset=round(onset, 4),
        duration=round(_MUTED_FRAMES * HOP_S, 4),
        pitch=nearest.pitch if nearest else 52,
        techniques=(Technique("ghost"),),
        loudness_db=round(float(level.max()), 1),
        confidence=_MUTED_BELIEF,
        level_db=tuple(round(float(db)) for db in level[:: round(CONTOUR_HOP_S / HOP_S)]),
    )


def _from_ridge(beginning: Beginning, heard: Listening) -> tuple[RawNote, NDArray[np.float64]] | None:
    """The raw note of a pitch that only the judge heard begin, and its own contour on the fine frames."""
    ratio = round(COARSE_HOP_S / HOP_S)
    count = len(heard.frames)
    ridge = follow_ridge(heard.found, heard.judged, beginning.frame, beginning.midi, len(heard.found.bins))
    start = _attack_near(beginning.frame * ratio, heard.frames)
    end = min(beginning.frame * ratio + len(ridge) * ratio, count)
    if end - start < 4:
        return None
    contour = np.full(count, np.nan)
    at = np.arange(start, end)
    contour[start:end] = np.interp(at / ratio, beginning.frame + np.arange(len(ridge)), ridge)
    midi = float(np.median(contour[start : start + max(4, min(24, (end - start) // 2))]))
    plateaus = [p for p in find_plateaus(contour, start, end) if p.midi > midi - 0.5] or [Plateau(start, end, midi)]
    flux = float(heard.frames.flux[max(0, start - 2) : start + 3].max(initial=0.0))
    return RawNote(start, end, plateaus[0].midi, "attack", flux, plateaus), contour


def _attack_near(frame: int, frames: Frames) -> int:
    low = max(0, frame - _BEGINS_NEAR)
    near = frames.flux[low : frame + _BEGINS_NEAR + 1]
    return low + int(near.argmax()) if len(near) and near.max() > 0 else frame
