"""What the documents for newcomers say is there is there, and the drawing is of the imports as they are."""

import re
import subprocess
import sys
import unittest
from pathlib import Path

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
        for document in (
            "CONTRIBUTING.md",
            "docs/architecture.md",
            *(f"docs/decisions/{p.name}" for p in self.decisions()),
        ):
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
