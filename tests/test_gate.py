import json
import math
import os
import subprocess
import sys
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import mock

from eager_owl.rhythm.grid import BeatGrid
from eager_owl.solo import store
from eager_owl.solo.document import Phrase, Solo
from eager_owl.solo.gate import GateError, check_solo
from tests.support import FolderCase, line


def whole() -> Solo:
    """A solo with something in every place that the gate looks at."""
    return Solo(
        title="Whole",
        phrases=(Phrase(0.0, 1.0, "One"), Phrase(1.0, 2.0, "Two")),
        notes=tuple(line(60, 62)),
        grid=BeatGrid(120.0, 0.1, 4, anchors=((4.0, 2.1),)),
    )


def with_note(**changed: Any) -> Solo:
    solo = whole()
    return replace(solo, notes=(replace(solo.notes[0], **changed), *solo.notes[1:]))


class Gate(unittest.TestCase):
    def test_what_is_sound_passes_as_it_is(self) -> None:
        solo = whole()
        self.assertIs(check_solo(solo), solo)

    def test_what_would_hang_crash_or_be_lost_is_named(self) -> None:
        solo = whole()
        one, two = solo.phrases
        first, second = solo.notes
        for wrong, reason in (
            (with_note(loudness_db=math.inf), "notes › 0 › loudness_db"),
            (with_note(onset=math.nan), "notes › 0 › onset"),
            (with_note(onset=1e8, duration=1.0), "outside 0 to 43200"),
            (with_note(onset=-1.0), "notes › 0 › onset"),
            (with_note(duration=0.0), "lasts no time"),
            (with_note(pitch=400), "notes › 0 › pitch"),
            (with_note(string=7, fret=3), "no string 7"),
            (with_note(fret=99), "notes › 0 › fret"),
            (with_note(confidence=2.0), "confidence"),
            (with_note(contour_cents=(0, 10**12)), "contour_cents"),
            (replace(solo, title="\udcff"), "title: a text that can't be written"),
            (replace(solo, title="x" * 300_000), "title: a text of 300000 characters"),
            (replace(solo, notes=(second, first)), "notes › 1: it begins before"),
            (replace(solo, notes=(first, replace(second, id=first.id))), "one id"),
            (replace(solo, notes=(first,) * 60_000), "60000 are more than"),
            (replace(solo, phrases=(one, replace(two, start=0.5))), "phrases › 1: it overlaps"),
            (replace(solo, phrases=(replace(one, end=0.0), two)), "ends before it begins"),
            (replace(solo, phrases=(replace(one, end=math.inf), two)), "phrases › 0 › end"),
        ):
            with self.subTest(reason), self.assertRaisesRegex(GateError, reason):
                check_solo(wrong)

    def test_a_grid_at_no_time_at_all_is_none(self) -> None:
        for wrong in ({"first_beat_s": math.inf}, {"anchors": ((1.0, math.nan),)}):
            with self.assertRaisesRegex(ValueError, "no time at all"):
                BeatGrid(**{"bpm": 120.0, "first_beat_s": 0.0, "beats_per_bar": 4, **wrong})  # type: ignore[arg-type]


class Loading(FolderCase):
    def refused(self, text: str, reason: str) -> None:
        with self.assertRaisesRegex(store.DocumentError, reason) as caught:
            store.from_json(text, "x.owl.json")
        self.assertLess(len(str(caught.exception)), 300)

    def test_odd_json_is_refused_in_a_line(self) -> None:
        good = store.to_json(whole())
        self.refused(good.replace('"onset": 0.0', '"onset": NaN', 1), "NaN is no number")
        self.refused(good.replace('"onset": 0.0', '"onset": 1e999', 1), "notes › 0 › onset")
        self.refused(good.replace('"onset": 0.0', '"onset": ' + "9" * 6000, 1), "damaged")
        self.refused("[" * 200_000, "nested too deeply")
        self.refused(good.replace('"Whole"', r'"\ud800"', 1), "title")

    @unittest.skipUnless(hasattr(os, "mkfifo"), "no pipes here")
    def test_a_pipe_is_not_waited_for(self) -> None:
        pipe = self.folder / "pipe.owl.json"
        os.mkfifo(pipe)
        with self.assertRaisesRegex(store.DocumentError, "no file that can be read"):
            store.load(pipe)


class Saving(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "s.owl.json"
        store.save(whole(), self.path)
        self.before = self.path.read_bytes()

    def refused(self, reason: str, solo: Solo | None = None, path: Path | None = None) -> None:
        """Not saved, told why, and what was on disk is what it was, with nothing beside it."""
        with self.assertRaisesRegex(store.DocumentError, reason):
            store.save(solo or replace(whole(), title="Other"), path or self.path)
        self.assertEqual(self.path.read_bytes(), self.before)
        self.assertEqual([each.name for each in self.folder.iterdir() if each.is_file()], [self.path.name])

    def test_what_would_not_load_again_is_not_saved(self) -> None:
        self.refused("can't be written as it stands: notes › 0 › loudness_db", with_note(loudness_db=math.inf))
        self.refused("title", replace(whole(), title="\udcff"))

    def test_what_reads_back_otherwise_replaces_nothing(self) -> None:
        with (
            mock.patch.object(Path, "read_bytes", return_value=b"otherwise"),
            self.assertRaisesRegex(store.DocumentError, "reads back otherwise"),
        ):
            store.save(replace(whole(), title="Other"), self.path)
        self.assertEqual(self.path.read_bytes(), self.before)

    def test_odd_places_are_told(self) -> None:
        self.refused("No such", path=self.folder / "none" / "s.owl.json")
        self.refused("too long", path=self.folder / ("x" * 300 + store.SUFFIX))
        self.refused("Not a directory", path=self.path / "s.owl.json")
        self.refused("can't be written", path=self.folder / "a\0b.owl.json")

    def test_without_hard_links_the_copy_before_is_kept(self) -> None:
        with mock.patch("os.link", side_effect=PermissionError(1, "Operation not permitted")):
            for title in ("Second", "Third"):
                store.save(replace(whole(), title=title), self.path)
        self.assertEqual(store.load(self.path).title, "Third")
        self.assertEqual(store.load(store.previous_path(self.path)).title, "Second")

    def test_a_save_after_one_that_was_killed_before_its_last_step_leaves_nothing_beside(self) -> None:
        os.link(self.path, store.previous_path(self.path))
        store.save(replace(whole(), title="Second"), self.path)
        names = {self.path.name, store.previous_path(self.path).name}
        self.assertEqual({each.name for each in self.folder.iterdir()}, names)

    def test_a_link_is_followed_and_permissions_stay(self) -> None:
        link = self.folder / "link.owl.json"
        link.symlink_to(self.path)
        self.path.chmod(0o600)
        store.save(replace(whole(), title="Through the link"), link)
        self.assertTrue(link.is_symlink())
        self.assertEqual(store.load(self.path).title, "Through the link")
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o600)

    def test_what_killed_saves_left_is_taken_away(self) -> None:
        dead = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, text=True)
        left = self.folder / f".{self.path.name}.{dead.stdout.strip()}.part"
        under_way = self.folder / f".{self.path.name}.{os.getppid()}.part"
        for each in (left, under_way):
            each.write_text("half")
        store.save(whole(), self.path)
        self.assertFalse(left.exists())
        self.assertTrue(under_way.exists())

    def test_a_save_answers_what_it_wrote(self) -> None:
        self.assertEqual(store.save(whole(), self.path), self.path.read_bytes())
        self.assertEqual(json.loads(self.before)["title"], "Whole")


if __name__ == "__main__":
    unittest.main()
