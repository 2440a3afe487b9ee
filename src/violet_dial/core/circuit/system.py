"""A circuit as equations: a linear part, and elements whose currents bend with a few voltages.

Unknowns x are node voltages, then currents of V, L, E, H and B voltage branches. A x = b + P f(w) with w = C x; only
w needs iteration, and it is short: two voltages for a transistor, one for a diode, one for each probe of a B source.
"""

from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.devices import Bipolar, Junction, Warmth, bipolar_of, diode_junction, in_columns, limited, together
from violet_dial.core.circuit.expressions import Expression
from violet_dial.core.circuit.netlist import GROUND, Circuit, Part

Array = npt.NDArray[np.float64]
PRE_S = 1e-6  # a conductance put across every junction and taken off its current again: it steadies the linear part
ZERO_C_K = 273.15
BRANCHED = ("V", "L", "E", "H")
MOST_GIVEN = 1e9  # volt or ampere
PROBE_STEP = 1e-6  # volt or ampere, for slopes of behavioural sources


@dataclass(frozen=True)
class Element:
    """A bending element: which of w it looks at, which currents it gives. ``figures`` tells a diode from a transistor
    from a block that follows an expression."""

    part: Part
    watches: tuple[int, ...]
    outputs: tuple[int, ...]
    figures: Junction | Bipolar | Expression


class Bends:
    """All elements of one circuit at work: diodes together, transistors together, blocks one by one."""

    def __init__(self, elements: tuple[Element, ...]) -> None:
        diodes = [element for element in elements if isinstance(element.figures, Junction)]
        bipolars = [element for element in elements if isinstance(element.figures, Bipolar)]
        self.blocks = [(element, element.figures) for element in elements if isinstance(element.figures, Expression)]
        self.diode_watch = np.array([diode.watches[0] for diode in diodes], dtype=np.intp)
        self.diode_out = np.array([diode.outputs[0] for diode in diodes], dtype=np.intp)
        junctions = [diode.figures for diode in diodes if isinstance(diode.figures, Junction)]
        self.diode = Junction(
            np.array([junction.saturation_a for junction in junctions]),
            np.array([junction.emission_v for junction in junctions]),
            np.array([junction.breakdown_v for junction in junctions]),
        )
        self.be, self.bc = (np.array([bipolar.watches[side] for bipolar in bipolars], dtype=np.intp) for side in (0, 1))
        self.collector, self.base = (np.array([bipolar.outputs[side] for bipolar in bipolars], dtype=np.intp) for side in (0, 1))
        self.bipolar = (
            together([bipolar.figures for bipolar in bipolars if isinstance(bipolar.figures, Bipolar)]) if bipolars else None
        )
        self.diode_columns = in_columns(self.diode)
        self.bipolar_columns = None if self.bipolar is None else in_columns(self.bipolar)

    def put(self, w: Array, value: Array, slope: Array) -> None:
        """Fill currents and slopes at w, less what the pre-conductances carry."""
        if len(self.diode_watch):
            v = w[..., self.diode_watch]
            current, slopes = self.diode.current(v)
            value[..., self.diode_out] = current - PRE_S * v
            slope[..., self.diode_out, self.diode_watch] = slopes - PRE_S
        if self.bipolar is not None:
            be, bc = w[..., self.be], w[..., self.bc]
            collector, base, slopes = self.bipolar.currents(be, bc)
            value[..., self.collector] = collector + PRE_S * bc
            value[..., self.base] = base - PRE_S * (be + bc)
            slope[..., self.collector, self.be] = slopes[..., 0, 0]
            slope[..., self.collector, self.bc] = slopes[..., 0, 1] + PRE_S
            slope[..., self.base, self.be] = slopes[..., 1, 0] - PRE_S
            slope[..., self.base, self.bc] = slopes[..., 1, 1] - PRE_S
        for element, expression in self.blocks:
            watched = list(element.watches)
            value[..., element.outputs[0]], slopes = _behaviour(expression, w[..., watched])
            slope[..., element.outputs[0], watched] = slopes

    def put_values(self, w: Array, value: Array) -> None:
        """Fill currents at w alone; both with a column for each variant: what is worked on lies together in memory."""
        if len(self.diode_watch):
            v = w[self.diode_watch]
            value[self.diode_out] = self.diode_columns.flow(v) - PRE_S * v
        if self.bipolar_columns is not None:
            be, bc = w[self.be], w[self.bc]
            collector, base = self.bipolar_columns.flows(be, bc)
            value[self.collector] = collector + PRE_S * bc
            value[self.base] = base - PRE_S * (be + bc)
        for element, expression in self.blocks:
            value[element.outputs[0]] = expression.value(w[list(element.watches)].T)

    def hold_back(self, new: Array, old: Array) -> Array:
        """Steps of junction voltages limited; the others stay."""
        held = new.copy()
        if len(self.diode_watch):
            at = self.diode_watch
            held[..., at] = limited(new[..., at], old[..., at], self.diode)
        if self.bipolar is not None:
            sign = self.bipolar.sign
            for at, junction in ((self.be, self.bipolar.forward), (self.bc, self.bipolar.reverse)):
                held[..., at] = sign * limited(sign * new[..., at], sign * old[..., at], junction)
        return held


