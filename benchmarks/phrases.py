"""Phrases with the places a player gives them, written down by hand: what the solver is tried on.

One token a stroke: fret/string, and what is done to it: b1 b2 a bend of so many semitones, h p s a hammer-on,
pull-off or slide from the note before, v vibrato; then =1 to =4 the finger, where the player names one. Strings
struck together are joined by a plus sign. The
costs were first weighed on composed phrases (`train_places.py`), then set while looking at the first three lists here;
nothing was set by UNSEEN and SIXTH.
"""

from dataclasses import dataclass, replace

from eager_owl.solo.document import Instrument, Note
from eager_owl.solo.techniques import Technique, TechniqueName

GUITAR = Instrument()
_SIGNS: dict[str, TechniqueName] = {"h": "hammer_on", "p": "pull_off", "s": "slide", "v": "vibrato"}


@dataclass(frozen=True)
class Written:
    """A phrase as tab: its habit, key, seconds a note, and tokens."""

    habit: str
    key: str
    beat_s: float
    tab: str


PHRASES = (
    Written("box", "A minor", 0.20, "8/1 5/1 8/2 5/2 7/3 5/3 7/4 5/4 7/5 5/5 8/6 5/6"),
    Written("box", "A minor", 0.25, "7/3b2 5/2 8/2 5/1 8/1 5/1 8/2 5/2 7/3 5/3 7/4"),
    Written("box", "G minor", 0.22, "5/4 3/3 5/3 3/2 6/2 3/1 6/1b1 3/1 6/2 3/2 5/3 3/3p 5/4"),
    Written("box", "E minor", 0.18, "12/1 15/1 12/1 15/2 12/2 14/3b2 12/2 14/3 12/3 14/4 12/4 14/5"),
    Written("box", "C minor", 0.3, "8/4 10/4h 8/3 10/3 11/2b2 8/2 10/3 8/3 10/4 10/5"),
    Written("box", "B minor", 0.2, "7/2 10/2 7/1 10/1 7/1 10/2 7/2 9/3 7/3 9/4 7/4 9/3"),
    Written("box", "A minor", 0.25, "10/1 8/1 10/2 8/2 9/3 7/3 9/3 8/2 10/2 8/1 10/1v"),
    Written("box", "D minor", 0.2, "10/1 13/1 10/1 13/2 10/2 12/3 10/3 12/4 10/4 12/5 10/5 13/6"),
    Written("box", "F# minor", 0.24, "4/3b2 2/2 5/2 2/1 5/1 2/1 5/2 2/2 4/3 2/3 4/4"),
    Written("box", "F minor", 0.3, "3/4 1/3 3/3 1/2 4/2 1/1 4/1 1/1 4/2 1/2 3/3 1/3 3/4"),
    Written("box", "G major", 0.25, "3/6 5/5 2/5 5/4 2/4 4/3 2/3 3/2 5/3 4/3 2/3 5/4"),
    Written("box", "C major", 0.25, "8/6 10/6 7/5 8/5 10/5 7/4 9/4 10/4 7/3 9/3 10/3 8/2"),
    Written("box", "A minor", 0.16, "5/3 7/3h 5/3p 7/4 5/3 7/3 5/2 8/2 5/2 7/3 5/3 7/4"),
    Written("box", "E minor", 0.3, "12/2 15/2b2 12/1 15/1 12/1 15/2 12/2 14/3 12/3 14/4"),
    Written("box", "A major", 0.25, "4/3 2/2 5/2 2/1 5/1 2/1 5/2 2/2 4/3 2/3 4/4"),
    Written("box", "Bb minor", 0.2, "6/2 9/2 6/1 9/1 6/1 9/2 6/2 8/3 6/3 8/4 6/4"),
    Written("box", "D minor", 0.25, "7/3 5/2 6/2 8/2 5/1 6/1 8/1 6/1 5/1 8/2 6/2 5/2 7/3"),
    Written("one string", "E minor", 0.3, "5/1 7/1s 8/1 10/1s 12/1 10/1 8/1s 7/1 5/1 3/1s 2/1"),
    Written("one string", "A minor", 0.35, "5/2 6/2s 8/2 10/2s 12/2 13/2 12/2 10/2s 8/2 6/2"),
    Written("one string", "G major", 0.3, "4/3 5/3s 7/3 9/3s 11/3s 12/3 11/3s 9/3 7/3s 5/3"),
    Written("one string", "D minor", 0.4, "7/3 9/3s 10/3 12/3s 14/3 12/3s 10/3 9/3s 7/3"),
    Written("one string", "F minor", 0.3, "8/1 9/1s 11/1 13/1s 15/1s 16/1 15/1 13/1s 11/1 8/1s"),
    Written("one string", "B minor", 0.3, "7/2 8/2s 10/2 12/2s 14/2 15/2s 14/2 12/2 10/2s 7/2"),
    Written("three a string", "G major", 0.12, "3/6 5/6 7/6 3/5 5/5 7/5 4/4 5/4 7/4 4/3 5/3 7/3 5/2 7/2 8/2 5/1 7/1 8/1"),
    Written("three a string", "A minor", 0.11, "5/6 7/6h 8/6h 5/5 7/5h 8/5h 5/4 7/4h 9/4h 5/3 7/3h 9/3h 6/2 8/2h 10/2h"),
    Written("three a string", "E minor", 0.1, "15/1 14/1p 12/1p 15/2 13/2p 12/2p 14/3 12/3p 11/3p 14/4 12/4p 10/4p"),
    Written("three a string", "C major", 0.12, "8/6 10/6 12/6 8/5 10/5 12/5 9/4 10/4 12/4 9/3 10/3 12/3 10/2 12/2 13/2"),
    Written("three a string", "D major", 0.12, "10/1 9/1 7/1 10/2 8/2 7/2 9/3 7/3 6/3 9/4 7/4 5/4 9/5 7/5 5/5"),
    Written("three a string", "B minor", 0.11, "7/4 9/4h 11/4h 7/3 9/3h 11/3h 8/2 10/2h 12/2h 9/1 10/1h 12/1h 10/1p 9/1p"),
    Written("two positions", "A minor", 0.2, "7/4 5/3 5/2 5/1 8/1 12/1s 10/2 13/2 12/1 17/1s"),
    Written("two positions", "C minor", 0.22, "10/4 8/3 8/2 8/1 11/1s 15/1 13/2 12/3 13/4"),
    Written("two positions", "E minor", 0.2, "7/5 10/5 9/4 9/3 8/2 7/1 12/1 15/1 12/1 12/2 12/3"),
    Written("two positions", "D minor", 0.2, "5/5 8/5 7/4 7/3 6/2 5/1 10/1s 13/1 10/1 10/2 10/3"),
    Written("two positions", "G major", 0.22, "10/5 9/4 12/4 12/3 12/2 10/1 15/1s 10/1 12/2"),
    Written("open strings", "E minor", 0.18, "0/1 3/1h 0/1p 3/2 0/2p 2/3 0/3p 2/4 0/4p 2/5 0/5 3/6 0/6"),
    Written("open strings", "A major", 0.2, "0/5 2/5 0/4 2/4h 0/3 2/3h 0/2 2/2h 0/1 3/1 0/1 2/2"),
    Written("open strings", "G major", 0.2, "3/6 0/5 2/5h 0/4 2/4h 0/3 0/2 3/2 0/2 0/3 2/4 0/4"),
    Written("open strings", "E minor", 0.15, "7/1 0/1p 5/1 0/1p 3/1 0/1p 5/1 0/1p 7/1 0/1p 8/1 0/1p"),
    Written("open strings", "D major", 0.25, "0/4 2/3 3/2 2/1 0/1 3/2 2/3 0/4 2/4h 0/3 2/3"),
    Written("open strings", "E major", 0.2, "0/6 3/6h 4/6 2/5 0/4 0/3 1/3h 0/2 3/2 0/2 1/3 2/4 0/4 2/5 0/6"),
    Written("octaves", "C major", 0.35, "3/5+5/3 5/5+7/3 7/5+9/3 8/5+10/3 7/5+9/3 5/5+7/3"),
    Written("octaves", "G minor", 0.35, "5/4+8/2 7/4+10/2 8/4+11/2 7/4+10/2 5/4+8/2 3/4+6/2"),
    Written("octaves", "F minor", 0.4, "6/3+9/1 8/3+11/1 10/3+13/1 8/3+11/1 5/3+8/1"),
    Written("octaves", "A minor", 0.35, "5/6+7/4 8/6+10/4 10/6+12/4 8/6+10/4 5/6+7/4"),
    Written("octaves", "Bb major", 0.4, "5/5+7/3 8/5+10/3 10/5+12/3 12/5+14/3 13/5+15/3 12/5+14/3"),
    Written("root cell", "A minor", 0.3, "10/2 8/1 10/1b2 8/1 10/2 8/2 10/2v 10/1b2 8/1 10/2"),
    Written("root cell", "B minor", 0.3, "12/2 10/1 12/1b2 10/1 12/2 10/2 12/2 10/1 12/1b2 12/2v"),
    Written("root cell", "C minor", 0.3, "13/2 11/1 13/1b2 11/1 13/2 11/2 13/2v 8/3 10/3b2 8/3 10/4 8/4 10/4"),
    Written("root cell", "G minor", 0.3, "5/4 3/3 5/3b2 3/3 5/4 3/4 5/4 8/2 6/1 8/1b2 6/1 8/2v"),
    Written("root cell", "D minor", 0.3, "12/4 10/3 12/3b2 10/3 12/4 10/4 12/4v 15/2 13/1 15/1b2 15/2"),
    Written("root cell", "E minor", 0.25, "5/2 3/1 5/1b2 3/1 5/2 3/2 5/2v 3/1 5/1b2 3/1 5/2"),
)  # fmt: skip

