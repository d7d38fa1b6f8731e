"""Solos to be written and read back: invented ones, and those that hypothesis makes up."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from hypothesis import strategies as st

from eager_owl.notation.score import write_score
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.exports import EXPORTS, Wanted
from eager_owl.session.placing import place_notes
from eager_owl.session.sheets import written_grid
from eager_owl.solo.document import Instrument, Note, Phrase, Remark, Solo, Stroke, with_notes
from eager_owl.solo.store import load
from eager_owl.solo.techniques import Technique
from tests.support import DEMO

# Lengths in parts of a beat that fill whole beats, so that a line of them can be written exactly.
_FIGURES_OF_TWO = (
    (24,),
    (12, 12),
    (18, 6),
    (6, 18),
    (12, 6, 6),
    (6, 6, 12),
    (6, 6, 6, 6),
    (8, 8, 8),
    (36, 12),
    (48,),
    (72,),
)
_FIGURES_OF_THREE = ((24,), (8, 8, 8), (16, 8), (8, 16), (12, 12), (4, 4, 16), (48,))
_TECHNIQUES = (
    (), (), (), (Technique("bend", 2.0),), (Technique("bend", 1.0),), (Technique("bend_release", 2.0),),
    (Technique("prebend", 1.0),), (Technique("prebend_release", 3.0),), (Technique("vibrato"),),
    (Technique("hammer_on"),), (Technique("pull_off"),), (Technique("slide"),), (Technique("slide_in", 2.0),),
    (Technique("slide_out", -2.0),), (Technique("trill", 2.0),), (Technique("staccato"),), (Technique("ghost"),),
    (Technique("palm_mute"),), (Technique("let_ring"),), (Technique("harmonic"),), (Technique("tap"),),
    (Technique("rake"),), (Technique("dip", -1.5),), (Technique("dive", -3.0),),
)  # fmt: skip
_TUNINGS = (Instrument(), Instrument((64, 59, 55, 50, 45, 38)), Instrument((64, 59, 55, 50, 45, 40, 35)))
_CHARTS = (
    "",
    "| Fm7 | Bbm7 | Gm7b5 C7 | % |",
    "A | C | Am7 D7 | G/B |\nB | Cmaj7 | F#m7b5 | B7#9 |",
    "| N.C. | Eb13 |",
)


def demo_solo() -> Solo:
    return load(DEMO / "night-ferry.owl.json")


@st.composite
def written_solos(draw: st.DrawFn) -> Solo:
    """A solo that is played exactly as it is written: any meter, tuning, chords and techniques."""
    division = draw(st.sampled_from((2, 2, 2, 3)))
    beats = draw(st.sampled_from((3, 4, 4, 5) if division == 2 else (2, 3, 4)))
    swung = division == 2 and draw(st.booleans())
    grid = BeatGrid(draw(st.sampled_from((60.0, 93.7, 120.0, 200.0))), 0.0, beats, (), division, swung)
    instrument = draw(st.sampled_from(_TUNINGS))
    figures = st.sampled_from(
        _FIGURES_OF_TWO[:-4] if swung else _FIGURES_OF_TWO if division == 2 else _FIGURES_OF_THREE
    )
    notes: list[Note] = []
    tick = 0
    from eager_owl.rhythm.values import TICKS, played_beat

    def time(at: int) -> float:
        return grid.time_of(played_beat(at / TICKS, grid))

    for figure in draw(st.lists(figures, min_size=1, max_size=9)):
        for ticks in figure:
            string = draw(st.integers(1, len(instrument.tuning)))
            fret = draw(st.integers(0, 19))
            length = time(tick + ticks) - time(tick)
            note = Note(len(notes) + 1, time(tick), length, instrument.tuning[string - 1] + fret, string, fret)
            techniques = draw(st.sampled_from(_TECHNIQUES)) if notes else ()
            finger = draw(st.sampled_from((None, 1, 2, 3, 4)))
            notes.append(replace(note, techniques=techniques, finger=finger if fret else None))
            if draw(st.integers(0, 9)) == 0 and string > 1 and not techniques:
                pitch = instrument.tuning[string - 2] + fret
                notes.append(replace(note, id=len(notes) + 1, pitch=pitch, string=string - 1, techniques=()))
            tick += ticks
        if draw(st.integers(0, 4)) == 0:
            tick += TICKS
    remark = draw(st.sampled_from(((), (Remark("half-barre"),), (Remark("slide or hammer-on?", True),))))
    notes[0] = replace(notes[0], remarks=remark)
    end = notes[-1].end + 0.01
    key = draw(st.sampled_from(("F minor", "E major", "Bb major", "G# minor", "")))
    phrases = (Phrase(0.0, end, draw(st.sampled_from(("Question", "Antwort & mehr", "<3")))),)
    solo = Solo("Round trip", None, instrument, key, draw(st.sampled_from(_CHARTS)), grid, phrases=phrases)
    return with_notes(solo, notes)


def as_written(solo: Solo, sizes: bool = True) -> list[tuple[object, ...]]:
    """All that a page says of a solo's notes: place in the bar, value, pitch, string, fret, finger, techniques."""
    rows: list[tuple[object, ...]] = []
    for measure in write_score(solo.notes, written_grid(solo)).measures:
        for number, voice in enumerate(measure.voices):
            for event in voice:
                said = sorted(_said(note, sizes) for note in event.notes)
                graces = tuple(note.pitch for note in event.graces)
                if event.notes:
                    rows.append((measure.number, number, event.beat, event.length, event.tied_from, graces, *said))
    return rows


def _said(note: Note, sizes: bool) -> tuple[object, ...]:
    named = tuple(
        sorted((t.name, round(t.bend_semitones, 1) if t.kind.bends and sizes else 0.0) for t in note.techniques)
    )
    return note.pitch, note.string, note.fret, note.finger or 0, named


def export(solo: Solo, kind: str, suffix: str, strokes: Sequence[Stroke | None] = (), **wanted: object) -> bytes:
    """A solo as one of the formats that need no drawing."""
    return EXPORTS[kind].write(solo, Wanted(Path(f"solo{suffix}"), **wanted))  # type: ignore[arg-type]


def placed(solo: Solo) -> Solo:
    return place_notes(solo, solo.notes)
