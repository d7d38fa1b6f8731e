"""Hearing a recording: the survey of the whole, the notes of a phrase, and what they say of beat and phrases."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from eager_owl.audio.decode import Cancelled, Recording, mono
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.placing import USUAL_HAND, Hand, place_around, place_phrase
from eager_owl.solo.document import MIN_NOTE_S, LeadFocus, Note, Phrase, Solo, change_phrase
from eager_owl.solo.edits import cut_note, lay_detection
from eager_owl.solo.figures import Return, carry, find_returns, twins_of

if TYPE_CHECKING:
    from eager_owl.hearing.hints import Hints
    from eager_owl.hearing.voices import NoteSound

Progress = Callable[[float, str], bool]

LET_DOWN = 4  # semitones under the lowest string that are heard where no range is given
# A phrase is heard with this much of the recording around it, so that its first attack is one.
_MARGIN_S = 0.3
_AROUND_S = 8.0
SURVEY_HOP_S = 0.02
ONE_TUNE_S = 1200.0  # a recording longer than this holds more than one, each with its own beat


@dataclass(frozen=True)
class Survey:
    """A recording, or a stretch of it, at a glance: the lead's pitch every SURVEY_HOP_S from the recording's start

    (MIDI, nan for none), its tuning offset, the kind of mix, its beats (None where none recur) and how far they stand
    out from other tempi, 0 to 1.
    """

    midi: NDArray[np.float64]
    reference_cents: float
    mix: Literal["solo", "band"]
    grid: BeatGrid | None
    beat_confidence: float


def survey(
    recording: Recording, progress: Progress = lambda share, doing: True, span: tuple[float, float] | None = None
) -> Survey:
    """Follow the line through the whole recording or a stretch: for contours, tuning, beat and phrases."""
    # Hearing brings SciPy, which takes half a second to load: the window does not wait for it.
    from eager_owl.hearing.beats import fit_grid
    from eager_owl.hearing.frames import HOP_S
    from eager_owl.hearing.long import overlook

    start, end = span or (0.0, recording.duration_s)
    found = overlook(_mono_of(recording), start, end, recording.rate, progress, end - start <= ONE_TUNE_S)
    at = (np.arange(0, end, SURVEY_HOP_S) - start) / HOP_S
    midi = np.where(at < 0, np.nan, found.line[np.clip(at.astype(int), 0, len(found.line) - 1)])
    grid = fit_grid(found.beats) if found.beats else None
    return Survey(midi, found.reference_cents, found.mix, grid, found.beats.confidence if found.beats else 0.0)


def impression_around(recording: Recording, phrase: Phrase) -> tuple[Literal["solo", "band"], float]:
    """The kind of mix and the tuning offset in cents of a phrase and what is around it."""
    from eager_owl.hearing.long import first_impression

    start, end = max(0.0, phrase.start - _AROUND_S), min(phrase.end + _AROUND_S, recording.duration_s)
    found = first_impression(_mono_of(recording), start, end, recording.rate)
    return found.mix, found.reference_cents


def _mono_of(recording: Recording) -> Callable[[float, float], NDArray[np.float32]]:
    return lambda start, end: mono(recording.between(start, end))


@dataclass(frozen=True)
class Heard:
    """What a detection found in a phrase, not yet laid into the document; `others` are another voice's, as the

    `sounds` of a band's notes tell.
    """

    notes: tuple[Note, ...]
    reference_cents: float
    others: tuple[Note, ...] = ()
    sounds: tuple["NoteSound", ...] = ()


def focused(solo: Solo, samples: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """Samples, shape (frames, channels), as the solo's lead focus lets them be heard."""
    focus = solo.focus
    if focus == LeadFocus():
        return samples
    from eager_owl.audio.focus import bring_forward

    return bring_forward(samples, rate, focus.place, focus.low_hz, focus.high_hz, focus.tones_only)


