"""Proofs of the demo: a body that failed now and then, a magnet on day three of its exercise, a compact with a seal roll."""

import numpy as np

from violet_dial.demo.story import LUX, Story, begin
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Intake
from violet_dial.job.light import LightSetup
from violet_dial.job.receiving import TakenTrial
from violet_dial.services.workshop import Workshop
from violet_dial.stations.hand_back import demo as hand_back
from violet_dial.stations.light.demo import DemoMeter
from violet_dial.stations.prove import demo as prove
from violet_dial.stations.receive import demo as receive
from violet_dial.stations.receive.acts import FindingSeen


def now_and_then(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Razorbill reflex", "Stack & Geo", "RZ 7 402", "reflex", "silicon"),
        Intake(
            "Blank frames now and then, most at 1/250", came_with="50 mm lens, two LR44",
            noticed="The mirror comes up and nothing opens. Not every time.",
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )  # fmt: skip
    on = begin(workshop, story, rng)
    trials = (
        TakenTrial("release", "1/60", "battery", "works"),
        TakenTrial("release", "1/250", "battery", "wrong", "not every time"),
    )
    receive.looked_and_tried(on, (FindingSeen("wear", "top", 0.3, 0.5, "a spot", "dial worn at 1/250"),), trials)
    prove.now_and_then(on)
    closing = Closing(
        done="Contacts of the speed dial cleaned in two rounds: swab, then fluid.\nBlack wiped until none came off any more.",
        left="The dial's engraving at 1/250 is worn; it is sure by its click.",
        battery="Two LR44, 1.48 V each under load",
        care="Turn the speed dial through all its positions once a month.",
        recheck_on="May 2027",
        lesson="Fails only after a night's rest: fire it first thing in the morning.",
    )
    hand_back.close(on, closing)


def on_day_three(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Fulmar magnet camera", "Holm Optical", "FM 22 019", "rangefinder compact", "silicon"),
        Intake(
            "Fires only after some tries, two years in a drawer",
            came_with="Case",
            noticed="Came free by hand; clicks dully.",
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )
    on = begin(workshop, story, rng)
    seen = (FindingSeen("sticky", "front", 0.5, 0.6, "a spot", "blades come free by hand"),)
    receive.looked_and_tried(on, seen, (TakenTrial("release", "1/60", "battery", "wrong", "blades come late"),))
    prove.on_day_three(on)


def seal_roll(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Phalarope compact", "Auk & Daughters", "PC 5 510", "rangefinder compact", "selenium"),
        Intake(
            "Streaks on film, now on every other frame",
            came_with="A developed strip",
            noticed="Foam at the hinge is tar.",
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )
    on = begin(workshop, story, rng)
    seen = (FindingSeen("sticky", "back", 0.9, 0.5, "a patch", "foam of the hinge is tar"),)
    receive.looked_and_tried(on, seen, (TakenTrial("release", "1/60", "no battery", "works"),))
    prove.seal_roll(on)
    prove.soaked(
        on, (("2026-11-10", "12.0 Ev"), ("2026-11-12", "12.1 Ev"), ("2026-11-15", "12.0 Ev"), ("2026-11-20", "12.1 Ev"))
    )
