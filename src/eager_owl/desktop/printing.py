"""The sheet to the printer, and the desk as a picture."""

from pathlib import Path

from PySide6.QtCore import QMarginsF, QPoint, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPixmap
from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QWidget

from eager_owl.desktop.sheet_painter import paint_page
from eager_owl.session.sheets import Sheet

_SHARPER = 2.0  # than the screen


def print_sheet(sheet: Sheet, printer: QPrinter) -> None:
    """Draw all pages, or those that were asked for, each as large as the printer's paper lets it be."""
    first = printer.fromPage() or 1
    last = printer.toPage() or len(sheet.pages)
    with QPainter(printer) as painter:
        for number, page in enumerate(sheet.pages[first - 1 : last]):
            if number:
                printer.newPage()
            room = printer.paperRect(QPrinter.Unit.DevicePixel)
            scale = min(room.width() / page.width, room.height() / page.height)
            painter.save()
            offset = printer.pageRect(QPrinter.Unit.DevicePixel).topLeft()
            painter.translate(-offset)
            painter.scale(scale, scale)
            paint_page(painter, page)
            painter.restore()


def preview_sheet(sheet: Sheet, window: QWidget) -> None:
    """The toolkit's preview, from which it is printed."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(sheet.title)
    if sheet.pages:
        page = sheet.pages[0]
        size = QPageSize(QSizeF(min(page.width, page.height), max(page.width, page.height)), QPageSize.Unit.Point)
        turned = page.width > page.height
        orientation = QPageLayout.Orientation.Landscape if turned else QPageLayout.Orientation.Portrait
        printer.setPageLayout(QPageLayout(size, orientation, QMarginsF(0, 0, 0, 0)))
    dialog = QPrintPreviewDialog(printer, window)
    dialog.setWindowTitle(f"Print “{sheet.title}”")
    dialog.paintRequested.connect(lambda on: print_sheet(sheet, on))
    dialog.resize(900, 760)
    dialog.exec()


def write_picture(widget: QWidget, path: Path) -> bool:
    """A widget as it stands, as PNG at twice the screen's sharpness, or SVG; answers whether it was written."""
    if path.suffix.lower() == ".svg":
        generator = QSvgGenerator()
        generator.setFileName(str(path))
        generator.setSize(QSize(widget.width(), widget.height()))
        generator.setViewBox(QRectF(widget.rect()))
        painter = QPainter()
        if not painter.begin(generator):
            return False
        widget.render(painter, QPoint())
        painter.end()
        return path.is_file()
    if path.suffix.lower() != ".png":
        return False
    picture = QPixmap(widget.size() * _SHARPER)
    picture.setDevicePixelRatio(_SHARPER)
    picture.fill(Qt.GlobalColor.white)
    widget.render(picture)
    return picture.save(str(path), "PNG")
