"""What the pages beside the choices show, each one frozen value: cells read, use and budget, the fitted diode, the supply."""

import math
from dataclasses import dataclass, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.budget import HOURS_A_WEEK, Budget, band_of, budget, currents, span_words
from violet_dial.core.power.cell_state import CellState
from violet_dial.core.power.cells import AT_C, Size
from violet_dial.core.power.feeds import BatteryChoice
from violet_dial.core.power.fitting import steps_of
from violet_dial.core.power.states import StateName
from violet_dial.core.quantities import format_engineering
from violet_dial.job.document import Job
from violet_dial.job.power import CellRead
from violet_dial.report.dial import MarkState
from violet_dial.stations.power.acts import state_of_cell
from violet_dial.stations.power.bench import choice_said, use_of
from violet_dial.stations.power.work import PowerWorked

COLD_C = 0.0  # a winter day; common practice, no source


@dataclass(frozen=True)
class Row:
    """One line of a list: its mark, what it is, what is said of it."""

    mark: MarkState
    name: str
    words: str


@dataclass(frozen=True)
class CellShown:
    """The cell read last: headline, what it serves, what it does in this device, its battery test; those read before."""

    headline: str
    reason: str
    serves: tuple[Row, ...]
    device: str
    test: str
    before: tuple[str, ...]
    caution: str


@dataclass(frozen=True)
class UseShown:
    """How long the battery lasts: sentence, rows of (state, current, hours a month, share), warnings, how it is used."""

    headline: str
    reason: str
    rows: tuple[tuple[str, str, str, str], ...]
    warnings: tuple[str, ...]
    use: tuple[str, ...]
    positions: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True)
class FitShown:
    """Fitting a diode: what is fitted, step by step, what should be read, and the verdict on what was."""

    headline: str
    steps: tuple[str, ...]
    expected: tuple[str, ...]
    chances: tuple[tuple[str, str], ...]


def cell_shown(job: Job, worked: PowerWorked | None) -> CellShown:
    """The cell read last."""
    reads = job.power.cells
    test = _test_words(worked)
    if not reads:
        return CellShown(
            "No cell read yet.", "Read it at rest, then under a load: a cell that reads well at rest may drop out under one.",
            (), "", test, (), "",
        )  # fmt: skip
    read = reads[-1]
    try:
        state = state_of_cell(job.power, read)
    except InvalidInput as error:
        return CellShown(str(error), "", (), "", test, tuple(_read_words(one) for one in reads[-6:-1]), "")
    serves = () if state.is_strange else tuple(
        Row("inside" if one.works else "low", one.device, f"{one.volts:.2f} V at {format_engineering(one.amp, 3)}A")
        for one in state.serves
    )  # fmt: skip
    headline, _, reason = state.words.partition(": ") if not state.is_strange else (state.words, "", "")
    said = _ohm_words(state)
    whole = f"{reason[:1].upper()}{reason[1:]}" if reason else ""
    before = tuple(_read_words(one) for one in reversed(reads[-7:-1]))
    caution = state.size.chemistry.caution
    return CellShown(
        whole or headline, f"{_read_words(read)}. {said}".strip(), serves, _in_device(job, state, worked), test, before, caution
    )


def _ohm_words(state: CellState) -> str:
    if state.internal_ohm is None:
        return "Without a load its resistance is not known."
    return f"Internal resistance {state.internal_ohm:.3g} ± {2 * state.internal_u_ohm:.2g} Ω."


def _read_words(read: CellRead) -> str:
    load = f", {read.load_v:g} V under {format_engineering(read.load_ohm)}Ω" if read.load_v is not None and read.load_ohm else ""
    warm = f" at {read.at_c:g} °C" if read.at_c != 20.0 else ""
    return f"{read.size}: {read.rest_v:g} V at rest{load}{warm}"


