"""Draws laid-out pages with Qt: on screen, on a printer, into PDF, SVG and pictures alike."""

import re
from dataclasses import dataclass
from functools import cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QFont,
    QFontDatabase,
    QFontMetricsF,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QRawFont,
)

from eager_owl import ASSETS
from eager_owl.desktop.theme import DAY, color
from eager_owl.session.sheets import SIGNS, Curve, Face, Frame, Ink, Item, Line, Page, Shape, Sign, Wave, Words

PAPER = "#ffffff"
# Faces are measured and drawn at this size in pixels and scaled: a font's own size is a whole number of them.
_DRAWN_PX = 100
_SPACES_TO_EM = 4  # of a music typeface, by SMuFL
# Its accidentals among letters are larger than it has them, and stand higher.
_MUSIC_TEXT_PX, _RAISED_PX = 118, 17


# Characters that a face leaves to another, in which they are text too: accidentals and notes to the music typeface,
# an arrow and, in headings, numerals that stand on the line.
_MUSIC_TEXT, _ARROWS = "♭♯♮♩", "→"
_PIECES = re.compile(f"[{_MUSIC_TEXT}]+|[{_ARROWS}]+|\\d+|[^{_MUSIC_TEXT}{_ARROWS}\\d]+")


@dataclass(frozen=True)
class Typeface:
    """One shipped typeface: its family, weight and slope as a style sheet says them, and its file."""

    family: str
    weight: int
    italic: bool
    file: str


PLAIN = Typeface("Cabin", 400, False, "fonts/Cabin-Regular.otf")
STRONG = Typeface("Cabin", 600, False, "fonts/Cabin-SemiBold.otf")
SLANTED = Typeface("Cabin", 400, True, "fonts/Cabin-Italic.otf")
HEAD = Typeface("Vollkorn", 600, False, "fonts/Vollkorn-SemiBold.ttf")
ARROW = Typeface("Vollkorn", 400, False, "fonts/Vollkorn-Regular.ttf")
MUSIC = Typeface("Bravura", 400, False, "music/Bravura.otf")


@cache
def pieces_of(text: str, face: Face) -> tuple[tuple[Typeface, str], ...]:
    """A text in pieces, each with the typeface that it is drawn in."""
    own = HEAD if face.head else SLANTED if face.italic else STRONG if face.bold else PLAIN
    found = []
    for piece in _PIECES.findall(text):
        if piece[0] in _MUSIC_TEXT:
            found.append((MUSIC, piece))
        elif piece[0] in _ARROWS:
            found.append((ARROW, piece))
        else:
            found.append((STRONG if face.head and piece[0].isdigit() else own, piece))
    return tuple(found)


@cache
def font_of(typeface: Typeface) -> QFont:
    """A typeface at the size it is drawn at before it is scaled."""
    if typeface is MUSIC:
        QFontDatabase.addApplicationFont(str(ASSETS / MUSIC.file))
    font = QFont(typeface.family)
    font.setPixelSize(_MUSIC_TEXT_PX if typeface is MUSIC else _DRAWN_PX)
    font.setWeight(QFont.Weight(typeface.weight))
    font.setItalic(typeface.italic)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return font


@cache
def _metrics(typeface: Typeface) -> QFontMetricsF:
    return QFontMetricsF(font_of(typeface))


@cache
def _piece_width(typeface: Typeface, text: str) -> float:
    """In pixels, at the size it is drawn at."""
    return _metrics(typeface).horizontalAdvance(text)


@cache
def text_width(text: str, face: Face) -> float:
    """The width of a text in points."""
    drawn = sum(_piece_width(typeface, piece) for typeface, piece in pieces_of(text, face))
    return drawn * face.size / _DRAWN_PX


@cache
def _music() -> QRawFont:
    return QRawFont(str(ASSETS / MUSIC.file), _DRAWN_PX)


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
        painter.translate(item.x, item.y)
        painter.scale(item.face.size / _DRAWN_PX, item.face.size / _DRAWN_PX)
        at = 0.0
        for typeface, piece in pieces_of(item.text, item.face):
            painter.setFont(font_of(typeface))
            painter.drawText(QPointF(at, -_RAISED_PX if typeface is MUSIC else 0), piece)
            at += _piece_width(typeface, piece)
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
    elif isinstance(item, Wave):
        _paint_wave(painter, item)
    else:
        _paint_frame(painter, item)


def _paint_wave(painter: QPainter, item: Wave) -> None:
    path = QPainterPath(QPointF(item.left, item.y))
    swings = max(1, round((item.right - item.left) / item.length))
    length = (item.right - item.left) / swings
    for swing in range(swings):
        start = item.left + swing * length
        path.quadTo(QPointF(start + length / 4, item.y - 2 * item.depth), QPointF(start + length / 2, item.y))
        path.quadTo(QPointF(start + 3 * length / 4, item.y + 2 * item.depth), QPointF(start + length, item.y))
    painter.strokePath(path, QPen(color(_ink(item.ink)), 0.9))


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
