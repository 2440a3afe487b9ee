"""In a station only its page and views know Qt: everything it is described by, its commands and its demo run where Qt cannot be
loaded. Derived from what the stations name, not from a list."""

import ast
import subprocess
import sys
import unittest
from pathlib import Path

STATIONS = Path(__file__).resolve().parents[2] / "src" / "violet_dial" / "stations"
SCRIPT = """
import sys
sys.modules["PySide6"] = None  # an import of it fails
import importlib, tempfile
from pathlib import Path
from violet_dial.practise import PRACTICE_LINE
for name in sys.argv[1:]:
    importlib.import_module(name)
assert len({station.name for station in PRACTICE_LINE}) == 9
print(len(sys.argv) - 1)
"""


def knows_qt(path: Path) -> bool:
    """Whether a module imports Qt, or what every page is made of."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    names = [node.module or "" for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)]
    return any(name.startswith("PySide6") for name in names)


class WithoutQt(unittest.TestCase):
    def test_all_but_pages_and_views_run_without_it(self) -> None:
        """Every module that does not import Qt itself is imported with Qt out of reach: none gets to it by another."""
        every = [*sorted(STATIONS.rglob("*.py")), *sorted((STATIONS.parent / "practise").rglob("*.py"))]
        plain, pages = ([path for path in every if knows_qt(path) is knows] for knows in (False, True))
        faces = {"__init__", "acts", "state", "sum", "paper", "table", "demo", "check"}
        self.assertEqual([str(path) for path in pages if path.stem in faces or path.stem.endswith(("_acts", "_state"))], [])
        roots = [path for path in plain if path.stem in faces or path.stem.endswith(("_acts", "_state"))]
        names = [".".join(("violet_dial", *path.relative_to(STATIONS.parent).with_suffix("").parts)) for path in roots]
        self.assertGreater(len(names), 60)
        done = subprocess.run([sys.executable, "-c", SCRIPT, *names], capture_output=True, text=True, check=False, timeout=120)
        self.assertEqual((done.returncode, done.stdout.strip()), (0, str(len(names))), done.stderr[-2000:])


if __name__ == "__main__":
    unittest.main()
