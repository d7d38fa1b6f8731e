"""Sound files and sample buffers: decode, resample, peaks, time-stretch, and the player's clock."""
