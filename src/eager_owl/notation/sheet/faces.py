"""The sizes of the page, in points."""

from eager_owl.notation.sheet.ink import Face

STRING_GAP = 9.7  # between two lines of the tab
STAFF_SPACE = 5.0  # between two lines of the standard staff
FRET = Face(9.6, bold=True)
GRACE = Face(7.0, bold=True)
MARK = Face(7.6, italic=True)
SIZE = Face(8.0)
FINGER = Face(8.4)
INTERVAL = Face(9.4)
DETOUR = Face(9.4, italic=True)
SOURCE = Face(8.6)
CHORD = Face(12.0, head=True, bold=True)
CHART = Face(10.6, head=True, bold=True)
NUMERAL = Face(8.4)
BAR_NUMBER = Face(7.4)
COUNT = Face(7.4)
PHRASE = Face(12.5, head=True, bold=True)
SENTENCE = Face(9.6, italic=True)
TITLE = Face(26.0, head=True, bold=True)
ABOUT = Face(11.0, italic=True)
FACT = Face(10.0)
SMALL = Face(8.6)
FOOTNOTE = Face(9.0, italic=True)
RAISED = Face(6.6, bold=True)
