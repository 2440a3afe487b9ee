"""Arithmetic in netlists: values with suffixes, parameters in braces, and what behavioural sources give.

Only arithmetic is understood: names, numbers, + - * / ^ and a few functions. Nothing is ever run as a program.
"""

import ast
import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import CodeType
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.units import SPICE_PREFIXES

Array = npt.NDArray[np.float64]
_NUMBER = re.compile(r"^([+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?)(meg|mil|[tgkmuµμnpf])?[a-zµμΩΩ]*$", re.IGNORECASE)
_EMBEDDED = re.compile(r"(?<![\w.])((?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?)(meg|mil|[tgkmuµμnpf])(?![\w(])", re.IGNORECASE)
_PROBE = re.compile(r"\b([vi])\s*\(\s*([\w.+#-]+)\s*(?:,\s*([\w.+#-]+)\s*)?\)", re.IGNORECASE)
MOST_LENGTH, LONGEST_NUMBER = 2_000, 400


_FUNCTIONS: dict[str, Callable[..., Any]] = {
    "exp": lambda x: np.exp(np.minimum(x, 200.0)), "ln": np.log, "log": np.log, "log10": np.log10, "sqrt": np.sqrt,
    "abs": np.abs, "min": np.minimum, "max": np.maximum, "tanh": np.tanh, "sin": np.sin, "cos": np.cos,
    "u": lambda x: np.heaviside(x, 0.5), "tan": np.tan, "asin": np.arcsin, "acos": np.arccos,
    "atan": np.arctan, "sinh": np.sinh, "cosh": np.cosh, "sgn": np.sign, "floor": np.floor, "ceil": np.ceil,
    "pow": lambda x, y: np.power(np.abs(x), y), "pwr": lambda x, y: np.sign(x) * np.power(np.abs(x), y),
    "uramp": lambda x: np.maximum(x, 0.0),
}  # fmt: skip
# In a .param pow and pwr are the other way round, and there is no step; square and whole part are there alone.
_PARAMETER_FUNCTIONS: dict[str, Callable[..., Any]] = {
    **{name: function for name, function in _FUNCTIONS.items() if name not in ("u", "uramp")},
    "pow": np.float_power, "pwr": lambda x, y: np.float_power(np.abs(x), y), "sqr": np.square,
    "int": np.trunc, "nint": np.rint,
}  # fmt: skip
_CHOICES: dict[str, Callable[..., Any]] = {  # what choices and powers become; no name a netlist may call
    "where": np.where, "both": np.logical_and, "either": np.logical_or, "neither": np.logical_not,
    "power": lambda x, y: np.float_power(np.abs(x), y),  # as ngspice has ^: of a negative figure its size
}  # fmt: skip


