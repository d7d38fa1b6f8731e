"""Reasons in the real window: why a phrase works, over which chords it fits, the chart, and the whole solo."""

from dataclasses import replace

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from eager_owl.desktop.pages.whole_solo_figures import Figure
from eager_owl.desktop.widgets.rows import Row
from eager_owl.solo.document import with_notes
from eager_owl.solo.store import from_json, to_json
from tests.windows import APP, CTRL, KEY, SHIFT, WindowCase, click, rows, said


class WhyCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.opened.look_at_phrase(1)
        self.settle()

    def note_ids(self) -> list[int]:
        return [note.id for note in self.opened.notes]


class Phrase(WhyCase):
    def test_sentences_select_their_notes(self) -> None:
        self.press(KEY.Key_W, SHIFT)
        panel = self.panel("why")
        self.assertTrue(panel.isVisible())
        landing = next(row for row in rows(panel) if "lands on the third of C7" in row.text())
        click(landing)
        self.settle()
        chosen = self.opened.selected
        self.assertEqual([note.pitch for note in chosen], [76])
        self.press(KEY.Key_W, SHIFT)
        self.assertTrue(self.window.side.evidence.isVisible())
        self.assertIn("lands on the third of C7", said(self.window.side.evidence))

    def test_a_school_is_chosen_by_its_line(self) -> None:
        self.press(KEY.Key_W, SHIFT)
        row = next(row for row in rows(self.panel("why")) if row.text().startswith("shapes:"))
        row.setFocus()
        QTest.keyClick(row, KEY.Key_Return)
        self.settle()
        self.assertIsInstance(self.window.focusWidget(), Row)  # the page was written anew; the walk goes on
        self.assertEqual(self.opened.solo.reason_school, "shapes")
        self.assertIn("By shapes", self.window.desk._painter.strip.sentence())
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.opened.solo.reason_school, "two-pentatonics")

    def test_the_players_word_on_a_source_is_kept_and_undone(self) -> None:
        self.press(KEY.Key_W, SHIFT)
        panel, ids = self.panel("why"), self.note_ids()
        self.opened.select(ids[:2])
        self.settle()
        panel.source.setText("F nonsense")
        panel.source.editingFinished.emit()
        self.assertIn("is not a source", said(panel))
        panel.source.setText("F Dorian")
        panel.source.editingFinished.emit()
        self.settle()
        reasons = self.opened.reasons
        self.assertEqual({reasons[i].source.name for i in ids[:2]}, {"F Dorian"})
        solo = self.opened.solo
        self.assertEqual(from_json(to_json(solo), "it"), solo)
        panel.role.setCurrentText("blue note")
        panel.role.activated.emit(panel.role.currentIndex())
        self.settle()
        self.assertEqual(self.opened.reasons[ids[0]].role, "blue note")
        self.window.desk.grab()  # the line that says so is painted
        self.press(KEY.Key_Z, CTRL)
        self.press(KEY.Key_Z, CTRL)
        self.assertIsNone(self.opened.solo.note(ids[0]).source)

    def test_the_legend_tells_the_signs(self) -> None:
        self.press(KEY.Key_W, SHIFT)
        self.assertIn("boxed interval", said(self.panel("why")))

    def test_the_strip_paints_every_school(self) -> None:
        for _ in range(5):
            self.press(KEY.Key_R)
            self.assertFalse(self.window.desk.grab().toImage().isNull())
        self.assertEqual(self.opened.solo.reason_school, "two-pentatonics")


class Fits(WhyCase):
    def test_chords_of_the_chart_and_a_typed_one(self) -> None:
        self.press(KEY.Key_O, SHIFT)
        panel = self.panel("fits")
        self.assertTrue(panel.isVisible())
        heads = [row.text() for row in rows(panel)]
        self.assertTrue(any(text.startswith("Gm7♭5") for text in heads))
        panel.chord.setText("Emaj7")
        panel.chord.editingFinished.emit()
        self.settle()
        first = rows(panel)[0]
        self.assertTrue(first.text().startswith("Emaj7"))
        clash = next(row for row in rows(panel) if row.text().startswith("✕"))
        self.assertIn("play", clash.text())
        click(clash)
        self.assertEqual(len(self.opened.selected), 1)
        panel.chord.setText("H7")
        panel.chord.editingFinished.emit()
        self.assertIn("can't be read", said(panel))

    def test_another_chord_is_looked_at(self) -> None:
        self.press(KEY.Key_O, SHIFT)
        panel = self.panel("fits")
        click(next(row for row in rows(panel) if row.text().startswith("E♭7")))
        self.settle()
        self.assertEqual(panel._at, "Eb7")

    def test_without_a_chart(self) -> None:
        self.opened.do("no chart", lambda solo: replace(solo, chart_text=""))
        self.press(KEY.Key_O, SHIFT)
        self.assertIn("no chart yet", said(self.panel("fits")))


