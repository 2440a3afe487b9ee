"""The function walk: which acts fit a kind of device, and what clashes between their results.

Source: Common practice, no source.
"""

from dataclasses import dataclass
from typing import Literal, get_args

from violet_dial.core.receiving.places import DeviceKind

Supply = Literal["battery", "no battery", "bench supply"]
SUPPLIES: tuple[Supply, ...] = get_args(Supply)
Result = Literal["works", "wrong", "dead", "not tried"]
Tried = dict[tuple[str, str, Supply], Result]


@dataclass(frozen=True)
class WalkAct:
    """One act of the walk; ``settings`` are worth trying one by one, ``wants_power`` when it needs a cell."""

    name: str
    settings: tuple[str, ...] = ()
    wants_power: bool = False


@dataclass(frozen=True)
class Trial:
    """One act tried: with what setting, on which supply, with what result."""

    act: str
    setting: str
    supply: Supply
    result: Result


@dataclass(frozen=True)
class Clash:
    """Two results that do not go together, and what that says."""

    title: str
    meaning: str


_NEEDLE = (WalkAct("needle under light", ("Ev 6", "Ev 12"), True), WalkAct("needle under a cap", (), True))
_BATTERY = (WalkAct("battery test", (), True),)
_SHUTTER = (
    WalkAct("advance"), WalkAct("release", ("1/30", "1/125", "1/500")), WalkAct("slow speeds", ("1 s", "1/4", "B")),
    WalkAct("self-timer"), WalkAct("rewind"),
)  # fmt: skip
_ACTS: dict[DeviceKind, tuple[WalkAct, ...]] = {
    "hand meter": (*_NEEDLE, *_BATTERY, WalkAct("dial and rings"), WalkAct("film-speed setting"), WalkAct("needle lock")),
    "rangefinder compact": (
        *_BATTERY, *_NEEDLE, WalkAct("lamps", ("slow", "over"), True), *_SHUTTER, WalkAct("flash", (), True),
    ),
    "reflex": (*_BATTERY, *_NEEDLE, WalkAct("stop-down"), *_SHUTTER, WalkAct("mirror")),
    "instant camera": (
        WalkAct("lamps", ("ready", "empty"), True), WalkAct("release", ("bright", "dim"), True),
        WalkAct("motor and ejection", (), True), WalkAct("flash", (), True), WalkAct("light-dark slider", (), True),
    ),
    "medium-format body": (
        WalkAct("advance"), WalkAct("release", ("1/30", "1/500")), WalkAct("mirror"), *_BATTERY, *_NEEDLE,
        WalkAct("dark slide lock"),
    ),
    "board": (WalkAct("draws current", (), True), WalkAct("clock running", (), True), WalkAct("lamps", (), True)),
}  # fmt: skip


def acts_for(kind: DeviceKind, selenium: bool = False) -> tuple[WalkAct, ...]:
    """The acts that fit this kind of device; a selenium meter has no battery to test."""
    acts = _ACTS.get(kind, _ACTS["board"])
    if not selenium:
        return acts
    return tuple(
        WalkAct(act.name, act.settings, False) if act.name.startswith("needle") else act
        for act in acts
        if act.name != "battery test"
    )


def find_clashes(trials: tuple[Trial, ...]) -> tuple[Clash, ...]:
    """What in the walk does not go together; the newest result of each act, setting and supply counts."""
    newest: dict[tuple[str, str, Supply], Result] = {}
    for trial in trials:
        newest[(trial.act, trial.setting, trial.supply)] = trial.result
    tried: Tried = {key: result for key, result in newest.items() if result != "not tried"}
    return (*_needle_clashes(tried), *_supply_clashes(tried), *_setting_clashes(tried))


def _results(tried: Tried, act: str, *supplies: Supply) -> set[Result]:
    return {result for (name, _, supply), result in tried.items() if name == act and supply in (supplies or SUPPLIES)}


def _needle_clashes(tried: Tried) -> list[Clash]:
    found = []
    lives = "works" in _results(tried, "needle under light", "battery", "bench supply")
    if lives and "dead" in _results(tried, "battery test"):
        found.append(
            Clash(
                "The needle moves but the battery test is dead",
                "The cell feeds the meter; look at the test switch, its resistor and its lead, not at the meter.",
            )
        )
    if "works" in _results(tried, "needle under light", "no battery") and _results(tried, "battery test"):
        found.append(
            Clash(
                "The needle moves with no battery in",
                "Either the cell is photovoltaic or a charge is left somewhere; note which before tracing.",
            )
        )
    if lives and "works" not in _results(tried, "needle under a cap") and _results(tried, "needle under a cap"):
        found.append(
            Clash(
                "The needle does not fall back under a cap",
                "Lively is not right: a leak or a stuck pointer holds it up; check the zero.",
            )
        )
    return found


def _supply_clashes(tried: Tried) -> list[Clash]:
    found = []
    for act in sorted({name for name, _, _ in tried}):
        if "works" in _results(tried, act, "bench supply") and _results(tried, act, "battery") & {"dead", "wrong"}:
            found.append(
                Clash(
                    f"{act.capitalize()} works on the bench supply, not on cells",
                    "Think mechanics: clips, a blob that touches only when the cells press, weak cells under load.",
                )
            )
    return found


def _setting_clashes(tried: Tried) -> list[Clash]:
    found = []
    for act in sorted({name for name, setting, _ in tried if setting}):
        good = sorted({setting for (name, setting, _), r in tried.items() if name == act and r == "works"})
        bad = sorted({setting for (name, setting, _), r in tried.items() if name == act and r in ("dead", "wrong")})
        only = [setting for setting in bad if setting not in good]
        if good and only:
            found.append(
                Clash(
                    f"{act.capitalize()}: {', '.join(only)} fails while {', '.join(good)} works",
                    "A selector that fails on one position: its contact first, then what only that setting uses.",
                )
            )
    return found
