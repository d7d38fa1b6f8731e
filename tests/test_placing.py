"""The hands in the real window: ways looked at and taken, picking, moving, cautions, the guitar, the large neck."""

from dataclasses import replace

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from eager_owl.session.placing import PAIN_WORDS, tell_hand, whole_words
from eager_owl.solo.document import Instrument, Note, fret_mm, with_notes
from eager_owl.solo.store import from_json, to_json
from eager_owl.solo.tunings import TUNINGS
from tests.support import line
from tests.windows import CTRL, KEY, SHIFT, WindowCase


class PlacingCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()

    @property
    def spots(self) -> list[tuple[int | None, int | None]]:
        return [(note.string, note.fret) for note in self.opened.notes]


class Doubts(PlacingCase):
    """Where another way is nearly as good, that is a doubt like any other."""

    def in_doubt(self) -> Note:
        """A solo of a few notes that can be played as well elsewhere."""
        phrase = self.opened.phrase
        assert phrase is not None
        start = phrase.start + 0.1
        notes = [replace(note, onset=start + note.onset) for note in line(64, 65, 67, 65)]
        self.opened.do(
            "another tune",
            lambda solo: replace(with_notes(solo, notes), key_text="G major"),
            [note.id for note in notes],
        )
        self.settle()
        doubtful = [note for note in self.opened.notes if note.place_in_doubt is not None]
        self.assertEqual(len(doubtful), 1)
        return doubtful[0]

    def test_one_note_of_the_phrase_is_in_doubt_and_e_takes_the_other_place(self) -> None:
        note = self.in_doubt()
        self.assertIn(note.id, [doubt.id for doubt in self.opened.answers.doubts])
        other = note.place_in_doubt
        self.opened.select([note.id])
        self.press(KEY.Key_E)
        self.settle()
        taken = self.opened.solo.note(note.id)
        self.assertEqual((taken.string, taken.fret), other)
        self.assertIn("place", taken.pins)
        self.assertFalse([note for note in self.opened.notes if note.place_in_doubt is not None])

    def test_z_says_that_it_is_right(self) -> None:
        note = self.in_doubt()
        self.opened.select([note.id])
        self.press(KEY.Key_Z)
        self.settle()
        self.assertIn("place", self.opened.solo.note(note.id).pins)
        self.assertEqual((self.opened.solo.note(note.id).string, note.string), (note.string, note.string))

    def test_it_is_told_and_kept(self) -> None:
        note = self.in_doubt()
        self.opened.select([note.id])
        self.settle()
        words = " ".join(label.text() for label in self.window.findChildren(QLabel) if label.isVisible())
        self.assertIn("two ways nearly as good", words)
        again = from_json(to_json(self.opened.solo), "again")
        self.assertEqual(again.note(note.id).other_place, note.other_place)


class Ways(PlacingCase):
    def test_ways_are_walked_heard_and_taken(self) -> None:
        before = self.spots
        self.press(KEY.Key_N, SHIFT)
        self.settle()
        hand = self.panel("hands")
        self.assertTrue(hand.isVisible())
        self.assertFalse(hand.take_button.isEnabled())
        self.press(KEY.Key_Down, CTRL)
        self.settle()
        way = hand.ways.looked_at
        assert way is not None
        self.assertGreater(way.elsewhere, 0)
        self.assertRegex(way.price, "position|shift")
        self.assertEqual(self.opened.view.tried, way.notes)
        self.assertEqual(self.spots, before)
        self.press(KEY.Key_Return, SHIFT)
        self.settle()
        self.assertTrue(self.window.session.player.playing)
        self.press(KEY.Key_U, CTRL)
        self.settle()
        self.assertEqual(self.spots, [(note.string, note.fret) for note in way.notes])
        self.assertTrue(all({"place", "finger"} <= note.pins for note in self.opened.notes))
        self.press(KEY.Key_Z, CTRL)
        self.settle()
        self.assertEqual(self.spots, before)

    def test_a_click_looks_and_back_looks_away(self) -> None:
        self.press(KEY.Key_N, SHIFT)
        self.settle()
        self.window.session.ways.look_at(-1)
        self.assertNotEqual(self.opened.view.tried, ())
        self.press(KEY.Key_Up, CTRL)
        self.press(KEY.Key_N, SHIFT)
        self.settle()
        self.assertFalse(self.panel("hands").isVisible())
        self.assertEqual(self.opened.view.tried, ())

    def test_the_whole_recording_has_no_ways(self) -> None:
        self.press(KEY.Key_W)
        self.press(KEY.Key_N, SHIFT)
        self.assertIsNone(self.window.session.ways.looked_at)
        self.press(KEY.Key_Down, CTRL)
        self.assertIn("hoose a phrase", self.notice)


