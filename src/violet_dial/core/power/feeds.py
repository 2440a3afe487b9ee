"""What may feed a device: a cell or a stack, and what is put into its lead.

Source: Diode equation and its law of temperature as SPICE has them (Antognetti and Massobrio 1988 [memory]). Figures of the
diodes that ship: usual small parts, common practice, no source.
"""

import math
import re
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.devices import Junction, Warmth, diode_junction
from violet_dial.core.circuit.expressions import spice_number
from violet_dial.core.circuit.netlist import Model
from violet_dial.core.circuit.system import ZERO_C_K
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.cells import Size, size_of
from violet_dial.core.quantities import format_engineering, parse_with_unit

Array = npt.NDArray[np.float64]
MOST_OHM, MOST_V = 1e6, 30.0
FIGURES = ("is", "n", "rs", "eg", "xti")


@dataclass(frozen=True)
class Diode:
    """A diode as a SPICE model at 27 C: saturation current A, emission, series ohm, gap V and the power of its temperature."""

    name: str
    is_a: float = 1e-14
    n: float = 1.0
    rs_ohm: float = 0.0
    eg_v: float = 1.11
    xti: float = 3.0

    def __post_init__(self) -> None:
        for field, value, low, high in (
            ("IS", self.is_a, 1e-18, 1.0), ("N", self.n, 0.5, 10.0), ("RS", self.rs_ohm, 0.0, 1e5), ("EG", self.eg_v, 0.1, 3.0),
            ("XTI", self.xti, 0.0, 10.0),
        ):  # fmt: skip
            if not (math.isfinite(value) and low <= value <= high):
                raise InvalidInput(f"{self.name} {field}", value, f"{low:g} to {high:g}")

    def at(self, temperature_c: float) -> Junction:
        """Its junction at a temperature. ``temperature_c``: C."""
        figures = {"is": self.is_a, "n": self.n, "eg": self.eg_v, "xti": self.xti}
        return diode_junction(Model(self.name, "D", figures), 1.0, Warmth(temperature_c + ZERO_C_K))

    def drop_v(self, amp: Array, temperature_c: float) -> Array:
        """Volts across it in the forward direction, shape of ``amp``.

        Parameters
        ----------
        amp : current, A, 0 or more
        temperature_c : C
        """
        junction = self.at(temperature_c)
        return junction.emission_v * np.log1p(np.maximum(amp, 0.0) / junction.saturation_a) + amp * self.rs_ohm


SILICON = Diode("silicon diode", 2.5e-9, 1.75, 0.6)
SCHOTTKY = Diode("Schottky diode", 1.2e-7, 1.04, 3.0, 0.69, 2.0)
GERMANIUM = Diode("germanium diode", 2.0e-6, 1.4, 7.0, 0.67, 3.0)
DIODES: dict[str, Diode] = {"silicon": SILICON, "schottky": SCHOTTKY, "germanium": GERMANIUM}


