"""The sheet, the remarks and the brought-in panel in the real window, by keys and the mouse."""

from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from eager_owl.desktop.pages.sheet_page import SheetPage
from eager_owl.desktop.panels.remarks import Remarks
from eager_owl.desktop.printing import print_sheet
from eager_owl.desktop.waiting import wait_until_idle
from eager_owl.solo.document import Remark
from tests.windows import ALT, APP, CTRL, KEY, SHIFT, WindowCase, said


class OnTheSheet(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.demo()
        self.press(KEY.Key_F4)

    @property
    def page(self) -> SheetPage:
        page = self.window.centre.page("sheet")
        assert isinstance(page, SheetPage)
        return page

    def point_of(self, note: int) -> QPoint:
        sheet = self.page.papers.sheet
        assert sheet is not None
        number, box = sheet.places_of(note)[0]
        return self.page.papers.on_screen(number, box).center().toPoint()

    def test_a_key_shows_it_another_changes_its_kind_and_the_first_puts_it_away(self) -> None:
        self.assertIs(self.window.centre.currentWidget(), self.page)
        self.assertTrue(self.page.presets["stand"].isChecked())
        before = self.page.papers.sheet
        self.press(KEY.Key_F5)
        self.assertTrue(self.page.presets["lesson"].isChecked())
        self.assertIsNot(self.page.papers.sheet, before)
        self.page.presets["analysis"].click()
        self.assertEqual(self.window.session.sheets.preset.name, "analysis")
        self.press(KEY.Key_F4)
        self.assertIsNot(self.window.centre.currentWidget(), self.page)

    def test_a_note_that_is_clicked_is_the_selected_one_and_twice_is_on_the_desk(self) -> None:
        note = self.solo.notes[2]
        QTest.mouseClick(self.page.papers, Qt.MouseButton.LeftButton, pos=self.point_of(note.id))
        wait_until_idle(self.window)
        self.assertEqual(self.chosen, [note.id])
        self.assertEqual(self.opened.view.phrase, 0)
        QTest.mouseDClick(self.page.papers, Qt.MouseButton.LeftButton, pos=self.point_of(note.id))
        self.assertIsNot(self.window.centre.currentWidget(), self.page)

    def test_an_edit_is_seen_on_it(self) -> None:
        note = self.solo.notes[8]
        QTest.mouseClick(self.page.papers, Qt.MouseButton.LeftButton, pos=self.point_of(note.id))
        before = self.page.papers.sheet
        self.press(KEY.Key_Up)
        self.window.catch_up()
        after = self.page.papers.sheet
        assert before is not None and after is not None
        texts = [
            {item.text for item, _ in sheet.pages[0].boxes() if hasattr(item, "text") and item.note == note.id}
            for sheet in (before, after)
        ]
        self.assertNotEqual(*texts)

    def test_paper_roll_one_phrase_and_zoom(self) -> None:
        assert self.page.papers.sheet is not None
        width = self.page.papers.width()
        self.press(KEY.Key_Equal, CTRL)
        self.assertGreater(self.page.papers.width(), width)
        self.page.paper.setCurrentIndex(4)
        self.page.paper.activated.emit(4)
        self.assertEqual(len(self.page.papers.sheet.pages), 1)
        self.page.paper.activated.emit(3)
        sheet = self.page.papers.sheet
        self.assertGreater(sheet.pages[0].width, sheet.pages[0].height)
        whole = len(sheet.pages[0].boxes())
        self.page.one_phrase.click()
        assert self.page.papers.sheet is not None
        self.assertLess(len(self.page.papers.sheet.pages[0].boxes()), whole)
        self.assertFalse(self.page.grab().toImage().isNull())

    def test_it_is_written_and_printed(self) -> None:
        out = self.folder / "ferry.pdf"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(out), "")):
            self.press(KEY.Key_E, CTRL | SHIFT)
        self.assertTrue(out.read_bytes().startswith(b"%PDF"))
        with mock.patch.object(QPrintPreviewDialog, "exec") as shown:
            self.press(KEY.Key_P, ALT)
        shown.assert_called_once()
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printed = self.folder / "printed.pdf"
        printer.setOutputFileName(str(printed))
        print_sheet(self.window.session.sheets.laid(), printer)
        self.assertGreater(printed.stat().st_size, 5000)

    def test_the_desk_is_written_as_a_picture(self) -> None:
        self.press(KEY.Key_F4)
        for name in ("desk.png", "desk.svg"):
            out = self.folder / name
            with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(out), "")):
                self.press(KEY.Key_D, ALT)
            self.assertGreater(out.stat().st_size, 5000)
        picture = QImage(str(self.folder / "desk.png"))
        self.assertEqual(picture.width(), 2 * self.window.desk.width())


class InThePanels(WindowCase):
    def test_a_remark_is_typed_at_one_key_and_marked(self) -> None:
        self.demo()
        panel = self.window.side.panel("remarks")
        assert isinstance(panel, Remarks)
        self.press(KEY.Key_Slash)
        QTest.keyClicks(panel.text, "thumb over the neck")
        QTest.keyClick(panel.text, KEY.Key_Return)
        wait_until_idle(self.window)
        note = self.solo.note(self.chosen[0])
        self.assertEqual(note.remarks, (Remark("thumb over the neck"),))
        self.assertEqual(panel.text.text(), "")
        plate = self.window.desk.desk_layout.plate(note)
        APP.processEvents()
        picture = self.window.desk.grab().toImage()
        corner = picture.pixelColor(round(plate.right() - 2), round(plate.top() + 2))
        self.assertGreater(corner.red(), corner.blue() + 60)  # the folded corner, in the colour of where you are
        QTest.keyClick(panel.text, KEY.Key_Return)
        self.assertIn("type some words", panel.complaint.text())
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.solo.note(note.id).remarks, ())

    def test_pasted_tab_is_shown_with_what_was_not_read(self) -> None:
        tab = "\n".join(f"{label}|{'-5---7---$---5---' if label == 'B' else '-' * 17}|" for label in "eBGDAE")
        QGuiApplication.clipboard().setText(tab)
        self.press(KEY.Key_V, CTRL | SHIFT)
        wait_until_idle(self.window)
        self.assertEqual([note.fret for note in self.solo.notes], [5, 7, 5])
        panel = self.window.side.currentWidget()
        self.assertIs(panel, self.window.side.panel("brought_in"))
        self.assertIn("is not known", said(panel))

    def test_an_empty_solo_is_typed_by_keys_alone(self) -> None:
        self.press(KEY.Key_N, CTRL | SHIFT)
        desk = self.window.desk
        for key in (
            KEY.Key_8,
            KEY.Key_Right,
            KEY.Key_Up,
            KEY.Key_1,
            KEY.Key_1,
            KEY.Key_B,
            KEY.Key_Period,
            KEY.Key_Right,
            KEY.Key_Down,
            KEY.Key_6,
        ):
            QTest.keyClick(desk, key)
        wait_until_idle(self.window)
        self.assertEqual([(n.string, n.fret) for n in self.solo.notes], [(2, 8), (1, 11), (2, 6)])
        self.assertIsNotNone(self.solo.notes[1].bend)
        QTest.keyClick(desk, KEY.Key_Backspace)
        QTest.keyClick(desk, KEY.Key_Escape)
        self.assertFalse(self.window.session.writing.on)
        QTest.keyClick(desk, KEY.Key_2)  # a finger again
        wait_until_idle(self.window)
        self.assertEqual([n.fret for n in self.solo.notes], [8, 11])
