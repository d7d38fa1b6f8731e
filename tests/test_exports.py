"""Handing on by the command line and from a session: every format, a phrase, presets, notes files, sound."""

import base64
import csv
import io
import json
import re
import subprocess
import sys
from dataclasses import replace
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

import numpy as np
import soundfile

from eager_owl.audio.hush import hush_tones
from eager_owl.notation.csv_file import read_csv
from eager_owl.notation.imported import ForeignFileError
from eager_owl.session.exports import EXPORTS, Wanted, only_phrase
from eager_owl.session.sound_files import encoded
from eager_owl.solo.document import About, Remark, Solo
from eager_owl.solo.store import load, save
from tests.schema import schema_complaints
from tests.sessions import SessionCase
from tests.support import DEMO, RATE, FolderCase, tone
from tests.test_cli import Commands
from tests.written import as_written, demo_solo, export

_DEMO = DEMO / "night-ferry.owl.json"


class ByCommand(Commands):
    def write(self, kind: str, name: str, *words: object, source: Path = _DEMO) -> Path:
        out = self.folder / name
        status, said = self.run_cli("export", source, "--to", kind, "--out", out, *words)
        self.assertEqual((status, said), (0, ""), said)
        return out

    def notes_file(self) -> Path:
        return self.write("json", "notes.json")

    def test_every_format_is_written_from_a_solo(self) -> None:
        signs = {"tab": b"e|", "musicxml": b"score-partwise", "midi": b"MThd", "csv": b"onset,", "json": b"owl/notes",
                 "pdf": b"%PDF", "svg": b"<svg", "html": b"<!DOCTYPE html>"}  # fmt: skip
        for kind, sign in signs.items():
            self.assertIn(sign, self.write(kind, f"out.{kind}").read_bytes(), kind)
        self.assertEqual(schema_complaints((self.folder / "out.musicxml").read_text()), [])

    def test_a_phrase_alone_and_presets(self) -> None:
        whole, one = (
            self.write("csv", name, *more).read_text() for name, more in (("a.csv", ()), ("b.csv", ("--phrase", 2)))
        )
        self.assertEqual({row["phrase"] for row in csv.DictReader(io.StringIO(one))}, {"Question"})
        self.assertGreater(len(whole), len(one))
        small, large = (len(self.write("pdf", f"{p}.pdf", "--preset", p).read_bytes()) for p in ("stand", "lesson"))
        self.assertGreater(large, small)
        turned = self.write("pdf", "turned.pdf", "--paper", "letter", "--landscape").read_bytes()
        self.assertRegex(turned, rb"MediaBox \[0 0 79[12]\.?\d* 61[12]\.?\d*\]")
        tab = self.write("tab", "t.txt", "--preset", "analysis").read_text()
        self.assertRegex(tab, r"(?m)^ +5 +b7")
        self.refused("no phrase 99", "export", _DEMO, "--to", "pdf", "--out", self.folder / "x", "--phrase", 99)
        self.refused("invalid choice", "export", _DEMO, "--to", "pdf", "--out", self.folder / "x", "--preset", "wall")

    def test_a_notes_file_takes_beat_key_and_chart(self) -> None:
        notes = self.notes_file()
        chart = self.folder / "chart.txt"
        chart.write_text("| Fm7 | Bbm7 | Gm7b5 | C7 |")
        beat = ("--bpm", 112, "--first-beat", 1.75, "--beats-per-bar", 3, "--key", "F minor", "--chart", chart)
        text = self.write("musicxml", "n.musicxml", *beat, source=notes).read_text()
        self.assertEqual(schema_complaints(text), [])
        self.assertIn("<beats>3</beats>", text)
        self.assertIn('<kind text="m7b5">half-diminished</kind>', text)
        six = self.write(
            "musicxml", "s.musicxml", "--bpm", 60, "--beats-per-bar", 2, "--division", 3, source=notes
        ).read_text()
        self.assertIn("<beats>6</beats><beat-type>8</beat-type>", six)
        status, said = self.run_cli("export", notes, "--to", "pdf", "--out", self.folder / "free.pdf")
        self.assertEqual(status, 0)
        self.assertRegex(said, "there is no beat, so the notes are written as if at 120")

    def test_the_web_page_needs_nothing_else_and_has_its_sound_in_it(self) -> None:
        page = self.write("html", "page.html", "--phrase", 3).read_text()
        self.assertEqual(re.findall(r'(?:src|href)="(?!data:|#)[^"]*"', page), [])
        self.assertNotIn("<script", page)
        self.assertNotRegex(page, r"url\((?!data:|#)")
        sounds = re.findall(r'src="data:audio/ogg;base64,([^"]+)"', page)
        self.assertEqual(len(sounds), 2)
        slow, plain = (soundfile.info(io.BytesIO(base64.b64decode(sound))).duration for sound in sounds)
        self.assertAlmostEqual(slow, 2 * plain, delta=0.1)
        picture = page[page.index("<svg") : page.index("</svg>") + 6]
        ElementTree.fromstring(picture)
        self.assertIn("Answer", picture)

    def test_no_half_written_file_is_left(self) -> None:
        self.refused("can't be written", "export", _DEMO, "--to", "csv", "--out", self.folder / "no/such.csv")
        broken = mock.Mock(side_effect=ValueError("no"))
        with mock.patch.dict(EXPORTS, csv=replace(EXPORTS["csv"], write=broken)):
            self.refused("no", "export", _DEMO, "--to", "csv", "--out", self.folder / "x.csv")
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_import_tells_what_was_left_out_and_saves_a_solo(self) -> None:
        tab = self.folder / "odd.txt"
        tab.write_text(
            "\n".join(f"{label}|{'-5-7-8-$---------' if label == 'B' else '-' * 17}|" for label in "eBGDAE")
        )
        out = self.folder / "odd.owl.json"
        status, said = self.run_cli("import", tab, "--out", out, "--bpm", 90)
        self.assertEqual(status, 0)
        self.assertRegex(said, "line 2, column .* is not known")
        solo = load(out)
        self.assertEqual([note.fret for note in solo.notes], [5, 7, 8])
        self.assertEqual(solo.grid.bpm if solo.grid else 0, 90)
        self.refused("ends in .owl.json", "import", tab, "--out", self.folder / "odd.json")
        self.refused("of no kind", "import", self.sound_file("a.wav", tone(69.0, 0.2)), "--out", out)
        self.refused("no file", "import", self.folder / "gone.mid", "--out", out)
        self.refused("no track 7", "import", self.write("midi", "d.mid"), "--out", out, "--track", 7)

    def test_every_format_that_is_written_is_read_again(self) -> None:
        solo = demo_solo()
        for kind, suffix in (("musicxml", "mxl"), ("midi", "mid"), ("csv", "csv"), ("json", "json"), ("tab", "txt")):
            out = self.folder / f"{kind}.owl.json"
            self.assertEqual(self.run_cli("import", self.write(kind, f"a.{suffix}"), "--out", out)[0], 0)
            places = [(note.string, note.fret) for note in load(out).notes]
            self.assertEqual(places, [(note.string, note.fret) for note in solo.notes], kind)

    def test_a_folder_is_transcribed_and_a_bad_file_stops_nothing(self) -> None:
        folder, out = self.folder / "takes", self.folder / "notes"
        folder.mkdir()
        for name, midi in (("one", 65.0), ("two", 70.0)):
            soundfile.write(
                folder / f"{name}.wav", np.concatenate([np.zeros(4000, np.float32), tone(midi, 1.0)]), RATE
            )
        (folder / "words.wav").write_text("not sound")
        (folder / "readme.md").write_text("no recording")
        done = subprocess.run(
            [sys.executable, "-m", "eager_owl", "transcribe", str(folder), "--out", str(out)],
            capture_output=True, text=True, timeout=120,
        )  # fmt: skip
        self.assertEqual(done.returncode, 2)
        self.assertRegex(done.stderr, "words.wav is not a sound file")
        self.assertRegex(done.stderr, "2 recordings transcribed into .*, 1 not")
        self.assertEqual(sorted(path.name for path in out.iterdir()), ["one.wav.json", "two.wav.json"])
        self.assertEqual(json.loads((out / "two.wav.json").read_text())["notes"][0]["pitch"], 70)
        self.refused("no recordings", "transcribe", out, "--out", self.folder / "more")


