"""Many jobs at once, shelves, typed-on acts, a workshop looked over: over real files, without a window."""

import zlib
from pathlib import Path

from tests.services.test_workshop import AtTheBench, png, reading
from tests.workshops import open_workshop
from violet_dial.core.errors import StoreError
from violet_dial.core.task import SilentTask
from violet_dial.job.act import ActResult
from violet_dial.job.document import Device, Intake, Job
from violet_dial.services.many import all_in, all_out
from violet_dial.services.photos import check_photo
from violet_dial.services.upkeep import examine, salvage
from violet_dial.stations import STATIONS
from violet_dial.stations.receive.acts import describe_device
from violet_dial.store.records import COLLECTED, DELETED


def named(name: str, noticed: str = "") -> object:
    return lambda job, at: describe_device(job, Device(name), Intake("reads high", noticed=noticed), at)


class Many(AtTheBench):
    def test_all_out_and_in_again(self) -> None:
        self.do(named("Kittiwake"), reading("8", "8.6"))  # type: ignore[arg-type]
        self.bench.attach_photo(self.job_id, check_photo(png(), "crust.png"))
        other = self.bench.new_job().job.job_id
        self.bench.perform(other, named("Łódź / meter"))  # type: ignore[arg-type]
        gone = self.bench.new_job().job.job_id
        self.bench.shelve(gone, DELETED)
        out = self.folder / "out"
        out.mkdir()
        moved = all_out(self.bench.path, out, STATIONS, SilentTask())
        self.assertEqual((moved.count, moved.refused), (2, ()))
        new = open_workshop(self.folder / "new.violet")
        self.addCleanup(new.close)
        taken = all_in(new.path, (out,), STATIONS, SilentTask())
        self.assertEqual((taken.count, taken.refused), (2, ()))
        for job_id in (self.job_id, other):
            self.assertEqual(new.view(job_id).job, self.bench.view(job_id).job)
        again = all_in(new.path, (out,), STATIONS, SilentTask())
        self.assertEqual((again.count, len(again.refused)), (0, 2))
        self.assertIn("already in this workshop", again.refused[0])

    def test_old_notes_come_in(self) -> None:
        notes = self.folder / "notes"
        (notes / "Gull 2").mkdir(parents=True)
        (notes / "Auk.txt").write_text("green crust\nread 1 stop low")
        (notes / "Auk 1.png").write_bytes(png())
        (notes / "Gull 2" / "a.md").write_text("shutter sticks")
        (notes / "Gull 2" / "b.jpg").write_bytes(b"no picture")
        (notes / "jobs.csv").write_text(
            "Device;Serial number;Problem;Kind;Remarks;Colour\n"
            "Tern meter;T 1;reads low;hand meter;leaked once;black\n;;;;;\nSkua;;;space ship;;\n"
        )
        moved = all_in(self.bench.path, (notes,), STATIONS, SilentTask())
        jobs = {card.title: self.bench.view(card.job_id).job for card in self.bench.cards()}
        self.assertEqual(moved.count, 3)
        self.assertEqual(jobs["Auk"].intake.noticed, "green crust\nread 1 stop low")
        self.assertEqual([one.file_name for one in jobs["Auk"].photos], ["Auk 1.png"])
        self.assertEqual(jobs["Gull 2"].intake.noticed, "shutter sticks")
        tern = jobs["Tern meter"]
        self.assertEqual(
            (tern.device.serial, tern.intake.headline_fault, tern.intake.noticed), ("T 1", "reads low", "leaked once")
        )
        self.assertEqual(len(moved.refused), 2)
        self.assertIn("hand meter", " ".join(moved.refused))
        self.assertIn("b.jpg", " ".join(moved.refused))

    def test_hundreds_taken_beside_are_no_foreign_hand_in_the_file(self) -> None:
        rows = "device\n" + "\n".join(f"Meter {number}" for number in range(260))
        (self.folder / "jobs.csv").write_text(rows)
        self.do(reading("8", "8.6"))
        moved = all_in(self.bench.path, (self.folder / "jobs.csv",), STATIONS, SilentTask())
        self.do(reading("9", "9.6"))
        self.bench.changed_beside()
        self.bench.settle()
        self.assertEqual((moved.count, self.bench.notice), (260, ""))
        self.assertEqual(len(self.bench.cards()), 261)
        self.assertEqual([one.name for one in self.folder.glob("*.violet")], ["w.violet"])

    def test_a_damaged_photo_is_noticed_and_named(self) -> None:
        self.bench.attach_photo(self.job_id, check_photo(png(), "crust.png"))
        self.bench._file._link.db.execute("UPDATE blob SET content = zeroblob(50)")
        with self.assertRaisesRegex(StoreError, "crust.png"):
            self.bench.export_bundle(self.job_id)
        self.assertTrue(any("not what was kept" in one for one in examine(self.bench.path).hurt))


