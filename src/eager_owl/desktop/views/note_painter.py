"""The notes on the desk: ribbons that leave their string as the pitch leaves the fret, plates, signs, names."""

from collections.abc import Sequence
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import Theme, color, text_font
from eager_owl.desktop.views.desk_layout import MARGIN_LEFT, DeskLayout
from eager_owl.desktop.words import mark_text, plate_text, technique_name, technique_words
from eager_owl.session.explaining import interval_text
from eager_owl.session.facts import is_doubtful
from eager_owl.session.open_solo import OpenSolo
from eager_owl.solo.document import CONTOUR_HOP_S, Note
from eager_owl.solo.techniques import LEGATO, TECHNIQUES, TechniqueName

_DRAWN_AS_SIGNS = (*LEGATO, "ghost", "harmonic")
_SPANS: tuple[TechniqueName, ...] = ("palm_mute", "let_ring")  # ways of playing a stretch, named once over it
_BEND_RULES = ((50, "¼"), (100, "½"), (200, "1"), (300, "1½"))  # cents, and how the step is called
_SIZED_PX = 70  # a shorter bend has no room for its size
_CLEAR_OF_STRING_PX = 9
_NEAR_S = 1.5
_NEXT_RUN_S = 1.0  # a voice that has rested so long is named again
_OTHER_WORDS = "another voice   Alt V"
_TRANSCRIBED_LEAVES = 4.0  # semitones: a slide's way from another fret is not drawn further


def _stretches(notes: Sequence[Note]) -> list[tuple[TechniqueName, list[Note]]]:
    """Notes in a row with a technique that lasts."""
    found = []
    for name in _SPANS:
        run: list[Note] = []
        for note in notes:
            if note.technique(name) is None:
                run = []
                continue
            if not run:
                found.append((name, run))
            run.append(note)
    return found


