"""What the player remarks of what is selected, of the phrase on the desk or of the solo; from one to the next."""

from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.remarks import Remarked, add_remark, remarks_of, remove_remark
from eager_owl.theory.words import plural

_STEP_S = 1e-3


def remark_target(opened: OpenSolo) -> str:
    """What a remark typed now would be about, in words."""
    chosen = opened.selected
    if len(chosen) == 1:
        number = next((i for i, note in enumerate(opened.notes, 1) if note.id == chosen[0].id), 0)
        return f"note {number}" + (f" of “{opened.phrase.name}”" if opened.phrase else "")
    if chosen:
        return f"the stretch of {plural(len(chosen), 'note')}"
    if opened.view.span is not None:
        return "the chosen stretch"
    return f"the phrase “{opened.phrase.name}”" if opened.phrase else "the whole solo"


def remark(session: Session, text: str) -> bool:
    """Say something of what is looked at; answers whether it was taken."""
    opened = session.solo
    notes, span, phrase = opened.selected, opened.view.span, opened.view.phrase
    return opened.do("remark", lambda solo: add_remark(solo, text, notes, span, phrase))


def remove(session: Session, remarked: Remarked) -> None:
    """Take a remark away."""
    session.solo.do("remark taken away", lambda solo: remove_remark(solo, remarked))


def go_to(session: Session, remarked: Remarked) -> None:
    """Show what a remark is about."""
    opened = session.solo
    if remarked.note is not None:
        session.show_notes((remarked.note,))
    elif remarked.phrase is not None:
        session.show_phrase(remarked.phrase)
    elif remarked.remark.span is not None:
        start = remarked.remark.span[0]
        home = opened.solo.phrase_index_at(start)
        if home != opened.view.phrase:
            opened.look_at_phrase(home)
        opened.select(())
        opened.set_span(remarked.remark.span)
        opened.move_cursor(start)


def next_remark(session: Session) -> None:
    """Go to the next remark in time, from the last to the first again."""
    opened = session.solo
    found = [each for each in remarks_of(opened.solo) if each.start >= 0]
    if not found:
        session.tell("there are no remarks yet: / writes one")
        return
    here = opened.view.cursor
    following = next((each for each in found if each.start > here + _STEP_S), found[0])
    go_to(session, following)
    if following.note is None:
        opened.move_cursor(following.start)
    session.tell(following.words)
