"""What cannot be understood or kept is said in a sentence, and stays in the field."""

from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent

from tests.gui.window import CTRL, KEY, WindowTest, application
from tests.services.test_workshop import png
from tests.workshops import open_workshop
from violet_dial.core.errors import StoreFull
from violet_dial.kit.text_window import ImportWindow
from violet_dial.services.workshop import Workshop
from violet_dial.stations.light.setup_window import LightSetupWindow


class ReadingBar(WindowTest):
    def test_understood_is_shown_before_it_is_taken(self) -> None:
        self.new_job()
        self.press(KEY.Key_F6)
        self.type_in("12")
        self.press(KEY.Key_Return)
        self.type_in("12½")
        self.assertIn("= Ev 12.00", self.page.bar._said["reference"].text())
        self.assertIn("= Ev 12.50  +0.50", self.page.bar._said["reading"].text())
        self.assertTrue(self.page.bar.take.isEnabled())

    def test_nonsense_is_refused_and_kept(self) -> None:
        self.new_job()
        for reference, reading in (("12", "1,234"), ("bright", "12"), ("12", "77"), ("", "12"), ("12", "")):
            with self.subTest((reference, reading)):
                self.take(reference, reading)
                self.assertIn("expected", self.said)
                self.assertEqual(self.page.view.job.light.current.readings, ())
                for key in ("reference", "reading"):
                    self.page.bar.put(key, "")

    def test_full_disk_keeps_the_typed_reading(self) -> None:
        self.new_job()
        with mock.patch.object(Workshop, "perform", side_effect=StoreFull("The disk is full. The last act was not kept.")):
            self.take("12", "12.6")
        self.assertIn("disk is full", self.said)
        self.assertEqual(self.page.bar.lines["reading"].text(), "12.6")


class Files(WindowTest):
    def open_by_keys(self, name: str) -> None:
        self.press(KEY.Key_I, CTRL)
        self.name_file(self.folder / name)

    def test_csv_is_offered_then_taken(self) -> None:
        self.new_job()
        (self.folder / "r.csv").write_text("reference_ev100;indicated_ev100\n12,0;12,6\n9;x\n8;8,6\n")
        self.open_by_keys("r.csv")
        self.assertIn("Take 2 readings", self.dialog.take.text())  # type: ignore[attr-defined]
        self.press(KEY.Key_Escape)
        self.assertEqual(self.page.view.job.light.current.readings, ())
        self.open_by_keys("r.csv")
        self.assertIsInstance(self.dialog, ImportWindow)
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.assertEqual(len(self.page.view.job.light.current.readings), 2)

    def test_bad_files_are_named(self) -> None:
        self.new_job()
        (self.folder / "bad.csv").write_bytes(b"\0\1\2")
        self.open_by_keys("bad.csv")
        self.until(lambda: "bad.csv" in self.said and "expected" in self.said, self.said)
        self.assertTrue(self.no_dialog)
        self.window._acts.import_from(self.folder / "missing.csv")
        self.until(lambda: "can be read" in self.said, self.said)
        self.press(KEY.Key_Escape)
        self.open_by_keys("bad.csv")
        self.until(lambda: "No job taken. 1 not: bad.csv" in self.said, self.said)

    def test_what_is_refused_stays_in_its_field(self) -> None:
        self.new_job("Puffin reflex")
        noticed = self.page.at("Receive").describe.texts["noticed"]
        noticed.setFocus()
        application().clipboard().setText("x" * 20_001)
        self.press(KEY.Key_V, CTRL)
        before = self.page.view
        self.press(KEY.Key_5, Qt.KeyboardModifier.AltModifier)  # away: it cannot be kept
        self.assertIn("20", self.said)
        self.assertIn("expected", self.said)
        self.assertEqual(self.page.station, "Receive")
        self.assertEqual((len(noticed.toPlainText()), self.page.view), (20_001, before))
        noticed.setFocus()
        self.press(KEY.Key_End, CTRL)
        self.press(KEY.Key_Backspace)
        self.press(KEY.Key_5, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.page.station, "Light")
        self.assertEqual(len(self.page.view.job.intake.noticed), 20_000)
        self.assertIn("Puffin reflex", self.window.windowTitle())

    def test_bundle_there_and_back(self) -> None:
        self.new_job()
        self.take("8", "8.6")
        before = self.page.view.job
        self.press(KEY.Key_B, CTRL)
        self.name_file(self.folder / "b.zip")
        self.assertIn("Written", self.said)
        self.window.change_workshop(lambda: open_workshop(self.folder / "other.violet"))
        self.open_by_keys("b.zip")
        self.until(lambda: self.window.on_job, self.said)
        self.assertEqual(self.page.view.job, before)
        self.press(KEY.Key_E, CTRL)
        self.name_file(Path("/sys/x.csv"))
        self.assertIn("can be written", self.said)

    def test_photos_by_file_and_by_drop(self) -> None:
        self.new_job()
        for name, content in (("a.png", png("red")), ("b.png", png("blue")), ("c.png", b"no picture")):
            (self.folder / name).write_bytes(content)
        self.press(KEY.Key_O, CTRL)
        self.name_file(self.folder / "a.png")
        photos = self.page.at("Receive").describe.photos
        self.until(lambda: photos.count() == 1 and not photos.item(0).icon().isNull())
        dropped = QMimeData()
        dropped.setUrls([QUrl.fromLocalFile(str(self.folder / name)) for name in ("b.png", "c.png")])
        action, button, no_key = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        self.page.at("Receive").dropEvent(QDropEvent(QPointF(5, 5), action, dropped, button, no_key))
        self.until(lambda: photos.count() == 2 and "c.png" in self.said, self.said)
        self.assertIn("c.png", self.said)


