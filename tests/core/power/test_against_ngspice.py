"""The error in stops against ngspice: the netlist is built with the cell, its resistance and what stands in the lead, run
over the light by ngspice at three temperatures, and the light at which it shows the design's figure found on its own points."""

import re
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.optimize import brentq

from violet_dial.core.circuit.trade import set_circuit
from violet_dial.core.power.device import FedDevice, Points, Port, device_of, lux_of
from violet_dial.core.power.feeds import BatteryChoice, read_choice
from violet_dial.core.power.meter_error import AskedLights, Reader
from violet_dial.services.circuits import circuit_from, templates

TEXTS = {one.stem: one.text for one in templates()}
TEMPERATURES_C = (-10.0, 20.0, 40.0)
CHARGES = (1.0, 0.5, 0.15)
CHOICES = ("LR44", "SR44", "PR44", "SR44 + schottky", "SR44 + silicon", "SR44 + germanium + 150 ohm")
STEP_EV = 0.2
WITHIN_STOPS = 0.01


class Bench:
    """One circuit under ngspice: what is watched over light, for volts behind ohms and diodes in the battery's lead."""

    def __init__(self, device: FedDevice, folder: Path) -> None:
        self.device, self.folder = device, folder

    def netlist(self, choice: BatteryChoice, temperature_c: float) -> str:
        """The circuit's own lines with the lead opened; cells that answer to light as they stand in 10 lx."""
        lines = [line for line in self.device.circuit.text.splitlines() if not line.startswith(("*:", ".end"))]
        clip = self.device.circuit.part(self.device.battery).nodes[0]
        lines = [line for line in lines if line.split()[:1] != [self.device.battery]]
        lead = [f"Vcell cell# 0 {choice.supply_v or 1.0}", "Rcell cell# lead0 1"]
        at = "lead0"
        for place, one in enumerate(choice.diodes):
            lead += [f"Dlead{place} {at} lead{place + 1} dlead{place}",
                     f".model dlead{place} D(IS={one.is_a} N={one.n} RS={one.rs_ohm} EG={one.eg_v} XTI={one.xti})"]  # fmt: skip
            at = f"lead{place + 1}"
        lead.append(f"Rlead {at} {clip} {max(choice.resistor_ohm, 1e-6)}")
        return "\n".join([*lines, *lead, f".options temp={temperature_c} reltol=2e-5 abstol=1e-12 vntol=1e-7 itl1=500"])

    def run(
        self, choice: BatteryChoice, temperature_c: float, states: list[tuple[float, float]], ev100: np.ndarray
    ) -> np.ndarray:
        """Currents of what is watched, shape (states, lights, r), A."""
        circuit = self.device.circuit
        inner = [self._probe(one.name) for one in self.device.watched if one.name.startswith("D")]
        control = [f"save all {' '.join(inner)}"] if inner else []
        for volts, ohm in states:
            control += [f"alter vcell {volts}", f"alter rcell {ohm}"]
            for ev in ev100:
                stands = set_circuit(
                    circuit, self.device.setting.__class__(self.device.setting.switches, light_lx=float(lux_of(ev)))
                )
                for part in circuit.parts:
                    if circuit.note(part.name).get("kind") in ("cds", "photocell"):
                        control.append(f"alter {part.name.lower()} {stands.part(part.name).value:.12g}")
                control += ["op", *(f"print {self._probe(one.name)}" for one in self.device.watched)]
        path = self.folder / "one.cir"
        path.write_text(
            "\n".join([self.netlist(choice, temperature_c), ".control", "set numdgt=12", *control, "quit", ".endc", ".end\n"])
        )
        done = subprocess.run(["ngspice", "-b", str(path)], capture_output=True, text=True, check=False, timeout=300)
        figures = [float(one) for one in re.findall(r"^[(@]\S* = (\S+)$", done.stdout, re.MULTILINE)]
        return np.array(figures).reshape(len(states), len(ev100), len(self.device.watched))

    def _probe(self, name: str) -> str:
        part = self.device.circuit.part(name)
        if part.letter == "D":
            return f"@{name.lower()}[id]"
        plus, minus = (f"v({node})" if node != "0" else "0" for node in part.nodes)
        return f"({plus}-{minus})/{part.value!r}"