@dataclass(frozen=True)
class BatteryChoice:
    """One way to feed a device: cells, or a supply of ``supply_v`` behind ``supply_ohm``; what stands in the lead; whether the
    scale is moved along (``moved``)."""

    size: Size | None = None
    diodes: tuple[Diode, ...] = ()
    resistor_ohm: float = 0.0
    adapter_v: float = 0.0
    supply_v: float = 0.0
    supply_ohm: float = 0.0
    moved: bool = False

    def __post_init__(self) -> None:
        for field, value, most in (
            ("Resistor", self.resistor_ohm, MOST_OHM), ("Adapter", self.adapter_v, MOST_V), ("Supply", self.supply_v, MOST_V),
            ("Supply's resistance", self.supply_ohm, MOST_OHM),
        ):  # fmt: skip
            if not (math.isfinite(value) and 0.0 <= value <= most):
                raise InvalidInput(field, value, f"0 to {most:g}")
        if self.size is None and self.supply_v <= 0:
            raise InvalidInput("Choice", "neither cell nor supply", "a cell (LR44, 4SR44) or a supply (supply 1.5 V)")

    @property
    def name(self) -> str:
        """As it is said: ``SR44 with Schottky diode``."""
        source = self.size.name if self.size else f"supply {self.supply_v:g} V"
        with_ = [diode.name for diode in self.diodes]
        with_ += [f"{format_engineering(self.resistor_ohm)}Ω resistor"] if self.resistor_ohm else []
        with_ += [f"adapter that drops {self.adapter_v:g} V"] if self.adapter_v else []
        named = f"{source} with {' and '.join(with_)}" if with_ else source
        return f"{named}, scale moved" if self.moved else named

    @property
    def said(self) -> str:
        """As it is typed: `read_choice` gives the same again, with the same diodes and cells at hand."""
        source = self.size.name if self.size else f"supply {self.supply_v!r} V {self.supply_ohm!r} ohm"
        parts = [diode.name.removesuffix(" diode").lower() for diode in self.diodes]
        parts += [f"{self.resistor_ohm!r} ohm"] if self.resistor_ohm else []
        parts += [f"adapter {self.adapter_v!r} V"] if self.adapter_v else []
        parts += ["moved"] if self.moved else []
        return " + ".join([source, *parts])

    @property
    def is_plain(self) -> bool:
        """Whether nothing is put into the lead and nothing is moved."""
        return not (self.diodes or self.resistor_ohm or self.adapter_v or self.moved)

    def emf_v(self, left: Array, temperature_c: float) -> Array:
        """Volts of the source less what an adapter takes, shape of ``left``.

        Parameters
        ----------
        left : share of the charge, 0 to 1
        temperature_c : C
        """
        if self.size is None:
            return np.full(np.shape(left), self.supply_v - self.adapter_v)
        return self.size.chemistry.rest_v(left, temperature_c) * self.size.cells - self.adapter_v

    def cell_ohm(self, left: Array, temperature_c: float) -> Array:
        """Resistance of the source alone, shape of ``left``.

        Parameters
        ----------
        left : share of the charge, 0 to 1
        temperature_c : C
        """
        if self.size is None:
            return np.full(np.shape(left), self.supply_ohm)
        return self.size.ohm * self.size.cells * self.size.chemistry.rise_at(left, temperature_c)


def read_diode(text: str) -> Diode:
    """A diode from a SPICE model line or a shorter one: ``D schottky IS=1.2e-7 N=1.04``, ``.model x D(IS=..)``, ``silicon``.

    Figures that are not said are SPICE's (EG 1.11, XTI 3), but for a bare name that ships. Raises InvalidInput: not
    understood.
    """
    given = {key.lower(): value for key, value in re.findall(r"\b([A-Za-z]+)\s*=\s*([^\s,()]+)", text)}
    words = [
        word
        for word in re.sub(r"\b[A-Za-z]+\s*=\s*[^\s,()]+|[(),]", " ", text).split()
        if word.lower() not in (".model", "d", "diode")
    ]
    name = " ".join(words)
    if not given:
        found = DIODES.get(name.lower())
        if found is None:
            raise InvalidInput("Diode", text, f"a model (D name IS=.. N=.. RS=..) or one of {', '.join(DIODES)}")
        return found
    unknown = next((key for key in given if key not in FIGURES), None)
    if unknown or "is" not in given:
        raise InvalidInput(
            "Diode",
            text,
            f"figures {', '.join(key.upper() for key in FIGURES)}, at least IS" + (f"; not {unknown}" if unknown else ""),
        )
    value = {key: spice_number(figure, key.upper()) for key, figure in given.items()}
    called = name if name.lower().endswith("diode") else f"{name or 'typed'} diode"
    return Diode(called, value["is"], value.get("n", 1.0), value.get("rs", 0.0), value.get("eg", 1.11), value.get("xti", 3.0))


