"""The picture of the sound behind the tab: time across, pitch up, darker where louder; the heard line over it."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import Theme, color, text_font
from eager_owl.desktop.views.desk_layout import DeskLayout
from eager_owl.solo.document import CONTOUR_HOP_S, Note
from eager_owl.theory.pitch import pitch_name

if TYPE_CHECKING:
    from eager_owl.session.sound_shown import SoundPicture

# The loudest is so much of the way from paper to ink, so that what is written over it can be read.
_DARKEST = 0.62
_OCTAVE = 12
_UNDER, _OVER = 7, 20  # semitones shown under the lowest note and over the highest: its third harmonic, and more


class SoundPainter:
    """Paints one picture in one layout and theme."""

    def __init__(self, picture: "SoundPicture", notes: Sequence[Note], layout: DeskLayout, theme: Theme) -> None:
        """The pitches around those of `notes` are shown, or all where there are none yet."""
        self._picture, self._layout, self._theme = picture, layout, theme
        self._lowest, self._highest = picture.lowest, picture.highest
        if notes:
            self._lowest = max(self._lowest, min(note.pitch for note in notes) - _UNDER)
            self._highest = min(self._highest, max(note.pitch for note in notes) + _OVER)

    def y_of(self, midi: float) -> float:
        """Height of a pitch."""
        box = self._layout.picture
        return box.bottom() - (midi - self._lowest) / (self._highest - self._lowest) * box.height()

    def paint(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """The levels, a rule for each octave with its name, and the line that was heard of each note."""
        painter.save()
        painter.setClipRect(self._layout.picture, Qt.ClipOperation.IntersectClip)
        self._paint_levels(painter)
        self._paint_octaves(painter)
        for note in notes:
            self._paint_line(painter, note)
        painter.restore()

    def _paint_levels(self, painter: QPainter) -> None:
        rows = self._picture.levels.T[::-1].copy()  # the highest pitch on top
        height, width = rows.shape
        image = QImage(rows.data, width, height, width, QImage.Format.Format_Indexed8)
        paper, ink = color(self._theme.paper), color(self._theme.ink)
        image.setColorTable([_between(paper, ink, _DARKEST * level / 255).rgb() for level in range(256)])
        left, right = (self._layout.x_of(t) for t in (self._picture.start, self._picture.end))
        top, bottom = self.y_of(self._picture.highest), self.y_of(self._picture.lowest)
        # A frame is centred on its time.
        half = self._picture.hop_s / 2 * self._layout.pixels_a_second
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(left - half, top, right - left, bottom - top), image)

    def _paint_octaves(self, painter: QPainter) -> None:
        box = self._layout.picture
        painter.setFont(text_font(themes.SMALL))
        for midi in range(_OCTAVE, int(self._highest), _OCTAVE):
            y = self.y_of(midi)
            if not box.top() + 8 < y < box.bottom() - 8:
                continue
            painter.setPen(QPen(color(self._theme.quiet), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QLineF(box.left(), y, box.right(), y))
            plate = QRectF(box.right() - 24, y - 8, 24, 16)
            painter.fillRect(plate, color(self._theme.paper))
            painter.setPen(color(self._theme.quiet))
            painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, pitch_name(midi))

    def _paint_line(self, painter: QPainter, note: Note) -> None:
        if not note.contour_cents:
            return
        points = [
            QPointF(self._layout.x_of(note.onset + i * CONTOUR_HOP_S), self.y_of(note.pitch + cents / 100))
            for i, cents in enumerate(note.contour_cents)
        ]
        # Light under dark, so that it is told from the picture without colour.
        for shade, width in ((self._theme.paper, 5.0), (self._theme.here, 2.0)):
            painter.setPen(QPen(color(shade), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawPolyline(QPolygonF(points))
        painter.drawLine(points[0] - QPointF(0, 5), points[0] + QPointF(0, 5))  # where it begins


def _between(a: QColor, b: QColor, share: float) -> QColor:
    """A colour part of the way from one to another."""
    pairs = ((a.red(), b.red()), (a.green(), b.green()), (a.blue(), b.blue()))
    return QColor(*(round(x + share * (y - x)) for x, y in pairs))
