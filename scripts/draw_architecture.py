"""Draws the rooms and the imports between them into docs/architecture.md, from the imports themselves.

draw_architecture.py           writes the drawing anew
draw_architecture.py --check   says whether it is as it would be drawn
"""

import sys
from pathlib import Path

import grimp

ROOT = Path(__file__).resolve().parent.parent
DOCUMENT = ROOT / "docs" / "architecture.md"
BEGIN, END = "<!-- drawn by scripts/draw_architecture.py -->", "<!-- end of the drawing -->"
PACKAGE = "violet_dial"


def rooms(graph: grimp.ImportGraph) -> list[str]:
    """The packages right under the root."""
    return sorted(one for one in graph.find_children(PACKAGE) if graph.find_children(one))


def drawing() -> str:
    """The drawing as Mermaid: an arrow for each room that imports another, with how many of its modules do."""
    graph = grimp.build_graph(PACKAGE)
    names = rooms(graph)
    lines = ["```mermaid", "flowchart TD"]
    lines += [f"    {name.removeprefix(f'{PACKAGE}.')}" for name in names]
    for importer in names:
        for imported in names:
            count = _importers(graph, importer, imported) if importer != imported else 0
            if count:
                lines.append(f"    {importer.rpartition('.')[2]} -->|{count}| {imported.rpartition('.')[2]}")
    return "\n".join([*lines, "```"])


def _importers(graph: grimp.ImportGraph, importer: str, imported: str) -> int:
    """How many modules of one room import something of another."""
    inner = {imported, *graph.find_descendants(imported)}
    outer = {importer, *graph.find_descendants(importer)}
    return sum(bool(graph.find_modules_directly_imported_by(one) & inner) for one in outer)


def main(arguments: list[str]) -> int:
    """Write or check; 1 when the drawing is not as it would be drawn."""
    text = DOCUMENT.read_text(encoding="utf-8")
    before, rest = text.split(BEGIN)
    _, after = rest.split(END)
    wanted = f"{before}{BEGIN}\n\n{drawing()}\n\n{END}{after}"
    if "--check" in arguments:
        if text != wanted:
            print("docs/architecture.md: the drawing is out of date; run .venv/bin/python scripts/draw_architecture.py")
        return int(text != wanted)
    DOCUMENT.write_text(wanted, encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