def diode_by_two_points(name: str, first: tuple[float, float], second: tuple[float, float], temperature_c: float = 20.0) -> Diode:
    """A diode from two readings of volts and amperes, as the meter's diode test and a second current give them.

    Raises InvalidInput: two points that no diode goes through.

    Parameters
    ----------
    name : how it is called
    first, second : forward volts, and the current then, A
    """
    (v1, i1), (v2, i2) = sorted((first, second))
    if not (0 < v1 < v2 and 0 < i1 < i2):
        raise InvalidInput("Two points", f"{v1:g} V {i1:g} A, {v2:g} V {i2:g} A", "more volts at more current, both above 0")
    thermal = Warmth(temperature_c + ZERO_C_K).thermal_v
    n = (v2 - v1) / (thermal * math.log(i2 / i1))
    if not 0.8 <= n <= 4.0:
        raise InvalidInput(
            "Two points", f"{v2 - v1:.3g} V for {i2 / i1:.3g} times the current", "60 to 240 mV for ten times the current"
        )
    there = i1 / math.expm1(v1 / (n * thermal))
    kind = min(DIODES.values(), key=lambda diode: abs(math.log(diode.is_a / there)))
    grown = Diode(name, 1e-12, n, 0.0, kind.eg_v, kind.xti).at(temperature_c).saturation_a / 1e-12
    return Diode(name, there / float(grown), n, 0.0, kind.eg_v, kind.xti)


def read_choice(text: str, diodes: dict[str, Diode] | None = None, cells: dict[str, Size] | None = None) -> BatteryChoice:
    """A choice as it is said: ``SR44 + schottky``, ``LR44 + 1k``, ``SR44 adapter 0.2 V``, ``supply 1.5 V 2 ohm``, ``PR44 moved``.

    ``cells``: those of the workshop's own, by name. Raises InvalidInput: not understood.
    """
    first, *rest = [
        part.strip()
        for part in re.split(r"\s*(?:\+|,|\bwith\b|\band\b)\s*|(?=\badapter\b)|(?=\bmoved\b)", text.strip())
        if part.strip()
    ] or [""]
    choice = _source(first, cells or {})
    known = {**DIODES, **{one.lower(): diode for one, diode in (diodes or {}).items()}}
    for word in rest:
        choice = _with(choice, word, known)
    return choice


def _source(text: str, cells: dict[str, Size]) -> BatteryChoice:
    match = re.match(r"supply\s+(\S+\s*V?)\s*(.*)$", text, re.IGNORECASE)
    if match:
        volts = parse_with_unit(match[1], ("V",), "Supply", "V").value
        ohm = parse_with_unit(match[2], ("Ω",), "Supply's resistance", "Ω").value if match[2] else 0.0
        return BatteryChoice(supply_v=volts, supply_ohm=ohm)
    own = next((size for name, size in cells.items() if name.lower() == text.lower()), None)
    return BatteryChoice(own or size_of(text))


def _with(choice: BatteryChoice, word: str, known: dict[str, Diode]) -> BatteryChoice:
    low = word.lower().removesuffix(" diode").removesuffix(" resistor")
    if low in known:
        return replace(choice, diodes=(*choice.diodes, known[low]))
    if low.startswith("adapter"):
        drop = low.removeprefix("adapter").strip().removeprefix("that drops").strip()
        return replace(choice, adapter_v=parse_with_unit(drop, ("V",), "Adapter", "V").value if drop else 0.2)
    if low in ("moved", "scale moved", "trimmer"):
        return replace(choice, moved=True)
    try:
        ohm = parse_with_unit(word.lower().removesuffix("resistor").strip(), ("Ω",), "Choice", "Ω").value
    except InvalidInput as error:
        raise InvalidInput("Choice", word, f"a diode ({', '.join(known)}), ohms, adapter 0.2 V, or moved") from error
    return replace(choice, resistor_ohm=choice.resistor_ohm + ohm)