@dataclass(frozen=True)
class System:
    """The equations of one circuit. ``index`` gives the row of a node or branch; ground has none."""

    circuit: Circuit
    index: dict[str, int]
    matrix: Array
    source: Array
    inject: Array
    watch: Array
    elements: tuple[Element, ...]
    node_count: int

    @property
    def size(self) -> int:
        return len(self.source)

    @cached_property
    def pattern(self) -> tuple[tuple[int, int], ...]:
        """Which output bends with which watched voltage."""
        return tuple((output, watch) for element in self.elements for output in element.outputs for watch in element.watches)

    def row(self, name: str) -> int:
        """Row of a node or branch, -1 for ground."""
        return self.index.get(name, -1)

    @cached_property
    def begin(self) -> Array:
        """Watched voltages to begin from, shape (q,): nothing, and one volt where a block has no figure at nothing."""
        found = np.zeros(len(self.watch))
        for element, expression in self.bends.blocks:
            around = expression.value(np.array([[0.0], [PROBE_STEP]]) * np.ones(len(element.watches)))
            if not np.isfinite(around).all() or np.abs(around).max() > MOST_GIVEN / 1e3:
                found[list(element.watches)] = 1.0
        return found

    @cached_property
    def bends(self) -> Bends:
        return Bends(self.elements)

    def bend(self, w: Array) -> tuple[Array, Array]:
        """f(w) and its slopes: w shape (..., q), returns (..., m) and (..., m, q)."""
        shape = w.shape[:-1]
        value = np.zeros((*shape, self.inject.shape[1]))
        slope = np.zeros((*shape, self.inject.shape[1], w.shape[-1]))
        self.bends.put(w, value, slope)
        return value, slope

    def currents(self, w: Array) -> Array:
        """f(w) alone of many variants: w shape (count, q), returns (count, m)."""
        return self.currents_in_columns(w.T).T

    def currents_in_columns(self, w: Array) -> Array:
        """f(w) alone of many variants: w shape (q, count), returns (m, count)."""
        value = np.zeros((self.inject.shape[1], w.shape[1]))
        self.bends.put_values(w, value)
        return value

    def hold_back(self, new: Array, old: Array) -> Array:
        """Steps of junction voltages limited; the others stay."""
        return self.bends.hold_back(new, old)


