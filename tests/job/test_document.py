"""The job document as JSON, its schema in the docs, and bundles, hostile ones included."""

import base64
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

from violet_dial.core.errors import InvalidInput, RecordMissing
from violet_dial.core.opening.steps import Step
from violet_dial.core.records.circuit import Evidence
from violet_dial.core.records.light import Chain, DensityStep, LampAtDistance, LightReading, LuxMeter
from violet_dial.core.steady.samples import Capture
from violet_dial.job.bundle import Bundle, read_bundle, write_bundle
from violet_dial.job.closing import Closing
from violet_dial.job.contents import MARK
from violet_dial.job.document import FORMAT_VERSION, Device, Intake, Job, Photo
from violet_dial.job.exposing import Exposing, Fired
from violet_dial.job.light import Colour, LightCheck, LightSetup, OwnSpectrum, Run, TakenReading
from violet_dial.job.opening import Opening, ShorterWay
from violet_dial.job.receiving import Finding, Receiving
from violet_dial.job.records import records_in
from violet_dial.job.schema import UPGRADES, check_kept, job_from_json, job_schema, job_to_json, job_to_kept, upgraded
from violet_dial.job.tracing import PinnedNode, Tracing

DOCS = Path(__file__).parent.parent.parent / "docs"
PHOTO = b"not really a picture"


def full_job() -> Job:
    """A job with something in every part."""
    setup = LightSetup(chain=Chain(LuxMeter(), (DensityStep(density=0.6),)), film_speed=400.0)
    run = Run("as found", (TakenReading(LightReading(12.0, 12.6, "rising", "flat"), "2026-11-03T09:00:00+00:00", "10 240 lx"),))
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
        for job in (Job("a", 1), full_job(), replace(full_job(), light=LightCheck(LightSetup(chain=Chain(LampAtDistance()))))):
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


FORMATS = Path(__file__).parent / "formats"
FORMAT_DIGEST = (5, "628dda4855116755")


class Kept(unittest.TestCase):
    """As the workshop keeps it: pictures and curves beside the document, what did not change not written again."""

    def exposed(self) -> Job:
        curve = tuple(round(0.01 * n, 4) for n in range(320))
        fired = tuple(Fired(1 / 128, 0.008 + n * 1e-5, picture=curve[n:]) for n in range(20))
        own = OwnSpectrum("lamp", "light", (400.0, 500.0), (1.0, 2.0))
        light = replace(full_job().light, colour=Colour(own=(own,)))
        taken = replace(light.runs[0].readings[0], picture=base64.b64encode(b"a small picture").decode())
        light = replace(light, runs=(replace(light.runs[0], readings=(taken,)), *light.runs[1:]))
        return replace(full_job(), light=light, exposing=Exposing(fired=fired))

    def test_contents_stand_beside_and_come_back_equal(self) -> None:
        job = self.exposed()
        data, contents = job_to_kept(job)
        self.assertEqual(job_from_json(data, lambda sha256: contents[sha256][1]), job)
        self.assertEqual(len(contents), 20 + 2 + 1)
        self.assertEqual(contents[hashlib.sha256(b"a small picture").hexdigest()], ("image/webp", b"a small picture"))
        for sha256, (_kind, content) in contents.items():
            self.assertEqual(hashlib.sha256(content).hexdigest(), sha256)
        self.assertLess(len(data), len(job_to_json(job)) / 3)
        self.assertEqual(job_from_json(job_to_json(job)), job)  # a bundle's document has them in it

    def test_what_changed_is_written_as_if_all_were(self) -> None:
        job = self.exposed()
        job_to_kept(job)
        more = replace(job, exposing=replace(job.exposing, fired=(*job.exposing.fired, Fired(1 / 64, 0.016))))
        data, contents = job_to_kept(more)
        fresh = job_from_json(data, lambda sha256: contents[sha256][1])
        self.assertEqual(fresh, more)
        self.assertEqual(json.loads(job_to_kept(fresh)[0]), json.loads(data))

    def test_a_lost_picture_hides_no_job(self) -> None:
        def lost(sha256: str) -> bytes:
            raise RecordMissing("the content is not in this workshop")

        data, _ = job_to_kept(self.exposed())
        for fetch in (lost, None):
            found = job_from_json(data, fetch)
            self.assertEqual([one.time_s for one in found.exposing.fired], [one.time_s for one in self.exposed().exposing.fired])
            self.assertEqual((found.exposing.fired[0].picture, found.light.runs[0].readings[0].picture), ((), ""))


