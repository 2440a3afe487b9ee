"""Evidence in and out as CSV: test, plus, minus, value, unit, setting; uncertainty and sister unit where there are any. Also
the map on paper and in a zip of its own.
"""

import csv
import io
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import get_args

from violet_dial.core.circuit.netlist import Circuit, node_key
from violet_dial.core.circuit.text import circuit_text
from violet_dial.core.circuit.trade import switches_of, usual_setting
from violet_dial.core.diagnosis.evidence import TEST_UNITS, THIRD, evidence_words, read_figure, said_light, with_supply_off
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board, Ground, key_of
from violet_dial.core.quantities import parse_number
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence, Setting, TestKind
from violet_dial.core.units import PREFIXES, WRITTEN, is_overload, prefixed_unit
from violet_dial.job.act import Act
from violet_dial.job.csv_text import Cells, Names, RejectedRow, defused, table_of
from violet_dial.job.document import Job
from violet_dial.job.map_file import read_map, read_map_zip, write_map, write_map_zip
from violet_dial.services.circuits import circuit_of, circuit_text_of
from violet_dial.services.photos import LARGE, CheckedPhoto, check_photo, thumbnail
from violet_dial.services.station import MOST_LISTED, FileIn, FileOut, Listing, rejected_said, rejected_section
from violet_dial.stations.trace.acts import add_evidence, choose_circuit
from violet_dial.stations.trace.map_acts import board_of, drawing_of, take_map
from violet_dial.stations.trace.map_paper import PhotoPage, circuit_svg, laid_picture, photo_svg, poster_pdf


def photo_page(board: Board, ground: Ground, content: bytes) -> PhotoPage:
    """A photo as it lies, with what is on it. Raises InvalidInput: it cannot be opened."""
    at = {key_of(spot.name): (pin.x, pin.y) for spot in board.spots for pin in spot.pins if pin.photo == ground.photo}
    spots = tuple((spot.name, *at[key_of(spot.name)]) for spot in board.spots if key_of(spot.name) in at)
    joins = []
    for item in board.items:
        here = [at[key_of(spot)] for spot in item.spots if key_of(spot) in at]
        if item.is_lead and len(here) == 2:
            joins.append((here[0], here[1], item.how == "measured"))
    picture = laid_picture(thumbnail(content, LARGE), ground.turned, ground.mirrored)
    return PhotoPage(ground.name, picture, spots, tuple(joins))


def _pages(job: Job, board: Board, photos: Mapping[str, bytes]) -> tuple[PhotoPage, ...]:
    return tuple(photo_page(board, ground, photos[ground.photo]) for ground in board.grounds if ground.photo in photos)


def poster(job: Job, name: str, photos: Mapping[str, bytes]) -> bytes:
    """The map as a poster: photos with their spots, the drawing over as many pages as it takes."""
    return poster_pdf(f"{job.device.name or 'Map'} · job {job.label}", drawing_of(job), _pages(job, board_of(job), photos))


def map_zip(job: Job, name: str, photos: Mapping[str, bytes]) -> bytes:
    """The map as a zip: JSON and SPICE text to be read again, photos, SVG and PDF to be looked at."""
    board = board_of(job)
    pages = _pages(job, board, photos)
    members = {"circuit.cir": circuit_text_of(job).encode(), "drawing.svg": circuit_svg(drawing_of(job))}
    members |= {f"photo-{n}.svg": photo_svg(page) for n, page in enumerate(pages, start=1)}
    members["poster.pdf"] = poster_pdf(f"{job.device.name or 'Map'} · job {job.label}", drawing_of(job), pages)
    lying = {ground.photo for ground in board.grounds}
    return write_map_zip(board, members, {key: content for key, content in photos.items() if key in lying})


def photos_in(name: str, data: bytes) -> tuple[CheckedPhoto, ...]:
    """The photos of a map in a zip, checked; none of other files.

    Raises InvalidInput: the zip cannot be read, or one is no photo.
    """
    if not name.lower().endswith(".zip"):
        return ()
    board, photos = read_map_zip(data)
    names = {ground.photo: ground.name for ground in board.grounds}
    return tuple(check_photo(content, f"{names[key]}", names[key]) for key, content in photos.items())


