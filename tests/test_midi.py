"""MIDI written and read: as played to the millisecond, bends to the cent, the tempo map as the beat."""

import io
import unittest
from dataclasses import replace

import mido
import numpy as np
from hypothesis import HealthCheck, given, settings

from eager_owl.notation.curves import name_curve
from eager_owl.notation.imported import ForeignFileError
from eager_owl.notation.midi_in import read_midi
from eager_owl.rhythm.grid import BeatGrid, anchored
from eager_owl.session.exports import sounding_contours
from eager_owl.solo.document import CONTOUR_HOP_S, Note, Solo, with_notes
from eager_owl.solo.techniques import Technique
from tests.support import line
from tests.written import demo_solo, export, written_solos


def midi(solo: Solo, written: bool = False) -> mido.MidiFile:
    return mido.MidiFile(file=io.BytesIO(export(solo, "midi", ".mid", written=written)))


def file_of(*tracks: list[mido.Message], ticks: int = 480) -> bytes:
    file = mido.MidiFile(ticks_per_beat=ticks)
    file.tracks = [mido.MidiTrack(track) for track in tracks]
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def plucked(*pitches: int, channel: int = 0) -> list[mido.Message]:
    made = []
    for pitch in pitches:
        made.append(mido.Message("note_on", note=pitch, velocity=90, time=0, channel=channel))
        made.append(mido.Message("note_off", note=pitch, time=240, channel=channel))
    return made