# Written down after the first setting of the costs; looked at in the second, as was the third list.
SECOND = (
    Written("box", "A minor", 0.22, "5/4 7/4 5/3 7/3b2 5/2 7/3 5/3 7/4 5/4 7/5 5/5 7/5"),
    Written("box", "G minor", 0.2, "6/1 3/1 6/2 3/2 5/3 3/3 5/4 3/4 5/5 3/5 6/6 3/6"),
    Written("box", "C minor", 0.25, "8/1 11/1 8/1 11/2 8/2 10/3b2 8/3 10/4 8/4 10/4"),
    Written("box", "D minor", 0.18, "13/2 10/2 12/3 10/3 12/4 10/4 12/3 10/2 13/2 10/1 13/1b2 10/1"),
    Written("box", "E minor", 0.25, "15/2b2 12/2 15/1 12/1 15/2 12/2 14/3 12/3 14/4v"),
    Written("box", "B minor", 0.2, "9/3b2 7/2 10/2 7/2 9/3 7/3 9/4 7/4 9/5 7/5 10/6 7/6"),
    Written("box", "Bb minor", 0.25, "6/1 9/1b1 6/1 9/2 6/2 8/3 6/3 8/3p 6/3 8/4"),
    Written("box", "F# minor", 0.2, "4/4 2/3 4/3 2/2 5/2 2/1 5/1 2/1 5/2 2/2 4/3 2/3 4/4"),
    Written("box", "A minor", 0.3, "5/1 8/1 5/1 8/2b2 5/2 7/3 5/3 7/3 7/4"),
    Written("box", "C major", 0.25, "5/3 7/3 5/2 8/2 5/1 8/1 5/1 8/2 5/2 7/3 5/3 7/4"),
    Written("box", "G major", 0.25, "12/1 15/1 12/2 15/2 12/3 14/3 12/4 14/4 12/5 14/5 12/6 15/6"),
    Written("box", "A minor", 0.2, "7/4 5/3 6/3 7/3 5/2 7/3 6/3 5/3 7/4 5/4 7/4"),
    Written("box", "E minor", 0.2, "9/3 8/2 10/2 7/1 10/1 7/1 10/2 8/2 9/3 7/3 9/4 7/4"),
    Written("one string", "A minor", 0.35, "5/1 7/1s 8/1 10/1s 12/1s 10/1 8/1s 7/1 5/1s"),
    Written("one string", "E minor", 0.3, "5/2 7/2s 8/2 10/2s 12/2 13/2s 12/2 10/2 8/2s 7/2 5/2s"),
    Written("one string", "D major", 0.3, "7/3 9/3s 11/3 12/3s 14/3 12/3s 11/3 9/3s 7/3"),
    Written("one string", "G minor", 0.4, "3/1 5/1s 6/1s 8/1s 10/1 11/1s 10/1s 8/1 6/1s 5/1"),
    Written("three a string", "A minor", 0.12, "5/6 7/6 8/6 5/5 7/5 8/5 5/4 7/4 9/4 5/3 7/3 9/3 6/2 8/2 10/2 7/1 8/1 10/1"),
    Written("three a string", "G major", 0.1, "8/1 7/1p 5/1p 8/2 7/2p 5/2p 7/3 5/3p 4/3p 7/4 5/4p 4/4p 7/5 5/5p 3/5p"),
    Written("three a string", "C minor", 0.12, "8/6 10/6h 11/6h 8/5 10/5h 11/5h 8/4 10/4h 12/4h 8/3 10/3h 12/3h"),
    Written("three a string", "E minor", 0.11, "12/6 14/6 15/6 12/5 14/5 15/5 12/4 14/4 16/4 12/3 14/3 16/3 13/2 15/2 17/2"),
    Written("two positions", "A minor", 0.2, "7/5 5/4 7/4 5/3 5/2 5/1 8/1s 12/1 8/1 10/2 9/3"),
    Written("two positions", "C major", 0.2, "3/5 2/4 5/4 5/3 5/2 3/1 8/1s 12/1 8/1 8/2 9/3"),
    Written("two positions", "G minor", 0.22, "5/4 3/3 3/2 3/1 6/1 10/1s 6/1 8/2 7/3 8/4"),
    Written("open strings", "E minor", 0.2, "0/6 3/6 0/5 2/5h 0/4 2/4h 0/3 2/3h 0/2 3/2h 0/1 3/1h"),
    Written("open strings", "A minor", 0.25, "0/5 2/4 2/3 1/2 0/1 1/2 2/3 2/4 0/4 3/5 0/5"),
    Written("open strings", "G major", 0.18, "3/2 0/2p 2/3 0/3p 2/4 0/4p 2/5 0/5p 3/6 0/6 3/6"),
    Written("open strings", "E minor", 0.14, "12/1 0/1p 10/1 0/1p 8/1 0/1p 7/1 0/1p 8/1 0/1p 10/1 0/1p"),
    Written("octaves", "A minor", 0.35, "7/5+9/3 8/5+10/3 10/5+12/3 12/5+14/3 10/5+12/3 8/5+10/3 7/5+9/3"),
    Written("octaves", "E minor", 0.35, "7/5+9/3 5/5+7/3 3/5+5/3 2/5+4/3 3/5+5/3 5/5+7/3"),
    Written("octaves", "C minor", 0.4, "8/6+10/4 10/6+12/4 11/6+13/4 10/6+12/4 8/6+10/4 6/6+8/4"),
    Written("root cell", "A minor", 0.3, "8/1 10/1b2 8/1 10/2 8/2 10/2 8/1 10/1b2 8/1 10/2v"),
    Written("root cell", "C minor", 0.28, "13/2 11/1 13/1b2 13/1 11/1 13/2 11/2 13/2 11/1 13/2"),
    Written("root cell", "A minor", 0.3, "7/4 5/3 7/3b2 5/3 7/4 5/4 7/4 10/2 8/1 10/1b2 8/1 10/2v"),
    Written("root cell", "G minor", 0.3, "8/2 6/1 8/1b2 6/1 8/2 6/2 8/2v 6/1 8/1b2 6/1 8/2"),
)  # fmt: skip