class AgainstNgspice(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def needle(
        self, stem: str, design_v: float, span: tuple[float, float], choices: tuple[str, ...] = CHOICES, lights: int = 8
    ) -> None:
        device = device_of(circuit_from(TEXTS[stem]))
        place = device.needles[0]
        asked = AskedLights(design_v, *span, left=CHARGES, most_v=1.9)
        bench, ev100 = Bench(device, self.folder), np.arange(span[0] - 3.5, span[1] + 3.5, STEP_EV)
        compared = 0
        for temperature_c in TEMPERATURES_C:
            scale = bench.run(read_choice(f"supply {design_v}"), temperature_c, [(design_v, 1e-6)], ev100)[0, :, place]
            target = CubicSpline(ev100, np.log(scale))(asked.marks)
            reader = Reader(device, asked, temperature_c)
            for text in choices:
                choice = read_choice(text)
                left = np.array(CHARGES)
                states = list(zip(choice.emf_v(left, temperature_c), choice.cell_ohm(left, temperature_c), strict=True))
                theirs = bench.run(choice, temperature_c, states, ev100)[:, :, place]
                ours = reader.errors(choice).error_stops
                for q, shown in enumerate(theirs):
                    fed = CubicSpline(ev100, np.log(shown))
                    for m, mark in enumerate(asked.marks):
                        if np.isnan(ours[q, m]):
                            continue
                        light = brentq(lambda ev, goal=target[m], fed=fed: float(fed(ev) - goal), ev100[0], ev100[-1])
                        with self.subTest(stem, choice=text, charge=CHARGES[q], temperature_c=temperature_c, ev100=mark):
                            self.assertLessEqual(abs(ours[q, m] - (mark - light)), WITHIN_STOPS)
                        compared += 1
        self.assertGreaterEqual(compared, lights * len(CHARGES) * len(TEMPERATURES_C) * len(choices))

    def test_a_series_meter(self) -> None:
        self.needle("cds-series", 1.35, (0.0, 8.0))

    def test_a_meter_of_two_ranges(self) -> None:
        self.needle("cds-two-range", 1.35, (1.0, 9.0), CHOICES[1:5])

    def test_a_transistor_between(self) -> None:
        """A germanium transistor: its own temperature is in both."""
        self.needle("selenium-amplifier", 1.35, (3.0, 11.0), CHOICES[1:4], 3)

    def test_lamps_change_where_they_do_there(self) -> None:
        """The light at which a lamp has half of its full current, on a stack that sags."""
        device = device_of(circuit_from(TEXTS["silicon-lamps"]))
        asked = AskedLights(6.0, 2.0, 12.0, left=CHARGES, most_v=6.7)
        bench, choice, left = Bench(device, self.folder), read_choice("4LR44"), np.array(CHARGES)
        reader = Reader(device, asked, 20.0)
        ours = reader.errors(choice).threshold_ev
        self.assertEqual([one.watched.name for one in reader.lamps], ["Dslow", "Dover"])
        states = list(zip(choice.emf_v(left, 20.0), choice.cell_ohm(left, 20.0), strict=True))
        for column, one in enumerate(reader.lamps):
            ev100 = one.ev100 + np.linspace(-0.6, 0.6, 61)
            full = bench.run(choice, 20.0, states, np.array([one.ev100 - 3.0, one.ev100 + 3.0]))[:, :, one.place].max(axis=1)
            shown = bench.run(choice, 20.0, states, ev100)[:, :, one.place]
            for q in range(len(left)):
                if np.isnan(ours[q, column]):  # too little is left for this lamp: it stays dark there too
                    self.assertLess(max(full[q], shown[q].max()), 0.3 * one.watched.full_a)
                    continue
                share = shown[q] / max(full[q], shown[q].max()) - 0.5
                light = float(np.interp(0.0, share * np.sign(share[-1]), ev100))
                self.assertLessEqual(abs(light - ours[q, column]), WITHIN_STOPS)

    def test_the_time_a_magnet_is_held(self) -> None:
        """Against a transient of the same netlist, the capacitor filled from empty."""
        device = device_of(circuit_from(TEXTS["silicon-shutter"]))
        port = Port(device)
        for volts, ev100 in ((6.0, 7.0), (6.0, 10.0), (4.5, 8.0)):
            ours = 1.0 / port.points(Points(np.array([ev100]), np.array([volts]))).shown[0, device.places("time")[0]]
            netlist = Bench(device, self.folder).netlist(read_choice(f"supply {volts}"), 27.0)
            amp = 0.2e-9 * float(lux_of(np.array(ev100)))
            text = re.sub(r"^Iph rail ct \S+", f"Iph rail ct {amp:.9g}", netlist, flags=re.MULTILINE)
            text = text.replace("Rcell cell# lead0 1", "Rcell cell# lead0 1u").replace("Ct ct 0 10n", "Ct ct 0 10n ic=0")
            path = self.folder / "time.cir"
            step = ours / 2000
            control = f"tran {step:g} {ours * 1.5:g} 0 {step:g} uic\nwrdata out.txt v(rail)-v(coil-)"
            path.write_text(f"{text}\n.control\n{control}\nquit\n.endc\n.end\n")
            subprocess.run(["ngspice", "-b", str(path)], capture_output=True, check=False, cwd=self.folder, timeout=120)
            time_s, held_v = np.loadtxt(self.folder / "out.txt").T
            late = time_s > ours / 20
            theirs = float(np.interp(0.0, 15e-3 - held_v[late] / 180.0, time_s[late]))
            with self.subTest(volts=volts, ev100=ev100):
                self.assertLessEqual(abs(np.log2(ours / theirs)), WITHIN_STOPS)


if __name__ == "__main__":
    unittest.main()
