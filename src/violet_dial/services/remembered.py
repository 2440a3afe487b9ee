"""What was worked out of parts of a job, known again by the parts themselves: they are frozen, and a version shares with the one
before all that did not change, so that no list of hundreds is compared or hashed to find that it is the same."""

import operator
import threading
from collections.abc import Callable
from functools import update_wrapper
from typing import Any, Generic, ParamSpec, TypeVar

P = ParamSpec("P")
R = TypeVar("R")
MOST_KEPT = 16  # results of one function: some jobs, each before and after an act


class Answers:
    """Answers by their questions, the newest ``most``, each question known again by ``same``; from any thread."""

    def __init__(self, most: int, same: Callable[[Any, Any], bool] = operator.eq) -> None:
        self._most, self._same, self._lock = most, same, threading.Lock()
        self._kept: list[tuple[object, Any]] = []

    def get(self, question: object) -> Any:
        """The answer; None where it is not known."""
        with self._lock:
            for place, (known, result) in enumerate(self._kept):
                if self._same(question, known):
                    self._kept.insert(0, self._kept.pop(place))
                    return result
        return None

    def put(self, question: object, result: object) -> None:
        """Keep an answer; the oldest goes."""
        with self._lock:
            self._kept.insert(0, (question, result))
            del self._kept[self._most :]

    def forget(self) -> None:
        """Nothing is known any more."""
        with self._lock:
            self._kept.clear()


class Remembered(Generic[P, R]):
    """A function that is worked out once for the same parts of what it is given."""

    def __init__(self, work: Callable[P, R], parts: Callable[P, tuple[object, ...]]) -> None:
        self._work, self._parts, self._kept = work, parts, Answers(MOST_KEPT, _same_parts)
        update_wrapper(self, work)

    def __call__(self, *given: P.args, **named: P.kwargs) -> R:
        parts = self._parts(*given, **named)
        kept: tuple[R] | None = self._kept.get(parts)
        if kept is None:
            kept = (self._work(*given, **named),)  # in a tuple: None is a result too
            self._kept.put(parts, kept)
        return kept[0]

    def knows(self, *given: P.args, **named: P.kwargs) -> bool:
        """Whether the result is there already, to be had at once."""
        return self._kept.get(self._parts(*given, **named)) is not None


class remembered:
    """Makes a function remember its newest results; ``parts`` of what it is given say which is which."""

    def __init__(self, parts: Callable[..., tuple[object, ...]]) -> None:
        self._parts = parts

    def __call__(self, work: Callable[P, R]) -> Remembered[P, R]:
        return Remembered(work, self._parts)


def _same_parts(parts: tuple[object, ...], known: tuple[object, ...]) -> bool:
    return len(parts) == len(known) and all(map(_same, parts, known))


def _same(one: object, other: object) -> bool:
    """The very same thing; plain figures and words by what they are."""
    return one is other or (isinstance(one, (str, int, float)) and type(one) is type(other) and one == other)
