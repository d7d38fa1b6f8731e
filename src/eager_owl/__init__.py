"""Eager Owl: a workbench for transcribing guitar solos from recordings."""
