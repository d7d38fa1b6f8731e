"""Whether other programs read what is written, and how fast it is: ./run-benchmarks exchange [--broken N]

MusicXML of the demo and of phrases written down by hand, read by music21 and verovio and counted against the score;
MIDI played by fluidsynth and transcribed again; broken files of every kind; a thousand notes against the clock.
"""

import argparse
import logging
import os
import random
import re
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import music21
import numpy as np
import verovio
from mir_eval.transcription import precision_recall_f1_overlap

from benchmarks.phrases import PHRASES, SECOND, THIRD, UNSEEN, written_notes
from benchmarks.pieces import RATE_HZ, SOUNDFONTS, play_file
from eager_owl.audio.decode import Recording
from eager_owl.desktop.drawing import drawing_without_window
from eager_owl.notation.imported import ForeignFileError, with_phrases
from eager_owl.notation.score import write_score
from eager_owl.notation.sheet.memory import Memory
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.exports import EXPORTS, Wanted
from eager_owl.session.hearing import hear_phrase
from eager_owl.session.importing import READERS, placed
from eager_owl.session.placing import place_notes
from eager_owl.session.sheets import PAPERS, PRESETS, SheetMatter, lay_sheet, written_grid
from eager_owl.solo.document import Note, Phrase, Solo, with_notes
from eager_owl.solo.store import load, to_json
from eager_owl.theory.pitch import midi_to_hz

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "src/eager_owl/assets/demo/night-ferry.owl.json"
_ONSET_S = 0.05


def solos() -> list[Solo]:
    """The demo, and phrases written by hand on a beat of their own."""
    found = [load(DEMO)]
    for phrase in (*PHRASES, *SECOND, *THIRD, *UNSEEN)[::6]:
        notes = written_notes(phrase)
        grid = BeatGrid(60 / (2 * phrase.beat_s) if phrase.beat_s < 0.5 else 60 / phrase.beat_s)
        solo = with_notes(Solo(phrase.habit, key_text=phrase.key, grid=grid), notes)
        found.append(with_phrases(solo))
    return found


def export(solo: Solo, kind: str, suffix: str, **wanted: object) -> bytes:
    return EXPORTS[kind].write(solo, Wanted(Path(f"x{suffix}"), **wanted))  # type: ignore[arg-type]


# Other programs


def written_rows(solo: Solo) -> list[tuple[float, float, int]]:
    """(quarter note from the first bar, quarter notes, pitch) of every written part of a note."""
    grid = written_grid(solo)
    score = write_score(solo.notes, grid)
    quarters = 1.5 if grid.division == 3 else 1.0
    first = min(event.beat for event in score.events() if event.notes or score.measures[0].number >= 1)
    rows = []
    for event in score.events():
        for note in event.notes:
            rows.append((float(event.beat - first) * quarters, float(event.length) * quarters, note.pitch))
    return sorted(rows)


def read_by_music21(text: str) -> tuple[list[tuple[float, float, int]], int]:
    """The same rows as music21 has them, and how many chord symbols it reads."""
    part = music21.converter.parseData(text, format="musicxml").parts[0].flatten()
    rows = []
    for element in part.notes:
        if element.duration.isGrace or isinstance(element, music21.harmony.Harmony):
            continue
        pitches = element.pitches
        for pitch in pitches:
            rows.append((float(element.offset), float(element.quarterLength), pitch.midi))
    first = min((row[0] for row in rows), default=0.0)
    return sorted((at - first, length, pitch) for at, length, pitch in rows), len(
        part.getElementsByClass("ChordSymbol")
    )


def read_by_verovio(text: str) -> tuple[int, Counter[int], str]:
    """How many notes verovio has on the standard staff, their pitches, and what it complained of."""
    with tempfile.TemporaryFile() as log_file:
        stderr = os.dup(2)  # it complains there, past Python
        os.dup2(log_file.fileno(), 2)
        toolkit = verovio.toolkit()
        loaded = toolkit.loadData(text)
        mei = toolkit.getMEI()
        toolkit.renderToMIDI()
        os.dup2(stderr, 2)
        log_file.seek(0)
        log = log_file.read().decode(errors="replace") if loaded else "not loaded"
    pitches: Counter[int] = Counter()
    staff = re.findall(r'<staff [^>]*n="1".*?</staff>', mei, re.DOTALL)
    ids = [i for s in staff for i in re.findall(r'<note [^>]*xml:id="([^"]+)"(?![^>]*grace)', s)]
    for note_id in ids:
        values = toolkit.getMIDIValuesForElement(note_id)
        if "pitch" in values:
            pitches[values["pitch"]] += 1
    return len(ids), pitches, log


