"""Junction devices: currents and their slopes for many variants at once.

Source: Diode and Gummel-Poon bipolar equations as SPICE uses them (Antognetti and Massobrio, Semiconductor Device Modeling with
SPICE, 1988 [memory]); checked against ngspice, at other temperatures than the usual 27 C too.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Model

Array = npt.NDArray[np.float64]
Figure = float | Array
Devices = TypeVar("Devices", "Junction", "Bipolar")
TEMPERATURE_K = 300.15
BOLTZMANN_J_K, ELEMENTARY_CHARGE_C = 1.380649e-23, 1.602176634e-19  # exact since the SI of 2019
THERMAL_V = BOLTZMANN_J_K * TEMPERATURE_K / ELEMENTARY_CHARGE_C
MOST_EXPONENT = 600.0  # beyond it the exponential goes on as a straight line; limiting keeps real solutions below
NEVER_V = 1e6  # a breakdown voltage that is never met: such a diode has none
SHUNT_S = 1e-12  # across every junction, as SPICE has it


def exponential(x: Array) -> tuple[Array, Array]:
    """exp(x) - 1 and its slope, both continued as a line beyond `MOST_EXPONENT`."""
    held = np.minimum(x, MOST_EXPONENT)
    grown = np.exp(held)
    return grown * (1.0 + (x - held)) - 1.0, grown


@dataclass(frozen=True)
class Junction:
    """A diode: saturation current (A), emission voltage n kT/q (V), and where it breaks down (V, positive; `NEVER_V` where
    it does not). Figures may be arrays: many diodes at once."""

    saturation_a: Figure
    emission_v: Figure
    breakdown_v: Figure = NEVER_V

    @cached_property
    def breaks(self) -> bool:
        """Whether any of them breaks down at all."""
        return bool((np.asarray(self.breakdown_v) < NEVER_V).any())

    @property
    def critical_v(self) -> Array:
        """Above this a step of the junction voltage is limited."""
        return self.emission_v * np.log(self.emission_v / (math.sqrt(2.0) * np.asarray(self.saturation_a)))

    def current(self, v: Array) -> tuple[Array, Array]:
        """Current and conductance at junction voltages ``v``, same shape."""
        grown, slope = exponential(v / self.emission_v)
        if self.breaks:
            back, steep = exponential(-(v + self.breakdown_v) / self.emission_v)
            grown, slope = grown - (back + 1.0), slope + steep
        return self.saturation_a * grown + SHUNT_S * v, self.saturation_a / self.emission_v * slope + SHUNT_S

    def flow(self, v: Array) -> Array:
        """The current alone, A."""
        grown = np.asarray(v / self.emission_v)
        if grown.max(initial=0.0) <= MOST_EXPONENT:
            np.exp(grown, out=grown)
            grown -= 1.0
        else:
            grown = exponential(grown)[0]
        if self.breaks:
            grown -= exponential(-(v + self.breakdown_v) / self.emission_v)[0] + 1.0
        grown *= self.saturation_a
        grown += SHUNT_S * v
        return grown


@dataclass(frozen=True)
class Warmth:
    """A part's temperature and that at which the figures of its model were taken, kelvin."""

    now_k: float = TEMPERATURE_K
    nominal_k: float = TEMPERATURE_K

    @property
    def thermal_v(self) -> float:
        return BOLTZMANN_J_K * self.now_k / ELEMENTARY_CHARGE_C

    @property
    def ratio(self) -> float:
        return self.now_k / self.nominal_k

    def growth(self, gap_v: float, emission: float, power: float) -> float:
        """By how much a saturation current has grown."""
        exponent = (self.ratio - 1.0) * gap_v / (emission * self.thermal_v)
        return float(math.exp(exponent) * self.ratio ** (power / emission))


def diode_junction(model: Model, area: float, warmth: Warmth = Warmth()) -> Junction:
    """The junction of a diode model. ``area``: factor on the model's currents, without unit; 1 is the model as it stands."""
    n = model.figures.get("n", 1.0)
    grown = warmth.growth(model.figures.get("eg", 1.11), n, model.figures.get("xti", 3.0))
    saturation, emission = model.figures.get("is", 1e-14) * area * grown, n * warmth.thermal_v
    if not model.figures.get("bv"):
        return Junction(saturation, emission)
    # BV is where IBV flows; the exponential that gives it begins so much earlier.
    current = max(model.figures.get("ibv", 1e-3) * area, saturation)
    return Junction(saturation, emission, abs(model.figures["bv"]) - emission * math.log(current / saturation))


