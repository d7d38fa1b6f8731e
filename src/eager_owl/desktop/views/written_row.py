"""The row of written values over the tab: stems, beams, dots, ties, rests and triplets, on the beats as played."""

from collections.abc import Sequence
from itertools import groupby, pairwise

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPen

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import Theme, color, text_font
from eager_owl.desktop.views.desk_layout import MARGIN_LEFT, DeskLayout
from eager_owl.rhythm.values import played_beat
from eager_owl.session.answers import Event, Score

_UP_PX, _DOWN_PX = 6, 9  # a stem over and under the middle of the row
_BEAM_PX, _FLAG_PX = 5, 6
_STEM, _BEAM = 1.5, 3.0
_GRACE_PX = 8  # left of what the grace leads into
_EDGE_PX = 6  # a rest further out than this stands beside the tab, and is not drawn


class WrittenRow:
    """Paints what a score writes in one layout and theme."""

    def __init__(self, score: Score, layout: DeskLayout, theme: Theme) -> None:
        self.score, self.layout, self.theme = score, layout, theme
        self._top, self._bottom = layout.written - _UP_PX, layout.written + _DOWN_PX

    def paint(self, painter: QPainter, left_s: float, right_s: float) -> None:
        """The row between two times."""
        grid = self.score.grid
        for measure in self.score.measures:
            if grid.time_of(measure.start + grid.beats_per_bar) < left_s or grid.time_of(measure.start) > right_s:
                continue
            for voice in measure.voices:
                for _, beat in groupby(voice, key=lambda event: event.beat // 1):
                    self._paint_beat(painter, list(beat))
                self._paint_ties(painter, voice)

    def _x(self, event: Event) -> float:
        return self._x_at(float(event.beat))

    def _x_at(self, beat: float) -> float:
        return self.layout.x_of(self.score.grid.time_of(played_beat(beat, self.score.grid)))

    def _paint_beat(self, painter: QPainter, events: Sequence[Event]) -> None:
        painter.setPen(QPen(color(self.theme.ink), _STEM))
        for event in events:
            if event.notes:
                self._paint_stem(painter, event)
            elif not event.bar_rest and MARGIN_LEFT - _EDGE_PX <= self._x(event) <= self.layout.right + _EDGE_PX:
                self._paint_rest(painter, event)
        beamed = [event for event in events if event.notes and event.value.denominator >= 8]
        self._paint_beams(painter, beamed)
        triplets = [event for event in events if event.value.triplet]
        if triplets:
            middle = (self._x(triplets[0]) + self._x(triplets[-1])) / 2
            painter.setPen(color(self.theme.ink))
            painter.setFont(text_font(themes.SMALL, italic=True))
            painter.drawText(QPointF(middle - 3, self._top - 3), "3")

    def _paint_stem(self, painter: QPainter, event: Event) -> None:
        x = self._x(event)
        if event.graces:  # a small struck-through stem before it
            at = x - _GRACE_PX
            painter.drawLine(QPointF(at, self._top + 5), QPointF(at, self._bottom))
            painter.drawLine(QPointF(at - 4, self._top + 12), QPointF(at + 4, self._top + 6))
        if event.value.denominator > 1:
            painter.drawLine(QPointF(x, self._top), QPointF(x, self._bottom))
        if event.value.denominator <= 2:
            painter.setBrush(color(self.theme.paper))
            painter.drawEllipse(QPointF(x - 3, self._bottom), 4, 3)
        for dot in range(event.value.dots):
            painter.drawPoint(QPointF(x + 4 + 4 * dot, self._bottom))

    def _paint_rest(self, painter: QPainter, event: Event) -> None:
        """A block for a beat and more; a hook a halving for less."""
        x, middle = self._x(event), self.layout.written + 2
        painter.setPen(QPen(color(self.theme.quiet), _STEM))
        if event.value.denominator <= 4:
            painter.fillRect(QRectF(x - 4, middle - 2, 8, 4), color(self.theme.quiet))
            return
        painter.drawLine(QPointF(x + 3, middle - 5), QPointF(x - 1, middle + 6))
        for hook in range(event.value.denominator.bit_length() - 3):
            painter.drawLine(QPointF(x - 3, middle - 5 + 4 * hook), QPointF(x + 3 - hook, middle - 5 + 4 * hook))

    def _paint_ties(self, painter: QPainter, voice: Sequence[Event]) -> None:
        painter.setPen(QPen(color(self.theme.ink), _STEM))
        for event in voice:
            if event.tied_on:
                left, right = self._x(event), self._x_at(float(event.end))
                painter.drawArc(QRectF(left, self._bottom - 3, right - left, 7), 180 * 16, 180 * 16)

    def _paint_beams(self, painter: QPainter, beamed: Sequence[Event]) -> None:
        """One beam for an eighth, two for a sixteenth; flags on one that stands alone."""
        if len(beamed) == 1:
            x = self._x(beamed[0])
            for level in range(_beams(beamed[0])):
                y = self._top + _BEAM_PX * level
                painter.drawLine(QPointF(x, y), QPointF(x + _FLAG_PX, y + _FLAG_PX - 1))
            return
        painter.setPen(QPen(color(self.theme.ink), _BEAM))
        for event, following in pairwise(beamed):
            left, right = self._x(event), self._x(following)
            for level in range(max(_beams(event), _beams(following))):
                y = self._top + _BEAM_PX * level
                # A beam that only one of the two has is a stub on its side.
                start = left if _beams(event) > level else max(left, right - _FLAG_PX)
                end = right if _beams(following) > level else min(right, left + _FLAG_PX)
                painter.drawLine(QPointF(start, y), QPointF(end, y))


def _beams(event: Event) -> int:
    return max(event.value.denominator.bit_length() - 3, 0)
