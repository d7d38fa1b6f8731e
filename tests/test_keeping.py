"""Opening, saving, exporting, the journal and what comes back of it, without a window."""

import re
import threading
import unittest
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np

from eager_owl.notation.tab import text_tab
from eager_owl.session import recordings
from eager_owl.session.unsaved import unsaved_folder
from eager_owl.solo import store
from eager_owl.solo.document import Solo
from eager_owl.solo.journals import document_lock, left_behind
from eager_owl.solo.phrase_edits import mark_phrase, rename_phrase
from eager_owl.solo.store import DocumentError, load, save
from tests.sessions import SessionCase, die
from tests.support import DEMO, after_silence, tone

DECODE = recordings.decode_sound  # the real one, which the cases put a cache before


class KeepingCase(SessionCase):
    def open(self, path: Path) -> None:
        self.session.keeping.open_path(path)
        self.finish()

    def saved(self, solo: Solo) -> Path:
        path = self.folder / "s.owl.json"
        save(solo, path)
        return path

    def take(self) -> Path:
        """A recording, opened as a new solo."""
        sound = self.sound_file("take.wav", after_silence(tone(60.0, 0.5)))
        self.open(sound)
        return sound


class Opening(KeepingCase):
    def test_a_new_solo_from_a_recording(self) -> None:
        tones = (tone(float(p), 0.4, 0.3) for p in (60, 63, 65))
        self.dialogs.file = self.sound_file("take.wav", after_silence(*tones))
        self.press("Ctrl+N")
        self.assertEqual((self.solo.title, self.solo.phrases), ("take", ()))
        self.opened.set_span((0.1, 1.7))
        self.press("M")
        self.assertEqual(len(self.solo.phrases), 1, self.notice)
        self.press("H")
        self.assertEqual([n.pitch for n in self.solo.notes], [60, 63, 65], self.notice)

    def test_files_that_cannot_be_opened_are_told_and_change_nothing(self) -> None:
        self.demo()
        before = self.opened
        text = self.folder / "words.wav"
        text.write_text("no sound " * 99)
        silent = self.sound_file("silent.wav", np.zeros(4000, np.float32))
        broken = self.folder / "broken.owl.json"
        broken.write_text("{")
        newer = self.folder / "newer.owl.json"
        newer.write_text(re.sub('"version": 1', '"version": 8', (DEMO / "night-ferry.owl.json").read_text()))
        for path, reason in (
            (text, "sound"), (silent, "silent"), (broken, "damaged"), (newer, "newer"),
            (self.folder / "gone.owl.json", "can't be read"),
        ):  # fmt: skip
            self.open(path)
            self.assertRegex(self.notice, reason)
            self.assertIs(self.opened, before)

    def test_a_missing_recording_is_asked_for_and_the_same_one_is_taken(self) -> None:
        sound = self.take()
        path = self.folder / "deeper" / "s.owl.json"
        path.parent.mkdir()
        self.assertTrue(self.session.keeping.save_to(path))
        moved = self.folder / "elsewhere.wav"
        sound.rename(moved)
        self.open(path)
        self.assertIn("take.wav is not at", self.notice)
        self.dialogs.file = self.sound_file("other.wav", after_silence(tone(64.0, 0.5)))
        self.answer("Locate it")
        self.assertIn("another recording", self.notice)
        self.assertIsNone(self.opened.sound)
        self.dialogs.file = moved
        self.answer("Locate it")
        self.assertIsNotNone(self.opened.sound)
        self.assertTrue(self.opened.dirty)
        self.press("Ctrl+S")
        self.open(path)
        self.assertEqual(self.opened.recording_path, moved.resolve())

    def test_another_recording_at_the_same_place_is_asked_about(self) -> None:
        sound = self.take()
        path = self.folder / "s.owl.json"
        self.session.keeping.save_to(path)
        self.sound_file(sound.name, after_silence(tone(67.0, 0.9)))
        self.open(path)
        self.assertIn("another recording", self.notice)
        self.assertIsNone(self.opened.sound)
        before = self.solo.recording
        self.answer("Use it all the same")
        self.assertIsNotNone(self.opened.sound)
        self.assertNotEqual(self.solo.recording, before)

    def test_a_solo_opened_while_another_is_decoded_keeps_its_own_sound(self) -> None:
        sound = self.sound_file("late.wav", after_silence(tone(60.0, 0.5)))
        self.session.keeping.open_path(sound)
        self.session.keeping.open_path(self.saved(Solo(title="Other")))
        self.finish()
        self.assertEqual(self.solo.title, "Other")
        self.assertIsNone(self.opened.sound)

    def test_edits_made_while_a_recording_is_decoded_are_asked_about(self) -> None:
        self.demo()
        self.session.keeping.open_path(self.sound_file("late.wav", after_silence(tone(60.0, 0.5))))
        self.opened.do("title", lambda solo: replace(solo, title="Changed meanwhile"))
        self.dialogs.keeps = "cancel"
        self.finish()
        self.assertEqual(self.dialogs.asked, ["Changed meanwhile"])
        self.assertEqual(self.solo.title, "Changed meanwhile")

    def test_a_recording_is_hashed_where_it_is_decoded(self) -> None:
        """Hashing an hour of sound takes seconds: not on the thread that answers the keys."""
        hashed: list[bool] = []
        real = recordings.file_sha256

        def noted(path: Path, keep_going: Callable[[], bool]) -> str:
            hashed.append(threading.current_thread() is threading.main_thread())
            return real(path, keep_going)

        def in_a_thread(call: object) -> None:
            worker = threading.Thread(target=call)  # type: ignore[arg-type]
            worker.start()
            worker.join()

        path = self.sound_file("take.wav", after_silence(tone(60.0, 0.5)))
        with (
            mock.patch.object(recordings, "file_sha256", noted),
            mock.patch.object(recordings, "decode_sound", DECODE),
            mock.patch.object(self.workers, "start", in_a_thread),
        ):
            self.open(path)
        self.assertEqual(hashed, [False])

    def test_recent_solos_are_remembered_latest_first(self) -> None:
        one = self.saved(Solo(title="One"))
        two = self.folder / "two.owl.json"
        save(Solo(title="Two"), two)
        for path in (one, two, one):
            self.open(path)
        self.assertEqual(self.session.keeping.recent_paths(), [str(one), str(two)])
        two.unlink()
        self.assertEqual(self.session.keeping.recent_paths(), [str(one)])


