"""The desk: the measured tab as a widget, with its mouse.

The picture is kept in a pixmap. It is painted anew when the document, the view or the size changes, and only
around the notes an edit touched until the edit has settled; selection, cursor and drags are drawn over it.
"""

from collections.abc import Callable, Collection

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import color, text_font, worn
from eager_owl.desktop.views.desk_layout import MARGIN_LEFT, DeskLayout
from eager_owl.desktop.views.desk_painter import DeskPainter
from eager_owl.desktop.views.note_painter import paint_remark
from eager_owl.desktop.widgets.rows import claims_key
from eager_owl.desktop.words import technique_name
from eager_owl.session import editing
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.document import Note

_EDGE_S = 0.12  # of recording shown to either side of a phrase
# Looked at so many times closer, as long as there are so many seconds left to see; the first ones always.
_ZOOMS = tuple(2.0**octave * half for octave in range(11) for half in (1.0, 1.5))
_CLOSEST_S, _ALWAYS = 4.0, 7
_GRAB_PX, _DRAG_PX = 6, 6
_AROUND_PX = 24  # painted anew to either side of an edited note


_DIGITS = [Qt.Key(Qt.Key.Key_0 + digit) for digit in range(10)]
# What keys do while notes are written by hand.
_WRITES: dict[int, Callable[[Session], object]] = {
    Qt.Key.Key_Up: lambda s: s.writing.move_string(-1),
    Qt.Key.Key_Down: lambda s: s.writing.move_string(1),
    Qt.Key.Key_Right: lambda s: s.writing.step(1),
    Qt.Key.Key_Return: lambda s: s.writing.step(1),
    Qt.Key.Key_Enter: lambda s: s.writing.step(1),
    Qt.Key.Key_Left: lambda s: s.writing.step(-1),
    Qt.Key.Key_Comma: lambda s: s.writing.value(-1),
    Qt.Key.Key_Period: lambda s: s.writing.value(1),
    Qt.Key.Key_Backspace: lambda s: s.writing.erase(),
    Qt.Key.Key_Delete: lambda s: s.writing.erase(),
    Qt.Key.Key_Escape: lambda s: s.writing.stop(),
}
_TYPED = (*_DIGITS, *(Qt.Key(key) for key in _WRITES))


def _is_typed(event: QKeyEvent) -> bool:
    """Whether a key is typing's own: plain, or of the number pad."""
    plain = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier == Qt.KeyboardModifier.NoModifier
    return plain and event.key() in _TYPED


