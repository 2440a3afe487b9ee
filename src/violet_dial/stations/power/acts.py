"""Acts at Power: what the device was made for, choices, parts at hand, the use, cells and diodes read, the battery to use."""

import re
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.budget import understand_use
from violet_dial.core.power.cell_state import CellState, judge_cell
from violet_dial.core.power.cells import AT_C, Size, size_of
from violet_dial.core.power.device import Points, Port
from violet_dial.core.power.meter_error import AskedLights
from violet_dial.core.quantities import parse_number, parse_with_unit
from violet_dial.core.units import is_overload
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.power import CellRead, Chosen, FitRead, OwnCell, Power
from violet_dial.stations.power.bench import (
    choice_said,
    choices_of,
    design_v,
    device_for,
    diode_said,
    part_said,
    sizes_of,
    use_of,
)

MOST_LINE = 300
Said = Literal["design", "diode", "part", "choice"]


@dataclass(frozen=True)
class PowerUnderstood:
    """A line typed at the choices: what kind of thing it says, and what it is in words."""

    kind: Said
    words: str


def _with(job: Job, power: Power, reason: str) -> ActResult:
    return ActResult(replace(job, power=power), "Power", reason)


def understand_line(power: Power, text: str) -> PowerUnderstood:
    """A line at the choices: ``design 1.35 V``, ``drawer 150 ohm``, ``diode germ IS=2e-6 N=1.4``, else a choice.

    Raises InvalidInput: not understood.
    """
    word, _, rest = text.strip().partition(" ")
    low = word.lower()
    if low == "design":
        return PowerUnderstood("design", f"made for {_design(rest):g} V")
    if low in ("diode", "d", ".model") and rest:
        return PowerUnderstood("diode", f"= {diode_said(rest).name}, at hand from now on")
    if low == "drawer":
        return PowerUnderstood("part", f"= {part_said(power, rest).name}, in the drawer")
    return PowerUnderstood("choice", f"= {choice_said(power, text).name}")


def _design(text: str) -> float:
    volts = parse_with_unit(text, ("V",), "Design voltage", "V").value
    return AskedLights(volts).design_v


def with_cells(power: Power, at_hand: tuple[OwnCell, ...], text: str) -> Power:
    """The job's bench with those cells of other jobs that a line names."""
    known = {cell.name for cell in power.own_cells}
    wanted = tuple(one for one in at_hand if one.name.lower() in text.lower() and one.name not in known)
    return replace(power, own_cells=(*power.own_cells, *wanted)) if wanted else power


def say_line(job: Job, text: str, at: str, at_hand: tuple[OwnCell, ...] = ()) -> ActResult:
    """A line typed at the choices, taken; ``at_hand`` cells of other jobs, which come along where the line names them."""
    job = replace(job, power=with_cells(job.power, at_hand, text))
    power, said = job.power, understand_line(job.power, text)
    rest = text.strip().partition(" ")[2]
    if said.kind == "design":
        return _with(job, replace(power, design_v=_design(rest)), f"Made for {_design(rest):g} V")
    if said.kind == "diode":
        named = diode_said(rest).name
        kept = tuple(line for line in power.diodes if diode_said(line).name != named)
        return _with(job, replace(power, diodes=(*kept, rest)), f"At hand: {named}")
    if said.kind == "part":
        part = part_said(power, rest).name
        if any(part_said(power, line).name == part for line in power.drawer):
            raise InvalidInput("Drawer", rest, "a part that is not in it yet")
        return _with(job, replace(power, drawer=(*power.drawer, rest)), f"In the drawer: {part}")
    return add_choice(job, text, at)


def _listed(job: Job) -> tuple[str, ...]:
    """The choices as they are said; the usual ones written out."""
    if job.power.choices:
        return job.power.choices
    try:
        volts = design_v(job.power, device_for(job)[0])
    except InvalidInput:
        volts = job.power.design_v or 1.35
    return tuple(choice.said for choice in choices_of(job.power, volts))


def add_choice(job: Job, text: str, at: str) -> ActResult:
    """One more way to feed the device."""
    choice = choice_said(job.power, text)
    listed = _listed(job)
    if choice.name in [choice_said(job.power, line).name for line in listed]:
        raise InvalidInput("Choice", text, "one that is not among them yet")
    return _with(job, replace(job.power, choices=(*listed, choice.said)), f"Another choice: {choice.name}")