class Saving(KeepingCase):
    def test_saved_opened_and_exported(self) -> None:
        self.demo()
        self.press("P")
        path, tab = self.folder / "ferry.owl.json", self.folder / "ferry.txt"
        self.dialogs.file = self.folder / "ferry"
        self.press("Ctrl+S")
        self.assertFalse(self.opened.dirty)
        after = self.solo
        self.open(path)
        self.assertEqual((self.solo.notes, self.solo.phrases), (after.notes, after.phrases))
        self.assertIsNotNone(self.opened.sound)
        self.dialogs.file = tab
        self.press("Ctrl+E")
        self.assertEqual(tab.read_text(), text_tab(self.solo))

    def test_it_is_suggested_to_save_beside_the_solo_or_the_recording_and_never_in_the_program(self) -> None:
        self.take()
        self.edit(lambda solo: replace(solo, title="12/8 blues"))
        self.press("Ctrl+Shift+S")
        self.assertEqual(self.dialogs.suggested, self.folder / "12-8 blues.owl.json")
        (self.folder / "solos").mkdir()
        self.session.keeping.save_to(self.folder / "solos/mine.owl.json")
        self.press("Ctrl+E")
        self.assertEqual(self.dialogs.suggested, self.folder / "solos/12-8 blues.txt")
        self.demo()
        self.press("Ctrl+S")
        self.assertEqual(self.dialogs.suggested, Path.home() / "Night Ferry.owl.json")

    def test_saved_elsewhere_undone_and_saved_again_the_recording_is_still_found(self) -> None:
        self.take()
        first, second = self.folder / "a.owl.json", self.folder / "deeper" / "b.owl.json"
        second.parent.mkdir()
        self.session.keeping.save_to(first)
        self.opened.do("title", lambda solo: replace(solo, title="Renamed"))
        self.session.keeping.save_to(second)
        self.press("Ctrl+Z")
        self.press("Ctrl+S")
        self.open(second)
        self.assertEqual(self.solo.title, "take")
        self.assertIsNotNone(self.opened.sound, self.notice)

    def test_a_save_that_fails_is_told_and_nothing_is_lost(self) -> None:
        self.demo()
        self.press("P")
        before = self.solo
        self.assertFalse(self.session.keeping.save_to(self.folder / "no" / "place.owl.json"))
        self.assertIn("can't be written", self.notice)
        self.assertEqual(self.solo, before)
        self.assertTrue(self.opened.dirty)

    def test_names_that_no_file_can_have_are_told(self) -> None:
        self.take()
        for name in ("a\0b", "x" * 300):
            path = self.folder / f"{name}.owl.json"
            self.assertFalse(self.session.keeping.save_to(path))
            self.assertIn("can't be written", self.notice)
            self.dialogs.file = self.folder / name
            self.press("Ctrl+Shift+S")
            self.assertIn("can't be written", self.notice)
            for other in (path, path.with_suffix(".wav"), path.with_suffix(".mid")):
                self.said.clear()
                self.open(other)
                self.assertTrue(self.said, other.suffix)

    def test_undone_to_what_is_saved_is_saved(self) -> None:
        self.demo()
        self.session.keeping.save_to(self.folder / "s.owl.json")
        self.press("P")
        self.assertTrue(self.opened.dirty)
        self.press("Ctrl+Z")
        self.assertFalse(self.opened.dirty)

    def test_leaving_unsaved_work_is_asked(self) -> None:
        self.demo()
        self.press("P")
        self.dialogs.keeps = "cancel"
        self.assertFalse(self.session.keeping.may_leave())
        self.dialogs.keeps, self.dialogs.file = "save", self.folder / "kept.owl.json"
        self.assertTrue(self.session.keeping.may_leave())
        self.assertTrue((self.folder / "kept.owl.json").exists())
        self.assertTrue(self.session.keeping.may_leave())

    def test_a_solo_opened_once_more_is_the_one_that_leaving_it_saved(self) -> None:
        path = self.saved(Solo(title="Before"))
        self.open(path)
        self.edit(lambda solo: replace(solo, title="After"))
        self.dialogs.keeps = "save"
        self.open(path)
        self.assertEqual((self.solo.title, load(path).title), ("After", "After"))
        self.assertFalse(self.opened.dirty)

    def test_a_copy_is_journalled_though_nothing_was_changed_in_it(self) -> None:
        path = self.saved(Solo(title="Twice"))
        self.open(path)
        other = self.session
        self.session = self.new_session()
        self.open(path)
        self.assertIsNone(self.opened.path)
        self.clock.advance(3.1)
        die(self.session)
        self.assertEqual(len(left_behind(None, unsaved_folder())), 1)
        die(other)

    def test_a_lock_on_what_is_always_gone_is_given_up(self) -> None:
        lock = document_lock(self.folder / "s.owl.json")
        with mock.patch.object(Path, "stat", side_effect=FileNotFoundError):
            self.assertTrue(lock.take())

    def test_work_is_journalled_elsewhere_where_its_folder_is_shut(self) -> None:
        path = self.saved(Solo(title="Shut"))
        self.open(path)
        real = store.write_atomically

        def shut(target: Path, content: bytes, keep_previous: bool = False) -> None:
            if target.parent == path.parent:
                raise DocumentError(f"{target} can't be written: read-only file system")
            real(target, content, keep_previous)

        with mock.patch("eager_owl.solo.journals.write_atomically", shut):
            self.edit(lambda solo: replace(solo, title="Kept all the same"))
            self.clock.advance(3.1)
        die(self.session)
        self.session = self.new_session()
        self.open(path)
        self.answer("Bring it back")
        self.assertEqual(self.solo.title, "Kept all the same")


