"""What cannot be understood or kept is said in a sentence, and stays in the field."""

from unittest import mock

from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QDialog, QFileDialog, QInputDialog

from tests.gui.window import CTRL, KEY, WindowTest
from tests.services.test_workshop import png
from violet_dial.core.errors import StoreFull
from violet_dial.gui.stations.light_setup import LightSetupDialog
from violet_dial.services.workshop import Workshop


class ReadingBar(WindowTest):
    def test_understood_is_shown_before_it_is_taken(self) -> None:
        self.new_job()
        self.press(KEY.Key_F6)
        self.type_in("12")
        self.press(KEY.Key_Return)
        self.type_in("12½")
        self.assertIn("= Ev 12.00", self.page.bar.reference_said.text())
        self.assertIn("= Ev 12.50  +0.50", self.page.bar.reading_said.text())
        self.assertTrue(self.page.bar.take.isEnabled())

    def test_nonsense_is_refused_and_kept(self) -> None:
        self.new_job()
        for reference, reading in (("12", "1,234"), ("bright", "12"), ("12", "77"), ("", "12"), ("12", "")):
            with self.subTest((reference, reading)):
                self.take(reference, reading)
                self.assertIn("expected", self.said)
                self.assertEqual(self.page.view.job.light.current.readings, ())  # type: ignore[union-attr]
                self.page.bar.reset()

    def test_full_disk_keeps_the_typed_reading(self) -> None:
        self.new_job()
        with mock.patch.object(
            Workshop, "perform", side_effect=StoreFull("The disk is full. The last act was not kept.")
        ):
            self.take("12", "12.6")
        self.assertIn("disk is full", self.said)
        self.assertEqual(self.page.bar.reading.text(), "12.6")


class Files(WindowTest):
    def choose(self, name: str) -> mock._patch:  # type: ignore[type-arg]
        return mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(self.folder / name), ""))

    def test_csv_is_offered_then_taken(self) -> None:
        self.new_job()
        (self.folder / "r.csv").write_text("reference_ev100;indicated_ev100\n12,0;12,6\n9;x\n8;8,6\n")
        offered: list[str] = []

        def agree(dialog) -> int:  # type: ignore[no-untyped-def]
            offered.append(dialog.take.text())
            return QDialog.DialogCode.Accepted

        with self.choose("r.csv"):
            self.in_dialog(lambda: self.press(KEY.Key_I, CTRL), lambda dialog: QDialog.DialogCode.Rejected)
            self.assertEqual(self.page.view.job.light.current.readings, ())  # type: ignore[union-attr]
            self.in_dialog(lambda: self.press(KEY.Key_I, CTRL), agree)
        self.assertIn("Take 2 readings", offered[0])
        self.assertEqual(len(self.page.view.job.light.current.readings), 2)  # type: ignore[union-attr]

    def test_bad_files_are_named(self) -> None:
        self.new_job()
        (self.folder / "bad.csv").write_bytes(b"\0\1\2")
        for name in ("bad.csv", "missing.csv"):
            with self.choose(name):
                self.press(KEY.Key_I, CTRL)
            self.assertIn("expected", self.said)
        self.press(KEY.Key_Escape)
        with self.choose("bad.csv"):
            self.press(KEY.Key_I, CTRL)
        self.assertIn("Bundle", self.said)

    def test_bundle_there_and_back(self) -> None:
        self.new_job()
        self.take("8", "8.6")
        before = self.page.view.job  # type: ignore[union-attr]
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(self.folder / "b.zip"), "")):
            self.press(KEY.Key_B, CTRL)
        self.assertIn("Written", self.said)
        self.window.change_workshop(Workshop.open(self.folder / "other.violet"))
        with self.choose("b.zip"):
            self.press(KEY.Key_I, CTRL)
        self.assertEqual(self.page.view.job, before)  # type: ignore[union-attr]
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=("/proc/none/x.csv", "")):
            self.press(KEY.Key_E, CTRL)
        self.assertIn("can be written", self.said)

    def test_photos_by_file_and_by_drop(self) -> None:
        self.new_job()
        for name, content in (("a.png", png("red")), ("b.png", png("blue")), ("c.png", b"no picture")):
            (self.folder / name).write_bytes(content)
        with mock.patch.object(QFileDialog, "getOpenFileNames", return_value=([str(self.folder / "a.png")], "")):
            self.press(KEY.Key_O, CTRL)
        self.assertEqual(self.page.receive.describe.photos.count(), 1)
        dropped = QMimeData()
        dropped.setUrls([QUrl.fromLocalFile(str(self.folder / name)) for name in ("b.png", "c.png")])
        action, button, no_key = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        self.page.receive.dropEvent(QDropEvent(QPointF(5, 5), action, dropped, button, no_key))
        self.assertEqual(self.page.receive.describe.photos.count(), 2)
        self.assertIn("c.png", self.said)