def drop_choice(job: Job, place: int, at: str) -> ActResult:
    """One choice left out."""
    listed = _listed(job)
    if not 0 <= place < len(listed) or len(listed) == 1:
        raise InvalidInput("Choice", place + 1, f"1 to {len(listed)}, and one left")
    left = listed[:place] + listed[place + 1 :]
    return _with(job, replace(job.power, choices=left), f"Left out: {choice_said(job.power, listed[place]).name}")


def choose(job: Job, said: str, words: str, at: str) -> ActResult:
    """The battery to use, with the error that is expected; a cell that lasts some weeks once opened is due then."""
    choice = choice_said(job.power, said)
    weeks = choice.size.chemistry.opened_weeks if choice.size else 0.0
    due = (date.fromisoformat(at[:10]) + timedelta(weeks=weeks)).isoformat() if weeks and at else ""
    chosen = Chosen(choice.said, words[:MOST_LINE], at, due)
    before = job.power.chosen
    closing = job.closing
    if not closing.battery or (before is not None and closing.battery == battery_words(before)):
        closing = replace(closing, battery=battery_words(chosen))
    return ActResult(
        replace(job, power=replace(job.power, chosen=chosen), closing=closing), "Power", f"Battery to use: {choice.name}"
    )


def battery_words(chosen: Chosen) -> str:
    """The battery to use as Return's sheet has it."""
    return chosen.words[:MOST_LINE]


def say_use(job: Job, text: str, at: str) -> ActResult:
    """One more line about how the device is used; a line that says the same thing gives way to it."""
    said = text.strip()
    understand_use(use_of(job.power), said)
    kept = tuple(line for line in job.power.use if _kind_of_use(line) != _kind_of_use(said))
    return _with(job, replace(job.power, use=(*kept, said)), f"Use: {said}")


def _kind_of_use(line: str) -> tuple[str, str]:
    """What a line is about: its words before the figure, and what the figure is of."""
    low = line.lower()
    of = next((word for word in ("a roll", "a month") if low.endswith(word)), "")
    return re.sub(r"[\d.,/]+.*", "", low).strip(), of


# cells

CELL_EXPECTED = (
    "LR44 1.52 · LR44 1.52 1.31 47 (rest, under a load, ohms) · 4LR44 5.9 4.6 magnet (under the device itself) · at 5 C"
)
DEVICE_LOADS = ("magnet", "device", "meter")


def understand_cell(job: Job, text: str) -> CellRead:
    """A cell as it was read: size, volts at rest, volts under a load and its ohms, temperature; the size of the one before where
    it is not said. Raises InvalidInput: not understood, or figures no cell shows.
    """
    said, at_c = text.strip(), 20.0
    if match := re.search(r"\bat\s+(\S+?)\s*°?c?$", said, re.IGNORECASE):
        at_c, said = parse_number(match[1], "Temperature"), said[: match.start()]
    words = [
        word for word in re.split(r"[\s,]+", re.sub(r"\b(rest|load|under|ohm|volts?)\b", " ", said, flags=re.IGNORECASE)) if word
    ]
    words = [word for word in words if word.lower() not in ("v", "ω")]
    size, figures = _split(job, words)
    if not 1 <= len(figures) <= 3 or len(figures) == 2:
        raise InvalidInput("Cell", text, CELL_EXPECTED)
    rest_v = parse_with_unit(figures[0], ("V",), "Volts at rest", "V").value
    load_v = parse_with_unit(figures[1], ("V",), "Volts under the load", "V").value if len(figures) == 3 else None
    ohm = None if load_v is None else load_ohm(job, figures[2], load_v)
    judge_cell(size, rest_v, load_v, ohm, at_c)
    return CellRead(size.name, rest_v, load_v, ohm, at_c)


def load_ohm(job: Job, text: str, load_v: float) -> float:
    """The load: ohms, or the device itself as it stands in use (``magnet``), by its circuit at the volts that were read."""
    if text.lower() not in DEVICE_LOADS:
        return parse_with_unit(text, ("Ω",), "Load", "Ω").value
    device, _ = device_for(job)
    setup = job.light.setup
    middle = np.array([(setup.range_from_ev100 + setup.range_to_ev100) / 2])
    amp = float(Port(device.at(AT_C)).points(Points(middle, np.array([load_v]))).amp[0])
    if not amp > 0:
        raise InvalidInput("Load", text, "a device that draws current as it stands; else the ohms of a resistor")
    return load_v / amp


