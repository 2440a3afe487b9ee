"""What was worked out of parts of a job, known again by the parts themselves: they are frozen, and a version shares with the one
before all that did not change, so that no list of hundreds is compared or hashed to find that it is the same."""

import threading
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar, cast

F = TypeVar("F", bound=Callable[..., Any])
MOST_KEPT = 16  # results of one function: some jobs, each before and after an act


class Answers:
    """Answers by their questions, the newest ``most``; from any thread."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, threading.Lock()
        self._kept: list[tuple[object, Any]] = []

    def get(self, question: object) -> Any:
        """The answer; None where it is not known."""
        with self._lock:
            for place, (known, result) in enumerate(self._kept):
                if known == question:
                    self._kept.insert(0, self._kept.pop(place))
                    return result
        return None

    def put(self, question: object, result: object) -> None:
        """Keep an answer; the oldest goes."""
        with self._lock:
            self._kept.insert(0, (question, result))
            del self._kept[self._most :]


class remembered:
    """A function that is worked out once for the same ``parts`` of what it is given; from any thread."""

    def __init__(self, parts: Callable[..., tuple[object, ...]]) -> None:
        self._parts = parts

    def __call__(self, work: F) -> F:
        kept: list[tuple[tuple[object, ...], Any]] = []
        lock = threading.Lock()

        @wraps(work)
        def worked(*given: Any) -> Any:
            mine = self._parts(*given)
            with lock:
                for place, (known, result) in enumerate(kept):
                    if len(known) == len(mine) and all(map(_same, mine, known)):
                        kept.insert(0, kept.pop(place))
                        return result
            result = work(*given)
            with lock:
                kept.insert(0, (mine, result))
                del kept[MOST_KEPT:]
            return result

        return cast(F, worked)


def _same(one: object, other: object) -> bool:
    """The very same thing; plain figures and words by what they are."""
    return one is other or (isinstance(one, (str, int, float)) and type(one) is type(other) and one == other)
