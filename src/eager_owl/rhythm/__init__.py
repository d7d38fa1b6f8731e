"""Beats and bars: the grid between seconds and beats, written note values, and chart text."""