THIRD = (
    Written("box", "C minor", 0.2, "10/4 8/4 10/5 8/5 11/6 8/6 8/5 10/5 8/4 10/4 8/3 10/3"),
    Written("box", "D minor", 0.25, "12/3b2 10/2 13/2 10/1 13/2 10/2 12/3 10/3 12/4v"),
    Written("box", "G minor", 0.22, "3/1 6/1 3/1 6/2b2 3/2 5/3 3/3 5/4 3/4 5/5"),
    Written("box", "F# minor", 0.25, "14/3b2 14/3 12/4 14/4 14/5 12/5 14/4 12/4 14/3 12/2 14/2"),
    Written("box", "A minor", 0.2, "7/5 5/4 7/4 5/3 7/3 5/2 8/2 5/1 8/1 5/1 8/2 5/2"),
    Written("one string", "E minor", 0.35, "12/1 10/1s 8/1 7/1s 5/1 3/1s 5/1 7/1s 8/1"),
    Written("one string", "C minor", 0.3, "4/2 6/2s 8/2 9/2s 11/2s 13/2 11/2s 9/2 8/2s"),
    Written("three a string", "D minor", 0.11, "10/6 12/6 13/6 10/5 12/5 13/5 10/4 12/4 14/4 10/3 12/3 14/3"),
    Written("three a string", "F minor", 0.1, "16/1 15/1p 13/1p 16/2 14/2p 13/2p 15/3 13/3p 12/3p 15/4 13/4p 11/4p"),
    Written("two positions", "A minor", 0.2, "5/6 8/6 7/5 7/4 5/3 5/2 8/2s 13/2 12/1 17/1s 12/1"),
    Written("two positions", "E minor", 0.2, "7/5 5/4 5/3 8/3s 12/3 12/2 12/1 15/1 12/1"),
    Written("open strings", "E minor", 0.2, "3/1 0/1p 3/2 0/2p 2/3 0/3p 2/4 0/4 2/5 0/6"),
    Written("open strings", "A major", 0.2, "0/5 4/5 2/4 0/5 2/4h 2/3 0/5 2/2 0/1"),
    Written("octaves", "D minor", 0.35, "5/5+7/3 7/5+9/3 8/5+10/3 10/5+12/3 8/5+10/3 5/5+7/3"),
    Written("octaves", "G minor", 0.35, "3/6+5/4 6/6+8/4 8/6+10/4 10/6+12/4 8/6+10/4"),
    Written("root cell", "D minor", 0.3, "15/2 13/1 15/1b2 13/1 15/2 13/2 15/2v"),
    Written("root cell", "E minor", 0.3, "14/4 12/3 14/3b2 12/3 14/4 12/4 14/4v"),
)

