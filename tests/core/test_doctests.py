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

    def test_every_public_function_says_its_parameters(self) -> None:
        silent = [
            f"{module.__name__}.{name}: {parameter}"
            for module in modules()
            for name, value in vars(module).items()
            if inspect.isfunction(value) and value.__module__ == module.__name__ and not name.startswith("_")
            for parameter in inspect.signature(value).parameters
            if not re.search(rf"\b{parameter}\b", value.__doc__ or "")
        ]
        self.assertEqual(silent, [])


if __name__ == "__main__":
    unittest.main()
