"""MusicXML written and read: valid, the same after a round trip, safe against what is meant to do harm."""

import io
import unittest
import zipfile
from dataclasses import replace
from pathlib import Path

from hypothesis import HealthCheck, given, settings

from eager_owl.notation.imported import ForeignFileError
from eager_owl.notation.musicxml.read import read_musicxml
from eager_owl.rhythm.chart import parse_chart
from eager_owl.solo.document import Solo
from tests.schema import schema_complaints
from tests.written import as_written, demo_solo, export, written_solos


def read(text: str) -> Solo:
    return read_musicxml(text.encode(), "other.musicxml").solo


def score(*bars: str, head: str = "") -> str:
    """A score of one part, a quarter note being four divisions."""
    time = "<time><beats>4</beats><beat-type>4</beat-type></time>"
    start = f"<attributes><divisions>4</divisions>{time}{head}</attributes>"
    measures = "".join(
        f'<measure number="{n}">{start if n == 1 else ""}{bar}</measure>' for n, bar in enumerate(bars, 1)
    )
    return f'<score-partwise version="4.0"><part-list/><part id="P1">{measures}</part></score-partwise>'


def note(step: str, octave: int, duration: int, more: str = "") -> str:
    pitch = f"<pitch><step>{step}</step><octave>{octave}</octave></pitch>"
    return f"<note>{pitch}<duration>{duration}</duration>{more}</note>"


class RoundTrip(unittest.TestCase):
    def test_the_demo_comes_back_as_it_was_written(self) -> None:
        solo = demo_solo()
        for preset in (None, "stand"):
            text = export(solo, "musicxml", ".musicxml", preset=preset).decode()
            self.assertEqual(schema_complaints(text), [])
            back = read_musicxml(text.encode(), "demo.musicxml")
            self.assertEqual(back.complaints, ())
            self.assertEqual(as_written(back.solo), as_written(solo))
            self.assertEqual((back.solo.key_text, back.solo.title), ("F minor", "Night Ferry"))
            self.assertEqual(back.solo.grid.bpm if back.solo.grid else 0, 112)
            self.assertEqual([phrase.name for phrase in back.solo.phrases], ["Pickup", "Question", "Answer"])
            self.assertEqual(parse_chart(back.solo.chart_text).bars, solo.chart.bars[:6])
            self.assertEqual(back.solo.chart.sections, ((0, "A"),))

    @settings(max_examples=300, deadline=None, suppress_health_check=list(HealthCheck))
    @given(written_solos())
    def test_any_solo_comes_back_as_it_was_written(self, solo: Solo) -> None:
        text = export(solo, "musicxml", ".musicxml").decode()
        self.assertEqual(schema_complaints(text), [])
        back = read_musicxml(text.encode(), "any.musicxml").solo
        self.assertEqual(as_written(back), as_written(solo))
        self.assertEqual(back.key_text, solo.key_text)
        self.assertEqual(back.instrument.tuning, solo.instrument.tuning)
        self.assertEqual(back.notes[0].remarks, solo.notes[0].remarks)
        self.assertEqual([phrase.name for phrase in back.phrases], [phrase.name for phrase in solo.phrases])
        bars = len(parse_chart(back.chart_text).bars)
        form = solo.chart.bars
        self.assertEqual(back.chart.bars, tuple(form[bar % len(form)] for bar in range(bars)) if form else ())

    def test_the_packed_form_holds_the_same(self) -> None:
        solo = demo_solo()
        packed = export(solo, "musicxml", ".mxl")
        self.assertEqual(packed[:2], b"PK")
        self.assertEqual(as_written(read_musicxml(packed, "demo.mxl").solo), as_written(solo))

    def test_strokes_capo_and_an_empty_solo_are_valid_too(self) -> None:
        solo = demo_solo()
        text = export(solo, "musicxml", ".musicxml").decode()
        self.assertIn("<down-bow />", text)
        self.assertIn("<up-bow />", text)
        capo = replace(solo, instrument=replace(solo.instrument, capo=2))
        self.assertIn("<capo>2</capo>", export(capo, "musicxml", ".musicxml").decode())
        empty = replace(solo, notes=(), phrases=())
        self.assertEqual(schema_complaints(export(empty, "musicxml", ".musicxml").decode()), [])


