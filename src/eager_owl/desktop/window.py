"""The main window: puts the views together, binds the actions, opens and keeps solos."""

import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QCoreApplication, QEvent, QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QIcon, QKeySequence, QResizeEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMainWindow,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from eager_owl.desktop import theme as themes
from eager_owl.desktop.actions import ALL, Action, key_words
from eager_owl.desktop.beside import Beside
from eager_owl.desktop.chart_panel import ChartPanel
from eager_owl.desktop.desk import Desk
from eager_owl.desktop.editing import Editing
from eager_owl.desktop.evidence import Evidence
from eager_owl.desktop.facts import Facts
from eager_owl.desktop.fits_panel import FitsPanel
from eager_owl.desktop.hand_panel import HandPanel
from eager_owl.desktop.help_sheet import HelpSheet
from eager_owl.desktop.helping import Helping
from eager_owl.desktop.jobs import Job, Work
from eager_owl.desktop.keeping import Keeping
from eager_owl.desktop.lead_panel import LeadPanel
from eager_owl.desktop.listening import Listening
from eager_owl.desktop.move_panel import MovePanel
from eager_owl.desktop.neck_view import NeckView
from eager_owl.desktop.notice import Notice
from eager_owl.desktop.open_solo import OpenSolo, Sound
from eager_owl.desktop.placing import Placing
from eager_owl.desktop.playback import Device, Player, default_device
from eager_owl.desktop.rail import Rail
from eager_owl.desktop.reasoning import Reasoning
from eager_owl.desktop.recordings import SOUND_FILES, Recordings
from eager_owl.desktop.theme import ASSETS, DAY, DUSK, THEMES, Theme, head_font, text_font
from eager_owl.desktop.transport import Transport
from eager_owl.desktop.welcome import Welcome
from eager_owl.desktop.why_panel import WhyPanel
from eager_owl.desktop.why_view import WhyView
from eager_owl.desktop.words import clock_text
from eager_owl.session import key_of, recording_path, reference_to
from eager_owl.solo.document import Note, Solo
from eager_owl.solo.store import SUFFIX, DocumentError, journal_path, load, read_journal
from eager_owl.theory.pitch import pretty

DEMO = ASSETS / "demo" / f"night-ferry{SUFFIX}"
_DEMO_PHRASE = 2
_BESIDE_MS = 20  # the views beside the desk follow a walk through the notes by this
_COMPLAINT_MS = 6000