REQUIRED = ("test", "plus", "value")
OPTIONAL = ("minus", "unit", "setting", "uncertainty", "sister")
_TESTS: tuple[TestKind, ...] = get_args(TestKind)


@dataclass(frozen=True)
class EvidenceResult:
    """What a CSV holds: evidence offered, rows rejected with reasons (all counted)."""

    evidence: tuple[Evidence, ...]
    rejected: tuple[RejectedRow, ...]
    rejected_count: int


def read_evidence(data: bytes, circuit: Circuit) -> EvidenceResult:
    """Evidence from the bytes of a CSV file; names are the circuit's own.

    Raises InvalidInput: not text, too large, no header row, or a required column missing.
    """
    table = table_of(data, "Evidence file", Names(REQUIRED, OPTIONAL))
    offered = table.offer(lambda cell: _evidence(cell, circuit))
    return EvidenceResult(offered.found, offered.rejected, offered.rejected_count)


def _evidence(cell: Cells, circuit: Circuit) -> Evidence:
    said = cell("test").lower()
    if said not in _TESTS:
        raise InvalidInput("test", cell("test"), f"one of {', '.join(_TESTS)}")
    test: TestKind = said
    setting = setting_from(cell("setting"), circuit)
    value = _value(test, cell("value"), cell("unit"))
    u = abs(_value(test, cell("uncertainty"), cell("unit"))) if cell("uncertainty") else 0.0
    sister = cell("sister").lower() in ("yes", "y", "1", "true", "third")
    note = THIRD if cell("sister").lower() == "third" else ""
    if test in ("seen", "amp", "capacitance", "time"):
        part = circuit.part(cell("plus")).name
        return Evidence(test, value, part=part, setting=setting, sister=sister, note=note, u=u)
    if test == "wakes":
        return Evidence(test, value, setting=setting, sister=sister, note=note)
    plus, minus = node_key(cell("plus")), node_key(cell("minus") or "0")
    for node in (plus, minus):
        if node not in {*circuit.nodes, "0"}:
            raise InvalidInput("point", node, f"one of gnd, {', '.join(circuit.nodes[:30])}")
    if test in ("ohm", "continuity"):
        setting = with_supply_off(setting, "supply=" in cell("setting").replace(" ", "").lower())
    return Evidence(test, value, plus, minus, setting=setting, sister=sister, note=note, u=u)


def write_evidence(evidence: Iterable[Evidence]) -> str:
    """Evidence as CSV text with the columns `read_evidence` knows, figures in plain units."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("test", "plus", "minus", "value", "unit", "setting", "uncertainty", "sister"))
    for piece in evidence:
        minus = "" if piece.part else "gnd" if piece.minus == "0" else piece.minus
        value = "OL" if piece.test == "ohm" and piece.value >= OVERLOAD_OHM else repr(piece.value)
        texts = (piece.test, defused(piece.part or piece.plus), defused(minus), value, _unit_of(piece.test))
        more = (repr(piece.u) if piece.u else "", ("third" if piece.note == THIRD else "yes") if piece.sister else "")
        writer.writerow((*texts, defused(setting_text(piece.setting)), *more))
    return out.getvalue()


def _unit_of(test: TestKind) -> str:
    unit = TEST_UNITS.get(test)
    return WRITTEN.get(unit, unit) if unit else ""


def setting_text(setting: Setting) -> str:
    """How the device stood, as `setting_from` reads it."""
    pairs = [f"{name}={position}" for name, position in setting.switches]
    by = "" if setting.lit_by == "lux meter" else f" lx by the {setting.lit_by}"
    pairs += [f"supply={setting.supply}", *((f"light={setting.light_lx!r}{by}",) if setting.is_light_said else ())]
    if setting.disconnected:
        pairs.append(f"disconnected={'|'.join(setting.disconnected)}")
    return ";".join((*pairs, *(f"{name}=yes" for name in setting.state)))


def _value(test: TestKind, text: str, unit: str) -> float:
    """A value with its unit in its own column, beside the figure, or left out: then it is the test's own."""
    said = unit.strip()
    if not said:
        return read_figure(test, text)
    if test not in TEST_UNITS:
        raise InvalidInput("unit", unit, f"nothing: {test} has no unit")
    if test == "ohm" and is_overload(text):
        return OVERLOAD_OHM
    factor, meant = (PREFIXES[said], TEST_UNITS[test]) if said in PREFIXES else prefixed_unit(said)
    if meant != TEST_UNITS[test]:
        raise InvalidInput("unit", unit, f"{TEST_UNITS[test]}, with p, n, µ, m, k, M or G before it")
    return parse_number(text, "value") * factor