class FromElsewhere(unittest.TestCase):
    def test_repeats_and_their_endings_are_unfolded(self) -> None:
        forward, back = (
            '<barline><repeat direction="forward"/></barline>',
            '<barline><repeat direction="backward"/></barline>',
        )
        one = '<barline><ending number="1" type="start"/></barline>'
        one_end = '<barline><ending number="1" type="stop"/><repeat direction="backward"/></barline>'
        two = '<barline><ending number="2" type="start"/></barline>'
        text = score(note("C", 4, 16), forward + note("D", 4, 16), note("E", 4, 16) + back, note("F", 4, 16))
        self.assertEqual([n.pitch for n in read(text).notes], [60, 62, 64, 62, 64, 65])
        text = score(
            forward + note("C", 4, 16), one + note("D", 4, 16) + one_end, two + note("E", 4, 16), note("F", 4, 16)
        )
        self.assertEqual([n.pitch for n in read(text).notes], [60, 62, 60, 64, 65])
        text = score(note("C", 4, 16) + back.replace("/></b", ' times="3"/></b'), note("F", 4, 16))
        self.assertEqual([n.pitch for n in read(text).notes], [60, 60, 60, 65])

    def test_ties_chords_graces_tempo_and_transposition(self) -> None:
        tied = note("C", 4, 16, '<tie type="start"/>'), note("C", 4, 8, '<tie type="stop"/>') + note("E", 4, 8)
        self.assertEqual([(n.pitch, round(n.duration, 3)) for n in read(score(*tied)).notes], [(60, 3.0), (64, 1.0)])
        chord = note("C", 4, 16) + note("G", 4, 16).replace("<note>", "<note><chord/>")
        self.assertEqual([(n.onset, n.pitch) for n in read(score(chord)).notes], [(0.0, 60), (0.0, 67)])
        grace = "<note><grace/><pitch><step>B</step><octave>3</octave></pitch></note>" + note("C", 4, 16)
        first, second = read(score(grace)).notes
        self.assertIsNotNone(first.technique("grace"))
        self.assertLess(first.onset, second.onset)
        tempo = '<sound tempo="60"/>' + note("C", 4, 16)
        faster = '<sound tempo="240"/>' + note("D", 4, 16)
        solo = read(score(tempo, faster, note("E", 4, 16)))
        self.assertEqual([round(n.onset, 3) for n in solo.notes], [0.0, 4.0, 5.0])
        down = score(
            note("C", 5, 16), head="<transpose><chromatic>0</chromatic><octave-change>-1</octave-change></transpose>"
        )
        self.assertEqual(read(down).notes[0].pitch, 60)

    def test_a_guitar_written_an_octave_up_is_read_as_it_sounds(self) -> None:
        placed = note("E", 5, 16, "<notations><technical><string>1</string><fret>0</fret></technical></notations>")
        found = read_musicxml(score(placed).encode(), "x")
        self.assertEqual((found.solo.notes[0].pitch, found.solo.notes[0].fret), (64, 0))
        self.assertIn("octave above", " ".join(found.complaints))

    def test_what_can_not_be_read_is_told_with_its_bar_and_the_rest_kept(self) -> None:
        odd = "<harmony><root><root-step>H</root-step></root><kind>major</kind></harmony>"
        places = "<notations><technical><string>9</string><fret>1</fret></technical></notations>"
        text = score(note("C", 4, 16), odd + note("D", 4, 16, places), note("Q", 4, 16) + note("E", 4, 16))
        found = read_musicxml(text.encode(), "x")
        self.assertEqual([n.pitch for n in found.solo.notes], [60, 62, 64])
        said = "\n".join(found.complaints)
        self.assertRegex(said, "bar 2: a chord without a root")
        self.assertRegex(said, "bar 2: string 9, fret 1")
        self.assertRegex(said, "bar 3: a note whose pitch")

    def test_parts_are_chosen_by_number(self) -> None:
        text = score(note("C", 4, 16)).replace(
            "</part>", f'</part><part id="P2"><measure>{note("D", 4, 16)}</measure></part>'
        )
        self.assertEqual(read(text).notes[0].pitch, 60)
        self.assertEqual(read_musicxml(text.encode(), "x", 2).solo.notes[0].pitch, 62)
        with self.assertRaisesRegex(ForeignFileError, "no part 3"):
            read_musicxml(text.encode(), "x", 3)


class Harm(unittest.TestCase):
    def refused(self, content: bytes, reason: str, name: str = "bad.musicxml") -> None:
        with self.assertRaisesRegex(ForeignFileError, reason) as caught:
            read_musicxml(content, name)
        self.assertNotIn("\n", str(caught.exception))

    def test_entities_and_other_files_are_refused(self) -> None:
        bomb = '<!DOCTYPE x [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;">]><score-partwise>&b;</score-partwise>'
        self.refused(bomb.encode(), "entities")
        self.refused(bomb.encode("utf-16"), "entities")
        outside = '<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><score-partwise>&a;</score-partwise>'
        self.refused(outside.encode(), "entities or refers")

    def test_zip_bombs_and_broken_archives_are_refused(self) -> None:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("score.xml", b" " * 200_000_000)
        self.assertLess(len(packed.getvalue()), 500_000)
        self.refused(packed.getvalue(), "unpacks to more", "bomb.mxl")
        self.refused(b"PK\x03\x04 and no more", "can't be unpacked", "broken.mxl")
        empty = io.BytesIO()
        with zipfile.ZipFile(empty, "w") as archive:
            archive.writestr("readme.txt", "nothing")
        self.refused(empty.getvalue(), "no score in it", "empty.mxl")

    def test_what_is_no_score_is_told_in_a_line(self) -> None:
        self.refused(b"", "not MusicXML")
        self.refused(b"<html></html>", "begins with <html>")
        self.refused(b"<score-timewise/>", "time by time")
        self.refused(b"<score-partwise/>", "no notes")
        self.refused(("<a>" * 50_000).encode(), "not MusicXML|nested")
        again = '<barline><repeat direction="backward" times="99999"/></barline>'
        self.refused(score(note("C", 4, 16) + again).encode(), "repeats come to more")

    def test_a_document_type_that_names_its_definition_is_read(self) -> None:
        text = Path(__file__).name and export(demo_solo(), "musicxml", ".musicxml").decode()
        self.assertIn("<!DOCTYPE", text)
        self.assertEqual(len(read(text).notes), len(demo_solo().notes))
