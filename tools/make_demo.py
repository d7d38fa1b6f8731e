"""Make the demo that ships: two recordings of “Night Ferry”, their truth, and the solo as the demo opens it.

Run as `PYTHONPATH=src .venv/bin/python tools/make_demo.py` after a change of the synthesiser or detector. With
`--solo` the recordings are left as they are.
"""

import sys
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

import soundfile

from eager_owl.notation.notes_file import write_notes
from eager_owl.session.hearing import Survey, hear_phrase, lay_heard, survey
from eager_owl.session.open_solo import Sound
from eager_owl.session.placing import place_phrase
from eager_owl.session.recordings import as_stored, decode_sound, reference_to
from eager_owl.solo.document import About, Note, Phrase, Solo, change_phrase
from eager_owl.solo.edits import change_pitch, set_place, toggle_technique
from eager_owl.solo.remarks import add_remark
from eager_owl.solo.store import save
from eager_owl.solo.techniques import TechniqueName
from eager_owl.sound import night_ferry

BY_EAR = 70  # the last note of the question, hardly to be heard under the band
FOLDER = Path(__file__).resolve().parents[1] / "src/eager_owl/assets/demo"


def main() -> None:
    """Write all files of the demo."""
    lead, band = FOLDER / "night-ferry-lead.flac", FOLDER / "night-ferry-band.flac"
    if "--solo" not in sys.argv:
        soundfile.write(lead, night_ferry.render_lead(), night_ferry.RATE_HZ, subtype="PCM_16")
        soundfile.write(band, night_ferry.render_with_band(), night_ferry.RATE_HZ, subtype="PCM_16")
    grid = night_ferry.GRID
    solo = Solo(
        title=night_ferry.TITLE,
        key_text=night_ferry.KEY,
        chart_text=night_ferry.CHART,
        grid=grid,
        about=About(take="third take", place="rehearsal tape"),
        phrases=tuple(
            Phrase(round(grid.time_of(a), 3), round(grid.time_of(b), 3), name)
            for name, a, b, _ in night_ferry.PHRASES
        ),
    )
    truth = write_notes(night_ferry.solo_notes(), solo.instrument, night_ferry.TUNING_CENTS)
    (FOLDER / "night-ferry.truth.json").write_text(truth, encoding="utf-8")
    sound, path = decode_sound(band), FOLDER / "night-ferry.owl.json"
    surveyed = survey(sound.recording)
    solo = replace(solo, recording=reference_to(sound))
    for index, correct in enumerate((correct_pickup, correct_question, correct_answer)):
        solo = correct(hear(solo, index, sound, surveyed), sound, surveyed)
    solo = remark(solo)
    path.unlink(missing_ok=True)  # no copy of the demo before
    save(as_stored(solo, band, path), path)


def hear(solo: Solo, index: int, sound: Sound, surveyed: Survey, taps: Sequence[float] = ()) -> Solo:
    """A phrase heard and placed, at taps where there are any."""
    heard = hear_phrase(solo, solo.phrases[index], sound.recording, surveyed, taps=taps)
    return lay_heard(solo, index, heard)


# What a player put right, phrase by phrase.


def correct_pickup(solo: Solo, _sound: Sound, _surveyed: Survey) -> Solo:
    """The third note is hammered, the fifth picked; the first lies where the player says. Proved by the record."""
    notes = solo.notes_in(solo.phrases[0])
    solo = name(solo, [notes[2]], "hammer_on")
    solo = unname(solo, [notes[4]], "hammer_on")
    solo = place_phrase(solo, 0)
    first = solo.note(notes[0].id)
    assert first.string is not None
    return change_phrase(set_place(solo, first.id, first.string), 0, stage="proved")


def correct_question(solo: Solo, sound: Sound, surveyed: Survey) -> Solo:
    """Tapped along with, for a short last note told by ear; two are picked that sounded hammered, one is slid to."""
    phrase = solo.phrases[1]
    taps = [note.onset for note in night_ferry.solo_notes() if phrase.holds(note.onset)]
    solo = hear(solo, 1, sound, surveyed, taps)
    last = solo.notes_in(phrase)[-1]
    solo = change_pitch(solo, [last.id], BY_EAR - last.pitch)
    solo = hear(solo, 1, sound, surveyed, taps)
    for note in solo.notes_in(phrase):
        solo = unname(solo, [note], "hammer_on")
    notes = solo.notes_in(phrase)
    assert len(notes) == len(taps), [note.onset for note in notes]
    solo = name(solo, [notes[4]], "slide")
    solo = name(solo, [notes[-1]], "staccato")
    return change_phrase(place_phrase(solo, 1), 1, stage="reasoned")


def correct_answer(solo: Solo, _sound: Sound, _surveyed: Survey) -> Solo:
    """A trill is called one."""
    notes = solo.notes_in(solo.phrases[2])
    low = min(notes[3:9], key=lambda note: note.onset)
    solo = name(solo, [low], "trill")
    solo = name(solo, [notes[4]], "hammer_on")
    return place_phrase(solo, 2)


def remark(solo: Solo) -> Solo:
    """What the player says of two notes of the question, and of the phrase after it."""
    notes = solo.notes_in(solo.phrases[1])
    words = "I think he stays on the top string and shifts; from the eighth position it is easier and sounds thinner."
    solo = add_remark(solo, words, [notes[5]])
    solo = add_remark(solo, "pulled off or picked?", [notes[-1]])
    return add_remark(solo, "loud, then falling away", phrase=2)


def name(solo: Solo, notes: Sequence[Note], technique: TechniqueName) -> Solo:
    """Give notes a technique that they do not have."""
    return _toggled(solo, notes, technique, lambda note: note.technique(technique) is None)


def unname(solo: Solo, notes: Sequence[Note], technique: TechniqueName) -> Solo:
    """Take a technique from those of the notes that have it."""
    return _toggled(solo, notes, technique, lambda note: note.technique(technique) is not None)


def _toggled(solo: Solo, notes: Sequence[Note], technique: TechniqueName, where: Callable[[Note], bool]) -> Solo:
    ids = [note.id for note in notes if where(solo.note(note.id))]
    return toggle_technique(solo, ids, technique) if ids else solo


if __name__ == "__main__":
    main()
