"""The launcher's commands. Each exits 0, or says one line on stderr and exits 2 (bad input) or 1 (its own fault)."""

import argparse
import signal
import sys
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor, as_completed
from dataclasses import replace
from multiprocessing import active_children, get_context
from pathlib import Path
from typing import NoReturn

import numpy as np
import soundfile

from eager_owl import __version__
from eager_owl.audio.decode import AudioError, Recording, decode, open_part
from eager_owl.audio.stretch import check_speed, stretch_blocks
from eager_owl.log import log_fault, log_path, start_log
from eager_owl.rhythm.chart import parse_chart
from eager_owl.rhythm.grid import MIN_BPM, BeatGrid
from eager_owl.session.explaining import Event, Reason, explain_by_all, explain_notes, reading_of, reason_schools
from eager_owl.session.exports import EXPORTS, Wanted
from eager_owl.session.hearing import hear_phrase, impression_around
from eager_owl.session.placing import fingering, place_notes, placing_schools, with_places
from eager_owl.session.recordings import SOUND_SUFFIXES, recording_path
from eager_owl.solo.document import Instrument, Phrase, Solo, with_notes
from eager_owl.solo.store import SUFFIX, DocumentError, from_json, is_notes_file, read_text, save, write_atomically
from eager_owl.theory.key import parse_key
from eager_owl.theory.pitch import parse_pitch
from eager_owl.theory.words import one_line, plural

BAD_INPUT, OWN_FAULT = 2, 1
_WAV_BYTES = 4_000_000_000
_VALUED = ("--screenshot", "--theme")  # options before a file whose next word is their value


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise _BadInput(message)


class _BadInput(Exception):  # noqa: N818 - it is the player's words that are wrong
    """What was asked can't be done; the message is the one line that is printed."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit status."""
    start_log()
    words = list(sys.argv[1:] if arguments is None else arguments)
    try:
        options = _desktop_parser().parse_args(words) if _is_for_the_desktop(words) else _parser().parse_args(words)
        _spare_inputs(options)
        run: Callable[[argparse.Namespace], int | None] = options.run
        return run(options) or 0
    except (_BadInput, AudioError, DocumentError, ValueError) as error:
        _say(str(error))
        return BAD_INPUT
    except KeyboardInterrupt:
        _say("stopped")
        return OWN_FAULT
    except Exception as error:
        _say(log_fault(" ".join(words), error))
        return OWN_FAULT


def _spare_inputs(options: argparse.Namespace) -> None:
    """What is read is never written over."""
    out: Path | None = getattr(options, "out", None)
    read = [getattr(options, name, None) for name in ("audio", "notes", "solo_file", "file", "chart")]
    files = [path for path in read if path is not None and path.is_file()]
    if out is not None and out.is_file() and any(out.samefile(path) for path in files):
        raise _BadInput(f"--out {out} is what is read: give another name")


def _is_for_the_desktop(words: Sequence[str]) -> bool:
    """Whether the first word that is no option is a file to open, not a command."""
    own = (w for before, w in zip(["", *words[:-1]], words, strict=False) if before not in _VALUED)
    first = next((word for word in own if not word.startswith("-")), None)
    if first is None or first in COMMANDS:
        return False
    if not Path(first).is_file():
        raise _BadInput(f"there is no file “{first}”, and no command of that name (--help lists them)")
    return True


def _desktop_parser() -> argparse.ArgumentParser:
    """FILE, and how it is to be looked at."""
    parser = _Parser(prog="eager-owl")
    parser.add_argument("file", type=Path)
    _look_options(parser)
    parser.set_defaults(run=_desktop, demo=False)
    return parser


