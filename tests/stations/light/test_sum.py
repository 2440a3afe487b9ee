"""The sums behind the verdicts of the whole demo, worked again from the figures printed in them."""

import math
import re
import tempfile
import unittest
from pathlib import Path
from typing import Any

from tests.workshops import demo_at, open_workshop
from violet_dial.job.document import Job
from violet_dial.services.light_judgement import judge
from violet_dial.services.station import Section
from violet_dial.stations.light.sum import explain
from violet_dial.stations.trace.sum import explain_evidence

N = r"([+−]?\d+(?:\.\d+)?)"
PARAMETERS = {
    "true": 0, "evenly off": 1,
    "falls off in dim light and behind in bright": 3, "too much in dim light, falls behind in bright": 3,
}  # the other shapes have two  # fmt: skip
ROUNDED = 0.0051  # two decimals printed
Found = tuple[str, ...]


def number(text: str) -> float:
    return float(text.replace("−", "-"))


class Sums(unittest.TestCase):
    jobs: list[Job]

    @classmethod
    def setUpClass(cls) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "demo.violet"
            demo_at(path)
            bench = open_workshop(path)
            cls.jobs = [bench.view(card.job_id).job for card in bench.cards()]
            bench.close()

    def sections(self) -> list[tuple[str, list[Section]]]:
        """The opened sum of every reading of every run that the demo has."""
        found = []
        for job in self.jobs:
            run = job.light.current
            judgement = judge(job)
            for place in range(len(run.readings)):
                found.append((f"{job.device.name} {place}", list(explain(job, run, judgement, place))))
        self.assertGreater(len(found), 60)
        return found

    def lines(self, heading: str) -> list[tuple[str, str]]:
        return [(name, line) for name, several in self.sections() for head, lines in several if head == heading for line in lines]

    def test_error_and_expanded_uncertainty(self) -> None:
        checked = 0
        pattern = rf"{N} − {N} = {N} stop; U = 2 × √\({N}² \+ {N}²\) = {N}; tolerance ±{N}"
        for name, line in self.lines("This reading"):
            met = re.fullmatch(pattern, line)
            if met is None:
                continue
            shown, light, error, u_light, u_read, expanded, tolerance = (number(one) for one in met.groups())
            self.assertAlmostEqual(error, shown - light, delta=2 * ROUNDED, msg=name)
            self.assertAlmostEqual(expanded, 2 * math.hypot(u_light, u_read), delta=ROUNDED + 0.002, msg=name)
            self.assertGreater(tolerance, 0)
            checked += 1
        self.assertGreater(checked, 60)

    def test_the_light_by_its_chain(self) -> None:
        kinds = set()
        for name, line in self.lines("This reading"):
            for kind, pattern, work in (
                ("lux", rf"lux meter: log2\({N} lx × 100 / {N}\) = {N}", lambda lx, c: math.log2(lx * 100 / c)),
                ("trusted", rf"trusted meter less its own error: {N} − \({N}\) = {N}", lambda read, error: read - error),
            ):
                met = re.match(pattern, line)
                if met is not None:
                    first, second, result = (number(one) for one in met.groups())
                    self.assertAlmostEqual(result, work(first, second), delta=2 * ROUNDED, msg=f"{name}: {line}")
                    kinds.add(kind)
            roots = re.search(r"u = √\((.+)\) = ([\d.]+) stop", line)
            if roots is not None:
                terms = [number(one) for one in re.findall(r"([\d.]+)²", roots.group(1))]
                self.assertAlmostEqual(number(roots.group(2)), math.hypot(*terms), delta=0.0011, msg=f"{name}: {line}")
        self.assertEqual(kinds, {"lux", "trusted"})

    def test_shapes_are_weighed_by_their_aic(self) -> None:
        """AIC = χ² + 2k, weight exp(−Δ/2) over the sum (Burnham and Anderson 2002, chapter 2 [memory])."""
        heading = "Shapes compared (AIC = χ² + 2k weighs them; one figure more must gain 6.5 in χ² to be said)"
        checked = 0
        for job in self.jobs:
            count = len(job.light.current.readings)
            if not count:
                continue
            lines = dict(explain(job, job.light.current, judge(job), 0))[heading]
            met = [re.match(rf"(.+): χ² {N}, AIC {N}, weight {N}", line) for line in lines]
            rows: list[Any] = [(one.group(1), *(number(part) for part in one.groups()[1:])) for one in met if one is not None]
            for shape, chi2, aic, _ in rows:
                k = PARAMETERS.get(str(shape), 2)
                self.assertAlmostEqual(aic, chi2 + 2 * k, delta=0.11, msg=f"{job.label} {shape}")
            if rows:
                least = min(row[2] for row in rows)
                likely = [math.exp((least - row[2]) / 2) for row in rows]
                for row, one in zip(rows, likely, strict=True):
                    self.assertAlmostEqual(row[3], one / sum(likely), delta=0.06, msg=f"{job.label} {row[0]}")
                self.assertAlmostEqual(sum(row[3] for row in rows), 1.0, delta=0.03)
                checked += 1
        self.assertGreater(checked, 5)

    def test_states_by_their_guard_bands_before_and_after_the_shift(self) -> None:
        """Inside where |error| + U is within tolerance, outside where |error| − U is beyond it (ISO 14253-1, guard bands)."""
        pattern = rf"Ev {N}: {N} ± {N}, tolerance ±{N}: (\w+); after the shift {N}: (\w+)"
        states = set()
        for job in self.jobs:
            if not job.light.current.readings:
                continue
            sections = dict(explain(job, job.light.current, judge(job), 0))
            advised = re.search(rf"advised \({N} stop\)", " ".join(sections["Best single shift"]))
            shift = number(advised.group(1)) if advised else 0.0
            for line in sections["Each light, from all readings together"]:
                met = re.fullmatch(pattern, line)
                if met is None:
                    continue
                _, error, expanded, tolerance, state, shifted, after = met.groups()
                if advised:
                    self.assertAlmostEqual(number(shifted), number(error) + shift, delta=3 * ROUNDED, msg=line)
                for value, said in ((number(error), state), (number(shifted), after)):
                    room = number(tolerance) - abs(value)
                    if abs(abs(room) - number(expanded)) < 4 * ROUNDED:
                        continue  # too near the edge for printed figures
                    expected = "inside" if room > number(expanded) else "outside" if -room > number(expanded) else "undecided"
                    self.assertEqual(said, expected, f"{job.label} {line}")
                    states.add(said)
        self.assertEqual(states, {"inside", "outside", "undecided"})

    def test_evidence_says_where_it_came_from(self) -> None:
        traced = [job for job in self.jobs if job.tracing.now]
        self.assertGreaterEqual(len(traced), 2)
        for job in traced:
            sections = explain_evidence(job)
            self.assertEqual(len(sections), len(job.tracing.now))
            for (head, lines), place in zip(sections, range(len(sections), 0, -1), strict=True):
                self.assertTrue(head.startswith(f"{place}: "))
                self.assertTrue(any("typed" in line or "raw window" in line for line in lines))
        nothing = explain_evidence(Job("j", 1))
        self.assertEqual(nothing, (("Evidence", ("None was taken yet.",)),))


if __name__ == "__main__":
    unittest.main()
