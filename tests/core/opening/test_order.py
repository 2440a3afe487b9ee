"""The way back, against networkx on random lists and against worked examples."""

import itertools
import unittest

import networkx as nx
import numpy as np

from violet_dial.core.errors import ImpossibleOrder
from violet_dial.core.opening.relations import refit_before, relate
from violet_dial.core.opening.steps import Step, WireEnd
from violet_dial.core.opening.tally import open_beneath, tally, totals
from violet_dial.core.opening.way_back import order_back, way_back

LIST = (
    Step("s1", "screw", "top cover", 3, under=("rewind knob",)),
    Step("s2", "knob", "rewind knob", hand="unknown"),
    Step("s3", "cover", "top cover", hides=("meter lead",)),
    Step("s4", "wire", "meter lead", wire_colour="red", wire_from="clip", wire_to="pin 1"),
    Step("s5", "lever", "advance lever", orientation="outside the post"),
)


def random_steps(rng: np.random.Generator, count: int, acyclic: bool) -> tuple[Step, ...]:
    """Parts that lie under others, at random."""
    steps = []
    for place in range(count):
        others = list(range(place)) if acyclic else [one for one in range(count) if one != place]
        picks = rng.permutation(others)[: int(rng.integers(0, 3))]
        steps.append(Step(f"s{place}", "lever", f"part {place}", under=tuple(f"part {one}" for one in picks)))
    return tuple(steps)


def refit_graph(steps: tuple[Step, ...]) -> nx.DiGraph:
    graph = nx.DiGraph()
    graph.add_nodes_from(range(len(steps)))
    for place, needs in enumerate(refit_before(steps, relate(steps))):
        graph.add_edges_from((need, place) for need in needs)
    return graph


class Order(unittest.TestCase):
    def test_worked_example(self) -> None:
        names = [LIST[place].step_id for place in order_back(LIST)]
        self.assertEqual(names, ["s5", "s4", "s3", "s1", "s2"])  # the knob came off after the screws it covers

    def test_same_order_as_networkx_on_random_lists(self) -> None:
        rng = np.random.default_rng(3)
        for count in (5, 20, 60, 120):
            steps = random_steps(rng, count, acyclic=True)
            expected = nx.lexicographical_topological_sort(refit_graph(steps), key=lambda place: -place)
            self.assertEqual(list(order_back(steps)), list(expected))

    def test_a_ring_is_named_whenever_networkx_finds_one(self) -> None:
        rng = np.random.default_rng(4)
        rings = 0
        for _ in range(60):
            steps = random_steps(rng, 8, acyclic=False)
            graph = refit_graph(steps)
            if nx.is_directed_acyclic_graph(graph):
                self.assertEqual(len(order_back(steps)), 8)
                continue
            rings += 1
            with self.assertRaises(ImpossibleOrder) as caught:
                order_back(steps)
            ring = [int(name.split()[1]) for name in caught.exception.parts]
            self.assertEqual(ring[0], ring[-1])
            for first, second in itertools.pairwise(ring):
                self.assertTrue(graph.has_edge(first, second) or graph.has_edge(second, first))
            self.assertIn("part", str(caught.exception))
        self.assertGreater(rings, 10)

    def test_exception_back_only_after(self) -> None:
        steps = (Step("s1", "lever", "brake"), Step("s2", "ring", "lock ring", back_after=("brake",)))
        self.assertEqual(order_back(steps), (0, 1))  # not simply reversed

    def test_stop_comes_before_the_first_cover_and_names_what_to_try(self) -> None:
        items = way_back(LIST, "reflex")
        kinds = [item.kind for item in items]
        self.assertEqual(kinds.count("test"), 1)
        stop = kinds.index("test")
        self.assertEqual(LIST[items[stop + 1].place].name, "top cover")
        self.assertIn("fire at three speeds", items[stop].text)
        self.assertIn("resolder red: clip to pin 1", items[1].text)
        self.assertIn("outside the post", items[0].text)


class Tallies(unittest.TestCase):
    def ended(self, *counts: int) -> Step:
        return Step("s1", "shim", "lens mount", 12, ends=tuple(WireEnd("refitted", count) for count in counts))

    def test_twelve_found_twelve_back(self) -> None:
        self.assertEqual(tally(self.ended()).state, "open")
        self.assertEqual(tally(self.ended(5, 7)).state, "whole")
        self.assertEqual(tally(self.ended(11)).words, "11 of 12, one short")
        self.assertEqual(tally(self.ended(13)).words, "13 of 12, one over")
        self.assertEqual(totals((self.ended(11), LIST[0])).wrong, (0,))

    def test_what_lies_open_under_a_cover(self) -> None:
        self.assertEqual([LIST[place].name for place in open_beneath(LIST, 2)], ["meter lead"])
        self.assertEqual([LIST[place].step_id for place in open_beneath(LIST, 1)], ["s1", "s3", "s4"])


if __name__ == "__main__":
    unittest.main()
