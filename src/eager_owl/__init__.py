"""Eager Owl: a workbench for transcribing guitar solos from recordings."""

from pathlib import Path

__version__ = "0.4.0"

ASSETS = Path(__file__).resolve().parent / "assets"