def setting_from(text: str, circuit: Circuit) -> Setting:
    """How the device stood: ``S1=on;supply=off;light=1000;disconnected=R1|R2;bent=yes``.

    Raises InvalidInput: a name that is no switch, or a value it cannot have.
    """
    setting = usual_setting(circuit)
    switches = switches_of(circuit)
    for pair in (part for part in text.split(";") if part.strip()):
        name, sign, value = (part.strip().lower() for part in pair.partition("="))
        if name == "supply" and value in ("battery", "bench", "off"):
            setting = replace(setting, supply=value)  # type: ignore[arg-type]
        elif name == "light" and (lit := said_light(value if "lx" in value else f"{value} lx", setting)) is not None:
            setting = lit
        elif name == "disconnected":
            setting = replace(setting, disconnected=tuple(circuit.part(part).name for part in value.split("|")))
        elif name in ("bent", "cold", "pressed"):
            setting = replace(setting, state=tuple(sorted({*setting.state, name})))
        elif sign and name in switches and value in switches[name].positions:
            setting = setting.with_switch(name, value)
        else:
            known = "; ".join(f"{switch.name}={'|'.join(switch.positions)}" for switch in switches.values())
            known = known or "no switch here"
            lights = "light=LX, light=LX lx by the room"
            raise InvalidInput("setting", pair, f"{known}; supply=battery|bench|off; {lights}; disconnected=PART")
    return setting


CIRCUIT_KINDS = "SPICE text (*.cir *.sp *.net *.txt)"
KINDS = f"{CIRCUIT_KINDS};;Evidence (*.csv);;Map (*.json);;Map with photos (*.zip)"
MOST_BYTES = 400_000_000  # of a map with its photos


def listing(name: str, read: EvidenceResult) -> Listing:
    """A file of evidence, said."""
    offered = tuple(evidence_words(piece) for piece in read.evidence[:MOST_LISTED])
    summary = f"{len(read.evidence)} pieces of evidence offered, {rejected_said(read.rejected_count)}"
    sections = (rejected_section(read.rejected), ("Offered", offered))
    return Listing(f"Evidence from {name}", summary, sections, len(read.evidence), "pieces")


def _offered(job: Job, name: str, data: bytes) -> tuple[Listing | None, Act]:
    """Evidence from a CSV is shown first; a circuit is taken at once (undo takes it back)."""
    stem, _, ending = name.rpartition(".")
    if ending.lower() == "csv":
        read = read_evidence(data, circuit_of(job))
        return listing(name, read), lambda one, at: add_evidence(one, read.evidence, name, at)
    if ending.lower() in ("json", "zip"):
        board = read_map(data) if ending.lower() == "json" else read_map_zip(data)[0]
        return None, lambda one, at: take_map(one, board, stem, at)
    text = circuit_text(data, name)
    return None, lambda one, at: choose_circuit(one, stem or name, text, at)


def _written(job: Job, name: str, part: object) -> bytes:
    if name.lower().endswith(".csv"):
        return write_evidence(taken.evidence for taken in job.tracing.now).encode()
    if name.lower().endswith(".json"):
        return write_map(board_of(job))
    return circuit_text_of(job).encode()


def _photos(name: str, data: bytes) -> tuple[CheckedPhoto, ...]:

    return photos_in(name, data)


def _zip(job: Job, name: str, photos: Mapping[str, bytes]) -> bytes:

    return map_zip(job, name, photos)


def _poster(job: Job, name: str, photos: Mapping[str, bytes]) -> bytes:

    return poster(job, name, photos)


FILE_IN = FileIn("A circuit as SPICE text, evidence from a CSV, or a map", KINDS, _offered, photos=_photos, most_bytes=MOST_BYTES)
FILE_OUT = FileOut(
    "Write the circuit, the evidence as CSV, or the map", KINDS, lambda job: f"job-{job.label}.cir", _written, {".zip": _zip}
)
PRINT_OUT = FileOut("The map as a poster", "PDF (*.pdf)", lambda job: f"job-{job.label}-map.pdf", _written, {".pdf": _poster})
