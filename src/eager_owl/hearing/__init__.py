"""From signal to notes: pitch, attacks, segmentation, articulation and tuning offset of a lead guitar."""
