"""The panel of the hands: other ways to play the phrase and their prices, picking strokes, and what can hurt."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QVBoxLayout

from eager_owl.desktop import theme as themes
from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.theme import text_font
from eager_owl.desktop.widgets.fields import choices, in_a_row, number, short_line, show_value
from eager_owl.desktop.widgets.rows import Button, quiet_label
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.placing import FINGERS, PAIN_WORDS, STYLES, Way, find_cautions, strings_known
from eager_owl.session.session import Session
from eager_owl.solo.document import Solo
from eager_owl.solo.edits import choose_picking
from eager_owl.theory.words import plural, plural_of


class _WayCard(QFrame):
    """One way to play the phrase, to be clicked."""

    clicked = Signal()

    def __init__(self, order: int, way: Way, looked_at: bool) -> None:
        super().__init__()
        self.setProperty("way", "here" if looked_at else "other")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(9, 5, 9, 6)
        layout.setSpacing(1)
        elsewhere = f"{plural(way.elsewhere, 'note')} elsewhere" if way.elsewhere else "on the desk"
        head = QLabel(f"{order}  {way.name}")
        head.setFont(text_font(themes.TEXT, bold=True))
        moved = QLabel(elsewhere)
        price = QLabel(way.price)
        price.setWordWrap(True)
        for label in (moved, price):
            label.setFont(text_font(themes.SMALL))
            label.setProperty("quiet", True)
        row = QHBoxLayout()
        row.addWidget(head, 1)
        row.addWidget(moved)
        layout.addLayout(row)
        layout.addWidget(price)
        self.setAccessibleName(f"Way {order}, {way.name}: {way.price}")

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.clicked.emit()


class Hands(Panel):
    """Ways are looked at on the neck, heard, and taken; the rest is written anew with every change."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.ways = session.ways
        self.ways.changed.connect(self._turn)
        layout = self.column
        self._title = self.heading()
        self._cautions = self.quiet()
        self._cards = QVBoxLayout()
        self._cards.setSpacing(5)
        layout.addLayout(self._cards)
        self.take_button = Button("Take   Ctrl U")
        self.take_button.setProperty("loud", True)
        self.take_button.clicked.connect(lambda: self.ways.take())
        self.hear_button = Button("Hear   Shift Enter")
        self.hear_button.clicked.connect(lambda: self.ways.hear())
        for button in (self.take_button, self.hear_button):
            button.setProperty("close", True)
        self.picking = choices("Picking")
        for name, style in STYLES.items():
            self.picking.addItem(f"{name} picking", name)
            self.picking.setItemData(self.picking.count() - 1, style.creed, Qt.ItemDataRole.ToolTipRole)
        self.picking.activated.connect(self._choose_picking)
        layout.addWidget(self.picking)
        self._crossings = self.quiet()
        self.heading("Your hand")
        self._hand = self.quiet()
        self.fingers = choices("Fingers")
        for name in FINGERS:
            self.fingers.addItem(f"{name}   Alt F", name)
        self.fingers.activated.connect(lambda: session.hand.choose_fingers(self.fingers.currentData()))
        layout.addWidget(self.fingers)
        self.hand_button, self.forget_button = Button("Do not use it   Alt H"), Button("Forget it   Alt ⇧ H")
        self.hand_button.clicked.connect(lambda: session.hand.toggle())
        self.forget_button.clicked.connect(lambda: session.hand.forget())
        for button in (self.hand_button, self.forget_button):
            button.setProperty("close", True)
        layout.addWidget(in_a_row(self.hand_button, self.forget_button))
        session.hand.changed.connect(self._hand_changed)
        self.heading("Mind more than")
        self.reach, self.rest = short_line("Comfortable reach in mm"), short_line("Minutes until a rest")
        reach_row = in_a_row(self.reach, QLabel("mm of reach,"), self.rest, QLabel("min"))
        layout.addWidget(reach_row)
        layout.addStretch(1)
        self.complaint = self.complaints()
        self.foot.addWidget(in_a_row(self.take_button, self.hear_button))
        self.foot.addWidget(self.back)
        for field in (self.reach, self.rest):
            field.editingFinished.connect(self._take_limits)

    def write(self, opened: OpenSolo) -> None:
        """Find the other ways, which takes a moment."""
        phrase, notes = opened.phrase, opened.notes
        self._title.setText(f"Ways to play “{phrase.name}”" if phrase else "Ways to play")
        self._show_ways(opened)
        self.picking.setCurrentIndex(max(self.picking.findData(opened.solo.picking), 0))
        self._crossings.setText(_picking_words(opened))
        self._show_hand()
        cautions = find_cautions(notes, opened.solo.instrument, self.session.resting.limits)
        words = [f"• {caution.words}." for caution in cautions[:3]]
        self._cautions.setText("\n".join([*words, PAIN_WORDS]))
        self._cautions.setVisible(bool(words))
        for field, value in (
            (self.reach, self.session.resting.limits.reach_mm),
            (self.rest, self.session.resting.limits.rest_min),
        ):
            show_value(field, f"{value:g}")

    def _turn(self) -> None:
        if self.opened is not None and self.isVisible():
            self._show_ways(self.opened)

    def _hand_changed(self) -> None:
        if self.opened is not None and self.isVisible():
            self.refresh()

    def _show_hand(self) -> None:
        hand = self.session.hand
        self._hand.setText(hand.words)
        self.fingers.setCurrentIndex(self.fingers.findData(hand.fingers))
        self.hand_button.setText(f"{'Do not use it' if hand.on else 'Use it'}   Alt H")
        for button in (self.hand_button, self.forget_button):
            button.setVisible(bool(hand.lessons))

    def _choose_picking(self) -> None:
        name = self.picking.currentData()
        self.take("picking", lambda solo: choose_picking(solo, name))

    def _show_ways(self, opened: OpenSolo) -> None:
        while (item := self._cards.takeAt(0)) is not None:
            if before := item.widget():  # which goes later, for a click in it may have asked for this
                before.hide()
                before.deleteLater()
        here = None
        for index, way in enumerate(self.ways.ways):
            card = _WayCard(index + 1, way, index == self.ways.at)
            card.clicked.connect(lambda i=index: self.ways.look_at(i))
            self._cards.addWidget(card)
            here = card if index == self.ways.at > 0 else here
        if not self.ways.ways:
            self._cards.addWidget(QLabel("Choose a phrase with notes: Page down."))
        else:
            self._cards.addWidget(quiet_label(_sound_words(opened.solo)))
        if here is not None:
            self.column.activate()
            self._area.ensureWidgetVisible(here)
        self.take_button.setEnabled(self.ways.at > 0)
        self.hear_button.setEnabled(bool(self.ways.ways))

    def _take_limits(self) -> None:
        self.complain("")
        try:
            self.session.resting.set_limits(number(self.reach.text()), number(self.rest.text()))
        except ValueError as error:
            self.complain(str(error))
            return
        self.refresh()


def _sound_words(solo: Solo) -> str:
    """What the sound can say of the strings: nothing before a few long notes are pinned."""
    known = strings_known(solo)
    if known.enough:
        strings = ", ".join(f"{string} ({plural(n, 'note')})" for string, n in sorted(known.counts.items()))
        return f"The sound weighs in: it knows strings {strings}."
    return "The sound does not tell strings apart yet: pin the place of a few long, plain notes on two strings."


def _picking_words(opened: OpenSolo) -> str:
    crossings = opened.answers.crossings
    if not crossings:
        return "No awkward crossing in this phrase."
    listed = ", ".join(str(i + 1) for i in crossings[:6]) + ("…" if len(crossings) > 6 else "")
    return f"{plural(len(crossings), 'awkward crossing')}: to {plural_of('note', len(crossings))} {listed}."
