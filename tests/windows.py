"""The real window, driven by keys and the mouse as a player would, on a simulated sound device."""

from collections.abc import Callable
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QPoint, QSettings, Qt, qInstallMessageHandler
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QMessageBox, QPushButton, QWidget

from eager_owl.desktop import theme as themes
from eager_owl.desktop.adapters import QtClock
from eager_owl.desktop.app import log_toolkit
from eager_owl.desktop.panels.panel import Panel
from eager_owl.desktop.theme import DAY
from eager_owl.desktop.waiting import wait_until_idle
from eager_owl.desktop.widgets.rows import Row
from eager_owl.desktop.window import SIZE, Window
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.player import SimulatedDevice
from eager_owl.solo.document import Solo
from tests.sessions import Cached

qInstallMessageHandler(log_toolkit)
APP = QApplication.instance() or QApplication([])
themes.load_fonts()

ALT, CTRL, SHIFT = (
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
KEY = Qt.Key


class WindowCase(Cached):
    def setUp(self) -> None:
        super().setUp()
        QSettings("eager-owl", "eager-owl").clear()
        self.device = SimulatedDevice(QtClock())
        self.window = self.new_window()

    def new_window(self) -> Window:
        window = Window(self.device, DAY)
        window.resize(*SIZE)  # the screen without a monitor is smaller
        window.show()
        window.activateWindow()
        self.assertTrue(QTest.qWaitForWindowActive(window))
        self.addCleanup(self.close, window)
        return window

    def close(self, window: Window) -> None:
        wait_until_idle(window)
        with mock.patch.object(QMessageBox, "question", return_value=QMessageBox.StandardButton.Discard):
            window.close()
        window.deleteLater()
        APP.processEvents()

    def demo(self) -> None:
        self.window.session.keeping.open_demo()
        self.settle()

    def open(self, path: Path) -> None:
        self.window.session.keeping.open_path(path)
        self.settle()

    def settle(self) -> None:
        wait_until_idle(self.window)

    def press(self, key: Qt.Key, modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.window, key, modifiers)
        self.settle()

    def drag(self, widget: QWidget, start: QPoint, end: QPoint) -> None:
        left = Qt.MouseButton.LeftButton
        QTest.mousePress(widget, left, Qt.KeyboardModifier.NoModifier, start)
        for share in (0.3, 0.7, 1.0):
            QTest.mouseMove(widget, start + (end - start) * share)
            APP.processEvents()
        QTest.mouseRelease(widget, left, Qt.KeyboardModifier.NoModifier, end)
        self.settle()

    def play_until(self, reached: Callable[[], bool]) -> None:
        """Let the device pull faster than the clock; it gets silence where the stretching is not done yet."""
        for _ in range(2000):
            self.device.advance(0.5)
            QTest.qWait(5)
            if reached():
                return
        self.fail("it was never reached")

    def panel(self, name: str) -> Panel:
        return self.window.side.panel(name)

    @property
    def opened(self) -> OpenSolo:
        return self.window.session.solo

    @property
    def solo(self) -> Solo:
        return self.opened.solo

    @property
    def chosen(self) -> list[int]:
        return list(self.opened.view.selection)

    @property
    def notice(self) -> str:
        return self.window.notice.words.text() if self.window.notice.isVisible() else ""

    def answer(self, words: str) -> None:
        button = next(b for b in self.window.notice.findChildren(QPushButton) if b.text() == words)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.settle()


def rows(panel: QWidget) -> list[Row]:
    return [row for row in panel.findChildren(Row) if row.isVisible()]


def said(panel: QWidget) -> str:
    return "\n".join(label.text() for label in panel.findChildren(QLabel))


def click(widget: QWidget) -> None:
    QTest.mouseClick(widget, Qt.MouseButton.LeftButton)
