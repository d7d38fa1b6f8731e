"""The launcher's commands. Each exits 0, or says one line on stderr and exits 2 (bad input) or 1 (its own fault)."""

import argparse
import sys
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import NoReturn

import numpy as np
import soundfile

from eager_owl.audio.decode import AudioError, Recording, decode, mono
from eager_owl.audio.stretch import check_speed, stretch_blocks
from eager_owl.hearing.detect import detect_notes
from eager_owl.hearing.hints import Hints
from eager_owl.neck.fingering import Around, find_fingering, with_places
from eager_owl.neck.schools import placing_schools
from eager_owl.notation.notes_file import read_notes, write_notes
from eager_owl.notation.tab import text_tab
from eager_owl.reasons.explain import Reason, explain, explain_by_all
from eager_owl.reasons.schools import reason_schools
from eager_owl.rhythm.chart import Chart, parse_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session import explain_notes
from eager_owl.solo.document import Instrument, Note, Solo
from eager_owl.solo.store import DocumentError, load, read_text, write_atomically
from eager_owl.theory.key import Key, parse_key
from eager_owl.theory.pitch import parse_pitch

BAD_INPUT, OWN_FAULT = 2, 1


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise _BadInput(message)


class _BadInput(Exception):  # noqa: N818 - it is the player's words that are wrong
    """What was asked can't be done; the message is the one line that is printed."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit status."""
    try:
        options = _parser().parse_args(arguments)
        run: Callable[[argparse.Namespace], int | None] = options.run
        return run(options) or 0
    except (_BadInput, AudioError, DocumentError, ValueError) as error:
        print(f"eager-owl: {error}", file=sys.stderr)
        return BAD_INPUT
    except KeyboardInterrupt:
        print("eager-owl: stopped", file=sys.stderr)
        return OWN_FAULT
    except Exception as error:
        print(f"eager-owl: a fault of its own: {type(error).__name__}: {error}", file=sys.stderr)
        return OWN_FAULT


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="eager-owl", description="Transcribe a recorded guitar solo, phrase by phrase.")
    parser.add_argument("--demo", action="store_true", help="open the demo solo")
    parser.add_argument("--screenshot", metavar="FILE.png", type=Path, help="write the window to a file and exit")
    parser.add_argument("--theme", choices=("day", "dusk"), help="open in this theme")
    parser.add_argument("--solo", metavar="FILE", type=Path, help="open this solo or recording")
    parser.set_defaults(run=_desktop)
    commands = parser.add_subparsers(title="commands", parser_class=_Parser)

    command = commands.add_parser("transcribe", help="notes of a recording, placed and explained")
    command.add_argument("audio", type=Path)
    command.add_argument("--out", type=Path, required=True)
    _range_options(command)
    command.add_argument("--mix", choices=("auto", "solo", "band"), default="auto")
    _neck_options(command)
    _key_and_beat_options(command, chart_required=False)
    command.set_defaults(run=_transcribe)

    command = commands.add_parser("place", help="string, fret and finger for notes")
    command.add_argument("notes", type=Path)
    command.add_argument("--out", type=Path, required=True)
    _neck_options(command)
    command.add_argument("--key")
    command.add_argument("--school")
    command.add_argument("--from-fret", type=int)
    command.set_defaults(run=_place)

    command = commands.add_parser("explain", help="interval, source and role for notes")
    command.add_argument("notes", type=Path)
    command.add_argument("--out", type=Path, required=True)
    _key_and_beat_options(command, chart_required=True)
    command.set_defaults(run=_explain)

    command = commands.add_parser("export", help="a solo as another format")
    command.add_argument("solo_file", metavar="SOLO.owl.json", type=Path)
    command.add_argument("--to", choices=tuple(_EXPORTS), required=True)
    command.add_argument("--out", type=Path, required=True)
    command.set_defaults(run=_export)

    command = commands.add_parser("slow", help="slowed audio with its pitch kept")
    command.add_argument("audio", type=Path)
    command.add_argument("--speed", type=float, required=True)
    command.add_argument("--out", type=Path, required=True)
    _range_options(command)
    command.set_defaults(run=_slow)
    return parser


def _range_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--from", dest="start", type=float, metavar="S")
    command.add_argument("--to", dest="end", type=float, metavar="S")


def _neck_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--tuning", help="open strings from the thinnest: E4,B3,G3,D3,A2,E2")
    command.add_argument("--capo", type=int)
    command.add_argument("--frets", type=int)


def _key_and_beat_options(command: argparse.ArgumentParser, chart_required: bool) -> None:
    command.add_argument("--key")
    command.add_argument("--chart", type=Path, required=chart_required)
    command.add_argument("--bpm", type=float)
    command.add_argument("--first-beat", type=float, default=0.0)
    command.add_argument("--beats-per-bar", type=int, default=4)
    command.add_argument("--school")


def _desktop(options: argparse.Namespace) -> int:
    from eager_owl.desktop.app import run

    return run(options.demo, options.solo, options.screenshot, options.theme)


