"""Where a phrase is played: candidates for each note, what a hand finds hard, and the cheapest fingering."""