def _look_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--screenshot", metavar="FILE.png", type=Path, help="write the window to a file and exit")
    parser.add_argument("--theme", choices=("day", "dusk"), help="open in this theme")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="eager-owl",
        description="Transcribe a recorded guitar solo, phrase by phrase. With a recording or a solo instead of a "
        "command, opens the desktop on it.",
    )
    parser.add_argument("--demo", action="store_true", help="open the demo solo")
    _look_options(parser)
    parser.add_argument("--version", action="store_true", help="print the version")
    parser.add_argument("--log", action="store_true", help="print where faults are written down")
    parser.set_defaults(run=_desktop, file=None)
    commands = parser.add_subparsers(title="commands", parser_class=_Parser)
    for name, (words, add_options, run) in COMMANDS.items():
        command = commands.add_parser(name, help=words)
        add_options(command)
        command.set_defaults(run=run)
    return parser


# Options


def _transcribe_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("audio", type=Path, metavar="AUDIO|FOLDER")
    command.add_argument("--out", type=Path, required=True)
    _range_options(command)
    command.add_argument("--mix", choices=("auto", "solo", "band"), default="auto")
    _neck_options(command)
    _key_and_beat_options(command)


def _place_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("notes", type=Path)
    command.add_argument("--out", type=Path, required=True)
    _neck_options(command)
    command.add_argument("--key")
    command.add_argument("--school")
    command.add_argument("--from-fret", type=int)


def _explain_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("notes", type=Path)
    command.add_argument("--out", type=Path, required=True)
    _key_and_beat_options(command)


def _export_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("solo_file", metavar="SOLO.owl.json|NOTES.json", type=Path)
    command.add_argument("--to", choices=[name for name, export in EXPORTS.items() if export.listed], required=True)
    command.add_argument("--out", type=Path, required=True)
    command.add_argument("--phrase", type=int, metavar="N", help="one phrase only, counted from 1")
    command.add_argument("--preset", choices=("stand", "lesson", "analysis"), help="what is shown on the page")
    command.add_argument("--timing", choices=("played", "written"), default="played", help="of a MIDI file")
    command.add_argument("--paper", choices=("A4", "letter"), default="A4")
    command.add_argument("--landscape", action="store_true", help="paper lying on its side")
    _key_and_beat_options(command)


def _import_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("file", type=Path, metavar="FILE.mid|.musicxml|.mxl|.txt|.csv|NOTES.json")
    command.add_argument("--out", type=Path, required=True)
    command.add_argument("--bpm", type=float, help="beats a minute, where the file does not say")
    command.add_argument("--track", type=int, metavar="N", help="the track or part to read, counted from 1")


def _slow_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("audio", type=Path)
    command.add_argument("--speed", type=float, required=True)
    command.add_argument("--out", type=Path, required=True)
    _range_options(command)


def _range_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--from", dest="start", type=float, metavar="S")
    command.add_argument("--to", dest="end", type=float, metavar="S")


def _neck_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--tuning", help="open strings from the thinnest: E4,B3,G3,D3,A2,E2")
    command.add_argument("--capo", type=int)
    command.add_argument("--frets", type=int)


def _key_and_beat_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--key")
    command.add_argument("--chart", type=Path)
    command.add_argument("--bpm", type=float)
    command.add_argument("--first-beat", type=float, default=0.0)
    command.add_argument("--beats-per-bar", type=int, default=4)
    command.add_argument(
        "--division",
        type=int,
        choices=(2, 3),
        help="parts a beat falls into; bars of 6, 9 and 12 are counted in dotted beats unless 2 is said",
    )
    command.add_argument("--school")


# Commands


def _desktop(options: argparse.Namespace) -> int:
    if getattr(options, "version", False):
        print(f"eager-owl {__version__}")
        return 0
    if getattr(options, "log", False):
        print(log_path())
        return 0
    from eager_owl.desktop.app import run

    return run(options.demo, options.file, options.screenshot, options.theme)


def _transcribe(options: argparse.Namespace) -> int:
    if options.audio.is_dir():
        return _transcribe_folder(options)
    _transcribe_file(options)
    return 0