def _split(job: Job, words: list[str]) -> tuple[Size, list[str]]:
    """The size, and the figures after it."""
    own = sizes_of(job.power)
    for count in (3, 2, 1):
        name = " ".join(words[:count])
        if name in own:
            return own[name], words[count:]
        if re.search("[A-Za-z]{2}", name):
            try:
                return size_of(name), words[count:]
            except InvalidInput:
                continue
    if words and re.match(r"^[\d.]*[A-Za-z]{2}", words[0]):
        return size_of(words[0]), words[1:]  # says which there are
    if not job.power.cells:
        raise InvalidInput(
            "Cell", " ".join(words), f"what is on it first, for instance {CELL_EXPECTED.split(' · ', maxsplit=1)[0]}"
        )
    return size_named(job.power, job.power.cells[-1].size), words


def size_named(power: Power, name: str) -> Size:
    """A cell by its name, the job's own ones too. Raises InvalidInput: none of this name."""
    return sizes_of(power).get(name) or size_of(name)


def state_of_cell(power: Power, read: CellRead) -> CellState:
    """What a cell that was read is still worth. Raises InvalidInput: its size is not known any more."""
    return judge_cell(size_named(power, read.size), read.rest_v, read.load_v, read.load_ohm, read.at_c)


def take_cell(job: Job, read: CellRead, at: str) -> ActResult:
    """A cell read."""
    state = state_of_cell(job.power, read)
    power = replace(job.power, cells=(*job.power.cells, replace(read, at=at)))
    return _with(job, power, f"Cell read: {state.words}"[:MOST_LINE])


def type_cell(job: Job, text: str, at: str) -> ActResult:
    """A cell read, as typed."""
    return take_cell(job, understand_cell(job, text), at)


def read_test(job: Job, text: str, at: str) -> ActResult:
    """What the battery test's needle shows, as a share of its scale."""
    word = text.lower().removeprefix("test").removeprefix(" needle").strip().removesuffix("%").strip()
    share = parse_number(word, "Battery test") / 100
    if not 0 <= share <= 2:
        raise InvalidInput("Battery test", text, "0 to 200 % of the scale")
    return _with(job, replace(job.power, test_needle=share), f"Battery test: needle at {share:.0%}")


# the diode

FIT_EXPECTED = "forward 0.25 · reverse OL · Ev 9: 1.56 before 1.36 behind · lead negative"


def understand_fit(text: str) -> FitRead | str:
    """A figure read at a fitted diode, or which lead it sits in. Raises InvalidInput: not understood."""
    low = " ".join(text.lower().replace(":", " ").split())
    if match := re.fullmatch(r"lead (positive|negative|plus|minus)", low):
        return "positive" if match[1] in ("positive", "plus") else "negative"
    if match := re.fullmatch(r"(forward|reverse) (.+)", low):
        volts = None if is_overload(match[2]) else parse_with_unit(match[2], ("V",), "Diode test", "V").value
        return FitRead(match[1], volts)  # type: ignore[arg-type]
    if match := re.fullmatch(r"ev (\S+) (\S+) ?v? before (\S+) ?v? behind", low):
        before, behind = (parse_with_unit(match[at], ("V",), "Volts", "V").value for at in (2, 3))
        return FitRead("behind", behind, before, parse_number(match[1], "Ev"))
    raise InvalidInput("Diode", text, FIT_EXPECTED)


def say_fit(job: Job, text: str, at: str) -> ActResult:
    """A figure read at a fitted diode, or the lead it sits in."""
    said = understand_fit(text)
    if isinstance(said, str):
        return _with(job, replace(job.power, lead=said), f"Diode in the {said} lead")  # type: ignore[arg-type]
    return take_fit(job, said, at)


def take_fit(job: Job, read: FitRead, at: str) -> ActResult:
    """A figure read at a fitted diode."""
    volts = "OL" if read.volts is None else f"{read.volts:.4g} V"
    said = f"{read.what} {volts}" if read.what != "behind" else f"Ev {read.ev100:g}: {read.before_v:.4g} V before, {volts} behind"
    return _with(job, replace(job.power, fitted=(*job.power.fitted, read)), f"At the diode: {said}")


def take_own_cells(job: Job, cells: tuple[OwnCell, ...], source: str, at: str) -> ActResult:
    """Cells of the bench's own from a file; one of the same name is put in its place."""
    names = {cell.name for cell in cells}
    kept = tuple(cell for cell in job.power.own_cells if cell.name not in names)
    power = replace(job.power, own_cells=(*kept, *cells))
    sizes_of(power)
    return _with(job, power, f"{len(cells)} cells from {source}")
