"""MusicXML as other programs write it, read into a solo: `.musicxml`, `.xml`, and `.mxl`, its packed form."""

import io
import re
import zipfile
import zlib
from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from eager_owl.notation.imported import MOST_BARS, MOST_BYTES, Complaints, ForeignFileError, Imported
from eager_owl.notation.musicxml.read_notes import (
    Part,
    attribute_of,
    bar_quarters,
    number_of,
    pitch_of,
    read_note,
    text_of,
)
from eager_owl.notation.musicxml.read_solo import as_solo
from eager_owl.notation.musicxml.words import MODES, SUFFIXES, TONICS
from eager_owl.solo.document import About, Solo
from eager_owl.theory.chord import parse_chord
from eager_owl.theory.pitch import NATURALS
from eager_owl.theory.words import plural


def read_musicxml(content: bytes, name: str, track: int | None = None) -> Imported:
    """Read a file's bytes; `track` is the part, from 1 (the first with notes where none is given).

    Raises ForeignFileError for what is no MusicXML, is packed to do harm, or refers to other files.
    """
    root = _root(content, name)
    if root.tag == "score-timewise":
        raise ForeignFileError(f"{name} is written time by time; save it part by part (score-partwise)")
    if root.tag != "score-partwise":
        raise ForeignFileError(f"{name} is not MusicXML: it begins with <{root.tag[:40]}>")
    parts = root.findall("part")
    if track is not None and not 1 <= track <= len(parts):
        raise ForeignFileError(f"{name} has no part {track}: it has {len(parts)}")
    wanted = parts[track - 1] if track else next((p for p in parts if p.find(".//note/pitch") is not None), None)
    if wanted is None:
        raise ForeignFileError(f"{name} has no notes")
    told = Complaints()
    if track is None and len(parts) > 1:
        told.add(f"it has {len(parts)} parts; part {parts.index(wanted) + 1} was read")
    part = _gather(wanted, told)
    title = text_of(root, "work/work-title") or text_of(root, "movement-title") or name.rsplit(".", 1)[0]
    about = About(player=text_of(root, "identification/creator"))
    found = as_solo(replace(Solo(title=title.strip()[:200]), about=about), part, told)
    named = {each.get("id"): text_of(each, "part-name") for each in root.iterfind("part-list/score-part")}
    words = tuple(
        f"{named.get(each.get('id')) or 'part'}, {plural(len(each.findall('.//pitch')), 'note')}" for each in parts
    )
    return replace(found, parts=words, part=parts.index(wanted) + 1)


def _root(content: bytes, name: str) -> Element:
    if content[:2] == b"PK":
        content = _unpacked(content, name)
    if len(content) > MOST_BYTES:
        raise ForeignFileError(f"{name} is larger than {MOST_BYTES // 1_000_000} MB")
    try:
        root: Element = fromstring(content)
    except DefusedXmlException:
        raise ForeignFileError(f"{name} defines entities or refers to other files: it is not read") from None
    except (ParseError, ValueError, LookupError) as error:
        raise ForeignFileError(f"{name} is not MusicXML ({str(error)[:80]})") from None
    except RecursionError:
        raise ForeignFileError(f"{name} is nested too deeply to be MusicXML") from None
    for element in root.iter():
        if isinstance(element.tag, str):
            element.tag = element.tag.rsplit("}", 1)[-1]
    return root


