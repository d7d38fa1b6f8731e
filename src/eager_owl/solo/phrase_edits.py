"""The player's changes to a solo's phrases, as edits.py has those to its notes."""

from dataclasses import replace

from eager_owl.solo.document import MIN_PHRASE_S, Phrase, Solo, change_phrase
from eager_owl.solo.edits import EditError


def mark_phrase(solo: Solo, start: float, end: float, name: str = "") -> Solo:
    """Add a phrase; it must not overlap another."""
    if end - start < MIN_PHRASE_S:
        raise EditError("a phrase must last at least a tenth of a second")
    for phrase in solo.phrases:
        if phrase.start < end - 1e-6 and start < phrase.end - 1e-6:
            raise EditError(f"that overlaps the phrase “{phrase.name}”")
    phrase = Phrase(max(start, 0.0), end, name or f"Phrase {len(solo.phrases) + 1}")
    return replace(solo, phrases=tuple(sorted((*solo.phrases, phrase), key=lambda p: p.start)))


def split_phrase(solo: Solo, index: int, time_s: float) -> Solo:
    """Cut a phrase in two at a time inside it."""
    phrase = solo.phrases[index]
    if not phrase.start + MIN_PHRASE_S <= time_s <= phrase.end - MIN_PHRASE_S:
        raise EditError("put the cursor inside the phrase to split it")
    first = replace(
        phrase,
        end=time_s,
        removed=tuple(r for r in phrase.removed if r[0] < time_s),
        others=tuple(o for o in phrase.others if o.onset < time_s),
    )
    second = replace(
        phrase,
        start=time_s,
        name=f"{phrase.name}, second half",
        remarks=(),
        removed=tuple(r for r in phrase.removed if r[0] >= time_s),
        others=tuple(other for other in phrase.others if other.onset >= time_s),
    )
    return replace(solo, phrases=(*solo.phrases[:index], first, second, *solo.phrases[index + 1 :]))


def merge_with_next(solo: Solo, index: int) -> Solo:
    """Make one phrase of this and the following one."""
    if index + 1 >= len(solo.phrases):
        raise EditError("there is no later phrase to merge with")
    first, second = solo.phrases[index : index + 2]
    merged = replace(first, end=second.end, removed=first.removed + second.removed)
    merged = replace(merged, others=first.others + second.others, remarks=first.remarks + second.remarks)
    return replace(solo, phrases=(*solo.phrases[:index], merged, *solo.phrases[index + 2 :]))


def nudge_phrase(solo: Solo, index: int, start_s: float, end_s: float) -> Solo:
    """Move a phrase's start and end by seconds, pushing no further than its neighbours."""
    phrase = solo.phrases[index]
    lower = solo.phrases[index - 1].end if index else 0.0
    upper = solo.phrases[index + 1].start if index + 1 < len(solo.phrases) else float("inf")
    if solo.recording:
        upper = min(upper, solo.recording.duration_s)
    start, end = max(phrase.start + start_s, lower), min(phrase.end + end_s, upper)
    if end - start < MIN_PHRASE_S:
        raise EditError("a phrase must last at least a tenth of a second")
    return change_phrase(solo, index, start=start, end=end)


def rename_phrase(solo: Solo, index: int, name: str) -> Solo:
    """Give a phrase another name."""
    if not name.strip():
        raise EditError("a phrase needs a name")
    return change_phrase(solo, index, name=name.strip())


def delete_phrase(solo: Solo, index: int) -> Solo:
    """Remove a phrase and the notes in it."""
    phrase = solo.phrases[index]
    kept = tuple(note for note in solo.notes if not phrase.holds(note.onset))
    return replace(solo, phrases=(*solo.phrases[:index], *solo.phrases[index + 1 :]), notes=kept)
