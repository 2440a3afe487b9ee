"""Files at Power: cells of the bench's own and measured discharges in, all cells out as CSV, a cell that is due as iCalendar."""

import csv
import io
import math
from collections.abc import Iterable
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from itertools import groupby

import numpy as np

from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.power.cells import SIZES, Size
from violet_dial.core.power.measured import MeasuredCell, fit_discharge
from violet_dial.core.quantities import parse_number
from violet_dial.core.units import is_overload
from violet_dial.job.act import Act
from violet_dial.job.csv_text import Cells, Names, Offered, defused, table_of
from violet_dial.job.document import Job
from violet_dial.job.power import OwnCell
from violet_dial.services.station import FileIn, FileOut, Listing, rejected_said, rejected_section
from violet_dial.stations.power.acts import take_own_cells
from violet_dial.stations.power.bench import own_size, sizes_of

REQUIRED = ("cell", "charge_left", "volts", "ohm")
OPTIONAL = ("ah", "cells", "nominal_v", "v_per_c", "colder", "yearly_loss", "opened_weeks", "source")
CURVE = ("time", "volts", "load")
CURVE_OTHERS = {
    "time s": "time",
    "time h": "time",
    "hours": "time",
    "seconds": "time",
    "volt": "volts",
    "load ohm": "load",
    "ohm": "load",
}
KINDS = "Cells, or a discharge that was measured (*.csv *.txt *.tsv)"
CALENDAR_KINDS = "All cells as CSV (*.csv);;A cell that will be due (*.ics)"
MOST_NAME = 40
CURVE_POINTS = np.array([1.0, 0.95, 0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2, 0.1, 0.05, 0.0])


def read_cells(data: bytes, name: str) -> tuple[tuple[OwnCell, ...], Offered[tuple[str, dict[str, float], str]] | None, str]:
    """Cells from the bytes of a CSV: a table of their curves, or one discharge that was measured; and what is said of it.

    Raises InvalidInput, NotEnoughData: not such a table, or figures no cell has.
    """
    if _is_curve(data):
        measured = fit_of(data, name)
        return (own_of(measured.size),), None, measured.words
    table = table_of(data, "Cells", Names(REQUIRED, OPTIONAL))
    offered = table.offer(_point)
    try:
        cells = [_cell(called, list(rows)) for called, rows in groupby(offered.found, key=lambda row: row[0])]
    except VioletDialError as error:
        if not offered.rejected:
            raise
        first = offered.rejected[0]  # without the row that was refused the rest makes no cell: it is what is wrong
        raise InvalidInput("Cells", f"line {first.line}", f"rows that can be understood ({first.reason})") from error
    return tuple(cells), offered, f"{len(cells)} cells offered, {rejected_said(offered.rejected_count)}"


def _is_curve(data: bytes) -> bool:
    head = data[:2000].decode("utf-8", "replace").split("\n", 1)[0].lower()
    return "time" in head and "charge_left" not in head


def _point(cell: Cells) -> tuple[str, dict[str, float], str]:
    """One row: the cell's name, its figures, whence they are."""
    name = cell("cell")
    if not 0 < len(name) <= MOST_NAME:
        raise InvalidInput("cell", name, f"a name of at most {MOST_NAME} letters")
    figures = {key: parse_number(cell(key), key) for key in (*REQUIRED[1:], *OPTIONAL[:-1]) if cell(key) or key in REQUIRED}
    if not 0.0 <= figures["charge_left"] <= 1.0:
        raise InvalidInput("charge_left", figures["charge_left"], "a share from 0 to 1")
    return name, figures, cell("source")[:300]


def _cell(name: str, rows: list[tuple[str, dict[str, float], str]]) -> OwnCell:
    figures: dict[str, float] = {}
    for _, row, _ in rows:
        figures = {**row, **figures}
    if "ah" not in figures:
        raise InvalidInput(f"{name}: ah", "nothing", "its charge in Ah, in one of its rows")
    left, volts, ohm = (tuple(row[key] for _, row, _ in rows) for key in REQUIRED[1:])
    source = next((text for _, _, text in rows if text), "")
    more = {key: figures[key] for key in OPTIONAL[2:-1] if key in figures}
    made = OwnCell(name, left, volts, ohm, figures["ah"], int(figures.get("cells", 1)), source=source)
    made = replace(made, **more)  # type: ignore[arg-type]
    own_size(made)
    return made


def fit_of(data: bytes, name: str) -> MeasuredCell:
    """A cell fitted to a discharge: columns ``time`` (s, or h where the head says so), ``volts``, ``load`` (ohm; empty at rest).

    Raises InvalidInput, NotEnoughData: not such a table, or figures no cell has.
    """
    table = table_of(data, "Discharge", Names(CURVE, (), CURVE_OTHERS))
    hours = any(word in data[:200].decode("utf-8", "replace").lower().split("\n")[0] for word in ("hour", "time_h", "time h"))
    offered = table.offer(_curve_row)
    if offered.rejected_count:
        first = offered.rejected[0]
        raise InvalidInput("Discharge", f"line {first.line}", f"rows of time, volts and load ({first.reason})")
    time, volts, load = (np.array(column) for column in zip(*offered.found, strict=True)) if offered.found else (np.zeros(0),) * 3
    stem = name.rsplit(".", 1)[0][:MOST_NAME] or "measured"
    return fit_discharge(stem, time * (3600.0 if hours else 1.0), volts, load)


