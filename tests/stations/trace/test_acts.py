"""Acts at Trace, findings that raise suspicion, covers that are off, and the command line."""

import contextlib
import io
import json
import tempfile
import unittest
import zipfile
from dataclasses import replace
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.workshops import next_act, station_states
from violet_dial.cli.main import main
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.evidence import read_figure, understand_evidence
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board, SolderPoint, Touch
from violet_dial.core.mapping.drawing import drawn
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence, Setting
from violet_dial.core.steady.samples import Capture
from violet_dial.core.task import SilentTask
from violet_dial.job.bundle import Bundle, read_bundle, write_bundle
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.schema import job_from_json, job_to_json
from violet_dial.job.tracing import PinnedNode as Pinned
from violet_dial.services.circuits import circuit_from, circuit_of, circuit_text_of, templates
from violet_dial.services.evidence import type_evidence
from violet_dial.stations import STATIONS
from violet_dial.stations.open.acts import take_step
from violet_dial.stations.receive.acts import FindingSeen, place_finding
from violet_dial.stations.trace import acts as tracing
from violet_dial.stations.trace import map_acts, map_state
from violet_dial.stations.trace.state import members
from violet_dial.stations.trace.table import read_evidence, setting_from, write_evidence
from violet_dial.stations.trace.work import before_and_after, case_of, raised_by_findings, reach_of, within_reach, work_out

SERIES = next(one for one in templates() if one.stem == "cds-series")


def begun(*lines: str) -> Job:
    job = Job("j1", 1, Device("Gannet", kind="reflex", cell="CdS"), Intake("needle dead"))
    job = tracing.choose_circuit(job, SERIES.title, SERIES.text, "now").job
    for line in lines:
        job = type_evidence(job, line, "now").job
    return job


class OneEvidence(unittest.TestCase):
    """A touch at the map is evidence at Trace, and ohms typed at Trace are a touch of the map; the circuit of a board is made of
    it and kept nowhere else."""

    def traced(self) -> Job:
        job = Job("j1", 1, Device("Gannet", kind="reflex", cell="CdS"), Intake("needle dead"))
        for line in ("battery 1.35 V clip+ to gnd", "red wire clip+ to sw", "R4 2k2 sw to coil+", "movement coil+ to gnd"):
            job = map_acts.say_line(job, line, "2026-11-03T10:00:00+00:00").job
        return job

    def test_the_circuit_of_a_board_is_derived(self) -> None:
        job = self.traced()
        self.assertEqual(job.tracing.circuit_text, "")
        self.assertIn("2200", circuit_text_of(job))
        again = job_from_json(job_to_json(job))
        self.assertEqual(circuit_text_of(again), circuit_text_of(job))
        edited = circuit_text_of(job).replace("2200", "2700")
        changed = tracing.choose_circuit(job, "edited", edited, "now").job
        self.assertEqual(changed.tracing.circuit_text, "")
        self.assertEqual(circuit_of(changed).part("R4").value, 2700.0)

    def test_both_ways(self) -> None:
        job = self.traced()
        at = "2026-11-03T10:01:00+00:00"
        capture = Capture("multimeter", "ohm", 0.31, 0.02, at=at)
        touched = map_acts.take_touches(job, (Touch("clip+", "sw", 0.31, capture=capture),), at).job
        (evidence,) = case_of(touched).epochs[-1]
        self.assertEqual((evidence.test, evidence.value, evidence.u), ("ohm", 0.31, 0.02))
        typed = type_evidence(touched, "sw to coil+ 2k19", at).job
        self.assertEqual(len(typed.tracing.board.touches), 1)  # one fact, one place
        seen = map_acts.seen_board(typed)
        self.assertEqual([(one.a, one.b, one.ohm) for one in seen.touches], [("clip+", "sw", 0.31), ("sw", "coil+", 2190.0)])
        self.assertEqual(len(map_state.map_shown(typed, None).touches), 2)
        self.assertEqual(len(case_of(typed).epochs[-1]), 2)
        struck = map_acts.strike_touch(typed, 1, at).job
        self.assertEqual((struck.tracing.now, len(struck.tracing.board.touches)), ((), 1))