class Tables(FolderCase):
    def test_a_table_holds_every_field(self) -> None:
        solo = demo_solo()
        note = replace(solo.notes[2], remarks=(Remark("thumb, over the neck"), Remark("or not?", True)))
        solo = replace(solo, notes=(*solo.notes[:2], note, *solo.notes[3:]))
        text = export(solo, "csv", ".csv").decode()
        back = read_csv(text, "demo.csv")
        self.assertEqual(back.complaints, ())
        for one, other in zip(solo.notes, back.solo.notes, strict=True):
            for name in ("pitch", "string", "fret", "finger", "techniques", "loudness_db", "confidence", "remarks"):
                self.assertEqual(getattr(other, name), getattr(one, name), name)
            self.assertAlmostEqual(other.onset, one.onset, places=3)
        self.assertEqual([phrase.name for phrase in back.solo.phrases], ["Pickup", "Question", "Answer"])

    def test_tables_of_others_are_read_by_their_headings(self) -> None:
        found = read_csv("Pitch;Onset\nBb3;0,5\nq;1\n60;1.5\n\n61;-3\n", "x.csv")
        self.assertEqual([(note.pitch, note.onset) for note in found.solo.notes], [(58, 0.5), (60, 1.5)])
        self.assertRegex("\n".join(found.complaints), "line 3: left out: “q” is not a pitch")
        placed = read_csv("onset,string,fret\n0,1,5\n1,2,0\n2,9,1\n", "x.csv").solo
        self.assertEqual([note.pitch for note in placed.notes], [69, 59])
        for text in ("", "a,b\n1,2", "onset,pitch\n", "onset,pitch\nx,y\n"):
            with self.assertRaises(ForeignFileError):
                read_csv(text, "x.csv")


