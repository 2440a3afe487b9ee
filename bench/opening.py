"""A strip-down of 400 steps: completion, one act through the window, the way back and the way in, beside networkx."""

import statistics
import tempfile
import time
from pathlib import Path

import networkx as nx
import numpy as np

from bench.measure import median_s, row
from bench.window import application, open_at, open_workshop
from violet_dial.core.opening.relations import refit_before, relate
from violet_dial.core.opening.steps import Step, StepKind
from violet_dial.core.opening.typed import Vocabulary, complete_line
from violet_dial.core.opening.way_back import order_back
from violet_dial.core.opening.way_in import Way, cheapest_way_in
from violet_dial.stations.open.acts import add_steps, take_planned
from violet_dial.stations.open.page import OpenPage

STEPS = 400


def some_steps(count: int) -> tuple[Step, ...]:
    """Covers, what lies under them, and their screws."""
    rng = np.random.default_rng(5)
    steps = []
    for place in range(count):
        under = (f"part {int(rng.integers(0, place))} cover",) if place % 5 == 0 and place > 5 else ()
        kind: StepKind
        kind, home = ("cover", f"part {place}") if place % 5 == 0 else ("screw", f"part {place - place % 5} cover")
        steps.append(Step(f"s{place}", kind, home, 1 + place % 4, "M1.4x3", "cross", tray=f"A{place // 9}", under=under))
    return tuple(steps)


def some_ways(count: int) -> tuple[Way, ...]:
    """Parts with one to three ways each."""
    rng = np.random.default_rng(6)
    ways = [Way("p0", (), 1.0)]
    for place in range(1, count):
        for _ in range(1 + int(rng.random() < 0.3) + int(rng.random() < 0.1)):
            needs = tuple(f"p{one}" for one in rng.integers(max(0, place - 40), place, 1 + int(rng.random() < 0.3)))
            ways.append(Way(f"p{place}", needs, float(rng.integers(1, 9))))
    return tuple(ways)


def report_core() -> None:
    steps, ways = some_steps(STEPS), some_ways(STEPS)
    words = Vocabulary(tuple(dict.fromkeys(step.name for step in steps)), tuple(f"A{n}" for n in range(60)))
    row(
        "completing a typed step among 400 names",
        f"{median_s(lambda: complete_line('screw x3 par', words), 50) * 1e3:.2f} ms",
        "goal: under 20 ms",
    )
    ours = median_s(lambda: order_back(steps), 20)
    needs = refit_before(steps, relate(steps))

    def theirs() -> None:
        graph = nx.DiGraph((need, place) for place in range(STEPS) for need in needs[place])
        graph.add_nodes_from(range(STEPS))
        list(nx.lexicographical_topological_sort(graph, key=lambda place: -place))

    row("the way back over 400 steps", f"{ours * 1e3:.1f} ms", "goal: under 100 ms")
    row("ratio to networkx sorting the same graph", f"{ours / median_s(theirs, 20):.2f}")
    found = cheapest_way_in(ways, f"p{STEPS - 1}")
    way = median_s(lambda: cheapest_way_in(ways, f"p{STEPS - 1}"), 10)
    proof = "proven cheapest" if found.proven else "best found, not proven"
    row("the way in over 400 parts with alternatives", f"{way * 1e3:.1f} ms", f"goal: under 100 ms ({proof})")


def report_act(folder: Path) -> None:
    app = application()
    workshop = open_workshop(folder / "open.violet")
    job_id = workshop.new_job().job.job_id
    workshop.perform(job_id, lambda job, at: add_steps(job, some_steps(STEPS), "a list", at))
    for _ in range(STEPS // 2):
        workshop.perform(
            job_id, lambda job, at: take_planned(job, next(one.step_id for one in job.opening.steps if one.planned), at)
        )
    window, page = open_at(workshop, job_id, "Open")
    opened = page.at("Open")
    assert isinstance(opened, OpenPage)
    times = []
    for count in range(30):
        opened.off.typed.edit.setText(f"screw x2 extra plate {count} M2x4 cross -> Z1")
        app.processEvents()
        began = time.perf_counter()
        opened.off.typed.edit.returnPressed.emit()
        app.processEvents()
        times.append(time.perf_counter() - began)
    row(f"one step taken into a list of {STEPS}, kept and drawn", f"{statistics.median(times) * 1e3:.1f} ms", "goal: under 30 ms")
    window.close()


def report() -> None:
    report_core()
    with tempfile.TemporaryDirectory() as name:
        report_act(Path(name))
