"""The examples in the core's docstrings are run, and every public name there says what it is."""

import doctest
import importlib
import inspect
import pkgutil
import re
import unittest
from types import ModuleType

import violet_dial.core

FEWEST_EXAMPLES = 5


def modules() -> list[ModuleType]:
    names = [one.name for one in pkgutil.walk_packages(violet_dial.core.__path__, "violet_dial.core.")]
    return [importlib.import_module(name) for name in names]


class Docstrings(unittest.TestCase):
    def test_examples_hold(self) -> None:
        tried = 0
        for module in modules():
            done = doctest.testmod(module)
            self.assertEqual(done.failed, 0, module.__name__)
            tried += done.attempted
        self.assertGreaterEqual(tried, FEWEST_EXAMPLES)

    def test_every_public_name_says_what_it_is(self) -> None:
        silent = []
        for module in modules():
            for name, value in vars(module).items():
                if name.startswith("_") or getattr(value, "__module__", "") != module.__name__:
                    continue
                if (inspect.isfunction(value) or inspect.isclass(value)) and not (value.__doc__ or "").strip():
                    silent.append(f"{module.__name__}.{name}")
                if inspect.isclass(value):
                    silent += [
                        f"{module.__name__}.{name}.{inner}"
                        for inner, method in vars(value).items()
                        if inspect.isfunction(method) and not inner.startswith("_") and not method.__doc__
                    ]
        self.assertEqual(silent, [])

    def test_what_is_said_of_a_parameter_is_of_one_and_says_something(self) -> None:
        """Every entry names parameters that are there, and says more than a word: a unit, a shape, a limit, a surprise."""
        odd, entries = [], 0
        for module in modules():
            for name, value in vars(module).items():
                if not inspect.isfunction(value) or value.__module__ != module.__name__:
                    continue
                said = re.search(r"Parameters\n *-+\n(.*?)(?:\n\s*\n|\Z)", value.__doc__ or "", re.DOTALL)
                for entry in re.findall(r"^    (\w[\w, *]*) : (.*)$", said[1] if said else "", re.MULTILINE):
                    entries += 1
                    there = {one.strip(" *") for one in entry[0].split(",")} <= set(inspect.signature(value).parameters)
                    if not there or len(entry[1].split()) < 2:
                        odd.append(f"{module.__name__}.{name}: {entry[0]} : {entry[1]}")
        self.assertEqual(odd, [])
        self.assertGreater(entries, 250)


if __name__ == "__main__":
    unittest.main()
