"""Take the pictures of docs/screenshots from the demo, offscreen, at 1280x800.

Run as `PYTHONPATH=src .venv/bin/python tools/take_pictures.py` after a view has changed.
"""

import os
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

FOLDER = Path(__file__).resolve().parents[1] / "docs/screenshots"

os.environ["QT_QPA_PLATFORM"] = "offscreen"
for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME"):
    os.environ[name] = tempfile.mkdtemp()

from eager_owl.desktop.playback import SimulatedDevice  # noqa: E402
from PySide6.QtWidgets import QApplication  # noqa: E402

from eager_owl.desktop import theme as themes  # noqa: E402
from eager_owl.desktop.window import DEMO, Window  # noqa: E402
from eager_owl.neck.cautions import Limits  # noqa: E402
from eager_owl.solo.document import Instrument  # noqa: E402
from eager_owl.solo.tunings import TUNINGS  # noqa: E402


def take_hands(window: Window, take: Callable[[str], None]) -> None:
    """Ways to play a phrase, the phrase elsewhere, the neck large, a left-handed seven-string with a caution."""
    assert window.opened is not None and window.editing is not None
    window.opened.look_at_phrase(1)
    window.side.show_hand()
    window.wait_until_idle()
    window.placing.next_way()
    window.wait_until_idle()
    take("ways")
    window.side.show_move()
    window.carry.semitones.setText("4")
    window.carry.refresh()
    window.wait_until_idle()
    take("elsewhere")
    window.side.show_move()
    window.editing.next_note()
    window.placing.neck_large()
    window.wait_until_idle()
    take("neck-large")
    seven = Instrument(TUNINGS["seven strings, drop A"], 0, 24, 686.0, left_handed=True)
    ids = [note.id for note in window.opened.solo.notes]
    window.opened.do("guitar", lambda solo: replace(solo, instrument=seven), ids)
    window.hand.limits = Limits(reach_mm=60)
    window.side.show_hand()
    window.wait_until_idle()
    take("seven-left")
    window.side.show_hand()
    window.placing.neck_large()
    window.undo()
    window.wait_until_idle()


def take_reasons(window: Window, take: Callable[[str], None]) -> None:
    """Why a phrase works, the chart, a phrase over other chords, and the whole solo, all its phrases heard."""
    assert window.opened is not None
    for index in range(len(window.opened.solo.phrases)):
        window.opened.look_at_phrase(index)
        if not window.opened.notes:
            window.recordings.hear()
            window.wait_until_idle()
    window.opened.do("school", lambda solo: replace(solo, reason_school="chord-by-chord"))
    window.opened.look_at_phrase(1)
    window.wait_until_idle()
    window.side.show_why()
    take("why")
    window.side.show_fits()
    window.wait_until_idle()
    take("fits")
    window.side.show_chart()
    window.reasoning.suggest_chords()
    window.wait_until_idle()
    take("chart")
    window.side.show_chart()
    window.show_solo_why()
    window.wait_until_idle()
    take("why-solo")
    window.show_solo_why()


def main() -> None:
    """Walk through the demo and take each view."""
    app = QApplication([])
    themes.load_fonts()
    window = Window(SimulatedDevice(), themes.DAY)
    window.resize(1280, 800)
    window.show()

    def take(view: str) -> None:
        for _ in range(3):  # a changed word asks for a new layout, which asks its parent for one
            app.processEvents()
        window.grab().save(str(FOLDER / f"{view}.png"))

    take("first-run")
    window.open_demo()
    window.wait_until_idle()
    take("desk-day")
    assert window.opened is not None and window.editing is not None
    window.editing.show_whole()
    take("whole-recording")
    window.opened.look_at_phrase(2)
    for time_s in (9.27, 10.37):
        window.opened.move_cursor(time_s)
        window.helping.beat_here()
    window.side.show_facts()
    window.wait_until_idle()
    take("facts")
    window.side.show_facts()
    for _ in range(2):
        window.undo()
    window.opened.look_at_phrase(1)
    window.opened.set_taps([4.99, 5.25, 5.52, 5.76, 6.05, 6.58])
    window.side.show_lead()
    window.wait_until_idle()
    take("lead")
    window.side.show_lead()
    window.opened.set_taps(())
    window.opened.look_at_phrase(2)
    window.listening.next_voice()
    window.editing.next_note()
    window.wait_until_idle()
    take("prove")
    for _ in range(2):
        window.listening.next_voice()
    window.opened.look_at_phrase(4)
    window.recordings.hear()
    until = time.monotonic() + 10
    while not window.transport.doing.text() and time.monotonic() < until:
        app.processEvents()
    take("hearing")
    window.wait_until_idle()
    window.editing.next_doubt()
    window.wait_until_idle()
    take("doubts")
    take_hands(window, take)
    take_reasons(window, take)
    window.opened.look_at_phrase(0)
    window.editing.next_note()
    window.wait_until_idle()
    window.next_theme()
    take("desk-dusk")
    window.next_theme()
    window.show_help()
    take("keys")
    window.show_help()
    window.opened.undo_stack.setClean()
    window.open_path(DEMO.parent / "night-ferry-band.flac")
    window.wait_until_idle()
    take("new-recording")
    window.opened.undo_stack.setClean()
    window.close()


if __name__ == "__main__":
    main()
