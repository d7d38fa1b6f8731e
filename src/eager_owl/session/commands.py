"""The one table of commands: what each is called, its keys, its words, what it needs, and what it does.

The window binds them, the menu, the help sheet and the command finder list them. Panels and pages bring the rows
that show them (`desktop.entries`).
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

from eager_owl.session import editing as do
from eager_owl.session.editing import on_notes, on_phrase
from eager_owl.session.exports import EXPORTS, Export
from eager_owl.session.ports import Screen
from eager_owl.session.remarking import next_remark
from eager_owl.session.session import Session
from eager_owl.solo import edits, phrase_edits
from eager_owl.solo.document import Stroke
from eager_owl.solo.techniques import TECHNIQUES, TechniqueName

# "notes" are selected notes, "phrase" the one on the desk.
Needs = Literal["nothing", "solo", "notes", "phrase"]
Group = Literal["Listen", "Split", "Hear", "Name", "Place and reason", "Keep"]


@dataclass(frozen=True)
class Command:
    """A row. `keys` are tried in order; `run` is called with a session that has what the command `needs`."""

    name: str
    keys: tuple[str, ...]
    words: str
    group: Group
    needs: Needs
    run: Callable[[Session], object]


def on_screen(act: Callable[[Screen], object]) -> Callable[[Session], object]:
    """What a screen does, where there is one."""

    def run(session: Session) -> None:
        if session.screen is not None:
            act(session.screen)

    return run


def _timing(onset_s: float, end_s: float) -> Callable[[Session], object]:
    return on_notes("timing", lambda solo, ids: edits.nudge_timing(solo, ids, onset_s, end_s))


def _pitch(semitones: int) -> Callable[[Session], object]:
    return on_notes("pitch", lambda solo, ids: edits.change_pitch(solo, ids, semitones), place=True)


def _string(by: int) -> Callable[[Session], object]:
    return on_notes("string", lambda solo, ids: edits.move_string(solo, ids, by), place=True)


def _finger(finger: int) -> Callable[[Session], object]:
    return on_notes("finger", lambda solo, ids: edits.set_finger(solo, ids, finger), place=True)


def _stroke(stroke: Stroke | None) -> Callable[[Session], object]:
    return on_notes("picking stroke", lambda solo, ids: edits.set_stroke(solo, ids, stroke))


def _edge(words: str, start_s: float, end_s: float) -> Callable[[Session], object]:
    return on_phrase(words, lambda solo, index: phrase_edits.nudge_phrase(solo, index, start_s, end_s))


# Keys of the techniques, in the order in which they are listed; one without a key is still in the finder.
_TECHNIQUE_KEYS: dict[TechniqueName, str] = {
    "bend": "B", "bend_release": "Shift+B", "prebend": "Ctrl+B", "prebend_release": "Ctrl+Shift+B", "vibrato": "V",
    "slide": "L", "slide_in": "Ctrl+L", "slide_out": "Shift+L", "hammer_on": "O", "pull_off": "U", "trill": "T",
    "tap": "Shift+T", "grace": "Shift+G", "rake": "Shift+R", "ghost": "G", "staccato": "K", "palm_mute": "Q",
    "double_stop": "Shift+D", "let_ring": "Shift+Q", "harmonic": "Shift+H",
}  # fmt: skip


def _technique_commands() -> tuple[Command, ...]:
    names = [*_TECHNIQUE_KEYS, *(name for name in TECHNIQUES if name not in _TECHNIQUE_KEYS)]
    return tuple(
        Command(
            f"technique_{name}",
            (_TECHNIQUE_KEYS[name],) if name in _TECHNIQUE_KEYS else (),
            TECHNIQUES[name].words,
            "Name",
            "notes",
            do.technique(name),
        )
        for name in names
    )


def _export(export: Export) -> Callable[[Session], object]:
    return lambda session: session.keeping.export(export)


_EXPORT_KEYS = {"tab": "Ctrl+E", "pdf": "Ctrl+Shift+E"}


def _export_commands() -> tuple[Command, ...]:
    return tuple(
        Command(
            f"export_{export.name}",
            (_EXPORT_KEYS[export.name],) if export.name in _EXPORT_KEYS else (),
            f"export {export.words}",
            "Keep",
            "solo",
            _export(export),
        )
        for export in EXPORTS.values()
    )


N, P = do.NOTE_NUDGE_S, do.PHRASE_NUDGE_S

COMMANDS: tuple[Command, ...] = (
    Command("toggle_loop", ("Space",), "loop the phrase, or stop", "Listen", "solo", lambda s: s.playing.toggle_loop()),
    Command("play_once", ("Return", "Enter"), "play the phrase once", "Listen", "solo", lambda s: s.playing.play_once()),
    Command("slower", ("-",), "slower", "Listen", "nothing", lambda s: s.playing.slower()),
    Command("faster", ("=", "+"), "faster", "Listen", "nothing", lambda s: s.playing.faster()),
    Command("toggle_count_in", ("C",), "count-in on or off", "Listen", "nothing", lambda s: s.playing.toggle_count_in()),
    Command("next_voice", ("\\",), "record, transcription, or one in each ear", "Listen", "solo", lambda s: s.playing.next_voice()),
    Command("prove_phrase", ("Shift+P",), "the phrase is proved, or not yet", "Listen", "phrase", do.reached("proved")),
    Command("learn_phrase", ("Ctrl+Shift+P",), "the phrase is learned, or not yet", "Listen", "phrase", do.reached("learned")),
    Command("hold_instant", (";",), "hold the sound at the cursor", "Listen", "solo", lambda s: s.playing.hold_instant()),
    Command("reference_tone", ("'",), "a steady tone of the note's pitch", "Listen", "solo", lambda s: s.playing.reference_tone()),
    Command("next_phrase", ("PgDown",), "next phrase", "Listen", "solo", lambda s: do.walk_phrases(s, 1)),
    Command("previous_phrase", ("PgUp",), "phrase before", "Listen", "solo", lambda s: do.walk_phrases(s, -1)),
    Command("show_whole", ("W",), "the whole recording, or back", "Listen", "solo", do.show_whole),
    Command("zoom_in", ("Ctrl+=", "Ctrl++"), "look closer", "Listen", "solo", on_screen(lambda screen: screen.zoom(1))),
    Command("zoom_out", ("Ctrl+-",), "step back", "Listen", "solo", on_screen(lambda screen: screen.zoom(-1))),
    Command("span_start", ("[",), "a stretch starts at the cursor", "Split", "solo", do.span_start),
    Command("span_end", ("]",), "it ends at the cursor", "Split", "solo", do.span_end),
    Command("mark_phrase", ("M",), "make the stretch a phrase", "Split", "solo", do.mark_phrase),
    Command("suggest_phrases", ("Ctrl+P",), "phrases where the lead breathes", "Split", "solo", lambda s: s.recordings.suggest_phrases()),
    Command("find_beat", ("Ctrl+T",), "take the beat that was found", "Split", "solo", lambda s: s.recordings.find_beat()),
    Command("beat_here", ("Ctrl+G",), "the nearest beat lies at the cursor", "Split", "solo", do.beat_here),
    Command("bar_here", ("Ctrl+D",), "a bar begins at the cursor", "Split", "solo", do.bar_here),
    Command("count_faster", ("Alt+2",), "count twice as fast", "Split", "solo", do.count_faster),
    Command("count_slower", ("Alt+1",), "count half as fast", "Split", "solo", do.count_slower),
    Command("split_phrase", ("X",), "cut the phrase at the cursor", "Split", "phrase", do.split_phrase),
    Command("merge_phrase", ("Y",), "merge with the next phrase", "Split", "phrase", on_phrase("merge phrases", phrase_edits.merge_with_next)),
    Command("rename_phrase", ("F2",), "name the phrase", "Split", "phrase", do.rename_phrase),
    Command("delete_phrase", ("Ctrl+Backspace",), "remove the phrase", "Split", "phrase", do.delete_phrase),
    Command("start_earlier", ("Ctrl+Left",), "phrase starts 50 ms earlier", "Split", "phrase", _edge("phrase start", -P, 0)),
    Command("start_later", ("Ctrl+Right",), "phrase starts 50 ms later", "Split", "phrase", _edge("phrase start", P, 0)),
    Command("end_earlier", ("Ctrl+Shift+Left",), "phrase ends 50 ms earlier", "Split", "phrase", _edge("phrase end", 0, -P)),
    Command("end_later", ("Ctrl+Shift+Right",), "phrase ends 50 ms later", "Split", "phrase", _edge("phrase end", 0, P)),
    Command("cursor_back", (",",), "cursor 20 ms back", "Split", "solo", lambda s: do.move_cursor(s, -do.CURSOR_STEP_S)),
    Command("go_to_time", ("Alt+G",), "go to a time", "Listen", "solo", do.go_to_time),
    Command("cursor_on", (".",), "cursor 20 ms on", "Split", "solo", lambda s: do.move_cursor(s, do.CURSOR_STEP_S)),
    Command("hear", ("H",), "hear the phrase, or all that are not heard", "Hear", "solo", lambda s: s.recordings.hear()),
    Command("tap", ("I",), "tap a note while it plays", "Hear", "solo", do.tap),
    Command("clear_taps", ("Shift+I",), "let go of the taps", "Hear", "solo", do.clear_taps),
    Command("stop_work", ("Esc",), "stop hearing; let go of the selection", "Hear", "nothing", lambda s: s.recordings.stop()),
    Command("next_note", ("Right",), "next note", "Hear", "solo", lambda s: do.walk_notes(s, 1)),
    Command("previous_note", ("Left",), "note before", "Hear", "solo", lambda s: do.walk_notes(s, -1)),
    Command("extend_next", ("Shift+Right",), "select the next one too", "Hear", "solo", lambda s: do.walk_notes(s, 1, extend=True)),
    Command("extend_previous", ("Shift+Left",), "select the one before too", "Hear", "solo", lambda s: do.walk_notes(s, -1, extend=True)),
    Command("select_all", ("Ctrl+A",), "select the whole phrase", "Hear", "solo", do.select_all),
    Command("next_doubt", ("D",), "next doubt, worst first", "Hear", "solo", do.next_doubt),
    Command("accept", ("Z",), "it is right: pin its pitch, next doubt", "Hear", "solo", do.accept),
    Command("pin", ("P",), "pin the note, or free it", "Hear", "notes", on_notes("pin", edits.toggle_pins)),
    Command("take_runner_up", ("E",), "take its likeliest other reading", "Hear", "notes", do.take_runner_up),
    Command("carry_to_repeats", ("Ctrl+R",), "carry it to where the figure returns", "Hear", "notes", do.carry_to_repeats),
    Command("pitch_up", ("Up",), "a fret higher", "Hear", "notes", _pitch(1)),
    Command("pitch_down", ("Down",), "a fret lower", "Hear", "notes", _pitch(-1)),
    Command("onset_earlier", ("Alt+Left",), "note starts 10 ms earlier", "Hear", "notes", _timing(-N, 0)),
    Command("onset_later", ("Alt+Right",), "note starts 10 ms later", "Hear", "notes", _timing(N, 0)),
    Command("note_end_earlier", ("Alt+Shift+Left",), "note ends 10 ms earlier", "Hear", "notes", _timing(0, -N)),
    Command("note_end_later", ("Alt+Shift+Right",), "note ends 10 ms later", "Hear", "notes", _timing(0, N)),
    Command("take_others", ("Alt+V",), "take the notes of another voice too", "Hear", "phrase", do.take_others),
    Command("leave_to_other", ("Ctrl+Alt+V",), "another voice plays it", "Hear", "notes", on_notes("another voice's", edits.leave_to_other)),
    Command("swap_voices", ("Alt+Shift+V",), "the other voice leads", "Hear", "solo", do.swap_voices),
    Command("add_note", ("A",), "add a note at the cursor", "Hear", "solo", do.add_note),
    Command("write", ("Ctrl+K",), "write notes by hand: digits are frets", "Hear", "solo", lambda s: s.writing.toggle()),
    Command("delete_notes", ("Del", "Backspace"), "throw the note out", "Hear", "notes", on_notes("throw out", edits.delete_notes)),
    Command("split_note", ("S",), "cut the note at the cursor", "Hear", "solo", do.split_note),
    Command("join_notes", ("J",), "join the selected notes", "Hear", "notes", on_notes("join notes", edits.join_notes, place=True)),
    *_technique_commands(),
    Command("string_up", ("Shift+Up",), "same pitch, thinner string", "Place and reason", "notes", _string(-1)),
    Command("string_down", ("Shift+Down",), "same pitch, thicker string", "Place and reason", "notes", _string(1)),
    Command("finger_1", ("1",), "index finger", "Place and reason", "notes", _finger(1)),
    Command("finger_2", ("2",), "middle finger", "Place and reason", "notes", _finger(2)),
    Command("finger_3", ("3",), "ring finger", "Place and reason", "notes", _finger(3)),
    Command("finger_4", ("4",), "little finger", "Place and reason", "notes", _finger(4)),
    Command("stroke_down", ("7",), "struck down", "Place and reason", "notes", _stroke("down")),
    Command("stroke_up", ("8",), "struck up", "Place and reason", "notes", _stroke("up")),
    Command("stroke_finger", ("9",), "plucked: thumb, index, middle, ring by turns", "Place and reason", "notes", do.pluck),
    Command("stroke_free", ("0",), "the stroke as proposed", "Place and reason", "notes", _stroke(None)),
    Command("next_placing_school", ("N",), "next way of placing", "Place and reason", "solo", do.next_placing_school),
    Command("next_way", ("Ctrl+Down",), "look at the next way to play it", "Place and reason", "phrase", lambda s: s.ways.next()),
    Command("previous_way", ("Ctrl+Up",), "look at the way before", "Place and reason", "phrase", lambda s: s.ways.previous()),
    Command("take_way", ("Ctrl+U",), "take the way looked at", "Place and reason", "phrase", lambda s: s.ways.take()),
    Command("hear_way", ("Shift+Return",), "hear the way looked at", "Place and reason", "solo", lambda s: s.ways.hear()),
    Command("next_fingers", ("Alt+F",), "three fingers, or a finger a fret", "Place and reason", "nothing", lambda s: s.hand.next_fingers()),
    Command("toggle_hand", ("Alt+H",), "use what is known of your hand, or not", "Place and reason", "nothing", lambda s: s.hand.toggle()),
    Command("forget_hand", ("Alt+Shift+H",), "forget what was learned of your hand", "Place and reason", "nothing", lambda s: s.hand.forget()),
    Command("next_picking", ("Shift+K",), "next style of picking", "Place and reason", "solo", lambda s: s.ways.next_picking()),
    Command("sound_shown", ("F8",), "the sound behind the tab, or the tab alone", "Hear", "phrase", lambda s: s.sound_shown.toggle()),
    Command("next_map", ("Alt+M",), "a map on the neck: the story's scale, the key's, the chord's grips", "Place and reason", "solo", lambda s: s.maps.next()),
    Command("previous_map", ("Alt+Shift+M",), "the map before", "Place and reason", "solo", lambda s: s.maps.next(-1)),
    Command("map_up", ("Alt+Up",), "the map's next position up the neck", "Place and reason", "solo", lambda s: s.maps.step(1)),
    Command("map_down", ("Alt+Down",), "its next position down", "Place and reason", "solo", lambda s: s.maps.step(-1)),
    Command("neck_large", ("F7",), "the neck large, or the desk again", "Place and reason", "solo", on_screen(lambda screen: screen.show_neck_large())),
    Command("next_reason_school", ("R",), "next way of explaining", "Place and reason", "solo", do.next_reason_school),
    Command("reason_phrase", ("Ctrl+Shift+R",), "its reasons are right, or not yet", "Place and reason", "phrase", do.reached("reasoned")),
    Command("hear_on_chord", ("Shift+'", '"'), "hear the note against its chord", "Place and reason", "notes", lambda s: s.chords.hear_note()),
    Command("suggest_chords", (), "suggest chords from the recording", "Place and reason", "solo", lambda s: s.chords.suggest()),
    Command("take_chords", (), "take the suggested chords", "Place and reason", "solo", lambda s: s.chords.take()),
    Command("next_remark", ("Ctrl+J",), "next remark", "Keep", "solo", next_remark),
    Command("undo", ("Ctrl+Z",), "undo", "Keep", "solo", lambda s: s.solo.undo()),
    Command("redo", ("Ctrl+Shift+Z", "Ctrl+Y"), "redo", "Keep", "solo", lambda s: s.solo.redo()),
    Command("save", ("Ctrl+S",), "save", "Keep", "solo", lambda s: s.keeping.save()),
    Command("save_as", ("Ctrl+Shift+S",), "save under another name", "Keep", "solo", lambda s: s.keeping.save_as()),
    Command("new", ("Ctrl+N",), "new solo from a recording", "Keep", "nothing", lambda s: s.keeping.new()),
    Command("new_empty", ("Ctrl+Shift+N",), "new solo without a recording", "Keep", "nothing", lambda s: s.keeping.new_empty()),
    Command("bring_in", ("Ctrl+I",), "bring in a MIDI, MusicXML, tab, table or notes file", "Keep", "nothing", lambda s: s.bringing_in.ask()),
    Command("paste_tab", ("Ctrl+Shift+V",), "bring in the tab that was copied", "Keep", "nothing", lambda s: s.bringing_in.paste_tab()),
    Command("lay_against", (), "lay the solo against a recording", "Keep", "solo", lambda s: s.bringing_in.lay()),
    Command("open", ("Ctrl+O",), "open a solo", "Keep", "nothing", lambda s: s.keeping.open()),
    Command("open_demo", (), "the demo", "Keep", "nothing", lambda s: s.keeping.open_demo()),
    Command("locate", (), "locate the recording", "Keep", "solo", lambda s: s.recordings.locate()),
    *_export_commands(),
    Command("next_preset", ("F5",), "next kind of page: stand, lesson, analysis", "Keep", "solo", lambda s: s.sheets.next_preset()),
    Command("print_sheet", ("Alt+P",), "print the sheet", "Keep", "solo", on_screen(lambda screen: screen.print_sheet())),
    Command("picture_of_desk", ("Alt+D",), "the desk as a picture", "Keep", "solo", lambda s: s.keeping.picture_of_desk()),
    Command("next_theme", ("F6",), "day or dusk", "Keep", "nothing", on_screen(lambda screen: screen.next_theme())),
    Command("find_command", ("Ctrl+Space", "F3"), "find a command by its words", "Keep", "nothing", on_screen(lambda screen: screen.find_command())),
    Command("show_help", ("?", "F1"), "this sheet", "Keep", "nothing", on_screen(lambda screen: screen.show_help())),
    Command("close", ("Ctrl+Q",), "close", "Keep", "nothing", on_screen(lambda screen: screen.close())),
)  # fmt: skip


def key_words(keys: str) -> str:
    """A key as a player reads it: arrows drawn, names spelled."""
    names = {
        "Left": "←", "Right": "→", "Up": "↑", "Down": "↓", "PgDown": "Page down", "PgUp": "Page up",
        "Return": "Enter", "Del": "Delete",
    }  # fmt: skip
    if keys.endswith("+"):
        return " ".join([*keys[:-1].replace("+", " ").split(), "+"])
    return " ".join(names.get(part, part) for part in keys.split("+"))


def find_commands(commands: Iterable[Command], words: str) -> list[Command]:
    """The commands in whose words or group every typed piece is found, best first: as a word's beginning, and early.

    All of them where nothing is typed.
    """
    pieces = words.lower().split()

    def badness(command: Command) -> int | None:
        text = f"{command.words} {command.group}".lower()
        total = 0
        for piece in pieces:
            at = f" {text}".find(f" {piece}")
            inside = text.find(piece)
            if inside < 0:
                return None
            total += at if at >= 0 else 100 + inside
        return total

    rated = [(bad, order, command) for order, command in enumerate(commands) if (bad := badness(command)) is not None]
    return [command for _, _, command in sorted(rated, key=lambda each: each[:2])]
