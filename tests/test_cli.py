import contextlib
import io
import json
import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
import soundfile

from eager_owl import __version__, cli
from eager_owl.audio.decode import decode
from eager_owl.log import log_path
from eager_owl.session.hearing import hear_phrase, lay_heard, survey
from eager_owl.session.placing import place_notes
from eager_owl.solo.document import Phrase, Solo
from eager_owl.solo.store import save
from eager_owl.theory.pitch import parse_pitch
from tests.support import DEMO, RATE, FolderCase, after_silence, line, tone

ROOT = Path(__file__).resolve().parents[1]


class Commands(FolderCase):
    def run_cli(self, *words: object) -> tuple[int, str]:
        """(exit status, what was said on stderr); nothing may go to stdout."""
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = cli.main([str(word) for word in words])
        self.assertEqual(out.getvalue(), "")
        self.assertNotIn("Traceback", err.getvalue())
        return status, err.getvalue()

    def refused(self, reason: str, *words: object) -> None:
        """The command exits 2 with one line that gives the reason, and leaves no file."""
        before = set(self.folder.iterdir())
        status, said = self.run_cli(*words)
        self.assertEqual(status, cli.BAD_INPUT, said)
        self.assertRegex(said, reason)
        self.assertEqual(said.count("\n"), 1, said)
        self.assertEqual(set(self.folder.iterdir()), before)

    def notes(self) -> Path:
        path = self.folder / "notes.json"
        rows = [{"onset": n.onset, "duration": n.duration, "pitch": n.pitch} for n in line(65, 68, 70, 72)]
        path.write_text(json.dumps({"format": "eager-owl/notes", "version": 1, "notes": rows}))
        return path

    def chart(self, text: str = "| Fm7 | C7 |") -> Path:
        path = self.folder / "chart.txt"
        path.write_text(text)
        return path

    def melody(self) -> Path:
        return self.sound_file("melody.wav", after_silence(*(tone(float(p), 0.3, 0.3) for p in (65, 68, 70, 72))))


