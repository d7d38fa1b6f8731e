"""Measurements and names as sentences for the screen."""

from eager_owl.notation.marks import bend_words
from eager_owl.reasons.explain import Reason
from eager_owl.session import names_of
from eager_owl.solo.document import Note, Solo
from eager_owl.solo.techniques import Technique
from eager_owl.theory.chord import Chord
from eager_owl.theory.interval import interval_words
from eager_owl.theory.pitch import pitch_name, pretty

PLAIN_NAMES = {
    "slide": "slide", "slide_in": "slide from below", "slide_out": "slide away", "hammer_on": "hammer-on",
    "pull_off": "pull-off", "trill": "trill", "grace": "grace note", "ghost": "ghost note", "rake": "rake",
    "staccato": "cut short", "palm_mute": "palm-muted", "double_stop": "double stop", "let_ring": "let ring",
    "harmonic": "harmonic", "tap": "tapped", "vibrato": "vibrato", "bend": "bend",
    "bend_release": "bend and release", "prebend": "bent before it is struck",
    "prebend_release": "struck bent, then let down",
}  # fmt: skip


def technique_name(technique: Technique) -> str:
    """The name alone: "whole-step bend", "hammer-on"."""
    name = PLAIN_NAMES[technique.name]
    if "bend" in technique.name and technique.semitones:
        released = ", released" if technique.name.endswith("release") else ""
        before = "pre-bend" if technique.name.startswith("prebend") else "bend"
        return f"{bend_words(technique.semitones)} {before}{released}"
    return name


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
        parts.append(f"let down in {1000 * technique.release_s:.0f} ms")
    return ", ".join(parts)


def interval_text(reason: Reason) -> str:
    """The interval shown under a note: to its chord, else to the key; an arrow where a bend lands elsewhere."""
    start = reason.interval_chord or reason.interval_key or "·"
    land = reason.lands_chord if reason.interval_chord else reason.lands_key
    return pretty(f"{start}→{land}" if land and land != start else start)


def reason_words(reason: Reason) -> str:
    """One school's word on a note, such as "♭7 of F minor pentatonic"."""
    if reason.source is None:
        return "it has nothing to say here"
    name = pretty(f"{reason.source.name}{f' ({reason.source.also})' if reason.source.also else ''}")
    if reason.standing == "outside":
        return f"outside of {name}"
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


def mark_text(note: Note) -> str:
    """The short tab sign drawn over a note's arrival: h, p, / or \\."""
    if slide := note.technique("slide"):
        return "\\" if (slide.semitones or 0) < 0 else "/"
    return {"hammer_on": "h", "pull_off": "p"}.get(
        next((t.name for t in note.techniques if t.name in ("hammer_on", "pull_off")), ""), ""
    )


def clock_text(time_s: float, short: bool = False) -> str:
    """Minutes and seconds, with tenths unless short."""
    minutes, seconds = divmod(max(time_s, 0.0), 60)
    if short:
        return f"{int(minutes)}:{seconds:02.0f}" if seconds % 1 == 0 else f"{int(minutes)}:{seconds:05.2f}"
    return f"{int(minutes)}:{seconds:04.1f}"


def plural(count: int, what: str) -> str:
    """Such as "1 change" or "2 changes"."""
    return f"{count} {what}{'' if count == 1 else 's'}"


def pitch_text(pitch: int, solo: Solo, chord: Chord | None = None) -> str:
    """A pitch as its chord spells it, if it is a tone of that, or else as the solo's key does."""
    own = chord is not None and pitch % 12 in chord.pitch_classes
    return pretty(pitch_name(pitch, chord.names if chord is not None and own else names_of(solo)))
