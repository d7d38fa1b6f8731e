"""The main window: puts the views, panels and pages together, binds the commands, and is the session's screen."""

from pathlib import Path

from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QIcon, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QMainWindow, QStackedWidget, QWidget

from eager_owl import ASSETS
from eager_owl.desktop import theme as themes
from eager_owl.desktop.adapters import QtClock, QtDialogs, QtSettings, QtWorkers
from eager_owl.desktop.centre import Centre
from eager_owl.desktop.entries import all_commands
from eager_owl.desktop.panels.panel import NARROWEST, WIDEST
from eager_owl.desktop.side import Side
from eager_owl.desktop.sound_device import default_device
from eager_owl.desktop.theme import DAY, DUSK, THEMES, Theme, text_font, worn
from eager_owl.desktop.views.rail import Rail
from eager_owl.desktop.widgets.finder import Finder
from eager_owl.desktop.widgets.head import Head
from eager_owl.desktop.widgets.help_sheet import HelpSheet
from eager_owl.desktop.widgets.notice import Notice
from eager_owl.desktop.widgets.rows import column_in, scrolling_about
from eager_owl.desktop.widgets.transport import Transport
from eager_owl.desktop.widgets.welcome import Welcome
from eager_owl.session.commands import Command
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.ports import Device, Drawing, Ports
from eager_owl.session.session import Session

_BESIDE_MS = 20  # the views beside the desk follow it by this, once for all that changed meanwhile
_NARROW_PX = 1050  # narrower than this the side is too
SIZE, _LEAST_SIZE = (1280, 800), (820, 530)
_LOW_PX, _LOWEST_PX = 730, 640  # lower than these the rail becomes a line, and the neck gives way


def _drawing() -> Drawing:
    """What draws sheets, loaded once there is one to draw."""
    from eager_owl.desktop.drawing import Drawing

    return Drawing()


