"""Measurements on sounds that are not our own; see docs/hearing.md for the figures."""
