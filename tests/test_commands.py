"""The table of commands: every row can be run, no key stands twice, undo brings the document back; finding them."""

import unittest

from eager_owl.desktop.entries import PAGES, PANELS, all_commands
from eager_owl.session.commands import Command, find_commands, key_words
from eager_owl.solo.techniques import TECHNIQUES
from tests.sessions import SessionCase

# They play, ask, or leave the solo that the walk goes over.
_LEAVES = ("new", "new_empty", "open", "open_demo", "bring_in", "paste_tab", "lay_against", "close")


class Table(SessionCase):
    def test_names_and_keys_stand_once(self) -> None:
        commands = all_commands()
        names = [command.name for command in commands]
        keys = [key for command in commands for key in command.keys]
        self.assertEqual(len(names), len(set(names)))
        self.assertEqual(len(keys), len(set(keys)))
        self.assertLessEqual({f"technique_{name}" for name in TECHNIQUES}, set(names))
        self.assertLessEqual({f"show_{entry.name}" for entry in (*PANELS, *PAGES)}, set(names))

    def test_every_command_runs_on_the_demo_and_undo_brings_the_document_back(self) -> None:
        self.demo()
        self.phrase(1)
        self.press("Right")
        self.press("Shift+Right")
        first, chosen = self.solo, self.chosen
        self.dialogs.words = "Another name"
        self.dialogs.file = self.folder / "file"
        changed: set[str] = set()
        for command in self.session.commands.values():
            if command.name in _LEAVES or command.name in ("undo", "redo"):
                continue
            with self.subTest(command.name):
                self.phrase(1)
                self.opened.move_cursor((first.note(chosen[0]).onset + first.note(chosen[0]).end) / 2)
                self.opened.set_span(None)
                self.opened.select(chosen, move_cursor=False)
                self.session.run(command)
                self.finish()
                if self.solo is not first:
                    changed.add(command.name)
                while self.solo is not first and len(self.opened.history):
                    self.press("Ctrl+Z")
                self.assertIs(self.solo, first)
        self.assertLessEqual({"pitch_up", "join_notes", "split_phrase", "technique_bend", "hear", "pin"}, changed)

    def test_each_command_says_what_it_misses_and_does_nothing_else(self) -> None:
        wants = {"solo": "open a recording or a solo", "notes": "select a note", "phrase": "choose a phrase"}
        for command in self.session.commands.values():
            if command.needs != "nothing":
                self.session.run(command)
                self.assertIn(wants["solo"], self.notice, command.name)
        self.demo()
        self.phrase(0)
        for command in self.session.commands.values():
            if command.needs == "notes":
                self.session.run(command)
                self.assertIn(wants["notes"], self.notice, command.name)
        self.press("W")
        for command in self.session.commands.values():
            if command.needs == "phrase":
                self.session.run(command)
                self.assertIn(wants["phrase"], self.notice, command.name)

    def test_commands_that_leave_ask_first(self) -> None:
        self.demo()
        self.press("Right")
        self.press("Up")
        self.dialogs.keeps = "cancel"
        before = self.opened
        self.run_command("open_demo")
        self.assertIs(self.opened, before)
        self.run_command("close")
        self.assertEqual(self.screen.asked[-1], "close")

    def test_what_only_a_screen_does_is_asked_of_it(self) -> None:
        self.demo()
        names = ("show_facts", "show_whole_solo", "zoom_in", "neck_large", "next_theme", "show_help", "find_command")
        for name in names:
            self.run_command(name)
        asked = ["facts", "whole_solo", "zoom 1", "neck large", "theme", "help", "finder"]
        self.assertEqual(self.screen.asked, asked)


class Finding(unittest.TestCase):
    def found(self, words: str) -> list[str]:
        return [command.name for command in find_commands(all_commands(), words)]

    def test_letters_find_words_from_their_beginning_first(self) -> None:
        self.assertEqual(self.found("undo")[0], "undo")
        self.assertEqual(self.found("vib")[0], "technique_vibrato")
        self.assertEqual(self.found("phr st")[:2], ["start_earlier", "start_later"])
        self.assertIn("export_tab", self.found("export"))

    def test_every_piece_has_to_be_there(self) -> None:
        self.assertEqual(self.found("undo xyzzy"), [])
        self.assertEqual(self.found("  "), [command.name for command in all_commands()])

    def test_case_and_group(self) -> None:
        self.assertEqual(self.found("UNDO"), self.found("undo"))
        self.assertIn("technique_bend", self.found("name bend"))

    def test_keys_as_they_are_read(self) -> None:
        told = [key_words(keys) for keys in ("Ctrl+Shift+Left", "PgDown", "Ctrl++", "Return")]
        self.assertEqual(told, ["Ctrl Shift ←", "Page down", "Ctrl +", "Enter"])
        self.assertIsInstance(all_commands()[0], Command)


if __name__ == "__main__":
    unittest.main()