UNSEEN = (
    Written("box", "A minor", 0.22, "8/1 5/1 8/2b2 8/2 5/2 7/3 5/3 7/4 5/4 7/4"),
    Written("box", "E minor", 0.2, "12/3 14/3h 12/2 15/2 12/1 15/1b2 12/1 15/2 12/2 14/3"),
    Written("box", "D minor", 0.25, "10/6 13/6 10/5 12/5 10/4 12/4 10/3 12/3 10/2 13/2"),
    Written("box", "B minor", 0.25, "9/4 7/3 9/3 7/2 10/2b2 7/2 9/3 7/3 9/4 7/4"),
    Written("box", "G major", 0.25, "3/1 5/1 3/1 5/2 3/2 4/3 2/3 5/4 2/4 5/5"),
    Written("one string", "A minor", 0.35, "5/1 8/1s 10/1 12/1s 10/1s 8/1 7/1s 5/1"),
    Written("one string", "G minor", 0.3, "3/3 5/3s 7/3 8/3s 10/3 12/3s 10/3 8/3s"),
    Written("three a string", "E minor", 0.12, "7/5 9/5 10/5 7/4 9/4 10/4 7/3 9/3 11/3 8/2 10/2 12/2"),
    Written("three a string", "G major", 0.11, "3/6 5/6h 7/6h 3/5 5/5h 7/5h 4/4 5/4h 7/4h 4/3 5/3h 7/3h"),
    Written("two positions", "C minor", 0.2, "8/6 11/6 10/5 10/4 8/3 8/2 8/1s 11/1 15/1s 11/1 13/2"),
    Written("two positions", "D minor", 0.2, "12/4 10/3 10/2 10/1 13/1s 17/1 13/1 15/2 14/3"),
    Written("open strings", "E minor", 0.2, "0/1 3/2 0/2 2/3 0/3 2/4 0/4 2/5 0/5 3/6 0/6"),
    Written("open strings", "G major", 0.2, "0/3 2/3h 0/2 1/2h 3/2 0/1 3/1 0/1 3/2 1/2p 0/2p"),
    Written("octaves", "F minor", 0.35, "8/5+10/3 10/5+12/3 11/5+13/3 10/5+12/3 8/5+10/3"),
    Written("root cell", "B minor", 0.3, "12/2 10/1 12/1b2 10/1 12/2 10/2 12/2v"),
    Written("root cell", "A minor", 0.3, "7/4 5/3 7/3b2 5/3 7/4 5/4 7/4v"),
)