@dataclass(frozen=True)
class Bipolar:
    """A transistor's figures; ``sign`` is 1 for NPN and -1 for PNP. Figures may be arrays: many at once."""

    sign: Figure
    forward: Junction
    reverse: Junction
    beta_f: Figure
    beta_r: Figure
    leak_e: Junction | None
    leak_c: Junction | None
    early_f_v: Figure
    early_r_v: Figure
    knee_f_a: Figure
    knee_r_a: Figure

    @cached_property
    def has_knee(self) -> bool:
        """Whether crowding at high current is modelled at all."""
        return bool(np.isfinite(self.knee_f_a).any() or np.isfinite(self.knee_r_a).any())

    @cached_property
    def has_late(self) -> bool:
        """Whether the emitter's side of the base width is modelled at all."""
        return bool(np.isfinite(self.early_r_v).any())

    def flows(self, vbe: Array, vbc: Array) -> tuple[Array, Array]:
        """Collector and base current into the device alone, as `currents` gives them, A."""
        be, bc = self.sign * vbe, self.sign * vbc
        i_f, i_r = self.forward.flow(be), self.reverse.flow(bc)
        inverse, root = self._charge(be, bc, i_f, i_r)
        back = i_r / self.beta_r
        collector, base = (i_f - i_r) / (inverse * ((1.0 + root) / 2.0)) - back, i_f / self.beta_f + back
        if self.leak_e:
            base += self.leak_e.flow(be)
        if self.leak_c:
            leak = self.leak_c.flow(bc)
            collector, base = collector - leak, base + leak
        return self.sign * collector, self.sign * base

    def currents(self, vbe: Array, vbc: Array) -> tuple[Array, Array, Array]:
        """Collector and base current into the device, and their slopes.

        Parameters
        ----------
        vbe, vbc : float arrays of one shape; junction voltages as they stand (negative for a PNP that conducts), V

        Returns
        -------
        collector, base : arrays of that shape, A; slopes : shape (..., 2, 2), d(collector, base)/d(vbe, vbc), S
        """
        be, bc = self.sign * vbe, self.sign * vbc
        i_f, g_f = self.forward.current(be)
        i_r, g_r = self.reverse.current(bc)
        inverse, root = self._charge(be, bc, i_f, i_r)
        charge = inverse * (1.0 + root) / 2.0
        d_be = charge * inverse / self.early_r_v + inverse * g_f / (self.knee_f_a * root)
        d_bc = charge * inverse / self.early_f_v + inverse * g_r / (self.knee_r_a * root)
        transport = (i_f - i_r) / charge
        t_be = (g_f - transport * d_be) / charge
        t_bc = (-g_r - transport * d_bc) / charge
        leak_e, gl_e = self.leak_e.current(be) if self.leak_e else (0.0, 0.0)
        leak_c, gl_c = self.leak_c.current(bc) if self.leak_c else (0.0, 0.0)
        collector = transport - i_r / self.beta_r - leak_c
        base = i_f / self.beta_f + i_r / self.beta_r + leak_e + leak_c
        slopes = np.empty((*np.shape(vbe), 2, 2))
        slopes[..., 0, 0] = t_be
        slopes[..., 0, 1] = t_bc - g_r / self.beta_r - gl_c
        slopes[..., 1, 0] = g_f / self.beta_f + gl_e
        slopes[..., 1, 1] = g_r / self.beta_r + gl_c
        return self.sign * collector, self.sign * base, slopes

    def _charge(self, be: Array, bc: Array, i_f: Array, i_r: Array) -> tuple[Array, Figure]:
        """The two factors of the normalised base charge: base width (Early) and crowding (knee)."""
        width = 1.0 - bc / self.early_f_v
        if self.has_late:
            width = width - be / self.early_r_v
        inverse = 1.0 / np.maximum(width, 1e-3)
        if not self.has_knee:
            return inverse, 1.0
        high = i_f / self.knee_f_a + i_r / self.knee_r_a
        return inverse, np.sqrt(np.maximum(1.0 + 4.0 * high, 1e-9))