def hear_phrase(
    solo: Solo,
    phrase: Phrase,
    recording: Recording,
    surveyed: Survey | None = None,
    progress: Progress = lambda share, doing: True,
    taps: Sequence[float] = (),
) -> Heard:
    """Detect the notes of a phrase: within the lead's range, around what is pinned, at the taps if there are any.

    The kind of mix and the tuning are the solo's own, else the survey's, else estimated from the phrase. Raises
    Cancelled once `progress` answers False.
    """
    from eager_owl.hearing.echo import REACH_S, find_echo, without_echo
    from eager_owl.hearing.long import AT_ONCE_S, FIRST_SHARE, first_impression, in_blocks, share_of
    from eager_owl.hearing.stereo import detect_in_stereo

    cents, mix = solo.reference_cents, solo.mix
    if surveyed is not None:
        cents = surveyed.reference_cents if cents is None else cents
        mix = surveyed.mix if mix == "auto" else mix
    if phrase.end - phrase.start > AT_ONCE_S and (cents is None or mix == "auto"):
        first, progress = share_of(progress, 0.0, FIRST_SHARE), share_of(progress, FIRST_SHARE, 1 - FIRST_SHARE)
        whole = first_impression(_mono_of(recording), phrase.start, phrase.end, recording.rate, first)
        cents = whole.reference_cents if cents is None else cents
        mix = whole.mix if mix == "auto" else mix

    low, high = max(0.0, phrase.start - _MARGIN_S), phrase.end + _MARGIN_S

    others: list[Note] = []
    sounds: list[NoteSound] = []

    def later(note: Note, start: float) -> Note:
        return replace(note, onset=note.onset + start)

    def dry(start: float, end: float) -> NDArray[np.float32]:
        """The sound between two times, without the echoes of what was played before and in it."""
        before = min(start, REACH_S) if mix == "solo" else 0.0
        sound = focused(solo, recording.between(start - before, end), recording.rate)
        echo = find_echo(mono(sound), recording.rate) if before else None
        if echo is not None:
            sound = without_echo(sound, recording.rate, echo)
        return sound[round(before * recording.rate) :]

    def hear(start: float, end: float) -> list[Note]:
        nonlocal cents
        part = Phrase(max(start, phrase.start), min(end, phrase.end))
        own_taps = [tap for tap in taps if part.holds(tap)]
        if taps and not own_taps:
            return []  # notes begin where the player tapped, and nowhere else
        sound = dry(start, end)
        hints = _hints(solo, part, start, (cents or 0.0) / 100, own_taps)

        def within(share: float, doing: str) -> bool:
            return progress((start - low + share * (end - start)) / (high - low), doing)

        found = detect_in_stereo(sound, recording.rate, cents, within, mix, hints)
        cents = found.reference_cents
        others.extend(later(note, start) for note in found.others)
        sounds.extend(replace(sound, note=later(sound.note, start)) for sound in found.sounds)
        notes = found.notes
        if found.mix == "solo":
            notes = with_stiffness(notes, mono(sound), recording.rate, found.reference_cents)
        return [later(note, start) for note in notes]

    notes = in_blocks(low, high, hear)
    inside = (n for n in notes if phrase.holds(n.onset) and phrase.end - n.onset > MIN_NOTE_S)
    cut = (cut_note(n, n.onset, phrase.end) if n.end > phrase.end else n for n in inside)
    # Of what two blocks heard, the one that is whole.
    alone = [o for i, o in enumerate(others) if phrase.holds(o.onset) and not any(o.is_same(p) for p in others[:i])]
    return Heard(tuple(replace(n, id=i) for i, n in enumerate(cut, 1)), cents or 0.0, tuple(alone), tuple(sounds))


def _hints(solo: Solo, phrase: Phrase, start: float, offset: float, taps: Sequence[float]) -> "Hints":
    """What the player has said of a phrase, in seconds from `start` and in pitches as the recording has them."""
    from eager_owl.hearing.hints import Hints, PinnedNote

    # A string may be let down and nobody has said so: what lies under the lowest one is heard, and asked about.
    low, high = solo.lead_range or (solo.instrument.lowest - LET_DOWN, solo.instrument.highest)
    notes = solo.notes_in(phrase)
    by_hand = [note for note in notes if "pitch" in note.pins]
    # What was struck with a pinned note stays too: the pin speaks of one string of a double stop.
    sure = [note for note in notes if any(note.together(other) for other in by_hand)]
    pinned = tuple(
        PinnedNote(
            note.onset - start, note.end - start, note.pitch + offset, note.bend.bend_semitones if note.bend else 0.0
        )
        for note in sure
    )
    tapped = tuple(tap - start for tap in taps if phrase.holds(tap))
    return Hints(low + offset, high + offset, pinned, tapped, solo.instrument.nodes)


