"""Faults traced in the demo jobs, at different stages; told through the observatory's devices. All of it is invented."""

from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.task import SilentTask
from violet_dial.job.act import Act
from violet_dial.services.circuits import templates
from violet_dial.services.doing import Doing
from violet_dial.services.evidence import type_evidence
from violet_dial.stations.trace.acts import choose_circuit, record_fix
from violet_dial.stations.trace.work import work_out

# What is wrong with the devices of the demo, for its simulated bench: in keeping with what was measured so far.
HIDDEN: dict[str, str] = {  # by the circuit's name
    "CdS series meter": "Rwred:high resistance:150k",
    "Silicon cell with slow and over lamps and a magnet-held shutter": "Rwred:open",
    "Selenium cell and movement": "Rring:open",
    "Traced board": "Rtrack:high resistance:4.7k",
    "CdS bridge with null": "",  # put right already
}


def _begin(on: Doing, stem: str) -> None:
    template = next(one for one in templates() if one.stem == stem)
    on.do(lambda job, at: choose_circuit(job, template.title, template.text, at))


def _typing(line: str) -> Act:
    return lambda job, at: type_evidence(job, line, at)


def _fix_first(on: Doing, words: str) -> None:
    """Put right the likeliest suspect, as the station names it."""
    fault = work_out(on.job, Diagnostician(), SilentTask()).diagnosis.suspects[0].faults[0]
    on.do(lambda job, at: record_fix(job, fault, words, at, 1))


def corroded_reflex(on: Doing) -> None:
    """A dead needle: half a volt where 1.35 belongs; one reading from the answer."""
    _begin(on, "cds-series")
    on.each(_typing, ("clip+ to gnd 1.36 V", "needle at 2 %", "sw to gnd 0.08 V"))


def sleepy_instant(on: Doing) -> None:
    """No lamps: just begun, the next test is the station's own."""
    _begin(on, "silicon-lamps")
    on.each(_typing, ("s2 pressed", "slow lamp dark", "over lamp dark", "shutter magnet dead"))


def bridge_repaired(on: Doing) -> None:
    """A bridge whose green wire was open; put right, and the needle follows again."""
    _begin(on, "cds-bridge")
    on.each(_typing, ("clip+ to gnd 1.52 V", "10 lx", "needle dead", "left to gnd 0.08 V", "coil+ to gnd 0.75 V"))
    _fix_first(on, "green wire of the bridge renewed")
    on.each(_typing, ("coil+ to gnd 0.09 V", "1000 lx"))


def dead_clip_meter(on: Doing) -> None:
    """A selenium meter that does not move: cell voltage there, nothing at the coil; found at the cell ring."""
    _begin(on, "selenium-movement")
    on.each(_typing, ("needle dead", "cell to gnd 0.42 V", "ring to gnd 0.00 V"))
