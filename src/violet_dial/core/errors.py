"""Every failure the product can name.

VioletDialError
  InvalidInput (also ValueError)   field, value, expected
  NotEnoughData                    have, need
  ImpossibleOrder                  parts
  CannotSolve                      SingularCircuit, NoConvergence; nodes, parts
  InstrumentError                  LinkLost, AnswerTimeout, BadAnswer; address, command
  StoreError                       StoreDamaged, StoreFull, StoreReadOnly, SchemaTooNew, RecordMissing
TaskCancelled                      outside the tree: not a failure
"""


class VioletDialError(Exception):
    """A failure with a sentence for the person at the bench."""


class InvalidInput(VioletDialError, ValueError):
    """What came is not what was expected."""

    SHOWN_CHARACTERS = 60

    def __init__(self, field: str, value: object, expected: str) -> None:
        self.field = field
        self.value = value
        self.expected = expected
        shown = repr(value) if isinstance(value, str) else str(value)
        if len(shown) > self.SHOWN_CHARACTERS:
            shown = shown[: self.SHOWN_CHARACTERS] + "…"
        super().__init__(f"{field}: {shown} came, expected {expected}")


class NotEnoughData(VioletDialError):
    """A figure was asked for that the readings cannot carry yet."""

    def __init__(self, what: str, have: int, need: int) -> None:
        self.have = have
        self.need = need
        super().__init__(f"{what} needs {need} readings; there are {have}. Take {need - have} more.")


class ImpossibleOrder(VioletDialError):
    """Parts ask for each other in a ring, so no order of work exists."""

    def __init__(self, parts: tuple[str, ...]) -> None:
        self.parts = parts
        said = " → ".join(parts)
        super().__init__(f"No order works: {said} ask for each other in a ring. Take back one of the sayings between them.")


class CannotSolve(VioletDialError):
    """A circuit has no operating point that could be found."""

    def __init__(self, message: str, nodes: tuple[str, ...] = (), parts: tuple[str, ...] = ()) -> None:
        self.nodes = nodes
        self.parts = parts
        super().__init__(message)


class SingularCircuit(CannotSolve):
    """Nodes that hang in the air, or sources that contradict each other."""


class NoConvergence(CannotSolve):
    """The equations are sound but no solution was found."""


class InstrumentError(VioletDialError):
    """An instrument did not do what was asked of it; ``address`` where it is, ``command`` what was sent."""

    def __init__(self, message: str, address: str, command: str = "") -> None:
        self.address = address
        self.command = command
        super().__init__(message)


class LinkLost(InstrumentError):
    """The instrument cannot be reached, or the link broke."""


class AnswerTimeout(InstrumentError):
    """No answer came in time."""


class BadAnswer(InstrumentError):
    """An answer came that is not what was asked for."""


class StoreError(VioletDialError):
    """The workshop file could not be read or written."""


class StoreDamaged(StoreError):
    """The workshop file is not a sound workshop file."""


class StoreFull(StoreError):
    """No room to keep the act."""


class StoreReadOnly(StoreError):
    """The act cannot be kept because nothing may be written."""


class SchemaTooNew(StoreError):
    """The workshop file was made by a newer version of the product."""


class RecordMissing(StoreError):
    """A job, version or photo that was asked for is not there."""


class TaskCancelled(Exception):
    """The person at the bench stopped a long computation; not a failure."""
