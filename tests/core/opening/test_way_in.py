"""The cheapest way in, against networkx where it can say, and against trying everything where it cannot."""

import itertools
import unittest

import networkx as nx
import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.way_in import Way, alternatives, cheapest_way_in


def everything(ways: tuple[Way, ...], target: str) -> float:
    """Least minutes over every choice of one way per part, each part counted once."""
    by_part: dict[str, list[Way]] = {}
    for way in ways:
        by_part.setdefault(way.part, []).append(way)
    best = float("inf")
    for choice in itertools.product(*by_part.values()):
        chosen = {way.part: way for way in choice}
        graph = nx.DiGraph((need, way.part) for way in choice for need in way.needs)
        graph.add_nodes_from(chosen)
        needed = nx.ancestors(graph, target) | {target}
        if nx.is_directed_acyclic_graph(graph.subgraph(needed)):
            best = min(best, sum(chosen[part].minutes for part in needed))
    return best


class Outside(unittest.TestCase):
    def test_one_way_each_is_the_sum_over_ancestors(self) -> None:
        rng = np.random.default_rng(1)
        for _ in range(20):
            ways = []
            for place in range(40):
                needs = rng.permutation(place)[: int(rng.integers(0, 4))]
                ways.append(Way(f"p{place}", tuple(f"p{one}" for one in needs), float(rng.integers(1, 9))))
            graph = nx.DiGraph((need, way.part) for way in ways for need in way.needs)
            graph.add_node("p39")
            parts = nx.ancestors(graph, "p39") | {"p39"}
            expected = sum(way.minutes for way in ways if way.part in parts)
            found = cheapest_way_in(tuple(ways), "p39")
            self.assertAlmostEqual(found.minutes, expected)
            self.assertTrue(found.proven)

    def test_one_need_each_is_dijkstra(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(20):
            graph = nx.gnp_random_graph(60, 0.08, seed=int(rng.integers(1 << 30)), directed=True)
            ways = [Way("0", (), 0.0)]
            for first, second in graph.edges:
                graph[first][second]["weight"] = float(rng.integers(1, 20))
                if second:
                    ways.append(Way(str(second), (str(first),), graph[first][second]["weight"]))
            for target, minutes in nx.single_source_dijkstra_path_length(graph, 0).items():
                self.assertAlmostEqual(cheapest_way_in(tuple(ways), str(target)).minutes, minutes)

    def test_both_at_once_against_trying_everything(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(60):
            ways = [Way("p0", (), 1.0)]
            for place in range(1, 8):
                for _ in range(int(rng.integers(1, 4))):
                    needs = tuple(f"p{one}" for one in rng.permutation(8)[: int(rng.integers(0, 3))] if one != place)
                    ways.append(Way(f"p{place}", needs, float(rng.integers(1, 9))))
            several = tuple(ways)
            expected = everything(several, "p7")
            if expected == float("inf"):
                self.assertRaises(InvalidInput, cheapest_way_in, several, "p7")
            else:
                found = cheapest_way_in(several, "p7")
                self.assertAlmostEqual(found.minutes, expected)
                seen: set[str] = set()
                for way in found.ways:  # in an order that can be worked
                    self.assertLessEqual(set(way.needs), seen)
                    seen.add(way.part)


class Bench(unittest.TestCase):
    def test_one_frame_with_four_screws_instead_of_an_hour_of_knobs(self) -> None:
        knobs = tuple(Way(f"knob {n}", (f"knob {n - 1}",) if n else (), 8.0) for n in range(6))
        long = (*knobs, Way("top cover", ("knob 5",), 2.0), Way("cell", ("top cover",), 3.0))
        short = (Way("frame screws", (), 3.0), Way("front frame", ("frame screws",), 2.0), Way("cell", ("front frame",)))
        ways = (*long, *short)
        first, second = alternatives(ways, "cell")
        self.assertEqual((first.minutes, second.minutes), (6.0, 53.0))
        self.assertEqual([way.part for way in first.ways], ["frame screws", "front frame", "cell"])

    def test_unknown_part_and_ring_get_a_sentence(self) -> None:
        with self.assertRaisesRegex(InvalidInput, "to which a way is known"):
            cheapest_way_in((Way("a"),), "b")
        with self.assertRaisesRegex(InvalidInput, "ring"):
            cheapest_way_in((Way("a", ("b",)), Way("b", ("a",))), "a")


if __name__ == "__main__":
    unittest.main()
