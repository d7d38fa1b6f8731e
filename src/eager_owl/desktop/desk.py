"""The desk: the measured tab. Six string lines against real time, between the sound above and the reasons below.

The static picture is kept in a pixmap and painted anew only when the document, the view or the size changes;
the cursor and a dragged note are drawn over it.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby, pairwise

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.theme import Theme, color, head_font, text_font
from eager_owl.desktop.words import interval_text, mark_text, technique_name, technique_words
from eager_owl.neck.story import tell_hand
from eager_owl.rhythm.values import Written, write_values
from eager_owl.session import DOUBT_BELOW, SURVEY_HOP_S, chart_of
from eager_owl.solo.document import CONTOUR_HOP_S, Note
from eager_owl.theory.pitch import pitch_class_name, pretty

_MARGIN_LEFT, _MARGIN_RIGHT = 74, 16
_EDGE_S = 0.12  # of recording shown to either side of a phrase
_SEMITONE_SHARE = 0.62  # of the distance between strings that a semitone leaves the line
_ZOOMS = (1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 8.0)
_GRAB_PX = 6
_LINE_STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)


@dataclass(frozen=True)
class _Rows:
    """Heights of the desk's rows, from its own height."""

    numbers: float
    wave: QRectF
    written: float
    first_string: float
    spacing: float
    bottom_string: float
    chords: float
    intervals: float
    sources: float
    sentence: float


