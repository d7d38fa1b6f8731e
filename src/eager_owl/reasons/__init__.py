"""Where each note comes from: intervals to key and chord, a scale source for each span, and the note's role."""
