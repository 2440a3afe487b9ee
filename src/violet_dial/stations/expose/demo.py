"""Shutters and test shots of the demo jobs. All invented."""

from dataclasses import replace

import numpy as np

from violet_dial.instruments.simulated.shutter import SimulatedCard, SimulatedShutter, hidden_faults
from violet_dial.instruments.sound_card import RATE_HZ
from violet_dial.job.act import Act
from violet_dial.job.exposing import Fired
from violet_dial.services.doing import Doing
from violet_dial.services.evidence import type_evidence
from violet_dial.services.recordings import Recording
from violet_dial.services.shutter import channels_said, picture_of, shutter_of
from violet_dial.services.simulated import SHUTTER_OF
from violet_dial.stations.expose import acts, lamps_acts, shots_acts, traces_acts

LEAF, CURTAINS = "slow 0.85 from 1/15", "taper 0.5; position 1.1 at 1/60"
HIDDEN: dict[str, str] = {  # by the device's name
    f"{SHUTTER_OF} Turnstone compact": LEAF,
    f"{SHUTTER_OF} Whimbrel reflex": CURTAINS,
}
SEED = 41


def _typing(line: str) -> Act:
    return lambda job, at: acts.say_line(job, line, at)


def _shooting(line: str) -> Act:
    return lambda job, at: shots_acts.say_line(job, line, at)


def _recorded(shutter: SimulatedShutter, marked_s: float, fastest_s: float) -> Fired:
    """One firing as a sound card would have recorded it."""
    card = SimulatedCard(shutter, SEED)
    quiet = card.block(RATE_HZ // 5)
    card.fire(marked_s, fastest_s)
    samples = np.concatenate([quiet, card.block(int((marked_s * 2.5 + 0.45) * RATE_HZ))])
    names = tuple(f"channel {n + 1}" for n in range(shutter.sensors))
    recording = Recording(names, samples, float(RATE_HZ))
    seen = shutter_of(recording, channels_said("travel" if shutter.sensors > 1 else "light", shutter.sensors)).seen[0]
    return acts.fired_of(seen, marked_s, "sound card", picture_of(recording, shutter.sensors // 2, seen.firing))


def fire(on: Doing, shutter: SimulatedShutter, marks: tuple[float, ...], fastest_s: float, recorded: int) -> None:
    """Each of these marks fired once, in this order; the last of them so many by the sound card, those before on a test bench."""
    first = len(marks) - recorded
    for mark in marks[:first]:
        time_s = shutter.time_of(mark, fastest_s)
        on.do(acts.taking((Fired(mark, round(time_s, 7), 0.002 * time_s, "test bench"),)))
    on.each(acts.taking, [(_recorded(shutter, mark, fastest_s),) for mark in marks[first:]])


def leaf_compact(on: Doing) -> None:
    """A leaf shutter whose slow speeds hang: seven of ten speeds fired, Next asks for the rest."""
    on.do(_typing("speeds 1 to 1/500"))
    shutter = SimulatedShutter("leaf", hidden_faults(LEAF), seed=SEED)
    fire(on, shutter, tuple(2.0**-n for n in (9, 0, 4, 6, 1, 7, 2)), 2.0**-9, 3)


LOOKS = (
    "iso 400",    "f/5.6 400 lx none", "f/5.6 3000 lx none", "f/5.6 12000 lx over", "f/5.6 8200 lx none", "f/5.6 130 lx slow",
    "f/5.6 230 lx none", "f/5.6 180 lx flicker", "f/16 3000 lx none",
)  # fmt: skip


def looked_at(on: Doing) -> None:
    """Lamps of the same compact: the slow lamp lights too late."""
    on.each(lambda line: lambda job, at: lamps_acts.say_line(job, line, at), LOOKS)


def tapered_reflex(on: Doing) -> None:
    """A focal-plane shutter with three sensors set up, two speeds fired."""
    on.do(_typing("speeds 1 to 1/1000"))
    on.do(_typing("frame 36 sensors 3.6 18 32.4"))
    shutter = SimulatedShutter("focal plane", hidden_faults(CURTAINS), 3, SEED)
    fire(on, shutter, (1.0, 2.0**-6, 2.0**-10), 2.0**-10, 1)


def oscillating_rail(on: Doing) -> None:
    """A compact whose regulator swings: its rail beside that of a working sister, and given to Trace as evidence."""
    rng, t = np.random.default_rng(SEED), np.arange(4000) / 20_000.0
    swing = 2.6 + 1.1 * ((t * 172.0) % 1.0 - 0.5)
    for name, line in (("rail-sister.csv", np.full(len(t), 2.6)), ("rail.csv", swing)):
        noisy = np.stack([line + rng.normal(0.0, 0.012, len(t))], axis=1)
        taken = traces_acts.taken_of(Recording(("vreg to gnd",), noisy, 20_000.0), 0, name)
        on.do(traces_acts.taking((replace(taken, sister=name != "rail.csv"),)))
    on.do(lambda job, at: traces_acts.understand(job, "2 to trace").act(job, at))
    on.each(lambda line: lambda job, at: type_evidence(job, line, at), ("vreg to gnd 2.58 V", "vregb to gnd 2.58 V"))


def half_trimmed(on: Doing) -> None:
    """An instant camera after two frames: one dark, one nearly right."""
    on.each(_shooting, ("film 6", "5 0 -1.5", "8 0 -0.5"))
