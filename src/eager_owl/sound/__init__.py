"""Sounds of our own: a plucked string, a click, a small band, and the demo tune they play."""
