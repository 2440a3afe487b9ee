"""What Power works out for a job: every choice over its life, currents by state, where a magnet lets go. For a worker."""

import math
from dataclasses import dataclass, replace

import numpy as np

from violet_dial.core.circuit.trade import switches_of
from violet_dial.core.diagnosis.case import Case
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.power.cells import AT_C
from violet_dial.core.power.design import Designed, Trimmed, design, trim
from violet_dial.core.power.device import FedDevice, Points, Port
from violet_dial.core.power.fed import feed_many
from violet_dial.core.power.feeds import BatteryChoice
from violet_dial.core.power.fitting import Checked, FitReadout, check_fitting
from violet_dial.core.power.lanes import BatteryResults, Judge
from violet_dial.core.power.states import BatteryState, states_of
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.core.records.light import Tolerance
from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.job.power import CellRead, FitRead, OwnCell
from violet_dial.services.circuits import circuit_text_of
from violet_dial.services.remembered import Answers
from violet_dial.stations.power.bench import TEMPERATURES_C, asked_of, choice_said, choices_of, device_for, drawer_of


@dataclass(frozen=True)
class BatteryTest:
    """``setting`` with the test pressed; ``shares`` what each movement and lamp should show of its full current at ``volts``;
    what is suspected where ``read`` differs, likeliest first."""

    setting: Setting
    volts: float
    shares: tuple[tuple[str, float], ...]
    read: float | None
    suspects: tuple[tuple[str, float], ...]

    @property
    def agrees(self) -> bool | None:
        """Whether what was read is what should show; None where nothing was read."""
        if self.read is None or not self.shares:
            return None
        return abs(self.read - min(self.shares[0][1], 1.0)) <= CLOSE_SHARE


USUAL_WARM = TEMPERATURES_C.index(AT_C)  # the place of the usual temperature


@dataclass(frozen=True)
class PowerQuestion:
    """All that what is worked out depends on."""

    circuit_text: str
    cell: str
    design_v: float
    choices: tuple[str, ...]
    diodes: tuple[str, ...]
    own_cells: tuple[OwnCell, ...]
    span: tuple[float, float]
    tolerance: Tolerance
    chosen: str
    fitted: tuple[FitRead, ...]
    cells: tuple[CellRead, ...]
    test_needle: float | None


@dataclass(frozen=True)
class PowerWorked:
    """The answer: ``judge`` holds the device solved, for what is asked of it later; ``drop_out_v`` at the clips, below which
    a magnet lets go (None without one); ``said`` where the circuit is not the job's own."""

    question: PowerQuestion
    judge: Judge
    lanes: BatteryResults
    states: tuple[BatteryState, ...]
    drop_out_v: float | None
    said: str
    fitted: Checked | None
    test: BatteryTest | None

    def on_clips(self, rest_v: float, ohm: float) -> tuple[float, float]:
        """Volts at the clips and the current, A, where a source stands behind so many ohms; in the light that is worst."""
        reader = self.judge.readers[USUAL_WARM]
        fed = feed_many(reader.table, [BatteryChoice(supply_v=max(rest_v, 1e-3), supply_ohm=ohm)], np.ones(1), AT_C)
        worst = int(np.nanargmin(fed.clip_v[0]))
        return float(fed.clip_v[0, worst]), float(fed.amp[0, worst])


def question_of(job: Job) -> PowerQuestion:
    """What is asked of a job as it stands."""
    power, setup = job.power, job.light.setup
    span = (setup.range_from_ev100, setup.range_to_ev100)
    return PowerQuestion(
        circuit_text_of(job), job.device.cell, power.design_v, power.choices, power.diodes, power.own_cells,
        span, setup.tolerance, power.chosen.said if power.chosen else "", power.fitted, power.cells[-1:], power.test_needle,
    )  # fmt: skip


_JUDGES = Answers(6)  # devices that were solved: choices added to a job are judged without solving it anew


def judge_of(job: Job, task: Task) -> tuple[Judge, str]:
    """The job's device, solved; what is said where the circuit is not its own.

    Raises InvalidInput: no battery, or nothing follows the light.
    """
    device, said = device_for(job)
    asked = asked_of(job, device)
    choices = choices_of(job.power, asked.design_v)
    known: Judge | None = _JUDGES.get((device, asked))
    if known is not None and known.covers(choices):
        return known, said
    judge = Judge(device, asked, choices, task)
    _JUDGES.put((device, asked), judge)
    return judge, said