def others_read() -> None:
    """Agreement of music21 and verovio with the score."""
    logging.disable(logging.WARNING)
    agreed = chords = notes = complaints = counted = 0
    everything = solos()
    for solo in everything:
        text = export(solo, "musicxml", ".musicxml").decode()
        rows = written_rows(solo)
        theirs, symbols = read_by_music21(text)
        offset = rows[0][0] if rows else 0.0
        ours = sorted((round(at - offset, 4), round(length, 4), pitch) for at, length, pitch in rows)
        agreed += ours == [(round(at, 4), round(length, 4), pitch) for at, length, pitch in theirs]
        chords += symbols
        notes += len(rows)
        count, pitches, log = read_by_verovio(text)
        graces = sum(len(event.graces) for event in write_score(solo.notes, written_grid(solo)).events())
        counted += (
            abs(count - len(rows)) <= graces and sum((Counter(p for _, _, p in rows) - pitches).values()) <= graces
        )
        complaints += bool(log.strip())
    print(f"MusicXML of {len(everything)} solos, {notes} written notes, {chords} chord symbols")
    print(f"  music21: the same onsets, durations and pitches in {agreed}")
    print(f"  verovio: the same notes in {counted}; it complained of {complaints}")


# Sound


def played_again() -> None:
    """MIDI by fluidsynth, transcribed: note F1 by mir_eval."""
    for soundfont in SOUNDFONTS:
        found = truth = matched = 0
        for solo in solos():
            lead = replace(solo, notes=tuple(n for n in solo.notes if not n.technique("ghost")), chart_text="")
            with tempfile.TemporaryDirectory() as folder:
                midi = Path(folder) / "x.mid"
                midi.write_bytes(export(lead, "midi", ".mid"))
                recording = Recording(play_file(midi, soundfont)[:, None], RATE_HZ)
            heard = hear_phrase(Solo(mix="solo"), Phrase(0.0, recording.duration_s), recording, None).notes
            ours, theirs = (as_arrays(notes) for notes in (lead.notes, heard))
            _, recall, _, _ = precision_recall_f1_overlap(*ours, *theirs, onset_tolerance=_ONSET_S, offset_ratio=None)
            matched += round(recall * len(lead.notes))
            truth, found = truth + len(lead.notes), found + len(heard)
        score = 2 * matched / (truth + found)
        print(f"MIDI played by fluidsynth ({soundfont}) and transcribed: F1 {score:.3f} of {truth} notes")


def as_arrays(notes: tuple[Note, ...]) -> tuple[np.ndarray, np.ndarray]:
    """Intervals in seconds and pitches in Hz, as mir_eval wants them."""
    spans = np.array([(note.onset, note.end) for note in notes]).reshape(-1, 2)
    return spans, midi_to_hz(np.array([float(note.pitch) for note in notes]))


# Broken files

_WORDS = (
    b"1e999", b"-1", b"999999999999", b"NaN", b"<note/>", b"\x00", b"\xff", b"0", b"</note>", b'""', b"|", b"x99",
    b"----", b"12", b"b", b"\n", b'"', b",", b"&#0;", b'<repeat direction="backward" times="99999"/>',
)  # fmt: skip


def broken(content: bytes, rng: random.Random) -> bytes:
    """A file with bytes changed, cut, doubled, and numbers made absurd."""
    out = bytearray(content)
    for _ in range(rng.choice([1, 1, 2, 3, 8, 30])):
        at, kind = rng.randrange(len(out) + 1), rng.random()
        if kind < 0.25:
            out[min(at, len(out) - 1)] = rng.randrange(256)
        elif kind < 0.4:
            del out[at : at + rng.randrange(1, 60)]
        elif kind < 0.6:
            out[at:at] = rng.choice(_WORDS)
        elif kind < 0.7:
            out = out[:at]
        elif kind < 0.85:
            out[at:at] = out[at : at + rng.randrange(1, 200)]
        elif numbers := list(re.finditer(rb"\d+", bytes(out))):
            number = rng.choice(numbers)
            out[number.start() : number.end()] = rng.choice([b"0", b"-5", b"99999", b"1e400", b"3.7", b"7"])
        out = out or bytearray(b"x")
    return bytes(out)


