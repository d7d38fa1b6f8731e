"""The desk's picture: the measured tab between the sound above and the reasons below."""

from collections.abc import Sequence
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from eager_owl.desktop import theme as themes
from eager_owl.desktop.desk_layout import MARGIN_LEFT, DeskLayout
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.reason_strip import ReasonStrip, bracket
from eager_owl.desktop.theme import Theme, color, head_font, text_font
from eager_owl.desktop.words import clock_text, interval_text, mark_text, technique_name, technique_words
from eager_owl.desktop.written_row import WrittenRow
from eager_owl.neck.picking import awkward_crossings
from eager_owl.neck.story import tell_hand
from eager_owl.notation.score import write_score
from eager_owl.session import DOUBT_BELOW, SURVEY_HOP_S, picking, transcription_contours
from eager_owl.solo.document import CONTOUR_HOP_S, Note
from eager_owl.theory.pitch import pitch_class_name, pretty

_LINE_STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)
_DRAWN_AS_SIGNS = ("hammer_on", "pull_off", "slide", "ghost")
_NEAR_S = 1.5
_NUMBERS_Y = 19.0
_HELD_Y = 22.0  # a peg on a beat that the player holds in its place
_TRANSCRIBED_LEAVES = 4.0  # semitones: a slide's way from another fret is not drawn further


