"""The document: a solo with its instrument, phrases, notes and pins; how it is kept on disk."""