class Chart(WhyCase):
    def setUp(self) -> None:
        super().setUp()
        self.press(KEY.Key_C, SHIFT)
        self.panel = self.panel("chart")

    def test_a_bar_is_clicked_and_written(self) -> None:
        QTest.mouseClick(self.panel.bars, Qt.MouseButton.LeftButton, pos=QPoint(100, 10))
        self.assertEqual(self.panel.bar.text(), "Bbm7")
        self.panel.bar.setText("Bbm7 / Eb7 stop")
        QTest.keyClick(self.panel.bar, KEY.Key_Return)
        self.settle()
        chart = self.opened.solo.chart
        self.assertEqual([chord.symbol for chord in chart.bars[1]], ["Bbm7", "Bbm7", "Eb7"])
        self.assertEqual((chart.stops, chart.sections), (frozenset({1}), ((0, "A"), (8, "B"))))

    def test_what_cannot_be_read_is_told_and_changes_nothing(self) -> None:
        before = self.opened.solo
        self.panel.bar.setText("Qx7")
        QTest.keyClick(self.panel.bar, KEY.Key_Return)
        self.assertIn("can't be read", said(self.panel))
        self.panel.text.setPlainText("| Fm7 | |")
        self.panel.text.left.emit()
        self.assertIn("empty", said(self.panel))
        self.assertEqual(self.opened.solo, before)

    def test_looking_at_it_changes_nothing(self) -> None:
        before = self.opened.solo
        for _ in range(3):
            self.press(KEY.Key_C, SHIFT)
        self.panel.text.setFocus()
        self.window.desk.setFocus()
        self.settle()
        self.assertIs(self.opened.solo, before)
        self.assertIn("Fm7", self.panel.text.toPlainText())

    def test_typed_text_is_taken_when_it_is_left(self) -> None:
        self.panel.text.setFocus()
        self.panel.text.selectAll()
        QTest.keyClicks(self.panel.text, "| Fm7 | C7 |")
        self.window.desk.setFocus()
        self.settle()
        self.assertEqual(self.opened.solo.chart_text, "| Fm7 | C7 |")

    def test_a_bar_is_added(self) -> None:
        self.panel._choose_bar(16)
        self.panel.bar.setText("Fm6")
        QTest.keyClick(self.panel.bar, KEY.Key_Return)
        self.settle()
        self.assertEqual(len(self.opened.solo.chart.bars), 17)

    def test_nothing_is_taken_where_nothing_was_heard(self) -> None:
        before = self.opened.solo
        self.window.session.run(self.window.session.commands["take_chords"])
        self.assertIn("no chords are suggested", self.notice.lower())
        self.assertIs(self.opened.solo, before)

    def test_heard_chords_are_shown_and_taken_only_when_asked_to_by_keys(self) -> None:
        before = self.opened.solo.chart_text
        self.window.session.chords.suggest()
        self.settle()
        self.assertIn("heard from bar 1: Fm", said(self.panel))
        self.assertEqual(self.opened.solo.chart_text, before)
        self.panel.text.setFocus()
        while not self.panel.take_button.hasFocus():  # Tab writes nothing into the chart
            QTest.keyClick(APP.focusWidget(), KEY.Key_Tab)
        QTest.keyClick(self.panel.take_button, KEY.Key_Return)
        self.settle()
        bars = self.opened.solo.chart.bars
        self.assertEqual([bar[0].root for bar in bars[:4]], [5, 10, 7, 0])

    def test_the_key_that_the_chords_speak_for(self) -> None:
        self.opened.do("no key", lambda solo: replace(solo, key_text=""))
        self.settle()
        click(next(row for row in rows(self.panel) if "F minor" in row.text()))
        self.settle()
        self.assertEqual(self.opened.solo.key_text, "F minor")

    def test_second_names_and_strangers_are_told(self) -> None:
        self.opened.do("chart", lambda solo: replace(solo, chart_text="| Fm7 | F7 | Bbm6 | Gb7 | Fm7 |"))
        self.settle()
        words = said(self.panel)
        self.assertIn("secondary dominant, V7 of iv", words)
        self.assertIn("tritone substitute", words)
        self.assertIn("B♭m6 is also Gm7♭5/B♭", words)
        click(next(row for row in rows(self.panel) if row.text().startswith("B♭m6 is also")))
        self.settle()
        self.assertEqual(self.opened.solo.chart_text, "| Fm7 | F7 | Gm7b5/Bb | Gb7 | Fm7 |")


