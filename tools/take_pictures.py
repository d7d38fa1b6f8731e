"""Take the pictures of docs/screenshots from the demo, offscreen, at 1280x800.

Run as `PYTHONPATH=src .venv/bin/python tools/take_pictures.py` after a view has changed.
"""

import os
import tempfile
import time
from pathlib import Path

FOLDER = Path(__file__).resolve().parents[1] / "docs/screenshots"

os.environ["QT_QPA_PLATFORM"] = "offscreen"
for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME"):
    os.environ[name] = tempfile.mkdtemp()

from PySide6.QtWidgets import QApplication  # noqa: E402

from eager_owl.desktop import theme as themes  # noqa: E402
from eager_owl.desktop.playback import SimulatedDevice  # noqa: E402
from eager_owl.desktop.window import Window  # noqa: E402


def main() -> None:
    """Walk through the demo and take each view."""
    app = QApplication([])
    themes.load_fonts()
    window = Window(SimulatedDevice(), themes.DAY)
    window.resize(1280, 800)
    window.show()

    def take(view: str) -> None:
        app.processEvents()
        window.grab().save(str(FOLDER / f"{view}.png"))

    take("first-run")
    window.open_demo()
    window.wait_until_idle()
    take("desk-day")
    assert window.opened is not None and window.editing is not None
    window.editing.show_whole()
    take("whole-recording")
    window.show_facts()
    window.opened.look_at_phrase(1)
    take("facts")
    window.show_facts()
    window.opened.look_at_phrase(4)
    window.hear()
    until = time.monotonic() + 10
    while window.transport.progress.value() < 60 and time.monotonic() < until:
        app.processEvents()
    take("hearing")
    window.wait_until_idle()
    window.editing.next_note()
    window.next_theme()
    take("desk-dusk")
    window.next_theme()
    window.show_help()
    take("keys")
    window.opened.undo_stack.setClean()
    window.close()


if __name__ == "__main__":
    main()
