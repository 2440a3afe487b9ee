"""The commands ``prove``, ``exercise`` and ``sheet``: JSON beside SciPy, calendars in two readers, one line for bad input."""

import json
import tempfile
import unittest
from datetime import date
from pathlib import Path

import pypdfium2
import vobject
from icalendar import Calendar
from scipy.stats import binomtest, fisher_exact

from tests.cli.test_power import run
from violet_dial.job.bundle import Bundle, write_bundle
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Intake, Job

HEAD = "time,setting,result,battery_v,rest_h,after\n"


class Files(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, text: str, name: str = "log.csv") -> str:
        (self.folder / name).write_text(text, encoding="utf-8")
        return str(self.folder / name)


class Proved(Files):
    def log(self) -> str:
        rows = [f",1/250,{'failed' if n % 3 == 0 else 'clean'},2.9,,\n" for n in range(24)]
        rows += [",1/60,clean,2.9,,\n"] * 30 + [",1/250,clean,2.9,,cleaned\n"] * 20
        return self.file(HEAD + "".join(rows))

    def test_json_is_what_scipy_has(self) -> None:
        status, out, _ = run("prove", self.log(), "--claim", "0.05", "--confidence", "0.95", "--json")
        found = json.loads(out)
        self.assertEqual(status, 0)
        at = {one["setting"]: one for one in found["settings"]}
        exact = binomtest(8, 44).proportion_ci(0.95, "exact")
        self.assertEqual((at["1/250"]["n"], at["1/250"]["failed"]), (44, 8))
        for got, wanted in zip(at["1/250"]["interval"], exact, strict=True):
            self.assertAlmostEqual(got, wanted, places=9)
        p = fisher_exact([[8, 16], [0, 30]], "greater").pvalue * 2
        self.assertEqual(found["worse"]["setting"], "1/250")
        self.assertAlmostEqual(found["worse"]["p"], p, places=9)
        self.assertEqual((found["plan"]["after"], found["plan"]["n"], found["plan"]["verdict"]), ("cleaned", 20, "going"))
        luck = fisher_exact([[0, 20], [8, 46]], "less").pvalue
        self.assertAlmostEqual(found["better"][0]["by_luck"], luck, places=9)

    def test_times_out_of_order_are_put_in_order_and_give_the_rest(self) -> None:
        rows = "2026-11-21T09:00:00Z,1/60,jammed,,,\n2026-11-20T09:00:00Z,1/60,clean,,,\n2026-11-20T09:01:00Z,1/60,clean,,,\n" * 6
        status, out, _ = run("prove", self.file(HEAD + rows), "--school", "fixed", "--json")
        self.assertEqual((status, json.loads(out)["plan"]["failed"]), (0, 6))
        status, out, _ = run("prove", self.file(HEAD + rows))
        self.assertIn("Put it right", out)

    def test_bad_input(self) -> None:
        good = f"{HEAD},1/60,clean,,,\n"
        for text, words, said in (
            ("a,b\n1,2\n", (), "setting"), ("", (), "setting"), (f"{HEAD},,clean,,,\n", (), "Setting"),
            (f"{HEAD},1/60,,,,\n", (), "clean, failed"),
            (good, ("--claim", "2"), "Claim"), (good, ("--claim", "x"), "number"), (good, ("--confidence", "1"), "Confidence"),
            (good, ("--school", "hard"), "school"), (f"{HEAD},1/60,clean,-3,,\n", (), "0 to 1000"), ("\0\0", (), "text file"),
        ):  # fmt: skip
            with self.subTest(said):
                status, out, error = run("prove", self.file(text), *words, "--json")
                self.assertEqual((status, out), (2, ""))
                self.assertIn(said, error)
        self.assertEqual(run("prove", str(self.folder / "none.csv"))[0], 2)


class Exercised(Files):
    def test_the_calendar_opens_in_two_readers_and_no_zone_moves_its_days(self) -> None:
        """Days over the end of summer time in Europe (2026-10-25) and in North America (2026-11-01)."""
        out = self.folder / "o.ics"
        status, said, _ = run(
            "exercise", "--days", "6", "--rest", "5", "--begins", "2026-10-23", "--ics", str(out), "--name", "Räzor, reflex"
        )
        self.assertEqual(status, 0, said)
        wanted = [date(2026, 10, day) for day in (23, 24, 25, 26, 27, 28)] + [date(2026, 11, 2)]
        data = out.read_bytes()
        for zone in ("Pacific/Auckland", "America/New_York", "Europe/Berlin"):
            read = Calendar.from_ical(data.replace(b"BEGIN:VEVENT", f"X-WR-TIMEZONE:{zone}\r\nBEGIN:VEVENT".encode(), 1))
            self.assertEqual([event.get("dtstart").dt for event in read.walk("VEVENT")], wanted)
        second = vobject.readOne(data.decode())
        self.assertEqual([event.dtstart.value for event in second.vevent_list], wanted)
        self.assertTrue(all(type(event.dtstart.value) is date for event in second.vevent_list))
        self.assertEqual(second.vevent_list[0].summary.value, "Exercise: Räzor, reflex")
        self.assertTrue(second.vevent_list[-1].summary.value.startswith("Check"))
        self.assertTrue(all(event.valarm.trigger.value.total_seconds() == 9 * 3600 for event in second.vevent_list))

    def test_bad_input(self) -> None:
        out = str(self.folder / "o.ics")
        for words, said in (
            (("--days", "0"), "1 to 60"), (("--days", "x"), "number"), (("--days", "2.5"), "whole"),
            (("--begins", "soon"), "2026"),
            (("--a-day", "1000"), "200"), (("--rest", "-1"), "0 to 60"),
        ):  # fmt: skip
            with self.subTest(said):
                status, _, error = run("exercise", "--ics", out, *words)
                self.assertEqual(status, 2)
                self.assertIn(said, error)
        self.assertEqual(run("exercise", "--days", "5")[0], 2)


class Sheets(Files):
    def test_paper_and_card(self) -> None:
        closing = Closing(done="Contacts cleaned.", care="Fire it now and then.", recheck_on="May 2027")
        job = Job("s1", 19, Device("Bench reflex"), Intake("Blank frames"), closing=closing)
        bundle = self.folder / "b.zip"
        bundle.write_bytes(write_bundle(Bundle(job, {})))
        for words, size in (((), (595, 842)), (("--paper", "Letter"), (612, 792)), (("--card",), (595, 281))):
            out = self.folder / "o.pdf"
            self.assertEqual(run("sheet", str(bundle), "-o", str(out), *words)[0], 0)
            page = pypdfium2.PdfDocument(out.read_bytes())[0]
            self.assertEqual((round(page.get_width()), round(page.get_height())), size)
            text = page.get_textpage().get_text_bounded()
            for said in ("Bench reflex", "Not signed: a draft", "Contacts cleaned.", "Fire it now and then.", "May 2027"):
                self.assertIn(said, text)
        self.assertEqual(run("sheet", str(bundle), "-o", str(self.folder / "o.txt"))[0], 2)


if __name__ == "__main__":
    unittest.main()
