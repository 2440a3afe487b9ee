"""The command line at its edges, as real processes: pipes, full disks, terminals, interrupts, files that are none; and what
the documents print is what is printed."""

import os
import re
import shlex
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import violet_dial
from tests.processes import plain_environment
from tests.workshops import open_workshop
from violet_dial.job.act import ActResult
from violet_dial.job.document import Device, Intake, Job
from violet_dial.stations.receive.acts import describe_device
from violet_dial.store.placing import PRIVATE_FILE

ROOT = Path(__file__).resolve().parent.parent.parent
CIRCUIT = Path(violet_dial.__file__).parent / "assets" / "circuits" / "cds-series.cir"
COMMAND = [sys.executable, "-m", "violet_dial.cli.main"]
DOCUMENTS = ("docs/formats.md",)


class Process(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.environment = {**plain_environment(), "HOME": str(self.folder), "QT_QPA_PLATFORM": "offscreen"}
        self.environment |= {f"XDG_{one}_HOME": str(self.folder / one) for one in ("DATA", "STATE", "CONFIG")}

    def run_it(self, *arguments: str, given: bytes = b"", **more: str) -> tuple[int, str, str]:
        done = subprocess.run(
            [*COMMAND, *arguments], input=given, capture_output=True, env={**self.environment, **more}, cwd=self.folder,
            timeout=60, check=False,
        )  # fmt: skip
        return done.returncode, done.stdout.decode("utf-8", "replace"), done.stderr.decode("utf-8", "replace")

    def in_shell(self, line: str, **more: str) -> tuple[int, str]:
        script = line.replace("violet-dial", shlex.join(COMMAND))
        done = subprocess.run(
            ["bash", "-o", "pipefail", "-c", script], capture_output=True, text=True, timeout=60, check=False,
            env={**self.environment, **more}, cwd=self.folder,
        )  # fmt: skip
        return done.returncode, done.stdout + done.stderr


class Edges(Process):
    def test_pipes_and_full_disks(self) -> None:
        for line, status in (
            ("violet-dial light 'EV 12' | head -c 1 >/dev/null", (0, 141)), ("violet-dial light 'EV 12' >&-", (0, 2)),
            ("violet-dial light 'EV 12' | true", (0, 141)), ("violet-dial light 'EV 12' >/dev/full", (2,)),
            (f"violet-dial op {shlex.quote(str(CIRCUIT))} --json >/dev/full", (2,)), ("violet-dial --help | head -n 1", (0, 141)),
        ):  # fmt: skip
            with self.subTest(line):
                found, said = self.in_shell(line)
                self.assertIn(found, status, said)
                self.assertNotIn("Traceback", said)
                self.assertNotIn("Exception ignored", said)

    def test_terminals_without_our_letters(self) -> None:
        for coding in ("ascii", "latin-1"):
            status, out, err = self.run_it("light", "EV 12", PYTHONIOENCODING=coding)
            self.assertEqual((status, err), (0, ""))
            self.assertRegex(out, r"512.000 cd/m")
        status, _, err = self.run_it("light", "12 ½Ω", LC_ALL="C", PYTHONIOENCODING="ascii")
        self.assertEqual((status, err.count("\n")), (2, 1))

    def until_it_waits(self, pid: int) -> None:
        """Until a process has used no time for a second, as one that reads its standard input."""
        used, since = -1, time.monotonic()
        while time.monotonic() - since < 1.0:
            now = sum(int(one) for one in Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[11:13])
            if now != used or now == 0:
                used, since = now, time.monotonic()
            time.sleep(0.05)

    def test_an_interrupt_is_130(self) -> None:
        with subprocess.Popen(
            [*COMMAND, "check", "-"], stdin=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=self.environment
        ) as waiting:
            self.until_it_waits(waiting.pid)
            waiting.send_signal(signal.SIGINT)
            _, said = waiting.communicate(timeout=60)
        self.assertEqual((waiting.returncode, said), (130, "violet-dial: interrupted\n"))

    def test_standard_input_and_what_was_rejected(self) -> None:
        rows = b"reference_ev100,indicated_ev100\n8,8.5\nsix,7\n9,9.5\n"
        status, out, err = self.run_it("check", "-", given=rows)
        self.assertEqual(status, 0)
        self.assertIn("line 3 was not used", err)
        self.assertTrue(out)
        status, out, err = self.run_it("trace", str(CIRCUIT), "--readings", "-", given=b"test,plus,value\nvolt,nowhere,1\n")
        self.assertEqual((status, out), (2, ""))
        self.assertIn("--readings", err)
        self.assertIn("line 2", err)

    def test_the_wrong_option_is_named(self) -> None:
        (self.folder / "r.csv").write_bytes(os.urandom(2000))
        before = (self.folder / "r.csv").read_bytes()
        for arguments, word in (
            (("--workshop", "r.csv"), "--workshop"), (("--workshop", "."), "not a folder"),
            (("--demo", "--workshop", "x.violet"), "--demo"), (("--shots", "r.csv"), "--shots"),
            (("--shots", "/proc/none"), "--shots"), (("bench", "--circuit", "none.cir"), "--circuit"),
            (("trace", str(CIRCUIT), "--readings", "none.csv"), "--readings"), (("doctor", "none.violet"), "Workshop"),
            (("--workshop", "none.violet", "backup"), "--workshop"), (("restore", "none"), "Backup"),
            (("check", "/dev/zero"), "plain file"), (("sheet", "r.csv", "-o", "x.doc"), "--output"),
        ):  # fmt: skip
            with self.subTest(arguments):
                status, out, err = self.run_it(*arguments)
                self.assertEqual((status, out, err.count("\n")), (2, "", 1), err)
                self.assertIn(word, err)
        self.assertEqual((self.folder / "r.csv").read_bytes(), before)
        self.assertEqual([one.name for one in self.folder.iterdir() if one.suffix == ".violet"], [])

    def test_no_window_to_be_had_is_one_sentence(self) -> None:
        homes: tuple[dict[str, str], ...] = (
            {},
            {"DISPLAY": ":77"},
            {"WAYLAND_DISPLAY": "wayland-77", "XDG_RUNTIME_DIR": str(self.folder)},
        )
        bare = {key: value for key, value in self.environment.items() if key not in ("QT_QPA_PLATFORM", "DISPLAY")}
        for more in homes:
            done = subprocess.run(
                COMMAND, env={**bare, **more}, capture_output=True, text=True, timeout=60, check=False, cwd=self.folder
            )
            self.assertEqual((done.returncode, done.stdout, done.stderr.count("\n")), (2, "", 1), done.stderr)
            self.assertIn("display", done.stderr)

    def test_a_home_that_cannot_be_written(self) -> None:
        nowhere = {f"XDG_{one}_HOME": "/proc/none" for one in ("DATA", "STATE", "CONFIG")}
        status, _, err = self.run_it("backup", given=b"", **nowhere)
        self.assertEqual((status, err.count("\n")), (2, 1))
        self.assertIn("--workshop FILE", err)


class Upkeep(Process):
    def test_backup_restore_and_doctor(self) -> None:
        path = self.folder / "w.violet"
        bench = open_workshop(path)
        bench.perform(bench.new_job().job.job_id, _named)
        self.assertIn("written", self.run_it("--workshop", str(path), "backup")[1])  # while it is open
        bench.close()
        self.assertEqual(self.run_it("doctor", str(path))[0], 0)
        whole = path.read_bytes()
        path.write_bytes(b"hurt" + whole[4:])
        status, out, _ = self.run_it("doctor", str(path))
        self.assertEqual(status, 2)
        self.assertIn("1 jobs", out)
        status, out, _ = self.run_it("doctor", str(path), "--salvage", "saved.violet")
        self.assertEqual(status, 0, out)
        saved = open_workshop(self.folder / "saved.violet")
        self.assertEqual([card.title for card in saved.cards()], ["Auk meter"])
        saved.close()
        self.assertIn("w.2", self.run_it("--workshop", str(path), "restore")[1])
        self.assertEqual(self.run_it("--workshop", str(path), "restore", "newest")[0], 0)
        self.assertEqual(path.stat().st_mode & 0o777, PRIVATE_FILE)
        again = open_workshop(path)
        self.assertEqual(len(again.cards()), 1)
        again.close()


def _named(job: Job, at: str) -> ActResult:
    return describe_device(job, Device("Auk meter"), Intake("dead"), at)


class Documented(Process):
    """What the documents show as typed at a prompt, run, and compared with what they show as printed."""

    def examples(self) -> list[tuple[str, str, str]]:
        found = []
        for document in DOCUMENTS:
            text = (ROOT / document).read_text(encoding="utf-8")
            for block in re.findall(r"```(?:console|text)?\n(.*?)```", text, re.DOTALL):
                for typed in re.split(r"^\$ ", block, flags=re.MULTILINE)[1:]:
                    line, _, printed = typed.partition("\n")
                    found.append((document, line, printed.strip()))
        return found

    def test_examples_print_what_is_shown(self) -> None:
        examples = self.examples()
        self.assertGreater(len(examples), 6)
        (self.folder / "cds-series.cir").write_bytes(CIRCUIT.read_bytes())
        for document, line, printed in examples:
            with self.subTest(f"{document}: {line}"):
                _, said = self.in_shell(line)
                self.assertEqual(said.strip(), printed)


if __name__ == "__main__":
    unittest.main()
