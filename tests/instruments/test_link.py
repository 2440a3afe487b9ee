"""Links to the simulated bench through PyVISA, an independent plain socket beside it, and every way a link breaks."""

import os
import socket
import socketserver
import statistics
import threading
import tty
import unittest
from typing import Any, ClassVar

import pyvisa

from tests.instruments.bench_at_work import BenchTest, wait_for
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.errors import AnswerTimeout, BadAnswer, InvalidInput, LinkLost
from violet_dial.core.steady.detector import Detector
from violet_dial.core.steady.samples import Sample
from violet_dial.instruments.channel import Channel, found_addresses
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.link import Link
from violet_dial.instruments.simulated.device import DeviceUnderTest
from violet_dial.instruments.simulated.server import BenchServer


class Speaking(BenchTest):
    def setUp(self) -> None:
        super().setUp()
        manager = pyvisa.ResourceManager("@py")
        self.meter: Any = manager.open_resource(self.server.address, read_termination="\n", write_termination="\n")
        self.addCleanup(self.meter.close)

    def test_what_it_answers(self) -> None:
        self.assertIn("Simulated bench", self.meter.query("*IDN?"))
        self.meter.write("SIM:TOUCH clip+,gnd")
        self.assertTrue(wait_for(lambda: abs(float(self.meter.query("MEAS:VOLT:DC?")) - 1.35) < 0.01))
        self.meter.write("SIM:TOUCH sw,gnd")  # an ammeter there shorts the loop behind 22 kohm: 1.35 V / 22 kohm = 61.4 uA
        self.assertTrue(wait_for(lambda: abs(float(self.meter.query("MEAS:CURR:DC?")) - 1.35 / 22e3) < 5e-7))
        self.meter.write("CONF:RES")
        self.assertIn("RES", self.meter.query("CONF?"))
        self.meter.write("SIM:LIGHT 250")
        self.assertTrue(wait_for(lambda: abs(float(self.meter.query("MEAS:ILL?")) - 250) < 5))
        self.assertEqual(self.meter.query("SYST:ERR?"), '0,"No error"')

    def test_what_it_does_not_understand_is_in_the_error_queue(self) -> None:
        for command, word in (("NOISE:LOUD", "-113"), ("SIM:TOUCH here,there", "-224"), ("SIM:LIGHT dark", "-224"),
                              ("SIM:SET S9,on", "-224"), ("SIM:FAULT TIRED", "-224")):  # fmt: skip
            self.meter.write(command)
            self.assertIn(word, self.meter.query("SYST:ERR?"), command)

    def test_ohms_want_the_supply_out(self) -> None:
        self.meter.write("SIM:TOUCH clip+,gnd")
        wrong = float(self.meter.query("MEAS:RES?"))
        self.meter.write("SIM:SUPPLY off")
        self.assertTrue(wait_for(lambda: float(self.meter.query("MEAS:RES?")) > 1.2 * wrong))

    def test_a_plain_socket_reads_the_same_figures(self) -> None:
        """The second way: no PyVISA, and the value itself from the operating point of the same circuit."""
        self.meter.write("SIM:TOUCH cell+,gnd")
        end = self.bench.device.shows("volt", "cell+", "0").value
        self.assertTrue(wait_for(lambda: abs(float(self.meter.query("READ?")) - end) < 5e-4))
        through_visa = statistics.mean(float(self.meter.query("READ?")) for _ in range(20))
        with socket.create_connection(("127.0.0.1", self.server.port), timeout=3) as plain:
            lines = plain.makefile("rw", newline="\n")
            found = []
            for _ in range(20):
                lines.write("READ?\n")
                lines.flush()
                found.append(float(lines.readline()))
        self.assertAlmostEqual(through_visa, statistics.mean(found), delta=2e-3)

    def test_a_healthy_device_shows_its_operating_point(self) -> None:
        circuit = self.bench.device.circuit
        healthy = DeviceUnderTest(circuit)
        healthy.stand(usual_setting(circuit))
        for node in circuit.nodes:
            volts = operating_point(circuit).voltages[node] if circuit.note("Rcds") else 0.0
            if node in ("clip+", "lead", "sw"):  # before the cell: the light does not come in
                self.assertAlmostEqual(healthy.shows("volt", node, "0").value, volts, delta=0.01)