def _in_device(job: Job, state: CellState, worked: PowerWorked | None) -> str:
    """What this cell does in this device, at the bench's temperature and in the cold: volts under what it draws, its magnet."""
    if worked is None:
        return ""
    kind = state.size.chemistry
    ohm = state.internal_ohm if state.internal_ohm is not None else state.size.ohm * state.size.cells
    cold = min(use_of(job.power).cold_c, COLD_C)
    said = []
    for warm, own in ((AT_C, ohm), (cold, ohm * math.exp(kind.colder * (AT_C - cold)))):
        volts, amp = worked.on_clips(state.rest_v, own)
        said.append(f"at {warm:g} °C {volts:.2f} V at the clips under {format_engineering(amp, 3)}A{_held(volts, worked)}")
    drop = f" The magnet lets go below {worked.drop_out_v:.2f} V." if worked.drop_out_v is not None else ""
    return f"{'; '.join(said)}.{drop}".replace("-", "−")[0].upper() + f"{'; '.join(said)}.{drop}".replace("-", "−")[1:]


def _held(volts: float, worked: PowerWorked) -> str:
    if worked.drop_out_v is None:
        return ""
    return ", the magnet holds" if volts >= worked.drop_out_v else ", the magnet lets go however well the cell reads at rest"


def _test_words(worked: PowerWorked | None) -> str:
    test = worked.test if worked is not None else None
    if test is None or not test.shares:
        return ""
    name, share = test.shares[0]
    shown = f"{min(share, 1.0):.0%}" + (" (at its stop)" if share > 1 else "")
    said = f"Battery test ({test.setting.words}): at {test.volts:.2f} V the {name} should stand at {shown} of its scale."
    if test.read is None:
        return f"{said} Type what it shows: test 60 %."
    if test.agrees:
        return f"{said} It shows {test.read:.0%}: as it should."
    suspects = "; ".join(f"{words} {chance:.0%}" for words, chance in test.suspects[:3])
    return f"{said} It shows {test.read:.0%} although the cell is good: {suspects}. Trace takes it from here."


def battery_in_use(job: Job, worked: PowerWorked) -> BatteryChoice | None:
    """The battery that was chosen, else the best of the choices."""
    if job.power.chosen is not None:
        return choice_said(job.power, job.power.chosen.said)
    return worked.lanes.lanes[worked.lanes.best].choice if worked.lanes.best >= 0 else None


def budget_of(job: Job, worked: PowerWorked) -> tuple[Size, Budget] | None:
    """How long the battery in use lasts; None for a supply."""
    choice = battery_in_use(job, worked)
    if choice is None or choice.size is None:
        return None
    lane = next((one for one in worked.lanes.lanes if one.choice == choice), None)
    left = worked.lanes.asked.left
    gives_up = left[min(lane.ends, len(left) - 1)] if lane is not None else left[-1]
    use = use_of(job.power)
    measured = {**measured_a(job, worked), **dict(use.typed_a)}
    use = replace(use, typed_a=tuple(measured.items()))
    return choice.size, budget(choice.size, use, currents(worked.states), gives_up)


def measured_a(job: Job, worked: PowerWorked) -> dict[StateName, float]:
    """Currents of the battery measured at Trace, by the state the switches stood in: what a dirty board lets through shows in
    the one asleep."""
    found: dict[StateName, float] = {}
    battery = worked.judge.device.battery.lower()
    for taken in job.tracing.now:
        one = taken.evidence
        if one.test != "amp" or one.part.lower() != battery or one.sister:
            continue
        state = next((each for each in worked.states if each.setting.switches == one.setting.switches), None)
        if state is not None:
            found[state.name] = abs(one.value)
    return found