def _transcribe_folder(options: argparse.Namespace) -> int:
    """Every recording of a folder into another, on as many processes as there are cores; a bad one stops none."""
    kinds = tuple(SOUND_SUFFIXES)
    _with_beat(_with_neck(Solo(), options), options)  # what is wrong in it is told once, not for each file
    files = sorted(path for path in options.audio.iterdir() if path.suffix.lower() in kinds and path.is_file())
    if not files:
        raise _BadInput(f"there are no recordings in {options.audio} ({', '.join(kinds)})")
    if options.out.exists() and not options.out.is_dir():
        raise _BadInput(f"{options.out} is a file; give a folder for the notes of a folder")
    options.out.mkdir(parents=True, exist_ok=True)
    failed = 0
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        # Ctrl-C goes to all processes of a terminal, and a pool waits for ever for those that die of it: they
        # inherit that they do not care, and this one ends them.
        stops = signal.signal(signal.SIGINT, signal.SIG_IGN)
        works = {pool.submit(_transcribe_one, _for_file(options, path)): path for path in files}
        signal.signal(signal.SIGINT, stops)
        try:
            for done, work in enumerate(as_completed(works), 1):
                trouble = work.result()
                if trouble is not None:
                    failed += 1
                    _say(trouble if works[work].name in trouble else f"{works[work].name}: {trouble}")
                _show_progress(done, len(files))
        except KeyboardInterrupt:
            for child in active_children():
                child.terminate()
            raise
    _say(f"{plural(len(files) - failed, 'recording')} transcribed into {options.out}, {failed} not")
    return BAD_INPUT if failed else 0


def _for_file(options: argparse.Namespace, path: Path) -> argparse.Namespace:
    """What was asked for a folder, asked for one file of it."""
    kept = {name: value for name, value in vars(options).items() if name != "run"}
    return argparse.Namespace(**{**kept, "audio": path, "out": options.out / f"{path.name}.json"})


def _transcribe_one(options: argparse.Namespace) -> str | None:
    """In a process of its own: what went wrong, in a line, or None."""
    try:
        _transcribe_file(options)
    except (_BadInput, AudioError, DocumentError, ValueError, OSError) as error:
        return str(error)
    except Exception as error:
        return log_fault(f"transcribe {options.audio}", error)
    return None


def _show_progress(done: int, of: int) -> None:
    """A bar on the terminal; nothing where stderr is a file."""
    if sys.stderr.isatty():
        filled = round(30 * done / of)
        print(
            f"\r[{'#' * filled}{'.' * (30 - filled)}] {done} of {of}", end="\n" if done == of else "", file=sys.stderr
        )


def _transcribe_file(options: argparse.Namespace) -> None:
    # Everything the player wrote is checked before the long work starts.
    solo = _with_beat(_with_neck(Solo(mix=options.mix), options), options)
    school = _reason_school(options)
    recording, phrase = _stretch(options)
    if phrase.end - phrase.start < recording.duration_s:
        # A part is heard in the tuning and as the kind of mix that the recording has around it.
        mix, cents = impression_around(recording, phrase)
        solo = replace(solo, reference_cents=cents, mix=mix if solo.mix == "auto" else solo.mix)
    heard = hear_phrase(solo, phrase, recording)
    solo = replace(with_notes(solo, heard.notes), reference_cents=heard.reference_cents, phrases=(phrase,))
    solo = place_notes(solo, solo.notes)
    if heard.others:
        _say(f"{plural(len(heard.others), 'note')} of another voice left out")
    if any(note.pitch < solo.instrument.lowest for note in solo.notes):
        _say("notes lie under the lowest string and have no place: --tuning gives another")
    _write_explained(options.out, solo, school)


def _place(options: argparse.Namespace) -> None:
    solo = _with_neck(_read_notes(options.notes), options)
    found = fingering(solo, solo.notes, from_fret=options.from_fret)
    for index, reason in found.refusals.items():
        _say(f"note {index + 1} at {solo.notes[index].onset:.2f} s has no place: {reason}")
    _write_notes(options.out, with_notes(solo, with_places(solo.notes, found)))


def _explain(options: argparse.Namespace) -> None:
    solo = _with_beat(_read_notes(options.notes), options)
    solo = replace(solo, grid=solo.grid or BeatGrid())
    _write_explained(options.out, solo, _reason_school(options))


