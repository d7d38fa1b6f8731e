"""The phrase rail: the whole solo as a row of tiles, one a phrase, each drawn from its own measured contour."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.theme import color, text_font, worn
from eager_owl.desktop.views.note_painter import paint_remark
from eager_owl.session.hearing import SURVEY_HOP_S
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.session import Session
from eager_owl.solo.document import CONTOUR_HOP_S, STAGES, Phrase, Solo

_HEIGHT, _LOW_HEIGHT, _GAP = 84, 32, 8
_LEAST_WIDTH, _MOST_WIDTH = 120, 260
_WHOLE_WIDTH = 64


class RailStrip(QWidget):
    """The tiles themselves. Index -1 is the tile of the whole recording."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.low = False
        self._drawn: Solo | None = None
        self._lines: dict[Phrase, list[list[tuple[float, float]]]] = {}  # of the document drawn
        self.setFixedHeight(_HEIGHT)
        self.setAccessibleName("Phrase rail")

    @property
    def tile_height(self) -> int:
        """How high the tiles are."""
        return _LOW_HEIGHT if self.low else _HEIGHT

    @property
    def _open(self) -> OpenSolo | None:
        return self._session.opened

    def refresh(self) -> None:
        """Draw anew after any change."""
        self.setMinimumWidth(int(self._tiles()[-1][1].right()) + 1 if self._open else 100)
        if self._open:
            phrase = self._open.phrase
            words = f"{phrase.name}: {self._stage_words(phrase)}" if phrase else "the whole recording"
            self.setAccessibleDescription(words)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), self.tile_height)

    def tile(self, index: int) -> QRectF:
        """Where a phrase's tile stands."""
        return dict(self._tiles())[index]

    def _tiles(self) -> list[tuple[int, QRectF]]:
        assert self._open is not None
        tiles = [(-1, QRectF(0.5, 0.5, _WHOLE_WIDTH, self.tile_height - 1))]
        phrases = self._open.solo.phrases
        if not phrases:
            return tiles
        total = sum(phrase.end - phrase.start for phrase in phrases)
        parent = self.parentWidget()
        room = (parent.width() if parent else 1200) - _WHOLE_WIDTH - _GAP * len(phrases) - 2
        shares = [room * (phrase.end - phrase.start) / total for phrase in phrases]
        widths = [min(max(share, _LEAST_WIDTH), _MOST_WIDTH) for share in shares]
        spare = room - sum(widths)
        if spare < 0:
            # Wider tiles give way first; none gets narrower than its name needs.
            loose = [width - _LEAST_WIDTH for width in widths]
            give = min(1.0, -spare / sum(loose)) if sum(loose) else 0.0
            widths = [width - give * slack for width, slack in zip(widths, loose, strict=True)]
        left = _WHOLE_WIDTH + _GAP + 0.5
        for index, width in enumerate(widths):
            tiles.append((index, QRectF(left, 0.5, width, self.tile_height - 1)))
            left += width + _GAP
        return tiles

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for index, tile in self._tiles() if self._open else []:
            if self._open and tile.contains(event.position()):
                self._open.look_at_phrase(None if index < 0 else index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._open is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            here = -1 if self._open.view.phrase is None else self._open.view.phrase
            for index, tile in self._tiles():
                self._paint_card(painter, tile, index == here)
                if index < 0:
                    painter.setFont(text_font(themes.TEXT))
                    painter.setPen(color(worn().ink))
                    painter.drawText(tile, Qt.AlignmentFlag.AlignCenter, "whole")
                else:
                    self._paint_phrase(painter, tile, index, self._open.solo.phrases[index], index == here)

    def _paint_card(self, painter: QPainter, tile: QRectF, here: bool) -> None:
        painter.setPen(QPen(color(worn().here if here else worn().rule), 2 if here else 1))
        painter.setBrush(color(worn().here_wash if here else worn().paper))
        painter.drawRoundedRect(tile.adjusted(1, 1, -1, -1), 6, 6)

    def _paint_phrase(self, painter: QPainter, tile: QRectF, index: int, phrase: Phrase, here: bool) -> None:
        painter.setPen(color(worn().ink))
        painter.setFont(text_font(themes.TEXT, bold=here))
        title = painter.fontMetrics().elidedText(
            f"{index + 1}  {phrase.name}", Qt.TextElideMode.ElideRight, int(tile.width()) - 20
        )
        painter.drawText(QPointF(tile.left() + 10, tile.top() + 20), title)
        if self._remarked(phrase):
            paint_remark(painter, QPointF(tile.right() - 9, tile.top() + 9), worn())
        if self.low:
            return
        self._paint_contour(painter, tile.adjusted(10, 28, -10, -30), phrase)
        painter.setFont(text_font(themes.SMALL))
        words = self._stage_words(phrase)
        width = painter.fontMetrics().horizontalAdvance(words)
        painter.setPen(color(worn().ink if here else worn().quiet))
        painter.drawText(QPointF(tile.right() - 10 - width, tile.bottom() - 9), words)
        reached = STAGES.index(phrase.stage) if words == phrase.stage else 0
        for step in range(len(STAGES) - 1):
            box = QRectF(tile.left() + 10 + step * 10, tile.bottom() - 16, 7, 7)
            if box.right() > tile.right() - 14 - width:
                break
            painter.setPen(QPen(color(worn().pinned), 1))
            painter.setBrush(color(worn().pinned) if step < reached else Qt.BrushStyle.NoBrush)
            painter.drawRect(box)

    def _stage_words(self, phrase: Phrase) -> str:
        """How far a phrase has come; where all that was heard is another voice's, there is nothing to work on."""
        assert self._open is not None
        return "another voice" if phrase.others and not self._open.solo.notes_in(phrase) else phrase.stage

    def _paint_contour(self, painter: QPainter, box: QRectF, phrase: Phrase) -> None:
        assert self._open is not None
        heard = self._contours(phrase)
        points = heard or self._surveyed(phrase)
        if not points:
            return
        pitches = [pitch for line in points for _, pitch in line]
        low, high = min(pitches), max(max(pitches), min(pitches) + 4)

        def at(time: float, pitch: float) -> QPointF:
            x = box.left() + box.width() * (time - phrase.start) / (phrase.end - phrase.start)
            return QPointF(x, box.bottom() - box.height() * (pitch - low) / (high - low))

        painter.save()
        painter.setClipRect(box.adjusted(-2, -2, 2, 2))  # a last note may sound on past its phrase
        if heard:
            painter.setPen(QPen(color(worn().ink), 1.5))
            for line in points:
                painter.drawPolyline(QPolygonF([at(*point) for point in line]))
        else:
            painter.setPen(QPen(color(worn().quiet), 1.6))
            painter.drawPoints(QPolygonF([at(*point) for line in points for point in line[::2]]))
        painter.restore()

    def _contours(self, phrase: Phrase) -> list[list[tuple[float, float]]]:
        """Its notes' contours, found once for a document: a walk through the notes draws the rail anew."""
        assert self._open is not None
        if self._drawn is not self._open.solo:
            self._drawn, self._lines = self._open.solo, {}
        if phrase not in self._lines:
            self._lines[phrase] = contour_points(self._drawn, phrase)
        return self._lines[phrase]

    def _remarked(self, phrase: Phrase) -> bool:
        """Whether anything is remarked of it, or inside it."""
        assert self._open is not None
        solo = self._open.solo
        spans = (remark.span for remark in solo.remarks if remark.span)
        inside = any(note.remarks for note in solo.notes_in(phrase))
        return bool(phrase.remarks) or inside or any(a < phrase.end and b > phrase.start for a, b in spans)

    def _surveyed(self, phrase: Phrase) -> list[list[tuple[float, float]]]:
        """Where nothing is heard yet, the line that the whole recording's survey found."""
        assert self._open is not None
        if self._open.sound is None or self._open.sound.survey is None:
            return []
        midi = self._open.sound.survey.midi
        first, last = int(phrase.start / SURVEY_HOP_S), int(phrase.end / SURVEY_HOP_S)
        return [[((first + i) * SURVEY_HOP_S, float(m))] for i, m in enumerate(midi[first:last]) if np.isfinite(m)]


def contour_points(solo: Solo, phrase: Phrase) -> list[list[tuple[float, float]]]:
    """(time, pitch) of a phrase's notes as they were measured, a line a note."""
    lines = []
    for note in solo.notes_in(phrase):
        if note.contour_cents:
            lines.append(
                [
                    (note.onset + i * CONTOUR_HOP_S, note.pitch + cents / 100)
                    for i, cents in list(enumerate(note.contour_cents))[::3]
                ]
            )
        else:
            lines.append([(note.onset, float(note.pitch)), (note.end, float(note.pitch))])
    return lines


class Rail(QScrollArea):
    """The strip, scrolled sideways where there are many phrases."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.strip = RailStrip(session)
        self.setWidget(self.strip)
        self.setWidgetResizable(True)
        self.setFixedHeight(_HEIGHT + 2)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def set_low(self, low: bool) -> None:
        """Tiles without a picture, where the window is low."""
        self.strip.low = low
        self.strip.setFixedHeight(self.strip.tile_height)
        self.setFixedHeight(self.strip.tile_height + 2)

    def refresh(self) -> None:
        """Draw anew; the phrase on the desk is kept in sight."""
        self.strip.refresh()
        opened = self._session.opened
        if opened and opened.view.phrase is not None:
            tile = self.strip.tile(opened.view.phrase)
            self.ensureVisible(int(tile.center().x()), 10, int(tile.width() / 2) + 10, 0)
