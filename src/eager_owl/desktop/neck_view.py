"""The neck: frets at their true spacing, the phrase as a path in playing order, the hand as a window."""

from itertools import pairwise

from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.theme import Theme, color, head_font, text_font
from eager_owl.neck.fingering import candidates
from eager_owl.neck.hand import COMFORT_MM, fret_mm
from eager_owl.neck.story import HandStory, tell_hand
from eager_owl.solo.document import Note
from eager_owl.theory.pitch import pitch_class_name, pretty

_MARGIN_LEFT, _MARGIN_RIGHT, _TOP, _BOTTOM = 40, 16, 40, 32
_FEWEST_FRETS = 8
_DOTS = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24)


class NeckView(QWidget):
    """Draws the phrase on the neck; a click selects a note, or moves the selected one to another string."""

    note_clicked = Signal(int)
    string_chosen = Signal(int, int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self._open: OpenSolo | None = None
        self._frets = (0, 12)
        self.setMinimumSize(480, 140)
        self.setAccessibleName("Neck")

    def sizeHint(self) -> QSize:
        return QSize(930, 190)

    def show_solo(self, opened: OpenSolo) -> None:
        """Draw this solo."""
        self._open = opened
        self.refresh()

    def refresh(self) -> None:
        """Paint anew after any change."""
        self._frets = self._find_range()
        if self._open:
            self.setAccessibleDescription(self._heading(tell_hand(self._open.notes, self._open.solo.instrument)))
        self.update()

    # Geometry

    def _find_range(self) -> tuple[int, int]:
        """First and last fret in sight: those of the phrase, with some room."""
        if self._open is None:
            return 0, 12
        frets = [n.fret for n in self._open.notes if n.fret is not None]
        if not frets:
            return 0, 12
        low, high = max(min(frets) - 2, 0), max(frets) + 2
        while high - low < _FEWEST_FRETS:
            low, high = max(low - 1, 0), high + 1
        return low, min(high, self._open.solo.instrument.frets)

    def _fret_x(self, fret: float) -> float:
        """Pixels from the left of a fret wire, at true spacing."""
        assert self._open is not None
        scale = self._open.solo.instrument.scale_mm
        low, high = self._frets
        left, right = fret_mm(max(low - 1, 0) if low else 0, scale), fret_mm(high, scale)
        share = (fret_mm(fret, scale) - left) / (right - left)
        nut = 26 if low == 0 else 0  # room for open strings
        return _MARGIN_LEFT + nut + share * (self.width() - _MARGIN_LEFT - _MARGIN_RIGHT - nut)

    def _string_y(self, string: int) -> float:
        assert self._open is not None
        strings = len(self._open.solo.instrument.tuning)
        return _TOP + (self.height() - _TOP - _BOTTOM) * (string - 0.5) / strings

    def spot(self, string: int, fret: int) -> QRectF:
        """The square of a finger at a string and fret."""
        x = self._fret_x(0) - 14 if fret == 0 else (self._fret_x(fret - 1) + self._fret_x(fret)) / 2 + 4
        side = min(20.0, (self.height() - _TOP - _BOTTOM) / 6 - 1)
        return QRectF(x - side / 2, self._string_y(string) - side / 2, side, side)

    # Painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._open is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(color(self.theme.rule), 1))
        painter.setBrush(color(self.theme.paper))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 7, 7)
        story = tell_hand(self._open.notes, self._open.solo.instrument)
        painter.setFont(head_font())
        painter.setPen(color(self.theme.ink))
        title = self._title(story)
        painter.drawText(QPointF(12, 24), title)
        width = painter.fontMetrics().horizontalAdvance(title)
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(self.theme.quiet))
        room = self.width() - width - 50
        words = painter.fontMetrics().elidedText(self._heading(story), Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(28 + width, 24), words)
        self._paint_board(painter)
        self._paint_window(painter, story)
        self._paint_path(painter)

    def _title(self, story: HandStory) -> str:
        stand = self._stand(story)
        return f"Hand at {stand}" if stand else "The neck"

    def _stand(self, story: HandStory) -> int | None:
        assert self._open is not None
        chosen = self._open.view.selection[:1]
        for stand in story.stands:
            if not chosen or chosen[0] in stand.note_ids:
                return stand.position
        return story.stands[0].position if story.stands else None

    def _heading(self, story: HandStory) -> str:
        assert self._open is not None
        if not story.stands:
            return "the phrase's notes show here once they are placed"
        low, high = story.fingers
        parts = [f"{self._open.solo.placing_school.replace('-', ' ')}: "]
        parts.append("no shift" if story.shifts == 0 else f"{story.shifts} shift{'s' * (story.shifts > 1)}")
        if story.widest_mm:
            parts.append(f" · widest reach {story.widest_mm:.0f} mm, fingers {low} to {high} at fret {story.at_fret}")
        if story.widest_mm > COMFORT_MM:
            parts.append(" · a wide stretch: warm up, and stop if it hurts")
        return "".join(parts)

    def _paint_board(self, painter: QPainter) -> None:
        assert self._open is not None
        instrument = self._open.solo.instrument
        low, high = self._frets
        top, bottom = self._string_y(1), self._string_y(len(instrument.tuning))
        painter.setFont(text_font(themes.SMALL))
        for fret in range(max(low - 1, 0), high + 1):
            x = self._fret_x(fret)
            heavy = fret == 0 or fret == instrument.capo
            painter.setPen(QPen(color(self.theme.ink if heavy else self.theme.string), 4 if heavy else 1.4))
            painter.drawLine(QPointF(x, top - 7), QPointF(x, bottom + 7))
            if fret < max(low, 1):
                continue
            middle = (self._fret_x(fret - 1) + x) / 2
            painter.setPen(color(self.theme.quiet))
            painter.drawText(QRectF(middle - 16, bottom + 12, 40, 18), Qt.AlignmentFlag.AlignCenter, str(fret))
            if fret in _DOTS:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(color(self.theme.cell))
                for y in [(top + bottom) / 2] if fret % 12 else [top + (bottom - top) * s for s in (0.3, 0.7)]:
                    painter.drawEllipse(QPointF(middle + 4, y), 5, 5)
        for string, pitch in enumerate(instrument.tuning, 1):
            y = self._string_y(string)
            painter.setPen(QPen(color(self.theme.string), 0.8 + 0.2 * string))
            painter.drawLine(QPointF(_MARGIN_LEFT, y), QPointF(self.width() - _MARGIN_RIGHT, y))
            painter.setPen(color(self.theme.quiet))
            painter.setFont(text_font(themes.SMALL))
            painter.drawText(QPointF(14, y + 5), pretty(pitch_class_name(pitch)))

    def _paint_window(self, painter: QPainter, story: HandStory) -> None:
        stand = self._stand(story)
        if stand is None:
            return
        assert self._open is not None
        strings = len(self._open.solo.instrument.tuning)
        left, right = self._fret_x(stand - 1), self._fret_x(stand + 3)
        box = QRectF(left, self._string_y(1) - 11, right - left, self._string_y(strings) - self._string_y(1) + 22)
        wash = color(self.theme.pinned)
        wash.setAlpha(26)
        painter.setPen(QPen(color(self.theme.pinned), 2))
        painter.setBrush(wash)
        painter.drawRoundedRect(box, 6, 6)

    def _paint_path(self, painter: QPainter) -> None:
        assert self._open is not None
        notes = [n for n in self._open.notes if n.string is not None and n.fret is not None]
        selected = set(self._open.view.selection)
        chosen = next((n for n in notes if n.id in selected), None)
        path_color = color(self.theme.here)
        path_color.setAlpha(150)
        painter.setPen(QPen(path_color, 1.4))
        ways = set(pairwise((n.string or 1, n.fret or 0) for n in notes))
        centres = {place: self.spot(*place).center() for way in ways for place in way}
        painter.drawLines([QLineF(centres[a], centres[b]) for a, b in ways])
        if chosen is not None:
            painter.setPen(QPen(color(self.theme.quiet), 1.4, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            low, high = self._frets
            for string, fret in candidates(chosen.pitch, self._open.solo.instrument):
                if low <= fret <= high and (string, fret) != (chosen.string, chosen.fret):
                    painter.drawRect(self.spot(string, fret))
        spots: dict[tuple[int, int], list[tuple[int, Note]]] = {}
        for order, note in enumerate(notes, 1):
            spots.setdefault((note.string or 0, note.fret or 0), []).append((order, note))
        for (string, fret), visits in spots.items():
            self._paint_spot(painter, self.spot(string, fret), visits, selected)

    def _paint_spot(self, painter: QPainter, box: QRectF, visits: list[tuple[int, Note]], selected: set[int]) -> None:
        here = [note for _, note in visits if note.id in selected]
        painter.setPen(QPen(color(self.theme.here if here else self.theme.ink), 2 if here else 1.4))
        painter.setBrush(color(self.theme.here_wash if here else self.theme.paper))
        painter.drawRect(box)
        note = (here or [visits[0][1]])[0]
        painter.setFont(text_font(themes.TEXT, bold=True))
        painter.setPen(color(self.theme.ink))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "o" if note.finger == 0 else str(note.finger or "?"))
        if any(n.pins & {"place", "finger"} for _, n in visits):
            painter.fillRect(QRectF(box.center().x() - 6, box.bottom() + 1, 12, 3), color(self.theme.pinned))
        if self._open and self._open.phrase is None:
            return  # the whole solo is too much to number
        orders = ",".join(str(order) for order, _ in visits[:3]) + ("…" if len(visits) > 3 else "")
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(self.theme.quiet))
        painter.drawText(QPointF(box.right() + 3, box.top() + 6), orders)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._open is None:
            return
        point = event.position()
        chosen = self._open.selected[:1]
        for note in self._open.notes:
            if note.string and note.fret is not None and self.spot(note.string, note.fret).contains(point):
                self.note_clicked.emit(note.id)
                return
        for note in chosen:
            for string, fret in candidates(note.pitch, self._open.solo.instrument):
                if self.spot(string, fret).contains(point):
                    self.string_chosen.emit(note.id, string)
                    return