def _curve_row(cell: Cells) -> tuple[float, float, float]:
    load = cell("load")
    ohm = math.inf if not load or is_overload(load) or load.lower() == "rest" else parse_number(load, "load")
    return parse_number(cell("time"), "time"), parse_number(cell("volts"), "volts"), ohm


def own_of(size: Size) -> OwnCell:
    """A cell of the core as it is kept, at a dozen states of charge."""
    kind = size.chemistry
    left = CURVE_POINTS
    volts, ohm = kind.rest_v(left), kind.rise_at(left) * size.ohm
    return OwnCell(
        size.name[:MOST_NAME], tuple(left.tolist()), tuple(volts.tolist()), tuple(ohm.tolist()), size.ah, size.cells,
        kind.nominal_v, kind.v_per_c, kind.colder, kind.yearly_loss, kind.opened_weeks, f"{kind.source}; {size.source}"[:300],
    )  # fmt: skip


def write_cells(cells: Iterable[OwnCell]) -> str:
    """Cells as CSV with the columns `read_cells` knows; each row says whence its figures are."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow((*REQUIRED, *OPTIONAL))
    for cell in cells:
        constant = (cell.ah, cell.cells, cell.nominal_v, cell.v_per_c, cell.colder, cell.yearly_loss, cell.opened_weeks)
        for left, volts, ohm in zip(cell.left, cell.volts, cell.ohm, strict=True):
            writer.writerow(
                (
                    defused(cell.name),
                    repr(left),
                    repr(volts),
                    repr(ohm),
                    *(repr(value) for value in constant),
                    defused(cell.source),
                )
            )
    return out.getvalue()


def every_cell(job: Job) -> tuple[OwnCell, ...]:
    """The cells that ship, and the job's own."""
    own = sizes_of(job.power)
    return (*(own_of(size) for name, size in SIZES.items() if name not in own), *job.power.own_cells)


def reminder(job: Job) -> bytes:
    """When the cell that was taken will be due, as an iCalendar entry of one day (RFC 5545).

    Raises InvalidInput: no battery with a date was taken.
    """
    from icalendar import Alarm, Calendar, Event

    chosen = job.power.chosen
    if chosen is None or not chosen.due_on:
        raise InvalidInput("Reminder", "no date", "a cell that lasts some weeks once opened, taken for use")
    calendar, event, alarm = Calendar(), Event(), Alarm()
    calendar.add("prodid", "-//Violet Dial//bench//EN")
    calendar.add("version", "2.0")
    due = date.fromisoformat(chosen.due_on)
    event.add("uid", f"{job.job_id}-battery@violet-dial")
    event.add("dtstamp", datetime.fromisoformat(chosen.at).astimezone(UTC))
    event.add("dtstart", due)
    event.add("dtend", due + timedelta(days=1))
    event.add("summary", f"Battery due: {job.device.name or 'device'} (job {job.label})")
    event.add("description", chosen.words)
    alarm.add("action", "DISPLAY")
    alarm.add("description", "Battery due")
    alarm.add("trigger", timedelta(days=-7))
    event.add_component(alarm)
    calendar.add_component(event)
    written: bytes = calendar.to_ical()
    return written


def _offered(job: Job, name: str, data: bytes) -> tuple[Listing, Act]:
    cells, offered, said = read_cells(data, name)
    lines = tuple(
        f"{cell.name}\t{1000 * cell.ah:.3g} mAh, {cell.volts[0]:.3g} V, {cell.ohm[0]:.3g} Ω; {cell.source or 'no source said'}"
        for cell in cells
    )
    sections = (*((rejected_section(offered.rejected),) if offered is not None else ()), ("Offered", lines))
    return Listing(f"Cells from {name}", said, sections, len(cells), "cells"), lambda one, at: take_own_cells(
        one, cells, name, at
    )


def has_date(job: Job) -> bool:
    """Whether a battery was taken that will be due at a date."""
    return job.power.chosen is not None and bool(job.power.chosen.due_on)


def _written(job: Job, name: str, part: object) -> bytes:
    if name.lower().endswith(".ics"):
        return reminder(job)
    return write_cells(every_cell(job)).encode()


FILE_IN = FileIn("Cells from a CSV, or a discharge that was measured", KINDS, _offered)
FILE_OUT = FileOut(
    "Write all cells as CSV, or when a cell will be due", CALENDAR_KINDS,
    lambda job: f"job-{job.label}-{'battery-due.ics' if has_date(job) else 'cells.csv'}", _written,
)  # fmt: skip
