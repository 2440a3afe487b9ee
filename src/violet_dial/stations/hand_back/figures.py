"""What the jobs of this workshop say together: faults by model and place, what came back, how often the first suspect was right,
parts used and what is left in the drawer, chances beforehand that follow from the faults found here."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.faults import WEIGHTS
from violet_dial.core.errors import VioletDialError
from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.services.circuits import circuit_of
from violet_dial.services.every_job import every_job

MOST_JOBS = 3_000
LEAST_LEARNT = 10  # faults put right, from which chances beforehand are offered; common practice, no source
BELIEVED = 10.0  # faults that the shipped chances count for beside those found here
MOST_WEIGHT = 0.5


@dataclass(frozen=True)
class Figures:
    """All of it. ``kinds`` faults put right by kind of part; ``models`` and ``places`` with their counts; ``returned`` jobs that
    came in again; ``first`` how often the first suspect was the one, of ``told`` repairs whose place in the list is known;
    ``used`` parts; ``left`` of those that were ever counted in the drawer."""

    jobs: int = 0
    unreadable: int = 0
    repaired: int = 0
    kinds: tuple[tuple[str, int], ...] = ()
    models: tuple[tuple[str, int], ...] = ()
    places: tuple[tuple[str, int], ...] = ()
    returned: tuple[str, ...] = ()
    first: int = 0
    among_three: int = 0
    told: int = 0
    used: tuple[tuple[str, int], ...] = ()
    left: tuple[tuple[str, int], ...] = ()

    @property
    def weights(self) -> tuple[tuple[str, float], ...]:
        """Chances beforehand by kind of part, as the faults found here shift the shipped ones; nothing with too few."""
        return learned_weights(dict(self.kinds)) if self.repaired >= LEAST_LEARNT else ()


def learned_weights(kinds: dict[str, int]) -> tuple[tuple[str, float], ...]:
    """Each kind's shipped chance times how much oftener it failed here than expected, as many faults as `BELIEVED` being laid
    beside those found, spread as shipped (a gamma prior of that weight)."""
    found, whole = sum(kinds.values()), sum(WEIGHTS.values())
    said = []
    for kind, weight in WEIGHTS.items():
        share = weight / whole
        shift = (kinds.get(kind, 0) + BELIEVED * share) / ((found + BELIEVED) * share)
        said.append((kind, min(round(weight * shift, 5), MOST_WEIGHT)))
    return tuple(said)


def figures_of(jobs: Iterable[Job], unreadable: int = 0) -> Figures:
    """The figures of these jobs, older before newer."""
    every = sorted(jobs, key=lambda job: job.number)
    kinds: Counter[str] = Counter()
    models: Counter[str] = Counter()
    places: Counter[str] = Counter()
    ranks: list[int] = []
    for job in every:
        places.update(f"{finding.kind} at the {finding.view}" for finding in job.receiving.findings)
        for repair in job.tracing.repairs:
            models[job.device.name or "not described"] += 1
            ranks += [repair.place] if repair.place else []
            kind = _kind(job, repair.fault.part)
            if kind:
                kinds[kind] += 1
    used, left = _drawer(every)
    repaired = sum(len(job.tracing.repairs) for job in every)
    return Figures(
        len(every), unreadable, repaired, tuple(kinds.most_common()), tuple(models.most_common(8)), tuple(places.most_common(8)),
        _returned(every), sum(rank == 1 for rank in ranks), sum(rank <= 3 for rank in ranks), len(ranks), used, left,
    )  # fmt: skip


def _kind(job: Job, part: str) -> str:
    try:
        circuit = circuit_of(job)
        return kind_of(circuit, circuit.part(part))
    except VioletDialError:
        return ""


def _returned(every: list[Job]) -> tuple[str, ...]:
    """Jobs on a device (by its name and number) that was signed and handed back before."""
    signed: dict[tuple[str, str], str] = {}
    found = []
    for job in every:
        device = (job.device.name.strip().lower(), job.device.serial.strip().lower())
        if all(device):
            if device in signed:
                found.append(f"{job.device.name}: job {job.label} after job {signed[device]}")
            if job.closing.signed_by:
                signed[device] = job.label
    return tuple(found)


def _drawer(every: list[Job]) -> tuple[tuple[tuple[str, int], ...], tuple[tuple[str, int], ...]]:
    """Parts used, and what is left of those that were counted: the newest count less what was used in that job and after."""
    used: Counter[str] = Counter()
    left: dict[str, int] = {}
    names: dict[str, str] = {}
    for job in every:
        for count in job.closing.counted:
            names.setdefault(count.name.lower(), count.name)
            left[count.name.lower()] = count.count
        for part in job.closing.parts:
            used[part.name] += part.count
            if part.name.lower() in left:
                left[part.name.lower()] -= part.count
    return tuple(used.most_common()), tuple((names[key], count) for key, count in left.items())


def read_figures(path: Path, task: Task) -> Figures:
    """The figures of a workshop; over a link of its own, for a worker. Raises StoreError, TaskCancelled."""
    found = tuple(every_job(path, task, MOST_JOBS))
    jobs = tuple(one for one in found if one is not None)
    return figures_of(jobs, len(found) - len(jobs))