class _Builder:
    """Stamps parts one by one."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        nodes = list(circuit.nodes)
        self.inner = {
            part.name: f"{part.name.lower()}#" for part in circuit.parts
            if part.letter == "D" and circuit.models[part.model].figures.get("rs", 0.0) > 0
        }  # fmt: skip
        nodes += list(self.inner.values())
        self.inner_q = {(part.name, key): f"{part.name.lower()}{key}#" for part in circuit.parts if part.letter == "Q"
                        for key in ("rc", "rb", "re") if circuit.models[part.model].figures.get(key, 0.0) > 0}  # fmt: skip
        nodes += list(self.inner_q.values())
        branches = [part.name for part in circuit.parts if part.letter in BRANCHED or part.output == "V"]
        self.index = {name: place for place, name in enumerate([*nodes, *(f"@{name.lower()}" for name in branches)])}
        self.node_count = len(nodes)
        size = len(self.index)
        self.matrix, self.source = np.zeros((size, size)), np.zeros(size)
        self.injects: list[Array] = []
        self.watches: list[Array] = []
        self.elements: list[Element] = []

    def row(self, name: str) -> int:
        return self.index[name] if name != GROUND else -1

    def vector(self, plus: int, minus: int) -> Array:
        found = np.zeros(len(self.source))
        if plus >= 0:
            found[plus] += 1.0
        if minus >= 0:
            found[minus] -= 1.0
        return found

    def conductance(self, plus: int, minus: int, siemens: float) -> None:
        pair = self.vector(plus, minus)
        self.matrix += siemens * np.outer(pair, pair)

    def branch(self, part: Part) -> int:
        """Rows of a voltage branch: its current leaves plus and enters minus; its own row is filled by the caller."""
        row = self.index[f"@{part.name.lower()}"]
        pair = self.vector(*(self.row(node) for node in part.nodes[:2]))
        self.matrix[:, row] += pair
        self.matrix[row, :] += pair
        return row

    def add_watch(self, vector: Array) -> int:
        self.watches.append(vector)
        return len(self.watches) - 1

    def add_inject(self, vector: Array) -> int:
        self.injects.append(vector)
        return len(self.injects) - 1

    def junction_pair(self, plus: int, minus: int) -> int:
        self.conductance(plus, minus, PRE_S)
        return self.add_watch(self.vector(plus, minus))

    def stamp(self, part: Part) -> None:
        getattr(self, f"_stamp_{part.letter.lower()}")(part, *(self.row(node) for node in part.nodes))

    def _stamp_r(self, part: Part, plus: int, minus: int) -> None:
        self.conductance(plus, minus, 1.0 / part.value)

    def _stamp_c(self, part: Part, plus: int, minus: int) -> None:
        """No current when everything stands still."""

    def _stamp_l(self, part: Part, plus: int, minus: int) -> None:
        self.branch(part)

    def _stamp_v(self, part: Part, plus: int, minus: int) -> None:
        self.source[self.branch(part)] = part.value

    def _stamp_i(self, part: Part, plus: int, minus: int) -> None:
        self.source -= part.value * self.vector(plus, minus)

    def _stamp_e(self, part: Part, plus: int, minus: int) -> None:
        row = self.branch(part)
        self.matrix[row, :] -= part.value * self.vector(*(self.row(node) for node in part.control))

    def _stamp_g(self, part: Part, plus: int, minus: int) -> None:
        control = self.vector(*(self.row(node) for node in part.control))
        self.matrix += part.value * np.outer(self.vector(plus, minus), control)

    def _stamp_f(self, part: Part, plus: int, minus: int) -> None:
        self.matrix[:, self.index[f"@{part.control[0]}"]] += part.value * self.vector(plus, minus)

    def _stamp_h(self, part: Part, plus: int, minus: int) -> None:
        row = self.branch(part)
        self.matrix[row, self.index[f"@{part.control[0]}"]] -= part.value

    def _stamp_d(self, part: Part, plus: int, minus: int) -> None:
        model = self.circuit.models[part.model]
        if part.name in self.inner:
            inner = self.index[self.inner[part.name]]
            self.conductance(plus, inner, part.area / model.figures["rs"])
            plus = inner
        watch = self.junction_pair(plus, minus)
        output = self.add_inject(-self.vector(plus, minus))
        self.elements.append(Element(part, (watch,), (output,), diode_junction(model, part.area, self.warmth(part))))

    def _stamp_q(self, part: Part, collector: int, base: int, emitter: int) -> None:
        figures = bipolar_of(self.circuit.models[part.model], part.area, self.warmth(part))
        collector, base, emitter = (
            self._behind(part, key, row) for key, row in (("rc", collector), ("rb", base), ("re", emitter))
        )
        watches = (self.junction_pair(base, emitter), self.junction_pair(base, collector))
        outputs = (self.add_inject(-self.vector(collector, emitter)), self.add_inject(-self.vector(base, emitter)))
        self.elements.append(Element(part, watches, outputs, figures))

    def _behind(self, part: Part, key: str, row: int) -> int:
        """The row behind a resistance of the transistor's own, where it has one."""
        if (part.name, key) not in self.inner_q:
            return row
        inner = self.index[self.inner_q[part.name, key]]
        self.conductance(row, inner, part.area / self.circuit.models[part.model].figures[key])
        return inner

    def warmth(self, part: Part) -> Warmth:
        """How warm a part is: as its line says, or as all are."""
        own = self.circuit.temperature_c if part.temperature_c is None else part.temperature_c
        return Warmth(own + ZERO_C_K, self.circuit.nominal_c + ZERO_C_K)

    def _stamp_b(self, part: Part, plus: int, minus: int) -> None:
        expression = part.expression
        assert expression is not None
        watches = tuple(self.add_watch(self._probe(probe)) for probe in expression.probes)
        if part.output == "V":
            row = self.branch(part)
            output = self.add_inject(self.vector(row, -1))
        else:
            output = self.add_inject(-self.vector(plus, minus))
        self.elements.append(Element(part, watches, (output,), expression))

    def _probe(self, probe: tuple[str, str, str]) -> Array:
        kind, first, second = probe
        if kind == "i":
            return self.vector(self.index[f"@{first}"], -1)
        return self.vector(*(self.row(name) if name in self.index else -1 for name in (first, second)))


