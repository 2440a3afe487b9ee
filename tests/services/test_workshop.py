"""The use cases over a workshop file: acts, undo and redo, progress, bundles, photos, check."""

import io
import json
import tempfile
import unittest
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from unittest import mock

from PIL import Image

from tests.workshops import next_act, open_workshop, station_states
from violet_dial.core.errors import InvalidInput, NotEnoughData, StoreError
from violet_dial.core.records.light import Adjuster, Chain, LuxMeter
from violet_dial.job.act import ActResult
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Intake, Job
from violet_dial.services.gate import cautions_for
from violet_dial.services.light_judgement import judge
from violet_dial.services.photos import check_photo, thumbnail
from violet_dial.services.station import as_json
from violet_dial.stations import STATIONS
from violet_dial.stations.hand_back.acts import close_sheet
from violet_dial.stations.light import acts
from violet_dial.stations.light.check import CheckRequest, check_readings
from violet_dial.stations.light.sum import explain
from violet_dial.stations.receive.acts import describe_device

Act = Callable[[Job, str], ActResult]


def reading(reference: str, indicated: str, direction: str | None = None) -> Act:
    typed = acts.TypedReading(reference, indicated, direction)  # type: ignore[arg-type]
    return lambda job, at: acts.take_typed(job, typed, at)


def png(colour: str = "green", size: tuple[int, int] = (640, 480)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, colour).save(out, "PNG")
    return out.getvalue()


