"""MusicXML 4.0, written and read."""
