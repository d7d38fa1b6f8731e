"""How long a story about a line is, in bits: the shortest honest one is told first.

By minimum description length (J. Rissanen, "Modeling by shortest data description", Automatica 14, 1978): each source
has to be named, and each of its notes picked from among its tones, so that one of five tones says more than one of
seven, and one home more than two. A note that the named source does not hold has to be told by itself, whatever else
explains it.
"""

from collections.abc import Sequence
from itertools import groupby
from math import log2
from typing import TYPE_CHECKING

from eager_owl.theory.key import Key

if TYPE_CHECKING:
    from eager_owl.reasons.explain import Reason
    from eager_owl.reasons.sources import Source

# To name a source: the key's own, another one on its tonic, what the chord of the moment brings, any other, or the
# blues where the tonic's chord is none of a blues; to name one again; and to say that it changes.
_HOME_BITS, _TONIC_BITS, _CHORD_BITS, _OTHER_BITS, _BLUES_BITS = 1.0, 2.0, 2.0, 4.0, 5.0
_AGAIN_BITS, _CHANGE_BITS = 0.5, 2.0
_EARLY_BITS = 3.0  # before its chord, or after it
# To tell a note by itself: a tone of the chord of the moment; an ornament or blue note; one that nothing explains.
_BORROWED_BITS, _DETOUR_BITS, _OUTSIDE_BITS = 5.5, 6.0, 11.0
_NO_SOURCE_BITS = 12.0


def story_bits(reasons: "Sequence[Reason]", key: Key | None) -> float:
    """The bits of a story told by these reasons, one a note."""
    tonics = [reason.chord for reason in reasons if reason.chord and key and reason.chord.root == key.tonic]
    plain_major = key is not None and key.mode == "major" and not key.is_blues
    no_blues = plain_major and bool(tonics) and all(chord.quality != "dominant" for chord in tonics)
    named: set[Source] = set()
    bits = 0.0
    for (source, lead), group in groupby(reasons, key=lambda reason: (reason.source, reason.lead)):
        told = list(group)
        if source is None:
            bits += _NO_SOURCE_BITS * sum(reason.standing != "unpitched" for reason in told)
            continue
        bits += (
            _CHANGE_BITS
            + (_AGAIN_BITS if source in named else _name_bits(source, key, no_blues))
            + _EARLY_BITS * (lead != 0)
        )
        named.add(source)
        bits += sum(_note_bits(reason, len(source.degrees)) for reason in told)
    return bits


def _name_bits(source: "Source", key: Key | None, no_blues: bool) -> float:
    if source.follows_chord:
        return _CHORD_BITS
    if key is None or source.root != key.tonic:
        return _OTHER_BITS
    if no_blues and source.scale.name in ("minor pentatonic", "blues", "major blues"):
        return _BLUES_BITS
    plain = (key.scale_name, f"{key.mode} pentatonic", "minor pentatonic" if key.is_blues else "")
    return _HOME_BITS if source.scale.name in plain else _TONIC_BITS


def _note_bits(reason: "Reason", tones: int) -> float:
    by_itself = {"borrowed": _BORROWED_BITS, "detour": _DETOUR_BITS, "outside": _OUTSIDE_BITS, "unpitched": 0.0}
    return by_itself.get(reason.standing, log2(tones))
