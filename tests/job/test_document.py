"""The job document as JSON, its schema in the docs, and bundles, hostile ones included."""

import hashlib
import io
import json
import unittest
import zipfile
from dataclasses import replace
from pathlib import Path

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from violet_dial.core.calibration.readings import Reading
from violet_dial.core.errors import InvalidInput
from violet_dial.core.light.chain import Chain, DensityStep, LampAtDistance, LuxMeter
from violet_dial.job.bundle import Bundle, read_bundle, write_bundle
from violet_dial.job.document import Device, Intake, Job, LightCheck, LightSetup, Photo, Run, TakenReading
from violet_dial.job.schema import job_from_json, job_schema, job_to_json, written_text

DOCS = Path(__file__).parent.parent.parent / "docs"
PHOTO = b"not really a picture"


def full_job() -> Job:
    """A job with something in every part."""
    setup = LightSetup(chain=Chain(LuxMeter(), (DensityStep(density=0.6),)), film_speed=400.0)
    run = Run(
        "as found", (TakenReading(Reading(12.0, 12.6, "rising", "flat"), "2026-11-03T09:00:00+00:00", "10 240 lx"),)
    )
    photo = Photo(hashlib.sha256(PHOTO).hexdigest(), "crust.png", "image/png", "green crust")
    return Job(
        job_id="j1",
        number=412,
        device=Device("Kittiwake hand meter", kind="hand meter", cell="selenium"),
        intake=Intake("reads high", hazards=("alkaline residue",), noticed="Crust ½ mm, “soft”"),
        photos=(photo,),
        light=LightCheck(setup, (run, Run("after", shift_stops=-0.67))),
    )


class Documents(unittest.TestCase):
    def test_there_and_back_equal(self) -> None:
        for job in (
            Job("a", 1),
            full_job(),
            replace(full_job(), light=LightCheck(LightSetup(chain=Chain(LampAtDistance())))),
        ):
            self.assertEqual(job_from_json(job_to_json(job)), job)

    def test_schema_in_docs_is_current_and_holds(self) -> None:
        kept = json.loads((DOCS / "job.schema.json").read_text())
        self.assertEqual(kept, job_schema(), "run: python -m violet_dial.job.schema > docs/job.schema.json")
        jsonschema.validate(json.loads(job_to_json(full_job())), kept)

    def test_wrong_documents_name_the_place(self) -> None:
        good = json.loads(job_to_json(full_job()))
        wrong = (
            ({"number": 0}, "number"),
            ({"number": "many"}, "number"),
            ({"surprise": 1}, "surprise"),
            ({"device": {**good["device"], "kind": "toaster"}}, "device.kind"),
            ({"light": {**good["light"], "runs": [{"name": "x" * 400}]}}, "light.runs.0.name"),
        )
        for change, place in wrong:
            with self.subTest(place), self.assertRaises(InvalidInput) as caught:
                job_from_json(json.dumps({**good, **change}).encode())
            self.assertIn(place, caught.exception.field)

    def test_not_a_number_is_refused(self) -> None:
        text = job_to_json(full_job()).decode().replace("12.6", "NaN")
        with self.assertRaises(InvalidInput):
            job_from_json(text.encode())

    def test_newer_format_and_garbage(self) -> None:
        for data in (b"", b"[]", b"\xff\xfe", b"{", b"[" * 200_000, b'{"format_version": 2}'):
            with self.assertRaises(InvalidInput):
                job_from_json(data)

    def test_search_text_has_every_written_word(self) -> None:
        words = written_text(full_job())
        for word in ("Kittiwake", "reads high", "Crust", "crust.png", "green crust", "0412"):
            self.assertIn(word, words)


def zipped(members: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return out.getvalue()


class Bundles(unittest.TestCase):
    def setUp(self) -> None:
        self.job = full_job()
        self.good = {"job.json": job_to_json(self.job), f"photos/{self.job.photos[0].sha256}": PHOTO}

    def test_there_and_back_equal(self) -> None:
        bundle = Bundle(self.job, {self.job.photos[0].sha256: PHOTO})
        data = write_bundle(bundle)
        self.assertEqual(read_bundle(data), bundle)
        self.assertEqual(data, write_bundle(bundle))
        names = zipfile.ZipFile(io.BytesIO(data)).namelist()
        self.assertEqual(names[:3], ["job.json", "readings-1.csv", "readings-2.csv"])

    def test_refused(self) -> None:
        digest = self.job.photos[0].sha256
        cases = {
            "empty": b"",
            "not a zip": b"hello" * 100,
            "no job": zipped({"other.txt": b"x"}),
            "path traversal": zipped({**self.good, "../../evil": b"x"}),
            "absolute path": zipped({**self.good, "/etc/evil": b"x"}),
            "folders": zipped({**self.good, "photos/a/b": b"x"}),
            "photo missing": zipped({"job.json": self.good["job.json"]}),
            "photo changed": zipped({**self.good, f"photos/{digest}": b"other"}),
            "huge member": zipped({**self.good, "job.json": b" " * 30_000_000}),
            "too many": zipped({**self.good, **{f"photos/{n}": b"" for n in range(800)}}),
            "cut off": zipped(self.good)[:-30],
        }
        for name, data in cases.items():
            with self.subTest(name), self.assertRaises(InvalidInput):
                read_bundle(data)

    @settings(deadline=None, max_examples=120)
    @given(st.data())
    def test_any_damage_is_refused_or_harmless(self, data: st.DataObject) -> None:
        whole = bytearray(zipped(self.good))
        for _ in range(data.draw(st.integers(1, 6))):
            whole[data.draw(st.integers(0, len(whole) - 1))] = data.draw(st.integers(0, 255))
        try:
            bundle = read_bundle(bytes(whole))
        except InvalidInput:
            return
        self.assertEqual(
            hashlib.sha256(bundle.photos[self.job.photos[0].sha256]).hexdigest(), self.job.photos[0].sha256
        )
