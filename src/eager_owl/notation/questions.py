"""The doubts of a solo as a short page of text, to ask others: each with its bar as tab."""

from collections.abc import Collection
from dataclasses import replace

from eager_owl.notation.tab import text_tab
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.solo.remarks import remarks_of
from eager_owl.solo.techniques import manner_words
from eager_owl.theory.pitch import FLAT_NAMES, pitch_name

_AROUND_S = 0.8  # shown to either side where there are no bars


def questions_text(solo: Solo, doubtful: Collection[int]) -> str:
    """The player's own doubts and the notes that were heard with doubt, in order of time."""
    asked: list[tuple[float, list[str]]] = []
    for remarked in remarks_of(solo):
        if remarked.remark.question:
            note = solo.note(remarked.note) if remarked.note is not None else None
            asked.append((max(remarked.start, 0.0), [remarked.remark.text, *_where(solo, remarked.start, note)]))
    names = solo.key.names if solo.key else FLAT_NAMES
    for note in solo.notes:
        if note.id in doubtful:
            others = ", or ".join(
                f"{pitch_name(pitch, names)} ({100 * share:.0f} in 100)" for pitch, share in note.runners_up
            )
            words = f"Heard as {pitch_name(note.pitch, names)} ({100 * note.confidence:.0f} in 100)"
            if note.manner_in_doubt is not None:
                words += f", {manner_words(note.manner)}"
                others = ", or ".join(filter(None, (others, manner_words(note.manner_in_doubt))))
            if note.place_in_doubt is not None:
                string, fret = note.place_in_doubt
                words += f", on string {note.string}"
                others = ", or ".join(filter(None, (others, f"string {string}, fret {fret}")))
            asked.append(
                (
                    note.onset,
                    [words + (f", or {others}?" if others else ": is it there?"), *_where(solo, note.onset, note)],
                )
            )
    asked.sort(key=lambda pair: pair[0])
    head = [f"Questions about “{solo.title}”", ""]
    facts = [fact for fact in (solo.about.player, solo.about.take, solo.about.date) if fact]
    if facts:
        head[1:1] = [", ".join(facts)]
    if not asked:
        return "\n".join([*head, "There are none: no doubt was written, and every note is sure or pinned."]) + "\n"
    body: list[str] = []
    for number, (_, lines) in enumerate(asked, 1):
        body += [f"{number}. {lines[0]}", *(f"   {line}".rstrip() for line in lines[1:]), ""]
    return "\n".join([*head, *body])


def _where(solo: Solo, time_s: float, note: Note | None) -> list[str]:
    """Time, bar and place, and the bar as tab."""
    minutes, seconds = divmod(max(time_s, 0.0), 60)
    words = [f"at {int(minutes)}:{seconds:04.1f}"]
    start, end = time_s - _AROUND_S, time_s + _AROUND_S
    if solo.grid is not None:
        bar, beat = solo.grid.bar_and_beat(time_s)
        words.append(f"bar {bar}, beat {beat:.1f}")
        first = (bar - 1) * solo.grid.beats_per_bar
        start, end = solo.grid.time_of(first) - 0.03, solo.grid.time_of(first + solo.grid.beats_per_bar) - 0.03
    if note is not None and note.string is not None:
        words.append(f"string {note.string}, fret {note.fret}")
    inside = tuple(n for n in solo.notes if start <= n.onset < end)
    if time_s < 0 or not inside:
        return [", ".join(words)] if time_s >= 0 else []
    part = replace(solo, notes=inside, phrases=(Phrase(start, end, "part"),), remarks=())
    lines = text_tab(part).splitlines()
    first_line = next(i for i, line in enumerate(lines) if line.startswith("1 part")) + 1
    tab = [line for line in lines[first_line:] if line and not line.startswith("Marks:")]
    return [", ".join(words), *tab]
