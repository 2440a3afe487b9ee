"""Shutters, lamps, test shots and traces of the demo."""

import numpy as np

from violet_dial.demo.story import LUX, Story, begin
from violet_dial.job.document import Device, Intake
from violet_dial.job.light import LightSetup
from violet_dial.services.workshop import Workshop
from violet_dial.stations.expose import demo as expose
from violet_dial.stations.light.demo import DemoMeter
from violet_dial.stations.power import demo as power
from violet_dial.stations.trace.acts import choose_circuit


def slow_leaf(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Turnstone compact", "Holm Optical", "TS 61 204", "rangefinder compact", "selenium"),
        Intake(
            "Slow speeds hang, the fast ones sound right", came_with="Case", noticed="Stored for years in a damp loft."
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )
    on = begin(workshop, story, rng)
    expose.leaf_compact(on)
    expose.looked_at(on)


def tapered(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Whimbrel reflex", "Stack & Geo", "W 4410", "reflex", "CdS"),
        Intake("One side dark at the fast speeds, and 1/60 is slow", came_with="50 mm lens", noticed="Curtains sound."),
        LightSetup(chain=LUX),
        DemoMeter(),
    )
    expose.tapered_reflex(begin(workshop, story, rng))


def half_trimmed(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Sandpiper instant", "Auk & Daughters", "SA 20 77", "instant camera", "silicon"),
        Intake(
            "Pictures come out dark",
            came_with="A pack with six frames",
            noticed="Number wheel at 5, slider in the middle.",
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )
    expose.half_trimmed(begin(workshop, story, rng))


def oscillating(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Dunlin motor compact", "Holm Optical", "DM 8 330", "rangefinder compact", "silicon"),
        Intake(
            "Wakes, then dies; its supply is not still", came_with="Four cells", noticed="A capacitor was renewed once.",
            hazards=("flash capacitor",),
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )  # fmt: skip
    on = begin(workshop, story, rng)
    text = power.circuit_text("regulator-clock")
    on.do(lambda job, at: choose_circuit(job, "Regulator with a clock", text, at))
    expose.oscillating_rail(on)
