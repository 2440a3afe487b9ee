"""The core runs where no interface toolkit can be imported."""

import subprocess
import sys
import unittest

SCRIPT = """
import sys
class NoQt:
    def find_spec(self, name, path=None, target=None):
        if name.split('.')[0] in ('PySide6', 'sqlite3', 'pydantic'):
            raise ImportError(name + ' must not be needed by the core')
sys.meta_path.insert(0, NoQt())
from violet_dial.core.calibration.assess import CheckPlan, assess
from violet_dial.core.calibration.verdict import decide
from violet_dial.core.records.light import LightReading
readings = tuple(LightReading(float(ev), ev + 0.6) for ev in range(5, 16))
print(decide(assess(readings, CheckPlan())).kind)
"""


class CoreAlone(unittest.TestCase):
    def test_a_judgement_without_any_interface(self) -> None:
        done = subprocess.run([sys.executable, "-c", SCRIPT], capture_output=True, text=True, check=False)
        self.assertEqual(done.stderr, "")
        self.assertEqual(done.stdout.strip(), "adjust")