class SetUp(WindowTest):
    def test_fields_show_what_was_understood_and_keep_waits_for_them(self) -> None:
        self.new_job()

        def work(dialog) -> int:  # type: ignore[no-untyped-def]
            self.assertIsInstance(dialog, LightSetupDialog)
            dialog.source.kind.setCurrentText("lux meter")
            notch = dialog.adjuster.fields["notch_stops"]
            notch.edit.selectAll()
            notch.edit.insert("1,234")
            self.assertFalse(dialog.keep.isEnabled())
            notch.edit.selectAll()
            notch.edit.insert("1/3")
            self.assertIn("0.3333", notch.said.text())
            dialog.links[0].kind.setCurrentText("density")
            dialog.range.fields["range_to_ev100"].edit.selectAll()
            dialog.range.fields["range_to_ev100"].edit.insert("17")
            self.assertTrue(dialog.keep.isEnabled())
            return QDialog.DialogCode.Accepted

        self.in_dialog(lambda: self.press(KEY.Key_F4), work)
        setup = self.page.view.job.light.setup  # type: ignore[union-attr]
        self.assertEqual(
            (setup.chain.source.kind, len(setup.chain.links), setup.range_to_ev100), ("lux meter", 1, 17.0)
        )
        self.assertAlmostEqual(setup.adjuster.notch_stops, 1 / 3)
        self.assertAlmostEqual(setup.tolerance.mid_stops, 1 / 3, places=12)  # untouched fields keep every digit
        self.assertIn("Lux meter", self.page.bar.source.text())


class JobsScreen(WindowTest):
    def test_search_groups_and_putting_aside(self) -> None:
        self.new_job("Kittiwake hand meter", "reads high")
        with mock.patch.object(QInputDialog, "getText", return_value=("a cell from the mainland", True)):
            self.press(KEY.Key_H, CTRL)
        self.press(KEY.Key_Escape)
        self.new_job("Razorbill meter", "pointer hangs")
        self.press(KEY.Key_Escape)
        groups = [self.window.jobs.groups.item(n).text() for n in range(self.window.jobs.groups.count())]
        self.assertEqual(groups, ["All jobs   2", "reference readings   1", "a cell from the mainland   1"])
        self.window.jobs.groups.setCurrentRow(2)
        self.assertEqual([card.title for card in self.window.jobs.model.cards], ["Kittiwake hand meter"])
        self.window.jobs.groups.setCurrentRow(0)
        self.press(KEY.Key_Slash)
        self.type_in("pointer")
        self.press(KEY.Key_Return)
        self.assertEqual(self.page.view.job.device.name, "Razorbill meter")  # type: ignore[union-attr]

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

        second = MainWindow(self.look, Workshop.open(self.folder / "w.violet"))
        self.addCleanup(second.close)
        second.show()
        self.assertIn("Only looking", second.message.text.text())
        second.open_job(self.page.view.job.job_id)  # type: ignore[union-attr]
        assert second.job_page is not None
        second.job_page.receive.lines["maker"].setText("Stack & Geo")
        second.job_page.receive.keep()
        self.assertIn("Only looking", second.message.text.text())
