"""How fast the desk answers: start to window, play to first sound, key to repaint, notes to a fingering.

./run-benchmarks desk
"""

import os
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from eager_owl.desktop import theme as themes
from eager_owl.desktop.adapters import QtClock
from eager_owl.desktop.waiting import wait_until_idle
from eager_owl.desktop.window import Window
from eager_owl.neck.fingering import find_fingering
from eager_owl.session.player import SimulatedDevice
from eager_owl.solo.document import Instrument, Note, Phrase

ROOT = Path(__file__).resolve().parents[1]


def walk(count: int) -> list[Note]:
    """A pentatonic line of so many notes with contours, five a second."""
    rng = np.random.default_rng(0)
    ladder = [p for p in range(48, 84) if (p - 5) % 12 in (0, 3, 5, 7, 10)]
    at, notes = 8, []
    for i in range(count):
        at = int(np.clip(at + rng.integers(-2, 3), 0, len(ladder) - 1))
        wave = tuple(int(20 * np.sin(k)) for k in range(6))
        notes.append(Note(i + 1, 0.1 + i * 0.07, 0.065, ladder[at], contour_cents=wave, level_db=(-20,) * 6))
    return notes


def start_to_window() -> float:
    """Seconds from the process's start to its window painted (median of three), imports and all."""
    code = (
        "import sys; sys.argv=['eager-owl']\n"
        "from PySide6.QtWidgets import QApplication\n"
        "app = QApplication([])\n"
        "from eager_owl.desktop import theme\n"
        "from eager_owl.desktop.window import Window\n"
        "theme.load_fonts()\n"
        "w = Window(); w.show(); w.session.keeping.open_demo(); app.processEvents(); w.grab()\n"
        "import os, time; print(time.time(), flush=True); os._exit(0)\n"
    )
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    times = []
    for _ in range(3):
        began = time.time()
        done = subprocess.run([sys.executable, "-c", code], env=environment, check=True, capture_output=True)
        times.append(float(done.stdout) - began)
    return float(np.median(times))


def main() -> None:
    print(f"start to window           {start_to_window():.2f} s")
    for count in (200, 1000, 5000):
        notes = walk(count)
        began = time.perf_counter()
        find_fingering(notes, Instrument())
        seconds = time.perf_counter() - began
        print(f"fingering, {count:5} notes    {1000 * seconds:.0f} ms, {1e6 * seconds / count:.0f} µs a note")
    app = QApplication.instance() or QApplication([])
    themes.load_fonts()
    window = Window(SimulatedDevice(QtClock()), themes.DAY)
    session = window.session
    window.resize(1280, 800)
    window.show()
    window.activateWindow()
    QTest.qWaitForWindowActive(window)
    session.keeping.open_demo()
    wait_until_idle(window)
    opened = session.solo

    firsts = []
    for _ in range(5):
        began = time.perf_counter()
        QTest.keyClick(window, Qt.Key.Key_Space)
        while not (session.player.source and session.player.source.sounding):
            app.processEvents()
        firsts.append(time.perf_counter() - began)
        QTest.keyClick(window, Qt.Key.Key_Space)
    print(f"play to first sound       {1000 * float(np.median(firsts)):.0f} ms at {session.playing.speed:.0%}")

    notes = tuple(walk(400))
    opened.do("many notes", lambda s: replace(s, phrases=(Phrase(0.0, 28.5, "All"),), notes=notes))
    opened.look_at_phrase(0)
    opened.settle()
    for name, key in (("walk to the next note", Qt.Key.Key_Right), ("change a pitch", Qt.Key.Key_Up)):
        spent = []
        for i in range(40):
            QTest.keyClick(window, Qt.Key.Key_Right)
            wait_until_idle(window)
            began = time.perf_counter()
            QTest.keyClick(window, key if i % 2 or key != Qt.Key.Key_Up else Qt.Key.Key_Down)
            window.desk.repaint()
            spent.append(time.perf_counter() - began)
            wait_until_idle(window)
        print(f"key to repaint, 400 notes {1000 * float(np.median(spent)):.1f} ms ({name})")
    session.player.close()


if __name__ == "__main__":
    main()
