"""Laid-out pages as files: PDF with its text as text, SVG with style sheets that hold its typefaces."""

import base64
import io
import os
import sys
from collections.abc import Sequence
from functools import lru_cache

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRectF, QSize, QSizeF
from PySide6.QtGui import QGuiApplication, QPageLayout, QPageSize, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

from eager_owl import ASSETS
from eager_owl.desktop.sheet_painter import MUSIC, Typeface, font_of, paint_page, pieces_of, text_width
from eager_owl.desktop.theme import load_fonts
from eager_owl.session.sheets import Page, Sheet, Widths, Words, items_of

_DOTS_PER_INCH, _POINTS_PER_INCH = 1200, 72


class Drawing:
    """Draws sheets into files, on any thread; it is made on the toolkit's own, where typefaces are loaded."""

    def __init__(self) -> None:
        font_of(MUSIC)

    @property
    def widths(self) -> Widths:
        """What measures a text in a face, in points."""
        return text_width

    def pdf(self, sheet: Sheet) -> bytes:
        """All pages, each on a sheet of paper of its size."""
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        writer = QPdfWriter(buffer)
        writer.setResolution(_DOTS_PER_INCH)
        writer.setTitle(sheet.title)
        writer.setAuthor(sheet.author)
        writer.setCreator("Eager Owl")
        writer.setPageMargins(QMarginsF(0, 0, 0, 0))
        writer.setPageLayout(_paper(sheet.pages[0]))
        with QPainter(writer) as painter:
            for number, page in enumerate(sheet.pages):
                if number:
                    writer.setPageLayout(_paper(page))
                    writer.newPage()
                painter.save()
                painter.scale(_DOTS_PER_INCH / _POINTS_PER_INCH, _DOTS_PER_INCH / _POINTS_PER_INCH)
                paint_page(painter, page)
                painter.restore()
        return bytes(buffer.data().data())

    def svg(self, sheet: Sheet) -> str:
        """The first page, its typefaces left to a style sheet."""
        page = sheet.pages[0]
        content = QByteArray()
        buffer = QBuffer(content)
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        generator = QSvgGenerator()
        generator.setOutputDevice(buffer)
        generator.setResolution(_POINTS_PER_INCH)
        generator.setSize(QSize(round(page.width), round(page.height)))
        generator.setViewBox(QRectF(0, 0, page.width, page.height))
        generator.setTitle(sheet.title)
        with QPainter(generator) as painter:
            painter.fillRect(QRectF(0, 0, page.width, page.height), "#ffffff")
            paint_page(painter, page)
        return bytes(content.data()).decode()

    def typefaces(self, sheets: Sequence[Sheet]) -> str:
        """A style sheet with the typefaces of these sheets' first pages in it, cut down to what is written there."""
        used: dict[Typeface, set[str]] = {}
        for sheet in sheets:
            for _, _, item in items_of(sheet.pages[0]):
                if isinstance(item, Words):
                    for typeface, piece in pieces_of(item.text, item.face):
                        used.setdefault(typeface, set()).update(piece)
        return "".join(_rule(typeface, frozenset(characters)) for typeface, characters in used.items())


def _paper(page: Page) -> QPageLayout:
    """A sheet of paper as large as a page, without margins of its own."""
    exact = QPageSize.SizeMatchPolicy.ExactMatch
    size = QPageSize(QSizeF(page.width, page.height), QPageSize.Unit.Point, matchPolicy=exact)
    return QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))


@lru_cache(maxsize=64)
def _rule(typeface: Typeface, characters: frozenset[str]) -> str:
    """A typeface's rule of a style sheet, with as much of its file as these characters need."""
    from fontTools import subset  # only where a picture is written

    options = subset.Options(layout_features=[], name_IDs=[0, 1, 2, 13, 14], notdef_outline=True, hinting=False)
    out = io.BytesIO()
    with subset.load_font(ASSETS / typeface.file, options) as font:
        subsetter = subset.Subsetter(options)
        subsetter.populate(text="".join(characters))
        subsetter.subset(font)
        font.save(out)
    kind = "opentype" if typeface.file.endswith(".otf") else "truetype"
    return (
        f'@font-face{{font-family:"{typeface.family}";font-weight:{typeface.weight};'
        f"font-style:{'italic' if typeface.italic else 'normal'};"
        f'src:url(data:font/{kind};base64,{base64.b64encode(out.getvalue()).decode()}) format("{kind}")}}'
    )


def drawing_without_window() -> Drawing:
    """A drawing for the command line: the toolkit is started without a screen if it is not running."""
    if QGuiApplication.instance() is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        drawing_without_window.app = QGuiApplication(sys.argv[:1])  # type: ignore[attr-defined] # it must live on
        load_fonts()
    return Drawing()
