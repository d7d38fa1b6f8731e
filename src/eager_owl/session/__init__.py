"""The open solo and what is done with it: documents in, documents out, and the desktop only behind narrow ports.

`facts`, `hearing`, `placing`, `explaining` and `sounding` are plain functions that the command line calls too. A
`Session` holds the open solo, its history and its player, and runs the table of commands.
"""
