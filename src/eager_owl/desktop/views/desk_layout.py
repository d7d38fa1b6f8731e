"""Where everything on the desk stands: time across, rows down. Plain geometry, made once a change."""

from dataclasses import dataclass
from functools import cached_property

from PySide6.QtCore import QPointF, QRectF

from eager_owl.desktop.words import plate_text
from eager_owl.solo.document import Note

MARGIN_LEFT, MARGIN_RIGHT = 74, 16
SEMITONE_SHARE = 0.62  # of the distance between strings that a semitone leaves the line
_REASONS_HEIGHT, _SENTENCE_HEIGHT = 122.0, 22.0
_SENTENCE_FROM = 356.0  # a lower desk leaves the sentence at its foot out
_PICKS_HEIGHT = 18.0
_OVER_BENDS = 38.0  # between the written values and the highest bend: its words
_WAVE_TOP, _WAVE_SHARE, _WAVE_LEAST = 26.0, 0.11, 34.0
_GRAB_PX = 4


@dataclass(frozen=True)
class DeskLayout:
    """The desk at a size, showing the recording from `start` to `end` seconds, for a tuning."""

    width: float
    height: float
    start: float
    end: float
    tuning: tuple[int, ...]

    def x_of(self, time_s: float) -> float:
        """Pixels from the left of a time."""
        return MARGIN_LEFT + (time_s - self.start) * self.pixels_a_second

    def time_at(self, x: float) -> float:
        """Seconds at pixels from the left."""
        return self.start + (x - MARGIN_LEFT) / self.pixels_a_second

    @cached_property
    def pixels_a_second(self) -> float:
        """Pixels a second takes."""
        return (self.right - MARGIN_LEFT) / (self.end - self.start)

    @property
    def right(self) -> float:
        """Where the tab ends on the right."""
        return self.width - MARGIN_RIGHT

    @cached_property
    def wave(self) -> QRectF:
        """The waveform's box."""
        height = max(_WAVE_LEAST, _WAVE_SHARE * self.height)
        return QRectF(MARGIN_LEFT, _WAVE_TOP, self.right - MARGIN_LEFT, height)

    @cached_property
    def written(self) -> float:
        """Middle of the row of written values."""
        return self.wave.bottom() + 14

    @cached_property
    def spacing(self) -> float:
        """From string to string; above the first there is room for a bend of a whole step and its name."""
        room = self.height - self._reasons - _PICKS_HEIGHT - self.written - _OVER_BENDS
        return room / (len(self.tuning) + 2 * SEMITONE_SHARE)

    @cached_property
    def first_string(self) -> float:
        """Height of the thinnest string."""
        return self.written + _OVER_BENDS + (2 * SEMITONE_SHARE + 0.15) * self.spacing

    @property
    def semitone(self) -> float:
        """Pixels that a semitone leaves the string."""
        return self.spacing * SEMITONE_SHARE

    @property
    def picks(self) -> float:
        """Middle of the row of picking strokes."""
        return self.height - self._reasons + 3

    @property
    def chords(self) -> float:
        """Top of the chord cells."""
        return self.height - self._reasons + 16

    @property
    def intervals(self) -> float:
        """Base line of the intervals."""
        return self.height - self._reasons + 61

    @property
    def sources(self) -> float:
        """Top of the source brackets."""
        return self.height - self._reasons + 73

    @property
    def _reasons(self) -> float:
        """Height of the reason strip."""
        return _REASONS_HEIGHT - (0.0 if self.has_sentence else _SENTENCE_HEIGHT)

    @property
    def has_sentence(self) -> bool:
        """Whether there is room for the sentence at the foot."""
        return self.height >= _SENTENCE_FROM

    @property
    def sentence(self) -> float:
        """Base line of the sentence at the foot."""
        return self.height - 10

    @property
    def picture(self) -> QRectF:
        """Where the sound is pictured: behind the tab, from the written values to the picking strokes."""
        top = self.written + 12
        return QRectF(MARGIN_LEFT, top, self.right - MARGIN_LEFT, self.picks - 12 - top)

    def string_y(self, string: int) -> float:
        """Height of a string's line."""
        return self.first_string + self.spacing * (string - 1)

    def string_at(self, y: float) -> int:
        """The string nearest a height."""
        return min(range(1, len(self.tuning) + 1), key=lambda s: abs(self.string_y(s) - y))

    def line_of(self, note: Note) -> int:
        """The string a note is drawn on; one without a place keeps near where it could be played."""
        if note.string is not None:
            return note.string
        return min(range(1, len(self.tuning) + 1), key=lambda s: abs(note.pitch - self.tuning[s - 1] - 7))

    def plate(self, note: Note) -> QRectF:
        """The plate of a note's fret number."""
        text = plate_text(note)
        digits = sum(each.isdigit() for each in text)
        width = 15.0 + 9.0 * max(digits - 1, 0) + 4.0 * (len(text) - max(digits, 1))
        return QRectF(self.x_of(note.onset) - width / 2, self.string_y(self.line_of(note)) - 10.5, width, 21)

    def shows(self, note: Note) -> bool:
        """Whether any of a note is in sight."""
        return note.end > self.start and note.onset < self.end

    def is_on(self, note: Note, point: QPointF) -> bool:
        """Whether a point is on a note's plate or ribbon."""
        left, right = self.x_of(note.onset), self.x_of(note.end) + _GRAB_PX
        near = abs(point.y() - self.string_y(self.line_of(note))) < 9
        return self.plate(note).contains(point) or (left <= point.x() <= right and near)
