"""Every action, once: its name, keys, words and group. The window binds them; the help sheet lists them."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Action:
    """`name` is the window's method; `keys` are tried in order; `words` tell what it does."""

    name: str
    keys: tuple[str, ...]
    words: str


GROUPS: dict[str, tuple[Action, ...]] = {
    "Listen": (
        Action("toggle_loop", ("Space",), "loop the phrase, or stop"),
        Action("play_once", ("Return", "Enter"), "play the phrase once"),
        Action("slower", ("-",), "slower"),
        Action("faster", ("=", "+"), "faster"),
        Action("toggle_count_in", ("C",), "count-in on or off"),
        Action("next_voice", ("\\",), "record, transcription, or one in each ear"),
        Action("prove_phrase", ("Shift+P",), "the phrase is proved, or not yet"),
        Action("hold_instant", (";",), "hold the sound at the cursor"),
        Action("reference_tone", ("'",), "a steady tone of the note's pitch"),
        Action("next_phrase", ("PgDown",), "next phrase"),
        Action("previous_phrase", ("PgUp",), "phrase before"),
        Action("show_whole", ("W",), "the whole recording, or back"),
        Action("zoom_in", ("Ctrl+=", "Ctrl++"), "look closer"),
        Action("zoom_out", ("Ctrl+-",), "step back"),
    ),
    "Split": (
        Action("span_start", ("[",), "a stretch starts at the cursor"),
        Action("span_end", ("]",), "it ends at the cursor"),
        Action("mark_phrase", ("M",), "make the stretch a phrase"),
        Action("suggest_phrases", ("Ctrl+P",), "phrases where the lead breathes"),
        Action("find_beat", ("Ctrl+T",), "take the beat that was found"),
        Action("beat_here", ("Ctrl+G",), "the nearest beat lies at the cursor"),
        Action("bar_here", ("Ctrl+D",), "a bar begins at the cursor"),
        Action("split_phrase", ("X",), "cut the phrase at the cursor"),
        Action("merge_phrase", ("Y",), "merge with the next phrase"),
        Action("rename_phrase", ("F2",), "name the phrase"),
        Action("delete_phrase", ("Ctrl+Backspace",), "remove the phrase"),
        Action("start_earlier", ("Ctrl+Left",), "phrase starts 50 ms earlier"),
        Action("start_later", ("Ctrl+Right",), "phrase starts 50 ms later"),
        Action("end_earlier", ("Ctrl+Shift+Left",), "phrase ends 50 ms earlier"),
        Action("end_later", ("Ctrl+Shift+Right",), "phrase ends 50 ms later"),
        Action("cursor_back", (",",), "cursor 20 ms back"),
        Action("cursor_on", (".",), "cursor 20 ms on"),
    ),
    "Hear": (
        Action("hear", ("H",), "hear the phrase: detect its notes"),
        Action("tap", ("I",), "tap a note while it plays"),
        Action("clear_taps", ("Shift+I",), "let go of the taps"),
        Action("stop_work", ("Esc",), "stop hearing; let go of the selection"),
        Action("next_note", ("Right",), "next note"),
        Action("previous_note", ("Left",), "note before"),
        Action("extend_next", ("Shift+Right",), "select the next one too"),
        Action("extend_previous", ("Shift+Left",), "select the one before too"),
        Action("select_all", ("Ctrl+A",), "select the whole phrase"),
        Action("next_doubt", ("D",), "next doubt, worst first"),
        Action("accept", ("Z",), "it is right: pin its pitch, next doubt"),
        Action("pin", ("P",), "pin the note, or free it"),
        Action("take_runner_up", ("E",), "take its likeliest other reading"),
        Action("carry_to_repeats", ("Ctrl+R",), "carry it to where the figure returns"),
        Action("pitch_up", ("Up",), "a fret higher"),
        Action("pitch_down", ("Down",), "a fret lower"),
        Action("onset_earlier", ("Alt+Left",), "note starts 10 ms earlier"),
        Action("onset_later", ("Alt+Right",), "note starts 10 ms later"),
        Action("note_end_earlier", ("Alt+Shift+Left",), "note ends 10 ms earlier"),
        Action("note_end_later", ("Alt+Shift+Right",), "note ends 10 ms later"),
        Action("add_note", ("A",), "add a note at the cursor"),
        Action("delete_notes", ("Del", "Backspace"), "throw the note out"),
        Action("split_note", ("S",), "cut the note at the cursor"),
        Action("join_notes", ("J",), "join the selected notes"),
    ),
    "Name": (
        Action("technique_bend", ("B",), "bend"),
        Action("technique_bend_release", ("Shift+B",), "bend and release"),
        Action("technique_prebend", ("Ctrl+B",), "struck already bent"),
        Action("technique_prebend_release", ("Ctrl+Shift+B",), "struck bent, let down"),
        Action("technique_vibrato", ("V",), "vibrato"),
        Action("technique_slide", ("L",), "slide from the note before"),
        Action("technique_slide_in", ("Ctrl+L",), "slide in from nowhere"),
        Action("technique_slide_out", ("Shift+L",), "slide away"),
        Action("technique_hammer_on", ("O",), "hammer-on"),
        Action("technique_pull_off", ("U",), "pull-off"),
        Action("technique_trill", ("T",), "trill"),
        Action("technique_tap", ("Shift+T",), "tapped"),
        Action("technique_grace", ("Shift+G",), "grace note"),
        Action("technique_rake", ("Shift+R",), "rake"),
        Action("technique_ghost", ("G",), "ghost note"),
        Action("technique_staccato", ("K",), "cut short"),
        Action("technique_palm_mute", ("Q",), "palm-muted"),
        Action("technique_double_stop", ("Shift+D",), "double stop"),
        Action("technique_let_ring", ("Shift+Q",), "let ring"),
        Action("technique_harmonic", ("Shift+H",), "harmonic"),
    ),
    "Place and reason": (
        Action("string_up", ("Shift+Up",), "same pitch, thinner string"),
        Action("string_down", ("Shift+Down",), "same pitch, thicker string"),
        Action("finger_1", ("1",), "index finger"),
        Action("finger_2", ("2",), "middle finger"),
        Action("finger_3", ("3",), "ring finger"),
        Action("finger_4", ("4",), "little finger"),
        Action("stroke_down", ("7",), "struck down"),
        Action("stroke_up", ("8",), "struck up"),
        Action("stroke_finger", ("9",), "plucked with a finger"),
        Action("stroke_free", ("0",), "the stroke as proposed"),
        Action("next_placing_school", ("N",), "next way of placing"),
        Action("show_hand", ("Shift+N",), "the hands: ways, picking, cautions"),
        Action("next_way", ("Ctrl+Down",), "look at the next way to play it"),
        Action("previous_way", ("Ctrl+Up",), "look at the way before"),
        Action("take_way", ("Ctrl+U",), "take the way looked at"),
        Action("hear_way", ("Shift+Return",), "hear the way looked at"),
        Action("next_picking", ("Shift+K",), "next style of picking"),
        Action("show_move", ("Shift+M",), "carry the phrase elsewhere"),
        Action("neck_large", ("F7",), "the neck large, or the desk again"),
        Action("next_reason_school", ("R",), "next way of explaining"),
        Action("show_why", ("Shift+W",), "why the phrase works; your own word"),
        Action("show_solo_why", ("Ctrl+W",), "why the whole solo works"),
        Action("show_fits", ("Shift+O",), "the phrase over other chords"),
        Action("show_chart", ("Shift+C",), "the chords: write, or suggest"),
        Action("hear_on_chord", ("Shift+'", '"'), "hear the note against its chord"),
    ),
    "Keep": (
        Action("undo", ("Ctrl+Z",), "undo"),
        Action("redo", ("Ctrl+Shift+Z", "Ctrl+Y"), "redo"),
        Action("save", ("Ctrl+S",), "save"),
        Action("save_as", ("Ctrl+Shift+S",), "save under another name"),
        Action("new", ("Ctrl+N",), "new solo from a recording"),
        Action("open", ("Ctrl+O",), "open a solo"),
        Action("export_tab", ("Ctrl+E",), "export the tab as text"),
        Action("show_lead", ("Shift+F",), "the lead: range, focus, taps"),
        Action("show_facts", ("F",), "facts: key, beat, chords, guitar"),
        Action("next_theme", ("F6",), "day or dusk"),
        Action("show_help", ("?", "F1"), "this sheet"),
        Action("close", ("Ctrl+Q",), "close"),
    ),
}

ALL: dict[str, Action] = {action.name: action for group in GROUPS.values() for action in group}


def key_words(keys: str) -> str:
    """A key as a player reads it: arrows drawn, names spelled."""
    names = {
        "Left": "←", "Right": "→", "Up": "↑", "Down": "↓", "PgDown": "Page down", "PgUp": "Page up",
        "Return": "Enter", "Del": "Delete",
    }  # fmt: skip
    if keys.endswith("+"):
        return " ".join([*keys[:-1].replace("+", " ").split(), "+"])
    return " ".join(names.get(part, part) for part in keys.split("+"))
