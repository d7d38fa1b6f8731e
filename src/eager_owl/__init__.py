"""Eager Owl: a workbench for transcribing guitar solos from recordings."""

import os
from pathlib import Path

# Hearing multiplies small matrices, and works on two threads already: threads of the library's own only wait for each
# other, for a third of the time. It is read once, when NumPy is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.18.2"

ASSETS = Path(__file__).resolve().parent / "assets"
