"""The job document as JSON: read strictly, written compactly, described by a JSON Schema."""

import dataclasses
import json
from typing import Any

from pydantic import ConfigDict, TypeAdapter, ValidationError, with_config

from violet_dial.core.calibration.adjuster import Adjuster
from violet_dial.core.calibration.readings import Reading, Tolerance
from violet_dial.core.circuit.trade import Setting
from violet_dial.core.diagnosis.evidence import Evidence
from violet_dial.core.diagnosis.faults import Fault
from violet_dial.core.errors import InvalidInput
from violet_dial.core.light import chain
from violet_dial.core.opening.steps import End, Step
from violet_dial.core.receiving.gate import Gate
from violet_dial.core.steady.samples import Capture
from violet_dial.job import document

MOST_JSON_BYTES = 20_000_000
_STRICT = ConfigDict(extra="forbid", allow_inf_nan=False)
_RECORDS: tuple[type, ...] = (
    Adjuster,
    Reading,
    Tolerance,
    chain.Chain,
    chain.TrustedMeter,
    chain.LuxMeter,
    chain.LuminancePanel,
    chain.LampAtDistance,
    chain.DensityStep,
    chain.Correction,
    Step,
    End,
    Gate,
    Setting,
    Evidence,
    Fault,
    Capture,
    document.TakenEvidence,
    document.TakenRepair,
    document.Spot,
    document.Tracing,
    document.Finding,
    document.TakenTrial,
    document.MissingScrew,
    document.Receiving,
    document.ShorterWay,
    document.Opening,
    document.Device,
    document.Intake,
    document.Photo,
    document.TakenReading,
    document.Run,
    document.LightSetup,
    document.LightCheck,
    document.Closing,
    document.Job,
)


def _adapter() -> TypeAdapter[document.Job]:
    for record in _RECORDS:
        with_config(_STRICT)(record)
    return TypeAdapter(document.Job)


_JOB = _adapter()


def job_to_json(job: document.Job) -> bytes:
    """The document as compact JSON, UTF-8."""
    return _JOB.dump_json(job)


def job_from_json(data: bytes) -> document.Job:
    """The document from JSON of this or an older format.

    Raises
    ------
    InvalidInput
        Not JSON, too large, a newer format, or a field with a wrong value; ``field`` is the path to it.
    """
    if len(data) > MOST_JSON_BYTES:
        raise InvalidInput("Job", f"{len(data)} bytes", f"at most {MOST_JSON_BYTES} bytes of JSON")
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InvalidInput("Job", data[:40].decode("utf-8", "replace"), "a job document in JSON") from error
    if not isinstance(raw, dict):
        raise InvalidInput("Job", type(raw).__name__, "a JSON object")
    version = raw.get("format_version")
    if isinstance(version, int) and version > document.FORMAT_VERSION:
        expected = f"format {document.FORMAT_VERSION} or older; open it with a newer Violet Dial"
        raise InvalidInput("Job format", version, expected)
    try:
        return _JOB.validate_json(json.dumps(upgraded(raw)) if version != document.FORMAT_VERSION else data)
    except ValidationError as error:
        raise _first_fault(error) from error


def upgraded(raw: dict[str, Any]) -> dict[str, Any]:
    """The raw document of an older format as one of this format.

    Format 1 had no findings, walk, gate, strip-down and tracing; format 2 no captures of instruments and no choice of what
    the next test is to save: they begin empty.
    """
    older = range(1, document.FORMAT_VERSION)
    return {**raw, "format_version": document.FORMAT_VERSION} if raw.get("format_version") in older else raw


def _first_fault(error: ValidationError) -> InvalidInput:
    fault = error.errors(include_url=False)[0]
    where = ".".join(str(part) for part in fault["loc"]) or "job"
    return InvalidInput(where, fault.get("input"), str(fault["msg"]).lower())


def job_schema() -> dict[str, Any]:
    """JSON Schema of the document (draft 2020-12)."""
    schema = _JOB.json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    return schema


def written_text(job: document.Job) -> str:
    """Every word a person wrote in the job, for searching."""
    words: list[str] = [job.label, job.waits_for]
    for part in (job.device, job.intake, job.closing):
        for item in dataclasses.fields(part):
            value = getattr(part, item.name)
            words.extend(value if isinstance(value, tuple) else [str(value)])
    words.extend(f"{photo.file_name} {photo.caption}" for photo in job.photos)
    words.extend(run.name for run in job.light.runs)
    words.extend(f"{one.kind} {one.note}" for one in job.receiving.findings)
    words.extend(f"{one.act} {one.setting} {one.note}" for one in job.receiving.trials)
    words.extend(f"{one.place} {one.siblings} {one.found}" for one in job.receiving.missing)
    words.extend(f"{step.name} {step.size} {step.tray} {step.note} {step.marks}" for step in job.opening.steps)
    words.append(job.tracing.circuit_name)
    words.extend(f"{one.typed} {one.evidence.note}" for epoch in job.tracing.epochs for one in epoch)
    words.extend(one.words for one in job.tracing.repairs)
    words.extend(f"{way.part} {' '.join(way.through)} {way.note}" for way in job.opening.shorter_ways)
    words.append(job.light.setup.light_source)
    return "\n".join(word for word in words if word)


if __name__ == "__main__":
    import sys

    sys.stdout.write(json.dumps(job_schema(), indent=2) + "\n")
