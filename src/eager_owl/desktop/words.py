"""Measurements and names as sentences for the screen."""

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.explaining import Reason
from eager_owl.solo.document import Note
from eager_owl.solo.techniques import LEGATO, Technique, bend_words
from eager_owl.theory.interval import interval_words
from eager_owl.theory.pitch import pretty


def technique_name(technique: Technique) -> str:
    """The name alone: "whole-step bend", "hammer-on"."""
    kind = technique.kind
    if kind.bends and technique.semitones:
        released = ", released" if kind.released else ""
        return f"{bend_words(technique.semitones)} {'pre-bend' if kind.struck_bent else 'bend'}{released}"
    return kind.words


def technique_words(technique: Technique) -> str:
    """The name beside the measurement it was read from: "whole-step bend, 196 cents in 140 ms"."""
    parts = [technique_name(technique)]
    if technique.name == "vibrato" and technique.rate_hz and technique.extent_cents:
        return f"vibrato {technique.rate_hz:.1f} a second, ±{technique.extent_cents:.0f} cents"
    if technique.name == "trill" and technique.rate_hz and technique.semitones:
        return f"trill of {technique.semitones:.1f} semitones, {technique.rate_hz:.1f} notes a second"
    if technique.name == "staccato" and technique.ratio:
        return f"cut short: sounds {100 * technique.ratio:.0f} in 100 of its time"
    if technique.name == "grace" and technique.rise_s:
        return f"grace note of {1000 * technique.rise_s:.0f} ms"
    if technique.name == "slide_in" and technique.semitones:
        return (
            f"slide from {'below' if technique.semitones > 0 else 'above'}, {abs(technique.semitones):.1f} semitones"
        )
    if technique.semitones is not None:
        measured = f"{abs(100 * technique.semitones):.0f} cents"
        if technique.rise_s:
            measured += f" in {1000 * technique.rise_s:.0f} ms"
        parts.append(measured)
    if technique.release_s:
        back = "back" if technique.name == "dip" else "let down"
        parts.append(f"{back} in {1000 * technique.release_s:.0f} ms")
    return ", ".join(parts)


def reason_words(reason: Reason) -> str:
    """One school's word on a note, such as "♭7 of F minor pentatonic"."""
    if reason.source is None:
        return "it has nothing to say here"
    name = pretty(f"{reason.source.name}{f' ({reason.source.also})' if reason.source.also else ''}")
    if reason.standing == "outside":
        return f"outside of {name}"
    if reason.standing == "borrowed":
        return f"{pretty(reason.own_name)}, beside {name}"
    if reason.standing == "detour":
        return f"{'a blue note' if reason.role == 'blue note' else 'on the way'}, beside {name}"
    return f"{name}{('', ', ahead of its chord', ', after its chord')[reason.lead]}"


def in_chord_words(reason: Reason) -> str:
    """Such as "flat seven of Fm7, chord tone"."""
    if reason.chord is None or reason.interval_chord is None:
        return reason.role
    where = reason.interval_chord
    words = f"{interval_words(where)} of {pretty(reason.chord.symbol)}"
    if reason.lands_chord and reason.lands_chord != where:
        words += f", bent to its {interval_words(reason.lands_chord)}"
    return f"{words}: {reason.role}"


def place_words(string: int | None, fret: int | None) -> str:
    """Where a note is played, in words."""
    return f"string {string}, fret {fret}" if string else "no place on this neck"


def plate_text(note: Note) -> str:
    """What the plate of a note says: its fret as tab has it, "x" without a pitch, "?" without a place."""
    if note.fret is None:
        return "?"
    return "x" if note.muted else note.bracketed(str(note.fret))


def mark_text(note: Note) -> str:
    """The short tab sign drawn over a note's arrival: h, p, t, / or \\, with a question mark where it is in doubt."""
    arrival = note.technique(*LEGATO)
    if arrival is None:
        return ""
    sign = arrival.kind.before_falling if arrival.falls and arrival.kind.before_falling else arrival.kind.before
    return sign + "?" * (note.manner_in_doubt is not None)


def clock_text(time_s: float, short: bool = False) -> str:
    """Minutes and seconds, hours before them where there are any; with tenths unless short."""
    minutes, seconds = divmod(max(time_s, 0.0), 60)
    hours, rest = divmod(int(minutes), 60)
    before = f"{hours}:{rest:02}" if hours else f"{rest}"
    if short:
        return f"{before}:{seconds:02.0f}" if seconds % 1 == 0 else f"{before}:{seconds:05.2f}"
    return f"{before}:{seconds:04.1f}"


def beat_text(grid: BeatGrid, time_s: float) -> str:
    """Bar and beat to a tenth, such as "3, 2.5"; what is that near before a bar line is on it."""
    bar, tenths = divmod(round(10 * grid.beat_at(time_s)), 10 * grid.beats_per_bar)
    return f"{bar + 1}, {1 + tenths / 10:.1f}"


def percent(share: float) -> str:
    """A share of belief in a hundred; nothing heard is quite sure, nor quite out of the question."""
    return "< 1" if share < 0.005 else "> 99" if share > 0.995 else f"{100 * share:.0f}"
