"""What was found, in sentences a teacher would say, each made from the facts and from nothing else."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

from eager_owl.reasons.events import Event
from eager_owl.reasons.explain import Explanation, Reading, Reason
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.theory.chord import Chord
from eager_owl.theory.interval import interval_words, step_words
from eager_owl.theory.pitch import SHARP_NAMES, pitch_class_name, pretty
from eager_owl.theory.words import plural_of

# Events told of their notes by a verb: "Note 3 lands on ...".
_VERBS = ("target", "approach")
# Told with the sources, where they are of more than one note.
_LED = ("anticipation", "delay")
_TIMES = {2: "twice", 3: "three times", 4: "four times", 5: "five times"}


def interval_text(reason: Reason) -> str:
    """The interval shown under a note: to its chord, else to the key; an arrow where a bend lands elsewhere."""
    start = reason.interval_chord or reason.interval_key or "·"
    land = reason.lands_chord if reason.interval_chord else reason.lands_key
    return pretty(f"{start}→{land}" if land and land != start else start)


@dataclass(frozen=True)
class Sentence:
    """One sentence, and the indices of the notes it speaks of."""

    words: str
    notes: tuple[int, ...]


def tell_story(explanation: Explanation, reading: Reading, grid: BeatGrid | None) -> list[Sentence]:
    """The line from its start: where each span comes from, and what happens in it."""
    told: list[Sentence] = []
    start = 0
    merged: set[Event] = set()
    for (source, lead), group in groupby(explanation.reasons, key=lambda reason: (reason.source, reason.lead)):
        reasons = list(group)
        indices = tuple(range(start, start + len(reasons)))
        start += len(reasons)
        if source is None:
            told.append(Sentence(f"{_notes_words(indices)}: no source, for want of a key or a chord.", indices))
            continue
        named = source.name + (f" ({source.also})" if source.also else "")
        if lead == 1:
            landing = _landing(reading, indices[-1] + 1)
            words = f"From {_place(reading, indices[0], grid)} the line already plays {named}"
            if landing is not None:
                merged.add(landing)
                words += f"; it {event_words(landing, verb_first=True)}"
        elif lead == -1:
            words = f"Up to note {indices[-1] + 1} the line still plays {named}"
        else:
            words = f"{_notes_words(indices)}: {named}"
        words = "; ".join([words, *_exceptions(explanation, reading, indices)])
        told.append(Sentence(pretty(words + "."), indices))
    for event in reading.events:
        if event not in merged and (event.kind not in _LED or event.intervals):
            words = (
                f"{_notes_words(event.notes, event.kind)}{'' if event.kind in _VERBS else ':'} {event_words(event)}"
            )
            told.append(Sentence(pretty(f"{words}."), event.notes))
        elif event.kind == "anticipation" and len(event.notes) == 1:
            words = f"Note {event.notes[0] + 1} {event_words(event)}"
            told.append(Sentence(pretty(words + "."), event.notes))
    return sorted(told, key=lambda sentence: (sentence.notes[0], -len(sentence.notes)))


def _exceptions(explanation: Explanation, reading: Reading, indices: Sequence[int]) -> list[str]:
    """What of a span its source does not hold: "note 9 is the third of C7", "note 4, B, is on the way"."""
    reasons, moments = explanation.reasons, reading.context.moments
    said = []
    borrowed: dict[Chord, list[int]] = {}
    for i in indices:
        chord = reasons[i].chord
        if reasons[i].standing == "borrowed" and chord is not None:
            borrowed.setdefault(chord, []).append(i)
    for chord, members in borrowed.items():
        labels = {chord.label_of(moments[i].landed) for i in members}
        only = labels.pop() if len(labels) == 1 else None
        if only is None:
            said.append(f"{_are(members)} tones of {chord.symbol}")
        else:
            said.append(f"{_are(members)} the {interval_words(only)} of {chord.symbol}")
    blue = [i for i in indices if reasons[i].own_name == "blue note"]
    way = [i for i in indices if reasons[i].standing == "detour" and i not in blue]
    if blue:
        said.append(f"{_are(blue)} the blue note")
    if way:
        names = dict.fromkeys(_name_on_the_way(explanation, reading, i) for i in way)
        named = f", {' and '.join(names)}," if len(names) <= 2 else ""
        said.append(f"{_are(way, named)} on the way")
    if outside := [i for i in indices if reasons[i].standing == "outside"]:
        said.append(f"{_are(outside)} outside it")
    return said


def _name_on_the_way(explanation: Explanation, reading: Reading, index: int) -> str:
    """A pitch as its source spells it; one that rises by a half step as the sharp of where it was."""
    moments, source = reading.context.moments, explanation.reasons[index].source
    rises = index + 1 < len(moments) and moments[index + 1].fretted - moments[index].landed == 1
    names = SHARP_NAMES if rises or source is None else source.names
    return pitch_class_name(moments[index].landed % 12, names)


def _are(indices: Sequence[int], named: str = "") -> str:
    """Such as "notes 9 and 12 are" or "note 9 is"."""
    numbers = [str(i + 1) for i in indices]
    listed = " and ".join([", ".join(numbers[:-1]), numbers[-1]]) if len(numbers) > 1 else numbers[0]
    return f"{plural_of('note', len(numbers))} {listed}{named} {'are' if len(numbers) > 1 else 'is'}"


def _landing(reading: Reading, first: int) -> Event | None:
    """The resolution or target that the notes before index `first` or just after it arrive at."""
    for event in reading.events:
        if event.kind in ("guide tone", "target") and event.notes[-1] >= first:
            return event
    return None


def _place(reading: Reading, index: int, grid: BeatGrid | None) -> str:
    beat = reading.context.moments[index].beat
    if grid is None:
        return f"note {index + 1}"
    bar, within = divmod(round(beat * 2) / 2, grid.beats_per_bar)
    return f"beat {within + 1:g} of bar {int(bar) + 1}"


def _notes_words(indices: Sequence[int], kind: str = "") -> str:
    if kind in ("pivot", "repeat"):
        return f"Notes {', '.join(str(i + 1) for i in indices)}" if kind == "pivot" else f"From note {indices[0] + 1}"
    if len(indices) == 1 or kind == "approach":
        return f"Note {indices[0] + 1}"
    if len(indices) == 2:
        return f"Notes {indices[0] + 1} and {indices[1] + 1}"
    return f"Notes {indices[0] + 1} to {indices[-1] + 1}"


def times_words(count: int) -> str:
    """How often: "twice", "three times"."""
    return _TIMES.get(count, f"{count} times")


def event_words(event: Event, verb_first: bool = False) -> str:
    """What happens, as what its notes do: "falls a half step to the third of G7"."""
    symbols = [chord.symbol for chord in event.chords]
    steps = [interval_words(interval) for interval in event.intervals]
    if event.kind == "guide tone":
        way = "falls" if event.semitones < 0 else "rises"
        step = "half" if abs(event.semitones) == 1 else "whole"
        if verb_first:
            return f"lands on the {steps[1]} of {symbols[1]} by a {step} step from the {steps[0]} of {symbols[0]}"
        return f"the {steps[0]} of {symbols[0]} {way} a {step} step to the {steps[1]} of {symbols[1]}"
    if event.kind == "target":
        return f"lands on the {steps[0]} of {symbols[-1]} as it comes"
    if event.kind == "common tone":
        return f"the {steps[0]} of {symbols[0]} becomes the {steps[1]} of {symbols[1]}"
    if event.kind == "anticipation":
        return f"already sounds {symbols[0]}, before it comes"
    if event.kind == "delay" and event.intervals:
        way = "falls" if event.semitones < 0 else "rises"
        return f"the {steps[0]} of {symbols[0]} hangs over, and {way} to the {steps[1]} of {symbols[1]}"
    if event.kind == "delay":
        return f"still sounds {symbols[0]}, after it has gone"
    if event.kind == "pivot":
        note = f"the {steps[0]} of {symbols[0]}" if steps else "one note"
        return f"the line comes back to {note} {times_words(event.turns)} and moves around it"
    if event.kind == "sequence":
        times = times_words(event.turns)
        if event.key is not None:
            return f"one figure {times}, each {_degree_words(event.degrees)} in {event.key.tonic_name}"
        if not event.even:
            return (
                f"one figure {times}, each a step {'up' if event.semitones > 0 else 'down'} in the line's own scale"
            )
        changed = (
            f", {plural_of('note', len(event.changed))} {_listed(event.changed)} altered" if event.changed else ""
        )
        return f"one figure {times}, each {step_words(event.semitones)}{changed}"
    if event.kind == "repeat":
        changed = f", note {_listed(event.changed)} changed" if event.changed else ""
        where = "the same" if event.semitones == 0 else step_words(event.semitones)
        return f"the figure comes again at note {event.notes[len(event.notes) // 2] + 1}, {where}{changed}"
    if event.kind == "enclosure":
        after = f"the {steps[0]} of {symbols[0]}" if steps else "the one they were after"
        return f"a note from each side, and then {after}"
    if event.kind == "approach":
        return f"leads in from a half step {'below' if event.semitones > 0 else 'above'}"
    if event.kind == "octave displacement":
        way = "up" if event.turns > 0 else "down"
        return f"a step taken as a leap: the line goes on an octave {way}"
    if event.kind == "minor to major":
        return f"the minor third pushed to the major one{f' of {symbols[0]}' if symbols else ''}"
    if event.kind == "progression":
        return event.name
    if event.kind == "cell":
        return f"the cell {'-'.join(label.replace('R', '1') for label in event.intervals)} of {symbols[0]}"
    if event.kind == "pickup":
        return f"a pickup into {symbols[0]}"
    if event.kind == "side slip":
        return f"a side slip, the key's scale a half step {'up' if event.semitones > 0 else 'down'}"
    if event.kind == "upper structure":
        return f"an upper structure, the triad {event.name} over {symbols[0]}"
    return "outside on purpose, and home by step"


def _degree_words(degrees: int) -> str:
    """How far in a scale: "a step up", "a third down", "five steps up"."""
    words = {1: "a step", 2: "a third", 3: "a fourth", 4: "a fifth"}
    return f"{words.get(abs(degrees), f'{abs(degrees)} steps')} {'up' if degrees > 0 else 'down'}"


def _listed(indices: Sequence[int]) -> str:
    return ", ".join(str(i + 1) for i in indices)