class AtTheBench(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.bench = open_workshop(self.folder / "w.violet")
        self.addCleanup(self.bench.close)
        self.job_id = self.bench.new_job().job.job_id

    def do(self, *many: Act) -> Job:
        for act in many:
            self.bench.perform(self.job_id, act)
        return self.bench.view(self.job_id).job

    def describe(self) -> Job:
        device, intake = Device("Kittiwake hand meter", cell="selenium"), Intake("reads high")
        return self.do(lambda job, at: describe_device(job, device, intake, at))


class Acts(AtTheBench):
    def test_direction_follows_the_light(self) -> None:
        job = self.do(
            reading("8", "8.6"), reading("12", "12.6"), reading("12.02", "12.7"), reading("9", "9.6"), reading("10", "10", "")
        )
        self.assertEqual([one.reading.direction for one in job.light.current.readings], ["", "rising", "rising", "falling", ""])

    def test_reading_keeps_what_was_typed_and_its_sum(self) -> None:
        setup = replace(Job("x", 1).light.setup, chain=Chain(LuxMeter()))
        job = self.do(lambda one, at: acts.change_setup(one, setup, at), reading("10 240 lx", "Ev 12.6"))
        taken = job.light.current.readings[0]
        self.assertEqual(taken.typed_reference, "10 240 lx")
        self.assertAlmostEqual(taken.reading.error_stops, 0.6)
        self.assertIn("log2(10240 lx × 100 / 250) = 12.00", taken.reference_sum[0])

    def test_bad_input_changes_nothing(self) -> None:
        before = self.bench.view(self.job_id)
        wrong_range = replace(before.job.light.setup, range_from_ev100=15.0)
        bad: tuple[Act, ...] = (
            reading("", "12"), reading("12", "many"), reading("12", "77"), reading("900 lx", "12"),
            lambda job, at: acts.strike_reading(job, 0, at),
            lambda job, at: acts.change_setup(job, wrong_range, at),
        )  # fmt: skip
        for act in bad:
            with self.assertRaises(InvalidInput):
                self.bench.perform(self.job_id, act)
        with self.assertRaises(NotEnoughData):
            self.bench.perform(self.job_id, lambda job, at: acts.record_adjustment(job, -0.67, "", at))
        self.assertEqual(self.bench.view(self.job_id), before)

    def test_undo_and_redo_every_act(self) -> None:
        self.describe()
        states = [self.bench.view(self.job_id).job]
        for act in (reading("8", "8.6"), reading("12", "12.6"), lambda job, at: acts.strike_reading(job, 0, at)):
            states.append(self.do(act))
        for expected in reversed(states[:-1]):
            self.assertEqual(self.bench.undo(self.job_id).job, expected)
        for expected in states[1:]:
            self.assertEqual(self.bench.redo(self.job_id).job, expected)
        with self.assertRaises(InvalidInput):
            self.bench.redo(self.job_id)

    def test_undo_stops_at_the_first(self) -> None:
        with self.assertRaises(InvalidInput):
            self.bench.undo(self.job_id)

    def test_search_follows_undo(self) -> None:
        self.describe()
        self.bench.describe_pending()
        self.assertEqual(len(self.bench.cards("kittiwake")), 1)
        self.bench.undo(self.job_id)
        self.bench.describe_pending()
        self.assertEqual(self.bench.cards("kittiwake"), ())


class Progress(AtTheBench):
    def test_from_the_door_to_the_door(self) -> None:
        said = [next_act(self.bench.view(self.job_id).job, STATIONS).kind]
        job = self.describe()
        for _ in range(40):
            act = next_act(job, STATIONS)
            said.append(act.kind)
            if act.kind == "read":
                error = 0.68 if len(job.light.runs) == 1 else 0.02
                job = self.do(reading(act.reference, f"{float(act.reference) + error:.2f}", act.direction or None))
            elif act.kind == "adjust":
                shift = judge(job).assessment.shift.stops
                job = self.do(lambda one, at, s=shift: acts.record_adjustment(one, s, "", at))
            elif act.kind == "write":
                job = self.do(lambda one, at: close_sheet(one, Closing(done="drum moved"), at))
            elif act.kind == "sign":
                signed = Closing(done="drum moved", signed_by="M. Tystie", signed_on="today")
                job = self.do(lambda one, at, closing=signed: close_sheet(one, closing, at))
            else:
                break
        order = list(dict.fromkeys(said))
        self.assertEqual(order, ["describe", "read", "adjust", "write", "sign", "hand over"])
        self.assertEqual(next_act(job, STATIONS).waits, "collection")
        states = station_states(job, STATIONS)
        for name in ("Open", "Trace", "Power", "Expose", "Prove"):  # nothing taken off, traced, fed, fired or proved
            self.assertEqual(states.pop(name), "open")
        self.assertEqual(set(states.values()), {"done"})
        self.assertEqual(len(job.light.runs), 2)

    def test_a_sticky_pointer_is_freed_before_adjusting(self) -> None:
        self.describe()
        up = [reading(f"{ev}", f"{ev - 0.4:.1f}", "rising") for ev in range(5, 16)]
        down = [reading(f"{ev}", f"{ev + 0.4:.1f}", "falling") for ev in range(15, 4, -1)]
        act = next_act(self.do(*up, *down), STATIONS)
        self.assertEqual(act.kind, "repair")
        self.assertIn("Free the pointer", act.title)
        job = self.do(lambda one, at: acts.record_repair(one, "free the pointer", at))
        self.assertEqual((job.light.current.readings, next_act(job, STATIONS).kind), ((), "read"))

    def test_cautions_follow_device_and_ticks(self) -> None:
        job = replace(self.describe(), intake=Intake(hazards=("alkaline residue",)))
        titles = [one.title for one in cautions_for(job)]
        self.assertEqual(titles[:2], ["Alkaline residue", "Selenium plate"])
        instant = replace(job, device=Device(kind="instant camera"), intake=Intake())
        self.assertIn("Flash capacitor", [one.title for one in cautions_for(instant)])

    def test_the_sum_opens(self) -> None:
        setup = replace(Job("x", 1).light.setup, adjuster=Adjuster(notch_stops=1 / 3))
        job = self.do(
            lambda one, at: acts.change_setup(one, setup, at), *[reading(f"{ev}", f"{ev + 0.68}") for ev in range(5, 16)]
        )
        text = "\n".join(line for _, lines in explain(job, job.light.current, judge(job), 3) for line in lines)
        for words in ("8.68 − 8.00 = +0.68", "evenly off: χ²", "weight", "2 notches back", "not told, needs", "Over-travel"):
            self.assertIn(words, text)


class InAndOut(AtTheBench):
    def test_bundle_imports_back_equal(self) -> None:
        self.do(reading("8", "8.6"))
        self.bench.attach_photo(self.job_id, check_photo(png(), "a/b/crust.png", "crust"))
        job = self.bench.view(self.job_id).job
        data = self.bench.export_bundle(self.job_id)
        other = open_workshop(self.folder / "other.violet")
        self.addCleanup(other.close)
        self.assertEqual(other.import_bundle(data).job, job)
        self.assertEqual(other.blob(job.photos[0].sha256), png())
        with self.assertRaises(StoreError):
            other.import_bundle(data)

    def test_a_taken_number_is_replaced(self) -> None:
        other = open_workshop(self.folder / "other.violet")
        self.addCleanup(other.close)
        other.new_job()
        self.assertEqual(other.import_bundle(self.bench.export_bundle(self.job_id)).job.number, 2)

    def test_photos_are_checked(self) -> None:
        self.assertEqual(check_photo(png(), "x/../crust.png").record.file_name, "crust.png")
        self.assertLessEqual(max(Image.open(io.BytesIO(thumbnail(png(size=(2000, 500))))).size), 320)
        for bad in (b"", b"GIF89a", png()[:200], b"\x89PNG" + b"\0" * 50):
            with self.subTest(bad[:6]), self.assertRaises(InvalidInput):
                check_photo(bad, "x.png")

    def test_no_picture_starts_another_program(self) -> None:
        """A PostScript drawing is run by another program where that is there: it is not even opened."""
        ran = self.folder / "ran"
        program = self.folder / "gs"
        program.write_text(f"#!/bin/sh\ntouch {ran}\n")
        program.chmod(0o755)
        drawing = b"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 100 100\n%%EndComments\nshowpage\n%%EOF\n"
        with mock.patch.dict("os.environ", {"PATH": f"{self.folder}:/usr/bin:/bin"}):
            for work in (lambda: check_photo(drawing, "x.png"), lambda: thumbnail(drawing)):
                with self.assertRaises(InvalidInput):
                    work()
        self.assertFalse(ran.exists())


class Check(unittest.TestCase):
    def test_one_json_object(self) -> None:
        rows = "\n".join(f"{ev},{ev + 0.68:.2f}" for ev in range(5, 16))
        found = json.loads(as_json(check_readings(CheckRequest(f"reference_ev100,indicated_ev100\n{rows}\n".encode()))))
        self.assertEqual(found["model"]["kind"], "even")
        self.assertAlmostEqual(found["model"]["parameters"]["offset_stops"], 0.68, places=3)
        self.assertAlmostEqual(sum(found["model"]["weights"].values()), 1.0, places=4)
        self.assertAlmostEqual(found["adjustment"]["stops"], -0.68, places=2)
        self.assertEqual((found["adjustment"]["usable_from_ev100"], found["adjustment"]["usable_to_ev100"]), (5, 15))
        self.assertEqual(found["verdict"], "adjust")
        self.assertEqual(set(found["flags"]), {"sticky", "imbalance", "erratic", "dead", "memory"})
        self.assertEqual({one["state"] for one in found["readings"][2:-2]}, {"outside"})

    def test_no_usable_row(self) -> None:
        with self.assertRaises(InvalidInput):
            check_readings(CheckRequest(b"reference_ev100,indicated_ev100\nx,y\n"))