# Written before anything of it was run, as players say it: the fingers stand after "=", where a player would name them.
FOURTH = (
    Written("minor box", "A minor", 0.25, "7/3b2=3 5/2=1 8/2=3 5/1=1 8/1b2=3 5/1=1 8/2=3 5/2=1 7/3=3 5/3=1 7/4=3"),
    Written("minor box", "A minor", 0.3, "8/2b2=3 5/1=1 8/1=3 5/1 8/2=3 5/2 7/3b2=3 7/3=3 5/3=1 7/4=3"),
    Written("minor box", "G minor", 0.28, "5/3b2=3 5/3 3/3=1 5/4=3 3/4=1 5/4 3/3 5/3b1=3 3/3=1 5/4=3"),
    Written("minor box", "B minor", 0.25, "9/3=3 7/2=1 10/2b2=3 7/1=1 10/1=3 7/1=1 10/2=3 7/2=1 9/3=3 7/3=1 9/4=3"),
    Written("minor box", "C minor", 0.22, "8/1=1 11/1=3 8/1p=1 11/2=3 8/2p=1 10/3=3 8/3p=1 10/4=3 8/4p=1 10/5=3"),
    Written("minor box", "E minor", 0.3, "14/3b2=3 12/2=1 15/2=3 12/1=1 15/1b2=3 15/1 12/1 15/2 12/2 14/3v=3"),
    Written("minor box", "F minor", 0.3, "4/1 1/1 4/2 1/2 3/3 1/3 3/4 1/4 3/5 1/5"),
    Written("minor box", "D minor", 0.25, "12/3=3 10/3=1 12/4=3 10/4=1 12/4h=3 10/3=1 12/3b2=3 10/2=1 13/2=3 10/2v=1"),
    Written("upper extension", "A minor", 0.25, "7/4 5/3 7/3 5/2 8/2=3 10/2s=3 8/1=1 10/1b2=3 8/1=1 10/2=3 8/2=1 10/2v=3"),
    Written("upper extension", "C minor", 0.25, "10/4 8/3 10/3 8/2 11/2=3 13/2s=3 11/1=1 13/1b2=3 11/1 13/2 11/2 10/3"),
    Written("major root box", "A major", 0.3, "10/2=1 11/3=2 10/2=1 12/2b2=3 10/2=1 12/2=3 10/2=1 11/3=2 10/2v=1"),
    Written("major root box", "G major", 0.3, "8/1=1 10/1=3 8/2=1 10/2b2=3 8/2=1 9/3=2 8/2=1 10/2=3 8/2v=1"),
    Written("major root box", "C major", 0.3, "13/2=1 14/3=2 13/2 15/2=3 15/2b2=3 13/2 14/3 13/2v"),
    Written("major root box", "D major", 0.28, "15/2=1 17/2b2=3 15/2 16/3=2 15/2 15/1=1 17/1=3 15/1 17/2 15/2"),
    Written("major root box", "E major", 0.3, "5/2=1 6/3=2 5/2=1 7/2b2=3 5/1=1 7/2=3 5/2=1 6/3=2 4/3=1 6/3=2 5/2v=1"),
    Written("major box", "A major", 0.22, "2/2=1 5/2=3 2/1=1 5/1 2/1 5/2 4/3=3 2/3=1 4/4=3 2/4 4/3 2/2"),
    Written("major box", "G major", 0.25, "5/4=3 2/4=1 5/4 4/3=2 2/3 4/3 3/2=1 5/2 3/1 5/1 3/1"),
    Written("mixed thirds", "A minor", 0.25, "5/3=1 6/3h=2 5/2=1 7/3=3 5/3=1 7/4=3 5/3 6/3h=2 5/1=1 8/2=3 5/2"),
    Written("mixed thirds", "C minor", 0.25, "8/3=1 9/3h=2 8/2=1 8/1=1 11/2=3 8/2 10/3=3 8/3=1 9/3h=2 10/4=3"),
    Written("grip", "D major", 0.3, "7/4 7/3 7/2 5/1 7/2 7/3 7/4"),
    Written("grip", "A minor", 0.25, "7/4=3 5/3=1 5/2=1 5/1=1 8/1=4 5/1 5/2 5/3 7/4"),
    Written("grip", "G major", 0.3, "5/4=3 4/3=2 3/2=1 3/1=1 3/2 4/3 5/4"),
    Written("grip", "C major", 0.3, "3/5=1 5/4=3 5/3=3 5/2=3 3/1=1 5/2 5/3 5/4 3/5"),
    Written("sixths", "G major", 0.35, "3/1+4/3 5/1+5/3 7/1+7/3 8/1+9/3 7/1+7/3 5/1+5/3 3/1+4/3"),
    Written("thirds", "A major", 0.35, "5/2+6/3 7/2+7/3 9/2+9/3 10/2+11/3 9/2+9/3 7/2+7/3 5/2+6/3"),
    Written("low closed", "G minor", 0.2, "3/6=1 6/6=4 3/5=1 5/5=3 3/4=1 5/4=3 3/5 5/5 3/5 6/6 3/6"),
    Written("low closed", "A minor", 0.2, "5/6=1 8/6 5/5 6/5 7/5 5/4 7/4 5/5 7/5 5/5 8/6 5/6"),
    Written("slides", "E minor", 0.3, "9/3=3 7/3s 9/3s=3 8/2=2 10/2 12/2s 15/2s=3 12/1=1 15/2 12/2 14/3s 16/3"),
    Written("slides", "A major", 0.25, "4/3 6/3s=3 5/2=1 7/2=3 5/2 6/3 4/3s 2/3 4/4 2/3"),
    Written("slides", "B minor", 0.35, "7/1 9/1s 10/1s 12/1s 14/1 12/1s 10/1 9/1s 7/1"),
    Written("arpeggio", "A minor", 0.15, "12/1 8/1 10/2 9/3 10/4 9/3 10/2 8/1 12/1"),
    Written("arpeggio", "D minor", 0.25, "5/5=1 8/5=4 7/4=3 5/3 7/3 6/2=2 5/1=1 8/1=4 5/1 6/2 7/3"),
)  # fmt: skip

