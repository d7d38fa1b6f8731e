"""The transcription written down: text tab, and the notes file other programs read."""
