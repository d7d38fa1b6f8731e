"""What a session needs of the program around it, and nothing more. The desktop has one adapter for each."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Literal, Protocol

from eager_owl.audio.player import LoopSource

if TYPE_CHECKING:
    from eager_owl.notation.sheet.ink import Widths
    from eager_owl.notation.sheet.pages import Sheet

Answer = Literal["save", "discard", "cancel"]


class Timer(Protocol):
    """Calls something once its time is up: once, or again and again."""

    def start(self) -> None:
        """Begin, or begin anew."""

    def stop(self) -> None:
        """Do not call."""

    @property
    def running(self) -> bool:
        """Whether it has begun and not called yet."""


class Clock(Protocol):
    """Timers on the session's own thread."""

    def timer(self, seconds: float, call: Callable[[], object], repeat: bool = False) -> Timer:
        """A timer that has not begun."""


class Workers(Protocol):
    """Threads for long work."""

    def start(self, call: Callable[[], None]) -> None:
        """Call this on a worker's thread."""

    def post(self, call: Callable[[], object]) -> None:
        """Call this on the session's own thread, soon; may be asked from any thread."""


class Device(Protocol):
    """What pulls frames from a source and knows how many are not heard yet."""

    name: str

    def start(self, source: LoopSource) -> None:
        """Begin pulling."""

    def stop(self) -> None:
        """Fall silent."""

    def latency_frames(self) -> int:
        """Frames pulled and not yet heard."""


class Dialogs(Protocol):
    """Questions that the player has to answer before anything goes on; None where they would rather not."""

    def open_file(self, title: str, kinds: str) -> Path | None:
        """A file that is there; `kinds` such as "Solos (*.owl.json)"."""

    def save_file(self, title: str, suggested: Path, kinds: str) -> Path | None:
        """A file to write."""

    def text(self, question: str, text: str) -> str | None:
        """A line of text; `text` stands there."""

    def copied_text(self) -> str:
        """The text that was copied last; empty where there is none."""

    def keep_changes(self, title: str) -> Answer:
        """What becomes of a solo's unsaved changes."""


class Settings(Protocol):
    """What this machine's player has set: kept between runs, not in a solo."""

    def read(self, name: str) -> object | None:
        """A setting, or None where it was never written."""

    def write(self, name: str, value: object) -> None:
        """Keep a setting: a string, number or list of strings."""


class Drawing(Protocol):
    """What draws laid-out pages into files, and measures text."""

    @property
    def widths(self) -> "Widths":
        """What measures a text in a face, in points."""

    def pdf(self, sheet: "Sheet") -> bytes:
        """All pages as a PDF."""

    def svg(self, sheet: "Sheet") -> str:
        """The first page as SVG, its typefaces left to a style sheet."""

    def typefaces(self, sheets: "Sequence[Sheet]") -> str:
        """A style sheet that holds the typefaces of these."""


class Screen(Protocol):
    """What only a screen can do."""

    def show_panel(self, name: str) -> None:
        """A panel beside the desk, or the evidence again if it is there already."""

    def show_page(self, name: str) -> None:
        """A page instead of the desk, or the desk again if it is there already."""

    def show_desk(self) -> None:
        """The desk, if a page has its place."""

    def zoom(self, by: int) -> None:
        """Look closer at the desk (1) or step back (-1)."""

    def show_neck_large(self) -> None:
        """The neck alone and large, or the desk again."""

    def next_theme(self) -> None:
        """Day or dusk."""

    def show_help(self) -> None:
        """The sheet of all keys, or away with it."""

    def find_command(self) -> None:
        """The command finder."""

    def print_sheet(self) -> None:
        """Preview the sheet for the printer."""

    def picture_of_desk(self, path: Path) -> bool:
        """Write the desk as it stands to a PNG or SVG file; answers whether it could."""

    def close(self) -> bool:
        """End the program, and whether it does: the player may still say no."""


@dataclass(frozen=True)
class Ports:
    """All that a session is given at its start; the screen comes once there is one."""

    clock: Clock
    workers: Workers
    device: Device
    dialogs: Dialogs
    settings: Settings
    drawing: Callable[[], Drawing]  # made when something is first drawn