class Format(unittest.TestCase):
    def test_a_field_more_wants_a_number_more(self) -> None:
        """The digest of the schema stands beside the number: a record that changes makes another format, with an upgrade from
        the one before and a sample of it."""
        schema = json.dumps(job_schema(), sort_keys=True).encode()
        digest = hashlib.sha256(schema).hexdigest()[:16]
        self.assertEqual(
            (FORMAT_VERSION, digest), FORMAT_DIGEST,
            "the records of a job changed: raise FORMAT_VERSION, write its upgrade, keep a sample, note the digest here",
        )  # fmt: skip


class OlderFormats(unittest.TestCase):
    """Real documents of every format there was, frozen: they are never made again."""

    def test_each_is_read_and_nothing_in_it_is_lost(self) -> None:
        for path in sorted(FORMATS.glob("*.json")):
            with self.subTest(path.name):
                raw = json.loads(path.read_bytes())
                self.assertEqual(raw["format_version"], int(path.name[0]))
                now = json.loads(job_to_json(job_from_json(path.read_bytes())))
                self.assertEqual(now["format_version"], FORMAT_VERSION)
                self.assert_within(upgraded(raw), now)

    def test_readings_of_contacts_keep_their_position_and_ohms(self) -> None:
        path = FORMATS / "3-with-prove.json"
        rounds = json.loads(path.read_bytes())["proving"]["rounds"]
        pairs = [[tuple(pair) for pair in one["readings"]] for one in rounds]
        job = job_from_json(path.read_bytes())
        self.assertTrue(any(pairs))
        self.assertEqual([[(read.where, read.ohm) for read in one.readings] for one in job.proving.rounds], pairs)

    def test_an_older_program_says_that_it_is_too_old(self) -> None:
        with self.assertRaises(InvalidInput) as caught:
            job_from_json(json.dumps({"format_version": FORMAT_VERSION + 1, "a field": 1}).encode())
        self.assertIn("newer Violet Dial", str(caught.exception))

    def assert_within(self, old: object, new: object, where: str = "") -> None:
        """All that was in the old document stands in the new one."""
        if isinstance(old, dict) and isinstance(new, dict):
            for key, value in old.items():
                self.assertIn(key, new, where)
                self.assert_within(value, new[key], f"{where}.{key}")
        elif isinstance(old, list) and isinstance(new, list):
            self.assertEqual(len(old), len(new), where)
            for place, pair in enumerate(zip(old, new, strict=True)):
                self.assert_within(*pair, f"{where}.{place}")
        elif not str(old).startswith(MARK):  # contents lie beside the document
            self.assertEqual(old, new, where)

    def test_there_is_one_of_every_format_and_a_step_from_each(self) -> None:
        kept = {int(path.name[0]) for path in FORMATS.glob("*.json")}
        self.assertEqual(kept, set(range(1, FORMAT_VERSION + 1)))
        self.assertEqual(set(UPGRADES), set(range(1, FORMAT_VERSION)))

    def test_every_record_is_strict(self) -> None:
        """Found by walking the types: a field nobody knows is refused wherever it stands."""
        raw = json.loads((FORMATS / "3-compact.json").read_bytes())
        places = [raw, raw["opening"]["steps"][0], raw["opening"]["steps"][0]["ends"], raw["light"]["setup"]["chain"]["source"],
                  raw["receiving"]["gate"], raw["light"]["runs"][0]["readings"][0]["reading"]]  # fmt: skip
        for place in places:
            if not isinstance(place, dict):
                continue
            place["surprise"] = 1
            with self.assertRaises(InvalidInput):
                job_from_json(json.dumps(raw).encode())
            del place["surprise"]
        self.assertEqual(len(set(records_in(Job))), len(list(records_in(Job))))
        self.assertLessEqual({Step, Evidence, Capture, LightReading, Chain, DensityStep}, set(records_in(Job)))


