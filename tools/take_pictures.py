"""Take the pictures of docs/screenshots from the demo, offscreen, at 1280x800.

Run as `PYTHONPATH=src .venv/bin/python tools/take_pictures.py` after a view has changed.
"""

import os
import tempfile
from dataclasses import replace
from pathlib import Path

FOLDER = Path(__file__).resolve().parents[1] / "docs/screenshots"

os.environ["QT_QPA_PLATFORM"] = "offscreen"
for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
    os.environ[name] = tempfile.mkdtemp()

from PySide6.QtWidgets import QApplication  # noqa: E402

from eager_owl.desktop import theme as themes  # noqa: E402
from eager_owl.desktop.adapters import QtClock  # noqa: E402
from eager_owl.desktop.waiting import wait_until_idle  # noqa: E402
from eager_owl.desktop.window import SIZE, Window  # noqa: E402
from eager_owl.session.keeping import DEMO  # noqa: E402
from eager_owl.session.player import SimulatedDevice  # noqa: E402
from eager_owl.session.sheets import PRESETS  # noqa: E402
from eager_owl.solo.document import Instrument  # noqa: E402
from eager_owl.solo.tunings import TUNINGS  # noqa: E402

_FROM_MEMORY = """Night Ferry, from memory
Tempo 112, 3/4, key: F minor
[Pickup]
e|-----------------|-------------4---6---4---|-----------------|
B|-------------4---|-6~----------------------|-6---------------|
G|---------5-------|-------------------------|-----------------|
D|-----------------|-------------------------|-----------------|
A|-----------------|-------------------------|-----------------|
E|-----------------|-------------------------|-----------------|
[Question]
  Gm7b5             C7
e|-----6--9--7--/6----|-12-----9--8--6.-$-|
B|--8-----------------|-------------------|
G|--------------------|-------------------|
D|--------------------|-------------------|
A|--------------------|-------------------|
E|--------------------|-------------------|
"""


class Camera:
    """A window that is driven by its commands, and pictures of it."""

    def __init__(self) -> None:
        self.app = QApplication([])
        themes.load_fonts()
        self.window = Window(SimulatedDevice(QtClock()), themes.DAY)
        self.window.resize(*SIZE)
        self.window.show()
        self.session = self.window.session

    def take(self, view: str) -> None:
        """A picture of the window as it is."""
        for _ in range(3):  # a changed word asks for a new layout, which asks its parent for one
            self.app.processEvents()
        self.window.grab().save(str(FOLDER / f"{view}.png"))

    def run(self, *commands: str) -> None:
        """Run commands, and wait for what they do."""
        for command in commands:
            self.session.run(self.session.commands[command])
            wait_until_idle(self.window)

    def phrase(self, index: int) -> None:
        """Look at a phrase."""
        self.session.solo.look_at_phrase(index)
        wait_until_idle(self.window)

    def in_panel(self, panel: str, view: str, *commands: str) -> None:
        """A picture with a panel beside the desk, after commands."""
        self.run(f"show_{panel}", *commands)
        self.take(view)
        self.run(f"show_{panel}")


def take_listening(camera: Camera) -> None:
    """The desk, the whole recording, the panels that help to hear, and doubts."""
    solo = camera.session.solo
    camera.take("desk-day")
    for time_s in (9.27, 10.37):
        solo.move_cursor(time_s)
        camera.run("beat_here")
    camera.in_panel("facts", "facts")
    camera.run("undo", "undo")
    camera.phrase(1)
    solo.set_taps([4.99, 5.25, 5.52, 5.76, 6.05, 6.58])
    camera.in_panel("lead", "lead")
    solo.set_taps(())
    camera.phrase(2)
    camera.run("next_voice", "next_note")
    camera.take("prove")
    camera.run("next_voice", "next_voice")
    for unheard in range(3, len(solo.solo.phrases)):
        camera.phrase(unheard)
        camera.run("hear")
        if solo.answers.doubts:
            break
    else:
        raise SystemExit("the demo has no phrase with a doubt to show")
    camera.run("next_doubt")
    camera.take("doubts")