def paint_remark(painter: QPainter, corner: QPointF, theme: Theme) -> None:
    """A folded corner: something is remarked here."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color(theme.here))
    painter.drawPolygon(QPolygonF([corner, corner + QPointF(-8, 0), corner + QPointF(0, 8)]))


class NotePainter:
    """Paints the notes of one solo in one layout and theme."""

    def __init__(self, opened: OpenSolo, layout: DeskLayout, theme: Theme) -> None:
        self.opened, self.layout, self.theme = opened, layout, theme
        self._named: dict[int, QRectF] = {}  # where the picture names a note
        self._loudest = max((note.loudness_db for note in opened.notes), default=0.0)

    def paint(self, painter: QPainter, notes: Sequence[Note], ribbons: bool = True) -> None:
        """The notes; without `ribbons` where their lines are told by the picture of the sound."""
        for note in notes if ribbons else ():
            self._paint_ribbon(painter, note, here=False)
        for note in notes:
            self._paint_plate(painter, note, here=False)
        self._paint_names(painter, notes)

    def paint_others(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """What another voice played: hollow, on the strings nearest to where it could be played, and named."""
        names: list[tuple[float, float]] = []
        named_until = -1.0
        painter.setPen(QPen(color(self.theme.quiet), 1.2, Qt.PenStyle.DashLine))
        painter.setBrush(color(self.theme.paper))
        for note in notes:
            y = self.layout.string_y(self.layout.line_of(note))
            left, right = self.layout.x_of(note.onset), min(self.layout.x_of(note.end), self.layout.right)
            painter.drawRoundedRect(QRectF(left, y - 5, max(right - left, 6.0), 10), 5, 5)
            if note.onset > named_until:
                names.append((left, y))
            named_until = note.end + _NEXT_RUN_S
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(self.theme.quiet))
        for left, y in names:
            plate = QRectF(left, y + 8, painter.fontMetrics().horizontalAdvance(_OTHER_WORDS) + 6, 16)
            plate.moveRight(min(plate.right(), self.layout.right))
            painter.fillRect(plate, color(self.theme.paper))
            painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, _OTHER_WORDS)

    def _paint_ribbon(self, painter: QPainter, note: Note, here: bool) -> None:
        """To the note's end, as thick as it is loud, off the line as far as the pitch leaves the fret."""
        base, semitone = self.layout.string_y(self.layout.line_of(note)), self.layout.semitone
        contour = note.contour_cents or (0, 0)
        level = note.level_db or tuple([round(note.loudness_db)] * len(contour))
        step_s = CONTOUR_HOP_S if note.contour_cents else note.duration
        a_pixel = max(1, int((self.layout.time_at(1) - self.layout.time_at(0)) * 1.5 / CONTOUR_HOP_S))
        upper, lower = [], []
        for i in [*range(0, len(contour) - 1, a_pixel), len(contour) - 1]:
            x = min(self.layout.x_of(note.onset + i * step_s), self.layout.right)  # a phrase may end before it
            y = base - semitone * contour[i] / 100
            half = 0.7 + 3.6 * max(0.0, 1 + (level[min(i, len(level) - 1)] - self._loudest) / 34)
            upper.append(QPointF(x, y - half))
            lower.append(QPointF(x, y + half))
        tint = color(self.theme.here if here else self.theme.ribbon)
        highest = max(contour)
        if note.bend and highest >= 35:
            self._paint_bend_rules(painter, note, base, semitone, highest)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(tint)
        painter.drawPolygon(QPolygonF(upper + lower[::-1]))

    def paint_transcribed(self, painter: QPainter) -> None:
        """The pitch that the transcription sounds at, dashed over the ribbons."""
        semitone = self.layout.semitone
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(color(self.theme.ink), 1.6, Qt.PenStyle.DashLine))
        for note in self.opened.notes:
            base, contour = self.layout.string_y(self.layout.line_of(note)), self.opened.answers.contours[note.id]
            points = [
                QPointF(self.layout.x_of(note.onset + i * CONTOUR_HOP_S), base - semitone * float(above))
                for i, above in enumerate(contour)
                if abs(above) < _TRANSCRIBED_LEAVES
            ]
            painter.drawPolyline(QPolygonF(points))
        painter.setFont(text_font(themes.SMALL, italic=True))
        box = QRectF(self.layout.wave.left(), self.layout.string_y(len(self.layout.tuning)) + 8, 0, 20)
        box.setRight(self.layout.right)
        words = "dashed: how the tab would sound"
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_bend_rules(self, painter: QPainter, note: Note, base: float, semitone: float, highest: int) -> None:
        """Faint rules at a quarter, half and whole step; the nearest one's size stands in it, clear of the ribbon."""
        painter.setFont(text_font(themes.SMALL))
        left, right = self.layout.x_of(note.onset) + 12, self.layout.x_of(note.end) - 2
        reached = [(cents, words) for cents, words in _BEND_RULES if cents <= highest + 30]
        for cents, words in reached:
            y = base - semitone * cents / 100
            painter.setPen(QPen(color(self.theme.string), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            at = self._size_x(note, left, right)
            if (cents, words) == reached[-1] and at is not None and base - y > _CLEAR_OF_STRING_PX:
                plate = QRectF(at, y - 7, painter.fontMetrics().horizontalAdvance(words) + 4, 14)
                painter.fillRect(plate, color(self.theme.paper))
                painter.setPen(color(self.theme.quiet))
                painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)

    def _size_x(self, note: Note, left: float, right: float) -> float | None:
        """Where a bend's ribbon is not at its rule: before it rises, or after it is let down."""
        assert note.bend is not None
        if right - left < _SIZED_PX:
            return None
        if not note.bend.kind.struck_bent:
            return left
        return right - 16 if note.bend.kind.released else None

    def _paint_plate(self, painter: QPainter, note: Note, here: bool) -> None:
        plate = self.layout.plate(note)
        doubtful = is_doubtful(note)
        outline = QPen(Qt.PenStyle.NoPen)
        if here:
            outline = QPen(color(self.theme.here), 2)
        elif doubtful:
            outline = QPen(color(self.theme.ink), 1.5, Qt.PenStyle.DashLine)
        painter.setPen(outline)
        painter.setBrush(color(self.theme.here_wash if here else self.theme.paper))
        painter.drawRoundedRect(plate, 4, 4)
        if here and doubtful:
            painter.setPen(QPen(color(self.theme.ink), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(plate.adjusted(-3, -3, 3, 3), 6, 6)
        painter.setFont(text_font(themes.NUMERAL, bold=True))
        painter.setPen(color(self.theme.here if here else self.theme.ink))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, plate_text(note))
        if note.pins:
            bar = QRectF(plate.center().x() - 6, plate.bottom() + 1.5, 12, 3)
            painter.fillRect(bar, color(self.theme.pinned))
        if note.remarks:
            paint_remark(painter, plate.topRight(), self.theme)

    def _paint_names(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """Signs over arrivals, and techniques in words where there is room."""
        taken = [self.layout.plate(note) for note in notes]
        for before, note in pairwise(notes):
            if sign := mark_text(note):
                taken.append(self._paint_arrival(painter, before, note, sign))
        painter.setPen(color(self.theme.quiet))
        painter.setFont(text_font(themes.SMALL))
        taken += self._paint_spans(painter, notes)
        for note in notes:
            named = [t for t in note.techniques if t.name not in (*_DRAWN_AS_SIGNS, *_SPANS)]
            words = ", ".join(technique_name(t) for t in named)
            boxes = self._name_boxes(note, words) if words else []
            box = next((b for b in boxes if not any(b.intersects(other) for other in taken)), None)
            if box is not None:
                taken.append(box)
                self._named[note.id] = box
                painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_spans(self, painter: QPainter, notes: Sequence[Note]) -> list[QRectF]:
        """What lasts over several notes: named over the first, a rule to the last; returns the ground it takes."""
        ground = []
        for name, stretch in _stretches(notes):
            kind, metrics = TECHNIQUES[name], painter.fontMetrics()
            left, right = self.layout.plate(stretch[0]).left(), self.layout.plate(stretch[-1]).right()
            fits = metrics.horizontalAdvance(kind.words) < right - left
            words = f"{kind.words if fits else kind.over} "
            width = metrics.horizontalAdvance(words)
            box = QRectF(left, self.layout.written + 14, max(right - left, width), 17)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)
            if right > left + width:
                y = box.center().y() + 1
                painter.setPen(QPen(color(self.theme.quiet), 1, Qt.PenStyle.DashLine))
                painter.drawLine(QPointF(left + width, y), QPointF(right, y))
                painter.setPen(color(self.theme.quiet))
                painter.drawLine(QPointF(right, y), QPointF(right, y + 6))
            ground.append(box)
        return ground

    def _name_boxes(self, note: Note, words: str) -> list[QRectF]:
        """Where a name may stand, best first: over the ribbon, under it, well over it.

        A bend's is clear of its rules and of their size: only over it.
        """
        width = QFontMetricsF(text_font(themes.SMALL, bold=True)).horizontalAdvance(words) + 4
        high = self.layout.string_y(self.layout.line_of(note))
        high -= self.layout.semitone * max((*note.contour_cents, 0)) / 100
        left = min(max(self.layout.x_of(note.onset) - 8, MARGIN_LEFT), self.layout.right - width)
        least = self.layout.written + 16
        heights = (high - 31, high - 48) if note.bend else (high - 28, high + 14, high - 46)
        return [QRectF(left, max(y, least), width, 17) for y in heights]

    def paint_selection(self, painter: QPainter) -> None:
        """The selected notes over the picture; a single one with its techniques and measurements in words."""
        chosen = [note for note in self.opened.selected if self.layout.shows(note)]
        for note in chosen:
            self._paint_ribbon(painter, note, here=True)
        ids = {note.id for note in chosen}
        for note, following in pairwise(self.opened.notes):
            if note.id in ids and following.id not in ids:
                self._paint_plate(painter, following, here=False)
        for note in chosen:
            self._paint_plate(painter, note, here=True)
        self._paint_chosen_intervals(painter, chosen)
        words = "; ".join(technique_words(t) for t in chosen[0].techniques) if len(chosen) == 1 else ""
        if words:
            near = [self.layout.plate(n) for n in self.opened.notes if abs(n.onset - chosen[0].onset) < _NEAR_S]
            near += [box for note_id, box in self._named.items() if note_id != chosen[0].id]
            # The longer words stand instead of the name in the picture.
            painter.fillRect(self._named.get(chosen[0].id, QRectF()), color(self.theme.paper))
            boxes = self._name_boxes(chosen[0], words)
            box = next((b for b in boxes if not any(b.intersects(p) for p in near)), boxes[-1])
            painter.fillRect(box, color(self.theme.paper))
            painter.setPen(color(self.theme.here))
            painter.setFont(text_font(themes.SMALL, bold=True))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_chosen_intervals(self, painter: QPainter, chosen: Sequence[Note]) -> None:
        painter.setFont(text_font(themes.TEXT))
        metrics = QFontMetricsF(painter.font())
        for note in chosen:
            if reason := self.opened.reasons.get(note.id):
                words = interval_text(reason)
                width = metrics.horizontalAdvance(words)
                left = self.layout.x_of(note.onset) - width / 2
                painter.fillRect(QRectF(left - 2, self.layout.intervals - 15, width + 4, 20), color(self.theme.paper))
                painter.setPen(color(self.theme.here))
                painter.drawText(QPointF(left, self.layout.intervals), words)

    def _paint_arrival(self, painter: QPainter, before: Note, note: Note, sign: str) -> QRectF:
        """An arc with its letter for legato, a slanted line for a slide; returns the ground it takes."""
        start, end = self.layout.plate(before), self.layout.plate(note)
        painter.setPen(QPen(color(self.theme.ink), 1.3))
        if before.string == note.string and sign[0] in "/\\":
            rise = -5 if sign == "/" else 5
            middle, y = (start.right() + end.left()) / 2, start.center().y()
            painter.drawLine(QPointF(max(start.right(), middle - 9), y - rise), QPointF(end.left() - 1, y + rise))
            painter.setFont(text_font(themes.SMALL, italic=True))
            painter.drawText(QPointF(middle - 3, end.top() - 4), sign[1:])
            return QRectF(start.topRight(), end.bottomLeft())
        under = before.bend is not None  # its ribbon stands over the string
        arc = QRectF(start.center().x(), 0, end.center().x() - start.center().x(), 14)
        arc.moveTop(end.bottom() - 6 if under else end.top() - 8)
        if before.string == note.string:
            painter.drawArc(arc, (205 if under else 25) * 16, 130 * 16)
        painter.setFont(text_font(themes.SMALL, italic=True))
        painter.drawText(QPointF(arc.center().x() - 4, arc.bottom() + 10 if under else arc.top() - 2), sign)
        return arc.adjusted(0, 0, 0, 14) if under else arc.adjusted(0, -14, 0, 0)
