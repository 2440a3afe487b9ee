"""A trace fetched from an oscilloscope: the simulated one, one with a block head, and ones that answer with something else."""

import socketserver
import threading
import unittest

import numpy as np

from violet_dial.core.errors import BadAnswer, InstrumentError
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.scope import fetch
from violet_dial.instruments.simulated.bench import SimulatedBench
from violet_dial.instruments.simulated.device import DeviceUnderTest, hidden_fault
from violet_dial.instruments.simulated.server import BenchServer
from violet_dial.services.circuits import circuit_from, templates

CIRCUIT = circuit_from(next(one.text for one in templates() if one.stem == "regulator-clock"))


class Simulated(unittest.TestCase):
    def at(self, fault: str) -> np.ndarray:
        device = DeviceUnderTest(CIRCUIT, hidden_fault(CIRCUIT, fault) if fault else None)
        bench = SimulatedBench(device)
        server = BenchServer(bench)
        server.start()
        self.addCleanup(server.close)
        bench.put(("vreg", "0"))
        volts, rate_hz = fetch(Kept("scope", server.address))
        self.assertAlmostEqual(rate_hz, 20_000, delta=1)
        return volts

    def test_still_and_swinging(self) -> None:
        self.assertLess(np.ptp(self.at("")), 0.05)
        self.assertGreater(np.ptp(self.at("Cstab:open")), 0.8)


class Script(unittest.TestCase):
    def serve(self, answers: dict[str, str]) -> Kept:
        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                for line in self.rfile:
                    said = line.decode().strip()
                    if said in answers:
                        self.wfile.write((answers[said] + "\n").encode())

        server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), Handler)
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        return Kept("scope", f"TCPIP0::127.0.0.1::{server.server_address[1]}::SOCKET")

    def test_a_block_head_is_read_over(self) -> None:
        figures = ",".join(["1.5"] * 20)
        kept = self.serve({":WAV:XINC?": "1E-3", ":WAV:DATA?": f"#3{len(figures):03d}{figures}"})
        volts, rate_hz = fetch(kept)
        self.assertEqual((len(volts), float(volts[0]), rate_hz), (20, 1.5, 1000.0))

    def test_other_answers_are_named(self) -> None:
        for answers in (
            {":WAV:XINC?": "1E-3", ":WAV:DATA?": "hello"}, {":WAV:XINC?": "1E-3", ":WAV:DATA?": "1,2"},
            {":WAV:XINC?": "wide", ":WAV:DATA?": "1"}, {":WAV:XINC?": "-1", ":WAV:DATA?": ",".join(["1"] * 20)},
        ):  # fmt: skip
            with self.subTest(answers=str(answers)[:60]), self.assertRaises(BadAnswer):
                fetch(self.serve(answers))
        with self.assertRaises(InstrumentError):
            fetch(Kept("scope", "TCPIP0::127.0.0.1::1::SOCKET"))


if __name__ == "__main__":
    unittest.main()