# Written after the rules were set by the lists above, and before any of it was run.
FIFTH = (
    Written("minor box", "G minor", 0.25, "3/1=1 6/1=3 3/1=1 6/2=3 3/2=1 5/3b2=3 3/3=1 5/4=3 3/4=1 5/4v=3"),
    Written("minor box", "A minor", 0.3, "7/3b2=3 7/3b2=3 5/2=1 5/1=1 8/1=3 5/1=1 8/2b2=3 5/2=1 7/3v=3"),
    Written("minor box", "B minor", 0.28, "9/4=3 7/3=1 9/3=3 9/3b2=3 7/2=1 10/2=3 7/1=1 10/1b2=3 7/1=1 10/2=3"),
    Written("minor box", "E minor", 0.2, "12/1 15/2 12/2 14/3 12/3 14/4 12/4 14/5 12/5 15/6 12/6"),
    Written("minor box", "C minor", 0.22, "11/6=3 8/6=1 10/5=3 8/5=1 10/4=3 8/4=1 10/3=3 8/3=1 11/2=3 8/2=1"),
    Written("minor box", "D minor", 0.25, "10/2=1 13/2=3 10/1=1 13/1=3 13/1b2=3 10/1=1 13/2=3 10/2=1 12/3=3"),
    Written("minor box", "F# minor", 0.25, "4/4 2/3 4/3 2/2 5/2 2/1 5/1 2/1 5/2 2/2 4/3b2 2/2"),
    Written("second box", "A minor", 0.25, "8/2=1 10/2=3 8/1=1 10/1=3 8/1=1 10/2=3 8/2=1 9/3=2 7/3 9/3"),
    Written("second box", "E minor", 0.25, "15/2=1 17/2=3 15/1=1 17/1b2=3 15/1=1 17/2=3 15/2v=1"),
    Written("blues fill", "A minor", 0.2, "5/4 6/4h 7/4p 5/4 7/5 5/4 7/4 5/3 5/2"),
    Written("blues fill", "C minor", 0.22, "8/3=1 10/3=3 11/3h 10/3p 8/3 10/4=3 8/4 10/4"),
    Written("blues both thirds", "G minor", 0.25, "3/3=1 4/3h=2 3/2=1 3/1=1 6/2=3 3/2=1 5/3=3 3/3=1 4/3h=2 5/4=3"),
    Written("major root box", "C major", 0.3, "13/2=1 15/2b2=3 13/2=1 14/3=2 13/2=1 13/1=1 15/1=3 15/2=3 13/2=1"),
    Written("major root box", "B major", 0.3, "12/2=1 13/3=2 12/2=1 14/2=3 14/2b2=3 12/2=1 13/3=2 12/2v=1"),
    Written("major root box", "F major", 0.28, "6/2=1 7/3=2 6/2=1 8/2b2=3 6/1=1 8/2=3 6/2=1 7/3=2 6/2=1"),
    Written("major box", "E major", 0.25, "9/2 12/2 9/1 12/1 9/1 12/2 9/2 11/3 9/3 11/4"),
    Written("major box", "C major", 0.25, "5/4 7/4 5/3 7/3 5/2 8/2 5/1 8/1 5/1 8/2 5/2 7/3"),
    Written("jazz position", "C major", 0.2, "7/3 5/3 7/4 5/4 3/5 5/5 7/5 5/4 7/4 5/3 7/3 5/2 6/2"),
    Written("jazz position", "F major", 0.2, "5/3 7/3 5/2 6/2 8/2 5/1 6/1 8/1 6/1 5/1 8/2 6/2 5/2"),
    Written("jazz position", "Bb major", 0.2, "8/4 7/4 5/4 8/5 6/5 5/5 8/6 6/6 5/5 8/5 7/4 8/4"),
    Written("grip", "E minor", 0.25, "9/4=3 9/3=3 8/2=2 7/1=1 8/2=2 9/3=3 9/4=3"),
    Written("grip", "A major", 0.25, "7/4=3 6/3=2 5/2=1 5/1=1 9/1=4 5/1=1 5/2=1 6/3=2 7/4=3"),
    Written("grip", "D minor", 0.3, "7/4 7/3 6/2 5/1 6/2 7/3 7/4"),
    Written("sixths", "A major", 0.35, "5/1+6/3 7/1+7/3 9/1+9/3 10/1+11/3 9/1+9/3 7/1+7/3 5/1+6/3"),
    Written("octaves", "G minor", 0.35, "5/4+8/2 3/4+6/2 5/4+8/2 8/4+11/2 10/4+13/2 8/4+11/2"),
    Written("slides", "A minor", 0.3, "5/3=1 7/3s=1 5/2=1 8/2=3 10/2s=3 8/1=1 10/1=3 12/1s=3 10/1 8/1"),
    Written("slides", "E minor", 0.3, "12/1 10/1s 8/1 7/1s 5/1 7/1s 8/1 10/1s 12/1"),
    Written("run", "E minor", 0.11, "7/5=1 9/5=3 10/5=4 7/4=1 9/4=3 10/4=4 7/3=1 9/3=3 11/3 8/2 10/2 12/2"),
    Written("run", "G major", 0.12, "3/6=1 5/6=2 7/6=4 3/5=1 5/5=2 7/5=4 4/4=1 5/4=2 7/4=4 4/3 5/3 7/3"),
    Written("open", "E minor", 0.25, "0/6 3/6 0/5 2/5 0/4 2/4 0/3 2/3 0/2 3/2 0/1 3/1"),
    Written("open", "A minor", 0.25, "0/5 3/5 0/4 2/4 0/3 2/3 1/2 3/2 0/1 3/1 0/1 1/2"),
)  # fmt: skip


