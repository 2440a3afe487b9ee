"""Setting up on desks that lack something: a PATH of stand-ins, an ordinary user, environments half made or moved."""

import os
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LIBRARIES = [
    line.split() for line in (ROOT / "scripts" / "set-up.sh").read_text().splitlines() if line.startswith("lib") and ".so" in line
]  # fmt: skip
PROGRAMS = ("ngspice", "Xvfb", "openbox", "xdotool", "xwd")
TOOLS = (
    "sh",
    "cp",
    "cat",
    "rm",
    "mkdir",
    "touch",
    "uname",
    "test",
    "dirname",
    "pwd",
    "sed",
    "install",
    "mv",
    "chmod",
    "env",
    "true",
)
PYTHON = """#!/bin/sh
case "$*" in
*ensurepip*) exit {ensurepip} ;;
*version_info*) exit {version} ;;
"-m venv "*) [ {venv} = 0 ] || exit 1; mkdir -p "$3/bin"; cp "$0" "$3/bin/python" ;;
"-m pip --version") exit 0 ;;
"-m pip install "*) echo "$*" >>pip-was-asked; exit {pip} ;;
esac
"""


class Desk(unittest.TestCase):
    """A folder with the project's files and a PATH of stand-ins alone."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.here = Path(folder.name) / "project"
        self.bin = Path(folder.name) / "bin"
        (self.here / "scripts").mkdir(parents=True)
        self.bin.mkdir()
        for name in ("scripts/set-up.sh", "pyproject.toml", "constraints.txt"):
            shutil.copy(ROOT / name, self.here / name)
        for tool in TOOLS:
            found = shutil.which(tool)
            if found:
                (self.bin / tool).symlink_to(found)
        self.stand_in("id", "#!/bin/sh\necho 1000\n")
        self.has("python", "libraries", "programs")

    def stand_in(self, name: str, text: str) -> None:
        (self.bin / name).unlink(missing_ok=True)
        (self.bin / name).write_text(text)
        (self.bin / name).chmod(0o755)

    def has(self, *what: str, **fails: int) -> None:
        for name in ("python3", "ldconfig", *PROGRAMS):
            (self.bin / name).unlink(missing_ok=True)
        if "python" in what:
            values = {"ensurepip": 0, "version": 0, "venv": 0, "pip": 0, **fails}
            self.stand_in("python3", PYTHON.format(**values))
        if "libraries" in what:
            lines = "\n".join(f"echo '{name} => /lib/{name}'" for name, _ in LIBRARIES)
            self.stand_in("ldconfig", f"#!/bin/sh\n{lines}\n")
        else:
            self.stand_in("ldconfig", "#!/bin/sh\n")
        for name in PROGRAMS if "programs" in what else ():
            self.stand_in(name, "#!/bin/sh\n")

    def set_up(self, extra: str = "") -> tuple[int, str]:
        script = f'. scripts/set-up.sh; set_up "{extra}"; echo ready'
        done = subprocess.run(
            [str(self.bin / "sh"), "-c", script], cwd=self.here, env={"PATH": str(self.bin), "HOME": str(self.here)},
            capture_output=True, text=True, timeout=60, check=False,
        )  # fmt: skip
        return done.returncode, done.stdout + done.stderr

    def test_all_that_is_missing_is_one_line(self) -> None:
        self.has()
        for extra, words in (("", ("python3 python3-venv", "libgl1", "libwayland-egl1")), ("test", ("ngspice", "xvfb"))):
            status, said = self.set_up(extra)
            self.assertEqual((status, said.count("\n")), (1, 1), said)
            for word in words:
                self.assertIn(word, said)
            self.assertIn("apt-get install", said)
        self.assertFalse((self.here / ".venv").exists())

    def test_python_without_venv_leaves_nothing_half_made(self) -> None:
        self.has("python", "libraries", "programs", ensurepip=1)
        status, said = self.set_up()
        self.assertEqual((status, said.strip()[-12:]), (1, "python3-venv"))
        self.has("python", "libraries", "programs", venv=1)
        status, said = self.set_up()
        self.assertEqual(status, 1)
        self.assertFalse((self.here / ".venv").exists())
        self.has("python", "libraries", "programs")
        self.assertEqual(self.set_up()[0], 0)

    def test_set_up_once(self) -> None:
        for _ in range(2):
            status, said = self.set_up("test")
            self.assertEqual(status, 0, said)
        asked = (self.here / "pip-was-asked").read_text()
        self.assertEqual(asked.count("install"), 1)
        self.assertIn("-e .[test]", asked)

    def test_half_made_moved_and_of_a_python_that_is_gone(self) -> None:
        self.set_up()
        for hurt in ("half made", "moved", "python gone"):
            with self.subTest(hurt):
                (self.here / "pip-was-asked").unlink()
                if hurt == "half made":
                    (self.here / ".venv" / ".made-in").unlink()
                elif hurt == "moved":
                    moved = self.here.with_name("elsewhere")
                    self.here.rename(moved)
                    self.here = moved
                else:
                    (self.here / ".venv" / "bin" / "python").unlink()
                status, said = self.set_up()
                self.assertEqual(status, 0, said)
                self.assertTrue((self.here / "pip-was-asked").exists(), "made anew")
                self.assertEqual((self.here / ".venv" / ".made-in").read_text().strip(), str(self.here))

    def test_no_index_is_a_sentence_and_tried_again_next_time(self) -> None:
        self.has("python", "libraries", "programs", pip=1)
        status, said = self.set_up()
        self.assertEqual(status, 1)
        self.assertIn("is the package index reachable?", said)
        shutil.rmtree(self.here / ".venv")
        self.has("python", "libraries", "programs")
        self.assertEqual(self.set_up()[0], 0)


class Packaging(unittest.TestCase):
    def test_installed_and_removed_for_one_person(self) -> None:
        """With the environment of a stand-in: what is put where, that jobs stay, and that nothing else is left."""
        with tempfile.TemporaryDirectory() as name:
            home, bin_ = Path(name) / "home of one", Path(name) / "bin"
            bin_.mkdir()
            home.mkdir()
            jobs = home / ".local" / "share" / "violet-dial" / "workshop.violet"
            jobs.parent.mkdir(parents=True)
            jobs.write_bytes(b"jobs")
            for python in ("python3.11", "python3.12", "python3.13", "python3"):
                (bin_ / python).write_text(
                    PYTHON.format(ensurepip=0, version=0, venv=0, pip=0).replace("pip-was-asked", "/dev/null")
                )
                (bin_ / python).chmod(0o755)
            environment = {**os.environ, "HOME": str(home), "PATH": f"{bin_}:{os.environ['PATH']}", "XDG_DATA_HOME": ""}
            for _ in range(2):  # again: an upgrade
                done = subprocess.run(
                    [ROOT / "packaging" / "install"], env=environment, capture_output=True, text=True, check=False
                )
                self.assertEqual(done.returncode, 0, done.stderr)
            entry = (home / ".local/share/applications/io.github.violet_dial.VioletDial.desktop").read_text()
            self.assertIn(f'Exec="{home}/.local/bin/violet-dial" %f', entry)
            self.assertIn("application/x-violet-dial-workshop", entry)
            self.assertTrue(os.access(home / ".local/bin/violet-dial", os.X_OK))
            subprocess.run([ROOT / "packaging" / "remove"], env=environment, capture_output=True, check=True)
            left = [
                one
                for one in (home / ".local").rglob("*")
                if one.is_file() and "mime" not in one.parts and one.name != "mimeinfo.cache"
            ]
            self.assertEqual(left, [jobs])


if __name__ == "__main__":
    unittest.main()