class Desk(QWidget):
    """The measured tab of the phrase, or the whole recording."""

    note_clicked = Signal(int, bool)
    cursor_asked = Signal(float)
    span_chosen = Signal(object)
    note_dragged = Signal(int, float, float)
    string_dragged = Signal(int, int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self._open: OpenSolo | None = None
        self._picture: QPixmap | None = None
        self._zoom = 0
        self._drag: tuple[str, int] | None = None
        self._drag_from = QPointF()
        self._drag_now = QPointF()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(480, 360)
        self.setMouseTracking(True)
        self.setAccessibleName("Measured tab")

    def sizeHint(self) -> QSize:
        return QSize(930, 405)

    def show_solo(self, opened: OpenSolo) -> None:
        """Draw this solo."""
        self._open = opened
        self.refresh()

    def refresh(self) -> None:
        """Paint anew after a change of the document or view."""
        self._picture = None
        if self._open:
            self.setAccessibleDescription(self._spoken())
        self.update()

    def zoom(self, by: int) -> None:
        """Look closer or step back."""
        self._zoom = min(max(self._zoom + by, 0), len(_ZOOMS) - 1)
        self.refresh()

    def _spoken(self) -> str:
        assert self._open is not None
        chosen = self._open.selected
        if len(chosen) == 1:
            note = chosen[0]
            return f"string {note.string}, fret {note.fret}, " + ", ".join(map(technique_name, note.techniques))
        return f"{len(self._open.notes)} notes, {len(chosen)} selected"

    # Geometry

    def time_range(self) -> tuple[float, float]:
        """Seconds at the left and right edge."""
        assert self._open is not None
        phrase = self._open.phrase
        if phrase is None:
            start, end = 0.0, max(self._open.duration_s, 1.0)
        else:
            start, end = phrase.start - _EDGE_S, phrase.end + _EDGE_S
        factor = _ZOOMS[self._zoom]
        if factor > 1:
            length = (end - start) / factor
            middle = min(max(self._open.view.cursor, start + length / 2), end - length / 2)
            start, end = middle - length / 2, middle + length / 2
        return start, end

    def x_of(self, time_s: float) -> float:
        """Pixels from the left of a time."""
        start, end = self.time_range()
        return _MARGIN_LEFT + (self.width() - _MARGIN_LEFT - _MARGIN_RIGHT) * (time_s - start) / (end - start)

    def time_at(self, x: float) -> float:
        """Seconds at pixels from the left."""
        start, end = self.time_range()
        return start + (x - _MARGIN_LEFT) / (self.width() - _MARGIN_LEFT - _MARGIN_RIGHT) * (end - start)

    def _rows(self) -> _Rows:
        height = float(self.height())
        strings = len(self._open.solo.instrument.tuning) if self._open else 6
        below = 122.0  # reason strip
        wave_height = max(34.0, 0.11 * height)
        wave_top = 26.0
        written = wave_top + wave_height + 14
        # Above the first string there is room for a bend of a whole step and its name.
        spacing = (height - below - written - 26) / (strings + 2 * _SEMITONE_SHARE)
        first = written + 26 + (2 * _SEMITONE_SHARE + 0.15) * spacing
        return _Rows(
            numbers=19.0,
            wave=QRectF(_MARGIN_LEFT, wave_top, self.width() - _MARGIN_LEFT - _MARGIN_RIGHT, wave_height),
            written=written,
            first_string=first,
            spacing=spacing,
            bottom_string=first + spacing * (strings - 1),
            chords=height - below + 16,
            intervals=height - below + 61,
            sources=height - below + 73,
            sentence=height - 10,
        )

    def string_y(self, string: int) -> float:
        """Height of a string's line."""
        rows = self._rows()
        return rows.first_string + rows.spacing * (string - 1)

    def plate(self, note: Note) -> QRectF:
        """The plate of a note's fret number."""
        text = "?" if note.fret is None else str(note.fret)
        ghost = note.technique("ghost") is not None
        width = 15.0 + 9.0 * (len(text) - 1) + (8.0 if ghost else 0.0)
        return QRectF(self.x_of(note.onset) - width / 2, self.string_y(self._line(note)) - 10.5, width, 21)

    def _line(self, note: Note) -> int:
        """The string a note is drawn on; one without a place keeps near its neighbours."""
        if note.string is not None:
            return note.string
        assert self._open is not None
        tuning = self._open.solo.instrument.tuning
        return min(range(1, len(tuning) + 1), key=lambda s: abs(note.pitch - tuning[s - 1] - 7))

    # Painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._open is None:
            return
        if self._picture is None:
            self._picture = self._paint_picture()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_span(painter)
        self._paint_cursor(painter)
        self._paint_drag(painter)

    def _paint_picture(self) -> QPixmap:
        picture = QPixmap(self.size() * self.devicePixelRatioF())
        picture.setDevicePixelRatio(self.devicePixelRatioF())
        picture.fill(color(self.theme.paper))
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_wave(painter)
        self._paint_beats(painter)
        if self._open and self._open.phrase is None:
            self._paint_whole(painter)
        else:
            notes = self._visible_notes()
            self._paint_strings(painter)
            self._paint_written(painter, notes)
            self._paint_hand(painter, notes)
            self._paint_notes(painter, notes)
            self._paint_reasons(painter, notes)
        painter.end()
        return picture

    def _visible_notes(self) -> list[Note]:
        assert self._open is not None
        start, end = self.time_range()
        return [note for note in self._open.notes if note.end > start and note.onset < end]

    def _label(self, painter: QPainter, y: float, words: str) -> None:
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(self.theme.quiet))
        painter.drawText(QPointF(12, y), words)

    def _paint_wave(self, painter: QPainter) -> None:
        assert self._open is not None
        box = self._rows().wave
        self._label(painter, box.center().y() + 5, "sound")
        if self._open.sound is None:
            painter.setPen(color(self.theme.quiet))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "the recording is not there")
            return
        start, end = self.time_range()
        columns = self._open.sound.peaks.columns(start, end, int(box.width()))
        top = float(max(abs(columns).max(), 0.05))
        painter.setPen(QPen(color(self.theme.wave), 1))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        middle, half = box.center().y(), box.height() / 2
        for i, (low, high) in enumerate(columns.tolist()):
            x = box.left() + i
            painter.drawLine(QPointF(x, middle - half * high / top), QPointF(x, middle - half * low / top))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def _paint_beats(self, painter: QPainter) -> None:
        assert self._open is not None
        grid, rows = self._open.solo.grid, self._rows()
        if grid is None:
            self._paint_seconds(painter)
            return
        start, end = self.time_range()
        whole = self._open.phrase is None
        bottom = rows.wave.bottom() + 4 if whole else rows.chords - 8
        bar_px = self.x_of(grid.bar_s) - self.x_of(0.0)
        every = max(1, round(40 / bar_px)) if bar_px < 40 else 1
        for beat in range(int(grid.beat_at(start)) - 1, int(grid.beat_at(end)) + 2):
            time = grid.time_of(beat)
            if not start <= time <= end:
                continue
            first = beat % grid.beats_per_bar == 0
            if not first and bar_px < 60:
                continue
            bar = beat // grid.beats_per_bar + 1
            x = self.x_of(time)
            painter.setPen(QPen(color(self.theme.string if first else self.theme.rule), 1.2 if first else 1))
            painter.drawLine(QPointF(x, 6 if first else rows.wave.top()), QPointF(x, bottom))
            if first and bar >= 1 and (bar - 1) % every == 0:
                painter.setFont(text_font(themes.SMALL))
                painter.setPen(color(self.theme.quiet))
                painter.drawText(QPointF(x + 5, rows.numbers), str(bar))

    def _paint_seconds(self, painter: QPainter) -> None:
        start, end = self.time_range()
        step = next(s for s in (0.25, 0.5, 1, 2, 5, 10, 30, 60, 300) if s * 14 >= end - start or s == 300)
        painter.setFont(text_font(themes.SMALL))
        rows = self._rows()
        mark = -(-start // step) * step
        while mark <= end:
            x = self.x_of(mark)
            painter.setPen(QPen(color(self.theme.rule), 1))
            painter.drawLine(QPointF(x, 6), QPointF(x, rows.wave.bottom()))
            painter.setPen(color(self.theme.quiet))
            painter.drawText(QPointF(x + 4, rows.numbers), clock_text(mark, short=True))
            mark += step

    def _paint_whole(self, painter: QPainter) -> None:
        """The whole recording: the line's contour, phrases as brackets, and what to do."""
        assert self._open is not None
        rows = self._rows()
        box = QRectF(rows.wave.left(), rows.written + 20, rows.wave.width(), rows.chords - rows.written - 20)
        survey = self._open.sound.survey if self._open.sound else None
        self._label(painter, box.center().y(), "line")
        if survey is not None:
            start, end = self.time_range()
            found = [
                (i * SURVEY_HOP_S, m)
                for i, m in enumerate(survey.midi.tolist())
                if m == m and start <= i * SURVEY_HOP_S <= end
            ]
            if found:
                low, high = min(m for _, m in found) - 1, max(m for _, m in found) + 1
                painter.setPen(QPen(color(self.theme.ink), 2))
                painter.drawPoints(
                    QPolygonF(
                        [
                            QPointF(self.x_of(t), box.bottom() - box.height() * (m - low) / (high - low))
                            for t, m in found
                        ]
                    )
                )
        y = rows.intervals
        painter.setFont(text_font(themes.TEXT))
        for phrase in self._open.solo.phrases:
            left, right = self.x_of(phrase.start), self.x_of(phrase.end)
            self._bracket(painter, left + 1, right - 1, y, phrase.name, color(self.theme.ink), Qt.PenStyle.SolidLine)
        painter.setFont(text_font(themes.TEXT, italic=True))
        painter.setPen(color(self.theme.ink))
        words = "Drag over a stretch, or press [ and ] while it plays; M makes it a phrase."
        painter.drawText(QPointF(_MARGIN_LEFT, rows.sentence), words)

    def _paint_strings(self, painter: QPainter) -> None:
        assert self._open is not None
        rows = self._rows()
        tuning = self._open.solo.instrument.tuning
        names = [pitch_class_name(pitch) for pitch in tuning]
        if names[0] == names[-1]:
            names[0] = names[0].lower()
        for string, name in enumerate(names, 1):
            y = self.string_y(string)
            painter.setPen(QPen(color(self.theme.string), 0.8 + 0.16 * string))
            painter.drawLine(QPointF(_MARGIN_LEFT, y), QPointF(self.width() - _MARGIN_RIGHT, y))
            painter.setPen(color(self.theme.ink))
            painter.setFont(text_font(themes.TEXT, bold=True))
            painter.drawText(QPointF(_MARGIN_LEFT - 24, y + 5), pretty(name))
        self._label(painter, rows.written + 6, "written")

    def _paint_written(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """Stems and beams of the quantised rhythm: one beam an eighth, two a sixteenth, a 3 over triplets."""
        assert self._open is not None
        grid, rows = self._open.solo.grid, self._rows()
        if grid is None:
            painter.setFont(text_font(themes.SMALL))
            painter.setPen(color(self.theme.quiet))
            painter.drawText(QPointF(_MARGIN_LEFT, rows.written + 6), "no beat yet: F sets tempo and first beat")
            return
        shown = [note for note in notes if not (note.technique("double_stop") and self._is_upper(note, notes))]
        values = write_values([n.onset for n in shown], [n.duration for n in shown], grid)
        top, bottom = rows.written - 6, rows.written + 9
        painter.setPen(QPen(color(self.theme.ink), 1.5))
        for _, group in groupby(zip(values, shown, strict=True), key=lambda pair: pair[0].beat // 1):
            members = [(self.x_of(grid.time_of(float(value.beat))), value) for value, _ in group]
            short = [(x, value) for x, value in members if value.length < 1]
            for x, value in members:
                painter.drawLine(QPointF(x, top), QPointF(x, bottom))
                if value.length >= 2:
                    painter.setBrush(color(self.theme.paper))
                    painter.drawEllipse(QPointF(x - 3, bottom), 4, 3)
                if value.length in (0.75, 1.5, 3):
                    painter.drawPoint(QPointF(x + 4, bottom))
            self._paint_beams(painter, short, top)

    def _paint_beams(self, painter: QPainter, short: list[tuple[float, Written]], top: float) -> None:
        if len(short) == 1:
            x, value = short[0]
            for level in range(2 if value.length <= 0.25 else 1):
                painter.drawLine(QPointF(x, top + 5 * level), QPointF(x + 6, top + 5 + 5 * level))
        elif short:
            painter.setPen(QPen(color(self.theme.ink), 3))
            painter.drawLine(QPointF(short[0][0], top), QPointF(short[-1][0], top))
            for (x, value), (following, _) in pairwise(short):
                if value.length <= 0.25:
                    painter.drawLine(QPointF(x, top + 5), QPointF(following, top + 5))
            painter.setPen(QPen(color(self.theme.ink), 1.5))
            if any(value.beat.denominator == 3 for _, value in short):
                painter.setFont(text_font(themes.SMALL, italic=True))
                painter.drawText(QPointF((short[0][0] + short[-1][0]) / 2 - 3, top - 3), "3")

    def _is_upper(self, note: Note, notes: Sequence[Note]) -> bool:
        return any(
            other.id != note.id and abs(other.onset - note.onset) < 0.03 and other.id < note.id for other in notes
        )

    def _paint_hand(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """Where the hand stands, and where it shifts."""
        painter.setFont(text_font(themes.SMALL))
        metrics = QFontMetricsF(painter.font())
        assert self._open is not None
        y, free = self._rows().bottom_string + 22, 0.0
        by_id = {note.id: note for note in notes}
        stands = tell_hand(self._open.notes, self._open.solo.instrument).stands
        for index, stand in enumerate(stands):
            first = next((by_id[i] for i in stand.note_ids if i in by_id), None)
            if first is None:
                continue
            words = f"shift to {stand.position}" if index else f"hand at {stand.position}"
            x = max(self.x_of(first.onset) - 6, _MARGIN_LEFT)
            if x >= free:
                painter.setPen(color(self.theme.here if index else self.theme.pinned))
                painter.drawText(QPointF(x, y), words)
                free = x + metrics.horizontalAdvance(words) + 8

    def _paint_notes(self, painter: QPainter, notes: Sequence[Note]) -> None:
        assert self._open is not None
        selected = set(self._open.view.selection)
        loudest = max((note.loudness_db for note in notes), default=0.0)
        for note in notes:
            self._paint_ribbon(painter, note, loudest, note.id in selected)
        for note in notes:
            self._paint_plate(painter, note, note.id in selected)
        self._paint_names(painter, notes, selected)

    def _paint_ribbon(self, painter: QPainter, note: Note, loudest: float, here: bool) -> None:
        """To the note's end, as thick as it is loud, off the line as far as the pitch leaves the fret."""
        base, semitone = self.string_y(self._line(note)), self._rows().spacing * _SEMITONE_SHARE
        contour = note.contour_cents or (0, 0)
        level = note.level_db or tuple([round(note.loudness_db)] * len(contour))
        step_s = CONTOUR_HOP_S if note.contour_cents else note.duration
        a_pixel = max(1, int((self.time_at(1) - self.time_at(0)) * 1.5 / CONTOUR_HOP_S))
        upper, lower = [], []
        for i in [*range(0, len(contour) - 1, a_pixel), len(contour) - 1]:
            x = self.x_of(note.onset + i * step_s)
            y = base - semitone * contour[i] / 100
            half = 0.7 + 3.6 * max(0.0, 1 + (level[min(i, len(level) - 1)] - loudest) / 34)
            upper.append(QPointF(x, y - half))
            lower.append(QPointF(x, y + half))
        tint = color(self.theme.here if here else self.theme.ribbon)
        highest = max(contour)
        if note.bend and highest >= 35:
            self._paint_bend_rules(painter, note, base, semitone, highest)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(tint)
        painter.drawPolygon(QPolygonF(upper + lower[::-1]))

    def _paint_bend_rules(self, painter: QPainter, note: Note, base: float, semitone: float, highest: int) -> None:
        """Faint rules at a quarter, half and whole step."""
        painter.setFont(text_font(themes.SMALL))
        left, right = self.x_of(note.onset) + 12, self.x_of(note.end) - 2
        for cents, words in ((50, "¼"), (100, "½"), (200, "1"), (300, "1½")):
            if cents > highest + 30:
                break
            y = base - semitone * cents / 100
            painter.setPen(QPen(color(self.theme.string), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            if cents + 60 > highest and right - left > 70:
                painter.setPen(color(self.theme.quiet))
                painter.drawText(QPointF(right - 16, y - 3), words)

    def _paint_plate(self, painter: QPainter, note: Note, here: bool) -> None:
        plate = self.plate(note)
        doubtful = note.confidence < DOUBT_BELOW and "pitch" not in note.pins
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
        text = "?" if note.fret is None else str(note.fret)
        text = f"({text})" if note.technique("ghost") else "x" if note.technique("palm_mute") else text
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, text)
        if note.pins:
            bar = QRectF(plate.center().x() - 6, plate.bottom() + 1.5, 12, 3)
            painter.fillRect(bar, color(self.theme.pinned))

    def _paint_names(self, painter: QPainter, notes: Sequence[Note], selected: set[int]) -> None:
        """Signs over arrivals, and techniques in words where there is room; the selected note's always."""
        painter.setFont(text_font(themes.SMALL))
        metrics = QFontMetricsF(painter.font())
        taken = [self.plate(note) for note in notes]
        by_order = sorted(notes, key=lambda note: note.id not in selected)
        before = {later.id: note for note, later in pairwise(notes)}
        for note in notes:
            if (sign := mark_text(note)) and note.id in before:
                taken.append(self._paint_arrival(painter, before[note.id], note, sign))
        for note in by_order:
            here = note.id in selected
            spoken = [t for t in note.techniques if t.name not in ("hammer_on", "pull_off", "slide", "ghost")]
            if here and len(selected) == 1:
                words = "; ".join(technique_words(t) for t in note.techniques)
            else:
                words = ", ".join(technique_name(t) for t in spoken)
            if not words:
                continue
            width = metrics.horizontalAdvance(words) + 4
            high = self.string_y(self._line(note))
            high -= self._rows().spacing * _SEMITONE_SHARE * max((*note.contour_cents, 0)) / 100
            left = min(max(self.x_of(note.onset) - 8, _MARGIN_LEFT), self.width() - _MARGIN_RIGHT - width)
            for y in (high - 28, high + 14, high - 46):
                box = QRectF(left, y, width, 17)
                if y > self._rows().written + 12 and not any(box.intersects(other) for other in taken):
                    break
            else:
                if not here:
                    continue
                box = QRectF(left, max(high - 46, self._rows().written + 14), width, 17)
            taken.append(box)
            if here:
                painter.fillRect(box, color(self.theme.paper))
            painter.setPen(color(self.theme.here if here else self.theme.quiet))
            painter.setFont(text_font(themes.SMALL, bold=here))
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_arrival(self, painter: QPainter, before: Note, note: Note, sign: str) -> QRectF:
        """An arc with its letter for legato, a slanted line for a slide; returns the ground it takes."""
        start, end = self.plate(before), self.plate(note)
        painter.setPen(QPen(color(self.theme.ink), 1.3))
        if before.string == note.string and sign in "/\\":
            rise = -5 if sign == "/" else 5
            middle, y = (start.right() + end.left()) / 2, start.center().y()
            painter.drawLine(QPointF(max(start.right(), middle - 9), y - rise), QPointF(end.left() - 1, y + rise))
            return QRectF(start.topRight(), end.bottomLeft())
        arc = QRectF(start.center().x(), end.top() - 8, end.center().x() - start.center().x(), 14)
        if before.string == note.string:
            painter.drawArc(arc, 25 * 16, 130 * 16)
        painter.setFont(text_font(themes.SMALL, italic=True))
        painter.drawText(QPointF(arc.center().x() - 4, arc.top() - 2), sign)
        return arc.adjusted(0, -14, 0, 0)

    def _paint_reasons(self, painter: QPainter, notes: Sequence[Note]) -> None:
        assert self._open is not None
        solo, rows = self._open.solo, self._rows()
        chart = chart_of(solo)
        if solo.grid and chart.bars:
            start, end = self.time_range()
            spans = chart.spans(solo.grid.beat_at(start), solo.grid.beat_at(end), solo.grid.beats_per_bar)
            painter.setFont(head_font(themes.TEXT))
            for first, last, chord in spans:
                left = max(self.x_of(solo.grid.time_of(first)), _MARGIN_LEFT) + 1
                right = min(self.x_of(solo.grid.time_of(last)), self.width() - _MARGIN_RIGHT) - 1
                cell = QRectF(left, rows.chords, right - left, 26)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(color(self.theme.cell))
                painter.drawRoundedRect(cell, 3, 3)
                painter.setPen(color(self.theme.ink))
                words = painter.fontMetrics().elidedText(
                    pretty(chord.symbol), Qt.TextElideMode.ElideRight, int(cell.width()) - 10
                )
                painter.drawText(cell.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
            self._label(painter, rows.chords + 18, "chord")
        self._paint_intervals(painter, notes)
        self._paint_sources(painter, notes)
        self._paint_sentence(painter, notes)

    def _paint_intervals(self, painter: QPainter, notes: Sequence[Note]) -> None:
        assert self._open is not None
        rows, selected = self._rows(), set(self._open.view.selection)
        self._label(painter, rows.intervals, "interval")
        painter.setFont(text_font(themes.TEXT))
        metrics = QFontMetricsF(painter.font())
        right = 0.0
        for note in notes:
            reason = self._open.reasons.get(note.id)
            if reason is None:
                continue
            here = note.id in selected
            words = interval_text(reason)
            x = self.x_of(note.onset) - metrics.horizontalAdvance(words) / 2
            if x < right + 3 and not here:
                continue
            painter.setPen(color(self.theme.here if here else self.theme.ink))
            painter.drawText(QPointF(x, rows.intervals), words)
            right = x + metrics.horizontalAdvance(words)

    def _paint_sources(self, painter: QPainter, notes: Sequence[Note]) -> None:
        assert self._open is not None
        reasons = self._open.reasons
        self._label(painter, self._rows().sources + 11, "source")
        styles: dict[str, Qt.PenStyle] = {}
        spans = [
            (source, list(group))
            for source, group in groupby(
                (n for n in notes if n.id in reasons and reasons[n.id].source), key=lambda n: reasons[n.id].source
            )
        ]
        for index, (source, group) in enumerate(spans):
            assert source is not None
            style = styles.setdefault(source.name, _LINE_STYLES[len(styles) % len(_LINE_STYLES)])
            left = self.x_of(group[0].onset) - 6
            following = self.x_of(spans[index + 1][1][0].onset) - 12 if index + 1 < len(spans) else self.width()
            right = min(max(self.x_of(group[-1].onset) + 10, self.x_of(group[-1].end) - 4), following)
            tint = color(self.theme.pinned if len(styles) % 2 else self.theme.ink)
            label_room = following - left
            self._bracket(painter, left, right, self._rows().sources, pretty(source.name), tint, style, label_room)

    def _bracket(
        self,
        painter: QPainter,
        left: float,
        right: float,
        y: float,
        words: str,
        tint: QColor,
        style: Qt.PenStyle,
        room: float = 0.0,
    ) -> None:
        painter.setPen(QPen(tint, 1.6, style))
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        painter.setPen(QPen(tint, 1.6))
        painter.drawLine(QPointF(left, y), QPointF(left, y + 7))
        painter.drawLine(QPointF(right, y), QPointF(right, y + 7))
        painter.setFont(text_font(themes.SMALL))
        width = max(room, right - left)
        shown = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(width) - 10)
        painter.setPen(color(self.theme.ink))
        painter.drawText(QPointF(left + 6, y + 17), shown)

    def _paint_sentence(self, painter: QPainter, notes: Sequence[Note]) -> None:
        assert self._open is not None
        if not notes:
            self._paint_invitation(painter)
            return
        reasons = [self._open.reasons[n.id] for n in self._open.notes if n.id in self._open.reasons]
        sources = [r.source for r in reasons if r.source]
        changes = sum(1 for _ in groupby(sources)) - 1 if sources else 0
        school = self._open.solo.reason_school.replace("-", " ")
        if self._open.solo.key_text or self._open.solo.chart_text:
            words = (
                f"By {school}: {len(sources)} of {len(reasons)} notes explained, "
                f"{changes} change{'' if changes == 1 else 's'} of source."
            )
        else:
            words = "No key or chart yet: press F to give them, and the notes are related to them here."
        painter.setFont(text_font(themes.TEXT, italic=True))
        painter.setPen(color(self.theme.ink))
        painter.drawText(QPointF(_MARGIN_LEFT, self._rows().sentence), words)

    def _paint_invitation(self, painter: QPainter) -> None:
        rows = self._rows()
        box = QRectF(_MARGIN_LEFT, rows.first_string, self.width() - _MARGIN_LEFT, rows.spacing * 5)
        card = QRectF(0, 0, 430, 76)
        card.moveCenter(box.center())
        painter.setPen(QPen(color(self.theme.string), 1))
        painter.setBrush(color(self.theme.paper))
        painter.drawRoundedRect(card, 8, 8)
        painter.setPen(color(self.theme.ink))
        painter.setFont(head_font())
        painter.drawText(card.adjusted(0, 12, 0, -36), Qt.AlignmentFlag.AlignCenter, "Nothing written here yet")
        painter.setFont(text_font())
        words = "Space loops it slowly.  H hears it and writes its notes."
        painter.drawText(card.adjusted(0, 36, 0, -8), Qt.AlignmentFlag.AlignCenter, words)

    def _paint_span(self, painter: QPainter) -> None:
        assert self._open is not None
        if self._open.view.span is None:
            return
        left, right = (self.x_of(t) for t in self._open.view.span)
        rows = self._rows()
        box = QRectF(left, 4, right - left, rows.chords - 14)
        wash = color(self.theme.here)
        wash.setAlpha(36)
        painter.fillRect(box, wash)
        painter.setPen(QPen(color(self.theme.here), 2))
        painter.drawLine(box.topLeft(), box.bottomLeft())
        painter.drawLine(box.topRight(), box.bottomRight())

    def _paint_cursor(self, painter: QPainter) -> None:
        assert self._open is not None
        x = self.x_of(self._open.view.cursor)
        if not _MARGIN_LEFT - 1 <= x <= self.width():
            return
        painter.setPen(QPen(color(self.theme.here), 2))
        painter.drawLine(QPointF(x, 6), QPointF(x, self._rows().chords - 8))

    def _paint_drag(self, painter: QPainter) -> None:
        if self._drag is None or self._open is None:
            return
        kind, note_id = self._drag
        if kind in ("onset", "end"):
            painter.setPen(QPen(color(self.theme.here), 2, Qt.PenStyle.DashLine))
            y = self.string_y(self._line(self._open.solo.note(note_id)))
            painter.drawLine(QPointF(self._drag_now.x(), y - 18), QPointF(self._drag_now.x(), y + 18))
        elif kind == "string":
            y = self.string_y(self._string_at(self._drag_now.y()))
            painter.setPen(QPen(color(self.theme.here), 2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            plate = self.plate(self._open.solo.note(note_id))
            plate.moveCenter(QPointF(plate.center().x(), y))
            painter.drawRoundedRect(plate, 4, 4)

    # The mouse

    def _string_at(self, y: float) -> int:
        assert self._open is not None
        strings = len(self._open.solo.instrument.tuning)
        return min(range(1, strings + 1), key=lambda s: abs(self.string_y(s) - y))

    def note_at(self, point: QPointF) -> Note | None:
        """The note whose plate or ribbon is under a point."""
        for note in reversed(self._visible_notes() if self._open else []):
            y = self.string_y(self._line(note))
            left, right = self.x_of(note.onset), self.x_of(note.end)
            if self.plate(note).contains(point) or (left <= point.x() <= right + 4 and abs(point.y() - y) < 9):
                return note
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._open is None or event.button() != Qt.MouseButton.LeftButton:
            return
        point = event.position()
        self._drag_from = self._drag_now = point
        note = self.note_at(point) if self._open.phrase is not None else None
        if note is None:
            self._drag = ("span", 0)
            return
        more = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if abs(point.x() - self.x_of(note.end)) <= _GRAB_PX and not self.plate(note).contains(point):
            self._drag = ("end", note.id)
        elif self.plate(note).contains(point):
            self._drag = ("plate", note.id)
        else:
            self._drag = ("none", note.id)
        self.note_clicked.emit(note.id, more)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._open is None:
            return
        self._drag_now = event.position()
        if self._drag is None:
            note = self.note_at(event.position()) if self._open.phrase is not None else None
            near_end = note is not None and abs(event.position().x() - self.x_of(note.end)) <= _GRAB_PX
            self.setCursor(Qt.CursorShape.SizeHorCursor if near_end else Qt.CursorShape.ArrowCursor)
            return
        kind, note_id = self._drag
        moved = self._drag_now - self._drag_from
        if kind == "plate" and moved.manhattanLength() > 6:
            # A plate goes sideways in time or up and down over the strings, whichever it is pulled first.
            self._drag = ("onset" if abs(moved.x()) > abs(moved.y()) else "string", note_id)
        elif kind == "span" and abs(moved.x()) > 6:
            times = sorted((self.time_at(self._drag_from.x()), self.time_at(self._drag_now.x())))
            self.span_chosen.emit((max(times[0], 0.0), min(times[1], self._open.duration_s or times[1])))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._open is None or self._drag is None:
            return
        (kind, note_id), self._drag = self._drag, None
        moved = event.position() - self._drag_from
        if kind == "span" and abs(moved.x()) <= 6:
            self.span_chosen.emit(None)
            self.cursor_asked.emit(self.time_at(event.position().x()))
        elif kind == "onset" and moved.manhattanLength() > 6:
            note = self._open.solo.note(note_id)
            self.note_dragged.emit(note_id, self.time_at(event.position().x()), note.end)
        elif kind == "end" and moved.manhattanLength() > 3:
            note = self._open.solo.note(note_id)
            self.note_dragged.emit(note_id, note.onset, self.time_at(event.position().x()))
        elif kind == "string":
            self.string_dragged.emit(note_id, self._string_at(event.position().y()))
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1 if event.angleDelta().y() > 0 else -1)
        else:
            event.ignore()

    def resizeEvent(self, _event: QResizeEvent) -> None:
        self._picture = None


def clock_text(time_s: float, short: bool = False) -> str:
    """Minutes and seconds, with tenths unless short."""
    minutes, seconds = divmod(max(time_s, 0.0), 60)
    if short:
        return f"{int(minutes)}:{seconds:02.0f}" if seconds % 1 == 0 else f"{int(minutes)}:{seconds:05.2f}"
    return f"{int(minutes)}:{seconds:04.1f}"