class Acts(unittest.TestCase):
    def test_evidence_and_how_it_stands(self) -> None:
        job = begun("S1 off", "sw to gnd 1.35 V", "S1 on", "needle dead")
        self.assertEqual([one.evidence.test for one in job.tracing.now], ["volt", "seen"])
        self.assertEqual([one.evidence.setting.words for one in job.tracing.now], ["S1 off", "S1 on"])
        struck = tracing.strike_evidence(job, 0, "now")
        self.assertEqual(len(struck.job.tracing.now), 1)
        with self.assertRaisesRegex(InvalidInput, "one of"):
            type_evidence(job, "wibble to gnd 3 V", "now")

    def test_a_figure_with_two_meanings_is_refused_with_both_or_follows_the_meter(self) -> None:
        job = begun()
        for line in ("sw 0.5", "sw to gnd 0.5", "red wire 5m"):
            with self.assertRaisesRegex(InvalidInput, "it could be .* V or .* ohm"):
                type_evidence(job, line, "now")
        volts = type_evidence(job, "sw 0.5", "now", "volt").job.tracing.now[-1].evidence
        self.assertEqual((volts.test, volts.value, volts.setting.supply), ("volt", 0.5, "battery"))
        ohms = type_evidence(job, "sw 0.5", "now", "ohm").job.tracing.now[-1].evidence
        self.assertEqual((ohms.test, ohms.setting.supply), ("ohm", "off"))
        said = understand_evidence(circuit_of(job), "sw 0.5", usual_setting(circuit_of(job)), "volt").words
        self.assertIn("as the connected meter is set", said)

    def test_units_are_said_in_every_way_that_the_bench_says_them(self) -> None:
        for line, test, value in (
            ("red wire 47R", "ohm", 47.0), ("red wire 38k", "ohm", 38e3), ("red wire 2R2", "ohm", 2.2),
            ("red wire open", "ohm", OVERLOAD_OHM), ("red wire OL", "ohm", OVERLOAD_OHM), ("red wire 4k7", "ohm", 4700.0),
            ("sw to gnd 500 mV", "volt", 0.5), ("sw to gnd 500 µV", "volt", 5e-4), ("sw to gnd 500 μV", "volt", 5e-4),
            ("red wire 3 Ω", "ohm", 3.0), ("red wire 3 Ω", "ohm", 3.0), ("Rser 12 µA", "amp", 12e-6),
        ):  # fmt: skip
            evidence = begun(line).tracing.now[0].evidence
            self.assertEqual((evidence.test, round(evidence.value, 12)), (test, value), line)
        for test, text, value in (
            ("ohm", "47R", 47.0), ("ohm", "open", OVERLOAD_OHM), ("ohm", "∞", OVERLOAD_OHM), ("ohm", "3k3", 3300.0),
            ("volt", "0,31", 0.31), ("volt", "310 mV", 0.31), ("seen", "40 %", 0.4), ("seen", "lit", 1.0),
        ):  # fmt: skip
            self.assertAlmostEqual(read_figure(test, text), value)  # type: ignore[arg-type]
        for test, text in (("volt", "3 ohm"), ("ohm", "3 V"), ("volt", "OL"), ("seen", "140 %"), ("continuity", "maybe")):
            with self.assertRaises(InvalidInput):
                read_figure(test, text)  # type: ignore[arg-type]

    def test_editing_the_circuit_keeps_evidence_or_is_refused(self) -> None:
        job = begun("sw to gnd 0.5 V")
        edited = tracing.choose_circuit(job, SERIES.title, SERIES.text.replace("330", "470"), "now")
        self.assertEqual(len(edited.job.tracing.now), 1)
        self.assertIn("edited", edited.reason)
        with self.assertRaisesRegex(InvalidInput, "evidence taken"):
            tracing.choose_circuit(job, "other", "t\nR1 a 0 1k\nV1 a 0 1\n.end\n", "now")
        with self.assertRaisesRegex(InvalidInput, "Line 2"):
            tracing.choose_circuit(job, "broken", "t\nR1 a 0\n.end\n", "now")

    def test_repair_begins_an_epoch_and_shows_before_and_after(self) -> None:
        job = begun("clip+ to gnd 1.36 V", "sw to gnd 0.08 V", "needle dead")
        result = work_out(job, Diagnostician(), SilentTask())
        self.assertEqual({one.faults[0].part for one in result.diagnosis.suspects[:2]}, {"Rclip", "Rwred"})
        self.assertTrue(result.reasons[0].pro)
        fixed = tracing.record_fix(job, result.diagnosis.suspects[0].faults[0], "clip renewed", "now").job
        self.assertEqual(len(fixed.tracing.epochs), 2)
        after = type_evidence(fixed, "sw to gnd 1.35 V", "now").job
        self.assertEqual(before_and_after(after), (("sw to gnd", "sw to gnd 80 mV (S1 on)", "sw to gnd 1.35 V (S1 on)"),))
        again = work_out(after, Diagnostician(), SilentTask())
        self.assertGreater(again.diagnosis.healthy, result.diagnosis.healthy)

    def test_findings_raise_and_creep(self) -> None:
        job = place_finding(begun(), FindingSeen("green crust", "bottom", 0.28, 0.5), "now").job
        raised = dict(raised_by_findings(job, circuit_of(job)))
        self.assertEqual(raised["rclip"], 12.0)
        self.assertEqual(raised["rwred"], 12.0)  # it sits at the same place
        self.assertNotIn("rcds", raised)

    def test_what_is_off_costs_nothing_more(self) -> None:
        job = begun()
        closed = reach_of(job)
        self.assertEqual(closed.opened, frozenset())
        job = take_step(job, "base plate -> A1", "2026-11-03T10:00:00+00:00").job
        self.assertIn("base plate", reach_of(job).opened)
        self.assertIn("base plate", reach_of(job).minutes)
        board = Board(
            spots=(SolderPoint("lead", behind="Base plate", minutes=4.0), SolderPoint("cell", behind="top cover", minutes=9.0))
        )
        self.assertEqual([one.behind for one in within_reach(job, board).spots], ["", "top cover"])

    def test_document_and_stations(self) -> None:
        job = begun("sw to gnd 0.5 V")
        job = tracing.pin_spot(job, Pinned("sw", 2.0, 1.0), "now").job
        job = replace(job, tracing=replace(job.tracing, weights=(("clip", 0.2),)))
        self.assertEqual(job_from_json(job_to_json(job)), job)
        self.assertEqual(
            (next_act(job, STATIONS).waits, next_act(job, STATIONS).station, station_states(job, STATIONS)["Trace"]),
            ("tracing", "Trace", "begun"),
        )

    def test_templates_are_eight_and_each_maps_without_two_spots_in_one_place(self) -> None:
        self.assertGreaterEqual(len(templates()), 8)
        for template in templates():
            circuit: Circuit = circuit_from(template.text)
            spots = {(one.x, round(one.y, 3)) for one in drawn(circuit).places}
            self.assertEqual(len(spots), len(circuit.nodes), template.stem)