def bipolar_of(model: Model, area: float, warmth: Warmth = Warmth()) -> Bipolar:
    """A transistor from its model line.

    ``area``: factor on the model's currents, without unit; once more on those of the collector's junction, as ngspice has it.
    """
    figures = model.figures
    gap_v, power, gain = figures.get("eg", 1.11), figures.get("xti", 3.0), figures.get("xtb", 0.0)
    saturation = figures.get("is", 1e-16) * area * warmth.growth(gap_v, 1.0, power)
    more = warmth.ratio**gain

    def leak(current: str, emission: str, usual: float) -> Junction | None:
        n = figures.get(emission, usual)
        value = figures.get(current, 0.0) * area * warmth.growth(gap_v, n, power) / more
        return Junction(value, n * warmth.thermal_v) if value > 0 else None

    return Bipolar(
        sign=1.0 if model.kind == "NPN" else -1.0,
        forward=Junction(saturation, figures.get("nf", 1.0) * warmth.thermal_v),
        reverse=Junction(saturation * area, figures.get("nr", 1.0) * warmth.thermal_v),
        beta_f=figures.get("bf", 100.0) * more,
        beta_r=figures.get("br", 1.0) * more,
        leak_e=leak("ise", "ne", 1.5),
        leak_c=leak("isc", "nc", 2.0),
        early_f_v=figures.get("vaf") or math.inf,
        early_r_v=figures.get("var") or math.inf,
        knee_f_a=(figures.get("ikf") or math.inf) * area,
        knee_r_a=(figures.get("ikr") or math.inf) * area,
    )


def together(several: list[Bipolar]) -> Bipolar:
    """Many transistors as one, with arrays for figures."""

    def arrays(pick: Callable[[Bipolar], Figure]) -> Array:
        return np.array([pick(one) for one in several], dtype=float)

    def junctions(pick: Callable[[Bipolar], Junction | None]) -> Junction | None:
        found = [pick(one) for one in several]
        if all(one is None for one in found):
            return None
        none = Junction(0.0, THERMAL_V)
        return Junction(
            np.array([(one or none).saturation_a for one in found]), np.array([(one or none).emission_v for one in found])
        )

    forward, reverse = junctions(lambda one: one.forward), junctions(lambda one: one.reverse)
    assert forward is not None and reverse is not None
    return Bipolar(
        arrays(lambda one: one.sign), forward, reverse, arrays(lambda one: one.beta_f), arrays(lambda one: one.beta_r),
        junctions(lambda one: one.leak_e), junctions(lambda one: one.leak_c), arrays(lambda one: one.early_f_v),
        arrays(lambda one: one.early_r_v), arrays(lambda one: one.knee_f_a), arrays(lambda one: one.knee_r_a),
    )  # fmt: skip


def in_columns(one: Devices) -> Devices:
    """The same diodes or transistors, for voltages of shape (devices, variants)."""
    found: dict[str, Any] = {}
    for field in fields(one):
        value = getattr(one, field.name)
        if isinstance(value, Junction):
            found[field.name] = in_columns(value)
        elif isinstance(value, np.ndarray):
            found[field.name] = value[:, None]
    return replace(one, **found)


def limited(new: Array, old: Array, junction: Junction) -> Array:
    """A junction voltage whose step is held back where the exponential would run away.

    Source: Nagel, SPICE2 (1975), junction voltage limiting [memory].

    Parameters
    ----------
    new : junction voltage wanted by the step, V; any shape
    old : junction voltage before the step, V; the shape of new
    """
    if not junction.breaks:
        return _limited_forward(new, old, junction)
    plain, bv = Junction(junction.saturation_a, junction.emission_v), junction.breakdown_v
    broken = new < np.minimum(0.0, -bv + 10.0 * junction.emission_v)
    mirrored = -(_limited_forward(-(new + bv), -(old + bv), plain) + bv)
    return np.where(broken, mirrored, _limited_forward(new, old, plain))


def _limited_forward(new: Array, old: Array, junction: Junction) -> Array:
    vt, critical = junction.emission_v, junction.critical_v
    step = new - old
    wild = (new > critical) & (np.abs(step) > 2.0 * vt)
    with np.errstate(all="ignore"):
        up = np.where(1.0 + step / vt > 0, old + vt * np.log(np.maximum(1.0 + step / vt, 1e-300)), critical)
        from_below = vt * np.log(np.maximum(new, 1e-300) / vt)
    return np.where(wild, np.where(old > 0, up, np.maximum(from_below, 0.0)), new)
