"""The command without a window, as a real process and in place."""

import contextlib
import io
import json
import os
import re
import signal
import socket
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import violet_dial
from tests.workshops import open_workshop
from violet_dial.cli.main import main
from violet_dial.stations import STATIONS, commands_of
from violet_dial.stations.light.acts import TypedReading, take_typed

ROWS = "reference_ev100;indicated_ev100;direction\n" + "\n".join(f"{ev};{ev},68;rising" for ev in range(5, 16))


class Command(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def run_main(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main(arguments)
        return status, out.getvalue(), err.getvalue()

    def write(self, name: str, text: str) -> str:
        (self.folder / name).write_text(text)
        return str(self.folder / name)

    def test_a_command_loads_its_own_station_and_no_other(self) -> None:
        """What each station brings is written down twice: at the station, and where commands are looked for."""
        for station in STATIONS:
            for command in station.commands:
                self.assertEqual(commands_of(command.name), station.commands)

    def test_every_command_tells_how_it_is_used(self) -> None:
        whole = self.run_main("--help")[1]
        names = re.findall(r"^    (\w+) ", whole, re.MULTILINE)
        self.assertGreater(len(names), 20)
        for name in names:
            with self.subTest(name):
                status, out, error = self.run_main(name, "--help")
                self.assertEqual((status, error), (0, ""))
                self.assertNotRegex(out, r"\{[A-Z_]+\}")

    def test_check_as_a_process(self) -> None:
        path = self.write("r.csv", ROWS)
        command = [
            sys.executable,
            "-m",
            "violet_dial.cli.main",
            "check",
            path,
            "--json",
            "--tolerance",
            "0,4",
            "--u-reading",
            "0.1",
        ]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        found = json.loads(done.stdout)
        self.assertEqual((found["verdict"], found["model"]["kind"]), ("adjust", "even"))
        self.assertAlmostEqual(found["readings"][5]["tolerance_stops"], 0.4)
        self.assertAlmostEqual(found["readings"][5]["expanded_uncertainty_stops"], 2 * (0.05**2 + 0.1**2) ** 0.5, places=5)

    def test_what_cannot_be_read_is_one_line_and_two(self) -> None:
        bad = (
            ("check", str(self.folder / "missing.csv")),
            ("check", str(self.folder)),
            ("check", self.write("a.csv", "")),
            ("check", self.write("b.csv", "x,y\n1,2\n")),
            ("check", self.write("c.csv", ROWS), "--tolerance", "1,234"),
            ("light", "12"),
            ("light", "EV 12", "--iso", "fast"),
            ("sheet", self.write("d.zip", "no zip"), "-o", str(self.folder / "o.pdf")),
        )
        for arguments in bad:
            with self.subTest(arguments):
                status, out, err = self.run_main(*arguments)
                self.assertEqual((status, out, err.count("\n")), (2, "", 1))
                self.assertIn("expected", err)

    def test_a_wrong_word_is_one_line_and_two(self) -> None:
        for words in (("practise", "--bogus"), ("nothing",), ("sheet",), ("trim", "a.csv", "b.csv")):
            with self.subTest(words):
                status, out, err = self.run_main(*words)
                self.assertEqual((status, out, err.count("\n")), (2, "", 1))
                self.assertIn("--help", err)

    def test_light(self) -> None:
        status, out, _ = self.run_main("light", "10 240 lx", "--iso", "400", "--json")
        found = json.loads(out)
        self.assertEqual(status, 0)
        self.assertAlmostEqual(found["ev100"], 12.0)
        self.assertAlmostEqual(found["ev"], 14.0)
        self.assertAlmostEqual(found["luminance_cd_m2"], 512.0)
        self.assertIn("EV100 12.00", self.run_main("light", "f/8 1/60")[1])

    def test_sheet_from_a_bundle(self) -> None:
        bench = open_workshop(self.folder / "w.violet")
        job_id = bench.new_job().job.job_id
        bench.perform(job_id, lambda job, at: take_typed(job, TypedReading("8", "8.6"), at))
        bundle = self.folder / "b.zip"
        bundle.write_bytes(bench.export_bundle(job_id))
        bench.close()
        for name, start in (("o.pdf", b"%PDF"), ("o.html", b"<!DOCTYPE html>")):
            self.assertEqual(self.run_main("sheet", str(bundle), "-o", str(self.folder / name))[0], 0)
            self.assertTrue((self.folder / name).read_bytes().startswith(start))
        self.assertEqual(self.run_main("sheet", str(bundle), "-o", str(self.folder / "o.docx"))[0], 2)

    def test_the_simulated_bench_serves_until_interrupted(self) -> None:
        circuit = Path(violet_dial.__file__).parent / "assets" / "circuits" / "cds-series.cir"
        command = [sys.executable, "-m", "violet_dial.cli.main", "bench", "--circuit", str(circuit)]
        command += ["--fault", "Rwred:open", "--port", "0"]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
            assert process.stdout is not None
            said = process.stdout.readline()
            host, port = said.split()[0].split(":")
            self.assertEqual(host, "127.0.0.1")
            self.assertIn(f"TCPIP::127.0.0.1::{port}::SOCKET", said)
            with socket.create_connection((host, int(port)), timeout=5) as link:
                link.sendall(b"*IDN?\n")
                self.assertIn(b"Simulated bench", link.recv(200))
            process.send_signal(signal.SIGINT)
            self.assertEqual(process.wait(10), 0)

    def test_a_simulated_bench_that_cannot_be(self) -> None:
        circuit = Path(violet_dial.__file__).parent / "assets" / "circuits" / "cds-series.cir"
        for fault, word in (("Rwred:melted", "one of: open"), ("R99:open", "can fail: ")):
            status, _, said = self.run_main("bench", "--circuit", str(circuit), "--fault", fault)
            self.assertEqual(status, 2)
            self.assertIn(word, said)

    def test_without_a_display_it_says_so(self) -> None:
        clean = {key: value for key, value in os.environ.items() if key not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        command = [sys.executable, "-m", "violet_dial.cli.main", "--workshop", str(self.folder / "w.violet")]
        done = subprocess.run(command, capture_output=True, text=True, env=clean, check=False)
        self.assertEqual(done.returncode, 2)
        self.assertIn("--shots", done.stderr)
