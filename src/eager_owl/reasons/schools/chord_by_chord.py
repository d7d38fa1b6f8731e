"""Each chord its own parent scale; a source tells its other name where it has two."""

from eager_owl.reasons.schools import ReasonSchool
from eager_owl.reasons.sources import Source, source
from eager_owl.theory.chord import Chord
from eager_owl.theory.key import Key
from eager_owl.theory.scale import SCALES

# What a plain dominant may be played as, and how much more the notes must speak for it than for the first.
_PLAIN_DOMINANT = {
    "Mixolydian": 0.0, "Lydian dominant": 1.0, "altered": 1.2, "Phrygian dominant": 1.2, "blues": 1.5,
    "half-whole diminished": 2.0, "whole tone": 2.0,
}  # fmt: skip

_LYDIAN_DOMINANTS = (1, 2, 10)
_CHURCH_MODES = ("major", "Dorian", "Phrygian", "Lydian", "Mixolydian", "natural minor", "Locrian")


def _sources(chord: Chord | None, key: Key | None) -> list[Source]:
    if chord is None:
        if key is None:
            return []
        names = ("major",) if key.mode == "major" else ("natural minor", "harmonic minor", "melodic minor")
        return [source(key.tonic, name, key.names, 0.2 * rank) for rank, name in enumerate(names)]
    parents = _parents(chord, key)
    if own := _within(chord, key):
        parents = [own, *(name for name in parents if name != own)]
    # A bass that is no tone of the chord belongs to its scale.
    parents.sort(key=lambda name: (chord.bass - chord.root) % 12 not in SCALES[name].degrees)
    costs = (
        _PLAIN_DOMINANT if parents == list(_PLAIN_DOMINANT) else {n: 0.25 * rank for rank, n in enumerate(parents)}
    )
    return [source(chord.root, name, chord.names, costs[name], follows=True) for name in parents]


def _within(chord: Chord, key: Key | None) -> str:
    """In a key named by a mode: the scale on the chord's root with the key's own notes, if the chord is of them."""
    if key is None or key.home not in _CHURCH_MODES or not chord.pitch_classes <= key.pitch_classes:
        return ""
    steps = {(pitch - chord.root) % 12 for pitch in key.pitch_classes}
    return next((name for name in _CHURCH_MODES if SCALES[name].degrees.keys() == steps), "")


def _parents(chord: Chord, key: Key | None) -> list[str]:
    """Scale names for a chord, likeliest first."""
    step = (chord.root - key.tonic) % 12 if key else 0
    minor_key = key is not None and key.mode == "minor"
    if chord.has("bb7") or (chord.has("b5") and chord.has("b3") and not chord.has("b7")):
        return ["whole-half diminished", "Locrian natural 6"]
    if chord.has("b3") and chord.has("b5"):
        return ["Locrian", "Locrian natural 2", "Locrian natural 6"]
    if chord.has("b3"):
        if chord.has("7"):
            return ["melodic minor", "harmonic minor"]
        if chord.has("6"):
            return ["melodic minor", "Dorian"]
        if minor_key and step == 0:
            return ["natural minor", "Dorian", "harmonic minor", "melodic minor", "blues"]
        if (minor_key and step == 7) or (key and not minor_key and step == 4):
            return ["Phrygian", "natural minor", "Dorian"]
        if key and not minor_key and step == 9:
            return ["natural minor", "Dorian", "harmonic minor"]
        return ["Dorian", "natural minor", "melodic minor", "harmonic minor"]
    if chord.has("b7"):
        altered = {"b9", "#9", "b5", "#5", "b13"} & set(chord.labels)
        if len(altered) > 1:
            return ["altered", "Phrygian dominant", "half-whole diminished"]
        if chord.has("#11"):
            return ["Lydian dominant", "Mixolydian"]
        # On these degrees of a major key its sharp eleven is the key's own, or the tone that it resolves to.
        if key is not None and key.mode == "major" and not key.is_blues and step in _LYDIAN_DOMINANTS:
            return ["Lydian dominant", "Mixolydian", "altered", "blues"]
        # It points at a minor chord of the key, whose sixth and ninth are flat over it.
        at_minor = step in ((0, 7) if minor_key else (4, 9, 11)) if key else False
        if altered or at_minor:
            return ["Phrygian dominant", "altered", "half-whole diminished", "whole tone", "Mixolydian"]
        return list(_PLAIN_DOMINANT)
    if chord.has("#5"):
        return ["whole tone", "major"]
    if not chord.has("3"):
        return ["Mixolydian", "Dorian", "natural minor"]
    if not chord.has("7") and key is not None and step == (10 if minor_key else 7):
        return ["Mixolydian", "major"]
    lydian_first = (minor_key and step in (8, 1)) or (key is not None and not minor_key and step == 5)
    return ["Lydian", "major"] if lydian_first or chord.has("#11") else ["major", "Lydian"]


SCHOOL = ReasonSchool(
    "chord-by-chord", "Every chord brings its own scale; play the changes.", _sources, looks_ahead=True
)
