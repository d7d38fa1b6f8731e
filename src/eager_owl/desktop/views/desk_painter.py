"""The desk's picture: the measured tab between the sound above and the reasons below."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import Theme, color, head_font, text_font
from eager_owl.desktop.views.desk_layout import MARGIN_LEFT, DeskLayout
from eager_owl.desktop.views.note_painter import NotePainter
from eager_owl.desktop.views.reason_strip import ReasonStrip, bracket
from eager_owl.desktop.views.sound_painter import SoundPainter
from eager_owl.desktop.views.written_row import WrittenRow
from eager_owl.desktop.words import clock_text
from eager_owl.session.hearing import SURVEY_HOP_S
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.placing import find_sweeps
from eager_owl.solo.document import PLUCKED, Note
from eager_owl.theory.pitch import pitch_class_name, pretty

if TYPE_CHECKING:
    from eager_owl.session.sound_shown import SoundPicture

_NUMBERS_Y = 19.0
_LINE_PX = 1.0
_MARKS_S = (0.25, 0.5, 1, 2, 5, 10, 30, 60, 120, 300, 600, 1200, 3600)  # from one mark of time to the next
_MARKS = 14  # at most
_BAR_PX, _BEAT_PX = 6, 60  # a narrower bar has no line of its own, its beats have none
_BRACKETS_BELOW = 14.0  # under the line of the whole recording
_HELD_Y = 22.0  # a peg on a beat that the player holds in its place


class DeskPainter:
    """Paints one solo in one layout and theme."""

    def __init__(
        self, opened: OpenSolo, layout: DeskLayout, theme: Theme, picture: "SoundPicture | None" = None
    ) -> None:
        self.opened, self.layout, self.theme = opened, layout, theme
        self.sound = SoundPainter(picture, opened.notes, layout, theme) if picture is not None else None
        self.strip = ReasonStrip(opened, layout, theme)
        self.notes = NotePainter(opened, layout, theme)

    def paint(self, painter: QPainter) -> None:
        """All but the selection."""
        notes = [note for note in self.opened.notes if self.layout.shows(note)]
        painter.fillRect(QRectF(0, 0, self.layout.width, self.layout.height), color(self.theme.paper))
        if self.sound is not None:
            self.sound.paint(painter, notes)
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
        shown = [note for note in self.opened.notes if note.end > first and note.onset < last]
        if self.sound is not None:
            self.sound.paint(painter, shown)
        self._paint_wave(painter)
        self._paint_beats(painter)
        self._paint_tab(painter, shown, first, last)

    def _paint_tab(self, painter: QPainter, notes: Sequence[Note], first: float, last: float) -> None:
        self._paint_strings(painter)
        self._paint_written(painter, first, last)
        phrase = self.opened.phrase
        if phrase is not None:
            others = [other for other in phrase.others if other.end > first and other.onset < last]
            self.notes.paint_others(painter, others)
        self.notes.paint(painter, notes, ribbons=self.sound is None)

    def _label(self, painter: QPainter, y: float, words: str) -> None:
        painter.setFont(text_font(themes.SMALL))
        painter.setPen(color(self.theme.quiet))
        painter.drawText(QPointF(12, y), words)

    def _paint_wave(self, painter: QPainter) -> None:
        box = self.layout.wave
        self._label(painter, box.center().y() + 5, "sound")
        if self.opened.sound is None:
            painter.setPen(color(self.theme.quiet))
            by_hand = self.opened.solo.recording is None
            words = "no recording: Space plays what is written" if by_hand else "the recording is not there"
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
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
        stride = 1 if bar_px >= _BEAT_PX else grid.beats_per_bar * (1 if bar_px >= _BAR_PX else every)
        before = int(grid.beat_at(start)) - 1
        for beat in range(before - before % stride, int(grid.beat_at(end)) + 2, stride):
            time = grid.time_of(beat)
            if not start <= time <= end:
                continue
            first = beat % grid.beats_per_bar == 0
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
        step = next((s for s in _MARKS_S if s * _MARKS >= end - start), _MARKS_S[-1])
        painter.setFont(text_font(themes.SMALL))
        mark = -(-start // step) * step
        while mark <= end:
            x = self.layout.x_of(mark)
            painter.setPen(QPen(color(self.theme.rule), 1))
            painter.drawLine(QPointF(x, 6), QPointF(x, self.layout.wave.bottom()))
            painter.setPen(color(self.theme.quiet))
            words = clock_text(mark, short=True)
            if x + 4 + painter.fontMetrics().horizontalAdvance(words) < self.layout.width:
                painter.drawText(QPointF(x + 4, _NUMBERS_Y), words)
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
            self._paint_line(painter, box, survey.midi)
        y = box.bottom() + _BRACKETS_BELOW
        painter.setFont(text_font(themes.TEXT))
        for phrase in self.opened.solo.phrases:
            left, right = (min(max(self.layout.x_of(t), box.left()), box.right()) for t in (phrase.start, phrase.end))
            if right - left < 3:
                continue
            ink, solid = color(self.theme.ink), Qt.PenStyle.SolidLine
            bracket(painter, self.theme, left + 1, right - 1, y, phrase.name, ink, solid)
        if not self.layout.has_sentence:
            return
        painter.setFont(text_font(themes.TEXT, italic=True))
        painter.setPen(color(self.theme.ink))
        words = "Drag over a stretch, or press [ and ] while it plays; M makes it a phrase."
        room = int(self.layout.right - MARGIN_LEFT)
        shown = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(MARGIN_LEFT, self.layout.sentence), shown)

    def _paint_line(self, painter: QPainter, box: QRectF, midi: NDArray[np.float64]) -> None:
        """The lead's line, one point in the width of a pen at most."""
        first, last = (round(t / SURVEY_HOP_S) for t in (self.layout.start, self.layout.end))
        shown = midi[max(first, 0) : last]
        if not np.isfinite(shown).any():
            return
        low, high = float(np.nanmin(shown)) - 1, float(np.nanmax(shown)) + 1
        step = max(1, round(_LINE_PX / (SURVEY_HOP_S * self.layout.pixels_a_second)))
        at = max(first, 0) + np.arange(0, len(shown), step)
        heights = box.bottom() - box.height() * (midi[at] - low) / (high - low)
        painter.setPen(QPen(color(self.theme.ink), 2))
        points = zip((at * SURVEY_HOP_S).tolist(), heights.tolist(), strict=True)
        painter.drawPoints(QPolygonF([QPointF(self.layout.x_of(t), y) for t, y in points if y == y]))

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
        score = self.opened.settled_answers.score
        if score is None:
            painter.setFont(text_font(themes.SMALL))
            painter.setPen(color(self.theme.quiet))
            painter.drawText(
                QPointF(MARGIN_LEFT, self.layout.written + 6), "no beat yet: F sets tempo and first beat"
            )
        else:
            WrittenRow(score, self.layout, self.theme).paint(painter, left_s, right_s)

    def _paint_hand(self, painter: QPainter, notes: Sequence[Note]) -> None:
        """Where the hand stands, and where it shifts."""
        painter.setFont(text_font(themes.SMALL))
        metrics = QFontMetricsF(painter.font())
        y, free = self.layout.string_y(len(self.layout.tuning)) + 22, 0.0
        by_id = {note.id: note for note in notes}
        stands = self.opened.answers.hand.stands
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
        picked = self.opened.answers.strokes
        awkward = {every[i].id for i in self.opened.answers.crossings}
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
                painter.setFont(text_font(themes.SMALL, bold=note.stroke is not None, italic=True))
                painter.drawText(QPointF(x - 4, y + 5), PLUCKED[stroke])
                sign = []
            painter.drawPolyline(QPolygonF(sign))
            if note.id in awkward:
                painter.fillRect(QRectF(x - 5, y + 6.5, 10, 2.5), color(self.theme.here))
        painter.setPen(QPen(color(self.theme.ink), 1.3))
        for sweep in find_sweeps(every, picked):  # one move of the pick: a line over its strokes
            if every[sweep[0]].id in shown and every[sweep[-1]].id in shown:
                ends = [self.layout.x_of(every[i].onset) for i in (sweep[0], sweep[-1])]
                painter.drawLine(QPointF(ends[0] - 4, y - 7.5), QPointF(ends[1] + 4, y - 7.5))

    def _paint_invitation(self, painter: QPainter) -> None:
        """What a phrase without notes asks for; where another voice's are shown, under them."""
        box = QRectF(MARGIN_LEFT, self.layout.first_string, self.layout.width - MARGIN_LEFT, self.layout.spacing * 5)
        title, words = "Nothing written here yet", "Space loops it slowly.  H hears it and writes its notes."
        if self.opened.phrase is not None and self.opened.phrase.others:
            box.moveTop(self.layout.picks)
            title, words = "Another voice plays here", "Alt V takes its notes.  Alt Shift V lets it lead."
        card = QRectF(0, 0, 430, 76)
        card.moveCenter(box.center())
        painter.setPen(QPen(color(self.theme.string), 1))
        painter.setBrush(color(self.theme.paper))
        painter.drawRoundedRect(card, 8, 8)
        painter.setPen(color(self.theme.ink))
        painter.setFont(head_font())
        painter.drawText(card.adjusted(0, 12, 0, -36), Qt.AlignmentFlag.AlignCenter, title)
        painter.setFont(text_font())
        painter.drawText(card.adjusted(0, 36, 0, -8), Qt.AlignmentFlag.AlignCenter, words)