def written_notes(phrase: Written) -> list[Note]:
    """The phrase's notes with string and fret, and the finger where it is named."""
    notes: list[Note] = []
    for index, stroke in enumerate(phrase.tab.split()):
        members = []
        for token in stroke.split("+"):
            token, _, finger = token.partition("=")
            place = token.rstrip("hpsv")
            signs = token[len(place) :]
            place, _, bend = place.partition("b")
            fret, string = (int(part) for part in place.split("/"))
            techniques = [Technique("bend", semitones=float(bend), rise_s=0.12)] if bend else []
            techniques += [Technique(_SIGNS[sign]) for sign in signs]
            members.append((string, fret, int(finger) if finger else None, tuple(techniques)))
        both = (Technique("double_stop"),) if len(members) > 1 else ()
        for string, fret, finger_named, named in members:
            pitch = GUITAR.tuning[string - 1] + fret
            onset = round(index * phrase.beat_s, 4)
            length = round(0.92 * phrase.beat_s, 4)
            notes.append(Note(0, onset, length, pitch, string, fret, finger_named, techniques=named + both))
    notes.sort(key=lambda note: (note.onset, note.pitch))
    return [replace(note, id=i) for i, note in enumerate(notes, 1)]


# Of more kinds, written after all rules were set, and run once.
SIXTH = (
    Written("box", "A blues", 0.2, "7/3 5/2 8/2 5/1 8/1b2 5/1 8/2 5/2 7/3b1 5/3 7/4"),
    Written("extension", "A minor", 0.2, "5/4 7/4 5/3 7/3 9/3s 8/2 10/2 8/2 9/3 7/3s 5/3 7/4"),
    Written("open strings", "E minor", 0.18, "0/1 3/1 0/1 3/2 0/2 2/3 0/3 2/4 0/4 2/5 0/5 3/6 0/6"),
    Written("open strings", "G major", 0.15, "3/6 0/5 1/5h 2/5h 0/4 2/4 0/3 2/3 0/2 3/2"),
    Written("position", "C major", 0.2, "7/4 5/3 5/2 8/2 6/2 7/3 4/3 7/4 5/4 6/4 4/3 7/3 5/2"),
    Written("position", "Bb major", 0.2, "7/3 6/2 5/1 8/1 6/1 8/2 8/3 7/3 5/3 8/4 7/4 5/4 8/5"),
    Written("position", "F major", 0.22, "8/5 5/4 7/4 8/4 5/3 7/3 5/2 6/2 8/2 5/1 6/1 8/1 6/1 5/1"),
    Written("position", "D Dorian", 0.2, "12/5 10/4 12/4 9/3 10/3 12/3 10/2 12/2 13/2 10/1 12/1 13/1 10/1"),
    Written("box", "E minor", 0.25, "15/2b2 12/1 15/1b2 12/1 15/2 12/2 14/3b1 12/3 14/4"),
    Written("skipping", "B minor", 0.18, "7/4 9/4 7/2 10/2 9/3 7/3 7/1 10/1 7/2 10/2"),
    Written("sweep", "A minor", 0.09, "12/5 15/5h 14/4 14/3 13/2 12/1 17/1h 12/1p 13/2 14/3 14/4 15/5 12/5p"),
    Written("one string", "G major", 0.4, "3/2 5/2s 7/2s 8/2 7/2s 5/2 3/2s"),
    Written("box", "D blues", 0.2, "10/1 13/1 10/1 13/2b2 13/2 10/2 12/3 10/3 12/4 10/4 12/4"),
    Written("box", "C blues", 0.2, "8/4 10/4 8/3 9/3h 8/2 8/1 11/2 8/2 10/3 8/3 10/4"),
    Written("root cell", "G minor", 0.25, "6/2 8/2 6/1 8/1b2 6/1 8/2 6/2 8/2"),
    Written("extension", "A major", 0.22, "2/2 5/2 7/2s 5/1 7/1 5/1 7/2 5/2s 2/2"),
    Written("riff", "E minor", 0.2, "0/6 3/6 0/6 5/6 0/6 3/6 2/6 0/6"),
    Written("riff", "A minor", 0.22, "0/5 2/4 3/4 2/4 0/5 3/6 0/5 3/5"),
    Written(
        "three a string", "F# minor", 0.11, "9/6 10/6 12/6 9/5 11/5 12/5 9/4 11/4 12/4 9/3 11/3 13/3 10/2 12/2 14/2"
    ),
    Written("arpeggio", "C minor", 0.18, "8/6 11/6 10/5 8/4 10/4 8/3 8/2 11/2 8/1 11/1"),
    Written("arpeggio", "G major", 0.18, "3/6 2/5 5/5 4/4 5/4 4/3 3/2 2/1 3/1"),
    Written("sixths", "G major", 0.4, "4/3+3/1 5/3+5/1 7/3+7/1 9/3+8/1 7/3+7/1 5/3+5/1 4/3+3/1"),
    Written("box", "A minor", 0.25, "8/2b2 8/1 5/1 8/2 5/2 7/3b2 5/3 7/4 5/4 7/4"),
    Written("open strings", "D major", 0.3, "0/4 2/4 4/4 0/3 2/3 0/2 2/2 3/2 0/1 2/1 3/1 2/1 0/1 3/2"),
    Written("position", "Db major", 0.2, "9/6 11/6 8/5 9/5 11/5 8/4 10/4 11/4 8/3 10/3 9/2 11/2"),
    Written("position", "F major", 0.16, "8/1 7/1 6/1 5/1 8/2 6/2 5/2 7/3 5/3"),
    Written("position", "G minor", 0.2, "10/1 11/1 10/1 13/2 11/2 10/2 11/3 12/3"),
    Written("two positions", "A minor", 0.2, "5/4 7/4 5/3 7/3s 9/3 10/2 8/2s 10/2 12/1 10/1 8/1 10/2"),
    Written("three fingers", "G minor", 0.2, "5/3b2 3/2 6/2 3/1 6/2 3/2 5/3 3/3 5/4 3/4 5/4"),
)
