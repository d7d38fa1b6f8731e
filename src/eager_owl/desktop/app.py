"""Start the desktop."""

import os
import sys
from pathlib import Path

from PySide6.QtWidgets import QApplication

from eager_owl.desktop import theme as themes
from eager_owl.desktop.waiting import wait_until_idle
from eager_owl.desktop.window import Window

# Any of these says where to draw.
_DISPLAYS = ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")


def run(demo: bool, solo: Path | None, screenshot: Path | None, theme_name: str | None) -> int:
    """Open the window, on the demo or a file where asked; with `screenshot`, write its picture and end."""
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
    window.show()
    if demo:
        window.session.keeping.open_demo()
    elif solo is not None:
        window.session.keeping.open_path(solo)
    if screenshot is None:
        return app.exec()
    wait_until_idle(window)
    if not window.grab().save(str(screenshot), "PNG"):
        raise ValueError(f"{screenshot} can't be written")
    return 0
