"""One demo job up to its readings: who brought what, how it is set up, the truth of its meter."""

from dataclasses import dataclass, replace

import numpy as np

from violet_dial.core.records.light import Chain, LuxMeter, TrustedMeter
from violet_dial.job.document import Device, Intake
from violet_dial.job.light import LightSetup
from violet_dial.services.doing import Doing
from violet_dial.services.workshop import Workshop
from violet_dial.stations.light import demo as light
from violet_dial.stations.light.demo import DemoMeter
from violet_dial.stations.receive import demo as receive

OWNER = "Skerrow Ness bird observatory, loan pool"
TRUSTED = Chain(TrustedMeter(known_error_stops=-0.1, u_stops=0.05))
LUX = Chain(LuxMeter(u_relative=0.03))


@dataclass(frozen=True)
class Story:
    """One demo job up to its readings: device, intake, set-up, the meter's truth, the lights read both ways."""

    device: Device
    intake: Intake
    setup: LightSetup
    meter: DemoMeter
    rising: tuple[float, ...] = ()
    falling: tuple[float, ...] = ()


def begin(workshop: Workshop, story: Story, rng: np.random.Generator) -> Doing:
    """The job described, set up and read."""
    on = Doing(workshop, workshop.new_job().job.job_id)
    receive.describe(on, story.device, replace(story.intake, owner=OWNER, received_on="3 November 2026"))
    light.set_up(on, story.setup)
    light.read_both_ways(on, story.meter, rng, story.rising, story.falling)
    return on
