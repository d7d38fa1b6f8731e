"""Start the desktop."""

import sys
from pathlib import Path

from PySide6.QtWidgets import QApplication

from eager_owl.desktop import theme as themes
from eager_owl.desktop.window import Window


def run(demo: bool, solo: Path | None, screenshot: Path | None, theme_name: str | None) -> int:
    """Open the window, on the demo or a file where asked; with `screenshot`, write its picture and end."""
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("eager-owl")
    app.setDesktopFileName("eager-owl")
    themes.load_fonts()
    window = Window(theme=themes.THEMES.get(theme_name or ""))
    window.show()
    if demo:
        window.open_demo()
    elif solo is not None:
        window.open_path(solo)
    if screenshot is None:
        return app.exec()
    window.wait_until_idle()
    if not window.grab().save(str(screenshot), "PNG"):
        raise ValueError(f"{screenshot} can't be written")
    return 0