class Unsaved(KeepingCase):
    def left(self, document: Path | None) -> list[Path]:
        return left_behind(document, unsaved_folder())

    def crash(self) -> None:
        """The window is gone without a word: its locks are let go, its files stay."""
        die(self.session)
        self.session = self.new_session()

    def left_work(self, name: str = "Rescued") -> Path:
        """A saved solo with unsaved work that a crash left."""
        path = self.saved(mark_phrase(Solo(title="Crash"), 0, 1))
        self.open(path)
        self.edit(lambda solo: mark_phrase(solo, 2, 3, name))
        self.clock.advance(3.1)
        self.crash()
        return path

    def test_steady_editing_is_journalled_within_seconds(self) -> None:
        path = self.saved(mark_phrase(Solo(title="Steady"), 0, 1))
        self.open(path)
        for count in range(5):
            self.opened.do("name", lambda solo, count=count: rename_phrase(solo, 0, f"Name {count}"))
            self.clock.advance(2.0)
        self.crash()
        (journal,) = self.left(path)
        self.assertEqual(load(journal).phrases[0].name, "Name 3")  # of 2 s ago at the most

    def test_unsaved_work_comes_back_after_a_crash(self) -> None:
        path = self.left_work()
        self.open(path)
        self.assertIn("Unsaved work", self.notice)
        self.answer("Bring it back")
        self.assertEqual(self.solo.phrases[1].name, "Rescued")
        self.crash()  # before it is saved: it is still there
        self.open(path)
        self.answer("Bring it back")
        self.assertTrue(self.session.keeping.save_to(path))
        self.crash()
        self.assertEqual(self.left(path), [])

    def test_unsaved_work_that_waits_outlives_saving_and_other_questions(self) -> None:
        path = self.left_work()
        self.open(path)
        self.session.ask("Another thing?", {"Yes": lambda: None})
        self.assertIn("Unsaved work", self.notice)
        self.edit(lambda solo: replace(solo, title="Edited before the answer"))
        self.clock.advance(3.1)
        self.press("Ctrl+S")
        self.answer("Not now")
        self.assertEqual(self.notice, "Another thing?")
        self.assertEqual(len(self.left(path)), 1)
        self.open(path)
        self.answer("Throw it away")
        self.assertEqual(self.left(path), [])

    def test_unsaved_work_is_brought_back_once(self) -> None:
        path = self.left_work()
        self.open(path)
        first = dict(self.answers)
        self.open(path)
        first["Bring it back"]()
        self.edit(lambda solo: rename_phrase(solo, 1, "Later"))
        self.answer("Bring it back")
        self.assertEqual(self.solo.phrases[1].name, "Later")
        self.assertIn("before", self.notice)

    def test_unsaved_work_of_two_windows_is_kept_apart(self) -> None:
        path = self.left_work("of one")
        self.open(path)
        self.edit(lambda solo: mark_phrase(solo, 2, 3, "of the other"))
        self.clock.advance(3.1)
        self.crash()
        names = {load(journal).phrases[1].name for journal in self.left(path)}
        self.assertEqual(names, {"of one", "of the other"})

    def test_damaged_unsaved_work_is_set_aside_and_its_name_told(self) -> None:
        path = self.left_work()
        (journal,) = self.left(path)
        journal.write_text(journal.read_text()[:-40])
        self.open(path)
        self.assertIn(".damaged", self.notice)
        (aside,) = self.folder.glob("*.damaged")
        self.assertIn(aside.name, self.notice)
        self.assertEqual(self.left(path), [])

    def test_undone_to_what_is_saved_leaves_no_journal(self) -> None:
        path = self.saved(Solo(title="Clean"))
        self.open(path)
        self.edit(lambda solo: replace(solo, title="Changed"))
        self.clock.advance(3.1)
        self.press("Ctrl+Z")
        self.clock.advance(3.1)
        self.crash()
        self.assertEqual(self.left(path), [])

    def test_work_never_saved_comes_back_too(self) -> None:
        self.demo()
        self.press("Right")
        self.press("Up")
        fixed = self.solo
        self.clock.advance(3.1)
        self.crash()
        (journal,) = self.left(None)
        self.assertEqual(load(journal).title, "Night Ferry")
        self.session.keeping.unsaved.offer_never_saved()
        self.assertIn("never saved", self.notice)
        self.open(self.saved(Solo(title="Something else first")))
        self.session.keeping.save()
        self.answer("Bring it back")
        self.assertEqual(self.solo.notes, fixed.notes)
        self.assertTrue(self.opened.dirty)
        self.assertIsNotNone(self.opened.sound)

    def test_a_damaged_document_offers_what_else_there_is_of_it(self) -> None:
        path = self.left_work()
        self.open(path)
        self.answer("Not now")
        self.edit(lambda solo: replace(solo, title="Saved twice"))
        self.press("Ctrl+S")
        path.write_text(path.read_text()[:100])
        self.open(path)
        self.assertIn("damaged", self.notice)
        self.assertEqual(list(self.answers), ["Open the copy before it", "Open the unsaved work", "Not now"])
        self.answer("Open the copy before it")
        self.assertEqual(self.solo.title, "Crash")
        self.assertTrue(self.opened.dirty)
        self.assertIsNone(self.opened.path)


