"""Run one campaign."""

import argparse
import random
import sys

from benchmarks.faults import Campaign
from benchmarks.faults.documents import break_documents, break_notes
from benchmarks.faults.folders import fail_folders
from benchmarks.faults.imports import break_imports
from benchmarks.faults.kills import kill_savers
from benchmarks.faults.monkey import let_loose
from benchmarks.faults.recordings import break_recordings
from benchmarks.faults.windows import cross_windows

_CAMPAIGNS: dict[str, tuple[Campaign, int]] = {
    "monkey": (let_loose, 2000),
    "documents": (break_documents, 10_000),
    "notes": (break_notes, 10_000),
    "recordings": (break_recordings, 5000),
    "imports": (break_imports, 5000),
    "folders": (fail_folders, 5000),
    "windows": (cross_windows, 5000),
    "kills": (kill_savers, 1000),
}
_SHOWN = 20

parser = argparse.ArgumentParser()
parser.add_argument("campaign", choices=_CAMPAIGNS)
parser.add_argument("--count", type=int)
parser.add_argument("--seed", type=int, default=1)
options = parser.parse_args()
campaign, count = _CAMPAIGNS[options.campaign]
tally = campaign(options.count or count, random.Random(options.seed))
for words in list(dict.fromkeys(tally.wrong + tally.slow))[:_SHOWN]:
    print(words)
print(tally.line)
sys.exit(1 if tally.wrong or tally.slow else 0)
