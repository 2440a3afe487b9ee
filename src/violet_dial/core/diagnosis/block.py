"""All hypotheses solved in one setting, and what is seen between its points: with healthy tolerances, with the spread of
unknown figures, with a meter's own resistance, and with how far all this is from a straight line.

Only what is looked at is worked out. Tolerances and figures act along straight lines through the adjoint of each variant;
the same deviations solved in full a few times tell how far off the lines are.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import scale_of, solve_variants
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.newton import in_shares
from violet_dial.core.circuit.response import Ends, responses
from violet_dial.core.circuit.system import System
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.standing import DRAWS, Draw, Draws, Standing, standing_of
from violet_dial.core.diagnosis.tolerances import blur_of, element_outputs
from violet_dial.core.diagnosis.variants import FIGURES, HypothesisVariants, make_variants, roles_of
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
Look = tuple[str, str]  # between two nodes, or from a branch (``@v1``) to ground
MANY_ROLES = 900
MANY = 12_000  # variants times watched voltages from which one variant is drawn for all
AT_ONCE = 256  # variants whose responses are held at the same time
HEAVY, HEAVY_FOR_A_CHOICE = 0.02, 0.3  # a point pulled by more than this share is solved with the meter in
UNKNOWN_V = 1e3  # what is not solved with the meter in may be anything
DRIVE_V, DRIVE_OHM = 0.5, 100e3  # of an ohmmeter that does not spare junctions; common practice, no source
BENT = 0.894  # standard deviation of (t^2 - 1) for a figure evenly spread over its rung


@dataclass(frozen=True)
class BlockReadings:
    """``value`` (h, l); ``load`` (h, l, p + 2): how far one standard deviation of each toleranced part, each light and each
    unknown figure moves it; ``bend`` (h, l): standard deviation of what these straight lines miss; ``ohm`` (h, l): resistance
    there, and ``ohm_load`` (h, l, p + 2) how the same deviations move that."""

    value: Array
    load: Array
    bend: Array
    ohm: Array
    ohm_load: Array

    def part(self, index: Array) -> BlockReadings:
        """Some of the variants, in another order."""
        return BlockReadings(*(getattr(self, name)[index] for name in SEEN))


SEEN = ("value", "load", "bend", "ohm", "ohm_load")


def _together(several: list[BlockReadings]) -> BlockReadings:
    return BlockReadings(*(np.concatenate([getattr(one, name) for one in several]) for name in SEEN))


class _Group:
    """Variants of one circuit, solved."""

    def __init__(self, standing: Standing, one: HypothesisVariants, start: Array, draws: Draws, task: Task) -> None:
        self.standing, self.cast, self.draws = standing, one, draws
        solution = solve_variants(standing.base, one.variants, start, task)
        self.x = np.concatenate([solution.x, np.zeros((len(solution.x), 1))], axis=1)  # the last column is ground's
        self.w, self.solved = solution.w, solution.solved
        scale = scale_of(standing.system, one.variants)
        self.value = element_outputs(standing.system, self.w, scale)
        self.blur = blur_of(standing.parts, standing.system, solution.x, self.value)
        self.lit = (self.blur * one.strength)[:, None, :] * standing.lights  # it shines on a cell at fault too
        self.blur[one.at_fault] = 0.0
        # Of many variants the first alone, the sound one, is drawn: the others miss the lines by the same share.
        self.drawn = slice(0, 1) if len(self.x) * (1 + self.w.shape[1]) > MANY else slice(None)
        self.drawn_x = [self._drawn(draw, task) for draw in draws.each]

    def _drawn(self, draw: Draw, task: Task) -> Array:
        drawn = self.cast.part(np.arange(len(self.x))[self.drawn])
        changed = draw.changed(self.standing, drawn)
        found = solve_variants(draw.base, changed, self.w[self.drawn] if self.w.size else None, task, is_draw=True)
        x = np.concatenate([found.x, np.zeros((len(found.x), 1))], axis=1)
        return np.where(found.solved[:, None], x, np.nan)

    def see(self, looks: Ends) -> BlockReadings:
        """What is seen between rows, (count or 1, l), of every variant."""
        count = len(self.x)
        shape = (count, looks.plus.shape[1])
        looks = Ends(np.broadcast_to(looks.plus, shape), np.broadcast_to(looks.minus, shape))
        return _together(in_shares(count, AT_ONCE, lambda one: self._see(one, looks)))

    def _see(self, places: slice, looks: Ends) -> BlockReadings:
        x, one = self.x[places], self.cast.part(np.arange(len(self.x))[places])
        plus, minus = looks.plus[places], looks.minus[places]
        wide = Ends(np.concatenate([plus, one.ends.plus], axis=1), np.concatenate([minus, one.ends.minus], axis=1))
        to_parts, to_ends = responses(self.standing.base, one.variants, self.w[places], wide, self.standing.along, wide)
        count = plus.shape[1]
        rows = np.arange(len(x))[:, None]
        value = x[rows, plus] - x[rows, minus]
        load = self._load(places, to_parts[:, :count])
        down, up = self._figures(places, x, one, to_ends)
        figure_load = (up - down) / 2
        ohm = np.abs(np.diagonal(to_ends, axis1=1, axis2=2)[:, :count])  # of a branch it is siemens, and counted back
        bend = np.square(BENT / 2 * (up + down)).sum(axis=2)
        bend = bend + self._off_the_lines(places, (plus, minus), value, load)
        ohm_load = self._ohm_load(one, to_parts[:, :count], to_ends)
        return BlockReadings(value, np.concatenate([load, figure_load], axis=2), np.sqrt(bend), ohm, ohm_load)

    def _load(self, places: slice, to_parts: Array) -> Array:
        """How a standard deviation of each part, and of each light, moves what is seen, (count, l, p)."""
        return np.concatenate([to_parts * self.blur[places, None, :], to_parts @ self.lit[places].transpose(0, 2, 1)], axis=2)

    def _ohm_load(self, one: HypothesisVariants, to_parts: Array, to_ends: Array) -> Array:
        """The resistance between rows under each part's and each figure's own deviation, (count, l, p + 2)."""
        count = to_parts.shape[1]
        weight = np.array([each.siemens * each.share for each in self.standing.parts])
        squares = np.square(to_parts)
        lit = (squares * (weight * one.strength)[:, None, :]) @ self.standing.lights.T
        load = np.concatenate([squares * (weight * ~one.at_fault)[:, None, :], lit], axis=2)
        own = np.diagonal(to_ends, axis1=1, axis2=2)[:, count:]
        moved = []
        for side in (0, 1):
            moves = np.where(one.is_siemens, one.moves[:, :, side], 0.0)
            through = moves / np.maximum(1.0 + own * moves, 0.05)
            moved.append(-np.square(to_ends[:, :count, count:]) * through[:, None, :])
        return np.concatenate([load, (moved[1] - moved[0]) / 2], axis=2)

    def _figures(self, places: slice, x: Array, one: HypothesisVariants, to_ends: Array) -> tuple[Array, Array]:
        """How a standard deviation down and up of each unknown figure moves each look, (count, l, 2) each."""
        count = to_ends.shape[1] - FIGURES
        rows = np.arange(len(x))[:, None]
        across = x[rows, one.ends.plus] - x[rows, one.ends.minus]
        own = np.diagonal(to_ends, axis1=1, axis2=2)[:, count:]
        by = np.ones_like(across)
        if self.value.shape[1]:
            by = np.where(one.output >= 0, np.take_along_axis(self.value[places], np.maximum(one.output, 0), axis=1), 1.0)
        found = []
        for side in (0, 1):
            moves = one.moves[:, :, side]
            with np.errstate(all="ignore"):
                siemens = np.nan_to_num(-across * moves / np.maximum(1.0 + own * moves, 0.05))
            pushed = np.where(one.is_siemens, siemens, moves * by)
            found.append(to_ends[:, :count, count:] * pushed[:, None, :])
        return found[0], found[1]

    def _off_the_lines(self, places: slice, rows: tuple[Array, Array], value: Array, load: Array) -> Array:
        """Mean square of what the straight lines miss of each draw, (count, l)."""
        draws = self.draws.each
        if not draws:
            return np.zeros_like(value)
        if self.drawn.stop is not None:
            return self._as_the_sound_one(rows, load)
        found = np.zeros((len(draws), *value.shape))
        at = np.arange(len(value))[:, None]
        for place, x in enumerate(self.drawn_x):
            moved, lines = x[places][at, rows[0]] - x[places][at, rows[1]] - value, load @ self.draws.deviations[place]
            found[place] = np.nan_to_num(moved) - lines  # of one that is not solved all is missed
        missed: Array = np.square(found).mean(axis=0)
        return missed

    def _as_the_sound_one(self, rows: tuple[Array, Array], load: Array) -> Array:
        """What is missed by the sound variant, for each square of what tolerances do there, taken for all, (count, l)."""
        plus, minus = rows[0][:1], rows[1][:1]
        one = self.cast.part(np.array([0]))
        nothing = Ends(np.full((1, 1), -1), np.full((1, 1), -1))
        to_parts, _ = responses(self.standing.base, one.variants, self.w[:1], Ends(plus, minus), self.standing.along, nothing)
        lines = self._load(slice(0, 1), to_parts)[0]
        value = self.x[0, plus[0]] - self.x[0, minus[0]]
        missed = np.zeros(len(value))
        for place, x in enumerate(self.drawn_x):
            away = np.nan_to_num(x[0, plus[0]] - x[0, minus[0]] - value) - lines @ self.draws.deviations[place]
            missed += np.square(away) / len(self.drawn_x)
        share = np.minimum(missed / np.maximum(np.square(lines).sum(axis=1), 1e-12), 1.0)
        found: Array = np.square(load).sum(axis=2) * share
        return found


class Block:
    """All hypotheses solved in one setting."""

    def __init__(
        self,
        circuit: Circuit,
        hypotheses: tuple[Hypothesis, ...],
        setting: Setting,
        task: Task | None = None,
        draws: int = DRAWS,
        around: Array | None = None,
    ) -> None:
        self.task = task or SilentTask()
        self.setting = setting
        main = standing_of(circuit, setting, around)
        self.circuit = main.stands
        roles, self.index = roles_of(self.circuit, hypotheses, setting)
        self.system, self.parts = main.system, main.parts
        self.driven = {node for part in self.circuit.parts if part.letter in "EHB" for node in part.nodes} - {"0"}
        names = [one.part.name for one in main.parts]
        plain = [n for n, role in enumerate(roles) if role.rebuilds is None]
        self.order = np.empty(len(roles), dtype=np.intp)
        self.order[plain] = np.arange(len(plain))
        whole = make_variants(main.system, self.circuit, [roles[n] for n in plain], names)
        self.groups = [_Group(main, whole, main.start(self.task), main.draws(draws), self.task)]
        for place, role in enumerate(roles):
            if role.rebuilds is not None:
                other = standing_of(circuit, setting, around, role.rebuilds)
                alone = make_variants(other.system, other.stands, [role], names)
                self.order[place] = len(plain) + len(self.groups) - 1
                few = other.draws(draws if len(roles) < MANY_ROLES else 0)
                self.groups.append(_Group(other, alone, other.start(self.task), few, self.task))

    def _rows(self, system: System, looks: list[Look]) -> Ends:
        found = np.array([[self._row(system, name) for name in look] for look in looks]).reshape(len(looks), 2)
        return Ends(found[:, 0][None], found[:, 1][None])

    @staticmethod
    def _row(system: System, name: str) -> int:
        if name != "0" and name not in system.index:
            raise InvalidInput("Point", name, "a point of the circuit as it stands")
        return system.row(name)

    def _spread(self, groups: list[Array]) -> Array:
        """What was found for each variant, for each hypothesis."""
        return np.concatenate(groups)[self.order][self.index]

    @property
    def solved(self) -> Array:
        """Where a solution was found, (h,)."""
        return self._spread([group.solved for group in self.groups])

    def across(self, plus: str, minus: str) -> Array:
        """Volts between two points with nothing connected, (h,)."""
        found = []
        for group in self.groups:
            a, b = (self._row(group.standing.system, name) for name in (plus, minus))
            found.append(group.x[:, a] - group.x[:, b])
        return self._spread(found)

    def driven_ohm(self, looks: list[Look]) -> Array:
        """What an ohmmeter shows that drives up to half a volt: junctions between its points may carry current then, (h, l).
        Meters differ here: some drive a few hundredths of a volt, and see nothing of junctions."""
        found = []
        for group in self.groups:
            rows = self._rows(group.standing.system, looks)
            few = len(group.x) * len(looks) <= MOST_DRIVEN
            found.append(_driven(group, rows, self.task) if few else _driven_as_the_first(group, rows, self.task))
        return self._spread(found)

    def see(self, looks: list[Look], meter_ohm: float = 0.0) -> BlockReadings:
        """What is seen at each look, with a meter's resistance between its points where one is given.

        Raises InvalidInput: the circuit, as it stands, has no such point.
        """
        found = []
        for group in self.groups:
            rows = self._rows(group.standing.system, looks)
            seen = group.see(rows)
            found.append(_metered(group, rows, seen, meter_ohm, self.task) if meter_ohm else seen)
        return _together(found).part(self.order).part(self.index)

    def transfer_ohm(self, driven: Look, seen: Look) -> float:
        """Volts between two points for an ampere through two others, in the first hypothesis."""
        one, place = self.groups[0], [int(self.order[self.index[0]])]
        driven_rows, seen_rows = (self._rows(one.standing.system, [look]) for look in (driven, seen))
        nothing = np.zeros((self.system.size + 1, 0))
        first = one.cast.part(np.array(place))
        found = responses(one.standing.base, first.variants, one.w[place], seen_rows, nothing, driven_rows)
        return float(found[1][0, 0, 0])

    def element_values(self, name: str) -> Array:
        """Current of a diode or into a collector, A, (h,)."""
        found = []
        for group in self.groups:
            element = next(each for each in group.standing.system.elements if each.part.name.lower() == name.lower())
            found.append(group.value[:, element.outputs[0]])
        return self._spread(found)


def _metered(one: _Group, rows: Ends, seen: BlockReadings, meter_ohm: float, task: Task) -> BlockReadings:
    """With the meter in: where it hardly pulls, by its share; else solved again with it as one more change."""
    pull = seen.ohm / meter_ohm
    value, load, bend = seen.value / (1 + pull), seen.load / (1 + pull)[:, :, None], seen.bend / (1 + pull)
    at, look = np.nonzero(pull > (HEAVY if one.draws.each else HEAVY_FOR_A_CHOICE))
    if len(at):
        plus, minus = rows.plus[0, look], rows.minus[0, look]
        again = _Group(one.standing, one.cast.part(at).with_meter(plus, minus, 1.0 / meter_ohm), one.w[at], one.draws, task)
        better = again.see(Ends(plus[:, None], minus[:, None]))
        kept = np.flatnonzero(again.solved)
        to = (at[kept], look[kept])
        value[to], load[to], bend[to] = better.value[kept, 0], better.load[kept, 0], better.bend[kept, 0]
        lost = np.flatnonzero(~again.solved)
        bend[at[lost], look[lost]] = UNKNOWN_V
    return BlockReadings(value, load, bend, seen.ohm, seen.ohm_load)


MOST_DRIVEN = 6_000


def _driven_as_the_first(one: _Group, rows: Ends, task: Task) -> Array:
    """As `_driven`, where they are many: what half a volt takes off the first variant's ohms it takes off all."""
    first = _driven(one, rows, task, 1)
    ohm = one.see(rows).ohm
    share = np.clip((first + 1e-3) / (ohm[:1] + 1e-3), 1e-6, 1.0)
    return ohm * share