def hear_phrases(
    solo: Solo, indices: Sequence[int], recording: Recording, surveyed: Survey | None, progress: Progress
) -> dict[int, Heard]:
    """Detect the notes of several phrases, one after the other, by their indices.

    Once `progress` answers False, what has been heard so far is all there is.
    """
    heard: dict[int, Heard] = {}
    for count, index in enumerate(indices):
        phrase = solo.phrases[index]

        def within(share: float, doing: str, count: int = count) -> bool:
            return progress((count + share) / len(indices), f"{count + 1} of {len(indices)}: {doing}")

        try:
            heard[index] = hear_phrase(solo, phrase, recording, surveyed, within)
        except Cancelled:
            break
    return parted_together(heard)


def parted_together(heard: dict[int, Heard]) -> dict[int, Heard]:
    """With another voice's notes told by all phrases: of one alone nobody can say that it is not the lead's."""
    from eager_owl.hearing.voices import other_voices, parted

    if len(heard) < 2:
        return heard
    others = other_voices([sound for each in heard.values() for sound in each.sounds])

    def by_onset(each: Heard) -> list[Note]:
        return sorted((*each.notes, *each.others), key=lambda note: note.onset)

    again = {index: parted(by_onset(each), others) for index, each in heard.items()}
    return {index: replace(each, notes=again[index][0], others=again[index][1]) for index, each in heard.items()}


def unheard(solo: Solo) -> list[int]:
    """Indices of the phrases that nobody has heard yet."""
    return [index for index, phrase in enumerate(solo.phrases) if phrase.stage == "to hear"]


def with_stiffness(notes: Sequence[Note], samples: NDArray[np.float32], rate: int, cents: float) -> tuple[Note, ...]:
    """The notes with their strings' stiffness measured where they are long, plain and alone."""
    from eager_owl.hearing.stiffness import LEAST_S, string_stiffness

    measured = []
    for note in notes:
        plain = not any(t.name not in ("staccato", "let_ring") for t in note.techniques)
        alone = not any(n is not note and n.onset < note.end and note.onset < n.end for n in notes)
        if plain and alone and note.duration >= LEAST_S:
            clip = samples[round(note.onset * rate) : round(note.end * rate)]
            note = replace(note, stiffness=string_stiffness(clip, rate, note.pitch + cents / 100))
        measured.append(note)
    return tuple(measured)


def lay_heard(solo: Solo, index: int, heard: Heard, hand: Hand = USUAL_HAND) -> Solo:
    """Lay a detection into a phrase around the pins, and place it as a hand likes it."""
    laid = lay_detection(replace(solo, reference_cents=heard.reference_cents), index, heard.notes, heard.others)
    return change_phrase(place_phrase(laid, index, hand), index, stage="placed")


def suggest_phrases(solo: Solo, surveyed: Survey) -> Solo:
    """Phrases at the lead's breaths added where the solo has none yet."""
    from eager_owl.hearing.breaths import suggest_phrases as suggested

    phrases = list(solo.phrases)
    for start, end in suggested(surveyed.midi, SURVEY_HOP_S, solo.grid or surveyed.grid):
        if all(end <= phrase.start or start >= phrase.end for phrase in solo.phrases):
            phrases.append(Phrase(start, end))
    phrases.sort(key=lambda phrase: phrase.start)
    named = tuple(p if p.name else replace(p, name=f"Phrase {n}") for n, p in enumerate(phrases, 1))
    return replace(solo, phrases=named)


def take_beat(solo: Solo, surveyed: Survey) -> Solo:
    """The surveyed beat as the solo's own. Raises ValueError where none was found."""
    if surveyed.grid is None:
        raise ValueError("no steady beat was found: tap it instead")
    return replace(solo, grid=surveyed.grid)


def returns_in(solo: Solo, phrase: Phrase | None) -> list[Return]:
    """Where the figures of a phrase (or of all) come back in the solo."""
    return find_returns(solo.notes if phrase is None else solo.notes_in(phrase), solo.notes)


def carry_note(solo: Solo, note_id: int) -> Solo:
    """A note's pitch and techniques carried to where its figure comes back. Raises ValueError where it does not."""
    index = solo.phrase_index_at(solo.note(note_id).onset)
    returns = returns_in(solo, None if index is None else solo.phrases[index])
    twins = twins_of(note_id, returns)
    if not twins:
        raise ValueError("this note's figure comes back nowhere")
    return place_around(carry(solo, note_id, returns), twins)