class Shelves(AtTheBench):
    def test_collected_deleted_and_emptied(self) -> None:
        times = iter(["2026-10-01T10:00:00+00:00"] * 3 + ["2026-10-20T10:00:00+00:00", "2026-11-26T10:00:00+00:00"])
        self.do(reading("8", "8.6"))
        self.bench._clock = lambda: next(times)
        self.bench.shelve(self.job_id, DELETED)
        later = self.bench.new_job().job.job_id
        self.bench.shelve(later, COLLECTED)
        self.assertEqual({card.shelf for card in self.bench.cards()}, {DELETED, COLLECTED})
        self.assertEqual(self.bench.empty_wastebasket(), 0)
        self.assertEqual(self.bench.empty_wastebasket(), 1)
        self.assertEqual([card.job_id for card in self.bench.cards()], [later])
        with self.assertRaises(StoreError):
            self.bench.view(self.job_id)

    def test_an_untouched_job_leaves_nothing_and_a_touched_one_stays(self) -> None:
        self.assertTrue(self.bench.drop_untouched(self.job_id))
        self.assertEqual(self.bench.cards(), ())
        kept = self.bench.new_job().job.job_id
        self.bench.perform(kept, reading("8", "8.6"))
        self.bench.undo(kept)
        self.assertFalse(self.bench.drop_untouched(kept))

    def test_two_of_one_name_are_told_apart(self) -> None:
        for serial in ("K 1", "K 2"):
            job_id = self.bench.new_job().job.job_id
            device = Device("Kittiwake", serial=serial)
            self.bench.perform(job_id, lambda job, at, one=device: describe_device(job, one, Intake("dead"), at))
        lines = {card.headline for card in self.bench.cards() if card.title == "Kittiwake"}
        self.assertEqual(lines, {"dead · K 1", "dead · K 2"})


class TypedOn(AtTheBench):
    def typed(self, text: str) -> object:
        def act(job: Job, at: str) -> ActResult:
            return describe_device(job, job.device, Intake(noticed=text), at)

        return act

    def test_one_act_that_grows(self) -> None:
        for end in range(1, 30):
            self.bench.perform(self.job_id, self.typed("green crust under the base plate"[:end]), "noticed 1")  # type: ignore[arg-type]
        self.assertEqual(len(self.bench.view(self.job_id).log), 2)
        self.bench.perform(self.job_id, self.typed("other"), "noticed 2")  # type: ignore[arg-type]
        self.assertEqual(self.bench.undo(self.job_id).job.intake.noticed, "green crust under the base pl")
        self.assertEqual(self.bench.undo(self.job_id).job.intake.noticed, "")
        self.bench.redo(self.job_id)
        self.assertEqual(self.bench.redo(self.job_id).job.intake.noticed, "other")

    def test_a_lone_surrogate_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "expected"):
            self.bench.perform(self.job_id, self.typed("half \ud83d a letter"))  # type: ignore[arg-type]
        self.assertEqual(self.bench.view(self.job_id).job.intake.noticed, "")


class LookedOver(AtTheBench):
    def test_what_is_hurt_is_said_and_saved(self) -> None:
        self.do(named("Kittiwake"), reading("8", "8.6"), reading("9", "9.6"))  # type: ignore[arg-type]
        self.assertEqual(examine(self.bench.path).hurt, ())
        db = self.bench._file._link.db
        db.execute("UPDATE version SET document = ? WHERE version_id = 4", (zlib.compress(b"{}"),))
        db.execute("UPDATE version SET base_id = NULL WHERE version_id = 4")
        db.execute("DELETE FROM job")
        hurt = " ".join(examine(self.bench.path).hurt)
        self.assertIn("cannot be read as it stands", hurt)
        self.assertIn("is lost", hurt)
        out = self.folder / "saved.violet"
        found = salvage(self.bench.path, out, STATIONS)
        self.assertEqual((found.jobs, found.versions), (1, 4))
        new = open_workshop(out)
        self.addCleanup(new.close)
        self.assertEqual(len(new.readable(self.job_id)), 3)
        with self.assertRaisesRegex(ValueError, "not taken"):
            salvage(self.bench.path, out, STATIONS)
        self.assertIsInstance(out, Path)