def _behaviour(expression: Expression, w: Array) -> tuple[Array, Array]:
    """Value and slopes of a behavioural source at probed values ``w`` (..., p), slopes by differences."""
    count = w.shape[-1]
    if not count:  # it looks at nothing
        return expression.value(w), np.zeros(w.shape)
    around = expression.value(w + _steps(count, w.ndim - 1))
    around = np.where(np.isnan(around), 0.0, np.minimum(np.maximum(around, -MOST_GIVEN), MOST_GIVEN))  # poles are stepped over
    above, below = around[1 : count + 1], around[count + 1 :]
    return around[0], np.moveaxis((above - below) / (2 * PROBE_STEP), 0, -1)


@cache
def _steps(count: int, dimensions: int) -> Array:
    """Nothing, then each of ``count`` probes a little up, then down, shape (2 count + 1, 1, ..., count)."""
    steps = np.concatenate([np.zeros((1, count)), np.eye(count), -np.eye(count)]) * PROBE_STEP
    return steps.reshape(-1, *(1,) * dimensions, count)


def build_system(circuit: Circuit, leak_s: float = 0.0) -> System:
    """The equations of a circuit, with ``leak_s`` siemens from every node to ground."""
    builder = _Builder(circuit)
    for part in circuit.parts:
        builder.stamp(part)
    for row in range(builder.node_count):
        builder.matrix[row, row] += leak_s
    size = len(builder.source)
    inject = np.stack(builder.injects, axis=1) if builder.injects else np.zeros((size, 0))
    watch = np.stack(builder.watches) if builder.watches else np.zeros((0, size))
    return System(
        circuit, builder.index, builder.matrix, builder.source, inject, watch, tuple(builder.elements), builder.node_count
    )
