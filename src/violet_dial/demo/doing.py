"""Acts done one after the other on a job, for what is made without the window: the demo and long days in tests."""

from collections.abc import Callable, Iterable
from typing import TypeVar

from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.services.workshop import Workshop

T = TypeVar("T")


class Doing:
    """A job in a workshop, and hands that do acts on it."""

    def __init__(self, workshop: Workshop, job_id: str) -> None:
        self.workshop, self.job_id = workshop, job_id

    @property
    def job(self) -> Job:
        """The job as it stands."""
        return self.workshop.view(self.job_id).job

    def do(self, act: Act) -> None:
        """One act, kept."""
        self.workshop.perform(self.job_id, act)

    def each(self, make: Callable[[T], Act], things: Iterable[T]) -> None:
        """An act for each thing, kept one by one."""
        for thing in things:
            self.do(make(thing))
