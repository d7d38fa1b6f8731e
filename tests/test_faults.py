"""A short share of each campaign of faults; `./run-benchmarks faults` does them at length."""

import random
import unittest

from benchmarks.faults import Campaign
from benchmarks.faults.documents import break_documents, break_notes
from benchmarks.faults.folders import fail_folders
from benchmarks.faults.imports import break_imports
from benchmarks.faults.kills import kill_savers
from benchmarks.faults.monkey import let_loose
from benchmarks.faults.recordings import break_recordings
from benchmarks.faults.windows import cross_windows

from tests.sessions import Cached


class Campaigns(Cached):
    def nothing_wrong(self, campaign: Campaign, count: int) -> None:
        tally = campaign(count, random.Random(20))
        self.assertEqual(tally.wrong, [])
        self.assertGreaterEqual(sum(tally.done.values()), count)

    def test_broken_documents(self) -> None:
        self.nothing_wrong(break_documents, 150)

    def test_broken_notes_and_charts(self) -> None:
        self.nothing_wrong(break_notes, 150)

    def test_broken_recordings(self) -> None:
        self.nothing_wrong(break_recordings, 50)

    def test_broken_files_to_bring_in(self) -> None:
        self.nothing_wrong(break_imports, 120)

    def test_folders_that_fail(self) -> None:
        self.nothing_wrong(fail_folders, 120)

    def test_windows_on_the_same_documents(self) -> None:
        self.nothing_wrong(cross_windows, 250)

    def test_processes_killed_while_they_save(self) -> None:
        self.nothing_wrong(kill_savers, 30)

    def test_a_monkey_at_the_window(self) -> None:
        self.nothing_wrong(let_loose, 150)


del Cached

if __name__ == "__main__":
    unittest.main()