def take_hands(camera: Camera) -> None:
    """Ways to play a phrase; the neck large, of a left-handed seven-string with a caution."""
    camera.phrase(1)
    camera.in_panel("hands", "ways", "next_way")
    camera.run("next_note", "neck_large")
    seven = Instrument(TUNINGS["seven strings, drop A"], 0, 24, 686.0, left_handed=True)
    ids = [note.id for note in camera.session.solo.solo.notes]
    camera.session.solo.do("guitar", lambda solo: replace(solo, instrument=seven), ids)
    camera.session.resting.set_limits(60, 45)
    camera.run("next_map")
    camera.in_panel("hands", "neck-large")
    camera.run("previous_map", "neck_large", "undo")


def take_reasons(camera: Camera) -> None:
    """Why a phrase works, the chart, a phrase over other chords, and the whole solo, all its phrases heard."""
    camera.run("show_whole", "hear")
    camera.session.solo.do("school", lambda solo: replace(solo, reason_school="chord-by-chord"))
    camera.phrase(1)
    camera.in_panel("why", "why")
    camera.in_panel("chart", "chart", "suggest_chords")
    camera.run("show_whole_solo")
    camera.take("why-solo")
    camera.run("show_whole_solo")


def take_sheets(camera: Camera) -> None:
    """The sheet at each preset, the remarks, what is brought in and differs, and a solo being typed."""
    camera.phrase(1)
    camera.session.solo.select([camera.session.solo.notes[5].id])
    camera.in_panel("remarks", "remarks")
    camera.session.solo.select(())
    camera.run("show_sheet")
    for preset in PRESETS:
        camera.session.sheets.choose("preset", preset)
        camera.session.sheets.choose("one_phrase", preset == "lesson")
        wait_until_idle(camera.window)
        camera.take(f"sheet-{preset}")
    camera.session.sheets.choose("preset", "stand")
    camera.run("show_sheet")


def take_bringing_in(camera: Camera) -> None:
    """A tab typed from memory, with a wrong note and a sign nobody knows, laid against the demo's recording."""
    with tempfile.TemporaryDirectory() as folder:
        tab = Path(folder) / "from memory.txt"
        tab.write_text(_FROM_MEMORY, encoding="utf-8")
        camera.session.opened = None
        camera.session.bringing_in.bring(tab)
        wait_until_idle(camera.window)
        camera.session.bringing_in.lay_on(DEMO.parent / "night-ferry-lead.flac")
        wait_until_idle(camera.window)
        camera.session.answered.emit()
        camera.window.notice.dismiss()
        camera.take("brought-in")
    camera.run("show_brought_in")
    camera.session.opened = None
    camera.run("new_empty")
    camera.window.notice.dismiss()
    writing = camera.session.writing
    for string, digits in ((2, (8,)), (1, (6,)), (1, (9,)), (1, (8,)), (1, (6,)), (1, (1, 2)), (2, (8,))):
        writing.move_string(string - writing.string)
        for digit in digits:
            writing.digit(digit)
        if digits == (1, 2):
            camera.run("technique_vibrato")
        writing.step(1)
    wait_until_idle(camera.window)
    camera.take("writing")
    camera.session.opened = None


def main() -> None:
    """Walk through the demo and take each view."""
    camera = Camera()
    camera.take("first-run")
    camera.session.keeping.open_demo()
    wait_until_idle(camera.window)
    take_listening(camera)
    take_hands(camera)
    take_reasons(camera)
    camera.phrase(0)
    camera.run("next_note", "next_theme")
    camera.run("sound_shown")
    camera.take("desk-dusk")
    camera.run("sound_shown", "next_theme")
    take_sheets(camera)
    camera.session.opened = None  # nothing of it is to be kept
    camera.session.keeping.open_path(DEMO.parent / "night-ferry-band.flac")
    wait_until_idle(camera.window)
    camera.take("new-recording")
    take_bringing_in(camera)
    camera.window.close()


if __name__ == "__main__":
    main()
