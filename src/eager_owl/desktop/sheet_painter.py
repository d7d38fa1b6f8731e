"""Draws laid-out pages with Qt: on screen, on a printer, into PDF, SVG and pictures alike."""

from functools import cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QFont, QFontMetricsF, QPainter, QPainterPath, QPen, QPolygonF, QRawFont

from eager_owl import ASSETS
from eager_owl.desktop.theme import DAY, color
from eager_owl.session.sheets import SIGNS, Curve, Face, Frame, Ink, Item, Line, Page, Shape, Sign, Words

PAPER = "#ffffff"
# Faces are measured and drawn at this size in pixels and scaled: a font's own size is a whole number of them.
_DRAWN_PX = 100
_SPACES_TO_EM = 4  # of a music typeface, by SMuFL


@cache
def font_of(face: Face) -> QFont:
    """A face at the size it is drawn at before it is scaled."""
    font = QFont("Vollkorn" if face.head else "Cabin")
    font.setPixelSize(_DRAWN_PX)
    font.setWeight(QFont.Weight.DemiBold if face.bold else QFont.Weight.Normal)
    font.setItalic(face.italic)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    font.setFeature(QFont.Tag("lnum"), 1)
    return font


@cache
def _metrics(face: Face) -> QFontMetricsF:
    return QFontMetricsF(font_of(face))


@cache
def text_width(text: str, face: Face) -> float:
    """The width of a text in points."""
    return _metrics(face).horizontalAdvance(text) * face.size / _DRAWN_PX


@cache
def _music() -> QRawFont:
    return QRawFont(str(ASSETS / "music" / "Bravura.otf"), _DRAWN_PX)


@cache
def _sign_path(name: str) -> QPainterPath:
    font = _music()
    return font.pathForGlyph(font.glyphIndexesForString(chr(SIGNS[name].code))[0])


def paint_page(painter: QPainter, page: Page, exposed: QRectF | None = None) -> None:
    """Draw a page, a point being a unit of the painter; only blocks that an exposed part touches, if one is given."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for x, y, block in page.blocks:
        if exposed is not None and not (y - 20 <= exposed.bottom() and y + block.height + 20 >= exposed.top()):
            continue
        painter.save()
        painter.translate(x, y)
        for item in block.items:
            paint_item(painter, item)
        painter.restore()


def _ink(ink: Ink) -> str:
    return PAPER if ink == "paper" else str(getattr(DAY, ink))


def paint_item(painter: QPainter, item: Item) -> None:
    """Draw one thing."""
    tint = color(_ink(item.ink))
    if isinstance(item, Words):
        painter.save()
        painter.setPen(tint)
        painter.setFont(font_of(item.face))
        painter.translate(item.x, item.y)
        painter.scale(item.face.size / _DRAWN_PX, item.face.size / _DRAWN_PX)
        painter.drawText(QPointF(0, 0), item.text)
        painter.restore()
    elif isinstance(item, Sign):
        painter.save()
        painter.translate(item.x, item.y)
        scale = item.space * _SPACES_TO_EM / _DRAWN_PX
        painter.scale(scale, scale)
        painter.fillPath(_sign_path(item.name), QBrush(tint))
        painter.restore()
    elif isinstance(item, Line):
        pen = QPen(tint, item.width)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        if item.dash:
            pen.setDashPattern([item.dash / item.width, item.dash / item.width])
        painter.setPen(pen)
        painter.drawLine(QPointF(*item.start), QPointF(*item.end))
    elif isinstance(item, Curve):
        _paint_curve(painter, item)
    elif isinstance(item, Shape):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(tint)
        painter.drawPolygon(QPolygonF([QPointF(*point) for point in item.points]))
    else:
        _paint_frame(painter, item)


def _paint_curve(painter: QPainter, item: Curve) -> None:
    start, first, second, end = (QPointF(*point) for point in item.points)
    path = QPainterPath(start)
    path.cubicTo(first, second, end)
    if item.swells:
        back = QPointF(0, item.width if item.points[1][1] < item.points[0][1] else -item.width)
        path.cubicTo(second + back, first + back, start)
        painter.fillPath(path, QBrush(color(_ink(item.ink))))
        return
    painter.strokePath(path, QPen(color(_ink(item.ink)), item.width))


def _paint_frame(painter: QPainter, item: Frame) -> None:
    left, top, right, bottom = item.box
    box = QRectF(left, top, right - left, bottom - top)
    if item.filled:
        painter.fillRect(box, color(_ink(item.ink)))
        return
    painter.setPen(QPen(color(_ink(item.ink)), 0.7))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(box, item.round, item.round)