class Window(QMainWindow):
    """Eager Owl's one window."""

    def __init__(self, device: Device | None = None, theme: Theme | None = None) -> None:
        super().__init__()
        settings, clock = QtSettings(), QtClock()
        themes.apply(theme or THEMES.get(str(settings.read("theme")), DAY))
        ports = Ports(clock, QtWorkers(), device or default_device(clock), QtDialogs(self), settings, _drawing)
        self.session = Session(ports, all_commands())
        self.session.attach(self)
        self._build()
        self._bind()
        self._beside_timer = QTimer(self, singleShot=True, interval=_BESIDE_MS)
        self._beside_timer.timeout.connect(self._refresh_beside)
        self.session.shown.connect(self._show_solo)
        self.session.refreshed.connect(self._refresh)
        self.session.told.connect(self.notice.tell)
        self.session.asked.connect(self.notice.ask)
        self.session.answered.connect(self.notice.drop)
        self.head.refresh()
        self.welcome.recording_button.setFocus()
        self.session.keeping.unsaved.offer_never_saved()

    # Building

    def _build(self) -> None:
        session = self.session
        self.setFont(text_font())
        self.setWindowIcon(QIcon(str(ASSETS / "eager-owl.svg")))
        self.head, self.notice, self.rail = Head(session), Notice(), Rail(session)
        self.centre, self.side = Centre(session), Side(session)
        self.transport, self.welcome = Transport(session), Welcome(session)
        self.desk = self.centre.desk
        middle = QHBoxLayout()
        middle.setSpacing(10)
        middle.addWidget(self.centre, 1)
        middle.addWidget(self.side)
        opened = QWidget()
        layout = column_in(opened, self.rail)
        layout.addLayout(middle, 1)
        layout.addWidget(self.transport)
        self.stages = QStackedWidget()
        self.stages.addWidget(self.welcome)
        self.stages.addWidget(opened)
        self._central = central = QWidget()
        column_in(central, self.head, self.notice, self.stages).setContentsMargins(18, 8, 18, 12)
        self._area = scrolling_about(central)
        self.setCentralWidget(self._area)
        self.sheet, self.finder = HelpSheet(session.commands.values(), central), Finder(session, central)
        self._fit_screen()

    def _fit_screen(self) -> None:
        """Never larger than the screen, whatever its scaling; what has no room at all is scrolled to."""
        room = self.screen().availableGeometry()
        self.resize(min(SIZE[0], room.width()), min(SIZE[1], room.height()))

    def _bind(self) -> None:
        for command in self.session.commands.values():
            action = QAction(command.words, self)
            action.setShortcuts([QKeySequence(keys) for keys in command.keys])
            action.triggered.connect(lambda _=False, command=command: self._run(command))
            self.addAction(action)

    def _run(self, command: Command) -> None:
        if self.sheet.isVisible():
            self.sheet.turn()
        else:
            self.session.run(command)

    # The session's screen

    def show_panel(self, name: str) -> None:
        """A panel beside the desk, or the evidence again."""
        (self.side.toggle(name) or self.desk).setFocus()

    def show_page(self, name: str) -> None:
        """A page instead of the desk, or the desk again."""
        self.centre.toggle(name)

    def show_desk(self) -> None:
        """The desk, if a page has its place."""
        self.centre.show_desk()

    def zoom(self, by: int) -> None:
        """Look closer or step back."""
        self.centre.zoom(by)

    def show_neck_large(self) -> None:
        """The neck alone and large, or the desk again."""
        self.centre.toggle_neck()

    def print_sheet(self) -> None:
        """Preview the sheet for the printer."""
        from eager_owl.desktop.printing import preview_sheet  # only where it is printed

        preview_sheet(self.session.sheets.laid(), self)

    def picture_of_desk(self, path: Path) -> bool:
        """Write the desk as it stands to a PNG or SVG file; answers whether it could."""
        from eager_owl.desktop.printing import write_picture

        return write_picture(self.desk, path)

    def next_theme(self) -> None:
        """Day or dusk."""
        themes.apply(DUSK if worn() is DAY else DAY)
        self.session.ports.settings.write("theme", worn().name)
        self.head.refresh()
        self._refresh()

    def show_help(self) -> None:
        """The sheet of all keys, or away with it."""
        self.sheet.toggle()

    def find_command(self) -> None:
        """The command finder."""
        self.finder.ask()

    # What changes

    def _show_solo(self, opened: OpenSolo) -> None:
        # The desk answers at once; everything else follows when the edit has settled.
        opened.changed.connect(self.desk.refresh_notes)
        opened.settled.connect(self._refresh)
        opened.view_changed.connect(self._on_view)
        opened.cursor_moved.connect(self.desk.show_cursor)
        opened.cursor_moved.connect(self.transport.show_position)
        self.stages.setCurrentIndex(1)
        self.side.show_solo(opened)
        self._refresh()
        self.desk.setFocus()

    def _on_view(self) -> None:
        self.desk.show_selection()
        self._beside_timer.start()

    def _refresh(self) -> None:
        if self.session.opened is not None:
            self.desk.refresh()
            self._beside_timer.start()

    def catch_up(self) -> None:
        """Show now what would follow shortly."""
        if self._beside_timer.isActive():
            self._refresh_beside()

    def _refresh_beside(self) -> None:
        """All but the desk."""
        self._beside_timer.stop()
        if self.session.opened is not None:
            for view in (self.rail, self.centre, self.side, self.head, self.transport):
                view.refresh()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.session.keeping.may_leave():
            event.ignore()
            return
        self.session.keeping.leave()
        self.session.hand.leave()
        self.session.player.close()
        self.session.jobs.cancel_all()
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:  # a field has claimed it from the shortcut, and has no use for it
            self.centre.take_keys()
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._central.resize(self._area.size().expandedTo(QSize(*_LEAST_SIZE)))
        self.sheet.setGeometry(self._central.rect())
        self.rail.set_low(self.height() < _LOW_PX)
        self.centre.set_low(self.height() < _LOWEST_PX)
        self.side.setFixedWidth(WIDEST if self.width() > _NARROW_PX else NARROWEST)
        self.rail.refresh()
