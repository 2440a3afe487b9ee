"""The command ``power``: its JSON, drawer and use from files, and one line with status 2 for what cannot be."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from tests.core.power import series
from violet_dial.cli.main import main
from violet_dial.core.power.feeds import read_choice
from violet_dial.services.circuits import CIRCUITS

SERIES = str(CIRCUITS / "cds-series.cir")


def run(*words: str) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        status = main(list(words))
    return status, out.getvalue(), err.getvalue()


class Power(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, name: str, text: str) -> str:
        path = self.folder / name
        path.write_text(text, encoding="utf-8")
        return str(path)

    def found(self, *words: str) -> dict[str, Any]:
        status, out, err = run("power", *words, "--json")
        self.assertEqual((status, err), (0, ""))
        found: dict[str, Any] = json.loads(out)
        return found

    def test_every_choice_with_its_figures(self) -> None:
        found = self.found(SERIES, "--design", "1.35", "--ev", "2,16", "--temperature", "20")
        names = [one["name"] for one in found["choices"]]
        self.assertIn(found["best"], names)
        for one in found["choices"]:
            rows, columns = len(one["charge_left"]), len(one["ev100"])
            self.assertEqual((columns, one["ev100"][0], one["ev100"][-1]), (15, 2.0, 16.0))
            self.assertEqual((len(one["volts"]), len(one["error_stops"])), (rows, rows))
            self.assertTrue(all(len(row) == columns for row in one["error_stops"]))
            figures = [abs(value) for row in one["error_stops_at_mark"] for value in row if value is not None]
            self.assertAlmostEqual(one["worst_error_stops"], max(figures))
            self.assertIsNone(one["error_stops"][0][-1])  # the needle is at its stop there
            for key in ("hours_in_tolerance", "hours_to_cutoff", "reason"):
                self.assertIn(key, one)
        silver = next(one for one in found["choices"] if one["name"] == "SR44")
        hand = series.error_stops(read_choice("SR44"), 1.0, 20.0, 4.0)
        self.assertAlmostEqual(silver["error_stops_at_mark"][0][2], hand, delta=0.002)

    def test_own_diode_cells_drawer_and_use(self) -> None:
        cells = self.file("c.csv", "cell,charge_left,volts,ohm,ah\nmine,1.0,1.5,5,0.1\nmine,0.0,1.2,20,\n")
        drawer = self.file("d.csv", "part\nschottky\n150 ohm\nD x IS=1e-6 N=1.2\n")
        use = self.file("use.txt", "# a holiday\n4 rolls a month\nmetering 20 min a roll\n")
        found = self.found(SERIES, "--ev", "1,8", "--cells", cells, "--drawer", drawer, "--use", use,
                           "--diode", "D blue IS=1e-7 N=1.1", "--temperature", "20,-5")  # fmt: skip
        names = [one["name"] for one in found["choices"]]
        self.assertTrue({"mine", "SR44 with blue diode", found["design"]["name"]} <= set(names))
        self.assertEqual(found["design"]["tried"], 1 + 3 + 6)
        self.assertEqual(len(found["choices"][0]["by_temperature"]), 2)
        self.assertEqual(found["use"]["shares"][0]["name"], "the cell's own loss")
        self.assertGreater(found["use"]["weeks_high"], found["use"]["weeks_low"])
        self.assertTrue(any("band" in line for line in found["cautions"]))

    def test_named_choices_alone_and_a_measured_discharge(self) -> None:
        rows = "".join(f"{hour},{1.55 - 0.004 * hour:.3f},1000\n" for hour in range(100))
        curve = self.file("old cell.csv", f"time_h,volts,load\n{rows}")
        found = self.found(
            SERIES, "--ev", "1,8", "--cells", curve, "--choice", "old cell + schottky", "--choice", "supply 1.35 V"
        )
        self.assertEqual([one["name"] for one in found["choices"]], ["old cell with Schottky diode", "supply 1.35 V"])
        self.assertIn("mV from its curve", found["cells"])
        self.assertIsNone(found["choices"][1]["hours_to_cutoff"])
        self.assertLess(found["choices"][1]["worst_error_stops"], 0.001)

    def test_lamps_and_a_magnet(self) -> None:
        found = self.found(str(CIRCUITS / "silicon-lamps.cir"), "--ev", "2,12", "--choice", "4SR44")
        self.assertEqual(found["mode"], "lamps")
        lamps = found["choices"][0]["thresholds"]
        self.assertEqual([one["lamp"] for one in lamps], ["slow lamp", "over lamp"])
        self.assertTrue(all(abs(one["ev100"][0] - one["design_ev100"]) < 0.1 for one in lamps))
        self.assertTrue(2.5 < found["drop_out_v"] < 3.2)

    def test_in_words(self) -> None:
        status, out, _ = run("power", SERIES, "--ev", "1,8")
        self.assertEqual(status, 0)
        self.assertEqual(sum(line.startswith("* ") for line in out.splitlines()), 1)
        self.assertIn("! Mercury is toxic", out)

    def test_one_line_and_status_two(self) -> None:
        negative = self.file("n.csv", "cell,charge_left,volts,ohm,ah\nmine,1.0,1.5,5,0.1\nmine,-0.1,1.2,9,\n")
        charging = self.file("k.csv", "cell,charge_left,volts,ohm,ah\nmine,1.0,1.2,5,0.1\nmine,0.1,1.5,9,\n")
        for words, said in (
            ((SERIES, "--cells", negative), "share from 0 to 1"), ((SERIES, "--cells", charging), "charges itself"),
            ((str(CIRCUITS / "selenium-movement.cir"),), "a battery"),
            ((str(CIRCUITS / "motor-transfer.cir"),), "follows the light"),
            ((SERIES, "--ev", "9"), "two lights"), ((SERIES, "--ev", "9,2"), "the lower first"),
            ((SERIES, "--design", "-1"), "30 V"),
            ((SERIES, "--temperature", "99"), "-10 to 40"), ((SERIES, "--diode", "nothing"), "a model"),
            ((SERIES, "--choice", "moon"), "one of LR44"), ((SERIES, "--drawer", self.file("e.csv", "moon\n")), "ohms"),
            ((SERIES, "--use", self.file("u.txt", "often\n")), "rolls a month"),
            ((SERIES, "--cells", str(self.folder / "none")), "read"),
        ):  # fmt: skip
            status, out, err = run("power", *words)
            with self.subTest(words):
                self.assertEqual((status, out, err.count("\n")), (2, "", 1), err)
                self.assertIn(said, err)


if __name__ == "__main__":
    unittest.main()
