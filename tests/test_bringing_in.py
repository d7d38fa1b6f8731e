"""Work begun elsewhere: brought in by key, told what was left out, laid against a recording and corrected by it."""

import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
import soundfile

from eager_owl.notation.tab import text_tab
from eager_owl.session.exports import notes_text
from eager_owl.session.laying import lay_on
from eager_owl.solo.aligning import align_notes
from eager_owl.solo.document import Note, Phrase, Solo, with_notes
from eager_owl.solo.techniques import Technique
from eager_owl.sound.string import play_notes
from tests.sessions import SessionCase
from tests.support import RATE, line
from tests.test_midi import file_of, plucked
from tests.written import demo_solo, export

_TAB = "\n".join(f"{label}|{'-5---7---8---5---' if label == 'B' else '-' * 17}|" for label in "eBGDAE")


class ByKey(SessionCase):
    def bring(self, name: str, content: bytes) -> Path:
        path = self.folder / name
        path.write_bytes(content)
        self.dialogs.file = path
        self.press("Ctrl+I")
        return path

    def test_every_kind_is_brought_in(self) -> None:
        solo = demo_solo()
        kinds = {
            "a.mid": export(solo, "midi", ".mid"), "a.musicxml": export(solo, "musicxml", ".musicxml"),
            "a.mxl": export(solo, "musicxml", ".mxl"), "a.csv": export(solo, "csv", ".csv"),
            "a.txt": text_tab(solo).encode(), "a.json": notes_text(solo).encode(),
        }  # fmt: skip
        for name, content in kinds.items():
            self.bring(name, content)
            self.assertEqual(len(self.solo.notes), len(solo.notes), name)
            self.assertEqual([n.pitch for n in self.solo.notes], [n.pitch for n in solo.notes], name)
            self.assertTrue(self.solo.phrases, name)
            self.assertTrue(self.opened.dirty, name)
            self.assertIn("brought_in", self.screen.asked)

    def test_a_file_is_opened_by_its_path_too_and_documents_stay_documents(self) -> None:
        path = self.bring("notes.json", notes_text(demo_solo()).encode())
        self.session.keeping.open_path(path)
        self.finish()
        self.assertEqual(self.solo.title, "notes")
        self.session.keeping.open_path(self.folder / "gone.json")
        self.assertRegex(self.notice, "can't be read")

    def test_complaints_are_kept_to_be_read_and_bad_files_change_nothing(self) -> None:
        self.demo()
        before = self.opened
        self.bring("bad.mid", b"MThd and no more")
        self.assertIs(self.opened, before)
        self.assertRegex(self.notice, "broken MIDI")
        self.bring("odd.txt", _TAB.replace("8", "$").encode())
        self.assertIsNot(self.opened, before)
        self.assertRegex(self.session.bringing_in.complaints[0], "is not known")
        self.assertRegex(self.notice, "3 notes in 1 phrase read; 1 line to look at")
        self.assertTrue(self.session.bringing_in.has_news)

    def test_another_part_of_a_file_is_read_by_choosing_it(self) -> None:
        self.bring("two.mid", file_of(plucked(60, 62, 64, 65), plucked(72, 74, 76)))
        self.assertEqual(self.session.bringing_in.parts, ("track, 4 notes", "track, 3 notes"))
        first = [note.pitch for note in self.solo.notes]
        other = 3 - self.session.bringing_in.part
        self.opened.kept(self.folder / "kept.owl.json")
        self.session.bringing_in.read_part(other)
        self.finish()
        self.assertEqual(self.session.bringing_in.part, other)
        self.assertNotEqual([note.pitch for note in self.solo.notes], first)

    def test_what_is_open_is_left_only_with_leave(self) -> None:
        self.demo()
        self.press("P")
        self.dialogs.keeps = "cancel"
        before = self.opened
        self.bring("a.txt", _TAB.encode())
        self.assertIs(self.opened, before)

    def test_tab_is_pasted(self) -> None:
        self.press("Ctrl+Shift+V")
        self.assertRegex(self.notice, "nothing is copied")
        self.dialogs.copied = _TAB
        self.press("Ctrl+Shift+V")
        self.assertEqual([n.fret for n in self.solo.notes], [5, 7, 8, 5])
        self.dialogs.copied = "no tab at all"
        self.press("Ctrl+Shift+V")
        self.assertRegex(self.notice, "has no tab in it")

    def test_a_tab_is_laid_against_a_recording(self) -> None:
        tune = line(64, 66, 67, 64, 67, 69, 71, 67, beat_s=0.5)
        played = [replace(n, onset=0.4 + 1.1 * n.onset, duration=1.1 * n.duration) for n in tune]
        sound = play_notes(played, RATE, 6.0)
        path = self.folder / "take.wav"
        soundfile.write(path, sound / np.abs(sound).max() * 0.7, RATE)
        wrong = "-5---7---8---5---|-8---9---12--8---"  # the sixth note is typed a half step low
        tab = "\n".join(f"{label}|{wrong if label == 'B' else '-' * 17 + '|' + '-' * 17}|" for label in "eBGDAE")
        self.bring("song.txt", tab.encode())
        self.dialogs.file = path
        self.session.bringing_in.lay()
        self.finish()
        self.assertRegex(self.notice, "heard as written|Heard a|at 1")
        self.assertEqual(len(self.session.bringing_in.disagreements), 1)
        off = self.session.bringing_in.disagreements[0]
        self.assertRegex(off.words, "Ab4 is written, A4 is heard|A♭4 is written, A4 is heard")
        doubtful = self.solo.note(off.note or 0)
        self.assertEqual((doubtful.runners_up[0][0], doubtful.pitch), (69, 68))
        self.assertIn(doubtful, self.opened.answers.doubts)
        for note, truth in zip(self.solo.notes, played, strict=True):
            self.assertAlmostEqual(note.onset, truth.onset, delta=0.05)
        assert self.solo.grid is not None and self.solo.recording is not None
        self.assertAlmostEqual(self.solo.grid.time_of(4) - self.solo.grid.time_of(0), 2.2, delta=0.1)
        self.assertTrue(any(note.contour_cents for note in self.solo.notes))
        self.press("Ctrl+Z")
        self.assertIsNone(self.solo.recording)

    def test_another_solos_recording_is_refused(self) -> None:
        self.bring("song.txt", _TAB.encode())
        path = self.folder / "take.wav"
        soundfile.write(path, play_notes(line(40, 41, 42, 43, 44, beat_s=0.5), RATE, 3.0), RATE)
        before = self.solo
        self.session.bringing_in.lay_on(path)
        self.finish()
        self.assertRegex(self.notice, "is it of this solo")
        self.assertIs(self.solo, before)