def use_shown(job: Job, worked: PowerWorked | None) -> UseShown:
    """How the device is used, and how long its battery lasts."""
    said = job.power.use or ("nothing said yet: one roll a month, half an hour of metering a roll",)
    found = budget_of(job, worked) if worked is not None else None
    if worked is None or found is None:
        return UseShown("No battery whose life can be reckoned.", "", (), (), said, ())
    size, one = found
    headline = (
        f"{size.name}: {span_words(one.weeks_low * HOURS_A_WEEK, one.weeks_high * HOURS_A_WEEK)}, "
        f"{_rolls(one.rolls_low)} to {_rolls(one.rolls_high)} rolls"
    )
    first = one.shares[0]
    held = ""
    if one.open_hours is not None:
        held = f" A fresh one holds the shutter open for about {span_words(*band_of(one.open_hours))}."
    reason = f"Most goes to {first.name}: {first.share:.0%}.{held}{_leak_words(job, worked)}"
    rows = tuple(
        (share.name + (" (measured)" if share.typed else ""), f"{format_engineering(share.amp, 3)}A", f"{share.hours:.3g} h",
         f"{share.share:.0%}")
        for share in one.shares
    )  # fmt: skip
    positions = tuple((state.words, state.name, f"{format_engineering(state.amp, 3)}A") for state in worked.states)
    return UseShown(headline, reason, rows, one.warnings, said, positions)


def _leak_words(job: Job, worked: PowerWorked) -> str:
    """What a dirty board lets through, where the current asleep was measured at Trace."""
    measured, by_circuit = measured_a(job, worked).get("asleep", 0.0), currents(worked.states).get("asleep", 0.0)
    if measured <= 2 * by_circuit:
        return ""
    said = f"{format_engineering(measured, 3)}A, by the circuit {format_engineering(by_circuit, 3)}A"
    return f" Asleep it draws {said}: the rest leaks over the board."


def _rolls(count: float) -> str:
    return f"{count:.0f}" if count >= 3 else f"{count:.1f}"


def fit_shown(job: Job, worked: PowerWorked | None) -> FitShown:
    """The diode of the battery in use: how it is fitted, and whether it was fitted right."""
    choice = battery_in_use(job, worked) if worked is not None else None
    if choice is None or not choice.diodes:
        return FitShown("No diode in the battery that is taken. Take a choice with one to see how it is fitted.", (), (), ())
    checked = worked.fitted if worked is not None else None
    steps = steps_of(choice, job.power.lead)
    if checked is None:
        return FitShown(f"{choice.name}, in the {job.power.lead} lead.", steps, (), ())
    headline = checked.words if job.power.fitted else f"{choice.name}, in the {job.power.lead} lead. Not read yet."
    chances = tuple((name, f"{chance:.0%}") for name, chance in checked.chances) if job.power.fitted else ()
    return FitShown(headline, steps, checked.expected, chances)


@dataclass(frozen=True)
class SupplyDifference:
    """What differs between batteries and a bench supply, the test that tells, and how its answer is typed."""

    name: str
    why: str
    test: str
    typed: str


def differences(worked: PowerWorked | None) -> tuple[SupplyDifference, ...]:
    """What may differ where the device does not do the same on batteries and on the supply."""
    clip = worked.judge.device.circuit.part(worked.judge.device.battery).nodes[0] if worked is not None else "clip+"
    most = worked.states[0].amp if worked is not None and worked.states else None
    amp = f" (by the circuit up to {format_engineering(most, 3)}A)" if most is not None else ""
    at_clip = f"{clip} to gnd 5.9 V"
    return (
        SupplyDifference(
            "Current limit", f"A supply that limits holds back what batteries give{amp}.",
            "Set the limit to twice that; see whether the supply keeps its volts at switch-on.", f"bench supply, then {at_clip}",
        ),
        SupplyDifference(
            "Source resistance", "Batteries sag under a load where a supply does not.",
            "Volts at the clips while it draws most, on both.", f"battery in, then {at_clip}",
        ),
        SupplyDifference(
            "Contact movement", "Cells push the contact block over; the clips of a supply do not.",
            "Leave the cells in with their leads insulated, feed from the supply, press and let go.", "pressed",
        ),
        SupplyDifference(
            "Ground path", "A clip on the body is another way back than the battery's own spring.",
            "Clip the supply to the negative spring, then to the body; volts from the body to ground on each.", at_clip,
        ),
    )  # fmt: skip