class Window(QMainWindow):
    """Eager Owl's one window."""

    def __init__(self, device: Device | None = None, theme: Theme | None = None) -> None:
        super().__init__()
        self.settings = QSettings("eager-owl", "eager-owl")
        self.side: Beside
        self.theme = theme or THEMES.get(str(self.settings.value("theme", "day")), DAY)
        self.opened: OpenSolo | None = None
        self.editing: Editing | None = None
        self.player = Player(device or default_device(), self)
        self._jobs: set[Job] = set()
        self._build()
        self._bind_actions()
        self._beside_timer = QTimer(self)
        self._beside_timer.setSingleShot(True)
        self._beside_timer.setInterval(_BESIDE_MS)
        self._beside_timer.timeout.connect(self._refresh_beside)
        self.keeping = Keeping(self, self.settings, lambda: self.opened, self.complain)
        self.keeping.recent_changed.connect(self._show_recent)
        self.player.moved.connect(self._on_ear)
        self._dress(self.theme)
        self._show_welcome()
        self._offer_unsaved()

    # Building

    def _build(self) -> None:
        self.setFont(text_font())
        self.setWindowTitle("Eager Owl")
        self.setWindowIcon(QIcon(str(ASSETS / "eager-owl.svg")))
        self.resize(1280, 800)
        self.setMinimumSize(1120, 760)
        self.title, self.facts_line = QLabel(), QLabel()
        self.title.setFont(head_font(themes.TITLE))
        self.facts_line.setProperty("quiet", True)
        self.facts_line.setFont(text_font(themes.SMALL))
        self.menu_button = QPushButton("Solo ▾")
        self.menu = QMenu(self)
        self.menu.setFont(text_font())
        self.menu_button.setMenu(self.menu)
        self.facts_button = QPushButton("Facts   F")
        self.facts_button.clicked.connect(lambda: self.side.show_facts())
        self.theme_button = QPushButton("Dusk   F6")
        self.theme_button.clicked.connect(self.next_theme)
        self.help_button = QPushButton("Keys   ?")
        self.help_button.clicked.connect(self.show_help)
        head = QHBoxLayout()
        head.addWidget(self.title)
        head.addSpacing(8)
        head.addWidget(self.facts_line, 1)
        for button in (self.menu_button, self.facts_button, self.theme_button, self.help_button):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setProperty("flat", True)
            head.addWidget(button)
        self.notice = Notice()
        self.rail, self.desk, self.neck = Rail(self.theme), Desk(self.theme), NeckView(self.theme)
        self.evidence, self.facts, self.transport = Evidence(self.theme), Facts(self._clock), Transport()
        self.lead, self.hand, self.carry = LeadPanel(), HandPanel(self.settings), MovePanel()
        self.desk_card = desk_card = QFrame()
        desk_card.setObjectName("card")
        desk_layout = QVBoxLayout(desk_card)
        desk_layout.setContentsMargins(4, 4, 4, 4)
        desk_layout.addWidget(self.desk)
        work_area = QWidget()
        over_neck = QVBoxLayout(work_area)
        over_neck.setContentsMargins(0, 0, 0, 0)
        over_neck.setSpacing(8)
        over_neck.addWidget(desk_card, 21)
        over_neck.addWidget(self.neck, 9)
        self.why_view = WhyView()
        self.centre = QStackedWidget()
        self.centre.addWidget(work_area)
        self.centre.addWidget(self.why_view)
        self.why, self.fits, self.chart = WhyPanel(), FitsPanel(), ChartPanel()
        panels = (self.evidence, self.facts, self.lead, self.hand, self.carry, self.why, self.fits, self.chart)
        self.side = Beside(lambda: self.opened, panels, self.desk, self.complain)
        middle = QHBoxLayout()
        middle.setSpacing(10)
        middle.addWidget(self.centre, 1)
        middle.addWidget(self.side)
        work = QWidget()
        layout = QVBoxLayout(work)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(self.rail)
        layout.addLayout(middle, 1)
        layout.addWidget(self.transport)
        self.welcome = Welcome()
        self.pages = QStackedWidget()
        self.pages.addWidget(self.welcome)
        self.pages.addWidget(work)
        central = QWidget()
        outer = QVBoxLayout(central)
        outer.setContentsMargins(18, 8, 18, 12)
        outer.setSpacing(8)
        outer.addLayout(head)
        outer.addWidget(self.notice)
        outer.addWidget(self.pages, 1)
        self.setCentralWidget(central)
        self.sheet = HelpSheet(self.theme, central)
        self._connect()

    def _connect(self) -> None:
        self.listening = Listening(self.player, self.transport, lambda: self.opened, self.complain, self._run)
        self.helping = Helping(lambda: self.opened, self.complain)
        self.recordings = Recordings(
            self,
            lambda: self.opened,
            self._run,
            self.notice,
            self.transport,
            self.helping,
            self.complain,
            self._refresh,
        )
        panels = (self.hand, self.carry)
        self.placing = Placing(
            lambda: self.opened, panels, self.desk_card, self.listening, self.player, self.complain
        )
        self.reasoning = Reasoning(lambda: self.opened, self.chart, self.listening, self._run, self.complain)
        for panel in (self.why, self.fits, self.why_view):
            panel.notes_chosen.connect(self._choose_notes)
        self.why_view.phrase_chosen.connect(self._choose_phrase)
        self.welcome.recording_asked.connect(self.new)
        self.welcome.solo_asked.connect(self.open)
        self.welcome.demo_asked.connect(self.open_demo)
        self.welcome.recent_chosen.connect(lambda path: self.open_path(Path(path)))
        self.rail.chosen.connect(self._choose_tile)
        self.desk.note_clicked.connect(self._click_note)
        on_open = self._on_open
        self.desk.cursor_asked.connect(on_open(lambda opened, _, time_s: opened.move_cursor(time_s)))
        self.desk.span_chosen.connect(on_open(lambda opened, _, span: opened.set_span(span)))
        self.desk.note_dragged.connect(on_open(lambda _, editing, *drag: editing.set_timing(*drag)))
        self.desk.string_dragged.connect(on_open(lambda _, editing, *drag: editing.set_string(*drag)))
        self.neck.note_clicked.connect(lambda i: self._click_note(i, False))
        self.neck.string_chosen.connect(on_open(lambda _, editing, *to: editing.set_string(*to)))
        self.evidence.pin_asked.connect(on_open(lambda _, editing: editing.pin()))
        self.evidence.doubt_asked.connect(on_open(lambda _, editing: editing.next_doubt()))
        self.evidence.pitch_asked.connect(on_open(lambda _, editing, *to: editing.take_pitch(*to)))
        self.evidence.string_asked.connect(on_open(lambda _, editing, *to: editing.set_string(*to)))
        self.facts.find_asked.connect(self.helping.find_beat)
        self.lead.hear_asked.connect(self.recordings.hear)
        self.lead.taps_cleared.connect(self.helping.clear_taps)
        self.lead.heard_otherwise.connect(self.listening.play_anew)
        self.evidence.accept_asked.connect(on_open(lambda _, editing: editing.accept()))
        self.evidence.carry_asked.connect(self.helping.carry_to_repeats)
        self.evidence.note_asked.connect(lambda i: self._click_note(i, False))
        self.desk.beat_dragged.connect(self.helping.move_beat)
        self.transport.loop_asked.connect(self.listening.toggle_loop)
        self.transport.once_asked.connect(self.listening.play_once)
        self.transport.hear_asked.connect(self.recordings.hear)
        self.transport.voice_asked.connect(self.listening.next_voice)
        self.transport.stop_asked.connect(self.recordings.stop_work)
        self.transport.speed_chosen.connect(self.listening.set_speed)
        self.transport.count_in_toggled.connect(self.listening.set_count_in)

    def _on_open(self, act: Callable[..., object]) -> Callable[..., None]:
        """A slot that calls `act` with the open solo, its editing and the signal's values, if a solo is open."""

        def slot(*values: object) -> None:
            if self.opened is not None and self.editing is not None:
                act(self.opened, self.editing, *values)

        return slot

    def _bind_actions(self) -> None:
        self.actions_by_name: dict[str, QAction] = {}
        for name, action in ALL.items():
            bound = QAction(action.words, self)
            bound.setShortcuts([QKeySequence(keys) for keys in action.keys])
            bound.triggered.connect(partial(self._act, action))
            self.addAction(bound)
            self.actions_by_name[name] = bound
        for name in ("new", "open", "save", "save_as", "export_tab"):
            action = ALL[name]
            item = self.menu.addAction(f"{action.words[0].upper()}{action.words[1:]}\t{key_words(action.keys[0])}")
            item.triggered.connect(partial(self._act, action))
        self.menu.addAction("The demo").triggered.connect(self.open_demo)
        self._recent_menu = self.menu.addMenu("Lately")
        self.menu.addSeparator()
        self.menu.addAction(f"Close\t{key_words(ALL['close'].keys[0])}").triggered.connect(self.close)

    def _act(self, action: Action, *_: object) -> None:
        if self.sheet.isVisible():
            self.sheet.hide()
            return
        name = action.name
        others = (
            self.side, self.recordings, self.listening, self.helping, self.reasoning, self.placing, self.keeping,
        )  # fmt: skip
        own = next((other for other in others if name in vars(type(other))), self if hasattr(Window, name) else None)
        if own is not None:
            getattr(own, name)()
        elif self.editing is None:
            self.complain("open a recording or a solo first")
        elif name.startswith("technique_"):
            self.editing.technique(name.removeprefix("technique_"))
        elif name.startswith("finger_"):
            self.editing.finger(int(name[-1]))
        else:
            getattr(self.editing, name)()

    # Opening

    def new(self) -> None:
        """Ask for a recording and begin a solo on it."""
        path, _ = QFileDialog.getOpenFileName(self, "Open a recording", "", SOUND_FILES)
        if path and self.keeping.may_leave(self.opened):
            self.open_path(Path(path))

    def open(self) -> None:
        """Ask for a solo and open it."""
        path, _ = QFileDialog.getOpenFileName(self, "Open a solo", "", f"Solos (*{SUFFIX})")
        if path and self.keeping.may_leave(self.opened):
            self.open_path(Path(path))

    def open_path(self, path: Path) -> None:
        """Open a solo, or begin one on a recording; what can't be opened is told and changes nothing."""
        if not path.name.endswith((SUFFIX, ".json")):
            self.recordings.decode(path, lambda sound: self._begin(path, sound))
            return
        try:
            solo = load(path)
        except DocumentError as error:
            self.complain(str(error), lasting=True)
            return
        self._show_solo(OpenSolo(solo, path, self))
        self.keeping.remember(path)
        if (unsaved := read_journal(path)) is not None and unsaved != solo:
            self.notice.ask(
                f"Unsaved work on “{solo.title}” was found.",
                {
                    "Bring it back": lambda: self._bring_back(unsaved),
                    "Throw it away": lambda: journal_path(path).unlink(missing_ok=True),
                },
            )
        self.recordings.find()

    def open_demo(self) -> None:
        """Open the demo solo; it is saved where the player says, never over the demo."""
        if not self.keeping.may_leave(self.opened):
            return
        solo = load(DEMO)
        assert solo.recording is not None
        where = recording_path(solo.recording, DEMO)
        solo = replace(solo, recording=replace(solo.recording, path=str(where)))
        opened = OpenSolo(solo, None, self)
        self._show_solo(opened)
        opened.look_at_phrase(_DEMO_PHRASE)
        bent = next((note.id for note in opened.notes if note.bend), None)
        if bent is not None:
            opened.select([bent])
        self.recordings.find()

    def _begin(self, path: Path, sound: Sound) -> None:
        reference = reference_to(path, sound.recording, None)
        self._show_solo(OpenSolo(Solo(title=path.stem, recording=reference), None, self))
        self.recordings.hear_sound(sound)
        if sound.recording.notice:
            self.complain(sound.recording.notice, lasting=True)

    def _show_solo(self, opened: OpenSolo) -> None:
        self.player.stop()
        self.recordings.leave()
        self.notice.dismiss()
        before, self.opened = self.opened, opened
        self.editing = Editing(opened, self.desk, self.recordings.hear_around)
        for view in (self.rail.strip, self.desk, self.neck, self.side, self.why_view):
            view.show_solo(opened)
        opened.changed.connect(self._on_change)
        opened.settled.connect(self._refresh)
        opened.view_changed.connect(self._on_view)
        opened.cursor_moved.connect(self._on_cursor)
        opened.complaint.connect(self.complain)
        opened.undo_stack.cleanChanged.connect(self._show_title)
        if before is not None:
            before.deleteLater()
        self.pages.setCurrentIndex(1)
        self._refresh()
        self.desk.setFocus()

    def _offer_unsaved(self) -> None:
        solo = self.keeping.never_saved()
        if solo is None:
            return

        def bring_back() -> None:
            opened = OpenSolo(solo, None, self)
            self._show_solo(opened)
            opened.undo_stack.resetClean()
            self.recordings.find()

        self.notice.ask(
            f"Work on “{solo.title}” was never saved.",
            {"Bring it back": bring_back, "Throw it away": self.keeping.forget_never_saved},
        )

    def _bring_back(self, unsaved: Solo) -> None:
        if self.opened is not None:
            self.opened.do("unsaved work brought back", lambda _: unsaved)

    def _show_recent(self) -> None:
        paths = self.keeping.recent_paths()
        self.welcome.show_recent(paths)
        self._recent_menu.clear()
        for path in paths:
            item = self._recent_menu.addAction(Path(path).name)
            item.triggered.connect(partial(self._open_recent, path))
        self._recent_menu.setEnabled(bool(paths))

    def _open_recent(self, path: str, *_: object) -> None:
        if self.keeping.may_leave(self.opened):
            self.open_path(Path(path))

    def _run(self, work: Work, then: Callable[[Any], None]) -> Job:
        job = Job(work)
        self._jobs.add(job)
        job.done.connect(then)
        job.failed.connect(lambda words: self.complain(words, lasting=True))
        for ended in (job.done, job.failed, job.cancelled):
            ended.connect(lambda *_: self._jobs.discard(job))
        job.start()
        return job

    def wait_until_idle(self, seconds: float = 60.0) -> None:
        """Let events run until no work is under way (pictures and tests need it)."""
        until = time.monotonic() + seconds
        while self._jobs and time.monotonic() < until:
            QCoreApplication.processEvents()
            time.sleep(0.005)
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        QCoreApplication.processEvents()
        if self.opened:
            self.opened.settle()
            self._refresh_beside()
            QCoreApplication.processEvents()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.keeping.may_leave(self.opened):
            event.ignore()
            return
        self.player.stop()
        for job in self._jobs:
            job.cancel()
        event.accept()

    def _on_ear(self, time_s: float) -> None:
        if self.opened is not None:
            self.opened.move_cursor(time_s)

    def _clock(self) -> float:
        return self.opened.view.cursor if self.opened else 0.0

    # The document and the views

    def undo(self) -> None:
        """Undo."""
        if self.opened is not None:
            self.opened.undo()

    def redo(self) -> None:
        """Redo."""
        if self.opened is not None:
            self.opened.redo()

    def rename_phrase(self) -> None:
        """Ask for the phrase's name."""
        if self.opened is None or self.opened.phrase is None or self.editing is None:
            self.complain("choose a phrase first: Page down")
            return
        name, given = QInputDialog.getText(self, "Eager Owl", "Name of the phrase", text=self.opened.phrase.name)
        if given:
            self.editing.name_phrase(name)

    def _choose_tile(self, index: int) -> None:
        if self.opened is not None:
            self.opened.look_at_phrase(None if index < 0 else index)
            self.desk.setFocus()

    def _click_note(self, note_id: int, more: bool) -> None:
        if self.opened is not None:
            chosen = self.opened.view.selection if more else ()
            self.opened.select((*(i for i in chosen if i != note_id), note_id), move_cursor=not more)

    def _on_change(self, touched: list[Note]) -> None:
        # The desk answers at once; everything else follows when the edit has settled.
        self.desk.refresh_notes(touched)
        self.keeping.journal_soon()

    def _on_view(self) -> None:
        self.desk.show_selection()
        self._beside_timer.start()

    def _on_cursor(self) -> None:
        self.desk.show_cursor()
        self._show_position()

    def _refresh(self) -> None:
        if self.opened is not None:
            self.desk.refresh()
            self._refresh_beside()

    def _refresh_beside(self) -> None:
        """All but the desk."""
        self._beside_timer.stop()
        if self.opened is None:
            return
        self.rail.refresh()
        self.neck.refresh()
        self.side.refresh()
        self.why_view.refresh()
        self._show_title()
        self._show_position()

    def _show_title(self) -> None:
        opened = self.opened
        if opened is None:
            return
        dirty = "" if opened.undo_stack.isClean() else " · not saved"
        self.title.setText(opened.solo.title)
        solo = opened.solo
        facts = [pretty(key.name) if (key := key_of(solo)) else "no key yet"]
        facts.append(f"{solo.grid.meter} at {round(solo.grid.bpm, 1):g}" if solo.grid else "no beat yet")
        if solo.reference_cents is not None:
            facts.append(f"A = {440 * 2 ** (solo.reference_cents / 1200):.0f}")
        if opened.sound is not None:
            facts.append(opened.sound.path.name)
        self.facts_line.setText(" · ".join(facts) + dirty)
        self.setWindowTitle(f"{solo.title}{'' if opened.undo_stack.isClean() else ' *'} — Eager Owl")

    def _show_position(self) -> None:
        opened = self.opened
        if opened is None:
            return
        words = clock_text(opened.view.cursor)
        if opened.solo.grid is not None:
            bar, beat = opened.solo.grid.bar_and_beat(opened.view.cursor)
            words = f"bar {bar}, {beat:.1f}   {words}"
        self.transport.position.setText(words)

    def show_solo_why(self) -> None:
        """The whole solo's reasons instead of the desk, or the desk again."""
        if self.opened is None:
            self.complain("open a recording or a solo first")
            return
        showing = self.centre.currentWidget() is not self.why_view
        self.centre.setCurrentIndex(1 if showing else 0)
        self.why_view.refresh()
        (self.why_view if showing else self.desk).setFocus()

    def _choose_notes(self, ids: tuple[int, ...]) -> None:
        """Show notes on the desk, those of one phrase at a time."""
        if self.opened is None or not ids:
            return
        self._leave_page()
        homes = self.opened.go_to_notes(ids)
        if len(homes) > 1:
            here = len(self.opened.view.selection)
            self.complain(f"{here} of {len(ids)} notes, in {len(homes)} phrases; the same again shows the next")

    def _leave_page(self) -> None:
        if self.centre.currentWidget() is self.why_view:
            self.show_solo_why()

    def _choose_phrase(self, index: int) -> None:
        self._leave_page()
        self._choose_tile(index)

    def show_help(self) -> None:
        """The sheet of all keys."""
        self.sheet.toggle()

    def next_theme(self) -> None:
        """Day or dusk."""
        self._dress(DUSK if self.theme is DAY else DAY)
        self.settings.setValue("theme", self.theme.name)

    def _dress(self, theme: Theme) -> None:
        self.theme = theme
        themes.apply(theme)
        self.theme_button.setText("Dusk   F6" if theme is DAY else "Day   F6")
        for view in (self.rail.strip, self.desk, self.neck, self.evidence, self.sheet, self.why_view):
            view.theme = theme
        self._refresh()

    def _show_welcome(self) -> None:
        self.title.setText("")
        self.pages.setCurrentIndex(0)
        self._show_recent()
        self.welcome.recording_button.setFocus()

    def complain(self, words: str, lasting: bool = False) -> None:
        """Tell the player something, without stopping anything."""
        self.notice.tell(words, None if lasting else _COMPLAINT_MS)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        central = self.centralWidget()
        if central:
            self.sheet.setGeometry(central.rect())
        self.rail.refresh()