FIGURES = st.floats(1e-9, 1e6)
SETTINGS = st.builds(
    Setting,
    st.sampled_from(((), (("s1", "on"),), (("s1", "off"),))).map(lambda pairs: pairs or (("s1", "on"),)),
    st.sampled_from(("battery", "bench", "off")),
    st.floats(0, 1e5),
    st.sampled_from(((), ("Rtrim",), ("Rtrim", "Rser"))),
    st.sampled_from(((), ("bent",), ("bent", "cold"))),
)
EVIDENCE = st.one_of(
    st.builds(Evidence, st.just("volt"), st.floats(-1e3, 1e3), st.sampled_from(("clip+", "sw")), st.sampled_from(("0", "m+")),
              setting=SETTINGS, sister=st.booleans(), u=st.one_of(st.just(0.0), FIGURES)),
    st.builds(Evidence, st.just("ohm"), st.one_of(FIGURES, st.just(OVERLOAD_OHM)), st.just("lead"), st.just("sw"),
              setting=SETTINGS.map(lambda one: replace(one, supply="off"))),
    st.builds(Evidence, st.just("amp"), st.floats(-1.0, 1.0), part=st.just("Rser"), setting=SETTINGS),
    st.builds(Evidence, st.just("seen"), st.floats(0.0, 1.0), part=st.just("Rmeter"), setting=SETTINGS),
    st.builds(Evidence, st.just("continuity"), st.sampled_from((0.0, 1.0)), st.just("lead"), st.just("0"),
              setting=SETTINGS.map(lambda one: replace(one, supply="off"))),
)  # fmt: skip


