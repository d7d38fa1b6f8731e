"""Start the desktop."""

import logging
import os
import sys
from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

from eager_owl.log import log_fault
from eager_owl.session.session import Session

LOG = logging.getLogger(__name__)
# Any of these says where to draw.
_DISPLAYS = ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")
_LEVELS = {
    QtMsgType.QtDebugMsg: logging.DEBUG,
    QtMsgType.QtInfoMsg: logging.INFO,
    QtMsgType.QtWarningMsg: logging.WARNING,
    QtMsgType.QtCriticalMsg: logging.ERROR,
    QtMsgType.QtFatalMsg: logging.CRITICAL,
}


def run(demo: bool, file: Path | None, screenshot: Path | None, theme_name: str | None) -> int:
    """Open the window, on the demo or a file where asked; with `screenshot`, write its picture and end."""
    qInstallMessageHandler(log_toolkit)
    # Only now: the multimedia back-end has things to say as soon as it is loaded.
    from eager_owl.desktop import theme as themes
    from eager_owl.desktop.waiting import wait_until_idle
    from eager_owl.desktop.window import SIZE, Window

    if not any(os.environ.get(name) for name in _DISPLAYS):
        # A machine without a monitor is a normal one: the window is drawn all the same, where pictures can be taken.
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        if screenshot is None:
            print(
                "eager-owl: there is no display here, so the window can't be seen (--screenshot FILE.png draws it)",
                file=sys.stderr,
            )
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("eager-owl")
    app.setDesktopFileName("eager-owl")
    themes.load_fonts()
    window = Window(theme=themes.THEMES.get(theme_name or ""))
    sys.excepthook = lambda kind, fault, traceback: tell_fault(window.session, fault)
    window.show()
    if demo:
        window.session.keeping.open_demo()
    elif file is not None:
        window.session.keeping.open_path(file)
    if screenshot is None:
        return app.exec()
    window.resize(*SIZE)  # a picture has no screen to fit
    wait_until_idle(window)
    if not window.grab().save(str(screenshot), "PNG"):
        raise ValueError(f"{screenshot} can't be written")
    return 0


def log_toolkit(kind: QtMsgType, _context: QMessageLogContext, message: str) -> None:
    """What the toolkit and its back-ends say goes to the log, not to the terminal."""
    LOG.log(_LEVELS.get(kind, logging.WARNING), "%s", message)
    if kind is QtMsgType.QtFatalMsg:
        print(f"eager-owl: {message}", file=sys.stderr)


def tell_fault(session: Session, fault: BaseException) -> None:
    """A fault in answering a key or the mouse: work is journalled, the fault written down and told."""
    words = log_fault("the window", fault)
    with suppress(Exception):  # what is at fault may be what would be journalled
        session.keeping.unsaved.write()
    print(f"eager-owl: {words}", file=sys.stderr)
    session.tell(words, lasting=True)