class Transcribe(Commands):
    def test_notes_places_and_reasons(self) -> None:
        out = self.folder / "out.json"
        status, said = self.run_cli(
            "transcribe", self.melody(), "--out", out, "--key", "F minor", "--chart", self.chart(), "--bpm", 120
        )
        self.assertEqual((status, said), (0, ""))
        content = json.loads(out.read_text())
        self.assertEqual([n["pitch"] for n in content["notes"]], [65, 68, 70, 72])
        for row in content["notes"]:
            self.assertEqual(content["tuning"][row["string"] - 1] + row["fret"], row["pitch"])
            self.assertIn(row["finger"], range(5))
            self.assertEqual(row["source"], "F minor pentatonic")
        self.assertEqual(content["notes"][0]["chord"], "Fm7")

    def test_from_to_tuning_capo_frets_school(self) -> None:
        out = self.folder / "out.json"
        tuning = "D4,A3,F3,C3,G2,D2"
        words = ("--from", 0.55, "--to", 1.15, "--tuning", tuning, "--capo", 1, "--frets", 24)
        status, _ = self.run_cli("transcribe", self.melody(), "--out", out, *words, "--school", "along-one-string")
        self.assertEqual(status, 0)
        content = json.loads(out.read_text())
        self.assertEqual([n["pitch"] for n in content["notes"]], [68, 70])
        self.assertAlmostEqual(content["notes"][0]["onset"], 0.6, delta=0.03)
        self.assertEqual(content["tuning"], [parse_pitch(p) for p in tuning.split(",")])
        self.assertEqual((content["capo"], content["frets"]), (1, 24))

    def test_the_demo_lead_is_heard(self) -> None:
        out = self.folder / "demo.json"
        self.assertEqual(self.run_cli("transcribe", DEMO / "night-ferry-lead.flac", "--out", out)[0], 0)
        found = json.loads(out.read_text())["notes"]
        truth = json.loads((DEMO / "night-ferry.truth.json").read_text())["notes"]
        hit = sum(any(abs(n["onset"] - t["onset"]) < 0.05 and n["pitch"] == t["pitch"] for n in found) for t in truth)
        self.assertGreater(hit / len(truth), 0.9)

    def test_the_demo_lead_is_heard_through_its_band(self) -> None:
        truth = json.loads((DEMO / "night-ferry.truth.json").read_text())["notes"]
        rows = {}
        for mix in ("auto", "band"):
            out = self.folder / f"{mix}.json"
            band = DEMO / "night-ferry-band.flac"
            status, said = self.run_cli("transcribe", band, "--out", out, "--mix", mix)
            self.assertEqual((status, said), (0, ""))
            rows[mix] = json.loads(out.read_text())["notes"]
        self.assertEqual([n["pitch"] for n in rows["auto"]], [n["pitch"] for n in rows["band"]])
        found = sum(
            any(abs(n["onset"] - t["onset"]) < 0.05 and n["pitch"] == t["pitch"] for n in rows["band"]) for t in truth
        )
        self.assertGreater(2 * found / (len(truth) + len(rows["band"])), 0.9)

    def test_odd_but_usable_recordings(self) -> None:
        for rate in (8000, 192_000):
            path = self.folder / f"r{rate}.wav"
            time = np.arange(rate) / rate
            soundfile.write(path, 0.3 * np.sin(2 * np.pi * 440 * time) * np.exp(-time), rate)
            out = self.folder / f"r{rate}.json"
            self.assertEqual(self.run_cli("transcribe", path, "--out", out)[0], 0)
            self.assertEqual([n["pitch"] for n in json.loads(out.read_text())["notes"]], [69])

    def test_a_cut_recording_is_used_and_told(self) -> None:
        whole = self.sound_file("w.flac", np.tile(tone(69.0, 1.0), 8))
        cut = self.folder / "cut.flac"
        cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
        status, said = self.run_cli("transcribe", cut, "--out", self.folder / "o.json")
        self.assertEqual(status, 0)
        self.assertRegex(said, "cut short|damaged")

    def test_bad_input_is_one_line(self) -> None:
        out = self.folder / "o.json"
        sound = self.melody()
        text = self.folder / "words.wav"
        text.write_text("words " * 500)
        silent = self.sound_file("silent.wav", np.zeros(RATE, np.float32))
        holes = tone(69.0, 0.5)
        holes[99] = np.inf
        broken = self.sound_file("holes.wav", holes)
        (self.folder / "empty.wav").touch()
        bad_chart = self.chart("| Fm7 | Xm7 |")
        for words, reason in (
            ((text,), "words.wav (is not a sound|holds no sound)"),
            ((self.folder / "empty.wav",), "is empty"),
            ((self.folder / "gone.wav",), "is not there"),
            ((silent,), "silent"),
            ((broken,), "damaged samples"),
            ((sound, "--chart", bad_chart), "bar 2 .*Xm7"),
            ((sound, "--chart", self.folder / "none.txt"), "none.txt can't be read"),
            ((sound, "--key", "H dur"), "not a key"),
            ((sound, "--tuning", "E4,Q3"), "Q3"),
            ((sound, "--tuning", "E4"), "1 strings"),
            ((sound, "--frets", 99), "99 frets"),
            ((sound, "--bpm", 9999), "tempo of 9999"),
            ((sound, "--school", "nobody"), "no school “nobody”: choose one of .*two-pentatonics"),
            ((sound, "--from", 99), "past the end"),
            ((sound, "--from", 2, "--to", 1), "must come after"),
            ((sound, "--mix", "choir"), "invalid choice"),
        ):
            self.refused(reason, "transcribe", *words, "--out", out)
        self.refused("required: .*--out", "transcribe", sound)
        self.refused("can't be written", "transcribe", sound, "--out", self.folder / "no/such/place.json")


