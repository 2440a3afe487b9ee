"""What stays at the bench: minutes, parts and the drawer, figures of the workshop, chances that learn from it when asked to."""

import unittest
from dataclasses import replace

from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.faults import WEIGHTS
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Fault
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Job
from violet_dial.job.tracing import TakenRepair, Tracing
from violet_dial.services.circuits import circuit_from, templates
from violet_dial.stations.hand_back import acts
from violet_dial.stations.hand_back.figures import figures_of
from violet_dial.stations.hand_back.state import minutes_by_station
from violet_dial.store.records import LogRow

TEXT = next(one.text for one in templates() if one.stem == "cds-series")
CLOCKED = (("09:00", "Receive"), ("09:05", "Trace"), ("11:00", "Trace"), ("11:10", "Light"))
AT = "2026-11-27T09:00:00+00:00"


def job(number: int, **changes: object) -> Job:
    return replace(Job(f"j{number}", number, Device("Bench reflex", serial="B 1")), **changes)  # type: ignore[arg-type]


def say(one: Job, *lines: str) -> Job:
    for line in lines:
        one = acts.understand(one, line).act(one, AT).job
    return one


def mended(number: int, part: str, place: int) -> Job:
    repair = TakenRepair(Fault(part, "open", 1.0), "put right", AT, place)
    return job(number, tracing=Tracing("c", TEXT, repairs=(repair,), epochs=((), ())))


class Bench(unittest.TestCase):
    def test_a_pause_counts_as_one_minute(self) -> None:
        rows = tuple(LogRow(n, f"2026-11-27T{clock}:00+00:00", station, "", False) for n, (clock, station) in enumerate(CLOCKED))
        self.assertEqual(minutes_by_station(rows[::-1]), (("Receive", 1.0), ("Trace", 6.0), ("Light", 10.0)))

    def test_parts_come_off_the_drawer_from_the_count_on(self) -> None:
        before = say(job(1), "part 5 LR44")
        counted = say(job(2), "stock 20 LR44", "part 2 LR44", "part 1 lr44")
        after = say(job(3), "part foam strip", "part 4 x LR44")
        found = figures_of((after, before, counted))
        self.assertEqual(dict(found.left), {"LR44": 13})
        self.assertEqual(dict(found.used)["LR44"], 12)
        self.assertEqual([(one.name, one.count) for one in counted.closing.parts], [("LR44", 3)])

    def test_lines(self) -> None:
        one = say(job(1), "thought trace 30", "thought trace 45", "shorter way: meter cell through front frame; 6 min")
        self.assertEqual([(said.station, said.minutes) for said in one.closing.thought], [("Trace", 45.0)])
        self.assertEqual(one.opening.shorter_ways[0].minutes, 6.0)
        for line, word in (
            ("", "nothing"),
            ("part 0 LR44", "1 to"),
            ("thought trace long", "number"),
            ("shorter way: x", "minutes"),
        ):
            with self.subTest(line), self.assertRaisesRegex(InvalidInput, word):
                acts.understand(one, line)

    def test_what_came_back_and_first_suspects(self) -> None:
        signed = job(1, closing=Closing(signed_by="M. Tystie"))
        found = figures_of((signed, job(2), mended(3, "rwire", 1), mended(4, "rwire", 3), mended(5, "rwire", 0)))
        self.assertEqual(len(found.returned), 4)
        self.assertIn("job 0002 after job 0001", found.returned[0])
        self.assertEqual((found.first, found.among_three, found.told), (1, 2, 2))


class Learning(unittest.TestCase):
    def parts(self) -> str:
        circuit = circuit_from(TEXT)
        return next(one.name for one in circuit.parts if kind_of(circuit, one) == "wire")

    def test_nothing_is_learnt_silently_or_from_too_few(self) -> None:
        part = self.parts()
        few = figures_of(mended(n, part, 1) for n in range(1, 10))
        self.assertEqual(few.weights, ())
        with self.assertRaisesRegex(InvalidInput, "ten or more"):
            acts.learn(job(99), few)
        enough = figures_of(mended(n, part, 1) for n in range(1, 21))
        kind = enough.kinds[0][0]
        learnt = acts.learn(job(99), enough).job
        weights = dict(learnt.tracing.weights)
        self.assertGreater(weights[kind], 2 * WEIGHTS[kind])
        self.assertLess(weights["battery"], WEIGHTS["battery"])
        share = sum(weights[one] for one in WEIGHTS) / sum(WEIGHTS.values())
        self.assertAlmostEqual(share, 1.0, delta=0.02)  # as many faults are expected as before, only of other kinds
        self.assertEqual(acts.forget(learnt, AT).job.tracing.weights, ())


if __name__ == "__main__":
    unittest.main()
