"""The written page: what is drawn where, in points (1/72 inch, y down), without knowing what draws it."""
