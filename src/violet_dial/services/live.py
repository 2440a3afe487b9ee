"""Live instruments at the bench: what they show, where the next steady reading goes, and taking it by itself.

No reading is taken by itself unless hands-free is on, the function fits, and the reading is steady and new.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal

from pydantic import ConfigDict, TypeAdapter, ValidationError, with_config

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering, format_grouped
from violet_dial.core.steady.detector import Detector, SteadyVerdict
from violet_dial.core.steady.samples import FUNCTION_WORDS, UNITS, Capture, Function, Sample
from violet_dial.instruments.dialects import DIALECTS, LAMP_SUPPLY
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.link import Link, LinkStatus

with_config(ConfigDict(extra="forbid", allow_inf_nan=False))(Kept)
_LIST = TypeAdapter(tuple[Kept, ...])


def instruments_to_json(kept: tuple[Kept, ...]) -> str:
    """The list as one line of JSON."""
    return _LIST.dump_json(kept).decode()


def instruments_from_json(text: str) -> tuple[Kept, ...]:
    """The list from JSON; empty text is an empty list. Raises InvalidInput: not such a list."""
    if not text:
        return ()
    try:
        return _LIST.validate_json(text)
    except ValidationError as error:
        fault = error.errors(include_url=False)[0]
        raise InvalidInput("Kept instruments", text, f"a list as this application writes it ({fault['msg']})") from error


EventKind = Literal["taken", "refused", "lost", "back"]
LIVE_V = 0.05  # with more than this at the leads, ohms, diode and current are not switched to by themselves
NEEDS_DEAD: tuple[Function, ...] = ("ohm", "continuity", "diode", "capacitance", "amp")
AIM_STOPS = 0.5  # a reference light further from what was asked for is not taken by itself
MOST_WINDOW = 60  # raw samples kept with a reading


@dataclass(frozen=True)
class Slot:
    """Where the next reading goes: said in words, the function it needs, and the light it should be at (lx, 0 any)."""

    words: str
    function: Function
    aim_lx: float = 0.0


@dataclass(frozen=True)
class InstrumentShown:
    """One instrument as the bar shows it."""

    name: str
    status: LinkStatus
    verdict: SteadyVerdict | None = None
    sample: Sample | None = None

    @property
    def figure(self) -> str:
        """The figure with its unit, steady ones to what they are worth; a dash without one."""
        if self.sample is None or self.status.state != "live":
            return "—"
        if not math.isfinite(self.sample.value):
            return "OL"
        return figure_text(self.sample.value, self.sample.function)


@dataclass(frozen=True)
class Event:
    """Something to hear and see: a reading taken, refused, a link lost or back."""

    kind: EventKind
    words: str
    capture: Capture | None = None


def figure_text(value: float, function: Function) -> str:
    """A live figure with its unit, four digits."""
    if function == "lux":
        return f"{format_grouped(value)} lx" if value >= LEAST_GROUPED else f"{value:.4g} lx"
    if function in ("volt", "diode") and abs(value) < 10:
        return f"{value:.3f} V".replace("-", "−")
    return f"{format_engineering(value, 4)}{UNITS[function]}"


def _now() -> str:
    return datetime.now().astimezone().isoformat(timespec="milliseconds")


LEAST_GROUPED = 999.95  # from here four digits are a thousand: one shape for one figure


class LiveBench:
    """The instruments of this bench. Called from one thread; the links have threads of their own."""

    def __init__(self, clock: Callable[[], str] = _now) -> None:
        self._clock = clock
        self._links: dict[str, Link] = {}
        self._detectors: dict[str, Detector] = {}
        self._shown: dict[str, InstrumentShown] = {}
        self._events: list[Event] = []
        self._refused = ""  # what was refused for the touch at hand, so that it is said once
        self.hands_free = False
        self.slot: Slot | None = None
        self.looked_at: Function = "volt"  # what the station in view is about, where nothing is asked for

    # instruments

    @property
    def instruments(self) -> tuple[Kept, ...]:
        return tuple(link.kept for link in self._links.values())

    def connect(self, kept: Kept, period_s: float = 0.1) -> None:
        """Begin to read an instrument. Raises InvalidInput: the name is taken."""
        if kept.name in self._links:
            raise InvalidInput("Name", kept.name, "a name no other instrument here has")
        link = Link(kept, period_s)
        self._links[kept.name], self._detectors[kept.name] = link, Detector()
        self._shown[kept.name] = InstrumentShown(kept.name, link.status)
        link.start()
        if self.slot is not None:
            self.aim(self.slot)

    def disconnect(self, name: str) -> None:
        """Let go of an instrument."""
        self._links.pop(name).close()
        del self._detectors[name], self._shown[name]

    def close(self) -> None:
        """Let go of all, at the same time."""
        for link in self._links.values():
            link.stop()
        for name in tuple(self._links):
            self.disconnect(name)

    def shown(self, name: str) -> InstrumentShown:
        return self._shown[name]

    @property
    def front(self) -> InstrumentShown | None:
        """The instrument for the bar: one that fits the slot, else the first."""
        everyone = tuple(self._shown.values())
        function = self.slot.function if self.slot is not None else self.looked_at
        fitting = sorted((one for one in everyone if self._can(one.name, function)), key=self._is_told)
        return (fitting or list(everyone) or [None])[0]  # type: ignore[list-item]

    def _is_told(self, shown: InstrumentShown) -> bool:
        """Whether its light is not measured but known of the lamp: a meter goes before it."""
        return self._links[shown.name].kept.speaks == LAMP_SUPPLY

    def _can(self, name: str, function: Function) -> bool:
        """Whether an instrument has a function, by what it speaks or by what it sends now."""
        kept, sample = self._links[name].kept, self._shown[name].sample
        probes = DIALECTS[kept.speaks].probes
        return function in probes if probes is not None else sample is not None and sample.function == function

    # the slot

    def aim(self, slot: Slot | None) -> None:
        """Where the next reading goes; the fitting meter is set to the function, unless that is unsafe."""
        changed = slot != self.slot
        self.slot = slot
        if slot is None:
            return
        if changed:
            self._refused = ""
        front = self.front
        if front is None or not self._can(front.name, slot.function):
            return
        if slot.function == "lux":
            self._detectors[front.name].arm()
        elif not self.unsafe_to_set(front, slot):
            self._links[front.name].want(slot.function)

    def set_light(self) -> bool:
        """Ask a settable lamp for the light of the slot; False where there is none."""
        return self.slot is not None and self.set_lux(self.slot.aim_lx)

    def set_lux(self, lux: float) -> bool:
        """Ask a settable lamp for a light; False where none can give it."""
        lamps = [link for link in self._links.values() if link.kept.can_give(lux)]
        if not lamps or lux <= 0:
            return False
        lamps[0].set_light(lux)
        return True

    @property
    def light(self) -> Capture | None:
        """The light that a lux meter shows now, or else what the lamp's own curve says; None without either."""
        for one in sorted(self._shown.values(), key=self._is_told):
            if one.status.state == "live" and one.sample is not None and one.sample.function == "lux":
                return self._capture(one) if math.isfinite(one.sample.value) and one.verdict is not None else None
        return None

    @property
    def lux(self) -> float | None:
        """The same as a figure."""
        light = self.light
        return None if light is None else light.value

    def unsafe_to_set(self, shown: InstrumentShown, slot: Slot) -> str:
        """Why the meter is not switched to what the slot needs by itself; empty when it may be."""
        sample = shown.sample
        if slot.function == "amp" and (sample is None or sample.function != "amp"):
            return "Current needs the lead in the meter's A socket: move it and turn the meter by hand."
        at_leads = sample is not None and sample.function == "volt" and not abs(sample.value) <= LIVE_V
        if slot.function in NEEDS_DEAD and at_leads:
            return f"There is {shown.figure} at the leads: take the cells out before {FUNCTION_WORDS[slot.function]}."
        return ""

    # readings

    def poll(self) -> tuple[Event, ...]:
        """Take in what came since the last call; what happened, in order."""
        for name, link in self._links.items():
            before, status = self._shown[name], link.status
            if before.status.state == "live" and status.state == "lost":
                self._events.append(Event("lost", f"{name}: {status.words}"))
            if before.status.state == "lost" and status.state == "live":
                self._events.append(Event("back", f"{name} is back."))
            self._shown[name] = replace(before, status=status)
            for sample in link.drain():
                verdict = self._detectors[name].feed(sample)
                self._shown[name] = InstrumentShown(name, status, verdict, sample)
                self._consider(name)
        found, self._events = tuple(self._events), []
        return found

    def _consider(self, name: str) -> None:
        """Take the reading by itself, or say once why not."""
        shown, front = self._shown[name], self.front
        verdict = shown.verdict
        if front is not None and front.name == name and verdict is not None and verdict.kind in ("open", "steady"):
            self._set_again(shown)  # what was unsafe while the last spot was touched may be safe now
        if not self.hands_free or self.slot is None or front is None or front.name != name or verdict is None:
            return
        if verdict.kind != "steady" or not verdict.fresh:
            if verdict.kind == "open":
                self._refused = ""  # lifted: the next touch is heard anew
            return
        why = self.why_not(shown)
        if why:
            if why != self._refused and not self.slot.aim_lx:  # a light on its way to its level is waited for
                self._refused = why
                self._events.append(Event("refused", why))
            return
        self._detectors[name].taken()
        self._refused = ""
        self._events.append(Event("taken", f"{shown.figure} → {self.slot.words}", self._capture(shown)))

    def _set_again(self, shown: InstrumentShown) -> None:
        """The meter was turned away from the function: it is set again where that is safe."""
        slot, sample = self.slot, shown.sample
        if slot is None or sample is None or sample.function == slot.function:
            return
        if not self.unsafe_to_set(shown, slot):
            self._links[shown.name].want(slot.function)

    def why_not(self, shown: InstrumentShown, any_light: bool = False) -> str:
        """Why what an instrument shows does not go into the slot; empty when it does."""
        slot, sample, verdict = self.slot, shown.sample, shown.verdict
        if slot is None:
            return "Nothing is asked for here: there is no place for the reading."
        if shown.status.state != "live" or sample is None or verdict is None:
            return f"{shown.name} shows nothing now: {shown.status.words}"
        if sample.function != slot.function:
            words = f"{FUNCTION_WORDS[slot.function]} asked for, {shown.name} is on {FUNCTION_WORDS[sample.function]}."
            return f"{words[:1].upper()}{words[1:]} {self.unsafe_to_set(shown, slot)}".strip()
        if slot.aim_lx > 0 and not any_light and math.isfinite(sample.value):
            off = math.log2(max(sample.value, 1e-6) / slot.aim_lx)
            if abs(off) > AIM_STOPS:
                return f"{abs(off):.1f} stop too {'high' if off > 0 else 'low'}"
        return ""

    def take(self) -> Capture:
        """The reading as it stands, by the person's own will.

        Raises InvalidInput: no instrument, no place for it, the wrong function, or no figure.
        """
        shown = self.front
        if shown is None:
            raise InvalidInput("Take", "no instrument", "a connected instrument (F12), or the figure typed")
        why = self.why_not(shown, any_light=True)
        beyond = shown.sample is not None and not math.isfinite(shown.sample.value)
        if not why and beyond and shown.sample is not None and shown.sample.function != "ohm":
            why = "It is beyond the range: choose a larger one."
        if why:
            raise InvalidInput("Take", shown.figure, why)
        self._detectors[shown.name].taken()
        return self._capture(shown)

    def _capture(self, shown: InstrumentShown) -> Capture:
        """The reading with all that belongs to it; beyond the range on ohms it is infinite."""
        sample, verdict = shown.sample, shown.verdict
        if sample is None or verdict is None:
            raise InvalidInput("Take", "nothing", "a figure from the instrument")
        steady = verdict.kind == "steady"
        value = verdict.value if steady else sample.value
        limits = self._links[shown.name].kept.accuracy(sample.function)
        noise = verdict.u if steady else _spread(verdict.window)
        u = math.hypot(noise, limits.standard(value)) if math.isfinite(value) else 0.0
        window = tuple(
            (round(one.at_s - sample.at_s, 3), one.value) for one in verdict.window[-MOST_WINDOW:] if math.isfinite(one.value)
        )
        return Capture(shown.name, sample.function, value, u, sample.full_scale, self._clock(), window)


def _spread(window: tuple[Sample, ...]) -> float:
    """Half the span of an unsettled reading, as a rectangle: what can be said of it."""
    values = [one.value for one in window if math.isfinite(one.value)]
    return (max(values) - min(values)) / 2 / math.sqrt(3.0) if values else 0.0