def broken_files(count: int) -> None:
    """Each is read, kept and written again, or refused in one line."""
    solo = load(DEMO)
    kinds = {
        ".musicxml": "musicxml",
        ".mxl": "musicxml",
        ".mid": "midi",
        ".csv": "csv",
        ".txt": "tab",
        ".json": "json",
    }
    good = {suffix: export(solo, kind, suffix) for suffix, kind in kinds.items()}
    rng, read, refused, slowest = random.Random(7), 0, 0, 0.0
    faults: Counter[str] = Counter()
    for _ in range(count):
        suffix = rng.choice(list(good))
        content = broken(good[suffix], rng)
        began = time.perf_counter()
        try:
            found = placed(READERS[suffix](content, f"broken{suffix}", None, None)).solo
            to_json(found)
            for kind in ("musicxml", "midi", "csv", "tab"):
                export(found, kind, ".x")
            read += 1
        except ForeignFileError as error:
            refused += 1
            faults["more than a line"] += "\n" in str(error)
        except Exception as error:
            faults[f"{suffix} {type(error).__name__}: {error}"[:90]] += 1
        slowest = max(slowest, time.perf_counter() - began)
    faults = +faults
    print(f"{count} broken files: {read} read, {refused} refused in a line; slowest {slowest:.1f} s")
    print(f"  {sum(faults.values())} faults {dict(faults) or ''}")


# Time


def thousand() -> Solo:
    """A thousand notes in phrases, with techniques."""
    rng = np.random.default_rng(3)
    demo = load(DEMO)
    assert demo.grid is not None
    ladder = [p for p in range(48, 83) if p % 12 in (5, 8, 10, 0, 3)]
    at, beat, notes = 8, 0.0, []
    for index in range(1000):
        length = float(rng.choice([0.5, 0.5, 0.5, 0.25, 0.25, 1.0, 1 / 3, 1 / 3, 1 / 3]))
        at = int(np.clip(at + rng.integers(-2, 3), 0, len(ladder) - 1))
        onset = demo.grid.time_of(beat)
        notes.append(Note(index + 1, onset, 0.95 * length * demo.grid.beat_s, ladder[at], loudness_db=-20.0))
        beat += length
        if rng.random() < 0.05:
            beat = float(int(beat) + 2)
    solo = replace(demo, notes=tuple(notes), phrases=(), recording=None)
    return with_phrases(place_notes(solo, solo.notes))


def timed(act: Callable[[], object]) -> float:
    """Seconds: the median of three."""
    times = []
    for _ in range(3):
        began = time.perf_counter()
        act()
        times.append(time.perf_counter() - began)
    return sorted(times)[1]


def times() -> None:
    """A thousand notes written, laid out, and laid out again after an edit."""
    solo, drawing = thousand(), drawing_without_window()
    xml = timed(lambda: export(solo, "musicxml", ".musicxml"))
    print(f"1,000 notes: MusicXML {xml:.2f} s, MIDI {timed(lambda: export(solo, 'midi', '.mid')):.2f} s")
    for name, preset in PRESETS.items():
        pdf = timed(lambda name=name: export(solo, "pdf", ".pdf", preset=name, drawing=drawing))
        opened = timed(lambda p=preset: lay_sheet(SheetMatter().of(solo, p), p, PAPERS["A4"], drawing.widths))
        matter, memory = SheetMatter(), Memory()
        lay_sheet(matter.of(solo, preset), preset, PAPERS["A4"], drawing.widths, memory=memory)
        edits = []
        for finger in (1, 2, 3):
            changed = replace(solo.notes[500], finger=finger)
            edited = replace(solo, notes=(*solo.notes[:500], changed, *solo.notes[501:]))
            began = time.perf_counter()
            lay_sheet(matter.of(edited, preset), preset, PAPERS["A4"], drawing.widths, memory=memory)
            edits.append(time.perf_counter() - began)
        edit_ms = 1000 * sorted(edits)[1]
        print(f"  {name}: PDF {pdf:.2f} s, opened in {opened:.2f} s, an edit laid out in {edit_ms:.0f} ms")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--broken", type=int, default=2000)
    options = parser.parse_args()
    others_read()
    played_again()
    times()
    broken_files(options.broken)


if __name__ == "__main__":
    main()