class Troubles(BenchTest):
    def test_each_trouble_heals_and_nothing_wrong_comes_through(self) -> None:
        link = self.link()
        self.bench.put(("clip+", "0"))
        self.assertTrue(wait_for(lambda: any(abs(one.value - 1.35) < 0.005 for one in link.drain())))
        for place, trouble in enumerate(("DROP", "LATE,2", "GARBAGE", "GARBAGE,900", "HALF", "FLOOD", "AWAY,1")):
            with self.subTest(trouble):
                before = link.status.failures
                self.bench.answer(f"SIM:FAULT {trouble}")
                self.assertTrue(wait_for(lambda before=before: link.status.failures > before), trouble)
                self.assertTrue(wait_for(lambda: link.status.state == "live", 5.0), link.status)
                seen = self.next_samples(link, 10)
                self.assertTrue(all(abs(one.value - 1.35) < 0.01 for one in seen), (place, seen))
                self.assertEqual([one.at_s for one in seen], sorted(one.at_s for one in seen))

    def test_a_link_that_was_away_is_back_within_five_seconds(self) -> None:
        link, port = self.link(), self.server.port
        self.server.close()
        self.assertTrue(wait_for(lambda: link.status.state == "lost"))
        self.assertIn("Next try", link.status.words)
        with BenchServer(self.bench, port):
            self.assertTrue(wait_for(lambda: link.status.state == "live", 5.0), link.status)
            self.next_samples(link, 3)

    def test_a_function_turned_at_the_meter_is_seen_and_set_back_when_wanted(self) -> None:
        link = self.link()
        self.bench.answer("SIM:FAULT FUNCTION")
        self.assertEqual(self.next_samples(link, 10)[-1].function, "ohm")
        link.want("volt")
        self.next_samples(link, 5)
        self.assertEqual(self.next_samples(link, 5)[-1].function, "volt")

    def test_closing_while_waiting_does_not_take_long(self) -> None:
        link = self.link()
        self.bench.answer("SIM:FAULT LATE,2")
        self.assertTrue(link.close())
        self.assertEqual(link.status.state, "closed")

    def test_only_this_machine_can_connect(self) -> None:
        self.assertEqual(self.server._server.server_address[0], "127.0.0.1")
        with self.assertRaises(InvalidInput):
            BenchServer(self.bench, self.server.port)

    def test_failures_have_their_names(self) -> None:
        with self.assertRaises(LinkLost):
            Channel(Kept("none", "TCPIP::127.0.0.1::9::SOCKET")).query("*IDN?")
        with self.assertRaises(LinkLost):
            Channel(Kept("none", "ASRL/dev/nothing-here::INSTR"))
        channel = Channel(Kept("meter", self.server.address))
        self.addCleanup(channel.close)
        with self.assertRaises(AnswerTimeout):
            channel.query("SIM:LIFT")
        self.bench.answer("SIM:FAULT GARBAGE")
        with self.assertRaises(BadAnswer):
            channel.query("READ?")

    def test_ports_found_without_asking_the_network(self) -> None:
        self.assertFalse([one for one in found_addresses() if one.startswith("TCPIP")])


class Steadily(BenchTest):
    def test_touch_take_lift_touch(self) -> None:
        link, detector, takes = self.link(0.05), Detector(), []

        def took(count: int) -> bool:
            for sample in link.drain():
                verdict = detector.feed(sample)
                if verdict.kind == "steady" and verdict.fresh:
                    takes.append(verdict.value)
                    detector.taken()
            return len(takes) >= count

        self.assertFalse(wait_for(lambda: took(1), 1.2), "leads in the air")
        self.bench.put(("clip+", "0"))
        self.assertTrue(wait_for(lambda: took(1)))
        self.assertFalse(wait_for(lambda: took(2), 1.0), "one touch, one take")
        self.bench.put(None)
        self.assertFalse(wait_for(lambda: took(2), 1.0))
        self.bench.put(("sw", "0"))
        self.assertTrue(wait_for(lambda: took(2)))
        self.assertAlmostEqual(takes[0], 1.35, delta=0.005)
        self.assertLess(takes[1], 0.6, "22 kohm in the red lead")


class _Script(socketserver.StreamRequestHandler):
    """Answers what it is told to, and nothing else."""

    answers: ClassVar[dict[str, str]] = {}
    stream: tuple[str, ...] = ()
    unexpected: ClassVar[list[str]] = []

    def handle(self) -> None:
        for line in self.stream:
            self.wfile.write(line.encode() + b"\n")
        for raw in self.rfile:
            line = raw.decode().strip()
            if line not in self.answers:
                self.unexpected.append(line)
                return
            self.wfile.write(self.answers[line].encode() + b"\n")


