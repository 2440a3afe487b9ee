"""Arithmetic in netlists: values with suffixes, parameters in braces, and what behavioural sources give.

Only arithmetic is understood: names, numbers, + - * / ^ and a few functions. Nothing is ever run as a program.
"""

import ast
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import CodeType
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput

Array = npt.NDArray[np.float64]
_SUFFIXES = {
    "t": 1e12, "g": 1e9, "meg": 1e6, "k": 1e3, "mil": 25.4e-6, "m": 1e-3, "u": 1e-6, "µ": 1e-6, "n": 1e-9, "p": 1e-12,
    "f": 1e-15,
}  # fmt: skip
_NUMBER = re.compile(r"^([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)(meg|mil|[tgkmuµnpf])?[a-zµΩ]*$", re.IGNORECASE)
_EMBEDDED = re.compile(r"(?<![\w.])((?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)(meg|mil|[tgkmuµnpf])(?![\w(])", re.IGNORECASE)
_PROBE = re.compile(r"\b([vi])\s*\(\s*([\w.+#-]+)\s*(?:,\s*([\w.+#-]+)\s*)?\)", re.IGNORECASE)
_TERNARY = re.compile(r"^(.*?)\?(.*):(.*)$", re.DOTALL)
MOST_LENGTH = 2_000


_FUNCTIONS: dict[str, Callable[..., Any]] = {
    "exp": lambda x: np.exp(np.minimum(x, 200.0)), "ln": np.log, "log": np.log, "log10": np.log10, "sqrt": np.sqrt,
    "abs": np.abs, "min": np.minimum, "max": np.maximum, "tanh": np.tanh, "sin": np.sin, "cos": np.cos,
    "u": lambda x: np.where(np.asarray(x) > 0, 1.0, 0.0),
}  # fmt: skip


def spice_number(text: str, field: str) -> float:
    """A number as SPICE writes it: ``2.2k``, ``1meg``, ``10u``; letters after the suffix are units.

    Raises
    ------
    InvalidInput
        Not a number.
    """
    found = _NUMBER.match(text.strip())
    if found is None:
        raise InvalidInput(field, text, "a number such as 4.7k, 1meg, 10u (m is milli, meg is mega)")
    return float(found.group(1)) * _SUFFIXES.get((found.group(2) or "").lower(), 1.0)


@dataclass(frozen=True)
class Expression:
    """An expression over probes: ``probes`` are (v or i, first, second), values are put in their order."""

    text: str
    code: CodeType
    probes: tuple[tuple[str, str, str], ...]

    @property
    def nodes(self) -> tuple[str, ...]:
        return tuple(name for kind, *names in self.probes if kind == "v" for name in names if name != "0")

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Expression) and (self.text, self.probes) == (other.text, other.probes)

    def __hash__(self) -> int:
        return hash((self.text, self.probes))

    def value(self, probed: Array) -> Array:
        """Values at ``probed``, shape (..., number of probes); returns shape (...)."""
        names = {f"probe{place}": probed[..., place] for place in range(len(self.probes))}
        with np.errstate(all="ignore"):
            result: Array = np.broadcast_to(_run(self.code, names, self.text), probed.shape[:-1]).astype(float)
        return result


def parse_expression(text: str, parameters: Mapping[str, float], rename: Callable[[str], str]) -> Expression:
    """What a behavioural source gives. ``rename`` turns a node or source name into the flat circuit's.

    Raises
    ------
    InvalidInput
        Something other than arithmetic on V(), I(), parameters and the functions known.
    """
    probes: list[tuple[str, str, str]] = []

    def probe(found: re.Match[str]) -> str:
        one = (found.group(1).lower(), rename(found.group(2)), rename(found.group(3)) if found.group(3) else "0")
        if one not in probes:
            probes.append(one)
        return f"probe{probes.index(one)}"

    code = _parse(_PROBE.sub(probe, text), text, parameters)
    return Expression(text, code, tuple(probes))


def evaluate(text: str, parameters: Mapping[str, float]) -> float:
    """The value of a parameter expression.

    Raises
    ------
    InvalidInput
        Not arithmetic, an unknown name, or no finite value.
    """
    code = _parse(text, text, parameters)
    with np.errstate(all="ignore"):
        value = float(_run(code, {}, text))
    if not np.isfinite(value):
        raise InvalidInput("Expression", text, "an expression with a finite value")
    return value


def _parse(prepared: str, text: str, parameters: Mapping[str, float]) -> CodeType:
    if len(text) > MOST_LENGTH:
        raise InvalidInput("Expression", text, f"at most {MOST_LENGTH} characters")
    plain = _EMBEDDED.sub(lambda found: repr(spice_number(found.group(0), "Expression")), prepared).replace("^", "**")
    choice = _TERNARY.match(plain)
    if choice:
        plain = f"({choice.group(2)}) if ({choice.group(1)}) else ({choice.group(3)})"
    try:
        tree = ast.parse(plain.strip().lower(), mode="eval").body
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        raise InvalidInput("Expression", text, "arithmetic with + - * / ^, V(), I() and functions") from error
    _check(tree, text, parameters)
    fixed = ast.Expression(_Fixed(parameters).visit(tree))
    return compile(ast.fix_missing_locations(fixed), "expression", "eval")


def _check(tree: ast.expr, text: str, parameters: Mapping[str, float]) -> None:
    """Refuse everything but arithmetic before anything is worked out."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Name) and not (
            node.id in parameters or node.id.startswith("probe") or node.id in _FUNCTIONS
        ):
            raise InvalidInput("Expression", text, f"names that are known; {node.id} is none of them")
        if isinstance(node, ast.Constant) and not isinstance(node.value, (int, float)):
            raise InvalidInput("Expression", text, "numbers only")
        if not isinstance(node, _ALLOWED):
            raise InvalidInput("Expression", text, "arithmetic with + - * / ^, V(), I() and functions")
        if isinstance(node, ast.Call) and (not isinstance(node.func, ast.Name) or node.func.id not in _FUNCTIONS):
            raise InvalidInput("Expression", text, f"one of the functions {', '.join(_FUNCTIONS)}")


class _Fixed(ast.NodeTransformer):
    """Parameters become their values, choices become where(): what is left is arithmetic on probes."""

    def __init__(self, parameters: Mapping[str, float]) -> None:
        self._parameters = parameters

    def visit_Name(self, node: ast.Name) -> ast.expr:
        return ast.Constant(self._parameters[node.id]) if node.id in self._parameters else node

    def visit_IfExp(self, node: ast.IfExp) -> ast.expr:
        parts = [self.visit(one) for one in (node.test, node.body, node.orelse)]
        return ast.Call(ast.Name("where", ast.Load()), parts, [])


_ALLOWED = (
    ast.BinOp, ast.UnaryOp, ast.Constant, ast.Name, ast.Call, ast.IfExp, ast.Compare, ast.operator, ast.unaryop, ast.cmpop,
    ast.Load,
)  # fmt: skip


def _run(code: CodeType, names: Mapping[str, Any], text: str) -> Any:
    """Work out checked code: nothing but arithmetic, probes and the functions known can be in it."""
    try:
        return eval(code, {"__builtins__": {}, **_FUNCTIONS, "where": np.where}, dict(names))
    except (TypeError, ZeroDivisionError, OverflowError) as error:
        raise InvalidInput("Expression", text, "the right number of arguments and no division by zero") from error