def _unpacked(content: bytes, name: str) -> bytes:
    """The score inside an `.mxl` file, whose sizes are looked at before anything is unpacked."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            inside = {info.filename: info for info in archive.infolist()}
            if len(inside) > 1000 or sum(info.file_size for info in inside.values()) > MOST_BYTES:
                raise ForeignFileError(f"{name} unpacks to more than {MOST_BYTES // 1_000_000} MB: it is not read")
            path = None
            if "META-INF/container.xml" in inside:
                container = _root(archive.read("META-INF/container.xml"), name)
                path = next((e.get("full-path") for e in container.iter("rootfile")), None)
            path = path or next(
                (n for n in inside if n.endswith((".musicxml", ".xml")) and "META-INF" not in n), None
            )
            if path not in inside:
                raise ForeignFileError(f"{name} has no score in it")
            unpacked = archive.read(path)
    except ForeignFileError:
        raise
    except (
        zipfile.BadZipFile,
        NotImplementedError,
        RuntimeError,
        EOFError,
        OSError,
        ValueError,
        zlib.error,
    ) as error:
        raise ForeignFileError(f"{name} can't be unpacked ({str(error)[:80]})") from None
    if unpacked[:2] == b"PK":
        raise ForeignFileError(f"{name} has no score in it")
    return unpacked


# Bar by bar


def _unfolded(measures: Sequence[Element]) -> Iterator[Element]:
    """The bars in the order they are played: repeats taken, their endings in turn."""
    count = start = index = 0
    turn = 1
    taken: dict[int, int] = {}
    while index < len(measures):
        count += 1
        if count > MOST_BARS:
            raise ForeignFileError(f"its repeats come to more than {MOST_BARS} bars")
        measure = measures[index]
        ending = next(
            (e.get("number", "") for e in measure.iterfind("barline/ending") if e.get("type") == "start"), None
        )
        if any(e.get("direction") == "forward" for e in measure.iterfind("barline/repeat")) and start != index:
            start, turn = index, 1
        if ending is not None and str(turn) not in re.findall(r"\d+", ending):
            index = _after_ending(measures, index)
            continue
        yield measure
        back = next((e for e in measure.iterfind("barline/repeat") if e.get("direction") == "backward"), None)
        if back is not None:
            times = int(attribute_of(back, "times", 2))
            if taken.get(index, 1) < max(times, _endings(measures, start, index)):
                taken[index] = taken.get(index, 1) + 1
                turn += 1
                index = start
                continue
            start, turn = index + 1, 1
        index += 1


def _endings(measures: Sequence[Element], start: int, index: int) -> int:
    """How often a repeat is played, by the endings up to its end."""
    numbers = [
        int(n)
        for measure in measures[start : index + 1]
        for e in measure.iterfind("barline/ending")
        for n in re.findall(r"\d{1,2}", e.get("number", ""))
    ]
    return max(numbers, default=1) + (1 if numbers else 0)


def _after_ending(measures: Sequence[Element], index: int) -> int:
    """The bar after the ending that begins at a bar."""
    while index < len(measures):
        over = any(e.get("type") in ("stop", "discontinue") for e in measures[index].iterfind("barline/ending"))
        index += 1
        if over:
            break
    return index


def _gather(source: Element, told: Complaints) -> Part:
    part = Part()
    measures = source.findall("measure")
    number = measures[0].get("number", "1") if measures else "1"
    part.first_number = int(number) if re.fullmatch(r"-?\d{1,4}", number) else 1
    if measures and measures[0].get("implicit") == "yes" and part.first_number >= 1:
        part.first_number = 0
    at = Fraction(0)
    for index, measure in enumerate(_unfolded(measures)):
        length = _gather_measure(measure, at, part, told, f"bar {part.first_number + index}")
        if index == 0 and measure.get("implicit") == "yes":
            part.pickup = length
        elif part.meters and length < bar_quarters(part.meters[-1][1]):
            length = bar_quarters(part.meters[-1][1])
        at += length
    return part


def _gather_measure(measure: Element, start: Fraction, part: Part, told: Complaints, where: str) -> Fraction:
    """Take in one bar; answers its length in quarter notes."""
    at = longest = last_at = Fraction(0)
    for element in measure:
        if element.tag == "attributes":
            _gather_attributes(element, start + at, part, told, where)
        elif element.tag == "note":
            length = Fraction(0) if element.find("grace") is not None else _length(element, part)
            place = last_at if element.find("chord") is not None else at
            if (raw := read_note(element, start + place, length, part, told, where)) is not None:
                part.notes.append(raw)
            if element.find("chord") is None:
                last_at = at
                at += length
        elif element.tag == "backup":
            at = max(Fraction(0), at - _length(element, part))
        elif element.tag == "forward":
            at += _length(element, part)
        elif element.tag == "harmony":
            _gather_harmony(element, start + at + _offset(element, part), part, told, where)
        elif element.tag == "direction":
            _gather_direction(element, start + at + _offset(element, part), part)
        elif element.tag == "sound":
            _gather_sound(element, start + at, part)
        longest = max(longest, at)
    return longest


def _length(element: Element, part: Part) -> Fraction:
    return Fraction(round(max(0.0, min(number_of(element, "duration", 0.0), 1e7)) * 1000), 1000 * part.divisions)


def _offset(element: Element, part: Part) -> Fraction:
    return Fraction(round(number_of(element, "offset", 0.0)), part.divisions)


def _gather_attributes(element: Element, at: Fraction, part: Part, told: Complaints, where: str) -> None:
    part.divisions = max(1, int(number_of(element, "divisions", part.divisions)))
    if (time := element.find("time")) is not None and time.find("beats") is not None:
        beats = sum(int(n) for n in re.findall(r"\d{1,3}", text_of(time, "beats")))
        meter = (max(1, beats), max(1, int(number_of(time, "beat-type", 4))))
        if part.meters and part.meters[-1][1] != meter:
            told.add(f"the meter changes to {meter[0]}/{meter[1]}; bars are counted as at the beginning", where)
        part.meters.append((at, meter))
    if (key := element.find("key")) is not None and key.find("fifths") is not None and not part.key:
        mode = text_of(key, "mode")
        mode = mode if mode in MODES else "major"
        place = 7 + int(number_of(key, "fifths", 0)) - MODES[mode]
        if 0 <= place < len(TONICS):
            part.key = f"{TONICS[place]} {mode if mode in ('major', 'minor') else mode.capitalize()}"
    for details in element.iterfind("staff-details"):
        for line in details.iterfind("staff-tuning"):
            if (pitch := pitch_of(line, "tuning-")) is not None:
                part.tuning[int(attribute_of(line, "line", 1))] = pitch
        part.capo = int(number_of(details, "capo", part.capo))
    if (transpose := element.find("transpose")) is not None:
        part.transpose = int(number_of(transpose, "chromatic", 0) + 12 * number_of(transpose, "octave-change", 0))


def _gather_harmony(element: Element, at: Fraction, part: Part, told: Complaints, where: str) -> None:
    kind = element.find("kind")
    if kind is not None and (kind.text or "").strip() == "none":
        part.chords.append((at, None))
        return
    root, bass = (_name(element, path, path) for path in ("root", "bass"))
    if not root or kind is None:
        told.add("a chord without a root is left out", where)
        return
    suffix = kind.get("text")
    built = SUFFIXES.get((kind.text or "").strip(), "")
    for degree in element.iterfind("degree"):
        alter = int(number_of(degree, "degree-alter", 0))
        sign = "#" * max(alter, 0) + "b" * max(-alter, 0)
        adds = text_of(degree, "degree-type") == "add" and not sign
        built += ("add" if adds else "") + f"{sign}{text_of(degree, 'degree-value')}"
    for attempt in ([suffix] if suffix is not None else []) + [built]:
        try:
            part.chords.append((at, parse_chord(f"{root}{attempt}" + (f"/{bass}" if bass else ""))))
            return
        except ValueError:
            continue
    told.add(f"the chord {root}{suffix or built} can't be read", where)


def _name(element: Element, path: str, prefix: str) -> str:
    found = element.find(path)
    if found is None or text_of(found, f"{prefix}-step").upper() not in NATURALS:
        return ""
    alter = int(number_of(found, f"{prefix}-alter", 0))
    return text_of(found, f"{prefix}-step").upper() + {1: "#", -1: "b"}.get(alter, "")


def _gather_direction(element: Element, at: Fraction, part: Part) -> None:
    for mark in element.iterfind("direction-type/rehearsal"):
        if words := " ".join((mark.text or "").split()):
            part.marks.append((at, words[:80], mark.get("enclosure") != "none"))
    before = len(part.tempos)
    for sound in element.iterfind("sound"):
        _gather_sound(sound, at, part)
    if len(part.tempos) == before and (metronome := element.find("direction-type/metronome")) is not None:
        unit = {"half": 2.0, "eighth": 0.5}.get(text_of(metronome, "beat-unit"), 1.0)
        unit *= 1.5 if metronome.find("beat-unit-dot") is not None else 1.0
        if (tempo := number_of(metronome, "per-minute", 0.0)) > 0:
            part.tempos.append((at, tempo * unit))


def _gather_sound(element: Element, at: Fraction, part: Part) -> None:
    if element.get("tempo") and (tempo := attribute_of(element, "tempo", 0.0)) > 0:
        part.tempos.append((at, tempo))
    if element.find("swing/first") is not None:
        part.swung = True