class Desk(QWidget):
    """The measured tab of the phrase, or the whole recording."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._painter: DeskPainter | None = None
        self._picture: QPixmap | None = None
        self._zooms = {"phrase": 0, "whole": 0}
        self._drag: tuple[str, int] | None = None
        self._drag_from = QPointF()
        self._drag_now = QPointF()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(400, 300)
        self.setMouseTracking(True)
        self.setAccessibleName("Measured tab")
        session.writing.changed.connect(self.show_selection)
        session.sound_shown.changed.connect(self.refresh)

    def sizeHint(self) -> QSize:
        return QSize(930, 405)

    @property
    def _open(self) -> OpenSolo | None:
        return self._session.opened

    def refresh(self) -> None:
        """Paint all anew."""
        self._picture = None
        if self._open:
            self._painter = self._make_painter(self._open, self._make_layout(self._open))
        self.show_selection()

    def show_selection(self) -> None:
        """Paint the selection and the cursor anew over the picture."""
        if self._open:
            self.setAccessibleDescription(self._spoken(self._open))
        self.update()

    def refresh_notes(self, notes: Collection[Note]) -> None:
        """Paint anew around these notes, as they were and as they are; the rest follows when the edit settles."""
        if self._picture is None or self._open is None or self._open.phrase is None or not notes:
            self.refresh()
            return
        self._painter = self._make_painter(self._open, self.desk_layout)
        left = min(self.desk_layout.x_of(note.onset) for note in notes) - _AROUND_PX
        right = max(self.desk_layout.x_of(note.end) for note in notes) + _AROUND_PX
        with QPainter(self._picture) as brush:
            brush.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._painter.paint_stretch(brush, left, right)
        self.show_selection()

    def zoom(self, by: int) -> None:
        """Look closer or step back."""
        if self._open:
            self._zooms[self._looked_at] = min(max(self._zoom + by, 0), self._closest)
            self.refresh()

    @property
    def _looked_at(self) -> str:
        return "whole" if self._open is None or self._open.phrase is None else "phrase"

    @property
    def _zoom(self) -> int:
        """Which of the zooms, for what is on the desk now."""
        return min(self._zooms[self._looked_at], self._closest) if self._open else 0

    @property
    def _closest(self) -> int:
        """The last of the zooms that what is on the desk is worth."""
        start, end = self._stretch
        return max(_ALWAYS, sum((end - start) / zoom >= _CLOSEST_S for zoom in _ZOOMS)) - 1

    @property
    def _stretch(self) -> tuple[float, float]:
        """What is on the desk, from end to end."""
        assert self._open is not None
        phrase = self._open.phrase
        if phrase is None:
            return 0.0, max(self._open.duration_s, 1.0)
        return phrase.start - _EDGE_S, phrase.end + _EDGE_S

    def show_cursor(self) -> None:
        """Draw the cursor where it is now; looked at closely, the picture follows it."""
        if self._open and self._zoom and not self.desk_layout.start <= self._open.view.cursor <= self.desk_layout.end:
            self.refresh()
        self.update()

    @property
    def desk_layout(self) -> DeskLayout:
        """Where everything stands now."""
        assert self._painter is not None
        return self._painter.layout

    def _make_painter(self, opened: OpenSolo, layout: DeskLayout) -> DeskPainter:
        shown = self._session.sound_shown
        picture = shown.picture(layout.start, layout.end) if opened.phrase is not None else None
        return DeskPainter(opened, layout, worn(), picture)

    def _make_layout(self, opened: OpenSolo) -> DeskLayout:
        start, end = self._stretch
        if self._zoom:
            length = (end - start) / _ZOOMS[self._zoom]
            middle = min(max(opened.view.cursor, start + length / 2), end - length / 2)
            start, end = middle - length / 2, middle + length / 2
        return DeskLayout(self.width(), self.height(), start, end, opened.solo.instrument.tuning)

    def _spoken(self, opened: OpenSolo) -> str:
        chosen = opened.selected
        if len(chosen) == 1:
            note = chosen[0]
            return f"string {note.string}, fret {note.fret}, " + ", ".join(map(technique_name, note.techniques))
        return f"{len(opened.notes)} notes, {len(chosen)} selected"

    # Painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._open is None or self._painter is None:
            return
        if self._picture is None:
            self._picture = QPixmap(self.size() * self.devicePixelRatioF())
            self._picture.setDevicePixelRatio(self.devicePixelRatioF())
            with QPainter(self._picture) as brush:
                brush.setRenderHint(QPainter.RenderHint.Antialiasing)
                self._painter.paint(brush)
        with QPainter(self) as painter:
            painter.drawPixmap(0, 0, self._picture)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self._open.phrase is not None:
                self._painter.notes.paint_selection(painter)
                if self._open.view.voice != "recording":
                    self._painter.notes.paint_transcribed(painter)
            self._paint_span(painter, self._open)
            self._paint_remarked(painter, self._open)
            self._paint_taps(painter, self._open)
            self._paint_cursor(painter, self._open)
            self._paint_writing(painter, self._open)
            self._paint_drag(painter, self._open)

    def _paint_span(self, painter: QPainter, opened: OpenSolo) -> None:
        if opened.view.span is None:
            return
        edges = [self.desk_layout.x_of(t) for t in opened.view.span]
        left, right = (min(max(x, MARGIN_LEFT - 1), self.desk_layout.right + 1) for x in edges)
        box = QRectF(left, 4, right - left, self.desk_layout.chords - 14)
        wash = color(worn().here)
        wash.setAlpha(36)
        painter.fillRect(box, wash)
        painter.setPen(QPen(color(worn().here), 2))
        for edge, shown in zip(edges, (left, right), strict=True):
            if edge == shown:
                painter.drawLine(QPointF(edge, box.top()), QPointF(edge, box.bottom()))

    def _paint_remarked(self, painter: QPainter, opened: OpenSolo) -> None:
        """A line over each stretch that is remarked on, with the folded corner of a remark."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        wave = self.desk_layout.wave
        for remark in opened.solo.remarks:
            if remark.span is None:
                continue
            left, right = (min(max(self.desk_layout.x_of(t), wave.left()), wave.right()) for t in remark.span)
            if right - left > 1:
                painter.setPen(QPen(color(worn().here), 1.5, Qt.PenStyle.DotLine))
                painter.drawLine(QPointF(left, wave.top() - 2), QPointF(right, wave.top() - 2))
                paint_remark(painter, QPointF(right, wave.top() - 2), worn())

    def _paint_taps(self, painter: QPainter, opened: OpenSolo) -> None:
        """A peg under the waveform for each tap."""
        painter.setPen(QPen(color(worn().pinned), 2))
        painter.setBrush(color(worn().pinned))
        wave = self.desk_layout.wave
        for tap in opened.view.taps:
            x = self.desk_layout.x_of(tap)
            if wave.left() <= x <= wave.right():
                painter.drawLine(QPointF(x, wave.top()), QPointF(x, wave.bottom()))
                painter.drawRect(QRectF(x - 3, wave.bottom() - 3, 6, 6))

    def _paint_cursor(self, painter: QPainter, opened: OpenSolo) -> None:
        x = self.desk_layout.x_of(opened.view.cursor)
        if MARGIN_LEFT - 1 <= x <= self.width():
            painter.setPen(QPen(color(worn().here), 2))
            painter.drawLine(QPointF(x, 6), QPointF(x, self.desk_layout.chords - 8))

    def _paint_writing(self, painter: QPainter, opened: OpenSolo) -> None:
        """Where the next note is typed, and what of."""
        writing = self._session.writing
        if not writing.on or opened.phrase is None:
            return
        x, y = self.desk_layout.x_of(opened.view.cursor), self.desk_layout.string_y(writing.string)
        painter.setPen(QPen(color(worn().here), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(x - 11, y - 12, 22, 24), 4, 4)
        painter.setFont(text_font(themes.SMALL))
        box = QRectF(self.desk_layout.wave.left(), self.desk_layout.string_y(len(self.desk_layout.tuning)) + 8, 0, 20)
        box.setRight(self.desk_layout.right)
        words = f"writing: {writing.value_words}    , .  value    ↑ ↓  string    →  on    Esc  ends"
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)

    def event(self, event: QEvent) -> bool:
        if self._session.writing.on and isinstance(event, QKeyEvent) and _is_typed(event):
            return claims_key(event, _TYPED) or super().event(event)
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not (self._session.writing.on and _is_typed(event)):
            super().keyPressEvent(event)
        elif event.key() in _DIGITS:
            self._session.writing.digit(event.key() - Qt.Key.Key_0)
        else:
            _WRITES[event.key()](self._session)

    def _paint_drag(self, painter: QPainter, opened: OpenSolo) -> None:
        if self._drag is None:
            return
        kind, note_id = self._drag
        painter.setPen(QPen(color(worn().here), 2, Qt.PenStyle.DashLine))
        if kind == "beat":
            x = self._drag_now.x()
            painter.drawLine(QPointF(x, 6), QPointF(x, self.desk_layout.chords - 8))
        if kind in ("onset", "end"):
            y = self.desk_layout.string_y(self.desk_layout.line_of(opened.solo.note(note_id)))
            painter.drawLine(QPointF(self._drag_now.x(), y - 18), QPointF(self._drag_now.x(), y + 18))
        elif kind == "string":
            plate = self.desk_layout.plate(opened.solo.note(note_id))
            y = self.desk_layout.string_y(self.desk_layout.string_at(self._drag_now.y()))
            plate.moveCenter(QPointF(plate.center().x(), y))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(plate, 4, 4)

    # The mouse

    def _note_at(self, point: QPointF) -> Note | None:
        """The note whose plate or ribbon is under a point."""
        if self._open is None or self._open.phrase is None:
            return None
        return next((n for n in reversed(self._open.notes) if self.desk_layout.is_on(n, point)), None)

    def _beat_at(self, point: QPointF) -> int | None:
        """The beat whose line a point over the waveform's upper edge takes hold of."""
        grid = self._open.solo.grid if self._open is not None else None
        if grid is None or self._open is None or self._open.phrase is None or point.y() > self.desk_layout.wave.top():
            return None
        beat = round(grid.beat_at(self.desk_layout.time_at(point.x())))
        return beat if abs(self.desk_layout.x_of(grid.time_of(beat)) - point.x()) <= _GRAB_PX else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._open is None or event.button() != Qt.MouseButton.LeftButton:
            return
        point = event.position()
        self._drag_from = self._drag_now = point
        note = self._note_at(point)
        if note is None:
            beat = self._beat_at(point)
            self._drag = ("span", 0) if beat is None else ("beat", beat)
            return
        more = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if self.desk_layout.plate(note).contains(point):
            self._drag = ("plate", note.id)
        elif abs(point.x() - self.desk_layout.x_of(note.end)) <= _GRAB_PX:
            self._drag = ("end", note.id)
        else:
            self._drag = ("none", note.id)
        editing.click_note(self._session, note.id, more)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._open is None:
            return
        self._drag_now = event.position()
        if self._drag is None:
            note = self._note_at(event.position())
            if note is None and self._beat_at(event.position()) is not None:
                self.setCursor(Qt.CursorShape.SizeHorCursor)
                return
            near_end = note is not None and abs(event.position().x() - self.desk_layout.x_of(note.end)) <= _GRAB_PX
            self.setCursor(Qt.CursorShape.SizeHorCursor if near_end else Qt.CursorShape.ArrowCursor)
            return
        kind, note_id = self._drag
        moved = self._drag_now - self._drag_from
        if kind == "plate" and moved.manhattanLength() > _DRAG_PX:
            # A plate goes sideways in time or up and down over the strings, whichever it is pulled first.
            self._drag = ("onset" if abs(moved.x()) > abs(moved.y()) else "string", note_id)
        elif kind == "span" and abs(moved.x()) > _DRAG_PX:
            times = sorted(self.desk_layout.time_at(p.x()) for p in (self._drag_from, self._drag_now))
            self._open.set_span((max(times[0], 0.0), min(times[1], self._open.duration_s or times[1])))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._open is None or self._drag is None:
            return
        (kind, note_id), self._drag = self._drag, None
        moved, time_s = event.position() - self._drag_from, self.desk_layout.time_at(event.position().x())
        if kind == "span" and abs(moved.x()) <= _DRAG_PX:
            self._open.set_span(None)
            self._open.move_cursor(time_s)
        elif kind == "beat":
            if abs(moved.x()) > 1:
                editing.move_beat(self._session, note_id, time_s)
        elif kind == "onset":
            editing.set_timing(self._session, note_id, time_s, self._open.solo.note(note_id).end)
        elif kind == "end" and abs(moved.x()) > 3:
            editing.set_timing(self._session, note_id, self._open.solo.note(note_id).onset, time_s)
        elif kind == "string":
            editing.set_string(self._session, note_id, self.desk_layout.string_at(event.position().y()))
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1 if event.angleDelta().y() > 0 else -1)
        else:
            event.ignore()

    def resizeEvent(self, _event: QResizeEvent) -> None:
        self.refresh()