class DeskPainter:
    """Paints one solo in one layout and theme."""

    def __init__(self, opened: OpenSolo, layout: DeskLayout, theme: Theme) -> None:
        self.opened, self.layout, self.theme = opened, layout, theme
        self.strip = ReasonStrip(opened, layout, theme)
        self._named: dict[int, QRectF] = {}  # where the picture names a note
        self._loudest = max((note.loudness_db for note in opened.notes), default=0.0)

    def paint(self, painter: QPainter) -> None:
        """All but the selection."""
        notes = [note for note in self.opened.notes if self.layout.shows(note)]
        painter.fillRect(QRectF(0, 0, self.layout.width, self.layout.height), color(self.theme.paper))
        self._paint_wave(painter)
        self._paint_beats(painter)
        if self.opened.phrase is None:
            self._paint_whole(painter)
            return
        self._paint_tab(painter, notes, self.layout.start, self.layout.end)
        self._paint_hand(painter, notes)
        self._paint_picks(painter, notes)
        self.strip.paint(painter, notes)
        if not notes:
            self._paint_invitation(painter)

    def paint_stretch(self, painter: QPainter, left: float, right: float) -> None:
        """The tab between two pixels, down to the last string: what an edit shows before it has settled."""
        bottom = self.layout.string_y(len(self.layout.tuning)) + 11
        stretch = QRectF(left, 0, right - left, bottom)
        painter.setClipRect(stretch)
        painter.fillRect(stretch, color(self.theme.paper))
        first, last = self.layout.time_at(left), self.layout.time_at(right)
        self._paint_wave(painter)
        self._paint_beats(painter)
        shown = [note for note in self.opened.notes if note.end > first and note.onset < last]
        self._paint_tab(painter, shown, first, last)

    def _paint_tab(self, painter: QPainter, notes: Sequence[Note], first: float, last: float) -> None:
        self._paint_strings(painter)
        self._paint_written(painter, first, last)
        self._paint_notes(painter, notes)

    def _label(self, painter: QPainter, y: float, words: str) -> None:
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(self.theme.quiet))
        painter.drawText(QPointF(12, y), words)

    def _paint_wave(self, painter: QPainter) -> None:
        box = self.layout.wave
        self._label(painter, box.center().y() + 5, "sound")
        if self.opened.sound is None:
            painter.setPen(color(self.theme.quiet))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "the recording is not there")
            return
        # Only the columns in sight of the clip: an edit paints a narrow stretch anew.
        clip = painter.clipBoundingRect() if painter.hasClipping() else box
        left, right = max(int(clip.left()), int(box.left())), min(int(clip.right()) + 1, int(box.right()))
        if right <= left:
            return
        columns = self.opened.sound.peaks.columns(self.layout.time_at(left), self.layout.time_at(right), right - left)
        half = box.height() / 2 / self.opened.sound.peaks.greatest
        middle = box.center().y()
        painter.setPen(QPen(color(self.theme.wave), 1))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.drawLines(
            [
                QLineF(left + i, middle - half * high, left + i, middle - half * low)
                for i, (low, high) in enumerate(columns.tolist())
            ]
        )
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def _paint_beats(self, painter: QPainter) -> None:
        grid = self.opened.solo.grid
        if grid is None:
            self._paint_seconds(painter)
            return
        start, end = self.layout.start, self.layout.end
        whole = self.opened.phrase is None
        bottom = self.layout.wave.bottom() + 4 if whole else self.layout.chords - 8
        bar_px = self.layout.x_of(grid.bar_s) - self.layout.x_of(0.0)
        every = max(1, round(40 / bar_px)) if bar_px < 40 else 1
        held = {beat for beat, _ in grid.anchors}
        for beat in range(int(grid.beat_at(start)) - 1, int(grid.beat_at(end)) + 2):
            time = grid.time_of(beat)
            if not start <= time <= end:
                continue
            first = beat % grid.beats_per_bar == 0
            if not first and bar_px < 60:
                continue
            bar = beat // grid.beats_per_bar + 1
            x = self.layout.x_of(time)
            painter.setPen(QPen(color(self.theme.string if first else self.theme.rule), 1.2 if first else 1))
            painter.drawLine(QPointF(x, 6 if first else self.layout.wave.top()), QPointF(x, bottom))
            if beat in held and not whole:
                painter.fillRect(QRectF(x - 3, _HELD_Y, 6, 6), color(self.theme.pinned))
            if first and bar >= 1 and (bar - 1) % every == 0:
                painter.setFont(text_font(themes.SMALL))
                painter.setPen(color(self.theme.quiet))
                painter.drawText(QPointF(x + 5, _NUMBERS_Y), str(bar))

    def _paint_seconds(self, painter: QPainter) -> None:
        start, end = self.layout.start, self.layout.end
        step = next(s for s in (0.25, 0.5, 1, 2, 5, 10, 30, 60, 300) if s * 14 >= end - start or s == 300)
        painter.setFont(text_font(themes.SMALL))
        mark = -(-start // step) * step
        while mark <= end:
            x = self.layout.x_of(mark)
            painter.setPen(QPen(color(self.theme.rule), 1))
            painter.drawLine(QPointF(x, 6), QPointF(x, self.layout.wave.bottom()))
            painter.setPen(color(self.theme.quiet))
            painter.drawText(QPointF(x + 4, _NUMBERS_Y), clock_text(mark, short=True))
            mark += step

    def _paint_whole(self, painter: QPainter) -> None:
        """The whole recording: the line's contour, phrases as brackets, and what to do."""
        box = QRectF(
            self.layout.wave.left(),
            self.layout.written + 20,
            self.layout.wave.width(),
            self.layout.chords - self.layout.written - 20,
        )
        survey = self.opened.sound.survey if self.opened.sound else None
        self._label(painter, box.center().y(), "line")
        if survey is not None:
            start, end = self.layout.start, self.layout.end
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
                            QPointF(self.layout.x_of(t), box.bottom() - box.height() * (m - low) / (high - low))
                            for t, m in found
                        ]
                    )
                )
        y = self.layout.intervals
        painter.setFont(text_font(themes.TEXT))
        for phrase in self.opened.solo.phrases:
            left, right = self.layout.x_of(phrase.start), self.layout.x_of(phrase.end)
            ink, solid = color(self.theme.ink), Qt.PenStyle.SolidLine
            bracket(painter, self.theme, left + 1, right - 1, y, phrase.name, ink, solid)
        painter.setFont(text_font(themes.TEXT, italic=True))
        painter.setPen(color(self.theme.ink))
        words = "Drag over a stretch, or press [ and ] while it plays; M makes it a phrase."
        painter.drawText(QPointF(MARGIN_LEFT, self.layout.sentence), words)

    def _paint_strings(self, painter: QPainter) -> None:
        tuning = self.opened.solo.instrument.tuning
        names = [pitch_class_name(pitch) for pitch in tuning]
        if names[0] == names[-1]:
            names[0] = names[0].lower()
        for string, name in enumerate(names, 1):
            y = self.layout.string_y(string)
            painter.setPen(QPen(color(self.theme.string), 0.8 + 0.16 * string))
            painter.drawLine(QPointF(MARGIN_LEFT, y), QPointF(self.layout.right, y))
            painter.setPen(color(self.theme.ink))
            painter.setFont(text_font(themes.TEXT, bold=True))
            painter.drawText(QPointF(MARGIN_LEFT - 24, y + 5), pretty(name))
        self._label(painter, self.layout.written + 6, "written")

    def _paint_written(self, painter: QPainter, left_s: float, right_s: float) -> None:
        if self._written is None:
            painter.setFont(text_font(themes.SMALL))
            painter.setPen(color(self.theme.quiet))
            painter.drawText(
                QPointF(MARGIN_LEFT, self.layout.written + 6), "no beat yet: F sets tempo and first beat"
            )
        else:
            self._written.paint(painter, left_s, right_s)

    @cached_property
    def _written(self) -> WrittenRow | None:
        grid = self.opened.solo.grid
        return WrittenRow(write_score(self.opened.notes, grid), self.layout, self.theme) if grid else None

    def _paint_hand(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """Where the hand stands, and where it shifts."""
        painter.setFont(text_font(themes.SMALL))
        metrics = QFontMetricsF(painter.font())
        y, free = self.layout.string_y(len(self.layout.tuning)) + 22, 0.0
        by_id = {note.id: note for note in notes}
        stands = tell_hand(self.opened.notes, self.opened.solo.instrument).stands
        for index, stand in enumerate(stands):
            first = next((by_id[i] for i in stand.note_ids if i in by_id), None)
            if first is None:
                continue
            words = f"shift to {stand.position}" if index else f"hand at {stand.position}"
            x = max(self.layout.x_of(first.onset) - 6, MARGIN_LEFT)
            if x >= free:
                painter.setPen(color(self.theme.here if index else self.theme.pinned))
                painter.drawText(QPointF(x, y), words)
                free = x + metrics.horizontalAdvance(words) + 8

    def _paint_picks(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """Strokes by their common signs; a bar under one that is awkward to come to, a thick one the player's own."""
        self._label(painter, self.layout.picks + 5, "pick")
        every = self.opened.notes
        picked = picking(self.opened.solo, every)
        awkward = {every[i].id for i in awkward_crossings(every, picked)}
        shown = {note.id for note in notes}
        y, free = self.layout.picks, 0.0
        for note, stroke in zip(every, picked, strict=True):
            x = self.layout.x_of(note.onset)
            if stroke is None or note.id not in shown or x < free:
                continue
            free = x + 11
            painter.setPen(QPen(color(self.theme.ink), 2.4 if note.stroke else 1.3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if stroke == "down":
                sign = [QPointF(x - 4, y + 4), QPointF(x - 4, y - 4), QPointF(x + 4, y - 4), QPointF(x + 4, y + 4)]
            elif stroke == "up":
                sign = [QPointF(x - 4, y - 5), QPointF(x, y + 4), QPointF(x + 4, y - 5)]
            else:
                painter.drawEllipse(QPointF(x, y), 3.5, 3.5)
                sign = []
            painter.drawPolyline(QPolygonF(sign))
            if note.id in awkward:
                painter.fillRect(QRectF(x - 5, y + 6.5, 10, 2.5), color(self.theme.here))

    def _paint_notes(self, painter: QPainter, notes: Sequence[Note]) -> None:
        for note in notes:
            self._paint_ribbon(painter, note, here=False)
        for note in notes:
            self._paint_plate(painter, note, here=False)
        self._paint_names(painter, notes)

    def _paint_ribbon(self, painter: QPainter, note: Note, here: bool) -> None:
        """To the note's end, as thick as it is loud, off the line as far as the pitch leaves the fret."""
        base, semitone = self.layout.string_y(self.layout.line_of(note)), self.layout.semitone
        contour = note.contour_cents or (0, 0)
        level = note.level_db or tuple([round(note.loudness_db)] * len(contour))
        step_s = CONTOUR_HOP_S if note.contour_cents else note.duration
        a_pixel = max(1, int((self.layout.time_at(1) - self.layout.time_at(0)) * 1.5 / CONTOUR_HOP_S))
        upper, lower = [], []
        for i in [*range(0, len(contour) - 1, a_pixel), len(contour) - 1]:
            x = self.layout.x_of(note.onset + i * step_s)
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
            base, contour = self.layout.string_y(self.layout.line_of(note)), self._transcribed[note.id]
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

    @cached_property
    def _transcribed(self) -> dict[int, NDArray[np.float64]]:
        return transcription_contours(self.opened.solo, self.opened.notes)

    def _paint_bend_rules(self, painter: QPainter, note: Note, base: float, semitone: float, highest: int) -> None:
        """Faint rules at a quarter, half and whole step."""
        painter.setFont(text_font(themes.SMALL))
        left, right = self.layout.x_of(note.onset) + 12, self.layout.x_of(note.end) - 2
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
        plate = self.layout.plate(note)
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
        text = "x" if note.muted else f"({text})" if note.technique("ghost") else text
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, text)
        if note.pins:
            bar = QRectF(plate.center().x() - 6, plate.bottom() + 1.5, 12, 3)
            painter.fillRect(bar, color(self.theme.pinned))

    def _paint_names(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """Signs over arrivals, and techniques in words where there is room."""
        taken = [self.layout.plate(note) for note in notes]
        for before, note in pairwise(notes):
            if sign := mark_text(note):
                taken.append(self._paint_arrival(painter, before, note, sign))
        painter.setPen(color(self.theme.quiet))
        painter.setFont(text_font(themes.SMALL))
        for note in notes:
            named = [t for t in note.techniques if t.name not in _DRAWN_AS_SIGNS]
            words = ", ".join(technique_name(t) for t in named)
            boxes = self._name_boxes(note, words) if words else []
            box = next((b for b in boxes if not any(b.intersects(other) for other in taken)), None)
            if box is not None:
                taken.append(box)
                self._named[note.id] = box
                painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)

    def _name_boxes(self, note: Note, words: str) -> list[QRectF]:
        """Where a name may stand, best first: over the ribbon, under it, well over it."""
        width = QFontMetricsF(text_font(themes.SMALL, bold=True)).horizontalAdvance(words) + 4
        high = self.layout.string_y(self.layout.line_of(note))
        high -= self.layout.semitone * max((*note.contour_cents, 0)) / 100
        left = min(max(self.layout.x_of(note.onset) - 8, MARGIN_LEFT), self.layout.right - width)
        least = self.layout.written + 12
        return [QRectF(left, max(y, least), width, 17) for y in (high - 28, high + 14, high - 46)]

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
            box = next((b for b in boxes if not any(b.intersects(p) for p in near)), boxes[2])
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

    def _paint_invitation(self, painter: QPainter) -> None:
        box = QRectF(MARGIN_LEFT, self.layout.first_string, self.layout.width - MARGIN_LEFT, self.layout.spacing * 5)
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
