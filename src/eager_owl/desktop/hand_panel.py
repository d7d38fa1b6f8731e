"""The panel of the hands: other ways to play the phrase and their prices, picking strokes, and what can hurt."""

from PySide6.QtCore import QSettings, Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.facts import beside, number, text_line
from eager_owl.desktop.open_solo import OpenSolo
from eager_owl.desktop.side_panel import SidePanel, quiet_label, turn_page
from eager_owl.desktop.theme import text_font
from eager_owl.neck.cautions import PAIN_WORDS, Limits, find_cautions
from eager_owl.neck.picking import STYLES, awkward_crossings
from eager_owl.session import Way, picking, strings_known, ways
from eager_owl.solo.edits import choose_picking, take_places

_LIMIT_KEYS = {"reach_mm": "limits/reach_mm", "bend_s": "limits/bend_s", "rest_min": "limits/rest_min"}


def read_limits(settings: QSettings) -> Limits:
    """The player's bounds as they were last set; the usual ones where they make no sense."""
    try:
        return Limits(
            **{name: float(str(settings.value(key, getattr(Limits(), name)))) for name, key in _LIMIT_KEYS.items()}
        )
    except ValueError:
        return Limits()


class _WayCard(QFrame):
    """One way to play the phrase, to be clicked."""

    clicked = Signal()

    def __init__(self, order: int, way: Way, looked_at: bool) -> None:
        super().__init__()
        self.setProperty("way", "here" if looked_at else "other")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(9, 5, 9, 6)
        layout.setSpacing(1)
        elsewhere = f"{way.elsewhere} note{'s' * (way.elsewhere != 1)} elsewhere" if way.elsewhere else "on the desk"
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