class PlaceAndExplain(Commands):
    def test_place(self) -> None:
        out = self.folder / "placed.json"
        self.assertEqual(
            self.run_cli("place", self.notes(), "--out", out, "--key", "F minor", "--from-fret", 8)[0], 0
        )
        rows = json.loads(out.read_text())["notes"]
        self.assertTrue(all(abs(row["fret"] - 9) <= 3 for row in rows))

    def test_place_keeps_given_places_and_tells_what_has_none(self) -> None:
        path = self.folder / "n.json"
        rows = [{"onset": 0, "pitch": 67, "string": 4, "fret": 17}, {"onset": 1, "pitch": 20}]
        path.write_text(json.dumps({"format": "eager-owl/notes", "version": 1, "notes": rows}))
        out = self.folder / "placed.json"
        status, said = self.run_cli("place", path, "--out", out)
        self.assertEqual(status, 0)
        self.assertIn("note 2 at 1.00 s has no place: G#0 is off this neck".replace("G#", "Ab"), said)
        found = json.loads(out.read_text())["notes"]
        self.assertEqual((found[0]["string"], found[0]["fret"]), (4, 17))
        self.assertNotIn("string", found[1])

    def test_explain_needs_no_chart_and_says_where_bends_land_and_what_happens(self) -> None:
        out = self.folder / "explained.json"
        self.assertEqual(self.run_cli("explain", self.notes(), "--out", out, "--key", "F blues")[0], 0)
        rows = json.loads(out.read_text())["notes"]
        self.assertTrue(all("interval_key" in row and "chord" not in row and row["role"] for row in rows))
        self.assertEqual(self.run_cli("explain", self.notes(), "--out", out)[0], 0)
        content = json.loads(out.read_text())
        self.assertFalse(any("role" in row or "source" in row for row in content["notes"]))
        bent = {"onset": 0.0, "duration": 0.9, "pitch": 67, "techniques": [{"name": "bend", "semitones": 2.0}]}
        line = [
            bent,
            *({"onset": 1.0 + 0.5 * i, "duration": 0.4, "pitch": p} for i, p in enumerate((65, 64, 67, 69))),
        ]
        path, chart = self.folder / "bent.json", self.folder / "two.txt"
        path.write_text(json.dumps({"format": "eager-owl/notes", "version": 1, "notes": line}))
        chart.write_text("| F7 | C7 |")
        words = ("--key", "F major", "--chart", chart, "--bpm", 120, "--beats-per-bar", 2)
        self.assertEqual(self.run_cli("explain", path, "--out", out, *words)[0], 0)
        content = json.loads(out.read_text())
        first = content["notes"][0]
        self.assertEqual((first["interval_key"], first["interval_key_landing"]), ("2", "3"))
        self.assertEqual(first["interval_chord_landing"], "3")
        self.assertTrue(all(1 <= i <= 5 for event in content["events"] for i in event["notes"]))
        self.assertTrue(all(event["kind"] and event["words"] for event in content["events"]))

    def test_six_eight_is_counted_in_dotted_beats_unless_two_are_asked_for(self) -> None:
        out = self.folder / "explained.json"
        line = [{"onset": 0.2 * i, "duration": 0.15, "pitch": p} for i, p in enumerate((65, 68, 72, 70, 73, 77))]
        path, chart = self.folder / "six.json", self.folder / "six.txt"
        path.write_text(json.dumps({"format": "eager-owl/notes", "version": 1, "notes": line}))
        chart.write_text("| Fm Bbm |")
        told = {}
        for extra in ((), ("--division", 2)):
            words = ("--chart", chart, "--bpm", 300, "--beats-per-bar", 6, *extra)
            self.assertEqual(self.run_cli("explain", path, "--out", out, *words)[0], 0)
            told[extra] = [note["chord"] for note in json.loads(out.read_text())["notes"]]
        self.assertEqual(told[()], ["Fm"] * 3 + ["Bbm"] * 3)
        self.assertEqual(told["--division", 2], told[()], "half a bar is half a bar")
        self.assertEqual(cli._grid(cli._parser().parse_args(["explain", "x", "--out", "y", "--bpm", "300",
                                                             "--beats-per-bar", "12"])).meter, "12/8")  # fmt: skip

    def test_explain(self) -> None:
        out = self.folder / "explained.json"
        words = ("--chart", self.chart(), "--key", "F minor", "--bpm", 120, "--school", "chord-by-chord")
        self.assertEqual(self.run_cli("explain", self.notes(), "--out", out, *words)[0], 0)
        rows = json.loads(out.read_text())["notes"]
        self.assertEqual([r["interval_chord"] for r in rows], ["R", "b3", "4", "5"])
        self.assertEqual({r["source"] for r in rows}, {"F natural minor"})

    def test_bad_notes(self) -> None:
        (self.folder / "bad.json").write_text("[1, 2]")
        for command in ("place", "explain"):
            more = ("--chart", self.chart()) if command == "explain" else ()
            out = self.folder / "o.json"
            self.refused("not a notes file", command, self.folder / "bad.json", "--out", out, *more)
            self.refused("No such file", command, self.folder / "none.json", "--out", out, *more)