class TwoWindows(KeepingCase):
    def test_a_second_window_gets_a_copy_until_the_first_has_gone(self) -> None:
        path = self.saved(Solo(title="Shared"))
        self.open(path)
        first = self.session
        self.session = self.new_session()
        self.open(path)
        self.assertIn("open in another window", self.notice)
        self.assertIsNone(self.opened.path)
        self.assertFalse(self.session.keeping.save_to(path))
        self.assertTrue(self.session.keeping.save_to(self.folder / "copy.owl.json"))
        first.keeping.leave()
        self.open(path)
        self.assertEqual(self.opened.path, path)

    def test_the_same_solo_again_in_one_window_is_no_other_window(self) -> None:
        path = self.saved(Solo(title="Again"))
        for _ in range(2):
            self.open(path)
            self.assertEqual(self.opened.path, path)
        alias = self.folder / "alias.owl.json"
        alias.symlink_to(path)
        self.assertTrue(self.session.keeping.save_to(alias), self.notice)

    def test_a_document_changed_on_disk_is_not_replaced_unasked(self) -> None:
        path = self.saved(Solo(title="Mine"))
        self.open(path)
        save(Solo(title="Of another program"), path)
        self.edit(lambda solo: replace(solo, title="Mine, edited"))
        self.press("Ctrl+S")
        self.assertIn("changed by another program", self.notice)
        self.assertEqual(load(path).title, "Of another program")
        self.assertTrue(self.opened.dirty)
        self.answer("Save over it")
        self.assertEqual(load(path).title, "Mine, edited")
        self.press("Ctrl+S")
        self.assertIn("saved", self.notice)

    def test_a_name_that_gets_its_suffix_after_the_dialog_replaces_nothing_unasked(self) -> None:
        there = self.saved(Solo(title="There already"))
        self.demo()
        self.dialogs.file = self.folder / "s"
        self.press("Ctrl+S")
        self.assertEqual(load(there).title, "There already")
        self.answer("Replace it")
        self.assertEqual(load(there).title, "Night Ferry")


del KeepingCase

if __name__ == "__main__":
    unittest.main()
