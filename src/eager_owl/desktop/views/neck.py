"""The neck: frets at their true spacing, the phrase as a path in playing order, the hand as a window."""

from collections.abc import Sequence
from itertools import pairwise

from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import color, head_font, text_font, worn
from eager_owl.session import editing
from eager_owl.session.neck_maps import NeckMap
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.placing import (
    Stand,
    box_near,
    other_places,
    position_name,
    price_words,
    shape_under,
    tell_hand,
    whole_words,
)
from eager_owl.session.session import Session
from eager_owl.solo.document import INLAID_FRETS, Instrument, Note, fret_mm
from eager_owl.theory.pitch import pitch_class_name, pretty

_MARGIN_NAMES, _MARGIN_END = 40, 16
_LOW_PX = 175  # a lower neck has less over its strings and under them
_NAME_PX = 14
_NUT_PX = 30  # room for open strings
_FEWEST_FRETS = 8
_A_POSITION = 30  # a map of more spots goes over the whole neck
_LARGE_PX = 330  # from this height on everything is drawn larger, and the key's box is shown


class Neck(QWidget):
    """Draws the phrase on the neck; a click selects a note, a drag moves it to another string."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._story = tell_hand((), Instrument())
        self._frets = (0, 12)
        self._map: NeckMap | None = None
        self._map_words = ""
        self._dragged: tuple[Note, QPointF] | None = None
        session.maps.changed.connect(self.refresh)
        self.setMinimumSize(400, 140)
        self.setAccessibleName("Neck")

    def sizeHint(self) -> QSize:
        return QSize(930, 190)

    @property
    def _open(self) -> OpenSolo | None:
        return self._session.opened

    def refresh(self) -> None:
        """Paint anew after any change."""
        if self._open is not None:
            # Hands of different phrases are not one hand: of the whole recording none is told.
            self._story = tell_hand(() if self._of_the_whole else self._shown, self._open.solo.instrument)
            self._map, self._map_words = self._session.maps.look()
            self._frets = self._find_range()
            self.setAccessibleDescription(self._heading())
        self.update()

    @property
    def _of_the_whole(self) -> bool:
        return self._open is not None and self._open.phrase is None

    @property
    def _moved(self) -> bool:
        """Whether what is looked at is the phrase elsewhere, at other pitches: then its own path is not drawn."""
        assert self._open is not None
        own = {note.id: note.pitch for note in self._open.notes}
        return any(own.get(note.id) != note.pitch for note in self._open.view.tried)

    @property
    def _shown(self) -> Sequence[Note]:
        """The notes whose hand is told: the phrase's, or those of the phrase elsewhere."""
        assert self._open is not None
        return self._open.view.tried if self._moved else self._open.notes

    # Geometry

    def _find_range(self) -> tuple[int, int]:
        """First and last fret in sight: those of the phrase and of what is tried, with some room."""
        assert self._open is not None
        shown = [*self._open.notes, *self._open.view.tried]
        frets = [n.fret for n in shown if n.fret is not None]
        if self._map is not None and len(self._map.spots) < _A_POSITION:
            frets += [fret for _, fret in self._map.spots]
        if not frets:
            return 0, 12
        low, high = max(min(frets) - 2, 0), max(frets) + 2
        while high - low < (_FEWEST_FRETS if self.height() < _LARGE_PX else _FEWEST_FRETS + 4):
            low, high = max(low - 1, 0), high + 1
        return low, min(high, self._open.solo.instrument.frets)

    @property
    def _left_handed(self) -> bool:
        return self._open is not None and self._open.solo.instrument.left_handed

    def fret_x(self, fret: float) -> float:
        """Pixels from the left of a fret wire, at true spacing; of a left-handed neck the nut is on the right."""
        assert self._open is not None
        scale = self._open.solo.instrument.scale_mm
        low, high = self._frets
        first, last = fret_mm(max(low - 1, 0) if low else 0, scale), fret_mm(high, scale)
        share = (fret_mm(fret, scale) - first) / (last - first)
        nut = _NUT_PX if low == 0 else 0
        along = _MARGIN_NAMES + nut + share * (self.width() - _MARGIN_NAMES - _MARGIN_END - nut)
        return self.width() - along if self._left_handed else along

    @property
    def _top(self) -> int:
        return 44 if self.height() >= _LOW_PX else 34

    @property
    def _board_height(self) -> int:
        return self.height() - self._top - (42 if self.height() >= _LOW_PX else 30)

    def _string_y(self, string: int) -> float:
        assert self._open is not None
        strings = len(self._open.solo.instrument.tuning)
        return self._top + self._board_height * (string - 0.5) / strings

    def spot(self, string: int, fret: int) -> QRectF:
        """The square of a finger at a string and fret: just behind the wire, or beyond the nut for an open string."""
        behind = 14 if self._left_handed else -14
        if fret == 0:
            x = self.fret_x(0) + behind
        else:
            x = self.fret_x(fret) + 0.42 * (self.fret_x(fret - 1) - self.fret_x(fret))
        strings = len(self._open.solo.instrument.tuning) if self._open else 6
        side = min(34.0, self._board_height / strings - 1)
        return QRectF(x - side / 2, self._string_y(string) - side / 2, side, side)

    # Words

    def _stand(self) -> Stand | None:
        """The hand's stand at the selected note, else the first."""
        assert self._open is not None
        chosen = self._open.view.selection[:1]
        stands = self._story.stands
        return next(
            (stand for stand in stands if chosen and chosen[0] in stand.note_ids), stands[0] if stands else None
        )

    def _title(self) -> str:
        stand = self._stand()
        return position_name(stand.position) if stand else "The neck"

    def _heading(self) -> str:
        assert self._open is not None
        if self._of_the_whole:
            return whole_words(self._open.solo)
        if not self._story.stands and not self._story.opens:
            return "the phrase's notes show here once they are placed"
        parts = []
        if (stand := self._stand()) is not None:
            index = self._story.stands.index(stand)
            here, before = (
                [note for note in self._shown if any(note.id in near.note_ids for near in stands)]
                for stands in (self._story.stands[index : index + 1], self._story.stands[:index][-1:])
            )
            if shape := shape_under(self._open.solo, here, before):
                parts.append(shape)
        if self._map_words:
            parts.insert(0, f"map: {self._map_words}")
        parts.append(price_words(self._story))
        return pretty(" · ".join(parts))

    # Painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._open is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(color(worn().rule), 1))
            painter.setBrush(color(worn().paper))
            painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 7, 7)
            painter.setFont(head_font())
            painter.setPen(color(worn().ink))
            title = self._title()
            painter.drawText(QPointF(12, 24), title)
            width = painter.fontMetrics().horizontalAdvance(title)
            painter.setFont(text_font(themes.SMALL))
            painter.setPen(color(worn().quiet))
            room = self.width() - width - 50
            words = painter.fontMetrics().elidedText(self._heading(), Qt.TextElideMode.ElideRight, room)
            painter.drawText(QPointF(28 + width, 24), words)
            self._paint_board(painter)
            self._paint_box(painter)
            self._paint_window(painter)
            tried = self._open.view.tried
            if tried:
                self._paint_tried(painter, tried)
            if not self._moved:
                self._paint_path(painter)
            if self._dragged is not None:
                self._paint_dragged(painter)

    def _paint_board(self, painter: QPainter) -> None:
        assert self._open is not None
        instrument = self._open.solo.instrument
        low, high = self._frets
        top, bottom = self._string_y(1), self._string_y(len(instrument.tuning))
        for fret in range(max(low - 1, 0), high + 1):
            x = self.fret_x(fret)
            heavy = fret == 0 or fret == instrument.capo
            painter.setPen(QPen(color(worn().ink if heavy else worn().string), 4 if heavy else 1.4))
            painter.drawLine(QPointF(x, top - 7), QPointF(x, bottom + 7))
            if fret < max(low, 1):
                continue
            middle = (self.fret_x(fret - 1) + x) / 2
            painter.setFont(text_font(themes.SMALL))
            painter.setPen(color(worn().quiet))
            foot = self.height() - (24 if self.height() >= _LOW_PX else 19)
            painter.drawText(QRectF(middle - 20, foot, 40, 18), Qt.AlignmentFlag.AlignCenter, str(fret))
            if fret in INLAID_FRETS:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(color(worn().cell))
                for y in [(top + bottom) / 2] if fret % 12 else [top + (bottom - top) * s for s in (0.3, 0.7)]:
                    painter.drawEllipse(QPointF(middle, y), 5, 5)
        nut, end = self.fret_x(max(low - 1, 0)), self.fret_x(high)
        for string, pitch in enumerate(instrument.tuning, 1):
            y = self._string_y(string)
            painter.setPen(QPen(color(worn().string), 0.8 + 0.2 * string))
            painter.drawLine(QPointF(nut, y), QPointF(end, y))
            if string % 2 == 0 and self._string_y(2) - self._string_y(1) < _NAME_PX:
                continue  # the names would run into each other
            painter.setPen(color(worn().quiet))
            painter.setFont(text_font(themes.SMALL))
            names_x = self.width() - 30 if self._left_handed else 14
            painter.drawText(QPointF(names_x, y + 5), pretty(pitch_class_name(pitch)))

    def _paint_box(self, painter: QPainter) -> None:
        """The map that is looked at, with its degrees; or where there is room the spots of the key's pentatonic box

        under the hand. Roots are rings.
        """
        assert self._open is not None
        if self._map is not None:
            self._paint_map(painter, self._map)
            return
        stand = self._stand()
        if self.height() < _LARGE_PX or stand is None:
            return
        for (string, fret), root in box_near(self._open.solo, stand.position):
            centre = self.spot(string, fret).center()
            painter.setPen(QPen(color(worn().string), 2) if root else Qt.PenStyle.NoPen)
            painter.setBrush(Qt.BrushStyle.NoBrush if root else color(worn().string))
            painter.drawEllipse(centre, 7 if root else 4, 7 if root else 4)

    def _paint_map(self, painter: QPainter, laid: NeckMap) -> None:
        """Every spot of a map in sight as a disc with its degree, the root's with a ring around it."""
        low, high = self._frets
        painter.setFont(text_font(themes.SMALL))
        for (string, fret), label in laid.spots.items():
            if not low <= fret <= high:
                continue
            spot = self.spot(string, fret)
            radius = min(spot.width() / 2, 12.0)
            painter.setPen(QPen(color(worn().ink), 2.4) if label == "R" else QPen(color(worn().string), 1))
            painter.setBrush(color(worn().cell))
            painter.drawEllipse(spot.center(), radius, radius)
            painter.setPen(color(worn().ink))
            painter.drawText(spot, Qt.AlignmentFlag.AlignCenter, pretty(label))

    def _paint_window(self, painter: QPainter) -> None:
        """The hand's four frets, and how far two fingers lie apart in it."""
        stand = self._stand()
        if stand is None:
            return
        assert self._open is not None
        strings = len(self._open.solo.instrument.tuning)
        near, far = self.fret_x(stand.position - 1), self.fret_x(stand.position + 3)
        left, right = min(near, far), max(near, far)
        box = QRectF(left, self._string_y(1) - 13, right - left, self._string_y(strings) - self._string_y(1) + 26)
        wash = color(worn().pinned)
        wash.setAlpha(26)
        painter.setPen(QPen(color(worn().pinned), 2))
        painter.setBrush(wash)
        painter.drawRoundedRect(box, 6, 6)
        members = [n for n in self._shown if n.id in stand.note_ids and n.fret and n.string]
        if not stand.reach.mm or not members:
            return
        low, high = (pick(members, key=lambda n: n.fret or 0) for pick in (min, max))
        ends = [self.spot(n.string or 1, n.fret or 0).center().x() for n in (low, high)]
        y = box.bottom() + 1
        words = f"{stand.reach.mm:.0f} mm"
        painter.setFont(text_font(themes.SMALL, bold=True))
        width = painter.fontMetrics().horizontalAdvance(words) + 10
        painter.setPen(QPen(color(worn().pinned), 1.6))
        painter.drawLine(QPointF(ends[0], y), QPointF(ends[1], y))
        for x in ends:
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        plate = QRectF((ends[0] + ends[1] - width) / 2, y - 9, width, 18)
        painter.fillRect(plate, color(worn().paper))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_tried(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """Another fingering behind the phrase's own: dashed, with its fingers small."""
        placed = [n for n in notes if n.string is not None and n.fret is not None]
        pen = QPen(color(worn().pinned), 1.6, Qt.PenStyle.DashLine)
        painter.setPen(pen)
        centres = [self.spot(n.string or 1, n.fret or 0).center() for n in placed]
        painter.drawLines([QLineF(a, b) for a, b in pairwise(centres)])
        painter.setFont(text_font(themes.SMALL))
        for note in placed:
            box = self.spot(note.string or 1, note.fret or 0).adjusted(-2, -2, 2, 2)
            painter.setPen(pen)
            painter.setBrush(color(worn().pinned_wash))
            painter.drawRoundedRect(box, 6, 6)
            painter.setPen(color(worn().ink))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, _finger_text(note))

    def _paint_path(self, painter: QPainter) -> None:
        assert self._open is not None
        notes = [n for n in self._open.notes if n.string is not None and n.fret is not None]
        selected = set(self._open.view.selection)
        chosen = next((n for n in notes if n.id in selected), None)
        path_color = color(worn().here)
        path_color.setAlpha(150)
        painter.setPen(QPen(path_color, 1.4))
        ways = set(pairwise((n.string or 1, n.fret or 0) for n in notes))
        centres = {place: self.spot(*place).center() for way in ways for place in way}
        painter.drawLines([QLineF(centres[a], centres[b]) for a, b in ways])
        if chosen is not None:
            painter.setPen(QPen(color(worn().quiet), 1.4, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for string, fret in self._other_places(chosen):
                painter.drawRect(self.spot(string, fret))
        spots: dict[tuple[int, int], list[tuple[int, Note]]] = {}
        for order, note in enumerate(notes, 1):
            spots.setdefault((note.string or 0, note.fret or 0), []).append((order, note))
        for (string, fret), visits in spots.items():
            self._paint_spot(painter, self.spot(string, fret), visits, selected)

    def _other_places(self, note: Note) -> list[tuple[int, int]]:
        """The places in sight that sound a note's pitch, but its own."""
        assert self._open is not None
        low, high = self._frets
        return [(string, fret) for string, fret in other_places(self._open.solo, note) if low <= fret <= high]

    def _paint_spot(self, painter: QPainter, box: QRectF, visits: list[tuple[int, Note]], selected: set[int]) -> None:
        here = [note for _, note in visits if note.id in selected]
        painter.setPen(QPen(color(worn().here if here else worn().ink), 2 if here else 1.4))
        painter.setBrush(color(worn().here_wash if here else worn().paper))
        painter.drawRect(box)
        note = (here or [visits[0][1]])[0]
        large = self.height() >= _LARGE_PX
        painter.setFont(text_font(themes.TITLE if large else themes.TEXT, bold=True))
        painter.setPen(color(worn().ink))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, _finger_text(note))
        if any(n.pins & {"place", "finger"} for _, n in visits):
            painter.fillRect(QRectF(box.center().x() - 6, box.bottom() + 1, 12, 3), color(worn().pinned))
        if self._of_the_whole:
            return  # the whole solo is too much to number
        orders = ",".join(str(order) for order, _ in visits[:3]) + ("…" if len(visits) > 3 else "")
        painter.setFont(text_font(themes.SMALL))
        width = painter.fontMetrics().horizontalAdvance(orders) + 4
        plate = QRectF(box.right() + 2, box.center().y() - 15, width, 14)
        painter.fillRect(plate, color(worn().paper))
        painter.setPen(color(worn().quiet))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, orders)

    def _paint_dragged(self, painter: QPainter) -> None:
        assert self._dragged is not None
        note, point = self._dragged
        painter.setPen(QPen(color(worn().here), 2))
        painter.setBrush(color(worn().here_wash))
        if (place := self._place_at(note, point)) is not None:
            painter.drawRect(self.spot(*place))
        painter.drawEllipse(point, 8, 8)

    # The mouse

    def _place_at(self, note: Note, point: QPointF) -> tuple[int, int] | None:
        """The place for a note's pitch on the string under a point, if that string has it."""
        assert self._open is not None
        strings = range(1, len(self._open.solo.instrument.tuning) + 1)
        string = min(strings, key=lambda s: abs(self._string_y(s) - point.y()))
        fret = self._open.solo.instrument.fret_for(note, string)
        return None if fret is None else (string, fret)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._open is None:
            return
        point = event.position()
        for note in self._open.notes:
            if note.string and note.fret is not None and self.spot(note.string, note.fret).contains(point):
                self._dragged = note, point
                editing.click_note(self._session, note.id)
                return
        for note in self._open.selected[:1]:
            for string, fret in self._other_places(note):
                if self.spot(string, fret).contains(point):
                    editing.set_string(self._session, note.id, string)
                    return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None:
            self._dragged = self._dragged[0], event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragged is None:
            return
        note, self._dragged = self._dragged[0], None
        place = self._place_at(note, event.position())
        if place is not None and place[0] != note.string:
            editing.set_string(self._session, note.id, place[0])
        self.update()


def _finger_text(note: Note) -> str:
    return "o" if note.finger == 0 else str(note.finger or "?")
