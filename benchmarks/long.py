"""What long recordings cost: seconds and megabytes for ten minutes, an hour and three, mono and stereo.

By command line eight seconds from the middle, transcribed and slowed, and ten minutes whole; in the window
(offscreen, in a process of its own) until the sound is there, until a key has stopped the listening, and through all
of it. The sound is leads over bands from soundfonts (benchmarks/band.py), with pauses.

./run-benchmarks long [--minutes 10 60 180] [--formats wav flac mp3]
"""

import argparse
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from benchmarks.band import COMPING, mixed
from benchmarks.pieces import PROGRAMS, RATE_HZ

ROOT = Path(__file__).resolve().parents[1]
_RATE = 44100
_PAUSE_S, _PIECES = 3, 12
_PART_S = 8.0
_BLOCK = 1 << 16
_PATIENCE_S = 1800.0


def rehearsal() -> NDArray[np.float32]:
    """Some minutes of leads over bands, shape (frames, 2), at _RATE."""
    programs, comping, parts = list(PROGRAMS), list(COMPING), []
    for number in range(_PIECES):
        mix = mixed(7000 + number, programs[number % len(programs)], comping[number % len(comping)], 3.0, "timgm")
        parts += [mix.samples, np.zeros(_PAUSE_S * RATE_HZ, np.float32)]
    signal = soxr.resample(np.concatenate(parts), RATE_HZ, _RATE).astype(np.float32)
    return np.stack([signal, 0.9 * np.roll(signal, 200)], axis=1)


def write_recording(path: Path, minutes: int, channels: int) -> None:
    """A rehearsal again and again, up to so many minutes, in the format of the path's suffix."""
    left, some = minutes * 60 * _RATE, rehearsal()[:, :channels]
    with soundfile.SoundFile(path, "w", _RATE, channels) as file:
        while left > 0:
            for first in range(0, min(left, len(some)), _BLOCK):
                file.write(some[first : min(first + _BLOCK, left)])
            left -= min(left, len(some))


def cost(*words: str) -> tuple[float, float, str]:
    """Seconds, megabytes at most, and what is printed, of a process of Python.

    A process begins with what the one that starts it has: this one holds no sound.
    """
    began = time.perf_counter()
    environment = os.environ | {"PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "QT_QPA_PLATFORM": "offscreen"}
    command, quiet = [sys.executable, "-m", *words], subprocess.DEVNULL
    child = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, stderr=quiet, text=True)
    assert child.stdout is not None
    printed = child.stdout.read()
    _, status, used = os.wait4(child.pid, 0)
    if status:
        raise RuntimeError(f"{' '.join(words)} ended with status {status}")
    return time.perf_counter() - began, used.ru_maxrss / 1024, printed.strip()


def in_window(path: Path, through: bool) -> None:
    """Open a recording in the window of this process, and print how long things took."""
    from PySide6.QtWidgets import QApplication

    from eager_owl.desktop import theme as themes
    from eager_owl.desktop.adapters import QtClock
    from eager_owl.desktop.window import Window
    from eager_owl.session.player import SimulatedDevice

    app = QApplication([])
    themes.load_fonts()
    window = Window(SimulatedDevice(QtClock()), themes.DAY)
    session = window.session
    window.resize(1280, 800)
    window.show()

    def wait(until: Callable[[], bool]) -> float:
        began = time.perf_counter()
        while not until() and time.perf_counter() - began < _PATIENCE_S:
            app.processEvents()
            time.sleep(0.002)
        return time.perf_counter() - began

    session.keeping.open_path(path)
    told = [f"sound there {wait(lambda: session.opened is not None and session.solo.sound is not None):.1f} s"]
    if not through:
        wait_a_little = time.perf_counter() + 3.0
        wait(lambda: time.perf_counter() > wait_a_little)
        session.recordings.stop()
        told.append(f"stopped {wait(lambda: not session.jobs.busy):.2f} s")
        session.solo.move_cursor(session.solo.duration_s / 2)
        session.playing.toggle_loop()
        told.append(f"sounding {wait(lambda: bool(session.player.source and session.player.source.sounding)):.2f} s")
        session.player.stop()
    else:
        sound = session.solo
        told.append(f"listened through {wait(lambda: bool(sound.sound and sound.sound.survey)):.0f} s")
    window.grab()
    print(", ".join(told), flush=True)
    os._exit(0)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=int, nargs="*", default=[10, 60, 180])
    parser.add_argument("--formats", nargs="*", default=["wav"])
    parser.add_argument("--window", type=Path, help=argparse.SUPPRESS)
    parser.add_argument("--through", action="store_true", help=argparse.SUPPRESS)
    parser.add_argument("--write", type=Path, help=argparse.SUPPRESS)
    parser.add_argument("--channels", type=int, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.window:
        in_window(options.window, options.through)
        return
    if options.write:
        write_recording(options.write, options.minutes[0], options.channels)
        return
    with tempfile.TemporaryDirectory() as folder:
        out = str(Path(folder) / "out")
        for suffix in options.formats:
            for minutes in options.minutes:
                for channels in (1, 2):
                    path = Path(folder) / f"{minutes}-{channels}.{suffix}"
                    write = ("--write", str(path), "--minutes", str(minutes), "--channels", str(channels))
                    cost("benchmarks.long", *write)
                    print(f"{minutes} minutes, {suffix}, {('mono', 'stereo')[channels - 1]}")
                    _measure(path, minutes, out)
                    path.unlink()


def _measure(path: Path, minutes: int, out: str) -> None:
    start = minutes * 30.0
    part = ("--from", str(start), "--to", str(start + _PART_S))
    works = {
        "  8 s transcribed": ("eager_owl", "transcribe", str(path), *part, "--out", out),
        "  8 s slowed": ("eager_owl", "slow", str(path), *part, "--speed", "0.5", "--out", f"{out}.wav"),
        "  window, stopped": ("benchmarks.long", "--window", str(path)),
        "  window, listening": ("benchmarks.long", "--window", str(path), "--through"),
    }
    if minutes <= 10:
        works["  all transcribed"] = ("eager_owl", "transcribe", str(path), "--out", out)
    for name, words in works.items():
        seconds, megabytes, printed = cost(*words)
        print(f"{name:22}{seconds:7.1f} s {megabytes:6.0f} MB   {printed}", flush=True)


if __name__ == "__main__":
    main()