class TheDoorThatKeeps(unittest.TestCase):
    """What may be kept may be read again: one rule for both doors."""

    def refused(self, after: Job, words: str) -> None:
        before = full_job()
        with self.assertRaises(InvalidInput) as caught:
            check_kept(before, after, 1000)
        self.assertIn(words, str(caught.exception))
        with self.assertRaises(InvalidInput):
            job_from_json(job_to_json(after))

    def test_everything_beyond_its_limit_is_refused_in_bench_words(self) -> None:
        job = full_job()
        self.refused(replace(job, intake=replace(job.intake, noticed="x" * 20_001)), "Noticed: '20001 characters' came")
        self.refused(replace(job, closing=Closing(done="x" * 20_001)), "Done: '20001 characters' came")
        self.refused(replace(job, device=replace(job.device, name="x" * 301)), "Name: '301 characters' came")
        runs = tuple(Run(f"run {n}") for n in range(102))
        self.refused(replace(job, light=replace(job.light, runs=runs)), "Runs: '102 of them' came, expected at most 100")
        far = (*job.light.runs, Run("after", shift_stops=25.0))
        self.refused(replace(job, light=replace(job.light, runs=far)), "Shift stops of number 3: 25.0 came, expected at most 20")
        ways = tuple(ShorterWay(f"part {n}") for n in range(51))
        self.refused(replace(job, opening=Opening(shorter_ways=ways)), "Shorter ways: '51 of them' came")
        pinned = (PinnedNode("clip+", 61.0, 0.0),)
        self.refused(replace(job, tracing=Tracing(pinned=pinned)), "Column of number 1: 61.0 came, expected at most 60")
        self.refused(replace(job, waits_for="x" * 400), "Waits for: '400 characters' came")
        with self.assertRaises(InvalidInput):
            check_kept(job, job, 30_000_000)

    @settings(deadline=None, max_examples=200)
    @given(st.data())
    def test_both_doors_agree(self, data: st.DataObject) -> None:
        job = full_job()
        text = st.text(max_size=5) | st.integers(290, 310).map(lambda n: "x" * n)
        change = data.draw(st.sampled_from(("name", "note", "minutes", "run", "photo", "spot", "density")))
        if change == "name":
            job = replace(job, device=replace(job.device, name=data.draw(text)))
        elif change == "note":
            finding = Finding("f1", "dent", "front", data.draw(st.floats(-0.5, 1.5)), 0.5, note=data.draw(text))
            job = replace(job, receiving=Receiving(findings=(finding,)))
        elif change == "minutes":
            ways = (ShorterWay("drum", (data.draw(text),), data.draw(st.floats(-10, 700))),)
            job = replace(job, opening=Opening(shorter_ways=ways))
        elif change == "run":
            added = tuple(Run(data.draw(text)) for _ in range(data.draw(st.sampled_from((1, 97, 98, 99)))))
            job = replace(job, light=replace(job.light, runs=(*job.light.runs, *added)))
        elif change == "photo":
            many = data.draw(st.sampled_from((1, 499, 500)))
            job = replace(job, photos=job.photos + (Photo(data.draw(text), "a", "b"),) * many)
        elif change == "spot":
            job = replace(job, tracing=Tracing(pinned=(PinnedNode(data.draw(text), data.draw(st.floats(-10, 70)), 0.0),)))
        else:
            setup = replace(job.light.setup, light_source=data.draw(text))
            job = replace(job, light=replace(job.light, setup=setup))
        readable = keepable = True
        try:
            job_from_json(job_to_json(job))
        except InvalidInput:
            readable = False
        try:
            check_kept(full_job() if data.draw(st.booleans()) else None, job, 1000)
        except InvalidInput:
            keepable = False
        self.assertEqual(readable, keepable, job)


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
        self.assertEqual(names, ["job.json", f"photos/{self.job.photos[0].sha256}"])
        beside = write_bundle(bundle, (("readings-1.csv", "a,b\n"),))
        self.assertEqual(zipfile.ZipFile(io.BytesIO(beside)).read("readings-1.csv"), b"a,b\n")
        self.assertEqual(read_bundle(beside), bundle)

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
        self.assertEqual(hashlib.sha256(bundle.photos[self.job.photos[0].sha256]).hexdigest(), self.job.photos[0].sha256)