def work_out(job: Job, task: Task) -> PowerWorked:
    """Every choice of a job over its life.

    Raises InvalidInput: no battery, nothing that follows light, or a choice that is not understood.
    """
    judge, said = judge_of(job, task)
    lanes = judge.judge(choices_of(job.power, judge.asked.design_v), task)
    middle_ev = float(judge.asked.marks.mean())
    states = states_of(judge.device, judge.asked.design_v, middle_ev)
    fitted, test = _fitted(job, judge, lanes), _tested(job, judge, task)
    return PowerWorked(question_of(job), judge, lanes, states, _drop_out(judge), said, fitted, test)


def _fitted(job: Job, judge: Judge, lanes: BatteryResults) -> Checked | None:
    """The diode of the battery that was taken, as it was read; None where that has none."""
    if job.power.chosen is None:
        choice = lanes.lanes[lanes.best].choice if lanes.best >= 0 else None
    else:
        choice = choice_said(job.power, job.power.chosen.said)
    if choice is None or not choice.diodes:
        return None
    reads = [
        FitReadout(one.what, math.inf if one.volts is None else one.volts, one.before_v, one.ev100) for one in job.power.fitted
    ]
    return check_fitting(judge.readers[USUAL_WARM].port, judge.asked, choice, reads)


def _tested(job: Job, judge: Judge, task: Task) -> BatteryTest | None:
    """The device's own battery test at the volts of the cell read last, under its load where one was tried."""
    read = job.power.cells[-1] if job.power.cells else None
    volts = judge.asked.design_v if read is None else read.rest_v
    return battery_test(judge.device, volts, job.power.test_needle, task)


def _drop_out(judge: Judge) -> float | None:
    """Volts at the clips below which a magnet that holds at the design voltage lets go, in the worst light."""
    reader = judge.readers[USUAL_WARM]
    found = reader.drop_out_v()
    return found if np.isfinite(found) else None


def design_for(job: Job, cell: str, task: Task) -> tuple[Designed, Trimmed | None]:
    """The best of the drawer for a cell, and where the trimmer goes with it.

    Raises InvalidInput: as `work_out`; a cell that is not known.
    """
    judge, _ = judge_of(job, task)
    choice = choice_said(job.power, cell)
    if judge.mode == "null":
        raise InvalidInput("Drawer", "a bridge", "a meter that minds its voltage: this one is read at its null")
    found = design(judge.readers, choice, drawer_of(job.power), task)
    return found, trim(judge, found.choice, task)


TEST_WORDS = ("test", "batt", "check")


CLOSE_SHARE = 0.06  # of the scale, within which a needle shows what it should; common practice, no source
MOST_NAMED = 3
TEST_EV100 = 9.0


def test_setting(device: FedDevice) -> Setting | None:
    """The switch turned to its battery test; None where it has none."""
    for name, switch in switches_of(device.circuit).items():
        for position in switch.positions:
            if any(word in position for word in TEST_WORDS):
                return device.setting.with_switch(name, position)
    return None


def battery_test(device: FedDevice, volts: float, read: float | None, task: Task) -> BatteryTest | None:
    """What the battery test should show at volts of a cell, and what is wrong where it shows otherwise; None without a test."""
    setting = test_setting(device)
    if setting is None:
        return None
    port = Port(replace(device, setting=setting).at(20.0))
    shown = port.points(Points(np.array([TEST_EV100]), np.array([volts])), task).shown[0]
    shares = [
        (one.words, float(abs(amp) / one.full_a))
        for one, amp in zip(device.watched, shown, strict=True)
        if one.full_a and one.shows in ("needle", "lamp") and np.isfinite(amp)
    ]
    found = BatteryTest(setting, volts, tuple(shares), read, ())
    if found.agrees is not False or read is None:
        return found
    return replace(found, suspects=_suspects(device, setting, volts, read, task))


def _suspects(device: FedDevice, setting: Setting, volts: float, read: float, task: Task) -> tuple[tuple[str, float], ...]:
    """Which part is wrong, the cell being good."""
    needle = device.watched[device.needles[0]].name if device.needles else device.watched[0].name
    battery = device.circuit.part(device.battery)
    evidence = (
        Evidence("volt", volts, battery.nodes[0], battery.nodes[1], setting=setting),
        Evidence("seen", read, part=needle, setting=setting),
    )
    try:
        diagnosis = Diagnostician().diagnose(Case(device.circuit, (evidence,)), task)
    except VioletDialError:
        return ()
    named = [(suspect.words, suspect.probability) for suspect in diagnosis.suspects[:MOST_NAMED]]
    others = [("nothing at all", diagnosis.healthy), ("something not on the list", diagnosis.unlisted)]
    return tuple(sorted([*named, *others], key=lambda pair: -pair[1]))