class WholeSolo(WhyCase):
    def test_counts_lead_to_their_notes(self) -> None:
        self.press(KEY.Key_W, CTRL)
        page = self.window.centre.page("whole_solo")
        self.assertTrue(page.isVisible())
        self.assertIn("F minor pentatonic", said(page))
        click(next(row for row in rows(page) if row.text().startswith("vibrato")))
        self.settle()
        self.assertFalse(page.isVisible())
        chosen = self.opened.selected
        self.assertTrue(chosen and all(note.technique("vibrato") for note in chosen))

    def test_notes_of_several_phrases_are_gone_through_phrase_by_phrase(self) -> None:
        opened = self.opened
        self.press(KEY.Key_W, CTRL)
        shown = []
        for _ in range(4):
            click(
                next(
                    row for row in rows(self.window.centre.page("whole_solo")) if row.text().startswith("chord tone")
                )
            )
            self.settle()
            self.assertTrue(all(opened.solo.phrases[opened.view.phrase].holds(n.onset) for n in opened.selected))
            shown.append(opened.view.phrase)
            self.press(KEY.Key_W, CTRL)
        self.assertEqual(shown, [1, 2, 0, 1])
        self.assertIn("in 3 phrases; the same again shows the next", said(self.window.notice))

    def test_a_phrase_is_gone_to(self) -> None:
        self.press(KEY.Key_W, CTRL)
        part, index = self.figure("Phrases").parts()[2]
        QTest.mouseClick(self.figure("Phrases"), Qt.MouseButton.LeftButton, pos=part.center().toPoint())
        self.settle()
        self.assertEqual((index, self.opened.view.phrase), (2, 2))
        self.assertTrue(self.window.desk.isVisible())

    def figure(self, name: str) -> Figure:
        return next(
            each
            for each in self.window.centre.page("whole_solo").findChildren(Figure)
            if each.accessibleName() == name
        )

    def test_a_place_on_the_neck_leads_to_what_is_played_there(self) -> None:
        self.press(KEY.Key_W, CTRL)
        neck = self.figure("Places on the neck")
        part, ids = next(part for part in neck.parts() if len(part[1]) > 1)
        QTest.mouseMove(neck, part.center().toPoint())
        QTest.mouseClick(neck, Qt.MouseButton.LeftButton, pos=part.center().toPoint())
        self.settle()
        solo = self.opened.solo
        self.assertEqual(len({(solo.note(i).string, solo.note(i).fret) for i in ids}), 1)
        self.assertTrue({note.id for note in self.opened.selected} <= set(ids))
        self.assertTrue(self.opened.selected)

    def test_bars_of_the_form_by_key(self) -> None:
        self.press(KEY.Key_W, CTRL)
        form = self.figure("Sources over the form")
        form.setFocus()
        QTest.keyClick(form, KEY.Key_Right)
        form.grab()
        QTest.keyClick(form, KEY.Key_Left)
        QTest.keyClick(form, KEY.Key_Right)
        ids = form.parts()[1][1]
        QTest.keyClick(form, KEY.Key_Return)
        self.settle()
        solo = self.opened.solo
        self.assertEqual({solo.grid.bar_and_beat(solo.note(i).onset)[0] for i in ids}, {2})
        self.assertTrue({note.id for note in self.opened.selected} <= set(ids))
        self.assertTrue(self.opened.selected)
        self.assertIs(self.window.focusWidget(), self.window.desk)
        self.assertFalse(self.window.session.player.playing)

    def test_the_page_follows_the_keys(self) -> None:
        self.press(KEY.Key_W, CTRL)
        phrases, bar = self.figure("Phrases"), self.window.centre.page("whole_solo")._scroll.verticalScrollBar()
        bar.setValue(0)
        phrases.setFocus()
        QTest.keyClick(phrases, KEY.Key_Left)  # the last one
        self.assertGreater(bar.value(), 0)
        QTest.keyClick(phrases, KEY.Key_Return)
        self.settle()
        self.assertEqual(self.opened.view.phrase, 2)

    def test_rows_are_walked_by_key(self) -> None:
        self.press(KEY.Key_W, CTRL)
        page = self.window.centre.page("whole_solo")
        QTest.keyClick(page, KEY.Key_Tab)
        self.assertIsInstance(self.window.focusWidget(), (Figure, Row))
        row = next(row for row in rows(page) if row.text().startswith("hammer-on"))
        row.setFocus()
        QTest.keyClick(row, KEY.Key_Return)
        self.settle()
        self.assertTrue(all(note.technique("hammer_on") for note in self.opened.selected))
        self.assertTrue(self.opened.selected)

    def test_nothing_to_tell(self) -> None:
        self.opened.do("nothing", lambda solo: with_notes(replace(solo, chart_text=""), ()))
        self.press(KEY.Key_W, CTRL)
        self.assertIn("no notes yet", said(self.window.centre.page("whole_solo")))