def _driven(one: _Group, rows: Ends, task: Task, most: int | None = None) -> Array:
    """Ohms between rows under half a volt behind a range resistor, of all variants or the first ``most``, (count, l)."""
    count, looks = len(one.x) if most is None else most, rows.plus.shape[1]
    at, look = np.divmod(np.arange(count * looks), looks)
    plus, minus = rows.plus[0, look], rows.minus[0, look]
    metered = one.cast.part(at).with_meter(plus, minus, 1.0 / DRIVE_OHM)
    source = metered.variants.source
    assert source is not None
    pushed = np.concatenate([source, np.zeros((len(at), 1))], axis=1)
    rows_at = np.arange(len(at))
    np.add.at(pushed, (rows_at, plus), DRIVE_V / DRIVE_OHM)
    np.add.at(pushed, (rows_at, minus), -DRIVE_V / DRIVE_OHM)
    driven = replace(metered.variants, source=pushed[:, :-1])
    solution = solve_variants(one.standing.base, driven, one.w[at] if one.w.size else None, task)
    x = np.concatenate([solution.x, np.zeros((len(at), 1))], axis=1)
    volts = np.clip(x[rows_at, plus] - x[rows_at, minus], 0.0, DRIVE_V * (1 - 1e-6))
    found: Array = (volts * DRIVE_OHM / (DRIVE_V - volts)).reshape(count, looks)
    return found
