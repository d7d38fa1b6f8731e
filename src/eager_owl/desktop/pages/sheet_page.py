"""The sheet on screen: pages or one roll, what is shown on them, and the ways it is handed on."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from eager_owl.desktop.pages.page import Page
from eager_owl.desktop.sheet_painter import PAPER, paint_page
from eager_owl.desktop.theme import DAY, color, worn
from eager_owl.desktop.widgets.fields import choices
from eager_owl.desktop.widgets.rows import Button
from eager_owl.session.editing import click_note
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.session.sheets import PAPERS, PRESETS, Sheet

_GAP_PX = 16
_ZOOMS = (0.5, 0.6, 0.75, 0.9, 1.0, 1.15, 1.35, 1.6, 2.0, 2.5)
_READABLE = 1.25  # pixels to the point, at which the page opens


class SheetPage(Page):
    """Pages one under another; a note that is clicked is the selected one, a double click shows it on the desk."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 8, 6, 8)
        layout.addLayout(self._bar())
        self.papers = Papers(self)
        self._area = QScrollArea()
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._area.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self._area.setWidget(self.papers)
        layout.addWidget(self._area, 1)
        self._zoom: float | None = None  # none: as wide as there is room for
        session.sheets.changed.connect(self.refresh)

    def _bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setSpacing(6)
        self.presets: dict[str, Button] = {}
        sheets = self.session.sheets
        for name, preset in PRESETS.items():
            button = Button(preset.words.removeprefix("page for ").removeprefix("the "))
            button.setCheckable(True)
            button.setProperty("close", True)
            button.setAccessibleName(preset.words)
            button.clicked.connect(lambda _=False, name=name: sheets.choose("preset", name))
            self.presets[name] = button
            bar.addWidget(button)
        bar.addSpacing(8)
        self.paper = choices("Paper")
        self.paper.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)  # the bar has room for the words
        sides = [f"{paper}{side}" for paper in PAPERS for side in ("", ", on its side")]
        self.paper.addItems([*sides, "one long roll"])
        self.paper.activated.connect(self._choose_paper)
        bar.addWidget(self.paper)
        self.one_phrase = Button("this phrase")
        self.one_phrase.setCheckable(True)
        self.one_phrase.setProperty("close", True)
        self.one_phrase.clicked.connect(lambda on: sheets.choose("one_phrase", on))
        bar.addWidget(self.one_phrase)
        bar.addStretch(1)
        for words, name in (("PDF", "pdf"), ("SVG", "svg"), ("Web page", "html")):
            button = Button(words)
            button.setProperty("close", True)
            button.clicked.connect(lambda _=False, name=name: sheets.export(name))
            bar.addWidget(button)
        self.print_button = Button("Print")
        self.print_button.setProperty("close", True)
        self.print_button.clicked.connect(lambda: self.session.run(self.session.commands["print_sheet"]))
        bar.addWidget(self.print_button)
        return bar

    def _choose_paper(self, index: int) -> None:
        names = list(PAPERS)
        sheets = self.session.sheets
        rolled = index == 2 * len(names)
        if not rolled:
            sheets.choose("paper", names[index // 2])
            sheets.choose("landscape", bool(index % 2))
        sheets.choose("rolled", rolled)

    def write(self, opened: OpenSolo) -> None:
        """Lay the sheet out, unless it is the one in sight."""
        sheets = self.session.sheets
        for name, button in self.presets.items():
            button.setChecked(name == sheets.preset.name)
        self.one_phrase.setChecked(sheets.one_phrase)
        paper = sheets.paper.name
        index = 2 * len(PAPERS) if sheets.rolled else 2 * list(PAPERS).index(paper) + sheets.landscape
        self.paper.setCurrentIndex(index)
        sheet = sheets.laid()
        self.papers.show_sheet(sheet, self._scale(sheet))

    def _scale(self, sheet: Sheet) -> float:
        """Pixels to the point: as wide as there is room for, unless looked at closer or from further away."""
        if self._zoom is not None:
            return self._zoom
        room = self._area.viewport().width() - 2 * _GAP_PX
        return max(0.5, min(room / sheet.pages[0].width, _READABLE))

    def zoom(self, by: int) -> bool:
        """Look closer or step back."""
        if self.papers.sheet is None:
            return True
        now = self._scale(self.papers.sheet)
        ordered = [z for z in _ZOOMS if (z > now + 0.01 if by > 0 else z < now - 0.01)]
        if ordered:
            self._zoom = ordered[0] if by > 0 else ordered[-1]
            self.refresh()
        return True

    def keep_in_sight(self, box: QRectF) -> None:
        """Scroll to a part of the pages."""
        centre = box.center().toPoint()
        self._area.ensureVisible(centre.x(), centre.y(), 60, 120)


class Papers(QWidget):
    """The pages, drawn as paper whatever the theme."""

    def __init__(self, page: SheetPage) -> None:
        super().__init__()
        self._page = page
        self._scale = 1.0
        self.sheet: Sheet | None = None
        self._selected: tuple[int, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("The sheet")
        self.setMouseTracking(True)

    def show_sheet(self, sheet: Sheet, scale: float) -> None:
        """Draw a sheet at so many pixels to the point; what is selected is brought in sight once it is another."""
        self.sheet, self._scale = sheet, scale
        width = max(page.width for page in sheet.pages)
        height = sum(page.height * scale + _GAP_PX for page in sheet.pages) + _GAP_PX
        self.setFixedSize(round(width * scale + 2 * _GAP_PX), round(height))
        self.update()
        selected = self._page.session.solo.view.selection
        if selected != self._selected and selected:
            for number, box in sheet.places_of(selected[0])[:1]:
                self._page.keep_in_sight(self.on_screen(number, box))
        self._selected = selected

    def _top(self, number: int) -> float:
        assert self.sheet is not None
        return _GAP_PX + sum(page.height * self._scale + _GAP_PX for page in self.sheet.pages[:number])

    def on_screen(self, number: int, box: tuple[float, float, float, float]) -> QRectF:
        """Where a part of a page is drawn."""
        left, top, right, bottom = (value * self._scale for value in box)
        return QRectF(_GAP_PX + left, self._top(number) + top, right - left, bottom - top)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.sheet is None:
            return
        with QPainter(self) as painter:
            exposed = QRectF(event.rect())
            marked = set(self._page.session.solo.view.selection)
            for number, page in enumerate(self.sheet.pages):
                top = self._top(number)
                ground = QRectF(_GAP_PX, top, page.width * self._scale, page.height * self._scale)
                if not ground.adjusted(-2, -2, 2, 2).intersects(exposed):
                    continue
                painter.fillRect(ground, color(PAPER))
                painter.setPen(QPen(color(worn().rule), 1))
                painter.drawRect(ground)
                for note in marked:
                    for _, box in (place for place in self.sheet.places_of(note) if place[0] == number):
                        painter.fillRect(self.on_screen(number, box).adjusted(-3, -2, 3, 2), color(DAY.here_wash))
                painter.save()
                painter.translate(_GAP_PX, top)
                painter.scale(self._scale, self._scale)
                top_pt, height_pt = (exposed.y() - top) / self._scale, exposed.height() / self._scale
                paint_page(painter, page, QRectF(0, top_pt, page.width, height_pt))
                painter.restore()

    def _note_at(self, point: QPointF) -> int | None:
        if self.sheet is None:
            return None
        for number, page in enumerate(self.sheet.pages):
            y = (point.y() - self._top(number)) / self._scale
            if 0 <= y <= page.height:
                return self.sheet.note_at(number, (point.x() - _GAP_PX) / self._scale, y)
        return None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self._note_at(event.position()) is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        note = self._note_at(event.position())
        if note is not None:
            session = self._page.session
            home = session.solo.solo.phrase_index_at(session.solo.solo.note(note).onset)
            if home != session.solo.view.phrase and not session.sheets.one_phrase:
                session.solo.look_at_phrase(home)
            click_note(session, note, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        note = self._note_at(event.position())
        if note is not None:
            self._page.session.show_notes((note,))