def spice_number(text: str, field: str) -> float:
    """A number as SPICE writes it: ``2.2k``, ``1meg``, ``10u``; letters after the suffix are units.

    Raises InvalidInput: not a number.
    """
    found = _NUMBER.match(text.strip()) if len(text) <= LONGEST_NUMBER else None
    if found is None:
        raise InvalidInput(field, text, "a number such as 4.7k, 1meg, 10u (m is milli, meg is mega)")
    value = float(found.group(1)) * SPICE_PREFIXES.get((found.group(2) or "").lower(), 1.0)
    if not math.isfinite(value):
        raise InvalidInput(field, text, "a number that a meter could show")
    return value


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

    Raises InvalidInput: something other than arithmetic on V(), I(), parameters and the functions known.
    """
    _check_length(text)
    probes: list[tuple[str, str, str]] = []

    def probe(found: re.Match[str]) -> str:
        one = (found.group(1).lower(), rename(found.group(2)), rename(found.group(3)) if found.group(3) else "0")
        if one not in probes:
            probes.append(one)
        return f"probe{probes.index(one)}"

    code = _parse(_PROBE.sub(probe, text), text, parameters, _FUNCTIONS)
    return Expression(text, code, tuple(probes))


def evaluate(text: str, parameters: Mapping[str, float]) -> float:
    """The value of a parameter expression. Raises InvalidInput: not arithmetic, an unknown name, or no finite value."""
    _check_length(text)
    code = _parse(text, text, parameters, _PARAMETER_FUNCTIONS)
    with np.errstate(all="ignore"):
        value = float(_run(code, {}, text, _PARAMETER_FUNCTIONS))
    if not math.isfinite(value):
        raise InvalidInput("Expression", text, "an expression with a finite value")
    return value


def _check_length(text: str) -> None:
    if len(text) > MOST_LENGTH:
        raise InvalidInput("Expression", text, f"at most {MOST_LENGTH} characters")


Functions = Mapping[str, Callable[..., Any]]


def _parse(prepared: str, text: str, parameters: Mapping[str, float], functions: Functions) -> CodeType:
    plain = _EMBEDDED.sub(lambda found: repr(spice_number(found.group(0), "Expression")), prepared).replace("^", "**")
    expected = "arithmetic with + - * / ^, V(), I() and functions"
    source = _in_python(plain).strip().lower()
    try:
        tree = ast.parse(source, mode="eval").body
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        if isinstance(error, InvalidInput):
            raise
        raise InvalidInput("Expression", text, expected) from error
    _check(tree, text, parameters, functions)
    try:
        fixed = ast.fix_missing_locations(ast.Expression(_Fixed(parameters, source).visit(tree)))
        return compile(fixed, "expression", "eval")
    except (OverflowError, RecursionError, MemoryError, SyntaxError, ValueError) as error:
        raise InvalidInput("Expression", text, "numbers that a meter could show, fewer brackets and fewer terms") from error


def _in_python(text: str) -> str:
    """Choices ``a ? b : c`` and the signs for and, or, not, written as Python writes them; also within brackets."""
    for sign, word in (("&&", " and "), ("||", " or ")):
        text = text.replace(sign, word)
    text = re.sub(r"!(?!=)", " not ", text)
    segments: list[list[str]] = [[""]]  # one list of pieces between commas for each open bracket
    for letter in text:
        if letter == "(":
            segments.append([""])
        elif letter == ")" and len(segments) > 1:
            inner = ",".join(_choice(piece) for piece in segments.pop())
            segments[-1][-1] += f"({inner})"
        elif letter == "," and len(segments) > 1:
            segments[-1].append("")
        else:
            segments[-1][-1] += letter
    return "(".join(_choice(",".join(pieces)) for pieces in segments)


def _choice(text: str) -> str:
    """One choice, the brackets in it done already: the colon that closes it is the first not owed to an inner one."""
    before, asked, rest = text.partition("?")
    if not asked:
        return text
    owed = 0
    for place, letter in enumerate(rest):
        owed += {"?": 1, ":": -1}.get(letter, 0)
        if owed < 0:
            return f"(({_choice(rest[:place])}) if ({before}) else ({_choice(rest[place + 1 :])}))"
    return text


def _check(tree: ast.expr, text: str, parameters: Mapping[str, float], functions: Functions) -> None:
    """Refuse everything but arithmetic before anything is worked out."""
    called = {id(node.func) for node in ast.walk(tree) if isinstance(node, ast.Call)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Name) and node.id in functions and node.id not in parameters and id(node) not in called:
            raise InvalidInput("Expression", text, f"brackets after {node.id}, with what it is of")
        if isinstance(node, ast.Name) and not (node.id in parameters or node.id.startswith("probe") or node.id in functions):
            raise InvalidInput("Expression", text, f"names that are known; {node.id} is none of them")
        if isinstance(node, ast.Constant) and not isinstance(node.value, (int, float)):
            raise InvalidInput("Expression", text, "numbers only")
        if not isinstance(node, _ALLOWED):
            raise InvalidInput("Expression", text, "arithmetic with + - * / ^, V(), I() and functions")
        if isinstance(node, ast.Call) and (not isinstance(node.func, ast.Name) or node.func.id not in functions):
            raise InvalidInput("Expression", text, f"one of the functions {', '.join(functions)}")


class _Fixed(ast.NodeTransformer):
    """Parameters become their values, choices become where(): what is left is arithmetic on probes."""

    def __init__(self, parameters: Mapping[str, float], source: str) -> None:
        self._parameters, self._source = parameters, source

    def visit_Name(self, node: ast.Name) -> ast.expr:
        return ast.Constant(self._parameters[node.id]) if node.id in self._parameters else node

    def visit_Constant(self, node: ast.Constant) -> ast.expr:
        """Numbers are floats: a power of whole numbers could take for ever."""
        return ast.Constant(float(node.value)) if isinstance(node.value, (int, float)) else node

    def visit_BinOp(self, node: ast.BinOp) -> ast.expr:
        """Powers are of the size of a figure, and a ^ b ^ c is worked out from the left."""
        if not isinstance(node.op, ast.Pow):
            return ast.BinOp(self.visit(node.left), node.op, self.visit(node.right))
        found = self.visit(node.left)
        last, right = node.left, node.right
        while isinstance(right, ast.BinOp) and isinstance(right.op, ast.Pow) and not self._has_bracket(last, right):
            found = ast.Call(ast.Name("power", ast.Load()), [found, self.visit(right.left)], [])
            last, right = right.left, right.right
        return ast.Call(ast.Name("power", ast.Load()), [found, self.visit(right)], [])

    def _has_bracket(self, before: ast.expr, after: ast.expr) -> bool:
        """Whether a bracket opens between two terms; of one line, as all expressions are."""
        return "(" in self._source.encode()[before.end_col_offset or 0 : after.col_offset].decode()

    def visit_IfExp(self, node: ast.IfExp) -> ast.expr:
        parts = [self.visit(one) for one in (node.test, node.body, node.orelse)]
        return ast.Call(ast.Name("where", ast.Load()), parts, [])

    def visit_BoolOp(self, node: ast.BoolOp) -> ast.expr:
        join = "both" if isinstance(node.op, ast.And) else "either"
        found: ast.expr = self.visit(node.values[0])
        for one in map(self.visit, node.values[1:]):
            found = ast.Call(ast.Name(join, ast.Load()), [found, one], [])
        return found

    def visit_UnaryOp(self, node: ast.UnaryOp) -> ast.expr:
        inner = self.visit(node.operand)
        if isinstance(node.op, ast.Not):
            return ast.Call(ast.Name("neither", ast.Load()), [inner], [])
        return ast.UnaryOp(node.op, inner)


_ALLOWED = (
    ast.BinOp, ast.BoolOp, ast.UnaryOp, ast.Constant, ast.Name, ast.Call, ast.IfExp, ast.Compare, ast.operator,
    ast.boolop, ast.unaryop, ast.cmpop, ast.Load,
)  # fmt: skip


def _run(code: CodeType, names: Mapping[str, Any], text: str, functions: Functions = _FUNCTIONS) -> Any:
    """Work out checked code: nothing but arithmetic, probes and the functions known can be in it."""
    try:
        return eval(code, {"__builtins__": {}, **functions, **_CHOICES}, dict(names))
    except (TypeError, ValueError, ArithmeticError, RecursionError, MemoryError) as error:
        raise InvalidInput("Expression", text, "the right number of arguments and no division by zero") from error