class SetUp(WindowTest):
    def test_fields_show_what_was_understood_and_keep_waits_for_them(self) -> None:
        self.new_job()
        self.press(KEY.Key_F4)
        dialog = self.dialog
        assert isinstance(dialog, LightSetupWindow)
        dialog.source.kind.setCurrentText("lux meter")
        notch = dialog.adjuster.fields["notch_stops"]
        notch.edit.setFocus()
        notch.edit.selectAll()
        self.type_in("1,234")
        self.assertFalse(dialog.keep.isEnabled())
        self.press(KEY.Key_Return)
        self.press(KEY.Key_Return, CTRL)
        self.assertTrue(dialog.isVisible())  # nothing is kept that was not understood
        notch.edit.setFocus()
        notch.edit.selectAll()
        self.type_in("1/3")
        self.assertIn("0.3333", notch.said.text())
        dialog.links[0].kind.setCurrentText("density")
        to = dialog.range.fields["range_to_ev100"].edit
        to.setFocus()
        to.selectAll()
        self.type_in("17")
        self.assertTrue(dialog.keep.isEnabled())
        self.press(KEY.Key_Return, CTRL)
        self.assertTrue(self.no_dialog)
        setup = self.page.view.job.light.setup
        self.assertEqual((setup.chain.source.kind, len(setup.chain.links), setup.range_to_ev100), ("lux meter", 1, 17.0))
        self.assertAlmostEqual(setup.adjuster.notch_stops, 1 / 3)
        self.assertAlmostEqual(setup.tolerance.mid_stops, 1 / 3, places=12)  # untouched fields keep every digit
        self.assertIn("Lux meter", self.page.bar._heads["reference"].text())


class JobsScreen(WindowTest):
    def test_search_groups_and_putting_aside(self) -> None:
        self.new_job("Kittiwake hand meter", "reads high")
        self.press(KEY.Key_H, CTRL)
        self.type_in("a cell from the mainland")
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.press(KEY.Key_Escape)
        self.new_job("Razorbill meter", "pointer hangs")
        self.press(KEY.Key_Escape)
        groups = [self.window.jobs.groups.item(n).text() for n in range(self.window.jobs.groups.count())]
        self.assertEqual(groups, ["On the bench   2", "reference readings   1", "a cell from the mainland   1"])
        self.window.jobs.groups.setCurrentRow(2)
        self.assertEqual([card.title for card in self.window.jobs.model.cards], ["Kittiwake hand meter"])
        self.window.jobs.groups.setCurrentRow(0)
        self.press(KEY.Key_Slash)
        self.type_in("pointer")
        self.press(KEY.Key_Return)
        self.assertEqual(self.page.view.job.device.name, "Razorbill meter")

    def test_nothing_found_is_said(self) -> None:
        self.new_job()
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_F, CTRL)
        self.type_in("gannet")
        self.press(KEY.Key_Return)
        self.assertIn("gannet", self.window.jobs.nothing.text())

    def test_second_window_only_looks(self) -> None:
        self.new_job()
        from violet_dial.gui.main_window import MainWindow

        second = MainWindow(self.look, open_workshop(self.folder / "w.violet"))
        self.addCleanup(second.close)
        second.show()
        self.assertIn("Only looking", second.message.text.text())
        second.open_job(self.page.view.job.job_id)
        assert second.job_page is not None
        page: Any = second.job_page.at("Receive")
        second.job_page.go("Receive")
        page.describe.lines["maker"].setText("Stack & Geo")
        page.describe.keep_all()
        self.assertIn("Only looking", second.message.text.text())
