"""Hypotheses cast as changes of one circuit in one setting: those that change the same are one variant."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Variants
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.response import Ends
from violet_dial.core.circuit.system import System
from violet_dial.core.diagnosis.faults import REBUILDS, CircuitChange, changes_of, rebuilt
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.records.circuit import Fault, Setting

Array = npt.NDArray[Any]
FIGURES = 2  # unknown figures of one hypothesis: at most one for each fault


@dataclass(frozen=True)
class HypothesisVariants:
    """``count`` variants of the base.

    ``own`` (count, k): the part whose place the siemens of a slot take, by its place among ``parts``, or -1;
    ``at_fault`` (count, parts): whose healthy spread does not count, and ``strength`` (count, parts) how many times its
    siemens, or what it gives, a part then has. For each unknown figure ``ends`` (count, 2) says
    where it acts and ``moves`` (count, 2, 2) by how much for one standard deviation down and up: siemens where
    ``is_siemens``, else what is pushed there, by ``output`` (count, 2) times the current of that element where not -1.
    """

    variants: Variants
    own: Array
    at_fault: Array
    strength: Array
    ends: Ends
    moves: Array
    is_siemens: Array
    output: Array

    def part(self, places: Array) -> "HypothesisVariants":
        """Some of the variants."""
        one = self.variants
        variants = Variants(
            one.plus[places], one.minus[places], one.siemens[places],
            None if one.source is None else one.source[places], None if one.scale is None else one.scale[places],
        )  # fmt: skip
        ends = Ends(self.ends.plus[places], self.ends.minus[places])
        return HypothesisVariants(
            variants, self.own[places], self.at_fault[places], self.strength[places], ends, self.moves[places],
            self.is_siemens[places], self.output[places],
        )  # fmt: skip

    def with_meter(self, plus: Array, minus: Array, siemens: float) -> "HypothesisVariants":
        """A meter between two rows of each variant, as one more change."""
        one = self.variants
        column = np.full((one.count, 1), siemens)
        variants = Variants(
            np.concatenate([one.plus, plus[:, None]], axis=1), np.concatenate([one.minus, minus[:, None]], axis=1),
            np.concatenate([one.siemens, column], axis=1), one.source, one.scale,
        )  # fmt: skip
        own = np.concatenate([self.own, np.full((one.count, 1), -1)], axis=1)
        return HypothesisVariants(
            variants, own, self.at_fault, self.strength, self.ends, self.moves, self.is_siemens, self.output
        )


@dataclass(frozen=True)
class _Role:
    """What one hypothesis changes, and what its figures change when they move."""

    changes: tuple[CircuitChange, ...]
    at_fault: frozenset[str]
    moved: tuple[tuple[tuple[CircuitChange, ...], tuple[CircuitChange, ...]], ...]
    rebuilds: Fault | None

    @property
    def counts(self) -> bool:
        """Whether anything changes at all."""
        return bool(self.changes) or self.rebuilds is not None


def roles_of(circuit: Circuit, hypotheses: tuple[Hypothesis, ...], setting: Setting) -> tuple[list[_Role], Array]:
    """Distinct roles and, for each hypothesis, which is its own, shape (h,)."""
    found: dict[object, int] = {(): 0}
    roles = [_joined([])]  # nothing changed is always among them
    index = np.empty(len(hypotheses), dtype=np.intp)
    known: dict[tuple[Fault, float], _Role] = {}
    for place, hypothesis in enumerate(hypotheses):
        several = []
        for slot, fault in enumerate(hypothesis.faults):
            span = hypothesis.spans[slot] if slot < len(hypothesis.spans) else 0.0
            if (fault, span) not in known:
                known[fault, span] = _role(circuit, fault, span, setting)
            several.append(known[fault, span])
        key = tuple(id(role) for role in several if role.counts)
        if key not in found:
            found[key] = len(roles)
            roles.append(_joined([role for role in several if role.counts]))
        index[place] = found[key]
    return roles, index


def _role(circuit: Circuit, fault: Fault, span: float, setting: Setting) -> _Role:
    """What one fault changes."""
    if fault.mode in REBUILDS and rebuilt(circuit, fault) is not None:
        return _Role((), frozenset(), (), fault)
    now = changes_of(circuit, fault, setting)
    faulty = frozenset({fault.part}) if now and circuit.has(fault.part) and not fault.to_node else frozenset()
    moved: tuple[tuple[tuple[CircuitChange, ...], tuple[CircuitChange, ...]], ...] = ()
    if span and now:
        step = span / math.sqrt(12.0)
        moved = ((changes_of(circuit, _at(fault, -step), setting), changes_of(circuit, _at(fault, step), setting)),)
    return _Role(now, faulty, moved, None)


def _joined(several: list[_Role]) -> _Role:
    """Faults at once."""
    if len(several) == 1:
        return several[0]
    return _Role(
        tuple(change for one in several for change in one.changes), frozenset().union(*(one.at_fault for one in several)),
        tuple(moved for one in several for moved in one.moved), next((one.rebuilds for one in several if one.rebuilds), None),
    )  # fmt: skip


def _at(fault: Fault, step: float) -> Fault:
    return Fault(fault.part, fault.mode, fault.figure * math.exp(step), fault.share, fault.only, fault.to_node)


def make_variants(system: System, stands: Circuit, roles: list[_Role], parts: list[str]) -> HypothesisVariants:
    """Roles as changes of a base. ``parts``: names of those with a tolerance."""
    count = len(roles)
    width = max([1, *(sum(2 if change.series_ohm else 1 for change in role.changes) for role in roles)])
    plus, minus, own = (np.full((count, width), -1) for _ in range(3))
    siemens = np.zeros((count, width))
    source = np.tile(system.source, (count, 1))
    scale = np.ones((count, system.inject.shape[1]))
    at = {name: place for place, name in enumerate(parts)}
    outputs = {element.part.name: element.outputs for element in system.elements}
    at_fault, strength = np.zeros((count, len(parts)), dtype=bool), np.ones((count, len(parts)))
    figures = _Figures(count)
    for place, role in enumerate(roles):
        at_fault[place, [at[name] for name in role.at_fault if name in at]] = True
        slot = 0
        for change in role.changes:
            if change.siemens:
                plus[place, slot], minus[place, slot] = (system.row(node) for node in change.nodes)
                siemens[place, slot] = change.siemens
                own[place, slot] = at.get(change.own, -1)
                if change.own in at:
                    strength[place, at[change.own]] *= 1.0 + change.siemens * stands.part(change.own).value
                slot += 1
            if change.source:
                push = _source_push(system, stands, change)
                for row, amount in push:
                    source[place, row] += amount
                if change.source in at:
                    strength[place, at[change.source]] *= change.source_factor
                if change.series_ohm and f"@{change.source.lower()}" in system.index:
                    plus[place, slot] = system.index[f"@{change.source.lower()}"]
                    siemens[place, slot] = -change.series_ohm
                    slot += 1
            for output, factor in zip(outputs.get(change.element, ()), change.element_factors, strict=False):
                scale[place, output] *= factor
        figures.put(place, role, (system, stands, outputs))
    variants = Variants(plus, minus, siemens, source, scale)
    ends = Ends(figures.plus, figures.minus)
    return HypothesisVariants(variants, own, at_fault, strength, ends, figures.moves, figures.is_siemens, figures.output)


def _source_push(system: System, stands: Circuit, change: CircuitChange) -> list[tuple[int, float]]:
    """What a change of a source adds to the right-hand side, by row."""
    part = stands.part(change.source)
    branch = system.index.get(f"@{part.name.lower()}")
    if branch is not None:
        return [(branch, system.source[branch] * (change.source_factor - 1.0))]
    ends = zip(part.nodes, (1.0, -1.0), strict=True)
    return [(system.row(n), sign * part.value * (1.0 - change.source_factor)) for n, sign in ends if system.row(n) >= 0]


class _Figures:
    """Where the unknown figures of each variant act, and by how much."""

    def __init__(self, count: int) -> None:
        self.plus, self.minus, self.output = (np.full((count, FIGURES), -1) for _ in range(3))
        self.moves = np.zeros((count, FIGURES, 2))
        self.is_siemens = np.zeros((count, FIGURES), dtype=bool)

    def put(self, place: int, role: _Role, at: tuple[System, Circuit, dict[str, tuple[int, ...]]]) -> None:
        """One variant's."""
        for slot, (down, up) in enumerate(role.moved[:FIGURES]):
            for now in role.changes:
                same = [(a, b) for a, b in zip(down, up, strict=True) if _same_place(a, now) and a != b]
                if same:
                    self._one((place, slot), (now, *same[0]), at)
                    break

    def _one(
        self,
        to: tuple[int, int],
        three: tuple[CircuitChange, CircuitChange, CircuitChange],
        at: tuple[System, Circuit, dict[str, tuple[int, ...]]],
    ) -> None:
        now, down, up = three
        system, stands, outputs = at
        if now.siemens:
            self.plus[to], self.minus[to] = (system.row(node) for node in now.nodes)
            self.moves[to] = down.siemens - now.siemens, up.siemens - now.siemens
            self.is_siemens[to] = True
        elif now.source:
            branch = system.index.get(f"@{now.source.lower()}")
            if branch is None:
                part = stands.part(now.source)
                self.plus[to], self.minus[to] = (system.row(node) for node in part.nodes)
                self.moves[to] = [part.value * (now.source_factor - one.source_factor) for one in (down, up)]
                return
            self.plus[to] = branch
            if down.series_ohm != up.series_ohm:
                self.moves[to] = now.series_ohm - down.series_ohm, now.series_ohm - up.series_ohm
                self.is_siemens[to] = True
            else:
                value = system.source[branch]
                self.moves[to] = [value * (one.source_factor - now.source_factor) for one in (down, up)]
        elif now.element:
            output = outputs[now.element][-1]
            ends = np.flatnonzero(system.inject[:, output])
            for row in ends:
                side = self.plus if system.inject[row, output] > 0 else self.minus
                side[to] = row
            self.output[to] = output
            self.moves[to] = [one.element_factors[-1] / max(now.element_factors[-1], 1e-12) - 1.0 for one in (down, up)]


def _same_place(one: CircuitChange, other: CircuitChange) -> bool:
    return (one.nodes, one.source, one.element) == (other.nodes, other.source, other.element)