class HandPanel(SidePanel):
    """Ways are looked at on the neck, heard, and taken; the rest is written anew with every change."""

    hear_asked = Signal()

    def __init__(self, settings: QSettings) -> None:
        super().__init__("Shift N")
        self._settings = settings
        self.limits = read_limits(settings)
        self._ways: list[Way] = []
        self._at = 0
        layout = self.column
        self._title = self.heading()
        self._scroll = self.scrolled()
        self.take_button = QPushButton("Take it   Ctrl U")
        self.take_button.setProperty("loud", True)
        self.take_button.clicked.connect(self.take_way)
        self.hear_button = QPushButton("Hear it   Shift Enter")
        self.hear_button.clicked.connect(self.hear_asked)
        layout.addWidget(beside(self.take_button, self.hear_button))
        self.picking = QComboBox()
        self.picking.setAccessibleName("Picking")
        for name, style in STYLES.items():
            self.picking.addItem(f"{name} picking", name)
            self.picking.setItemData(self.picking.count() - 1, style.creed, Qt.ItemDataRole.ToolTipRole)
        self.picking.activated.connect(lambda: self._choose_picking(self.picking.currentData()))
        layout.addWidget(self.picking)
        self._crossings = self.quiet()
        self.heading("Mind")
        self._cautions = self.quiet()
        self.reach, self.rest = text_line("Comfortable reach in mm"), text_line("Minutes until a rest")
        reach_row = beside(QLabel("reach to"), self.reach, QLabel("mm, rest after"), self.rest, QLabel("min"))
        layout.addWidget(reach_row)
        self.complaint = self.complaints()
        layout.addWidget(self.back)
        for field in (self.reach, self.rest):
            field.editingFinished.connect(self._take_limits)
        for button in (self.take_button, self.hear_button):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def show_solo(self, opened: OpenSolo) -> None:
        """Show this solo's hands."""
        self._ways, self._at = [], 0
        super().show_solo(opened)

    def write(self, opened: OpenSolo) -> None:
        """Find the other ways, which takes a moment."""
        phrase, notes = opened.phrase, opened.notes
        self._title.setText(f"Ways to play “{phrase.name}”" if phrase else "Ways to play")
        before = [way.notes for way in self._ways]
        self._ways = ways(opened.solo, notes) if phrase and notes else []
        if [way.notes for way in self._ways] != before:
            self._at = 0
        self._show_ways()
        self.picking.setCurrentIndex(max(self.picking.findData(opened.solo.picking), 0))
        self._crossings.setText(self._picking_words())
        cautions = find_cautions(notes, opened.solo.instrument, self.limits)
        words = [f"• {caution.words}." for caution in cautions[:3]]
        self._cautions.setText(
            "\n".join([*words, PAIN_WORDS]) if words else "Nothing out of the ordinary in this phrase."
        )
        for field, value in ((self.reach, self.limits.reach_mm), (self.rest, self.limits.rest_min)):
            if not field.hasFocus():
                field.setText(f"{value:g}")

    def _show_ways(self) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(5)
        here = None
        for index, way in enumerate(self._ways):
            card = _WayCard(index + 1, way, index == self._at)
            card.clicked.connect(lambda i=index: self.look_at(i))
            column.addWidget(card)
            here = card if index == self._at else here
        if not self._ways:
            column.addWidget(QLabel("Choose a phrase with notes: Page down."))
        elif (told := self._sound_words()) != "":
            column.addWidget(quiet_label(told))
        column.addStretch(1)
        turn_page(self._scroll, page)
        if here is not None:
            column.activate()
            self._scroll.ensureWidgetVisible(here)
        self.take_button.setEnabled(self._at > 0)
        self.hear_button.setEnabled(bool(self._ways))

    def _sound_words(self) -> str:
        """What the sound can say of the strings: nothing before a few long notes are pinned."""
        assert self._open is not None
        known = strings_known(self._open.solo)
        if known.enough:
            strings = ", ".join(f"{s} ({n} note{'s' * (n > 1)})" for s, n in sorted(known.counts.items()))
            return f"The sound weighs in: it knows strings {strings}."
        return "The sound does not tell strings apart yet: pin the place of a few long, plain notes on two strings."

    def _picking_words(self) -> str:
        assert self._open is not None
        notes = self._open.notes
        crossings = awkward_crossings(notes, picking(self._open.solo, notes))
        if not crossings:
            return "No awkward crossing in this phrase."
        listed = ", ".join(str(i + 1) for i in crossings[:6]) + ("…" if len(crossings) > 6 else "")
        one = len(crossings) == 1
        return f"{len(crossings)} awkward crossing{'' if one else 's'}: to note{'' if one else 's'} {listed}."

    # Acting

    @property
    def looked_at(self) -> Way | None:
        """The way that is looked at."""
        return self._ways[self._at] if self._ways else None

    def look_at(self, index: int) -> None:
        """Look at a way on the neck."""
        if self._open is None or not self._ways:
            return
        self._at = index % len(self._ways)
        self._show_ways()
        self._open.try_notes(self._ways[self._at].notes if self._at else ())

    def next_way(self) -> None:
        """Look at the next way."""
        self.look_at(self._at + 1)

    def previous_way(self) -> None:
        """Look at the way before."""
        self.look_at(self._at - 1)

    def take_way(self) -> None:
        """Play the phrase as it is looked at; its places are pinned."""
        if self._open is not None and (way := self.looked_at) is not None and self._at:
            self._open.do(f"play it {way.name}", lambda solo: take_places(solo, way.notes))

    def next_picking(self) -> None:
        """The next style of picking."""
        if self._open is not None:
            names = list(STYLES)
            self._choose_picking(names[(names.index(self._open.solo.picking) + 1) % len(names)])

    def _choose_picking(self, name: str) -> None:
        if self._open is not None:
            self._open.do("picking", lambda solo: choose_picking(solo, name))

    def _take_limits(self) -> None:
        try:
            self.limits = Limits(number(self.reach.text()), self.limits.bend_s, number(self.rest.text()))
        except ValueError as error:
            self.complain(str(error))
            return
        self.complain("")
        for name, key in _LIMIT_KEYS.items():
            self._settings.setValue(key, getattr(self.limits, name))
        self.refresh()