class EvidenceCsv(unittest.TestCase):
    CIRCUIT = circuit_from(SERIES.text)

    def test_columns_units_and_settings(self) -> None:
        data = (
            "test,plus,minus,value,unit,setting\n"
            "ohm,clip+,lead,47R,,\nohm,clip+,lead,open,,\nvolt,sw,0,5,μV,\n"
            "volt,clip+,gnd,1360,mV,S1=on\nohm,clip+,lead,38,k,\nseen,Rmeter,,dead,,S1=on;light=10\namp,Rser,,12,uA,S1=on\n"
            "ohm,lead,sw,OL,ohm,\ncontinuity,lead,sw,no,,\nvolt,nowhere,0,1,V,\nvolt,sw,0,1,lx,\nvolt,sw,0,1,V,S1=sideways\n"
        )
        read = read_evidence(data.encode(), self.CIRCUIT)
        self.assertEqual([round(one.value, 9) for one in read.evidence], [47.0, 5e7, 5e-6, 1.36, 38e3, 0.0, 12e-6, 5e7, 0.0])
        self.assertEqual(read.evidence[4].setting.supply, "off")
        self.assertEqual(read.evidence[5].setting.light_lx, 10.0)
        self.assertEqual([row.line for row in read.rejected], [11, 12, 13])
        self.assertEqual(setting_from("supply=bench;disconnected=Rcds;bent=yes", self.CIRCUIT).disconnected, ("Rcds",))

    @settings(max_examples=150, deadline=None)
    @given(st.lists(EVIDENCE, max_size=6))
    def test_what_is_written_is_read_back(self, evidence: list[Evidence]) -> None:
        read = read_evidence(write_evidence(evidence).encode(), self.CIRCUIT)
        self.assertEqual(read.rejected, ())
        self.assertEqual(read.evidence, tuple(evidence))

    def test_evidence_from_a_file_is_taken_whole_or_not_at_all(self) -> None:
        job = tracing.choose_circuit(Job("j1", 1), "meter", SERIES.text, "now").job
        now = usual_setting(self.CIRCUIT)
        good = (Evidence("volt", 1.3, "clip+", "0", setting=now), Evidence("seen", 0.0, part="Rmeter", setting=now))
        done = tracing.add_evidence(job, good, "readings.csv", "now")
        self.assertEqual(done.reason, "2 pieces of evidence from readings.csv")
        self.assertEqual([taken.typed for taken in done.job.tracing.now], ["from readings.csv"] * 2)
        with self.assertRaisesRegex(InvalidInput, "no point elsewhere"):
            tracing.add_evidence(job, (*good, Evidence("volt", 1.0, "elsewhere", "0")), "readings.csv", "now")
        bundle = read_bundle(write_bundle(Bundle(done.job, {})))
        self.assertEqual(bundle.job.tracing, done.job.tracing)
        with zipfile.ZipFile(io.BytesIO(write_bundle(Bundle(done.job, {}), members(done.job)))) as archive:
            self.assertEqual(archive.read("circuit.cir").decode(), SERIES.text)
            self.assertEqual(read_evidence(archive.read("evidence-1.csv"), self.CIRCUIT).evidence, good)

    @settings(max_examples=150, deadline=None)
    @given(st.binary(max_size=300))
    def test_any_bytes_give_evidence_or_a_sentence(self, data: bytes) -> None:
        for head in (b"", b"test,plus,minus,value,unit,setting\n", b"test;plus;value\n"):
            try:
                for one in read_evidence(head + data, self.CIRCUIT).evidence:
                    self.assertIsInstance(one, Evidence)
            except InvalidInput as error:
                self.assertIn("expected", str(error))


class CommandLine(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.circuit = self.folder / "c.cir"
        self.circuit.write_text(SERIES.text, encoding="utf-8")

    def run_command(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main(list(arguments))
        return status, out.getvalue(), err.getvalue()

    def test_op(self) -> None:
        status, out, _ = self.run_command("op", str(self.circuit), "--json")
        found = json.loads(out)
        self.assertEqual(status, 0)
        self.assertAlmostEqual(found["voltages"]["clip+"], 1.35)
        self.assertAlmostEqual(found["currents"]["Rclip"], -found["currents"]["Vbat"], places=9)
        nested = self.folder / "x.cir"
        nested.write_text("t\n.subckt s a b\nR1 a m 1k\nR2 m b 1k\n.ends\nV1 a 0 2\nX1 a 0 s\n.end\n", encoding="utf-8")
        found = json.loads(self.run_command("op", str(nested), "--json")[1])
        self.assertAlmostEqual(found["voltages"]["x1.m"], 1.0)
        self.assertAlmostEqual(found["currents"]["X1.R1"], 1e-3)

    def test_trace(self) -> None:
        readings = self.folder / "r.csv"
        readings.write_text(
            "test,plus,minus,value,unit,setting\nvolt,clip+,0,1.36,V,S1=on\nvolt,sw,0,0.08,V,S1=on\nseen,Rmeter,,off,,S1=on\n",
            encoding="utf-8",
        )
        status, out, _ = self.run_command("trace", str(self.circuit), "--readings", str(readings), "--json")
        found = json.loads(out)
        self.assertEqual(status, 0)
        self.assertEqual({one["part"] for one in found["suspects"][:2]}, {"Rclip", "Rwred"})
        self.assertLess(found["healthy"], 0.01)
        self.assertEqual({"test", "plus", "minus", "setting", "bits", "minutes", "outcomes"} - set(found["next"]), set())
        self.assertTrue(found["suspects"][0]["for"])
        self.assertEqual(self.run_command("trace", str(self.circuit), "--readings", str(readings))[0], 0)

    def test_what_cannot_be_read_is_one_line_and_two(self) -> None:
        self.circuit.write_text("t\nR1 a 0\n", encoding="utf-8")
        status, _, err = self.run_command("op", str(self.circuit), "--json")
        self.assertEqual((status, err.count("\n")), (2, 1))
        self.assertIn("Line 2", err)
        self.circuit.write_text("t\nV1 a 0 1\nR1 a b 1k\nC1 b c 1u\nR2 c d 1k\n", encoding="utf-8")
        self.assertIn("hangs in the air", self.run_command("op", str(self.circuit))[2])
        self.circuit.write_bytes(b"\0\1\2")
        self.assertEqual(self.run_command("op", str(self.circuit))[0], 2)


if __name__ == "__main__":
    unittest.main()