class Aligning(unittest.TestCase):
    def test_extra_missing_and_other_notes(self) -> None:
        written, heard = line(60, 62, 64, 65, 67), line(60, 62, 63, 65, 66, 67)
        self.assertEqual(align_notes(written, heard), [(0, 0), (1, 1), (2, 2), (3, 3), (None, 4), (4, 5)])
        self.assertEqual(align_notes(written, heard[:2]), [(0, 0), (1, 1), (2, None), (3, None), (4, None)])
        self.assertEqual(align_notes([], heard[:1]), [(None, 0)])
        self.assertEqual(align_notes(written[:1], []), [(0, None)])
        inside = align_notes(line(64, 65, 67), line(60, 62, 64, 65, 67, 69, 71), within=True)
        self.assertEqual(inside, [(None, 0), (None, 1), (0, 2), (1, 3), (2, 4), (None, 5), (None, 6)])

    def test_it_is_the_least_of_all_alignments(self) -> None:
        rng = np.random.default_rng(4)
        for _ in range(30):
            a, b = ([int(p) for p in rng.integers(60, 64, int(rng.integers(1, 6)))] for _ in range(2))
            pairs = align_notes(line(*a), line(*b))
            self.assertEqual([i for i, _ in pairs if i is not None], list(range(len(a))))
            self.assertEqual([j for _, j in pairs if j is not None], list(range(len(b))))
            same = sum(i is not None and j is not None and a[i] == b[j] for i, j in pairs)
            self.assertGreaterEqual(same, longest_common(a, b) - 1)

    def test_tempo_that_drifts_is_followed(self) -> None:
        pitches = [60 + (0, 2, 4, 5, 7, 9, 11)[i % 7] for i in range(60)]
        written = [replace(n, string=2, fret=1) for n in line(*pitches, beat_s=0.3)]
        drift = [replace(n, onset=2 + n.onset + 0.05 * n.onset**1.2) for n in line(*pitches, beat_s=0.3)]
        solo = replace(with_notes(Solo(), written), phrases=(Phrase(0, 18.1, "All"),))
        laid = lay_on(solo, drift, 40.0)
        self.assertEqual((laid.matched, laid.disagreements), (60, ()))
        self.assertEqual([n.onset for n in laid.solo.notes], [n.onset for n in drift])
        self.assertAlmostEqual(laid.solo.phrases[0].start, 2.0, delta=0.1)

    def test_bends_are_the_same_told_either_way(self) -> None:
        bent = replace(line(60, 62, 64)[1], techniques=(Technique("bend", 2.0),))
        written = [line(60)[0], bent, line(60, 62, 67)[2], Note(9, 1.0, 0.2, 69)]
        heard = line(60, 64, 67, 69)
        self.assertEqual(lay_on(with_notes(Solo(), written), heard, 9.0).disagreements, ())


def longest_common(a: list[int], b: list[int]) -> int:
    table = [[0] * (len(b) + 1) for _ in range(len(a) + 1)]
    for i, x in enumerate(a, 1):
        for j, y in enumerate(b, 1):
            table[i][j] = table[i - 1][j - 1] + 1 if x == y else max(table[i - 1][j], table[i][j - 1])
    return table[-1][-1]