class Picking(PlacingCase):
    def test_a_stroke_is_the_players_and_is_saved(self) -> None:
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_Right)
        note_id = self.chosen[0]
        for key, stroke in ((KEY.Key_8, "up"), (KEY.Key_7, "down"), (KEY.Key_9, "thumb"), (KEY.Key_9, "index")):
            self.press(key)
            self.assertEqual(self.solo.note(note_id).stroke, stroke)
        self.press(KEY.Key_0)
        self.assertIsNone(self.solo.note(note_id).stroke)
        self.press(KEY.Key_8)
        again = from_json(to_json(self.solo), "again")
        self.assertEqual(again.note(note_id).stroke, "up")

    def test_styles_by_key_and_by_choice(self) -> None:
        before = self.solo.picking
        self.press(KEY.Key_K, SHIFT)
        self.assertNotEqual(self.solo.picking, before)
        self.press(KEY.Key_N, SHIFT)
        self.settle()
        self.assertEqual(self.panel("hands").picking.currentData(), self.solo.picking)
        self.assertRegex(self.panel("hands")._crossings.text(), "awkward crossing")


class Moving(PlacingCase):
    def test_to_another_key_and_back(self) -> None:
        self.press(KEY.Key_M, SHIFT)
        self.settle()
        panel = self.panel("elsewhere")
        panel.to_key.setText("A minor")
        panel._take_key()
        self.settle()
        own = self.opened.notes
        self.assertEqual(panel.semitones.text(), "4")
        self.assertEqual([n.pitch for n in panel.notes], [n.pitch + 4 for n in own])
        self.assertEqual(self.opened.view.tried, panel.notes)
        self.assertRegex(panel.words.text(), "easier|harder|as easy")
        self.assertFalse(panel.take_button.isEnabled())
        panel.copy_tab()
        self.assertIn("A minor", QGuiApplication.clipboard().text())
        panel.up.click()
        self.assertEqual(panel.semitones.text(), "16")

    def test_a_place_at_the_same_pitches_is_taken(self) -> None:
        self.press(KEY.Key_M, SHIFT)
        self.settle()
        panel = self.panel("elsewhere")
        panel.fret.setText("4")
        panel.refresh()
        self.settle()
        self.assertTrue(panel.take_button.isEnabled())
        wanted = [(n.string, n.fret) for n in panel.notes]
        panel.play_there()
        self.settle()
        self.assertEqual(self.spots, wanted)

    def test_what_makes_no_sense_is_told(self) -> None:
        self.press(KEY.Key_M, SHIFT)
        self.settle()
        panel = self.panel("elsewhere")
        for field, text, told in (
            (panel.semitones, "99", "further than any neck"),
            (panel.fret, "40", "no fret 40"),
            (panel.strings, "9", "strings 1 to 6"),
            (panel.strings, "x", "not a number"),
        ):
            for other in (panel.semitones, panel.fret, panel.strings):
                other.clear()
            field.setText(text)
            panel.refresh()
            self.assertIn(told, panel.complaint.text())
        panel.to_key.setText("nonsense")
        panel._take_key()
        self.assertIn("is not a key", panel.complaint.text())