def _transcribe(options: argparse.Namespace) -> None:
    # Everything the player wrote is checked before the long work starts.
    instrument = _instrument(options, Instrument())
    key = parse_key(options.key) if options.key else None
    chart, grid = _chart_and_grid(options)
    reason_school, placing_school = _schools(options.school)
    recording, start = _clip(options)
    hints = Hints(instrument.lowest, instrument.highest)
    samples, rate = mono(recording.samples), recording.rate
    del recording  # a long one in stereo is large
    found = detect_notes(samples, rate, mix=options.mix, hints=hints)
    notes: list[Note] = [replace(note, onset=note.onset + start) for note in found.notes]
    notes = with_places(notes, find_fingering(notes, instrument, placing_schools()[placing_school].costs, key))
    reasons = _explained(notes, key, chart, grid, reason_school)
    _write(options.out, write_notes(notes, instrument, found.reference_cents, reasons))


def _place(options: argparse.Namespace) -> None:
    notes, instrument, cents = read_notes(read_text(options.notes), options.notes.name)
    instrument = _instrument(options, instrument)
    key = parse_key(options.key) if options.key else None
    school = _schools(options.school)[1]
    found = find_fingering(notes, instrument, placing_schools()[school].costs, key, Around(options.from_fret))
    for index, reason in found.refusals.items():
        _say(f"note {index + 1} at {notes[index].onset:.2f} s has no place: {reason}")
    _write(options.out, write_notes(with_places(notes, found), instrument, cents))


def _explain(options: argparse.Namespace) -> None:
    notes, instrument, cents = read_notes(read_text(options.notes), options.notes.name)
    key = parse_key(options.key) if options.key else None
    chart, grid = _chart_and_grid(options)
    reasons = _explained(notes, key, chart, grid or BeatGrid(), _schools(options.school)[0])
    _write(options.out, write_notes(notes, instrument, cents, reasons))


def _explained(
    notes: Sequence[Note], key: Key | None, chart: Chart, grid: BeatGrid | None, school: str | None
) -> Sequence[Reason]:
    """Reasons under a school, or where none was asked for, of the shortest honest story."""
    if school is None:
        return explain_by_all(notes, key, chart, grid)[0].reasons
    return explain(notes, key, chart, grid, reason_schools()[school]).reasons


def _export(options: argparse.Namespace) -> None:
    solo = load(options.solo_file)
    if options.to == "tab":
        _write(options.out, text_tab(solo))
        return
    reasons = explain_notes(solo, solo.notes).reasons
    _write(options.out, write_notes(solo.notes, solo.instrument, solo.reference_cents or 0.0, reasons))


_EXPORTS = {"tab": "text tab", "json": "the notes file"}


def _slow(options: argparse.Namespace) -> None:
    check_speed(options.speed)
    recording, _ = _clip(options)
    blocks = list(stretch_blocks(recording.samples, recording.rate, options.speed))
    beside = options.out.with_name(f".{options.out.name}.part")
    try:
        soundfile.write(beside, np.concatenate(blocks), recording.rate, format="WAV", subtype="PCM_24")
        beside.replace(options.out)
    except (soundfile.LibsndfileError, OSError) as error:
        beside.unlink(missing_ok=True)
        raise _BadInput(f"{options.out} can't be written: {error}") from None


def _clip(options: argparse.Namespace) -> tuple[Recording, float]:
    """The recording between --from and --to, and where it starts."""
    start = options.start or 0.0
    if start < 0 or (options.end is not None and options.end <= start):
        raise _BadInput("--to must come after --from, and neither before 0")
    recording = decode(options.audio)
    if recording.notice:
        _say(recording.notice)
    if start >= recording.duration_s:
        raise _BadInput(f"--from {start:g} is past the end of {options.audio.name} ({recording.duration_s:.1f} s)")
    end = recording.duration_s if options.end is None else options.end
    return replace(recording, samples=recording.between(start, end)), start


def _instrument(options: argparse.Namespace, base: Instrument) -> Instrument:
    tuning = tuple(parse_pitch(name) for name in options.tuning.split(",")) if options.tuning else base.tuning
    return Instrument(
        tuning,
        base.capo if options.capo is None else options.capo,
        base.frets if options.frets is None else options.frets,
    )


def _chart_and_grid(options: argparse.Namespace) -> tuple[Chart, BeatGrid | None]:
    chart = parse_chart(read_text(options.chart)) if options.chart else Chart()
    if options.bpm is None:
        return chart, None
    return chart, BeatGrid(options.bpm, options.first_beat, options.beats_per_bar)


def _schools(name: str | None) -> tuple[str | None, str]:
    """(reason school, placing school): the one named, which may be both; else the shortest story, and the default."""
    reasons, placings = reason_schools(), placing_schools()
    if name is not None and name not in reasons and name not in placings:
        known = dict.fromkeys([*reasons, *placings])
        raise _BadInput(f"there is no school “{name}”: choose one of {', '.join(known)}")
    return name if name in reasons else None, name if name in placings else Solo().placing_school


def _write(path: Path, text: str) -> None:
    write_atomically(path, text.encode())


def _say(sentence: str) -> None:
    print(f"eager-owl: {sentence}", file=sys.stderr)