class Sounds(SessionCase):
    def test_a_phrase_is_handed_on_as_sound(self) -> None:
        self.demo()
        self.opened.look_at_phrase(1)
        phrase = self.solo.phrases[1]
        for name, speed in (
            ("phrase_sound", 1.0),
            ("slowed_sound", 0.5),
            ("transcription_sound", 1.0),
            ("band_sound", 1.0),
            ("without_lead", 1.0),
        ):
            out = self.folder / f"{name}.flac"
            self.session.keeping.export_to(EXPORTS[name], out, phrase=1)
            self.finish()
            self.assertAlmostEqual(soundfile.info(out).duration, (phrase.end - phrase.start) / speed, delta=0.05)
        self.session.keeping.export_to(EXPORTS["phrase_sound"], self.folder / "a.mp3")
        self.finish()
        self.assertRegex(self.notice, "written as .wav, .flac, .ogg")

    def test_without_a_recording_the_transcription_is_slowed(self) -> None:
        solo = replace(demo_solo(), recording=None)
        slow = EXPORTS["slowed_sound"].write(solo, Wanted(Path("x.ogg"), 0))
        self.assertGreater(soundfile.info(io.BytesIO(slow)).duration, 7)
        with self.assertRaisesRegex(ValueError, "no recording"):
            EXPORTS["phrase_sound"].write(solo, Wanted(Path("x.wav"), 0))
        with self.assertRaisesRegex(ValueError, "chords and a beat"):
            EXPORTS["band_sound"].write(replace(solo, chart_text=""), Wanted(Path("x.wav")))
        unread = replace(solo, key_text="H dur", chart_text="| Xm7 | ? |")
        for kind in ("tab", "musicxml", "midi", "csv", "json"):
            self.assertTrue(export(unread, kind, ".x"), kind)
        with self.assertRaisesRegex(ValueError, "no phrase 9"):
            only_phrase(solo, 8)

    def test_hushed_tones_are_gone_and_others_stay(self) -> None:
        lead, other = tone(69.0, 2.0, 9.0), tone(62.0, 2.0, 9.0)
        hz = np.full((1, 200), 440.0)
        left = hush_tones((lead + other)[:, None], RATE, hz, 0.01)[:, 0]
        spectrum = np.abs(np.fft.rfft(left[4000:-4000] * np.hanning(len(left) - 8000)))
        before = np.abs(np.fft.rfft((lead + other)[4000:-4000] * np.hanning(len(left) - 8000)))
        at = [round(f * (len(left) - 8000) / RATE) for f in (440.0, 293.66)]
        self.assertLess(spectrum[at[0]], 0.2 * before[at[0]])
        self.assertGreater(spectrum[at[1]], 0.8 * before[at[1]])
        self.assertEqual(len(hush_tones(np.zeros((0, 1), np.float32), RATE, hz, 0.01)), 0)

    def test_long_ogg_is_written_in_pieces(self) -> None:
        sound = np.zeros((RATE * 20, 2), np.float32)
        self.assertAlmostEqual(soundfile.info(io.BytesIO(encoded((sound, RATE), ".ogg"))).duration, 20, delta=0.1)

    def test_doubts_are_handed_on_as_questions(self) -> None:
        self.demo()
        doubtful = replace(self.solo.notes[3], confidence=0.5, runners_up=((68, 0.4),), pins=frozenset())
        asked = replace(self.solo.notes[5], remarks=(Remark("slide or hammer-on?", True),))
        notes = (*self.solo.notes[:3], doubtful, self.solo.notes[4], asked, *self.solo.notes[6:])
        text = export(replace(self.solo, notes=notes), "questions", ".txt").decode()
        self.assertIn("slide or hammer-on?", text)
        self.assertRegex(text, r"Heard as Ab4 \(50 in 100\), or Ab4 \(40 in 100\)\?")
        self.assertRegex(text, r"bar 1, beat \d")
        self.assertIn("e|", text)
        none = export(replace(demo_solo(), notes=()), "questions", ".txt").decode()
        self.assertIn("There are none", none)

    def test_the_page_is_exported_as_it_is_looked_at(self) -> None:
        self.demo()
        self.press("F5")
        self.assertEqual(self.session.sheets.preset.name, "lesson")
        self.session.sheets.choose("one_phrase", True)
        self.assertEqual(self.session.sheets.phrase, 2)
        self.dialogs.file = self.folder / "page"
        self.session.sheets.export("pdf")
        self.finish()
        self.assertTrue((self.folder / "page.pdf").read_bytes().startswith(b"%PDF"))
        self.assertRegex(self.notice, "written to page.pdf")
        self.press("Alt+P")
        self.dialogs.file = self.folder / "desk.png"
        self.press("Alt+D")
        self.assertEqual(self.screen.asked[-2:], ["print", "desk.png"])
        self.dialogs.file = self.folder / "desk.gif"
        self.press("Alt+D")
        self.assertRegex(self.notice, "can't be written")


class Documents(FolderCase):
    def test_remarks_and_facts_are_kept_and_older_solos_load(self) -> None:
        solo = replace(demo_solo(), remarks=(Remark("x", True, (1.0, 2.0)),))
        path = self.folder / "a.owl.json"
        save(solo, path)
        self.assertEqual(load(path).remarks, solo.remarks)
        content = json.loads(path.read_text())
        for name in ("about", "remarks"):
            del content[name]
        for part in (*content["notes"], *content["phrases"]):
            del part["remarks"]
        path.write_text(json.dumps(content))
        back = load(path)
        self.assertEqual((back.about, back.remarks), (About(), ()))
        self.assertFalse(any(part.remarks for part in (*back.notes, *back.phrases)))
        self.assertEqual(as_written(load(path)), as_written(demo_solo()))
        self.assertEqual(Solo().about.player, "")
