"""What the documents for newcomers say is there is there, and the drawing is of the imports as they are."""

import re
import subprocess
import sys
import unittest
from pathlib import Path

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.errors import InvalidInput
from violet_dial.services.circuits import circuit_from, templates

ROOT = Path(__file__).resolve().parent.parent
PACKAGE = ROOT / "src" / "violet_dial"
CHANGES = (  # what a newcomer is asked to change, and a word of the row that says where
    "unit", "meter error", "fault mode", "part in a circuit", "speak with instruments", "column of a CSV", "caution",
    "what Next says", "colour", "undo", "field on the sheet", "field of a job", "a key",
)  # fmt: skip


def paths_in(text: str) -> list[str]:
    """Paths named in backticks; NAME stands for any station."""
    named = re.findall(r"`([a-zA-Z_./]+/[a-zA-Z_./]*)`", text)
    return [one.replace("NAME", "light") for one in named if not one.startswith((".", "XDG"))]


class Documents(unittest.TestCase):
    def test_every_path_named_for_newcomers_is_there(self) -> None:
        for document in ("CONTRIBUTING.md", "docs/architecture.md", *(f"docs/decisions/{p.name}" for p in self.decisions())):
            for path in paths_in((ROOT / document).read_text(encoding="utf-8")):
                with self.subTest(document=document, path=path):
                    self.assertTrue(any((base / path).exists() for base in (ROOT, PACKAGE)))

    def decisions(self) -> list[Path]:
        return sorted((ROOT / "docs" / "decisions").glob("*.md"))

    def test_links_lead_somewhere(self) -> None:
        for document in (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").glob("*.md"))):
            for link in re.findall(r"\]\(([^)#:]+)\)", document.read_text(encoding="utf-8")):
                with self.subTest(document=document.name, link=link):
                    self.assertTrue((document.parent / link).exists())

    def test_evidence_shown_in_the_guide_is_understood_by_a_circuit_that_ships(self) -> None:
        text = (ROOT / "docs" / "guide.md").read_text(encoding="utf-8")
        said = text[text.index("**Evidence**") : text.index("**Suspects**")]
        circuits = [circuit_from(one.text) for one in templates()]
        examples = re.findall(r"`([^`]+)`", said)
        self.assertGreater(len(examples), 12)
        for example in examples:
            with self.subTest(example):
                self.assertTrue(any(self.understood(circuit, example) for circuit in circuits))

    @staticmethod
    def understood(circuit: Circuit, text: str) -> bool:
        try:
            understand_evidence(circuit, text, usual_setting(circuit))
        except InvalidInput:
            return False
        return True

    def test_a_refusal_lists_the_words_there_are(self) -> None:
        circuit = next(circuit_from(one.text) for one in templates() if one.stem == "cds-series")
        for text, words in (("nonsense", ("refit", "straight", "red wire", "S1 off|on")), ("R9 12 uA", ("CdS cell (Rcds)",))):
            with self.assertRaises(InvalidInput) as caught:
                understand_evidence(circuit, text, usual_setting(circuit))
            for word in words:
                self.assertIn(word, str(caught.exception))

    def test_where_each_change_belongs_is_said(self) -> None:
        table = (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8").split("## Where is what")[1].split("##")[0]
        for change in CHANGES:
            with self.subTest(change):
                self.assertTrue(any(change in row.split("|")[1] for row in table.splitlines() if row.count("|") >= 3))

    def test_the_drawing_is_of_the_imports_as_they_are(self) -> None:
        done = subprocess.run(
            [sys.executable, str(ROOT / "scripts" / "draw_architecture.py"), "--check"],
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual((done.returncode, done.stdout), (0, ""), done.stdout + done.stderr)


if __name__ == "__main__":
    unittest.main()