class RoundTrip(unittest.TestCase):
    def assert_same(self, solo: Solo, back: Solo) -> None:
        ours, theirs = (sorted(each.notes, key=lambda n: (round(n.onset, 2), n.pitch)) for each in (solo, back))
        self.assertEqual([n.pitch for n in theirs], [n.pitch for n in ours])
        self.assertEqual([(n.string, n.fret) for n in theirs], [(n.string, n.fret) for n in ours])
        for one, other in zip(ours, theirs, strict=True):
            self.assertAlmostEqual(one.onset, other.onset, delta=0.002)
            curve = sounding_contours(solo).get(one.id)
            if curve is not None and np.abs(curve[: len(other.contour_cents)]).max(initial=0.0) > 0.1:
                wanted = np.clip(100 * curve[: len(other.contour_cents)], -2400, 2400)
                at = np.minimum(np.arange(len(wanted)), len(other.contour_cents) - 1)
                off = np.abs(wanted - np.array(other.contour_cents)[at])
                self.assertLessEqual(float(off.max()), 5.0)

    def test_the_demo_is_back_on_the_records_own_time(self) -> None:
        solo = demo_solo()
        back = read_midi(export(solo, "midi", ".mid"), "demo.mid").solo
        self.assert_same(solo, back)
        self.assertEqual((back.key_text, back.instrument.tuning), ("F minor", solo.instrument.tuning))
        self.assertEqual([phrase.name for phrase in back.phrases], ["Pickup", "Question", "Answer"])
        assert back.grid is not None and solo.grid is not None
        for beat in (0, 1, 17):
            self.assertAlmostEqual(back.grid.time_of(beat), solo.grid.time_of(beat), delta=0.002)
        self.assertEqual(back.chart.bars[:6], solo.chart.bars[:6])

    @settings(max_examples=300, deadline=None, suppress_health_check=list(HealthCheck))
    @given(written_solos())
    def test_any_solo_is_back_within_two_milliseconds(self, solo: Solo) -> None:
        self.assert_same(solo, read_midi(export(solo, "midi", ".mid"), "any.mid").solo)

    def test_a_tempo_that_drifts_is_in_the_tempo_map(self) -> None:
        grid = BeatGrid(100.0, 1.3, 4)
        for beat, late in ((8, 0.2), (16, -0.15), (24, 0.4)):
            grid = anchored(grid, beat, grid.time_of(beat) + late)
        solo = with_notes(
            Solo(grid=grid), [replace(n, string=1, fret=n.pitch - 64) for n in line(*[69] * 60, start=0.2)]
        )
        back = read_midi(export(solo, "midi", ".mid"), "drift.mid").solo
        self.assert_same(solo, back)
        assert back.grid is not None
        for beat in (0, 8, 12, 16, 24):
            self.assertAlmostEqual(back.grid.time_of(beat), grid.time_of(beat), delta=0.003)

    def test_bends_are_curves_over_the_range_that_is_set(self) -> None:
        solo = demo_solo()
        track = midi(solo).tracks[1]
        controls = [(m.control, m.value) for m in track if m.type == "control_change" and m.channel == 1]
        self.assertEqual(controls, [(101, 0), (100, 0), (6, 24), (38, 0)])
        bent = next(note for note in solo.notes if note.bend)
        highest = max(m.pitch for m in track if m.type == "pitchwheel" and m.channel == (bent.string or 0) - 1)
        self.assertAlmostEqual(highest / 8192 * 24, max(bent.contour_cents) / 100, delta=0.02)
        velocities = {m.velocity for m in track if m.type == "note_on"}
        self.assertGreater(len(velocities), 3)

    def test_written_timing_stands_on_the_score(self) -> None:
        file = midi(demo_solo(), written=True)
        tick, onsets = 0, []
        for message in file.tracks[1]:
            tick += message.time
            if message.type == "note_on":
                onsets.append(tick)
        self.assertTrue(all(onset % (file.ticks_per_beat // 8) == 0 for onset in onsets))


class FromElsewhere(unittest.TestCase):
    def test_the_likeliest_track_is_read_or_the_one_asked_for(self) -> None:
        drums = plucked(*[38] * 20, channel=9)
        piano = [mido.Message("program_change", program=0, channel=2), *plucked(*[60] * 30, channel=2)]
        lead = [mido.MetaMessage("track_name", name="Lead guitar"), *plucked(67, 69, 70)]
        content = file_of(drums, piano, lead)
        found = read_midi(content, "band.mid")
        self.assertEqual([n.pitch for n in found.solo.notes], [67, 69, 70])
        self.assertRegex(found.complaints[0], "2 tracks have notes; track 2 .*Lead guitar")
        self.assertEqual({n.pitch for n in read_midi(content, "band.mid", 1).solo.notes}, {60})
        with self.assertRaisesRegex(ForeignFileError, "no track 3"):
            read_midi(content, "band.mid", 3)

    def test_one_track_of_many_instruments_is_parted_by_channel(self) -> None:
        both = [
            mido.Message("program_change", program=32, channel=1),
            mido.Message("program_change", program=27, channel=0),
            *plucked(*[40] * 9, channel=1),
            *plucked(64, 65, 67),
        ]
        self.assertEqual([n.pitch for n in read_midi(file_of(both), "one.mid").solo.notes], [64, 65, 67])

    def test_velocities_are_loudness_and_a_missing_end_is_told(self) -> None:
        loud, soft = (
            mido.Message("note_on", note=60, velocity=127),
            mido.Message("note_on", note=62, velocity=32, time=480),
        )
        found = read_midi(file_of([loud, soft]), "open.mid")
        levels = [n.loudness_db for n in found.solo.notes]
        self.assertAlmostEqual(levels[0] - levels[1], 40 * np.log10(127 / 32), delta=0.2)
        self.assertRegex(found.complaints[0], "never ends")

    def test_broken_files_are_told_in_a_line(self) -> None:
        good = file_of(plucked(60))
        for content in (b"", b"MThd", good[:30], b"RIFF" + good, b"MThd" + b"\xff" * 40):
            with self.assertRaises(ForeignFileError) as caught:
                read_midi(content, "bad.mid")
            self.assertNotIn("\n", str(caught.exception))
        with self.assertRaisesRegex(ForeignFileError, "no notes"):
            read_midi(file_of([mido.MetaMessage("text", text="x")]), "bad.mid")
        far = [mido.Message("note_on", note=60, time=2**27), mido.Message("note_off", note=60, time=2**27)]
        with self.assertRaisesRegex(ForeignFileError, "hours"):
            read_midi(file_of(far, ticks=1), "bad.mid")


class Curves(unittest.TestCase):
    def named(self, *parts: object) -> list[str]:
        contour = np.concatenate([np.atleast_1d(np.asarray(part, float)) for part in parts])
        return [technique.name for technique in name_curve(contour)]

    def test_shapes_are_named(self) -> None:
        flat, up = np.zeros(20), np.linspace(0, 2, 15)
        held = np.full(30, 2.0)
        self.assertEqual(self.named(flat, flat), [])
        self.assertEqual(self.named(flat, up, held), ["bend"])
        self.assertEqual(self.named(flat, up, held, up[::-1], flat), ["bend_release"])
        self.assertEqual(self.named(held, held), ["prebend"])
        self.assertEqual(self.named(held, up[::-1], flat), ["prebend_release"])
        self.assertEqual(self.named(np.linspace(-2, 0, 10), flat, flat), ["slide"])
        wave = 0.3 * np.sin(2 * np.pi * 5.5 * CONTOUR_HOP_S * np.arange(80))
        self.assertEqual(self.named(wave), ["vibrato"])
        self.assertEqual(self.named(flat, up, held, 2 + wave), ["bend", "vibrato"])

    def test_a_bend_has_its_size_and_time(self) -> None:
        bend = name_curve(np.concatenate([np.zeros(10), np.linspace(0, 1.5, 20), np.full(40, 1.5)]))[0]
        self.assertAlmostEqual(bend.semitones or 0, 1.5, delta=0.03)
        self.assertAlmostEqual(bend.rise_s or 0, 0.2, delta=0.05)
        self.assertEqual(Technique("bend").semitones, None)
        self.assertEqual(Note(1, 0, 1, 60).contour_cents, ())