class ExportAndSlow(Commands):
    def solo(self) -> Path:
        notes = place_notes(Solo(notes=tuple(line(65, 68, 70, 72))), line(65, 68, 70, 72)).notes
        path = self.folder / "x.owl.json"
        save(Solo(title="X", key_text="F minor", phrases=(Phrase(0, 9, "One"),), notes=notes), path)
        return path

    def test_export(self) -> None:
        for kind, sign in (("tab", "e|"), ("json", "eager-owl/notes")):
            out = self.folder / f"out.{kind}"
            self.assertEqual(self.run_cli("export", self.solo(), "--to", kind, "--out", out)[0], 0)
            self.assertIn(sign, out.read_text())

    def test_export_refuses(self) -> None:
        solo = self.solo()
        newer = self.folder / "newer.owl.json"
        newer.write_text(solo.read_text().replace('"version": 1', '"version": 9'))
        broken = self.folder / "broken.owl.json"
        broken.write_text(solo.read_text()[:-40])
        out = self.folder / "o"
        self.refused("newer Eager Owl", "export", newer, "--to", "tab", "--out", out)
        self.refused("damaged", "export", broken, "--to", "tab", "--out", out)
        self.refused("invalid choice", "export", solo, "--to", "wax", "--out", out)

    def test_slow(self) -> None:
        out = self.folder / "slow.wav"
        sound = self.sound_file("a.wav", tone(69.0, 1.0, 9.0))
        self.assertEqual(self.run_cli("slow", sound, "--speed", 0.5, "--out", out, "--from", 0.2, "--to", 0.8)[0], 0)
        info = soundfile.info(out)
        self.assertAlmostEqual(info.duration, 1.2, places=2)
        for speed in (0, 0.01, 3, "nan"):
            self.refused("speed of", "slow", sound, "--speed", speed, "--out", self.folder / "b.wav")
        self.refused("can't be written", "slow", sound, "--speed", 0.5, "--out", self.folder / "no/b.wav")

    def test_its_own_fault_is_one_line_too(self) -> None:
        broken = mock.Mock(side_effect=RuntimeError("broken"))
        with mock.patch.dict(cli.EXPORTS, tab=replace(cli.EXPORTS["tab"], write=broken)):
            status, said = self.run_cli("export", self.solo(), "--to", "tab", "--out", self.folder / "o")
        self.assertEqual(status, cli.OWN_FAULT)
        self.assertEqual(
            said, f"eager-owl: a fault of its own: RuntimeError: broken (written down in {log_path()})\n"
        )
        self.assertIn("Traceback", log_path().read_text())

    def test_version_and_log(self) -> None:
        for word, told in (("--version", f"eager-owl {__version__}\n"), ("--log", f"{log_path()}\n")):
            out = io.StringIO()
            with contextlib.redirect_stdout(out):
                self.assertEqual(cli.main([word]), 0)
            self.assertEqual(out.getvalue(), told)

    def test_a_word_that_is_neither_command_nor_file(self) -> None:
        for words in (["transcrbe", "a.wav", "--out", "x"], ["gone.owl.json"], ["--theme", "dusk", "gone.wav"]):
            self.refused("no file “(transcrbe|gone.owl.json|gone.wav)”, and no command", *words)

    def test_the_command_line_and_the_window_hear_the_same(self) -> None:
        out = self.folder / "part.json"
        band = DEMO / "night-ferry-band.flac"
        words = ("--from", 4.0, "--to", 8.0, "--key", "F minor")
        self.assertEqual(self.run_cli("transcribe", band, "--out", out, *words)[0], 0)
        solo = Solo(key_text="F minor", phrases=(Phrase(4.0, 8.0),))
        recording = decode(band)
        heard = lay_heard(solo, 0, hear_phrase(solo, solo.phrases[0], recording, survey(recording)))
        told = [(n["onset"], n["pitch"], n["string"], n["fret"]) for n in json.loads(out.read_text())["notes"]]
        self.assertEqual(told, [(round(n.onset, 4), n.pitch, n.string, n.fret) for n in heard.notes])


class Inputs(Commands):
    def test_what_is_read_is_never_written_over(self) -> None:
        solo = self.folder / "s.owl.json"
        save(Solo(title="Kept"), solo)
        sound = self.sound_file("take.wav", after_silence(tone(60.0, 0.5)))
        link = self.folder / "link.wav"
        link.symlink_to(sound)
        before = {path: path.read_bytes() for path in (solo, sound)}
        for words in (
            ("export", solo, "--to", "json", "--out", solo),
            ("slow", sound, "--speed", "0.5", "--out", sound),
            ("slow", sound, "--speed", "0.5", "--out", link),
            ("transcribe", sound, "--out", self.folder / "." / "take.wav"),
        ):
            self.refused("is what is read", *words)
        self.assertEqual({path: path.read_bytes() for path in before}, before)


class Launcher(FolderCase):
    def test_screenshot_without_a_display(self) -> None:
        picture = self.folder / "window.png"
        displays = ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")
        environment = {name: value for name, value in os.environ.items() if name not in displays}
        environment["PYTHONPATH"] = str(ROOT / "src")
        command = [sys.executable, "-m", "eager_owl", "--demo", "--screenshot", str(picture)]
        done = subprocess.run(command, env=environment, capture_output=True, timeout=120, text=True)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(picture.read_bytes()[:4], b"\x89PNG")
        self.assertGreater(picture.stat().st_size, 30_000)