class OtherDialects(unittest.TestCase):
    def serve(self, answers: dict[str, str], stream: tuple[str, ...] = ()) -> str:
        script: Any = type("Script", (_Script,), {"answers": answers, "stream": stream, "unexpected": []})
        server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), script)
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, args=(0.02,), daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.script: Any = script
        return f"TCPIP::127.0.0.1::{server.server_address[1]}::SOCKET"

    def first(self, kept: Kept) -> tuple[float, str]:
        """The first sample that comes."""
        link = Link(kept, 0.02)
        found: list[Sample] = []
        link.start()
        self.addCleanup(link.close)
        self.assertTrue(wait_for(lambda: bool(found.__iadd__(link.drain()))), link.status)
        return found[0].value, found[0].function

    def test_a_supply_is_only_read(self) -> None:
        answers = {"*IDN?": "a,b,c,d", "MEAS:VOLT?": "+3.000E+00", "MEAS:CURR?": "+1.250E-02", "*OPC?": "1"}
        address = self.serve(answers)
        self.assertEqual(self.first(Kept("supply", address, "SCPI bench supply")), (3.0, "volt"))
        self.assertEqual(self.first(Kept("supply", address, "SCPI bench supply", function="amp")), (0.0125, "amp"))
        self.assertEqual(self.script.unexpected, [])

    def test_a_supply_feeds_a_lamp_whose_curve_says_its_light(self) -> None:
        """A lamp of 2 lx at a volt, with the 3.4th power of its volts."""
        answers = {"*IDN?": "a,b,c,d", "MEAS:VOLT?": "+4.000E+00", "*OPC?": "1"}
        curve = "; ".join(f"{volts} V {2 * volts**3.4:.2f} lx" for volts in (3, 4.5, 6))
        kept = Kept("lamp", self.serve(answers), "SCPI supply of the lamp", settable=True, curve=curve)
        value, function = self.first(kept)
        self.assertEqual(function, "lux")
        self.assertAlmostEqual(value / (2 * 4**3.4), 1.0, delta=0.002)
        self.assertTrue(kept.can_give(500.0))
        self.assertFalse(kept.can_give(2_000.0))
        self.assertFalse(kept.can_give(20.0))
        link = Link(kept, 0.02)
        link.start()
        self.addCleanup(link.close)
        link.set_light(2 * 5**3.4)
        self.assertTrue(wait_for(lambda: bool(self.script.unexpected)))
        self.assertTrue(self.script.unexpected[0].startswith("VOLT "), self.script.unexpected)
        self.assertAlmostEqual(float(self.script.unexpected[0].split()[1]), 5.0, delta=0.01)

    def test_a_light_meter_and_beyond_its_range(self) -> None:
        kept = Kept("lux", self.serve({"*IDN?": "a,b,c,d", "MEAS:ILL?": "9.9E37", "*OPC?": "1"}), "SCPI light meter")
        self.assertEqual(self.first(kept), (float("inf"), "lux"))

    def test_lines_of_text_with_units_prefixes_and_overload(self) -> None:
        for line, expected in (
            ("DC 1.523 V", (1.523, "volt")),
            ("-12.0 mV", (-0.012, "volt")),
            ("38.2 kOhm", (38_200.0, "ohm")),
            ("OL MOhm", (float("inf"), "ohm")),
            ("4.7 uF", (4.7e-6, "capacitance")),
            ("0.95", (0.95, "volt")),
        ):
            with self.subTest(line):
                address = self.serve({}, ("cut off", line))
                value, function = self.first(Kept("stream", address, "lines of text"))
                self.assertEqual(function, expected[1])
                self.assertAlmostEqual(value, expected[0], delta=abs(expected[0]) * 1e-9 if value != float("inf") else 0)

    def test_a_serial_port(self) -> None:
        """A pair of terminals of the system stands for the cable: pyserial opens one end as it opens any port."""
        ours, theirs = os.openpty()
        tty.setraw(ours)
        self.addCleanup(os.close, ours)
        self.addCleanup(os.close, theirs)
        over = threading.Event()

        def send() -> None:
            while not over.wait(0.03):
                os.write(ours, b"DC 1.352 V\r\n")

        sender = threading.Thread(target=send, daemon=True)
        sender.start()
        self.addCleanup(sender.join)
        self.addCleanup(over.set)
        kept = Kept("serial", f"ASRL{os.ttyname(theirs)}::INSTR", "lines of text")
        self.assertEqual(self.first(kept), (1.352, "volt"))

    def test_a_line_that_does_not_fit_is_said(self) -> None:
        link = Link(Kept("stream", self.serve({}, ("head", "no figure here")), "lines of text"), 0.02)
        link.start()
        self.addCleanup(link.close)
        self.assertTrue(wait_for(lambda: "does not fit" in link.status.words), link.status)
