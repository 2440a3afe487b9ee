"""Tables of the trade that ship as data: ``assets/facts``, each with its source at its head. They are part of the program."""

import pkgutil
import tomllib
from functools import lru_cache
from typing import Any


@lru_cache(maxsize=16)
def facts(name: str) -> dict[str, Any]:
    """A table by its name."""
    content = pkgutil.get_data("violet_dial", f"assets/facts/{name}.toml")
    assert content is not None, f"the table {name} does not ship"
    return tomllib.loads(content.decode())
