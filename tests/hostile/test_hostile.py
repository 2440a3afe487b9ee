"""Hostile files through the real window, hostile peers through real links: no process started, nothing written outside, each
refused in a sentence or taken rightly, and the window well afterwards. How long the window stood still is measured in bench."""

import os
import time
import unittest
from pathlib import Path

from tests.gui.window import WindowTest
from tests.hostile import files
from tests.hostile.peers import PEERS, peer
from violet_dial.core.circuit.text import circuit_text
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.task import SilentTask
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.link import Link
from violet_dial.services.circuits import circuit_from
from violet_dial.services.decoder import DECODER
from violet_dial.services.many import all_in
from violet_dial.services.photos import check_photo
from violet_dial.stations import STATIONS
from violet_dial.stations.light.table import read_readings


def children() -> set[str]:
    """Programs this process has started and that still run, but for the one that decodes pictures."""
    found = set()
    for one in Path("/proc").glob("[0-9]*"):
        try:
            parent = one.joinpath("stat").read_text().rpartition(")")[2].split()[1]
            command = one.joinpath("cmdline").read_text().replace("\0", " ")
        except OSError:
            continue  # it has ended
        if parent == str(os.getpid()) and "decoder_child" not in command:
            found.add(command)
    return found


class Files(WindowTest):
    def put(self, named: tuple[str, bytes]) -> Path:
        folder = self.folder / "hostile"
        folder.mkdir(exist_ok=True)
        path = folder / named[0]
        path.write_bytes(named[1])
        return path

    def test_bundles(self) -> None:
        """All through the key that takes a folder; then each job that was taken is opened."""
        for one in files.bundles():
            self.put(one)
        before = self.around()
        self.window.jobs_acts.take([str(self.folder / "hostile")])
        self.until(lambda: not self.window.jobs_acts.runner.busy and "taken" in self.said, self.said)
        self.assertRegex(self.said, r"^\d+ jobs taken\. \d+ not: ")
        self.assertEqual(self.around(), before)
        self.assertEqual(children(), set())
        cards = self.window.workshop.cards()
        self.assertGreater(len(cards), 20)
        for card in cards:
            self.window.open_job(card.job_id)
            self.until(lambda: self.page.settled)
            self.window.go_back()
        self.assertEqual(children(), set())
        self.assertFalse(list(Path("/tmp").glob("evil-*")))

    def around(self) -> list[str]:
        """What stands about, but for the workshop's own files."""
        everything = (*self.folder.iterdir(), *(self.folder / "hostile").iterdir())
        return sorted(str(one) for one in everything if not one.name.startswith("w.violet"))

    def test_each_bundle_is_taken_or_refused_in_one_sentence(self) -> None:
        for one in files.bundles():
            moved = all_in(self.window.workshop.path, (self.put(one),), STATIONS, SilentTask())
            self.assertEqual(moved.count + len(moved.refused), 1, one[0])
            for sentence in moved.refused:
                self.assertNotRegex(sentence, r"Traceback|Error\b|\n|0x[0-9a-f]{6}")
                self.assertLess(len(sentence), 600)

    def test_circuits_tables_and_media(self) -> None:
        self.assertEqual(len(list(files.circuits())), files.CIRCUITS)
        readers = (
            (files.circuits(), lambda data: circuit_from(circuit_text(data, "x.cir"))), (files.tables(), read_readings),
            (files.media(), lambda data: check_photo(data, "x.png")),
        )  # fmt: skip
        for drawn, read in readers:
            for name, data in drawn:
                try:
                    read(data)
                except InvalidInput as error:
                    self.assertIn("expected", str(error), name)
                except VioletDialError as error:
                    self.assertTrue(str(error), name)
        self.assertEqual(children(), set())

    @classmethod
    def tearDownClass(cls) -> None:
        DECODER.close()


class Peers(unittest.TestCase):
    def test_no_peer_holds_or_hurries_a_link(self) -> None:
        speaks = ("SCPI multimeter", "lines of text", "SCPI light meter")
        for number in range(PEERS):
            with self.subTest(number), peer(number) as address:
                link = Link(Kept("odd", address, speaks[number % len(speaks)]), 0.02)
                link.start()
                time.sleep(0.25)
                link.close()
                status = link.status
                self.assertLess(status.failures, 6, "it backs off")
                for sample in link.drain():
                    self.assertIsInstance(sample.value, float)

    def test_a_bad_figure_after_a_good_greeting_is_not_tried_18_times_a_second(self) -> None:
        with peer(5) as address:
            link = Link(Kept("odd", address, "SCPI multimeter"), 0.02)
            link.start()
            time.sleep(3.0)
            failures = link.status.failures
            link.close()
        self.assertLess(failures, 6)
        self.assertGreater(failures, 0)

    def test_a_byte_now_and_then_ends_in_bounded_time(self) -> None:
        with peer(2) as address:
            link = Link(Kept("slow", address, "lines of text"), 0.02)
            began = time.monotonic()
            link.start()
            while link.status.failures == 0 and time.monotonic() - began < 20:
                time.sleep(0.02)
            self.assertLess(time.monotonic() - began, 15)
            self.assertGreater(link.status.failures, 0)
            link.close()


if __name__ == "__main__":
    unittest.main()
