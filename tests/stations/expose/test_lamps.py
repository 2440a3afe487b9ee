"""Lines typed at Lamps, the map that is shown, times judged as a meter's readings; the command ``lamps``."""

import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from tests.cli.test_power import run
from tests.stations.expose.test_acts import AT, camera
from tests.workshops import next_act
from violet_dial.core.errors import VioletDialError
from violet_dial.demo.story import stories
from violet_dial.job.document import Job
from violet_dial.job.proving import NamedRepair
from violet_dial.report.blocks import Lines
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.services.repairs import around_repair
from violet_dial.stations import STATIONS
from violet_dial.stations.expose import lamps_acts, shots_acts
from violet_dial.stations.expose.lamps_state import chosen_judged, lamps_shown
from violet_dial.stations.expose.paper import paper
from violet_dial.stations.trace.acts import choose_circuit

LOOKS = next(lines for story in stories() for kind, *lines in story.acts if kind == "lamps")


def said(*lines: str) -> Job:
    job = camera("The slow lamp comes on too late")
    for line in lines:
        job = lamps_acts.say_line(job, line, AT).job
    return job


class Lamps(unittest.TestCase):
    def test_lines(self) -> None:
        job = said(
            "iso 400",
            "slow from 1/60",
            "shortest 1/1000",
            "longest 2 s",
            "apertures 2.8 8 22",
            "f/16 400 lx slow",
            "f8 1.2 klx none",
        )
        law = job.exposing.law
        self.assertEqual((law.film_speed, law.slow_s, law.shortest_s, law.longest_s), (400.0, 2.0**-6, 2.0**-10, 2.0))
        self.assertEqual(
            [(one.f_number, one.lux, one.seen) for one in job.exposing.lamps], [(16.0, 400.0, "slow"), (8.0, 1200.0, "none")]
        )
        for line in ("", "f/16 slow", "f/16 400 lx red", "slow from 9 s", "iso x", "f/16 400 lx 900 s", "apertures wide"):
            with self.subTest(line), self.assertRaises(VioletDialError):
                said(line)

    def test_the_map_and_next(self) -> None:
        shown = lamps_shown(said(*LOOKS))
        self.assertIn("The slow lamp alone lights too late", shown.headline)
        self.assertEqual([one.sign for one in shown.spots][:5], ["–", "–", "O", "–", "S"])
        self.assertIsNotNone(shown.found_slow)
        act = next_act(said(), STATIONS)
        self.assertEqual((act.station, act.kind), ("Expose", "look"))
        self.assertIn("f/5.6", act.title)

    def test_times_are_judged_as_readings_and_the_longest_is_no_reading(self) -> None:
        # Twice as long as N^2 C / (E S) says at each light: one stop low, pictures bright
        job = said("f/5.6 2560 lx 1/16", "f/5.6 640 lx 1/4", "f/5.6 10240 lx 1/60", "f/16 0.01 lx 8 s")
        self.assertEqual(len(job.exposing.auto), 4)
        judged = chosen_judged(job)
        self.assertIn("low", judged)
        self.assertIn("1", judged)
        self.assertEqual(chosen_judged(said("f/5.6 2560 lx 1/16")), "")

    def test_the_circuit_has_a_law_of_its_own(self) -> None:
        text = next(one.text for one in templates() if one.stem == "silicon-shutter")
        job = choose_circuit(said("iso 200"), "magnet", text, AT).job
        job = type_evidence(job, "S2 pressed", AT).job
        job = lamps_acts.say_line(job, "circuit f/8", AT).job
        law = job.exposing.law
        # 52.8 ms in 1000 lx (Power's timer): t = N^2 C / (E S)
        self.assertAlmostEqual(64 * law.c_lx_s / (1000 * 200), 0.0528, delta=0.002)
        self.assertIn("lx s", lamps_shown(job).stands)
        for line in ("circuit f/8", "c 0.1"):
            with self.assertRaises(VioletDialError):
                said(line)

    def test_what_was_seen_before_the_repair_is_not_mixed_with_what_was_seen_since(self) -> None:
        times = ("f/5.6 2560 lx 1/16", "f/5.6 640 lx 1/4", "f/5.6 10240 lx 1/60")
        job = said(*LOOKS, *times)
        job = shots_acts.say_line(job, "wheel 5 slider 0 -1", AT).job
        was = lamps_shown(job).headline
        mend = NamedRepair("resistor of the slow lamp", "2026-11-04T12:00:00+00:00")
        job = replace(job, proving=replace(job.proving, mends=(mend,)))
        self.assertEqual(lamps_shown(job).headline, was)  # nothing seen since: that still holds
        later = "2026-11-05T10:00:00+00:00"
        for line in ("f/5.6 20 lx slow", "f/5.6 200 lx slow", "f/5.6 2000 lx none", "f/5.6 20000 lx over"):
            job = lamps_acts.say_line(job, line, later).job
        for line in ("f/5.6 2560 lx 1/30", "f/5.6 640 lx 1/8", "f/5.6 10240 lx 1/125"):
            job = lamps_acts.say_line(job, line, later).job
        job = shots_acts.say_line(job, "wheel 6 slider 0 0", later).job
        shown = lamps_shown(job)
        self.assertNotEqual(shown.headline, was)
        self.assertEqual(len(shown.spots), 7)
        self.assertIn("before the repair 8 and 3", shown.stands)
        self.assertNotEqual(chosen_judged(job), chosen_judged(said(*times)))
        self.assertEqual([len(one.shots) for one in (around_repair(job).before, around_repair(job).since)], [1, 1])
        lines = [line for block in paper(job) if isinstance(block, Lines) for line in block.items]
        self.assertIn(was, lines[0])
        self.assertTrue(all("Before the repair: " in lines[place] for place in (0, 1)), lines)
        self.assertEqual(sum("Before the repair: Wheel" in line for line in lines), 1)

    def test_the_command(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "map.csv"
            path.write_text(
                "aperture,lux,seen\n5.6,200,none\n5.6,2000,none\n5.6,30000,none\n5.6,20,none\nf/5.6,100000,none\n5.6,2,none\n"
            )
            status, out, _ = run("lamps", str(path), "--film-speed", "400", "--json")
            found = json.loads(out)
            self.assertEqual((status, found["causes"][0]["kind"], found["next"]), (0, "contact", None))
            self.assertEqual(found["looks"][0]["meant"], "slow")
            for text, words in (
                ("a,b\n1,2\n", "aperture"),
                ("aperture,lux,seen\n5.6,0,slow\n", "line 2"),
                ("aperture,lux,seen\n", "one look"),
            ):
                path.write_text(text)
                status, _, err = run("lamps", str(path))
                self.assertEqual((status, err.count("\n")), (2, 1))
                self.assertIn(words, err)


if __name__ == "__main__":
    unittest.main()