class Guitar(PlacingCase):
    def test_a_tuning_by_name_and_a_left_handed_neck(self) -> None:
        neck = self.window.centre.neck
        rightwards = neck.fret_x(neck._frets[1]) - neck.fret_x(neck._frets[0])
        self.press(KEY.Key_F)
        facts = self.panel("facts")
        facts.tunings.setCurrentText("seven strings, drop A")
        facts._name_tuning()
        facts.scale.setText("686")
        facts.left_handed.setChecked(True)
        facts._take_guitar()
        self.settle()
        expected = Instrument(TUNINGS["seven strings, drop A"], 0, 22, 686.0, left_handed=True)
        self.assertEqual(self.solo.instrument, expected)
        leftwards = neck.fret_x(neck._frets[1]) - neck.fret_x(neck._frets[0])
        self.assertGreater(rightwards, 0)
        self.assertLess(leftwards, 0)
        low, high = neck._frets
        gaps = [neck.fret_x(f) - neck.fret_x(f + 1) for f in range(max(low, 1), high)]
        true = [fret_mm(f + 1, 686) - fret_mm(f, 686) for f in range(max(low, 1), high)]
        for gap, mm in zip(gaps, true, strict=True):
            self.assertAlmostEqual(gap / gaps[0], mm / true[0], places=6)
        facts.scale.setText("20")
        facts._take_guitar()
        self.assertIn("outside 400 to 900", facts.complaint.text())
        self.assertEqual(from_json(to_json(self.solo), "again").instrument, expected)

    def test_a_note_is_dragged_to_another_string(self) -> None:
        neck, note = self.window.centre.neck, self.opened.notes[0]
        others = neck._other_places(note)
        string, fret = others[0]
        start = neck.spot(note.string or 1, note.fret or 0).center().toPoint()
        end = QPoint(start.x(), round(neck._string_y(string)))
        QTest.mousePress(neck, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(neck, end)
        QTest.mouseRelease(neck, Qt.MouseButton.LeftButton, pos=end)
        self.settle()
        moved = self.solo.note(note.id)
        self.assertEqual((moved.string, moved.fret), (string, fret))
        self.assertIn("place", moved.pins)

    def test_the_neck_large_and_small_again(self) -> None:
        small = self.window.centre.neck.height()
        self.press(KEY.Key_F7)
        self.settle()
        self.assertGreater(self.window.centre.neck.height(), 2 * small)
        self.window.centre.neck.grab()
        self.press(KEY.Key_F7)
        self.settle()
        self.assertEqual(self.window.centre.neck.height(), small)


class Minding(PlacingCase):
    def test_a_wide_reach_is_told_and_the_bound_is_the_players(self) -> None:
        wide = [(3, 1, 1), (3, 5, 4)]
        first, second = self.opened.notes[:2]

        def stretch(solo: object) -> object:
            notes = []
            for note in self.solo.notes:
                for target, (string, fret, finger) in zip((first, second), wide, strict=True):
                    if note.id == target.id:
                        pitch = self.solo.instrument.tuning[string - 1] + fret
                        note = replace(note, pitch=pitch, string=string, fret=fret, finger=finger, techniques=())
                        note = note.pinned("place", "finger")
                notes.append(note)
            return replace(self.solo, notes=tuple(notes))

        self.opened.do("stretch", stretch)
        self.press(KEY.Key_N, SHIFT)
        self.settle()
        hand = self.panel("hands")
        self.assertIn("126 mm between fingers 1 and 4 at fret 1", hand._cautions.text())
        self.assertIn(PAIN_WORDS, hand._cautions.text())
        hand.reach.setText("140")
        hand._take_limits()
        self.assertNotIn("126 mm", hand._cautions.text())
        self.assertEqual(self.window.session.resting.limits.reach_mm, 140)
        hand.reach.setText("2")
        hand._take_limits()
        self.assertIn("outside 40 to 200", hand.complaint.text())


class Fields(PlacingCase):
    def test_the_key_beside_the_semitones_is_the_one_they_lead_to(self) -> None:
        self.press(KEY.Key_M, SHIFT)
        panel = self.panel("elsewhere")
        self.assertTrue(panel.to_key.hasFocus())
        panel.semitones.setText("4")
        panel.refresh()
        self.assertEqual(panel.to_key.text(), "A minor")
        panel.up.click()
        self.assertEqual((panel.semitones.text(), panel.to_key.text()), ("16", "A minor"))
        QTest.keyClicks(panel.to_key, "x")  # while it is being typed in, it is left alone
        panel.refresh()
        self.assertIn("x", panel.to_key.text())


class WholeNeck(PlacingCase):
    def test_no_reach_is_told_between_notes_of_different_phrases(self) -> None:
        self.press(KEY.Key_W)
        told = self.window.centre.neck._heading()
        self.assertIn("3 phrases, each with its own hand", told)
        hands = [tell_hand(self.solo.notes_in(phrase), self.solo.instrument) for phrase in self.solo.phrases]
        widest = max(hand.reach.mm for hand in hands)
        self.assertIn(f"widest reach {widest:.0f} mm, in “", told)
        self.assertFalse(self.window.centre.neck._story.stands)
        self.assertEqual(
            whole_words(replace(self.solo, phrases=())), "the phrases' notes show here once they are placed"
        )