def _write_explained(path: Path, solo: Solo, school: str | None) -> None:
    """The notes with reasons under a school, or where none was asked for, of the shortest honest story."""
    reading = reading_of(solo, solo.notes)
    by_all = explain_by_all(solo, solo.notes, reading) if school is None else []
    told = by_all[0] if by_all else explain_notes(solo, solo.notes, school, reading)
    _write_notes(path, solo, told.reasons, reading.events)


def _export(options: argparse.Namespace) -> None:
    from eager_owl.notation.sheet.pages import PAPERS  # only here: other commands draw no page

    export = EXPORTS[options.to]
    solo = _solo_to_export(options)
    if solo.grid is None and options.to in ("pdf", "svg", "musicxml", "html"):
        _say("there is no beat, so the notes are written as if at 120: --bpm and --first-beat give one")
    paper = PAPERS[options.paper]
    wanted = Wanted(
        options.out,
        None if options.phrase is None else options.phrase - 1,
        options.preset,
        paper.turned if options.landscape else paper,
        recording=_recording_of(solo, options.solo_file) if export.sounds else None,
        written=options.timing == "written",
    )
    if export.drawn:
        from eager_owl.desktop.drawing import drawing_without_window

        wanted = replace(wanted, drawing=drawing_without_window())
    write_atomically(options.out, export.write(solo, wanted))


def _solo_to_export(options: argparse.Namespace) -> Solo:
    """The solo in a document, or the notes of a notes file on the beat, key and chart that were asked for."""
    text = read_text(options.solo_file)
    if not is_notes_file(text):
        return from_json(text, options.solo_file.name)
    solo = _with_beat(_read_notes(options.solo_file), options)
    school = _reason_school(options)
    if any(note.string is None for note in solo.notes):
        solo = place_notes(solo, solo.notes)
    return replace(solo, title=one_line(options.solo_file.stem), reason_school=school or solo.reason_school)


def _recording_of(solo: Solo, document: Path) -> Recording | None:
    """The solo's recording, or None where there is none to be found."""
    path = recording_path(solo.recording, document) if solo.recording else None
    if path is None or not path.is_file():
        _say("the recording is not there: the transcription is played instead")
        return None
    return decode(path)


def _import(options: argparse.Namespace) -> None:
    from eager_owl.session.importing import read_foreign

    if not options.out.name.endswith(SUFFIX):
        raise _BadInput(f"--out must be a solo: a name that ends in {SUFFIX}")
    if options.bpm is not None:
        BeatGrid(options.bpm)  # a tempo outside all bounds is told before the file is read
    found = read_foreign(options.file, options.bpm, options.track)
    for line in found.complaints:
        _say(line)
    save(found.solo, options.out)


def _slow(options: argparse.Namespace) -> None:
    check_speed(options.speed)
    recording, phrase = _stretch(options)
    beside = options.out.with_name(f".{options.out.name}.part")
    try:
        part = recording.part(phrase.start, phrase.end)
        size = len(part) / options.speed * recording.channels * 3
        kind = "WAV" if size < _WAV_BYTES else "RF64"  # the same, for what is too long for it
        with soundfile.SoundFile(beside, "w", recording.rate, recording.channels, "PCM_24", format=kind) as file:
            for block in stretch_blocks(part, recording.rate, options.speed):
                file.write(block)
        beside.replace(options.out)
    except (soundfile.LibsndfileError, OSError) as error:
        beside.unlink(missing_ok=True)
        raise _BadInput(f"{options.out} can't be written: {error}") from None


# Name: (words, its options, what it does).
COMMANDS: dict[
    str, tuple[str, Callable[[argparse.ArgumentParser], None], Callable[[argparse.Namespace], int | None]]
] = {
    "transcribe": ("notes of a recording, placed and explained", _transcribe_options, _transcribe),
    "place": ("string, fret and finger for notes", _place_options, _place),
    "explain": ("interval, source and role for notes", _explain_options, _explain),
    "export": ("a solo as another format", _export_options, _export),
    "import": ("a solo from another program's file", _import_options, _import),
    "slow": ("slowed audio with its pitch kept", _slow_options, _slow),
}


