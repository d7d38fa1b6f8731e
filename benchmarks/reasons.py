"""How long explaining takes: twelve bars under every school, and the whole solo's page.

./run-benchmarks reasons
"""

import os
import time
from collections.abc import Callable

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtWidgets import QApplication, QWidget
from tests.sessions import PlainDrawing

from eager_owl.desktop.adapters import QtClock, QtDialogs, QtSettings, QtWorkers
from eager_owl.desktop.entries import all_commands
from eager_owl.desktop.pages.whole_solo import WholeSolo
from eager_owl.reasons.explain import explain_by_all, read_line
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session.open_solo import OpenSolo
from eager_owl.session.player import SimulatedDevice
from eager_owl.session.ports import Ports
from eager_owl.session.session import Session
from eager_owl.solo.document import Note, Phrase, Solo
from eager_owl.solo.techniques import Technique
from eager_owl.theory.key import parse_key

CHART = "| Fm7 | Bbm7 | Gm7b5 C7 | Fm7 | Dbmaj7 | Eb7 | Abmaj7 | C7alt | Fm7 | Bb7 | Gm7b5 | C7 |"
SCALE = (0, 2, 3, 5, 7, 8, 10)
GRID = BeatGrid(120, 0.0, 4)


def line(count: int, seed: int = 5) -> list[Note]:
    """Eighths, sixteenths and quarters that walk through F minor, with half steps from outside and some leaps."""
    rng = np.random.default_rng(seed)
    degree, onset = 10, 0.0
    notes = []
    for i in range(count):
        degree = int(np.clip(degree + rng.choice((-3, -2, -1, -1, 1, 1, 2, 4)), 3, 24))
        pitch = 53 + 12 * (degree // 7) + SCALE[degree % 7] + int(rng.random() < 0.1)
        length = float(rng.choice((0.125, 0.125, 0.25, 0.25, 0.5)))
        techniques = (Technique("vibrato", rate_hz=5.0, extent_cents=20.0),) if rng.random() < 0.1 else ()
        notes.append(Note(i + 1, onset, 0.95 * length, pitch, 2, max(pitch - 59, 0), techniques=techniques))
        onset += length
    return notes


def least_ms(act: Callable[[], object], times: int = 5) -> float:
    """The least of several runs: what it takes when nothing else runs."""
    best = float("inf")
    for _ in range(times):
        began = time.perf_counter()
        act()
        best = min(best, time.perf_counter() - began)
    return 1000 * best


def main() -> None:
    key, chart = parse_key("F minor"), parse_chart(CHART)
    began = time.perf_counter()
    explain_by_all(line(150), key, chart, GRID)
    print(f"150 notes, all schools, the first time: {1000 * (time.perf_counter() - began):.0f} ms")
    for count in (150, 300, 600, 1200):
        notes = line(count)
        reading = least_ms(lambda notes=notes: read_line(notes, key, chart, GRID), 3)
        whole = least_ms(lambda notes=notes: explain_by_all(notes, key, chart, GRID), 3)
        print(f"{count:5} notes: read {reading:.0f} ms, read and explained by all schools {whole:.0f} ms")
    app = QApplication([])
    notes = line(1000)
    phrases = tuple(Phrase(start, start + 8.0, f"Phrase {start:.0f}") for start in np.arange(0, notes[-1].end, 8.0))
    solo = Solo("Long", key_text="F minor", chart_text=CHART, grid=GRID, phrases=phrases, notes=tuple(notes))
    clock = QtClock()
    ports = Ports(clock, QtWorkers(), SimulatedDevice(clock), QtDialogs(QWidget()), QtSettings(), PlainDrawing)
    session = Session(ports, all_commands())
    session.show(OpenSolo(solo, None, None, clock))
    times = []
    for _ in range(5):
        view = WholeSolo(session)
        view.resize(880, 560)
        began = time.perf_counter()
        view.show()
        view.refresh()
        view.grab()
        times.append(1000 * (time.perf_counter() - began))
        view.close()
        app.processEvents()
    print(f"Why page, 1,000 notes, opened five times: {', '.join(f'{ms:.0f}' for ms in times)} ms")


if __name__ == "__main__":
    main()
