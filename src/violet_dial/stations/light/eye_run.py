"""A check by itself as the page has it: the job's next light, the lamp and lux meter of this bench, the camera's pictures."""

from collections.abc import Callable
from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.needle import Eye
from violet_dial.core.quantities import parse_number
from violet_dial.core.records.light import Direction
from violet_dial.core.steady.samples import Capture, Measured
from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.stations.light.acts import NeedleAtLight, reference_said, take_reading
from violet_dial.stations.light.by_itself import ByItself, LightWanted
from violet_dial.stations.light.dial_watch import DialWatch, FollowingReader, Picture, SeenDial
from violet_dial.stations.light.state import next_of


@dataclass(frozen=True)
class RunBench:
    """What a run needs of the house: the job as it stands, acts, the light as measured, a light asked for, how the meter is
    held."""

    job: Callable[[], Job]
    perform: Callable[[Act], bool]
    light: Callable[[], Capture | None]
    set_lux: Callable[[float], bool]
    attitude: Callable[[], str]


def wanted_of(job: Job) -> LightWanted | None:
    """The light that Light asks for next; None when it asks for no reading."""
    act = next_of(job, None)
    if act is None or act.kind != "read":
        return None
    return LightWanted(parse_number(act.reference, "Reference"), act.reference, act.direction, act.title)


class _Seat:
    """The job on the bench, the lamp and the camera, as `ByItself` asks for them."""

    def __init__(self, bench: RunBench, watch: DialWatch) -> None:
        self._bench, self._watch = bench, watch
        self.by_hand = self.is_told = False
        self._given: SeenDial | None = None  # last

    def wanted(self) -> LightWanted | None:
        return wanted_of(self._bench.job())

    def take(self, wanted: LightWanted, light: Measured, needle: Measured) -> bool:
        small = self._given.small if self._given is not None else ""
        direction: Direction | None = {"rising": "rising", "falling": "falling"}.get(wanted.direction)  # type: ignore[assignment]
        reference = reference_said(self._bench.job(), wanted.reference) if self.is_told else light
        read = NeedleAtLight(reference, needle, direction, self._bench.attitude(), small)
        return self._bench.perform(lambda job, at: take_reading(job, read, at))

    def set_lux(self, lux: float) -> None:
        self._bench.set_lux(lux)

    def light(self) -> Measured | None:
        light = self._bench.light()
        return None if light is None else Measured.of(light)

    def look(self) -> SeenDial | None:
        """One that was not given before: an old one shows the needle in another light."""
        seen = self._watch.seen
        if seen is self._given:
            return None
        self._given = seen
        return seen


def run_of(bench: RunBench, watch: DialWatch, eye: Eye | None, empty: Picture | None) -> ByItself:
    """A run that is ready to begin; from now on the watch follows the dial.

    Raises InvalidInput: no dial set up, no picture, or no lux meter on the bench where one is in the chain.
    """
    job, now = bench.job(), watch.picture()
    if eye is None:
        raise InvalidInput("Dial", "not set up", "three marks of its scale")
    if now is None:
        raise InvalidInput("Camera", watch.fault or "no picture yet", "pictures of the dial")
    is_told = job.light.setup.chain.source.kind != "lux meter"
    if bench.light() is None and not is_told:
        raise InvalidInput("Light", "no lux meter that shows something", "one on the bench (F12)")
    if eye.shape is not None and eye.shape != now.shape:
        raise InvalidInput("Picture", f"{now.shape[1]} x {now.shape[0]}", "as large as the dial was set up with")
    seat = _Seat(bench, watch)
    wanted, seat.is_told = wanted_of(job), is_told
    seat.by_hand = not is_told and wanted is not None and not bench.set_lux(wanted.lux)
    remembers = job.device.cell.lower() == "cds"
    watch.read_by(FollowingReader(eye, empty if empty is not None else now))
    return ByItself(seat, seat, seat, eye.face.scale, remembers)