# What was asked, as a solo


def _stretch(options: argparse.Namespace) -> tuple[Recording, Phrase]:
    """The recording, and the stretch of it between --from and --to."""
    start = options.start or 0.0
    if not 0 <= start < np.inf or (options.end is not None and not start < options.end < np.inf):
        raise _BadInput("--to must come after --from, and neither before 0")
    # A part is sought and looked into where it lies; where the file does not reach so far, all of it is read.
    recording = open_part(options.audio, start, options.end) if options.end is not None else None
    recording = recording or decode(options.audio)
    if recording.notice:
        _say(recording.notice)
    if start >= recording.duration_s:
        raise _BadInput(f"--from {start:g} is past the end of {options.audio.name} ({recording.duration_s:.1f} s)")
    end = recording.duration_s if options.end is None else min(options.end, recording.duration_s)
    return recording, Phrase(start, end)


def _read_notes(path: Path) -> Solo:
    from eager_owl.notation.notes_file import read_notes  # its package takes long to load: not for the window

    notes, instrument, cents = read_notes(read_text(path), path.name)
    return Solo(instrument=instrument, reference_cents=cents, notes=tuple(notes))


def _with_neck(solo: Solo, options: argparse.Namespace) -> Solo:
    """The solo on the guitar, in the key and by the placing school that were asked for."""
    base = solo.instrument
    tuning = tuple(parse_pitch(name) for name in options.tuning.split(",")) if options.tuning else base.tuning
    instrument = Instrument(
        tuning,
        base.capo if options.capo is None else options.capo,
        base.frets if options.frets is None else options.frets,
    )
    school = _school(options)
    placing = school if school in placing_schools() else solo.placing_school
    return replace(_with_key(solo, options), instrument=instrument, placing_school=placing)


def _with_key(solo: Solo, options: argparse.Namespace) -> Solo:
    if options.key:
        parse_key(options.key)
    return replace(solo, key_text=options.key or "")


def _with_beat(solo: Solo, options: argparse.Namespace) -> Solo:
    """The solo with the key, chart and beat that were asked for."""
    text = read_text(options.chart) if options.chart else ""
    parse_chart(text)
    grid = None
    if options.bpm is not None:
        grid = _grid(options)
    return replace(_with_key(solo, options), chart_text=text, grid=grid)


def _grid(options: argparse.Namespace) -> BeatGrid:
    """The beat that was asked for: 6/8, 9/8 and 12/8 in beats of three eighths, unless they are to fall in two.

    A bar is as long in either case; beats too slow to be counted in threes stay as they are.
    """
    bpm, beats, division = options.bpm, options.beats_per_bar, options.division
    if division is None and beats in (6, 9, 12) and bpm / 3 >= MIN_BPM:
        return BeatGrid(bpm / 3, options.first_beat, beats // 3, division=3)
    return BeatGrid(bpm, options.first_beat, beats, division=division or 2)


def _school(options: argparse.Namespace) -> str | None:
    """The school of placing or explaining that was named, if there is one of that name."""
    name: str | None = options.school
    known = dict.fromkeys([*reason_schools(), *placing_schools()])
    if name is not None and name not in known:
        raise _BadInput(f"there is no school “{name}”: choose one of {', '.join(known)}")
    return name


def _reason_school(options: argparse.Namespace) -> str | None:
    """The school of explaining that was named; None asks for the shortest story."""
    name = _school(options)
    return name if name in reason_schools() else None


def _write_notes(
    path: Path, solo: Solo, reasons: Sequence[Reason] | None = None, events: Sequence[Event] = ()
) -> None:
    from eager_owl.notation.notes_file import write_notes

    cents = solo.reference_cents or 0.0
    write_atomically(path, write_notes(solo.notes, solo.instrument, cents, reasons, events).encode())


def _say(sentence: str) -> None:
    print(f"eager-owl: {one_line(sentence)}", file=sys.stderr)
